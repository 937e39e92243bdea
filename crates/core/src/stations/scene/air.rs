//! Air: from haze cut to flare added.
//!
//! Haze lays the light of the air over the scene: I = J t + A (1 - t). To clear it, the air's light A and the
//! transmission t are estimated by the dark channel (He, Sun, Tang 2009): in a patch of an outdoor picture some channel
//! is nearly dark, so what is left there is air. The transmission is refined by the guided filter and a share of the
//! air is taken out. Never more is taken than the pixel's weakest channel bears, and half of it by luminance only, so
//! no shadow turns blue. To veil, the frame's mean light is laid over all of it, as flare in a lens does. Linear light;
//! exposure multiplies all of it.

use multiversion::multiversion;

use super::luminance;
use crate::colour::space::WIDE_LUMINANCE as LUMINANCE;
use crate::memory::Memory;
use crate::picture::buffer::SceneLight;
use crate::picture::guided::LocalLines;
use crate::picture::{Picture, Plane};
use crate::prepare::Kept;

/// Half side of the patch of the dark channel, as a share of the frame's diagonal.
const PATCH: f64 = 0.012;
/// Radius of the refinement, as a share of the diagonal, and the variance in stops squared that is an edge to it.
const REFINEMENT: (f64, f32) = (0.03, 0.001);
/// Share of the estimated haze that is taken at most: a little is kept for depth.
const MOST: f32 = 0.88;
/// Share of the haziest pixels whose light is the air's.
const HAZIEST: f64 = 0.001;
/// The transmission is taken for at least this.
const THINNEST: f32 = 0.25;
/// Share of a pixel's weakest channel, relative to the air, that may be taken from a grey; how much less from a colour
/// (a clear blue sky is no haze), and the least.
const BEARABLE: [f32; 3] = [0.92, 0.9, 0.4];
/// How far the pixel's own colour is kept when its veil is taken: what little the air's colour was misjudged would be
/// multiplied, and shadows turn blue.
const KEPT_COLOUR: f32 = 0.5;
/// Share of the frame's mean light laid over it at the veiled end.
const VEIL: f32 = 0.5;

/// What a picture's air was found to be, at no exposure.
#[derive(Debug, Clone)]
pub struct AirFacts {
    /// Light of the air.
    light: [f32; 3],
    /// Mean light of the frame.
    mean: [f32; 3],
    transmission: LocalLines,
}

impl AirFacts {
    /// From the small picture's light at no exposure.
    pub fn of(small: &Picture<SceneLight>) -> Self {
        let region = small.region;
        let (width, height) = (region.width as usize, region.height as usize);
        let diagonal = (width as f64).hypot(height as f64);
        let patch = ((PATCH * diagonal).round() as usize).max(1);
        let plane = |values: Vec<f32>| Plane { width, height, values };
        let planes = [0, 1, 2].map(|k| small.plane(k));
        let darkest = |per: [f32; 3]| -> Vec<f32> {
            (0..region.pixels())
                .map(|i| (0..3).map(|k| planes[k][i] * per[k]).fold(f32::MAX, f32::min).max(0.0))
                .collect()
        };
        let light = air_light(planes, &darkest_around(&plane(darkest([1.0; 3])), patch).values);
        let hazy = darkest_around(&plane(darkest(light.map(|v| 1.0 / v.max(1e-4)))), patch);
        let transmission = plane(hazy.values.iter().map(|h| 1.0 - MOST * h.min(1.0)).collect());
        let guide = plane(luminance::stops(small, 0.0));
        let radius = ((REFINEMENT.0 * diagonal).round() as usize).max(1);
        let count = region.pixels() as f64;
        Self {
            light,
            mean: planes.map(|p| (p.iter().map(|v| f64::from(*v)).sum::<f64>() / count) as f32),
            transmission: LocalLines::fit(&guide, &transmission, radius, REFINEMENT.1),
        }
    }
}

impl Kept for AirFacts {
    fn bytes(&self) -> usize {
        self.transmission.bytes()
    }

    fn share(memory: &Memory) -> usize {
        memory.airs
    }
}

/// Mean light of the pixels whose surroundings have the least dark in them.
fn air_light(planes: [&[f32]; 3], dark: &[f32]) -> [f32; 3] {
    let mut order: Vec<u32> = (0..dark.len() as u32).collect();
    let count = ((dark.len() as f64 * HAZIEST).ceil() as usize).clamp(1, dark.len());
    let haziest = |a: &u32, b: &u32| dark[*b as usize].total_cmp(&dark[*a as usize]).then(a.cmp(b));
    order.select_nth_unstable_by(count - 1, haziest);
    let mut chosen = order[..count].to_vec();
    chosen.sort_unstable();
    planes.map(|p| chosen.iter().map(|i| p[*i as usize]).sum::<f32>() / count as f32)
}

/// The smallest value around, and of those the largest (an opening): things keep their outlines, which the minimum
/// alone would widen.
fn darkest_around(plane: &Plane, radius: usize) -> Plane {
    let smallest = plane.extreme(radius, f32::min);
    smallest.extreme(radius, f32::max)
}

/// Prepared for one amount.
#[derive(Debug, Clone)]
pub struct Air {
    /// -1 clear to 1 veiled.
    amount: f32,
    exposure_stops: f32,
}

impl Air {
    /// `None` where the air stays as it is.
    pub fn new(amount: f64, exposure_stops: f64) -> Option<Self> {
        (amount != 0.0).then_some(Self { amount: amount as f32, exposure_stops: exposure_stops as f32 })
    }

    /// Changes the light of a rectangle of a frame.
    pub fn apply(&self, facts: &AirFacts, frame: [u32; 2], light: &mut Picture<SceneLight>) {
        let amounts = vec![self.amount; light.region.pixels()];
        Self::apply_each(facts, &amounts, self.exposure_stops, frame, light);
    }

    /// With an amount for every pixel.
    pub fn apply_each(
        facts: &AirFacts,
        amounts: &[f32],
        exposure_stops: f32,
        frame: [u32; 2],
        light: &mut Picture<SceneLight>,
    ) {
        let gain = exposure_stops.exp2();
        if amounts.iter().any(|a| *a < 0.0) {
            let tone = luminance::stops(light, exposure_stops);
            let transmission = facts.transmission.read(frame, light.region, &tone);
            if let Some(planes) = light.three_mut() {
                clear(planes, &transmission, facts.light.map(|v| v * gain), amounts);
            }
        }
        if amounts.iter().any(|a| *a > 0.0) {
            for (index, mean) in facts.mean.iter().enumerate() {
                for (v, amount) in light.plane_mut(index).iter_mut().zip(amounts) {
                    let share = VEIL * amount.max(0.0);
                    *v = *v * (1.0 - share) + share * mean * gain;
                }
            }
        }
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn clear(planes: [&mut [f32]; 3], transmission: &[f32], air: [f32; 3], amounts: &[f32]) {
    let [red, green, blue] = planes;
    let per = [1.0 / air[0].max(1e-5), 1.0 / air[1].max(1e-5), 1.0 / air[2].max(1e-5)];
    let pixels = red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()).zip(transmission).zip(amounts);
    for ((((r, g), b), t), amount) in pixels {
        let share = (-amount).max(0.0);
        let (x, y, z) = (*r * per[0], *g * per[1], *b * per[2]);
        let (weakest, strongest) = (x.min(y).min(z).max(0.0), x.max(y).max(z).max(1e-6));
        let colour = (strongest - weakest) / strongest;
        let bearable = (BEARABLE[0] - BEARABLE[1] * colour).max(BEARABLE[2]);
        let taken = (share * (1.0 - t)).min(bearable * weakest).clamp(0.0, 1.0 - THINNEST);
        let through = 1.0 / (1.0 - taken);
        let cleared =
            [(*r - air[0] * taken) * through, (*g - air[1] * taken) * through, (*b - air[2] * taken) * through];
        let luminance = |v: [f32; 3]| LUMINANCE[0] * v[0] + LUMINANCE[1] * v[1] + LUMINANCE[2] * v[2];
        let darker = luminance(cleared) / luminance([*r, *g, *b]).max(1e-6);
        *r = cleared[0] + KEPT_COLOUR * (*r * darker - cleared[0]);
        *g = cleared[1] + KEPT_COLOUR * (*g * darker - cleared[1]);
        *b = cleared[2] + KEPT_COLOUR * (*b * darker - cleared[2]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    /// A dark ground under a bright sky, each thing behind more air the further right it stands.
    fn landscape(haze: f32) -> Picture<SceneLight> {
        let region = Region::whole(200, 120);
        let air = [0.55, 0.6, 0.7];
        let value = |i: usize, k: usize| {
            let (x, y) = (i % 200, i / 200);
            let thing = if y < 40 {
                air[k]
            } else if (x / 3 + y / 3) % 2 == 0 {
                0.03
            } else {
                [0.2, 0.25, 0.1][k]
            };
            let through = if y < 40 { 1.0 } else { 1.0 - haze * x as f32 / 200.0 };
            thing * through + air[k] * (1.0 - through)
        };
        Picture::from_planes(region, (0..3).map(|k| (0..region.pixels()).map(|i| value(i, k)).collect()).collect())
    }

    #[test]
    fn haze_is_found_and_cut() {
        let (hazy, clear) = (landscape(0.7), landscape(0.0));
        let facts = AirFacts::of(&hazy);
        for (found, air) in facts.light.iter().zip([0.55, 0.6, 0.7]) {
            assert!((found - air).abs() < 0.03, "{:?}", facts.light);
        }
        let mut cut = hazy.clone();
        Air::new(-1.0, 0.0).unwrap().apply(&facts, [200, 120], &mut cut);
        let off = |p: &Picture<SceneLight>| -> f32 {
            (60 * 200..110 * 200).map(|i| (p.plane(1)[i] - clear.plane(1)[i]).abs()).sum::<f32>() / 10_000.0
        };
        assert!(off(&cut) < 0.4 * off(&hazy), "{} {}", off(&cut), off(&hazy));
        assert!(cut.planes().iter().flatten().all(|v| *v >= 0.0));
    }

    #[test]
    fn a_veil_keeps_the_mean_and_exposure_goes_through() {
        let plain = landscape(0.3);
        let facts = AirFacts::of(&plain);
        let mean = |p: &Picture<SceneLight>| p.plane(1).iter().sum::<f32>() / 24_000.0;
        for amount in [0.8, -0.8] {
            let mut veiled = plain.clone();
            Air::new(amount, 0.0).unwrap().apply(&facts, [200, 120], &mut veiled);
            if amount > 0.0 {
                assert!((mean(&veiled) - mean(&plain)).abs() < 1e-3);
            }
            let mut brighter = plain.clone();
            (0..3).for_each(|k| brighter.plane_mut(k).iter_mut().for_each(|v| *v *= 2.0));
            Air::new(amount, 1.0).unwrap().apply(&facts, [200, 120], &mut brighter);
            for (a, b) in veiled.plane(0).iter().zip(brighter.plane(0)) {
                assert!((2.0 * a - b).abs() < 1e-4, "{a} {b}");
            }
        }
        assert!(Air::new(0.0, 0.0).is_none());
    }
}
