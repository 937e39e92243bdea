//! Densities of a step wedge from a scan of the film, by the densities of a few of its steps that were measured.
//!
//! A scanner's numbers are not densities: its light, its flare and its curve lie between. What a density reads in the
//! scan is known where it was measured; between the measured steps the scan's own logarithm of light is laid to them
//! by a monotone cubic (Fritsch and Carlson 1980), beyond them by a straight line.

use amber_core::Source;
use amber_core::numeric::MonotoneCubic;

use super::patches::{Fields, light_of};
use crate::error::MatchError;

/// Least difference of density over which a scan is laid to what was measured.
const LEAST_RANGE: f64 = 0.3;
/// Difference in the scan's log10 of light that two steps of different density have at least.
const LEAST_STEP: f64 = 0.004;
/// What a channel of a scan holds at least: darker is not told from black.
const DARKEST: f64 = 1e-5;
/// Densities are given to that.
const DIGITS: f64 = 1000.0;

/// Densities of all steps of a wedge, row by row, as a film of so many layers has them. `measured` holds those that
/// are known, by step; at least two of them in each layer.
pub fn read_wedge(
    source: &Source,
    fields: &Fields,
    layers: usize,
    measured: &[Option<Vec<f64>>],
) -> Result<Vec<Vec<f64>>, MatchError> {
    let light = light_of(source, fields)?;
    if measured.iter().flatten().any(|densities| densities.len() != layers) {
        let why = format!("a measured step of this film has {layers} densities");
        return Err(MatchError::Chart { why });
    }
    let by_layer: Vec<Vec<f64>> =
        (0..layers).map(|layer| layer_of(&light, layers, layer, measured)).collect::<Result<_, _>>()?;
    Ok((0..light.len()).map(|step| by_layer.iter().map(|densities| densities[step]).collect()).collect())
}

/// Densities of a layer, by step.
fn layer_of(
    light: &[[f64; 3]],
    layers: usize,
    layer: usize,
    measured: &[Option<Vec<f64>>],
) -> Result<Vec<f64>, MatchError> {
    // the dye of the red-sensitive layer takes red away, and so on; silver takes all
    let of_light = |l: &[f64; 3]| if layers == 1 { 0.2126 * l[0] + 0.7152 * l[1] + 0.0722 * l[2] } else { l[layer] };
    let read: Vec<f64> = light.iter().map(|l| -of_light(l).max(DARKEST).log10()).collect();
    let known = measured.iter().zip(&read).enumerate();
    let mut known: Vec<(f64, f64, usize)> =
        known.filter_map(|(step, (m, read))| m.as_ref().map(|m| (*read, m[layer], step + 1))).collect();
    known.sort_by(|a, b| a.1.total_cmp(&b.1));
    let name = match layers {
        1 => "",
        _ => ["red ", "green ", "blue "][layer.min(2)],
    };
    let range = known.last().map_or(0.0, |last| last.1 - known[0].1);
    if known.len() < 2 || range < LEAST_RANGE {
        let why = format!(
            "type the {name}density of at least two steps that lie {LEAST_RANGE} apart, best of the lightest and the \
             darkest: the scan is laid to them"
        );
        return Err(MatchError::Chart { why });
    }
    let wrong = known.windows(2).find(|pair| pair[1].1 > pair[0].1 + 0.02 && pair[1].0 < pair[0].0 + LEAST_STEP);
    if let Some(pair) = wrong {
        let why = format!(
            "step {} has a higher {name}density than step {}, but the scan is not darker there: look at the densities, \
             the corners and the number of steps",
            pair[1].2, pair[0].2
        );
        return Err(MatchError::Chart { why });
    }
    // steps that are as good as one count once
    known.dedup_by(|next, before| next.0 < before.0 + LEAST_STEP);
    let points: Vec<[f64; 2]> = known.iter().map(|(read, density, _)| [*read, *density]).collect();
    Ok(read.iter().map(|v| (laid(&points, *v) * DIGITS).round() / DIGITS).collect())
}

/// The curve through some points, and straight on beyond them.
fn laid(points: &[[f64; 2]], at: f64) -> f64 {
    let (first, last) = (points[0], points[points.len() - 1]);
    let straight = |a: [f64; 2], b: [f64; 2], from: [f64; 2]| from[1] + (at - from[0]) * (b[1] - a[1]) / (b[0] - a[0]);
    if at < first[0] {
        straight(first, points[1], first)
    } else if at > last[0] {
        straight(points[points.len() - 2], last, last)
    } else {
        MonotoneCubic::through(points.to_vec()).at(at)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const STEPS: usize = 12;
    /// In one row.
    const FIELDS: Fields = Fields { corners: [[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]], across: STEPS, down: 1 };

    /// Density of a step in each layer: a mask in green and blue.
    fn density(step: usize) -> Vec<f64> {
        let rising = step as f64 / (STEPS - 1) as f64;
        vec![0.2 + 1.6 * rising, 0.5 + 1.7 * rising.powf(1.2), 0.7 + 1.8 * rising.powf(0.9)]
    }

    /// A scan whose scanner has flare, a gain of its own and a curve: nobody's densities can be read off its numbers.
    fn scan() -> Source {
        let shown = |d: f64| 0.9 * 10f64.powf(-0.93 * d) + 0.002;
        Source::from_linear_srgb(240, 20, |x, _| {
            let densities = density(x as usize / 20);
            [0, 1, 2].map(|k: usize| shown(densities[k]))
        })
    }

    fn measured(steps: &[usize]) -> Vec<Option<Vec<f64>>> {
        (0..STEPS).map(|i| steps.contains(&i).then(|| density(i))).collect()
    }

    fn furthest(read: &[Vec<f64>]) -> f64 {
        let off =
            |(i, step): (usize, &Vec<f64>)| step.iter().zip(density(i)).map(|(a, b)| (a - b).abs()).fold(0.0, f64::max);
        read.iter().enumerate().map(off).fold(0.0, f64::max)
    }

    #[test]
    fn a_wedge_is_read_by_the_steps_that_were_measured() {
        let few = read_wedge(&scan(), &FIELDS, 3, &measured(&[0, 11])).unwrap();
        let more = read_wedge(&scan(), &FIELDS, 3, &measured(&[0, 4, 7, 9, 11])).unwrap();
        assert_eq!(more.len(), STEPS);
        assert!(furthest(&more) < 0.02 && furthest(&few) < 0.15, "{} {}", furthest(&more), furthest(&few));
        // those that were measured stay, but for what the scan's steps hold
        assert!((more[7][1] - density(7)[1]).abs() < 0.002);
        // beyond what was measured it goes on
        let inner = read_wedge(&scan(), &FIELDS, 3, &measured(&[1, 3, 6, 9])).unwrap();
        assert!(furthest(&inner) < 0.25 && inner[11][0] > inner[10][0] + 0.05 && inner[0][0] < inner[1][0]);
    }

    #[test]
    fn silver_has_one_density() {
        let one: Vec<Option<Vec<f64>>> = measured(&[0, 5, 11]).into_iter().map(|m| m.map(|d| vec![d[1]])).collect();
        let grey = Source::from_linear_srgb(240, 20, |x, _| [10f64.powf(-density(x as usize / 20)[1]); 3]);
        let read = read_wedge(&grey, &FIELDS, 1, &one).unwrap();
        for (i, step) in read.iter().enumerate() {
            assert!(step.len() == 1 && (step[0] - density(i)[1]).abs() < 0.02, "{i}: {step:?}");
        }
    }

    #[test]
    fn what_cannot_be_laid_is_said() {
        let why = |measured: &[Option<Vec<f64>>]| read_wedge(&scan(), &FIELDS, 3, measured).unwrap_err().to_string();
        assert!(why(&measured(&[3])).contains("red density of at least two steps"), "{}", why(&measured(&[3])));
        assert!(why(&measured(&[3, 4])).contains("at least two steps"));
        let mut turned = measured(&[0, 11]);
        turned.reverse();
        turned[0] = Some(density(11));
        turned[11] = Some(density(0));
        assert!(why(&turned).contains("step 1 has a higher red density than step 12"), "{}", why(&turned));
        let short = vec![Some(vec![0.2]), None];
        assert!(why(&short).contains("3 densities"));
    }
}
