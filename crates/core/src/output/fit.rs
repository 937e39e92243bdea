//! Fitting the print into the display's gamut before colours are given to it.

use multiversion::multiversion;

use crate::colour::gamut::Compressor;
use crate::colour::space::{SRGB_TO_WIDE, WIDE_TO_SRGB};
use crate::numeric::matrix::dot;
use crate::numeric::runs::{Lane, each, each_pixel, in_runs};
use crate::picture::Picture;
use crate::picture::buffer::Reflectance;

/// A 3 x 3 matrix by rows.
pub(crate) type Turn = [[f32; 3]; 3];

#[inline(always)]
pub(crate) fn turn(m: &Turn, v: [f32; 3]) -> [f32; 3] {
    [dot(&m[0], v[0], v[1], v[2]), dot(&m[1], v[0], v[1], v[2]), dot(&m[2], v[0], v[1], v[2])]
}

/// Colours of the working space fitted into the display's gamut.
#[derive(Debug, Clone)]
pub struct Fit {
    gamut: Compressor,
    pub(crate) to_srgb: Turn,
    pub(crate) to_wide: Turn,
}

impl Default for Fit {
    fn default() -> Self {
        let (to_srgb, to_wide) = (WIDE_TO_SRGB.to_f32(), SRGB_TO_WIDE.to_f32());
        Self { gamut: Compressor::default(), to_srgb, to_wide }
    }
}

impl Fit {
    /// Linear sRGB, each channel between 0 and 1.
    #[inline(always)]
    pub(crate) fn srgb(&self, [r, g, b]: [f32; 3]) -> [f32; 3] {
        self.gamut.apply(r, g, b).map(|v| v.max(0.0).min(1.0))
    }

    /// Linear sRGB of a run of the print, each channel between 0 and 1.
    #[inline(always)]
    pub(crate) fn srgb_run(&self, run: &mut [Lane; 3]) {
        each_pixel(run, |rgb| turn(&self.to_srgb, rgb));
        self.gamut.apply_run(run);
        run.iter_mut().for_each(|lane| each(lane, |v| v.max(0.0).min(1.0)));
    }

    /// Fits a tile of the print.
    pub fn over(&self, print: &mut Picture<Reflectance>) {
        if let Some(planes) = print.three_mut() {
            fit(planes, self);
        }
    }
}

#[multiversion(targets("x86_64+avx2"))]
fn fit(planes: [&mut [f32]; 3], fit: &Fit) {
    in_runs(planes, |_, run| {
        fit.srgb_run(run);
        each_pixel(run, |rgb| turn(&fit.to_wide, rgb));
    });
}
