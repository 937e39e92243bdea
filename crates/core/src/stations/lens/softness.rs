//! Softness: a lens that does not draw sharply, overall and towards the edges.
//!
//! A Gaussian in light whose width grows outside a clear middle. The picture is blurred at a few widths, each twice the
//! last, and every pixel mixes its two neighbours so that the variance is the wanted one. Wide blurs are made once for
//! the whole frame on smaller planes, anchored at its corner; narrow ones are made where they are needed.

use std::ops::Range;
use std::sync::Arc;

use multiversion::multiversion;

use super::light::Light;
use super::place::Middle;
use crate::effect::{Effect, FilmFrame};
use crate::error::CoreError;
use crate::key::{Key, key};
use crate::mask::PreparedUse;
use crate::memory::Memory;
use crate::picture::buffer::SceneLight;
use crate::picture::gaussian;
use crate::picture::{Picture, Plane, Region, Source};
use crate::prepare::{Kept, Prepare};

/// Widths up to this many pixels are blurred where they are needed.
const NARROW: f64 = 6.0;
/// Least width of a blur on a plane, in the plane's pixels: narrower ones would show them.
const LEAST_ON_PLANE: f64 = 3.0;
/// Reach of a Gaussian in standard deviations.
const REACH: f64 = 3.2;
/// Blurs of fewer pixels than this cannot be seen.
const LEAST: f64 = 0.15;
/// Rows whose light is made together.
const STRIP: u32 = 64;

/// How unsharply the lens draws.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SoftnessSettings {
    /// Standard deviations on the film.
    pub overall_um: f64,
    /// Added outside the clear middle.
    pub edges_um: f64,
    /// The clear middle.
    pub middle: Middle,
}

/// The frame blurred at the wide widths.
#[derive(Debug, Clone)]
pub struct SoftPlanes {
    levels: Vec<[Plane; 3]>,
}

/// Where softness applies.
#[derive(Debug, Clone, Default)]
pub struct SoftPlaces {
    /// That of the lens.
    pub lens: Option<PreparedUse>,
    /// More softness in um, through masks of its own.
    pub local: Vec<(f64, PreparedUse)>,
}

/// Prepared with the widths that suit one scale; applies to frames of any scale.
#[derive(Debug, Clone)]
pub struct Softness {
    settings: SoftnessSettings,
    places: SoftPlaces,
    /// Standard deviations of the blurs that are made where they are needed, in um.
    narrow_um: Vec<f64>,
    /// Standard deviations of the blurs on planes, in um.
    wide_um: Vec<f64>,
}

impl Softness {
    /// With the widths that suit a pitch; `None` where nothing is soft that could be seen.
    pub fn new(settings: &SoftnessSettings, places: SoftPlaces, pitch_um: f64) -> Option<Self> {
        let of_the_lens = settings.overall_um + settings.edges_um;
        let most = places.local.iter().fold(of_the_lens, |sum, (um, _)| sum.hypot(*um));
        let least = if places.lens.is_none() { settings.overall_um } else { 0.0 };
        if most < LEAST * pitch_um {
            return None;
        }
        let mut widths = vec![];
        if least < most {
            let mut width = least.max(pitch_um);
            while width < most {
                widths.push(width);
                width *= 2.0;
            }
        }
        widths.push(most);
        let (narrow_um, wide_um) = widths.into_iter().partition(|um| *um < NARROW * pitch_um);
        Some(Self { settings: *settings, places, narrow_um, wide_um })
    }

    /// Pixels beyond a region that count.
    fn reach(&self, pitch_um: f64) -> u32 {
        self.narrow_um.iter().map(|um| (REACH * um / pitch_um).ceil() as u32).max().unwrap_or(0)
    }

    /// The wide blurs of a frame; `light` gives the light of a rectangle of a (reduced) source.
    pub fn planes(
        &self,
        source: &Source,
        pitch_um: f64,
        light: &(impl Fn(&Source, Region) -> Picture<SceneLight> + Sync),
    ) -> SoftPlanes {
        let widths: Vec<f64> = self.wide_um.iter().map(|um| um / pitch_um).collect();
        let Some(finest) = widths.first() else { return SoftPlanes { levels: Vec::new() } };
        let factor = |width: f64| 1usize << (width / LEAST_ON_PLANE).log2().floor().max(0.0) as usize;
        let base = factor(*finest);
        let mut whole = light_of(&source.reduced_by(base as u32), light);
        let mut at = base;
        let mut levels = Vec::new();
        for width in &widths {
            while at < factor(*width) {
                whole = whole.each_ref().map(Plane::halved);
                at *= 2;
            }
            let f = at as f64;
            // averaging over boxes has spread the light already, and stretching the plane will
            let boxed = if at == 1 { 0.0 } else { (f * f - 1.0) / 12.0 + f * f / 6.0 };
            let sigma = (width * width - boxed).max(0.0).sqrt() / f;
            levels.push(whole.each_ref().map(|plane| plane.blurred(sigma)));
        }
        SoftPlanes { levels }
    }

    fn blurred(
        &self,
        planes: &SoftPlanes,
        frame: &FilmFrame,
        padded: &Picture<SceneLight>,
        part: Region,
    ) -> Picture<SceneLight> {
        let mut out = padded.cut(part);
        let [width, height] = frame.size().map(|side| side as usize);
        let variance = self.variances(frame.source, part);
        let steps = self.steps(frame.pitch_um);
        let wanted = wanted(&steps, &variance);
        let narrow: Vec<Option<Vec<f32>>> = steps[..self.narrow_seen(frame.pitch_um)]
            .iter()
            .enumerate()
            .map(|(i, um)| wanted.contains(&i).then(|| gaussian::taps(um / frame.pitch_um, REACH)))
            .collect();
        for index in 0..3 {
            let of_narrow = narrow.iter().map(|taps| {
                let taps = taps.as_ref()?;
                Some(gaussian::blurred_part(padded.plane(index), padded.region, part, taps))
            });
            let of_planes = planes.levels.iter().enumerate().map(|(i, planes)| {
                wanted.contains(&(narrow.len() + i)).then(|| planes[index].enlarged(width, height, part))
            });
            let levels: Vec<Option<Vec<f32>>> = of_narrow.chain(of_planes).collect();
            mix(out.plane_mut(index), &steps, &levels, &variance);
        }
        out
    }

    /// How many of the narrow widths can be seen at a pitch.
    fn narrow_seen(&self, pitch_um: f64) -> usize {
        self.narrow_um.iter().filter(|um| **um >= LEAST * pitch_um).count()
    }

    /// Standard deviations of the blurs in um, narrow ones that cannot be seen left out.
    fn steps(&self, pitch_um: f64) -> Vec<f64> {
        let narrow = self.narrow_um.iter().copied().filter(|um| *um >= LEAST * pitch_um);
        narrow.chain(self.wide_um.iter().copied()).collect()
    }

    /// Wanted variance in um squared of every pixel; empty when it is the same for all.
    fn variances(&self, source: &Source, part: Region) -> Vec<f32> {
        let s = &self.settings;
        if s.edges_um <= 0.0 && self.places.lens.is_none() && self.places.local.is_empty() {
            return Vec::new();
        }
        let (overall, edges) = (s.overall_um as f32, s.edges_um as f32);
        let mut out = match edges > 0.0 {
            true => s.middle.outside([source.width(), source.height()], part),
            false => vec![0.0; part.pixels()],
        };
        out.iter_mut().for_each(|v| *v = overall + edges * *v);
        if let Some(place) = &self.places.lens {
            out.iter_mut().zip(place.over(source, part)).for_each(|(v, m)| *v *= m);
        }
        out.iter_mut().for_each(|v| *v *= *v);
        for (um, place) in &self.places.local {
            let um = *um as f32;
            out.iter_mut().zip(place.over(source, part)).for_each(|(v, m)| *v += (m * um) * (m * um));
        }
        out
    }
}

/// The variances between which each blur and the one before it are mixed.
fn spans(steps: &[f64]) -> impl Iterator<Item = [f32; 2]> {
    let before = std::iter::once(0.0f32).chain(steps.iter().map(|um| (um * um) as f32));
    before.zip(steps).map(|(from, um)| [from, (um * um) as f32])
}

/// The blurs that pixels of these variances (all the same where there are none) are mixed of.
fn wanted(steps: &[f64], variance: &[f32]) -> Range<usize> {
    if variance.is_empty() {
        return 0..1;
    }
    let (least, most) = variance.iter().fold((f32::MAX, 0.0f32), |(l, m), v| (l.min(*v), m.max(*v)));
    // a pixel takes the last blur that begins below its variance, and the one before that
    let begun = |variance: f32| spans(steps).filter(|[from, _]| variance > *from).count();
    begun(least).saturating_sub(2)..begun(most)
}

/// Between the sharp picture and the blurred ones, each pixel takes the two on either side of its variance. Blurs that
/// no pixel takes are absent.
fn mix(sharp: &mut [f32], steps: &[f64], levels: &[Option<Vec<f32>>], variance: &[f32]) {
    if variance.is_empty() {
        if let Some(Some(only)) = levels.first() {
            sharp.copy_from_slice(only);
        }
        return;
    }
    let clear = sharp.to_vec();
    let mut below = Some(&clear);
    for ([from, to], level) in spans(steps).zip(levels) {
        if let (Some(below), Some(level)) = (below, level) {
            between(sharp, variance, [below, level], [from, 1.0 / (to - from).max(1e-6)]);
        }
        below = level.as_ref();
    }
}

/// Where the variance is above `from`: as far from the first level to the second as it says.
#[multiversion(targets("x86_64+avx2"))]
fn between(out: &mut [f32], variance: &[f32], [below, level]: [&[f32]; 2], [from, per]: [f32; 2]) {
    for (((out, v), a), b) in out.iter_mut().zip(variance).zip(below).zip(level) {
        let share = ((v - from) * per).min(1.0);
        *out = if share > 0.0 { a + share * (b - a) } else { *out };
    }
}

fn light_of(source: &Source, light: &(impl Fn(&Source, Region) -> Picture<SceneLight> + Sync)) -> [Plane; 3] {
    let (width, height) = (source.width() as usize, source.height() as usize);
    let whole = Picture::by_strips(source.region(), STRIP, |strip| light(source, strip));
    [0, 1, 2].map(|k| Plane { width, height, values: whole.plane(k).to_vec() })
}

impl Kept for SoftPlanes {
    fn bytes(&self) -> usize {
        self.levels.iter().flatten().map(|p| p.values.len() * size_of::<f32>()).sum()
    }

    fn share(memory: &Memory) -> usize {
        memory.softs
    }
}

/// Softness with the wide blurs of its frame.
pub struct Softening {
    softness: Softness,
    planes: Arc<SoftPlanes>,
}

impl Softening {
    /// `before` is the light that comes to it.
    pub fn prepared(
        settings: &SoftnessSettings,
        places: SoftPlaces,
        before: &Light,
        prepare: &Prepare,
    ) -> Result<Option<Self>, CoreError> {
        let frame = before.frame(prepare.source);
        let Some(softness) = Softness::new(settings, places, frame.pitch_um) else { return Ok(None) };
        let soft_key = key(&[&"soft", &before.key(), &frame.size(), &softness.wide_um, &frame.pitch_um]);
        let light = |source: &Source, region: Region| before.over(source, region);
        let planes = prepare.kept(soft_key, || Ok(softness.planes(prepare.source, frame.pitch_um, &light)))?;
        Ok(Some(Self { softness, planes }))
    }

    /// With planes made beforehand.
    pub fn with(softness: Softness, planes: SoftPlanes) -> Self {
        Self { softness, planes: Arc::new(planes) }
    }
}

impl Effect<SceneLight> for Softening {
    fn key(&self) -> Key {
        let soft = &self.softness;
        key(&[&"softness", &soft.settings, &soft.places, &soft.narrow_um, &soft.wide_um])
    }

    fn reach(&self, frame: &FilmFrame) -> u32 {
        self.softness.reach(frame.pitch_um)
    }

    fn apply(&self, frame: &FilmFrame, padded: Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        self.softness.blurred(&self.planes, frame, &padded, part)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const MIDDLE: Middle = Middle { size: 0.2, feather: 0.5, roundness: 1.0, aspect: 0.0, centre: [0.0, 0.0] };

    /// A light of one channel's values in linear sRGB.
    fn light(source: &Source, region: Region) -> Picture<SceneLight> {
        let linear = crate::picture::source::linear_of_code();
        let value = |i: u32| {
            let (x, y) = (region.x + i % region.width, region.y + i / region.width);
            linear[source.row(y, x, 1)[0] as usize]
        };
        Picture::from_planes(region, vec![(0..region.pixels() as u32).map(value).collect(); 3])
    }

    fn softened(settings: &SoftnessSettings, pitch_um: f64) -> Vec<f32> {
        let source = Source::from_linear_srgb(240, 160, |x, _| [if x < 120 { 0.1 } else { 0.9 }; 3]);
        let frame = FilmFrame::filling(&source, 240.0 * pitch_um);
        let softness = Softness::new(settings, SoftPlaces::default(), pitch_um).unwrap();
        let planes = softness.planes(&source, pitch_um, &light);
        let softness = Softening::with(softness, planes);
        let whole = source.region();
        let out = softness.apply(&frame, light(&source, whole), whole);
        // a region is a crop, with the edge at its border
        let part = Region::new(119, 70, 37, 20);
        let padded = light(&source, part.grown(softness.reach(&frame), &whole));
        assert!(softness.apply(&frame, padded, part).plane(1) == out.cut(part).plane(1));
        out.plane(1)[80 * 240..81 * 240].to_vec()
    }

    /// An edge blurred by a sampled Gaussian, summed as it is defined, within a step of an 8-bit picture.
    #[test]
    fn an_edge_is_blurred_as_a_gaussian_does() {
        for (um, pitch) in [(12.0, 10.0), (45.0, 10.0), (130.0, 10.0)] {
            let row = softened(&SoftnessSettings { overall_um: um, edges_um: 0.0, middle: MIDDLE }, pitch);
            let weight = |d: i32| (-0.5 * (f64::from(d) / (um / pitch)).powi(2)).exp();
            let total: f64 = (-80..=80).map(weight).sum();
            for x in 60..180i32 {
                let right: f64 = (-80..=80).filter(|d| x + d >= 120).map(weight).sum();
                let (wanted, found) = (0.1 + 0.8 * right / total, f64::from(row[x as usize]));
                assert!((found - wanted).abs() < 1.0 / 255.0, "{um}: {x} {found} {wanted}");
            }
        }
    }

    #[test]
    fn the_middle_stays_clear() {
        let settings = SoftnessSettings { overall_um: 0.0, edges_um: 200.0, middle: MIDDLE };
        let row = softened(&settings, 10.0);
        assert!((row[119] - 0.1).abs() < 1e-3 && (row[120] - 0.9).abs() < 1e-3);
        let away = Middle { centre: [-0.9, 0.0], ..MIDDLE };
        let row = softened(&SoftnessSettings { middle: away, ..settings }, 10.0);
        assert!(row[119] > 0.4 && row[120] < 0.6, "{} {}", row[119], row[120]);
        assert!(Softness::new(&SoftnessSettings { edges_um: 0.0, ..settings }, SoftPlaces::default(), 10.0).is_none());
    }

    /// Of the blurs only those are made that a pixel takes; with all of them the picture is the same.
    #[test]
    fn blurs_that_nobody_takes_are_not_missed() {
        let steps = [10.0f64, 20.0, 40.0, 80.0];
        let sharp: Vec<f32> = (0..50).map(|i| (i % 7) as f32).collect();
        let level = |k: usize| -> Vec<f32> { (0..50).map(|i| (i * (k + 2) % 11) as f32).collect() };
        for (least, most) in [(0.0f32, 5.0f32), (0.0, 90.0), (12.0, 19.0), (10.0, 10.0), (25.0, 45.0), (85.0, 99.0)] {
            let um = |i: usize| least + (most - least) * i as f32 / 49.0;
            let variance: Vec<f32> = (0..50).map(|i| um(i) * um(i)).collect();
            let wanted = wanted(&steps, &variance);
            let mixed = |made: &dyn Fn(usize) -> bool| {
                let levels: Vec<Option<Vec<f32>>> = (0..steps.len()).map(|k| made(k).then(|| level(k))).collect();
                let mut out = sharp.clone();
                mix(&mut out, &steps, &levels, &variance);
                out
            };
            assert_eq!(mixed(&|_| true), mixed(&|k| wanted.contains(&k)), "{least} to {most}");
            assert!(wanted.len() <= 2 || most - least > 10.0, "{least} to {most}: {wanted:?}");
        }
        assert_eq!(wanted(&steps, &[0.0; 4]), 0..0, "what is clear asks for none");
    }
}
