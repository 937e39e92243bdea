//! Dodge and burn: local adjustments, each through a mask.
//!
//! Any number of them. Air, zone placement and local contrast join the global ones before anything is multiplied, so
//! that they rest on the same bases; light and warmth follow, colour comes last. Softness is handed to the lens.
#![allow(missing_docs, reason = "a control says itself in its help, and the settings are its values")]

use super::colour::{ColourSettings, SceneColour};
use super::columns;
use super::structure::{Structure, StructureSettings, ZONES};
use super::white_balance::{OWN_KELVIN, balance};
use crate::controls::{Control, List, MOST, Own, Unit, Values, range};
use crate::mask::{MaskUse, PreparedUse};
use crate::numeric::matrix::dot;
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region, Source};
use crate::stations::Station;

const fn member(id: &'static str, label: &'static str) -> Control {
    Control {
        picture_specific: true,
        two_sided: true,
        kind: range(-1.0, 1.0, 0.01, 2),
        ..Control::scalar(id, Station::Scene, &columns::DODGE_AND_BURN, label)
    }
}

pub const WHERE: Control = Control {
    help: "The mask through which it acts; without one it does nothing.",
    ..Control::mask("scene.local.mask", Station::Scene, &columns::DODGE_AND_BURN, "In")
};
pub const EXPOSURE: Control = Control {
    unit: Unit::Stops,
    kind: range(-4.0, 4.0, 0.05, 2),
    help: "Dodges (plus) or burns (minus), in stops of light before the film.",
    ..member("scene.local.exposure", "Exposure")
};
pub const WARMTH: Control = Control {
    unit: Unit::Mired,
    kind: range(-100.0, 100.0, 1.0, 0),
    help: "Warmer (plus) or cooler (minus) light, as a filter of that shift.",
    ..member("scene.local.temperature", "Temperature")
};
pub const SATURATION: Control = Control {
    unit: Unit::Percent,
    kind: range(-100.0, 100.0, 1.0, 0),
    help: "Saturation of its colours; hue and lightness stay.",
    ..member("scene.local.saturation", "Saturation")
};
pub const ZONE: Control = Control {
    kind: range(0.0, 10.0, 1.0, 0),
    own: Own::Neutral(5.0),
    two_sided: false,
    help: "The zone that is placed anew, as it was metered.",
    ..member("scene.local.zone", "Zone")
};
pub const PLACED: Control = Control {
    unit: Unit::Stops,
    kind: range(-3.0, 3.0, 0.05, 2),
    help: "Where that zone is placed, in stops from where it was; its neighbours follow half the way.",
    ..member("scene.local.placed", "Placed")
};
pub const CONTRAST: Control = Control {
    help: "Contrast of larger shapes against their surroundings.",
    ..member("scene.local.contrast", "Local contrast")
};
pub const AIR: Control = Control {
    help: "To the left haze is cut, to the right the frame's own light is laid over it.",
    ..member("scene.local.air", "Air")
};
pub const SOFTNESS: Control = Control {
    unit: Unit::Micrometres,
    kind: range(0.0, 400.0, 2.0, 0),
    two_sided: false,
    help: "Softness on the film, beside that of the lens.",
    ..member("scene.local.softness", "Softness")
};

/// The members of every local adjustment.
pub const LOCALS: List = List {
    path: "scene.local",
    label: "Local",
    most: MOST,
    members: &[WHERE, EXPOSURE, WARMTH, SATURATION, ZONE, PLACED, CONTRAST, AIR, SOFTNESS],
};

/// One local adjustment.
#[derive(Debug, Clone, PartialEq)]
pub struct LocalSettings {
    pub place: MaskUse,
    pub exposure_stops: f64,
    pub warmth_mired: f64,
    /// -1..1.
    pub saturation: f64,
    pub placed_stops: [f64; ZONES],
    /// -1..1.
    pub local_contrast: f64,
    /// -1 clear to 1 veiled.
    pub air: f64,
    /// Standard deviation on the film.
    pub softness_um: f64,
}

impl LocalSettings {
    /// All adjustments that have a mask.
    pub fn read(values: &Values) -> Vec<Self> {
        values.keys(&LOCALS).into_iter().filter_map(|key| Self::one(values, key)).collect()
    }

    fn one(values: &Values, key: u32) -> Option<Self> {
        let number = |member: &'static Control| values.number(LOCALS.member(key, member));
        let zone = number(&ZONE).round() as usize;
        let placed = number(&PLACED);
        Some(Self {
            place: values.mask(LOCALS.member(key, &WHERE))?,
            exposure_stops: number(&EXPOSURE),
            warmth_mired: number(&WARMTH),
            saturation: number(&SATURATION) / 100.0,
            placed_stops: std::array::from_fn(|z| placed * [1.0, 0.5].get(z.abs_diff(zone)).unwrap_or(&0.0)),
            local_contrast: number(&CONTRAST),
            air: number(&AIR),
            softness_um: number(&SOFTNESS),
        })
    }

    /// Only its air.
    pub fn of_the_air(&self) -> Option<Self> {
        (self.air != 0.0).then(|| Self {
            exposure_stops: 0.0,
            warmth_mired: 0.0,
            saturation: 0.0,
            placed_stops: [0.0; ZONES],
            local_contrast: 0.0,
            softness_um: 0.0,
            ..self.clone()
        })
    }

    pub fn structure(&self) -> StructureSettings {
        StructureSettings { placed_stops: self.placed_stops, local_contrast: self.local_contrast, detail: 0.0 }
    }
}

/// One local adjustment, prepared.
#[derive(Debug, Clone)]
struct Local {
    place: PreparedUse,
    air: f32,
    structure: Option<Structure>,
    /// From light to light.
    lit: Option<[[f32; 3]; 3]>,
    colour: Option<SceneColour>,
    softness_um: f64,
}

/// All local adjustments, prepared.
#[derive(Debug, Clone, Default)]
pub struct Locals {
    list: Vec<Local>,
}

/// Where the adjustments apply in one region; those that do not apply there are left out.
pub(super) struct Applied<'a> {
    list: Vec<(&'a Local, Vec<f32>)>,
}

impl Locals {
    /// `prepare` makes a mask ready for the picture.
    pub fn new(settings: &[LocalSettings], exposure_stops: f64, prepare: &dyn Fn(&MaskUse) -> PreparedUse) -> Self {
        let lit = |s: &LocalSettings| {
            let kelvin = 1e6 / (1e6 / OWN_KELVIN - s.warmth_mired);
            let both = balance(kelvin, 0.0).scaled(2f64.powf(s.exposure_stops));
            (s.exposure_stops != 0.0 || s.warmth_mired != 0.0).then(|| both.to_f32())
        };
        let list = settings
            .iter()
            .map(|s| Local {
                place: prepare(&s.place),
                air: s.air as f32,
                structure: Structure::new(&s.structure(), exposure_stops),
                lit: lit(s),
                colour: SceneColour::new(&ColourSettings { saturation: s.saturation, ..Default::default() }),
                softness_um: s.softness_um,
            })
            .collect();
        Self { list }
    }

    /// The masks over a region.
    pub(super) fn over(&self, frame: &Source, region: Region) -> Applied<'_> {
        let acts = |l: &&Local| l.air != 0.0 || l.structure.is_some() || l.lit.is_some() || l.colour.is_some();
        let list = self.list.iter().filter(acts).map(|local| (local, local.place.over(frame, region)));
        Applied { list: list.filter(|(_, mask)| mask.iter().any(|v| *v > 0.0)).collect() }
    }

    /// Softness in um with its mask, where there is any.
    pub fn softness(&self) -> Vec<(f64, PreparedUse)> {
        let soft = self.list.iter().filter(|l| l.softness_um > 0.0);
        soft.map(|l| (l.softness_um, l.place.clone())).collect()
    }
}

impl Applied<'_> {
    /// The air of every pixel beside the global one; `None` where nothing is local.
    pub fn air(&self, global: f64) -> Option<Vec<f32>> {
        let mut local = self.list.iter().filter(|(l, _)| l.air != 0.0).peekable();
        local.peek()?;
        let mut out = vec![global as f32; self.list.first()?.1.len()];
        for (l, mask) in local {
            out.iter_mut().zip(mask).for_each(|(o, m)| *o += m * l.air);
        }
        out.iter_mut().for_each(|v| *v = v.clamp(-1.0, 1.0));
        Some(out)
    }

    /// What looks at surroundings, with its mask.
    pub fn structures(&self) -> impl Iterator<Item = (&Structure, &[f32])> {
        self.list.iter().filter_map(|(l, mask)| Some((l.structure.as_ref()?, mask.as_slice())))
    }

    pub fn light(&self, light: &mut Picture<SceneLight>) {
        for (local, mask) in &self.list {
            let (Some(matrix), Some([red, green, blue])) = (&local.lit, light.three_mut()) else { continue };
            for (((r, g), b), m) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()).zip(mask) {
                let (x, y, z) = (*r, *g, *b);
                *r += m * (dot(&matrix[0], x, y, z) - x);
                *g += m * (dot(&matrix[1], x, y, z) - y);
                *b += m * (dot(&matrix[2], x, y, z) - z);
            }
        }
    }

    pub fn colour(&self, light: &mut Picture<SceneLight>) {
        for (local, mask) in &self.list {
            let Some(colour) = &local.colour else { continue };
            let mut all = light.clone();
            colour.apply(&mut all);
            light.mix(&all, mask);
        }
    }
}
