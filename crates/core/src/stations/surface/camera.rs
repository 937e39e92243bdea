//! Sheets in the camera: light that exposes the film, and shadows of what lay before it.

use super::matter::{Matter, Neutral, Stuff, of_layer, passing, through};
use super::sheet::{Sheet, Sheets, key_of};
use crate::colour::transfer::decode_srgb_f32;
use crate::effect::FilmFrame;
use crate::key::Key;
use crate::picture::buffer::LayerExposure;
use crate::picture::{Picture, Region};
use crate::stock::{Stock, StockKind};

/// Exposure of mid grey in every layer.
const MID_GREY: f32 = 0.18;
/// Light of half grey: what a relief leaves as it is.
const HALF_GREY: f32 = 0.214_041;
/// What reaches the layers of a colour film through its base, the one nearest to the base first: red, green and, behind
/// the yellow filter, blue.
const THROUGH_BASE: [f32; 3] = [1.0, 0.24, 0.035];
/// The same where light comes in at the side of a pack: integral film has no base that it would pass.
const FROM_THE_SIDE: [f32; 3] = [1.0, 0.62, 0.34];

/// Prepared for a stock.
#[derive(Debug)]
pub struct InCamera {
    sheets: Sheets,
    weights: [f32; 3],
}

impl InCamera {
    /// `None` where there is none.
    pub fn new(sheets: Sheets, stock: &Stock) -> Option<Self> {
        let weights = match stock.kind {
            StockKind::Instant => FROM_THE_SIDE,
            // a plate of colour grains is exposed through them: what comes from behind does not pass them
            StockKind::ScreenPlate => [1.0; 3],
            _ => THROUGH_BASE,
        };
        (!sheets.is_empty()).then_some(Self { sheets, weights })
    }

    /// Names all that it depends on.
    pub fn key(&self) -> Key {
        crate::key::key(&[&key_of(&self.sheets), &self.weights])
    }

    /// Adds them to a region's exposure.
    pub fn expose(&self, frame: &FilmFrame, exposure: &mut Picture<LayerExposure>) {
        let region = exposure.region;
        for sheet in &self.sheets {
            let (matter, share) = (sheet.matter(frame, region), sheet.share(frame, region));
            self.add(sheet, matter, &share, region, exposure);
        }
    }

    fn add(&self, sheet: &Sheet, matter: Matter, share: &[f32], region: Region, exposure: &mut Picture<LayerExposure>) {
        let layers = exposure.plane_count();
        match matter.stuff {
            Stuff::Nothing => {}
            Stuff::Light(light) => {
                let bright = MID_GREY * sheet.adjust.of_light();
                let weights = sheet.adjust.of_tint(self.weights);
                for layer in 0..layers {
                    // a single layer takes up all of it
                    let weight = bright * if layers == 1 { 1.0 } else { weights[layer] };
                    let plane = exposure.plane_mut(layer).iter_mut();
                    plane.zip(&light).zip(share).for_each(|((e, l), s)| *e += weight * l * s);
                }
            }
            Stuff::Veil { density, tint } => {
                let (tint, thick) = (sheet.adjust.of_tint(tint), sheet.adjust.of_density());
                for layer in 0..layers {
                    let tint = thick * of_layer(tint, layer, layers);
                    let plane = exposure.plane_mut(layer).iter_mut();
                    plane.zip(&density).zip(share).for_each(|((e, d), s)| *e *= through(d * s, tint));
                }
            }
            Stuff::Thing { share: thing, .. } => {
                let thick = sheet.adjust.of_density();
                for layer in 0..layers {
                    let plane = exposure.plane_mut(layer).iter_mut();
                    plane.zip(&thing).zip(share).for_each(|((e, t), s)| *e *= passing(thick * t * s));
                }
            }
            Stuff::Paint { rgb, cover, neutral } => {
                for i in 0..region.pixels() {
                    let colour = rgb.at(i);
                    let covers = cover[i] * share[i] * sheet.drop.stays(colour);
                    if covers <= 0.0 {
                        continue;
                    }
                    let light = sheet.adjust.of(colour).map(decode_srgb_f32);
                    for layer in 0..layers {
                        let e = &mut exposure.plane_mut(layer)[i];
                        match neutral {
                            // the film was exposed a second time
                            Neutral::White => *e += covers * of_layer(light, layer, layers),
                            Neutral::Grey => *e *= 1.0 + covers * (of_layer(light, layer, layers) / HALF_GREY - 1.0),
                        }
                    }
                }
            }
        }
    }
}
