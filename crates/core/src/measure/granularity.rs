//! RMS granularity, as a microdensitometer reads it (ISO 10505).

use crate::picture::Picture;
use crate::picture::buffer::LayerDensity;

/// Diameter of the standard's aperture in um.
pub const APERTURE_UM: f64 = 48.0;

/// 1000 times the standard deviation of density read through a circular aperture, over all places of a plane.
///
/// The aperture averages transmittance over the pixels whose centres it covers with partial weight at its rim.
pub fn rms_granularity(density: &Picture<LayerDensity>, layer: usize, pitch_um: f64, aperture_um: f64) -> f64 {
    1000.0 * aperture_sigma(density.plane(layer), density.region.width as usize, &disc(aperture_um, pitch_um))
}

/// Weights of a disc on the pixel lattice: offsets and covered share, from 8 x 8 points a pixel.
fn disc(diameter_um: f64, pitch_um: f64) -> Vec<(i64, i64, f64)> {
    let radius = 0.5 * diameter_um / pitch_um;
    let reach = radius.ceil() as i64;
    let mut weights = Vec::new();
    for y in -reach..=reach {
        for x in -reach..=reach {
            let inside = (0..64).filter(|k| {
                let (u, v) = ((k % 8) as f64 / 8.0 - 0.4375, (k / 8) as f64 / 8.0 - 0.4375);
                (x as f64 + u).hypot(y as f64 + v) <= radius
            });
            let share = inside.count() as f64 / 64.0;
            if share > 0.0 {
                weights.push((x, y, share));
            }
        }
    }
    weights
}

/// Square of `side` pixels, for Selwyn's law.
pub fn square(side: i64) -> Vec<(i64, i64, f64)> {
    (0..side).flat_map(|y| (0..side).map(move |x| (x, y, 1.0))).collect()
}

/// Standard deviation of the density read through an aperture, stepped by half its width.
pub fn aperture_sigma(plane: &[f32], width: usize, aperture: &[(i64, i64, f64)]) -> f64 {
    let height = plane.len() / width;
    let total: f64 = aperture.iter().map(|a| a.2).sum();
    let reach = aperture.iter().map(|a| a.0.abs().max(a.1.abs())).max().unwrap_or(0) as usize;
    let step = reach.max(1);
    let transmittance: Vec<f64> = plane.iter().map(|d| 10f64.powf(-*d as f64)).collect();
    let mut readings = Vec::new();
    for y in (reach..height - reach).step_by(step) {
        for x in (reach..width - reach).step_by(step) {
            let mean: f64 = aperture
                .iter()
                .map(|(dx, dy, w)| w * transmittance[(y as i64 + dy) as usize * width + (x as i64 + dx) as usize])
                .sum::<f64>()
                / total;
            readings.push(-mean.log10());
        }
    }
    let count = readings.len() as f64;
    let mean = readings.iter().sum::<f64>() / count;
    (readings.iter().map(|d| (d - mean).powi(2)).sum::<f64>() / count).sqrt()
}
