//! The controls of Film.

use crate::controls::{Choice, Control, Kind, Own, Scale, Unit, Values};
use crate::picture::Gate;
use crate::stations::Station;
use crate::stock::Stock;

/// The film sizes of the trade with their gates in mm; the stock's own gate is found among them by its long side.
pub const SIZES: [(Choice, Gate); 7] = [
    (Choice { id: "half", label: "½" }, Gate::new(24.0, 18.0)),
    (Choice { id: "35", label: "35" }, Gate::new(36.0, 24.0)),
    (Choice { id: "645", label: "645" }, Gate::new(56.0, 41.5)),
    (Choice { id: "66", label: "66" }, Gate::new(56.0, 56.0)),
    (Choice { id: "67", label: "67" }, Gate::new(69.5, 56.0)),
    (Choice { id: "4x5", label: "4×5" }, Gate::new(120.0, 96.0)),
    (Choice { id: "8x10", label: "8×10" }, Gate::new(245.0, 194.0)),
];

const SIZE_CHOICES: [Choice; 7] = [SIZES[0].0, SIZES[1].0, SIZES[2].0, SIZES[3].0, SIZES[4].0, SIZES[5].0, SIZES[6].0];

/// The size on the list that is the stock's own.
fn own_size(stock: &Stock) -> &'static str {
    let gate = stock.gate();
    let distance = |g: &Gate| (g.long_mm - gate.long_mm).abs() + (g.short_mm - gate.short_mm).abs();
    SIZES.iter().min_by(|a, b| distance(&a.1).total_cmp(&distance(&b.1))).map_or("35", |s| s.0.id)
}

pub const SIZE: Control = Control {
    kind: Kind::Choice(&SIZE_CHOICES),
    own: Own::StockChoice(own_size),
    help: "The film in the camera. Grain and halation keep their size on the film, so a larger film shows less.",
    ..Control::scalar("film.size", Station::Film, "Rating", "Film size")
};
pub const PUSH: Control = Control {
    unit: Unit::Stops,
    kind: Kind::Scalar { low: -2.0, high: 2.0, step: 0.25, decimals: 2, scale: Scale::Linear },
    two_sided: true,
    help: "Rate the film this many stops faster and develop it longer: more contrast, fog and grain.",
    ..Control::scalar("film.push", Station::Film, "Rating", "Push, pull")
};
pub const GRANULARITY: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 50.0, step: 0.5, decimals: 1, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.grain.granularity),
    ratio: true,
    help: "RMS granularity: 1000 times the spread of density through a 48 µm spot. 0 is no grain.",
    ..Control::scalar("film.grain.granularity", Station::Film, "Grain", "Granularity")
};
pub const GRAIN_SIZE: Control = Control {
    unit: Unit::Micrometres,
    kind: Kind::Scalar { low: 1.0, high: 25.0, step: 0.1, decimals: 1, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.grain.diameter_um),
    ratio: true,
    help: "Mean diameter of a grain or dye cloud on the film.",
    ..Control::scalar("film.grain.size", Station::Film, "Grain", "Size")
};
pub const ROUGHNESS: Control = Control {
    kind: Kind::Scalar { low: 0.0, high: 1.0, step: 0.01, decimals: 2, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.grain.roughness),
    help: "From even grain to grain of mixed sizes in clusters.",
    ..Control::scalar("film.grain.roughness", Station::Film, "Grain", "Roughness")
};

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; 5] = [SIZE, PUSH, GRANULARITY, GRAIN_SIZE, ROUGHNESS];

/// The values of the station.
#[derive(Debug, Clone, PartialEq)]
pub struct FilmSettings {
    pub gate: Gate,
    pub push_stops: f64,
    pub granularity: f64,
    pub grain_diameter_um: f64,
    pub roughness: f64,
}

impl FilmSettings {
    pub fn read(values: &Values) -> Self {
        let gate = match values.tuned(&SIZE) {
            Some(value) => SIZES.iter().find(|s| value.choice() == Some(s.0.id)).map(|s| s.1),
            None => None,
        };
        Self {
            gate: gate.unwrap_or_else(|| values.stock().gate()),
            push_stops: values.number(&PUSH),
            granularity: values.number(&GRANULARITY),
            grain_diameter_um: values.number(&GRAIN_SIZE),
            roughness: values.number(&ROUGHNESS),
        }
    }

    /// The stock's own values.
    pub fn own(stock: &Stock) -> Self {
        Self::read(&Values::own(stock))
    }
}
