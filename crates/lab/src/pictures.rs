//! The user's own pictures, as sheets: kept by the library, opened when a frame needs one, held while there is room.

use std::sync::Arc;

use amber_core::cache::Cache;
use amber_core::picture::own::{OwnPicture, OwnPictures};
use amber_files::{Limits, write};
use amber_library::{KeptPicture, Originals};

use crate::error::LabError;
use crate::sources::{Name, short};
use crate::{Lab, name_of_file};

/// Long edge of a small one, and how well it is kept.
const SMALL_EDGE: u32 = 240;
const QUALITY: u8 = 86;

/// Opened pictures.
pub(crate) struct Pictures {
    files: Originals,
    limits: Limits,
    held: Cache<Name, OwnPicture>,
}

impl Pictures {
    /// `budget` bounds the bytes of opened pictures that are held; one larger than that is held alone.
    pub fn new(files: Originals, limits: Limits, budget: usize) -> Self {
        Self { files, limits, held: Cache::with_one_larger(budget) }
    }

    fn opened(&self, hash: &str) -> Result<Arc<OwnPicture>, LabError> {
        self.held.get_or_make(short(hash), || {
            let picture = amber_files::sheet::open(&self.files.read(hash)?, self.limits)?;
            let bytes = picture.bytes();
            Ok((picture, bytes))
        })
    }
}

impl OwnPictures for Pictures {
    fn picture(&self, hash: &str) -> Option<Arc<OwnPicture>> {
        let opened = self.opened(hash);
        if let Err(error) = &opened {
            tracing::warn!("a sheet is left out: {error}");
        }
        opened.ok()
    }
}

impl Lab {
    /// Keeps a picture of the user's own to be laid on others. Nothing is stored when it cannot be read.
    pub fn add_picture(&self, file_name: &str, bytes: &[u8]) -> Result<KeptPicture, LabError> {
        let picture = self.compute(|| amber_files::sheet::open(bytes, self.pictures.limits))?;
        let hash = self.library.add_picture(bytes, &name_of_file(file_name), picture.size())?;
        let size = picture.bytes();
        self.pictures.held.put(short(&hash), Arc::new(picture), size);
        let kept = self.library.kept_pictures()?.into_iter().find(|kept| kept.hash == hash);
        kept.ok_or_else(|| amber_library::LibraryError::NoPicture.into())
    }

    /// A small JPEG of one of them, on grey where nothing covers.
    pub fn picture_thumbnail(&self, hash: &str) -> Result<Vec<u8>, LabError> {
        let (width, height, pixels) =
            self.compute(|| Ok::<_, LabError>(self.pictures.opened(hash)?.small(SMALL_EDGE)))?;
        Ok(write::jpeg(&pixels, width, height, QUALITY, None)?)
    }
}
