//! Where in the frame something acts: a clear middle of some shape, and what lies outside it.

use multiversion::multiversion;

use crate::numeric::{exp2, log2};
use crate::picture::Region;

/// A middle with a soft border. Lengths are shares of the frame's half width and half height, so that every crop of a
/// format shows the same.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Middle {
    /// Distance of its border: 1 touches the frame's sides.
    pub size: f64,
    /// Width of the border.
    pub feather: f64,
    /// 1 is an ellipse, 0 a square with round corners.
    pub roundness: f64,
    /// Above 0 wider, below 0 taller, in octaves.
    pub aspect: f64,
    /// From the frame's centre, in halves of the frame.
    pub centre: [f64; 2],
}

/// Narrowest border: a hard edge would show steps.
const NARROWEST: f64 = 0.02;

impl Middle {
    /// 0 inside to 1 outside, for every pixel of a region of a frame.
    pub fn outside(&self, frame: [u32; 2], region: Region) -> Vec<f32> {
        let mut out = vec![0.0f32; region.pixels()];
        let width = region.width as usize;
        let stretch = (0.5 * self.aspect).exp2();
        let power = 2.0 * 4f64.powf(1.0 - self.roundness);
        let along = |i: u32, size: u32, centre: f64, by: f64| {
            let v = ((f64::from(i) + 0.5) / f64::from(size) * 2.0 - 1.0 - centre) * by;
            v.abs().powf(power) as f32
        };
        let across: Vec<f32> =
            (region.x..region.right()).map(|x| along(x, frame[0], self.centre[0], 1.0 / stretch)).collect();
        let border = Border {
            power: (1.0 / power) as f32,
            from: self.size as f32,
            per_width: (1.0 / self.feather.max(NARROWEST)) as f32,
        };
        for (y, line) in (region.y..region.bottom()).zip(out.chunks_exact_mut(width)) {
            border.fill(line, &across, along(y, frame[1], self.centre[1], stretch));
        }
        out
    }
}

struct Border {
    power: f32,
    from: f32,
    per_width: f32,
}

impl Border {
    fn fill(&self, line: &mut [f32], across: &[f32], down: f32) {
        fill(line, across, down, self);
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn fill(line: &mut [f32], across: &[f32], down: f32, border: &Border) {
    for (o, x) in line.iter_mut().zip(across) {
        let distance = exp2(border.power * log2((x + down).max(1e-12)));
        let t = ((distance - border.from) * border.per_width).clamp(0.0, 1.0);
        *o = t * t * (3.0 - 2.0 * t);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const ROUND: Middle = Middle { size: 0.5, feather: 0.5, roundness: 1.0, aspect: 0.0, centre: [0.0, 0.0] };

    fn at(middle: &Middle, x: f64, y: f64) -> f32 {
        let frame = [400, 300];
        let pixel = |v: f64, size: u32| (((v + 1.0) / 2.0 * f64::from(size)) as u32).min(size - 1);
        let region = Region::new(pixel(x, 400), pixel(y, 300), 1, 1);
        middle.outside(frame, region)[0]
    }

    #[test]
    fn clear_inside_full_outside_and_soft_between() {
        assert_eq!(at(&ROUND, 0.0, 0.0), 0.0);
        assert_eq!(at(&ROUND, 0.45, 0.0), 0.0);
        assert!((at(&ROUND, 0.75, 0.0) - 0.5).abs() < 0.02);
        assert_eq!(at(&ROUND, 1.0, 1.0), 1.0);
        // a square's corner is as far as its side
        let square = Middle { roundness: 0.0, ..ROUND };
        assert!(at(&square, 0.7, 0.7) < at(&ROUND, 0.7, 0.7));
        let moved = Middle { centre: [0.6, 0.0], ..ROUND };
        assert_eq!(at(&moved, 0.6, 0.0), 0.0);
        assert!(at(&moved, -0.6, 0.0) > 0.9);
        let wide = Middle { aspect: 1.0, ..ROUND };
        assert!(at(&wide, 0.75, 0.0) < 0.3 && at(&wide, 0.0, 0.75) > 0.6);
    }

    #[test]
    fn a_region_is_a_crop() {
        let whole = ROUND.outside([90, 60], Region::whole(90, 60));
        let part = Region::new(31, 12, 17, 9);
        let cut = ROUND.outside([90, 60], part);
        assert!((0..part.pixels()).all(|i| cut[i] == whole[(12 + i / 17) * 90 + 31 + i % 17]));
    }
}
