//! What a development makes of every colour, wherever it stands in a picture, as a table; and a table as a stock.
//!
//! A table of colours cannot carry what depends on the place: grain, halation, the lens, masks, zones placed by their
//! surroundings, sheets, mounts. Those are at rest while it is made, and named in it.

mod base;

use std::sync::Arc;

pub use crate::colour::look::{HALD_LEVELS, SIZES};
use crate::colour::look::{Look, check_size};
use crate::controls::{Kind, mask_asked};
use crate::development::Development;
use crate::error::CoreError;
use crate::picture::Source;
use crate::picture::source::code_of_encoded;
use crate::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use crate::stations;
use crate::stock::Stock;

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
        Ok(Self::of_colours(size, colours)?.without(left_out))
    }
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
            for (i, colour) in coarse.colours().iter().enumerate() {
                let i = i as u32;
                let [r, g, b] = [i % 5, i / 5 % 5, i / 25].map(|v| 2 * v);
                let there = fine.colours()[(r + 9 * (g + 9 * b)) as usize];
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
}
