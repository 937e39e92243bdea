//! The plane of readings: what the densitometer shows, for a small picture of the frame, so that the pointer needs no
//! request.

use amber_core::colour::hue_bands;
use amber_core::colour::lab::{Lab as CieLab, from_linear_srgb};
use amber_core::colour::oklab::WideToOklab;
use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::colour::transfer::{decode_srgb, encode_srgb};
use amber_core::picture::buffer::{LayerDensity, LayerExposure, Reflectance};
use amber_core::picture::reduce::Level;
use amber_core::render::{Finish, GrainShown, RenderRequest, Scaled};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::hue_sensitivity;
use amber_core::stations::film::placement::MID_GREY;
use amber_core::stations::film::settings::HUES;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::Viewing;
use amber_core::stations::scene::{SceneSettings, SceneStage};
use amber_core::{Development, Picture, Region, Source, Stock, stations};

use crate::Lab;
use crate::error::LabError;
use crate::hands::Hands;
use crate::sources::Care;
use crate::waiting::{self, Waiting};

/// Long edge of the plane.
pub(crate) const LONG_EDGE: u32 = 240;
/// Marks of a pixel.
pub const BLOWN: i16 = 1;
pub const BLOCKED: i16 = 2;
pub const BANDING: i16 = 4;
/// L* within which a tone counts as bare paper or solid black.
const END_TOLERANCE: f64 = 0.6;
/// Steps of the print for one step of an 8-bit picture from which bands are to be feared.
const BAND_STEP: f64 = 2.0;

/// Readings as 16-bit integers, plane after plane: scene exposure in stops from mid grey x 256; density of three layers
/// now and in the stock x 4096; L*, a*, b* x 100; marks.
#[derive(Debug)]
pub struct ReadingPlane {
    pub width: u32,
    pub height: u32,
    pub layers: usize,
    pub values: Vec<i16>,
}

/// What is read at a place, the mean of 5 x 5 pixels.
#[derive(Debug, Clone, PartialEq)]
pub struct Spot {
    /// Scene exposure in stops from mid grey.
    pub stops: f64,
    /// Density of each layer, now and on the stock as it is.
    pub density: Vec<f64>,
    pub stock_density: Vec<f64>,
}

impl ReadingPlane {
    /// The reading at a place, in shares of width and height.
    pub fn spot(&self, place: [f64; 2]) -> Spot {
        let around = spot(Region::whole(self.width, self.height), place);
        let size = (self.width * self.height) as usize;
        let mean = |plane: usize| {
            let rows = around.y..around.bottom();
            let at = rows.flat_map(|y| (around.x..around.right()).map(move |x| (y * self.width + x) as usize));
            let sum: f64 = at.map(|i| f64::from(self.values[plane * size + i])).sum();
            sum / around.pixels() as f64
        };
        let densities = |from: usize| (0..self.layers).map(|k| mean(from + k) / 4096.0).collect();
        Spot { stops: mean(0) / 256.0, density: densities(1), stock_density: densities(4) }
    }
}

/// How much one hue band has of a colour.
#[derive(Debug, Clone, PartialEq)]
pub struct HueShare {
    /// The control of its sensitivity.
    pub id: &'static str,
    pub label: &'static str,
    pub share: f32,
}

/// What was measured on a small picture of the frame.
pub(crate) struct Measured {
    pub region: Region,
    pub exposure: Picture<LayerExposure>,
    pub density: Picture<LayerDensity>,
    pub lab: Vec<CieLab>,
    pub marks: Vec<i16>,
}

impl Lab {
    pub(crate) fn measured_at(
        &self,
        frame: i64,
        development: &Development,
        stock: &Stock,
        long_edge: u32,
    ) -> Result<Scaled, LabError> {
        let summary = self.library.frame(frame)?.summary;
        let level = Level::covering(long_edge, summary.width, summary.height);
        let waiting = Waiting::here();
        let hands = Hands { pool: self.renderer.pool(), over: &|| waiting.is_over() };
        self.source_of(&summary, level, development, stock, Care::Quick, hands)
    }

    /// Exposure of the layers on a small picture of the frame.
    pub(crate) fn exposure(
        &self,
        frame: i64,
        development: &Development,
        stock: &Stock,
        long_edge: u32,
    ) -> Result<Picture<LayerExposure>, LabError> {
        let scaled = self.measured_at(frame, development, stock, long_edge)?;
        let region = scaled.source.region();
        let request = RenderRequest {
            scaled: &scaled,
            stock,
            development,
            region,
            grain: GrainShown::Off,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let waiting = Waiting::here();
        Ok(self.renderer.exposure(&request, waiting::until(&|| waiting.is_over()))?)
    }

    pub(crate) fn measured(
        &self,
        frame: i64,
        development: &Development,
        stock: &Stock,
        long_edge: u32,
    ) -> Result<(Scaled, Measured), LabError> {
        let scaled = self.measured_at(frame, development, stock, long_edge)?;
        let region = scaled.source.region();
        let request = RenderRequest {
            scaled: &scaled,
            stock,
            development,
            region,
            grain: GrainShown::Off,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let waiting = Waiting::here();
        let over = || waiting.is_over();
        let exposure = self.renderer.exposure(&request, waiting::until(&over))?;
        let density = self.renderer.density(&request, waiting::until(&over))?;
        let reflectance = self.renderer.reflectance(&request, waiting::until(&over))?;
        let lab = labs(&reflectance);
        let marks = marks(&scaled.source, &lab, development, stock)?;
        Ok((scaled, Measured { region, exposure, density, lab, marks }))
    }

    /// The readings of a frame under a development.
    pub fn plane(&self, frame: i64, development: &Development) -> Result<ReadingPlane, LabError> {
        let stock = self.library.stock_of(development)?;
        let (scaled, measured) = self.measured(frame, development, &stock, LONG_EDGE)?;
        let region = measured.region;
        let off = development.off.iter().filter(|id| stations::lamp_stays_with_the_picture(id)).cloned().collect();
        let untuned = Development { values: of_the_picture(development), off, ..development.clone() };
        let request = RenderRequest {
            scaled: &scaled,
            stock: &stock,
            development: &untuned,
            region,
            grain: GrainShown::Off,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let waiting = Waiting::here();
        let stock_density = self.renderer.density(&request, waiting::until(&|| waiting.is_over()))?;
        let layers = measured.density.plane_count();
        let mut values = Vec::with_capacity(11 * region.pixels());
        let whole = |v: f64| v.round().clamp(-32767.0, 32767.0) as i16;
        let exposure = measured.exposure.plane(if layers == 3 { 1 } else { 0 });
        values.extend(exposure.iter().map(|e| whole(256.0 * (*e as f64 / MID_GREY).log2())));
        for density in [&measured.density, &stock_density] {
            for k in 0..3usize {
                values.extend(density.plane(k.min(layers - 1)).iter().map(|d| whole(4096.0 * *d as f64)));
            }
        }
        for k in 0..3 {
            values.extend(measured.lab.iter().map(|lab| whole(100.0 * lab[k])));
        }
        values.extend(&measured.marks);
        Ok(ReadingPlane { width: region.width, height: region.height, layers, values })
    }

    /// Which hue bands move when the colour at a place of the frame (shares of its width and height) is dragged.
    pub fn hues_at(&self, frame: i64, development: &Development, place: [f64; 2]) -> Result<Vec<HueShare>, LabError> {
        let stock = self.library.stock_of(development)?;
        let scaled = self.measured_at(frame, development, &stock, LONG_EDGE)?;
        let region = spot(scaled.source.region(), place);
        let request = RenderRequest {
            scaled: &scaled,
            stock: &stock,
            development,
            region,
            grain: GrainShown::Off,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let waiting = Waiting::here();
        let light = self.renderer.scene_light(&request, waiting::until(&|| waiting.is_over()))?;
        let mean = [0, 1, 2].map(|k| light.plane(k).iter().sum::<f32>() / light.plane(k).len() as f32);
        let shares = hue_sensitivity::weights_of(&WideToOklab::new(), mean);
        let bands = HUES.iter().zip(hue_bands::NAMES).zip(shares);
        Ok(bands.map(|((control, label), share)| HueShare { id: control.id, label, share }).collect())
    }
}

/// The 5 x 5 pixels around a place, given as shares of the frame's width and height.
pub(crate) fn spot(frame: Region, place: [f64; 2]) -> Region {
    let at = |share: f64, size: u32| ((share.clamp(0.0, 1.0) * f64::from(size)) as u32).min(size - 1);
    Region::new(at(place[0], frame.width), at(place[1], frame.height), 1, 1).grown(2, &frame)
}

/// Bare paper, solid black, and where the print stretches the steps of an 8-bit picture apart.
fn marks(source: &Source, lab: &[CieLab], development: &Development, stock: &Stock) -> Result<Vec<i16>, LabError> {
    let values = development.values(stock);
    let film = FilmResponse::new(stock, &FilmSettings::read(&values), &BathSettings::read(&values));
    let viewing = Viewing::of(&film, &values)?;
    let end = |log_exposure: f64| {
        let curve = |i: usize| film.curves[i.min(film.layers() - 1)];
        let densities = [0, 1, 2].map(|i| curve(i).density(log_exposure) as f32);
        from_linear_srgb(viewing.linear_srgb(densities).map(f64::from))[0].min(100.0)
    };
    let (black, white) = (end(-6.0), end(5.0));
    let steps = steps_of_greys(&SceneSettings::read(&values), &film, &viewing);
    let codes = source.display_8_bit(source.region());
    let mark = |(tone, code): (&CieLab, &[u8])| {
        let grey = code[0].max(code[1]).max(code[2]);
        let mut mark = 0;
        if tone[0] > white - END_TOLERANCE {
            mark |= BLOWN;
        } else if tone[0] < black + END_TOLERANCE {
            mark |= BLOCKED;
        } else if steps[grey as usize] > BAND_STEP {
            mark |= BANDING;
        }
        mark
    };
    Ok(lab.iter().zip(codes.chunks_exact(3)).map(mark).collect())
}

/// For each 8-bit grey: how far the print goes from it to the next, in steps of 255.
fn steps_of_greys(scene: &SceneSettings, film: &FilmResponse, viewing: &Viewing) -> Vec<f64> {
    let ramp = Source::from_linear_srgb(256, 1, |x, _| [decode_srgb(x as f64 / 255.0); 3]);
    let light = SceneStage::unmeasured(scene).light(&ramp, ramp.region());
    let density = film.develop(film.expose(light, 2f32.powf(scene.exposure_stops as f32)));
    let last = density.plane_count() - 1;
    let tone = |i: usize| {
        let rgb = viewing.linear_srgb([0, 1, 2].map(|k: usize| density.plane(k.min(last))[i]));
        255.0 * encode_srgb(f64::from(rgb[1]).clamp(0.0, 1.0))
    };
    (0..256).map(|i| (tone((i + 1).min(255)) - tone(i)).abs()).collect()
}

/// The values that belong to the picture, not to the tuning.
fn of_the_picture(development: &Development) -> std::collections::BTreeMap<String, amber_core::controls::Value> {
    let belongs = |id: &str| amber_core::stations::find(id).is_ok_and(|c| c.stays_with_the_picture());
    development.values.iter().filter(|(id, _)| belongs(id)).map(|(id, v)| (id.clone(), v.clone())).collect()
}

fn labs(print: &Picture<Reflectance>) -> Vec<CieLab> {
    let planes = [print.plane(0), print.plane(1), print.plane(2)];
    (0..print.region.pixels()).map(|i| from_linear_srgb(WIDE_TO_SRGB.apply(planes.map(|p| p[i] as f64)))).collect()
}
