//! Reference values of patches that are published and may be cited.

use amber_core::colour::lab::Lab;

/// A table of reference values.
#[derive(Debug, Clone, Copy)]
pub struct Published {
    /// As scripts name it.
    pub id: &'static str,
    /// As people know it.
    pub label: &'static str,
    /// Names and colours: CIE Lab under D50.
    pub patches: &'static [(&'static str, Lab)],
}

/// The tables: the fourteen test colours of CIE 13.3-1995, computed from their published spectral radiance factors for
/// the 2 degree observer under D50 (rounded to a tenth), with ten even greys beside them.
pub const PUBLISHED: [Published; 1] = [Published {
    id: "cie-13-3",
    label: "Test colours of CIE 13.3-1995, and ten greys",
    patches: &[
        ("TCS01", [62.0, 19.0, 13.0]),
        ("TCS02", [61.0, 2.7, 29.3]),
        ("TCS03", [62.1, -17.8, 43.9]),
        ("TCS04", [60.8, -31.7, 15.3]),
        ("TCS05", [61.9, -19.1, -9.7]),
        ("TCS06", [60.9, -4.0, -29.3]),
        ("TCS07", [61.1, 17.8, -23.9]),
        ("TCS08", [63.2, 27.3, -12.3]),
        ("TCS09", [41.8, 62.0, 31.7]),
        ("TCS10", [82.0, 1.8, 71.7]),
        ("TCS11", [51.6, -41.2, 11.5]),
        ("TCS12", [29.2, -5.2, -49.4]),
        ("TCS13", [80.8, 13.7, 21.8]),
        ("TCS14", [40.8, -12.4, 24.1]),
        ("Grey 1", [12.0, 0.0, 0.0]),
        ("Grey 2", [21.0, 0.0, 0.0]),
        ("Grey 3", [30.0, 0.0, 0.0]),
        ("Grey 4", [39.0, 0.0, 0.0]),
        ("Grey 5", [48.0, 0.0, 0.0]),
        ("Grey 6", [57.0, 0.0, 0.0]),
        ("Grey 7", [66.0, 0.0, 0.0]),
        ("Grey 8", [75.0, 0.0, 0.0]),
        ("Grey 9", [84.0, 0.0, 0.0]),
        ("Grey 10", [93.0, 0.0, 0.0]),
    ],
}];
