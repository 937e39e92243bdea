//! Colour fringes: a lens that draws its colours at different sizes. Red and blue are drawn larger or smaller than
//! green about the frame's centre; the other way round it takes away the fringes of the camera's own lens.

use crate::effect::{Effect, FilmFrame};
use crate::key::{Key, key};
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region};

/// Displacements of fewer pixels at the corner cannot be seen.
const LEAST: f64 = 0.05;

/// How far the lens draws red and blue away from green.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FringesSettings {
    /// Displacement of red and of blue against green at the frame's corner, in um on the film, outward positive.
    pub red_um: f64,
    /// Of blue, likewise.
    pub blue_um: f64,
}

/// Prepared.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fringes {
    settings: FringesSettings,
}

/// By how much red and blue are drawn larger on one frame.
#[derive(Debug, Clone, Copy)]
struct Drawn {
    larger: [f64; 3],
    frame: [u32; 2],
}

impl Fringes {
    /// `None` where it draws all colours alike.
    pub fn new(settings: &FringesSettings) -> Option<Self> {
        (settings.red_um != 0.0 || settings.blue_um != 0.0).then_some(Self { settings: *settings })
    }

    /// `None` where the frame is too small to show it.
    fn on(&self, frame: &FilmFrame) -> Option<Drawn> {
        let corner = half_diagonal(frame.size());
        let larger = |um: f64| um / frame.pitch_um / corner;
        let found = [larger(self.settings.red_um), 0.0, larger(self.settings.blue_um)];
        found.iter().any(|v| v.abs() * corner >= LEAST).then_some(Drawn { larger: found, frame: frame.size() })
    }
}

fn half_diagonal(size: [u32; 2]) -> f64 {
    0.5 * f64::from(size[0]).hypot(f64::from(size[1]))
}

impl Effect<SceneLight> for Fringes {
    fn key(&self) -> Key {
        key(&[&"fringes", &self.settings])
    }

    fn reach(&self, frame: &FilmFrame) -> u32 {
        let Some(drawn) = self.on(frame) else { return 0 };
        let most = drawn.larger.iter().map(|v| v.abs()).fold(0.0, f64::max);
        (most * half_diagonal(frame.size()) * 1.1).ceil() as u32 + 2
    }

    /// Beyond the frame's edge the light goes on.
    fn apply(&self, frame: &FilmFrame, padded: Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        let Some(drawn) = self.on(frame) else { return padded.into_part(part) };
        let mut out = padded.cut(part);
        for index in [0, 2] {
            if drawn.larger[index] != 0.0 {
                drawn.draw(&padded, index, &mut out);
            }
        }
        out
    }
}

impl Drawn {
    fn draw(&self, padded: &Picture<SceneLight>, index: usize, out: &mut Picture<SceneLight>) {
        let (part, from) = (out.region, padded.region);
        let scale = 1.0 / (1.0 + self.larger[index]);
        let place = |i: u32, size: u32, start: u32, count: u32| {
            let middle = f64::from(size) / 2.0;
            let at = (f64::from(i) + 0.5 - middle) * scale + middle - 0.5 - f64::from(start);
            let at = at.clamp(0.0, f64::from(count - 1));
            let first = (at as usize).min((count as usize).saturating_sub(2));
            (first, (first + 1).min(count as usize - 1), (at - first as f64) as f32)
        };
        let columns: Vec<_> = (part.x..part.right()).map(|x| place(x, self.frame[0], from.x, from.width)).collect();
        let width = from.width as usize;
        let source = padded.plane(index);
        for (y, line) in (part.y..part.bottom()).zip(out.plane_mut(index).chunks_exact_mut(part.width as usize)) {
            let (top, bottom, fy) = place(y, self.frame[1], from.y, from.height);
            let (a, b) = (&source[top * width..(top + 1) * width], &source[bottom * width..(bottom + 1) * width]);
            for (o, (left, right, fx)) in line.iter_mut().zip(&columns) {
                let upper = a[*left] + (a[*right] - a[*left]) * fx;
                let lower = b[*left] + (b[*right] - b[*left]) * fx;
                *o = upper + (lower - upper) * fy;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Source;

    #[test]
    fn red_moves_outward_and_green_stays() {
        let region = Region::whole(401, 201);
        let edge: Vec<f32> = (0..region.pixels()).map(|i| if i % 401 < 360 { 0.1 } else { 1.0 }).collect();
        let light = Picture::from_planes(region, vec![edge.clone(); 3]);
        let source = Source::from_linear_srgb(401, 201, |_, _| [0.1; 3]);
        let frame = FilmFrame::filling(&source, 4010.0);
        let fringes = Fringes::new(&FringesSettings { red_um: 40.0, blue_um: -20.0 }).unwrap();
        let out = fringes.apply(&frame, light.clone(), region);
        let at = |k: usize| out.plane(k)[100 * 401..101 * 401].iter().position(|v| *v > 0.55).unwrap();
        // 160 of 224 pixels out: 4 px and 2 px at the corner are 2.9 and 1.4 here
        assert_eq!(at(1), 360);
        assert!((at(0) as f64 - 362.9).abs() < 1.1 && (at(2) as f64 - 358.6).abs() < 1.1, "{} {}", at(0), at(2));
        let part = Region::new(361, 50, 30, 60);
        let reach = fringes.reach(&frame);
        let cut = fringes.apply(&frame, light.cut(part.grown(reach, &region)), part);
        assert!(cut.plane(0) == out.cut(part).plane(0));
        let one = Source::from_linear_srgb(1, 1, |_, _| [0.1; 3]);
        assert_eq!(fringes.reach(&FilmFrame::filling(&one, 36_000.0)), 0, "too small to be seen");
    }
}
