//! Stocks of the user's own, made from tuned frames or read from files.

use std::sync::Arc;

use amber_core::{CoreError, Look, Stock, StockName};
use amber_library::{Change, Frame};

use crate::Lab;
use crate::error::LabError;

/// Largest stock file, one with the colours of a look in it.
const MOST_STOCK_BYTES: usize = 1 << 20;
/// Largest table of a look.
const MOST_LOOK_BYTES: usize = 64 << 20;

impl Lab {
    /// Keeps a frame's tuning as a stock and loads that stock on the frame, as one step.
    pub fn keep_as_stock(&self, frame: i64, revision: i64, called: &StockName) -> Result<Frame, LabError> {
        let before = self.library.frame(frame)?;
        let development = &before.summary.development;
        let id = self.library.free_stock_id(&called.id())?;
        let stock = before.stock.kept(development, &id, called)?;
        self.library.add_stock(&stock)?;
        let mut after = development.clone();
        after.change_stock(&stock);
        let label = format!("Kept as {}", stock.name());
        let change = Change { revision, label, development: after };
        match self.library.commit(frame, change, &stock) {
            Ok(frame) => Ok(frame),
            Err(error) => {
                // the frame was changed elsewhere: no stock is left behind
                self.library.delete_stock(&stock.id)?;
                Err(error.into())
            }
        }
    }

    /// Reads a stock file and adds it.
    pub fn import_stock(&self, bytes: &[u8]) -> Result<Arc<Stock>, LabError> {
        let invalid = |why: String| CoreError::StockFile { why };
        if bytes.len() > MOST_STOCK_BYTES {
            return Err(invalid(format!("it is larger than {} MiB", MOST_STOCK_BYTES >> 20)).into());
        }
        let text = std::str::from_utf8(bytes).map_err(|e| invalid(format!("it is not text: {e}")))?;
        let stock = Stock::from_json(text)?;
        self.library.add_stock(&stock)?;
        Ok(Arc::new(stock))
    }

    /// Makes a stock of a look's table and adds it: a text form, or a Hald picture.
    pub fn import_look(&self, bytes: &[u8], called: &StockName) -> Result<Arc<Stock>, LabError> {
        let stock = Stock::of_look(&read_look(bytes)?, called)?;
        let stock = stock.renamed(&self.library.free_stock_id(&called.id())?, called)?;
        self.library.add_stock(&stock)?;
        Ok(Arc::new(stock))
    }

    /// Another name, family and notes for a stock of the user's own.
    pub fn rename_stock(&self, id: &str, called: &StockName) -> Result<Arc<Stock>, LabError> {
        let stock = self.library.find_stock(id)?.renamed(id, called)?;
        self.library.replace_stock(&stock)?;
        Ok(Arc::new(stock))
    }
}

/// A look's table in either form.
pub fn read_look(bytes: &[u8]) -> Result<Look, LabError> {
    let wrong = |why: &str| CoreError::Look { why: why.into() };
    if bytes.len() > MOST_LOOK_BYTES {
        return Err(wrong("it is larger than 64 MiB").into());
    }
    let is_picture = bytes.starts_with(b"\x89PNG") || bytes.starts_with(b"II*\0") || bytes.starts_with(b"MM\0*");
    if !is_picture {
        let text = std::str::from_utf8(bytes).map_err(|_| wrong("it is neither text nor a Hald picture"))?;
        return Ok(Look::of_cube(text)?);
    }
    let (side, pixels) = amber_files::plain::square_of_16_bit(bytes)?;
    Ok(Look::of_hald(side, &pixels)?)
}
