//! The stocks on photographs: the table against the exact way, and that no two stocks look alike.

use std::sync::Arc;

use amber_core::colour::difference::ciede2000;
use amber_core::colour::gamut;
use amber_core::colour::lab::{Lab, from_linear_srgb};
use amber_core::colour::transfer::decode_srgb;
use amber_core::controls::Value;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::film::FilmResponse;
use amber_core::stations::print::stage::Tables;
use amber_core::stations::print::{PrintSettings, PrintStage, Viewing};
use amber_core::{Catalogue, Development, Stock};
use amber_files::Limits;

const PHOTOGRAPHS: [&str; 7] = [
    "flash-backstage.jpg",
    "grey-quay.jpg",
    "hill-road.jpg",
    "lantern-street.jpg",
    "marionette-portrait.jpg",
    "noon-meadow.jpg",
    "paint-shelf.jpg",
];

fn photograph(name: &str, width: u32, height: u32) -> Scaled {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/photographs").join(name);
    let opened = amber_files::open(&std::fs::read(path).unwrap(), Limits::default()).unwrap();
    let full = Scaled::full(Arc::new(opened.source), name);
    if full.full_width > full.full_height { full.reduced(width, height) } else { full.reduced(height, width) }
}

fn renderer() -> Renderer {
    Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap()), 0)
}

fn request<'a>(scaled: &'a Scaled, stock: &'a Stock, development: &'a Development) -> RenderRequest<'a> {
    let region = scaled.source.region();
    RenderRequest {
        scaled,
        stock,
        development,
        region,
        grain: GrainShown::Off,
        keep_tiles: false,
        finish: Finish::SCREEN,
    }
}

/// On photographs, rightly exposed and one and two stops over, p95 CIEDE2000 < 0.3 and max < 1.2 between the table and
/// the exact spectral computation.
#[test]
fn the_table_agrees_with_the_exact_way() {
    let renderer = renderer();
    let pictures: Vec<Scaled> = PHOTOGRAPHS.iter().map(|name| photograph(name, 150, 100)).collect();
    for stock in Catalogue::all().iter().filter(|s| s.layers() == 3 && s.screen.is_none()) {
        let film = FilmResponse::own(stock);
        let viewing = Viewing::new(&film, &PrintSettings::own(stock)).unwrap();
        let stage = PrintStage::new(Tables::new(&viewing, &film));
        let mut differences: Vec<f64> = Vec::new();
        for (scaled, over) in pictures.iter().flat_map(|p| [0.0, 1.0, 2.0].map(|over| (p, over))) {
            let mut development = Development::new(stock);
            development.set(stock, "scene.exposure", Value::Number(over)).unwrap();
            let density = renderer.density(&request(scaled, stock, &development), Watch::NONE).unwrap();
            let shown = stage.show(density.clone(), None);
            differences.extend((0..density.region.pixels()).map(|i| {
                let exact = viewing.linear_srgb([0, 1, 2].map(|k| density.plane(k)[i]));
                let exact = from_linear_srgb(gamut::compress(exact.map(f64::from)));
                let table = from_linear_srgb([0, 1, 2].map(|k| decode_srgb(shown.plane(k)[i] as f64)));
                ciede2000(table, exact)
            }));
        }
        differences.sort_by(f64::total_cmp);
        let (p95, most) = (differences[differences.len() * 95 / 100], differences[differences.len() - 1]);
        println!("{}: p95 {p95:.3}, max {most:.3}", stock.id);
        assert!(p95 < 0.3 && most < 1.2, "{}: p95 {p95:.3}, max {most:.3}", stock.id);
    }
}

/// Each stock has a character of its own: every pair differs by a mean CIEDE2000 of 3 over the demo photographs.
#[test]
fn no_two_stocks_look_alike() {
    let renderer = renderer();
    let pictures: Vec<Scaled> = PHOTOGRAPHS.iter().map(|name| photograph(name, 60, 40)).collect();
    let printed = |stock: &Stock| -> Vec<Lab> {
        let development = Development::new(stock);
        let shown = |scaled| renderer.display_16_bit(&request(scaled, stock, &development), Watch::NONE).unwrap();
        let codes: Vec<u16> = pictures.iter().flat_map(shown).collect();
        let linear = |c: u16| decode_srgb(c as f64 / 65535.0);
        codes.chunks_exact(3).map(|p| from_linear_srgb([linear(p[0]), linear(p[1]), linear(p[2])])).collect()
    };
    let all: Vec<(&str, Vec<Lab>)> = Catalogue::all().iter().map(|s| (s.id.as_str(), printed(s))).collect();
    for (i, (a, seen)) in all.iter().enumerate() {
        for (b, other) in &all[i + 1..] {
            let mean = seen.iter().zip(other).map(|(x, y)| ciede2000(*x, *y)).sum::<f64>() / seen.len() as f64;
            assert!(mean >= 3.0, "{a} and {b}: {mean:.2}");
        }
    }
}
