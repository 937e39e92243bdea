//! How large a mount is, and where in it the picture lies.
//!
//! The film's dimensions are those of the international standards as remembered, not looked up again: 35 mm film and
//! its perforations (ISO 1007 for still cameras, ISO 491 for cine), 120 roll film (ISO 732), 16 mm film (ISO 69).
//! Sheets are held by a rebate of 3 mm.

use super::{MountKind, MountSettings};
use crate::picture::{Gate, Region};

/// The film that a gate lies on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Stock {
    /// Perforated on both edges; the picture's long side along the film, or across it.
    Perforated { along: bool },
    /// Roll film without perforations.
    Roll { along: bool },
    /// One perforation to a frame, on one edge.
    Narrow,
    /// Cut to single sheets, notched.
    Sheet,
}

/// Widths of films in mm.
pub const WIDE_35_MM: f64 = 34.975;
pub const WIDE_120_MM: f64 = 61.5;
pub const WIDE_16_MM: f64 = 15.95;
/// Rebate of a sheet.
const SHEET_MM: f64 = 3.0;
/// What is seen of the gap between frames.
const GAP_MM: f64 = 1.4;
/// On the narrowest film the side with the perforation, and the other.
const HOLED_MM: f64 = 2.45;

impl Stock {
    /// By the gate.
    pub fn of(gate: Gate) -> Self {
        let near = |a: f64, b: f64| (a - b).abs() < 0.6;
        let Gate { long_mm, short_mm } = gate;
        match (long_mm, short_mm) {
            (36.0, _) => Self::Perforated { along: true },
            (long, short) if near(long, 24.0) && near(short, 18.0) => Self::Perforated { along: false },
            (long, short) if (21.0..25.5).contains(&long) && (15.0..19.5).contains(&short) => {
                Self::Perforated { along: false }
            }
            (long, _) if near(long, 17.0) => Self::Narrow,
            (long, short) if near(short, 56.0) => Self::Roll { along: long > 57.0 },
            (long, short) if near(long, 56.0) && short < 57.0 => Self::Roll { along: false },
            _ => Self::Sheet,
        }
    }

    /// Rebate beside the picture's long side and beyond its short side, in mm: before and after.
    fn margins_mm(self, gate: Gate) -> [[f64; 2]; 2] {
        let beside = |film: f64, side: f64| [((film - side) / 2.0).max(0.6); 2];
        let gap = [GAP_MM; 2];
        match self {
            // beside the long side lie the perforations
            Self::Perforated { along: true } => [beside(WIDE_35_MM, gate.short_mm), gap],
            Self::Perforated { along: false } => [gap, beside(WIDE_35_MM, gate.long_mm)],
            Self::Roll { along: true } => [beside(WIDE_120_MM, gate.short_mm), gap],
            Self::Roll { along: false } => [gap, beside(WIDE_120_MM, gate.long_mm)],
            Self::Narrow => [[HOLED_MM, (WIDE_16_MM - gate.short_mm - HOLED_MM).max(0.45)], gap],
            Self::Sheet => [[SHEET_MM; 2]; 2],
        }
    }
}

/// A picture in its mount, in pixels.
#[derive(Debug, Clone, PartialEq)]
pub struct Layout {
    /// Width and height of the whole.
    pub whole: [u32; 2],
    /// Where the picture lies in it.
    pub picture: Region,
    /// How far into the picture the mount may reach.
    reach: u32,
}

impl Layout {
    /// For a picture of a size; `None` without a mount.
    pub fn new(settings: &MountSettings, [width, height]: [u32; 2], pitch_um: f64, gate: Gate) -> Option<Self> {
        let long = f64::from(width.max(height));
        let px = |share: f64| (share * long).round().max(0.0) as u32;
        let mm = |mm: f64| (1000.0 * mm / pitch_um).round().max(1.0) as u32;
        let even = |side: u32| [[side; 2]; 2];
        // beside the long side and beyond the short one, before and after
        let (sides, reach) = match settings.kind {
            MountKind::None => return None,
            MountKind::Border => (even(px(settings.width)), 0),
            MountKind::Deckle => (even(px(settings.width + 0.014)), 0),
            MountKind::Mat => (even(px(settings.width.max(0.02))), px(0.012)),
            MountKind::Instant => {
                let side = px(settings.width.max(0.02));
                // the lower side holds the pod that the developer came in
                let lower = (f64::from(side) * 3.4).round() as u32;
                let [upper, lower] = [side, lower];
                let whole = [width + 2 * side, height + upper + lower];
                let picture = Region::new(side, upper, width, height);
                return Some(Self { whole, picture, reach: px(0.02 + settings.round) });
            }
            MountKind::Rebate => {
                let [beside, beyond] = Stock::of(gate).margins_mm(gate);
                ([beside.map(mm), beyond.map(mm)], px(0.012))
            }
            MountKind::Holder => (even(px(settings.width.max(0.02))), px(0.016)),
        };
        // which sides are the picture's long ones
        let ([left, right], [top, bottom]) = if width >= height { (sides[1], sides[0]) } else { (sides[0], sides[1]) };
        let whole = [width + left + right, height + top + bottom];
        let picture = Region::new(left, top, width, height);
        Some(Self { whole, picture, reach: reach.max(px(settings.round)) })
    }

    /// The part of the picture that no mount touches.
    pub fn untouched(&self) -> Option<Region> {
        let r = &self.picture;
        let twice = 2 * (self.reach + 2);
        (r.width > twice && r.height > twice)
            .then(|| Region::new(r.x + twice / 2, r.y + twice / 2, r.width - twice, r.height - twice))
    }

    /// Left, top, right and bottom of the picture in the whole.
    pub fn sides(&self) -> [f32; 4] {
        let r = &self.picture;
        [r.x, r.y, r.right(), r.bottom()].map(|v| v as f32)
    }

    /// Long edge of the picture.
    pub fn long(&self) -> f32 {
        self.picture.width.max(self.picture.height) as f32
    }

    /// The size to which a picture is made so that the whole is no longer than the picture was.
    pub fn picture_for_its_size(&self) -> [u32; 2] {
        let [width, height] = [self.picture.width, self.picture.height].map(f64::from);
        let factor = (width.max(height)) / f64::from(self.whole[0].max(self.whole[1]));
        [width, height].map(|side| ((side * factor).round() as u32).max(1))
    }
}
