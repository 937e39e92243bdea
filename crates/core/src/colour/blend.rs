//! Blending one colour with another (W3C, Compositing and Blending Level 1), on encoded values between 0 and 1.
#![allow(missing_docs, reason = "the modes have the names of the standard")]

use crate::numeric::runs::{Lane, RUN};

/// The modes of the standard.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Blend {
    Normal,
    Multiply,
    Screen,
    Overlay,
    Darken,
    Lighten,
    ColorDodge,
    ColorBurn,
    HardLight,
    SoftLight,
    Difference,
    Exclusion,
    Hue,
    Saturation,
    Color,
    Luminosity,
}

/// Every mode, with the name that the standard gives it and a plain word.
pub const BLENDS: [(Blend, &str, &str); 16] = [
    (Blend::Normal, "normal", "Normal: lies over"),
    (Blend::Multiply, "multiply", "Multiply: darkens"),
    (Blend::Screen, "screen", "Screen: light adds"),
    (Blend::Overlay, "overlay", "Overlay: harder"),
    (Blend::Darken, "darken", "Darken"),
    (Blend::Lighten, "lighten", "Lighten"),
    (Blend::ColorDodge, "color-dodge", "Color dodge"),
    (Blend::ColorBurn, "color-burn", "Color burn"),
    (Blend::HardLight, "hard-light", "Hard light"),
    (Blend::SoftLight, "soft-light", "Soft light: relief"),
    (Blend::Difference, "difference", "Difference"),
    (Blend::Exclusion, "exclusion", "Exclusion"),
    (Blend::Hue, "hue", "Hue"),
    (Blend::Saturation, "saturation", "Saturation"),
    (Blend::Color, "color", "Color: tints"),
    (Blend::Luminosity, "luminosity", "Luminosity"),
];

type Rgb = [f32; 3];

#[inline(always)]
pub(crate) fn lum(c: Rgb) -> f32 {
    0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2]
}

#[inline(always)]
fn sat(c: Rgb) -> f32 {
    c[0].max(c[1]).max(c[2]) - c[0].min(c[1]).min(c[2])
}

#[inline(always)]
fn clip_color(c: Rgb) -> Rgb {
    let (l, low, high) = (lum(c), c[0].min(c[1]).min(c[2]), c[0].max(c[1]).max(c[2]));
    let mut out = c;
    if low < 0.0 {
        out = out.map(|v| l + (v - l) * l / (l - low));
    }
    if high > 1.0 {
        out = out.map(|v| l + (v - l) * (1.0 - l) / (high - l));
    }
    out
}

#[inline(always)]
fn set_lum(c: Rgb, l: f32) -> Rgb {
    let by = l - lum(c);
    clip_color(c.map(|v| v + by))
}

#[inline(always)]
fn set_sat(c: Rgb, s: f32) -> Rgb {
    let (low, range) = (c[0].min(c[1]).min(c[2]), sat(c));
    if range > 0.0 { c.map(|v| (v - low) * s / range) } else { [0.0; 3] }
}

impl Blend {
    pub fn named(id: &str) -> Option<Self> {
        BLENDS.iter().find(|(_, name, _)| *name == id).map(|(blend, ..)| *blend)
    }

    /// `source` blended onto `backdrop`.
    #[inline(always)]
    pub fn of(self, backdrop: Rgb, source: Rgb) -> Rgb {
        match self {
            Self::Hue => set_lum(set_sat(source, sat(backdrop)), lum(backdrop)),
            Self::Saturation => set_lum(set_sat(backdrop, sat(source)), lum(backdrop)),
            Self::Color => set_lum(source, lum(backdrop)),
            Self::Luminosity => set_lum(backdrop, lum(source)),
            _ => {
                let [[a, b, c], [d, e, f]] = [backdrop, source];
                [self.channel(a, d), self.channel(b, e), self.channel(c, f)]
            }
        }
    }

    #[inline(always)]
    fn channel(self, b: f32, s: f32) -> f32 {
        match self {
            Self::Multiply => b * s,
            Self::Screen => b + s - b * s,
            Self::Overlay => {
                let (twice, above) = (s * 2.0 * b, 2.0 * b - 1.0);
                let screened = s + above - s * above;
                if b <= 0.5 { twice } else { screened }
            }
            Self::Darken => b.min(s),
            Self::Lighten => b.max(s),
            Self::ColorDodge => {
                let dodged = (b / (1.0 - s)).min(1.0);
                let dodged = if s >= 1.0 { 1.0 } else { dodged };
                if b <= 0.0 { 0.0 } else { dodged }
            }
            Self::ColorBurn => {
                let burnt = 1.0 - ((1.0 - b) / s).min(1.0);
                let burnt = if s <= 0.0 { 0.0 } else { burnt };
                if b >= 1.0 { 1.0 } else { burnt }
            }
            Self::HardLight => {
                let (twice, above) = (b * 2.0 * s, 2.0 * s - 1.0);
                let screened = b + above - b * above;
                if s <= 0.5 { twice } else { screened }
            }
            Self::SoftLight => {
                let low = b - (1.0 - 2.0 * s) * b * (1.0 - b);
                let root = b.max(0.0).sqrt();
                let d = if b <= 0.25 { ((16.0 * b - 12.0) * b + 4.0) * b } else { root };
                let high = b + (2.0 * s - 1.0) * (d - b);
                if s <= 0.5 { low } else { high }
            }
            Self::Difference => (b - s).abs(),
            Self::Exclusion => b + s - 2.0 * b * s,
            _ => s,
        }
    }
}

/// Each of the modes with a loop of its own: the mode is known before the loop begins.
macro_rules! loops {
    ($self:ident, $run:expr, [$($mode:ident),*]) => {
        match $self { $(Self::$mode => $run(|b, s| Self::$mode.of(b, s)),)* }
    };
}

impl Blend {
    /// A run of pixels blended by a mode, each as far as `strength` says.
    #[inline(always)]
    pub fn over(self, backdrop: &mut [Lane; 3], source: &[Lane; 3], strength: impl Fn(usize) -> f32) {
        loops!(
            self,
            |of| mixed(backdrop, source, &strength, of),
            [
                Normal, Multiply, Screen, Overlay, Darken, Lighten, ColorDodge, ColorBurn, HardLight, SoftLight,
                Difference, Exclusion, Hue, Saturation, Color, Luminosity
            ]
        );
    }
}

#[inline(always)]
fn mixed(
    [red, green, blue]: &mut [Lane; 3],
    source: &[Lane; 3],
    strength: impl Fn(usize) -> f32,
    of: impl Fn(Rgb, Rgb) -> Rgb,
) {
    for i in 0..RUN {
        let (backdrop, share) = ([red[i], green[i], blue[i]], strength(i));
        let blended = of(backdrop, [source[0][i], source[1][i], source[2][i]]);
        red[i] = backdrop[0] + share * (blended[0] - backdrop[0]);
        green[i] = backdrop[1] + share * (blended[1] - backdrop[1]);
        blue[i] = backdrop[2] + share * (blended[2] - backdrop[2]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every mode against another implementation, the software renderer `tiny-skia` in single precision, which gives
    /// codes: half of one for its rounding, and a little. Of the four modes that take a colour apart it leaves out the
    /// standard's clip below black (it asks the largest channel in place of the smallest), so they are compared where
    /// that does not act, and by hand in the test above where it does.
    #[test]
    fn another_implementation_blends_alike() {
        use tiny_skia::{BlendMode, FilterQuality, Paint, Pattern, Pixmap, Rect, SpreadMode, Transform};
        const STEPS: [u8; 6] = [0, 26, 90, 128, 201, 255];
        let colours: Vec<[u8; 3]> = (0..216).map(|i| [STEPS[i % 6], STEPS[i / 6 % 6], STEPS[i / 36]]).collect();
        let (width, height) = (216u32, 216u32);
        let filled = |colour: &dyn Fn(usize) -> [u8; 3]| {
            let mut pixmap = Pixmap::new(width, height).unwrap();
            for (i, pixel) in pixmap.data_mut().chunks_exact_mut(4).enumerate() {
                let [r, g, b] = colour(i);
                pixel.copy_from_slice(&[r, g, b, 255]);
            }
            pixmap
        };
        let backdrop = |i: usize| colours[i % 216];
        let source = |i: usize| colours[i / 216];
        let over = filled(&source);
        for (mode, id, _) in BLENDS {
            let named = match mode {
                Blend::Normal => BlendMode::SourceOver,
                Blend::Multiply => BlendMode::Multiply,
                Blend::Screen => BlendMode::Screen,
                Blend::Overlay => BlendMode::Overlay,
                Blend::Darken => BlendMode::Darken,
                Blend::Lighten => BlendMode::Lighten,
                Blend::ColorDodge => BlendMode::ColorDodge,
                Blend::ColorBurn => BlendMode::ColorBurn,
                Blend::HardLight => BlendMode::HardLight,
                Blend::SoftLight => BlendMode::SoftLight,
                Blend::Difference => BlendMode::Difference,
                Blend::Exclusion => BlendMode::Exclusion,
                Blend::Hue => BlendMode::Hue,
                Blend::Saturation => BlendMode::Saturation,
                Blend::Color => BlendMode::Color,
                Blend::Luminosity => BlendMode::Luminosity,
            };
            let mut out = filled(&backdrop);
            let shader =
                Pattern::new(over.as_ref(), SpreadMode::Pad, FilterQuality::Nearest, 1.0, Transform::identity());
            let paint = Paint { shader, blend_mode: named, anti_alias: false, force_hq_pipeline: true };
            let whole = Rect::from_xywh(0.0, 0.0, width as f32, height as f32).unwrap();
            out.fill_rect(whole, &paint, Transform::identity(), None);
            let takes_apart = matches!(mode, Blend::Hue | Blend::Saturation | Blend::Color | Blend::Luminosity);
            let (mut worst, mut compared) = ((0.0f32, 0), 0);
            for (i, pixel) in out.data().chunks_exact(4).enumerate() {
                let [b, s] = [backdrop(i), source(i)].map(|c| c.map(|v| f32::from(v) / 255.0));
                let ours = mode.of(b, s);
                if takes_apart && ours.iter().any(|v| *v < 0.5 / 255.0) {
                    continue;
                }
                compared += 1;
                let off = (0..3).map(|k| (ours[k] * 255.0 - f32::from(pixel[k])).abs()).fold(0.0, f32::max);
                worst = if off > worst.0 { (off, i) } else { worst };
            }
            let (off, at) = worst;
            println!("{id}: {off} of {compared}");
            assert!(compared > if takes_apart { 9_000 } else { 46_000 }, "{id}: {compared}");
            assert!(
                off < 0.6,
                "{id}: {off} at {:?} on {:?}: {:?}",
                source(at),
                backdrop(at),
                out.pixel(at as u32 % 216, at as u32 / 216)
            );
        }
    }

    /// Values worked out by hand from the standard's formulas.
    #[test]
    fn modes_as_the_standard_states_them() {
        let (b, s) = ([0.2, 0.5, 0.8], [0.6, 0.3, 0.9]);
        let cases: [(&str, Rgb); 8] = [
            ("multiply", [0.12, 0.15, 0.72]),
            ("screen", [0.68, 0.65, 0.98]),
            ("overlay", [0.24, 0.3, 0.96]),
            ("difference", [0.4, 0.2, 0.1]),
            ("exclusion", [0.56, 0.5, 0.26]),
            ("color-dodge", [0.5, 0.5 / 0.7, 1.0]),
            ("hard-light", [0.36, 0.3, 0.96]),
            (
                "soft-light",
                [0.2 + 0.2 * (((16.0 * 0.2 - 12.0) * 0.2 + 4.0) * 0.2 - 0.2), 0.4, 0.8 + 0.8 * (0.8f32.sqrt() - 0.8)],
            ),
        ];
        for (name, wanted) in cases {
            let found = Blend::named(name).unwrap().of(b, s);
            for k in 0..3 {
                assert!((found[k] - wanted[k]).abs() < 1e-5, "{name}: {found:?} {wanted:?}");
            }
        }
        let warm = [0.9, 0.5, 0.4];
        let others: [(&str, Rgb, Rgb); 8] = [
            ("normal", s, s),
            ("darken", s, [0.2, 0.3, 0.8]),
            ("lighten", s, [0.6, 0.5, 0.9]),
            ("color-burn", s, [0.0, 0.0, 1.0 - 0.2 / 0.9]),
            // luminosities 0.443 and 0.609, saturations 0.6 and 0.5
            ("hue", warm, [0.7922, 0.3122, 0.1922]),
            ("saturation", warm, [0.2405, 0.4905, 0.7405]),
            ("color", warm, [0.734, 0.334, 0.234]),
            ("luminosity", warm, [0.366, 0.666, 0.966]),
        ];
        for (name, source, wanted) in others {
            let found = Blend::named(name).unwrap().of(b, source);
            for k in 0..3 {
                assert!((found[k] - wanted[k]).abs() < 1e-5, "{name}: {found:?} {wanted:?}");
            }
        }
        // a colour that does not fit is drawn towards its luminosity
        let clipped = Blend::Color.of([0.9; 3], [1.0, 0.0, 0.0]);
        for (found, wanted) in clipped.into_iter().zip([1.0, 0.9 - 0.03 / 0.7, 0.9 - 0.03 / 0.7]) {
            assert!((found - wanted).abs() < 1e-5, "{clipped:?}");
        }
        // half grey is neutral where the standard says so
        for blend in [Blend::HardLight, Blend::Overlay, Blend::SoftLight] {
            let found = blend.of(b, [0.5; 3]);
            assert!((0..3).all(|k| (found[k] - b[k]).abs() < 1e-6), "{blend:?}: {found:?}");
        }
        for (blend, name, _) in BLENDS {
            let grey = blend.of([0.4; 3], [0.7; 3]);
            assert!(grey.iter().all(|v| (0.0..=1.0).contains(v)), "{name}");
            let kept = lum(blend.of(b, s));
            if ["hue", "saturation", "color"].contains(&name) {
                assert!((kept - lum(b)).abs() < 1e-5, "{name} keeps the backdrop's luminosity");
            }
        }
    }

    /// A run has the bits of its pixels, in every mode, at the ends of the range and for colours that do not fit.
    #[test]
    fn runs_are_blended_as_their_pixels() {
        let value = |i: usize, k: usize| match (i + k) % 9 {
            0 => 0.0,
            1 => 1.0,
            2 => 0.5,
            3 => 0.25,
            _ => ((i * (7 + k) + 3) % 61) as f32 / 60.0,
        };
        let lanes =
            |by: usize| -> [Lane; 3] { std::array::from_fn(|k| std::array::from_fn(|i| value(i * by + 5, k * by))) };
        let (backdrop, source) = (lanes(1), lanes(3));
        let strength = |i: usize| i as f32 / 63.0;
        for (blend, name, _) in BLENDS {
            let mut run = backdrop;
            blend.over(&mut run, &source, strength);
            for i in 0..RUN {
                let b = [0, 1, 2].map(|k| backdrop[k][i]);
                let blended = blend.of(b, [0, 1, 2].map(|k| source[k][i]));
                for k in 0..3 {
                    let wanted = b[k] + strength(i) * (blended[k] - b[k]);
                    assert_eq!(run[k][i].to_bits(), wanted.to_bits(), "{name} {i}");
                    assert!(run[k][i].is_finite(), "{name} {i}");
                }
            }
        }
    }
}
