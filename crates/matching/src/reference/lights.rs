//! The glow round the lights of a picture, and how strong a film's halation must be to show the same.
//!
//! Lights are small and as bright as the picture gets, on something dark. Round each the picture is read ring by ring:
//! how much more red than blue there is than further off, for a lens veils all alike but light thrown back by a film's
//! base is red; on a film of one layer the two cannot be told apart. The same is read on the print of lights that are
//! laid on the film with some strengths; between these the strength is found. Rings and bounds are model choices.

use std::sync::Arc;

use amber_core::colour::transfer::{decode_srgb, encode_srgb};
use amber_core::controls::Value;
use amber_core::measure::Facts;
use amber_core::picture::source::linear_of_code;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::film::settings::HALATION_STRENGTH;
use amber_core::{Development, Source, Stock};

use crate::error::MatchError;
use crate::grain::{Enlarged, Strips};
use crate::numeric::source_of_16_bit;

/// Distances from a light's edge in um on the film: near it, and what counts as further off.
const NEAR_UM: [f64; 2] = [20.0, 220.0];
const FAR_UM: [f64; 2] = [330.0, 650.0];
/// Lightest channel of a light, encoded, and of what lies round it at most.
const LIGHT: f64 = 0.9;
const DARK: f64 = 0.38;
/// Sides of a light's rectangle in um at most.
const LARGEST_UM: f64 = 1500.0;
/// Lights that are read at most, the largest first.
const MOST: usize = 40;
/// Sides of a light that are read apart, and pixels that each must have, near it and further off.
const SIDES: usize = 4;
const FEWEST_NEAR: usize = 3;
const FEWEST_FAR: usize = 12;

/// The glow round lights, in linear light of the print.
#[derive(Debug, Clone, PartialEq)]
pub struct LightGlow {
    /// More red than blue near lights than further off.
    pub red: f64,
    /// Encoded value of what lies round the lights.
    pub around: f64,
    /// Side of a light in pixels, in the middle.
    pub side_px: f64,
    /// Lights that were read.
    pub lights: usize,
}

/// One light.
struct Lamp {
    pixels: Vec<usize>,
    /// Left, upper, right, lower; the last ones belong to it.
    bounds: [usize; 4],
}

/// One light's reading.
struct Reading {
    red: f64,
    around: f64,
    side_px: f64,
}

fn middle(mut values: Vec<f64>) -> f64 {
    values.sort_by(f64::total_cmp);
    if values.is_empty() { 0.0 } else { 0.5 * (values[(values.len() - 1) / 2] + values[values.len() / 2]) }
}

impl LightGlow {
    /// Of a picture that lies on a film; `None` where it has no light on something dark.
    pub fn of(picture: &Source, pitch_um: f64) -> Option<Self> {
        let linear = linear_of_code();
        let width = picture.width() as usize;
        let pixels: Vec<[f64; 3]> = (0..picture.region().pixels())
            .map(|i| picture.pixel(i).map(|code| f64::from(linear[usize::from(code)])))
            .collect();
        let bright = decode_srgb(LIGHT);
        let is_light: Vec<bool> = pixels.iter().map(|p| p[0].max(p[1]).max(p[2]) >= bright).collect();
        let mut lamps = lamps(&is_light, width, LARGEST_UM / pitch_um);
        lamps.sort_by_key(|lamp| std::cmp::Reverse(lamp.pixels.len()));
        lamps.truncate(MOST);
        let read: Vec<Reading> =
            lamps.iter().filter_map(|lamp| reading(lamp, &pixels, &is_light, width, pitch_um)).collect();
        let of = |value: fn(&Reading) -> f64| middle(read.iter().map(value).collect());
        (!read.is_empty()).then(|| Self {
            red: of(|r| r.red),
            around: of(|r| r.around),
            side_px: of(|r| r.side_px),
            lights: read.len(),
        })
    }
}

/// Connected bright pixels whose rectangle is small enough.
fn lamps(is_light: &[bool], width: usize, largest: f64) -> Vec<Lamp> {
    let height = is_light.len() / width;
    let mut seen = vec![false; is_light.len()];
    let mut found = Vec::new();
    for start in 0..is_light.len() {
        if !is_light[start] || seen[start] {
            continue;
        }
        seen[start] = true;
        let mut lamp = Lamp { pixels: vec![start], bounds: [width, height, 0, 0] };
        let mut next = 0;
        while let Some(at) = lamp.pixels.get(next).copied() {
            next += 1;
            let [x, y] = [at % width, at / width];
            let [l, u, r, d] = lamp.bounds;
            lamp.bounds = [l.min(x), u.min(y), r.max(x), d.max(y)];
            for (beside, there) in [
                (at.wrapping_sub(1), x > 0),
                (at + 1, x + 1 < width),
                (at.wrapping_sub(width), y > 0),
                (at + width, y + 1 < height),
            ] {
                if there && is_light[beside] && !seen[beside] {
                    seen[beside] = true;
                    lamp.pixels.push(beside);
                }
            }
        }
        let [l, u, r, d] = lamp.bounds;
        if ((r - l).max(d - u) as f64) < largest {
            found.push(lamp);
        }
    }
    found
}

/// What lies round a light: near it against further off. `None` where that is not dark, or not there.
fn reading(lamp: &Lamp, pixels: &[[f64; 3]], is_light: &[bool], width: usize, pitch_um: f64) -> Option<Reading> {
    let height = pixels.len() / width;
    let reach = (FAR_UM[1] / pitch_um).ceil() as usize;
    let [l, u, r, d] = lamp.bounds;
    let rows = u.saturating_sub(reach)..(d + reach + 1).min(height);
    let columns = l.saturating_sub(reach)..(r + reach + 1).min(width);
    let edge: Vec<[f64; 2]> = lamp.pixels.iter().map(|at| [(at % width) as f64, (at / width) as f64]).collect();
    let centre = [0, 1].map(|k: usize| edge.iter().map(|p| p[k]).sum::<f64>() / edge.len() as f64);
    let (mut near, mut far): ([Vec<[f64; 3]>; SIDES], _) = (Default::default(), Vec::new());
    for (x, y) in rows.flat_map(|y| columns.clone().map(move |x| (x, y))) {
        let at = y * width + x;
        if is_light[at] {
            continue;
        }
        let squared = edge.iter().map(|p| (p[0] - x as f64).powi(2) + (p[1] - y as f64).powi(2));
        let um = (squared.fold(f64::INFINITY, f64::min).sqrt() - 0.5) * pitch_um;
        if (NEAR_UM[0]..NEAR_UM[1]).contains(&um) {
            let side = usize::from(x as f64 > centre[0]) + 2 * usize::from(y as f64 > centre[1]);
            near[side].push(pixels[at]);
        } else if (FAR_UM[0]..FAR_UM[1]).contains(&um) {
            far.push(pixels[at]);
        }
    }
    if near.iter().any(|side| side.len() < FEWEST_NEAR) || far.len() < FEWEST_FAR {
        return None;
    }
    let mean = |of: &[[f64; 3]]| [0, 1, 2].map(|k: usize| middle(of.iter().map(|p| p[k]).collect()));
    let luma = |c: [f64; 3]| 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2];
    let far = mean(&far);
    // a glow lies all round, a thing beside the light does not: the second darkest side speaks
    let second = |of: &dyn Fn([f64; 3]) -> f64| {
        let mut sides = near.each_ref().map(|side| of(mean(side)));
        sides.sort_by(f64::total_cmp);
        sides[1]
    };
    let around = encode_srgb(luma(far));
    (around < DARK).then(|| Reading {
        red: second(&|near| (near[0] - far[0]) - (near[2] - far[2])),
        around,
        side_px: (lamp.pixels.len() as f64).sqrt(),
    })
}

/// Side of a field with one light, in um on the film, and greys that lie round it.
const FIELD_UM: f64 = 2400.0;
const GREYS: usize = 10;
/// Strengths at which the print is read.
const STRENGTHS: [f64; 11] = [0.0, 0.015, 0.03, 0.05, 0.08, 0.12, 0.17, 0.24, 0.33, 0.45, 0.6];

/// By how much another light must explain a glow better.
const CLEARLY: f64 = 0.5;
/// A film whose glow differs less over all strengths shows none.
const LEAST_RANGE: f64 = 0.004;
/// What of a light's side in the print may have been the light's own: strong halation makes of a small one a larger
/// one.
const SHRUNK: [f64; 6] = [1.0, 0.86, 0.74, 0.64, 0.54, 0.45];

/// A film on which lights are laid.
pub struct Lights<'a> {
    /// Renders.
    pub renderer: &'a Renderer,
    /// The film.
    pub stock: &'a Stock,
    /// How the reference lies on it.
    pub enlarged: Enlarged,
    /// Micrometres on the film that a pixel of the reference takes.
    pub pitch_um: f64,
}

impl Lights<'_> {
    /// The strength of halation by which the print of a development shows as much glow as a reference; `None` where it
    /// cannot be told.
    pub fn strength(&self, development: &Development, reference: &LightGlow) -> Result<Option<f64>, MatchError> {
        if self.stock.layers() != 3 {
            return Ok(None);
        }
        let mut lights = Strips::of_greys(development);
        lights.off.remove("film.halation");
        let wanted = reference.red;
        let mut best: Option<(f64, f64)> = None;
        let mut differs = false;
        for shrunk in SHRUNK {
            let field = Field::new(self, (reference.side_px * shrunk).max(1.0));
            let mut seen = Vec::new();
            for strength in STRENGTHS {
                lights.set(self.stock, HALATION_STRENGTH.id, Value::Number(strength))?;
                seen.extend(field.glow(&lights, reference.around)?.map(|glow| (strength, glow)));
            }
            let most = seen.iter().map(|(_, glow)| glow.red).fold(0.0, f64::max);
            differs |= most > LEAST_RANGE;
            let seen: Vec<Seen> = seen.iter().map(|(strength, glow)| [*strength, glow.red, glow.side_px]).collect();
            for [strength, shown, side_px] in candidates(&seen, wanted) {
                let off = (shown - wanted) / (0.15 * wanted.abs() + 0.1 * LEAST_RANGE);
                let larger = (side_px / reference.side_px).ln() / 0.15;
                let cost = off * off + larger * larger;
                // a light is as large as it shows where that explains it as well
                if best.is_none_or(|best| cost < best.0 - CLEARLY) {
                    best = Some((cost, strength));
                }
            }
        }
        Ok(best.filter(|_| differs).map(|(_, strength)| strength))
    }
}

/// A strength, the glow that it shows, and the side of the light that it makes.
type Seen = [f64; 3];

/// The strengths that were tried, and those between two of them at which the glow is the wanted one.
fn candidates(seen: &[Seen], wanted: f64) -> Vec<Seen> {
    let between = |pair: &[Seen]| {
        let [a, b] = [pair[0], pair[1]];
        let crosses = (a[1] - wanted) * (b[1] - wanted) < 0.0;
        let t = (wanted - a[1]) / (b[1] - a[1]);
        crosses.then(|| std::array::from_fn(|k| a[k] + t * (b[k] - a[k])))
    };
    seen.windows(2).filter_map(between).chain(seen.iter().copied()).collect()
}

/// Lights of one side on several greys.
struct Field<'a> {
    film: &'a Lights<'a>,
    scaled: Scaled,
    side: u32,
}

impl<'a> Field<'a> {
    fn new(film: &'a Lights, side_px: f64) -> Self {
        let side = ((FIELD_UM / film.pitch_um).ceil() as u32 + side_px.ceil() as u32).max(24);
        let (width, height) = (GREYS as u32 * side, side);
        // of whole pixels, as large together
        let across = side_px.round().max(1.0);
        let down = (side_px * side_px / across).round().max(1.0);
        let inside = |v: u32, size: f64| {
            let from = (side - size as u32) / 2;
            (from..from + size as u32).contains(&(v % side))
        };
        let chart = Source::from_linear_srgb(width, height, |x, y| {
            let step = f64::from(x / side) / (GREYS - 1) as f64;
            [if inside(x, across) && inside(y, down) { 1.0 } else { decode_srgb(0.01 + 0.45 * step * step) }; 3]
        });
        let full = [width, height].map(|v| (f64::from(v) / film.enlarged.scale).round() as u32);
        let facts = Arc::new(Facts::of(&Arc::new(chart.clone())));
        let name = format!("lights of {side_px:.3} pixels");
        let mut scaled = Scaled::recalled(Arc::new(chart), full, facts, &name);
        scaled.film = film.enlarged.film;
        Self { film, scaled, side }
    }

    /// The glow round the light on whose surroundings the print is as dark as wanted.
    fn glow(&self, development: &Development, around: f64) -> Result<Option<LightGlow>, MatchError> {
        let region = self.scaled.source.region();
        let request = RenderRequest {
            scaled: &self.scaled,
            stock: self.film.stock,
            development,
            region,
            grain: GrainShown::Averaged,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let shown = self.film.renderer.display_16_bit(&request, Watch::NONE)?;
        let print = source_of_16_bit(region.width, region.height, &shown);
        let cut = |i: usize| {
            let rows = (0..self.side).flat_map(|y| print.row(y, i as u32 * self.side, self.side).to_vec());
            Source::new(self.side, self.side, rows.collect())
        };
        let mut glows: Vec<LightGlow> =
            (0..GREYS).filter_map(|i| LightGlow::of(&cut(i)?, self.film.pitch_um)).collect();
        glows.sort_by(|a, b| a.around.total_cmp(&b.around));
        let above = glows.partition_point(|glow| glow.around < around);
        let [below, above] = [glows.get(above.saturating_sub(1)), glows.get(above).or(glows.last())];
        let (Some(a), Some(b)) = (below, above) else { return Ok(None) };
        let t = ((around - a.around) / (b.around - a.around).max(1e-9)).clamp(0.0, 1.0);
        let mix = |of: fn(&LightGlow) -> f64| of(a) + t * (of(b) - of(a));
        Ok(Some(LightGlow {
            red: mix(|g| g.red),
            around: mix(|g| g.around),
            side_px: mix(|g| g.side_px),
            lights: glows.len(),
        }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::Catalogue;

    const PITCH_UM: f64 = 50.0;

    fn street() -> Source {
        Source::from_linear_srgb(720, 480, |x, y| {
            let lamp = x % 120 >= 57 && x % 120 < 61 && y % 120 >= 70 && y % 120 < 73;
            if lamp { [1.0, 0.98, 0.9] } else { [0.012 + 0.01 * f64::from(y) / 480.0, 0.013, 0.016] }
        })
    }

    #[test]
    fn lights_are_found_where_they_are_small_and_it_is_dark() {
        let glow = LightGlow::of(&street(), PITCH_UM).unwrap();
        assert!(glow.lights >= 20 && glow.red.abs() < 0.002, "{glow:?}");
        assert!((glow.side_px - 12f64.sqrt()).abs() < 0.1);
        let noon = Source::from_linear_srgb(300, 200, |x, _| [if x % 50 < 3 { 1.0 } else { 0.6 }; 3]);
        assert!(LightGlow::of(&noon, PITCH_UM).is_none());
        let none = Source::from_linear_srgb(300, 200, |_, _| [0.1; 3]);
        assert!(LightGlow::of(&none, PITCH_UM).is_none());
    }

    /// Prints with hidden strengths, of colour films and a slide; of silver nothing can be said.
    #[test]
    fn hidden_strengths_are_found() {
        let pool = Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap());
        let renderer = Renderer::new(pool, 0);
        for id in ["plover", "sirocco", "garnet"] {
            let stock = Catalogue::find(id).unwrap();
            let scaled = Scaled::full(Arc::new(street()), "street");
            let mut development = Development::new(&stock);
            for hidden in [0.0, 0.08, 0.3] {
                development.set(&stock, HALATION_STRENGTH.id, Value::Number(hidden)).unwrap();
                let request = RenderRequest::whole(&scaled, &stock, &development);
                let shown = renderer.display_8_bit(&request, Watch::NONE).unwrap();
                let print = Source::of_8_bit(720, 480, shown).unwrap();
                let read = LightGlow::of(&print, PITCH_UM).unwrap();
                let enlarged = Enlarged { film: [720, 480], scale: 1.0 };
                let lights = Lights { renderer: &renderer, stock: &stock, enlarged, pitch_um: PITCH_UM };
                let found = lights.strength(&Development::new(&stock), &read).unwrap().unwrap();
                println!("{id} {hidden}: {found}, {read:?}");
                assert!((found - hidden).abs() < 0.02 + 0.25 * hidden, "{id} {hidden}: {found}, {read:?}");
            }
        }
        let silver = Catalogue::find("juniper").unwrap();
        let enlarged = Enlarged { film: [720, 480], scale: 1.0 };
        let lights = Lights { renderer: &renderer, stock: &silver, enlarged, pitch_um: PITCH_UM };
        let glow = LightGlow::of(&street(), PITCH_UM).unwrap();
        assert_eq!(lights.strength(&Development::new(&silver), &glow).unwrap(), None);
    }
}
