//! Words that are added to a file: title, caption and copyright of the IPTC Photo Metadata Standard.

use exif::Tag;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::metadata::Metadata;

/// Most characters of each.
pub const MOST_CHARACTERS: usize = 2000;

/// Words about a picture; empty ones are not written. They stand in XMP (`dc:title`, `dc:description`, `dc:rights`),
/// caption and copyright in EXIF too.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(default, deny_unknown_fields)]
pub struct Caption {
    pub title: String,
    pub caption: String,
    pub copyright: String,
}

impl Caption {
    pub fn is_empty(&self) -> bool {
        self.title.is_empty() && self.caption.is_empty() && self.copyright.is_empty()
    }

    /// The same without what a file cannot hold: characters that control, blanks around, what is too long.
    pub fn cleaned(&self) -> Self {
        let clean = |text: &str| -> String {
            let kept = text.trim().chars().filter(|c| !c.is_control() || *c == '\n');
            kept.take(MOST_CHARACTERS).collect()
        };
        Self { title: clean(&self.title), caption: clean(&self.caption), copyright: clean(&self.copyright) }
    }

    pub(crate) fn describe(&self, metadata: &mut Metadata) {
        for (tag, text) in [(Tag::ImageDescription, &self.caption), (Tag::Copyright, &self.copyright)] {
            if !text.is_empty() {
                metadata.set_text(tag, text);
            }
        }
    }
}
