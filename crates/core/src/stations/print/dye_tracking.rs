//! How much dye of each kind makes a neutral of a given density.
//!
//! Curves give equivalent neutral densities, not dye amounts: real dyes do not track by scaling. For each density the
//! three amounts are found by Newton's method such that all three receivers (the eye's channels, or the layers of the
//! print material) read exactly that density.

use super::viewing::Row;
use crate::numeric::Matrix3;

const STEP: f64 = 0.1;
const HIGHEST: f64 = 4.4;
const LARGEST_NEWTON_STEP: f64 = 0.5;

/// Dye amounts for neutral densities 0..4.4 in steps of 0.1, read linearly.
#[derive(Debug, Clone)]
pub struct DyeTracking {
    amounts: Vec<[f32; 3]>,
}

impl DyeTracking {
    /// `receive` gives the three densities that amounts of cyan, magenta, yellow produce.
    pub fn solve(receive: impl Fn([f64; 3]) -> [f64; 3]) -> Self {
        let count = (HIGHEST / STEP).round() as usize + 1;
        let mut amounts: Vec<[f64; 3]> = vec![[0.0; 3]];
        for level in 1..count {
            let target = STEP * level as f64;
            let last = amounts[level - 1];
            let mut c =
                if level == 1 { [target; 3] } else { std::array::from_fn(|i| 2.0 * last[i] - amounts[level - 2][i]) };
            for _ in 0..60 {
                let now = receive(c);
                let miss = now.map(|d| target - d);
                if miss.iter().all(|m| m.abs() < 1e-12) {
                    break;
                }
                let step = jacobian(&receive, c, now).inverse().map_or([0.0; 3], |inverse| inverse.apply(miss));
                for (value, s) in c.iter_mut().zip(step) {
                    *value += s.clamp(-LARGEST_NEWTON_STEP, LARGEST_NEWTON_STEP);
                }
            }
            amounts.push(c);
        }
        Self { amounts: amounts.into_iter().map(|c| c.map(|v| v as f32)).collect() }
    }

    /// Amounts of cyan, magenta, yellow for the densities of the three layers.
    #[inline(always)]
    pub fn amounts(&self, densities: [f32; 3]) -> [f32; 3] {
        let mut out = [0.0; 3];
        for (i, d) in densities.into_iter().enumerate() {
            let u = (d * (1.0 / STEP) as f32).clamp(0.0, (self.amounts.len() - 1) as f32);
            let k = (u as usize).min(self.amounts.len() - 2);
            let (a, b) = (self.amounts[k][i], self.amounts[k + 1][i]);
            out[i] = a + (b - a) * (u - k as f32);
        }
        out
    }

    /// [`DyeTracking::amounts`] of a row.
    pub fn amounts_row(&self, [cyan, magenta, yellow]: &mut [Row; 3]) {
        for ((c, m), y) in cyan.iter_mut().zip(magenta).zip(yellow) {
            [*c, *m, *y] = self.amounts([*c, *m, *y]);
        }
    }
}

fn jacobian(receive: &impl Fn([f64; 3]) -> [f64; 3], c: [f64; 3], now: [f64; 3]) -> Matrix3 {
    const NUDGE: f64 = 1e-5;
    let mut m = [[0.0; 3]; 3];
    for j in 0..3 {
        let mut moved = c;
        moved[j] += NUDGE;
        for (i, d) in receive(moved).into_iter().enumerate() {
            m[i][j] = (d - now[i]) / NUDGE;
        }
    }
    Matrix3(m)
}
