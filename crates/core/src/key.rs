//! Keys of what is cached.

use std::fmt::Debug;

/// A hash of everything that a cached thing depends on.
pub type Key = [u8; 16];

/// Hashes the debug form of settings: a new field joins by itself.
pub(crate) fn key(parts: &[&dyn Debug]) -> Key {
    let mut hasher = blake3::Hasher::new();
    for part in parts {
        hasher.update(format!("{part:?};").as_bytes());
    }
    let mut out = [0; 16];
    out.copy_from_slice(&hasher.finalize().as_bytes()[..16]);
    out
}
