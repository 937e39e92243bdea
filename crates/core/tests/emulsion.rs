//! Measured on the output: granularity, Selwyn's law, neutrality, the print table against the exact path.

use std::sync::Arc;

use amber_core::colour::lab;
use amber_core::colour::space::{SRGB_TO_XYZ, WIDE_TO_SRGB};
use amber_core::controls::Value;
use amber_core::effect::{Effect, FilmFrame};
use amber_core::measure::granularity::{APERTURE_UM, aperture_sigma, rms_granularity, square};
use amber_core::picture::buffer::{LayerDensity, Quantity};
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::grain::GrainStage;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::stage::Tables;
use amber_core::stations::print::{PrintSettings, PrintStage, Viewing};
use amber_core::{Catalogue, Development, Picture, Region, Source, Stock};

/// A plane of one density, grained at a pitch.
fn grained(stock: &Stock, density: f32, pitch_um: f64, side: u32) -> Picture<LayerDensity> {
    let settings = FilmSettings::own(stock);
    let film = FilmResponse::new(stock, &settings, &BathSettings::own(stock));
    let grain = GrainStage::new(&settings, &film, 11, pitch_um).unwrap();
    let region = Region::whole(side, side);
    let planes = vec![vec![density; region.pixels()]; film.layers()];
    let source = Source::from_linear_srgb(side, side, |_, _| [0.2; 3]);
    let frame = FilmFrame::filling(&source, pitch_um * f64::from(side));
    grain.apply(&frame, Picture::from_planes(region, planes), region)
}

fn stated_layer(stock: &Stock) -> usize {
    if stock.layers() == 3 { 1 } else { 0 }
}

/// ISO 10505 (definition from memory): 1000 sigma of density through a 48 um aperture at D = 1.0.
#[test]
fn granularity_is_the_stated_one() {
    for stock in Catalogue::all() {
        for pitch in [3.0, 6.0] {
            let side = (1600.0 * 6.0 / pitch / 2.0) as u32;
            let measured = rms_granularity(&grained(stock, 1.0, pitch, side), stated_layer(stock), pitch, APERTURE_UM);
            let ratio = measured / stock.grain.granularity;
            println!("{} at {pitch} um: {measured:.2}, ratio {ratio:.3}", stock.id);
            assert!((ratio - 1.0).abs() < 0.05, "{} at {pitch} um: {measured}", stock.id);
        }
    }
}

/// The same through the renderer, in every layer and on other sizes of film: a field of light that gives the layer D =
/// 1.
#[test]
fn granularity_is_the_stated_one_through_the_renderer() {
    for (id, size, mm, pitch) in [
        ("tern", "pocket", [17.0, 13.0], 6.0),
        ("heron", "pocket", [17.0, 13.0], 5.0),
        ("juniper", "35", [36.0, 24.0], 9.6),
        ("juniper", "half", [24.0, 18.0], 8.0),
    ] {
        let stock = Catalogue::find(id).unwrap();
        let film = FilmResponse::own(&stock);
        let [width, height] = mm.map(|side| (side * 1000.0 / pitch) as u32);
        let mut development = Development::new(&stock);
        development.set(&stock, "film.size", Value::Choice(size.into())).unwrap();
        // the source as it is: grey, and all else by exposure
        development.set(&stock, "scene.rendering", Value::Number(1.0)).unwrap();
        let source = Source::from_linear_srgb(width, height, |_, _| [0.18; 3]);
        let scaled = Scaled::full(Arc::new(source), "field");
        for layer in 0..stock.layers() {
            let stops = (film.curves[layer].exposure(1.0) - film.grey) / 2f64.log10();
            development.set(&stock, "scene.exposure", Value::Number(stops)).unwrap();
            let request = RenderRequest {
                scaled: &scaled,
                stock: &stock,
                development: &development,
                region: Region::new(width / 4, height / 4, 800, 800),
                grain: GrainShown::Full,
                keep_tiles: false,
                finish: Finish::SCREEN,
            };
            let renderer = Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().build().unwrap()), 0);
            let picture = renderer.density(&request, Watch::NONE).unwrap();
            let plane = picture.plane(layer);
            let density = plane.iter().map(|d| f64::from(*d)).sum::<f64>() / plane.len() as f64;
            let measured = rms_granularity(&picture, layer, pitch, APERTURE_UM) / density.max(0.1).sqrt();
            let ratio = measured / (stock.grain.granularity * stock.grain.layer_ratio[layer]);
            println!("{id} layer {layer} on {size} at {pitch} um: D {density:.2}, ratio {ratio:.3}");
            assert!((ratio - 1.0).abs() < 0.1, "{id} layer {layer} on {size}: {measured:.2}, ratio {ratio:.3}");
        }
    }
}

/// Selwyn's law (1935): sigma times the root of the aperture's area is constant, 96 to 768 um within 4 %.
#[test]
fn selwyns_law() {
    let stock = Catalogue::find("juniper").unwrap();
    let picture = grained(&stock, 0.8, 6.0, 3000);
    let products: Vec<f64> = [16i64, 32, 64, 128]
        .into_iter()
        .map(|side| aperture_sigma(picture.plane(0), 3000, &square(side)) * side as f64)
        .collect();
    let mean = products.iter().sum::<f64>() / products.len() as f64;
    for p in &products {
        assert!((p / mean - 1.0).abs() < 0.04, "{products:?}");
    }
}

/// Boolean model (Newson, Delon, Galerne 2017): through an aperture much larger than a grain the relative variance of
/// transmittance is proportional to the number of grains, so sigma of density goes as the root of density; within 10 %.
#[test]
fn sigma_follows_density_as_in_the_boolean_model() {
    for id in ["alder", "tern", "feldspar"] {
        let stock = Catalogue::find(id).unwrap();
        let layer = stated_layer(&stock);
        let sigma = |d: f32| rms_granularity(&grained(&stock, d, 6.0, 1200), layer, 6.0, APERTURE_UM);
        let at_one = sigma(1.0);
        for d in [0.3f32, 0.6, 1.5, 2.0] {
            let ratio = sigma(d) / (at_one * f64::from(d).sqrt());
            assert!((ratio - 1.0).abs() < 0.10, "{id} at {d}: {ratio:.3}");
        }
    }
}

/// Fine grain keeps the mean transmittance.
#[test]
fn mean_transmittance_is_kept() {
    for stock in Catalogue::all() {
        for density in [0.3f32, 1.0, 1.8] {
            let picture = grained(stock, density, 6.0, 800);
            for plane in picture.planes() {
                let mean = plane.iter().map(|d| 10f64.powf(-*d as f64)).sum::<f64>() / plane.len() as f64;
                assert!((mean * 10f64.powf(density as f64) - 1.0).abs() < 2e-3, "{} {density}", stock.id);
            }
        }
    }
}

/// The grey ramp of a silver print on neutral paper has the colour of the paper's white, within 1.0 in a*b*.
#[test]
fn silver_print_is_neutral() {
    let stock = Catalogue::find("juniper").unwrap();
    let source = Source::from_linear_srgb(256, 1, |x, _| [(x as f64 / 255.0).powi(2); 3]);
    let scaled = Scaled::full(Arc::new(source), "ramp");
    let development = Development::new(&stock);
    let request = RenderRequest {
        scaled: &scaled,
        stock: &stock,
        development: &development,
        region: Region::whole(256, 1),
        grain: GrainShown::Off,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let renderer = Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().build().unwrap()), 0);
    let picture = renderer.reflectance(&request, Watch::NONE).unwrap();
    // relative to the paper's white, as a viewer who is adapted to the paper sees it
    let xyz = |i: usize| SRGB_TO_XYZ.apply(WIDE_TO_SRGB.apply([0, 1, 2].map(|k| picture.plane(k)[i] as f64)));
    assert!(xyz(255)[1] > 0.85);
    for i in 0..256 {
        let c = lab::from_xyz(xyz(i), xyz(255));
        assert!(c[1].hypot(c[2]) < 1.0, "{i}: {c:?}");
    }
}

/// The table against the exact spectral way, over densities that pictures have: p95 CIEDE2000 < 0.3, max < 1.2.
#[test]
fn table_against_exact() {
    use amber_core::colour::difference::ciede2000;
    for stock in Catalogue::all().iter().filter(|s| s.layers() == 3) {
        let film = FilmResponse::own(stock);
        let viewing = Viewing::new(&film, &PrintSettings::own(stock)).unwrap();
        let stage = PrintStage::new(Tables::new(&viewing, &film));
        // a walk through the densities of colours of moderate saturation
        let region = Region::whole(40, 50);
        let value = |i: usize, k: usize| {
            let t = i as f64 / 2000.0;
            let lift = 0.25 * ((i * (7 + 4 * k)) as f64 * 0.37).sin();
            (film.curves[k].shape.dmin + (film.curves[k].shape.dmax - 0.2) * (t + lift * t).clamp(0.0, 1.0)) as f32
        };
        let planes: Vec<Vec<f32>> = (0..3).map(|k| (0..2000).map(|i| value(i, k)).collect()).collect();
        let picture = stage.reflect(Picture::from_planes(region, planes.clone()), None);
        let mut differences: Vec<f64> = (0..2000)
            .map(|i| {
                let table = WIDE_TO_SRGB.apply([0, 1, 2].map(|k| picture.plane(k)[i] as f64));
                let exact = viewing.linear_srgb([planes[0][i], planes[1][i], planes[2][i]]).map(f64::from);
                let lab = |rgb| lab::from_linear_srgb(amber_core::colour::gamut::compress(rgb));
                ciede2000(lab(table), lab(exact))
            })
            .collect();
        differences.sort_by(f64::total_cmp);
        println!("{}: p95 {:.3}, max {:.3}", stock.id, differences[1900], differences[1999]);
        assert!(differences[1900] < 0.3 && differences[1999] < 1.2, "{}", stock.id);
    }
}

#[test]
fn quantities_have_their_names() {
    assert_eq!(LayerDensity::NAME, "bath.density");
}
