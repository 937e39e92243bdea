//! A roll as one job: what is done to many frames, and taken back.

use std::collections::BTreeSet;

use amber_core::controls::Rest;
use amber_core::{CoreError, stations};

use crate::Lab;
use crate::delivery::{Named, named_by};
use crate::error::LabError;
use crate::together::Applied;

impl Lab {
    /// Frames as their stocks are: what was tuned goes, what belongs to the picture stays.
    pub fn back_to_stock(&self, frames: &[i64]) -> Result<Applied, LabError> {
        let change = |frame: &amber_library::FrameSummary, stock: &std::sync::Arc<amber_core::Stock>| {
            let mut development = frame.development.clone();
            development.values.retain(|id, _| {
                stations::find(id).is_ok_and(|control| {
                    let of_list = stations::list_of(id).is_some_and(|list| !list.is_the_pictures());
                    control.rest == Rest::Stays || (control.picture_specific && !of_list)
                })
            });
            development.off.clear();
            Ok(Some((development, stock.clone())))
        };
        self.together(frames, "Back to stock", change, None)
    }

    /// Copies a mask to other frames; each gets it as a mask of its own. All frames get it, or none.
    pub fn copy_mask(&self, id: i64, mask: &str, to: &BTreeSet<i64>) -> Result<usize, LabError> {
        let masks = self.library.frame(id)?.summary.development.masks;
        let copied =
            masks.get(mask).ok_or_else(|| CoreError::UnknownMask { label: "This copy".into(), id: mask.to_owned() })?;
        let others: Vec<i64> = to.iter().copied().filter(|to| *to != id).collect();
        if others.is_empty() {
            return Ok(0);
        }
        let applied = self.together(
            &others,
            &format!("Mask {} copied here", copied.name),
            |frame, stock| {
                let mut development = frame.development.clone();
                development.add_mask(copied.clone());
                development.check()?;
                Ok(Some((development, stock.clone())))
            },
            None,
        )?;
        Ok(applied.frames.len())
    }

    /// Names frames by a pattern, in the order in which they are given; gives their names before.
    pub fn rename_by(&self, frames: &[i64], pattern: &str) -> Result<Vec<(i64, String)>, LabError> {
        let summaries = self.library.some_frames(frames)?;
        let Some(first) = summaries.first() else { return Err(LabError::NoFrames) };
        let roll = self.library.roll(first.roll)?.name;
        let mut names = Vec::with_capacity(summaries.len());
        for (i, frame) in summaries.iter().enumerate() {
            let stock = self.library.stock_of(&frame.development)?.name();
            let named = Named { name: &frame.name, roll: &roll, stock: &stock, number: i + 1, taken: frame.taken };
            names.push((frame.id, named_by(pattern, &named)?));
        }
        Ok(self.library.rename_frames(names)?)
    }
}
