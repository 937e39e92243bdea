//! Zone placement, local contrast and fine detail: what looks at a pixel's surroundings.
//!
//! The luminance (in stops) is split by two guided filters into a wide base, middle shapes and fine texture. Placement
//! moves the wide base and leaves what lies on it; local contrast weighs the middle shapes, fine detail the texture.
//! Edges belong to the bases, so nothing rims them. All three become one factor on the light, so hues stay. The bases
//! rest on the small picture of the facts and do not depend on exposure.

use multiversion::multiversion;

use super::luminance;
use crate::memory::Memory;
use crate::numeric::{MonotoneCubic, Sampled, exp2};
use crate::picture::buffer::SceneLight;
use crate::picture::guided::LocalLines;
use crate::picture::{Picture, Plane};
use crate::prepare::Kept;

/// Zones, 0 to X.
pub const ZONES: usize = 11;

/// What looks at a pixel's surroundings.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct StructureSettings {
    /// By how many stops each zone is placed from where it was metered.
    pub placed_stops: [f64; ZONES],
    /// -1..1.
    pub local_contrast: f64,
    /// -1..1.
    pub detail: f64,
}

/// Radius of the wide and of the fine base, as a share of the frame's diagonal.
const RADII: [f64; 2] = [0.024, 0.0022];
/// Variance in stops squared that counts as an edge, for the wide and the fine base.
const EDGES: [f32; 2] = [0.36, 0.05];
/// Differences in stops beyond which strengthening flattens off, for middle shapes and for texture.
const LIMITS: [f32; 2] = [1.2, 0.6];
/// Full strength adds this many times the difference.
const STRENGTHS: [f32; 2] = [1.6, 1.6];
/// Nearest that two zones may be placed, in stops: one lies on the other, and tones still rise.
const CLOSEST: f64 = 0.02;
/// Zones beyond 0 and X to which the placement is sampled.
const BEYOND: f64 = 6.0;

/// Where the zones lie after placement: rising, whatever was asked for. Those that were moved furthest keep their
/// place, the others give way.
pub fn placed_zones(stops: &[f64; ZONES]) -> [f64; ZONES] {
    let wanted: [f64; ZONES] = std::array::from_fn(|zone| zone as f64 + stops[zone]);
    let mut order: [usize; ZONES] = std::array::from_fn(|zone| zone);
    let middle = ZONES / 2;
    order.sort_by(|a, b| stops[*b].abs().total_cmp(&stops[*a].abs()).then(a.abs_diff(middle).cmp(&b.abs_diff(middle))));
    let mut placed: [Option<f64>; ZONES] = [None; ZONES];
    for zone in order {
        let apart = |other: usize| CLOSEST * zone.abs_diff(other) as f64;
        let above = (0..zone).rev().find_map(|i| placed[i].map(|p| p + apart(i)));
        let below = (zone + 1..ZONES).find_map(|i| placed[i].map(|p| p - apart(i)));
        let place = above.map_or(wanted[zone], |least| wanted[zone].max(least));
        placed[zone] = Some(below.map_or(place, |most| place.min(most)));
    }
    std::array::from_fn(|zone| placed[zone].unwrap_or(wanted[zone]))
}

/// Stops from mid grey after placement by stops before it; beyond zones 0 and X the end's move goes on.
fn placement(stops: &[f64; ZONES]) -> Option<Sampled> {
    if stops.iter().all(|s| *s == 0.0) {
        return None;
    }
    let placed = placed_zones(stops);
    let curve = MonotoneCubic::through(placed.iter().enumerate().map(|(zone, p)| [zone as f64, *p]).collect());
    let last = (ZONES - 1) as f64;
    let move_at = |stop: f64| {
        let zone = (stop + 5.0).clamp(0.0, last);
        curve.at(zone) - zone
    };
    let (low, high) = (-5.0 - BEYOND, last - 5.0 + BEYOND);
    Some(Sampled::new(low, high, 1024, move_at))
}

/// The bases of a picture.
#[derive(Debug, Clone)]
pub struct Bases {
    wide: LocalLines,
    fine: LocalLines,
}

impl Bases {
    /// From the small picture's light at no exposure.
    pub fn of(small: &Picture<SceneLight>) -> Self {
        let region = small.region;
        let (width, height) = (region.width as usize, region.height as usize);
        let guide = Plane { width, height, values: luminance::stops(small, 0.0) };
        let diagonal = (width as f64).hypot(height as f64);
        let radius = RADII.map(|share| ((share * diagonal).round() as usize).max(1));
        Self {
            wide: LocalLines::smoothing(&guide, radius[0], EDGES[0]),
            fine: LocalLines::smoothing(&guide, radius[1], EDGES[1]),
        }
    }
}

impl Kept for Bases {
    fn bytes(&self) -> usize {
        self.wide.bytes() + self.fine.bytes()
    }

    fn share(memory: &Memory) -> usize {
        memory.bases
    }
}

/// Prepared; without what is neutral.
#[derive(Debug, Clone)]
pub struct Structure {
    placement: Option<Sampled>,
    /// Of middle shapes and texture.
    amounts: [f32; 2],
    exposure_stops: f32,
}

impl Structure {
    /// `None` where tones and detail stay.
    pub fn new(settings: &StructureSettings, exposure_stops: f64) -> Option<Self> {
        let amount = |v: f64, k: usize| (v as f32) * if v > 0.0 { STRENGTHS[k] } else { 1.0 };
        let amounts = [amount(settings.local_contrast, 0), amount(settings.detail, 1)];
        let placement = placement(&settings.placed_stops);
        let any = placement.is_some() || amounts != [0.0; 2];
        any.then_some(Self { placement, amounts, exposure_stops: exposure_stops as f32 })
    }

    /// By how many stops each pixel is to be raised.
    pub fn stops(&self, around: &Surroundings) -> Vec<f32> {
        let Surroundings { tone, wide, fine } = around;
        let mut gain = vec![0.0f32; tone.len()];
        if let Some(placement) = &self.placement {
            gain.iter_mut().zip(wide).for_each(|(g, w)| *g = w + self.exposure_stops);
            placement.map(&mut gain);
        }
        if self.amounts != [0.0; 2] {
            weigh(&mut gain, [wide, fine, tone], self.amounts);
        }
        gain
    }
}

/// Tone and bases of a region, in stops at no exposure.
pub struct Surroundings {
    tone: Vec<f32>,
    wide: Vec<f32>,
    fine: Vec<f32>,
}

impl Surroundings {
    /// Stops of every pixel and of what is around it.
    pub fn of(light: &Picture<SceneLight>, bases: &Bases, frame: [u32; 2], exposure_stops: f32) -> Self {
        let tone = luminance::stops(light, exposure_stops);
        let (wide, fine) = (bases.wide.read(frame, light.region, &tone), bases.fine.read(frame, light.region, &tone));
        Self { tone, wide, fine }
    }
}

/// Multiplies the light of every pixel.
pub fn raised(light: &mut Picture<SceneLight>, stops: &[f32]) {
    for index in 0..3 {
        raise(light.plane_mut(index), stops);
    }
}

/// A difference, strengthened less the larger it is; a weakened one is not limited.
#[inline(always)]
fn weighed(difference: f32, amount: f32, limit: f32) -> f32 {
    let limited = difference / (1.0 + difference.abs() * (1.0 / limit));
    amount * if amount > 0.0 { limited } else { difference }
}

#[multiversion(targets("x86_64+avx2"))]
fn weigh(gain: &mut [f32], [wide, fine, tone]: [&[f32]; 3], amounts: [f32; 2]) {
    for (((g, w), f), t) in gain.iter_mut().zip(wide).zip(fine).zip(tone) {
        *g += weighed(f - w, amounts[0], LIMITS[0]) + weighed(t - f, amounts[1], LIMITS[1]);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn raise(plane: &mut [f32], stops: &[f32]) {
    for (v, s) in plane.iter_mut().zip(stops) {
        *v *= exp2(*s);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn moved(zone: usize, stops: f64) -> [f64; ZONES] {
        let mut all = [0.0; ZONES];
        all[zone] = stops;
        all
    }

    /// Zone V placed on VI: one stop at mid grey, nothing at I and IX.
    #[test]
    fn a_zone_is_placed_and_the_far_ones_stay() {
        let placement = placement(&moved(5, 1.0)).unwrap();
        assert!((placement.at(0.0) - 1.0).abs() < 1e-3);
        for stop in [-4.0, 4.0, -9.0, 8.0] {
            assert!(placement.at(stop).abs() < 1e-3, "{stop}");
        }
        assert!(super::placement(&[0.0; ZONES]).is_none());
    }

    /// Common practice, no source: a shadow is placed on the zone above it ("place III on IV") by a whole stop.
    #[test]
    fn any_zone_is_placed_on_the_next() {
        for zone in 1..ZONES - 1 {
            for stops in [1.0, -1.0] {
                let placed = placed_zones(&moved(zone, stops));
                assert_eq!(placed[zone], zone as f64 + stops);
                let found = placement(&moved(zone, stops)).unwrap().at(zone as f32 - 5.0);
                assert!((f64::from(found) - stops).abs() < 0.01, "{zone} by {stops}: {found}");
            }
        }
    }

    #[test]
    fn zones_never_pass_one_another() {
        let mut wild = [3.0, -3.0, 3.0, -3.0, 3.0, -3.0, 3.0, -3.0, 3.0, -3.0, 3.0];
        for _ in 0..2 {
            let placed = placed_zones(&wild);
            assert!(placed.windows(2).all(|p| p[1] - p[0] >= CLOSEST - 1e-12), "{placed:?}");
            let sampled = placement(&wild).unwrap();
            let tone = |i: i32| f64::from(i) * 0.01 + f64::from(sampled.at(i as f32 * 0.01));
            assert!((-900..900).all(|i| tone(i + 1) > tone(i) - 1e-4));
            wild = wild.map(|v: f64| -v);
        }
    }

    #[test]
    fn strengthening_has_a_limit_and_smoothing_takes_all() {
        assert_eq!(weighed(0.7, -1.0, 0.6), -0.7);
        assert!(weighed(5.0, 1.0, 0.6) < 0.6);
        assert!((weighed(0.01, 1.0, 0.6) - 0.01).abs() < 2e-4);
    }
}
