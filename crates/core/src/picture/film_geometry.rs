//! Lengths on the film: how many micrometres one pixel covers.

/// The opening in front of the film, in millimetres, long side first.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gate {
    /// Long side.
    pub long_mm: f64,
    /// Short side.
    pub short_mm: f64,
}

impl Gate {
    /// A gate by its sides in mm.
    pub const fn new(long_mm: f64, short_mm: f64) -> Self {
        Self { long_mm, short_mm }
    }
}

/// The full frame at one render scale, lying on the film.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FilmGeometry {
    /// Micrometres on the film per pixel.
    pub pitch_um: f64,
    /// Size of the full frame in pixels at this scale.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
}

impl FilmGeometry {
    /// The picture fills the gate, whichever way it lies: the pitch is the larger of the two sides' pitches.
    pub fn filling(gate: Gate, width: u32, height: u32) -> Self {
        let (long, short) = (width.max(height) as f64, width.min(height) as f64);
        let pitch_um = 1000.0 * (gate.long_mm / long).max(gate.short_mm / short);
        Self { pitch_um, width, height }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn six_micrometres_at_24_megapixels() {
        let gate = Gate::new(36.0, 24.0);
        assert_eq!(FilmGeometry::filling(gate, 6000, 4000).pitch_um, 6.0);
        assert_eq!(FilmGeometry::filling(gate, 4000, 6000).pitch_um, 6.0);
        // a square picture in an oblong gate is limited by the long side
        assert_eq!(FilmGeometry::filling(gate, 4000, 4000).pitch_um, 9.0);
    }
}
