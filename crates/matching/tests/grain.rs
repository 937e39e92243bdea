//! Grain that was hidden is found again: on six stocks, from another picture; and a sensor's noise is met.

mod support;

use std::sync::Arc;

use amber_core::colour::transfer::decode_srgb;
use amber_core::controls::Value;
use amber_core::render::{Finish, GrainShown, RenderRequest, Scaled, Watch};
use amber_core::{Catalogue, Development, Source, Stock};
use amber_matching::grain::{Enlarged, GrainMeasure, match_grain};

use support::renderer;

/// A picture of slopes of light: some tones, little structure.
fn slopes(width: u32, height: u32) -> Source {
    Source::from_linear_srgb(width, height, |x, y| {
        let (u, v) = (f64::from(x) / f64::from(width), f64::from(y) / f64::from(height));
        [decode_srgb(0.15 + 0.6 * u + 0.1 * v), decode_srgb(0.15 + 0.55 * u + 0.12 * v), decode_srgb(0.2 + 0.5 * u)]
    })
}

fn print_of(source: &Source, stock: &Stock, development: &Development, film: [u32; 2]) -> Source {
    let mut scaled = Scaled::full(Arc::new(source.clone()), "slopes");
    scaled.film = film;
    let request = RenderRequest {
        scaled: &scaled,
        stock,
        development,
        region: source.region(),
        grain: GrainShown::Full,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let shown = renderer().display_8_bit(&request, Watch::NONE).unwrap();
    Source::of_8_bit(source.width(), source.height(), shown).unwrap()
}

/// The film that the pictures are a part of, in pixels; of a smaller camera's picture.
const FILM: [u32; 2] = [6000, 4000];
const SMALL_FILM: [u32; 2] = [1800, 1200];

/// By how much the noise of a print with the grain that was found differs from the aim: sigma and length, as shares.
fn off(id: &str, aim: &GrainMeasure, on: &Source, film: [u32; 2]) -> [f64; 2] {
    let stock = Catalogue::find(id).unwrap();
    let started = std::time::Instant::now();
    let enlarged = Enlarged { film, scale: 1.0 };
    let found = match_grain(&renderer(), &stock, &Development::new(&stock), enlarged, aim, None).unwrap();
    // the print of a picture with the values that were found, in another accident
    let shown = print_of(on, &stock, &found.proposed, film);
    let reached = GrainMeasure::of(&shown, shown.region()).unwrap();
    let at = |t: &amber_matching::grain::ToneNoise| Some(reached.at(t.tone)?.sigma() / t.sigma() - 1.0);
    let by_tone: Vec<f64> = aim.tones.iter().filter_map(at).collect();
    let sigma = by_tone.iter().sum::<f64>() / by_tone.len() as f64;
    let length = reached.length_px() / aim.length_px() - 1.0;
    println!("{id}: {sigma:.3} {length:.3} {:.1?} {by_tone:.3?} {:?}", started.elapsed(), found.proposed.values);
    [sigma, length]
}

/// A stock's development with a grain that is not its own.
fn hidden(stock: &Stock, [granularity, size, roughness]: [f64; 3]) -> Development {
    let mut hidden = Development::new(stock);
    hidden.seed = 77;
    for (control, value) in [("granularity", granularity), ("size", size), ("roughness", roughness)] {
        hidden.set(stock, &format!("film.grain.{control}"), Value::Number(value)).unwrap();
    }
    hidden
}

#[test]
fn hidden_grain_is_found() {
    let source = slopes(420, 320);
    for (id, grain) in [
        ("plover", [19.0, 9.0, 0.3]),
        ("oriole", [9.0, 6.0, 0.5]),
        ("heron", [26.0, 12.0, 0.7]),
        ("beryl", [12.0, 8.0, 0.4]),
        ("juniper", [24.0, 7.5, 0.5]),
        ("hawthorn", [20.0, 10.0, 0.2]),
    ] {
        let stock = Catalogue::find(id).unwrap();
        let print = print_of(&source, &stock, &hidden(&stock, grain), FILM);
        let aim = GrainMeasure::of(&print, print.region()).unwrap();
        let [sigma, length] = off(id, &aim, &source, FILM);
        assert!(sigma.abs() < 0.1 && length.abs() < 0.15, "{id}: {sigma} {length}");
    }
}

/// A patch of cloth and one of grass, each under a grain, by what the grain is on an even patch.
#[test]
fn grain_on_structure_is_found() {
    let even = slopes(320, 320);
    let mut random = uniform(11);
    let mut grass = vec![0.42; 320 * 320];
    for _ in 0..2500 {
        let (x, y, tone, lean) = (320.0 * random(), 320.0 * random(), 0.28 + 0.28 * random(), random() - 0.5);
        for step in 0..(10.0 + 30.0 * random()) as usize {
            let at = [(x + lean * step as f64) as usize, (y - step as f64).max(0.0) as usize];
            if at[0] + 1 < 320 {
                grass[at[1] * 320 + at[0]] = tone;
                grass[at[1] * 320 + at[0] + 1] = tone;
            }
        }
    }
    let wave = |v: u32, period: f64| (std::f64::consts::TAU * f64::from(v) / period).sin();
    let cloth = |x: u32, y: u32| 0.42 + 0.05 * wave(x, 5.3) * wave(y, 6.1) + 0.03 * wave(x + y, 9.7);
    let grass_at = |x: u32, y: u32| grass[(y * 320 + x) as usize];
    // as a lens draws it
    let lawn = |x: u32, y: u32| {
        let near = |v: u32| v.saturating_sub(1)..=(v + 1).min(319);
        let all = || near(y).flat_map(|y| near(x).map(move |x| [x, y])).map(|[x, y]| grass_at(x, y));
        all().sum::<f64>() / all().count() as f64
    };
    type Structure<'a> = &'a dyn Fn(u32, u32) -> f64;
    let patches: [(&str, Structure); 2] = [("cloth", &cloth), ("grass", &lawn)];
    for (what, structure) in patches {
        let source = Source::from_linear_srgb(320, 320, |x, y| [decode_srgb(structure(x, y)); 3]);
        for (id, grain) in [("plover", [19.0, 9.0, 0.3]), ("juniper", [24.0, 7.5, 0.5])] {
            let stock = Catalogue::find(id).unwrap();
            let development = hidden(&stock, grain);
            let print = print_of(&source, &stock, &development, FILM);
            let plain = print_of(&even, &stock, &development, FILM);
            let aim = GrainMeasure::of(&print, print.region()).unwrap();
            let truth = GrainMeasure::of(&plain, plain.region()).unwrap();
            let enlarged = Enlarged { film: FILM, scale: 1.0 };
            let found = match_grain(&renderer(), &stock, &Development::new(&stock), enlarged, &aim, None).unwrap();
            let shown = print_of(&even, &stock, &found.proposed, FILM);
            let reached = GrainMeasure::of(&shown, shown.region()).unwrap();
            let tone = aim.tones[aim.tones.len() / 2].tone;
            let sigma = reached.at(tone).unwrap().sigma() / truth.at(tone).unwrap().sigma() - 1.0;
            println!("{what} {id}: {sigma:.3} {} {}", reached.length_px(), truth.length_px());
            assert!(sigma.abs() < 0.2, "{what} {id}: {sigma}");
        }
    }
}

/// Uniform numbers from 0 to 1 of a linear congruential generator.
fn uniform(seed: u32) -> impl FnMut() -> f64 {
    let mut state = seed;
    move || {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        f64::from(state >> 8) / f64::from(1 << 24)
    }
}

/// Photons that a sensor counts (Poisson's law, by Knuth's product of uniform numbers; many by a normal one).
fn photons(mean: f64, random: &mut impl FnMut() -> f64) -> f64 {
    if mean > 60.0 {
        let normal = (0..12).map(|_| random()).sum::<f64>() - 6.0;
        return (mean + mean.sqrt() * normal).max(0.0);
    }
    let (limit, mut product, mut count) = ((-mean).exp(), random(), 0.0);
    while product > limit {
        product *= random();
        count += 1.0;
    }
    count
}

/// The shot noise of a sensor: every pixel and channel for itself. (On a film whose pixels are as fine as its own blur
/// no grain is so white.)
#[test]
fn a_sensors_noise_is_met() {
    let source = slopes(420, 320);
    let linear = amber_core::picture::source::linear_of_code();
    let mut random = uniform(5);
    let noisy: Vec<[f64; 3]> = (0..420 * 320)
        .map(|i| source.pixel(i).map(|code| photons(700.0 * f64::from(linear[code as usize]), &mut random) / 700.0))
        .collect();
    let noisy = Source::from_linear_srgb(420, 320, |x, y| noisy[(y * 420 + x) as usize].map(|v| v.min(1.0)));
    let aim = GrainMeasure::of(&noisy, noisy.region()).unwrap();
    for id in ["plover", "juniper"] {
        let [sigma, length] = off(id, &aim, &source, SMALL_FILM);
        assert!(sigma.abs() < 0.1 && length.abs() < 0.15, "{id}: {sigma} {length}");
    }
}
