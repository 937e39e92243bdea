//! The colour space of a finished picture.

use multiversion::multiversion;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::fit::{Turn, turn};
use super::white_in_range;
use crate::colour::gamut::Compressor;
use crate::colour::rooted;
use crate::colour::space::{D65_XY, SRGB_PRIMARIES, SRGB_TO_XYZ, WIDE_PRIMARIES, WIDE_TO_XYZ, rgb_to_xyz};
use crate::colour::transfer::{decode_srgb, encode_srgb_f32};
use crate::numeric::runs::{each_pixel, in_runs};
use crate::picture::Picture;
use crate::picture::buffer::{Display, Reflectance};

/// Chromaticities of red, green, blue: Display P3 (those of SMPTE EG 432-1).
pub const P3_PRIMARIES: [[f64; 2]; 3] = [[0.680, 0.320], [0.265, 0.690], [0.150, 0.060]];

/// The space in which a finished picture is encoded: its primaries with the white D65 and the curve of sRGB.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum OutputSpace {
    /// What every display and every browser shows (IEC 61966-2-1).
    #[default]
    Srgb,
    /// Wider in red and green, as newer displays are.
    DisplayP3,
    /// The primaries of ITU-R BT.2020, those of the working space: every print colour that can be computed.
    Rec2020,
}

impl OutputSpace {
    /// All of them, the narrowest first.
    pub const ALL: [Self; 3] = [Self::Srgb, Self::DisplayP3, Self::Rec2020];

    /// Its name in words.
    pub fn label(self) -> &'static str {
        match self {
            Self::Srgb => "sRGB",
            Self::DisplayP3 => "Display P3",
            Self::Rec2020 => "Rec. 2020",
        }
    }

    /// Chromaticities of red, green and blue.
    pub fn primaries(self) -> [[f64; 2]; 3] {
        match self {
            Self::Srgb => SRGB_PRIMARIES,
            Self::DisplayP3 => P3_PRIMARIES,
            Self::Rec2020 => WIDE_PRIMARIES,
        }
    }

    /// From the linear working space to this one's linear light.
    fn of_wide(self) -> Turn {
        rgb_to_xyz(self.primaries(), D65_XY).inverted().after(&WIDE_TO_XYZ).to_f32()
    }

    fn of_linear_srgb(self) -> Turn {
        rgb_to_xyz(self.primaries(), D65_XY).inverted().after(&SRGB_TO_XYZ).to_f32()
    }

    /// A print in this space's encoding, fitted into its gamut; one that lies in sRGB's already is only turned.
    pub fn encode(self, mut print: Picture<Reflectance>, fitted: bool) -> Picture<Display> {
        if let Some(planes) = print.three_mut() {
            to_encoded(planes, &self.of_wide(), &Compressor::default(), fitted);
        }
        print.into_quantity()
    }

    /// A picture that is encoded in sRGB, in this space.
    pub fn of_srgb(self, mut shown: Picture<Display>) -> Picture<Display> {
        if self != Self::Srgb
            && let Some([red, green, blue]) = shown.three_mut()
        {
            let turned = self.of_linear_srgb();
            for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
                [*r, *g, *b] = recoded(&turned, [*r, *g, *b]);
            }
        }
        shown
    }

    /// Encoded sRGB colours in this space, prepared.
    pub fn colours(self) -> Colours {
        Colours((self != Self::Srgb).then(|| self.of_linear_srgb()))
    }
}

/// From encoded sRGB to a space's own encoding, one colour at a time.
#[derive(Debug, Clone, Copy)]
pub struct Colours(Option<Turn>);

impl Colours {
    /// A colour of encoded sRGB in the space.
    pub fn of(&self, colour: [f32; 3]) -> [f32; 3] {
        self.0.as_ref().map_or(colour, |turned| recoded(turned, colour))
    }
}

fn recoded(turned: &Turn, colour: [f32; 3]) -> [f32; 3] {
    let light = colour.map(|v| decode_srgb(f64::from(v.clamp(0.0, 1.0))) as f32);
    turn(turned, light).map(|v| encode_srgb_f32(v.clamp(0.0, 1.0)))
}

#[multiversion(targets("x86_64+avx2"))]
fn to_encoded(planes: [&mut [f32]; 3], turned: &Turn, gamut: &Compressor, fitted: bool) {
    in_runs(planes, |_, run| {
        each_pixel(run, |rgb| turn(turned, rgb));
        if !fitted {
            gamut.unbounded_run(run);
        }
        run.iter_mut().for_each(|lane| rooted::encode_all(lane, f32::INFINITY));
        each_pixel(run, white_in_range);
    });
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    fn print(colour: [f32; 3]) -> Picture<Reflectance> {
        Picture::from_planes(Region::whole(1, 1), colour.map(|v| vec![v]).to_vec())
    }

    fn encoded(space: OutputSpace, colour: [f32; 3]) -> [f32; 3] {
        let shown = space.encode(print(colour), false);
        [0, 1, 2].map(|k| shown.plane(k)[0])
    }

    /// SMPTE EG 432-1's green in the working space lies in Display P3 and beyond sRGB.
    #[test]
    fn a_wide_colour_keeps_its_place_in_a_wide_space() {
        let of_p3 = crate::colour::space::XYZ_TO_WIDE.after(&rgb_to_xyz(P3_PRIMARIES, D65_XY));
        let colour = of_p3.apply([0.10, 0.6, 0.12]).map(|v| v as f32);
        let p3 = encoded(OutputSpace::DisplayP3, colour).map(|v| decode_srgb(f64::from(v)));
        for (v, wanted) in p3.into_iter().zip([0.10, 0.6, 0.12]) {
            assert!((v - wanted).abs() < 2e-3, "{v} {wanted}");
        }
        let srgb = encoded(OutputSpace::Srgb, colour);
        assert!(srgb[0] < 0.2, "sRGB has no such green: {srgb:?}");
    }

    #[test]
    fn neutrals_and_srgb_colours_are_the_same_picture() {
        for space in OutputSpace::ALL {
            for v in [0.0, 0.004, 0.18, 0.9, 1.0] {
                let [r, g, b] = encoded(space, [v; 3]);
                assert!((r - g).abs() < 1e-5 && (g - b).abs() < 1e-5, "{space:?} {r} {g} {b}");
                let back = space.colours().of([r; 3]);
                assert!((back[1] - g).abs() < 1e-4, "{space:?}");
            }
        }
        let colour = [0.8, 0.3, 0.2];
        let there = OutputSpace::Rec2020.colours().of(colour);
        assert!(there[0] < colour[0] && there[1] > colour[1], "less saturated numbers in a wider space: {there:?}");
    }
}
