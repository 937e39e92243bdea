//! The presets that ship, on four photographs that differ: a face in the dark, a bright meadow, lamps at night, fog.

use std::sync::Arc;

use amber_core::colour::difference::ciede2000;
use amber_core::colour::lab::{Lab as Colour, from_linear_srgb};
use amber_core::colour::transfer::decode_srgb;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::lens::LensSettings;
use amber_core::{Catalogue, Development, Preset, ShippedPresets};
use amber_files::Limits;

const PHOTOGRAPHS: [&str; 4] = ["marionette-portrait.jpg", "noon-meadow.jpg", "lantern-street.jpg", "grey-quay.jpg"];
const EDGE: u32 = 96;

fn photograph(name: &str) -> Scaled {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/photographs").join(name);
    let opened = amber_files::open(&std::fs::read(path).unwrap(), Limits::default()).unwrap();
    let full = Scaled::full(Arc::new(opened.source), name);
    let short = EDGE * full.full_width.min(full.full_height) / full.full_width.max(full.full_height);
    if full.full_width > full.full_height { full.reduced(EDGE, short) } else { full.reduced(short, EDGE) }
}

/// A photograph under a preset: L*a*b* of its pixels.
fn under(preset: &Preset, scaled: &Scaled, renderer: &Renderer) -> Vec<Colour> {
    let first = Catalogue::first();
    let stock = Catalogue::find(&preset.stock.as_ref().unwrap().id).unwrap();
    let mut development = Development::new(&first);
    development.lay(&first, &stock, preset, 1.0).unwrap();
    let framed = scaled.framed(&LensSettings::framing(&development.values(&stock)));
    let request = RenderRequest {
        scaled: &framed,
        stock: &stock,
        development: &development,
        region: framed.source.region(),
        grain: GrainShown::Averaged,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let pixels = renderer.display_8_bit(&request, Watch::NONE).unwrap();
    let linear = |v: u8| decode_srgb(f64::from(v) / 255.0);
    pixels.chunks_exact(3).map(|p| from_linear_srgb([linear(p[0]), linear(p[1]), linear(p[2])])).collect()
}

fn share(values: &[f64], of: f64) -> f64 {
    values[((values.len() - 1) as f64 * of) as usize]
}

/// None of them blocks up or blows out a photograph, each leaves it a range of tones, and no two look alike.
#[test]
fn every_preset_works_on_four_photographs() {
    let renderer = Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap()), 0);
    let photographs: Vec<Scaled> = PHOTOGRAPHS.iter().map(|name| photograph(name)).collect();
    assert!(ShippedPresets::all().len() >= 30, "{}", ShippedPresets::all().len());
    let mut seen: Vec<(&str, Vec<Vec<Colour>>)> = Vec::new();
    for preset in ShippedPresets::all() {
        let pictures: Vec<Vec<Colour>> = photographs.iter().map(|scaled| under(preset, scaled, &renderer)).collect();
        for (name, picture) in PHOTOGRAPHS.iter().zip(&pictures) {
            let mut lightness: Vec<f64> = picture.iter().map(|lab| lab[0]).collect();
            lightness.sort_by(f64::total_cmp);
            let (dark, mid, light) = (share(&lightness, 0.05), share(&lightness, 0.5), share(&lightness, 0.95));
            let told = format!("{} on {name}: {dark:.0}, {mid:.0}, {light:.0}", preset.name);
            assert!((5.0..=93.0).contains(&mid), "{told}");
            assert!(light - dark > 15.0, "{told}");
        }
        for (other, theirs) in &seen {
            let pairs = pictures.iter().flatten().zip(theirs.iter().flatten());
            let far: Vec<f64> = pairs.map(|(a, b)| ciede2000(*a, *b)).collect();
            let mean = far.iter().sum::<f64>() / far.len() as f64;
            assert!(mean > 1.0, "{} looks like {other}: {mean:.2}", preset.name);
        }
        seen.push((&preset.name, pictures));
    }
}
