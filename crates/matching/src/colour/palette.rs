//! The colours of a picture, gathered.

use std::collections::BTreeMap;

use amber_core::Source;
use amber_core::colour::lab::{Lab, from_linear_srgb};
use amber_core::picture::reduce::size_for_long_edge;
use amber_core::picture::source::linear_of_code;

/// Long edge at which colours are gathered: grain is averaged by then.
const LONG_EDGE: u32 = 240;
/// Side of a cell of Lab.
const CELL: f64 = 4.0;
/// Least share of the picture that is a colour of it.
const LEAST: f64 = 1.5e-4;

/// Mean distance in Lab of colours from those of their lightness, in a print of one colour.
const MONOCHROME: f64 = 0.5;

/// One colour of a picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gathered {
    /// Mean of the pixels.
    pub lab: Lab,
    /// Mean of the pixels, linear sRGB.
    pub linear: [f64; 3],
    /// Share of the picture.
    pub share: f64,
}

/// The colours of a picture with their shares, from the commonest.
#[derive(Debug, Clone, PartialEq)]
pub struct Palette {
    /// The colours.
    pub colours: Vec<Gathered>,
}

impl Palette {
    /// Gathers the colours of a picture.
    pub fn of(source: &Source) -> Self {
        let (width, height) = size_for_long_edge(LONG_EDGE, source.width(), source.height());
        let small = if width < source.width() { source.reduced(width, height) } else { source.clone() };
        let linear = linear_of_code();
        let mut cells: BTreeMap<[i32; 3], (Lab, [f64; 3], f64)> = BTreeMap::new();
        for i in 0..small.region().pixels() {
            let rgb = small.pixel(i).map(|code| f64::from(linear[code as usize]));
            let lab = from_linear_srgb(rgb);
            let cell = cells.entry(lab.map(|v| (v / CELL).round() as i32)).or_default();
            (0..3).for_each(|k| {
                cell.0[k] += lab[k];
                cell.1[k] += rgb[k];
            });
            cell.2 += 1.0;
        }
        let all = small.region().pixels() as f64;
        let gathered = |(lab, linear, count): (Lab, [f64; 3], f64)| Gathered {
            lab: lab.map(|v| v / count),
            linear: linear.map(|v| v / count),
            share: count / all,
        };
        let mut colours: Vec<Gathered> = cells.into_values().map(gathered).filter(|c| c.share >= LEAST).collect();
        colours.sort_by(|a, b| b.share.total_cmp(&a.share));
        Self { colours }
    }

    /// Whether all colours are tones of one: at every lightness they lie together.
    pub fn is_monochrome(&self) -> bool {
        const CLASSES: usize = 20;
        let class = |c: &Gathered| ((c.lab[0] / 100.0 * CLASSES as f64) as usize).min(CLASSES - 1);
        let mut off = 0.0;
        for k in 0..CLASSES {
            let inside = || self.colours.iter().filter(|c| class(c) == k);
            let all: f64 = inside().map(|c| c.share).sum();
            let mean = [1, 2].map(|i: usize| inside().map(|c| c.share * c.lab[i]).sum::<f64>() / all.max(1e-9));
            off += inside().map(|c| c.share * (c.lab[1] - mean[0]).hypot(c.lab[2] - mean[1])).sum::<f64>();
        }
        off < MONOCHROME
    }

    /// The colours as a picture, one pixel for each.
    pub fn source(&self) -> Source {
        Source::from_linear_srgb(self.colours.len().max(1) as u32, 1, |x, _| {
            self.colours.get(x as usize).map_or([0.0; 3], |c| c.linear)
        })
    }
}
