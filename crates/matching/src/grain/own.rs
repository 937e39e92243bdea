//! The noise that a print has before any grain: the camera's own.

use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Development, Region, Source, Stock};

use super::{GrainMeasure, LEAST_PATCH};
use crate::error::MatchError;
use crate::numeric::source_of_16_bit;

/// Side of the places that are looked at, and how many lie across and down.
const SIDE: u32 = 160;
const PLACES: u32 = 3;

/// Places all over a picture, enough to tell its noise.
fn places(width: u32, height: u32) -> Vec<Region> {
    let [w, h] = [width.min(SIDE), height.min(SIDE)];
    let at = |i: u32, length: u32, side: u32| (length - side) * (2 * i + 1) / (2 * PLACES);
    let place = |i: u32| Region::new(at(i % PLACES, width, w), at(i / PLACES, height, h), w, h);
    (0..PLACES * PLACES).map(place).collect()
}

/// The noise of the print of a picture with its grain off; `None` where too little of it can be measured. `patch` is
/// where to look, all over the picture where it is absent.
pub fn own_noise(
    renderer: &Renderer,
    scaled: &Scaled,
    stock: &Stock,
    development: &Development,
    patch: Option<Region>,
    watch: Watch,
) -> Result<Option<GrainMeasure>, MatchError> {
    let whole = scaled.source.region();
    if whole.width < LEAST_PATCH || whole.height < LEAST_PATCH {
        return Ok(None);
    }
    let regions = patch.map_or_else(|| places(whole.width, whole.height), |patch| vec![patch]);
    let shown = |region: Region| -> Result<Source, MatchError> {
        let request = RenderRequest {
            scaled,
            stock,
            development,
            region,
            grain: GrainShown::Off,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let shown = renderer.display_16_bit(&request, watch)?;
        Ok(source_of_16_bit(region.width, region.height, &shown))
    };
    let shown: Vec<Source> = regions.into_iter().map(shown).collect::<Result<_, _>>()?;
    Ok(GrainMeasure::of_several(&shown).ok())
}
