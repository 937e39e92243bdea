//! Masks in the history: their strokes are kept once, and every step names them by number.
//!
//! A step of painting adds a stroke to hundreds; kept whole, each step would be as large as all before it together.

use std::collections::{BTreeMap, HashMap, HashSet};

use amber_core::mask::Mask;
use rusqlite::{Connection, OptionalExtension, Transaction, params};
use serde_json::Value as Json;

use crate::error::LibraryError;

type Masks = BTreeMap<String, Mask>;

fn broken(e: serde_json::Error) -> LibraryError {
    LibraryError::Masks(e.to_string())
}

/// The lists of strokes in the written form of masks.
fn stroke_lists(masks: &mut Json) -> impl Iterator<Item = &mut Vec<Json>> {
    let parts = masks
        .as_object_mut()
        .into_iter()
        .flat_map(|all| all.values_mut())
        .filter_map(|mask| mask.get_mut("parts")?.as_array_mut());
    parts.flatten().filter_map(|part| part.get_mut("strokes")?.as_array_mut())
}

/// Masks as a step keeps them; empty for none.
pub fn kept(t: &Transaction, masks: &Masks) -> Result<String, LibraryError> {
    if masks.is_empty() { Ok(String::new()) } else { numbered(t, serde_json::to_value(masks).map_err(broken)?) }
}

/// The written form of masks with their strokes by number.
pub fn numbered(t: &Transaction, mut masks: Json) -> Result<String, LibraryError> {
    let mut find = t.prepare_cached("SELECT id FROM strokes WHERE hash = ?1")?;
    let mut add = t.prepare_cached("INSERT INTO strokes (hash, data) VALUES (?1, ?2)")?;
    for strokes in stroke_lists(&mut masks) {
        for stroke in strokes {
            let data = stroke.to_string();
            let hash = blake3::hash(data.as_bytes());
            let hash = &hash.as_bytes()[..16];
            let known: Option<i64> = find.query_row([hash], |r| r.get(0)).optional()?;
            let id = match known {
                Some(id) => id,
                None => add.insert(params![hash, data])?,
            };
            *stroke = id.into();
        }
    }
    Ok(masks.to_string())
}

/// The masks of a step.
pub fn read(c: &Connection, kept: &str) -> Result<Masks, LibraryError> {
    if kept.is_empty() {
        return Ok(Masks::new());
    }
    let mut masks: Json = serde_json::from_str(kept).map_err(broken)?;
    let mut find = c.prepare_cached("SELECT data FROM strokes WHERE id = ?1")?;
    for strokes in stroke_lists(&mut masks) {
        for stroke in strokes.iter_mut() {
            if let Some(id) = stroke.as_i64() {
                let data: String = find.query_row([id], |r| r.get(0))?;
                *stroke = serde_json::from_str(&data).map_err(broken)?;
            }
        }
    }
    serde_json::from_value(masks).map_err(broken)
}

/// Takes away the strokes that no step, no proof and no export names any more.
pub fn sweep(t: &Transaction) -> Result<(), LibraryError> {
    let mut used: HashSet<i64> = HashSet::new();
    let mut rows = t.prepare(
        "SELECT masks FROM history WHERE masks <> '' UNION ALL SELECT masks FROM proofs WHERE masks <> '' \
         UNION ALL SELECT masks FROM exports WHERE masks <> ''",
    )?;
    for kept in rows.query_map([], |r| r.get::<_, String>(0))? {
        // a step that cannot be read names nothing that could be lost with it
        let Ok(mut masks) = serde_json::from_str::<Json>(&kept?) else { continue };
        used.extend(stroke_lists(&mut masks).flatten().filter_map(|s| s.as_i64()));
    }
    let mut all = t.prepare("SELECT id FROM strokes")?;
    let ids: Vec<i64> = all.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?;
    let mut delete = t.prepare("DELETE FROM strokes WHERE id = ?1")?;
    ids.iter().filter(|id| !used.contains(id)).try_for_each(|id| delete.execute([id]).map(drop))?;
    Ok(())
}

/// Moves the masks of a library's older steps, which held them whole, to where they are kept now.
pub fn migrate(t: &Transaction) -> Result<(), LibraryError> {
    let mut rows = t.prepare("SELECT frame, step, development FROM history WHERE development LIKE '%\"masks\"%'")?;
    let steps: Vec<(i64, i64, String)> =
        rows.query_map([], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?)))?.collect::<Result<_, _>>()?;
    // the same masks stand in many steps
    let mut known: HashMap<[u8; 32], String> = HashMap::new();
    for (frame, step, text) in steps {
        let Ok(mut document) = serde_json::from_str::<Json>(&text) else { continue };
        let Some(masks) = document.as_object_mut().and_then(|o| o.remove("masks")) else { continue };
        let hash = *blake3::hash(masks.to_string().as_bytes()).as_bytes();
        let kept = match known.get(&hash) {
            Some(kept) => kept.clone(),
            None => known.entry(hash).or_insert(numbered(t, masks)?).clone(),
        };
        t.execute(
            "UPDATE history SET development = ?3, masks = ?4 WHERE frame = ?1 AND step = ?2",
            params![frame, step, document.to_string(), kept],
        )?;
    }
    Ok(())
}
