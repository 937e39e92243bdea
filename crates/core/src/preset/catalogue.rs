//! The presets that ship with the application.

use std::sync::LazyLock;

use super::Preset;
use crate::error::CoreError;

/// One JSON file per preset, in the order of the board.
const FILES: [&str; 33] = [
    include_str!("../../presets/holiday-box.json"),
    include_str!("../../presets/holiday-box-leaking.json"),
    include_str!("../../presets/party-flash.json"),
    include_str!("../../presets/white-frame.json"),
    include_str!("../../presets/quiet-negative.json"),
    include_str!("../../presets/garden-noon.json"),
    include_str!("../../presets/soft-morning.json"),
    include_str!("../../presets/street-lamps.json"),
    include_str!("../../presets/silver-left-in.json"),
    include_str!("../../presets/two-in-the-dark.json"),
    include_str!("../../presets/heavy-sky.json"),
    include_str!("../../presets/wrong-bath.json"),
    include_str!("../../presets/green-crossing.json"),
    include_str!("../../presets/warm-silver.json"),
    include_str!("../../presets/cold-silver.json"),
    include_str!("../../presets/sepia-and-selenium.json"),
    include_str!("../../presets/newsroom.json"),
    include_str!("../../presets/red-filter.json"),
    include_str!("../../presets/salon-portrait.json"),
    include_str!("../../presets/long-scale.json"),
    include_str!("../../presets/travelling-plate.json"),
    include_str!("../../presets/iron-plate.json"),
    include_str!("../../presets/iron-plate-damaged.json"),
    include_str!("../../presets/blue-print.json"),
    include_str!("../../presets/blue-print-laid.json"),
    include_str!("../../presets/brown-print.json"),
    include_str!("../../presets/gallery-platinum.json"),
    include_str!("../../presets/calling-card.json"),
    include_str!("../../presets/forty-year-album.json"),
    include_str!("../../presets/drawer.json"),
    include_str!("../../presets/wall.json"),
    include_str!("../../presets/handled-glass.json"),
    include_str!("../../presets/cut-strip.json"),
];

static SHIPPED: LazyLock<Vec<Preset>> = LazyLock::new(|| FILES.iter().filter_map(|text| one(text).ok()).collect());

fn one(text: &str) -> Result<Preset, CoreError> {
    let none = || CoreError::PresetFile { why: "it holds none".into() };
    Preset::read(text)?.into_iter().next().ok_or_else(none)
}

/// All presets that ship.
#[derive(Debug, Clone, Copy, Default)]
pub struct ShippedPresets;

impl ShippedPresets {
    /// Every one of them, by group.
    pub fn all() -> &'static [Preset] {
        &SHIPPED
    }

    /// The one with an id.
    pub fn find(id: &str) -> Option<&'static Preset> {
        SHIPPED.iter().find(|preset| preset.id == id)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stock::Catalogue;

    #[test]
    fn every_one_can_be_read_and_has_a_name_of_its_own() {
        let mut names = std::collections::BTreeSet::new();
        for text in FILES {
            let preset = one(text).unwrap();
            assert!(names.insert(preset.name.clone()), "{} twice", preset.name);
            assert!(!preset.group.is_empty() && !preset.notes.is_empty(), "{}", preset.name);
            assert!(preset.stock.is_none_or(|s| Catalogue::find(&s.id).is_ok()), "{}", preset.name);
        }
        assert_eq!(names.len(), ShippedPresets::all().len());
    }
}
