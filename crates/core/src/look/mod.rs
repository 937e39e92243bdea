//! A look as a table: what a development makes of every colour, wherever it stands in a picture.
//!
//! A table of colours cannot carry what depends on the place: grain, halation, the lens, masks, zones placed by their
//! surroundings, sheets, mounts. Those are at rest while it is made, and named in it.

mod base;
mod file;
mod packed;

use std::fmt::{Debug, Formatter};
use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::controls::{Kind, mask_asked};
use crate::development::Development;
use crate::error::CoreError;
use crate::picture::Source;
use crate::picture::source::code_of_encoded;
use crate::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use crate::stations;
use crate::stock::Stock;

pub use file::HALD_LEVELS;

/// Sizes that are made: colours of each channel.
pub const SIZES: [u32; 3] = [17, 33, 65];
/// Bounds of a table's size.
const BOUNDS: std::ops::RangeInclusive<u32> = 2..=129;

/// Lamps that are off while a table is made: what they light depends on the place.
const BY_PLACE: [&str; 23] = [
    "scene.local",
    "scene.zone",
    "scene.air",
    "scene.detail",
    "scene.noise",
    "lens.shake",
    "lens.fringes",
    "lens.softness",
    "lens.falloff",
    "lens.bloom",
    "lens.flash",
    "lens.veil",
    "film.halation",
    "film.grain",
    "bath.uneven",
    "print.acutance",
    "tone.coating",
    "years.sun",
    "years.mirroring",
    "years.foxing",
    "years.water",
    "surface",
    "surface.mount",
];
/// Controls that frame the picture: a table has no frame.
const FRAMING: [&str; 5] = ["lens.format", "lens.turn", "lens.mirror", "lens.distortion", "lens.crop."];

/// Encoded sRGB for a lattice of encoded sRGB, red running fastest. As a part of a stock it is kept in 16 bits.
#[derive(Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(try_from = "packed::Packed", into = "packed::Packed")]
#[schemars(with = "packed::Packed")]
pub struct Look {
    /// Colours of each channel.
    size: u32,
    colours: Arc<[[f32; 3]]>,
    /// Labels of what was tuned and is not in it.
    left_out: Vec<String>,
    /// Names its colours.
    hash: [u8; 16],
}

/// Its colours by name: what depends on a stock is named by how it is written.
impl Debug for Look {
    fn fmt(&self, f: &mut Formatter) -> std::fmt::Result {
        write!(f, "Look {} {:?}", self.size, self.hash)
    }
}

/// A development without what depends on the place, and what was tuned of that.
fn of_colour(development: &Development, stock: &Stock) -> (Development, Vec<String>) {
    let mut of_colour = development.clone();
    let mut left_out: Vec<String> = Vec::new();
    let mut leave = |label: String| {
        if !left_out.contains(&label) {
            left_out.push(label);
        }
    };
    of_colour.values.retain(|id, value| {
        let Ok(control) = stations::find(id) else { return false };
        let is_framing = FRAMING.iter().any(|of| id.starts_with(of)) || id == "lens.straighten";
        let is_mask = control.kind == Kind::Mask && value.choice().and_then(mask_asked).is_some();
        if is_mask {
            leave(control.full_label());
        }
        !is_framing && !is_mask
    });
    for lamp in BY_PLACE {
        let below = format!("{lamp}.");
        let is_of_it = |id: &String| id.starts_with(&below) || id.as_str() == lamp;
        if development.values.keys().any(is_of_it) {
            leave(stations::switching::lamp_label(lamp));
        }
        of_colour.off.insert(lamp.into());
    }
    of_colour.masks.clear();
    of_colour.keep_sparse(stock);
    for lamp in BY_PLACE {
        of_colour.off.insert(lamp.into());
    }
    for lamp in ["film.grain", "film.halation"] {
        leave(stations::switching::lamp_label(lamp));
    }
    (of_colour, left_out)
}

impl Look {
    /// What a development makes of every colour.
    pub fn of(development: &Development, stock: &Stock, size: u32, renderer: &Renderer) -> Result<Self, CoreError> {
        check_size(size)?;
        let (development, mut left_out) = of_colour(development, stock);
        // what the stock itself puts here and there
        let even = Stock { mottle: None, ..stock.clone() };
        if stock.mottle.is_some() {
            left_out.push("Mottle".into());
        }
        let stock = &even;
        let level = |i: u32| f64::from(i) / f64::from(size - 1);
        let codes = (0..size.pow(3)).flat_map(|i| [i % size, i / size % size, i / size / size].map(level));
        let codes = codes.map(code_of_encoded).collect();
        let lattice = Source::new(size, size * size, codes).ok_or(CoreError::Look { why: "it is empty".into() })?;
        let name = format!("look {size}");
        let scaled = renderer.pool().install(|| {
            let full = Scaled::full(Arc::new(lattice), &name);
            full.for_development(&development, stock, &|| false)
        })?;
        let request = RenderRequest {
            scaled: &scaled,
            stock,
            development: &development,
            region: scaled.source.region(),
            grain: GrainShown::Off,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let shown = renderer.display_16_bit(&request, Watch::NONE)?;
        let colours = shown.chunks_exact(3).map(|p| [p[0], p[1], p[2]].map(|v| f32::from(v) / 65535.0)).collect();
        Ok(Self { left_out, ..Self::of_colours(size, colours)? })
    }

    /// Of the lattice's colours, red running fastest.
    fn of_colours(size: u32, colours: Vec<[f32; 3]>) -> Result<Self, CoreError> {
        check_size(size)?;
        if colours.len() != size.pow(3) as usize {
            let why = format!("it has {} colours where {size}^3 are needed", colours.len());
            return Err(CoreError::Look { why });
        }
        let colours: Arc<[[f32; 3]]> = colours.into_iter().map(|colour| colour.map(|v| v.clamp(0.0, 1.0))).collect();
        let mut hasher = blake3::Hasher::new();
        for v in colours.iter().flatten() {
            hasher.update(&v.to_le_bytes());
        }
        let mut hash = [0; 16];
        hash.copy_from_slice(&hasher.finalize().as_bytes()[..16]);
        Ok(Self { size, colours, left_out: Vec::new(), hash })
    }

    /// The same with no more than so many colours of each channel.
    pub fn at_most(&self, size: u32) -> Self {
        if self.size <= size {
            return self.clone();
        }
        let level = |i: u32| i as f32 / (size - 1) as f32;
        let colour = |i: u32| self.apply([i % size, i / size % size, i / size / size].map(level));
        Self::of_colours(size, (0..size.pow(3)).map(colour).collect()).unwrap_or_else(|_| self.clone())
    }

    /// Colours of each channel.
    pub fn size(&self) -> u32 {
        self.size
    }

    /// Labels of what was tuned, or the stock does by itself, and is not in it.
    pub fn left_out(&self) -> &[String] {
        &self.left_out
    }

    /// A colour of encoded sRGB as the look has it: between the lattice's colours by tetrahedra, along which neutrals
    /// stay neutral.
    pub fn apply(&self, colour: [f32; 3]) -> [f32; 3] {
        let last = (self.size - 1) as f32;
        let place = colour.map(|v| v.clamp(0.0, 1.0) * last);
        let base = place.map(|v| (v as u32).min(self.size - 2));
        let rest: [f32; 3] = std::array::from_fn(|k| place[k] - base[k] as f32);
        let at = |steps: [u32; 3]| {
            let [r, g, b]: [u32; 3] = std::array::from_fn(|k| base[k] + steps[k]);
            self.colours[(r + self.size * (g + self.size * b)) as usize]
        };
        // channels by their rest, the largest first: each tetrahedron's way from the dark corner to the light one
        let mut order = [0, 1, 2];
        order.sort_by(|a: &usize, b: &usize| rest[*b].total_cmp(&rest[*a]));
        let mut steps = [0; 3];
        let mut out = at(steps).map(|v| v * (1.0 - rest[order[0]]));
        for (n, k) in order.into_iter().enumerate() {
            steps[k] = 1;
            let next = order.get(n + 1).map_or(0.0, |next| rest[*next]);
            let corner = at(steps);
            (0..3).for_each(|c| out[c] += corner[c] * (rest[k] - next));
        }
        out
    }
}

fn check_size(size: u32) -> Result<(), CoreError> {
    if BOUNDS.contains(&size) {
        return Ok(());
    }
    Err(CoreError::Look {
        why: format!("it has {size} colours a channel; from {} to {}", BOUNDS.start(), BOUNDS.end()),
    })
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::stock::Catalogue;
    use crate::value::Value;

    fn renderer() -> Renderer {
        Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap()), 0)
    }

    /// A colour stands beside others in the lattice than in a picture; a table that is one of colour alone does not
    /// care: every colour of a coarse lattice is met again in a fine one.
    #[test]
    fn no_stock_puts_anything_of_the_place_into_its_table() {
        let renderer = renderer();
        for stock in Catalogue::all() {
            let development = Development::new(stock);
            let [coarse, fine] = [5, 9].map(|size| Look::of(&development, stock, size, &renderer).unwrap());
            for (i, colour) in coarse.colours.iter().enumerate() {
                let i = i as u32;
                let [r, g, b] = [i % 5, i / 5 % 5, i / 25].map(|v| 2 * v);
                let there = fine.colours[(r + 9 * (g + 9 * b)) as usize];
                for (a, b) in colour.iter().zip(there) {
                    assert!((a - b).abs() < 0.004, "{} {colour:?} {there:?}", stock.id);
                }
            }
        }
    }

    #[test]
    fn what_is_tuned_of_the_place_is_told() {
        let stock = Catalogue::first();
        let mut development = Development::new(&stock);
        development.set(&stock, "lens.falloff.stops", Value::Number(-1.0)).unwrap();
        development.set(&stock, "scene.exposure", Value::Number(1.0)).unwrap();
        let brighter = Look::of(&development, &stock, 9, &renderer()).unwrap();
        let plain = Look::of(&Development::new(&stock), &stock, 9, &renderer()).unwrap();
        assert!(brighter.left_out().iter().any(|label| label.contains("alloff")), "{:?}", brighter.left_out());
        let grey = |look: &Look| look.apply([0.4; 3])[1];
        assert!(grey(&brighter) > grey(&plain) + 0.1);
        assert!(Look::of(&development, &stock, 1, &renderer()).is_err());
    }

    #[test]
    fn between_its_colours_it_is_linear_and_neutral() {
        let colours = |r: f32, g: f32, b: f32| [0.8 * r + 0.1 * g, g, b * b];
        let level = |i: u32| i as f32 / 8.0;
        let all: Vec<[f32; 3]> =
            (0..9u32.pow(3)).map(|i| colours(level(i % 9), level(i / 9 % 9), level(i / 81))).collect();
        let look = Look::of_colours(9, all).unwrap();
        for colour in [[0.0; 3], [1.0; 3], [0.31, 0.77, 0.125], [0.9, 0.1, 0.5]] {
            let wanted = colours(colour[0], colour[1], colour[2]);
            let got = look.apply(colour);
            assert!((got[0] - wanted[0]).abs() < 1e-6 && (got[1] - wanted[1]).abs() < 1e-6, "{got:?} {wanted:?}");
            assert!((got[2] - wanted[2]).abs() < 0.005);
        }
    }
}
