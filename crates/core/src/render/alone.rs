//! One effect by itself, to be judged.

use super::plan::{Plan, RenderRequest};
use crate::colour::space::WIDE_TO_SRGB;
use crate::colour::transfer::encode_srgb_f32;
use crate::numeric::matrix::dot;
use crate::picture::buffer::{Display, LayerDensity};
use crate::picture::{Picture, Region};

/// What is shown alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Alone {
    /// The light that the base throws back, as exposure of the layers on black.
    Halation,
    /// The light that bloom lays over the scene, on black.
    Bloom,
    /// What grain adds to density, on mid grey.
    Grain,
}

/// Tone of grain-free film, and how much of the tone scale a density of 1 takes.
const GREY: f32 = 0.5;
const TONE_PER_DENSITY: f32 = 0.6;

/// Three display planes of one or three layers.
fn displayed(region: Region, mut layers: Vec<Vec<f32>>) -> Picture<Display> {
    if layers.len() == 1 {
        let only = layers.remove(0);
        layers = vec![only.clone(), only.clone(), only];
    }
    Picture::from_planes(region, layers)
}

pub(super) fn halation(plan: &Plan, request: &RenderRequest, cell: Region) -> Picture<Display> {
    let exposure = plan.exposing.over(&request.scaled.source, cell);
    let count = exposure.plane_count();
    let black = || vec![0.0f32; cell.pixels()];
    let layers = match &plan.halation {
        None => vec![black(); count],
        Some(halation) => halation
            .returned(&request.scaled.source, &exposure)
            .into_iter()
            .map(|light| match light.is_empty() {
                true => black(),
                false => light.into_iter().map(|e| encode_srgb_f32(e.min(1.0))).collect(),
            })
            .collect(),
    };
    displayed(cell, layers)
}

pub(super) fn bloom(plan: &Plan, request: &RenderRequest, cell: Region) -> Picture<Display> {
    let light = plan.exposing.bloom.as_ref().map(|bloom| bloom.alone(&plan.frame(request), cell));
    let to_srgb = WIDE_TO_SRGB.to_f32();
    let shown = |k: usize| match &light {
        None => vec![0.0; cell.pixels()],
        Some(light) => {
            let rgb = light.plane(0).iter().zip(light.plane(1)).zip(light.plane(2));
            rgb.map(|((r, g), b)| encode_srgb_f32(dot(&to_srgb[k], *r, *g, *b).clamp(0.0, 1.0))).collect()
        }
    };
    Picture::from_planes(cell, (0..3).map(shown).collect())
}

pub(super) fn grain(plan: &Plan, plain: Picture<LayerDensity>, grained: &Picture<LayerDensity>) -> Picture<Display> {
    // more density on a negative is a lighter print, on a slide a darker one
    let sign = if plan.film().curves[0].reversal { -TONE_PER_DENSITY } else { TONE_PER_DENSITY };
    let layers = plain
        .planes()
        .iter()
        .zip(grained.planes())
        .map(|(before, after)| before.iter().zip(after).map(|(p, g)| (GREY + sign * (g - p)).clamp(0.0, 1.0)).collect())
        .collect();
    displayed(plain.region, layers)
}
