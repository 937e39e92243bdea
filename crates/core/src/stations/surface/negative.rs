//! Sheets on the developed film: they stop the light by which it is printed or looked at, and where the emulsion is
//! gone the film is clear.

use super::matter::{Matter, Neutral, Stuff, of_layer, passing};
use super::sheet::{Sheet, Sheets, key_of};
use crate::colour::transfer::decode_srgb_f32;
use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::numeric::log_exp::log10;
use crate::numeric::runs::RUN;
use crate::picture::buffer::LayerDensity;
use crate::picture::{Picture, Region};
use crate::stations::film::FilmResponse;

/// Density that a tenfold exposure adds where a leak lies on film that was developed already: fog.
const FOG: f32 = 0.7;
/// What lets less through than this counts as this.
const DARKEST: f32 = 1e-3;
/// Density of half grey.
const HALF_GREY: f32 = 0.669_503;

/// Prepared for a film.
#[derive(Debug)]
pub struct OnNegative {
    sheets: Sheets,
    /// Density of each layer where nothing is left of the picture.
    base: Vec<f32>,
    /// Light makes a slide thinner.
    reversal: bool,
}

impl OnNegative {
    /// `None` where there is none.
    pub fn new(sheets: Sheets, film: &FilmResponse) -> Option<Self> {
        (!sheets.is_empty()).then(|| Self {
            sheets,
            base: film.curves.iter().map(|curve| curve.shape.dmin as f32).collect(),
            reversal: film.curves[0].reversal,
        })
    }

    fn lay(&self, sheet: &Sheet, matter: Matter, share: &[f32], density: &mut Picture<LayerDensity>) {
        let layers = density.plane_count();
        let thick = sheet.adjust.of_density();
        for layer in 0..layers {
            let plane = density.plane_mut(layer);
            if let Some(bare) = &matter.bare {
                let (base, deep) = (self.base[layer], of_layer(bare.layers, layer, layers));
                let gone = plane.iter_mut().zip(&bare.share).zip(share);
                gone.for_each(|((d, b), s)| *d += (b * deep * s).min(1.0) * (base - *d));
            }
            match &matter.stuff {
                Stuff::Nothing => {}
                Stuff::Light(light) => {
                    let fog = if self.reversal { -FOG } else { FOG };
                    let bright = sheet.adjust.of_light();
                    let lit = plane.iter_mut().zip(light).zip(share);
                    lit.for_each(|((d, l), s)| *d = (*d + fog * log10(1.0 + bright * l * s)).max(0.0));
                }
                Stuff::Veil { density, tint } => {
                    let tint = thick * of_layer(sheet.adjust.of_tint(*tint), layer, layers);
                    let veiled = plane.iter_mut().zip(density).zip(share);
                    veiled.for_each(|((d, v), s)| *d = (*d + v * s * tint).max(0.0));
                }
                Stuff::Thing { share: thing, .. } => {
                    for ((d, t), s) in plane.chunks_mut(RUN).zip(thing.chunks(RUN)).zip(share.chunks(RUN)) {
                        // most of a frame has no mark on it
                        if t.iter().any(|t| *t > 0.0) {
                            let covered = d.iter_mut().zip(t).zip(s);
                            covered.for_each(|((d, t), s)| *d -= log10(passing(thick * t * s)));
                        }
                    }
                }
                Stuff::Paint { rgb, cover, neutral } => {
                    let flat = if *neutral == Neutral::Grey { HALF_GREY } else { 0.0 };
                    for (i, d) in plane.iter_mut().enumerate() {
                        let colour = rgb.at(i);
                        let covers = cover[i] * share[i] * sheet.drop.stays(colour);
                        if covers > 0.0 {
                            let stops = sheet.adjust.of(colour).map(|v| -log10(decode_srgb_f32(v).max(DARKEST)));
                            *d = (*d + covers * (of_layer(stops, layer, layers) - flat)).max(0.0);
                        }
                    }
                }
            }
        }
    }
}

impl Effect<LayerDensity> for OnNegative {
    fn key(&self) -> Key {
        key(&[&"on the negative", &key_of(&self.sheets), &self.base, &self.reversal])
    }

    fn apply(&self, frame: &FilmFrame, mut density: Picture<LayerDensity>, part: Region) -> Picture<LayerDensity> {
        for sheet in &self.sheets {
            let (matter, share) = (sheet.matter(frame, part), sheet.share(frame, part));
            self.lay(sheet, matter, &share, &mut density);
        }
        density
    }
}
