//! What bends the finished print too sharply for its table: curves, the colours of tones, the wash.
//!
//! These act pixel by pixel after the table is read, so that they are exact on every stock. The curves act on the print
//! as it is; colours of tones and the wash act on what the display shows, and what they make lies in its gamut: from
//! there on nothing is fitted again, and a colour that was asked for is the colour that is seen.

use multiversion::multiversion;

use super::settings::PrintCurves;
use crate::colour::transfer::{decode_srgb_f32, encode_srgb_f32};
use crate::effect::{Effect, FilmFrame, Finishing};
use crate::key::{Key, key};
use crate::numeric::runs::{each_pixel, in_runs};
use crate::numeric::{Sampled, ToneCurve};
use crate::output::Fit;
use crate::output::fit::{Turn, turn};
use crate::picture::buffer::Reflectance;
use crate::picture::{Picture, Region};
use crate::stations::tone::wash::Wash;
use crate::stations::tone::{ToneRamp, ToneSettings};

/// Encoded tones over which the curves are kept, and how many samples of them.
const TONES: (f64, f64) = (-0.25, 1.5);
const SAMPLES: usize = 7001;
/// Slope of the encoding at black, continued below it.
const SLOPE_AT_BLACK: f32 = 12.92;

/// Prepared.
#[derive(Debug, Clone)]
pub struct Bend {
    curves: Option<[Sampled; 3]>,
    tones: Option<ToneRamp>,
    wash: Option<Wash>,
    fit: Fit,
    key: Key,
}

impl Bend {
    /// `None` where nothing bends. What is limited by a mask is not here.
    pub fn new(curves: &PrintCurves, tone: &ToneSettings) -> Option<Self> {
        let places = &tone.places;
        let (two, four) = (places.two.is_none().then_some(&tone.two), places.four.is_none().then_some(&tone.four));
        let whole = places.wash.is_none();
        let tones = ToneRamp::new(two, four);
        let wash = Wash::new(whole.then_some(&tone.wash), whole.then_some(&tone.grey));
        let key = key(&[&"bend", curves, tone]);
        let curves = sampled(curves);
        (curves.is_some() || tones.is_some() || wash.is_some()).then(|| Self {
            curves,
            tones,
            wash,
            fit: Fit::default(),
            key,
        })
    }

    /// Whether what it makes lies in the display's gamut.
    pub fn fits(&self) -> bool {
        self.tones.is_some() || self.wash.is_some()
    }

    /// Linear sRGB of the bent print.
    pub fn of(&self, mut rgb: [f32; 3]) -> [f32; 3] {
        if let Some(curves) = &self.curves {
            rgb = bent(curves, rgb);
        }
        if self.fits() {
            rgb = self.fit.srgb(rgb);
        }
        if let Some(tones) = &self.tones {
            rgb = tones.apply(rgb);
        }
        if let Some(wash) = &self.wash {
            rgb = wash.apply(rgb);
        }
        rgb
    }

    /// The last of what is done to the print by its tones; from here on it may be fitted.
    pub fn join(self, finishing: &mut Finishing) {
        finishing.fitted |= self.fits();
        finishing.push(Some(self));
    }
}

impl Effect<Reflectance> for Bend {
    fn key(&self) -> Key {
        self.key
    }

    fn apply(&self, _frame: &FilmFrame, mut print: Picture<Reflectance>, _part: Region) -> Picture<Reflectance> {
        if let Some(curves) = &self.curves {
            over_curves(&mut print, curves, &self.fit.to_srgb, &self.fit.to_wide);
        }
        if self.fits() {
            over_colours(&mut print, self);
        }
        print
    }
}

/// Each channel's curve with the master's, in encoded tones; `None` when all are straight.
fn sampled(curves: &PrintCurves) -> Option<[Sampled; 3]> {
    let curves = curves.each_ref().map(|c| c.as_ref().map(|points| ToneCurve::through(points)));
    curves.iter().any(Option::is_some).then(|| {
        std::array::from_fn(|k| {
            let through = |tone: f64| [&curves[0], &curves[k + 1]].into_iter().flatten().fold(tone, |t, c| c.at(t));
            Sampled::new(TONES.0, TONES.1, SAMPLES, through)
        })
    })
}

#[inline(always)]
fn bent(curves: &[Sampled; 3], rgb: [f32; 3]) -> [f32; 3] {
    let mut out = [0.0; 3];
    for k in 0..3 {
        let v = rgb[k];
        let tone = if v < 0.0 { v * SLOPE_AT_BLACK } else { encode_srgb_f32(v) };
        let tone = curves[k].at(tone);
        out[k] = if tone < 0.0 { tone / SLOPE_AT_BLACK } else { decode_srgb_f32(tone) };
    }
    out
}

#[multiversion(targets("x86_64+avx2"))]
fn over_curves(print: &mut Picture<Reflectance>, curves: &[Sampled; 3], to_srgb: &Turn, to_wide: &Turn) {
    let Some(planes) = print.three_mut() else { return };
    in_runs(planes, |_, run| each_pixel(run, |rgb| turn(to_wide, bent(curves, turn(to_srgb, rgb)))));
}

#[multiversion(targets("x86_64+avx2"))]
fn over_colours(print: &mut Picture<Reflectance>, bend: &Bend) {
    let Some(planes) = print.three_mut() else { return };
    in_runs(planes, |_, run| {
        bend.fit.srgb_run(run);
        if let Some(tones) = &bend.tones {
            tones.apply_run(run);
        }
        if let Some(wash) = &bend.wash {
            wash.apply_run(run);
        }
        each_pixel(run, |rgb| turn(&bend.fit.to_wide, rgb));
    });
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::blend::{BLENDS, Blend};
    use crate::colour::gamut::Compressor;
    use crate::colour::space::SRGB_TO_WIDE;
    use crate::development::Development;
    use crate::stations::tone::settings::WashSettings;
    use crate::stock::Catalogue;

    fn plain() -> ToneSettings {
        let stock = Catalogue::first();
        ToneSettings::read(&Development::new(&stock).values(&stock))
    }

    fn washed(blend: Blend, strength: f64, colour: [u8; 3]) -> Bend {
        let mut tone = plain();
        tone.wash = WashSettings { colour, blend, strength };
        Bend::new(&PrintCurves::default(), &tone).unwrap()
    }

    fn shown(rgb: [f32; 3]) -> [f64; 3] {
        Compressor::default()
            .apply(rgb[0], rgb[1], rgb[2])
            .map(|v| 255.0 * f64::from(encode_srgb_f32(v.clamp(0.0, 1.0))))
    }

    /// The hundredth part is the colour, the first hundredth hardly anything: in every mode, for colours far outside
    /// sRGB too.
    #[test]
    fn a_wash_is_continuous_from_nothing_and_true_at_all() {
        for rgb in [[0.02, 0.14, -0.03], [0.9, 0.1, -0.2], [1.3, 0.4, 0.02], [0.3; 3]] {
            for (blend, name, _) in BLENDS {
                let little = washed(blend, 0.001, [128; 3]).of(rgb).map(|v| 255.0 * f64::from(encode_srgb_f32(v)));
                let most = (0..3).map(|k| (little[k] - shown(rgb)[k]).abs()).fold(0.0, f64::max);
                assert!(most < 0.4, "{name} {rgb:?}: {little:?} {:?}", shown(rgb));
            }
            for colour in [[255u8, 255, 0], [255, 0, 0], [200, 120, 60]] {
                let all = washed(Blend::Normal, 1.0, colour).of(rgb);
                for (v, c) in all.iter().zip(colour) {
                    assert!((255.0 * encode_srgb_f32(*v) - f32::from(c)).abs() < 0.1, "{all:?} {colour:?}");
                }
            }
        }
    }

    #[test]
    fn a_tile_is_bent_as_its_colours_are() {
        let mut curves = PrintCurves::default();
        curves[0] = Some(vec![[0.0, 0.0], [40.0, 10.0], [60.0, 90.0], [100.0, 100.0]]);
        let mut tone = plain();
        tone.wash = WashSettings { colour: [200, 120, 60], blend: Blend::SoftLight, strength: 0.4 };
        let bend = Bend::new(&curves, &tone).unwrap();
        let colours: Vec<[f32; 3]> =
            (0..64).map(|i| [0, 1, 2].map(|k| ((i * 7 + k * 29) % 64) as f32 / 60.0)).collect();
        let wide = |c: &[f32; 3]| turn(&SRGB_TO_WIDE.to_f32(), *c);
        let plane = |k: usize| colours.iter().map(|c| wide(c)[k]).collect();
        let tile = Picture::from_planes(Region::whole(64, 1), vec![plane(0), plane(1), plane(2)]);
        let source = crate::picture::Source::from_linear_srgb(64, 1, |_, _| [0.2; 3]);
        let tile = bend.apply(&FilmFrame::filling(&source, 36_000.0), tile, Region::whole(64, 1));
        for (i, colour) in colours.iter().enumerate() {
            let wanted = wide(&bend.of(*colour));
            assert!((0..3).all(|k| (tile.plane(k)[i] - wanted[k]).abs() < 2e-4), "{colour:?}");
        }
        assert!(Bend::new(&PrintCurves::default(), &plain()).is_none());
    }
}
