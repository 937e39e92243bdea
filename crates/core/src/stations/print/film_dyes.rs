//! The dyes of a film as they lie in its base.

use crate::colour::Spectrum;
use crate::stock::Stock;
use crate::stock::material::dye_set;

/// Spectral densities of a film's dyes, base and mask.
#[derive(Debug, Clone)]
pub struct FilmDyes {
    /// Each dye at unit amount, its unwanted absorptions as far as no coupler makes up for them.
    pub dyes: [Spectrum; 3],
    /// Base and mask.
    pub base: Spectrum,
    /// The mask alone: coupler colour falls exactly as dye forms, so the unwanted absorption becomes constant.
    pub mask: Spectrum,
}

/// `None` where the stock names no dyes.
pub fn film_dyes(stock: &Stock) -> Option<FilmDyes> {
    let set = dye_set(stock.dyes.as_deref()?)?;
    let mask =
        set.iter().zip(stock.cref).fold(Spectrum::ZERO, |sum, (dye, amount)| sum + dye.side() * (stock.mask * amount));
    // in a slide's bath the couplers keep their colour where dye forms: the mask lies over everything
    let corrected = if stock.kind.is_reversal() { 0.0 } else { stock.mask };
    Some(FilmDyes {
        dyes: set.each_ref().map(|dye| dye.main() + dye.side() * (1.0 - corrected)),
        base: Spectrum::peaks(&stock.base) + Spectrum::ONE * stock.base_flat + mask,
        mask,
    })
}
