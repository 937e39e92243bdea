//! Lists of controls: as many of a kind as a frame wants, such as local adjustments.
//!
//! The members of a list are declared once. Each of its items has a key, a number that stays with it; the values of
//! item 3 of `scene.local` are `scene.local.3.exposure` and so on.

use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

use super::Control;

/// Largest key of an item where a list does not say.
pub const MOST: u32 = 99;

/// A list of controls.
#[derive(Debug, Clone, Copy)]
pub struct List {
    /// What the ids of its members begin with.
    pub path: &'static str,
    /// What one item is called.
    pub label: &'static str,
    /// Largest key of an item.
    pub most: u32,
    /// Their ids are the path, a dot and a name; an item's key stands between.
    pub members: &'static [Control],
}

impl List {
    /// Whether its items belong to the one picture, all that they have.
    pub fn is_the_pictures(&self) -> bool {
        self.members.iter().all(|member| member.picture_specific)
    }

    /// The id of a member of an item.
    pub fn id(&self, key: u32, member: &Control) -> String {
        format!("{}.{key}{}", self.path, &member.id[self.path.len()..])
    }

    /// Key of the item to which an id belongs.
    pub fn key_of(&self, id: &str) -> Option<u32> {
        let rest = id.strip_prefix(self.path)?.strip_prefix('.')?;
        let key = rest.split('.').next()?.parse().ok()?;
        (1..=self.most).contains(&key).then_some(key)
    }

    /// Member of an item; the declared one where there can be no such item.
    ///
    /// An item has its controls from the first use on: there are not many, and they are the same for every frame.
    pub fn member(&self, key: u32, declared: &'static Control) -> &'static Control {
        static ITEMS: Mutex<BTreeMap<String, &'static Control>> = Mutex::new(BTreeMap::new());
        if !(1..=self.most).contains(&key) {
            return declared;
        }
        let id = self.id(key, declared);
        let mut items = ITEMS.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(item) = items.get(&id) {
            return item;
        }
        let tab: &'static str = Box::leak(format!("{} {key}", self.label).into_boxed_str());
        let item: &'static Control =
            Box::leak(Box::new(Control { id: Box::leak(id.clone().into_boxed_str()), tab, ..*declared }));
        items.insert(id, item);
        item
    }

    /// The control of one of its items by id.
    pub fn item(&self, id: &str) -> Option<&'static Control> {
        let key = self.key_of(id)?;
        let declared = self.members.iter().find(|m| self.id(key, m) == id)?;
        Some(self.member(key, declared))
    }
}
