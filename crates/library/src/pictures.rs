//! Pictures of the user's own that are laid on others: kept once under their content hash, named, used on any frame.

use rusqlite::{OptionalExtension, params};

use crate::Library;
use crate::error::LibraryError;
use crate::rolls::checked_name;

/// A picture that can be laid on others.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeptPicture {
    pub hash: String,
    pub name: String,
    pub width: u32,
    pub height: u32,
}

impl Library {
    /// Keeps a picture under a name; one that is there already keeps the name that it has. Returns its hash.
    pub fn add_picture(&self, bytes: &[u8], name: &str, [width, height]: [u32; 2]) -> Result<String, LibraryError> {
        let name = checked_name(name)?;
        let arriving = self.pictures.receive(bytes)?;
        let (hash, size) = (arriving.hash.clone(), bytes.len() as i64);
        self.pictures.settle(arriving)?;
        let added = hash.clone();
        self.database.write(move |t| {
            t.execute(
                "INSERT INTO pictures VALUES (?1, ?2, ?3, ?4, ?5, (SELECT COALESCE(MAX(place), 0) + 1 FROM pictures)) \
                 ON CONFLICT (hash) DO NOTHING",
                params![added, name, size, width, height],
            )?;
            Ok(())
        })?;
        Ok(hash)
    }

    /// All of them, oldest first.
    pub fn kept_pictures(&self) -> Result<Vec<KeptPicture>, LibraryError> {
        self.database.read(|c| {
            let mut rows = c.prepare_cached("SELECT hash, name, width, height FROM pictures ORDER BY place")?;
            let one = |r: &rusqlite::Row| {
                Ok(KeptPicture { hash: r.get(0)?, name: r.get(1)?, width: r.get(2)?, height: r.get(3)? })
            };
            Ok(rows.query_map([], one)?.collect::<Result<_, _>>()?)
        })
    }

    /// Gives one another name.
    pub fn rename_picture(&self, hash: &str, name: &str) -> Result<(), LibraryError> {
        let (name, asked) = (checked_name(name)?, hash.to_owned());
        self.database.write(move |t| {
            match t.execute("UPDATE pictures SET name = ?2 WHERE hash = ?1", params![asked, name])? {
                0 => Err(LibraryError::NoPicture),
                _ => Ok(()),
            }
        })
    }

    /// Takes one away that no frame uses, nor could come back to by undo.
    pub fn delete_picture(&self, hash: &str) -> Result<(), LibraryError> {
        let asked = hash.to_owned();
        self.database.write(move |t| {
            let name: Option<String> =
                t.query_row("SELECT name FROM pictures WHERE hash = ?1", [&asked], |r| r.get(0)).optional()?;
            let name = name.ok_or(LibraryError::NoPicture)?;
            let used = format!("own:{asked}");
            let mut rows = t.prepare(
                "SELECT f.name, MAX(h.now) FROM frames f JOIN (SELECT frame, development, step = (SELECT cursor FROM \
                 frames WHERE id = frame) AS now FROM history UNION ALL SELECT frame, development, -1 FROM proofs) h \
                 ON h.frame = f.id WHERE instr(h.development, ?1) > 0 GROUP BY f.id ORDER BY f.id",
            )?;
            let used: Vec<(String, i64)> =
                rows.query_map([used], |r| Ok((r.get(0)?, r.get(1)?)))?.collect::<Result<_, _>>()?;
            if !used.is_empty() {
                let lies_on = |(frame, now): &(String, i64)| match now {
                    1 => frame.clone(),
                    0 => format!("{frame} (in its history)"),
                    _ => format!("{frame} (in a proof)"),
                };
                let frames = used.iter().take(6).map(lies_on).collect::<Vec<_>>().join(", ");
                let more = if used.len() > 6 { format!(" and {} more", used.len() - 6) } else { String::new() };
                return Err(LibraryError::PictureUsed { name, frames: frames + &more });
            }
            t.execute("DELETE FROM pictures WHERE hash = ?1", [&asked])?;
            Ok(())
        })?;
        // the row is gone: nobody can ask for the file any more
        self.pictures.remove(hash);
        Ok(())
    }
}
