//! The file formats that are written, with their settings.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// How far the colour of a JPEG is subsampled.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
pub enum Sampling {
    /// Not from quality 90 on, by half below.
    #[default]
    #[serde(rename = "auto")]
    Auto,
    /// Colour as fine as lightness.
    #[serde(rename = "4:4:4")]
    Full,
    /// Colour at half the width and height.
    #[serde(rename = "4:2:0")]
    Half,
}

/// Bits of each channel.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(try_from = "u8", into = "u8")]
#[schemars(with = "u8")]
pub enum Bits {
    Eight,
    Sixteen,
}

impl TryFrom<u8> for Bits {
    type Error = String;

    fn try_from(bits: u8) -> Result<Self, String> {
        match bits {
            8 => Ok(Self::Eight),
            16 => Ok(Self::Sixteen),
            other => Err(format!("a channel has 8 or 16 bits, not {other}")),
        }
    }
}

impl From<Bits> for u8 {
    fn from(bits: Bits) -> Self {
        match bits {
            Bits::Eight => 8,
            Bits::Sixteen => 16,
        }
    }
}

/// A file format with its settings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "type", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Encoding {
    Jpeg {
        /// 1 to 100; with `within_kb`, the best that is tried.
        #[serde(default = "usual_quality")]
        quality: u8,
        #[serde(default)]
        sampling: Sampling,
        /// Largest file in kB (1000 bytes): the quality is lowered until it fits.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        within_kb: Option<u32>,
    },
    Png {
        #[serde(default = "eight")]
        bits: Bits,
    },
    Tiff {
        #[serde(default = "sixteen")]
        bits: Bits,
        /// Smaller, without loss.
        #[serde(default)]
        deflate: bool,
    },
    /// Without loss, 8 bits.
    Webp {},
    /// Without loss.
    Jxl {
        #[serde(default = "eight")]
        bits: Bits,
    },
}

/// A JPEG's quality where nothing is said.
pub const USUAL_QUALITY: u8 = 92;

fn usual_quality() -> u8 {
    USUAL_QUALITY
}

fn eight() -> Bits {
    Bits::Eight
}

fn sixteen() -> Bits {
    Bits::Sixteen
}

impl Default for Encoding {
    fn default() -> Self {
        Self::jpeg(USUAL_QUALITY)
    }
}

impl Encoding {
    /// A JPEG of a quality.
    pub fn jpeg(quality: u8) -> Self {
        Self::Jpeg { quality, sampling: Sampling::Auto, within_kb: None }
    }

    /// The format that a file's ending names, as it usually is.
    pub fn of_ending(ending: &str) -> Option<Self> {
        Some(match ending.to_ascii_lowercase().as_str() {
            "jpg" | "jpeg" => Self::default(),
            "png" => Self::Png { bits: Bits::Eight },
            "tif" | "tiff" => Self::Tiff { bits: Bits::Sixteen, deflate: false },
            "webp" => Self::Webp {},
            "jxl" => Self::Jxl { bits: Bits::Eight },
            _ => return None,
        })
    }

    /// The ending of its files.
    pub fn ending(&self) -> &'static str {
        match self {
            Self::Jpeg { .. } => "jpg",
            Self::Png { .. } => "png",
            Self::Tiff { .. } => "tif",
            Self::Webp {} => "webp",
            Self::Jxl { .. } => "jxl",
        }
    }

    /// Bits of each channel.
    pub fn bits(&self) -> Bits {
        match self {
            Self::Jpeg { .. } | Self::Webp {} => Bits::Eight,
            Self::Png { bits } | Self::Tiff { bits, .. } | Self::Jxl { bits } => *bits,
        }
    }

    /// Longest side that the format takes, in pixels.
    pub fn longest_side(&self) -> u32 {
        match self {
            Self::Jpeg { .. } => 65_535,
            Self::Webp {} => 16_384,
            Self::Png { .. } | Self::Tiff { .. } | Self::Jxl { .. } => 1 << 20,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn formats_are_written_and_read_as_they_are_documented() {
        let read = |text: &str| -> Encoding { serde_json::from_str(text).unwrap() };
        assert_eq!(read(r#"{"type":"jpeg"}"#), Encoding::jpeg(92));
        assert_eq!(read(r#"{"type":"tiff"}"#), Encoding::Tiff { bits: Bits::Sixteen, deflate: false });
        let small = r#"{"type":"jpeg","quality":80,"sampling":"4:2:0","within_kb":400}"#;
        assert_eq!(serde_json::to_string(&read(small)).unwrap(), small);
        for wrong in [r#"{"type":"png","bits":12}"#, r#"{"type":"bmp"}"#, r#"{"type":"webp","quality":3}"#] {
            assert!(serde_json::from_str::<Encoding>(wrong).is_err(), "{wrong}");
        }
        for ending in ["jpg", "png", "tif", "webp", "jxl"] {
            assert_eq!(Encoding::of_ending(ending).unwrap().ending(), ending);
        }
    }
}
