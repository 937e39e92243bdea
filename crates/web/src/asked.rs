//! What pages and scripts ask alike.

use amber_lab::{ReferenceAs, ReferenceOf};
use amber_matching::seat::{Mark, MarkOf, PrintSize};
use serde::Deserialize;
use utoipa::ToSchema;

use crate::error::WebError;

/// A reference as pages and scripts name it.
#[derive(Debug, Deserialize, ToSchema)]
pub struct With {
    /// A frame.
    with: i64,
    /// print, or original: the picture as it came.
    #[serde(rename = "as")]
    shown: String,
}

impl With {
    /// It, where it can be one.
    pub fn reference(&self) -> Result<ReferenceOf, WebError> {
        let shown = match self.shown.as_str() {
            "print" => ReferenceAs::Print,
            "original" => ReferenceAs::Original,
            _ => return Err(WebError::Unusable("a reference is shown as 'print' or 'original'".into())),
        };
        Ok(ReferenceOf { frame: self.with, shown })
    }
}

/// What is marked on a frame that is to be seated, and its print. Places are shares of width and height.
#[derive(Default, Deserialize, ToSchema)]
#[serde(default)]
pub struct SeatAsked {
    grey: Option<[f64; 2]>,
    grey_zone: Option<f64>,
    face: Option<[f64; 2]>,
    face_zone: Option<f64>,
    print_cm: Option<f64>,
    distance_cm: Option<f64>,
}

/// Largest print and distance, in cm.
const LARGEST_CM: f64 = 3000.0;

impl SeatAsked {
    /// The size of the print, where it is said.
    pub fn print(&self) -> Result<Option<PrintSize>, WebError> {
        let sides = self.print_cm.into_iter().chain(self.distance_cm);
        if let Some(wrong) = sides.into_iter().find(|cm| !(1.0..=LARGEST_CM).contains(cm)) {
            let why = format!("{wrong} cm: prints and distances go from 1 to {LARGEST_CM} cm");
            return Err(WebError::Unusable(why));
        }
        Ok(self.print_cm.map(|long_edge_cm| PrintSize { long_edge_cm, distance_cm: self.distance_cm }))
    }

    /// What is marked.
    pub fn marks(&self) -> Vec<Mark> {
        let grey = self.grey.map(|place| Mark { of: MarkOf::Grey, place, zone: self.grey_zone });
        let face = self.face.map(|place| Mark { of: MarkOf::Face, place, zone: self.face_zone });
        grey.into_iter().chain(face).collect()
    }
}
