//! A print of a picture's colours, and what is read on it.

use amber_core::colour::lab::Lab;
use amber_core::colour::transfer::decode_srgb;
use amber_core::stations::film::FilmResponse;
use amber_core::stations::film::placement::MID_GREY;
use amber_core::{CoreError, Development, Source, Stock};

use crate::colour::{Palette, PointPrint};
use crate::numeric::quantile;

/// L* within which a tone counts as bare paper or solid black.
const END: f64 = 0.6;

/// What is read on a print.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reading {
    /// Shares of the picture that are solid black and bare paper.
    pub black: f64,
    /// Bare paper.
    pub bare: f64,
    /// L* of the 2nd and the 98th percentile.
    pub range: [f64; 2],
    /// L* of the print's black and white.
    pub ends: [f64; 2],
}

/// A development as it prints single colours.
pub struct Printed {
    print: PointPrint,
}

impl Printed {
    pub fn new(stock: &Stock, development: &Development) -> Result<Self, CoreError> {
        Ok(Self { print: PointPrint::new(stock, development)? })
    }

    /// The film.
    pub fn film(&self) -> &FilmResponse {
        self.print.film()
    }

    /// Reads the print of a picture's colours.
    pub fn reading(&self, palette: &Palette) -> Reading {
        let greys = Source::from_linear_srgb(256, 1, |x, _| [decode_srgb(f64::from(x) / 255.0); 3]);
        let lightness = self.print.lab(&greys).into_iter().map(|lab| lab[0]);
        let ends = lightness.fold([f64::INFINITY, f64::NEG_INFINITY], |[low, high], l| [low.min(l), high.max(l)]);
        let tones: Vec<(f64, f64)> =
            self.print.lab(&palette.source()).iter().zip(&palette.colours).map(|(lab, c)| (lab[0], c.share)).collect();
        let all: f64 = tones.iter().map(|t| t.1).sum::<f64>().max(1e-9);
        let share = |is: &dyn Fn(f64) -> bool| tones.iter().filter(|t| is(t.0)).map(|t| t.1).sum::<f64>() / all;
        let at = |wanted: f64| quantile(tones.iter().copied(), wanted);
        Reading {
            black: share(&|l| l < ends[0] + END),
            bare: share(&|l| l > ends[1] - END),
            range: [at(0.02), at(0.98)],
            ends,
        }
    }

    /// The print's colour of a colour of the picture (linear sRGB).
    pub fn colour(&self, linear: [f64; 3]) -> Lab {
        self.print.lab(&Source::from_linear_srgb(1, 1, |_, _| linear)).first().copied().unwrap_or_default()
    }

    /// The print's L* of a grey that lies so many stops from mid grey on the film.
    pub fn grey(&self, stops: f64) -> f64 {
        self.print.grey(MID_GREY * stops.exp2())[0]
    }
}
