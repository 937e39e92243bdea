//! What can be set of a mask, its parts and its brush, as the interface shows it. Numbers are per cent of what the
//! document holds, but for angles and zones.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::{Column, Control, Kind, Own, Station, Unit, range};

/// Masks have a bench of their own.
const MASKS: Column = Column::new("mask.settings", "Masks", "Cards and resists cut to a shape.");

const fn number(id: &'static str, label: &'static str, low: f64, high: f64, step: f64, decimals: usize) -> Control {
    Control { kind: range(low, high, step, decimals), ..Control::scalar(id, Station::Scene, &MASKS, label) }
}

const fn percent(id: &'static str, label: &'static str, high: f64, own: f64) -> Control {
    Control::percent(id, Station::Scene, &MASKS, label, own, high)
}

pub const FEATHER: Control = Control {
    unit: Unit::Percent,
    help: "Blurs the whole mask, by a share of the picture's diagonal.",
    ..number("mask.feather", "Feather", 0.0, 10.0, 0.1, 1)
};
pub const BRUSH_SIZE: Control = Control {
    unit: Unit::Percent,
    own: Own::Neutral(8.0),
    help: "Diameter of the brush, as a share of the picture's diagonal. Keys [ and ].",
    ..number("mask.brush.size", "Size", 0.2, 50.0, 0.2, 1)
};
pub const BRUSH_SOFTNESS: Control = Control {
    help: "How far the brush's border fades towards its middle.",
    ..percent("mask.brush.softness", "Softness", 100.0, 70.0)
};
pub const BRUSH_STRENGTH: Control = Control {
    help: "What one stroke adds or takes; strokes build up.",
    ..percent("mask.brush.strength", "Strength", 100.0, 100.0)
};
pub const ERASE: Control = Control {
    kind: Kind::Switch,
    own: Own::Switch(false),
    help: "Strokes take away. Alt while painting does the other.",
    ..Control::scalar("mask.brush.erase", Station::Scene, &MASKS, "Erase")
};
pub const OVAL_FEATHER: Control = Control {
    help: "How far the ellipse's border fades inwards.",
    ..percent("mask.ellipse.feather", "Feather", 100.0, 50.0)
};
pub const TURN: Control = Control {
    unit: Unit::Angle,
    two_sided: true,
    help: "Turns the ellipse with the clock.",
    ..number("mask.ellipse.turn", "Turn", -180.0, 180.0, 1.0, 0)
};
/// Across and down, of an ellipse that is not turned.
pub const DIAMETERS: [Control; 2] = [
    Control {
        unit: Unit::Percent,
        help: "Its width as a share of the picture's diagonal.",
        ..number("mask.ellipse.width", "Width", 0.2, 200.0, 0.2, 1)
    },
    Control {
        unit: Unit::Percent,
        help: "Its height as a share of the picture's diagonal.",
        ..number("mask.ellipse.height", "Height", 0.2, 200.0, 0.2, 1)
    },
];
pub const FALL_ANGLE: Control = Control {
    unit: Unit::Angle,
    two_sided: true,
    help: "Towards where it falls, with the clock from the right.",
    ..number("mask.linear.angle", "Direction", -180.0, 180.0, 1.0, 0)
};
pub const FALL_LENGTH: Control = Control {
    unit: Unit::Percent,
    help: "How long the fall is, as a share of the picture's diagonal.",
    ..number("mask.linear.length", "Length", 1.0, 200.0, 0.5, 1)
};
pub const HUE: [Control; 4] = [
    Control {
        unit: Unit::Degrees,
        help: "Where the range of hues begins.",
        ..number("mask.hue.low", "From", -180.0, 360.0, 1.0, 0)
    },
    Control {
        unit: Unit::Degrees,
        help: "Where the range of hues ends.",
        ..number("mask.hue.high", "To", -180.0, 540.0, 1.0, 0)
    },
    Control {
        unit: Unit::Degrees,
        help: "How far it fades before it begins.",
        ..number("mask.hue.below", "Feather before", 0.0, 90.0, 1.0, 0)
    },
    Control {
        unit: Unit::Degrees,
        help: "How far it fades after its end.",
        ..number("mask.hue.above", "Feather after", 0.0, 90.0, 1.0, 0)
    },
];
pub const TONE: [Control; 4] = [
    Control {
        help: "Darkest zone of the range, as metered.",
        ..number("mask.tone.low", "From zone", -3.0, 13.0, 0.1, 1)
    },
    Control {
        help: "Lightest zone of the range, as metered.",
        ..number("mask.tone.high", "To zone", -3.0, 13.0, 0.1, 1)
    },
    Control {
        help: "How far it fades below, in zones.",
        ..number("mask.tone.below", "Feather below", 0.0, 6.0, 0.1, 1)
    },
    Control {
        help: "How far it fades above, in zones.",
        ..number("mask.tone.above", "Feather above", 0.0, 6.0, 0.1, 1)
    },
];
pub const EDGE_SIZE: Control = Control {
    unit: Unit::Percent,
    own: Own::Neutral(2.0),
    help: "Width of the strokes from which the region grows.",
    ..number("mask.edge.size", "Stroke", 0.2, 20.0, 0.2, 1)
};
pub const REACH: Control = Control {
    help: "How much colours may differ from those under the strokes.",
    ..percent("mask.edge.reach", "Reach", 100.0, 25.0)
};

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    #[test]
    fn every_setting_is_complete() {
        let all = [FEATHER, BRUSH_SIZE, BRUSH_SOFTNESS, BRUSH_STRENGTH, ERASE, OVAL_FEATHER, TURN, EDGE_SIZE, REACH];
        let mut seen = std::collections::BTreeSet::new();
        for control in all.iter().chain(&HUE).chain(&TONE).chain(&DIAMETERS).chain([&FALL_ANGLE, &FALL_LENGTH]) {
            let valid = control.own_value(&Catalogue::first());
            assert!(control.id.starts_with("mask.") && seen.insert(control.id) && control.help.ends_with('.'));
            let Kind::Scalar { low, .. } = control.kind else { continue };
            assert!(control.check(&valid).is_ok() || low > 0.0, "{}", control.id);
        }
    }
}
