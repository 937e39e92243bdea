//! Density to reflectance as a table, interpolated in tetrahedra.
//!
//! 33 nodes per layer over [0, dmax + 0.4], storing the reflectance in the working space, encoded: encoded values
//! interpolate with half the error of linear ones. Tetrahedra keep the neutrals on the diagonal.

use multiversion::multiversion;

use super::viewing::{ROW, Row};
use crate::colour::space::SRGB_TO_WIDE;
use crate::colour::transfer::{decode_srgb_f32, encode_srgb_f32};
use crate::numeric::matrix::dot;
use crate::numeric::parallel::for_parts;
use crate::numeric::runs::{each, each_pixel};

/// Nodes per axis.
pub const NODES: usize = 33;

/// The table of a colour print or slide.
#[derive(Debug, Clone)]
pub struct PrintTable {
    /// R, G, B of the working space, encoded; the fourth value pads a node to 16 bytes.
    pub(super) nodes: Vec<[f32; 4]>,
    pub(super) per_density: [f32; 3],
}

/// Linear sRGB (unbounded) to the encoded working space; what the table and the exact path both store.
#[inline(always)]
pub fn encode_working(rgb: [f32; 3], to_wide: &[[f32; 3]; 3]) -> [f32; 3] {
    let wide = [
        dot(&to_wide[0], rgb[0], rgb[1], rgb[2]),
        dot(&to_wide[1], rgb[0], rgb[1], rgb[2]),
        dot(&to_wide[2], rgb[0], rgb[1], rgb[2]),
    ];
    wide.map(|v| encode_srgb_f32(v.max(0.0)))
}

/// Nodes whose colours are changed row by row.
fn in_rows(nodes: &[[f32; 4]], change: impl Fn(&mut [Row; 3]) + Sync) -> Vec<[f32; 4]> {
    let mut out = nodes.to_vec();
    for_parts(&mut out, NODES, &|_, nodes| {
        let mut row = [[0.0f32; ROW]; 3];
        for (i, node) in nodes.iter().enumerate() {
            (row[0][i], row[1][i], row[2][i]) = (node[0], node[1], node[2]);
        }
        change(&mut row);
        for (i, node) in nodes.iter_mut().enumerate() {
            *node = [row[0][i], row[1][i], row[2][i], 0.0];
        }
    });
    out
}

/// Every value of a row changed.
#[multiversion(targets("x86_64+avx2"))]
fn change_row(row: &mut [Row; 3], change: impl Fn(f32) -> f32) {
    row.iter_mut().for_each(|lane| each(lane, &change));
}

/// [`encode_working`] of a row.
#[multiversion(targets("x86_64+avx2"))]
fn encode_row(row: &mut [Row; 3], to_wide: &[[f32; 3]; 3]) {
    each_pixel(row, |rgb| encode_working(rgb, to_wide));
}

/// Rows that were left out become what a cubic through those on either side says: first along the green axis, then
/// along the red.
fn between_rows(nodes: &mut [[f32; 4]]) {
    const PLANE: usize = NODES * NODES;
    for_parts(nodes, PLANE, &|at, plane| {
        if at % 2 == 0 {
            cubics_between(plane, NODES);
        }
    });
    cubics_between(nodes, PLANE);
}

/// Of parts of a length every other one is put between its neighbours, two on either side, or three where it lies next
/// to the end.
fn cubics_between(parts: &mut [[f32; 4]], length: usize) {
    let known = parts.to_vec();
    let count = parts.len() / length;
    let part = |at: usize| &known[at * length..(at + 1) * length];
    for_parts(parts, length, &|at, out| {
        if at % 2 == 0 {
            return;
        }
        let [a, b, c, d, weights] = match at {
            1 => [0, 2, 4, 4, 0],
            _ if at + 2 == count => [at + 1, at - 1, at - 3, at - 3, 0],
            _ => [at - 3, at - 1, at + 1, at + 3, 1],
        };
        let [wa, wb, wc, wd] = [[0.375, 0.75, -0.125, 0.0], [-0.0625, 0.5625, 0.5625, -0.0625]][weights];
        let sides = part(a).iter().zip(part(b)).zip(part(c)).zip(part(d));
        for (node, (((a, b), c), d)) in out.iter_mut().zip(sides) {
            *node = std::array::from_fn(|k| (wa * a[k] + wb * b[k]) + (wc * c[k] + wd * d[k]));
        }
    });
}

impl PrintTable {
    /// Evaluates `reflect` (densities to linear sRGB) on all nodes; `highest` is the end of each axis.
    pub fn build(highest: [f64; 3], reflect: &(impl Fn([f32; 3]) -> [f32; 3] + Sync)) -> Self {
        Self::by_rows(highest, 1, &|row| each_pixel(row, reflect))
    }

    /// The same where rows of densities become rows of colours: every one, or every other one on either axis and
    /// what lies between them from their neighbours.
    pub fn by_rows(highest: [f64; 3], every: usize, reflect: &(impl Fn(&mut [Row; 3]) + Sync)) -> Self {
        const { assert!(NODES <= ROW && NODES % 2 == 1) };
        let to_wide = SRGB_TO_WIDE.to_f32();
        let step = highest.map(|h| (h / (NODES - 1) as f64) as f32);
        // beyond the last node the row repeats it
        let along: Row = std::array::from_fn(|b| b.min(NODES - 1) as f32 * step[2]);
        let mut nodes = vec![[0.0f32; 4]; NODES * NODES * NODES];
        for_parts(&mut nodes, NODES, &|rg, out| {
            let (r, g) = (rg / NODES, rg % NODES);
            if r % every == 0 && g % every == 0 {
                let mut row = [[r as f32 * step[0]; ROW], [g as f32 * step[1]; ROW], along];
                reflect(&mut row);
                encode_row(&mut row, &to_wide);
                out.iter_mut().enumerate().for_each(|(b, node)| *node = [row[0][b], row[1][b], row[2][b], 0.0]);
            }
        });
        if every == 2 {
            between_rows(&mut nodes);
        }
        Self { nodes, per_density: step.map(|s| 1.0 / s) }
    }

    /// The table as it looks through grain too fine to be resolved: every node becomes the mean reflectance over the
    /// unresolved density fluctuation, whose standard deviation at a density is `sigma(layer, density)`.
    pub fn smoothed(&self, quadrature: &[(f64, f64)], sigma: impl Fn(usize, f64) -> f64) -> Self {
        let mut nodes = in_rows(&self.nodes, |row| change_row(row, |v| decode_srgb_f32(v.min(1.5))));
        for (layer, stride) in [(0, NODES * NODES), (1, NODES), (2, 1)] {
            // for every node of the axis: the nodes it averages, and their weights
            let mixes: Vec<Vec<(usize, f32)>> = (0..NODES)
                .map(|i| axis_mix(i, 1.0 / self.per_density[layer] as f64, quadrature, |d| sigma(layer, d)))
                .collect();
            nodes = mixed(&nodes, stride, &mixes);
        }
        let nodes = in_rows(&nodes, |row| change_row(row, |v| encode_srgb_f32(v.max(0.0))));
        Self { nodes, per_density: self.per_density }
    }

    /// The same table with every node's colour changed, row by row: from the encoded working space to what `change`
    /// makes of it.
    pub fn changed(&self, change: impl Fn(&mut [Row; 3]) + Sync) -> Self {
        Self { nodes: in_rows(&self.nodes, change), per_density: self.per_density }
    }

    /// What the table holds at densities.
    #[inline(always)]
    pub fn at(&self, densities: [f32; 3]) -> [f32; 3] {
        const LAST: f32 = (NODES - 1) as f32;
        const R: usize = NODES * NODES;
        const G: usize = NODES;
        const B: usize = 1;
        // max before min: what is not a number reads the first node
        let u = [
            (densities[0] * self.per_density[0]).max(0.0).min(LAST),
            (densities[1] * self.per_density[1]).max(0.0).min(LAST),
            (densities[2] * self.per_density[2]).max(0.0).min(LAST),
        ];
        let i = u.map(|v| (v as usize).min(NODES - 2));
        let [fr, fg, fb] = [u[0] - i[0] as f32, u[1] - i[1] as f32, u[2] - i[2] as f32];
        let base = i[0] * R + i[1] * G + i[2];
        // the tetrahedron's corners are passed in the order of the sorted fractions: largest, middle, smallest
        let (more, less) = if fr >= fg { ((fr, R), (fg, G)) } else { ((fg, G), (fr, R)) };
        let (largest, step_a) = if more.0 >= fb { more } else { (fb, B) };
        let (smallest, step_c) = if less.0 <= fb { less } else { (fb, B) };
        let middle = less.0.max(more.0.min(fb));
        let last = base + (R + G + B);
        let corners = [base, base + step_a, last - step_c, last].map(|c| &self.nodes[c]);
        let [w0, wa, wb, wc] = [1.0 - largest, largest - middle, middle - smallest, smallest];
        let mut out = [0.0f32; 3];
        for k in 0..3 {
            out[k] = (w0 * corners[0][k] + wa * corners[1][k]) + (wb * corners[2][k] + wc * corners[3][k]);
        }
        out
    }
}

/// The nodes mixed along the axis whose neighbours lie `stride` apart: each becomes a sum of those of its line.
fn mixed(nodes: &[[f32; 4]], stride: usize, mixes: &[Vec<(usize, f32)>]) -> Vec<[f32; 4]> {
    let mut out = vec![[0.0f32; 4]; nodes.len()];
    for_parts(&mut out, NODES, &|row, out| {
        let first = row * NODES;
        if stride == 1 {
            mix_within(out, &nodes[first..][..NODES], mixes);
        } else {
            // all nodes of a row have the same place on the other axes: they are mixed side by side
            let place = first / stride % NODES;
            for (other, weight) in &mixes[place] {
                add_row(out, &nodes[first + other * stride - place * stride..][..NODES], *weight);
            }
        }
    });
    out
}

#[multiversion(targets("x86_64+avx2"))]
fn mix_within(out: &mut [[f32; 4]], row: &[[f32; 4]], mixes: &[Vec<(usize, f32)>]) {
    for (out, mix) in out.iter_mut().zip(mixes) {
        for (other, weight) in mix {
            let node = row[*other];
            out.iter_mut().zip(node).for_each(|(sum, value)| *sum += weight * value);
        }
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn add_row(out: &mut [[f32; 4]], row: &[[f32; 4]], weight: f32) {
    out.as_flattened_mut().iter_mut().zip(row.as_flattened()).for_each(|(sum, value)| *sum += weight * value);
}

/// The nodes of one axis that a node averages over the fluctuation around its density, with their weights.
fn axis_mix(node: usize, step: f64, quadrature: &[(f64, f64)], sigma: impl Fn(f64) -> f64) -> Vec<(usize, f32)> {
    let density = node as f64 * step;
    let s = sigma(density);
    let mut weights = [0.0f64; NODES];
    for (x, w) in quadrature {
        // the mean of transmittance is what fine grain keeps: hence the shift by ln10/2 s^2
        let d = density + s * x + 0.5 * std::f64::consts::LN_10 * s * s;
        let u = (d / step).clamp(0.0, (NODES - 1) as f64);
        let i = (u as usize).min(NODES - 2);
        weights[i] += w * (1.0 - (u - i as f64));
        weights[i + 1] += w * (u - i as f64);
    }
    weights.iter().enumerate().filter(|(_, w)| **w > 0.0).map(|(i, w)| (i, *w as f32)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Mixed by rows as node by node, along each axis.
    #[test]
    fn nodes_are_mixed_along_their_axis() {
        let value = |i: usize| ((i * 2_654_435_761) % 1000) as f32 / 1000.0;
        let nodes: Vec<[f32; 4]> = (0..NODES.pow(3)).map(|i| [value(i), value(i + 7), value(i + 31), 0.0]).collect();
        let mixes: Vec<_> =
            (0..NODES).map(|i| vec![(i, 0.6f32), (NODES - 1 - i, 0.3), ((i + 5) % NODES, 0.1)]).collect();
        for stride in [NODES * NODES, NODES, 1] {
            let found = mixed(&nodes, stride, &mixes);
            for (index, node) in found.iter().enumerate() {
                let place = index / stride % NODES;
                let start = index - place * stride;
                let sum = mixes[place].iter().fold([0.0f32; 3], |sum, (other, weight)| {
                    std::array::from_fn(|k| sum[k] + weight * nodes[start + other * stride][k])
                });
                assert_eq!(node[..3], sum, "{stride} {index}");
            }
        }
    }

    #[test]
    fn exact_at_nodes_and_on_neutrals() {
        let reflect = |d: [f32; 3]| d.map(|v| 10f32.powf(-v));
        let table = PrintTable::build([3.2; 3], &reflect);
        let to_wide = SRGB_TO_WIDE.to_f32();
        for d in [[0.3, 1.2, 2.5], [0.0, 0.0, 0.0], [3.2, 3.2, 3.2]] {
            for (a, b) in table.at(d).iter().zip(encode_working(reflect(d), &to_wide)) {
                assert!((a - b).abs() < 2e-6, "{d:?}");
            }
        }
        for i in 0..100 {
            let d = 0.032 * i as f32;
            let [r, g, b] = table.at([d; 3]);
            assert!((r - g).abs() < 1e-6 && (g - b).abs() < 1e-6);
        }
    }

    #[test]
    fn no_unresolved_grain_changes_nothing() {
        let table = PrintTable::build([2.0; 3], &|d: [f32; 3]| d.map(|v| 10f32.powf(-v)));
        let nodes = crate::numeric::quadrature::normal_nodes(7);
        let same = table.smoothed(&nodes, |_, _| 0.0);
        for (a, b) in table.nodes.iter().zip(&same.nodes) {
            assert!((a[0] - b[0]).abs() < 1e-5);
        }
    }

    /// Rows that are left out are met within a step of an 8-bit picture at 19 nodes of 20 of a photograph's colours,
    /// most within a tenth of one.
    #[test]
    fn every_other_row_gives_nearly_the_table() {
        use crate::stations::film::FilmResponse;
        use crate::stations::print::{PrintSettings, Viewing};
        use crate::stock::Catalogue;
        for id in ["plover", "oriole", "wren"] {
            let stock = Catalogue::find(id).unwrap();
            let viewing = Viewing::new(&FilmResponse::own(&stock), &PrintSettings::own(&stock)).unwrap();
            let [all, half] =
                [1, 2].map(|every| PrintTable::by_rows([3.1, 2.9, 3.0], every, &|row| viewing.unbent_row(row)));
            // colours of photographs: layers that are not far apart
            let likely = |i: usize| {
                let [r, g, b] = [i / (NODES * NODES), i / NODES % NODES, i % NODES];
                r.abs_diff(g).max(g.abs_diff(b)).max(b.abs_diff(r)) <= NODES / 4
            };
            let off = |(a, b): (&[f32; 4], &[f32; 4])| (0..3).map(|k| (a[k] - b[k]).abs()).fold(0.0, f32::max) * 255.0;
            let both = all.nodes.iter().zip(&half.nodes).enumerate();
            let mut offs: Vec<f32> = both.filter(|(i, _)| likely(*i)).map(|(_, pair)| off(pair)).collect();
            offs.sort_by(f32::total_cmp);
            let (median, nearly_all) = (offs[offs.len() / 2], offs[offs.len() / 20 * 19]);
            println!("{id}: median {median}, of nearly all {nearly_all}");
            assert!(median < 0.1 && (1e-3..1.0).contains(&nearly_all), "{id}: {median}, {nearly_all}");
        }
    }

    /// Rows of nodes give the table that single colours give, on a print and on a slide.
    #[test]
    fn rows_give_the_table_of_single_colours() {
        use crate::stations::film::FilmResponse;
        use crate::stations::print::{PrintSettings, Viewing};
        use crate::stock::Catalogue;
        for id in ["plover", "oriole"] {
            let stock = Catalogue::find(id).unwrap();
            let viewing = Viewing::new(&FilmResponse::own(&stock), &PrintSettings::own(&stock)).unwrap();
            let rows = PrintTable::by_rows([3.1, 2.9, 3.0], 1, &|row| viewing.unbent_row(row));
            let single = PrintTable::build([3.1, 2.9, 3.0], &|densities| viewing.unbent(densities));
            assert!(rows.nodes == single.nodes, "{id}");
            let grain = |_: usize, d: f64| 0.02 + 0.01 * d;
            let nodes = [(-1.0, 0.5), (1.0, 0.5)];
            let smooth = rows.smoothed(&nodes, grain);
            assert!(smooth.nodes != rows.nodes && smooth.nodes.iter().flatten().all(|v| v.is_finite()));
        }
    }
}
