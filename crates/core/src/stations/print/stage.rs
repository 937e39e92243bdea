//! The Print station applied to tiles.

use multiversion::multiversion;

use super::colour_print::{ColourPrint, Enlarger};
use super::graded_print::GradedPrint;
use super::settings::PrintSettings;
use super::table::{self, ABOVE_DMAX, PrintTable, encode_working};
use super::transparency::DyePicture;
use crate::colour::space::SRGB_TO_WIDE;
use crate::colour::transfer::{decode_srgb, decode_srgb_f32, encode_srgb};
use crate::error::CoreError;
use crate::numeric::Sampled;
use crate::numeric::quadrature::normal_nodes;
use crate::picture::Picture;
use crate::picture::buffer::{LayerDensity, Reflectance};
use crate::stations::film::FilmResponse;
use crate::stations::film::grain::UnresolvedGrain;
use crate::stock::{Stock, StockKind};

/// Samples of density in the table of a single-layer film.
const SINGLE_SAMPLES: usize = 512;

/// The exact way from the film's densities to a picture: no table.
#[derive(Debug, Clone)]
pub enum Viewing {
    Print(ColourPrint),
    Slide(DyePicture),
    Silver(GradedPrint),
}

impl Viewing {
    pub fn new(stock: &Stock, film: &FilmResponse, settings: &PrintSettings) -> Result<Self, CoreError> {
        let log_exposure = 2f64.log10() * settings.exposure_stops;
        let made = match stock.kind {
            StockKind::ColourNegative => {
                let enlarger = Enlarger { log_exposure, filtration_cc: settings.filtration_cc };
                ColourPrint::new(stock, &film.curves, film.grey, enlarger).map(Self::Print)
            }
            StockKind::Reversal => {
                let shapes = std::array::from_fn(|i| film.curves[i].shape);
                DyePicture::of_slide(stock, shapes).map(Self::Slide)
            }
            StockKind::BlackAndWhiteNegative => {
                GradedPrint::new(stock, &film.curves[0], film.grey, settings.grade, log_exposure).map(Self::Silver)
            }
        };
        made.ok_or_else(|| CoreError::StockFile { why: format!("'{}' names a material that is not there", stock.id) })
    }

    /// Linear sRGB, unbounded, for the densities of the layers (one value counts for a single-layer film).
    pub fn linear_srgb(&self, densities: [f32; 3]) -> [f32; 3] {
        match self {
            Self::Print(print) => print.linear_srgb(densities),
            Self::Slide(slide) => slide.linear_srgb(densities),
            Self::Silver(print) => print.linear_srgb(densities[0] as f64).map(|v| v as f32),
        }
    }
}

/// Print as tables, ready for tiles.
#[derive(Debug, Clone)]
pub enum PrintStage {
    Colour(PrintTable),
    Single([Sampled; 3]),
}

impl PrintStage {
    /// The tables for grain that is shown in full.
    pub fn new(viewing: &Viewing, film: &FilmResponse) -> Self {
        let highest = |i: usize| film.curves[i].shape.dmax + ABOVE_DMAX;
        if film.layers() == 3 {
            let ends = [highest(0), highest(1), highest(2)];
            return Self::Colour(PrintTable::build(ends, &|d| viewing.linear_srgb(d)));
        }
        let to_wide = SRGB_TO_WIDE.to_f32();
        let step = highest(0) / (SINGLE_SAMPLES - 1) as f64;
        let samples: Vec<[f32; 3]> = (0..SINGLE_SAMPLES)
            .map(|i| encode_working(viewing.linear_srgb([(step * i as f64) as f32; 3]), &to_wide))
            .collect();
        Self::Single(std::array::from_fn(|k| {
            Sampled::from_values(0.0, highest(0), samples.iter().map(|v| v[k]).collect())
        }))
    }

    /// The same tables, smoothed by the grain that a reduced render does not show.
    pub fn smoothed(&self, film: &FilmResponse, grain: &UnresolvedGrain) -> Self {
        let nodes = normal_nodes(7);
        match self {
            Self::Colour(table) => Self::Colour(table.smoothed(&nodes, |layer, d| grain.sigma(layer, d))),
            Self::Single(tables) => {
                let highest = film.curves[0].shape.dmax + ABOVE_DMAX;
                let smooth = |table: &Sampled, d: f64| {
                    let s = grain.sigma(0, d);
                    let mean: f64 = nodes
                        .iter()
                        .map(|(x, w)| {
                            let at = (d + s * x + 0.5 * std::f64::consts::LN_10 * s * s).clamp(0.0, highest);
                            w * decode_srgb(table.at(at as f32) as f64)
                        })
                        .sum();
                    encode_srgb(mean)
                };
                let tables = tables.each_ref();
                Self::Single(tables.map(|t| Sampled::new(0.0, highest, SINGLE_SAMPLES, |d| smooth(t, d))))
            }
        }
    }

    /// Reflectance (linear, working space) of a tile of densities.
    pub fn reflect(&self, density: Picture<LayerDensity>) -> Picture<Reflectance> {
        let mut picture: Picture<Reflectance> = match self {
            Self::Colour(table) => {
                let mut density = density;
                if let Some(planes) = density.three_mut() {
                    table::apply(table, planes);
                }
                density.into_quantity()
            }
            Self::Single(tables) => {
                let negative = density.plane(0);
                let planes = tables.iter().map(|t| negative.iter().map(|d| t.at(*d)).collect()).collect();
                Picture::from_planes(density.region, planes)
            }
        };
        for index in 0..picture.plane_count() {
            to_linear(picture.plane_mut(index));
        }
        picture
    }
}

#[multiversion(targets("x86_64+avx2", "x86_64+sse4.1"))]
fn to_linear(plane: &mut [f32]) {
    for v in plane {
        *v = decode_srgb_f32(*v);
    }
}
