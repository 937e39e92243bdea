//! Lab work on threads that may block.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;

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

/// Runs lab work on a blocking thread. When the connection closes, renders that it asked for end; when the work panics,
/// that is an error of this answer only.
pub async fn blocking<T: Send + 'static>(
    shared: &web::Data<Shared>,
    work: impl FnOnce(&Arc<Lab>) -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    let lab = shared.lab.clone();
    let asking = Asking(Waiting::default());
    let waiting = asking.0.clone();
    let (answer, answered) = oneshot::channel();
    let hand_over = move || {
        // nobody may wait any more
        let _ = answer.send(waiting.during(|| catch_unwind(AssertUnwindSafe(|| work(&lab)))));
    };
    on_a_thread(Box::new(hand_over));
    match answered.await {
        Ok(Ok(done)) => done,
        Ok(Err(_)) => Err(LabError::Broken.into()),
        Err(_) => Err(WebError::Busy),
    }
}

/// One kind of task for all work: a task's code is long, and there are some 150 kinds of work.
fn on_a_thread(work: Box<dyn FnOnce() + Send>) {
    drop(tokio::task::spawn_blocking(work));
}
