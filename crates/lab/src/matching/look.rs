//! The look of a frame brought to a reference, and what of a proposal is taken.

use std::collections::BTreeSet;
use std::sync::Arc;

use amber_core::render::Watch;
use amber_core::{Catalogue, Development, Stock};
use amber_library::Change;
use amber_matching::reference::{Asked, Proposal, ReferenceMatch, match_reference};

use super::reference::ReferenceOf;
use crate::Lab;
use crate::changing::Stepped;
use crate::error::LabError;

/// Long edge at which looks are compared.
const LONG_EDGE: u32 = 720;

/// What of a proposal is taken.
#[derive(Debug, Clone)]
pub struct Taken {
    /// Its stock.
    pub stock: bool,
    /// The controls whose values come along.
    pub values: BTreeSet<String>,
}

impl Lab {
    /// Stocks and values by which a frame comes to look like a reference, among all stocks.
    pub fn match_look(
        &self,
        frame: i64,
        development: &Development,
        of: ReferenceOf,
        watch: Watch,
    ) -> Result<ReferenceMatch, LabError> {
        let reference = self.reference_small(of, LONG_EDGE)?;
        let stock = self.library.stock_of(development)?;
        let small = self.measured_at(frame, development, &stock, LONG_EDGE)?;
        let mut stocks: Vec<Arc<Stock>> = Catalogue::all().to_vec();
        stocks.extend(self.library.own_stocks()?);
        let asked = Asked {
            // takes seconds: views go first
            renderer: &self.background,
            frame: &small,
            development,
            stock: &stock,
            reference: &reference,
            stocks: &stocks,
            watch,
        };
        Ok(match_reference(&asked)?)
    }

    /// Takes a proposal, or a part of it, as one step.
    pub fn take_look(&self, id: i64, revision: i64, proposal: &Proposal, taken: &Taken) -> Result<Stepped, LabError> {
        let before = self.library.frame(id)?;
        let mut development = before.summary.development;
        let stock = if taken.stock { proposal.stock.clone() } else { before.stock };
        if taken.stock {
            development.change_stock(&stock);
        }
        for moved in proposal.moved.iter().filter(|m| taken.values.contains(m.control.id)) {
            if (moved.control.applies)(&stock) {
                development.set(&stock, moved.control.id, moved.value.clone())?;
            }
        }
        let label = "Matched to a reference".to_owned();
        let change = Change { revision, label, development };
        let message = format!("Taken: {}.", proposal.words());
        Ok(Stepped { frame: self.library.commit(id, change, &stock)?, message })
    }
}
