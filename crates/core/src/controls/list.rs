//! Lists of controls: as many of a kind as a frame wants, such as local adjustments.
//!
//! The members of a list are declared once. Each of its items has a key, a number that stays with it; the values of item 3 of
//! `scene.local` are `scene.local.3.exposure` and so on.

use std::collections::BTreeMap;
use std::sync::LazyLock;

use super::Control;
use crate::stations::{scene, tone};

/// Largest key of an item.
pub const MOST: u32 = 99;

/// A list of controls.
#[derive(Debug, Clone, Copy)]
pub struct List {
    /// What the ids of its members begin with.
    pub path: &'static str,
    /// What one item is called.
    pub label: &'static str,
    /// Their ids are the path, a dot and a name; an item's key stands between.
    pub members: &'static [Control],
}

/// All lists.
pub const LISTS: [&List; 2] = [&scene::local::LOCALS, &tone::settings::BATHS];

impl List {
    /// The id of a member of an item.
    pub fn id(&self, key: u32, member: &Control) -> String {
        format!("{}.{key}{}", self.path, &member.id[self.path.len()..])
    }

    /// Key of the item to which an id belongs.
    pub fn key_of(&self, id: &str) -> Option<u32> {
        let rest = id.strip_prefix(self.path)?.strip_prefix('.')?;
        let key = rest.split('.').next()?.parse().ok()?;
        (1..=MOST).contains(&key).then_some(key)
    }

    /// Member of an item; the declared one where there is no such item.
    pub fn member(&self, key: u32, member: &'static Control) -> &'static Control {
        self::member(&self.id(key, member)).unwrap_or(member)
    }
}

/// Items have their controls from the first use on; there are not many, and they are the same for every frame.
static MEMBERS: LazyLock<BTreeMap<&'static str, Control>> = LazyLock::new(|| {
    let mut all = BTreeMap::new();
    for list in LISTS {
        for key in 1..=MOST {
            let tab: &'static str = Box::leak(format!("{} {key}", list.label).into_boxed_str());
            for member in list.members {
                let id: &'static str = Box::leak(list.id(key, member).into_boxed_str());
                all.insert(id, Control { id, tab, ..*member });
            }
        }
    }
    all
});

/// The control of an item's member.
pub fn member(id: &str) -> Option<&'static Control> {
    LISTS.iter().any(|l| id.starts_with(l.path)).then(|| MEMBERS.get(id)).flatten()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::controls::find;

    #[test]
    fn items_are_found_by_key() {
        let third = find("scene.local.3.exposure").unwrap();
        assert_eq!((third.id, third.full_label().as_str()), ("scene.local.3.exposure", "Local 3: Exposure"));
        assert_eq!(scene::local::LOCALS.key_of("scene.local.3.exposure"), Some(3));
        for wrong in ["scene.local.exposure", "scene.local.0.exposure", "scene.local.100.exposure", "scene.local.3"] {
            assert!(find(wrong).is_err(), "{wrong}");
        }
        for list in LISTS {
            assert!(list.members.iter().all(|m| m.id.starts_with(list.path) && m.help.ends_with('.')), "{}", list.path);
        }
    }
}
