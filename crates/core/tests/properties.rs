//! Properties that hold for every stock and every value, not only for examples.

use amber_core::stations;
use std::sync::Arc;

use amber_core::colour::gamut;
use amber_core::controls::{Kind, Value};
use amber_core::picture::buffer::{LayerExposure, SceneLight};
use amber_core::render::{Finish, GrainShown, RenderRequest, Scaled, Watch};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::Viewing;
use amber_core::stations::scene::{SceneSettings, SceneStage};
use amber_core::{Catalogue, Development, Picture, Region, Source, Station, Stock};
use proptest::prelude::*;
use rayon::prelude::*;
use support::forgetful as renderer;

mod support;

/// The 256 greys of an 8-bit picture, developed, without grain.
fn grey_ramp(stock: &Stock, development: &Development) -> Vec<[f64; 3]> {
    let decode = amber_core::colour::transfer::decode_srgb;
    let source = Source::from_linear_srgb(256, 1, |x, _| [decode(x as f64 / 255.0); 3]);
    let scaled = Scaled::full(Arc::new(source), "greys");
    let request = RenderRequest {
        scaled: &scaled,
        stock,
        development,
        region: Region::whole(256, 1),
        grain: GrainShown::Off,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let pixels = renderer().display_16_bit(&request, Watch::NONE).unwrap();
    pixels.chunks(3).map(|p| [p[0], p[1], p[2]].map(|v| v as f64 / 257.0)).collect()
}

#[test]
fn grey_ramps_rise_without_a_band() {
    // mottle is on the film whether grain is shown or not
    for stock in Catalogue::all().iter().filter(|s| s.mottle.is_none()) {
        let mut development = Development::new(stock);
        // a coating lies unevenly on the print, whatever was printed
        for id in ["tone.coating.edge", "tone.coating.uneven"] {
            development.set(stock, id, Value::Number(0.0)).unwrap();
        }
        let ramp = grey_ramp(stock, &development);
        for pair in ramp.windows(2) {
            for k in 0..3 {
                let step = pair[1][k] - pair[0][k];
                assert!(step > -0.01, "{}: {pair:?} falls", stock.id);
                // the model's own figures: at most 1.9 of 255 between neighbours, more for line film and hard paper
                let most = match stock.id.as_str() {
                    "blackthorn" => 3.7,
                    "hawthorn" => 2.5,
                    _ => 1.9,
                };
                assert!(step <= most, "{}: {pair:?} jumps", stock.id);
            }
        }
    }
}

/// Film and viewing of a development.
fn prepared(stock: &Stock, development: &Development) -> (FilmResponse, Viewing) {
    let values = development.values(stock);
    let film = FilmResponse::new(stock, &FilmSettings::read(&values), &BathSettings::read(&values));
    let viewing = Viewing::of(&film, &values).unwrap();
    (film, viewing)
}

/// L* of the 256 greys on the exact way, without grain.
fn exact_lightness(stock: &Stock, development: &Development, (film, viewing): &(FilmResponse, Viewing)) -> Vec<f64> {
    let decode = amber_core::colour::transfer::decode_srgb;
    let source = Source::from_linear_srgb(256, 1, |x, _| [decode(x as f64 / 255.0); 3]);
    let values = development.values(stock);
    let scene = SceneSettings::read(&values);
    let light = SceneStage::measured(&scene, stock, &source).light(&source, source.region());
    let density = film.develop(film.expose(light, 2f32.powf(scene.exposure_stops as f32)));
    let last = density.plane_count() - 1;
    (0..256)
        .map(|i| {
            let rgb = viewing.linear_srgb([0, 1, 2].map(|k: usize| density.plane(k.min(last))[i]));
            amber_core::colour::lab::from_linear_srgb(gamut::compress(rgb.map(f64::from)))[0]
        })
        .collect()
}

#[test]
fn a_ramp_rises_at_the_ends_of_every_range() {
    Catalogue::all().par_iter().for_each(|stock| {
        let own = prepared(stock, &Development::new(stock));
        for control in stations::all().filter(|c| (c.applies)(stock)) {
            let ends = match control.kind {
                Kind::Scalar { low, high, .. } => vec![Value::Number(low), Value::Number(high)],
                Kind::Choice(list) => list.iter().map(|o| Value::Choice(o.id.into())).collect(),
                Kind::Switch => vec![Value::Switch(true), Value::Switch(false)],
                // a veil on one layer alone restrains its neighbours: a gentle bend is asked for there
                Kind::Curve if control.id.starts_with("scene.curve.") && !control.id.ends_with("master") => {
                    vec![Value::Curve(vec![[0.0, 4.0], [50.0, 42.0], [100.0, 94.0]])]
                }
                Kind::Curve => vec![Value::Curve(vec![[0.0, 20.0], [50.0, 35.0], [100.0, 80.0]])],
                Kind::Mask | Kind::Colour | Kind::ChoiceOrPicture(_) => continue,
            };
            for end in ends {
                let mut development = Development::new(stock);
                development.set(stock, control.id, end.clone()).unwrap();
                // under a strong cast single channels may bend; the lightness of the print may not
                let ramp = if control.station == Station::Scene {
                    exact_lightness(stock, &development, &own)
                } else {
                    exact_lightness(stock, &development, &prepared(stock, &development))
                };
                // a print with a cast that changes along the ramp may bend a little where one of its hues is lightened
                let casts = ["print.band.", "scene.curve.", "scene.balance."].iter().any(|c| control.id.starts_with(c));
                // infrared is estimated from colours: a cast of the scene makes leaves of greys
                let bend = if casts && stock.nir.is_some() {
                    1.0
                } else if casts {
                    0.5
                } else {
                    0.05
                };
                let fall = ramp.windows(2).map(|p| p[0] - p[1]).fold(0.0, f64::max);
                assert!(fall <= bend, "{}: {} at {end} falls by {fall}", stock.id, control.id);
            }
        }
    });
}

/// Density of the layers for one colour of linear scene light.
fn densities(film: &FilmResponse, light: [f32; 3]) -> Vec<f32> {
    let planes = light.iter().map(|v| vec![*v]).collect();
    let light: Picture<SceneLight> = Picture::from_planes(Region::whole(1, 1), planes);
    film.develop(film.expose(light, 1.0)).planes().iter().map(|p| p[0]).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// More exposure of one layer never turns that layer back, whatever its neighbours restrain (colours within 2 log).
    #[test]
    fn a_layer_follows_its_own_exposure(r in 0.02..2.0f32, g in 0.02..2.0f32, b in 0.02..2.0f32, layer in 0usize..3) {
        for stock in Catalogue::all().iter().filter(|s| s.layers() == 3) {
            let film = FilmResponse::own(stock);
            let density = |factor: f32| {
                let mut planes = [r, g, b].map(|v| vec![v]).to_vec();
                planes[layer][0] *= factor;
                let exposure: Picture<LayerExposure> = Picture::from_planes(Region::whole(1, 1), planes);
                film.develop(exposure).plane(layer)[0]
            };
            let gain = density(1.05) - density(1.0);
            let forward = if film.curves[layer].reversal { -gain } else { gain };
            prop_assert!(forward > -1e-4, "{}: {gain}", stock.id);
        }
    }

    /// Any light, however wrong, gives finite densities inside the curve's limits.
    #[test]
    fn wild_colours_stay_finite(r in -50.0..50.0f32, g in -50.0..50.0f32, b in -50.0..50.0f32) {
        for stock in Catalogue::all() {
            let film = FilmResponse::own(stock);
            for (d, curve) in densities(&film, [r, g, b]).iter().zip(&film.curves) {
                prop_assert!(d.is_finite() && *d as f64 <= curve.shape.dmax + 1e-4);
            }
        }
    }

    /// A development survives its file, with any values that its controls take.
    #[test]
    fn developments_survive_their_files(shares in proptest::collection::vec(0.0..1.0f64, 320), seed: u32) {
        let stock = Catalogue::first();
        let mut development = Development::new(&stock);
        development.seed = seed;
        let sky = r#"{"name":"Sky","parts":[{"kind":"linear","from":[0.5,0.1],"to":[0.5,0.6]}],"feather":0.01}"#;
        development.masks.insert("sky".into(), serde_json::from_str(sky).unwrap());
        for (control, share) in stations::all().zip(shares) {
            let value = match control.kind {
                Kind::Scalar { low, high, .. } => Value::Number(low + share * (high - low)),
                Kind::Choice(list) => Value::Choice(list[(share * list.len() as f64) as usize].id.into()),
                Kind::Switch => Value::Switch(share > 0.5),
                Kind::Curve => Value::Curve(vec![[0.0, 100.0 * share], [50.0, 40.0], [100.0, 90.0]]),
                Kind::Mask => Value::Choice("not sky".into()),
                Kind::ChoiceOrPicture(list) => Value::Choice(list[(share * list.len() as f64) as usize].id.into()),
                Kind::Colour => Value::of_colour([(255.0 * share) as u8, 40, 90]),
            };
            development.set(&stock, control.id, value).unwrap();
        }
        prop_assert_eq!(Development::from_json(&development.to_json()).unwrap(), development);
    }

    /// Cells of the tile grid cover a region once and never leave the frame.
    #[test]
    fn cells_cover_any_region_once(
        width in 1u32..900, height in 1u32..900, x in 0u32..900, y in 0u32..900, w in 1u32..900, h in 1u32..900,
    ) {
        let frame = Region::whole(width, height);
        let region = Region::new(x, y, w, h);
        let cells = region.cells(256, &frame);
        let wanted = region.intersect(&frame).map_or(0, |r| r.pixels());
        let covered: usize = cells.iter().filter_map(|c| c.intersect(&region)).map(|r| r.pixels()).sum();
        prop_assert_eq!(covered, wanted);
        prop_assert!(cells.iter().all(|c| frame.contains(c) && !c.is_empty()));
    }
}
