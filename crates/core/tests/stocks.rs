//! What the stocks, the bath and the print promise, measured on the output. Figures without a source are the film
//! model's.

use amber_core::stations;
use std::sync::Arc;

use amber_core::colour::gamut;
use amber_core::colour::lab::{Lab, from_linear_srgb};
use amber_core::colour::space::{SRGB_LUMINANCE, WIDE_TO_SRGB};
use amber_core::colour::transfer::decode_srgb;
use amber_core::controls::Value;
use amber_core::render::{Alone, GrainShown, RenderRequest, Scaled, Watch};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::near_infrared::InfraredEstimate;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::Viewing;
use amber_core::stock::StockKind;
use amber_core::{Catalogue, Development, Picture, Region, Source, Stock};
use support::{forgetful as renderer, plain as request};

mod support;

fn tuned(stock: &Stock, values: &[(&str, &str)]) -> Development {
    let mut development = Development::new(stock);
    for (id, text) in values {
        let control = stations::find(id).unwrap();
        development.set(stock, id, control.parse(text).unwrap()).unwrap();
    }
    development
}

/// Linear sRGB of the print of some colours, by the exact way.
fn exact(stock: &Stock, development: &Development, light: &[[f64; 3]]) -> Vec<[f64; 3]> {
    let values = development.values(stock);
    let film = FilmResponse::new(stock, &FilmSettings::read(&values), &BathSettings::read(&values));
    let viewing = Viewing::of(&film, &values).unwrap();
    let wide = |rgb: &[f64; 3]| WIDE_TO_SRGB.inverse().unwrap().apply(*rgb).map(|v| v as f32);
    let wide: Vec<[f32; 3]> = light.iter().map(wide).collect();
    let planes = (0..3).map(|k| wide.iter().map(|v| v[k]).collect()).collect();
    let picture = Picture::from_planes(Region::whole(light.len() as u32, 1), planes);
    let density = film.develop(film.expose(picture, 1.0));
    let last = density.plane_count() - 1;
    (0..light.len())
        .map(|i| {
            let rgb = viewing.linear_srgb([0, 1, 2].map(|k: usize| density.plane(k.min(last))[i]));
            gamut::compress(rgb.map(f64::from))
        })
        .collect()
}

fn labs(stock: &Stock, values: &[(&str, &str)], light: &[[f64; 3]]) -> Vec<Lab> {
    exact(stock, &tuned(stock, values), light).into_iter().map(from_linear_srgb).collect()
}

fn greys(stops: impl Iterator<Item = f64>) -> Vec<[f64; 3]> {
    stops.map(|s| [0.18 * 2f64.powf(s); 3]).collect()
}

/// b* of a grey ramp where it passes a lightness.
fn b_at(ramp: &[Lab], lightness: f64) -> f64 {
    let i = ramp.partition_point(|c| c[0] < lightness).clamp(1, ramp.len() - 1);
    let (low, high) = (ramp[i - 1], ramp[i]);
    low[2] + (high[2] - low[2]) * (lightness - low[0]) / (high[0] - low[0])
}

/// The trade's signature of crossed slide film (common practice, no source): lights go yellow-orange, darks blue; in
/// the lights red and green rise and blue sinks, in the darks the reverse. Figures: the film model's.
#[test]
fn crossed_slide_film_has_its_signature() {
    let light = greys((-80..60).map(|i| f64::from(i) / 12.0));
    let figures = [("beryl", -6.0, 11.1), ("feldspar", -6.5, 11.6), ("garnet", -4.5, 8.2), ("celestine", -9.0, 15.4)];
    for (id, dark, bright) in figures {
        let stock = Catalogue::find(id).unwrap();
        let crossed = [("bath.chemistry", "crossed")];
        let ramp = labs(&stock, &crossed, &light);
        let (low, high) = (b_at(&ramp, 21.0), b_at(&ramp, 79.0));
        assert!((low - dark).abs() < 1.0 && (high - bright).abs() < 1.0, "{id}: {low:.1} {high:.1}");
        let rgb = exact(&stock, &tuned(&stock, &crossed), &greys([-2.0, 1.5].into_iter()));
        assert!(rgb[0][2] > rgb[0][0] && rgb[0][2] > rgb[0][1], "darks: {:?}", rgb[0]);
        assert!(rgb[1][2] < rgb[1][0] && rgb[1][2] < rgb[1][1], "lights: {:?}", rgb[1]);
    }
}

/// A negative developed as a slide is flat, warm and without deep blacks (common practice, no source).
#[test]
fn crossed_negative_is_flat_and_warm() {
    let tern = Catalogue::find("tern").unwrap();
    let ramp = labs(&tern, &[("bath.chemistry", "crossed")], &greys([-8.0, 0.0].into_iter()));
    assert!(ramp[0][0] > 4.0, "black is never deep: {:?}", ramp[0]);
    assert!(ramp[1][1] > 2.0 && ramp[1][2] > 4.0, "beige: {:?}", ramp[1]);
}

/// Hue of skin and warm colours on the stocks that mean to be neutral.
#[test]
fn skin_keeps_its_hue() {
    let srgb8 = |c: [f64; 3]| c.map(|v| decode_srgb(v / 255.0));
    let colours = [[236.0, 190.0, 170.0], [250.0, 180.0, 135.0]].map(srgb8);
    let hue = |c: Lab| c[2].atan2(c[1]).to_degrees();
    for id in ["tern", "petrel", "heron", "feldspar", "beryl", "sirocco", "mistral"] {
        let stock = Catalogue::find(id).unwrap();
        let printed = labs(&stock, &[], &colours);
        for (seen, own) in printed.iter().zip(colours) {
            let turned = hue(*seen) - hue(from_linear_srgb(own));
            assert!(turned.abs() < 12.0, "{id}: {turned:.1} degrees");
            assert!(seen[1].hypot(seen[2]) > 12.0, "{id}: skin lives, {seen:?}");
        }
    }
}

/// ISO 6846 (definition from memory): a paper's range at grade 2 is 105, and a harder grade takes less light.
#[test]
fn warm_matt_paper_is_warm_and_shallow() {
    let alder = Catalogue::find("alder").unwrap();
    let light = greys([-9.0, 0.0, 8.0].into_iter());
    let gloss = labs(&alder, &[("print.surface", "gloss"), ("print.tone", "neutral")], &light);
    let matt = labs(&alder, &[("print.surface", "matt"), ("print.tone", "neutral")], &light);
    let warm = labs(&alder, &[("print.surface", "gloss"), ("print.tone", "warm")], &light);
    let cool = labs(&alder, &[("print.surface", "gloss"), ("print.tone", "cool")], &light);
    assert!(matt[0][0] > gloss[0][0] + 3.0, "{:?} {:?}", matt[0], gloss[0]);
    assert!(warm[1][2] > gloss[1][2] + 1.0 && cool[1][2] < gloss[1][2], "{warm:?} {cool:?}");
}

#[test]
fn black_and_white_are_densities_of_the_print() {
    let luminance = |rgb: [f64; 3]| -rgb.iter().zip(SRGB_LUMINANCE).map(|(v, w)| v * w).sum::<f64>().log10();
    for id in ["plover", "juniper", "beryl", "cowrie"] {
        let stock = Catalogue::find(id).unwrap();
        let (dark, bright) = ([0.18 * 2f64.powi(-12); 3], [0.18 * 2f64.powi(7); 3]);
        let own = exact(&stock, &Development::new(&stock), &[dark, bright]);
        let lifted = tuned(&stock, &[("print.black", "1.0"), ("print.white", "0.1")]);
        let set = exact(&stock, &lifted, &[dark, bright]);
        assert!((luminance(set[0]) - 1.1).abs() < 0.15, "{id}: {}", luminance(set[0]));
        let paper = luminance(set[1]) - luminance(own[1]);
        assert!((paper - 0.1).abs() < 0.02, "{id}: {paper}");
    }
}

/// 20 CC of yellow is 0.20 density in the printing light (CC unit, common practice): with the brightness kept, the
/// print of grey keeps its luminance.
#[test]
fn brightness_is_kept_when_asked() {
    let tern = Catalogue::find("tern").unwrap();
    let grey = [[0.18; 3]];
    let own = labs(&tern, &[], &grey)[0];
    for cc in [[("print.filter.cyan", "40")], [("print.filter.magenta", "-30")]] {
        let loose = labs(&tern, &cc, &grey)[0];
        let kept = labs(&tern, &[cc[0], ("print.filter.keep", "on")], &grey)[0];
        assert!((kept[0] - own[0]).abs() < 0.3, "{kept:?} {own:?}");
        assert!((loose[0] - own[0]).abs() > 2.0, "{loose:?} {own:?}");
    }
}

#[test]
fn a_scan_is_flat_and_honest() {
    let light = greys([-3.0, 0.0, 2.0].into_iter());
    for id in ["plover", "juniper", "tern"] {
        let stock = Catalogue::find(id).unwrap();
        let scan = labs(&stock, &[("print.view", "scan")], &light);
        let print = labs(&stock, &[], &light);
        assert!(scan[2][0] - scan[0][0] < print[2][0] - print[0][0] + 4.0, "{id}: {scan:?} {print:?}");
        assert!(scan[1][1].hypot(scan[1][2]) < 2.0, "{id}: grey is grey, {:?}", scan[1]);
    }
}

#[test]
fn a_clear_film_has_the_deeper_black() {
    for id in ["plover", "juniper"] {
        let stock = Catalogue::find(id).unwrap();
        let dark = [[0.18 * 2f64.powi(-12); 3]];
        let print = labs(&stock, &[], &dark)[0][0];
        assert!(labs(&stock, &[("print.view", "transparency")], &dark)[0][0] < print - 1.0, "{id}");
    }
}

/// Kept silver drains colour and hardens the grey (common practice, no source); bora's own grey stays near neutral.
#[test]
fn skipped_bleach_takes_colour_and_adds_contrast() {
    let mistral = Catalogue::find("mistral").unwrap();
    let light = [[0.3, 0.06, 0.04], [0.05; 3], [0.5; 3]];
    let own = labs(&mistral, &[], &light);
    let kept = labs(&mistral, &[("bath.skip_bleach", "1")], &light);
    let chroma = |c: Lab| c[1].hypot(c[2]);
    assert!(chroma(kept[0]) < chroma(own[0]), "{kept:?} {own:?}");
    assert!(kept[2][0] - kept[1][0] > own[2][0] - own[1][0] + 3.0);
    let bora = Catalogue::find("bora").unwrap();
    let grey = exact(&bora, &Development::new(&bora), &[[0.18; 3]])[0].map(amber_core::colour::transfer::encode_srgb);
    let spread = grey.iter().copied().fold(0.0, f64::max) - grey.iter().copied().fold(1.0, f64::min);
    assert!(255.0 * spread < 9.0, "{grey:?}");
}

/// The two records of a two-colour process: the blue-green one lies in two layers alike.
#[test]
fn two_colours_have_two_records() {
    let cladonia = Catalogue::find("cladonia").unwrap();
    let film = FilmResponse::own(&cladonia);
    let light =
        Picture::from_planes(Region::whole(3, 1), vec![vec![0.4, 0.1, 0.2], vec![0.1, 0.3, 0.2], vec![0.02, 0.1, 0.5]]);
    let density = film.develop(film.expose(light, 1.0));
    assert_eq!(density.plane(1), density.plane(2));
    assert_ne!(density.plane(0), density.plane(1));
}

#[test]
fn infrared_leaves_grey_alone_and_lights_leaves() {
    let whitebeam = Catalogue::find("whitebeam").unwrap();
    let estimate = InfraredEstimate::new(whitebeam.nir.as_ref().unwrap());
    let relative = |rgb: [f32; 3]| {
        let y: f32 = rgb.iter().zip(SRGB_LUMINANCE).map(|(v, w)| v * w as f32).sum();
        estimate.near_infrared(rgb) / y
    };
    assert!((relative([0.2; 3]) - 1.0).abs() < 1e-5);
    assert!(relative([0.05, 0.14, 0.03]) > 1.5 && relative([0.12, 0.22, 0.45]) < 0.6);
}

/// A lamp on black, for halation.
fn lamp() -> Scaled {
    let source = Source::from_linear_srgb(360, 240, |x, y| {
        let inside = (f64::from(x) - 180.0).hypot(f64::from(y) - 120.0) < 12.0;
        if inside { [1.0; 3] } else { [0.012; 3] }
    });
    Scaled::full(Arc::new(source), "lamp")
}

#[test]
fn halation_bleeds_red_around_lamps_and_leaves_uniform_fields() {
    let nightjar = Catalogue::find("nightjar").unwrap();
    let renderer = renderer();
    let scaled = lamp();
    let exposure = |strength: &str| {
        let development = tuned(&nightjar, &[("film.halation.strength", strength)]);
        renderer.exposure(&request(&scaled, &nightjar, &development), Watch::NONE).unwrap()
    };
    let (with, without) = (exposure("0.2"), exposure("0"));
    let gain = |k: usize, x: usize| with.plane(k)[120 * 360 + x] / without.plane(k)[120 * 360 + x];
    // just outside the lamp red rises most, green a little, blue not at all; inside nothing changes
    assert!(gain(0, 195) > 1.3 && gain(0, 195) > gain(1, 195) && (gain(2, 195) - 1.0).abs() < 1e-6);
    assert!((gain(0, 180) - 1.0).abs() < 0.02);
    assert!(gain(0, 195) > gain(0, 230), "it falls off");

    let even = Scaled::full(Arc::new(Source::from_linear_srgb(200, 150, |_, _| [0.7, 0.3, 0.5])), "even");
    let development = tuned(&nightjar, &[("film.halation.strength", "0.5"), ("film.halation.threshold", "0.3")]);
    let own = tuned(&nightjar, &[("film.halation.strength", "0")]);
    let a = renderer.exposure(&request(&even, &nightjar, &development), Watch::NONE).unwrap();
    let b = renderer.exposure(&request(&even, &nightjar, &own), Watch::NONE).unwrap();
    for k in 0..3 {
        assert_eq!(a.plane(k), b.plane(k), "a uniform field stays as it is");
    }
}

#[test]
fn effects_are_shown_alone() {
    let nightjar = Catalogue::find("nightjar").unwrap();
    let renderer = renderer();
    let scaled = lamp();
    let alone = |values: &[(&str, &str)], what| {
        let development = tuned(&nightjar, values);
        let asked = RenderRequest { grain: GrainShown::Full, ..request(&scaled, &nightjar, &development) };
        renderer.alone_8_bit(&asked, what, Watch::NONE).unwrap()
    };
    let halation = alone(&[("film.halation.strength", "0.4")], Alone::Halation);
    let at = |x: usize, y: usize| &halation[3 * (y * 360 + x)..3 * (y * 360 + x) + 3];
    assert!(at(195, 120)[0] > 30 && at(195, 120)[0] > at(195, 120)[2] && at(5, 5)[0] < 12, "{:?}", at(195, 120));
    assert!(alone(&[("film.halation.strength", "0")], Alone::Halation).iter().all(|v| *v == 0));
    assert!(alone(&[("film.grain.granularity", "0")], Alone::Grain).iter().all(|v| v.abs_diff(128) <= 1));
    let grain = alone(&[("film.grain.granularity", "40")], Alone::Grain);
    assert!(grain.iter().any(|v| v.abs_diff(128) > 12));
}

/// A larger film shows less grain in the same picture.
#[test]
fn film_size_scales_grain() {
    let juniper = Catalogue::find("juniper").unwrap();
    let scaled = Scaled::full(Arc::new(Source::from_linear_srgb(300, 200, |_, _| [0.18; 3])), "grey");
    let renderer = renderer();
    let spread = |size: &str| {
        let development = tuned(&juniper, &[("film.size", size)]);
        let asked = RenderRequest { grain: GrainShown::Full, ..request(&scaled, &juniper, &development) };
        let density = renderer.density(&asked, Watch::NONE).unwrap();
        let mean = density.plane(0).iter().sum::<f32>() / density.plane(0).len() as f32;
        (density.plane(0).iter().map(|d| (d - mean).powi(2)).sum::<f32>() / density.plane(0).len() as f32).sqrt()
    };
    let (half, small, large) = (spread("half"), spread("35"), spread("8x10"));
    assert!(half > 1.3 * small && small > 3.0 * large, "{half} {small} {large}");
}

#[test]
fn development_time_is_a_trim_on_the_push() {
    let tern = Catalogue::find("tern").unwrap();
    let slope = |values: &[(&str, &str)]| {
        let development = tuned(&tern, values);
        let values = development.values(&tern);
        FilmResponse::new(&tern, &FilmSettings::read(&values), &BathSettings::read(&values)).curves[1].greatest_slope()
    };
    assert!(slope(&[("bath.time", "140")]) > slope(&[]) * 1.05);
    // 1.32 times the time is the time of a push of one stop
    assert!((slope(&[("bath.time", "132")]) / slope(&[("film.push", "1")]) - 1.0).abs() < 1e-3);
    let fogged = tuned(&tern, &[("bath.fog", "0.3")]);
    let values = fogged.values(&tern);
    let film = FilmResponse::new(&tern, &FilmSettings::read(&values), &BathSettings::read(&values));
    assert!((film.curves[1].shape.dmin - FilmResponse::own(&tern).curves[1].shape.dmin - 0.3).abs() < 1e-9);
}

/// Contrast means the measured greatest slope; a tuned one comes back within 3 %.
#[test]
fn a_tuned_contrast_is_the_measured_one() {
    for (id, control, gamma) in
        [("juniper", "film.curve.single.contrast", "0.9"), ("tern", "film.curve.green.contrast", "1.1")]
    {
        let stock = Catalogue::find(id).unwrap();
        let development = tuned(&stock, &[(control, gamma)]);
        let values = development.values(&stock);
        let film = FilmResponse::new(&stock, &FilmSettings::read(&values), &BathSettings::read(&values));
        let measured = film.curves[film.layers() / 2].greatest_slope();
        assert!((measured / gamma.parse::<f64>().unwrap() - 1.0).abs() < 0.03, "{id}: {measured}");
    }
}

/// Strength 0 is the plain picture: what the camera showed.
#[test]
fn no_strength_is_the_picture_as_it_came() {
    let source =
        Source::from_linear_srgb(64, 1, |x, _| [0.01 + 0.8 * f64::from(x) / 63.0, 0.3, 0.6 - f64::from(x) / 120.0]);
    let scaled = Scaled::full(Arc::new(source), "colours");
    let plain = scaled.source.display_8_bit(scaled.source.region());
    let stock = Catalogue::find("garnet").unwrap();
    let development = tuned(&stock, &[("print.strength", "0")]);
    let shown = renderer().display_8_bit(&request(&scaled, &stock, &development), Watch::NONE).unwrap();
    for (i, (a, b)) in shown.chunks(3).zip(plain.chunks(3)).enumerate() {
        assert!(a.iter().zip(b).all(|(x, y)| x.abs_diff(*y) <= 2), "{i}: {a:?} {b:?}");
    }
}

/// Every stock differs in kind or number; every kind of the trade is there.
#[test]
fn all_kinds_are_on_the_board() {
    let all = Catalogue::all();
    assert_eq!(all.len(), 34);
    let count = |kind: StockKind| all.iter().filter(|s| s.kind == kind).count();
    let counts = [
        (StockKind::ColourNegative, 13),
        (StockKind::Reversal, 4),
        (StockKind::BlackAndWhiteNegative, 6),
        (StockKind::Instant, 1),
        (StockKind::BlackAndWhiteInstant, 1),
        (StockKind::ScreenPlate, 1),
        (StockKind::ContactPrint, 6),
        (StockKind::Plate, 2),
    ];
    for (kind, expected) in counts {
        assert_eq!(count(kind), expected, "{}", kind.words());
    }
    assert!(all.iter().all(|s| s.notes.is_some()), "every stock says what it is");
}

/// A hostile or broken stock file is refused with the place that is wrong.
#[test]
fn wrong_stock_files_name_what_is_wrong() {
    let good = Catalogue::first().to_json();
    let cases = [
        (good.replace("\"iso\": 200.0", "\"iso\": 1e99"), "iso"),
        (good.replace("\"lab-paper\"", "\"../../etc/passwd\""), "../../etc/passwd"),
        (good.replace("\"id\": \"plover\"", "\"id\": \"Bad Id\""), "id must be"),
        (good.replacen('{', "{ \"surprise\": 1,", 1), "surprise"),
        (good[..good.len() / 2].to_owned(), "line"),
        ("[]".into(), "line 1"),
        (good.replace("\"granularity\": ", "\"granularity\": 9"), "grain.granularity"),
        (good.replacen('{', "{ \"own\": {\"film.push\": 40},", 1), "film.push"),
    ];
    for (text, part) in cases {
        let error = Stock::from_json(&text).unwrap_err().to_string();
        assert!(error.contains(part), "{part}: {error}");
    }
}

/// Every number of every built-in stock, made absurd one at a time, is refused: no field is left unbounded.
#[test]
fn no_number_of_a_stock_is_unbounded() {
    use serde_json::Value as Json;
    fn numbers(json: &Json, path: &str, found: &mut Vec<String>) {
        match json {
            Json::Number(_) => found.push(path.to_owned()),
            Json::Array(list) => list.iter().enumerate().for_each(|(i, v)| numbers(v, &format!("{path}/{i}"), found)),
            Json::Object(map) => map.iter().for_each(|(k, v)| numbers(v, &format!("{path}/{k}"), found)),
            _ => {}
        }
    }
    for stock in Catalogue::all() {
        let good: Json = serde_json::from_str(&stock.to_json()).unwrap();
        let mut paths = Vec::new();
        numbers(&good, "", &mut paths);
        for path in paths {
            let mut wild = good.clone();
            *wild.pointer_mut(&path).unwrap() = Json::from(1e9);
            assert!(Stock::from_json(&wild.to_string()).is_err(), "{}: {path} takes a thousand million", stock.id);
        }
    }
}

#[test]
fn numbers_typed_for_curves_come_back() {
    let control = stations::find("print.curve.master").unwrap();
    let value = control.parse("0,5 50,60 100,95").unwrap();
    assert_eq!(value, Value::Curve(vec![[0.0, 5.0], [50.0, 60.0], [100.0, 95.0]]));
    assert_eq!(control.parse(&value.to_string()).unwrap(), value);
    for wrong in ["0,0", "50,0 20,10", "0,0 100,101", "a,b"] {
        assert!(control.parse(wrong).is_err(), "{wrong}");
    }
}
