//! Lab work on threads that may block.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::{Arc, Mutex, PoisonError};

use actix_web::web;
use amber_lab::{Lab, LabError, Waiting};
use tokio::sync::oneshot;

use crate::{Shared, WebError};

/// Ends a waiting when the answer is no longer awaited.
struct Asking(Waiting);

impl Drop for Asking {
    fn drop(&mut self) {
        self.0.end();
    }
}

type Work<T> = Box<dyn FnOnce(&Arc<Lab>) -> Result<T, WebError> + Send>;

/// Runs lab work on a blocking thread. When the connection closes, renders that it asked for end; when the work panics,
/// that is an error of this answer only.
pub fn blocking<T: Send + 'static>(
    shared: &web::Data<Shared>,
    work: impl FnOnce(&Arc<Lab>) -> Result<T, WebError> + Send + 'static,
) -> impl Future<Output = Result<T, WebError>> {
    answer(shared.lab.clone(), Box::new(work))
}

/// One for all work that answers alike: there are some 150 kinds of work, of 50 kinds of answer.
async fn answer<T: Send + 'static>(lab: Arc<Lab>, work: Work<T>) -> Result<T, WebError> {
    let slot = Arc::new(Mutex::new(None));
    let filled = slot.clone();
    on_a_thread(Box::new(move || {
        let done = work(&lab);
        *filled.lock().unwrap_or_else(PoisonError::into_inner) = Some(done);
    }))
    .await?;
    let done = slot.lock().unwrap_or_else(PoisonError::into_inner).take();
    done.unwrap_or(Err(WebError::Busy))
}

/// One for all answers: a task's code is long.
async fn on_a_thread(work: Box<dyn FnOnce() + Send>) -> Result<(), WebError> {
    let asking = Asking(Waiting::default());
    let waiting = asking.0.clone();
    let (answer, answered) = oneshot::channel();
    let hand_over = move || {
        // nobody may wait any more
        let _ = answer.send(waiting.during(|| catch_unwind(AssertUnwindSafe(work))));
    };
    drop(tokio::task::spawn_blocking(hand_over));
    match answered.await {
        Ok(Ok(())) => Ok(()),
        Ok(Err(_)) => Err(LabError::Broken.into()),
        Err(_) => Err(WebError::Busy),
    }
}
