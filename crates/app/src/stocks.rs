//! `amber-grain stocks show`, `check`, `of-look` and `schema`.

use std::path::Path;
use std::sync::Arc;

use amber_core::stock::stock_schema;
use amber_core::{Catalogue, Stock, StockName};
use amber_files::write;
use amber_lab::read_look;

use crate::arguments::Stocks;
use crate::documents;
use crate::output;
use crate::sentence;

pub fn run(command: &Stocks) -> Result<(), String> {
    match command {
        Stocks::Show { id } => output::print(&Catalogue::find(id).map_err(|e| sentence::of(&e))?.to_json()),
        Stocks::Check { file } => {
            let stock = documents::stock(file)?;
            let (name, kind, iso) = (stock.name(), stock.kind.words(), stock.iso);
            output::print(&format!("{}: {name}, {kind}, ISO {iso}. It can be used.", file.display()))
        }
        Stocks::OfLook { table, name, family, output } => {
            let bytes = std::fs::read(table).map_err(|e| format!("{} cannot be read: {e}", table.display()))?;
            let look = read_look(&bytes).map_err(|e| format!("{}: {e}", table.display()))?;
            let called = StockName { name: name.clone(), family: family.clone(), notes: String::new() };
            let stock = Stock::of_look(&look, &called).map_err(|e| sentence::of(&e))?;
            write::save(output, stock.to_json().as_bytes()).map_err(|e| sentence::of(&e))
        }
        Stocks::Schema => output::print(&stock_schema()),
    }
}

/// A built-in stock by id, or a stock file by its path.
pub fn named_or_read(named: &str) -> Result<Arc<Stock>, String> {
    match Catalogue::find(named) {
        Ok(stock) => Ok(stock),
        Err(_) if named.ends_with(".json") => documents::stock(Path::new(named)).map(Arc::new),
        Err(error) => Err(error.to_string()),
    }
}
