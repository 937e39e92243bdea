//! Sheets in every place of the history: what they do to the picture, whatever part of it is asked for.

use std::sync::Arc;

use amber_core::colour::blend::{BLENDS, Blend};
use amber_core::controls::{Choices, Value};
use amber_core::mask::{Join, Mask, Oval, Part, Shape};
use amber_core::picture::own::{OwnPicture, OwnPictures};
use amber_core::render::{RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::surface::catalogue::{KINDS, Place};
use amber_core::{Catalogue, Development, Region, Source, Stock};
use support::{forgetful, plain, renderer, request, tuned};

mod support;

const WIDE: u32 = 330;
const HIGH: u32 = 270;

/// Soft colours and hard edges, larger than a tile.
fn scene() -> Scaled {
    let source = Source::from_linear_srgb(WIDE, HIGH, |x, y| {
        let (u, v) = (f64::from(x) / f64::from(WIDE), f64::from(y) / f64::from(HIGH));
        let edge = f64::from((x / 60 + y / 45) % 2) * 0.15;
        [0.03 + 0.5 * u * v + edge, 0.05 + 0.35 * v, 0.05 + 0.4 * (1.0 - u) * (1.0 - 0.5 * v)]
    });
    Scaled::full(Arc::new(source), "scene of sheets")
}

fn grey(light: f64) -> Scaled {
    Scaled::full(Arc::new(Source::from_linear_srgb(WIDE, HIGH, |_, _| [light; 3])), &format!("grey {light}"))
}

fn choice(id: impl Into<String>) -> Value {
    Value::Choice(id.into())
}

fn sheet(stock: &Stock, values: &[(&str, Value)]) -> Development {
    let named: Vec<(String, Value)> =
        values.iter().map(|(name, v)| (format!("surface.sheet.1.{name}"), v.clone())).collect();
    tuned(stock, &named.iter().map(|(id, v)| (id.as_str(), v.clone())).collect::<Vec<_>>())
}

fn seen(renderer: &Renderer, scaled: &Scaled, stock: &Stock, development: &Development) -> Vec<u8> {
    renderer.display_8_bit(&plain(scaled, stock, development), Watch::NONE).unwrap()
}

/// Mean of a channel over a rectangle.
fn mean(pixels: &[u8], [x, y, w, h]: [usize; 4], channel: usize) -> f64 {
    let of = |row: usize| (x..x + w).map(move |column| f64::from(pixels[3 * (row * WIDE as usize + column) + channel]));
    (y..y + h).flat_map(of).sum::<f64>() / (w * h) as f64
}

/// Pictures by a colour written in their hash: `cc…` is all of 0xcc.
struct Pictures(Vec<(String, Arc<OwnPicture>)>);

impl OwnPictures for Pictures {
    fn picture(&self, hash: &str) -> Option<Arc<OwnPicture>> {
        self.0.iter().find(|(known, _)| known == hash).map(|(_, picture)| picture.clone())
    }
}

/// Some colours beside one another, as large as the frame; and half grey.
fn patchwork() -> (Vec<u8>, Arc<OwnPicture>) {
    let colour = |x: u32, y: u32| [(x * 7 + y) as u8, (x / 3 * 11) as u8, (255 - y % 256) as u8, 255];
    let pixels: Vec<u8> = (0..WIDE * HIGH).flat_map(|i| colour(i % WIDE, i / WIDE)).collect();
    (pixels.clone(), Arc::new(OwnPicture::new(WIDE, HIGH, pixels).unwrap()))
}

const PATCHES: &str = "1111111111111111111111111111111111111111111111111111111111111111";
const HALF: &str = "8888888888888888888888888888888888888888888888888888888888888888";

fn with_pictures(renderer: Renderer) -> Renderer {
    let half = OwnPicture::new(8, 8, [128, 128, 128, 255].repeat(64)).unwrap();
    renderer.with_pictures(Arc::new(Pictures(vec![(PATCHES.into(), patchwork().1), (HALF.into(), Arc::new(half))])))
}

/// The standard's formulas (W3C, Compositing and Blending Level 1), from the print's own pixels and the sheet's: within
/// one code of 255. (They are checked by themselves beside the blends.)
#[test]
fn a_picture_over_everything_is_blended_as_the_standard_says() {
    let (scaled, stock, renderer) = (scene(), Catalogue::first(), with_pictures(forgetful()));
    let before = seen(&renderer, &scaled, &stock, &Development::new(&stock));
    let (patches, _) = patchwork();
    for (blend, id, _) in BLENDS {
        for strength in [100.0, 35.0] {
            let laid = [
                ("kind", choice(format!("own:{PATCHES}"))),
                ("blend", choice(id)),
                ("strength", Value::Number(strength)),
            ];
            let after = seen(&renderer, &scaled, &stock, &sheet(&stock, &laid));
            let mut worst = 0.0f32;
            for (i, pixel) in after.chunks_exact(3).enumerate() {
                let of = |from: &[u8], at: usize| [0, 1, 2].map(|k| f32::from(from[at + k]) / 255.0);
                let (b, s) = (of(&before, 3 * i), of(&patches, 4 * i));
                let blended = blend.of(b, s);
                // where a mode is steep the backdrop's own rounding counts, channel by channel
                let around: Vec<[f32; 3]> = (0..8)
                    .map(|corner| {
                        let by = |k: usize| if corner >> k & 1 == 0 { -0.5 } else { 0.5 };
                        blend.of([0, 1, 2].map(|k| (b[k] + by(k) / 255.0).clamp(0.0, 1.0)), s)
                    })
                    .collect();
                for k in 0..3 {
                    let wanted = b[k] + strength as f32 / 100.0 * (blended[k] - b[k]);
                    let steep = around.iter().map(|moved| (moved[k] - blended[k]).abs()).fold(0.0, f32::max);
                    let slack = 1.2 / 255.0 + steep;
                    worst = worst.max((f32::from(pixel[k]) / 255.0 - wanted).abs() - slack);
                }
            }
            assert!(worst <= 1e-4, "{id} at {strength}: {worst}");
        }
    }
}

#[test]
fn half_grey_in_hard_light_changes_nothing() {
    let (scaled, stock, renderer) = (scene(), Catalogue::first(), with_pictures(forgetful()));
    let before = seen(&renderer, &scaled, &stock, &Development::new(&stock));
    let laid = [("kind", choice(format!("own:{HALF}"))), ("blend", choice("hard-light"))];
    let after = seen(&renderer, &scaled, &stock, &sheet(&stock, &laid));
    assert!(before.iter().zip(&after).all(|(a, b)| a.abs_diff(*b) <= 1));
}

/// A sheet's own colours as documented: without saturation a red is its luminosity, dropped blacks leave the picture.
#[test]
fn a_sheets_own_colours_are_changed_before_it_is_laid() {
    let (scaled, stock, renderer) = (scene(), Catalogue::first(), with_pictures(forgetful()));
    let before = seen(&renderer, &scaled, &stock, &Development::new(&stock));
    let (patches, _) = patchwork();
    let laid = |more: (&'static str, Value)| {
        let own = ("kind", choice(format!("own:{PATCHES}")));
        seen(&renderer, &scaled, &stock, &sheet(&stock, &[own, more]))
    };
    let luminosity = |i: usize| {
        let [r, g, b] = [0, 1, 2].map(|k| f64::from(patches[4 * i + k]));
        0.3 * r + 0.59 * g + 0.11 * b
    };
    let pale = laid(("saturation", Value::Number(-100.0)));
    let dropped = laid(("drop", choice("blacks")));
    for i in (0..(WIDE * HIGH) as usize).step_by(97) {
        for k in 0..3 {
            assert!((f64::from(pale[3 * i + k]) - luminosity(i)).abs() <= 1.0, "{i}");
            let (b, s) = (f64::from(before[3 * i + k]), f64::from(patches[4 * i + k]));
            let wanted = b + luminosity(i) / 255.0 * (s - b);
            assert!((f64::from(dropped[3 * i + k]) - wanted).abs() <= 1.01, "{i}");
        }
    }
}

/// The order of sheets is that of their numbers, and a sheet that is not shown, or has no strength, costs nothing.
#[test]
fn order_counts_and_what_is_hidden_is_not_there() {
    let (scaled, stock, renderer) = (scene(), Catalogue::first(), with_pictures(forgetful()));
    let two = |orders: [f64; 2]| {
        let mut development = Development::new(&stock);
        for (key, hash) in [(1, PATCHES), (2, HALF)] {
            let id = |name: &str| format!("surface.sheet.{key}.{name}");
            development.set(&stock, &id("kind"), choice(format!("own:{hash}"))).unwrap();
            development.set(&stock, &id("order"), Value::Number(orders[key - 1])).unwrap();
        }
        development
    };
    let (below, above) = (two([10.0, 20.0]), two([20.0, 10.0]));
    assert!(seen(&renderer, &scaled, &stock, &below).iter().all(|v| *v == 128), "half grey lies above");
    assert!(seen(&renderer, &scaled, &stock, &above) != seen(&renderer, &scaled, &stock, &below));
    let nothing = seen(&renderer, &scaled, &stock, &Development::new(&stock));
    for hidden in [("visible", Value::Switch(false)), ("strength", Value::Number(0.0))] {
        let sheet = sheet(&stock, &[("kind", choice("crumple")), hidden]);
        assert_eq!(seen(&renderer, &scaled, &stock, &sheet), nothing);
    }
    let missing = sheet(&stock, &[("kind", choice(format!("own:{}", "0".repeat(64))))]);
    assert_eq!(seen(&renderer, &scaled, &stock, &missing), nothing, "a picture that is gone leaves the frame as it is");
}

/// Light that came in through the base is developed with the film: warm on colour, where the layer of red lies nearest
/// to the base, brighter in the print of a negative and on a slide, pale on black and white. Over everything the same
/// leak is a veil on top of the print.
#[test]
fn a_leak_is_developed_with_the_film() {
    let (scaled, renderer) = (grey(0.06), forgetful());
    let mut colours = Vec::new();
    for id in ["plover", "feldspar", "juniper"] {
        let stock = Catalogue::find(id).unwrap();
        let dark = seen(&renderer, &scaled, &stock, &Development::new(&stock));
        let laid = |place: Place| {
            let values =
                [("kind", choice("leak-seam")), ("amount", Value::Number(10.0)), ("place", choice(place.id()))];
            seen(&renderer, &scaled, &stock, &sheet(&stock, &values))
        };
        let leaked = laid(Place::Camera);
        // the brighter of the two short sides
        let sides = [[0, 0, 20, HIGH as usize], [WIDE as usize - 20, 0, 20, HIGH as usize]];
        let bright = |pixels: &[u8], side: [usize; 4]| (0..3).map(|k| mean(pixels, side, k)).sum::<f64>();
        let side = if bright(&leaked, sides[0]) > bright(&leaked, sides[1]) { sides[0] } else { sides[1] };
        let [r, g, b] = [0, 1, 2].map(|k| mean(&leaked, side, k) - mean(&dark, side, k));
        assert!(r > 20.0, "{id}: brighter by {r}");
        match id {
            "juniper" => assert!((r - b).abs() < 6.0, "{id} is pale: {r} {g} {b}"),
            _ => assert!(r > 1.5 * g && g > b, "{id} is warm: {r} {g} {b}"),
        }
        let over = laid(Place::Over);
        assert_ne!(over, leaked, "{id}");
        colours.push([r, g, b].map(|v| v.round() as i32));
    }
    assert!(colours[0] != colours[1] && colours[1] != colours[2], "{colours:?}");
}

/// Dust stops light: white on the print of a negative, dark on a slide that is looked through.
#[test]
fn dust_on_the_film_is_printed_by_what_the_film_is() {
    let (scaled, renderer) = (grey(0.18), forgetful());
    for (id, way) in [("plover", 1.0), ("juniper", 1.0), ("feldspar", -1.0)] {
        let stock = Catalogue::find(id).unwrap();
        let clean = seen(&renderer, &scaled, &stock, &Development::new(&stock));
        let values = [("kind", choice("dust")), ("size", Value::Number(400.0)), ("amount", Value::Number(100.0))];
        let dusty = seen(&renderer, &scaled, &stock, &sheet(&stock, &values));
        let moved: Vec<f64> = clean
            .iter()
            .zip(&dusty)
            .map(|(a, b)| way * (f64::from(*b) - f64::from(*a)))
            .filter(|d| *d != 0.0)
            .collect();
        assert!(moved.len() > 300, "{id}: {}", moved.len());
        let right = moved.iter().filter(|d| **d > 0.0).count() as f64 / moved.len() as f64;
        assert!(right > 0.97, "{id}: {right}");
        assert!(moved.iter().cloned().fold(0.0, f64::max) > 60.0, "{id}");
    }
}

/// Sheets in every place, twenty of them: a region is a crop of the whole, whatever the threads.
#[test]
fn a_region_is_a_crop_with_twenty_sheets() {
    let scaled = scene();
    let (two, one) = (with_pictures(renderer(2)), with_pictures(renderer(1)));
    let places = [Place::Camera, Place::Negative, Place::Print, Place::Over];
    for (id, from) in [("plover", 0), ("tintype", 5)] {
        let stock = Catalogue::find(id).unwrap();
        let mut development = Development::new(&stock);
        let own = format!("own:{PATCHES}");
        for key in 1..=20usize {
            let kind = KINDS.get((key + from) % (KINDS.len() + 1)).map_or(own.as_str(), |kind| kind.id);
            let values = [
                ("kind", choice(kind)),
                ("place", choice(places[key % 4].id())),
                ("strength", Value::Number(60.0)),
                ("turn", Value::Number(17.0 * key as f64 % 90.0)),
                ("x", Value::Number(key as f64 - 9.0)),
                ("mirror", Value::Switch(key % 2 == 0)),
            ];
            for (name, value) in values {
                development.set(&stock, &format!("surface.sheet.{key}.{name}"), value).unwrap();
            }
        }
        let whole = two.display_16_bit(&request(&scaled, &stock, &development), Watch::NONE).unwrap();
        for region in [Region::new(0, 0, 2, 1), Region::new(101, 47, 177, 211), Region::new(255, 255, 3, 2)] {
            for keep_tiles in [false, true] {
                let part = RenderRequest { region, keep_tiles, ..request(&scaled, &stock, &development) };
                let part = one.display_16_bit(&part, Watch::NONE).unwrap();
                for y in 0..region.height as usize {
                    let start = 3 * ((y + region.y as usize) * WIDE as usize + region.x as usize);
                    let row = 3 * region.width as usize;
                    assert!(part[y * row..(y + 1) * row] == whole[start..start + row], "{id} {region:?}");
                }
            }
        }
    }
}

/// Every kind shows, in every place where it can lie, and no two kinds are alike.
#[test]
fn every_kind_is_seen_in_every_place() {
    let (scaled, stock, renderer) = (grey(0.3), Catalogue::first(), forgetful());
    let clean = seen(&renderer, &scaled, &stock, &Development::new(&stock));
    let mut pictures = std::collections::BTreeSet::new();
    for kind in &KINDS {
        for place in [Place::Own, Place::Camera, Place::Negative, Place::Print, Place::Over] {
            let values = [
                ("kind", choice(kind.id)),
                ("place", choice(place.id())),
                ("amount", Value::Number(100.0)),
                ("size", Value::Number(300.0)),
            ];
            let laid = seen(&renderer, &scaled, &stock, &sheet(&stock, &values));
            // what is only bare has nothing to throw a shadow in the camera
            let nothing = place == Place::Camera && ["plate-peel", "lifted", "scratches"].contains(&kind.id);
            assert!(laid != clean || nothing, "{} {}", kind.id, place.id());
            if place == Place::Own {
                assert!(pictures.insert(laid), "{} looks like another", kind.id);
            }
        }
    }
}

/// Eight turns by 45 degrees are none, a frame's seed mixes in unless the sheet is locked.
#[test]
fn turns_and_seeds() {
    let (scaled, stock, renderer) = (scene(), Catalogue::first(), forgetful());
    let at = |degrees: f64| {
        let values = [("kind", choice("crumple")), ("turn", Value::Number(degrees))];
        seen(&renderer, &scaled, &stock, &sheet(&stock, &values))
    };
    assert_eq!(at(8.0 * 45.0), at(0.0));
    assert_ne!(at(45.0), at(0.0));
    let on = |kind: &str, seed: u32, lock: bool| {
        let values = [("kind", choice(kind)), ("lock", Value::Switch(lock)), ("size", Value::Number(300.0))];
        let development = Development { seed, ..sheet(&stock, &values) };
        seen(&renderer, &scaled, &stock, &development)
    };
    for kind in ["leak-seam", "dust"] {
        let eight: std::collections::BTreeSet<Vec<u8>> = (1..=8).map(|seed| on(kind, seed, false)).collect();
        assert_eq!(eight.len(), 8, "{kind}: each frame has its own accident");
    }
    assert_eq!(on("leak-corner", 1, true), on("leak-corner", 9, true));
}

/// A scratch has its width on the film: on a film twice as large it is half as wide on the picture.
#[test]
fn marks_are_as_large_as_they_are_on_the_film() {
    let source = Source::from_linear_srgb(1200, 800, |_, _| [0.18; 3]);
    let scaled = Scaled::full(Arc::new(source), "wide grey");
    let (stock, renderer) = (Catalogue::find("juniper").unwrap(), forgetful());
    // how much of the picture is touched by dust, on two sizes of film: the same specks to a square millimetre, each
    // with its micrometres
    let touched = |size: &str| {
        let values = [("kind", choice("scratches")), ("amount", Value::Number(100.0)), ("size", Value::Number(400.0))];
        let mut development = sheet(&stock, &values);
        development.set(&stock, "film.size", choice(size)).unwrap();
        let clean = tuned(&stock, &[("film.size", choice(size))]);
        let [after, before] =
            [&development, &clean].map(|d| renderer.display_16_bit(&plain(&scaled, &stock, d), Watch::NONE).unwrap());
        // the widest run of touched pixels down the middle
        let mut widths = Vec::new();
        for x in [300usize, 600, 900] {
            let mut run = 0.0;
            for y in 0..800 {
                let at = 3 * (y * 1200 + x);
                let moved = (f64::from(after[at]) - f64::from(before[at])).abs() / 65535.0;
                if moved > 0.002 {
                    run += 1.0;
                } else if run > 0.0 {
                    widths.push(run);
                    run = 0.0;
                }
            }
        }
        widths.iter().cloned().fold(0.0, f64::max)
    };
    let (small, large) = (touched("half"), touched("67"));
    // 24 mm and 69.5 mm wide
    assert!(small / large > 1.8 && small / large < 4.5, "{small} px and {large} px");
}

/// What is kept clear, and what a mask takes off, stays as it was.
#[test]
fn accidents_keep_clear() {
    let (scaled, stock, renderer) = (scene(), Catalogue::first(), forgetful());
    let oval = Oval { centre: [0.5, 0.5], radii: [0.2, 0.2], turn: 0.0, feather: 0.0 };
    let parts = vec![Part { join: Join::Add, shape: Shape::Ellipse(oval) }];
    let face = Mask { name: "Face".into(), parts, ..Mask::default() };
    let clean = seen(&renderer, &scaled, &stock, &Development::new(&stock));
    let inside = [WIDE as usize / 2 - 30, HIGH as usize / 2 - 30, 60, 60];
    let touched = |development: &Development| {
        let laid = seen(&renderer, &scaled, &stock, development);
        let [x, y, w, h] = inside;
        // a rounding is no mark
        let changed = |i: usize| (0..3).any(|k| laid[3 * i + k].abs_diff(clean[3 * i + k]) > 1);
        let within = (y..y + h).flat_map(|row| (x..x + w).map(move |column| row * WIDE as usize + column));
        (within.filter(|i| changed(*i)).count(), (0..(WIDE * HIGH) as usize).filter(|i| changed(*i)).count())
    };
    for kind in ["dust", "hairs", "scratches-any", "grunge", "plate-comets"] {
        let values = [("kind", choice(kind)), ("amount", Value::Number(100.0)), ("size", Value::Number(300.0))];
        let everywhere = sheet(&stock, &values);
        let mut kept_clear = everywhere.clone();
        kept_clear.masks.insert("face".into(), face.clone());
        let mut taken_off = kept_clear.clone();
        kept_clear.set(&stock, "surface.clear", choice("face")).unwrap();
        taken_off.set(&stock, "surface.sheet.1.mask", choice("not face")).unwrap();
        let (_, all) = touched(&everywhere);
        for spared in [&kept_clear, &taken_off] {
            let (within, around) = touched(spared);
            assert!(within == 0 && around > all / 4, "{kind}: {within} within, {around} of {all}");
        }
    }
}

/// A stock is changed under what lies on the picture.
#[test]
fn sheets_stay_when_the_stock_is_changed() {
    let stock = Catalogue::first();
    let mut development = sheet(&stock, &[("kind", choice("dust")), ("strength", Value::Number(40.0))]);
    development.change_stock(&Catalogue::find("juniper").unwrap());
    assert_eq!(development.values.len(), 2);
    assert!(Blend::named("own").is_none(), "as it is made is no mode of the standard");
}
