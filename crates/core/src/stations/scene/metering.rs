//! Metering: the picture's key, range and cast, and what would seat it on a film's straight line.
//!
//! Key is the mean of log light, range its 2nd to 98th percentile; what lies far below the lights is black and tells
//! nothing. Exposure brings the key to a place that depends on how far the lights stand above it: the same picture a
//! stop over is proposed a stop less, and a night stays dark. It never blows the print: hardly more of it becomes bare
//! paper. The light's colour is estimated as in "Shades of grey" (Finlayson, Trezzi 2004: a Minkowski mean, here with p
//! = 6) over the less colourful pixels that are neither black nor white. A proposal is never more than that; how far it
//! follows each measure is a model choice.

use crate::colour::oklab::WideToOklab;
use crate::controls::{Control, Kind};
use crate::numeric::Matrix3;
use crate::picture::Source;
use crate::stations::film::FilmResponse;
use crate::stations::scene::settings::{EXPOSURE, RENDERING, TEMPERATURE, TINT};
use crate::stations::scene::white_balance::{OWN_KELVIN, balance, neutralising};
use crate::stations::scene::{PlainLight, SceneSettings, luminance};
use crate::stock::StockKind;

/// Share of its greatest slope that a curve has on its straight line.
const STRAIGHT: f64 = 0.6;
/// The exponent of the Minkowski mean.
const MINKOWSKI: f64 = 6.0;
/// Chroma over lightness up to which a pixel may tell of the light.
const PALE: f32 = 0.22;
/// Share of the picture that must be pale before its cast is believed.
const ENOUGH_PALE: f64 = 0.04;
/// How far the proposal follows the measured cast: evening light may stay warm.
const FOLLOW_CAST: f64 = 0.7;
/// Where the key of an ordinary picture comes to lie, in stops from mid grey; how far the lights of such a picture
/// stand above its key; and how much of what they stand higher a night keeps of its darkness.
const KEY: f64 = -0.4;
const LIGHTS_ABOVE_KEY: f64 = 2.6;
const NIGHT_STAYS: f64 = 0.7;
/// Stops below the lights at which a tone is black and tells nothing.
const BLACK: f64 = 9.0;
/// L* of the print from which a tone counts as bare paper, how much more of a picture without any may become so, and
/// how much is enough: of what is barer than that, some comes back.
const BARE_PAPER: f64 = 95.0;
const MORE_BARE: f64 = 0.07;
const ENOUGH_BARE: f64 = 0.15;
/// Most that a picture is darkened for its bare paper alone, in stops.
const BACK: f64 = 1.0;
/// Of a range that does not fit, the share of what is lost that the less forgiving end bears.
const LESS_FORGIVING: f64 = 0.3;
/// Share of the straight line that a flat picture is spread over.
const FLAT: f64 = 0.45;
/// The proposal stays within these.
const MOST_STOPS: f64 = 3.0;
const RENDERINGS: [f64; 2] = [0.6, 1.1];

/// What a picture measures, in stops from mid grey at no exposure.
#[derive(Debug, Clone, PartialEq)]
pub struct Measured {
    /// Middle of the picture's tones, in stops from mid grey.
    pub key: f64,
    /// 2nd and 98th percentile.
    pub range: [f64; 2],
    /// Light in the working space that should be neutral; `None` when the picture does not tell.
    pub cast: Option<[f64; 3]>,
    /// All tones in rising order.
    tones: Vec<f32>,
}

impl Measured {
    /// Share of the picture that is lighter than a tone.
    fn above(&self, stops: f64) -> f64 {
        let below = self.tones.partition_point(|t| f64::from(*t) <= stops);
        (self.tones.len() - below) as f64 / self.tones.len() as f64
    }

    /// The tone that a share of the picture is lighter than.
    fn with_above(&self, share: f64) -> f64 {
        let last = self.tones.len() - 1;
        f64::from(self.tones[last - ((last as f64 * share) as usize).min(last)])
    }
}

/// Values that seat a picture on a film.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Proposal {
    /// Proposed exposure.
    pub exposure_stops: f64,
    /// Proposed light of the scene.
    pub temperature_kelvin: f64,
    /// Proposed tint.
    pub tint_cc: f64,
    /// Proposed exponent of the camera's rendering.
    pub rendering_exponent: f64,
}

impl Proposal {
    /// The values by their controls.
    pub fn values(&self) -> [(&'static Control, f64); 4] {
        [
            (&EXPOSURE, self.exposure_stops),
            (&TEMPERATURE, self.temperature_kelvin),
            (&TINT, self.tint_cc),
            (&RENDERING, self.rendering_exponent),
        ]
    }
}

/// Scene light of the straight line of a film's middle layer, in stops from mid grey.
pub fn straight_line(film: &FilmResponse) -> [f64; 2] {
    let curve = &film.curves[film.layers() / 2];
    let density = |stop: f64| curve.density(film.grey + stop * 2f64.log10());
    let stops: Vec<f64> = (-90..=90).map(|i| f64::from(i) * 0.1).collect();
    let slopes: Vec<f64> = stops.iter().map(|s| (density(s + 0.05) - density(s - 0.05)).abs()).collect();
    let greatest = slopes.iter().copied().fold(0.0, f64::max);
    let mut straight = stops.iter().zip(&slopes).filter(|(_, slope)| **slope >= STRAIGHT * greatest).map(|(s, _)| *s);
    let low = straight.next().unwrap_or(-2.0);
    [low, straight.next_back().unwrap_or(low + 4.0)]
}

/// Measures a small picture under the decoding of `settings`, without its exposure and balance.
pub fn measure(settings: &SceneSettings, small: &Source) -> Measured {
    let plain = SceneSettings { exposure_stops: 0.0, temperature_kelvin: OWN_KELVIN, tint_cc: 0.0, ..settings.clone() };
    let light = PlainLight::new(&plain).light(small, small.region());
    let mut tones = luminance::stops(&light, 0.0);
    let planes = [0, 1, 2].map(|k| light.plane(k));
    let oklab = WideToOklab::new();
    let (mut sums, mut pale) = ([0.0f64; 3], 0usize);
    for (i, tone) in tones.iter().enumerate() {
        let rgb = planes.map(|p| p[i]);
        let [l, a, b] = oklab.lab(rgb);
        let seen = (-5.0..2.6).contains(tone) && a.hypot(b) < PALE * l;
        if seen {
            pale += 1;
            sums.iter_mut().zip(rgb).for_each(|(s, v)| *s += f64::from(v.max(0.0)).powf(MINKOWSKI));
        }
    }
    let believed = pale as f64 >= ENOUGH_PALE * tones.len() as f64;
    tones.sort_by(f32::total_cmp);
    let high = f64::from(tones[((tones.len() - 1) as f64 * 0.98) as usize]);
    // a black ground is no part of what is to be seated; of a picture that is all black nothing is left out
    let told = &tones[tones.partition_point(|t| f64::from(*t) < high - BLACK)..];
    let key = told.iter().map(|t| f64::from(*t)).sum::<f64>() / told.len() as f64;
    let low = f64::from(told[((told.len() - 1) as f64 * 0.02) as usize]);
    Measured {
        key,
        range: [low, high],
        tones,
        cast: believed.then(|| sums.map(|s| (s / pale as f64).powf(1.0 / MINKOWSKI))),
    }
}

/// The tone of a grey, in stops from mid grey at the film, from which a print is bare paper; `lightness` is the L* of
/// its print.
fn bare_paper(lightness: &dyn Fn(f64) -> f64) -> f64 {
    let stops = || (-20..=60).map(|i| 0.1 * f64::from(i));
    // where the paper itself is darker, just below it
    let white = stops().map(lightness).fold(0.0, f64::max);
    let bare = BARE_PAPER.min(white - 1.0);
    stops().find(|s| lightness(*s) >= bare).unwrap_or(6.0)
}

/// What would seat a picture on a film; `lightness` is the L* of the print of a grey, by its stops from mid grey at the
/// film.
pub fn propose(
    settings: &SceneSettings,
    small: &Source,
    film: &FilmResponse,
    lightness: &dyn Fn(f64) -> f64,
) -> Proposal {
    let measured = measure(settings, small);
    let (temperature_kelvin, tint_cc) = balance_for(measured.cast);
    // the balance itself shifts the luminance of what is not neutral little; the range is taken as it is
    let line = straight_line(film);
    let length = line[1] - line[0];
    let range = measured.range[1] - measured.range[0];
    let wanted = if range > length {
        length / range
    } else if range < FLAT * length {
        FLAT * length / range.max(0.5)
    } else {
        1.0
    };
    let own = settings.rendering_exponent;
    let rendering_exponent = if wanted == 1.0 {
        own
    } else {
        // never against the direction that was measured
        let bound = (own * wanted).clamp(RENDERINGS[0].min(own), RENDERINGS[1].max(own));
        on_grid(&RENDERING, bound)
    };
    // the exponent stretches stops from mid grey
    let stretch = rendering_exponent / own;
    let [low, high] = measured.range.map(|v| v * stretch);
    let (from, to) = (line[0] - low, line[1] - high);
    let key = measured.key * stretch;
    let night = NIGHT_STAYS * (high - key - LIGHTS_ABOVE_KEY).max(0.0);
    let exposure = if from <= to {
        (KEY - key - night).clamp(from, to)
    } else {
        // negatives forgive light, slides forgive darkness
        let forgives_light = !matches!(film.stock.kind, StockKind::Reversal);
        let share = if forgives_light { LESS_FORGIVING } else { 1.0 - LESS_FORGIVING };
        from + share * (to - from)
    };
    let bare = bare_paper(lightness);
    let now = measured.above(bare - settings.exposure_stops);
    let more = MORE_BARE * (1.0 - now / ENOUGH_BARE);
    let most = bare - stretch * measured.with_above((now + more).clamp(0.0, 0.9));
    let exposure = exposure.min(most.max(settings.exposure_stops.min(0.0) - BACK));
    Proposal {
        exposure_stops: on_grid(&EXPOSURE, exposure.clamp(-MOST_STOPS, MOST_STOPS)),
        temperature_kelvin,
        tint_cc,
        rendering_exponent,
    }
}

/// Temperature and tint that take most of a cast away.
fn balance_for(cast: Option<[f64; 3]>) -> (f64, f64) {
    let none = (OWN_KELVIN, 0.0);
    let Some((kelvin, tint)) = cast.and_then(neutral) else { return none };
    let mired = 1e6 / OWN_KELVIN + FOLLOW_CAST * (1e6 / kelvin - 1e6 / OWN_KELVIN);
    (on_grid(&TEMPERATURE, 1e6 / mired), on_grid(&TINT, FOLLOW_CAST * tint))
}

/// The balance, within the controls' ranges, that makes a light of the working space neutral.
pub fn neutral(rgb: [f64; 3]) -> Option<(f64, f64)> {
    let limits = |control: &Control| match control.kind {
        Kind::Scalar { low, high, .. } => [low, high],
        _ => [0.0, 0.0],
    };
    neutralising(rgb, limits(&TEMPERATURE), limits(&TINT))
}

/// The nearest value that a control can show.
pub fn on_grid(control: &Control, value: f64) -> f64 {
    let Kind::Scalar { low, high, step, .. } = control.kind else { return value };
    (((value / step).round() * step * 1e6).round() / 1e6).clamp(low, high)
}

/// How far from neutral a light is after a balance: the largest difference of two channels in stops.
pub fn cast_stops(rgb: [f64; 3], kelvin: f64, tint_cc: f64) -> f64 {
    let matrix: Matrix3 = balance(kelvin, tint_cc);
    let [r, g, b] = matrix.apply(rgb).map(|v| v.max(1e-9).log2());
    r.max(g).max(b) - r.min(g).min(b)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::transfer::decode_srgb;
    use crate::stock::Catalogue;

    /// A picture of many tones under a coloured, weak or strong light.
    fn picture(light: [f64; 3], contrast: f64) -> Source {
        Source::from_linear_srgb(160, 100, |x, y| {
            let tone = decode_srgb(f64::from(x) / 159.0 * contrast + 0.5 * (1.0 - contrast));
            let colour = if y > 80 { [1.0, 0.4, 0.3] } else { [1.0; 3] };
            std::array::from_fn(|k| (tone * colour[k] * light[k]).min(1.0))
        })
    }

    /// L* of a print without a curve of its own: white two and a half stops over mid grey.
    fn plain(stops: f64) -> f64 {
        let y = (0.18 * stops.exp2()).min(1.0);
        116.0 * y.cbrt() - 16.0
    }

    /// Much black ground, a subject of all tones, as though taken in a studio or from space.
    #[test]
    fn deep_blacks_are_passed_over_and_a_stop_over_is_a_stop_less() {
        let subject = |over: f64| {
            move |x: u32, y: u32| {
                let tone = 0.01 * 60f64.powf(f64::from(x % 80) / 79.0) * over;
                if (x + y).is_multiple_of(3) { [0.0; 3] } else { [tone.min(1.0); 3] }
            }
        };
        for id in ["plover", "juniper", "beryl", "tern"] {
            let film = FilmResponse::own(&Catalogue::find(id).unwrap());
            let own = SceneSettings::own(&film.stock);
            let at = |over: f64| {
                let small = Source::from_linear_srgb(160, 100, subject(over));
                let found = propose(&own, &small, &film, &plain);
                let measured = measure(&own, &small);
                let bare = bare_paper(&plain);
                let stretch = found.rendering_exponent / own.rendering_exponent;
                let after = measured.above((bare - found.exposure_stops) / stretch);
                assert!(after <= measured.above(bare) + 0.1, "{id}: {after}");
                found.exposure_stops
            };
            let (right, over) = (at(0.5), at(1.0));
            assert!(right < 2.0, "{id}: {right}");
            // one stop of light is what the own rendering makes of it
            let stop = own.rendering_exponent;
            assert!((right - over - stop).abs() < 0.25, "{id}: {right} {over}");
        }
    }

    #[test]
    fn a_dark_picture_is_given_light_and_a_cast_is_taken_down() {
        for id in ["plover", "juniper", "beryl"] {
            let stock = Catalogue::find(id).unwrap();
            let film = FilmResponse::own(&stock);
            let own = SceneSettings::own(&stock);
            let dark = propose(&own, &picture([0.08; 3], 0.9), &film, &plain);
            let bright = propose(&own, &picture([1.0; 3], 0.9), &film, &plain);
            assert!(dark.exposure_stops > bright.exposure_stops + 0.8, "{id}: {dark:?} {bright:?}");
            let warm = picture([0.6, 0.4, 0.2], 0.9);
            let found = propose(&own, &warm, &film, &plain);
            let cast = measure(&own, &warm).cast.unwrap();
            let (before, after) =
                (cast_stops(cast, OWN_KELVIN, 0.0), cast_stops(cast, found.temperature_kelvin, found.tint_cc));
            assert!(after < 0.45 * before, "{id}: {before} {after}");
        }
    }

    #[test]
    fn flat_pictures_are_spread_and_harsh_ones_pressed() {
        let stock = Catalogue::find("beryl").unwrap();
        let film = FilmResponse::own(&stock);
        let own = SceneSettings::own(&stock);
        let flat = propose(&own, &picture([1.0; 3], 0.2), &film, &plain);
        assert!(flat.rendering_exponent > own.rendering_exponent, "{flat:?}");
        let harsh = propose(&own, &picture([1.0; 3], 1.0), &film, &plain);
        assert!(harsh.rendering_exponent < own.rendering_exponent, "{harsh:?}");
    }

    #[test]
    fn the_straight_line_is_long_on_negatives_and_short_on_slides() {
        let of = |id: &str| {
            let [low, high] = straight_line(&FilmResponse::own(&Catalogue::find(id).unwrap()));
            high - low
        };
        assert!(of("plover") > 6.0 && of("beryl") < of("plover") - 1.0, "{} {}", of("plover"), of("beryl"));
    }

    #[test]
    fn proposals_can_be_shown_by_their_controls() {
        let stock = Catalogue::first();
        let proposal =
            propose(&SceneSettings::own(&stock), &picture([0.5, 0.4, 0.3], 0.8), &FilmResponse::own(&stock), &plain);
        for (control, value) in proposal.values() {
            control.check(&crate::controls::Value::Number(value)).unwrap();
        }
    }
}
