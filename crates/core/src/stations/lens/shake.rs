//! Shake: the camera moves while the shutter is open. The light is the mean along a straight way.

use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::mask::PreparedUse;
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region};

/// Most places along the way that are averaged.
const MOST: usize = 4096;
/// Shakes of fewer pixels cannot be seen.
const LEAST: f64 = 0.5;

/// How the camera moved.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ShakeSettings {
    /// On the film.
    pub length_um: f64,
    /// From the horizontal, against the clock.
    pub angle_degrees: f64,
}

/// Prepared.
#[derive(Debug, Clone)]
pub struct Shake {
    settings: ShakeSettings,
    place: Option<PreparedUse>,
}

/// An offset in whole pixels with the share of the way that falls on it.
type Tap = (i32, i32, f32);

impl Shake {
    /// `place` is where the picture shakes; elsewhere it is held still.
    pub fn new(settings: &ShakeSettings, place: Option<PreparedUse>) -> Option<Self> {
        (settings.length_um > 0.0).then_some(Self { settings: *settings, place })
    }

    /// Length of the way in pixels; `None` where it is too short to be seen.
    fn length(&self, frame: &FilmFrame) -> Option<f64> {
        let length = self.settings.length_um / frame.pitch_um;
        (length >= LEAST).then_some(length)
    }

    fn taps(&self, length: f64) -> Vec<Tap> {
        let angle = self.settings.angle_degrees.to_radians();
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
        shares.into_iter().filter(|(_, s)| *s > 1e-9).map(|((x, y), s)| (x, y, s as f32)).collect()
    }
}

impl Effect<SceneLight> for Shake {
    fn key(&self) -> Key {
        key(&[&"shake", &self.settings, &self.place])
    }

    fn reach(&self, frame: &FilmFrame) -> u32 {
        self.length(frame).map_or(0, |length| (length / 2.0).ceil() as u32 + 1)
    }

    /// Beyond the frame's edge the light goes on.
    fn apply(&self, frame: &FilmFrame, padded: Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        let Some(length) = self.length(frame) else { return padded.into_part(part) };
        let shaken = shaken(&self.taps(length), &padded, part);
        let Some(place) = &self.place else { return shaken };
        let mut held = padded.cut(part);
        held.mix(&shaken, &place.over(frame.source, part));
        held
    }
}

fn shaken(taps: &[Tap], padded: &Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
    let mut out = Picture::new(part, 3);
    let from = padded.region;
    let (width, height) = (from.width as i32, from.height as i32);
    let (left, top) = ((part.x - from.x) as i32, (part.y - from.y) as i32);
    let columns = part.width as usize;
    for index in 0..3 {
        let source = padded.plane(index);
        for (row, line) in out.plane_mut(index).chunks_exact_mut(columns).enumerate() {
            for (dx, dy, share) in taps {
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    #[test]
    fn a_point_becomes_a_way_of_the_right_length_and_angle() {
        let source = Source::from_linear_srgb(101, 101, |_, _| [0.1; 3]);
        let (region, frame) = (source.region(), FilmFrame::filling(&source, 1010.0));
        let mut plane = vec![0.0f32; region.pixels()];
        plane[50 * 101 + 50] = 1.0;
        let light = Picture::from_planes(region, vec![plane; 3]);
        for degrees in [0.0, 30.0, 90.0] {
            let shake = Shake::new(&ShakeSettings { length_um: 200.0, angle_degrees: degrees }, None).unwrap();
            let most = shake.taps(20.0).iter().map(|(x, y, _)| x.abs().max(y.abs())).max().unwrap();
            assert!(most as u32 <= shake.reach(&frame) && shake.reach(&frame) == 11, "{most}");
            let out = shake.apply(&frame, light.clone(), region);
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
        let little = Shake::new(&ShakeSettings { length_um: 3.0, angle_degrees: 0.0 }, None).unwrap();
        assert_eq!(little.apply(&frame, light.clone(), region).plane(0), light.plane(0), "too short to be seen");
    }
}
