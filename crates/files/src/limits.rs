//! Bounds on what is decoded.

use crate::error::FileError;

/// Bounds on what is decoded.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Most pixels of a picture, in millions.
    pub megapixels: u64,
}

impl Default for Limits {
    fn default() -> Self {
        Self { megapixels: 120 }
    }
}

impl Limits {
    /// Refuses a picture with more pixels.
    pub fn check(&self, width: u32, height: u32) -> Result<(), FileError> {
        if u64::from(width) * u64::from(height) > self.megapixels.saturating_mul(1_000_000) {
            return Err(FileError::TooManyPixels { width, height, limit: self.megapixels });
        }
        Ok(())
    }
}
