//! What a reduced picture remembers of a pixel that holds something small and bright.

/// A pixel of a reduced picture that holds something bright.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Peak {
    /// Which pixel, counted row by row.
    pub index: u32,
    /// Part of the pixel that is bright, 0..1.
    pub share: f32,
    /// Codes of the bright part and of the rest.
    pub bright: [u16; 3],
    /// Codes of the pixel's other part.
    pub rest: [u16; 3],
}
