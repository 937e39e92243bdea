//! A sheet's own colours, changed before it is laid: all on encoded values between 0 and 1.

use crate::colour::blend::lum;

/// How the colours of a sheet are changed; each from -1 to 1, 0 for nothing.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Adjust {
    /// -1 is grey, 1 doubles.
    pub saturation: f32,
    /// Towards white or towards black.
    pub lightness: f32,
    /// About half grey; -1 is half grey, 1 doubles.
    pub contrast: f32,
}

/// What is left out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Drop {
    /// Nothing.
    #[default]
    Nothing,
    /// The darker, the more.
    Blacks,
    /// The lighter, the more.
    Whites,
}

impl Adjust {
    /// Whether it changes nothing.
    pub fn is_none(&self) -> bool {
        *self == Self::default()
    }

    /// A changed colour: contrast first, then lightness, then saturation.
    #[inline(always)]
    pub fn of(&self, rgb: [f32; 3]) -> [f32; 3] {
        let (contrast, light) = (1.0 + self.contrast, self.lightness);
        let lit = rgb.map(|v| {
            let v = (0.5 + (v - 0.5) * contrast).max(0.0).min(1.0);
            if light > 0.0 { v + light * (1.0 - v) } else { v * (1.0 + light) }
        });
        let grey = lum(lit);
        lit.map(|v| (grey + (v - grey) * (1.0 + self.saturation)).max(0.0).min(1.0))
    }

    /// The factor on an amount of light.
    pub fn of_light(&self) -> f32 {
        libm::exp2f(2.0 * self.lightness)
    }

    /// The factor on an amount of what stops light: lighter is thinner.
    pub fn of_density(&self) -> f32 {
        let contrast = 1.0 + self.contrast;
        contrast * if self.lightness > 0.0 { 1.0 - self.lightness } else { 1.0 - 2.0 * self.lightness }
    }

    /// Weights of three layers, more or less alike.
    pub fn of_tint(&self, tint: [f32; 3]) -> [f32; 3] {
        let mean = tint.iter().sum::<f32>() / 3.0;
        tint.map(|v| (mean + (v - mean) * (1.0 + self.saturation)).max(0.0))
    }
}

impl Drop {
    /// How much of a colour stays.
    #[inline(always)]
    pub fn stays(self, rgb: [f32; 3]) -> f32 {
        match self {
            Self::Nothing => 1.0,
            Self::Blacks => lum(rgb).max(0.0).min(1.0),
            Self::Whites => 1.0 - lum(rgb).max(0.0).min(1.0),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn colours_are_changed_as_documented() {
        let red = [0.8, 0.2, 0.2];
        assert!(Adjust::default().of(red).iter().zip(red).all(|(a, b)| (a - b).abs() < 1e-6));
        let grey = Adjust { saturation: -1.0, ..Adjust::default() }.of(red);
        assert!(grey.iter().all(|v| (v - 0.38).abs() < 1e-6), "0.3 of red, 0.59 of green, 0.11 of blue: {grey:?}");
        assert_eq!(Adjust { lightness: 1.0, ..Adjust::default() }.of(red), [1.0; 3]);
        assert_eq!(Adjust { lightness: -1.0, ..Adjust::default() }.of(red), [0.0; 3]);
        assert_eq!(Adjust { contrast: -1.0, ..Adjust::default() }.of(red), [0.5; 3]);
        assert_eq!(Drop::Blacks.stays([0.0; 3]), 0.0);
        assert_eq!(Drop::Whites.stays([0.0; 3]), 1.0);
        assert_eq!(Adjust { lightness: 0.5, ..Adjust::default() }.of_light(), 2.0);
    }
}
