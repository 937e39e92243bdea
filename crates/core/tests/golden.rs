//! The exact spectral path (no table, no grain) against vectors computed by an independent prototype of the film
//! model. `data/golden.json` holds the prototype's numbers: eight encoded colours in, encoded colours times 255 out.

use std::collections::BTreeMap;
use std::sync::LazyLock;

use amber_core::colour::gamut;
use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::colour::transfer::{decode_srgb, encode_srgb};
use amber_core::picture::Region;
use amber_core::picture::buffer::SceneLight;
use amber_core::stations::bath::{BathSettings, mottle};
use amber_core::stations::film::layer_matrix::layer_matrix;
use amber_core::stations::film::near_infrared::InfraredEstimate;
use amber_core::stations::film::placement::placed_curves;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::lens::LensFilter;
use amber_core::stations::print::settings::PaperChoice;
use amber_core::stations::print::{PrintSettings, Viewing, screen};
use amber_core::stations::scene::{SceneSettings, SceneStage};
use amber_core::stations::tone;
use amber_core::stations::tone::settings::Toner;
use amber_core::{Catalogue, Picture, Source, Stock};
use serde::Deserialize;

type Colours = Vec<[f64; 3]>;

#[derive(Deserialize)]
struct Golden {
    input_srgb8: Colours,
    #[serde(rename = "scene_light_q0.85")]
    scene_light: Colours,
    stocks: BTreeMap<String, Colours>,
    density: BTreeMap<String, Vec<Layers>>,
    exposure: BTreeMap<String, BTreeMap<String, Colours>>,
    push: BTreeMap<String, BTreeMap<String, Colours>>,
    filtration: BTreeMap<String, BTreeMap<String, Colours>>,
    lens_filter: BTreeMap<String, BTreeMap<String, Colours>>,
    cross: BTreeMap<String, Colours>,
    baths: BTreeMap<String, Colours>,
    processes: BTreeMap<String, Colours>,
    pigment: BTreeMap<String, Colours>,
    nir: BTreeMap<String, Vec<f64>>,
    mottle: MottleVectors,
    screen_mosaic: MosaicVectors,
    layer_matrix: BTreeMap<String, Vec<[f64; 3]>>,
    log_exposure_offset_grey: BTreeMap<String, Placement>,
}

/// One value per layer; a single layer is written without brackets.
#[derive(Deserialize)]
#[serde(untagged)]
enum Layers {
    One(f64),
    Several(Vec<f64>),
}

impl Layers {
    fn list(&self) -> &[f64] {
        match self {
            Self::One(v) => std::slice::from_ref(v),
            Self::Several(list) => list,
        }
    }
}

#[derive(Deserialize)]
struct Placement {
    x0: Layers,
    density_at_grey: Layers,
}

#[derive(Deserialize)]
struct MottleVectors {
    seed: u32,
    #[serde(rename = "x_um,y_um")]
    places: Vec<[f64; 2]>,
    common: Vec<f64>,
    layers: Vec<Vec<f64>>,
}

#[derive(Deserialize)]
struct MosaicVectors {
    seed: u32,
    #[serde(rename = "x_um,y_um")]
    places: Vec<[f64; 2]>,
    index: Vec<usize>,
    #[serde(rename = "coverage_pitch10_px0..3_row0")]
    coverage: Vec<[f32; 4]>,
}

static GOLDEN: LazyLock<Golden> =
    LazyLock::new(|| serde_json::from_str(include_str!("data/golden.json")).expect("golden.json"));

/// Tolerance of encoded results, of 255.
const TOLERANCE: f64 = 0.02;

/// The stocks that are films; the historic processes have vectors of their own.
fn films() -> impl Iterator<Item = &'static Stock> {
    let all = Catalogue::all().iter().map(|s| s.as_ref());
    all.filter(|s| s.process.is_none() && s.plate.is_none())
}

fn scene_light(exposure_stops: f64, stock: &Stock) -> Picture<SceneLight> {
    let input = &GOLDEN.input_srgb8;
    let source =
        Source::from_linear_srgb(input.len() as u32, 1, |x, _| input[x as usize].map(|v| decode_srgb(v / 255.0)));
    let settings = SceneSettings { exposure_stops, ..SceneSettings::own(stock) };
    SceneStage::unmeasured(&settings).light(&source, source.region())
}

fn densities(film: &FilmResponse, exposure_stops: f64, stock: &Stock) -> Vec<Vec<f32>> {
    let gain = 2f32.powf(exposure_stops as f32);
    let density = film.develop(film.expose(scene_light(exposure_stops, stock), gain));
    (0..GOLDEN.input_srgb8.len()).map(|i| density.planes().iter().map(|p| p[i]).collect()).collect()
}

fn develop(stock: &Stock, exposure_stops: f64, push_stops: f64) -> Colours {
    let film = FilmSettings { push_stops, ..FilmSettings::own(stock) };
    print(stock, exposure_stops, &film, &BathSettings::own(stock), &PrintSettings::own(stock))
}

fn print(
    stock: &Stock,
    exposure_stops: f64,
    film: &FilmSettings,
    bath: &BathSettings,
    settings: &PrintSettings,
) -> Colours {
    let film = FilmResponse::new(stock, film, bath);
    let viewing = Viewing::new(&film, settings).expect("materials");
    densities(&film, exposure_stops, stock)
        .iter()
        .map(|d| {
            let d = if d.len() == 3 { [d[0], d[1], d[2]] } else { [d[0]; 3] };
            gamut::compress(viewing.linear_srgb(d).map(f64::from)).map(|v| 255.0 * encode_srgb(v.max(0.0)))
        })
        .collect()
}

fn assert_close(ours: &[[f64; 3]], golden: &[[f64; 3]], what: &str) {
    for (i, (a, b)) in ours.iter().zip(golden).enumerate() {
        for k in 0..3 {
            assert!((a[k] - b[k]).abs() < TOLERANCE, "{what}, colour {i}: {a:?} instead of {b:?}");
        }
    }
}

#[test]
fn scene_light_as_in_the_model() {
    let light = scene_light(0.0, &Catalogue::first());
    for (i, golden) in GOLDEN.scene_light.iter().enumerate() {
        let wide = [0, 1, 2].map(|k| light.plane(k)[i] as f64);
        for (a, b) in WIDE_TO_SRGB.apply(wide).iter().zip(golden) {
            assert!((a - b).abs() < 2e-5 * (1.0 + b), "colour {i}: {a} {b}");
        }
    }
}

#[test]
fn layer_matrices() {
    for stock in films() {
        for (row, golden) in layer_matrix(stock, &LensFilter::none()).iter().zip(&GOLDEN.layer_matrix[&stock.id]) {
            for (a, b) in row.iter().zip(golden) {
                assert!((a - b).abs() < 3e-5, "{}: {row:?} {golden:?}", stock.id);
            }
        }
    }
}

#[test]
fn placement_by_speed() {
    for stock in films() {
        let golden = &GOLDEN.log_exposure_offset_grey[&stock.id];
        let film = FilmResponse::own(stock);
        for (i, curve) in placed_curves(stock).iter().enumerate() {
            assert!(
                (curve.x0 - golden.x0.list()[i]).abs() < 1e-5,
                "{}: {} {}",
                stock.id,
                curve.x0,
                golden.x0.list()[i]
            );
            assert!((curve.density(film.grey) - golden.density_at_grey.list()[i]).abs() < 1e-5, "{}", stock.id);
        }
    }
}

#[test]
fn film_densities() {
    for stock in films() {
        let film = FilmResponse::own(stock);
        for (ours, golden) in densities(&film, 0.0, stock).iter().zip(&GOLDEN.density[&stock.id]) {
            for (a, b) in ours.iter().zip(golden.list()) {
                assert!((*a as f64 - b).abs() < 4e-5, "{}: {ours:?} {:?}", stock.id, golden.list());
            }
        }
    }
}

#[test]
fn stocks_with_their_own_values() {
    for stock in films() {
        assert_close(&develop(stock, 0.0, 0.0), &GOLDEN.stocks[&stock.id], &stock.id);
    }
}

#[test]
fn historic_processes() {
    for (id, golden) in &GOLDEN.processes {
        let stock = Catalogue::find(id).unwrap();
        // the plates' prototype read its curve from a table of 512 samples
        let tolerance = if stock.plate.is_some() { 0.06 } else { TOLERANCE };
        for (i, (a, b)) in develop(&stock, 0.0, 0.0).iter().zip(golden).enumerate() {
            assert!((0..3).all(|k| (a[k] - b[k]).abs() < tolerance), "{id}, colour {i}: {a:?} instead of {b:?}");
        }
    }
}

#[test]
fn gum_of_other_pigments() {
    let stock = Catalogue::find("gum").unwrap();
    for (pigment, golden) in &GOLDEN.pigment {
        let rgb: Vec<u8> = pigment.trim_matches(['(', ')']).split(", ").map(|v| v.parse().unwrap()).collect();
        let mut settings = PrintSettings::own(&stock);
        settings.pigment = Some([rgb[0], rgb[1], rgb[2]]);
        let found = print(&stock, 0.0, &FilmSettings::own(&stock), &BathSettings::own(&stock), &settings);
        assert_close(&found, golden, pigment);
    }
}

#[test]
fn toner_baths() {
    let stock = Catalogue::find("alder").unwrap();
    for (name, golden) in &GOLDEN.baths {
        let (paper, baths) = name.split_once(": ").unwrap();
        assert_eq!(paper, "alder, glossy-neutral, grade 2");
        let mut settings = PrintSettings::own(&stock);
        settings.paper = PaperChoice { surface: Some("gloss".into()), tone: Some("neutral".into()), material: None };
        settings.grade = 2.0;
        settings.baths = baths
            .split(", ")
            .map(|bath| {
                let (toner, time) = bath.split_once(' ').unwrap();
                let toner = match toner {
                    "sepia" => Toner::Sepia,
                    "selenium" => Toner::Selenium,
                    "gold" => Toner::Gold,
                    "copper" => Toner::Copper,
                    _ => Toner::Iron,
                };
                tone::settings::BathSettings { toner, time: time.parse().unwrap(), strength: 1.0 }
            })
            .collect();
        let found = print(&stock, 0.0, &FilmSettings::own(&stock), &BathSettings::own(&stock), &settings);
        assert_close(&found, golden, name);
    }
}

#[test]
fn exposure_before_the_film() {
    let mut compared = 0;
    for stock in Catalogue::all() {
        let Some(cases) = GOLDEN.exposure.get(&stock.id) else { continue };
        for (stops, golden) in cases {
            let what = format!("{} {stops} stops", stock.id);
            assert_close(&develop(stock, stops.parse().unwrap(), 0.0), golden, &what);
            compared += 1;
        }
    }
    assert_eq!(compared, 28);
}

#[test]
fn push_and_pull() {
    let mut compared = 0;
    for stock in Catalogue::all() {
        let Some(cases) = GOLDEN.push.get(&stock.id) else { continue };
        for (stops, golden) in cases {
            let what = format!("{} pushed {stops}", stock.id);
            assert_close(&develop(stock, 0.0, stops.parse().unwrap()), golden, &what);
            compared += 1;
        }
    }
    assert_eq!(compared, 20);
}

#[test]
fn filtration() {
    for (id, cases) in &GOLDEN.filtration {
        let stock = Catalogue::find(id).unwrap();
        for (name, golden) in cases {
            // "+10C +0M -5Y", beside the stock's own
            let cc: Vec<f64> = name.split(' ').map(|part| part[..part.len() - 1].parse().unwrap()).collect();
            let own = PrintSettings::own(&stock);
            let filtration_cc = std::array::from_fn(|k| own.filtration_cc[k] + cc[k]);
            let settings = PrintSettings { filtration_cc, ..own };
            let ours = print(&stock, 0.0, &FilmSettings::own(&stock), &BathSettings::own(&stock), &settings);
            assert_close(&ours, golden, &format!("{id} {name}"));
        }
    }
    assert_eq!(GOLDEN.filtration.values().map(|c| c.len()).sum::<usize>(), 12);
}

#[test]
fn crossed_chemistry() {
    for (name, golden) in &GOLDEN.cross {
        let stock = Catalogue::find(name.split(' ').next().unwrap()).unwrap();
        let bath = BathSettings { crossed: true, ..BathSettings::own(&stock) };
        assert_close(&print(&stock, 0.0, &FilmSettings::own(&stock), &bath, &PrintSettings::own(&stock)), golden, name);
    }
    assert_eq!(GOLDEN.cross.len(), 5);
}

#[test]
fn near_infrared_estimate() {
    for (id, golden) in &GOLDEN.nir {
        let stock = Catalogue::find(id).unwrap();
        let estimate = InfraredEstimate::new(stock.nir.as_ref().unwrap());
        let light = scene_light(0.0, &stock);
        for (i, expected) in golden.iter().enumerate() {
            let wide = [0, 1, 2].map(|k| light.plane(k)[i] as f64);
            let ours = estimate.near_infrared(WIDE_TO_SRGB.apply(wide).map(|v| v.max(0.0) as f32));
            assert!((ours as f64 - expected).abs() < 1e-4, "{id}, colour {i}: {ours} {expected}");
        }
    }
}

#[test]
fn mottle_noise() {
    let m = &GOLDEN.mottle;
    let pitch = Catalogue::find("dunlin").unwrap().mottle.as_ref().unwrap().pitch_um;
    for (i, [x, y]) in m.places.iter().enumerate() {
        let common = mottle::noise_at(m.seed, None, pitch, *x, *y);
        assert!((common as f64 - m.common[i]).abs() < 1e-4, "{x},{y}: {common} {}", m.common[i]);
        for layer in 0..3 {
            let own = mottle::noise_at(m.seed, Some(layer), pitch, *x, *y);
            assert!((own as f64 - m.layers[layer as usize][i]).abs() < 1e-4, "{x},{y} layer {layer}: {own}");
        }
    }
}

#[test]
fn mosaic_of_the_screen_plate() {
    let m = &GOLDEN.screen_mosaic;
    let plate = Catalogue::find("parmelia").unwrap();
    let mosaic = plate.screen.as_ref().unwrap();
    for ([x, y], index) in m.places.iter().zip(&m.index) {
        assert_eq!(screen::part_at(mosaic, m.seed, *x, *y), *index, "{x},{y}");
    }
    let row = screen::coverage(mosaic, m.seed, 10.0, Region::whole(4, 1));
    for (ours, golden) in row.iter().zip(&m.coverage) {
        for (a, b) in ours.iter().zip(golden) {
            assert!((a - b).abs() < 1e-6, "{ours:?} {golden:?}");
        }
    }
}

#[test]
fn filters_in_front_of_the_lens() {
    for (id, filters) in &GOLDEN.lens_filter {
        let stock = Catalogue::find(id).unwrap();
        for (name, golden) in filters {
            let filter = match name.strip_prefix("mired ").unwrap_or(name).parse::<f64>() {
                Ok(mired) => LensFilter { mired, ..LensFilter::none() },
                Err(_) => LensFilter { colour: name.clone(), ..LensFilter::none() },
            };
            let film = FilmSettings { filter, ..FilmSettings::own(&stock) };
            let ours = print(&stock, 0.0, &film, &BathSettings::own(&stock), &PrintSettings::own(&stock));
            assert_close(&ours, golden, &format!("{id} through {name}"));
        }
    }
}
