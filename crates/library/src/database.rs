//! SQLite: one writer thread, pooled readers.
//!
//! What is acknowledged is on the disk (`synchronous=FULL`: the log is synced before a commit returns). After a clean
//! stop the whole library is one file: the log is written back and removed.

use std::path::{Path, PathBuf};
use std::sync::mpsc::{Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::JoinHandle;
use std::time::Duration;

use rusqlite::{Connection, Transaction};
use rusqlite_migration::{HookError, M, Migrations};

use crate::error::LibraryError;
use crate::strokes;

type Job = Box<dyn FnOnce(&mut Connection) + Send>;
type Work = Box<dyn FnOnce(&Transaction) -> Result<(), LibraryError> + Send>;

/// A handle to the database, shared by all threads.
pub struct Database {
    path: PathBuf,
    /// The file that was opened: another in its place is not ours.
    identity: Option<Identity>,
    /// `None` once it is closed.
    writer: Mutex<Option<(Sender<Job>, JoinHandle<()>)>>,
    idle_readers: Mutex<Vec<Connection>>,
}

const MOST_IDLE_READERS: usize = 4;
/// Bytes of the log that are left on the disk between checkpoints, and pages after which one is made.
const LOG_BYTES: u32 = 1 << 18;
const LOG_PAGES: u32 = 64;

/// Device and number of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Identity([u64; 2]);

impl Identity {
    #[cfg(unix)]
    fn of(path: &Path) -> Option<Self> {
        use std::os::unix::fs::MetadataExt;
        std::fs::metadata(path).ok().map(|m| Self([m.dev(), m.ino()]))
    }

    #[cfg(not(unix))]
    fn of(path: &Path) -> Option<Self> {
        path.exists().then_some(Self([0; 2]))
    }
}

fn connect(path: &Path) -> Result<Connection, LibraryError> {
    let open = || -> rusqlite::Result<Connection> {
        let connection = Connection::open(path)?;
        connection.busy_timeout(Duration::from_secs(10))?;
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.pragma_update(None, "wal_autocheckpoint", LOG_PAGES)?;
        connection.pragma_update(None, "journal_size_limit", LOG_BYTES)?;
        Ok(connection)
    };
    open().map_err(|source| LibraryError::Open { path: path.to_owned(), source })
}

fn migrations() -> Migrations<'static> {
    let moved = |t: &Transaction| strokes::migrate(t).map_err(|e| HookError::Hook(e.to_string()));
    Migrations::new(vec![
        M::up(include_str!("../migrations/01-first.sql")),
        M::up(include_str!("../migrations/02-own-stocks.sql")),
        M::up_with_hook(include_str!("../migrations/03-strokes.sql"), moved).foreign_key_check(),
        M::up(include_str!("../migrations/04-pictures.sql")),
        M::up(include_str!("../migrations/05-proofs.sql")),
        M::up(include_str!("../migrations/06-roll.sql")),
        M::up(include_str!("../migrations/07-delivery.sql")),
    ])
}

/// Number of the newest form of the tables.
const NEWEST: i64 = 7;

/// Brings the tables up to date.
fn migrate(connection: &mut Connection, path: &Path) -> Result<(), LibraryError> {
    let path = || path.to_owned();
    let opened = |source| LibraryError::Open { path: path(), source };
    let found: i64 = connection.query_row("PRAGMA user_version", [], |r| r.get(0)).map_err(opened)?;
    if found > NEWEST {
        return Err(LibraryError::TooNew { path: path(), found, known: NEWEST });
    }
    let tables = "SELECT COUNT(*) FROM sqlite_master WHERE type = 'table' AND name IN ('rolls', 'frames', 'history')";
    let tables: i64 = connection.query_row(tables, [], |r| r.get(0)).map_err(opened)?;
    if found < 0 || (found == 0) != (tables == 0) {
        return Err(LibraryError::Damaged { path: path() });
    }
    // tables that others refer to are replaced: nothing may be deleted with the old ones
    connection.pragma_update(None, "foreign_keys", "OFF")?;
    migrations()
        .to_latest(connection)
        .map_err(|source| LibraryError::Migration { path: path(), source: Box::new(source) })?;
    if (1..NEWEST).contains(&found) {
        connection.execute_batch("VACUUM")?;
    }
    connection.pragma_update(None, "foreign_keys", "ON")?;
    Ok(())
}

impl Database {
    /// Opens the file, brings its tables up to date and starts the writer.
    pub fn open(path: &Path) -> Result<Self, LibraryError> {
        let mut connection = connect(path)?;
        migrate(&mut connection, path)?;
        let (writer, jobs) = channel::<Job>();
        let work = move || {
            jobs.into_iter().for_each(|job| job(&mut connection));
            // the last one writes the log back and removes it
            let written = connection.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(()));
            if let Err(error) = written.and_then(|()| connection.close().map_err(|(_, e)| e)) {
                tracing::warn!("the library's log could not be written back: {error}");
            }
        };
        let thread = std::thread::Builder::new()
            .name("library writer".into())
            .spawn(work)
            .map_err(|source| LibraryError::Folder { path: path.to_owned(), source })?;
        Ok(Self {
            path: path.to_owned(),
            identity: Identity::of(path),
            writer: Mutex::new(Some((writer, thread))),
            idle_readers: Mutex::new(Vec::new()),
        })
    }

    /// Ends the writer and leaves one whole file. What is written later is refused.
    pub fn close(&self) {
        let writer = self.writer.lock().unwrap_or_else(PoisonError::into_inner).take();
        self.idle_readers.lock().unwrap_or_else(PoisonError::into_inner).clear();
        if let Some((jobs, thread)) = writer {
            drop(jobs);
            if thread.join().is_err() {
                tracing::warn!("the library's writer ended badly");
            }
        }
    }

    /// Runs a transaction on the writer thread; it is committed when it returns `Ok`.
    pub fn write<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Transaction) -> Result<T, LibraryError> + Send + 'static,
    ) -> Result<T, LibraryError> {
        let made = Arc::new(Mutex::new(None));
        let place = made.clone();
        self.transact(Box::new(move |transaction| {
            let value = work(transaction)?;
            *place.lock().unwrap_or_else(PoisonError::into_inner) = Some(value);
            Ok(())
        }))?;
        made.lock().unwrap_or_else(PoisonError::into_inner).take().ok_or(LibraryError::Stopped)
    }

    fn transact(&self, work: Work) -> Result<(), LibraryError> {
        self.check_file()?;
        let (answer, result) = channel();
        let job: Job = Box::new(move |connection| {
            let done = connection.transaction().map_err(LibraryError::from).and_then(|transaction| {
                work(&transaction)?;
                Ok(transaction.commit()?)
            });
            let _ = answer.send(done); // nobody may be waiting any more
        });
        let writer = self.writer.lock().unwrap_or_else(PoisonError::into_inner);
        let (jobs, _) = writer.as_ref().ok_or(LibraryError::Stopped)?;
        jobs.send(job).map_err(|_| LibraryError::Stopped)?;
        drop(writer);
        result.recv().map_err(|_| LibraryError::Stopped)?
    }

    /// A database whose file is gone would take everything and keep nothing.
    fn check_file(&self) -> Result<(), LibraryError> {
        if Identity::of(&self.path) == self.identity {
            return Ok(());
        }
        Err(LibraryError::Gone { path: self.path.clone() })
    }

    /// Reads with a pooled connection.
    pub fn read<T>(&self, work: impl FnOnce(&Connection) -> Result<T, LibraryError>) -> Result<T, LibraryError> {
        let connection = self.reader()?;
        let result = work(&connection);
        self.give_back(connection);
        result
    }

    fn reader(&self) -> Result<Connection, LibraryError> {
        self.check_file()?;
        let idle = self.idle_readers.lock().unwrap_or_else(PoisonError::into_inner).pop();
        idle.map_or_else(|| connect(&self.path), Ok)
    }

    fn give_back(&self, connection: Connection) {
        let open = self.writer.lock().unwrap_or_else(PoisonError::into_inner).is_some();
        let mut idle = self.idle_readers.lock().unwrap_or_else(PoisonError::into_inner);
        if open && idle.len() < MOST_IDLE_READERS {
            idle.push(connection);
        }
    }
}

impl Drop for Database {
    fn drop(&mut self) {
        self.close();
    }
}
