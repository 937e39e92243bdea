//! Small pictures for the contact sheet and the rack, kept in a folder that may be deleted at any time.

use amber_core::picture::reduce::Level;
use amber_core::render::{GrainShown, RenderRequest, Scaled, Watch};
use amber_core::stations::lens::LensSettings;
use amber_core::{Development, Stock};
use amber_files::write;
use amber_library::FrameSummary;

use crate::Lab;
use crate::error::LabError;
use crate::live::Shown;

const QUALITY: u8 = 88;

/// For what a small picture is made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ThumbnailSize {
    /// The contact sheet.
    Sheet,
    /// A tile of the stock board.
    Tile,
    /// The close look on the stock board.
    Close,
}

impl ThumbnailSize {
    fn long_edge(self) -> u32 {
        match self {
            Self::Sheet => 480,
            Self::Tile => 200,
            Self::Close => 760,
        }
    }
}

impl Lab {
    /// A JPEG of a frame as developed, or as it came.
    pub fn thumbnail(&self, frame: i64, shown: Shown) -> Result<Vec<u8>, LabError> {
        let frame = self.library.frame(frame)?;
        match shown {
            Shown::Developed | Shown::Alone(_) => {
                self.thumbnail_of(&frame.summary, &frame.summary.development, &frame.stock, ThumbnailSize::Sheet)
            }
            Shown::Original => {
                let state = format!("{} original", frame.summary.content);
                self.kept(&state, || {
                    let scaled = self.small(&frame.summary, ThumbnailSize::Sheet)?;
                    let region = scaled.source.region();
                    let pixels = scaled.source.display_8_bit(region);
                    Ok(write::jpeg(&pixels, region.width, region.height, QUALITY, None)?)
                })
            }
        }
    }

    /// A JPEG of a frame under another development.
    pub fn thumbnail_of(
        &self,
        frame: &FrameSummary,
        development: &Development,
        stock: &Stock,
        size: ThumbnailSize,
    ) -> Result<Vec<u8>, LabError> {
        let state =
            format!("{} {} {} {}", frame.content, development.to_json(), stock.content_hash(), size.long_edge());
        self.kept(&state, || {
            let framing = LensSettings::framing(&development.values(stock));
            let small = self.small(frame, size)?;
            let scaled = self.renderer.pool().install(|| small.framed(&framing));
            let region = scaled.source.region();
            let request = RenderRequest {
                scaled: &scaled,
                stock,
                development,
                region,
                grain: if size == ThumbnailSize::Close { GrainShown::Full } else { GrainShown::Averaged },
                keep_tiles: false,
            };
            let pixels = self.renderer.display_8_bit(&request, Watch::NONE)?;
            Ok(write::jpeg(&pixels, region.width, region.height, QUALITY, None)?)
        })
    }

    /// A small source, its noise averaged by the reduction and not smoothed; a tile's is made from the contact sheet's, which is there already.
    fn small(&self, frame: &FrameSummary, size: ThumbnailSize) -> Result<Scaled, LabError> {
        let level = |edge: u32| Level::covering(edge, frame.width, frame.height);
        if size == ThumbnailSize::Tile {
            let sheet = self.small(frame, ThumbnailSize::Sheet)?;
            let (width, height) = level(size.long_edge()).size(frame.width, frame.height);
            return Ok(self.renderer.pool().install(|| sheet.reduced(width, height)));
        }
        self.sources.at(&self.library, frame, level(size.long_edge()))
    }

    /// The file of a state, made when it is not there. The cache is a convenience: a full disk must not take the
    /// picture away.
    fn kept(&self, state: &str, make: impl FnOnce() -> Result<Vec<u8>, LabError>) -> Result<Vec<u8>, LabError> {
        let folder = self.library.folder().join("cache");
        let path = folder.join(format!("{}.jpg", blake3::hash(state.as_bytes()).to_hex()));
        if let Ok(bytes) = std::fs::read(&path) {
            return Ok(bytes);
        }
        let bytes = make()?;
        let stored = std::fs::create_dir_all(&folder)
            .map_err(|e| e.to_string())
            .and_then(|()| write::save(&path, &bytes).map_err(|e| e.to_string()));
        if let Err(error) = stored {
            tracing::warn!("a thumbnail could not be kept: {error}");
        }
        Ok(bytes)
    }
}
