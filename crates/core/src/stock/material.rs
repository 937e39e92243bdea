//! Dyes, print materials and papers as data (`data/materials.json`): all invented.

use std::collections::BTreeMap;
use std::sync::LazyLock;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{CurveShape, LayerCurves};
use crate::colour::spectrum::{Peak, Spectrum, TABLES};

/// One dye: its wanted absorption and its unwanted ones.
#[derive(Debug, Clone, Deserialize)]
pub struct Dye {
    main: [f64; 2],
    side: Vec<Peak>,
}

impl Dye {
    /// The absorption that is wanted.
    pub fn main(&self) -> Spectrum {
        Spectrum::gaussian(self.main[0], self.main[1])
    }

    /// The absorptions beside it.
    pub fn side(&self) -> Spectrum {
        Spectrum::peaks(&self.side)
    }
}

/// Cyan, magenta, yellow.
pub type DyeSet = [Dye; 3];

/// A paper or film on which a colour negative is printed.
#[derive(Debug, Clone, Deserialize)]
pub struct PrintMaterial {
    /// Light under which it is seen.
    pub view: String,
    /// Its dyes.
    pub dyes: String,
    /// Absorption of the base.
    pub base: Vec<Peak>,
    /// Density of the base at every wavelength.
    pub base_flat: f64,
    /// Sensitivities of its layers.
    pub sens: [Vec<Peak>; 3],
    /// Colour temperature of the enlarger's lamp, kelvin.
    pub lamp: f64,
    /// Its curve or curves.
    pub curve: LayerCurves,
}

impl PrintMaterial {
    /// By layer.
    pub fn curves(&self) -> [CurveShape; 3] {
        match &self.curve {
            LayerCurves::Colour { red, green, blue } => [*red, *green, *blue],
            LayerCurves::Single { single } => [*single; 3],
        }
    }
}

/// A spectrum as a flat part, bands and edges.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Colourant {
    /// Absorption at every wavelength.
    #[serde(default, skip_serializing_if = "super::shape::is_zero")]
    pub flat: f64,
    /// Bell-shaped absorptions.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub g: Vec<Peak>,
    /// Absorptions to one side of an edge.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub edge: Vec<Peak>,
}

impl Colourant {
    /// Spectral density, scaled so that one unit has visual density 1 under D50.
    pub fn unit_density(&self) -> Spectrum {
        let shape = self.spectrum();
        shape * (1.0 / visual_density(&shape))
    }

    /// The spectrum as it is stated.
    pub fn spectrum(&self) -> Spectrum {
        let mut shape = Spectrum::ONE * self.flat + Spectrum::peaks(&self.g);
        for edge in &self.edge {
            shape = shape + Spectrum::edge(edge[0], edge[1]) * edge[2];
        }
        shape
    }
}

/// Visual density of a spectral density: -log10 of its luminous transmittance under D50.
pub fn visual_density(density: &Spectrum) -> f64 {
    let luminous = TABLES.d50.times(&TABLES.observer[1]);
    -(luminous.dot(&density.transmittance()) / luminous.sum()).log10()
}

/// A black-and-white paper that comes in grades.
#[derive(Debug, Clone, Deserialize)]
pub struct GradedPaper {
    /// Density of solid black.
    pub dmax: f64,
    /// Absorption of the base.
    pub base: Vec<Peak>,
    /// Density of the base at every wavelength.
    pub flat: f64,
    /// Absorption of the image.
    pub image: Colourant,
}

#[derive(Deserialize)]
struct Materials {
    dye_sets: BTreeMap<String, DyeSet>,
    print_materials: BTreeMap<String, PrintMaterial>,
    bw_papers: BTreeMap<String, GradedPaper>,
    colourants: BTreeMap<String, TonedColourant>,
}

/// What a toner makes of silver.
#[derive(Debug, Clone, Deserialize)]
pub struct TonedColourant {
    /// Visual density of what one unit of silver becomes.
    pub gain: f64,
    /// Absorption of what it becomes.
    #[serde(flatten)]
    pub colourant: ColourantShape,
}

/// [`Colourant`] beside other fields.
#[derive(Debug, Clone, Deserialize)]
pub struct ColourantShape {
    #[serde(default)]
    flat: f64,
    #[serde(default)]
    g: Vec<Peak>,
    #[serde(default)]
    edge: Vec<Peak>,
}

impl TonedColourant {
    /// Spectral density of what one unit of silver becomes.
    pub fn of_one_silver(&self) -> Spectrum {
        let ColourantShape { flat, g, edge } = self.colourant.clone();
        Colourant { flat, g, edge }.unit_density() * self.gain
    }
}

static MATERIALS: LazyLock<Materials> = LazyLock::new(|| {
    serde_json::from_str(include_str!("../../data/materials.json"))
        .expect("the built-in materials are valid, as their test shows")
});

/// Dyes by name.
pub fn dye_set(name: &str) -> Option<&'static DyeSet> {
    MATERIALS.dye_sets.get(name)
}

/// A print material by name.
pub fn print_material(name: &str) -> Option<&'static PrintMaterial> {
    MATERIALS.print_materials.get(name)
}

/// A toned colourant by name.
pub fn toned(name: &str) -> Option<&'static TonedColourant> {
    MATERIALS.colourants.get(name)
}

/// A paper by name.
pub fn graded_paper(name: &str) -> Option<&'static GradedPaper> {
    MATERIALS.bw_papers.get(name)
}

/// The spectrum of a viewing light by name.
pub fn viewing_light(name: &str) -> Option<Spectrum> {
    match name {
        "D50" => Some(TABLES.d50),
        "D55" => Some(TABLES.d55),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn all_materials_refer_to_what_exists() {
        for (name, material) in &MATERIALS.print_materials {
            assert!(dye_set(&material.dyes).is_some(), "{name}");
            assert!(viewing_light(&material.view).is_some(), "{name}");
        }
        for (name, paper) in &MATERIALS.bw_papers {
            let unit = paper.image.unit_density();
            assert!((visual_density(&unit) - 1.0).abs() < 0.05, "{name}: {}", visual_density(&unit));
        }
    }
}
