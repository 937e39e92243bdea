//! Which noise: each accident of a frame is drawn from a layer of the hash of its own, so that no two are alike.
#![allow(missing_docs, reason = "a layer is named for its effect")]

/// A layer of hashed noise. Its number is part of what a frame looks like: numbers are never changed, and none is used
/// twice.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoiseLayer {
    /// White noise of a film layer's grain, 0 to 2.
    Grain(u8),
    /// Mottle that the film layers have in common, and that of each, by octave (0 or 1).
    MottleInCommon {
        octave: u8,
    },
    Mottle {
        layer: u8,
        octave: u8,
    },
    /// Grains of a screen plate: their places and colours; and what is left of them in coarse pixels, by colour.
    Mosaic,
    MosaicUnresolved(u8),
    /// Uneven development: slow, faster, streaks.
    Uneven(u8),
    /// A coating's edge by octave (0 or 1), its pools, its strokes.
    CoatingEdge(u8),
    CoatingPools,
    CoatingStrokes,
    Sun,
    Mirroring,
    /// A spot: whether there is one, its size, its place across and down.
    Foxing(u8),
    /// The corner that water came from, and its shore by octave (0 or 1).
    WaterCorner,
    WaterShore(u8),
}

impl NoiseLayer {
    pub const fn number(self) -> u64 {
        match self {
            Self::Grain(layer) => layer as u64,
            Self::MottleInCommon { octave } => 40 + 8 * octave as u64,
            Self::Mottle { layer, octave } => 41 + layer as u64 + 8 * octave as u64,
            Self::Mosaic => 60,
            Self::MosaicUnresolved(colour) => 61 + colour as u64,
            Self::Uneven(part) => 80 + part as u64,
            Self::CoatingEdge(octave) => 100 + octave as u64,
            Self::CoatingPools => 102,
            Self::CoatingStrokes => 103,
            Self::Sun => 110,
            Self::Mirroring => 120,
            Self::WaterCorner => 122,
            Self::WaterShore(octave) => 123 + octave as u64,
            Self::Foxing(part) => 137 + 16 * part as u64,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_two_accidents_share_a_layer() {
        let mut all = vec![
            NoiseLayer::Mosaic,
            NoiseLayer::CoatingPools,
            NoiseLayer::CoatingStrokes,
            NoiseLayer::Sun,
            NoiseLayer::Mirroring,
            NoiseLayer::WaterCorner,
        ];
        for octave in 0..2 {
            all.extend([
                NoiseLayer::MottleInCommon { octave },
                NoiseLayer::CoatingEdge(octave),
                NoiseLayer::WaterShore(octave),
            ]);
            all.extend((0..3).map(|layer| NoiseLayer::Mottle { layer, octave }));
        }
        all.extend((0..3).flat_map(|k| [NoiseLayer::Grain(k), NoiseLayer::MosaicUnresolved(k), NoiseLayer::Uneven(k)]));
        all.extend((0..4).map(NoiseLayer::Foxing));
        let numbers: std::collections::BTreeSet<u64> = all.iter().map(|layer| layer.number()).collect();
        assert_eq!(numbers.len(), all.len());
    }
}
