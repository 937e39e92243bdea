//! The frame of an instant print: off-white, slightly grained, its lower side thick, a thin dark line round the
//! picture.

use super::{Layout, MountSettings, Painted, within};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;

pub struct Instant {
    sides: [f32; 4],
    whole: [f32; 2],
    long: f32,
    radius: f32,
    colour: [f32; 3],
    grain: [PlaneNoise; 2],
    tone: PlaneNoise,
}

impl Instant {
    pub fn new(settings: &MountSettings, layout: &Layout, seed: u32) -> Self {
        Self {
            sides: layout.sides(),
            whole: layout.whole.map(|v| v as f32),
            long: layout.long(),
            // the window's corners are a little round by themselves
            radius: (settings.round as f32).max(0.008) * layout.long(),
            colour: settings.colour,
            grain: [PlaneNoise::new(seed ^ 41, 0.0016), PlaneNoise::new(seed ^ 42, 0.0042)],
            tone: PlaneNoise::new(seed ^ 43, 0.4),
        }
    }
}

impl Painted for Instant {
    fn at(&self, x: f32, y: f32) -> ([f32; 3], f32) {
        let (u, v) = (x / self.long, y / self.long);
        let inside = within([x, y], self.sides, self.radius) / self.long;
        // pressed paper: a fine grain, a fold at the borders of the pod, edges a little worn
        let rough = 0.007 * self.grain[0].at(u, v) + 0.006 * self.grain[1].at(u, v) + 0.008 * self.tone.at(u, v);
        let edge = x.min(self.whole[0] - x).min(y.min(self.whole[1] - y)) / self.long;
        let worn = 0.035 * smooth_share(1.0 - edge / 0.006);
        let line = smooth_share(1.0 - (inside + 0.001).abs() / 0.0022);
        let lip = 0.03 * smooth_share(1.0 + inside / 0.012) * f32::from(u8::from(inside < 0.0));
        let paper = self.colour.map(|c| c * (1.0 + rough) - worn - lip);
        let dark = [0.19, 0.18, 0.17];
        let colour = [0, 1, 2].map(|k| paper[k] + 0.62 * line * (dark[k] - paper[k]));
        // the line fades into the picture, softly
        let cover = smooth_share(0.5 - inside / 0.0018) + 0.45 * smooth_share(1.0 - inside / 0.006);
        (colour, cover.min(1.0))
    }
}
