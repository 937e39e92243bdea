//! Whether anybody still waits for a piece of work.
//!
//! A request that is answered by a render carries a [`Waiting`]; when its connection closes, the render ends within a
//! tile's time. The lab asks for the waiting of the thread that called it, so that no reading or thumbnail can forget
//! it.

use std::cell::RefCell;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use amber_core::CoreError;
use amber_core::render::Watch;

use crate::error::LabError;

/// Shared between who waits and who works.
#[derive(Debug, Clone, Default)]
pub struct Waiting(Arc<AtomicBool>);

thread_local! {
    static OF_THIS_THREAD: RefCell<Waiting> = RefCell::default();
}

impl Waiting {
    /// Nobody waits any more.
    pub fn end(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    pub fn is_over(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }

    /// Does work on this thread for whoever waits.
    pub fn during<T>(&self, work: impl FnOnce() -> T) -> T {
        let before = OF_THIS_THREAD.replace(self.clone());
        let done = work();
        OF_THIS_THREAD.set(before);
        done
    }

    /// Who waits for what this thread does.
    pub(crate) fn here() -> Self {
        OF_THIS_THREAD.with_borrow(Clone::clone)
    }

    pub(crate) fn check(&self) -> Result<(), LabError> {
        if self.is_over() { Err(CoreError::Abandoned.into()) } else { Ok(()) }
    }
}

/// A render that ends when `over` says so.
pub(crate) fn until<'a>(over: &'a (dyn Fn() -> bool + Sync)) -> Watch<'a> {
    Watch { abandoned: over, progress: &|_, _| {} }
}
