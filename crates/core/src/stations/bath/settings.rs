//! The controls of Bath.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::columns;
use crate::controls::{Choices, Column, Control, Kind, Own, Rest, Scale, Unit, Values, choices};
use crate::stations::Station;
use crate::stations::film::settings::seed;
use crate::stock::Stock;

const fn control(id: &'static str, column: &'static Column, label: &'static str) -> Control {
    Control::scalar(id, Station::Bath, column, label)
}

const UNIT_RANGE: Kind = Kind::Scalar { low: 0.0, high: 1.0, step: 0.01, decimals: 2, scale: Scale::Linear };

choices! {
    /// Whose chemistry the film goes through.
    pub enum Chemistry {
        Matched = "matched", "Matched";
        Crossed = "crossed", "Crossed";
    }
}

pub const CHEMISTRY: Control = Control {
    kind: Kind::Choice(Chemistry::CHOICES),
    own: Own::StockChoice(|_| "matched"),
    applies: |stock| stock.kind.can_be_crossed(),
    help: "Crossed develops slide film as a negative, or negative film as a slide.",
    ..control("bath.chemistry", &columns::CHEMISTRY, "Chemistry")
};
pub const SKIP_BLEACH: Control = Control {
    kind: UNIT_RANGE,
    own: Own::Stock(|stock| stock.skip_bleach),
    rest: Rest::Number(0.0),
    applies: |stock| stock.kind.has_dyes(),
    help: "Silver left in the colour picture: more contrast, less colour, heavier darks.",
    ..control("bath.skip_bleach", &columns::CHEMISTRY, "Skipped bleach")
};
pub const TIME: Control = Control {
    unit: Unit::Percent,
    kind: Kind::Scalar { low: 50.0, high: 200.0, step: 1.0, decimals: 0, scale: Scale::Linear },
    own: Own::Neutral(100.0),
    help: "Development time, of the time that the rating asks for. Longer is harder and denser.",
    ..control("bath.time", &columns::DEVELOPMENT, "Time")
};
pub const FOG: Control = Control {
    unit: Unit::Density,
    kind: Kind::Scalar { low: 0.0, high: 0.8, step: 0.01, decimals: 2, scale: Scale::Linear },
    help: "Density that development adds where no light fell.",
    ..control("bath.fog", &columns::DEVELOPMENT, "Fog")
};
pub const UNEVEN: Control = Control {
    kind: UNIT_RANGE,
    help: "How unevenly the bath worked over the frame.",
    ..control("bath.uneven.amount", &columns::EVENNESS, "Uneven")
};
pub const STREAKS: Control = Control {
    kind: UNIT_RANGE,
    help: "Streaks along the short side, as from too little stirring.",
    ..control("bath.uneven.streaks", &columns::EVENNESS, "Streaks")
};
pub const EDGES: Control = Control {
    kind: Kind::Scalar { low: -1.0, high: 1.0, step: 0.01, decimals: 2, scale: Scale::Linear },
    two_sided: true,
    help: "Edges of the frame that developed more (plus) or less (minus).",
    ..control("bath.uneven.edges", &columns::EVENNESS, "Edges")
};
pub const SEED: Control = seed("bath.uneven.seed", Station::Bath, &columns::EVENNESS, "Accident");

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; 8] = [CHEMISTRY, SKIP_BLEACH, TIME, FOG, UNEVEN, STREAKS, EDGES, SEED];

/// The values of the station.
#[derive(Debug, Clone, PartialEq)]
pub struct BathSettings {
    pub crossed: bool,
    pub skip_bleach: f64,
    /// Development time relative to the nominal one.
    pub time: f64,
    pub fog_density: f64,
    pub uneven: UnevenSettings,
}

/// How the bath worked over the frame.
#[derive(Debug, Clone, PartialEq)]
pub struct UnevenSettings {
    pub amount: f64,
    pub streaks: f64,
    pub edges: f64,
    pub seed: u32,
}

impl BathSettings {
    pub fn read(values: &Values) -> Self {
        let stock = values.stock();
        let can_cross = stock.kind.can_be_crossed();
        Self {
            crossed: can_cross && values.chosen::<Chemistry>(&CHEMISTRY) == Chemistry::Crossed,
            skip_bleach: if stock.kind.has_dyes() { values.number(&SKIP_BLEACH) } else { 0.0 },
            time: values.number(&TIME) / 100.0,
            fog_density: values.number(&FOG),
            uneven: UnevenSettings {
                amount: values.number(&UNEVEN),
                streaks: values.number(&STREAKS),
                edges: values.number(&EDGES),
                seed: values.count(&SEED),
            },
        }
    }

    /// The stock's own values.
    pub fn own(stock: &Stock) -> Self {
        Self::read(&Values::own(stock))
    }
}
