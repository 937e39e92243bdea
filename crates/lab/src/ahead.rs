//! What is likely to be wanted next, made behind everything else: the full size of the frame on the screen.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicI64, Ordering};

use amber_core::picture::reduce::Level;
use amber_core::render::{Finish, GrainShown, RenderRequest, Watch};
use amber_core::{Development, Region};
use amber_library::Frame;

use crate::Lab;
use crate::error::LabError;
use crate::hands::{Hands, stand_back};
use crate::sources::{Care, LARGE_PIXELS};

/// What is being read ahead.
#[derive(Default)]
pub(crate) struct Ahead {
    busy: AtomicBool,
    /// The frame that was last on the screen; 0 before the first.
    last_seen: AtomicI64,
}

impl Lab {
    /// Reads the original of a frame that has come on the screen and prepares it as it is developed, behind everything
    /// else, so that both are there when somebody looks close. One at a time, and none so large that it would push
    /// others out.
    pub fn read_ahead(self: &Arc<Self>, frame: &Frame, development: &Development) {
        let summary = &frame.summary;
        let large = u64::from(summary.width) * u64::from(summary.height) > LARGE_PIXELS;
        let seen_before = self.ahead.last_seen.swap(summary.id, Ordering::SeqCst) == summary.id;
        if large || seen_before || self.ahead.busy.swap(true, Ordering::SeqCst) {
            return;
        }
        let (lab, frame, development) = (self.clone(), frame.clone(), development.clone());
        let read = move || {
            let _busy = Busy(&lab.ahead.busy);
            stand_back();
            if let Err(error) = lab.prepare_full(&frame, &development) {
                tracing::debug!("not read ahead: {error}");
            }
        };
        if std::thread::Builder::new().name("ahead".into()).spawn(read).is_err() {
            self.ahead.busy.store(false, Ordering::SeqCst);
        }
    }
}

impl Lab {
    /// All that a look at full size needs beside its own pixels.
    fn prepare_full(&self, frame: &Frame, development: &Development) -> Result<(), LabError> {
        let stock = &frame.stock;
        let hands = Hands { pool: self.background.pool(), over: &|| false };
        let scaled = self.source_of(&frame.summary, Level::FULL, development, stock, Care::Settled, hands)?;
        let (region, grain) = (Region::new(0, 0, 1, 1), GrainShown::Full);
        let request = RenderRequest {
            scaled: &scaled,
            stock,
            development,
            region,
            grain,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        self.background.display_8_bit(&request, Watch::NONE)?;
        Ok(())
    }
}

/// Sets a flag back when it goes, whatever ends the work.
struct Busy<'a>(&'a AtomicBool);

impl Drop for Busy<'_> {
    fn drop(&mut self) {
        self.0.store(false, Ordering::SeqCst);
    }
}

#[cfg(test)]
mod tests {
    use std::time::{Duration, Instant};

    use amber_core::Catalogue;
    use amber_files::{Limits, write};
    use amber_library::{FrameSummary, Library};

    use super::*;

    #[test]
    fn an_original_is_read_before_it_is_looked_at_closely() {
        let place = tempfile::tempdir().unwrap();
        let open = || Arc::new(Lab::new(Library::open(place.path()).unwrap(), Limits::default(), Some(2)).unwrap());
        let first = open();
        let roll = first.library.add_roll("Roll", 0).unwrap();
        let picture = write::png(&[90; 3 * 300 * 200], 300, 200).unwrap();
        let id = first.import_on(roll, "a.png", &picture, &Catalogue::first()).unwrap();
        drop(first);
        let lab = open();
        let frame = lab.library.frame(id).unwrap();
        assert!(lab.sources.is_missing(&frame.summary.content));
        lab.read_ahead(&frame, &frame.summary.development);
        let began = Instant::now();
        while lab.ahead.busy.load(Ordering::SeqCst) {
            assert!(began.elapsed() < Duration::from_secs(60), "it goes on for ever");
            std::thread::sleep(Duration::from_millis(5));
        }
        assert!(!lab.sources.is_missing(&frame.summary.content));
        // a file that is gone is nobody's trouble before it is asked for
        let lost = FrameSummary { id: frame.summary.id + 1, content: "00".into(), ..frame.summary.clone() };
        let lost = Frame { summary: lost, ..frame.clone() };
        lab.read_ahead(&lost, &frame.summary.development);
        while lab.ahead.busy.load(Ordering::SeqCst) {
            std::thread::sleep(Duration::from_millis(5));
        }
        assert!(lab.sources.is_missing("00"));
    }
}
