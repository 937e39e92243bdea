//! The contracts that everything rests on: a region is a crop, threads do not matter, previews agree with exports.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use amber_core::colour::difference::ciede2000;
use amber_core::colour::lab;
use amber_core::colour::transfer::decode_srgb;
use amber_core::controls::Value;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Catalogue, CoreError, Development, Region, Source, Stock};
use support::{renderer, request, spatial, with};

mod support;

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

/// Bands of whole rows are the whole picture, and a region's are the region's.
#[test]
fn bands_together_are_the_whole() {
    let scaled = scene();
    let stock = Catalogue::first();
    let development = tuned(&stock);
    for region in [scaled.source.region(), Region::new(201, 97, 377, 311)] {
        let request = RenderRequest { region, ..request(&scaled, &stock, &development) };
        let whole = renderer(2).display_8_bit(&request, Watch::NONE).unwrap();
        let mut together = Vec::new();
        let mut take = |band: Vec<u8>| {
            assert!(band.len().is_multiple_of(3 * region.width as usize), "whole rows");
            together.extend(band);
            Ok(())
        };
        renderer(2).display_8_bit_bands(&request, Watch::NONE, &mut take).unwrap();
        assert!(together == whole);
        // asked for on the only thread of the pool
        let (one, mut again) = (renderer(1), Vec::new());
        let mut take = |band: Vec<u8>| {
            again.extend(band);
            Ok(())
        };
        one.pool().install(|| one.display_8_bit_bands(&request, Watch::NONE, &mut take)).unwrap();
        assert!(again == whole);
        let refused = renderer(2).display_16_bit_bands(&request, Watch::NONE, &mut |_| Err(CoreError::Abandoned));
        assert_eq!(refused, Err(CoreError::Abandoned));
        // given up after some tiles
        let tiles = AtomicUsize::new(0);
        let abandoned = || tiles.load(Ordering::Relaxed) > 3;
        let progress = |_: usize, _: usize| {
            tiles.fetch_add(1, Ordering::Relaxed);
        };
        let watch = Watch { abandoned: &abandoned, progress: &progress };
        let given_up = renderer(2).display_8_bit_bands(&request, watch, &mut |_| Ok(()));
        assert_eq!(given_up, Err(CoreError::Abandoned));
        assert!((4..7).contains(&tiles.into_inner()));
    }
}

/// A scene with small lamps, at half its size, so that it is small enough to be made as a whole in motion.
fn lamps() -> Scaled {
    let lamp = |x: u32, y: u32| x % 173 < 3 && y % 131 < 3;
    let source = Source::from_linear_srgb(1222, 860, |x, y| {
        let (u, v) = (x as f64 / 1221.0, y as f64 / 859.0);
        let shade = [0.02 + 0.5 * u * v, 0.05 + 0.3 * v, 0.4 * (1.0 - u) * (1.0 - 0.5 * v)];
        if lamp(x, y) { [1.0, 0.95, 0.8] } else { shade }
    });
    Scaled::full(Arc::new(source), "lamps")
}

/// A region of a picture in motion.
fn moving(scaled: &Scaled, stock: &Stock, development: &Development, region: Region, renderer: &Renderer) -> Vec<u8> {
    let moving = RenderRequest { region, grain: GrainShown::Averaged, ..request(scaled, stock, development) };
    renderer.display_8_bit(&moving, Watch::NONE).unwrap()
}

/// In motion the light of a small picture is made of the whole at once; what is asked for is still a crop of it,
/// whichever is asked for first.
#[test]
fn a_region_in_motion_is_a_crop() {
    for stock in [Catalogue::first(), Catalogue::find("tern").unwrap()] {
        let mut development = spatial(&stock);
        // smoothing would make the lamps' pixels anew
        for noise in ["scene.noise.luminance", "scene.noise.colour"] {
            development.set(&stock, noise, Value::Number(0.0)).unwrap();
        }
        let scaled = lamps().reduced(611, 430);
        let scaled = scaled.for_development(&development, &stock, &|| false).unwrap();
        assert!(!scaled.source.peaks().is_empty(), "it has lamps");
        let size = scaled.source.region();
        let whole = moving(&scaled, &stock, &development, size, &renderer(2));
        let part = Region::new(90, 97, 377, 211);
        let other = renderer(1);
        let cut = moving(&scaled, &stock, &development, part, &other);
        for (y, row) in cut.chunks_exact(3 * part.width as usize).enumerate() {
            let start = 3 * ((y + part.y as usize) * size.width as usize + part.x as usize);
            assert!(row == &whole[start..start + row.len()], "{} row {y}", stock.id);
        }
        assert!(moving(&scaled, &stock, &development, size, &other) == whole, "from what is kept");
    }
}

/// What is computed roughly in motion is not seen: hardly a pixel by more than a few steps of 255, on the mean less
/// than one.
#[test]
fn a_picture_in_motion_is_nearly_the_settled_one() {
    let stock = Catalogue::first();
    let values = [
        ("scene.detail", 0.3),
        ("lens.softness.edges", 20.0),
        ("lens.bloom.strength", 0.4),
        ("lens.falloff.stops", -0.7),
        ("film.push", 1.0),
        ("film.grain.granularity", 0.0),
        ("years.age", 20.0),
    ];
    let development = with(&stock, &values);
    let scaled = lamps().reduced(611, 430);
    let moved = moving(&scaled, &stock, &development, scaled.source.region(), &renderer(2));
    let settled = renderer(2).display_8_bit(&request(&scaled, &stock, &development), Watch::NONE).unwrap();
    let offs: Vec<u8> = moved.iter().zip(&settled).map(|(a, b)| a.abs_diff(*b)).collect();
    let mean = offs.iter().map(|v| f64::from(*v)).sum::<f64>() / offs.len() as f64;
    let far = offs.iter().filter(|v| **v > 4).count() as f64 / offs.len() as f64;
    println!("mean {mean:.3}, further than 4: {far:.5}");
    assert!(mean < 0.6 && far < 2e-3 && mean > 0.0, "{mean} {far}");
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
    let kept = RenderRequest { keep_tiles: true, finish: Finish::SCREEN, ..plain.clone() };
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
    let codes = shrunk.pixels();
    let export = codes.chunks_exact(3).map(|p| {
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
