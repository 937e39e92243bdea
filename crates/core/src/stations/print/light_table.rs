//! A negative on the light table: its dyes and mask, or its silver, before white light.

use super::colour_print::{SKIPPED_SILVER, amounts_of, paper_layers};
use super::dye_tracking::DyeTracking;
use super::film_dyes::{FilmDyes, film_dyes};
use super::viewing::{DyeStack, Viewer};
use crate::colour::spectrum::TABLES;
use crate::numeric::log_exp::transmittance;
use crate::stations::film::FilmResponse;
use crate::stock::material::print_material;

/// Whose layers measure the dyes of a film that names no paper.
const OWN_PAPER: &str = "gloss-paper";

/// The film itself, looked through in D50.
#[derive(Debug, Clone)]
pub struct LightTable {
    /// `None` of silver, which is neutral.
    dyes: Option<Dyes>,
}

/// Dyes over a base and what is left of the mask.
#[derive(Debug, Clone)]
struct Dyes {
    stack: DyeStack,
    amounts: DyeTracking,
    /// Density of the silver that a skipped bleach left, for each of the mean density above fog.
    silver: f32,
    fog: [f32; 3],
}

impl LightTable {
    /// A developed film; `None` where its dyes or the paper that measures them are not there.
    pub fn new(film: &FilmResponse) -> Option<Self> {
        if film.layers() == 1 {
            return Some(Self { dyes: None });
        }
        let FilmDyes { dyes, base, .. } = film_dyes(&film.stock)?;
        let paper = film.stock.print.as_deref().and_then(print_material).or_else(|| print_material(OWN_PAPER))?;
        let dyes = Dyes {
            amounts: amounts_of(&base, &dyes, &paper_layers(paper)),
            stack: DyeStack::viewed(&base, &dyes, &Viewer::under(&TABLES.d50)),
            silver: (SKIPPED_SILVER * film.stock.skip_bleach) as f32,
            fog: std::array::from_fn(|i| film.curves[i].shape.dmin as f32),
        };
        Some(Self { dyes: Some(dyes) })
    }

    /// Linear sRGB, unbounded, of densities of the layers; the bare table is white.
    pub fn linear_srgb(&self, densities: [f32; 3]) -> [f32; 3] {
        let Some(Dyes { stack, amounts, silver, fog }) = &self.dyes else { return [transmittance(densities[0]); 3] };
        let above: f32 = (0..3).map(|i| densities[i] - fog[i]).sum();
        let left = transmittance(silver * above / 3.0);
        stack.integrate(amounts.amounts(densities)).map(|light| light * left)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    /// A colour negative is orange where it is clear, its darks are the scene's lights; silver is neutral.
    #[test]
    fn a_negative_has_its_mask_and_is_darker_where_the_scene_was_lighter() {
        let film = FilmResponse::own(&Catalogue::first());
        let table = LightTable::new(&film).unwrap();
        let of = |log_exposure: f64| {
            table.linear_srgb(std::array::from_fn(|i| film.curves[i].density(film.grey + log_exposure) as f32))
        };
        let clear = of(-4.0);
        assert!(clear[0] > 1.3 * clear[1] && clear[1] > 1.3 * clear[2] && clear[0] < 1.0, "orange: {clear:?}");
        let (dark, light) = (of(-1.0), of(1.0));
        assert!((0..3).all(|k| light[k] < 0.5 * dark[k]), "{dark:?} {light:?}");
        let silver = LightTable::new(&FilmResponse::own(&Catalogue::find("juniper").unwrap())).unwrap();
        let [r, g, b] = silver.linear_srgb([1.0; 3]);
        assert!((r - 0.1).abs() < 1e-6 && r == g && g == b);
    }
}
