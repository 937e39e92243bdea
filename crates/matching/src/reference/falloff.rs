//! How much darker a picture grows from its middle to its corners.
//!
//! Subjects are lighter here and darker there; a lens darkens all around alike. So the frame is parted into sectors
//! like a cake, in each the light is laid to the shape of a lens's falloff, and the middle one of the sectors' answers
//! counts: a sky over a dark ground moves some of them, a falloff all. The median of sectors is a model choice.

use amber_core::Source;
use amber_core::colour::lab::{Lab, from_linear_srgb};
use amber_core::picture::reduce::size_for_long_edge;
use amber_core::picture::source::linear_of_code;
use amber_core::stations::lens::falloff::{Falloff, FalloffSettings};
use amber_core::stations::lens::place::Middle;

use crate::colour::PointPrint;

/// Long edge at which it is looked for.
const LONG_EDGE: u32 = 120;
/// Sectors, and the least pixels of one.
const SECTORS: usize = 12;
const FEWEST: usize = 60;
/// Greys over which a print is turned round, and stops from the darkest to mid grey and to the lightest.
const GREYS: usize = 160;
const STOPS: [f64; 2] = [-7.0, 5.0];
/// Nearer than that to the print's black or white its light cannot be told, in L*.
const ENDS: f64 = 1.5;

/// A print's light at the film in stops from mid grey, by lightness.
pub struct Undarkened {
    /// Lightness and stops, the lightness rising.
    greys: Vec<(f64, f64)>,
}

impl Undarkened {
    /// Of a stock as it is printed.
    pub fn of_print(print: &PointPrint) -> Self {
        let stops = |i: usize| STOPS[0] + (STOPS[1] - STOPS[0]) * i as f64 / (GREYS - 1) as f64;
        Self::rising((0..GREYS).map(|i| (print.grey(0.18 * stops(i).exp2())[0], stops(i))).collect())
    }

    /// Of a camera's picture, whose light is known.
    pub fn of_camera() -> Self {
        let of = |i: usize| {
            let light = 0.18 * (STOPS[0] + (-STOPS[0] + 2.47) * i as f64 / (GREYS - 1) as f64).exp2();
            (from_linear_srgb([light; 3])[0], (light / 0.18).log2())
        };
        Self::rising((0..GREYS).map(of).collect())
    }

    fn rising(mut greys: Vec<(f64, f64)>) -> Self {
        greys.sort_by(|a, b| a.0.total_cmp(&b.0));
        Self { greys }
    }

    /// Stops from mid grey; `None` where the print is black or white.
    fn stops(&self, lightness: f64) -> Option<f64> {
        let (first, last) = (self.greys.first()?, self.greys.last()?);
        if lightness < first.0 + ENDS || lightness > last.0 - ENDS {
            return None;
        }
        let at = self.greys.partition_point(|g| g.0 <= lightness).clamp(1, self.greys.len() - 1);
        let [a, b] = [self.greys[at - 1], self.greys[at]];
        Some(a.1 + (b.1 - a.1) * ((lightness - a.0) / (b.0 - a.0).max(1e-9)))
    }
}

/// A lens's falloff as it is by default, of a stop.
fn template(middle: Middle) -> Option<Falloff> {
    Falloff::new(&FalloffSettings { stops: -1.0, middle, natural_degrees: 0.0 })
}

/// Stops outside the middle, as [`FalloffSettings::stops`] says them: below 0 where the edges are darker. `None` where
/// too little of the frame can be read.
pub fn falloff_stops(picture: &Source, middle: Middle, undarkened: &Undarkened) -> Option<f64> {
    let (width, height) = size_for_long_edge(LONG_EDGE, picture.width(), picture.height());
    let small = picture.reduced(width, height);
    let factors = template(middle)?.factors([width, height], small.region());
    let linear = linear_of_code();
    let mut sectors: Vec<Vec<[f64; 2]>> = vec![Vec::new(); SECTORS];
    for (i, factor) in factors.iter().enumerate() {
        let lab: Lab = from_linear_srgb(small.pixel(i).map(|code| f64::from(linear[code as usize])));
        let Some(stops) = undarkened.stops(lab[0]) else { continue };
        let [x, y] = [i as u32 % width, i as u32 / width].map(f64::from);
        let [x, y] = [(x + 0.5) / f64::from(width) - 0.5, (y + 0.5) / f64::from(height) - 0.5];
        let turn = y.atan2(x).rem_euclid(std::f64::consts::TAU) / std::f64::consts::TAU;
        sectors[((turn * SECTORS as f64) as usize).min(SECTORS - 1)].push([-f64::from(*factor).log2(), stops]);
    }
    let mut slopes: Vec<f64> = sectors.iter().filter_map(|sector| slope(sector)).collect();
    if slopes.len() < SECTORS * 2 / 3 {
        return None;
    }
    slopes.sort_by(f64::total_cmp);
    Some(0.5 * (slopes[(slopes.len() - 1) / 2] + slopes[slopes.len() / 2]))
}

/// Stops for a whole falloff, by least squares; `None` where there are too few places or they do not reach outwards.
fn slope(sector: &[[f64; 2]]) -> Option<f64> {
    let count = sector.len() as f64;
    if sector.len() < FEWEST {
        return None;
    }
    let mean = [0, 1].map(|k: usize| sector.iter().map(|p| p[k]).sum::<f64>() / count);
    let [mut along, mut both] = [0.0, 0.0];
    for [shape, stops] in sector {
        along += (shape - mean[0]).powi(2);
        both += (shape - mean[0]) * (stops - mean[1]);
    }
    (along / count > 0.01).then(|| both / along)
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::{Catalogue, Development};

    const MIDDLE: Middle = Middle { size: 0.4, feather: 1.0, roundness: 1.0, aspect: 0.0, centre: [0.0, 0.0] };

    /// A sky over a dark ground with things in it, through a lens that darkens by so many stops.
    fn scene(stops: f64) -> Source {
        let lens = Falloff::new(&FalloffSettings { stops, middle: MIDDLE, natural_degrees: 0.0 });
        let region = amber_core::Region::whole(300, 200);
        let factors = lens.map_or(vec![1.0; region.pixels()], |lens| lens.factors([300, 200], region));
        Source::from_linear_srgb(300, 200, |x, y| {
            let sky = if y < 90 { 0.5 } else { 0.12 };
            let things = 0.6 + 0.4 * f64::from((x / 23 * 7 + y / 17 * 5) % 9) / 8.0;
            [sky * things * f64::from(factors[(y * 300 + x) as usize]); 3]
        })
    }

    #[test]
    fn a_lens_is_told_from_a_subject() {
        let camera = Undarkened::of_camera();
        let none = falloff_stops(&scene(0.0), MIDDLE, &camera).unwrap();
        assert!(none.abs() < 0.2, "{none}");
        for stops in [-0.8, -1.6] {
            let found = falloff_stops(&scene(stops), MIDDLE, &camera).unwrap() - none;
            assert!((found / stops - 1.0).abs() < 0.15, "{stops}: {found}");
        }
        let black = Source::from_linear_srgb(300, 200, |_, _| [0.0; 3]);
        assert!(falloff_stops(&black, MIDDLE, &camera).is_none());
    }

    /// A print is turned round to the light at the film first: its own contrast would double the stops.
    #[test]
    fn a_print_is_turned_round_first() {
        let stock = Catalogue::find("plover").unwrap();
        let development = Development::new(&stock);
        let print = PointPrint::new(&stock, &development).unwrap();
        let printed = |stops: f64| {
            let scene = scene(stops);
            let shown = print.linear_srgb(&scene);
            Source::from_linear_srgb(300, 200, |x, y| shown[(y * 300 + x) as usize])
        };
        let undarkened = Undarkened::of_print(&print);
        let of = |stops: f64| falloff_stops(&printed(stops), MIDDLE, &undarkened).unwrap();
        let found = of(-1.2) - of(0.0);
        assert!((found / -1.2 - 1.0).abs() < 0.2, "{found}");
    }
}
