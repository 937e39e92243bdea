//! A chart of even greys on a film and a print, and the noise that the grain makes of it.

use std::sync::Arc;

use amber_core::colour::transfer::decode_srgb;
use amber_core::controls::Kind;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Development, Region, Source, Stock, stations};

use super::GrainMeasure;
use crate::error::MatchError;
use crate::numeric::source_of_16_bit;

/// Side of a grey in pixels; greys across and down.
const SIDE: u32 = 112;
const ACROSS: u32 = 4;
const DOWN: u32 = 3;
/// Stations whose values act on a grey that stands alone.
const STATIONS: [&str; 5] = ["film.", "bath.", "print.", "tone.", "years."];
/// What depends on the place or is no grain.
const OFF: [&str; 7] =
    ["film.halation", "bath.uneven", "years.sun", "years.mirroring", "years.foxing", "years.water", "surface"];

/// The size of a picture on the film.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Enlarged {
    /// Pixels of what fills the film's gate, at full size.
    pub film: [u32; 2],
    /// Pixels of the print for one of the full size, at most 1.
    pub scale: f64,
}

/// Greys that lie on a film as a picture does.
pub struct Strips<'a> {
    renderer: &'a Renderer,
    stock: Stock,
    scaled: Scaled,
}

impl<'a> Strips<'a> {
    /// Greys on a stock, as large on the film as the picture for which they stand.
    pub fn new(renderer: &'a Renderer, stock: &Stock, enlarged: Enlarged) -> Self {
        let (width, height) = (ACROSS * SIDE, DOWN * SIDE);
        let last = f64::from(ACROSS * DOWN - 1);
        let chart = Source::from_linear_srgb(width, height, |x, y| {
            let step = y / SIDE * ACROSS + x / SIDE;
            [decode_srgb(0.03 + 0.94 * f64::from(step) / last); 3]
        });
        let full = [width, height].map(|v| (f64::from(v) / enlarged.scale).round() as u32);
        let facts = Arc::new(amber_core::measure::Facts::of(&Arc::new(chart.clone())));
        let mut scaled = Scaled::recalled(Arc::new(chart), full, facts, "greys for grain");
        scaled.film = enlarged.film;
        let mut stock = stock.clone();
        stock.mottle = None;
        Self { renderer, stock, scaled }
    }

    /// What of a development acts on greys.
    pub fn of_greys(development: &Development) -> Development {
        let mut greys = development.clone();
        let acts = |id: &str| STATIONS.iter().any(|s| id.starts_with(s));
        let is_place = |id: &str| stations::find(id).is_ok_and(|c| c.kind == Kind::Mask);
        greys.values.retain(|id, _| acts(id) && !is_place(id));
        greys.masks.clear();
        greys.off.extend(OFF.map(str::to_owned));
        greys
    }

    /// The noise of the print of every grey, where it is neither black nor white.
    pub fn measured(&self, development: &Development) -> Result<GrainMeasure, MatchError> {
        let region = self.scaled.source.region();
        let request = RenderRequest {
            scaled: &self.scaled,
            stock: &self.stock,
            development,
            region,
            grain: GrainShown::Full,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let shown = self.renderer.display_16_bit(&request, Watch::NONE)?;
        let print = source_of_16_bit(region.width, region.height, &shown);
        let patches: Vec<Region> =
            (0..ACROSS * DOWN).map(|i| Region::new(i % ACROSS * SIDE, i / ACROSS * SIDE, SIDE, SIDE)).collect();
        Ok(GrainMeasure::of_even(&print, &patches))
    }
}
