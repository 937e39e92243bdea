//! Small pictures for the contact sheet and the rack, kept in a folder that may be deleted at any time.

use std::path::PathBuf;

use amber_core::picture::reduce::Level;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled};
use amber_core::stations::lens::LensSettings;
use amber_core::stations::scene::SceneSettings;
use amber_core::{Development, Stock};
use amber_files::write;
use amber_library::{Frame, FrameSummary};

use crate::Lab;
use crate::error::LabError;
use crate::folder::Folder;
use crate::hands::Hands;
use crate::live::Shown;
use crate::waiting::{self, Waiting};

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
                self.thumbnails.kept(&state, || {
                    let scaled = self.small(&self.renderer, &frame.summary, ThumbnailSize::Sheet)?;
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
        self.thumbnail_by(&self.renderer, frame, development, stock, size)
    }

    /// The same, made by the threads of a renderer.
    pub(crate) fn thumbnail_by(
        &self,
        renderer: &Renderer,
        frame: &FrameSummary,
        development: &Development,
        stock: &Stock,
        size: ThumbnailSize,
    ) -> Result<Vec<u8>, LabError> {
        self.thumbnails.kept(&state(frame, development, stock, size), || {
            let values = development.values(stock);
            let (noise, framing) = (SceneSettings::noise(&values), LensSettings::framing(&values));
            let small = self.small(renderer, frame, size)?.too_small_for_noise(&noise);
            let scaled = renderer.pool().install(|| small.framed(&framing));
            let region = scaled.source.region();
            let request = RenderRequest {
                scaled: &scaled,
                stock,
                development,
                region,
                grain: if size == ThumbnailSize::Close { GrainShown::Full } else { GrainShown::Averaged },
                keep_tiles: false,
                finish: Finish::SCREEN,
            };
            let waiting = Waiting::here();
            let over = || waiting.is_over();
            let until = waiting::until(&over);
            // on the contact sheet a frame stands as it will be delivered
            let (pixels, [width, height]) = match size {
                ThumbnailSize::Sheet => renderer.mounted_8_bit(&request, until)?,
                _ => (renderer.display_8_bit(&request, until)?, [region.width, region.height]),
            };
            Ok(write::jpeg(&pixels, width, height, QUALITY, None)?)
        })
    }

    /// A frame's picture at a zoom step, made when it is not kept.
    pub(crate) fn standing_kept(
        &self,
        frame: &Frame,
        level: u8,
        make: impl FnOnce() -> Result<Vec<u8>, LabError>,
    ) -> Result<Vec<u8>, LabError> {
        let development = frame.summary.development.to_json();
        let state = format!("{} {development} {} standing {level}", frame.summary.content, frame.stock.content_hash());
        self.thumbnails.kept(&state, make)
    }

    /// Whether the contact sheet's picture of a frame is kept already.
    pub(crate) fn has_thumbnail(&self, frame: &FrameSummary, stock: &Stock) -> bool {
        self.thumbnails.has(&state(frame, &frame.development, stock, ThumbnailSize::Sheet))
    }

    /// A small source, its noise averaged by the reduction and not smoothed; a tile's is made from the contact sheet's,
    /// which is there already.
    fn small(&self, renderer: &Renderer, frame: &FrameSummary, size: ThumbnailSize) -> Result<Scaled, LabError> {
        let level = |edge: u32| Level::covering(edge, frame.width, frame.height);
        if size == ThumbnailSize::Tile {
            let sheet = self.small(renderer, frame, ThumbnailSize::Sheet)?;
            let (width, height) = level(size.long_edge()).size(frame.width, frame.height);
            return Ok(renderer.pool().install(|| sheet.reduced(width, height)));
        }
        let waiting = Waiting::here();
        let hands = Hands { pool: renderer.pool(), over: &|| waiting.is_over() };
        self.sources.at(&self.library, frame, level(size.long_edge()), hands)
    }
}

/// All that a small picture depends on.
fn state(frame: &FrameSummary, development: &Development, stock: &Stock, size: ThumbnailSize) -> String {
    format!("{} {} {} {}", frame.content, development.to_json(), stock.content_hash(), size.long_edge())
}

/// Names a picture by all that it depends on, for its address.
pub fn development_version(content: &str, development: &Development) -> String {
    let both = format!("{content} {}", development.to_json());
    blake3::hash(both.as_bytes()).to_hex()[..16].to_owned()
}

/// What a frame's picture on a stock depends on, for its address.
pub fn stock_version(frame: &FrameSummary, stock: &Stock) -> String {
    let both = format!("{} {}", frame.version(), stock.content_hash());
    blake3::hash(both.as_bytes()).to_hex()[..16].to_owned()
}

/// Most bytes of small pictures that are kept: those of a roll of 5,000 frames take 250 MB.
const MOST_BYTES: u64 = 512 << 20;

/// Small pictures on disk, by what they depend on.
pub(crate) struct Thumbnails(Folder);

impl Thumbnails {
    pub fn new(path: PathBuf) -> Self {
        Self(Folder::new(path, MOST_BYTES))
    }

    /// Whether there is a file for a state.
    fn has(&self, state: &str) -> bool {
        self.0.has(&name_of(state))
    }

    /// The picture of a state, made when it is not there whole.
    fn kept(&self, state: &str, make: impl FnOnce() -> Result<Vec<u8>, LabError>) -> Result<Vec<u8>, LabError> {
        let name = name_of(state);
        let whole = |bytes: &Vec<u8>| bytes.starts_with(&[0xFF, 0xD8]) && bytes.ends_with(&[0xFF, 0xD9]);
        if let Some(bytes) = self.0.read(&name).filter(whole) {
            return Ok(bytes);
        }
        Waiting::here().check()?;
        let bytes = make()?;
        self.0.put(&name, &bytes);
        Ok(bytes)
    }
}

fn name_of(state: &str) -> String {
    format!("{}.jpg", blake3::hash(state.as_bytes()).to_hex())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn half_a_picture_is_made_again() {
        let place = tempfile::tempdir().unwrap();
        let thumbnails = Thumbnails::new(place.path().to_owned());
        let picture = [&[0xFF, 0xD8][..], &[0; 10], &[0xFF, 0xD9]].concat();
        thumbnails.kept("a", || Ok(picture.clone())).unwrap();
        assert_eq!(thumbnails.kept("a", || panic!("it is there")).unwrap(), picture);
        let path = std::fs::read_dir(place.path()).unwrap().next().unwrap().unwrap().path();
        std::fs::write(path, b"").unwrap();
        assert_eq!(thumbnails.kept("a", || Ok(picture.clone())).unwrap(), picture);
    }
}
