//! Pictures of the contact sheet, made behind everything else: of frames that came, were changed, or lie on an open
//! roll.

use std::collections::{HashSet, VecDeque};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};

use crate::Lab;
use crate::error::LabError;
use crate::hands::stand_back;
use crate::thumbnails::ThumbnailSize;

/// Frames whose pictures are wanted soon.
#[derive(Default)]
pub(crate) struct Behind {
    queue: Mutex<Queue>,
    /// Told when nothing is made any more.
    idle: Condvar,
}

#[derive(Default)]
struct Queue {
    waiting: VecDeque<i64>,
    known: HashSet<i64>,
    running: bool,
    stopped: bool,
}

impl Behind {
    fn queue(&self) -> MutexGuard<'_, Queue> {
        self.queue.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The next one; none ends the work.
    fn next(&self) -> Option<i64> {
        let mut queue = self.queue();
        let next = if queue.stopped { None } else { queue.waiting.pop_front() };
        match next {
            Some(frame) => drop(queue.known.remove(&frame)),
            None => {
                queue.running = false;
                self.idle.notify_all();
            }
        }
        next
    }

    /// Ends it after the picture in hand.
    pub fn stop(&self) {
        let mut queue = self.queue();
        queue.stopped = true;
        queue.waiting.clear();
        while queue.running {
            queue = self.idle.wait(queue).unwrap_or_else(PoisonError::into_inner);
        }
    }
}

impl Lab {
    /// Makes the pictures of frames that are not kept yet, one after the other; these come before others that wait.
    pub fn thumbnails_soon(self: &Arc<Self>, frames: &[i64]) {
        let mut queue = self.behind.queue();
        if queue.stopped {
            return;
        }
        for frame in frames.iter().rev() {
            if queue.known.insert(*frame) {
                queue.waiting.push_front(*frame);
            }
        }
        if queue.running || queue.waiting.is_empty() {
            return;
        }
        queue.running = true;
        drop(queue);
        let lab = self.clone();
        let work = move || {
            stand_back();
            while let Some(frame) = lab.behind.next() {
                if let Err(error) = lab.thumbnail_behind(frame) {
                    tracing::debug!("no picture of frame {frame} yet: {error}");
                }
            }
        };
        if std::thread::Builder::new().name("thumbnails".into()).spawn(work).is_err() {
            self.behind.queue().running = false;
        }
    }

    fn thumbnail_behind(&self, frame: i64) -> Result<(), LabError> {
        let frame = self.library.frame(frame)?;
        if !self.has_thumbnail(&frame.summary, &frame.stock) {
            let development = &frame.summary.development;
            self.thumbnail_by(&self.background, &frame.summary, development, &frame.stock, ThumbnailSize::Sheet)?;
        }
        Ok(())
    }

    /// Waits until no picture is made behind any more.
    pub fn wait_for_thumbnails(&self) {
        let mut queue = self.behind.queue();
        while queue.running {
            queue = self.behind.idle.wait(queue).unwrap_or_else(PoisonError::into_inner);
        }
    }
}
