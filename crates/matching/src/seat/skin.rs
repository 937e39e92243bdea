//! Skin found by its colour: the largest compact place of it.

use amber_core::Source;
use amber_core::colour::lab::from_linear_srgb;
use amber_core::picture::reduce::size_for_long_edge;
use amber_core::picture::source::linear_of_code;

/// Long edge at which is looked.
const LONG_EDGE: u32 = 96;
/// Hues of skin of all peoples, in degrees of Lab, and its chroma over its lightness (common practice, no source).
const HUES: [f64; 2] = [25.0, 75.0];
const CHROMA: [f64; 2] = [0.16, 0.75];
const LIGHTNESS: [f64; 2] = [22.0, 92.0];
/// Share of the picture that a face has.
const SHARE: [f64; 2] = [0.008, 0.35];
/// Share of its rectangle that it fills, and how much longer than wide it may be.
const FILLED: f64 = 0.42;
const LONGER: f64 = 2.4;

/// The middle of a face, by colour and shape: shares of width and height. Wood and sand can look like it.
pub fn skin_in(source: &Source) -> Option<[f64; 2]> {
    let (width, height) = size_for_long_edge(LONG_EDGE, source.width(), source.height());
    let small = if width < source.width() { source.reduced(width, height) } else { source.clone() };
    let (width, height) = (small.width() as usize, small.height() as usize);
    let linear = linear_of_code();
    let mut is_skin: Vec<bool> = (0..width * height)
        .map(|i| {
            let [l, a, b] = from_linear_srgb(small.pixel(i).map(|code| f64::from(linear[code as usize])));
            let (hue, chroma) = (b.atan2(a).to_degrees(), a.hypot(b) / l.max(1.0));
            let within = |v: f64, [low, high]: [f64; 2]| (low..=high).contains(&v);
            within(l, LIGHTNESS) && within(hue, HUES) && within(chroma, CHROMA)
        })
        .collect();
    let mut best: Option<(usize, [f64; 2])> = None;
    for start in 0..width * height {
        if !is_skin[start] {
            continue;
        }
        let place = gathered(&mut is_skin, start, width, height);
        let xs = || place.iter().map(|i| i % width);
        let ys = || place.iter().map(|i| i / width);
        let side = |low: Option<usize>, high: Option<usize>| (high.unwrap_or(0) - low.unwrap_or(0) + 1) as f64;
        let [w, h] = [side(xs().min(), xs().max()), side(ys().min(), ys().max())];
        let share = place.len() as f64 / (width * height) as f64;
        let compact = place.len() as f64 / (w * h) >= FILLED && (w / h).max(h / w) <= LONGER;
        if !compact || !(SHARE[0]..=SHARE[1]).contains(&share) || best.is_some_and(|b| b.0 >= place.len()) {
            continue;
        }
        let mean = |values: usize, side: usize| (values as f64 / place.len() as f64 + 0.5) / side as f64;
        best = Some((place.len(), [mean(xs().sum(), width), mean(ys().sum(), height)]));
    }
    best.map(|b| b.1)
}

/// All that hangs together with a pixel; taken out.
fn gathered(is_there: &mut [bool], start: usize, width: usize, height: usize) -> Vec<usize> {
    let mut place = vec![start];
    is_there[start] = false;
    let mut next = 0;
    while next < place.len() {
        let (x, y) = (place[next] % width, place[next] / width);
        let mut around = Vec::with_capacity(4);
        around.extend((x > 0).then(|| place[next] - 1));
        around.extend((x + 1 < width).then(|| place[next] + 1));
        around.extend((y > 0).then(|| place[next] - width));
        around.extend((y + 1 < height).then(|| place[next] + width));
        for i in around {
            if std::mem::take(&mut is_there[i]) {
                place.push(i);
            }
        }
        next += 1;
    }
    place
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_face_is_found_and_a_sky_is_not() {
        let with = |middle: [f64; 3]| {
            Source::from_linear_srgb(240, 160, |x, y| {
                let (u, v) = (f64::from(x) - 80.0, f64::from(y) - 70.0);
                if (u / 22.0).powi(2) + (v / 30.0).powi(2) < 1.0 { middle } else { [0.2, 0.25, 0.3] }
            })
        };
        let found = skin_in(&with([0.55, 0.33, 0.22])).unwrap();
        assert!((found[0] - 80.0 / 240.0).abs() < 0.03 && (found[1] - 70.0 / 160.0).abs() < 0.03, "{found:?}");
        assert!(skin_in(&with([0.10, 0.06, 0.04])).is_some());
        assert!(skin_in(&with([0.2, 0.4, 0.7])).is_none());
    }
}
