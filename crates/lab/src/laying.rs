//! Laying sheets on a frame and taking them off again, and what each would look like.

use amber_core::controls::{Control, Value, own_picture};
use amber_core::stations::surface::catalogue;
use amber_core::stations::surface::settings::{self, KIND, MOST_SHEETS, ORDER, SEED, SHEETS, sheet_keys};
use amber_core::{Development, Stock};
use amber_library::{Change, Frame, FrameSummary, KeptPicture};

use crate::Lab;
use crate::error::LabError;
use crate::thumbnails::ThumbnailSize;

/// How much larger small marks are shown on the board, in per cent.
const SHOWN_LARGER: f64 = 300.0;
/// Seeds that a sheet is laid with.
const SEEDS: u32 = 10_000;

fn set(development: &mut Development, stock: &Stock, key: u32, member: &'static Control, value: Value) {
    // an item's own control: its id and range are those that are declared
    if let Err(error) = development.set(stock, SHEETS.member(key, member).id, value) {
        tracing::warn!("a sheet's {} was left as it is: {error}", member.label);
    }
}

/// Lays a sheet over the others; gives its key, or nothing where there are too many.
fn lay(development: &mut Development, stock: &Stock, kind: &str, seed: u32) -> Option<u32> {
    let values = development.written(stock);
    let taken = values.keys(&SHEETS);
    let key = (1..=MOST_SHEETS).find(|key| !taken.contains(key))?;
    let order = |key: u32| values.number(SHEETS.member(key, &ORDER));
    let above = sheet_keys(&values).last().map_or(50.0, |highest| (order(*highest) + 1.0).min(99.0));
    set(development, stock, key, &KIND, Value::Choice(kind.into()));
    set(development, stock, key, &ORDER, Value::Number(above));
    if catalogue::kind(kind).is_some() {
        set(development, stock, key, &SEED, Value::Number(f64::from(seed % SEEDS)));
    }
    Some(key)
}

impl Lab {
    /// Lays one of a kind on a frame, or takes all of that kind off.
    pub fn lay_sheet(&self, id: i64, revision: i64, kind: &str, on: bool) -> Result<Frame, LabError> {
        let frame = self.library.frame(id)?;
        KIND.check(&Value::Choice(kind.into()))?;
        let (stock, mut development) = (frame.stock.clone(), frame.summary.development.clone());
        let name = name_of_sheet(kind, &self.library.kept_pictures()?).unwrap_or_else(|| "Sheet".into());
        let label = if on {
            // the revision is news every time: so is the accident
            let seed = (revision as u32).wrapping_mul(2_654_435_761).rotate_left(11) ^ development.seed;
            lay(&mut development, &stock, kind, seed).ok_or(LabError::TooManySheets(MOST_SHEETS))?;
            format!("{name} laid")
        } else {
            let values = development.written(&stock);
            let of_kind = |key: &u32| values.value(SHEETS.member(*key, &KIND)).choice() == Some(kind);
            let keys: Vec<u32> = values.keys(&SHEETS).into_iter().filter(of_kind).collect();
            development.values.retain(|id, _| SHEETS.key_of(id).is_none_or(|key| !keys.contains(&key)));
            format!("{name} taken off")
        };
        Ok(self.library.commit(id, Change { revision, label, development }, &stock)?)
    }

    /// A JPEG of a frame with only a sheet of a kind on it; what is small is shown larger than it lies.
    pub fn sheet_thumbnail(&self, frame: &Frame, kind: &str) -> Result<Vec<u8>, LabError> {
        KIND.check(&Value::Choice(kind.into()))?;
        let mut development = without_sheets(&frame.summary.development);
        let stock = &frame.stock;
        if let Some(key) = lay(&mut development, stock, kind, 1)
            && ["dust", "hairs", "scratches", "scratches-any"].contains(&kind)
        {
            set(&mut development, stock, key, &settings::SIZE, Value::Number(SHOWN_LARGER));
        }
        self.thumbnail_of(&frame.summary, &development, stock, ThumbnailSize::Tile)
    }
}

/// What people call a kind, or one of the pictures that are kept.
pub fn name_of_sheet(kind: &str, pictures: &[KeptPicture]) -> Option<String> {
    let kept = || Some(pictures.iter().find(|p| Some(p.hash.as_str()) == own_picture(kind))?.name.clone());
    catalogue::kind(kind).map(|kind| kind.label.to_owned()).or_else(kept)
}

fn without_sheets(development: &Development) -> Development {
    let mut bare = development.clone();
    bare.values.retain(|id, _| SHEETS.key_of(id).is_none());
    bare
}

/// What the pictures on a frame's board of sheets depend on, for their addresses.
pub fn sheets_version(frame: &FrameSummary) -> String {
    let bare = format!("{} {}", frame.content, without_sheets(&frame.development).to_json());
    blake3::hash(bare.as_bytes()).to_hex()[..16].to_owned()
}
