//! How much a renderer keeps between renders.

/// Bytes by what they are kept for. Each is a bound of its own; together they are the whole.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Memory {
    /// Developed tiles of views.
    pub tiles: usize,
    /// Mosaics of screen plates.
    pub mosaics: usize,
    /// Light thrown back by the base.
    pub glows: usize,
    /// Blurred planes of the lens.
    pub softs: usize,
    /// Light that blooms.
    pub blooms: usize,
    /// Light of whole small pictures, for pictures in motion.
    pub lights: usize,
    /// Exposure of whole small pictures, likewise.
    pub exposures: usize,
    /// Halves of small pictures, for pictures in motion.
    pub halves: usize,
    /// Drawn masks.
    pub masks: usize,
    /// What Scene knows of a picture's air, and of its bases.
    pub airs: usize,
    /// Tones of a picture's surroundings.
    pub bases: usize,
    /// Films, their grain at a pitch, and what of it a small picture does not show.
    pub films: usize,
    /// Grain of films at a pitch.
    pub grains: usize,
    /// What of grain a small picture does not show.
    pub missing_grains: usize,
    /// Exact tables of prints, and those smoothed for a scale.
    pub tables: usize,
    /// Tables of prints, smoothed for a scale.
    pub prints: usize,
}

impl Memory {
    /// A whole divided into its shares.
    pub const fn of(bytes: usize) -> Self {
        const fn share(bytes: usize, thousandths: usize) -> usize {
            bytes / 1000 * thousandths
        }
        Self {
            tiles: share(bytes, 490),
            mosaics: share(bytes, 60),
            glows: share(bytes, 120),
            softs: share(bytes, 120),
            blooms: share(bytes, 20),
            lights: share(bytes, 12),
            exposures: share(bytes, 8),
            halves: share(bytes, 10),
            masks: share(bytes, 80),
            airs: share(bytes, 20),
            bases: share(bytes, 25),
            films: share(bytes, 4),
            grains: share(bytes, 4),
            missing_grains: share(bytes, 1),
            tables: share(bytes, 10),
            prints: share(bytes, 16),
        }
    }

    /// All of it.
    pub const fn whole(&self) -> usize {
        let Self {
            tiles,
            mosaics,
            glows,
            softs,
            blooms,
            lights,
            exposures,
            halves,
            masks,
            airs,
            bases,
            films,
            grains,
            missing_grains,
            tables,
            prints,
        } = *self;
        tiles
            + mosaics
            + glows
            + softs
            + blooms
            + lights
            + exposures
            + halves
            + masks
            + airs
            + bases
            + films
            + grains
            + missing_grains
            + tables
            + prints
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shares_are_of_one_whole() {
        for bytes in [0, 10_000_000, 1 << 30] {
            let whole = Memory::of(bytes).whole();
            assert!(whole <= bytes && whole + 1000 >= bytes, "{bytes}: {whole}");
        }
    }
}
