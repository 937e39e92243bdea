//! A look as a table: a colour for every colour, whatever stands around it.

mod file;
mod packed;

use std::fmt::{Debug, Formatter};
use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::error::CoreError;

pub use file::HALD_LEVELS;

/// Sizes that are made: colours of each channel.
pub const SIZES: [u32; 3] = [17, 33, 65];
/// Bounds of a table's size.
const BOUNDS: std::ops::RangeInclusive<u32> = 2..=129;

/// Encoded sRGB for a lattice of encoded sRGB, red running fastest. As a part of a stock it is kept in 16 bits.
#[derive(Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(try_from = "packed::Packed", into = "packed::Packed")]
#[schemars(with = "packed::Packed")]
pub struct Look {
    /// Colours of each channel.
    size: u32,
    colours: Arc<[[f32; 3]]>,
    /// Labels of what was tuned and is not in it.
    left_out: Vec<String>,
    /// Names its colours.
    hash: [u8; 16],
}

/// Its colours by name: what depends on a stock is named by how it is written.
impl Debug for Look {
    fn fmt(&self, f: &mut Formatter) -> std::fmt::Result {
        write!(f, "Look {} {:?}", self.size, self.hash)
    }
}

impl Look {
    /// Of the lattice's colours, red running fastest.
    pub(crate) fn of_colours(size: u32, colours: Vec<[f32; 3]>) -> Result<Self, CoreError> {
        check_size(size)?;
        if colours.len() != size.pow(3) as usize {
            let why = format!("it has {} colours where {size}^3 are needed", colours.len());
            return Err(CoreError::Look { why });
        }
        let colours: Arc<[[f32; 3]]> = colours.into_iter().map(|colour| colour.map(|v| v.clamp(0.0, 1.0))).collect();
        let mut hasher = blake3::Hasher::new();
        for v in colours.iter().flatten() {
            hasher.update(&v.to_le_bytes());
        }
        let mut hash = [0; 16];
        hash.copy_from_slice(&hasher.finalize().as_bytes()[..16]);
        Ok(Self { size, colours, left_out: Vec::new(), hash })
    }

    /// The same with no more than so many colours of each channel.
    pub fn at_most(&self, size: u32) -> Self {
        if self.size <= size {
            return self.clone();
        }
        let level = |i: u32| i as f32 / (size - 1) as f32;
        let colour = |i: u32| self.apply([i % size, i / size % size, i / size / size].map(level));
        Self::of_colours(size, (0..size.pow(3)).map(colour).collect()).unwrap_or_else(|_| self.clone())
    }

    /// The same with labels of what is not in it.
    pub(crate) fn without(self, left_out: Vec<String>) -> Self {
        Self { left_out, ..self }
    }

    /// Its colours, red running fastest.
    pub fn colours(&self) -> &[[f32; 3]] {
        &self.colours
    }

    /// Colours of each channel.
    pub fn size(&self) -> u32 {
        self.size
    }

    /// Labels of what was tuned, or the stock does by itself, and is not in it.
    pub fn left_out(&self) -> &[String] {
        &self.left_out
    }

    /// A colour of encoded sRGB as the look has it: between the lattice's colours by tetrahedra, along which neutrals
    /// stay neutral.
    pub fn apply(&self, colour: [f32; 3]) -> [f32; 3] {
        let last = (self.size - 1) as f32;
        let place = colour.map(|v| v.clamp(0.0, 1.0) * last);
        let base = place.map(|v| (v as u32).min(self.size - 2));
        let rest: [f32; 3] = std::array::from_fn(|k| place[k] - base[k] as f32);
        let at = |steps: [u32; 3]| {
            let [r, g, b]: [u32; 3] = std::array::from_fn(|k| base[k] + steps[k]);
            self.colours[(r + self.size * (g + self.size * b)) as usize]
        };
        // channels by their rest, the largest first: each tetrahedron's way from the dark corner to the light one
        let mut order = [0, 1, 2];
        order.sort_by(|a: &usize, b: &usize| rest[*b].total_cmp(&rest[*a]));
        let mut steps = [0; 3];
        let mut out = at(steps).map(|v| v * (1.0 - rest[order[0]]));
        for (n, k) in order.into_iter().enumerate() {
            steps[k] = 1;
            let next = order.get(n + 1).map_or(0.0, |next| rest[*next]);
            let corner = at(steps);
            (0..3).for_each(|c| out[c] += corner[c] * (rest[k] - next));
        }
        out
    }
}

pub(crate) fn check_size(size: u32) -> Result<(), CoreError> {
    if BOUNDS.contains(&size) {
        return Ok(());
    }
    Err(CoreError::Look {
        why: format!("it has {size} colours a channel; from {} to {}", BOUNDS.start(), BOUNDS.end()),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn between_its_colours_it_is_linear_and_neutral() {
        let colours = |r: f32, g: f32, b: f32| [0.8 * r + 0.1 * g, g, b * b];
        let level = |i: u32| i as f32 / 8.0;
        let all: Vec<[f32; 3]> =
            (0..9u32.pow(3)).map(|i| colours(level(i % 9), level(i / 9 % 9), level(i / 81))).collect();
        let look = Look::of_colours(9, all).unwrap();
        for colour in [[0.0; 3], [1.0; 3], [0.31, 0.77, 0.125], [0.9, 0.1, 0.5]] {
            let wanted = colours(colour[0], colour[1], colour[2]);
            let got = look.apply(colour);
            assert!((got[0] - wanted[0]).abs() < 1e-6 && (got[1] - wanted[1]).abs() < 1e-6, "{got:?} {wanted:?}");
            assert!((got[2] - wanted[2]).abs() < 0.005);
        }
    }
}
