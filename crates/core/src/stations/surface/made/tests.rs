//! What the made kinds say of themselves, counted on what they draw: numbers to a square millimetre and their law,
//! distances, angles. Where a figure is the trade's it is common practice, with no source.

use super::*;
use crate::picture::Region;
use crate::stations::surface::catalogue::kind;
use crate::stations::surface::matter::Stuff;
use crate::stations::surface::placing::{Ground, Laid, Placing};

/// A frame of a size in micrometres at a pitch, and a kind laid on it as it comes.
struct Frame {
    pixels: [u32; 2],
    placing: Placing,
}

impl Frame {
    fn new(size_um: [f64; 2], pitch_um: f64) -> Self {
        let pixels = size_um.map(|um| (um / pitch_um).round() as u32);
        let ground = Ground::of_picture(f64::from(pixels[0]) * pitch_um);
        Self { placing: Placing::new(&ground, &Laid::PLAIN, pixels), pixels }
    }

    fn made(&self, id: &str, seed: u32, amount: f32) -> Matter {
        let [width, height] = self.pixels.map(f64::from);
        let ask = Ask {
            seed,
            amount,
            size: 1.0,
            half: self.placing.half_um.map(|um| um as f32),
            within: self.placing.holding(0.0, 0.0, width, height),
            clear: &|_| 0.0,
        };
        let region = Region::whole(self.pixels[0], self.pixels[1]);
        (kind(id).unwrap().make)(&ask).over(&Window { region, placing: &self.placing })
    }

    /// How much of a thing lies at every pixel.
    fn things(&self, id: &str, seed: u32) -> Vec<f32> {
        match self.made(id, seed, 0.5).stuff {
            Stuff::Thing { share, .. } => share,
            other => panic!("{id}: {other:?}"),
        }
    }

    /// A relief's grey at every pixel.
    fn relief(&self, id: &str, seed: u32) -> Vec<f32> {
        match self.made(id, seed, 0.5).stuff {
            Stuff::Paint { rgb, .. } => {
                (0..self.pixels[0] as usize * self.pixels[1] as usize).map(|i| rgb.at(i)[0]).collect()
            }
            other => panic!("{id}: {other:?}"),
        }
    }

    /// Areas in pixels of what hangs together above a share.
    fn spots(&self, values: &[f32], above: f32) -> Vec<usize> {
        let width = self.pixels[0] as usize;
        let mut open: Vec<bool> = values.iter().map(|v| *v > above).collect();
        let mut areas = Vec::new();
        for start in 0..open.len() {
            let (mut todo, mut area) = (vec![start], 0);
            while let Some(at) = todo.pop() {
                if !std::mem::take(&mut open[at]) {
                    continue;
                }
                area += 1;
                let x = at % width;
                todo.extend((x > 0).then(|| at - 1));
                todo.extend((x + 1 < width).then_some(at + 1));
                todo.extend(at.checked_sub(width));
                todo.extend((at + width < open.len()).then_some(at + width));
            }
            areas.extend((area > 0).then_some(area));
        }
        areas
    }
}

const FRAME_35: [f64; 2] = [36_000.0, 24_000.0];

/// How strongly a row or column of values repeats after some pixels: their correlation.
fn repeats(values: &[f32], after: usize) -> f64 {
    let mean = values.iter().map(|v| f64::from(*v)).sum::<f64>() / values.len() as f64;
    let off = |v: f32| f64::from(v) - mean;
    let square: f64 = values.iter().map(|v| off(*v).powi(2)).sum();
    let together: f64 = values.iter().zip(&values[after..]).map(|(a, b)| off(*a) * off(*b)).sum();
    together / square * values.len() as f64 / (values.len() - after) as f64
}

/// The distance at which values repeat the most strongly, from some pixels on.
fn period(values: &[f32], from: usize, to: usize) -> usize {
    (from..to).max_by(|a, b| repeats(values, *a).total_cmp(&repeats(values, *b))).unwrap()
}

/// Some 200 specks on a frame of 36 x 24 mm, and the number above a diameter falls as its power of 2.2 (a model
/// choice), a little slower as the largest are cut off and specks are oval: a mean over frames.
#[test]
fn dust_has_its_number_and_its_law() {
    let frame = Frame::new(FRAME_35, 6.0);
    let mut areas = Vec::new();
    const FRAMES: u32 = 12;
    for seed in 0..FRAMES {
        areas.extend(frame.spots(&frame.things("dust", seed), 0.2));
    }
    let each = areas.len() as f64 / f64::from(FRAMES);
    assert!((110.0..260.0).contains(&each), "{each} to a frame");
    // diameters from 24 to 96 um, where the lattice resolves them and chance leaves enough
    let at_least =
        |um: f64| areas.iter().filter(|a| (4.0 * **a as f64 / std::f64::consts::PI).sqrt() * 6.0 >= um).count();
    let (small, large) = (at_least(24.0), at_least(96.0));
    let slope = (small as f64 / large as f64).ln() / 4f64.ln();
    println!("{each:.0} to a frame, {small} of 24 um, {large} of 96 um: falls by {slope:.2}");
    assert!(large > 10 && (1.8..2.6).contains(&slope), "{slope}");
}

/// The same scene of dust at half the pitch is the same dust: its area on the film stays.
#[test]
fn dust_is_as_large_on_the_film_at_every_pitch() {
    let area = |pitch: f64| {
        let frame = Frame::new(FRAME_35, pitch);
        frame.things("dust", 3).iter().map(|v| f64::from(*v)).sum::<f64>() * pitch * pitch
    };
    let (fine, coarse) = (area(6.0), area(12.0));
    assert!((coarse / fine - 1.0).abs() < 0.06, "{fine} {coarse}");
}

/// Wires of a mould 1.1 mm apart, over fibres that repeat nowhere.
#[test]
fn laid_paper_has_its_wires() {
    let pitch = 110.0;
    let frame = Frame::new([66_000.0, 88_000.0], pitch);
    let (laid, plain) = (frame.relief("laid", 5), frame.relief("paper", 5));
    let column = |values: &[f32], x: usize| -> Vec<f32> { values.iter().skip(x).step_by(600).copied().collect() };
    for x in [130, 470] {
        let found = period(&column(&laid, x), 6, 16);
        assert!((9..=11).contains(&found), "{} um", found as f64 * pitch);
        assert!(repeats(&column(&laid, x), 10) > 0.35 && repeats(&column(&plain, x), 10) < 0.2);
    }
}

/// Threads of canvas 0.78 mm apart, one way and the other: over and under repeats after two.
#[test]
fn canvas_has_its_threads() {
    let pitch = 78.0;
    let frame = Frame::new([46_800.0, 46_800.0], pitch);
    let canvas = frame.relief("canvas", 5);
    let across: Vec<f32> = canvas[300 * 600..][..150].to_vec();
    let down: Vec<f32> = canvas.iter().skip(300).step_by(600).copied().take(150).collect();
    for line in [across, down] {
        let found = period(&line, 14, 27);
        assert!((18..=22).contains(&found), "{} um for two threads", found as f64 * pitch);
    }
}

/// Scratches run along the film, hairs every way: of the first nothing changes along the long side.
#[test]
fn scratches_run_along_the_film() {
    let frame = Frame::new(FRAME_35, 12.0);
    let width = frame.pixels[0] as usize;
    let change = |values: &[f32], by: usize| -> f64 {
        values.iter().zip(&values[by..]).map(|(a, b)| f64::from((a - b).abs())).sum()
    };
    for (id, along) in [("scratches", true), ("scratches-any", false)] {
        let (mut level, mut upright) = (0.0, 0.0);
        for seed in 0..4 {
            let values = match frame.made(id, seed, 0.5) {
                Matter { bare: Some(bare), .. } => bare.share,
                Matter { stuff: Stuff::Veil { density, .. }, .. } => density,
                other => panic!("{id}: {other:?}"),
            };
            level += change(&values, 1);
            upright += change(&values, width);
        }
        println!("{id}: {level:.0} along, {upright:.0} across");
        assert_eq!(level < 0.35 * upright, along, "{id}: {level} {upright}");
    }
}

/// Light at a corner dies away from it: a streak may be brighter close by, but no other part of the frame.
#[test]
fn a_corner_leak_is_brightest_in_its_corner() {
    let frame = Frame::new(FRAME_35, 60.0);
    let [width, height] = frame.pixels.map(|side| side as usize);
    for seed in 0..6 {
        let Stuff::Light(light) = frame.made("leak-corner", seed, 0.5).stuff else { panic!("no light") };
        let corners = [0, width - 1, (height - 1) * width, height * width - 1].map(|at| light[at]);
        let brightest = (0..light.len()).max_by(|a, b| light[*a].total_cmp(&light[*b])).unwrap();
        let own = corners.iter().copied().fold(0.0, f32::max);
        let quarter = |at: usize| (at % width >= width / 2, at / width >= height / 2);
        let corner = (0..4).find(|k| corners[*k] == own).unwrap();
        assert_eq!(quarter(brightest), (corner % 2 == 1, corner > 1), "{seed}");
        let dark = corners.iter().filter(|c| **c < 0.12 * own).count();
        assert!(dark >= 2 && light.iter().all(|v| v.is_finite() && *v >= 0.0), "{seed}: {corners:?}");
    }
}
