//! Developments that came in a file: taken up again with the original that they were made of.

use amber_core::{Catalogue, Stock};
use amber_files::attached::travelling_in;
use amber_files::{Packet, Travelling};
use amber_library::NewFrame;

use crate::Lab;
use crate::error::LabError;

/// What a file brought along.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Brought {
    /// The frame's name where it was made.
    pub name: String,
    pub stock: String,
    /// Whether this library has the original.
    pub original_here: bool,
}

fn stock_of(travelling: &Travelling) -> Result<Stock, LabError> {
    match &travelling.stock {
        Some(stock) => Ok(stock.clone()),
        None => Ok(Catalogue::find(&travelling.development.stock.id)?.as_ref().clone()),
    }
}

impl Lab {
    /// What a file brings along; none where it brings nothing.
    pub fn brought(&self, bytes: &[u8]) -> Result<Option<Brought>, LabError> {
        let Some(travelling) = travelling_in(bytes) else { return Ok(None) };
        let original_here = self.library.content(&travelling.original)?.is_some();
        let stock = stock_of(&travelling)?.name();
        Ok(Some(Brought { name: travelling.name, stock, original_here }))
    }

    /// Takes up the development that a frame's file brought along: its original comes onto the roll, developed so; the
    /// frame itself is taken off, and nothing of it is lost. Gives the new frame's number.
    pub fn take_up(&self, frame: i64) -> Result<i64, LabError> {
        let frame = self.library.frame(frame)?.summary;
        let bytes = self.library.originals.read(&frame.content)?;
        let travelling = travelling_in(&bytes).ok_or(LabError::NothingTravels)?;
        let content = self.library.content(&travelling.original)?.ok_or(LabError::OriginalElsewhere)?;
        let original = self.library.originals.read(&travelling.original)?;
        let stock = stock_of(&travelling)?;
        let name = if travelling.name.is_empty() { frame.name } else { travelling.name };
        let new = NewFrame { name, development: Some(travelling.development), ..content };
        let id = self.library.add_frame(frame.roll, &original, new, &stock)?;
        self.library.take_off(vec![frame.id], true)?;
        Ok(id)
    }

    /// A frame's development as a sidecar file (XMP) to lie beside its original.
    pub fn sidecar(&self, frame: i64) -> Result<String, LabError> {
        let frame = self.library.frame(frame)?;
        let travelling = self.travelling(&frame.summary, &frame.summary.development)?;
        Ok(Packet { travelling: Some(travelling), ..Packet::default() }.to_xml())
    }
}
