//! The stocks that ship with the application.

use std::sync::{Arc, LazyLock};

use super::Stock;
use crate::error::CoreError;

/// One JSON file per stock, in the order in which the board shows them.
const FILES: [(&str, &str); 34] = [
    ("plover", include_str!("../../stocks/plover.json")),
    ("tern", include_str!("../../stocks/tern.json")),
    ("petrel", include_str!("../../stocks/petrel.json")),
    ("oriole", include_str!("../../stocks/oriole.json")),
    ("heron", include_str!("../../stocks/heron.json")),
    ("nightjar", include_str!("../../stocks/nightjar.json")),
    ("wren", include_str!("../../stocks/wren.json")),
    ("dunlin", include_str!("../../stocks/dunlin.json")),
    ("feldspar", include_str!("../../stocks/feldspar.json")),
    ("beryl", include_str!("../../stocks/beryl.json")),
    ("garnet", include_str!("../../stocks/garnet.json")),
    ("celestine", include_str!("../../stocks/celestine.json")),
    ("mistral", include_str!("../../stocks/mistral.json")),
    ("sirocco", include_str!("../../stocks/sirocco.json")),
    ("bora", include_str!("../../stocks/bora.json")),
    ("alder", include_str!("../../stocks/alder.json")),
    ("juniper", include_str!("../../stocks/juniper.json")),
    ("hawthorn", include_str!("../../stocks/hawthorn.json")),
    ("rowan", include_str!("../../stocks/rowan.json")),
    ("whitebeam", include_str!("../../stocks/whitebeam.json")),
    ("blackthorn", include_str!("../../stocks/blackthorn.json")),
    ("cowrie", include_str!("../../stocks/cowrie.json")),
    ("limpet", include_str!("../../stocks/limpet.json")),
    ("whelk", include_str!("../../stocks/whelk.json")),
    ("cladonia", include_str!("../../stocks/cladonia.json")),
    ("parmelia", include_str!("../../stocks/parmelia.json")),
    ("cyanotype", include_str!("../../stocks/cyanotype.json")),
    ("van-dyke", include_str!("../../stocks/van-dyke.json")),
    ("platinum", include_str!("../../stocks/platinum.json")),
    ("salt", include_str!("../../stocks/salt.json")),
    ("albumen", include_str!("../../stocks/albumen.json")),
    ("gum", include_str!("../../stocks/gum.json")),
    ("tintype", include_str!("../../stocks/tintype.json")),
    ("ambrotype", include_str!("../../stocks/ambrotype.json")),
];

static BUILT_IN: LazyLock<Vec<Arc<Stock>>> = LazyLock::new(|| {
    FILES
        .iter()
        .map(|(id, text)| match Stock::of_data(text) {
            Ok(stock) => Arc::new(stock),
            Err(error) => panic!("the built-in stock {id}: {error}"), // a test reads them all
        })
        .collect()
});

/// All built-in stocks.
#[derive(Debug, Clone, Copy, Default)]
pub struct Catalogue;

impl Catalogue {
    /// Every built-in stock, by family.
    pub fn all() -> &'static [Arc<Stock>] {
        &BUILT_IN
    }

    /// The stock with an id.
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
