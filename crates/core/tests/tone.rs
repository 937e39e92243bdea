//! Tone and years over prints: hues of toned silver, what time takes, where masks let it.

use std::sync::Arc;

use amber_core::colour::lab::from_xyz;
use amber_core::colour::space::SRGB_TO_XYZ;
use amber_core::colour::transfer::encode_srgb;
use amber_core::controls::Value;
use amber_core::mask::Mask;
use amber_core::picture::buffer::Reflectance;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::{PrintTone, grey_ramp};
use amber_core::{Catalogue, Development, Picture, Region, Source, Stock};

fn developed(stock: &Stock, values: &[(&str, Value)]) -> Development {
    let mut development = Development::new(stock);
    for (id, v) in values {
        development.set(stock, id, v.clone()).unwrap();
    }
    development
}

fn number(id: &str, v: f64) -> (&str, Value) {
    (id, Value::Number(v))
}

fn choice<'a>(id: &'a str, v: &str) -> (&'a str, Value) {
    (id, Value::Choice(v.into()))
}

fn ramp(stock: &Stock, values: &[(&str, Value)]) -> Vec<PrintTone> {
    let development = developed(stock, values);
    let values = development.values(stock);
    let film = FilmResponse::new(stock, &FilmSettings::read(&values), &BathSettings::read(&values));
    grey_ramp(&film, &values, 160).unwrap()
}

/// Silver on each of four papers.
fn papers() -> Vec<Vec<(&'static str, Value)>> {
    [("gloss", "neutral"), ("gloss", "cool"), ("gloss", "warm"), ("pearl", "neutral")]
        .map(|(surface, tone)| vec![choice("print.surface", surface), choice("print.tone", tone)])
        .to_vec()
}

fn bath<'a>(list: &mut Vec<(&'a str, Value)>, ids: [&'a str; 2], toner: &str, time: f64) {
    list.push(choice(ids[0], toner));
    list.push(number(ids[1], time));
}

const FIRST: [&str; 2] = ["tone.bath.1.toner", "tone.bath.1.time"];
const SECOND: [&str; 2] = ["tone.bath.2.toner", "tone.bath.2.time"];

/// a* and b* seen against the paper's white, as hue in degrees and chroma.
fn from_white(tone: &PrintTone, white: &PrintTone) -> (f64, f64) {
    let lab = from_xyz(SRGB_TO_XYZ.apply(tone.rgb), SRGB_TO_XYZ.apply(white.rgb));
    (lab[2].atan2(lab[1]).to_degrees().rem_euclid(360.0), lab[1].hypot(lab[2]))
}

/// Pairs of an untoned and a toned tone, with the paper's white.
fn toned_pairs(paper: &[(&str, Value)], toned: &[(&str, Value)]) -> (Vec<(PrintTone, PrintTone)>, PrintTone) {
    let alder = Catalogue::find("alder").unwrap();
    let (plain, toned) = (ramp(&alder, paper), ramp(&alder, toned));
    let white = *plain.last().unwrap();
    (plain.into_iter().zip(toned).collect(), white)
}

/// Selenium alone: darks go purple-brown and deeper, lights stay (the model's check, four papers).
#[test]
fn selenium_works_from_the_darks() {
    for paper in papers() {
        for time in [50.0, 80.0, 100.0] {
            let mut toned = paper.clone();
            bath(&mut toned, FIRST, "selenium", time);
            let (pairs, white) = toned_pairs(&paper, &toned);
            let deepest = |of: fn(&(PrintTone, PrintTone)) -> f64| pairs.iter().map(of).fold(0.0, f64::max);
            assert!(deepest(|p| p.1.density) > deepest(|p| p.0.density) + 0.15);
            for (plain, toned) in &pairs {
                if plain.density < 0.3 {
                    let off = (plain.lab[1] - toned.lab[1]).hypot(plain.lab[2] - toned.lab[2]);
                    assert!(off < 1.0, "{paper:?} {time}: {off} at {}", plain.density);
                }
                if time >= 80.0 && (1.6..2.0).contains(&plain.density) {
                    let (hue, _) = from_white(toned, &white);
                    assert!(!(30.0..320.0).contains(&hue), "{paper:?} {time}: hue {hue} at {}", plain.density);
                }
            }
        }
    }
}

/// Sepia first, then selenium: brown lights over purple-black darks (common practice; angles from the model's check).
#[test]
fn sepia_then_selenium_is_the_crossed_tone() {
    let paper = papers().remove(0);
    let mut toned = paper.clone();
    bath(&mut toned, FIRST, "sepia", 35.0);
    bath(&mut toned, SECOND, "selenium", 90.0);
    let (pairs, white) = toned_pairs(&paper, &toned);
    for (plain, toned) in &pairs {
        let (hue, chroma) = from_white(toned, &white);
        if (0.15..0.45).contains(&plain.density) {
            assert!((60.0..85.0).contains(&hue) && chroma > 4.0, "lights: {hue} at {}", plain.density);
        }
        if (1.6..2.0).contains(&plain.density) {
            assert!(!(30.0..320.0).contains(&hue), "darks: {hue} at {}", plain.density);
        }
    }
    // the other way round is another picture
    let mut turned = toned.clone();
    turned.push(number("tone.bath.1.place", 9.0));
    assert!(ramp(&Catalogue::find("alder").unwrap(), &turned) != ramp(&Catalogue::find("alder").unwrap(), &toned));
}

#[test]
fn toned_ramps_have_no_reversal_and_no_band() {
    for stock in ["alder", "platinum", "cyanotype"].map(|id| Catalogue::find(id).unwrap()) {
        for toner in ["sepia", "selenium", "gold", "copper", "iron"] {
            let mut values = Vec::new();
            bath(&mut values, FIRST, toner, 60.0);
            let tones = ramp(&stock, &values);
            for pair in tones.windows(2) {
                let step = [0, 1, 2].map(|k| pair[1].lab[k] - pair[0].lab[k]);
                assert!(step[0] > -0.05, "{} {toner}: {pair:?}", stock.id);
                assert!(step[1].hypot(step[2]) < 4.0, "{} {toner}: {pair:?}", stock.id);
            }
        }
    }
}

/// Gloss paper's black after years, in sRGB, as the model states them.
#[test]
fn black_fades_as_in_the_model() {
    let stock = Catalogue::find("tern").unwrap();
    let wanted = [
        ("drawer", 20.0, [38.0, 24.0, 23.0]),
        ("drawer", 80.0, [117.0, 45.0, 55.0]),
        ("wall", 20.0, [22.0, 32.0, 33.0]),
        ("wall", 80.0, [37.0, 95.0, 102.0]),
    ];
    for (storage, years, wanted) in wanted {
        let values =
            [choice("print.paper", "gloss-paper"), choice("years.storage", storage), number("years.age", years)];
        let black = ramp(&stock, &values)[0].rgb.map(|v| 255.0 * encode_srgb(v));
        let order = |v: [f64; 3]| (v[0] > v[1], v[1] < v[2]);
        // the model's patch is the paper's greatest density; the film's base does not reach it quite
        assert!((0..3).all(|k| (black[k] - wanted[k]).abs() < 9.0), "{storage} {years}: {black:?}");
        assert!(order(black).0 == order(wanted).0, "{storage} {years}: {black:?}");
    }
}

#[test]
fn years_never_darken_the_blacks_and_none_change_nothing() {
    for stock in Catalogue::all() {
        let black = |years: f64, storage: &str| {
            let values = [number("years.age", years), choice("years.storage", storage)];
            ramp(stock, &values).iter().map(|t| t.lab[0]).fold(f64::MAX, f64::min)
        };
        for storage in ["drawer", "wall", "attic"] {
            let over: Vec<f64> = [0.0, 5.0, 15.0, 40.0, 80.0, 150.0].map(|y| black(y, storage)).to_vec();
            assert!(over.windows(2).all(|p| p[1] > p[0] - 0.02), "{} {storage}: {over:?}", stock.id);
        }
    }
    // bit for bit, whatever the place
    for id in ["tern", "alder", "cyanotype"] {
        let stock = Catalogue::find(id).unwrap();
        assert!(
            ramp(&stock, &[]) == ramp(&stock, &[choice("years.storage", "attic"), number("years.age", 0.0)]),
            "{id}"
        );
    }
}

/// By what it is made of (common practice, no source): a drawer turns dyes red, light makes iron blue pale, silver
/// browns.
#[test]
fn each_picture_ages_in_its_own_way() {
    let grey = |id: &str, values: &[(&str, Value)]| {
        let tones = ramp(&Catalogue::find(id).unwrap(), values);
        *tones.iter().min_by(|a, b| (a.density - 0.75).abs().total_cmp(&(b.density - 0.75).abs())).unwrap()
    };
    let aged = |storage: &str, years: f64| [choice("years.storage", storage), number("years.age", years)];
    assert!(grey("tern", &aged("drawer", 50.0)).lab[1] > grey("tern", &[]).lab[1] + 5.0);
    let deepest = |values: &[(&str, Value)]| {
        let tones = ramp(&Catalogue::find("cyanotype").unwrap(), values);
        tones.iter().map(|t| t.density).fold(0.0, f64::max)
    };
    assert!(deepest(&aged("wall", 40.0)) < 0.75 * deepest(&[]));
    assert!(deepest(&aged("drawer", 40.0)) > 0.95 * deepest(&[]));
    assert!(grey("alder", &aged("drawer", 80.0)).lab[2] > grey("alder", &[]).lab[2] + 3.0);
    let by_hand = grey("tern", &[number("years.loss.yellow", 60.0)]);
    assert!(by_hand.lab[2] < grey("tern", &[]).lab[2] - 10.0, "less yellow is bluer");
}

fn scene() -> Scaled {
    let source = Source::from_linear_srgb(240, 160, |x, y| {
        let (u, v) = (f64::from(x) / 239.0, f64::from(y) / 159.0);
        [0.02 + 0.5 * u, 0.02 + 0.4 * v, 0.3 - 0.2 * u]
    });
    Scaled::full(Arc::new(source), "tone")
}

fn printed(stock: &Stock, values: &[(&str, Value)]) -> Picture<Reflectance> {
    rendered(stock, values, |renderer, request| renderer.reflectance(request, Watch::NONE).unwrap())
}

/// The display's values, 0 to 1, as a picture.
fn shown(stock: &Stock, values: &[(&str, Value)]) -> Picture<Reflectance> {
    rendered(stock, values, |renderer, request| {
        let codes = renderer.display_16_bit(request, Watch::NONE).unwrap();
        let plane = |k: usize| codes.chunks_exact(3).map(|p| f32::from(p[k]) / 65535.0).collect();
        Picture::from_planes(request.region, (0..3).map(plane).collect())
    })
}

fn rendered<T>(stock: &Stock, values: &[(&str, Value)], how: impl Fn(&Renderer, &RenderRequest) -> T) -> T {
    let mut development = developed(stock, values);
    let mask = r#"{"name":"Left","parts":[{"kind":"linear","from":[0.45,0.5],"to":[0.55,0.5]}]}"#;
    development.masks.insert("left".into(), serde_json::from_str::<Mask>(mask).unwrap());
    let scaled = scene();
    let region = scaled.source.region();
    let grain = GrainShown::Off;
    let request = RenderRequest {
        scaled: &scaled,
        stock,
        development: &development,
        region,
        grain,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let pool = rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap();
    how(&Renderer::new(Arc::new(pool), 0), &request)
}

fn most_off(a: &Picture<Reflectance>, b: &Picture<Reflectance>, region: Region) -> f32 {
    let (a, b) = (a.cut(region), b.cut(region));
    a.planes().iter().flatten().zip(b.planes().iter().flatten()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
}

/// Every effect through a mask is the effect where the mask is whole, and nothing where it is not.
#[test]
fn masks_limit_every_effect() {
    type Effect<'a> = (&'a str, &'a str, Vec<(&'a str, Value)>);
    let effects: [Effect; 9] = [
        ("alder", "tone.toning.mask", vec![choice("tone.bath.1.toner", "sepia")]),
        ("plover", "tone.two.mask", vec![number("tone.two.light.strength", 100.0)]),
        ("plover", "tone.four.mask", vec![number("tone.four.strength", 80.0)]),
        ("plover", "tone.wash.mask", vec![number("tone.wash.strength", 80.0), number("tone.grey.strength", 50.0)]),
        ("plover", "years.age.mask", vec![number("years.age", 60.0)]),
        ("plover", "years.sun.mask", vec![number("years.sun.strength", 0.8)]),
        ("alder", "years.mirroring.mask", vec![number("years.mirroring", 1.0)]),
        ("alder", "years.foxing.mask", vec![number("years.foxing.amount", 1.0)]),
        ("alder", "years.water.mask", vec![number("years.water.amount", 1.0)]),
    ];
    let (left, right) = (Region::new(4, 4, 96, 150), Region::new(140, 4, 96, 150));
    for (id, mask, values) in effects {
        let stock = Catalogue::find(id).unwrap();
        // a sheen needs dark tones
        let base = number("scene.exposure", if mask.contains("mirroring") { -3.0 } else { 0.0 });
        let values: Vec<_> = values.into_iter().chain([base.clone()]).collect();
        let plain = shown(&stock, &[base]);
        let whole = shown(&stock, &values);
        let mut masked = values.clone();
        masked.push(choice(mask, "left"));
        let masked = shown(&stock, &masked);
        // one is read from the table of the display, the other from that of the print
        assert!(most_off(&masked, &plain, right) < 3e-3, "{mask}: {}", most_off(&masked, &plain, right));
        // the whole is read from a table, the masked one computed
        assert!(most_off(&masked, &whole, left) < 0.025, "{mask}: {}", most_off(&masked, &whole, left));
        let seen = most_off(&whole, &plain, left);
        assert!(seen > 0.003, "{mask} does something: {seen}");
    }
}

/// The display never leaves its range, toned or aged.
#[test]
fn everything_at_once_stays_a_picture() {
    for id in ["plover", "alder", "gum", "ambrotype", "beryl", "parmelia"] {
        let stock = Catalogue::find(id).unwrap();
        let values = [
            choice("tone.bath.1.toner", "gold"),
            number("tone.two.dark.strength", 100.0),
            number("tone.four.strength", 100.0),
            number("tone.wash.strength", 100.0),
            number("years.age", 150.0),
            number("years.sun.strength", 1.0),
            number("years.mirroring", 1.0),
            number("years.foxing.amount", 1.0),
            number("years.water.amount", 1.0),
        ];
        let print = printed(&stock, &values);
        assert!(print.planes().iter().flatten().all(|v| v.is_finite() && (-0.2..2.5).contains(v)), "{id}");
    }
}

/// What a bath has turned is safe from sulphide: a selenium print keeps its darks where plain silver browns.
#[test]
fn toned_silver_resists_the_years() {
    let alder = Catalogue::find("alder").unwrap();
    let aged = [number("years.age", 120.0), choice("years.storage", "attic"), number("years.stain", -0.2)];
    let browned = |values: &[(&str, Value)]| {
        let old: Vec<_> = values.iter().cloned().chain(aged.iter().cloned()).collect();
        let (fresh, old) = (ramp(&alder, values), ramp(&alder, &old));
        let at = |d: f64| fresh.iter().position(|t| t.density < d).unwrap();
        let i = at(0.6);
        old[i].lab[2] - fresh[i].lab[2]
    };
    let mut toned = Vec::new();
    bath(&mut toned, FIRST, "copper", 100.0);
    assert!(browned(&[]) > browned(&toned) + 2.0, "{} {}", browned(&[]), browned(&toned));
}

/// The sun comes from where it is told, and fades what it reaches.
#[test]
fn the_sun_has_a_side() {
    let stock = Catalogue::find("tern").unwrap();
    let plain = printed(&stock, &[]);
    let lit = |direction: f64| {
        printed(
            &stock,
            &[
                number("years.sun.strength", 1.0),
                number("years.sun.direction", direction),
                number("years.sun.spread", 60.0),
            ],
        )
    };
    let (left, right) = (Region::new(2, 60, 30, 40), Region::new(206, 60, 30, 40));
    let (from_right, from_left) = (lit(0.0), lit(180.0));
    assert!(most_off(&from_right, &plain, right) > 3.0 * most_off(&from_right, &plain, left));
    assert!(most_off(&from_left, &plain, left) > 3.0 * most_off(&from_left, &plain, right));
}

/// A hand-coated print has a bare edge, each frame its own, and none where it is trimmed.
#[test]
fn coatings_are_each_their_own() {
    let stock = Catalogue::find("van-dyke").unwrap();
    let edge = |values: &[(&str, Value)]| printed(&stock, values).cut(Region::new(0, 0, 240, 8)).plane(2).to_vec();
    let (own, other) = (edge(&[]), edge(&[number("tone.coating.seed", 5.0)]));
    let trimmed = edge(&[number("tone.coating.edge", 0.0), number("tone.coating.uneven", 0.0)]);
    let bare = |v: &[f32]| v.iter().filter(|b| **b > 0.6).count();
    assert!(bare(&own) > 20 && bare(&trimmed) == 0, "{} {}", bare(&own), bare(&trimmed));
    assert!(own != other);
    let film = Catalogue::find("plover").unwrap();
    assert!(printed(&film, &[number("tone.coating.edge", 1.0)]).planes() == printed(&film, &[]).planes());
}

/// A historic process is tuned as any stock: contrast, exposure, white and black.
#[test]
fn processes_are_tuned_as_ordinary_stocks() {
    let stock = Catalogue::find("platinum").unwrap();
    let slope = |values: &[(&str, Value)]| {
        let tones = ramp(&stock, values);
        tones.windows(2).map(|p| p[0].density - p[1].density).fold(0.0, f64::max)
    };
    assert!(slope(&[number("print.contrast", 1.5)]) > 1.2 * slope(&[]));
    let deepest = |values: &[(&str, Value)]| ramp(&stock, values).iter().map(|t| t.density).fold(0.0, f64::max);
    assert!(deepest(&[number("print.black", 1.1)]) < deepest(&[]) - 0.3);
    let lightest = |values: &[(&str, Value)]| ramp(&stock, values).iter().map(|t| t.lab[0]).fold(0.0, f64::max);
    assert!(lightest(&[number("print.white", 0.2)]) < lightest(&[]) - 5.0);
    let middle = |values: &[(&str, Value)]| ramp(&stock, values)[80].lab[0];
    assert!(middle(&[number("print.exposure", 0.5)]) < middle(&[]) - 3.0, "more light under the negative is darker");
}
