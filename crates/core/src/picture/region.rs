//! Rectangles of pixels.

use serde::{Deserialize, Serialize};

/// A rectangle in the pixel coordinates of one render scale; `x` and `y` count from the full frame's corner.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Region {
    /// Left edge.
    pub x: u32,
    /// Upper edge.
    pub y: u32,
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
}

impl Region {
    /// A rectangle by its corner and size.
    pub const fn new(x: u32, y: u32, width: u32, height: u32) -> Self {
        Self { x, y, width, height }
    }

    /// A rectangle from the frame's corner.
    pub const fn whole(width: u32, height: u32) -> Self {
        Self::new(0, 0, width, height)
    }

    /// The column after the last.
    pub fn right(&self) -> u32 {
        self.x.saturating_add(self.width)
    }

    /// The row after the last.
    pub fn bottom(&self) -> u32 {
        self.y.saturating_add(self.height)
    }

    /// How many pixels it has.
    pub fn pixels(&self) -> usize {
        self.width as usize * self.height as usize
    }

    /// Whether it has none.
    pub fn is_empty(&self) -> bool {
        self.width == 0 || self.height == 0
    }

    /// Whether another lies inside.
    pub fn contains(&self, other: &Region) -> bool {
        other.x >= self.x && other.y >= self.y && other.right() <= self.right() && other.bottom() <= self.bottom()
    }

    /// The part that both cover, or `None`.
    pub fn intersect(&self, other: &Region) -> Option<Region> {
        let (x, y) = (self.x.max(other.x), self.y.max(other.y));
        let (right, bottom) = (self.right().min(other.right()), self.bottom().min(other.bottom()));
        (right > x && bottom > y).then(|| Region::new(x, y, right - x, bottom - y))
    }

    /// The region with `reach` more pixels on every side, as far as the frame goes.
    pub fn grown(&self, reach: u32, frame: &Region) -> Region {
        let (x, y) = (self.x.saturating_sub(reach).max(frame.x), self.y.saturating_sub(reach).max(frame.y));
        let (right, bottom) = (
            self.right().saturating_add(reach).min(frame.right()),
            self.bottom().saturating_add(reach).min(frame.bottom()),
        );
        Region::new(x, y, right - x, bottom - y)
    }

    /// Where in this region a pixel lies that is the `at`-th of a part of it.
    pub fn index_of(&self, part: Self, at: usize) -> usize {
        let (x, y) = (at as u32 % part.width + part.x - self.x, at as u32 / part.width + part.y - self.y);
        (y * self.width + x) as usize
    }

    /// Strips of so many rows, from the top.
    pub fn strips(&self, rows: u32) -> Vec<Self> {
        let strip = |y: u32| Self { y, height: rows.min(self.bottom() - y), ..*self };
        (self.y..self.bottom()).step_by(rows as usize).map(strip).collect()
    }

    /// Cells of a grid with the given pitch, anchored at the frame's corner, that this region touches; each cell is
    /// clipped to `frame`.
    pub fn cells(&self, pitch: u32, frame: &Region) -> Vec<Region> {
        let mut cells = Vec::new();
        let Some(inside) = self.intersect(frame) else { return cells };
        for row in inside.y / pitch..=(inside.bottom() - 1) / pitch {
            for column in inside.x / pitch..=(inside.right() - 1) / pitch {
                cells.extend(Region::new(column * pitch, row * pitch, pitch, pitch).intersect(frame));
            }
        }
        cells
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn cells_cover_once() {
        let frame = Region::whole(1000, 700);
        let region = Region::new(130, 250, 611, 333);
        let cells = region.cells(256, &frame);
        let covered: usize = cells.iter().filter_map(|c| c.intersect(&region)).map(|r| r.pixels()).sum();
        assert_eq!(covered, region.pixels());
        assert!(cells.iter().all(|c| frame.contains(c) && c.x % 256 == 0 && c.y % 256 == 0));
    }

    #[test]
    fn apart_is_none() {
        assert_eq!(Region::new(0, 0, 10, 10).intersect(&Region::new(10, 0, 5, 5)), None);
    }
}
