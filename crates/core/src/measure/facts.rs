//! What is measured on a picture once, and handed to every render of it.

use std::sync::Arc;

use super::noise::{NoiseLevels, TONES};
use crate::picture::Source;
use crate::picture::reduce::size_for_long_edge;
use crate::picture::stored::Taker;

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
    /// As bytes, to be laid on a disk.
    pub fn stored(&self) -> Vec<u8> {
        let levels = self.noise.luminance.iter().chain(&self.noise.colour);
        let mut bytes: Vec<u8> = levels.flat_map(|v| v.to_le_bytes()).collect();
        self.small.store(&mut bytes);
        bytes
    }

    /// Those of [`Facts::stored`]; `None` where the bytes are not theirs.
    pub fn restored(bytes: &[u8]) -> Option<Self> {
        let mut taker = Taker(bytes);
        let mut levels = || {
            let mut tones = [0.0f32; TONES];
            for tone in &mut tones {
                *tone = taker.real().filter(|v| v.is_finite())?;
            }
            Some(tones)
        };
        let noise = NoiseLevels { luminance: levels()?, colour: levels()? };
        Some(Self { small: Arc::new(Source::restored(taker.0)?), noise })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn facts_come_back() {
        let full = Arc::new(Source::from_linear_srgb(1500, 40, |x, y| [0.2 + 0.01 * ((x * 7 + y * 3) % 5) as f64; 3]));
        let facts = Facts::of(&full);
        let bytes = facts.stored();
        let back = Facts::restored(&bytes).unwrap();
        assert_eq!(back.noise, facts.noise);
        assert!(back.small.pixels() == facts.small.pixels() && back.small.width() == 1024);
        assert!(Facts::restored(&bytes[..60]).is_none() && Facts::restored(&bytes[..bytes.len() - 2]).is_none());
    }
}
