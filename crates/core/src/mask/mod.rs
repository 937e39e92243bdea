//! Masks: where something applies.
//!
//! A mask belongs to a frame. Its places are shares of the picture as it came (oriented, uncropped), so it stays on its
//! subject whatever is cropped, straightened or mirrored; lengths are shares of that picture's diagonal. Shapes are
//! kept as what they are (strokes, ellipses, ranges), never as pixels. A value is 0 where nothing applies and 1 where
//! all does.

mod brush;
mod grown;
mod outline;
mod places;
mod prepared;
mod range;
mod shape;

use std::fmt;
use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::error::CoreError;
use crate::text::is_plain;
use crate::text::json;

pub(crate) use prepared::Original;
pub use prepared::{MaskCache, PreparedMask, PreparedUse};
pub use range::{Reading, read as read_range};
pub use shape::{Grown, Oval, Ramp, Range, Shape, Stroke};

/// Most masks of a frame.
pub const MOST_MASKS: usize = 64;
/// Most parts of a mask.
pub const MOST_PARTS: usize = 32;
/// Widest feather, as a share of the diagonal.
pub const WIDEST_FEATHER: f64 = 0.1;

/// How a part joins those before it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Join {
    /// a + b - ab
    #[default]
    Add,
    /// a (1 - b)
    Subtract,
    /// a b
    Intersect,
}

/// One shape of a mask.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Part {
    /// How it joins the parts before it.
    #[serde(default)]
    pub join: Join,
    /// What it selects.
    #[serde(flatten)]
    pub shape: Shape,
}

/// A mask of a frame.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Mask {
    /// What people call it.
    pub name: String,
    /// In the order in which they join.
    #[serde(default)]
    pub parts: Vec<Part>,
    /// Applies where it would not, and the other way round.
    #[serde(default)]
    pub inverted: bool,
    /// Standard deviation of a blur of the whole, as a share of the diagonal.
    #[serde(default)]
    pub feather: f64,
}

/// The hash of a mask or of one of its shapes.
pub type Key = [u8; 16];

impl Mask {
    /// Checks what came from outside.
    pub fn check(&self) -> Result<(), CoreError> {
        let wrong = |why: String| CoreError::Mask { name: self.name.clone(), why };
        if self.name.trim().is_empty() || self.name.chars().count() > 60 {
            return Err(wrong("needs a name of 1 to 60 letters".into()));
        }
        if !is_plain(&self.name) {
            return Err(wrong("has a name with characters that cannot be seen; type it again".into()));
        }
        if self.parts.len() > MOST_PARTS {
            return Err(wrong(format!("has {} parts; {MOST_PARTS} is the most", self.parts.len())));
        }
        if !(0.0..=WIDEST_FEATHER).contains(&self.feather) {
            return Err(wrong(format!("has a feather of {}; it goes from 0 to {WIDEST_FEATHER}", self.feather)));
        }
        self.parts.iter().try_for_each(|part| part.shape.check().map_err(wrong))
    }

    /// Names what the mask selects; its name does not count.
    pub fn key(&self) -> Key {
        key_of(&(&self.parts, self.inverted, self.feather))
    }
}

fn key_of(content: &impl Serialize) -> Key {
    let bytes = json(content);
    let mut key = [0; 16];
    key.copy_from_slice(&blake3::hash(&bytes).as_bytes()[..16]);
    key
}

/// A mask as a control uses it.
#[derive(Clone)]
pub struct MaskUse {
    /// What is asked for.
    pub mask: Arc<Mask>,
    /// It applies outside the mask.
    pub outside: bool,
    key: Key,
}

impl MaskUse {
    /// A mask, or all but it.
    pub fn new(mask: Mask, outside: bool) -> Self {
        Self { key: mask.key(), mask: Arc::new(mask), outside }
    }

    /// Names what the mask selects.
    pub fn key(&self) -> Key {
        self.key
    }
}

/// Settings are hashed by their debug form: fifty strokes are as quick to hash as none.
impl fmt::Debug for MaskUse {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        write!(f, "mask {:?} {}", self.key, self.outside)
    }
}

impl PartialEq for MaskUse {
    fn eq(&self, other: &Self) -> bool {
        self.key == other.key && self.outside == other.outside
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_document_of_a_mask() {
        let text = r#"{"name":"Eyes","parts":[
            {"kind":"brush","strokes":[{"size":0.04,"softness":0.5,"strength":1,"points":[[0.4,0.3],[0.5,0.3]]}]},
            {"join":"subtract","kind":"ellipse","centre":[0.5,0.5],"radii":[0.1,0.2],"turn":10,"feather":0.3}]}"#;
        let mask: Mask = serde_json::from_str(text).unwrap();
        mask.check().unwrap();
        assert_eq!(mask.parts[1].join, Join::Subtract);
        let back: Mask = serde_json::from_str(&serde_json::to_string(&mask).unwrap()).unwrap();
        assert_eq!(back, mask);
        let renamed = Mask { name: "Both eyes".into(), ..mask.clone() };
        assert_eq!(renamed.key(), mask.key());
        assert_ne!(Mask { inverted: true, ..mask.clone() }.key(), mask.key());
    }

    #[test]
    fn a_misspelt_key_of_a_part_is_refused() {
        for text in [
            r#"{"name":"A","parts":[{"kind":"ellipse","centre":[0,0],"radii":[1,1],"fether":0.3}]}"#,
            r#"{"name":"A","parts":[{"kind":"brush","stroks":[],"strokes":[]}]}"#,
            r#"{"name":"A","parts":[{"kind":"tone","low":1,"high":2,"feather":[0,0],"jion":"add"}]}"#,
        ] {
            assert!(serde_json::from_str::<Mask>(text).is_err(), "{text}");
        }
    }

    #[test]
    fn wrong_masks_are_refused_with_a_sentence() {
        for (text, part) in [
            (r#"{"name":""}"#, "needs a name"),
            ("{\"name\":\"A\\u007fB\"}", "cannot be seen"),
            (r#"{"name":"A","feather":3}"#, "feather of 3"),
            (r#"{"name":"A","parts":[{"kind":"linear","from":[0,0],"to":[1e300,0]}]}"#, "place"),
            (r#"{"name":"A","parts":[{"kind":"brush","strokes":[{"size":9,"points":[[0,0]]}]}]}"#, "size"),
        ] {
            let mask: Mask = serde_json::from_str(text).unwrap();
            let error = mask.check().unwrap_err().to_string();
            assert!(error.contains(part), "{error}");
        }
    }
}
