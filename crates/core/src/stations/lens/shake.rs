//! Shake: the camera moves while the shutter is open. The light is the mean along a straight way.

use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region};

/// Most places along the way that are averaged.
const MOST: usize = 4096;
/// Shakes of fewer pixels cannot be seen.
const LEAST: f64 = 0.5;

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ShakeSettings {
    /// On the film.
    pub length_um: f64,
    /// From the horizontal, against the clock.
    pub angle_degrees: f64,
}

/// Prepared for one scale: offsets in whole pixels with the shares of the way that fall on them.
#[derive(Debug, Clone, PartialEq)]
pub struct Shake {
    taps: Vec<(i32, i32, f32)>,
}

impl Shake {
    pub fn new(settings: &ShakeSettings, pitch_um: f64) -> Option<Self> {
        let length = settings.length_um / pitch_um;
        if length < LEAST {
            return None;
        }
        let angle = settings.angle_degrees.to_radians();
        let (dx, dy) = (angle.cos(), -angle.sin());
        let count = ((16.0 * length).ceil() as usize).clamp(16, MOST);
        // each place of the way is shared between the four pixels around it
        let mut shares = std::collections::BTreeMap::<(i32, i32), f64>::new();
        for i in 0..count {
            let along = ((i as f64 + 0.5) / count as f64 - 0.5) * length;
            let (x, y) = (along * dx, along * dy);
            let (fx, fy) = (x - x.floor(), y - y.floor());
            for (ox, sx) in [(0, 1.0 - fx), (1, fx)] {
                for (oy, sy) in [(0, 1.0 - fy), (1, fy)] {
                    let place = (x.floor() as i32 + ox, y.floor() as i32 + oy);
                    *shares.entry(place).or_default() += sx * sy / count as f64;
                }
            }
        }
        let taps = shares.into_iter().filter(|(_, s)| *s > 1e-9).map(|((x, y), s)| (x, y, s as f32)).collect();
        Some(Self { taps })
    }

    pub fn reach(&self) -> u32 {
        self.taps.iter().map(|(x, y, _)| x.unsigned_abs().max(y.unsigned_abs())).max().unwrap_or(0)
    }

    /// Shakes `part` of light that reaches further by [`Shake::reach`], or to the frame's edge, beyond which it goes
    /// on.
    pub fn apply(&self, padded: &Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        let mut out = Picture::new(part, 3);
        let from = padded.region;
        let (width, height) = (from.width as i32, from.height as i32);
        let (left, top) = ((part.x - from.x) as i32, (part.y - from.y) as i32);
        let columns = part.width as usize;
        for index in 0..3 {
            let source = padded.plane(index);
            for (row, line) in out.plane_mut(index).chunks_exact_mut(columns).enumerate() {
                for (dx, dy, share) in &self.taps {
                    let y = (top + row as i32 + dy).clamp(0, height - 1);
                    let source = &source[(y * width) as usize..((y + 1) * width) as usize];
                    let start = left + dx;
                    if start >= 0 && start + columns as i32 <= width {
                        let along = &source[start as usize..][..columns];
                        line.iter_mut().zip(along).for_each(|(o, v)| *o += share * v);
                    } else {
                        for (x, o) in line.iter_mut().enumerate() {
                            *o += share * source[(start + x as i32).clamp(0, width - 1) as usize];
                        }
                    }
                }
            }
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_point_becomes_a_way_of_the_right_length_and_angle() {
        let region = Region::whole(101, 101);
        let mut plane = vec![0.0f32; region.pixels()];
        plane[50 * 101 + 50] = 1.0;
        let light = Picture::from_planes(region, vec![plane; 3]);
        for degrees in [0.0, 30.0, 90.0] {
            let shake = Shake::new(&ShakeSettings { length_um: 200.0, angle_degrees: degrees }, 10.0).unwrap();
            let out = shake.apply(&light, region);
            let (mut sum, mut xx, mut yy, mut xy) = (0.0f64, 0.0, 0.0, 0.0);
            for (i, v) in out.plane(0).iter().enumerate() {
                let (x, y, v) = ((i % 101) as f64 - 50.0, 50.0 - (i / 101) as f64, f64::from(*v));
                (sum, xx, yy, xy) = (sum + v, xx + v * x * x, yy + v * y * y, xy + v * x * y);
            }
            assert!((sum - 1.0).abs() < 1e-4);
            // the variance of an even way is its length squared over 12
            assert!((xx + yy - 400.0 / 12.0).abs() < 1.0, "{}", xx + yy);
            let angle = 0.5 * (2.0 * xy).atan2(xx - yy).to_degrees();
            assert!((angle - degrees).abs() < 1.5, "{degrees}: {angle}");
        }
        assert!(Shake::new(&ShakeSettings { length_um: 3.0, angle_degrees: 0.0 }, 10.0).is_none());
    }
}
