//! Bloom: light sources glow, before the film.
//!
//! L + s (K*src - kept src): src is the light above a threshold with a soft knee, K a sum of three Gaussians of 0.2,
//! 0.8 and 3 % of the frame's diagonal. With all of it kept, the glow takes from the sources what it gives: the total
//! stays. What glows is taken before the picture is made small, so lamps of a few pixels give what they should; the
//! spread light comes from the small picture of the facts, so every view glows alike. Kernel and knee are model
//! choices.

use multiversion::multiversion;

use std::sync::Arc;

use super::light::Light;
use crate::colour::space::WIDE_LUMINANCE;
use crate::effect::{Effect, FilmFrame};
use crate::error::CoreError;
use crate::key::{Key, key};
use crate::mask::{MaskUse, PreparedUse};
use crate::memory::Memory;
use crate::picture::buffer::SceneLight;
use crate::picture::spread::spread;
use crate::picture::{Picture, Plane, Region, Source};
use crate::prepare::{Kept, Prepare};
use crate::stations::scene::luminance::MID_GREY;

/// Standard deviations as shares of the diagonal, and weights.
const KERNEL: [(f64, f64); 3] = [(0.002, 0.45), (0.008, 0.33), (0.03, 0.22)];
/// Width of the knee relative to the threshold.
const KNEE: f32 = 0.4;
/// Rows whose light is made together.
const STRIP: u32 = 64;

/// How light sources glow.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BloomSettings {
    /// 0..1.
    pub strength: f64,
    /// Light from which things glow, in stops over mid grey.
    pub threshold_stops: f64,
    /// Factor on the kernel's widths.
    pub radius: f64,
    /// Share of the glow that is taken from the sources.
    pub kept: f64,
}

/// Spread light of the whole frame.
#[derive(Debug, Clone)]
pub struct BloomGlow {
    planes: [Plane; 3],
}

/// Prepared, without a picture.
#[derive(Debug, Clone, PartialEq)]
pub struct Bloom {
    settings: BloomSettings,
    threshold: f32,
}

impl Bloom {
    /// `None` where nothing glows.
    pub fn new(settings: &BloomSettings) -> Option<Self> {
        let threshold = MID_GREY * (settings.threshold_stops as f32).exp2();
        (settings.strength > 0.0).then_some(Self { settings: *settings, threshold })
    }

    /// The light that glows of a picture.
    pub fn glowing(&self, light: &Picture<SceneLight>) -> Picture<SceneLight> {
        let shares = self.shares(light);
        let glows = |k: usize| light.plane(k).iter().zip(&shares).map(|(v, s)| v * s).collect();
        Picture::from_planes(light.region, (0..3).map(glows).collect())
    }

    /// The spread light of what glows of the small picture; roughly for a picture in motion.
    pub fn glow(&self, glowing: &Picture<SceneLight>, rough: bool) -> BloomGlow {
        let region = glowing.region;
        let (width, height) = (region.width as usize, region.height as usize);
        let diagonal = (width as f64).hypot(height as f64);
        let kernel = KERNEL.map(|(share, weight)| (share * self.settings.radius * diagonal, weight));
        let spread_light = |k: usize| {
            let source = Plane { width, height, values: glowing.plane(k).to_vec() };
            if rough {
                return spread(source, &kernel, 1);
            }
            let mut sum = Plane { width, height, values: vec![0.0; width * height] };
            for (sigma, weight) in kernel {
                let part = source.blurred(sigma);
                sum.values.iter_mut().zip(part.values).for_each(|(s, v)| *s += weight as f32 * v);
            }
            sum
        };
        BloomGlow { planes: [0, 1, 2].map(spread_light) }
    }

    /// Share of each pixel's light that glows.
    fn shares(&self, light: &Picture<SceneLight>) -> Vec<f32> {
        let mut out = vec![0.0; light.region.pixels()];
        share(&mut out, [light.plane(0), light.plane(1), light.plane(2)], self.threshold);
        out
    }

    /// The light that it lays over a region, alone.
    pub fn alone(&self, glow: &BloomGlow, frame: [u32; 2], region: Region) -> Picture<SceneLight> {
        let strength = self.settings.strength as f32;
        let laid = |plane: &Plane| -> Vec<f32> {
            let spread = plane.enlarged(frame[0] as usize, frame[1] as usize, region);
            spread.into_iter().map(|v| strength * v).collect()
        };
        Picture::from_planes(region, glow.planes.iter().map(laid).collect())
    }

    /// `place` is where it applies, pixel by pixel.
    fn lay(&self, glow: &BloomGlow, frame: [u32; 2], place: Option<&[f32]>, light: &mut Picture<SceneLight>) {
        let shares = self.shares(light);
        let (strength, kept) = (self.settings.strength as f32, self.settings.kept as f32);
        for (index, plane) in glow.planes.iter().enumerate() {
            let spread = plane.enlarged(frame[0] as usize, frame[1] as usize, light.region);
            let pixels = light.plane_mut(index).iter_mut().zip(&shares).zip(&spread);
            match place {
                None => pixels.for_each(|((v, s), k)| *v += strength * (k - kept * *v * s)),
                Some(mask) => {
                    pixels.zip(mask).for_each(|(((v, s), k), m)| *v += m * strength * (k - kept * *v * s));
                }
            }
        }
    }
}

impl Kept for BloomGlow {
    fn bytes(&self) -> usize {
        self.planes.iter().map(|p| p.values.len() * size_of::<f32>()).sum()
    }

    fn share(memory: &Memory) -> usize {
        memory.blooms
    }
}

/// Bloom with the spread light of its picture.
pub struct Blooming {
    bloom: Bloom,
    glow: Arc<BloomGlow>,
    place: Option<PreparedUse>,
}

impl Blooming {
    /// `before` is the light that comes to it.
    pub fn prepared(
        settings: &BloomSettings,
        place: &Option<MaskUse>,
        before: &Light,
        prepare: &Prepare,
    ) -> Result<Option<Self>, CoreError> {
        let Some(bloom) = Bloom::new(settings) else { return Ok(None) };
        let small = prepare.small_enough()?;
        let glow_key =
            key(&[&"bloom", &before.key(), settings, &prepare.keeping.rough, &small.width(), &small.height()]);
        let glow =
            prepare.kept(glow_key, || Ok(bloom.glow(&glowing(&bloom, before, &small), prepare.keeping.rough)))?;
        Ok(Some(Self { bloom, glow, place: prepare.place(place) }))
    }

    /// The light that bloom lays over a region, alone.
    pub fn alone(&self, frame: &FilmFrame, region: Region) -> Picture<SceneLight> {
        let mut laid = self.bloom.alone(&self.glow, frame.size(), region);
        if let Some(mask) = self.place.as_ref().map(|mask| mask.over(frame.source, region)) {
            for index in 0..3 {
                laid.plane_mut(index).iter_mut().zip(&mask).for_each(|(v, m)| *v *= m);
            }
        }
        laid
    }
}

impl Effect<SceneLight> for Blooming {
    fn key(&self) -> Key {
        key(&[&"bloom", &self.bloom.settings, &self.place])
    }

    fn apply(&self, frame: &FilmFrame, mut light: Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        let place = self.place.as_ref().map(|mask| mask.over(frame.source, part));
        self.bloom.lay(&self.glow, frame.size(), place.as_deref(), &mut light);
        light
    }
}

/// What glows of the small picture.
fn glowing(bloom: &Bloom, before: &Light, small: &Source) -> Picture<SceneLight> {
    let glowing = |source: &Source, strip: Region| bloom.glowing(&before.over(source, strip));
    // small lamps are weighed for themselves: each pixel that holds one is its bright part and the rest
    let parts = (!small.peaks().is_empty()).then(|| [small.of_peaks(true), small.of_peaks(false)]);
    let of_strip = |strip: Region| {
        let mut all = glowing(small, strip);
        let Some(parts) = &parts else { return all };
        for cell in small.around_peaks(strip) {
            let [bright, rest] = parts.each_ref().map(|part| glowing(part, cell));
            for (at, p) in small.peaks_in(cell) {
                let here = strip.index_of(cell, at);
                for k in 0..3 {
                    all.plane_mut(k)[here] = p.share * bright.plane(k)[at] + (1.0 - p.share) * rest.plane(k)[at];
                }
            }
        }
        all
    };
    Picture::by_strips(small.region(), STRIP, of_strip)
}

#[multiversion(targets("x86_64+avx2"))]
fn share(out: &mut [f32], [red, green, blue]: [&[f32]; 3], threshold: f32) {
    let knee = KNEE * threshold;
    for (((o, r), g), b) in out.iter_mut().zip(red).zip(green).zip(blue) {
        let y = (WIDE_LUMINANCE[0] * r + WIDE_LUMINANCE[1] * g + WIDE_LUMINANCE[2] * b).max(1e-6);
        // a parabola through the knee, the straight line above it
        let above = (y - threshold + knee).clamp(0.0, 2.0 * knee);
        let soft = above * above / (4.0 * knee) + (y - threshold - knee).max(0.0);
        *o = soft / y;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lamp() -> Picture<SceneLight> {
        let region = Region::whole(300, 200);
        let value = |i: usize| if (i % 300).abs_diff(150) < 6 && (i / 300).abs_diff(100) < 6 { 3.0 } else { 0.05 };
        Picture::from_planes(region, vec![(0..region.pixels()).map(value).collect(); 3])
    }

    #[test]
    fn a_lamp_glows_and_the_total_stays_when_kept() {
        let settings = BloomSettings { strength: 1.0, threshold_stops: 2.0, radius: 1.0, kept: 1.0 };
        let total = |p: &Picture<SceneLight>| p.plane(0).iter().map(|v| f64::from(*v)).sum::<f64>();
        let bloom = Bloom::new(&settings).unwrap();
        let mut light = lamp();
        let glow = bloom.glow(&bloom.glowing(&light), false);
        bloom.lay(&glow, [300, 200], None, &mut light);
        assert!((total(&light) / total(&lamp()) - 1.0).abs() < 0.01, "{}", total(&light) / total(&lamp()));
        assert!(light.plane(0)[100 * 300 + 170] > 0.055, "beside the lamp");
        let alone = bloom.alone(&glow, [300, 200], Region::new(170, 100, 1, 1));
        assert!((light.plane(0)[100 * 300 + 170] - 0.05 - alone.plane(0)[0]).abs() < 1e-6);
        let mut added = lamp();
        let more = Bloom::new(&BloomSettings { kept: 0.0, ..settings }).unwrap();
        more.lay(&glow, [300, 200], None, &mut added);
        assert!(added.plane(0)[100 * 300 + 150] >= 3.0, "the lamp itself is not darkened");
        assert!(Bloom::new(&BloomSettings { strength: 0.0, ..settings }).is_none());
    }

    #[test]
    fn what_is_below_the_threshold_does_not_glow() {
        let settings = BloomSettings { strength: 1.0, threshold_stops: 5.0, radius: 1.0, kept: 0.0 };
        let bloom = Bloom::new(&settings).unwrap();
        let mut light = lamp();
        let glow = bloom.glow(&bloom.glowing(&light), false);
        bloom.lay(&glow, [300, 200], None, &mut light);
        assert!(light.plane(0) == lamp().plane(0));
    }
}
