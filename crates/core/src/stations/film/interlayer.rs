//! Interlayer effects: a layer that develops restrains its neighbours (development inhibition).
//!
//! x'_i = x_i - sum_j [ a_ij (f(x_j) - f(x_i)) + b_ij w(m_ij) phi(x_j - x_i) ], where f is the developed density of the
//! green layer above fog, phi(z) = z/(1 + |z|/0.35), m_ij the mean of the two exposures and w a step above middle
//! grey. Neutrals, x_R = x_G = x_B, are kept exactly. The form is a model choice.

use multiversion::multiversion;

use crate::numeric::Sampled;
use crate::stock::Stock;

const KNEE: f32 = 0.35;
/// Where the effect in the lights sets in and is full, in log10 exposure above mid grey.
const ONSET: (f64, f64) = (-0.10, 0.60);

/// The interlayer effect of a stock, prepared for pixel loops.
#[derive(Debug, Clone)]
pub struct Interlayer {
    driver: Sampled,
    ordinary: [[f32; 3]; 3],
    high: [[f32; 3]; 3],
    onset_from: f32,
    per_onset_span: f32,
}

impl Interlayer {
    /// `driver` is f; `grey` the log10 exposure of mid grey with the stock's offset and the push in it.
    pub fn new(stock: &Stock, driver: Sampled, grey: f64) -> Option<Self> {
        let zero = [[0.0; 3]; 3];
        let (a, b) = (stock.inhibition.unwrap_or(zero), stock.inhibition_high.unwrap_or(zero));
        (a != zero || b != zero).then(|| Self {
            driver,
            ordinary: a.map(|r| r.map(|v| v as f32)),
            high: b.map(|r| r.map(|v| v as f32)),
            onset_from: (grey + ONSET.0) as f32,
            per_onset_span: (1.0 / (ONSET.1 - ONSET.0)) as f32,
        })
    }

    /// Log10 exposures of R, G, B after the layers have restrained one another, in place; `scratch` has rows at least
    /// as long.
    pub fn apply<const N: usize>(&self, x: [&mut [f32]; 3], scratch: &mut [[f32; N]; 3]) {
        let count = x[0].len();
        for (f, row) in scratch.iter_mut().zip(&x) {
            f[..count].copy_from_slice(row);
            self.driver.map(&mut f[..count]);
        }
        let [r, g, b] = scratch.each_ref().map(|f| &f[..count]);
        restrain(self, x, [r, g, b]);
    }

    /// One pixel: log exposures `x` and developed densities `f` above fog.
    #[inline(always)]
    fn restrained(&self, x: [f32; 3], f: [f32; 3]) -> [f32; 3] {
        // each pair once: (R,G), (R,B), (G,B); both parts change sign with the order of the pair
        let pair = |i: usize, j: usize| {
            let gap = x[j] - x[i];
            let t = (((x[i] + x[j]) * 0.5 - self.onset_from) * self.per_onset_span).max(0.0).min(1.0);
            let onset = t * t * (3.0 - 2.0 * t);
            (f[j] - f[i], onset * gap / (1.0 + gap.abs() * (1.0 / KNEE)))
        };
        let (rg, rb, gb) = (pair(0, 1), pair(0, 2), pair(1, 2));
        let (a, b) = (&self.ordinary, &self.high);
        [
            x[0] - ((a[0][1] * rg.0 + b[0][1] * rg.1) + (a[0][2] * rb.0 + b[0][2] * rb.1)),
            x[1] - ((a[1][2] * gb.0 + b[1][2] * gb.1) - (a[1][0] * rg.0 + b[1][0] * rg.1)),
            x[2] + ((a[2][0] * rb.0 + b[2][0] * rb.1) + (a[2][1] * gb.0 + b[2][1] * gb.1)),
        ]
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn restrain(effect: &Interlayer, x: [&mut [f32]; 3], f: [&[f32]; 3]) {
    let [red, green, blue] = x;
    let developed = f[0].iter().zip(f[1]).zip(f[2]);
    for (((r, g), b), ((fr, fg), fb)) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()).zip(developed) {
        let [x, y, z] = effect.restrained([*r, *g, *b], [*fr, *fg, *fb]);
        *r = x;
        *g = y;
        *b = z;
    }
}
