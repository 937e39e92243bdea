//! Pictures that leave: how a file is to be, how it is rendered and named, and the queue in which exports wait.

mod developed;
mod names;
mod naming;
mod output;
mod queue;
mod rendering;
mod size;
mod zipped;

pub use developed::{AtSize, Undeveloped, for_light, opened, opened_beside_tables};
pub use names::{free_path, safe_name};
pub use naming::{Named, named_by, names_by};
pub use output::Output;
pub use queue::{ExportSettings, ExportState, ExportStatus, QueueState};
pub(crate) use queue::{Exports, hash_of, hash_of_file};
pub use rendering::{develop_into, sized};
pub use size::Size;
pub(crate) use zipped::{packed, stored};
