//! Stocks: the built-in ones and the user's own.

use std::sync::Arc;

use amber_core::{Catalogue, CoreError, Stock};
use rusqlite::{Connection, OptionalExtension, params};

use crate::Library;
use crate::error::LibraryError;
use crate::facts;

/// Fact in which the ids of pinned stocks are remembered.
const PINNED: &str = "pinned stocks";

impl Library {
    /// The user's own stocks, oldest first.
    pub fn own_stocks(&self) -> Result<Vec<Arc<Stock>>, LibraryError> {
        self.database.read(|c| {
            let mut statement = c.prepare_cached("SELECT data FROM own_stocks ORDER BY place")?;
            let rows: Vec<String> = statement.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?;
            rows.iter().map(|data| Ok(Arc::new(Stock::from_json(data)?))).collect()
        })
    }

    /// A stock by id, built in or the user's own.
    pub fn find_stock(&self, id: &str) -> Result<Arc<Stock>, LibraryError> {
        if let Ok(stock) = Catalogue::find(id) {
            return Ok(stock);
        }
        let found = self.database.read(|c| own_stock(c, id))?;
        found.ok_or_else(|| CoreError::UnknownStock { id: id.into() }.into())
    }

    /// Adds a stock of the user's own. Built-in stocks and stocks that are there cannot be overwritten.
    pub fn add_stock(&self, stock: &Stock) -> Result<(), LibraryError> {
        if Catalogue::find(&stock.id).is_ok() {
            return Err(LibraryError::BuiltIn { id: stock.id.clone() });
        }
        let (id, data) = (stock.id.clone(), stock.to_json());
        self.database.write(move |t| {
            if own_stock(t, &id)?.is_some() {
                return Err(LibraryError::StockTaken { id });
            }
            t.execute(
                "INSERT INTO own_stocks VALUES (?1, (SELECT COALESCE(MAX(place), 0) + 1 FROM own_stocks), ?2)",
                params![id, data],
            )?;
            Ok(())
        })
    }

    /// Puts a changed stock in the place of the one with its id, which must be the user's own.
    pub fn replace_stock(&self, stock: &Stock) -> Result<(), LibraryError> {
        let (id, data) = (stock.id.clone(), stock.to_json());
        self.change_own(id, move |t, id| t.execute("UPDATE own_stocks SET data = ?2 WHERE id = ?1", params![id, data]))
    }

    /// Deletes a stock of the user's own. Frames that were developed with it keep their copy.
    pub fn delete_stock(&self, id: &str) -> Result<(), LibraryError> {
        self.change_own(id.into(), |t, id| t.execute("DELETE FROM own_stocks WHERE id = ?1", params![id]))
    }

    fn change_own(
        &self,
        id: String,
        change: impl FnOnce(&Connection, &str) -> rusqlite::Result<usize> + Send + 'static,
    ) -> Result<(), LibraryError> {
        if Catalogue::find(&id).is_ok() {
            return Err(LibraryError::BuiltIn { id });
        }
        self.database.write(move |t| match change(t, &id)? {
            0 => Err(CoreError::UnknownStock { id }.into()),
            _ => Ok(()),
        })
    }

    /// An id that no stock has yet.
    pub fn free_stock_id(&self, wanted: &str) -> Result<String, LibraryError> {
        let taken = |id: &str| match self.find_stock(id) {
            Ok(_) => Ok(true),
            Err(LibraryError::Core(CoreError::UnknownStock { .. })) => Ok(false),
            Err(error) => Err(error),
        };
        let mut id = wanted.to_owned();
        let mut number = 2;
        while taken(&id)? {
            id = format!("{wanted}-{number}");
            number += 1;
        }
        Ok(id)
    }

    /// Ids of the stocks that stand first on the board.
    pub fn pinned_stocks(&self) -> Result<Vec<String>, LibraryError> {
        self.database.read(|c| facts::list(c, PINNED))
    }

    /// Pins or unpins a stock; gives the pinned ones.
    pub fn pin_stock(&self, id: &str, pinned: bool) -> Result<Vec<String>, LibraryError> {
        let id = self.find_stock(id)?.id.clone();
        self.database.write(move |t| facts::pin(t, PINNED, &id, pinned))
    }
}

/// A stock of the user's own by id.
pub(crate) fn own_stock(c: &Connection, id: &str) -> Result<Option<Arc<Stock>>, LibraryError> {
    let data: Option<String> =
        c.query_row("SELECT data FROM own_stocks WHERE id = ?1", [id], |r| r.get(0)).optional()?;
    Ok(data.map(|d| Stock::from_json(&d).map(Arc::new)).transpose()?)
}
