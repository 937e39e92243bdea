//! Saturation, quiet colours and the eight hue bands of the scene.
//!
//! In Oklab, whose scale follows exposure: colourfulness is chroma over lightness. Saturation and quiet colours change
//! chroma and leave hue and lightness; quiet colours act on pale ones first and spare the hue of skin. A band turns its
//! hue, changes its chroma, and its light in stops; greys have no hue and stay. Widths and the hue of skin are model
//! choices.

use multiversion::multiversion;

use crate::colour::hue_bands::{BANDS, shares};
use crate::colour::oklab::WideToOklab;
use crate::numeric::{Sampled, exp2};
use crate::picture::Picture;
use crate::picture::buffer::SceneLight;

/// Hue in degrees, saturation in -1..1, lightness in stops of one band.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Band {
    /// Turn of the hue.
    pub hue_degrees: f64,
    /// -1 to 1.
    pub saturation: f64,
    /// Stops of light.
    pub stops: f64,
}

/// What changes colours and leaves tones.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ColourSettings {
    /// -1..1.
    pub saturation: f64,
    /// -1..1.
    pub quiet: f64,
    /// By hue.
    pub bands: [Band; BANDS],
}

/// Chroma over lightness at which a colour counts half for the bands.
const HALF_COLOUR: f32 = 0.05;
/// Chroma over lightness at which a colour is half quiet.
const HALF_QUIET: f32 = 0.13;
/// Hue of skin in degrees of Oklab, its width, and how far it is spared.
const SKIN: (f64, f64, f64) = (52.0, 20.0, 0.8);
/// Samples of the circle of hues.
const CIRCLE: usize = 1441;

/// Tables over the way round the circle of hues (see [`around`]).
#[derive(Debug, Clone)]
struct Circle {
    turn: Sampled,
    saturation: Sampled,
    stops: Sampled,
}

/// Prepared for pixel loops.
#[derive(Debug, Clone)]
pub struct SceneColour {
    oklab: WideToOklab,
    saturation: f32,
    quiet: f32,
    /// Share of skin by hue.
    spared: Option<Sampled>,
    bands: Option<Circle>,
}

/// A row's colours while they are worked on.
#[derive(Default)]
struct Row {
    lightness: Vec<f32>,
    a: Vec<f32>,
    b: Vec<f32>,
    /// Way round the circle of hues, 0..4.
    around: Vec<f32>,
    turn: Vec<f32>,
    chroma: Vec<f32>,
    stops: Vec<f32>,
    spared: Vec<f32>,
}

/// A quick measure of hue: the way round the square |a| + |b| = 1, 0 to 4.
#[inline(always)]
fn around(a: f32, b: f32) -> f32 {
    let up = b / (a.abs() + b.abs()).max(1e-20);
    let right = if up < 0.0 { 4.0 + up } else { up };
    if a < 0.0 { 2.0 - up } else { right }
}

/// Hue in degrees of a way round.
fn hue_of(around: f64) -> f64 {
    let (quadrant, f) = (around.floor() as i32 % 4, around.fract());
    let (a, b) = match quadrant {
        0 => (1.0 - f, f),
        1 => (-f, 1.0 - f),
        2 => (f - 1.0, -f),
        _ => (f, f - 1.0),
    };
    b.atan2(a).to_degrees().rem_euclid(360.0)
}

fn by_hue(value: impl Fn(f64) -> f64) -> Sampled {
    Sampled::new(0.0, 4.0, CIRCLE, |w| value(hue_of(w)))
}

impl SceneColour {
    /// `None` when all is neutral.
    pub fn new(settings: &ColourSettings) -> Option<Self> {
        if *settings == ColourSettings::default() {
            return None;
        }
        let mixed = |of: &dyn Fn(usize) -> f64, hue: f64| -> f64 {
            shares(hue as f32).iter().enumerate().map(|(i, s)| f64::from(*s) * of(i)).sum()
        };
        let bands = &settings.bands;
        let any = (0..BANDS).any(|i| bands[i] != Default::default());
        Some(Self {
            oklab: WideToOklab::new(),
            saturation: settings.saturation as f32,
            quiet: settings.quiet as f32,
            spared: (settings.quiet != 0.0).then(|| {
                let from = |hue: f64| (hue - SKIN.0 + 180.0).rem_euclid(360.0) - 180.0;
                by_hue(|hue| SKIN.2 * (-0.5 * (from(hue) / SKIN.1).powi(2)).exp())
            }),
            bands: any.then(|| Circle {
                turn: by_hue(|hue| mixed(&|i| bands[i].hue_degrees.to_radians(), hue)),
                saturation: by_hue(|hue| mixed(&|i| bands[i].saturation, hue)),
                stops: by_hue(|hue| mixed(&|i| bands[i].stops, hue)),
            }),
        })
    }

    /// Changes the colours of a picture.
    pub fn apply(&self, light: &mut Picture<SceneLight>) {
        let width = light.region.width as usize;
        let Some([red, green, blue]) = light.three_mut() else { return };
        let mut row = Row::default();
        let rows = red.chunks_exact_mut(width).zip(green.chunks_exact_mut(width)).zip(blue.chunks_exact_mut(width));
        for ((r, g), b) in rows {
            self.row(&mut row, [r, g, b]);
        }
    }

    fn row(&self, row: &mut Row, planes: [&mut [f32]; 3]) {
        let width = planes[0].len();
        let all = [
            &mut row.lightness,
            &mut row.a,
            &mut row.b,
            &mut row.around,
            &mut row.turn,
            &mut row.chroma,
            &mut row.stops,
            &mut row.spared,
        ];
        all.into_iter().for_each(|v| v.resize(width, 0.0));
        to_oklab(&self.oklab, [&*planes[0], &*planes[1], &*planes[2]], row);
        let looked_up = |table: &Sampled, to: &mut Vec<f32>| {
            to.copy_from_slice(&row.around);
            table.map(to);
        };
        match &self.bands {
            Some(circle) => {
                looked_up(&circle.turn, &mut row.turn);
                looked_up(&circle.saturation, &mut row.chroma);
                looked_up(&circle.stops, &mut row.stops);
            }
            None => [&mut row.turn, &mut row.chroma, &mut row.stops].into_iter().for_each(|v| v.fill(0.0)),
        }
        match &self.spared {
            Some(spared) => looked_up(spared, &mut row.spared),
            None => row.spared.fill(0.0),
        }
        change(self.saturation, self.quiet, row);
        from_oklab(&self.oklab, planes, row);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn to_oklab(oklab: &WideToOklab, [red, green, blue]: [&[f32]; 3], row: &mut Row) {
    let count = red.len();
    let (red, green, blue) = (&red[..count], &green[..count], &blue[..count]);
    let (l, a, b) = (&mut row.lightness[..count], &mut row.a[..count], &mut row.b[..count]);
    let way = &mut row.around[..count];
    for i in 0..count {
        let lab = oklab.lab([red[i], green[i], blue[i]]);
        l[i] = lab[0];
        a[i] = lab[1];
        b[i] = lab[2];
        way[i] = around(lab[1], lab[2]);
    }
}

/// Turns hues and changes chroma; leaves in `stops` what the light is multiplied by.
#[multiversion(targets("x86_64+avx2"))]
fn change(saturation: f32, quiet: f32, row: &mut Row) {
    let count = row.a.len();
    let (l, a, b) = (&row.lightness[..count], &mut row.a[..count], &mut row.b[..count]);
    let (turn, chroma) = (&row.turn[..count], &row.chroma[..count]);
    let (stops, spared) = (&mut row.stops[..count], &row.spared[..count]);
    for i in 0..count {
        // squares: no root is needed
        let per = 1.0 / (l[i] * l[i]).max(1e-12);
        let colourful = (a[i] * a[i] + b[i] * b[i]) * per;
        let colour = colourful / (colourful + HALF_COLOUR * HALF_COLOUR);
        let pale = 1.0 / (1.0 + colourful * (1.0 / (HALF_QUIET * HALF_QUIET)));
        let factor =
            (1.0 + saturation) * (1.0 + quiet * pale * (1.0 - spared[i])) * (1.0 + chroma[i] * colour).max(0.0);
        let angle = turn[i] * colour;
        let (sine, cosine) = sine_and_cosine(angle);
        let (x, y) = (a[i], b[i]);
        a[i] = factor * (x * cosine - y * sine);
        b[i] = factor * (x * sine + y * cosine);
        stops[i] = exp2(stops[i] * colour);
    }
}

/// Of an angle within a quarter turn either way; errors below 1e-6.
#[inline(always)]
fn sine_and_cosine(angle: f32) -> (f32, f32) {
    let s = angle * angle;
    let sine = angle * (1.0 - s * (1.0 / 6.0 - s * (1.0 / 120.0 - s * (1.0 / 5040.0 - s * (1.0 / 362_880.0)))));
    let cosine = 1.0 - s * (0.5 - s * (1.0 / 24.0 - s * (1.0 / 720.0 - s * (1.0 / 40_320.0))));
    (sine, cosine)
}

#[multiversion(targets("x86_64+avx2"))]
fn from_oklab(oklab: &WideToOklab, [red, green, blue]: [&mut [f32]; 3], row: &Row) {
    let count = red.len();
    let (red, green, blue) = (&mut red[..count], &mut green[..count], &mut blue[..count]);
    let (l, a, b, gain) = (&row.lightness[..count], &row.a[..count], &row.b[..count], &row.stops[..count]);
    for i in 0..count {
        let [x, y, z] = oklab.rgb([l[i], a[i], b[i]]);
        red[i] = x * gain[i];
        green[i] = y * gain[i];
        blue[i] = z * gain[i];
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::hue_bands::CENTRES;

    #[test]
    fn the_way_round_is_the_hue() {
        for degree in 0..720 {
            let hue = f64::from(degree) * 0.5;
            let (b, a) = hue.to_radians().sin_cos();
            let way = around(0.3 * a as f32, 0.3 * b as f32);
            let back = (hue_of(f64::from(way)) - hue + 180.0).rem_euclid(360.0) - 180.0;
            assert!(back.abs() < 1e-3, "{hue} {way}");
        }
        for (i, centre) in CENTRES.iter().enumerate() {
            assert!(shares(*centre)[i] > 0.99);
        }
    }

    #[test]
    fn sine_and_cosine_are_those() {
        for i in -157..=157 {
            let angle = i as f32 * 0.01;
            let (s, c) = sine_and_cosine(angle);
            assert!((s - angle.sin()).abs() < 3e-5 && (c - angle.cos()).abs() < 3e-5, "{angle}");
        }
    }

    #[test]
    fn neutral_is_nothing_and_greys_stay() {
        assert!(SceneColour::new(&ColourSettings::default()).is_none());
        let mut settings = ColourSettings { saturation: 1.0, quiet: 1.0, ..ColourSettings::default() };
        settings.bands.iter_mut().for_each(|b| b.stops = 2.0);
        let mut grey = Picture::from_planes(crate::Region::whole(1, 1), vec![vec![0.3]; 3]);
        SceneColour::new(&settings).unwrap().apply(&mut grey);
        assert!(grey.planes().iter().all(|p| (p[0] - 0.3).abs() < 1e-4));
    }
}
