//! Presets: those that ship and the user's own.

use amber_core::{Preset, ShippedPresets};
use rusqlite::{Connection, OptionalExtension, Transaction, params};

use crate::Library;
use crate::error::LibraryError;
use crate::facts;

/// Fact in which the ids of pinned presets are remembered.
const PINNED: &str = "pinned presets";

fn unknown(id: &str) -> LibraryError {
    LibraryError::NoPreset { id: id.into() }
}

fn read(data: &str) -> Result<Preset, LibraryError> {
    let one = Preset::read(data)?.into_iter().next();
    Ok(one.ok_or_else(|| amber_core::CoreError::PresetFile { why: "it holds none".into() })?)
}

fn own(c: &Connection, id: &str) -> Result<Option<Preset>, LibraryError> {
    let asked = "SELECT data FROM presets WHERE id = ?1 AND dropped = 0";
    let data: Option<String> = c.query_row(asked, [id], |r| r.get(0)).optional()?;
    data.map(|data| read(&data)).transpose()
}

/// An id like the wanted one that no preset has.
fn free_id(t: &Transaction, wanted: &str) -> Result<String, LibraryError> {
    let mut id = wanted.to_owned();
    let mut number = 2;
    loop {
        let taken: bool = t.query_row("SELECT EXISTS (SELECT 1 FROM presets WHERE id = ?1)", [&id], |r| r.get(0))?;
        if !taken && ShippedPresets::find(&id).is_none() {
            return Ok(id);
        }
        id = format!("{wanted}-{number}");
        number += 1;
    }
}

impl Library {
    /// The user's own presets, oldest first.
    pub fn own_presets(&self) -> Result<Vec<Preset>, LibraryError> {
        self.database.read(|c| {
            let mut statement = c.prepare_cached("SELECT data FROM presets WHERE dropped = 0 ORDER BY place")?;
            let rows: Vec<String> = statement.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?;
            rows.iter().map(|data| read(data)).collect()
        })
    }

    /// A preset by id, and whether it is the user's own.
    pub fn preset(&self, id: &str) -> Result<(Preset, bool), LibraryError> {
        if let Some(shipped) = ShippedPresets::find(id) {
            return Ok((shipped.clone(), false));
        }
        let found = self.database.read(|c| own(c, id))?;
        found.map(|preset| (preset, true)).ok_or_else(|| unknown(id))
    }

    /// Adds presets, all or none; one whose id is taken by another gets a free one, one that is there already as it is
    /// is not added again. Gives their ids.
    pub fn add_presets(&self, presets: Vec<Preset>) -> Result<Vec<String>, LibraryError> {
        self.database.write(move |t| {
            let mut ids = Vec::with_capacity(presets.len());
            for preset in presets {
                preset.check()?;
                let there = match ShippedPresets::find(&preset.id) {
                    Some(shipped) => Some(shipped.clone()),
                    None => own(t, &preset.id)?,
                };
                if there.as_ref() == Some(&preset) {
                    ids.push(preset.id);
                    continue;
                }
                // one that was deleted makes room for one that comes from its file
                t.execute("DELETE FROM presets WHERE id = ?1 AND dropped <> 0", [&preset.id])?;
                let id = free_id(t, &preset.id)?;
                let kept = Preset { id: id.clone(), ..preset };
                t.execute(
                    "INSERT INTO presets (id, place, data) \
                     VALUES (?1, (SELECT COALESCE(MAX(place), 0) + 1 FROM presets), ?2)",
                    params![id, kept.to_json()],
                )?;
                ids.push(id);
            }
            Ok(ids)
        })
    }

    /// Puts a changed preset in the place of the one with its id, which must be the user's own.
    pub fn replace_preset(&self, preset: &Preset) -> Result<(), LibraryError> {
        preset.check()?;
        let (id, data) = (preset.id.clone(), preset.to_json());
        self.change_preset(&preset.id, move |t| {
            t.execute("UPDATE presets SET data = ?2 WHERE id = ?1 AND dropped = 0", params![id, data])
        })
    }

    /// Deletes a preset of the user's own, or takes one back that was deleted since the start.
    pub fn drop_preset(&self, id: &str, dropped: bool) -> Result<(), LibraryError> {
        let asked = id.to_owned();
        self.change_preset(id, move |t| {
            t.execute("UPDATE presets SET dropped = ?2 WHERE id = ?1", params![asked, dropped])
        })
    }

    fn change_preset(
        &self,
        id: &str,
        change: impl FnOnce(&Transaction) -> rusqlite::Result<usize> + Send + 'static,
    ) -> Result<(), LibraryError> {
        if let Some(shipped) = ShippedPresets::find(id) {
            return Err(LibraryError::ShippedPreset { name: shipped.name.clone() });
        }
        let id = id.to_owned();
        self.database.write(move |t| match change(t)? {
            0 => Err(unknown(&id)),
            _ => Ok(()),
        })
    }

    /// Ids of the presets that stand first on the board.
    pub fn pinned_presets(&self) -> Result<Vec<String>, LibraryError> {
        self.database.read(|c| facts::list(c, PINNED))
    }

    /// Pins or unpins a preset.
    pub fn pin_preset(&self, id: &str, pinned: bool) -> Result<(), LibraryError> {
        let id = self.preset(id)?.0.id;
        self.database.write(move |t| facts::pin(t, PINNED, &id, pinned).map(drop))
    }
}
