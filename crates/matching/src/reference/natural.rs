//! How much colours are like those of a camera's picture.
//!
//! A finished picture of a camera has blacks that are nearly black in every channel and whites that are nearly white,
//! holds some colour, fills the range without lying at its ends, and what is nearly grey in it has no cast that changes
//! with the tone (common practice, no source). Each is believed loosely; how loosely is a model choice.

use super::undeveloped::Was;
use crate::numeric::quantile;

/// How unlike a camera's picture some colours are, by what: 1 is as far as pictures commonly are.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Unlike {
    /// Greys that have a cast.
    pub cast: f64,
    /// Blacks that are not black, or of a colour; whites that are not white.
    pub ends: f64,
    /// Share of colours that lie at an end of a channel.
    pub clipped: f64,
    /// Colours that are hardly any.
    pub pale: f64,
}

impl Unlike {
    /// All of it.
    pub fn sum(&self) -> f64 {
        0.35 * self.cast + self.ends + 7.5 * self.clipped + 0.5 * self.pale
    }
}

/// Difference of channels up to which a colour counts as nearly grey.
const NEARLY_GREY: f64 = 0.16;
/// No measure says more than that.
const MOST: f64 = 6.0;
/// Classes of tone in which greys are looked at, and the share of the picture that is enough of them.
const CLASSES: usize = 4;
const ENOUGH: f64 = 0.05;
/// Share of the picture that its darkest and its lightest are.
const DARKEST: f64 = 0.005;

/// Luminance of an encoded colour.
pub fn luma(c: [f64; 3]) -> f64 {
    0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]
}

/// Red against green, and blue against both.
fn axes(c: [f64; 3]) -> [f64; 2] {
    [c[0] - c[1], c[2] - 0.5 * (c[0] + c[1])]
}

/// How far from grey.
fn chroma(c: [f64; 3]) -> f64 {
    let [a, b] = axes(c);
    a.hypot(b)
}

fn beyond(v: f64, loose: f64) -> f64 {
    (v.max(0.0) / loose).powi(2).min(MOST)
}

/// How unlike a camera's picture undeveloped colours are; `coloured` where the film tells colours.
pub fn unlike(was: &[Was], coloured: bool) -> Unlike {
    let all: f64 = was.iter().map(|w| w.share).sum::<f64>().max(1e-9);
    let end = |of: &dyn Fn(&Was) -> f64, share: f64| quantile(was.iter().map(|w| (of(w), w.share)), share);
    let luma_of = |w: &Was| luma(w.encoded);
    let at_an_end = |w: &&Was| w.encoded.iter().any(|v| *v <= 0.0005 || *v >= 0.9995);
    let clipped = was.iter().filter(at_an_end).map(|w| w.share).sum::<f64>() / all;
    let dark = 0.25 * beyond(end(&luma_of, DARKEST) - 0.06, 0.06);
    let light = 0.1 * beyond(0.9 - end(&luma_of, 1.0 - DARKEST), 0.1);
    let unlike = Unlike { ends: dark + light, clipped: clipped.min(0.5), ..Unlike::default() };
    if !coloured {
        return unlike;
    }
    let darkest = [0, 1, 2].map(|k: usize| end(&|w: &Was| w.encoded[k], DARKEST));
    let of_channels = darkest.iter().map(|v| beyond(v - 0.06, 0.06)).sum::<f64>() / 3.0;
    let apart = |k: usize| beyond((darkest[k] - darkest[1]).abs(), 0.03);
    let ends = unlike.ends + 0.6 * of_channels + 0.25 * (apart(0) + apart(2));
    let colour = was.iter().map(|w| w.share * chroma(w.encoded)).sum::<f64>() / all;
    let cast = (0..CLASSES).map(|class| cast_of(was, class)).sum();
    Unlike { cast, ends, pale: beyond(0.02 - colour, 0.006), ..unlike }
}

/// The cast of what is nearly grey in a class of tones.
fn cast_of(was: &[Was], class: usize) -> f64 {
    let [low, high] = [class, class + 1].map(|c| c as f64 / CLASSES as f64);
    let last = class + 1 == CLASSES;
    let is_near = |w: &&Was| {
        let tone = luma(w.encoded);
        tone >= low && (tone < high || last) && chroma(w.encoded) < NEARLY_GREY
    };
    let near: Vec<&Was> = was.iter().filter(is_near).collect();
    let seen: f64 = near.iter().map(|w| w.share).sum();
    if seen <= 0.0 {
        return 0.0;
    }
    let middle = |k: usize| quantile(near.iter().map(|w| (axes(w.encoded)[k], w.share.sqrt())), 0.5);
    let cast = beyond(middle(0).abs(), 0.025) + beyond(middle(1).abs(), 0.05);
    cast * (seen / ENOUGH).min(1.0) / CLASSES as f64
}
