//! The size of the print, the distance from which it is seen, and what they make of grain and halation.

use amber_core::controls::{Control, Kind};
use amber_core::picture::Gate;
use amber_core::stations::film::FilmSettings;
use amber_core::stations::film::settings::{GRAIN_SIZE, GRANULARITY, HALATION_RADIUS};
use amber_core::stations::scene::metering::on_grid;

/// Minutes of arc in a radian.
const ARC_MINUTES: f64 = 3_437.746_770_784_939;

/// A print and its viewer.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PrintSize {
    /// The longer side of the print.
    pub long_edge_cm: f64,
    /// The distance from which it is seen; the print's diagonal where it is absent, from where a whole picture is taken
    /// in (common practice, no source).
    pub distance_cm: Option<f64>,
}

/// How the film is seen in the print.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    /// Print over film, in length.
    pub enlargement: f64,
    /// The distance from which it is seen.
    pub distance_cm: f64,
    /// Angle of a grain and of the inner glow of halation, in minutes of arc.
    pub grain_arc_minutes: f64,
    /// Of the inner glow of halation.
    pub halation_arc_minutes: f64,
    /// How much larger film details are to be, to be seen as in a print from its diagonal.
    pub scale: f64,
}

impl PrintSize {
    /// Of a picture with sides in some proportion (longer over shorter), from a gate.
    pub fn seen(&self, gate: Gate, proportion: f64, film: &FilmSettings) -> Seen {
        let diagonal = self.long_edge_cm * (1.0 + proportion.max(1.0).powi(-2)).sqrt();
        let distance_cm = self.distance_cm.unwrap_or(diagonal);
        let enlargement = 10.0 * self.long_edge_cm / gate.long_mm;
        let angle = |um: f64| (um * 1e-4 * enlargement / distance_cm).atan() * ARC_MINUTES;
        Seen {
            enlargement,
            distance_cm,
            grain_arc_minutes: angle(film.grain_diameter_um),
            halation_arc_minutes: angle(film.halation.radius_um),
            scale: distance_cm / diagonal,
        }
    }
}

impl Seen {
    /// Granularity, size and halation radius for which grain and glow have the angle that they have from the diagonal:
    /// the film as though it were enlarged so much more. Granularity goes with it (Selwyn's law: through an aperture of
    /// one size the spread grows as the grain does).
    pub fn scaled(&self, film: &FilmSettings) -> Vec<(&'static Control, f64)> {
        let values = [
            (&GRANULARITY, film.granularity * self.scale),
            (&GRAIN_SIZE, film.grain_diameter_um * self.scale),
            (&HALATION_RADIUS, film.halation.radius_um * self.scale),
        ];
        let bounded = |(control, value): (&'static Control, f64)| {
            let Kind::Scalar { low, high, .. } = control.kind else { return (control, value) };
            (control, on_grid(control, value.max(low).min(high)))
        };
        values.into_iter().map(bounded).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::Catalogue;

    #[test]
    fn a_print_from_its_diagonal_is_as_it_is() {
        let film = FilmSettings::own(&Catalogue::first());
        let size = PrintSize { long_edge_cm: 30.0, distance_cm: None };
        let seen = size.seen(Gate::new(36.0, 24.0), 1.5, &film);
        assert!((seen.enlargement - 8.333).abs() < 0.01 && (seen.distance_cm - 36.06).abs() < 0.01, "{seen:?}");
        // 7.6 um enlarged 8.33 times is 63 um, from 36 cm 0.6 minutes of arc
        assert!((seen.grain_arc_minutes - 0.604).abs() < 0.01, "{seen:?}");
        assert!(seen.scale == 1.0 && seen.scaled(&film)[1].1 == 7.6);
        let near = PrintSize { distance_cm: Some(18.03), ..size }.seen(Gate::new(36.0, 24.0), 1.5, &film);
        assert!((near.scale - 0.5).abs() < 1e-3 && (near.scaled(&film)[1].1 - 3.8).abs() < 1e-9);
    }
}
