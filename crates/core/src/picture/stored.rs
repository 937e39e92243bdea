//! A picture as bytes, to be laid on a disk and read back as it was.
//!
//! Width, height and the number of peaks as 32-bit numbers, the codes row by row, the peaks; little end first. Whoever
//! keeps the bytes sees to it that they come back whole.

use super::Source;
use super::peak::Peak;

/// Bytes of a peak: its pixel, its share, two colours.
const PEAK: usize = 4 + 4 + 6 + 6;

/// Takes numbers from the front of bytes; `None` where they end too early.
pub(crate) struct Taker<'a>(pub &'a [u8]);

impl<'a> Taker<'a> {
    pub fn bytes(&mut self, count: usize) -> Option<&'a [u8]> {
        let (taken, rest) = self.0.split_at_checked(count)?;
        self.0 = rest;
        Some(taken)
    }

    fn array<const N: usize>(&mut self) -> Option<[u8; N]> {
        self.bytes(N)?.try_into().ok()
    }

    pub fn number(&mut self) -> Option<u32> {
        self.array().map(u32::from_le_bytes)
    }

    pub fn real(&mut self) -> Option<f32> {
        self.array().map(f32::from_le_bytes)
    }

    fn colour(&mut self) -> Option<[u16; 3]> {
        let bytes: [u8; 6] = self.array()?;
        Some([0, 2, 4].map(|k| u16::from_le_bytes([bytes[k], bytes[k + 1]])))
    }
}

impl Source {
    /// Its bytes, put at the end of others.
    pub fn store(&self, into: &mut Vec<u8>) {
        let peaks = self.peaks();
        into.reserve(12 + 2 * self.pixels().len() + PEAK * peaks.len());
        for number in [self.width(), self.height(), peaks.len() as u32] {
            into.extend(number.to_le_bytes());
        }
        into.extend(self.pixels().iter().flat_map(|code| code.to_le_bytes()));
        for peak in peaks {
            into.extend(peak.index.to_le_bytes());
            into.extend(peak.share.to_le_bytes());
            into.extend(peak.bright.iter().chain(&peak.rest).flat_map(|code| code.to_le_bytes()));
        }
    }

    /// The picture of [`Source::store`]'s bytes; `None` where they are not those of one. Nothing may follow it.
    pub fn restored(bytes: &[u8]) -> Option<Self> {
        let mut taker = Taker(bytes);
        let (width, height, peaks) = (taker.number()?, taker.number()?, taker.number()? as usize);
        let codes = taker.bytes((width as usize).checked_mul(height as usize)?.checked_mul(6)?)?;
        let pixels = codes.chunks_exact(2).map(|code| u16::from_le_bytes([code[0], code[1]])).collect();
        let mut peak = || {
            let (index, share) = (taker.number()?, taker.real()?);
            (u64::from(index) < u64::from(width) * u64::from(height)).then_some(())?;
            Some(Peak { index, share, bright: taker.colour()?, rest: taker.colour()? })
        };
        let peaks = (0..peaks).map(|_| peak()).collect::<Option<Vec<_>>>()?;
        taker.0.is_empty().then_some(())?;
        Self::new(width, height, pixels).map(|source| source.with_peaks(peaks))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_picture_comes_back_whole_or_not_at_all() {
        let lamps = Source::from_linear_srgb(200, 90, |x, y| if (x, y) == (77, 41) { [1.0; 3] } else { [0.01; 3] });
        let small = lamps.reduced(33, 15);
        assert!(!small.peaks().is_empty());
        let mut bytes = Vec::new();
        small.store(&mut bytes);
        let back = Source::restored(&bytes).unwrap();
        assert_eq!((back.width(), back.height()), (33, 15));
        assert!(back.pixels() == small.pixels() && back.peaks() == small.peaks());
        for cut in [0, 3, 11, 12, 500, bytes.len() - 1] {
            assert!(Source::restored(&bytes[..cut]).is_none(), "{cut}");
        }
        assert!(Source::restored(&[&bytes[..], &[0]].concat()).is_none());
        let beyond = bytes.len() - PEAK;
        bytes[beyond..beyond + 4].fill(0xFF);
        assert!(Source::restored(&bytes).is_none());
        assert!(Source::restored(&[0xFF; 64]).is_none());
    }
}
