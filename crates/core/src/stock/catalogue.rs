//! The stocks that ship with the application.

use std::sync::{Arc, LazyLock};

use super::Stock;
use crate::error::CoreError;

/// One JSON file per stock, in the order in which the board shows them.
const FILES: [(&str, &str); 3] = [
    ("plover", include_str!("../../stocks/plover.json")),
    ("feldspar", include_str!("../../stocks/feldspar.json")),
    ("juniper", include_str!("../../stocks/juniper.json")),
];

static BUILT_IN: LazyLock<Vec<Arc<Stock>>> = LazyLock::new(|| {
    FILES
        .iter()
        .map(|(id, text)| match Stock::from_json(text) {
            Ok(stock) => Arc::new(stock),
            Err(error) => panic!("the built-in stock {id}: {error}"), // a test reads them all
        })
        .collect()
});

/// All built-in stocks.
#[derive(Debug, Clone, Copy, Default)]
pub struct Catalogue;

impl Catalogue {
    pub fn all() -> &'static [Arc<Stock>] {
        &BUILT_IN
    }

    pub fn find(id: &str) -> Result<Arc<Stock>, CoreError> {
        BUILT_IN.iter().find(|s| s.id == id).cloned().ok_or_else(|| CoreError::UnknownStock { id: id.into() })
    }

    /// The stock of a frame that has not been given another one.
    pub fn first() -> Arc<Stock> {
        BUILT_IN[0].clone()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_built_in_stock_is_valid_and_named_after_its_file() {
        for ((id, text), stock) in FILES.iter().zip(Catalogue::all()) {
            assert_eq!(&Stock::from_json(text).unwrap().id, id);
            assert_eq!(&stock.id, id);
        }
        assert!(Catalogue::find("nothing").is_err());
    }
}
