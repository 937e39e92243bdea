//! The columns of the bench in which the controls of Bath stand, in order.
#![allow(missing_docs, reason = "a column says itself in its label")]

use crate::controls::{Column, lamp};

pub const CHEMISTRY: Column = Column::new("bath.chemistry", "Chemistry");
pub const DEVELOPMENT: Column = Column::new("bath.development", "Development");
pub const EVENNESS: Column =
    Column { lamps: &[lamp!("bath.uneven", "Unevenness")], ..Column::new("bath.evenness", "Evenness") };

pub const COLUMNS: [Column; 3] = [CHEMISTRY, DEVELOPMENT, EVENNESS];
