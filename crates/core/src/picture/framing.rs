//! Framing: format, crop, straightening, turning, mirroring, and the lens's distortion.
//!
//! Runs before everything else: out of the decoded picture it makes the picture that the camera would have taken. A
//! format fills the camera's gate. What is cut from it afterwards (size, place, straightening) is cut under the
//! enlarger: the film keeps its scale and its grain. Nothing is lost: the original stays, and the settings can be
//! changed again. Distortion: r (1 + k r^2), r = 1 at the picture's corner. Sampled in linear light.

use std::collections::HashMap;

use rayon::prelude::*;

use crate::numeric::parallel::for_parts;
use crate::picture::Source;
use crate::picture::between_pixels::Samples;
use crate::picture::peak::Peak;
use crate::picture::source::{Held, codes_of_light, linear_of_8_bit, linear_of_code};

/// Shares of a side at full distortion by which the corner moves.
const MOST_DISTORTION: f64 = 0.2;

/// How a picture is cut, turned and bent, before Scene.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FramingSettings {
    /// Quarter turns against the clock.
    pub quarter_turns: u8,
    /// Left and right change places.
    pub mirrored: bool,
    /// Turned against the clock.
    pub straighten_degrees: f64,
    /// Longer over shorter side; `None` is the picture's own shape.
    pub format: Option<f64>,
    /// The format stands the other way round than the picture.
    pub format_turned: bool,
    /// Share of the format that is kept, 0..1.
    pub size: f64,
    /// Where in what is left over, -1..1.
    pub place: [f64; 2],
    /// -1 barrel to 1 pincushion taken away.
    pub distortion: f64,
}

impl FramingSettings {
    /// The picture as it came.
    pub const NONE: Self = Self {
        quarter_turns: 0,
        mirrored: false,
        straighten_degrees: 0.0,
        format: None,
        format_turned: false,
        size: 1.0,
        place: [0.0; 2],
        distortion: 0.0,
    };

    /// Whether the picture stays as it came. A place alone moves nothing: there is nothing left over.
    pub fn is_none(&self) -> bool {
        let unplaced = Self { place: [0.0; 2], format_turned: false, ..*self };
        unplaced == Self::NONE
    }
}

/// A frame in a picture of a given full size.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Framing {
    settings: FramingSettings,
    /// Sine and cosine of the angle by which it is straightened.
    lean: [f64; 2],
    /// Size of the picture after turning.
    turned: [f64; 2],
    /// Size of the frame in full pixels.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    /// The frame's centre from the turned picture's, in full pixels.
    centre: [f64; 2],
    /// Size of the format on the film, in full pixels: it fills the gate.
    pub film: [u32; 2],
    /// What is left over across and down, in full pixels.
    pub slack: [f64; 2],
    /// Corner of the frame within the format, in full pixels, for the grain's lattice.
    pub corner: [u32; 2],
}

impl Framing {
    /// For a picture of a size.
    pub fn new(settings: &FramingSettings, width: u32, height: u32) -> Self {
        let upright = settings.quarter_turns % 2 == 1;
        let (w, h) =
            if upright { (f64::from(height), f64::from(width)) } else { (f64::from(width), f64::from(height)) };
        let lies = (w >= h) != settings.format_turned;
        let aspect = match settings.format {
            None => w / h,
            Some(ratio) if lies => ratio,
            Some(ratio) => 1.0 / ratio,
        };
        let (sine, cosine) = settings.straighten_degrees.abs().to_radians().sin_cos();
        // the largest upright rectangle of this shape within the turned picture
        let tall = |s: f64, c: f64| (w / (aspect * c + s)).min(h / (aspect * s + c));
        let format = tall(0.0, 1.0);
        let frame = tall(sine, cosine).min(format) * settings.size;
        let side = |v: f64, most: f64| (v.round().max(1.0)).min(most.floor().max(1.0));
        let (fw, fh) = (side(frame * aspect, w), side(frame, h));
        let slack = [(w - (fw * cosine + fh * sine)).max(0.0), (h - (fw * sine + fh * cosine)).max(0.0)];
        let mut centre = [0, 1].map(|k: usize| settings.place[k] * slack[k] / 2.0);
        if settings.straighten_degrees == 0.0 && settings.distortion == 0.0 {
            // a plain crop cuts whole pixels
            let whole = |centre: f64, full: f64, frame: f64| {
                let from = ((full - frame) / 2.0 + centre).round().clamp(0.0, full - frame);
                from - (full - frame) / 2.0
            };
            centre = [whole(centre[0], w, fw), whole(centre[1], h, fh)];
        }
        let film = [side(format * aspect, w), side(format, h)];
        let corner = |k: usize, frame: f64| ((film[k] - frame) / 2.0 + centre[k]).round().clamp(0.0, 1e6) as u32;
        Self {
            settings: *settings,
            lean: settings.straighten_degrees.to_radians().sin_cos().into(),
            turned: [w, h],
            width: fw as u32,
            height: fh as u32,
            centre,
            film: film.map(|v| v as u32),
            slack,
            corner: [corner(0, fw), corner(1, fh)],
        }
    }

    /// Where a place of the frame, in shares of it, lies in the picture as it came, in shares of that.
    pub fn source_of(&self, [u, v]: [f64; 2]) -> [f64; 2] {
        let s = &self.settings;
        let [w, h] = self.turned;
        let (x, y) = ((u - 0.5) * f64::from(self.width), (v - 0.5) * f64::from(self.height));
        let [sine, cosine] = self.lean;
        // the frame turns with the clock within the picture, so the picture against it within the frame
        let (x, y) = (x * cosine - y * sine + self.centre[0], x * sine + y * cosine + self.centre[1]);
        let (x, y) = match s.distortion {
            0.0 => (x, y),
            d => {
                let k = MOST_DISTORTION * d;
                let r2 = (x * x + y * y) / (0.25 * (w * w + h * h));
                // kept within the picture: what is stretched most touches its border
                let factor = (1.0 + k * r2) / (1.0 + k.max(0.0));
                (x * factor, y * factor)
            }
        };
        let (u, v) = (x / w + 0.5, y / h + 0.5);
        let u = if s.mirrored { 1.0 - u } else { u };
        match s.quarter_turns % 4 {
            0 => [u, v],
            1 => [1.0 - v, u],
            2 => [1.0 - u, 1.0 - v],
            _ => [v, 1.0 - u],
        }
    }

    /// The frame out of the picture at a scale of the full one.
    pub fn cut_at(&self, source: &Source, scale: f64) -> Source {
        let side = |v: u32| ((f64::from(v) * scale).round() as u32).max(1);
        self.cut(source, side(self.width), side(self.height))
    }

    /// The frame out of the picture at one scale, `width` x `height` pixels.
    pub fn cut(&self, source: &Source, width: u32, height: u32) -> Source {
        let size = [source.width(), source.height()];
        let pixels = match source.held() {
            Held::Codes(held) => {
                let linear = linear_of_code();
                self.sampled(&Samples { held, size, light: |code: u16| linear[usize::from(code)] }, [width, height])
            }
            Held::Srgb8(held) => {
                let linear = linear_of_8_bit();
                self.sampled(&Samples { held, size, light: |value: u8| linear[usize::from(value)] }, [width, height])
            }
        };
        let peaks = self.peaks(source, width, height);
        Source::new(width, height, pixels).map_or_else(|| source.clone(), |cut| cut.with_peaks(peaks))
    }

    /// Codes of the frame, sampled out of the picture.
    fn sampled<T: Copy + Sync, L: Fn(T) -> f32 + Sync>(
        &self,
        samples: &Samples<T, L>,
        [width, height]: [u32; 2],
    ) -> Vec<u16> {
        let mut pixels = vec![0u16; 3 * width as usize * height as usize];
        for_parts(&mut pixels, 3 * width as usize, &|y, codes| {
            let v = (y as f64 + 0.5) / f64::from(height);
            let mut light = vec![0.0f32; codes.len()];
            for (x, pixel) in (0..width).zip(light.as_chunks_mut().0) {
                *pixel = samples.at(self.source_of([(f64::from(x) + 0.5) / f64::from(width), v]));
            }
            codes_of_light(&light, codes);
        });
        pixels
    }

    /// What is bright and small in the pixels of a reduced picture, where it comes to lie in the frame.
    fn peaks(&self, source: &Source, width: u32, height: u32) -> Vec<Peak> {
        if source.peaks().is_empty() {
            return Vec::new();
        }
        let (sw, sh) = (f64::from(source.width()), f64::from(source.height()));
        let by_pixel: HashMap<u32, &Peak> = source.peaks().iter().map(|p| (p.index, p)).collect();
        let row_of = |y: u32| {
            let v = (f64::from(y) + 0.5) / f64::from(height);
            (0..width).filter_map(move |x| {
                let [su, sv] = self.source_of([(f64::from(x) + 0.5) / f64::from(width), v]);
                let inside = (0.0..1.0).contains(&su) && (0.0..1.0).contains(&sv);
                inside.then(|| ((sv * sh) as u32 * source.width() + (su * sw) as u32, y * width + x))
            })
        };
        (0..height)
            .into_par_iter()
            .flat_map_iter(row_of)
            .filter_map(|(from, index)| by_pixel.get(&from).map(|peak| Peak { index, ..**peak }))
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Red grows to the right, green downwards.
    fn picture() -> Source {
        Source::from_linear_srgb(120, 80, |x, y| [f64::from(x) / 119.0, f64::from(y) / 79.0, 0.25])
    }

    fn at(source: &Source, x: u32, y: u32) -> [f64; 2] {
        let linear = linear_of_code();
        let p = source.row(y, x, 1);
        [f64::from(linear[p[0] as usize]) * 119.0, f64::from(linear[p[1] as usize]) * 79.0]
    }

    fn framed(settings: FramingSettings) -> (Framing, Source) {
        let framing = Framing::new(&settings, 120, 80);
        let cut = framing.cut(&picture(), framing.width, framing.height);
        (framing, cut)
    }

    #[test]
    fn a_format_is_the_largest_that_fits_and_cuts_whole_pixels() {
        let (framing, cut) = framed(FramingSettings { format: Some(1.0), place: [-1.0, 0.0], ..FramingSettings::NONE });
        assert_eq!((framing.width, framing.height, framing.film), (80, 80, [80, 80]));
        assert!(cut.row(7, 0, 80) == picture().row(7, 0, 80));
        let (upright, _) = framed(FramingSettings { format: Some(1.25), format_turned: true, ..FramingSettings::NONE });
        assert_eq!((upright.width, upright.height), (64, 80));
        assert!(FramingSettings { place: [0.5, 0.0], ..FramingSettings::NONE }.is_none());
    }

    /// An enlarger crop keeps the film's scale.
    #[test]
    fn a_smaller_cut_leaves_the_format_on_the_film() {
        let (framing, cut) = framed(FramingSettings { size: 0.5, place: [1.0, 1.0], ..FramingSettings::NONE });
        assert_eq!((framing.width, framing.height, framing.film, framing.corner), (60, 40, [120, 80], [60, 40]));
        assert!(cut.row(0, 0, 60) == picture().row(40, 60, 60));
    }

    #[test]
    fn turning_and_mirroring_go_round() {
        let (_, turned) = framed(FramingSettings { quarter_turns: 1, ..FramingSettings::NONE });
        assert_eq!((turned.width(), turned.height()), (80, 120));
        // a quarter against the clock: the right end comes up
        let [x, y] = at(&turned, 0, 0);
        assert!((x - 119.0).abs() < 0.1 && y.abs() < 0.1, "{x} {y}");
        let (_, mirrored) = framed(FramingSettings { mirrored: true, ..FramingSettings::NONE });
        assert!((at(&mirrored, 0, 5)[0] - 119.0).abs() < 0.1);
        let mut back = picture();
        for _ in 0..4 {
            let framing = Framing::new(
                &FramingSettings { quarter_turns: 1, ..FramingSettings::NONE },
                back.width(),
                back.height(),
            );
            back = framing.cut(&back, framing.width, framing.height);
        }
        assert!(back.pixels() == picture().pixels());
    }

    /// A picture held in 8 bits is cut as its codes are.
    #[test]
    fn eight_bits_are_cut_as_their_codes() {
        let values: Vec<u8> = (0..3 * 90 * 60).map(|i| (i * 37 % 251) as u8).collect();
        let small = Source::of_8_bit(90, 60, values).unwrap();
        let codes = Source::new(90, 60, small.pixels().into_owned()).unwrap();
        let lean = FramingSettings { straighten_degrees: -3.0, distortion: 0.4, ..FramingSettings::NONE };
        for settings in [lean, FramingSettings { quarter_turns: 3, size: 0.7, ..FramingSettings::NONE }] {
            let framing = Framing::new(&settings, 90, 60);
            let [a, b] = [&small, &codes].map(|source| framing.cut(source, framing.width, framing.height));
            assert!(a.pixels() == b.pixels());
        }
    }

    /// A leaning line stands straight, within half a pixel, and no corner is empty.
    #[test]
    fn a_straightened_grid_is_straight() {
        let lean = 4f64.to_radians();
        let line = |x: f64, y: f64| (x - 300.0) * lean.cos() + (y - 200.0) * lean.sin();
        let source = Source::from_linear_srgb(600, 400, |x, y| {
            [(0.5 + 0.5 * line(f64::from(x) + 0.5, f64::from(y) + 0.5)).clamp(0.05, 0.95); 3]
        });
        let framing = Framing::new(&FramingSettings { straighten_degrees: 4.0, ..FramingSettings::NONE }, 600, 400);
        let cut = framing.cut(&source, framing.width, framing.height);
        let linear = linear_of_code();
        let crossing = |y: u32| {
            let row = cut.row(y, 0, cut.width());
            let value = |x: usize| linear[row[3 * x] as usize];
            (0..cut.width() as usize - 1).find(|x| value(*x) < 0.5 && value(x + 1) >= 0.5).unwrap() as f64
        };
        let (top, bottom) = (crossing(2), crossing(cut.height() - 3));
        assert!((top - bottom).abs() <= 0.5, "{top} {bottom}");
        for corner in [[0.0, 0.0], [1.0, 0.0], [0.0, 1.0], [1.0, 1.0]] {
            assert!(framing.source_of(corner).iter().all(|v| (-1e-3..=1.001).contains(v)), "{corner:?}");
        }
    }

    #[test]
    fn distortion_stays_within_the_picture() {
        for distortion in [-1.0, 1.0] {
            let framing = Framing::new(&FramingSettings { distortion, ..FramingSettings::NONE }, 120, 80);
            for i in 0..=10 {
                let edge = f64::from(i) / 10.0;
                for place in [[edge, 0.0], [0.0, edge], [edge, 1.0], [1.0, edge]] {
                    assert!(framing.source_of(place).iter().all(|v| (-1e-9..=1.0 + 1e-9).contains(v)), "{place:?}");
                }
            }
            assert_eq!(framing.source_of([0.5, 0.5]), [0.5, 0.5]);
        }
    }
}
