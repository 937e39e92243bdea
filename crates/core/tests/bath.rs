//! The bath on the film: unevenness and mottle, and that no control of any station is dead.

use amber_core::effect::{Effect, FilmFrame};
use amber_core::stations;
use std::sync::Arc;

use amber_core::controls::{Control, Kind, Value};
use amber_core::mask::{Join, Mask, Part, Ramp, Shape};
use amber_core::picture::buffer::LayerDensity;
use amber_core::picture::own::{OwnPicture, OwnPictures};
use amber_core::picture::{FilmGeometry, Gate};
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::LISTS;
use amber_core::stations::bath::settings::UnevenSettings;
use amber_core::stations::bath::{MottleStage, UnevenStage};
use amber_core::stations::film::FilmResponse;
use amber_core::stock::Mottle;
use amber_core::{Catalogue, Development, Picture, Region, Source, Stock};

const EVEN: UnevenSettings = UnevenSettings { amount: 0.0, streaks: 0.0, edges: 0.0, seed: 0 };
const WIDTH: u32 = 240;
const HEIGHT: u32 = 160;

fn geometry() -> FilmGeometry {
    FilmGeometry::filling(Gate::new(36.0, 24.0), WIDTH, HEIGHT)
}

/// A film of one density, developed unevenly.
fn uneven(stock: &Stock, settings: &UnevenSettings, frame_seed: u32) -> Picture<LayerDensity> {
    let film = Arc::new(FilmResponse::own(stock));
    let region = Region::whole(WIDTH, HEIGHT);
    let density = Picture::from_planes(region, vec![vec![1.0; region.pixels()]; film.layers()]);
    let source = Source::from_linear_srgb(WIDTH, HEIGHT, |_, _| [0.2; 3]);
    match UnevenStage::new(settings, film, frame_seed, geometry()) {
        Some(stage) => stage.apply(&FilmFrame::filling(&source, 36_000.0), density, region),
        None => density,
    }
}

fn mean(values: impl Iterator<Item = f32> + Clone) -> f32 {
    values.clone().sum::<f32>() / values.count() as f32
}

fn spread(values: impl Iterator<Item = f32> + Clone) -> f32 {
    let middle = mean(values.clone());
    mean(values.map(|v| (v - middle).powi(2))).sqrt()
}

fn at(picture: &Picture<LayerDensity>, x: u32, y: u32) -> f32 {
    picture.plane(0)[(y * WIDTH + x) as usize]
}

#[test]
fn an_even_bath_is_no_stage() {
    let film = Arc::new(FilmResponse::own(&Catalogue::first()));
    for settings in [EVEN, UnevenSettings { seed: 5, ..EVEN }] {
        assert!(UnevenStage::new(&settings, film.clone(), 1, geometry()).is_none());
    }
}

#[test]
fn unevenness_is_slow_and_about_the_right_density() {
    let juniper = Catalogue::find("juniper").unwrap();
    let density = uneven(&juniper, &UnevenSettings { amount: 1.0, ..EVEN }, 3);
    let values = density.plane(0).iter().copied();
    assert!(spread(values.clone()) > 0.05 && (mean(values) - 1.0).abs() < 0.25);
    // neighbours are nearly alike
    let steps = density.plane(0).windows(2).take(230).map(|p| (p[1] - p[0]).abs()).fold(0.0, f32::max);
    assert!(steps < 0.03, "{steps}");
}

#[test]
fn another_number_is_another_accident() {
    let juniper = Catalogue::find("juniper").unwrap();
    let of = |seed: u32, frame: u32| uneven(&juniper, &UnevenSettings { amount: 1.0, seed, ..EVEN }, frame);
    assert_eq!(of(1, 1).plane(0), of(1, 1).plane(0));
    assert_ne!(of(1, 1).plane(0), of(2, 1).plane(0));
    assert_ne!(of(1, 1).plane(0), of(1, 2).plane(0), "each frame has its own");
}

/// Common practice, no source: agitation through the perforations and at the holder's rim changes the edges.
#[test]
fn edges_develop_more_or_less() {
    let juniper = Catalogue::find("juniper").unwrap();
    let edge = |amount: f64| {
        let density = uneven(&juniper, &UnevenSettings { edges: amount, ..EVEN }, 1);
        at(&density, 1, HEIGHT / 2) - at(&density, WIDTH / 2, HEIGHT / 2)
    };
    assert!(edge(1.0) > 0.1 && edge(-1.0) < -0.1 && edge(0.2) < edge(1.0));
    // on a slide more development takes more density away
    let beryl = Catalogue::find("beryl").unwrap();
    let slide = uneven(&beryl, &UnevenSettings { edges: 1.0, ..EVEN }, 1);
    assert!(at(&slide, 1, HEIGHT / 2) < at(&slide, WIDTH / 2, HEIGHT / 2) - 0.1);
}

#[test]
fn streaks_run_along_the_short_side() {
    let juniper = Catalogue::find("juniper").unwrap();
    let density = uneven(&juniper, &UnevenSettings { streaks: 1.0, ..EVEN }, 7);
    let along = spread((0..HEIGHT).map(|y| at(&density, 100, y)).collect::<Vec<_>>().into_iter());
    let across = spread((0..WIDTH).map(|x| at(&density, x, 80)).collect::<Vec<_>>().into_iter());
    assert!(across > 2.0 * along, "{across} {along}");
}

#[test]
fn density_stays_within_the_film() {
    for id in ["juniper", "beryl", "tern"] {
        let stock = Catalogue::find(id).unwrap();
        let film = FilmResponse::own(&stock);
        let wild = UnevenSettings { amount: 1.0, streaks: 1.0, edges: 1.0, seed: 9 };
        let density = uneven(&stock, &wild, 11);
        for (plane, curve) in density.planes().iter().zip(&film.curves) {
            let (low, high) = (curve.shape.dmin as f32, curve.shape.dmax as f32);
            assert!(plane.iter().all(|d| (low..=high).contains(d)), "{id}");
        }
    }
}

#[test]
fn mottle_shows_most_where_the_film_is_thin() {
    let dunlin = Catalogue::find("dunlin").unwrap();
    let film = Arc::new(FilmResponse::own(&dunlin));
    let mottle: &Mottle = dunlin.mottle.as_ref().unwrap();
    let of = |density: f32| {
        let region = Region::whole(400, 300);
        let picture = Picture::from_planes(region, vec![vec![density; region.pixels()]; 3]);
        let source = Source::from_linear_srgb(400, 300, |_, _| [0.2; 3]);
        let stage = MottleStage::new(film.clone(), 7, 60.0).unwrap();
        let picture = stage.apply(&FilmFrame::filling(&source, 24_000.0), picture, region);
        spread(picture.plane(1).iter().copied())
    };
    let (thin, dense) = (of(0.9), of(2.2));
    assert!(thin > 1.4 * dense && dense > 0.0, "{thin} {dense}");
    assert!((thin / mottle.amp[1] as f32) < 1.3, "of the stated size: {thin}");
}

/// Colours, a lamp, an edge: something for every control to act on.
fn scene() -> Scaled {
    let source = Source::from_linear_srgb(240, 160, |x, y| {
        let (u, v) = (f64::from(x) / 239.0, f64::from(y) / 159.0);
        let lamp = (f64::from(x) - 170.0).hypot(f64::from(y) - 40.0) < 12.0;
        let edge = f64::from((x / 30) % 2) * 0.15;
        let hue = |shift: f64| 0.5 + 0.5 * (std::f64::consts::TAU * (u + shift)).cos();
        if lamp {
            [1.0; 3]
        } else if x < 60 && y < 40 {
            // as dark as zone 0
            [0.004; 3]
        } else {
            [0.02 + 0.7 * v * hue(0.0) + edge, 0.02 + 0.7 * v * hue(0.33) + edge, 0.02 + 0.7 * v * hue(0.66)]
        }
    });
    Scaled::full(Arc::new(source), "everything")
}

/// A local adjustment through the mask that the frames of this test have.
fn local() -> (&'static str, Value) {
    ("scene.local.1.mask", Value::Choice("1".into()))
}

fn lower_half() -> Mask {
    let ramp = Ramp { from: [0.5, 0.6], to: [0.5, 0.4] };
    let parts = vec![Part { join: Join::Add, shape: Shape::Linear(ramp) }];
    Mask { name: "Below".into(), parts, ..Mask::default() }
}

/// A picture of one's own: a wedge from black to white.
struct OnePicture;

impl OwnPictures for OnePicture {
    fn picture(&self, _hash: &str) -> Option<Arc<OwnPicture>> {
        let wedge = (0..64u32 * 48).flat_map(|i| [[(4 * (i % 64)) as u8; 3].as_slice(), &[255]].concat()).collect();
        OwnPicture::new(64, 48, wedge).map(Arc::new)
    }
}

/// What has to be set beside a control so that it can be seen.
fn company(id: &str) -> Vec<(&'static str, Value)> {
    let number = |id, v| vec![(id, Value::Number(v))];
    match id {
        "bath.uneven.seed" => number("bath.uneven.amount", 1.0),
        // a width of 40 um spans half a pixel of this small picture
        "print.acutance.fine" => number("print.acutance.fine_radius", 40.0),
        "print.acutance.fine_radius" => number("print.acutance.fine", 1.5),
        "print.acutance.coarse_radius" => number("print.acutance.coarse", 1.5),
        // white decodes to zone VIII and a half
        "scene.zone.10" => number("scene.exposure", 2.0),
        "lens.format.turned" | "lens.crop.x" => vec![("lens.format", Value::Choice("4x5".into()))],
        "lens.crop.y" => number("lens.crop.size", 60.0),
        "lens.filter.density" => vec![("lens.filter.colour", Value::Choice("red".into()))],
        "lens.shake.angle" | "lens.shake.mask" => number("lens.shake.length", 600.0),
        "film.hue.mask" => number("film.hue.red", 2.0),
        "scene.local.1.mask" => number("scene.local.1.exposure", 2.0),
        "scene.local.1.zone" => vec![local(), ("scene.local.1.placed", Value::Number(1.0))],
        id if id.starts_with("scene.local.") => vec![local()],
        id if id.starts_with("lens.softness.") && !["edges", "overall"].iter().any(|e| id.ends_with(e)) => {
            number("lens.softness.edges", 600.0)
        }
        id if id.starts_with("lens.falloff.") && !["stops", "natural"].iter().any(|e| id.ends_with(e)) => {
            number("lens.falloff.stops", -2.0)
        }
        id if id.starts_with("lens.bloom.") && id != "lens.bloom.strength" => number("lens.bloom.strength", 1.0),
        id if id.starts_with("lens.veil.") && id != "lens.veil.strength" => number("lens.veil.strength", 100.0),
        id if id.starts_with("lens.flash.") && id != "lens.flash.stops" => number("lens.flash.stops", 2.0),
        "tone.bath.1.place" => vec![
            ("tone.bath.1.toner", Value::Choice("sepia".into())),
            ("tone.bath.2.toner", Value::Choice("gold".into())),
        ],
        id if id.starts_with("tone.bath.1.") && id != "tone.bath.1.toner" => {
            vec![("tone.bath.1.toner", Value::Choice("sepia".into()))]
        }
        "tone.toning.mask" => vec![("tone.bath.1.toner", Value::Choice("sepia".into()))],
        "tone.two.dark.hue" => number("tone.two.dark.strength", 100.0),
        "tone.two.light.hue" => number("tone.two.light.strength", 100.0),
        "tone.two.mask" | "tone.two.balance" | "tone.two.strength" => number("tone.two.light.strength", 100.0),
        "tone.wash.colour" | "tone.wash.blend" | "tone.wash.mask" => number("tone.wash.strength", 60.0),
        "tone.grey.blend" => number("tone.grey.strength", 60.0),
        "tone.coating.seed" => number("tone.coating.uneven", 1.0),
        id if id.starts_with("tone.four.") && id != "tone.four.strength" => number("tone.four.strength", 100.0),
        "years.storage" | "years.age.mask" => number("years.age", 60.0),
        "years.mirroring.mask" => number("years.mirroring", 1.0),
        id if id.starts_with("years.sun.") && id != "years.sun.strength" => number("years.sun.strength", 1.0),
        id if id.starts_with("years.foxing.") && id != "years.foxing.amount" => number("years.foxing.amount", 1.0),
        id if id.starts_with("years.water.") && id != "years.water.amount" => number("years.water.amount", 0.8),
        // what age has taken comes back
        id if id.starts_with("years.loss.") => number("years.age", 60.0),
        "print.filter.keep" => number("print.filter.cyan", 40.0),
        "surface.clear" => vec![("surface.sheet.1.kind", Value::Choice("lifted".into()))],
        "surface.sheet.1.kind" | "surface.mount.kind" => Vec::new(),
        "surface.sheet.1.order" => vec![
            ("surface.sheet.1.kind", Value::Choice("crumple".into())),
            ("surface.sheet.2.kind", Value::Choice("grunge".into())),
        ],
        id if ["fit", "cover", "drop"].iter().any(|e| id == format!("surface.sheet.1.{e}")) => vec![
            ("surface.sheet.1.kind", Value::Choice(format!("own:{}", "1".repeat(64)))),
            ("surface.sheet.1.scale", Value::Number(40.0)),
        ],
        id if id.starts_with("surface.sheet.1.") => vec![("surface.sheet.1.kind", Value::Choice("grunge".into()))],
        "surface.mount.ground" => vec![("surface.mount.kind", Value::Choice("deckle".into()))],
        "surface.mount.number" => vec![("surface.mount.kind", Value::Choice("rebate".into()))],
        id if id.starts_with("surface.mount.") => vec![("surface.mount.kind", Value::Choice("border".into()))],
        _ => Vec::new(),
    }
}

/// Every control changes the picture of some stock it applies to: none is only drawn, and none is forgotten by a key of
/// what is kept between renders.
#[test]
fn no_control_is_dead() {
    let scaled = scene();
    let pool = rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap();
    let renderer = Renderer::new(Arc::new(pool), 256 << 20).with_pictures(Arc::new(OnePicture));
    let shown = |stock: &Stock, values: &[(&str, Value)]| {
        let mut development = Development::new(stock);
        // a pocket film: its lengths span pixels even here
        development.set(stock, "film.size", Value::Choice("pocket".into())).unwrap();
        development.masks.insert("1".into(), lower_half());
        for (id, value) in values {
            development.set(stock, id, value.clone()).unwrap();
        }
        let scaled = scaled.for_development(&development, stock, &|| false).unwrap();
        let request = RenderRequest {
            scaled: &scaled,
            stock,
            development: &development,
            region: scaled.source.region(),
            grain: GrainShown::Full,
            keep_tiles: true,
            finish: Finish::SCREEN,
        };
        let mounted = renderer.mounted_8_bit(&request, Watch::NONE).unwrap();
        (renderer.display_16_bit(&request, Watch::NONE).unwrap(), mounted)
    };
    let stocks = ["nightjar", "juniper", "beryl", "gum"].map(|id| Catalogue::find(id).unwrap());
    let items = LISTS.into_iter().flat_map(|list| list.members.iter().map(|member| list.member(1, member)));
    // the size of the whole is its maker's
    let seen = |control: &&Control| control.id != "surface.mount.keeps";
    for control in stations::all().chain(items).filter(seen) {
        let ends: Vec<Value> = match control.kind {
            // a full turn is none: a place between the ends too
            Kind::Scalar { low, high, .. } => {
                [0.0, 0.6, 1.0].map(|share| Value::Number(low + share * (high - low))).to_vec()
            }
            Kind::Choice(list) | Kind::ChoiceOrPicture(list) => {
                list.iter().map(|c| Value::Choice(c.id.into())).collect()
            }
            Kind::Switch => vec![Value::Switch(false), Value::Switch(true)],
            Kind::Curve => vec![Value::Curve(vec![[0.0, 0.0], [50.0, 70.0], [100.0, 100.0]])],
            Kind::Mask => vec![Value::Choice("1".into())],
            Kind::Colour => vec![Value::of_colour([200, 40, 40]), Value::of_colour([20, 60, 160])],
        };
        let beside = company(control.id);
        let acts = stocks.iter().filter(|s| (control.applies)(s)).any(|stock| {
            let before = shown(stock, &beside);
            ends.iter().any(|end| shown(stock, &[&beside[..], &[(control.id, end.clone())]].concat()) != before)
        });
        assert!(acts, "{} does nothing", control.id);
    }
}
