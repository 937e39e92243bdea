//! A table as a part of a document: 16 bits a channel, in base64.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{Look, check_size};

/// As it is written.
#[derive(Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(super) struct Packed {
    /// Colours of each channel.
    size: u32,
    /// Encoded sRGB, 16 bits a channel, the lower byte first, red running fastest; in base64.
    colours: String,
}

impl From<Look> for Packed {
    fn from(look: Look) -> Self {
        let bytes: Vec<u8> =
            look.colours.iter().flatten().flat_map(|v| ((v * 65535.0 + 0.5) as u16).to_le_bytes()).collect();
        Self { size: look.size, colours: STANDARD.encode(bytes) }
    }
}

impl TryFrom<Packed> for Look {
    type Error = String;

    fn try_from(packed: Packed) -> Result<Self, String> {
        check_size(packed.size).map_err(|e| e.to_string())?;
        let bytes = STANDARD.decode(&packed.colours).map_err(|e| format!("its colours are no base64: {e}"))?;
        let codes: Vec<f32> =
            bytes.chunks_exact(2).map(|v| f32::from(u16::from_le_bytes([v[0], v[1]])) / 65535.0).collect();
        let colours = codes.chunks_exact(3).map(|c| [c[0], c[1], c[2]]).collect();
        Look::of_colours(packed.size, colours).map_err(|e| e.to_string())
    }
}
