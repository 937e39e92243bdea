//! Two-tone and four-tone: colours at places of the print's tone scale.
//!
//! A place is a lightness L* of the print. Between places colours mix in Oklab, over a part of the way that softness
//! sets. A tone takes the mixed colour's a and b, no more of them than the tone's own lightness bears, and keeps its
//! luminance: so lightness is kept exactly, on the display too, and nothing muddies. With the colours' own lightness, L
//! mixes too. Two-tone adds its tint to what colour there is; four-tone replaces it by its strength. Model choices.

use super::settings::{FourTone, TwoTone};
use crate::colour::oklab::WideToOklab;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_LUMINANCE, WIDE_TO_SRGB};
use crate::colour::transfer::decode_srgb;
use crate::numeric::log_exp::precise_cube_root;
use crate::numeric::matrix::dot;
use crate::numeric::runs::{Lane, RUN, each_pixel};
use crate::numeric::{Sampled, smoothstep};
use crate::output::fit::turn;

/// Oklab chroma of two-tone at full strength, and the lightness it is meant for.
const TINT: (f64, f64) = (0.11, 0.7);
/// Where balance moves the meeting of two tones, in L*, and how wide they mix.
pub const MEETING: (f64, f64, f64) = (50.0, 35.0, 30.0);
/// Samples along the scale.
const SAMPLES: usize = 513;
/// Scale on which lightness is looked up: L* 0 to 140, for light above white.
const END: f64 = 140.0;

/// Prepared colours over the tone scale.
#[derive(Debug, Clone)]
pub struct ToneRamp {
    two: Option<[Sampled; 2]>,
    four: Option<Four>,
    oklab: WideToOklab,
    to_wide: [[f32; 3]; 3],
    to_srgb: [[f32; 3]; 3],
}

#[derive(Debug, Clone)]
struct Four {
    /// L (own lightness of the mixed colour), a, b.
    colour: [Sampled; 3],
    strength: f32,
    own_lightness: bool,
}

/// L* of a relative luminance.
#[inline(always)]
fn lightness(y: f32) -> f32 {
    let y = y.max(0.0);
    let wide = f64::from(y);
    (if wide > 0.008_856 { 116.0 * precise_cube_root(y.max(0.001)) - 16.0 } else { 903.3 * wide }) as f32
}

fn over_the_scale(value: impl Fn(f64) -> f64) -> Sampled {
    Sampled::new(0.0, END, SAMPLES, value)
}

impl ToneRamp {
    /// `None` when neither does anything.
    pub fn new(two: Option<&TwoTone>, four: Option<&FourTone>) -> Option<Self> {
        let two = two.filter(|t| t.strength > 0.0 && t.sides.iter().any(|s| s.strength > 0.0));
        let four = four.filter(|f| f.strength > 0.0);
        (two.is_some() || four.is_some()).then(|| Self {
            two: two.map(two_tone),
            four: four.map(four_tone),
            oklab: WideToOklab::new(),
            to_wide: SRGB_TO_WIDE.to_f32(),
            to_srgb: WIDE_TO_SRGB.to_f32(),
        })
    }

    /// Linear sRGB of a run of the toned print.
    #[inline(always)]
    pub fn apply_run(&self, run: &mut [Lane; 3]) {
        let luminance = |v: [f32; 3]| WIDE_LUMINANCE[0] * v[0] + WIDE_LUMINANCE[1] * v[1] + WIDE_LUMINANCE[2] * v[2];
        let mut lab = *run;
        each_pixel(&mut lab, |rgb| turn(&self.to_wide, rgb));
        let (mut light, mut place) = ([0.0f32; RUN], [0.0f32; RUN]);
        for (i, y) in light.iter_mut().enumerate() {
            *y = luminance([lab[0][i], lab[1][i], lab[2][i]]);
        }
        place.iter_mut().zip(&light).for_each(|(place, y)| *place = lightness(*y));
        let mut wanted = light;
        self.oklab.lab_run(&mut lab);
        let [l, a, b] = &mut lab;
        if let Some(two) = &self.two {
            let [ta, tb] = two.each_ref().map(|tint| read(tint, &place));
            for i in 0..RUN {
                // a tint fades out towards black and white as colour does
                let scale = (l[i] / TINT.1 as f32).min((1.04 - l[i]) * (1.0 / 0.2)).clamp(0.0, 1.0);
                a[i] += scale * ta[i];
                b[i] += scale * tb[i];
            }
        }
        if let Some(four) = &self.four {
            let [own, fa, fb] = four.colour.each_ref().map(|colour| read(colour, &place));
            for i in 0..RUN {
                let own = own[i];
                let scale = (l[i] / own.max(0.05)).min((1.02 - l[i]) / (1.02 - own.min(0.98))).clamp(0.0, 1.0);
                a[i] += four.strength * (scale * fa[i] - a[i]);
                b[i] += four.strength * (scale * fb[i] - b[i]);
            }
            if four.own_lightness {
                for (wanted, own) in wanted.iter_mut().zip(own) {
                    *wanted += four.strength * (own.max(0.0).powi(3) - *wanted);
                }
            }
        }
        each_pixel(&mut lab, |lab| self.oklab.rgb(lab));
        let [red, green, blue] = run;
        for i in 0..RUN {
            let toned = [lab[0][i], lab[1][i], lab[2][i]];
            let by = wanted[i] / luminance(toned).max(1e-7);
            let [x, y, z] = turn(&self.to_srgb, [toned[0] * by, toned[1] * by, toned[2] * by]);
            let toned = within_display([x, y, z], wanted[i]);
            // what has no light has no tone
            let seen = light[i] > 1e-7;
            red[i] = if seen { toned[0] } else { red[i] };
            green[i] = if seen { toned[1] } else { green[i] };
            blue[i] = if seen { toned[2] } else { blue[i] };
        }
    }

    /// Linear sRGB of one colour of the toned print.
    pub fn apply(&self, rgb: [f32; 3]) -> [f32; 3] {
        let mut run = rgb.map(|v| [v; RUN]);
        self.apply_run(&mut run);
        run.map(|lane| lane[0])
    }
}

/// A function of the tone scale at the places of a run.
#[inline(always)]
fn read(scale: &Sampled, place: &Lane) -> Lane {
    let mut lane = *place;
    scale.map(&mut lane);
    lane
}

/// A colour drawn towards the grey of its luminance as far as the display needs: its lightness stays.
#[inline(always)]
fn within_display(rgb: [f32; 3], luminance: f32) -> [f32; 3] {
    let grey = luminance.min(1.0);
    let room = |v: f32| {
        let (above, below) = ((1.0 - grey) / (v - grey), grey / (grey - v));
        let below = if v < 0.0 { below } else { 1.0 };
        if v > 1.0 { above } else { below }
    };
    let kept = 1.0f32.min(room(rgb[0])).min(room(rgb[1])).min(room(rgb[2]));
    [grey + kept * (rgb[0] - grey), grey + kept * (rgb[1] - grey), grey + kept * (rgb[2] - grey)]
}

fn two_tone(two: &TwoTone) -> [Sampled; 2] {
    let (middle, reach, width) = MEETING;
    let meeting = middle + reach * two.balance;
    let of = |k: usize| {
        over_the_scale(move |place| {
            let light = smoothstep(place, meeting - width, meeting + width);
            [1.0 - light, light]
                .iter()
                .zip(&two.sides)
                .map(|(share, side)| {
                    let (sine, cosine) = side.hue_degrees.to_radians().sin_cos();
                    share * side.strength * two.strength * TINT.0 * if k == 0 { cosine } else { sine }
                })
                .sum()
        })
    };
    [of(0), of(1)]
}

fn four_tone(four: &FourTone) -> Four {
    let oklab = WideToOklab::new();
    let to_wide = SRGB_TO_WIDE.to_f32();
    let lab = |srgb: [u8; 3]| {
        let linear = srgb.map(|v| decode_srgb(f64::from(v) / 255.0) as f32);
        oklab.lab([0, 1, 2].map(|i| dot(&to_wide[i], linear[0], linear[1], linear[2])))
    };
    let mut tones: Vec<(f64, [f32; 3])> = four.tones.iter().map(|t| (100.0 * t.place, lab(t.colour))).collect();
    tones.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mixed = |place: f64, k: usize| -> f64 {
        let value = |i: usize| f64::from(tones[i].1[k]);
        let last = tones.len() - 1;
        if place <= tones[0].0 {
            return value(0);
        }
        let Some(above) = tones.iter().position(|t| t.0 > place) else { return value(last) };
        let (from, to) = (tones[above - 1].0, tones[above].0);
        let t = (place - from) / (to - from).max(1e-6);
        // a narrow softness leaves each colour its own stretch of the scale
        let width = four.softness.clamp(0.02, 1.0);
        let share = smoothstep(t, 0.5 - 0.5 * width, 0.5 + 0.5 * width);
        value(above - 1) + (value(above) - value(above - 1)) * share
    };
    Four {
        colour: std::array::from_fn(|k| over_the_scale(|place| mixed(place, k))),
        strength: four.strength as f32,
        own_lightness: four.own_lightness,
    }
}

#[cfg(test)]
mod tests {
    use super::super::settings::{Side, Tone};
    use super::*;
    use crate::colour::lab;

    /// Relative luminance of an L*.
    fn luminance_of(l: f32) -> f32 {
        let l = f64::from(l.max(0.0));
        (if l > 8.0 { ((l + 16.0) / 116.0).powi(3) } else { l / 903.3 }) as f32
    }

    fn lab_of(rgb: [f32; 3]) -> [f64; 3] {
        lab::from_linear_srgb(rgb.map(f64::from))
    }

    fn four(colours: [[u8; 3]; 4], strength: f64) -> FourTone {
        let place = [0.08, 0.35, 0.65, 0.92];
        let tones = std::array::from_fn(|i| Tone { place: place[i], colour: colours[i] });
        FourTone { tones, softness: 0.7, strength, own_lightness: false }
    }

    const BLUE_TO_CREAM: [[u8; 3]; 4] = [[24, 34, 74], [92, 70, 84], [188, 140, 92], [245, 228, 196]];

    #[test]
    fn neutral_colours_and_strength_0_keep_the_print() {
        assert!(ToneRamp::new(None, Some(&four(BLUE_TO_CREAM, 0.0))).is_none());
        let greys = ToneRamp::new(None, Some(&four([[20; 3], [90; 3], [160; 3], [240; 3]], 1.0))).unwrap();
        let blue = ToneRamp::new(None, Some(&four(BLUE_TO_CREAM, 1.0))).unwrap();
        for i in 1..=60 {
            let grey = [i as f32 / 60.0; 3];
            let (was, neutral, toned) = (lab_of(grey), lab_of(greys.apply(grey)), lab_of(blue.apply(grey)));
            assert!((was[0] - neutral[0]).abs() < 0.5 && neutral[1].hypot(neutral[2]) < 0.5, "{was:?} {neutral:?}");
            assert!((was[0] - toned[0]).abs() < 0.5, "its lightness is the print's: {was:?} {toned:?}");
        }
        // a colour picture loses its colours to neutral tones
        assert!(lab_of(greys.apply([0.5, 0.2, 0.1]))[1].abs() < 1.0);
    }

    #[test]
    fn the_ramp_runs_through_its_colours_without_a_step() {
        let ramp = ToneRamp::new(None, Some(&four(BLUE_TO_CREAM, 1.0))).unwrap();
        let drawn: Vec<_> = (0..256).map(|i| lab_of(ramp.apply([luminance_of(100.0 * i as f32 / 255.0); 3]))).collect();
        assert!(drawn[20][2] < -8.0, "blue darks: {:?}", drawn[20]);
        assert!(drawn[165][2] > 12.0, "ochre lights: {:?}", drawn[165]);
        for pair in drawn.windows(2) {
            assert!((0..3).all(|k| (pair[1][k] - pair[0][k]).abs() < 2.0) && pair[1][0] > pair[0][0] - 1e-6);
        }
        let own = ToneRamp::new(None, Some(&FourTone { own_lightness: true, ..four(BLUE_TO_CREAM, 1.0) })).unwrap();
        assert!(lab_of(own.apply([0.01; 3]))[0] > lab_of([0.01; 3])[0] + 3.0);
    }

    /// What the display can show is shown with the print's lightness, up to the paper's white.
    #[test]
    fn two_tones_keep_lightness_on_the_display() {
        for strength in [0.5, 1.0] {
            for hues in [[250.0, 80.0], [30.0, 200.0], [150.0, 320.0]] {
                let sides = hues.map(|hue_degrees| Side { hue_degrees, strength: 1.0 });
                let two = TwoTone { sides, balance: 0.0, strength };
                let ramp = ToneRamp::new(Some(&two), None).unwrap();
                for i in 1..=100 {
                    let paper = [1.0, 0.97, 0.9].map(|v| v * luminance_of(i as f32));
                    let toned = ramp.apply(paper);
                    assert!(toned.iter().all(|v| (-1e-5..=1.0 + 1e-5).contains(v)), "{i}: {toned:?}");
                    assert!((lab_of(toned)[0] - lab_of(paper)[0]).abs() < 0.5, "{i} {hues:?}");
                }
            }
        }
    }

    #[test]
    fn two_tones_meet_at_their_balance() {
        let two = |balance: f64| TwoTone {
            sides: [Side { hue_degrees: 250.0, strength: 1.0 }, Side { hue_degrees: 80.0, strength: 1.0 }],
            balance,
            strength: 1.0,
        };
        let b = |balance: f64, y: f32| lab_of(ToneRamp::new(Some(&two(balance)), None).unwrap().apply([y; 3]))[2];
        assert!(b(0.0, 0.03) < -6.0 && b(0.0, 0.7) > 12.0);
        assert!(b(0.9, 0.3) < b(0.0, 0.3) && b(-0.9, 0.1) > b(0.0, 0.1));
        let none = TwoTone { strength: 0.0, ..two(0.0) };
        assert!(ToneRamp::new(Some(&none), None).is_none());
    }
}
