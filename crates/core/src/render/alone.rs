//! One effect by itself, and what there is of the picture on its way, to be judged.

use super::plan::{Plan, RenderRequest};
use crate::colour::space::WIDE_TO_SRGB;
use crate::colour::transfer::encode_srgb_f32;
use crate::numeric::matrix::dot;
use crate::picture::buffer::{Display, LayerDensity, LayerExposure};
use crate::picture::{Picture, Region};
use crate::stations::print::LightTable;

/// What is shown alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Alone {
    /// The light that the base throws back, as exposure of the layers on black.
    Halation,
    /// The light that bloom lays over the scene, on black.
    Bloom,
    /// What grain adds to density, on mid grey.
    Grain,
    /// The light that reaches the film, as the camera would have shown it.
    Light,
    /// The exposure of the layers, as though each were light of its own colour.
    Exposure,
    /// The developed film on the light table.
    Film,
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

/// Linear light as the camera would have shown it.
fn rendered(plan: &Plan, region: Region, light: [&[f32]; 3], to_srgb: Option<[[f32; 3]; 3]>) -> Picture<Display> {
    let decoding = plan.exposing.light.scene().decoding();
    let mut out: [Vec<f32>; 3] = std::array::from_fn(|_| Vec::with_capacity(region.pixels()));
    for ((r, g), b) in light[0].iter().zip(light[1]).zip(light[2]) {
        let rgb = match &to_srgb {
            Some(to_srgb) => [0, 1, 2].map(|k| dot(&to_srgb[k], *r, *g, *b).max(0.0)),
            None => [*r, *g, *b],
        };
        for (plane, v) in out.iter_mut().zip(decoding.render(rgb)) {
            plane.push(encode_srgb_f32(v.clamp(0.0, 1.0)));
        }
    }
    Picture::from_planes(region, out.into())
}

pub(super) fn light(plan: &Plan, request: &RenderRequest, cell: Region) -> Picture<Display> {
    let light = plan.exposing.light.over(&request.scaled.source, cell);
    rendered(plan, light.region, [light.plane(0), light.plane(1), light.plane(2)], Some(WIDE_TO_SRGB.to_f32()))
}

pub(super) fn exposure(plan: &Plan, exposure: &Picture<LayerExposure>) -> Picture<Display> {
    let last = exposure.plane_count() - 1;
    rendered(plan, exposure.region, [0, 1, 2].map(|k| exposure.plane(k.min(last))), None)
}

/// `None` where the film cannot be looked through.
pub(super) fn film(plan: &Plan, density: &Picture<LayerDensity>) -> Option<Picture<Display>> {
    let table = LightTable::new(plan.film())?;
    let last = density.plane_count() - 1;
    let layers = [0, 1, 2].map(|k| density.plane(k.min(last)));
    let mut out: [Vec<f32>; 3] = std::array::from_fn(|_| Vec::with_capacity(density.region.pixels()));
    for i in 0..density.region.pixels() {
        let seen = table.linear_srgb([0, 1, 2].map(|k| layers[k][i]));
        for (plane, v) in out.iter_mut().zip(seen) {
            plane.push(encode_srgb_f32(v.clamp(0.0, 1.0)));
        }
    }
    Some(Picture::from_planes(density.region, out.into()))
}
