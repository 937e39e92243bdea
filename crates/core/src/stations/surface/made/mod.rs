//! The sheets that are made here, by seed, each kind in a file of its own.

pub mod burn;
pub mod canvas;
pub mod crease;
pub mod crumple;
pub mod cup;
pub mod dust;
pub mod fingerprint;
pub mod grunge;
pub mod hairs;
pub mod leak_corner;
pub mod leak_edge;
pub mod leak_holes;
pub mod leak_seam;
pub mod lifted;
pub mod paper;
pub mod plate_comets;
pub mod plate_peel;
pub mod plate_pour;
pub mod relief;
pub mod rollers;
pub mod scratches;

use super::dice::Dice;
use super::matter::Matter;
use super::placing::Window;
use crate::numeric::exp2;

/// What a kind is made from.
pub struct Ask<'a> {
    /// Of this sheet on this frame.
    pub seed: u32,
    /// How much of it, 0 to 1; 0.5 as it usually is.
    pub amount: f32,
    /// Factor on its lengths.
    pub size: f32,
    /// Half of the ground that it lies on, in micrometres of its ruler.
    pub half: [f32; 2],
    /// The part of the sheet that may be seen: left, top, right, bottom.
    pub within: [f32; 4],
    /// 1 at places of the sheet that are to be kept clear.
    pub clear: &'a dyn Fn([f32; 2]) -> f32,
}

impl Ask<'_> {
    /// Throws of a part of it.
    pub fn dice(&self, what: u32) -> Dice {
        Dice::new(self.seed, what)
    }

    /// Throws of a cell of the plane.
    pub fn dice_of_cell(&self, what: u32, (i, j): (i32, i32)) -> Dice {
        Dice::of_cell(self.seed, what, i, j)
    }

    /// A factor for how much there is, 1 as it usually is.
    pub fn abundance(&self, most: f32) -> f32 {
        if self.amount <= 0.0 { 0.0 } else { libm::powf(most, 2.0 * self.amount - 1.0) }
    }

    /// Which way the film runs.
    pub fn sides(&self) -> Sides {
        let upright = self.half[1] > self.half[0];
        let [long, short] = if upright { [self.half[1], self.half[0]] } else { self.half };
        Sides { upright, long, short }
    }

    /// Whether nothing may lie at a place.
    pub fn is_kept_clear(&self, at: [f32; 2]) -> bool {
        (self.clear)(at) > 0.5
    }
}

/// A made sheet: what it is over any window.
pub trait Made: Send + Sync {
    /// At every pixel of a window.
    fn over(&self, window: &Window) -> Matter;
}

/// The long and the short side of a ground: half lengths, and which is which.
#[derive(Debug, Clone, Copy)]
pub struct Sides {
    upright: bool,
    /// Half of the long side.
    pub long: f32,
    /// Half of the short side.
    pub short: f32,
}

impl Sides {
    /// Along and across of a place.
    #[inline(always)]
    pub fn turned(&self, u: f32, v: f32) -> (f32, f32) {
        if self.upright { (v, u) } else { (u, v) }
    }

    /// The place of along and across.
    pub fn place(&self, along: f32, across: f32) -> [f32; 2] {
        if self.upright { [across, along] } else { [along, across] }
    }
}

/// e to the power of `x`, for pixel loops.
#[inline(always)]
pub(crate) fn exp(x: f32) -> f32 {
    exp2(x * std::f32::consts::LOG2_E)
}

/// How brightly a leak shines for its amount.
pub(crate) fn brightness(ask: &Ask) -> f32 {
    2.2 * 0.3 * libm::powf(10.0, ask.amount)
}

#[cfg(test)]
mod tests;
