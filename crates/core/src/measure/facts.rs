//! What is measured on a picture once, and handed to every render of it.

use std::sync::{Arc, OnceLock};

use super::noise::{NoiseLevels, TONES};
use crate::picture::Source;
use crate::picture::framing::Framing;
use crate::picture::reduce::size_for_long_edge;
use crate::picture::stored::Taker;

/// Long edge of the reduction on which a picture is measured.
const LONG_EDGE: u32 = 1024;

/// A picture's measurements: the same for every region and every scale.
#[derive(Debug, Clone)]
pub struct Facts {
    of: Of,
    small: OnceLock<Arc<Source>>,
    noise: OnceLock<NoiseLevels>,
}

/// What is measured when it is asked for.
#[derive(Debug, Clone)]
enum Of {
    Full(Arc<Source>),
    /// A picture that was framed, and pixels across of what it was framed from.
    Framed(Arc<Facts>, Framing, u32),
}

/// What is there, or made now. Nobody waits for another that makes it, for that one may be on the same thread, further
/// up: twice made, it is the same.
fn there_or_made<T>(place: &OnceLock<T>, make: impl FnOnce() -> T) -> &T {
    if let Some(there) = place.get() {
        return there;
    }
    let made = make();
    place.get_or_init(|| made)
}

impl Facts {
    /// Of a full picture, measured when they are asked for.
    pub fn unmeasured(full: &Arc<Source>) -> Self {
        Self { of: Of::Full(full.clone()), small: OnceLock::new(), noise: OnceLock::new() }
    }

    /// Measures a full picture, and lets go of it.
    pub fn of(full: &Arc<Source>) -> Self {
        Self::unmeasured(full).measured()
    }

    /// The same with everything measured.
    pub(crate) fn measured(&self) -> Self {
        Self::known(self.small().clone(), self.noise().clone())
    }

    fn known(small: Arc<Source>, noise: NoiseLevels) -> Self {
        Self { of: Of::Full(small.clone()), small: small.into(), noise: noise.into() }
    }

    /// Those of the picture framed; `across` are its pixels before.
    pub(crate) fn framed(self: &Arc<Self>, framing: &Framing, across: u32) -> Self {
        let of = Of::Framed(self.clone(), *framing, across);
        let framed = Self { of, small: OnceLock::new(), noise: OnceLock::new() };
        if self.small.get().is_some() && self.noise.get().is_some() { framed.measured() } else { framed }
    }

    /// The picture at 1024 pixels or less.
    pub fn small(&self) -> &Arc<Source> {
        there_or_made(&self.small, || match &self.of {
            Of::Full(full) => {
                let (width, height) = size_for_long_edge(LONG_EDGE, full.width(), full.height());
                if width == full.width() { full.clone() } else { Arc::new(full.reduced(width, height)) }
            }
            Of::Framed(before, framing, across) => {
                let small = before.small();
                Arc::new(framing.cut_at(small, f64::from(small.width()) / f64::from(*across)))
            }
        })
    }

    /// Noise of the full picture, by tone.
    pub fn noise(&self) -> &NoiseLevels {
        there_or_made(&self.noise, || match &self.of {
            Of::Full(full) => NoiseLevels::of(full),
            Of::Framed(before, ..) => before.noise().clone(),
        })
    }

    /// As bytes, to be laid on a disk.
    pub fn stored(&self) -> Vec<u8> {
        let levels = self.noise().luminance.iter().chain(&self.noise().colour);
        let mut bytes: Vec<u8> = levels.flat_map(|v| v.to_le_bytes()).collect();
        self.small().store(&mut bytes);
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
        Some(Self::known(Arc::new(Source::restored(taker.0)?), noise))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::framing::FramingSettings;

    /// Asked for, of a framed picture too, they are those that are measured at once.
    #[test]
    fn facts_that_are_asked_for_are_the_same() {
        let full = Arc::new(Source::from_linear_srgb(1300, 60, |x, y| [0.1 + 0.02 * ((x * 5 + y * 3) % 7) as f64; 3]));
        let (at_once, asked) = (Arc::new(Facts::of(&full)), Arc::new(Facts::unmeasured(&full)));
        let settings = FramingSettings { straighten_degrees: 2.0, ..FramingSettings::NONE };
        let framing = Framing::new(&settings, 1300, 60);
        let framed = [&at_once, &asked].map(|facts| facts.framed(&framing, 1300));
        assert!(asked.small.get().is_none() && asked.noise.get().is_none() && framed[1].small.get().is_none());
        for [a, b] in [[&*at_once, &*asked], [&framed[0], &framed[1]]] {
            assert!(a.small().pixels() == b.small().pixels());
            assert_eq!(a.noise(), b.noise());
        }
    }

    #[test]
    fn facts_come_back() {
        let full = Arc::new(Source::from_linear_srgb(1500, 40, |x, y| [0.2 + 0.01 * ((x * 7 + y * 3) % 5) as f64; 3]));
        let facts = Facts::of(&full);
        let bytes = facts.stored();
        let back = Facts::restored(&bytes).unwrap();
        assert_eq!(back.noise(), facts.noise());
        assert!(back.small().pixels() == facts.small().pixels() && back.small().width() == 1024);
        assert!(Facts::restored(&bytes[..60]).is_none() && Facts::restored(&bytes[..bytes.len() - 2]).is_none());
    }
}
