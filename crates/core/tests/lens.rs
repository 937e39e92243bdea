//! Lens: framing and optics over whole renders, and the trade's numbers.

use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::effect::{Effect, FilmFrame};
use amber_core::picture::buffer::{LayerExposure, SceneLight};
use amber_core::render::{RenderRequest, Scaled, Watch};
use amber_core::stations::film::layer_matrix::layer_matrix;
use amber_core::stations::lens::LensFilter;
use amber_core::stations::lens::place::Middle;
use amber_core::stations::lens::shake::{Shake, ShakeSettings};
use amber_core::stations::lens::softness::{SoftPlaces, Softening, Softness, SoftnessSettings};
use amber_core::{Catalogue, Development, Picture, Region, Source, Stock};
use support::{forgetful as renderer, request};

mod support;

fn scene(width: u32, height: u32) -> Scaled {
    let source = Source::from_linear_srgb(width, height, |x, y| {
        let (u, v) = (f64::from(x) / f64::from(width), f64::from(y) / f64::from(height));
        let lamp = (u - 0.7).hypot(v - 0.3) < 0.04;
        let edge = f64::from(u8::from((u * 9.0).fract() < 0.5)) * 0.2;
        if lamp { [1.0; 3] } else { [0.05 + 0.5 * u + edge, 0.1 + 0.3 * v + edge, 0.5 - 0.3 * u] }
    });
    Scaled::full(Arc::new(source), "lens")
}

fn developed(stock: &Stock, values: &[(&str, Value)]) -> Development {
    let mut development = Development::new(stock);
    let sky = r#"{"name":"Sky","parts":[{"kind":"tone","low":3,"high":6,"feather":[1,1]},
        {"join":"intersect","kind":"ellipse","centre":[0.5,0.4],"radii":[0.3,0.3],"feather":0.7},
        {"kind":"brush","strokes":[{"size":0.1,"points":[[0.2,0.8],[0.9,0.7]]}]}]}"#;
    development.masks.insert("sky".into(), serde_json::from_str(sky).unwrap());
    for (id, v) in values {
        development.set(stock, id, v.clone()).unwrap();
    }
    development
}

fn number(v: f64) -> Value {
    Value::Number(v)
}

/// Everything of the lens, in a turned, straightened, distorted square.
fn all_of_it(stock: &Stock) -> Development {
    developed(
        stock,
        &[
            ("lens.format", Value::Choice("1x1".into())),
            ("lens.turn", Value::Choice("90".into())),
            ("lens.mirror", Value::Switch(true)),
            ("lens.straighten", number(3.5)),
            ("lens.distortion", number(40.0)),
            ("lens.crop.size", number(90.0)),
            ("lens.crop.x", number(50.0)),
            ("lens.softness.edges", number(300.0)),
            ("lens.shake.length", number(200.0)),
            ("lens.fringes.blue", number(-50.0)),
            ("lens.bloom.strength", number(0.7)),
            ("lens.falloff.stops", number(-2.0)),
            ("lens.flash.stops", number(1.0)),
            ("film.halation.strength", number(0.3)),
            ("scene.local.1.mask", Value::Choice("sky".into())),
            ("scene.local.1.exposure", number(-1.5)),
            ("scene.local.1.softness", number(100.0)),
            ("lens.shake.mask", Value::Choice("not sky".into())),
        ],
    )
}

#[test]
fn a_region_of_a_framed_picture_is_a_crop() {
    let stock = Catalogue::first();
    let development = all_of_it(&stock);
    let scaled = scene(700, 520).for_development(&development, &stock, &|| false).unwrap();
    let (width, height) = (scaled.source.width(), scaled.source.height());
    assert!(width == height && width > 300, "{width} {height}");
    let renderer = renderer();
    let whole = renderer.display_16_bit(&request(&scaled, &stock, &development), Watch::NONE).unwrap();
    for region in [Region::new(0, 0, 3, 5), Region::new(120, 77, 200, 190), Region::new(255, 255, 2, 2)] {
        let part = RenderRequest { region, ..request(&scaled, &stock, &development) };
        let part = renderer.display_16_bit(&part, Watch::NONE).unwrap();
        for y in 0..region.height {
            let start = 3 * ((y + region.y) * width + region.x) as usize;
            let row = 3 * region.width as usize;
            assert!(part[y as usize * row..][..row] == whole[start..start + row], "{region:?}");
        }
    }
}

/// A crop under the enlarger shows the film that was there: its grain, bit for bit.
#[test]
fn an_enlarger_crop_keeps_scale_and_grain() {
    let stock = Catalogue::find("juniper").unwrap();
    let full = scene(600, 400);
    let renderer = renderer();
    let density = |values: &[(&str, Value)]| {
        let development = developed(&stock, values);
        let scaled = full.for_development(&development, &stock, &|| false).unwrap();
        renderer.density(&request(&scaled, &stock, &development), Watch::NONE).unwrap()
    };
    let no_glow = ("film.halation.strength", number(0.0));
    let whole = density(std::slice::from_ref(&no_glow));
    let corner = density(&[
        no_glow,
        ("lens.crop.size", number(50.0)),
        ("lens.crop.x", number(100.0)),
        ("lens.crop.y", number(100.0)),
    ]);
    assert!(corner.plane(0) == whole.cut(Region::new(300, 200, 300, 200)).plane(0));
}

/// Light seen at the film, without the film.
fn light(scaled: &Scaled, values: &[(&str, Value)]) -> Picture<SceneLight> {
    let stock = Catalogue::first();
    let development = developed(&stock, values);
    renderer().scene_light(&request(scaled, &stock, &development), Watch::NONE).unwrap()
}

#[test]
fn neutral_optics_leave_the_light_bit_for_bit() {
    let scaled = scene(300, 200);
    let plain = light(&scaled, &[]);
    let untouched = light(&scaled, &[("lens.softness.size", number(80.0)), ("lens.falloff.x", number(40.0))]);
    assert!(plain.plane(0) == untouched.plane(0) && plain.plane(2) == untouched.plane(2));
}

/// No ring or step in a soft fall of light: along a row of an even field, falloff and softness only fall, smoothly.
#[test]
fn falls_of_light_have_no_ring() {
    let source = Source::from_linear_srgb(640, 400, |_, _| [0.3; 3]);
    let scaled = Scaled::full(Arc::new(source), "even");
    for (feather, roundness) in [(0.0, 0.0), (100.0, 100.0), (200.0, 50.0)] {
        let light = light(
            &scaled,
            &[
                ("lens.falloff.stops", number(-4.0)),
                ("lens.falloff.feather", number(feather)),
                ("lens.falloff.roundness", number(roundness)),
                ("lens.softness.edges", number(600.0)),
                ("lens.shake.length", number(600.0)),
            ],
        );
        let row = &light.plane(1)[200 * 640..201 * 640];
        assert!(row[320..].windows(2).all(|p| p[1] <= p[0] * 1.000_01), "feather {feather}");
        assert!(feather == 0.0 || row.windows(2).all(|p| (p[1] / p[0]).log2().abs() < 0.05), "feather {feather}");
    }
}

/// Handbook values (common practice): daylight through a filter of +112 mired exposes a film for lamplight as lamplight
/// does.
#[test]
fn daylight_through_112_mired_is_lamplight() {
    let lamp = Catalogue::all().iter().find(|s| s.balance_kelvin < 4000.0 && s.layers() == 3).unwrap();
    let mired = 1e6 / lamp.balance_kelvin - 1e6 / 5500.0;
    assert!((100.0..140.0).contains(&mired), "{}: {mired}", lamp.id);
    let mut day = Stock::clone(lamp);
    day.scene_kelvin = Some(5500.0);
    let spread = |filter: &LensFilter| {
        let sums: Vec<f64> = layer_matrix(&day, filter).iter().map(|r| r.iter().sum::<f64>()).collect();
        sums.iter().copied().fold(0.0, f64::max) / sums.iter().copied().fold(f64::MAX, f64::min)
    };
    let (bare, filtered) = (spread(&LensFilter::none()), spread(&LensFilter { mired, ..LensFilter::none() }));
    assert!(bare > 2.0 && filtered < 1.12, "{}: {bare} {filtered}", lamp.id);
}

/// In black and white a red filter darkens the sky and not the skin (common practice, no source).
#[test]
fn a_red_filter_darkens_the_sky() {
    let stock = Catalogue::find("alder").unwrap();
    let source = Source::from_linear_srgb(2, 1, |x, _| if x == 0 { [0.20, 0.30, 0.55] } else { [0.45, 0.28, 0.20] });
    let scaled = Scaled::full(Arc::new(source), "sky and skin");
    let ratio = |values: &[(&str, Value)]| {
        let development = developed(&stock, values);
        let exposure: Picture<LayerExposure> =
            renderer().exposure(&request(&scaled, &stock, &development), Watch::NONE).unwrap();
        f64::from(exposure.plane(0)[0] / exposure.plane(0)[1]).log2()
    };
    let no_glow = ("film.halation.strength", number(0.0));
    let change = ratio(&[no_glow.clone(), ("lens.filter.colour", Value::Choice("red".into()))]) - ratio(&[no_glow]);
    assert!(change < -0.8, "{change} stops");
}

/// Blurs of a small picture by SciPy 1.17.1 (`data/blur.py`).
#[derive(serde::Deserialize)]
struct Outside {
    rows: Vec<u32>,
    gaussian: Vec<Gaussian>,
    motion: Vec<Motion>,
}

#[derive(serde::Deserialize)]
struct Gaussian {
    sigma: f64,
    values: Vec<Vec<f64>>,
}

#[derive(serde::Deserialize)]
struct Motion {
    length: f64,
    degrees: f64,
    values: Vec<Vec<f64>>,
}

/// The picture of `data/blur.py`, as a source and as light.
fn small_picture() -> (Source, impl Fn(&Source, Region) -> Picture<SceneLight> + Sync) {
    let source = Source::from_linear_srgb(96, 64, |x, y| {
        let disc = (f64::from(x) - 60.0).powi(2) + (f64::from(y) - 30.0).powi(2) < 144.0;
        let inside = (12..84).contains(&x) && (12..52).contains(&y);
        let texture = f64::from((x * 37 + y * 91 + (x * y) % 23 * 5) % 256) / 255.0;
        [if disc {
            1.0
        } else if inside {
            texture
        } else {
            0.4
        }; 3]
    });
    let linear = amber_core::picture::source::linear_of_code();
    let light = move |source: &Source, region: Region| {
        let place = |i: usize| (region.x + i as u32 % region.width, region.y + i as u32 / region.width);
        let code = |(x, y): (u32, u32)| source.pixel((y * source.width() + x) as usize)[0];
        let plane: Vec<f32> = (0..region.pixels()).map(|i| linear[code(place(i)) as usize]).collect();
        Picture::from_planes(region, vec![plane; 3])
    };
    (source, light)
}

/// Softness and shake against a general-purpose library, within one step of an 8-bit picture.
#[test]
fn gaussian_and_motion_blur_agree_with_a_library() {
    let outside: Outside = serde_json::from_str(include_str!("data/blur.json")).unwrap();
    let (source, light) = small_picture();
    let (whole, pitch_um) = (source.region(), 10.0);
    let frame = FilmFrame::filling(&source, 960.0);
    let assert_rows = |found: &Picture<SceneLight>, wanted: &[Vec<f64>], what: &str| {
        for (row, wanted) in outside.rows.iter().zip(wanted) {
            let found = &found.plane(1)[(row * 96) as usize..((row + 1) * 96) as usize];
            for (x, (f, w)) in found.iter().zip(wanted).enumerate() {
                assert!((f64::from(*f) - w).abs() < 1.0 / 255.0, "{what}, row {row}, {x}: {f} {w}");
            }
        }
    };
    for Gaussian { sigma, values } in &outside.gaussian {
        let middle = Middle { size: 0.3, feather: 0.8, roundness: 1.0, aspect: 0.0, centre: [0.0; 2] };
        let settings = SoftnessSettings { overall_um: sigma * pitch_um, edges_um: 0.0, middle };
        let softness = Softness::new(&settings, SoftPlaces::default(), pitch_um).unwrap();
        let planes = softness.planes(&source, pitch_um, &light);
        let soft = Softening::with(softness, planes).apply(&frame, light(&source, whole), whole);
        assert_rows(&soft, values, &format!("Gaussian of {sigma}"));
    }
    for Motion { length, degrees, values } in &outside.motion {
        let settings = ShakeSettings { length_um: length * pitch_um, angle_degrees: *degrees };
        let shaken = Shake::new(&settings, None).unwrap().apply(&frame, light(&source, whole), whole);
        assert_rows(&shaken, values, &format!("motion of {length} at {degrees}"));
    }
}
