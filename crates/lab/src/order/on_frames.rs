//! An order on frames of the library: each is put in the queue as the order develops it. The frames stay as they are.

use std::path::PathBuf;
use std::sync::Arc;

use amber_core::Development;
use amber_library::FrameSummary;

use super::LabOrder;
use crate::Lab;
use crate::delivery::{ExportSettings, Named};
use crate::error::LabError;

impl Lab {
    /// Names of the files that an order makes of frames, without ending.
    pub fn names_of_order(&self, order: &LabOrder, frames: &[i64]) -> Result<Vec<String>, LabError> {
        Ok(self.ordered(order, frames)?.into_iter().map(|(_, name, _)| name).collect())
    }

    /// Puts frames in the queue by an order, all of them or none. Gives the exports' numbers, of which the first is
    /// that of all.
    pub fn run_order(
        self: &Arc<Self>,
        order: &LabOrder,
        frames: &[i64],
        folder: Option<PathBuf>,
    ) -> Result<Vec<i64>, LabError> {
        let settings = |(frame, name, development): (FrameSummary, String, Development)| ExportSettings {
            frame: frame.id,
            name,
            output: order.output.clone(),
            folder: folder.clone(),
            development: Some(development),
        };
        self.start_exports(self.ordered(order, frames)?.into_iter().map(settings).collect())
    }

    /// Frames with their names and as the order develops them.
    fn ordered(&self, order: &LabOrder, frames: &[i64]) -> Result<Vec<(FrameSummary, String, Development)>, LabError> {
        order.check()?;
        let frames = self.library.some_frames(frames)?;
        if frames.is_empty() {
            return Err(LabError::NoFrames);
        }
        let find = |named: &amber_core::development::StockRef| {
            let named = Development { stock: named.clone(), ..Development::new(&amber_core::Catalogue::first()) };
            Ok(self.library.stock_of(&named)?)
        };
        let mut made = Vec::with_capacity(frames.len());
        for frame in &frames {
            let own = (&frame.development, self.library.stock_of(&frame.development)?);
            let (development, stock) = order.laid_on(own, find)?;
            if let Some(data) = &order.stock {
                self.library.keep_stock_copy(data)?;
            }
            self.library.keep_stock_copy(&stock)?;
            made.push((development, stock.name(), self.library.roll(frame.roll)?.name));
        }
        let named: Vec<Named> = frames
            .iter()
            .zip(&made)
            .enumerate()
            .map(|(i, (frame, (_, stock, roll)))| Named {
                name: &frame.name,
                roll,
                stock,
                number: i + 1,
                taken: frame.taken,
            })
            .collect();
        let names = order.names(&named)?;
        let together = frames.iter().cloned().zip(names).zip(made);
        Ok(together.map(|((frame, name), (development, ..))| (frame, name, development)).collect())
    }
}
