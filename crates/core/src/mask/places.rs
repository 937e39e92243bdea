//! Where the pixels of a frame lie in the picture as it came.

use crate::picture::framing::Framing;
use crate::picture::{Plane, Region};

/// The pixels of a region of a frame of some scale.
pub(super) struct Places {
    frame: [u32; 2],
    region: Region,
    /// Shares of the original picture, pixel by pixel, where it was framed.
    mapped: Option<Vec<[f32; 2]>>,
}

impl Places {
    pub fn new(framing: Option<&Framing>, frame: [u32; 2], region: Region) -> Self {
        let share = |i: u32, size: u32| (f64::from(i) + 0.5) / f64::from(size);
        let mapped = framing.map(|framing| {
            let at = |x: u32, y: u32| framing.source_of([share(x, frame[0]), share(y, frame[1])]).map(|v| v as f32);
            (region.y..region.bottom()).flat_map(|y| (region.x..region.right()).map(move |x| at(x, y))).collect()
        });
        Self { frame, region, mapped }
    }

    pub fn count(&self) -> usize {
        self.region.pixels()
    }

    /// Calls with the index of each pixel and its place in shares of the original.
    pub fn each(&self, mut act: impl FnMut(usize, [f32; 2])) {
        if let Some(places) = &self.mapped {
            places.iter().enumerate().for_each(|(i, p)| act(i, *p));
            return;
        }
        let share = |i: u32, size: u32| ((f64::from(i) + 0.5) / f64::from(size)) as f32;
        let across: Vec<f32> = (self.region.x..self.region.right()).map(|x| share(x, self.frame[0])).collect();
        for (row, y) in (self.region.y..self.region.bottom()).enumerate() {
            let v = share(y, self.frame[1]);
            for (column, u) in across.iter().enumerate() {
                act(row * across.len() + column, [*u, v]);
            }
        }
    }

    /// The values of a plane that lies over the original, between its pixels linearly.
    pub fn read(&self, plane: &Plane) -> Vec<f32> {
        let Some(places) = &self.mapped else {
            return plane.enlarged(self.frame[0] as usize, self.frame[1] as usize, self.region);
        };
        let along = |share: f32, size: usize| {
            let at = (share * size as f32 - 0.5).clamp(0.0, (size - 1) as f32);
            let first = (at as usize).min(size.saturating_sub(2));
            (first, (first + 1).min(size - 1), at - first as f32)
        };
        let value = |[u, v]: &[f32; 2]| {
            let (left, right, fx) = along(*u, plane.width);
            let (top, bottom, fy) = along(*v, plane.height);
            let at = |x: usize, y: usize| plane.values[y * plane.width + x];
            let (above, below) = (at(left, top), at(left, bottom));
            let above = above + (at(right, top) - above) * fx;
            above + (below + (at(right, bottom) - below) * fx - above) * fy
        };
        places.iter().map(value).collect()
    }
}
