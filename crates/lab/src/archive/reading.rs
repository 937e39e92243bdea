//! An archive read: all of it is looked at before anything is kept.

use std::collections::BTreeMap;
use std::io::{Read, Seek};

use amber_core::{Development, Preset, Stock};
use amber_library::{Mark, NewFrame, Originals};
use zip::ZipArchive;

use super::{ArchivedFrame, MANIFEST, Manifest, PRESETS, VERSION, original_path, picture_path, stock_path};
use crate::error::LabError;
use crate::hands::Hands;
use crate::{Lab, Waiting, now};

/// Most bytes of the manifest.
const MOST_MANIFEST: u64 = 256 << 20;
/// Most files of an archive.
const MOST_FILES: usize = 200_000;

fn unreadable(why: impl ToString) -> LabError {
    LabError::Archive { why: why.to_string() }
}

/// An archive that is being read.
struct Unpacking<R: Read + Seek> {
    zip: ZipArchive<R>,
    manifest: Manifest,
    /// Hash and length by path.
    files: BTreeMap<String, (String, u64)>,
    /// Most bytes of a file.
    most: u64,
}

impl<R: Read + Seek> Unpacking<R> {
    fn new(archive: R, most: u64) -> Result<Self, LabError> {
        let mut zip = ZipArchive::new(archive).map_err(unreadable)?;
        if zip.len() > MOST_FILES {
            return Err(unreadable(format!("it holds {} files, {MOST_FILES} at most", zip.len())));
        }
        let mut text = String::new();
        let entry = zip.by_name(MANIFEST).map_err(|_| unreadable("it has no manifest.json"))?;
        entry.take(MOST_MANIFEST).read_to_string(&mut text).map_err(unreadable)?;
        let version = serde_json::from_str::<serde_json::Value>(&text).map_err(unreadable)?;
        let version = version.get("version").and_then(serde_json::Value::as_u64).unwrap_or(0);
        if version > u64::from(VERSION) {
            return Err(unreadable(format!("it was made by a newer Amber Grain (version {version} of its form)")));
        }
        let manifest: Manifest = serde_json::from_str(&text).map_err(unreadable)?;
        let files = manifest.files.iter().map(|f| (f.path.clone(), (f.hash.clone(), f.bytes))).collect();
        Ok(Self { zip, manifest, files, most })
    }

    /// A file that the manifest names, as it names it.
    fn file(&mut self, path: &str) -> Result<Vec<u8>, LabError> {
        let (hash, length) = self.files.get(path).ok_or_else(|| unreadable(format!("it lacks {path}")))?;
        if *length > self.most {
            return Err(unreadable(format!("{path} is larger than {} MiB", self.most >> 20)));
        }
        let entry = self.zip.by_name(path).map_err(|_| unreadable(format!("it lacks {path}")))?;
        let mut bytes = Vec::new();
        entry.take(length + 1).read_to_end(&mut bytes).map_err(unreadable)?;
        if bytes.len() as u64 == *length && Originals::hash_of(&bytes) == *hash {
            return Ok(bytes);
        }
        Err(unreadable(format!("{path} is damaged: it is not what was packed")))
    }

    fn stock(&mut self, development: &Development) -> Result<Stock, LabError> {
        development.check()?;
        let hash = development.stock.hash.clone();
        if hash.is_empty() {
            return Ok(amber_core::Catalogue::find(&development.stock.id)?.as_ref().clone());
        }
        let text = String::from_utf8(self.file(&stock_path(&hash))?).map_err(|_| LabError::NotText)?;
        Ok(Stock::from_json(&text)?)
    }
}

impl Lab {
    /// Reads an archive onto a new roll. All of it is checked before anything is kept; where a part cannot be kept
    /// after all, nothing is. Gives the roll's number. `most` bytes of a file are read.
    pub fn read_archive(&self, archive: impl Read + Seek, most: u64) -> Result<i64, LabError> {
        let mut unpacking = Unpacking::new(archive, most)?;
        let paths: Vec<String> = unpacking.files.keys().cloned().collect();
        paths.iter().try_for_each(|path| unpacking.file(path).map(drop))?;
        for frame in unpacking.manifest.frames.clone() {
            unpacking.stock(&frame.development)?;
            frame.proofs.iter().try_for_each(|proof| unpacking.stock(&proof.development).map(drop))?;
        }
        let roll = self.library.add_roll(&unpacking.manifest.roll, now())?;
        match self.unpack(&mut unpacking, roll) {
            Ok(()) => Ok(roll),
            Err(error) => {
                for frame in self.library.frames(roll)? {
                    self.library.remove_frame(frame.id)?;
                }
                self.library.remove_empty_roll(roll)?;
                Err(error)
            }
        }
    }

    fn unpack<R: Read + Seek>(&self, unpacking: &mut Unpacking<R>, roll: i64) -> Result<(), LabError> {
        for picture in unpacking.manifest.pictures.clone() {
            let bytes = unpacking.file(&picture_path(&picture.hash))?;
            self.add_picture(&picture.name, &bytes)?;
        }
        if unpacking.files.contains_key(PRESETS) {
            let text = String::from_utf8(unpacking.file(PRESETS)?).map_err(|_| LabError::NotText)?;
            self.library.add_presets(Preset::read(&text)?)?;
        }
        unpacking.manifest.frames.clone().into_iter().try_for_each(|frame| self.unpack_frame(unpacking, roll, frame))
    }

    fn unpack_frame<R: Read + Seek>(
        &self,
        unpacking: &mut Unpacking<R>,
        roll: i64,
        frame: ArchivedFrame,
    ) -> Result<(), LabError> {
        let bytes = unpacking.file(&original_path(&frame.original))?;
        let stock = unpacking.stock(&frame.development)?;
        let over = Waiting::here();
        let hands = Hands { pool: self.renderer.pool(), over: &|| over.is_over() };
        let id = self.sources.opened(&bytes, hands, |opened| {
            let new = NewFrame {
                name: frame.name,
                format: opened.format.into(),
                width: opened.source.width(),
                height: opened.source.height(),
                taken: opened.metadata.taken(),
                development: Some(frame.development),
            };
            Ok(self.library.add_frame(roll, &bytes, new, &stock)?)
        })?;
        self.library.mark(vec![id], Mark::named(&frame.mark))?;
        if !frame.note.is_empty() {
            self.library.write_note(id, &frame.note)?;
        }
        for proof in frame.proofs {
            let stock = unpacking.stock(&proof.development)?;
            self.library.add_proof(id, &proof.name, &proof.development, &stock)?;
        }
        Ok(())
    }
}
