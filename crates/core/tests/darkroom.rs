//! What a printer expects of the controls: facts of the trade, common practice, no source.

use std::sync::Arc;

use amber_core::colour::lab::{Lab, from_linear_srgb};
use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::controls::Value;
use amber_core::measure::granularity::{aperture_sigma, square};
use amber_core::render::{Finish, GrainShown, RenderRequest, Scaled, Watch};
use amber_core::stock::StockKind;
use amber_core::{Catalogue, Source, Stock};
use support::{forgetful as renderer, tuned};

mod support;

/// L*a*b* of the print of a few colours, without grain.
fn printed(stock: &Stock, values: &[(&str, f64)], colours: &[[f64; 3]]) -> Vec<Lab> {
    let mut values: Vec<_> = values.iter().map(|(id, v)| (*id, Value::Number(*v))).collect();
    // a few pixels are all edge of a coating
    values.extend(["tone.coating.edge", "tone.coating.uneven"].map(|id| (id, Value::Number(0.0))));
    let development = tuned(stock, &values);
    let source = Source::from_linear_srgb(colours.len() as u32, 1, |x, _| colours[x as usize]);
    let scaled = Scaled::full(Arc::new(source), "colours");
    let region = scaled.source.region();
    let request = RenderRequest {
        scaled: &scaled,
        stock,
        development: &development,
        region,
        grain: GrainShown::Off,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let print = renderer().reflectance(&request, Watch::NONE).unwrap();
    let at = |i: usize| from_linear_srgb(WIDE_TO_SRGB.apply([0, 1, 2].map(|k| print.plane(k)[i] as f64)));
    (0..colours.len()).map(at).collect()
}

const GREY: [[f64; 3]; 1] = [[0.18; 3]];

#[test]
fn filtration_turns_a_print_from_a_negative_the_other_way() {
    let plover = Catalogue::first();
    let own = printed(&plover, &[], &GREY)[0];
    // ids, and which way a* and b* go
    for (id, da, db) in [("cyan", 1.0, 1.0), ("magenta", -1.0, 1.0), ("yellow", 0.0, -1.0)] {
        let id = format!("print.filter.{id}");
        let own_cc = amber_core::stations::find(&id).unwrap().own_value(&plover).as_number().unwrap();
        let more = printed(&plover, &[(&id, own_cc + 10.0)], &GREY)[0];
        assert!((more[1] - own[1]) * da >= 0.0 && (more[2] - own[2]) * db > 2.0, "{id}: {own:?} {more:?}");
    }
}

#[test]
fn more_light_on_the_paper_is_darker_and_more_light_on_the_film_is_lighter() {
    for stock in Catalogue::all() {
        let own = printed(stock, &[], &GREY)[0][0];
        // a plate has little room above its grey
        let least = if stock.kind == StockKind::Plate { 1.5 } else { 3.0 };
        assert!(printed(stock, &[("scene.exposure", 0.5)], &GREY)[0][0] > own + least, "{}", stock.id);
        let after = printed(stock, &[("print.exposure", 0.5)], &GREY)[0][0];
        match stock.kind {
            StockKind::ColourNegative | StockKind::BlackAndWhiteNegative | StockKind::ContactPrint => {
                assert!(after < own - 3.0, "{}", stock.id)
            }
            StockKind::Reversal => assert!(after > own + 3.0, "a brighter light table: {}", stock.id),
            _ => assert_eq!(after, own, "{} is not printed", stock.id),
        }
    }
}

#[test]
fn a_harder_grade_has_more_contrast_about_the_same_grey() {
    let juniper = Catalogue::find("juniper").unwrap();
    let tones = [[0.09; 3], [0.18; 3], [0.36; 3]];
    let contrast = |grade: f64| {
        let l = printed(&juniper, &[("print.grade", grade)], &tones);
        (l[2][0] - l[0][0], l[1][0])
    };
    let (soft, hard) = (contrast(1.0), contrast(5.0));
    assert!(hard.0 > 1.5 * soft.0, "{soft:?} {hard:?}");
    assert!((hard.1 - soft.1).abs() < 0.5, "the grey is balanced: {soft:?} {hard:?}");
}

#[test]
fn push_moves_contrast_and_keeps_the_balanced_grey() {
    let plover = Catalogue::first();
    let tones = [[0.05; 3], [0.18; 3], [0.5; 3]];
    let at = |stops: f64| printed(&plover, &[("film.push", stops)], &tones);
    let (pulled, pushed) = (at(-2.0), at(2.0));
    assert!(pushed[2][0] - pushed[0][0] > pulled[2][0] - pulled[0][0] + 4.0);
    assert!((pushed[1][0] - pulled[1][0]).abs() < 1.5);
}

#[test]
fn the_stocks_have_characters_of_their_own() {
    let colours = [[0.18; 3], [0.45, 0.28, 0.21], [0.51, 0.03, 0.006], [0.06, 0.29, 0.07], [0.04, 0.05, 0.30]];
    let of = |id: &str| printed(&Catalogue::find(id).unwrap(), &[], &colours);
    let (plover, feldspar, juniper) = (of("plover"), of("feldspar"), of("juniper"));
    let chroma = |c: &Lab| c[1].hypot(c[2]);
    let sum = |list: &[Lab]| list[1..].iter().map(chroma).sum::<f64>();
    assert!(juniper.iter().all(|c| chroma(c) < 4.0), "silver has no colour: {juniper:?}");
    assert!(sum(&feldspar) > sum(&plover), "the slide is the more saturated");
    assert!(plover[0][2] > feldspar[0][2] + 2.0, "plover is golden: {:?} {:?}", plover[0], feldspar[0]);
    // skin lives: warm, lighter than the grey, neither crimson nor yellow
    for list in [&plover, &feldspar] {
        let hue = list[1][2].atan2(list[1][1]).to_degrees();
        assert!((35.0..85.0).contains(&hue) && list[1][0] > list[0][0], "{:?}", list[1]);
    }
}

#[test]
fn temperature_and_tint_move_the_print() {
    let feldspar = Catalogue::find("feldspar").unwrap();
    let own = printed(&feldspar, &[], &GREY)[0];
    assert!(printed(&feldspar, &[("scene.temperature", 8000.0)], &GREY)[0][2] > own[2] + 5.0);
    assert!(printed(&feldspar, &[("scene.temperature", 3500.0)], &GREY)[0][2] < own[2] - 5.0);
    assert!(printed(&feldspar, &[("scene.tint", 20.0)], &GREY)[0][1] > own[1] + 5.0);
}

/// Spread of density of a grained grey, read through 2 x 2 pixels.
fn grain_spread(stock: &Stock, values: &[(&str, Value)]) -> f64 {
    let development = tuned(stock, values);
    let scaled = Scaled::full(Arc::new(Source::from_linear_srgb(420, 280, |_, _| [0.18; 3])), "grey");
    let request = RenderRequest::whole(&scaled, stock, &development);
    let density = renderer().density(&request, Watch::NONE).unwrap();
    aperture_sigma(density.plane(0), 420, &square(2))
}

#[test]
fn grain_grows_with_granularity_and_push_and_shrinks_on_larger_film() {
    let juniper = Catalogue::find("juniper").unwrap();
    let own = grain_spread(&juniper, &[]);
    assert!(own > 0.0);
    assert!(grain_spread(&juniper, &[("film.grain.granularity", Value::Number(34.0))]) > 1.6 * own);
    assert!(grain_spread(&juniper, &[("film.push", Value::Number(2.0))]) > 1.2 * own);
    assert!(grain_spread(&juniper, &[("film.size", Value::Choice("4x5".into()))]) < 0.5 * own);
    assert!(grain_spread(&juniper, &[("film.grain.granularity", Value::Number(0.0))]) < 1e-4 * own);
}

/// A preview prints through a table smoothed by what it does not resolve: its tones are those of the full render.
#[test]
fn hidden_grain_keeps_the_tones() {
    let juniper = Catalogue::find("juniper").unwrap();
    let development = tuned(&juniper, &[("film.grain.granularity", Value::Number(45.0))]);
    let scaled = Scaled::full(Arc::new(Source::from_linear_srgb(420, 280, |_, _| [0.5; 3])), "light grey");
    let mean = |grain: GrainShown| {
        let request = RenderRequest {
            scaled: &scaled,
            stock: &juniper,
            development: &development,
            region: scaled.source.region(),
            grain,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let print = renderer().reflectance(&request, Watch::NONE).unwrap();
        print.plane(1).iter().map(|v| *v as f64).sum::<f64>() / print.plane(1).len() as f64
    };
    let (full, averaged, off) = (mean(GrainShown::Full), mean(GrainShown::Averaged), mean(GrainShown::Off));
    assert!((averaged - full).abs() < 0.35 * (off - full).abs(), "{full} {averaged} {off}");
}
