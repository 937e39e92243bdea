//! A frame's look as a table, and its readings as lines of numbers.

use std::fmt::Write;

use amber_core::Look;
use amber_files::{Attached, Bits, Encoding, encode};

use crate::Lab;
use crate::error::LabError;
use crate::readings::{FIRST_ZONE, ZONE_STEP};

/// The form of a look's file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LookForm {
    /// Text, by its colours of each channel.
    Cube(u32),
    /// A picture, by its level.
    Hald(u32),
}

/// A look as a file: its bytes.
pub fn look_file(look: &Look, form: LookForm, title: &str) -> Result<Vec<u8>, LabError> {
    match form {
        LookForm::Cube(_) => Ok(look.to_cube(title).into_bytes()),
        LookForm::Hald(_) => {
            let (side, pixels) = look.to_hald()?;
            let mut out = std::io::Cursor::new(Vec::new());
            let png = Encoding::Png { bits: Bits::Sixteen };
            encode::of_16_bit(&png, &mut std::iter::once(pixels), [side, side], &Attached::default(), &mut out)?;
            Ok(out.into_inner())
        }
    }
}

impl LookForm {
    /// Colours of each channel.
    pub fn size(self) -> u32 {
        match self {
            Self::Cube(size) => size,
            Self::Hald(level) => level * level,
        }
    }
}

impl Lab {
    /// What a frame's development makes of every colour, as a file.
    pub fn look_of(&self, frame: i64, form: LookForm) -> Result<Vec<u8>, LabError> {
        let frame = self.library.frame(frame)?;
        let look = Look::of(&frame.summary.development, &frame.stock, form.size(), &self.renderer)?;
        look_file(&look, form, &format!("{}, {}", frame.summary.name, frame.stock.name()))
    }

    /// A frame's readings: curves, zones, densities under its pins, tones of the print. One table after the other, each
    /// under a line that names its columns.
    pub fn readings_csv(&self, frame: i64) -> Result<String, LabError> {
        let frame = self.library.frame(frame)?;
        let readings = self.kept_readings(&frame)?;
        let (film, print) = (&readings.0, &readings.1);
        let mut out = String::from("table,layer,stops from mid grey,density,density of the stock\n");
        let numbers = |values: &[f64]| values.iter().map(|v| format!("{v:.4}")).collect::<Vec<_>>().join(",");
        let layers: &[&str] = if film.layers.len() == 1 { &["single"] } else { &["red", "green", "blue"] };
        for (name, layer) in layers.iter().zip(&film.layers) {
            for (i, (now, stock)) in layer.now.iter().zip(&layer.stock).enumerate() {
                let at = FIRST_ZONE + ZONE_STEP * i as f64 - 5.0;
                let _ = writeln!(out, "curve,{name},{}", numbers(&[at, *now, *stock]));
            }
        }
        out += "\ntable,zone,share of the frame\n";
        for (zone, share) in film.zones.iter().enumerate() {
            let _ = writeln!(out, "zone,{zone},{share:.5}");
        }
        let pins = self.library.pins(frame.summary.id)?;
        if !pins.is_empty() {
            let plane = self.plane(frame.summary.id, &frame.summary.development)?;
            out += "\ntable,pin,across,down,stops from mid grey,densities,densities of the stock\n";
            for (i, place) in pins.iter().enumerate() {
                let spot = plane.spot(*place);
                let densities = [&spot.density[..], &spot.stock_density[..]].concat();
                let _ = writeln!(
                    out,
                    "pin,{},{},{}",
                    i + 1,
                    numbers(&[place[0], place[1], spot.stops]),
                    numbers(&densities)
                );
            }
        }
        out += "\ntable,lightness from,share of the print\n";
        let steps = print.lightness.len().max(1) as f64;
        for (i, share) in print.lightness.iter().enumerate() {
            let _ = writeln!(out, "print,{:.2},{share:.5}", 100.0 * i as f64 / steps);
        }
        Ok(out)
    }
}
