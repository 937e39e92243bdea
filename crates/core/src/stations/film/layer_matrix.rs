//! What each layer sees: the spectral exposure matrix.
//!
//! A linear RGB pixel stands for the reflectance spectrum sum of its three basis spectra (Mallett and Yuksel 2019);
//! lit by the scene's light and weighted with a layer's spectral sensitivity it gives that layer's exposure. Because
//! all of this is linear it folds into one row of three numbers per layer.

use crate::colour::Spectrum;
use crate::colour::illuminant::balance_light;
use crate::colour::spectrum::TABLES;
use crate::stations::lens::LensFilter;
use crate::stock::Stock;

/// Rows of the matrix from linear sRGB scene light to relative layer exposure: three rows, or one.
///
/// With the film's own light each row sums to 1, so a neutral exposes all layers alike; a scene light other than the
/// balance, or a filter in front of the lens, gives a cast but, metered through the lens, no overall change.
pub fn layer_matrix(stock: &Stock, filter: &LensFilter) -> Vec<[f64; 3]> {
    let reference = balance_light(stock.balance_kelvin);
    let light = match stock.scene_kelvin {
        None => reference,
        Some(kelvin) => {
            let other = balance_light(kelvin);
            let luminance = |s: &Spectrum| s.dot(&TABLES.observer[1]);
            other * (luminance(&reference) / luminance(&other))
        }
    };
    let light = light.times(&filter.transmittance());
    let mut rows: Vec<[f64; 3]> = sensitivities(stock)
        .iter()
        .map(|sensitivity| {
            let normal = reference.dot(sensitivity);
            let seen = light.times(sensitivity);
            TABLES.uplift.each_ref().map(|basis| seen.dot(basis) / normal)
        })
        .collect();
    let sums: Vec<f64> = rows.iter().map(|r| r.iter().sum()).collect();
    let metered = (sums.iter().map(|s: &f64| s.ln()).sum::<f64>() / sums.len() as f64).exp();
    rows.iter_mut().flatten().for_each(|v| *v /= metered);
    if stock.look.is_some() {
        // light as it is, layer by layer; a filter's cast stays
        let sums: Vec<f64> = rows.iter().map(|r| r.iter().sum()).collect();
        return sums
            .iter()
            .enumerate()
            .map(|(k, sum)| std::array::from_fn(|i| if i == k { *sum } else { 0.0 }))
            .collect();
    }
    rows
}

/// Spectral sensitivity of each layer; on a screen plate one emulsion sees through three filters.
fn sensitivities(stock: &Stock) -> Vec<Spectrum> {
    match &stock.screen {
        Some(screen) => {
            let emulsion = Spectrum::peaks(&screen.pan);
            screen.filters.iter().map(|f| f.spectrum().times(&emulsion)).collect()
        }
        None => stock.sensitivity.iter().map(|peaks| Spectrum::peaks(peaks)).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    #[test]
    fn neutral_exposes_all_layers_alike() {
        // in another light than its own a film has a cast
        for stock in Catalogue::all().iter().filter(|s| s.scene_kelvin.is_none()) {
            for row in layer_matrix(stock, &LensFilter::none()) {
                assert!((row.iter().sum::<f64>() - 1.0).abs() < 1e-9, "{}", stock.id);
            }
        }
    }
}
