//! What a stock may have beside layers, curves and dyes.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::material::Colourant;
use crate::colour::spectrum::Peak;

/// The stock's own grain.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct GrainProfile {
    /// RMS granularity: 1000 x standard deviation of density through a 48 um aperture at D = 1.
    pub granularity: f64,
    /// Mean diameter of a grain or dye cloud in um.
    pub diameter_um: f64,
    /// 0 even to 1 clustered.
    pub roughness: f64,
    /// Optical spread of the grain image in um.
    pub blur_um: f64,
    /// Granularity of each layer relative to the stated one.
    pub layer_ratio: Vec<f64>,
    /// Diameter of each layer relative to the stated one.
    pub diameter_ratio: Vec<f64>,
    /// Weight in shadows, middle, highlights of the scene.
    pub zone_weights: [f64; 3],
    /// 1: the layers' grain is independent; 0: one common grain.
    pub colour_share: f64,
}

/// Light scattered back from the film's base.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HalationProfile {
    /// Share of the scattered light that each layer takes up.
    pub strength: Vec<f64>,
    /// How much brighter a clipped lamp is taken to be than the camera recorded.
    pub boost: f64,
}

/// Sensitivity beyond red, estimated from the colours of the picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct NearInfrared {
    /// Share of the exposure that is infrared.
    pub share: f64,
    /// Exponent with which the slope from blue to red is carried on past red.
    pub slope: f64,
    /// Limits of that slope's gain.
    pub min: f64,
    /// Largest share of infrared that is taken for granted.
    pub max: f64,
    /// Excess green at which leaves begin and are certain.
    pub leaf: [f64; 2],
    /// Infrared of leaves relative to their luminance.
    pub leaf_gain: f64,
}

/// Slow unevenness of an old or badly stored film.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Mottle {
    /// Standard deviation of density by layer.
    pub amp: [f64; 3],
    /// Weight of the part that all layers share.
    pub common: f64,
    /// Size of the blotches on the film.
    pub pitch_um: f64,
}

/// The filter mosaic of an additive screen plate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ScreenMosaic {
    /// Orange-red, green, blue-violet: transmittance of the filter grains.
    pub filters: [Colourant; 3],
    /// Sensitivity of the emulsion behind them.
    pub pan: Vec<Peak>,
    /// Shares of the three colours among the grains.
    pub shares: [f64; 3],
    /// Size of the blotches on the film.
    pub pitch_um: f64,
    /// 0 regular, 1 wholly irregular.
    pub jitter: f64,
    /// Half width of the dark filling between grains.
    pub gap_um: f64,
    /// Share of the area that the filling takes.
    pub gap_share: f64,
    /// Transmittance of the filling.
    pub gap_t: f64,
    /// Display brightness of clear plate.
    pub white: f64,
    /// How much of the mosaic's contrast is seen.
    pub depth: f64,
    /// Size of a sample on the film.
    pub sample_um: f64,
}

/// How dyes lost their colour.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum FadeMode {
    /// In a drawer.
    Dark,
    /// On a wall.
    Light,
}

/// The stock's pictures come to us already aged.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Fade {
    /// What took the colour.
    pub mode: FadeMode,
    /// How long it took.
    pub years: f64,
}

/// How a viewer makes up for the colour of the clear film.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ViewerAdaptation {
    /// Share of the mask's colour that the eye takes away (an exponent).
    pub share: f64,
    /// Factor on the exposure of the seen picture.
    pub gain: f64,
}
