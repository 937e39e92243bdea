//! The contracts that everything rests on: a region is a crop, threads do not matter, previews agree with exports.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use amber_core::colour::difference::ciede2000;
use amber_core::colour::lab;
use amber_core::colour::transfer::decode_srgb;
use amber_core::controls::Value;
use amber_core::render::{GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Catalogue, CoreError, Development, Region, Source, Stock};

fn renderer(threads: usize) -> Renderer {
    let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
    Renderer::new(Arc::new(pool), 64 << 20)
}

/// Soft colours and hard edges, larger than a tile.
fn scene() -> Scaled {
    let source = Source::from_linear_srgb(611, 430, |x, y| {
        let (u, v) = (x as f64 / 610.0, y as f64 / 429.0);
        let edge = f64::from((x / 60 + y / 45) % 2) * 0.2;
        [0.02 + 0.8 * u * v + edge, 0.05 + 0.5 * v, 0.7 * (1.0 - u) * (1.0 - 0.5 * v)]
    });
    Scaled::full(Arc::new(source), "scene")
}

fn tuned(stock: &Stock) -> Development {
    let values = [("scene.exposure", 0.3), ("film.push", 1.0), ("film.grain.granularity", 22.0)];
    with(stock, &values)
}

fn with(stock: &Stock, values: &[(&str, f64)]) -> Development {
    let mut development = Development::new(stock);
    for (id, v) in values {
        development.set(stock, id, Value::Number(*v)).unwrap();
    }
    development
}

/// Everything that looks beyond its pixel, at once.
fn spatial(stock: &Stock) -> Development {
    masked(with(
        stock,
        &[
            ("film.halation.strength", 0.4),
            ("film.halation.threshold", 0.5),
            ("film.halation.guard", 0.5),
            ("film.hue.red", 0.7),
            ("film.grain.granularity", 22.0),
            ("bath.uneven.amount", 0.7),
            ("bath.uneven.streaks", 0.7),
            ("bath.uneven.edges", 0.7),
            ("print.acutance.fine", 0.8),
            ("print.acutance.fine_radius", 40.0),
            ("print.acutance.coarse", 0.5),
            ("print.acutance.coarse_radius", 200.0),
            ("print.strength", 80.0),
            ("scene.zone.3", 0.8),
            ("scene.zone.7", -0.9),
            ("scene.air", -0.7),
            ("scene.local_contrast", 0.8),
            ("scene.detail", 0.9),
            ("scene.saturation", 30.0),
            ("scene.quiet_colours", 40.0),
            ("scene.balance.shadows.blue", 20.0),
            ("scene.band.green.hue", 25.0),
            ("scene.noise.luminance", 0.6),
            ("scene.noise.colour", 0.8),
            ("lens.filter.mired", 40.0),
            ("lens.shake.length", 400.0),
            ("lens.shake.angle", 25.0),
            ("lens.softness.overall", 40.0),
            ("lens.softness.edges", 500.0),
            ("lens.softness.x", 20.0),
            ("lens.falloff.stops", -1.5),
            ("lens.falloff.natural", 25.0),
            ("lens.bloom.strength", 0.6),
            ("lens.bloom.threshold", 1.0),
            ("lens.fringes.red", 60.0),
            ("lens.flash.stops", 1.0),
            ("tone.two.dark.strength", 60.0),
            ("tone.four.strength", 50.0),
            ("tone.wash.strength", 30.0),
            ("tone.grey.strength", 20.0),
            ("tone.coating.edge", 0.8),
            ("tone.coating.uneven", 0.7),
            ("years.age", 30.0),
            ("years.sun.strength", 0.6),
            ("years.mirroring", 0.7),
            ("years.foxing.amount", 0.6),
            ("years.water.amount", 0.5),
        ],
    ))
}

/// With masks of every kind, on everything that takes one.
fn masked(mut development: Development) -> Development {
    let masks = [
        r#"{"name":"Brush","feather":0.004,"parts":[{"kind":"brush","strokes":[
            {"size":0.2,"softness":0.8,"strength":0.7,"points":[[0.2,0.2],[0.6,0.5]]},
            {"size":0.1,"erase":true,"points":[[0.3,0.3]]}]}]}"#,
        r#"{"name":"Ellipse","inverted":true,"parts":[
            {"kind":"ellipse","centre":[0.4,0.6],"radii":[0.2,0.3],"turn":20,"feather":0.6},
            {"join":"intersect","kind":"linear","from":[0.1,0.2],"to":[0.8,0.9]}]}"#,
        r#"{"name":"Ranges","parts":[{"kind":"hue","low":20,"high":120,"feather":[20,40]},
            {"kind":"tone","low":4,"high":6,"feather":[1,2]}]}"#,
        r#"{"name":"Edge","parts":[{"kind":"edge","size":0.05,"reach":0.5,"strokes":[[[0.5,0.5],[0.6,0.6]]]}]}"#,
    ];
    for (id, mask) in ["1", "2", "3", "4"].into_iter().zip(masks) {
        development.masks.insert(id.into(), serde_json::from_str(mask).unwrap());
    }
    for (id, toner) in [("tone.bath.1.toner", "sepia"), ("tone.bath.2.toner", "selenium")] {
        development.values.insert(id.into(), Value::Choice(toner.into()));
    }
    let places = [
        "lens.softness",
        "lens.shake",
        "lens.bloom",
        "film.hue",
        "tone.toning",
        "tone.two",
        "tone.wash",
        "years.age",
        "years.sun",
        "years.water",
    ];
    let places = places.map(|effect| format!("{effect}.mask"));
    let masks = ["1", "not 2", "3", "4", "2", "not 1", "3", "not 4", "2", "not 3"];
    for (id, mask) in places.into_iter().zip(masks) {
        development.values.insert(id, Value::Choice(mask.into()));
    }
    let local = ["exposure", "temperature", "saturation", "placed", "contrast", "air", "softness"];
    for (key, mask) in [(1, "not 1"), (2, "2"), (3, "4")] {
        development.values.insert(format!("scene.local.{key}.mask"), Value::Choice(mask.into()));
        for (member, value) in local.iter().zip([0.8, -40.0, 50.0, 0.6, 0.7, -0.5, 90.0]) {
            development.values.insert(format!("scene.local.{key}.{member}"), Value::Number(value));
        }
    }
    development.check().unwrap();
    development
}

fn request<'a>(scaled: &'a Scaled, stock: &'a Stock, development: &'a Development) -> RenderRequest<'a> {
    let region = scaled.source.region();
    RenderRequest { scaled, stock, development, region, grain: GrainShown::Full, keep_tiles: false }
}

fn assert_crops(scaled: &Scaled, stock: &Stock, development: &Development, renderers: [&Renderer; 2]) {
    let scaled = &scaled.for_development(development, stock, &|| false).unwrap();
    let whole = renderers[0].display_16_bit(&request(scaled, stock, development), Watch::NONE).unwrap();
    for region in [Region::new(0, 0, 1, 1), Region::new(201, 97, 377, 311), Region::new(255, 255, 2, 2)] {
        for keep_tiles in [false, true] {
            let part = RenderRequest { region, keep_tiles, ..request(scaled, stock, development) };
            let part = renderers[1].display_16_bit(&part, Watch::NONE).unwrap();
            for y in 0..region.height as usize {
                let start = 3 * ((y + region.y as usize) * 611 + region.x as usize);
                let row = 3 * region.width as usize;
                assert_eq!(&part[y * row..(y + 1) * row], &whole[start..start + row], "{}", stock.id);
            }
        }
    }
}

#[test]
fn a_region_is_a_crop_bit_for_bit() {
    let scaled = scene();
    let (two, one) = (renderer(2), renderer(1));
    for stock in Catalogue::all() {
        assert_crops(&scaled, stock, &tuned(stock), [&two, &one]);
    }
}

/// With halation, uneven development, acutance and strength; mottle and mosaic where the stock has them.
#[test]
fn a_region_is_a_crop_with_everything_on() {
    let scaled = scene();
    let (two, one) = (renderer(2), renderer(1));
    for id in ["nightjar", "dunlin", "parmelia", "whitebeam", "limpet", "cyanotype", "tintype"] {
        let stock = Catalogue::find(id).unwrap();
        assert_crops(&scaled, &stock, &spatial(&stock), [&two, &one]);
    }
}

#[test]
fn threads_and_caches_do_not_change_the_bits() {
    let scaled = scene();
    let stock = Catalogue::first();
    let development = tuned(&stock);
    let plain = request(&scaled, &stock, &development);
    let kept = RenderRequest { keep_tiles: true, ..plain.clone() };
    let one = renderer(1).display_16_bit(&plain, Watch::NONE).unwrap();
    let two = renderer(2);
    for request in [&plain, &kept, &kept] {
        assert!(two.display_16_bit(request, Watch::NONE).unwrap() == one);
    }
    assert!(two.cached_bytes() > 0);
}

#[test]
fn eight_bits_are_the_sixteen_rounded() {
    let scaled = scene();
    let stock = Catalogue::first();
    let development = Development::new(&stock);
    let request = request(&scaled, &stock, &development);
    let renderer = renderer(2);
    let eight = renderer.display_8_bit(&request, Watch::NONE).unwrap();
    let sixteen = renderer.display_16_bit(&request, Watch::NONE).unwrap();
    assert!(eight.iter().zip(&sixteen).all(|(a, b)| *a as u32 == (*b as u32 + 128) / 257));
}

#[test]
fn another_seed_is_another_grain_and_no_grain_has_no_seed() {
    let scaled = scene();
    let stock = Catalogue::first();
    let (first, mut second) = (Development::new(&stock), Development::new(&stock));
    second.seed = 2;
    let renderer = renderer(2);
    let of = |development: &Development, grain: GrainShown| {
        let request = RenderRequest { grain, ..request(&scaled, &stock, development) };
        renderer.display_16_bit(&request, Watch::NONE).unwrap()
    };
    assert!(of(&first, GrainShown::Full) != of(&second, GrainShown::Full));
    assert!(of(&first, GrainShown::Off) == of(&second, GrainShown::Off));
}

fn labs(pixels: &[u16]) -> Vec<lab::Lab> {
    let linear = |c: u16| decode_srgb(c as f64 / 65535.0);
    pixels.chunks_exact(3).map(|p| lab::from_linear_srgb([linear(p[0]), linear(p[1]), linear(p[2])])).collect()
}

/// Preview and export alike, grain off: mean CIEDE2000 below 1 between a reduced render and the reduced full render.
#[test]
fn a_preview_looks_like_the_export() {
    let before_the_film = |stock: &Stock| {
        let mut development = spatial(stock);
        development.values.retain(|id, _| id.starts_with("scene.") || id.starts_with("lens."));
        development
    };
    for stock in Catalogue::all() {
        assert_alike(stock, &tuned(stock));
    }
    for id in ["plover", "juniper"] {
        let stock = Catalogue::find(id).unwrap();
        assert_alike(&stock, &before_the_film(&stock));
    }
}

fn assert_alike(stock: &Stock, development: &Development) {
    let scaled = scene().for_development(development, stock, &|| false).unwrap();
    let small = scaled.reduced(153, 108);
    let renderer = renderer(2);
    let off = |scaled| RenderRequest { grain: GrainShown::Off, ..request(scaled, stock, development) };
    let full = renderer.display_16_bit(&off(&scaled), Watch::NONE).unwrap();
    let linear = |x: u32, y: u32, k: usize| decode_srgb(full[3 * (y as usize * 611 + x as usize) + k] as f64 / 65535.0);
    let shrunk = Source::from_linear_srgb(611, 430, |x, y| [0, 1, 2].map(|k| linear(x, y, k))).reduced(153, 108);
    let preview = labs(&renderer.display_16_bit(&off(&small), Watch::NONE).unwrap());
    let light = amber_core::picture::source::linear_of_code();
    let export = shrunk.pixels().chunks_exact(3).map(|p| {
        let rgb = [0, 1, 2].map(|k| light[p[k] as usize] as f64);
        lab::from_linear_srgb(rgb)
    });
    let mean = preview.iter().zip(export).map(|(a, b)| ciede2000(*a, b)).sum::<f64>() / preview.len() as f64;
    assert!(mean < 1.0, "{}: {mean}", stock.id);
}

#[test]
fn work_can_be_abandoned() {
    let scaled = scene();
    let stock = Catalogue::first();
    let development = Development::new(&stock);
    let tiles = AtomicUsize::new(0);
    let watch = Watch {
        abandoned: &|| tiles.load(Ordering::SeqCst) >= 2,
        progress: &|_, _| {
            tiles.fetch_add(1, Ordering::SeqCst);
        },
    };
    let result = renderer(1).display_8_bit(&request(&scaled, &stock, &development), watch);
    assert_eq!(result.unwrap_err(), CoreError::Abandoned);
    assert_eq!(tiles.load(Ordering::SeqCst), 2);
}

#[test]
fn a_region_outside_is_refused() {
    let scaled = scene();
    let stock = Catalogue::first();
    let development = Development::new(&stock);
    let region = Region::new(600, 0, 20, 20);
    let request = RenderRequest { region, ..request(&scaled, &stock, &development) };
    let error = renderer(1).display_8_bit(&request, Watch::NONE).unwrap_err().to_string();
    assert!(error.contains("611 x 430"), "{error}");
}
