//! Decoded samples of any depth.

use super::Turn;

/// Interleaved samples.
#[derive(Debug)]
pub enum Samples {
    U8(Vec<u8>),
    U16(Vec<u16>),
    /// Numbers that need not end at 1.
    F32(Vec<f32>),
}

impl Samples {
    pub(super) fn turned(self, turn: Turn, channels: usize) -> Self {
        match self {
            Self::U8(samples) => Self::U8(turn.turned(&samples, channels)),
            Self::U16(samples) => Self::U16(turn.turned(&samples, channels)),
            Self::F32(samples) => Self::F32(turn.turned(&samples, channels)),
        }
    }

    /// Rounded to 8 bits.
    pub fn into_8_bits(self) -> Vec<u8> {
        match self {
            Self::U8(samples) => samples,
            Self::U16(samples) => samples.into_iter().map(|v| ((u32::from(v) + 128) / 257) as u8).collect(),
            Self::F32(samples) => samples.into_iter().map(|v| (v.clamp(0.0, 1.0) * 255.0).round() as u8).collect(),
        }
    }

    /// Each 0..1.
    pub fn into_units(self) -> Vec<f32> {
        match self {
            Self::U8(samples) => samples.into_iter().map(|v| f32::from(u16::from(v) * 257) / 65535.0).collect(),
            Self::U16(samples) => samples.into_iter().map(|v| f32::from(v) / 65535.0).collect(),
            Self::F32(samples) => samples.into_iter().map(|v| v.clamp(0.0, 1.0)).collect(),
        }
    }
}

/// Pixels of so many channels as RGB: a grey one three times, without alpha.
pub fn as_rgb<T: Copy>(samples: Vec<T>, channels: usize) -> Vec<T> {
    match channels {
        3 => samples,
        1 | 2 => samples.chunks_exact(channels).flat_map(|pixel| [pixel[0]; 3]).collect(),
        _ => samples.chunks_exact(channels).flat_map(|pixel| [pixel[0], pixel[1], pixel[2]]).collect(),
    }
}

/// Pixels of so many channels as RGB and alpha.
pub fn as_rgba(samples: Vec<u8>, channels: usize) -> Vec<u8> {
    match channels {
        1 => samples.into_iter().flat_map(|v| [v, v, v, u8::MAX]).collect(),
        2 => samples.chunks_exact(2).flat_map(|pixel| [pixel[0], pixel[0], pixel[0], pixel[1]]).collect(),
        3 => samples.chunks_exact(3).flat_map(|pixel| [pixel[0], pixel[1], pixel[2], u8::MAX]).collect(),
        _ => samples,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn depths_and_channels_are_brought_to_one_form() {
        assert_eq!(Samples::U16((0..=255).map(|v| v * 257).collect()).into_8_bits(), (0..=255).collect::<Vec<u8>>());
        assert_eq!(Samples::F32(vec![-1.0, 0.5, 2.0]).into_8_bits(), [0, 128, 255]);
        assert_eq!(Samples::U8(vec![0, 255]).into_units(), [0.0, 1.0]);
        assert_eq!(as_rgb(vec![1, 9, 2, 9], 2), [1, 1, 1, 2, 2, 2]);
        assert_eq!(as_rgb(vec![1, 2, 3, 9], 4), [1, 2, 3]);
        assert_eq!(as_rgba(vec![1, 9], 2), [1, 1, 1, 9]);
        assert_eq!(as_rgba(vec![1, 2, 3], 3), [1, 2, 3, 255]);
    }
}
