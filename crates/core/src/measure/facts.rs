//! What is measured on a picture once, and handed to every render of it.

use std::sync::Arc;

use super::noise::NoiseLevels;
use crate::picture::Source;
use crate::picture::reduce::size_for_long_edge;

/// Long edge of the reduction on which a picture is measured.
const LONG_EDGE: u32 = 1024;

/// A picture's measurements: the same for every region and every scale.
#[derive(Debug, Clone)]
pub struct Facts {
    /// The picture at 1024 pixels or less.
    pub small: Arc<Source>,
    /// Noise of the full picture, by tone.
    pub noise: NoiseLevels,
}

impl Facts {
    /// Measures a full picture.
    pub fn of(full: &Arc<Source>) -> Self {
        let (width, height) = size_for_long_edge(LONG_EDGE, full.width(), full.height());
        let small = if width == full.width() { full.clone() } else { Arc::new(full.reduced(width, height)) };
        Self { small, noise: NoiseLevels::of(full) }
    }
}
