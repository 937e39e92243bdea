//! By edge: a region grown from strokes to the edges around it.
//!
//! From the strokes outward each pixel is reached over its neighbours; a way costs the dearest pixel on it, which is
//! how far its colour is from those under the strokes, or the edge on which it lies. What is reached cheaply enough
//! belongs to the region. It is grown on the small picture, its texture smoothed, and given the full picture's edges by
//! a guided filter. Model choices.

use std::collections::VecDeque;

use super::Grown;
use super::brush::Covered;
use crate::colour::oklab::WideToOklab;
use crate::colour::space::SRGB_TO_WIDE;
use crate::numeric::smooth_share;
use crate::picture::guided::LocalLines;
use crate::picture::source::linear_of_code;
use crate::picture::{Plane, Region, Source};

/// Differences in Oklab that are still the same thing, at reach 0 and at reach 1.
const DIFFERENCES: [f32; 2] = [0.008, 0.26];
/// What an edge counts relative to a difference from the strokes' colours, and over how many pixels it is measured.
const EDGE: (f32, usize) = (0.8, 2);
/// Colour counts more than lightness: shade falls on one thing, colour changes from one to the next.
const LIGHTNESS: f32 = 0.6;
/// Colours remembered under the strokes.
const COLOURS: usize = 12;
/// Radius in pixels over which texture is smoothed.
const SMOOTHED: usize = 1;
/// Costs are counted in this many steps.
const STEPS: usize = 512;
/// Most that a step can cost, in Oklab.
const DEAREST: f32 = 0.5;
/// The border's softness as shares of the difference allowed.
const BORDER: [f32; 2] = [0.75, 1.25];
/// Radius of the refinement as a share of the diagonal, and the variance that is an edge to it.
const REFINEMENT: (f64, f32) = (0.003, 0.01);

/// Lightness and colour of every pixel of the small picture, smoothed.
fn lab_of(small: &Source, radius: usize) -> Vec<[f32; 3]> {
    let (linear, oklab, to_wide) = (linear_of_code(), WideToOklab::new(), SRGB_TO_WIDE.to_f32());
    let wide = |codes: &[u16]| {
        let rgb = [0, 1, 2].map(|k| linear[codes[k] as usize]);
        [0, 1, 2].map(|k| to_wide[k][0] * rgb[0] + to_wide[k][1] * rgb[1] + to_wide[k][2] * rgb[2])
    };
    let weighed = |[l, a, b]: [f32; 3]| [LIGHTNESS * l, a, b];
    let sharp: Vec<[f32; 3]> = small.pixels().chunks_exact(3).map(|codes| weighed(oklab.lab(wide(codes)))).collect();
    let (width, height) = (small.width() as usize, small.height() as usize);
    let smooth =
        [0, 1, 2].map(|k| Plane { width, height, values: sharp.iter().map(|c| c[k]).collect() }.boxed(radius).values);
    (0..sharp.len()).map(|i| [smooth[0][i], smooth[1][i], smooth[2][i]]).collect()
}

/// How far the colours on both sides of every pixel differ.
fn edges_of(colours: &[[f32; 3]], width: usize) -> Vec<f32> {
    let height = colours.len() / width;
    let at = |x: usize, y: usize| colours[y * width + x];
    let span = |v: usize, size: usize| (v.saturating_sub(EDGE.1), (v + EDGE.1).min(size - 1));
    let edge = |i: usize| {
        let (x, y) = (i % width, i / width);
        let ((left, right), (top, bottom)) = (span(x, width), span(y, height));
        EDGE.0 * difference(at(left, y), at(right, y)).hypot(difference(at(x, top), at(x, bottom)))
    };
    (0..colours.len()).map(edge).collect()
}

fn difference(a: [f32; 3], b: [f32; 3]) -> f32 {
    ((a[0] - b[0]).powi(2) + (a[1] - b[1]).powi(2) + (a[2] - b[2]).powi(2)).sqrt()
}

/// Lightness, the guide of the refinement, over any region.
pub(super) fn guide(source: &Source, region: Region) -> Vec<f32> {
    let encoded = crate::picture::source::encoded_of_code();
    let mut out = Vec::with_capacity(region.pixels());
    for y in region.y..region.bottom() {
        let row = source.row(y, region.x, region.width);
        out.extend(
            row.chunks_exact(3)
                .map(|c| 0.25 * encoded[c[0] as usize] + 0.6 * encoded[c[1] as usize] + 0.15 * encoded[c[2] as usize]),
        );
    }
    out
}

/// The region over the small picture, as local lines of its lightness.
pub(super) fn grow(grown: &Grown, small: &Source) -> LocalLines {
    let (width, height) = (small.width() as usize, small.height() as usize);
    let colours = lab_of(small, SMOOTHED);
    let plane = Plane { width, height, values: vec![0.0; width * height] };
    let mut seeds = Vec::new();
    for points in &grown.strokes {
        let Some(covered) = Covered::by(grown.size, points, &plane) else { continue };
        let inside = covered.squares.iter().enumerate().filter(|(_, s)| **s <= covered.radius.powi(2).max(0.5));
        seeds.extend(inside.map(|(i, _)| (covered.y + i / covered.width) * width + covered.x + i % covered.width));
    }
    let allowed = DIFFERENCES[0] + (DIFFERENCES[1] - DIFFERENCES[0]) * (grown.reach * grown.reach) as f32;
    let (from, to) = (BORDER[0] * allowed, BORDER[1] * allowed);
    let sharp = lab_of(small, 0);
    let known: Vec<[f32; 3]> = seeds.iter().step_by(seeds.len().div_ceil(COLOURS).max(1)).map(|i| sharp[*i]).collect();
    let nearest = |c: [f32; 3]| known.iter().map(|k| difference(c, *k)).fold(f32::MAX, f32::min);
    let edges = edges_of(&colours, width);
    let price: Vec<f32> = colours.iter().zip(edges).map(|(c, edge)| nearest(*c).max(edge)).collect();
    // an edge is as wide as it was measured: what looks like the region right beside it belongs to it
    let reached = Plane { values: costs(&price, width, &seeds), ..plane }.extreme(EDGE.1 + SMOOTHED, f32::min);
    let costs = reached.values.iter().zip(&sharp).map(|(cost, colour)| cost.max(nearest(*colour)));
    let values = costs.map(|cost| smooth_share((to - cost) / (to - from)));
    let plane = Plane { width, height, values: values.collect() };
    let lightness = Plane { width, height, values: guide(small, small.region()) };
    let radius = ((REFINEMENT.0 * (width as f64).hypot(height as f64)).round() as usize).max(1);
    LocalLines::fit(&lightness, &plane, radius, REFINEMENT.1)
}

/// The dearest pixel on the cheapest way from the seeds to every pixel.
fn costs(price: &[f32], width: usize, seeds: &[usize]) -> Vec<f32> {
    let mut cost = vec![f32::MAX; price.len()];
    let mut queues: Vec<VecDeque<usize>> = vec![VecDeque::new(); STEPS];
    let step_of = |c: f32| ((c / DEAREST * STEPS as f32) as usize).min(STEPS - 1);
    for seed in seeds {
        cost[*seed] = 0.0;
        queues[0].push_back(*seed);
    }
    for step in 0..STEPS {
        while let Some(at) = queues[step].pop_front() {
            if step_of(cost[at]) != step {
                continue;
            }
            let (x, y) = (at % width, at / width);
            let neighbours = [
                (x > 0).then(|| at - 1),
                (x + 1 < width).then(|| at + 1),
                (y > 0).then(|| at - width),
                (at + width < price.len()).then(|| at + width),
            ];
            for next in neighbours.into_iter().flatten() {
                let reached = cost[at].max(price[next]);
                if reached < cost[next] {
                    cost[next] = reached;
                    queues[step_of(reached).max(step)].push_back(next);
                }
            }
        }
    }
    cost
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Two red discs on green: the stroke lies on one of them.
    fn discs() -> Source {
        Source::from_linear_srgb(300, 200, |x, y| {
            let inside = |cx: f64| (f64::from(x) - cx).hypot(f64::from(y) - 100.0) < 50.0;
            let shade = 0.7 + 0.3 * f64::from(y) / 200.0;
            if inside(80.0) || inside(220.0) { [0.45 * shade, 0.08, 0.06] } else { [0.1, 0.25 * shade, 0.08] }
        })
    }

    #[test]
    fn it_grows_to_the_edge_and_does_not_jump() {
        let source = discs();
        let shape = Grown { size: 0.02, reach: 0.3, strokes: vec![vec![[0.2, 0.5], [0.3, 0.55]]] };
        let lines = grow(&shape, &source);
        let found = lines.read([300, 200], source.region(), &guide(&source, source.region()));
        let at = |x: usize, y: usize| found[y * 300 + x];
        assert!(at(80, 100) > 0.95 && at(80, 55) > 0.9 && at(80, 145) > 0.9, "{} {}", at(80, 55), at(80, 145));
        assert!(at(80, 44) < 0.1 && at(140, 100) < 0.05, "{} {}", at(80, 44), at(140, 100));
        assert!(at(220, 100) < 0.05, "the other disc is not touched: {}", at(220, 100));
        let nothing = grow(&Grown { strokes: vec![], ..shape }, &source);
        assert!(nothing.read([300, 200], Region::new(80, 100, 1, 1), &[0.5])[0].abs() < 1e-3);
    }
}
