//! The controls of Print.

use crate::controls::{Control, Kind, Own, Scale, Unit, Values};
use crate::stations::Station;
use crate::stock::{Stock, StockKind};

const CC: Kind = Kind::Scalar { low: -60.0, high: 60.0, step: 1.0, decimals: 0, scale: Scale::Linear };

fn is_printed(stock: &Stock) -> bool {
    !stock.kind.is_reversal()
}

fn is_colour_print(stock: &Stock) -> bool {
    stock.kind == StockKind::ColourNegative
}

fn is_silver_print(stock: &Stock) -> bool {
    stock.kind == StockKind::BlackAndWhiteNegative
}

const fn filter(id: &'static str, label: &'static str) -> Control {
    Control {
        unit: Unit::Cc,
        kind: CC,
        two_sided: true,
        applies: is_colour_print,
        ..Control::scalar(id, Station::Print, "Filtration", label)
    }
}

pub const EXPOSURE: Control = Control {
    unit: Unit::Stops,
    kind: Kind::Scalar { low: -2.0, high: 2.0, step: 0.05, decimals: 2, scale: Scale::Linear },
    two_sided: true,
    applies: is_printed,
    help: "Light on the paper, in stops. More exposure gives a darker print.",
    ..Control::scalar("print.exposure", Station::Print, "Paper", "Print exposure")
};
pub const GRADE: Control = Control {
    unit: Unit::Grade,
    kind: Kind::Scalar { low: 0.0, high: 5.0, step: 0.25, decimals: 2, scale: Scale::Linear },
    own: Own::Stock(|stock| stock.grade.unwrap_or(2.0)),
    applies: is_silver_print,
    help: "The paper's contrast: 0 is soft, 5 is hard.",
    ..Control::scalar("print.grade", Station::Print, "Paper", "Grade")
};
pub const CYAN: Control = Control {
    own: Own::Stock(|stock| stock.cc[0]),
    help: "Cyan filter in the enlarger. From a negative, more of it gives a redder print.",
    ..filter("print.filter.cyan", "Cyan")
};
pub const MAGENTA: Control = Control {
    own: Own::Stock(|stock| stock.cc[1]),
    help: "Magenta filter in the enlarger. From a negative, more of it gives a greener print.",
    ..filter("print.filter.magenta", "Magenta")
};
pub const YELLOW: Control = Control {
    own: Own::Stock(|stock| stock.cc[2]),
    help: "Yellow filter in the enlarger. From a negative, more of it gives a bluer print.",
    ..filter("print.filter.yellow", "Yellow")
};

/// All controls of the station, in the order of the bench.
pub const CONTROLS: [Control; 5] = [EXPOSURE, GRADE, CYAN, MAGENTA, YELLOW];

/// The values of the station.
#[derive(Debug, Clone, PartialEq)]
pub struct PrintSettings {
    pub exposure_stops: f64,
    pub grade: f64,
    pub filtration_cc: [f64; 3],
}

impl PrintSettings {
    pub fn read(values: &Values) -> Self {
        Self {
            exposure_stops: values.number(&EXPOSURE),
            grade: values.number(&GRADE),
            filtration_cc: [values.number(&CYAN), values.number(&MAGENTA), values.number(&YELLOW)],
        }
    }

    /// The stock's own values.
    pub fn own(stock: &Stock) -> Self {
        Self::read(&Values::own(stock))
    }
}
