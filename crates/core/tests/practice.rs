//! Facts of the trade, seen on the output: common practice without a source unless one is named.

use std::sync::Arc;

use amber_core::colour::difference::ciede2000;
use amber_core::colour::gamut;
use amber_core::colour::lab::{Lab, from_linear_srgb};
use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::colour::transfer::{decode_srgb, encode_srgb};
use amber_core::controls::Value;
use amber_core::render::{Finish, GrainShown, RenderRequest, Scaled, Watch};
use amber_core::stations::film::layer_matrix::layer_matrix;
use amber_core::stations::lens::LensFilter;
use amber_core::{Catalogue, Development, Source, Stock};
use support::renderer;

mod support;

fn tuned(stock: &Stock, values: &[(&str, Value)]) -> Development {
    // a few pixels are all edge of a coating
    let bare = ["tone.coating.edge", "tone.coating.uneven"].map(|id| number(id, 0.0));
    support::tuned(stock, &[&bare, values].concat())
}

fn number(id: &str, value: f64) -> (&str, Value) {
    (id, Value::Number(value))
}

fn choice<'a>(id: &'a str, value: &str) -> (&'a str, Value) {
    (id, Value::Choice(value.into()))
}

/// L*a*b* of the display for colours of linear sRGB.
fn seen(stock: &Stock, values: &[(&str, Value)], colours: &[[f64; 3]]) -> Vec<Lab> {
    let mut development = tuned(stock, values);
    // lamps and their glow would light the neighbours
    development.set(stock, "film.halation.strength", Value::Number(0.0)).unwrap();
    let source = Source::from_linear_srgb(colours.len() as u32, 1, |x, _| colours[x as usize]);
    let scaled = Scaled::full(Arc::new(source), "colours");
    let request = request(&scaled, stock, &development, GrainShown::Off);
    let codes = renderer(2).display_16_bit(&request, Watch::NONE).unwrap();
    let linear = |c: u16| decode_srgb(f64::from(c) / 65535.0);
    codes.chunks_exact(3).map(|p| from_linear_srgb([0, 1, 2].map(|k| linear(p[k])))).collect()
}

fn request<'a>(
    scaled: &'a Scaled,
    stock: &'a Stock,
    development: &'a Development,
    grain: GrainShown,
) -> RenderRequest<'a> {
    RenderRequest {
        scaled,
        stock,
        development,
        region: scaled.source.region(),
        grain,
        keep_tiles: false,
        finish: Finish::SCREEN,
    }
}

fn srgb8(colours: &[[u8; 3]]) -> Vec<[f64; 3]> {
    colours.iter().map(|c| c.map(|v| decode_srgb(f64::from(v) / 255.0))).collect()
}

/// Six greys and eighteen colours of things: skins, leaves, earth, skies, flowers, paint. Made up.
const CHART: [[u8; 3]; 24] = [
    [18, 18, 20],
    [60, 60, 60],
    [100, 100, 100],
    [140, 140, 140],
    [190, 190, 190],
    [240, 240, 240],
    [226, 184, 160],
    [160, 112, 86],
    [92, 60, 44],
    [60, 90, 40],
    [120, 150, 70],
    [170, 170, 110],
    [90, 140, 200],
    [150, 190, 230],
    [40, 60, 110],
    [200, 40, 40],
    [220, 120, 40],
    [230, 200, 60],
    [60, 140, 90],
    [50, 160, 170],
    [120, 60, 140],
    [200, 120, 160],
    [100, 80, 60],
    [210, 200, 180],
];

/// Every stock has a character of its own, without the help of a coating's strokes: any two of them differ by a mean
/// CIEDE2000 of at least 3 over a chart.
#[test]
fn any_two_stocks_differ_on_a_chart() {
    let light = srgb8(&CHART);
    let all: Vec<(&str, Vec<Lab>)> = Catalogue::all().iter().map(|s| (s.id.as_str(), seen(s, &[], &light))).collect();
    let mut closest: Vec<(f64, &str, &str)> = Vec::new();
    for (i, (a, ours)) in all.iter().enumerate() {
        for (b, theirs) in &all[i + 1..] {
            let mean = ours.iter().zip(theirs).map(|(x, y)| ciede2000(*x, *y)).sum::<f64>() / ours.len() as f64;
            closest.push((mean, a, b));
        }
    }
    closest.sort_by(|a, b| a.0.total_cmp(&b.0));
    println!("{:.2?}", &closest[..8]);
    assert!(closest[0].0 >= 3.0, "{:.2?}", closest[0]);
}

/// No two colour negatives share an emulsion: dyes, interlayer effects and the grain's law differ, pair by pair; and no
/// two contact processes a negative.
#[test]
fn emulsions_are_not_shared() {
    let distinct = |stocks: Vec<&Stock>, of: &dyn Fn(&Stock) -> String| {
        for (i, a) in stocks.iter().enumerate() {
            for b in &stocks[i + 1..] {
                assert_ne!(of(a), of(b), "{} and {}", a.id, b.id);
            }
        }
    };
    let family = |name: &str| -> Vec<&Stock> {
        Catalogue::all().iter().map(|s| s.as_ref()).filter(|s| s.family == name && s.layers() == 3).collect()
    };
    let birds = family("birds");
    assert_eq!(birds.len(), 8);
    distinct(birds.clone(), &|s| format!("{:?}", s.dyes));
    distinct(birds.clone(), &|s| format!("{:?} {:?}", s.inhibition, s.inhibition_high));
    let law = |s: &Stock| {
        let g = &s.grain;
        format!("{} {} {:?}", g.blur_um, g.roughness, g.layer_ratio)
    };
    distinct(birds, &law);
    let processes: Vec<&Stock> = Catalogue::all().iter().map(|s| s.as_ref()).filter(|s| s.process.is_some()).collect();
    assert_eq!(processes.len(), 6);
    distinct(processes.clone(), &|s| format!("{:?}", s.curves.list()));
    distinct(processes, &|s| format!("{} {}", s.grain.granularity, s.grain.diameter_um));
}

/// Wet plates are blind to red: red is nearly black, skin dark, a blue sky nearly as light as paper, and whites hold.
#[test]
fn a_wet_plate_is_blind_to_red() {
    let light = srgb8(&[[180, 30, 30], [205, 150, 120], [130, 175, 225], [235, 235, 235]]);
    for id in ["tintype", "ambrotype"] {
        let found = seen(&Catalogue::find(id).unwrap(), &[], &light);
        let [red, skin, sky, white] = [0, 1, 2, 3].map(|i: usize| found[i][0]);
        println!("{id}: {red:.0} {skin:.0} {sky:.0} {white:.0}");
        assert!(red < 25.0 && skin < 65.0 && sky > 60.0 && white > 65.0, "{id}: {red} {skin} {sky} {white}");
        assert!(sky > skin + 10.0 && skin > red + 15.0 && white >= sky, "{id}");
    }
}

/// Spread of L*, a* and b* of a grained field of the display.
fn grain_seen(stock: &Stock, light: f64) -> [f64; 4] {
    let side = 256;
    let source = Source::from_linear_srgb(6 * side, 4 * side, |_, _| [light; 3]);
    let scaled = Scaled::full(Arc::new(source), "field");
    let development = tuned(stock, &[choice("film.size", "35")]);
    let mut request = request(&scaled, stock, &development, GrainShown::Full);
    request.region = amber_core::Region::new(2 * side, side, side, side);
    let codes = renderer(2).display_16_bit(&request, Watch::NONE).unwrap();
    let linear = |c: u16| decode_srgb(f64::from(c) / 65535.0);
    let labs: Vec<Lab> = codes.chunks_exact(3).map(|p| from_linear_srgb([0, 1, 2].map(|k| linear(p[k])))).collect();
    let mean = |k: usize| labs.iter().map(|c| c[k]).sum::<f64>() / labs.len() as f64;
    let spread = |k: usize| {
        let m = mean(k);
        (labs.iter().map(|c| (c[k] - m).powi(2)).sum::<f64>() / labs.len() as f64).sqrt()
    };
    [mean(0), spread(0), spread(1), spread(2)]
}

/// Grain: more in a negative's print than in a slide, more in a fast film than in a slow one.
#[test]
fn negatives_and_fast_films_show_more_grain() {
    let of = |id: &str| grain_seen(&Catalogue::find(id).unwrap(), 0.18)[1];
    let [tern, heron, feldspar, alder, juniper, hawthorn] =
        ["tern", "heron", "feldspar", "alder", "juniper", "hawthorn"].map(of);
    assert!(tern > feldspar, "a print of ISO 100 negative {tern:.2}, a slide {feldspar:.2}");
    assert!(heron > 1.5 * tern && juniper > 1.3 * alder && hawthorn > 1.2 * juniper);
}

/// Colour grain is less colourful than it is bright, on every colour film and at every tone: the dye clouds of the
/// three layers overlap, and half of their fluctuation is in common.
#[test]
fn colour_grain_is_brighter_than_colourful() {
    for stock in Catalogue::all().iter().filter(|s| s.layers() == 3 && s.screen.is_none()) {
        for light in [0.03, 0.18, 0.5] {
            let [l, bright, green, yellow] = grain_seen(stock, light);
            println!("{} at L* {l:.0}: {bright:.2} {green:.2} {yellow:.2}", stock.id);
            assert!(green < bright && yellow < bright, "{} at L* {l:.0}: {bright} {green} {yellow}", stock.id);
        }
    }
}

/// Filters for light balance as handbooks list them (common practice): from one colour temperature to another, in
/// mired. A film balanced for the second sees the first through the filter as its own light.
#[test]
fn filters_take_one_light_to_another() {
    let lamp = Catalogue::all().iter().find(|s| s.balance_kelvin < 4000.0 && s.layers() == 3).unwrap();
    for (from, to, mired) in [
        (3400.0, 3200.0, 18.0),
        (3200.0, 3430.0, -21.0),
        (3200.0, 5500.0, -131.0),
        (5500.0, 3400.0, 112.0),
        (5500.0, 3200.0, 131.0),
    ] {
        let shift = 1e6 / to - 1e6 / from;
        assert!(f64::abs(shift - mired) < 1.0, "{from} to {to} is {shift:.1} mired");
        let mut stock = Stock::clone(lamp);
        stock.balance_kelvin = to;
        stock.scene_kelvin = Some(from);
        let spread = |filter: &LensFilter| {
            let sums: Vec<f64> = layer_matrix(&stock, filter).iter().map(|r| r.iter().sum::<f64>()).collect();
            (sums.iter().copied().fold(0.0, f64::max) / sums.iter().copied().fold(f64::MAX, f64::min)).log2()
        };
        let (bare, filtered) = (spread(&LensFilter::none()), spread(&LensFilter { mired, ..LensFilter::none() }));
        println!("{from} to {to} by {mired}: {bare:.3} to {filtered:.3} stops");
        assert!(filtered < 0.25 * bare.max(0.4), "{from} to {to} by {mired}: {bare:.3} to {filtered:.3} stops");
    }
}

/// Arrhenius: an attic ages dyes faster than a drawer, and a drawer faster than the cold.
#[test]
fn heat_ages_a_print() {
    let plover = Catalogue::find("plover").unwrap();
    let light = srgb8(&[[120, 120, 120], [200, 60, 60], [60, 90, 160]]);
    let fresh = seen(&plover, &[], &light);
    let faded = |place: &str| {
        let aged = seen(&plover, &[number("years.age", 25.0), choice("years.storage", place)], &light);
        fresh.iter().zip(&aged).map(|(a, b)| ciede2000(*a, *b)).sum::<f64>() / light.len() as f64
    };
    let [attic, drawer] = ["attic", "drawer"].map(faded);
    assert!(attic > 1.5 * drawer && drawer > 1.0, "{attic:.2} {drawer:.2}");
}

/// An aged colour print: whites go towards the middle, blacks up, colours paler.
#[test]
fn an_aged_print_is_paler() {
    let tern = Catalogue::find("tern").unwrap();
    let light = srgb8(&[[255, 255, 255], [4, 4, 4], [200, 40, 40], [40, 60, 150]]);
    let (fresh, aged) = (seen(&tern, &[], &light), seen(&tern, &[number("years.age", 60.0)], &light));
    assert!(aged[0][0] < fresh[0][0] - 0.3 && aged[1][0] > fresh[1][0] + 1.0, "{fresh:?} {aged:?}");
    // red and blue come nearer to one another, whatever cast the years gave both
    let apart = |c: &[Lab]| (c[2][1] - c[3][1]).hypot(c[2][2] - c[3][2]);
    assert!(apart(&aged) < 0.9 * apart(&fresh), "{fresh:?} {aged:?}");
}

/// A negative developed as a slide and then aged yellows and keeps its clear film: it is not scaled to a new white.
#[test]
fn a_crossed_negative_ages_without_a_new_white() {
    let tern = Catalogue::find("tern").unwrap();
    let white = srgb8(&[[255, 255, 255]]);
    let crossed = choice("bath.chemistry", "crossed");
    let fresh = seen(&tern, std::slice::from_ref(&crossed), &white)[0];
    let aged = seen(&tern, &[crossed, number("years.age", 60.0)], &white)[0];
    assert!(aged[0] < fresh[0] - 0.5 && aged[2] > fresh[2] + 2.0, "{fresh:?} {aged:?}");
}

/// A pushed colour negative is more colourful than a normal one, and a crossed slide takes a push too.
#[test]
fn push_makes_colours_stronger() {
    let light = srgb8(&[[190, 70, 60], [70, 100, 160], [80, 130, 70]]);
    let chroma = |id: &str, values: &[(&str, Value)]| -> f64 {
        seen(&Catalogue::find(id).unwrap(), values, &light).iter().map(|c| c[1].hypot(c[2])).sum()
    };
    for id in ["tern", "petrel", "oriole", "beryl"] {
        let (own, pushed) = (chroma(id, &[]), chroma(id, &[number("film.push", 2.0)]));
        assert!(pushed > 1.02 * own, "{id}: {own:.1} {pushed:.1}");
    }
    let crossed = choice("bath.chemistry", "crossed");
    let (own, pushed) = (
        chroma("beryl", std::slice::from_ref(&crossed)),
        chroma("beryl", &[crossed.clone(), number("film.push", 1.0)]),
    );
    assert!(pushed > own, "crossed: {own:.1} {pushed:.1}");
}

/// Full white reaches the display's white on slides and instants, as their reflectance says.
#[test]
fn clear_film_is_white() {
    for id in ["feldspar", "beryl", "celestine", "garnet", "cowrie", "limpet"] {
        let stock = Catalogue::find(id).unwrap();
        let source = Source::from_linear_srgb(8, 8, |_, _| [1.0; 3]);
        let scaled = Scaled::full(Arc::new(source), "white");
        let mut development = tuned(&stock, &[number("scene.exposure", 3.0)]);
        let render = |development: &Development| {
            let request = request(&scaled, &stock, development, GrainShown::Off);
            let codes = renderer(2).display_16_bit(&request, Watch::NONE).unwrap();
            let print = renderer(2).reflectance(&request, Watch::NONE).unwrap();
            let linear = WIDE_TO_SRGB.apply([0, 1, 2].map(|k| f64::from(print.plane(k)[0])));
            ([0, 1, 2].map(|k| f64::from(codes[k]) / 257.0), linear)
        };
        let (codes, reflectance) = render(&development);
        assert!(codes.iter().copied().fold(0.0, f64::max) > 254.5, "{id}: {codes:?}");
        assert!(reflectance.iter().copied().fold(0.0, f64::max) > 0.99, "{id}: {reflectance:?}");
        // what acts after the print does not move it
        development.set(&stock, "print.strength", Value::Number(99.0)).unwrap();
        let (nearly, _) = render(&development);
        for k in 0..3 {
            assert!((nearly[k] - codes[k]).abs() < 1.0, "{id}: {codes:?} {nearly:?}");
        }
    }
}

/// Two tones keep the lightness that the display shows, within half a unit, at full strength and at half.
#[test]
fn two_tones_keep_lightness() {
    let greys: Vec<[f64; 3]> =
        (0..48).map(|i| [0.002 * 1.16f64.powi(i); 3]).map(|c| c.map(|v: f64| v.min(1.0))).collect();
    for id in ["limpet", "tern", "petrel", "alder", "feldspar"] {
        let stock = Catalogue::find(id).unwrap();
        let plain = seen(&stock, &[], &greys);
        for strength in [50.0, 100.0] {
            let toned = seen(
                &stock,
                &[number("tone.two.light.strength", strength), number("tone.two.dark.strength", strength)],
                &greys,
            );
            for (a, b) in plain.iter().zip(&toned) {
                assert!((a[0] - b[0]).abs() < 0.5, "{id} at {strength}: {a:?} {b:?}");
            }
        }
    }
}

/// A curve on the print is exact on every stock: within 3 of 255 of the curve on the display's values, steep ones too.
#[test]
fn a_curve_on_the_print_is_exact() {
    let greys: Vec<[f64; 3]> =
        (0..40).map(|i| [0.004 * 1.15f64.powi(i); 3]).map(|c| c.map(|v: f64| v.min(1.0))).collect();
    let points = vec![[0.0, 0.0], [40.0, 10.0], [60.0, 90.0], [100.0, 100.0]];
    let curve = amber_core::numeric::ToneCurve::through(&points);
    for stock in Catalogue::all() {
        let source = Source::from_linear_srgb(greys.len() as u32, 1, |x, _| greys[x as usize]);
        let scaled = Scaled::full(Arc::new(source), "greys");
        let mut development = tuned(stock, &[number("film.halation.strength", 0.0)]);
        let plain =
            renderer(2).reflectance(&request(&scaled, stock, &development, GrainShown::Off), Watch::NONE).unwrap();
        development.set(stock, "print.curve.master", Value::Curve(points.clone())).unwrap();
        let bent =
            renderer(2).display_16_bit(&request(&scaled, stock, &development, GrainShown::Off), Watch::NONE).unwrap();
        for (i, codes) in bent.chunks_exact(3).enumerate() {
            let print = WIDE_TO_SRGB.apply([0, 1, 2].map(|k| f64::from(plain.plane(k)[i])));
            let through = print.map(|v| decode_srgb(curve.at(encode_srgb(v.max(0.0))).max(0.0)));
            let wanted = gamut::compress(through).map(|v| 255.0 * encode_srgb(v.clamp(0.0, 1.0)));
            for k in 0..3 {
                let found = f64::from(codes[k]) / 257.0;
                assert!((wanted[k] - found).abs() < 3.0, "{} {i}: {found:.1} for {wanted:.1?}", stock.id);
            }
        }
    }
}
