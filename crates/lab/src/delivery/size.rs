//! How large a picture leaves. It is never enlarged.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::error::LabError;

/// Bounds of sides in pixels.
const SIDES: std::ops::RangeInclusive<u32> = 16..=65_535;
/// Millimetres of an inch.
const INCH_MM: f64 = 25.4;

/// How large a picture is to be.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "by", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Size {
    /// Every pixel of the original.
    #[default]
    Full,
    LongEdge {
        px: u32,
    },
    /// Within a box, whichever side meets it first.
    Box {
        width_px: u32,
        height_px: u32,
    },
    /// At most so many millions of pixels.
    Megapixels {
        millions: f64,
    },
    /// On paper, which is turned as the picture lies.
    Print {
        width_mm: f64,
        height_mm: f64,
        ppi: f64,
    },
}

impl Size {
    /// Refuses sizes that are none.
    pub fn check(&self) -> Result<(), LabError> {
        let side = |v: u32| if SIDES.contains(&v) { Ok(()) } else { Err(LabError::Side(v)) };
        let within = |v: f64, low: f64, high: f64, what: &'static str| {
            if (low..=high).contains(&v) { Ok(()) } else { Err(LabError::Size { what, value: v, low, high }) }
        };
        match *self {
            Self::Full => Ok(()),
            Self::LongEdge { px } => side(px),
            Self::Box { width_px, height_px } => side(width_px).and(side(height_px)),
            Self::Megapixels { millions } => within(millions, 0.001, 1000.0, "millions of pixels"),
            Self::Print { width_mm, height_mm, ppi } => within(width_mm, 5.0, 5000.0, "a print's width in mm")
                .and(within(height_mm, 5.0, 5000.0, "a print's height in mm"))
                .and(within(ppi, 36.0, 2400.0, "pixels per inch")),
        }
    }

    /// Share of the picture's sides that is left, at most 1.
    fn share(&self, [width, height]: [u32; 2]) -> f64 {
        let [w, h] = [width, height].map(f64::from);
        let share = match *self {
            Self::Full => 1.0,
            Self::LongEdge { px } => f64::from(px) / w.max(h),
            Self::Box { width_px, height_px } => (f64::from(width_px) / w).min(f64::from(height_px) / h),
            Self::Megapixels { millions } => (millions * 1e6 / (w * h)).sqrt(),
            Self::Print { ppi, .. } => self.print_share([w, h]) * ppi,
        };
        share.min(1.0)
    }

    /// Inches on paper for each pixel.
    fn print_share(&self, [w, h]: [f64; 2]) -> f64 {
        let Self::Print { width_mm, height_mm, .. } = *self else { return 0.0 };
        let (long, short) = (width_mm.max(height_mm) / INCH_MM, width_mm.min(height_mm) / INCH_MM);
        let (paper_w, paper_h) = if w >= h { (long, short) } else { (short, long) };
        (paper_w / w).min(paper_h / h)
    }

    /// The size in pixels of a picture that has so many.
    pub fn pixels(&self, full: [u32; 2]) -> [u32; 2] {
        let share = self.share(full);
        full.map(|side| ((f64::from(side) * share).round() as u32).clamp(1, side.max(1)))
    }

    /// Pixels per inch at which a picture of so many pixels has the size on paper; none where that is not asked for.
    /// Fewer than were asked for where the picture has no more.
    pub fn pixels_per_inch(&self, full: [u32; 2]) -> Option<f64> {
        let Self::Print { ppi, .. } = *self else { return None };
        Some(ppi.min(1.0 / self.print_share(full.map(f64::from))))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sizes_of_every_kind() {
        let full = [6000, 4000];
        let print = Size::Print { width_mm: 254.0, height_mm: 203.2, ppi: 300.0 };
        for (size, wanted) in [
            (Size::Full, full),
            (Size::LongEdge { px: 1500 }, [1500, 1000]),
            (Size::LongEdge { px: 60_000 }, full),
            (Size::Box { width_px: 1200, height_px: 600 }, [900, 600]),
            (Size::Megapixels { millions: 6.0 }, [3000, 2000]),
            (print, [3000, 2000]),
        ] {
            assert_eq!(size.pixels(full), wanted, "{size:?}");
        }
        // the paper is turned for an upright picture, and a small picture is not enlarged
        assert_eq!(print.pixels([4000, 6000]), [2000, 3000]);
        assert_eq!(print.pixels([600, 400]), [600, 400]);
        assert_eq!(print.pixels_per_inch(full), Some(300.0));
        assert_eq!(print.pixels_per_inch([600, 400]), Some(60.0));
        assert_eq!(Size::Full.pixels_per_inch(full), None);
        // one long, one tiny
        assert_eq!(Size::LongEdge { px: 16 }.pixels([8000, 2]), [16, 1]);
        assert_eq!(Size::Megapixels { millions: 1.0 }.pixels([1, 1]), [1, 1]);
    }

    #[test]
    fn sizes_that_are_none_are_refused() {
        for wrong in [
            Size::LongEdge { px: 15 },
            Size::Box { width_px: 100, height_px: 70_000 },
            Size::Megapixels { millions: f64::NAN },
            Size::Print { width_mm: 100.0, height_mm: 0.0, ppi: 300.0 },
        ] {
            assert!(wrong.check().is_err(), "{wrong:?}");
        }
        assert!(serde_json::from_str::<Size>(r#"{"by":"long-edge","px":900}"#).is_ok());
        assert!(serde_json::from_str::<Size>(r#"{"by":"long-edge","edge":900}"#).is_err());
    }
}
