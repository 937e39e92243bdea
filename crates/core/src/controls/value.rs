//! The value of a control.

use std::fmt;

use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum Value {
    Number(f64),
    Choice(String),
}

impl Value {
    pub fn as_number(&self) -> Option<f64> {
        match self {
            Self::Number(v) => Some(*v),
            Self::Choice(_) => None,
        }
    }

    pub fn choice(&self) -> Option<&str> {
        match self {
            Self::Choice(id) => Some(id),
            Self::Number(_) => None,
        }
    }
}

impl fmt::Display for Value {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        match self {
            Self::Number(v) => write!(f, "{v}"),
            Self::Choice(id) => f.write_str(id),
        }
    }
}
