//! A whole roll as one file, and back: originals, developments, proofs, presets, stocks and laid pictures in a ZIP,
//! with a manifest that names the hash of each.

mod reading;
mod writing;

use amber_core::Development;
use serde::{Deserialize, Serialize};

/// Version of the archive's form.
const VERSION: u32 = 1;
const MANIFEST: &str = "manifest.json";

/// What is in an archive.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Manifest {
    version: u32,
    engine: String,
    roll: String,
    frames: Vec<ArchivedFrame>,
    /// Files in the archive, by path.
    files: Vec<ArchivedFile>,
    /// Pictures that are laid on frames.
    #[serde(default)]
    pictures: Vec<ArchivedPicture>,
}

#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct ArchivedFile {
    path: String,
    /// Of its bytes (BLAKE3, hexadecimal).
    hash: String,
    bytes: u64,
}

#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct ArchivedPicture {
    hash: String,
    name: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct ArchivedFrame {
    name: String,
    /// Content hash of the original.
    original: String,
    development: Development,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    mark: String,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    note: String,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    proofs: Vec<ArchivedProof>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct ArchivedProof {
    name: String,
    development: Development,
}

/// Hashes of the pictures of one's own that a development lays.
fn laid(development: &Development) -> impl Iterator<Item = String> + '_ {
    let choices = development.values.values().filter_map(|value| value.choice());
    choices.filter_map(amber_core::controls::own_picture).map(str::to_owned)
}

fn original_path(hash: &str) -> String {
    format!("originals/{hash}")
}

fn picture_path(hash: &str) -> String {
    format!("pictures/{hash}")
}

fn stock_path(hash: &str) -> String {
    format!("stocks/{hash}.json")
}

const PRESETS: &str = "presets.json";
