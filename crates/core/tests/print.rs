//! The print, control by control: what a printer expects of paper, enlarger, edges, curve and hues. Common practice
//! where no source is named.

use amber_core::effect::{Effect, FilmFrame};
use amber_core::stations;
use std::sync::Arc;

use amber_core::colour::lab::{Lab, from_linear_srgb};
use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::picture::buffer::Reflectance;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::print::acutance::Acutance;
use amber_core::stations::print::graded_print::{iso_range, paper_curve, range_of_grade};
use amber_core::stations::print::settings::Edge;
use amber_core::stock::material::graded_paper;
use amber_core::{Catalogue, Development, Picture, Region, Source, Stock};

/// L*a*b* of the print of some colours of scene light, without grain.
fn printed(stock: &Stock, values: &[(&str, &str)], colours: &[[f64; 3]]) -> Vec<Lab> {
    let mut development = Development::new(stock);
    for (id, text) in values {
        development.set(stock, id, stations::find(id).unwrap().parse(text).unwrap()).unwrap();
    }
    let source = Source::from_linear_srgb(colours.len() as u32, 1, |x, _| colours[x as usize]);
    let scaled = Scaled::full(Arc::new(source), "colours");
    let request = RenderRequest {
        scaled: &scaled,
        stock,
        development: &development,
        region: scaled.source.region(),
        grain: GrainShown::Off,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let renderer = Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap()), 0);
    let print = renderer.reflectance(&request, Watch::NONE).unwrap();
    (0..colours.len())
        .map(|i| from_linear_srgb(WIDE_TO_SRGB.apply([0, 1, 2].map(|k| f64::from(print.plane(k)[i])))))
        .collect()
}

fn stock(id: &str) -> Arc<Stock> {
    Catalogue::find(id).unwrap()
}

fn chroma(c: Lab) -> f64 {
    c[1].hypot(c[2])
}

fn hue(c: Lab) -> f64 {
    c[2].atan2(c[1]).to_degrees().rem_euclid(360.0)
}

const TONES: [[f64; 3]; 3] = [[0.03; 3], [0.18; 3], [0.5; 3]];
const RED: [f64; 3] = [0.42, 0.05, 0.04];
const BLUE: [f64; 3] = [0.04, 0.08, 0.35];

/// ISO 6846 (definition from memory): grades come back within 5 %, and grades between lie between.
#[test]
fn graded_papers_have_the_range_of_their_grade() {
    for name in ["glossy-neutral", "glossy-warm", "matt-warm"] {
        let paper = graded_paper(name).unwrap();
        for step in 0..=20 {
            let grade = f64::from(step) * 0.25;
            let measured = iso_range(&paper_curve(paper, grade));
            assert!((measured / range_of_grade(grade) - 1.0).abs() < 0.05, "{name} {grade}: {measured}");
        }
    }
    let ranges: Vec<f64> = (0..=50).map(|i| range_of_grade(f64::from(i) * 0.1)).collect();
    assert!(ranges.windows(2).all(|p| p[1] < p[0]), "harder paper takes less");
}

#[test]
fn softer_and_harder_colour_paper_about_the_same_grey() {
    let petrel = stock("petrel");
    let of = |contrast: &str| printed(&petrel, &[("print.contrast", contrast)], &TONES);
    let (soft, own, hard) = (of("0.7"), of("1"), of("1.4"));
    let range = |c: &[Lab]| c[2][0] - c[0][0];
    assert!(range(&soft) < range(&own) - 3.0 && range(&own) < range(&hard) - 2.0);
    assert!((soft[1][0] - hard[1][0]).abs() < 2.5, "{soft:?} {hard:?}");
}

#[test]
fn every_colour_paper_prints_grey_near_grey_and_differs() {
    let tern = stock("tern");
    let papers = ["gloss-paper", "lab-paper", "portrait-paper", "old-paper", "cine-print", "two-colour-print"];
    let prints: Vec<Vec<Lab>> =
        papers.iter().map(|p| printed(&tern, &[("print.paper", p)], &[[0.18; 3], RED, BLUE, [0.7; 3]])).collect();
    for (name, print) in papers.iter().zip(&prints) {
        assert!(chroma(print[0]) < 9.0, "{name}: {:?}", print[0]);
        assert!(print[1][1] > 15.0, "red stays red on {name}: {:?}", print[1]);
    }
    for (i, a) in prints.iter().enumerate() {
        for b in &prints[i + 1..] {
            let apart = a
                .iter()
                .zip(b)
                .map(|(x, y)| (0..3).map(|k| (x[k] - y[k]).powi(2)).sum::<f64>().sqrt())
                .fold(0.0, f64::max);
            assert!(apart > 1.0, "two papers print alike");
        }
    }
}

#[test]
fn a_slide_can_be_printed_and_gains_paper_contrast() {
    let beryl = stock("beryl");
    let print = printed(&beryl, &[("print.view", "print")], &TONES);
    let slide = printed(&beryl, &[], &TONES);
    assert!(print.windows(2).all(|p| p[1][0] > p[0][0]), "more light on the slide is a lighter print: {print:?}");
    assert!(print[0][0] > slide[0][0] - 12.0 && chroma(print[1]) < 6.0, "{print:?} {slide:?}");
    // from a slide more light on the paper is lighter, from a negative darker
    let more = [("print.view", "print"), ("print.exposure", "0.5")];
    assert!(printed(&beryl, &more, &TONES)[1][0] > print[1][0] + 3.0);
}

#[test]
fn a_light_table_takes_filters_and_brightness() {
    let beryl = stock("beryl");
    let grey = [[0.18; 3]];
    let own = printed(&beryl, &[], &grey)[0];
    assert!(printed(&beryl, &[("print.exposure", "0.5")], &grey)[0][0] > own[0] + 5.0);
    let yellow = printed(&beryl, &[("print.filter.yellow", "30")], &grey)[0];
    assert!(yellow[2] > own[2] + 10.0, "looked at through yellow: {yellow:?}");
    let kept = printed(&beryl, &[("print.filter.magenta", "40"), ("print.filter.keep", "on")], &grey)[0];
    assert!((kept[0] - own[0]).abs() < 4.0 && kept[1] > own[1] + 10.0, "{kept:?}");
}

#[test]
fn the_print_curve_bends_what_it_says() {
    let plover = stock("plover");
    let own = printed(&plover, &[], &TONES);
    let lighter = printed(&plover, &[("print.curve.master", "0,0 50,65 100,100")], &TONES);
    assert!(lighter[1][0] > own[1][0] + 6.0 && (lighter[0][0] - own[0][0]) > 0.0);
    let red = printed(&plover, &[("print.curve.red", "0,0 50,62 100,100")], &TONES);
    assert!(red[1][1] > own[1][1] + 5.0, "more red: {:?}", red[1]);
    let blue = printed(&plover, &[("print.curve.blue", "0,20 100,100")], &TONES);
    assert!(blue[0][2] < own[0][2] - 6.0, "blue darks: {:?} {:?}", blue[0], own[0]);
    let straight = printed(&plover, &[("print.curve.green", "0,0 50,50 100,100")], &TONES);
    for (a, b) in straight.iter().zip(&own) {
        assert!((a[0] - b[0]).abs() < 0.2, "a straight line with a point on it changes nothing");
    }
}

#[test]
fn a_hue_of_the_print_moves_alone() {
    let tern = stock("tern");
    let colours = [RED, BLUE, [0.18; 3]];
    let own = printed(&tern, &[], &colours);
    let dull =
        printed(&tern, &[("print.band.blue.saturation", "-80"), ("print.band.violet.saturation", "-80")], &colours);
    assert!(chroma(dull[1]) < 0.6 * chroma(own[1]) && (chroma(dull[0]) - chroma(own[0])).abs() < 1.5);
    let turned = printed(&tern, &[("print.band.red.hue", "25"), ("print.band.orange.hue", "25")], &colours);
    let by = (hue(turned[0]) - hue(own[0]) + 540.0).rem_euclid(360.0) - 180.0;
    assert!(by > 8.0, "red towards orange: {by}");
    let light = printed(&tern, &[("print.band.blue.lightness", "60"), ("print.band.violet.lightness", "60")], &colours);
    assert!(light[1][0] > own[1][0] + 4.0);
    for changed in [&dull, &turned, &light] {
        assert!((changed[2][0] - own[2][0]).abs() < 0.6, "grey stays: {:?} {:?}", changed[2], own[2]);
    }
}

#[test]
fn strength_lies_between_film_and_plain() {
    let garnet = stock("garnet");
    let at = |percent: &str| printed(&garnet, &[("print.strength", percent)], &[[0.18; 3], RED]);
    let (none, half, full) = (at("0"), at("50"), at("100"));
    for i in 0..2 {
        for k in 0..3 {
            let (low, high) = (none[i][k].min(full[i][k]) - 0.7, none[i][k].max(full[i][k]) + 0.7);
            assert!((low..=high).contains(&half[i][k]), "{i} {k}: {none:?} {half:?} {full:?}");
        }
    }
    assert!(chroma(none[0]) < 0.6, "the plain grey is grey: {:?}", none[0]);
}

#[test]
fn paper_white_and_tone_act_on_the_white() {
    let alder = stock("alder");
    let white = [[0.18 * 64.0; 3]];
    let own = printed(&alder, &[], &white)[0];
    let grey = printed(&alder, &[("print.white", "0.2")], &white)[0];
    assert!(own[0] - grey[0] > 12.0, "0.2 density is about a stop less 60 %: {own:?} {grey:?}");
    let tone = |t: &str| printed(&stock("juniper"), &[("print.tone", t)], &white)[0][2];
    assert!(tone("warm") > tone("neutral") && tone("neutral") >= tone("cool") - 0.3);
}

/// A step, a line and a flat, at 6 um a pixel.
fn edge_picture() -> Picture<Reflectance> {
    let region = Region::whole(120, 30);
    let value = |x: usize| {
        if x < 40 {
            0.08
        } else if x == 80 {
            0.6
        } else {
            0.4
        }
    };
    let plane: Vec<f32> = (0..region.pixels()).map(|i| value(i % 120)).collect();
    Picture::from_planes(region, vec![plane.clone(), plane.iter().map(|v| v * 0.5).collect(), plane])
}

#[test]
fn acutance_keeps_hue_and_flats_and_sums_its_widths() {
    let picture = edge_picture();
    let source = Source::from_linear_srgb(picture.region.width, picture.region.height, |_, _| [0.2; 3]);
    let frame = FilmFrame::filling(&source, 6.0 * f64::from(source.width()));
    let apply = |edges: &[Edge]| Acutance::new(edges, 6.0).unwrap().apply(&frame, picture.clone(), picture.region);
    let fine = Edge { amount: 1.0, radius_um: 12.0 };
    let coarse = Edge { amount: 0.6, radius_um: 60.0 };
    let (a, both) = (apply(&[fine]), apply(&[fine, coarse]));
    let row = |p: &Picture<Reflectance>, k: usize, x: usize| p.plane(k)[15 * 120 + x];
    for x in 0..120 {
        let ratio = row(&a, 1, x) / row(&a, 0, x);
        assert!((ratio - 0.5).abs() < 1e-4, "channels keep their proportion at {x}");
    }
    assert!((row(&a, 0, 10) - 0.08).abs() < 1e-4, "a flat stays");
    assert!(row(&a, 0, 39) < 0.075 && row(&a, 0, 40) > 0.42, "the step is steeper");
    assert!(row(&both, 0, 60) > row(&a, 0, 60), "the coarse width reaches further");
    assert!(Acutance::new(&[Edge { amount: 0.0, radius_um: 12.0 }], 6.0).is_none());
}
