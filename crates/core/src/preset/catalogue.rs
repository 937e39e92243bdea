//! The presets that ship with the application.

use std::sync::LazyLock;

use super::Preset;
use crate::error::CoreError;

/// One JSON file per preset, in the order of the board.
const FILES: [&str; 0] = [];

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
