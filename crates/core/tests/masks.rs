//! Masks and local adjustments over whole renders.

use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_core::picture::buffer::SceneLight;
use amber_core::render::{Finish, GrainShown, RenderRequest, Scaled, Watch};
use amber_core::{Catalogue, Development, Picture, Region, Source, Stock};
use support::forgetful as renderer;

mod support;

/// A dark lower half, a bright upper one, in colours, with a disc.
fn scene(width: u32, height: u32) -> Scaled {
    let source = Source::from_linear_srgb(width, height, |x, y| {
        let (u, v) = (f64::from(x) / f64::from(width), f64::from(y) / f64::from(height));
        let disc = (1.5 * (u - 0.7)).hypot(v - 0.4) < 0.15;
        let texture = 1.0 + 0.2 * (u * 90.0).sin() * (v * 70.0).cos();
        let light = texture * if v < 0.5 { 0.4 } else { 0.06 };
        if disc { [0.5, 0.08, 0.05] } else { [0.7 * light, light, 0.8 * light + 0.05 * u] }
    });
    Scaled::full(Arc::new(source), "masks")
}

fn mask(json: &str) -> Mask {
    let mask: Mask = serde_json::from_str(json).unwrap();
    mask.check().unwrap();
    mask
}

/// Nothing selected and turned round: everything.
fn everywhere() -> Mask {
    mask(r#"{"name":"All","inverted":true}"#)
}

const OVAL: &str =
    r#"{"name":"Oval","parts":[{"kind":"ellipse","centre":[0.3,0.3],"radii":[0.12,0.1],"feather":0.4}]}"#;

fn developed(stock: &Stock, mask: Mask, values: &[(&str, Value)]) -> Development {
    let mut development = Development::new(stock);
    development.masks.insert("m".into(), mask);
    for (id, v) in values {
        development.set(stock, id, v.clone()).unwrap();
    }
    development.check().unwrap();
    development
}

fn light(scaled: &Scaled, development: &Development) -> Picture<SceneLight> {
    let stock = Catalogue::first();
    let scaled = scaled.for_development(development, &stock, &|| false).unwrap();
    let region = scaled.source.region();
    let grain = GrainShown::Off;
    let request = RenderRequest {
        scaled: &scaled,
        stock: &stock,
        development,
        region,
        grain,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    renderer().scene_light(&request, Watch::NONE).unwrap()
}

fn number(id: &str, v: f64) -> (&str, Value) {
    (id, Value::Number(v))
}

fn through() -> (&'static str, Value) {
    ("scene.local.1.mask", Value::Choice("m".into()))
}

fn off(a: &Picture<SceneLight>, b: &Picture<SceneLight>) -> f32 {
    let pairs = a.planes().iter().flatten().zip(b.planes().iter().flatten());
    pairs.map(|(a, b)| (a - b).abs() / a.abs().max(0.01)).fold(0.0, f32::max)
}

/// A local adjustment of the whole picture is the global one.
#[test]
fn through_a_mask_of_everything_it_is_the_global_one() {
    let (stock, scaled) = (Catalogue::first(), scene(300, 200));
    let pairs: [(&[_], &[_]); 6] = [
        (&[number("scene.local.1.exposure", 0.7)], &[number("scene.exposure", 0.7)]),
        (&[number("scene.local.1.air", -0.6)], &[number("scene.air", -0.6)]),
        (&[number("scene.local.1.air", 0.5)], &[number("scene.air", 0.5)]),
        (&[number("scene.local.1.saturation", -60.0)], &[number("scene.saturation", -60.0)]),
        (&[number("scene.local.1.contrast", 0.8)], &[number("scene.local_contrast", 0.8)]),
        (
            &[number("scene.local.1.zone", 3.0), number("scene.local.1.placed", 1.0)],
            &[number("scene.zone.2", 0.5), number("scene.zone.3", 1.0), number("scene.zone.4", 0.5)],
        ),
    ];
    for (local, global) in pairs {
        let local = light(&scaled, &developed(&stock, everywhere(), &[&[through()], local].concat()));
        let global_light = light(&scaled, &developed(&stock, everywhere(), global));
        assert!(off(&local, &global_light) < 2e-3, "{global:?}: {}", off(&local, &global_light));
    }
    let soft = |id: &'static str, with: bool| {
        let values = if with { vec![through(), number(id, 300.0)] } else { vec![number(id, 200.0)] };
        light(&scaled, &developed(&stock, everywhere(), &values))
    };
    let sharp = light(&scaled, &developed(&stock, everywhere(), &[]));
    assert!(off(&soft("scene.local.1.softness", true), &sharp) > 0.1);
}

/// Outside of its mask a picture stays as it is, bit for bit; a mask of nothing changes nothing.
#[test]
fn outside_of_its_mask_nothing_changes() {
    let (stock, scaled) = (Catalogue::first(), scene(300, 200));
    let all = ["exposure", "placed", "contrast", "air", "softness"].map(|m| format!("scene.local.1.{m}"));
    let mut values = vec![through(), number("scene.local.1.saturation", -50.0)];
    values.extend(all.iter().zip([1.5, 1.0, 0.8, -0.7, 60.0]).map(|(id, v)| number(id, v)));
    let plain = light(&scaled, &developed(&stock, mask(OVAL), &[]));
    let adjusted = light(&scaled, &developed(&stock, mask(OVAL), &values));
    let far = Region::new(160, 110, 120, 80);
    assert!(adjusted.cut(far).planes() == plain.cut(far).planes());
    let middle = Region::new(80, 50, 20, 20);
    assert!(off(&plain.cut(middle), &adjusted.cut(middle)) > 0.5);
    let nothing = mask(r#"{"name":"Nothing"}"#);
    assert!(light(&scaled, &developed(&stock, nothing, &values)).planes() == plain.planes());
}

/// A mask stays on its subject, whatever the frame does.
#[test]
fn masks_stay_in_place_under_crop_straightening_and_mirror() {
    let (stock, scaled) = (Catalogue::first(), scene(600, 400));
    let selected = |framing: &[(&str, Value)]| {
        let tuned = |stops: f64| {
            let values = [&[through(), number("scene.local.1.exposure", stops)], framing].concat();
            light(&scaled, &developed(&stock, mask(OVAL), &values))
        };
        let (plain, brighter) = (tuned(0.0), tuned(1.0));
        let (width, height) = (plain.region.width as usize, plain.region.height as usize);
        let share: Vec<f32> = brighter.plane(1).iter().zip(plain.plane(1)).map(|(b, p)| b / p - 1.0).collect();
        let total: f32 = share.iter().sum();
        let mean = |at: &dyn Fn(usize) -> f32| share.iter().enumerate().map(|(i, s)| s * at(i)).sum::<f32>() / total;
        (total, [mean(&|i| (i % width) as f32 / width as f32), mean(&|i| (i / width) as f32 / height as f32)])
    };
    let near = |a: [f32; 2], b: [f32; 2]| (a[0] - b[0]).abs() < 0.004 && (a[1] - b[1]).abs() < 0.004;
    let (area, centre) = selected(&[]);
    assert!(near(centre, [0.3, 0.3]), "{centre:?}");
    let (mirrored, at) = selected(&[("lens.mirror", Value::Switch(true))]);
    assert!(near(at, [0.7, 0.3]) && (mirrored / area - 1.0).abs() < 0.01, "{at:?}");
    // half the size, moved to the upper left: shares double
    let corner = [number("lens.crop.size", 50.0), number("lens.crop.x", -100.0), number("lens.crop.y", -100.0)];
    let (cropped, at) = selected(&corner);
    assert!(near(at, [0.6, 0.6]) && (cropped / area - 1.0).abs() < 0.01, "{at:?}");
    let (_, at) = selected(&[("lens.turn", Value::Choice("180".into()))]);
    assert!(near(at, [0.7, 0.7]), "{at:?}");
    // turned about the centre, and less of it is seen: the angle is what is told
    let (straightened, at) = selected(&[number("lens.straighten", 8.0)]);
    let angle = |[u, v]: [f32; 2]| (400.0 * (v - 0.5)).atan2(600.0 * (u - 0.5)).to_degrees();
    assert!((angle(centre) - angle(at) - 8.0).abs() < 0.3, "{} {}", angle(centre), angle(at));
    assert!((straightened / area - 1.0).abs() < 0.02);
}

/// One stroke more gives the same mask as all strokes at once, and so does a stroke that grew.
#[test]
fn strokes_that_were_kept_are_as_if_new() {
    let scaled = scene(500, 300);
    let stroke = |i: usize, points: usize| {
        let points: Vec<_> = (0..points).map(|k| [0.1 + 0.015 * i as f64, 0.1 + 0.08 * k as f64]).collect();
        serde_json::json!({"size": 0.03, "softness": 0.6, "strength": 0.8, "erase": i % 7 == 3, "points": points})
    };
    let with = |count: usize, last: usize| {
        let strokes: Vec<_> = (0..count).map(|i| stroke(i, if i + 1 == count { last } else { 8 })).collect();
        mask(&serde_json::json!({"name": "A", "parts": [{"kind": "brush", "strokes": strokes}]}).to_string())
    };
    let (kept, whole) = (renderer(), scaled.source.region());
    for count in 1..50 {
        kept.mask(&scaled, &with(count, 3), whole);
        kept.mask(&scaled, &with(count, 8), whole);
    }
    let last = with(50, 8);
    assert!(kept.mask(&scaled, &last, whole) == renderer().mask(&scaled, &last, whole));
}

/// Two parts join as the document says; values stay within 0 and 1.
#[test]
fn parts_are_added_taken_away_and_cut() {
    let scaled = scene(300, 200);
    let of = |join: &str| {
        let text = format!(
            r#"{{"name":"A","parts":[{{"kind":"ellipse","centre":[0.4,0.5],"radii":[0.2,0.2],"feather":0.1}},
            {{"join":"{join}","kind":"ellipse","centre":[0.6,0.5],"radii":[0.2,0.2],"feather":0.1}}]}}"#
        );
        let values = renderer().mask(&scaled, &mask(&text), scaled.source.region());
        assert!(values.iter().all(|v| (0.0..=1.0).contains(v)));
        [60, 150, 240].map(|x| values[100 * 300 + x])
    };
    assert_eq!(of("add"), [1.0, 1.0, 1.0]);
    assert_eq!(of("subtract"), [1.0, 0.0, 0.0]);
    assert_eq!(of("intersect"), [0.0, 1.0, 0.0]);
}

#[test]
fn shake_can_be_held_off_by_a_mask() {
    let (stock, scaled) = (Catalogue::first(), scene(300, 200));
    let of = |place: &str| {
        let values = [number("lens.shake.length", 600.0), ("lens.shake.mask", Value::Choice(place.into()))];
        light(&scaled, &developed(&stock, mask(OVAL), &values))
    };
    let still = light(&scaled, &developed(&stock, mask(OVAL), &[]));
    let (inside, outside) = (Region::new(82, 52, 12, 12), Region::new(200, 120, 60, 60));
    let held = of("not m");
    assert!(held.cut(inside).planes() == still.cut(inside).planes());
    assert!(held.cut(outside).planes() == of("").cut(outside).planes());
    assert!(off(&held.cut(outside), &still.cut(outside)) > 0.02);
}

#[test]
fn documents_with_masks_are_checked() {
    let stock = Catalogue::first();
    let mut development = developed(&stock, mask(OVAL), &[through()]);
    development.masks.clear();
    let error = Development::from_json(&development.to_json()).unwrap_err().to_string();
    assert!(error.contains("Local 1: In") && error.contains("'m'"), "{error}");
    development.masks.insert("M!".into(), mask(OVAL));
    assert!(development.check().unwrap_err().to_string().contains("'M!'"));
    let kept = developed(&stock, mask(OVAL), &[through()]);
    assert_eq!(Development::from_json(&kept.to_json()).unwrap(), kept);
}

/// Ranges read the decoded picture: the same things are found however it is framed, and at any scale.
#[test]
fn ranges_and_grown_regions_find_the_same_in_every_frame() {
    let stock = Catalogue::first();
    let scaled = scene(600, 400);
    let masks = [
        r#"{"name":"Red","parts":[{"kind":"hue","low":10,"high":50,"feather":[10,10]}]}"#,
        r#"{"name":"Dark","parts":[{"kind":"tone","low":1,"high":4,"feather":[0.5,0.5]}]}"#,
        r#"{"name":"Disc","parts":[{"kind":"edge","size":0.02,"reach":0.4,"strokes":[[[0.7,0.4],[0.72,0.42]]]}]}"#,
        r#"{"name":"Soft","feather":0.01,"parts":[
            {"kind":"ellipse","centre":[0.7,0.4],"radii":[0.08,0.08],"feather":0.2}]}"#,
    ];
    for text in masks {
        let mask = mask(text);
        let share = |values: &[(&str, Value)], width: u32| {
            let development = developed(&stock, mask.clone(), values);
            let framed = scaled.for_development(&development, &stock, &|| false).unwrap();
            let height = width * framed.source.height() / framed.source.width();
            let framed = framed.reduced(width, height);
            let values = renderer().mask(&framed, &mask, framed.source.region());
            f64::from(values.iter().sum::<f32>()) / values.len() as f64
        };
        let whole = share(&[], 600);
        assert!((0.005..0.7).contains(&whole), "{}: {whole}", mask.name);
        assert!((share(&[], 150) / whole - 1.0).abs() < 0.08, "{}: {} {whole}", mask.name, share(&[], 150));
        let turned = share(&[("lens.turn", Value::Choice("180".into())), ("lens.mirror", Value::Switch(true))], 600);
        assert!((turned / whole - 1.0).abs() < 0.02, "{}: {turned} {whole}", mask.name);
    }
}

/// Feather softens the whole and keeps how much is selected; inverted is one less it.
#[test]
fn feather_and_inversion() {
    let scaled = scene(300, 200);
    let of = |more: &str| {
        let text = format!(
            r#"{{"name":"A",{more}"parts":[
                {{"kind":"ellipse","centre":[0.5,0.5],"radii":[0.15,0.15],"feather":0.02}}]}}"#
        );
        renderer().mask(&scaled, &mask(&text), scaled.source.region())
    };
    let (hard, soft, inverted) = (of(""), of(r#""feather":0.02,"#), of(r#""inverted":true,"#));
    let sum = |v: &[f32]| v.iter().sum::<f32>();
    assert!((sum(&soft) / sum(&hard) - 1.0).abs() < 0.02);
    let steepest = |v: &[f32]| v[100 * 300..101 * 300].windows(2).map(|p| (p[1] - p[0]).abs()).fold(0.0, f32::max);
    assert!(steepest(&soft) < 0.3 * steepest(&hard), "{} {}", steepest(&soft), steepest(&hard));
    assert!(hard.iter().zip(&inverted).all(|(a, b)| (a + b - 1.0).abs() < 1e-6));
}

/// The sensitivity by hue and bloom act only in their masks.
#[test]
fn hues_and_bloom_keep_to_their_masks() {
    let stock = Catalogue::find("alder").unwrap();
    let scaled = scene(300, 200);
    let exposure = |values: &[(&str, Value)]| {
        let development = developed(&stock, mask(OVAL), values);
        let region = scaled.source.region();
        let grain = GrainShown::Off;
        let request = RenderRequest {
            scaled: &scaled,
            stock: &stock,
            development: &development,
            region,
            grain,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        renderer().exposure(&request, Watch::NONE).unwrap()
    };
    let no_glow = || number("film.halation.strength", 0.0);
    let red = [no_glow(), number("film.hue.red", 2.0), number("film.hue.magenta", 2.0), number("film.hue.orange", 2.0)];
    let plain = exposure(&[no_glow()]);
    let whole = exposure(&red);
    let held = exposure(&[&red[..], &[("film.hue.mask", Value::Choice("m".into()))]].concat());
    // the disc lies outside the oval
    let disc = Region::new(195, 70, 30, 20);
    assert!(held.cut(disc).plane(0) == plain.cut(disc).plane(0));
    assert!(whole.cut(disc).plane(0)[0] > 1.5 * plain.cut(disc).plane(0)[0]);

    let bloom =
        [number("lens.bloom.strength", 1.0), number("lens.bloom.threshold", 0.0), number("lens.bloom.kept", 0.0)];
    let light_of =
        |more: &[(&str, Value)]| light(&scaled, &developed(&stock, mask(OVAL), &[&bloom[..], more].concat()));
    let (all, inside) = (light_of(&[]), light_of(&[("lens.bloom.mask", Value::Choice("m".into()))]));
    let none = light(&scaled, &developed(&stock, mask(OVAL), &[]));
    let far = Region::new(240, 150, 50, 40);
    assert!(inside.cut(far).planes() == none.cut(far).planes());
    let middle = Region::new(88, 58, 4, 4);
    assert!(off(&inside.cut(middle), &all.cut(middle)) < 1e-5 && off(&inside.cut(middle), &none.cut(middle)) > 0.01);
}
