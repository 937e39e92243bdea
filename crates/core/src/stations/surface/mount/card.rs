//! Paper and card: a plain border, one with a deckle edge, a mat with a bevelled window.

use super::{Layout, MountKind, MountSettings, Painted, within};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;

/// The bevel of a mat and its shadow, in shares of the long edge: 1.5 mm of a print 240 mm long.
const BEVEL: f32 = 0.00625;
const SHADOW: f32 = 0.005;
/// Waves of a deckle edge: 3 to 4 mm long, and how far they reach.
const DECKLE: [(f32, f32); 3] = [(0.034, 0.0028), (0.014, 0.0024), (0.005, 0.0005)];

pub struct Card {
    kind: MountKind,
    sides: [f32; 4],
    whole: [f32; 2],
    long: f32,
    radius: f32,
    colour: [f32; 3],
    ground: [f32; 3],
    fibres: [PlaneNoise; 2],
    waves: [PlaneNoise; 3],
}

impl Card {
    pub fn new(settings: &MountSettings, layout: &Layout, seed: u32) -> Self {
        let long = layout.long();
        Self {
            kind: settings.kind,
            sides: layout.sides(),
            whole: layout.whole.map(|v| v as f32),
            long,
            radius: settings.round as f32 * long,
            colour: settings.colour,
            ground: settings.ground,
            fibres: [PlaneNoise::oblong(seed ^ 21, [0.006, 0.0009]), PlaneNoise::oblong(seed ^ 22, [0.0009, 0.005])],
            waves: [0, 1, 2].map(|k| PlaneNoise::new(seed ^ (31 + k as u32), DECKLE[k].0)),
        }
    }

    /// Which side of the window is nearest: how much its bevel faces the light from the upper left.
    fn facing(&self, x: f32, y: f32) -> f32 {
        let [left, top, right, bottom] = self.sides;
        let from = [x - left, y - top, right - x, bottom - y];
        let nearest = (0..4).min_by(|a, b| from[*a].total_cmp(&from[*b])).unwrap_or(0);
        // a bevel falls towards the picture: the right and the lower one face the light
        [-0.55, -1.0, 0.75, 1.0][nearest]
    }

    fn paper(&self, x: f32, y: f32, strength: f32) -> [f32; 3] {
        let (u, v) = (x / self.long, y / self.long);
        let tooth = strength * (self.fibres[0].at(u, v) + self.fibres[1].at(u, v));
        self.colour.map(|c| c * (1.0 + tooth))
    }

    fn mat(&self, x: f32, y: f32) -> ([f32; 3], f32) {
        let bevel = (BEVEL * self.long).max(1.0);
        let inside = within([x, y], self.sides, self.radius);
        // the bevel lies within the picture's border: the window is cut into what the card covers
        let depth = inside;
        if depth < 0.0 {
            let rim = 0.03 * smooth_share(1.0 + depth / (0.3 * bevel).max(1.0));
            return (self.paper(x, y, 0.006).map(|c| c - rim), 1.0);
        }
        if depth < bevel {
            // the core of the card is white
            let lit = 0.93 + 0.06 * self.facing(x, y);
            return ([lit, lit, 0.985 * lit], (bevel - depth).min(1.0));
        }
        // the card stands off the print and throws a little shadow from the upper left
        let soft = SHADOW * self.long;
        let [left, top, ..] = self.sides;
        let near = (x - left - bevel).min(y - top - bevel).max(0.0);
        let shade = 0.42 * (1.0 - smooth_share(near / soft)) * smooth_share(1.0 - (depth - bevel) / soft);
        ([0.0; 3], shade)
    }

    fn deckle(&self, x: f32, y: f32) -> ([f32; 3], f32) {
        let mut wave = 0.0;
        for (noise, (_, height)) in self.waves.iter().zip(DECKLE) {
            wave += height * noise.at(x / self.long, y / self.long);
        }
        let from = x.min(self.whole[0] - x).min(y.min(self.whole[1] - y));
        let edge = from - (0.009 + wave).max(0.0015) * self.long;
        let paper = smooth_share(edge / (0.0012 * self.long).max(1.5) + 0.5);
        // torn paper is thin at its border, and its fibres are a little lighter
        let thin = smooth_share(1.0 - edge / (0.004 * self.long));
        let shade = 0.12 * thin * (0.5 + 0.5 * self.fibres[0].at(2.0 * x / self.long, 2.0 * y / self.long));
        let card = self.paper(x, y, 0.005);
        let cover = 1.0 - (within([x, y], self.sides, self.radius) + 0.5).clamp(0.0, 1.0);
        ([0, 1, 2].map(|k| self.ground[k] + paper * (card[k] * (1.0 - shade) - self.ground[k])), cover)
    }
}

impl Painted for Card {
    fn at(&self, x: f32, y: f32) -> ([f32; 3], f32) {
        match self.kind {
            MountKind::Mat => self.mat(x, y),
            MountKind::Deckle => self.deckle(x, y),
            _ => (self.colour, 1.0 - (within([x, y], self.sides, self.radius) + 0.5).clamp(0.0, 1.0)),
        }
    }
}
