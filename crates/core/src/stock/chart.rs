//! What was measured on a film: a step wedge and patches of colour, kept with the stock that was fitted to it.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::colour::lab::Lab;

/// Most steps and patches of a chart.
pub const MOST_STEPS: usize = 64;
/// Most patches.
pub const MOST_PATCHES: usize = 64;

/// One step of the wedge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WedgeStep {
    /// log10 of the light on the film; 0 is a mid grey as it is metered.
    pub log_exposure: f64,
    /// Density of each layer, or of the only one.
    pub density: Vec<f64>,
}

/// One patch of colour.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Patch {
    /// What it is called.
    pub name: String,
    /// Its own colour: CIE Lab under D50.
    pub reference: Lab,
    /// Its colour on the print or slide; `None` where it was not measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measured: Option<Lab>,
}

/// How the reference colours came to the film.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum SeenBy {
    /// It is not said: whichever explains the chart better.
    #[default]
    Unknown,
    /// The chart itself stood before the film.
    Scene,
    /// They are those of a camera's picture of it, developed here.
    Camera,
}

/// A wedge and patches that were exposed on a film.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Chart {
    /// From dark to light.
    pub wedge: Vec<WedgeStep>,
    /// In the order of the chart.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub patches: Vec<Patch>,
    /// What the reference colours are.
    #[serde(default)]
    pub seen_by: SeenBy,
}

impl Chart {
    /// That every number can be one of a chart.
    pub fn check(&self, layers: usize) -> Result<(), String> {
        if self.wedge.len() > MOST_STEPS || self.patches.len() > MOST_PATCHES {
            return Err(format!("a chart has at most {MOST_STEPS} steps and {MOST_PATCHES} patches"));
        }
        for (i, step) in self.wedge.iter().enumerate() {
            let densities = &step.density;
            if densities.len() != layers {
                return Err(format!("step {} has {} densities; this film has {layers}", i + 1, densities.len()));
            }
            if !densities.iter().all(|d| (-0.1..=5.0).contains(d)) || !(-6.0..=6.0).contains(&step.log_exposure) {
                return Err(format!("step {} holds a value that no film has", i + 1));
            }
        }
        for patch in &self.patches {
            let is_colour = |lab: &Lab| (-1.0..=105.0).contains(&lab[0]) && lab[1].abs().max(lab[2].abs()) < 160.0;
            if !is_colour(&patch.reference) || !patch.measured.iter().all(is_colour) {
                return Err(format!("patch {} holds a value that is no colour", patch.name));
            }
        }
        Ok(())
    }
}
