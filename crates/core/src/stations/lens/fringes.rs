//! Colour fringes: a lens that draws its colours at different sizes. Red and blue are drawn larger or smaller than
//! green about the frame's centre; the other way round it takes away the fringes of the camera's own lens.

use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region};

/// Displacements of fewer pixels at the corner cannot be seen.
const LEAST: f64 = 0.05;

#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FringesSettings {
    /// Displacement of red and of blue against green at the frame's corner, in um on the film, outward positive.
    pub red_um: f64,
    pub blue_um: f64,
}

/// Prepared for one scale: by how much red and blue are drawn larger.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fringes {
    larger: [f64; 3],
    frame: [u32; 2],
}

impl Fringes {
    pub fn new(settings: &FringesSettings, pitch_um: f64, frame: [u32; 2]) -> Option<Self> {
        let corner = 0.5 * f64::from(frame[0]).hypot(f64::from(frame[1]));
        let larger = |um: f64| um / pitch_um / corner;
        let found = [larger(settings.red_um), 0.0, larger(settings.blue_um)];
        found.iter().any(|v| v.abs() * corner >= LEAST).then_some(Self { larger: found, frame })
    }

    pub fn reach(&self) -> u32 {
        let corner = 0.5 * f64::from(self.frame[0]).hypot(f64::from(self.frame[1]));
        let most = self.larger.iter().map(|v| v.abs()).fold(0.0, f64::max);
        (most * corner * 1.1).ceil() as u32 + 2
    }

    /// Draws `part` of light that reaches further by [`Fringes::reach`], or to the frame's edge, beyond which it goes
    /// on.
    pub fn apply(&self, padded: &Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
        let mut out = padded.cut(part);
        for index in [0, 2] {
            if self.larger[index] != 0.0 {
                self.draw(padded, index, &mut out);
            }
        }
        out
    }

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

    #[test]
    fn red_moves_outward_and_green_stays() {
        let region = Region::whole(401, 201);
        let edge: Vec<f32> = (0..region.pixels()).map(|i| if i % 401 < 360 { 0.1 } else { 1.0 }).collect();
        let light = Picture::from_planes(region, vec![edge.clone(); 3]);
        let fringes = Fringes::new(&FringesSettings { red_um: 40.0, blue_um: -20.0 }, 10.0, [401, 201]).unwrap();
        let out = fringes.apply(&light, region);
        let at = |k: usize| out.plane(k)[100 * 401..101 * 401].iter().position(|v| *v > 0.55).unwrap();
        // 160 of 224 pixels out: 4 px and 2 px at the corner are 2.9 and 1.4 here
        assert_eq!(at(1), 360);
        assert!((at(0) as f64 - 362.9).abs() < 1.1 && (at(2) as f64 - 358.6).abs() < 1.1, "{} {}", at(0), at(2));
        let part = Region::new(340, 50, 40, 60);
        let reach = fringes.reach();
        let cut = fringes.apply(&light.cut(part.grown(reach, &region)), part);
        assert!(cut.plane(0) == out.cut(part).plane(0));
    }
}
