//! SQLite: one writer thread, pooled readers.

use std::path::{Path, PathBuf};
use std::sync::mpsc::{Sender, channel};
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use rusqlite::{Connection, Transaction};
use rusqlite_migration::{M, Migrations};

use crate::error::LibraryError;

type Job = Box<dyn FnOnce(&mut Connection) + Send>;

/// A handle to the database, shared by all threads.
pub struct Database {
    path: PathBuf,
    writer: Mutex<Sender<Job>>,
    idle_readers: Mutex<Vec<Connection>>,
}

const MOST_IDLE_READERS: usize = 4;

fn connect(path: &Path) -> Result<Connection, LibraryError> {
    let connection = Connection::open(path)?;
    connection.busy_timeout(Duration::from_secs(10))?;
    connection.pragma_update(None, "journal_mode", "WAL")?;
    connection.pragma_update(None, "synchronous", "NORMAL")?;
    connection.pragma_update(None, "foreign_keys", "ON")?;
    Ok(connection)
}

impl Database {
    /// Opens the file, brings its tables up to date and starts the writer.
    pub fn open(path: &Path) -> Result<Self, LibraryError> {
        let mut connection = connect(path)?;
        Migrations::new(vec![
            M::up(include_str!("../migrations/01-first.sql")),
            M::up(include_str!("../migrations/02-own-stocks.sql")),
        ])
        .to_latest(&mut connection)?;
        let (writer, jobs) = channel::<Job>();
        std::thread::Builder::new()
            .name("library writer".into())
            .spawn(move || jobs.into_iter().for_each(|job| job(&mut connection)))
            .map_err(|source| LibraryError::Folder { path: path.to_owned(), source })?;
        Ok(Self { path: path.to_owned(), writer: Mutex::new(writer), idle_readers: Mutex::new(Vec::new()) })
    }

    /// Runs a transaction on the writer thread; it is committed when it returns `Ok`.
    pub fn write<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Transaction) -> Result<T, LibraryError> + Send + 'static,
    ) -> Result<T, LibraryError> {
        let (answer, result) = channel();
        let job: Job = Box::new(move |connection| {
            let done = connection.transaction().map_err(LibraryError::from).and_then(|transaction| {
                let value = work(&transaction)?;
                transaction.commit()?;
                Ok(value)
            });
            let _ = answer.send(done); // nobody may be waiting any more
        });
        self.writer.lock().unwrap_or_else(PoisonError::into_inner).send(job).map_err(|_| LibraryError::Stopped)?;
        result.recv().map_err(|_| LibraryError::Stopped)?
    }

    /// Reads with a pooled connection.
    pub fn read<T>(&self, work: impl FnOnce(&Connection) -> Result<T, LibraryError>) -> Result<T, LibraryError> {
        let idle = self.idle_readers.lock().unwrap_or_else(PoisonError::into_inner).pop();
        let connection = match idle {
            Some(connection) => connection,
            None => connect(&self.path)?,
        };
        let result = work(&connection);
        let mut idle = self.idle_readers.lock().unwrap_or_else(PoisonError::into_inner);
        if idle.len() < MOST_IDLE_READERS {
            idle.push(connection);
        }
        result
    }
}
