//! An archive written, file by file.

use std::collections::BTreeSet;
use std::io::Write;

use amber_core::preset::Bundle;
use amber_core::{Development, Preset};
use amber_library::{LibraryError, Originals};
use zip::ZipWriter;

use super::{
    ArchivedFile, ArchivedFrame, ArchivedPicture, ArchivedProof, MANIFEST, Manifest, PRESETS, VERSION, laid,
    original_path, picture_path, stock_path,
};
use crate::Lab;
use crate::delivery::{packed, stored};
use crate::error::LabError;

/// The ZIP and what is in it so far.
struct Packing<W: Write> {
    zip: ZipWriter<zip::write::StreamWriter<W>>,
    files: Vec<ArchivedFile>,
}

impl<W: Write> Packing<W> {
    fn add(&mut self, path: String, bytes: &[u8]) -> Result<(), LabError> {
        self.zip.start_file(&path, stored()).map_err(packed)?;
        self.zip.write_all(bytes).map_err(packed)?;
        self.files.push(ArchivedFile { path, hash: Originals::hash_of(bytes), bytes: bytes.len() as u64 });
        Ok(())
    }
}

impl Lab {
    /// Writes a roll as an archive; frames that were taken off it stay out.
    pub fn archive_roll(&self, roll: i64, out: impl Write, over: &dyn Fn() -> bool) -> Result<(), LabError> {
        let name = self.library.roll(roll)?.name;
        let mut packing = Packing { zip: ZipWriter::new_stream(out), files: Vec::new() };
        let (mut frames, mut originals, mut stocks, mut pictures) =
            (Vec::new(), BTreeSet::new(), BTreeSet::new(), BTreeSet::new());
        let mut presets = BTreeSet::new();
        for frame in self.library.frames(roll)? {
            if over() {
                return Err(amber_core::CoreError::Abandoned.into());
            }
            if let Some(why) = frame.trouble {
                return Err(LibraryError::Core(amber_core::CoreError::Development { why }).into());
            }
            if originals.insert(frame.content.clone()) {
                packing.add(original_path(&frame.content), &self.library.originals.read(&frame.content)?)?;
            }
            let proofs = self.library.proofs(frame.id)?;
            let all = || std::iter::once(&frame.development).chain(proofs.iter().map(|proof| &proof.development));
            for development in all() {
                self.pack_stock(development, &mut stocks, &mut packing)?;
                pictures.extend(laid(development));
            }
            presets.extend(frame.presets.iter().cloned());
            let proof =
                |proof: amber_library::Proof| ArchivedProof { name: proof.name, development: proof.development };
            let proofs = proofs.into_iter().map(proof).collect();
            frames.push(ArchivedFrame {
                name: frame.name,
                original: frame.content,
                development: frame.development,
                mark: frame.mark.id().into(),
                note: frame.note,
                proofs,
            });
        }
        let known = self.library.kept_pictures()?;
        let mut kept = Vec::new();
        for picture in known.into_iter().filter(|picture| pictures.contains(&picture.hash)) {
            packing.add(picture_path(&picture.hash), &self.library.pictures.read(&picture.hash)?)?;
            kept.push(ArchivedPicture { hash: picture.hash, name: picture.name });
        }
        let own = self.library.own_presets()?;
        let own: Vec<_> = own.into_iter().filter(|preset| presets.contains(&preset.id)).collect();
        if !own.is_empty() {
            packing.add(PRESETS.into(), &bundle(own)?)?;
        }
        let engine = amber_core::development::ENGINE.into();
        let manifest = Manifest { version: VERSION, engine, roll: name, frames, files: packing.files, pictures: kept };
        let text = serde_json::to_string_pretty(&manifest).map_err(packed)?;
        packing.zip.start_file(MANIFEST, stored()).map_err(packed)?;
        packing.zip.write_all(text.as_bytes()).map_err(packed)?;
        packing.zip.finish().map_err(packed)?;
        Ok(())
    }

    fn pack_stock<W: Write>(
        &self,
        development: &Development,
        known: &mut BTreeSet<String>,
        packing: &mut Packing<W>,
    ) -> Result<(), LabError> {
        let hash = &development.stock.hash;
        if hash.is_empty() || !known.insert(hash.clone()) {
            return Ok(());
        }
        packing.add(stock_path(hash), self.library.stock_of(development)?.to_json().as_bytes())
    }
}

fn bundle(presets: Vec<Preset>) -> Result<Vec<u8>, LabError> {
    let bundle = Bundle { version: amber_core::preset::VERSION, presets };
    serde_json::to_vec_pretty(&bundle).map_err(packed)
}
