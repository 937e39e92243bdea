//! The rack as it hangs: what a frame is compared with, as small prints.

use amber_lab::{Against, Lab, development_version};
use amber_library::{Frame, Proof};
use askama::Template;

use crate::error::WebError;

/// A small print on the rack.
pub struct PrintView {
    /// What the page's script asks for: `original`, `stock`, `proof:3`.
    pub of: String,
    pub name: String,
    /// The address of its small picture.
    pub picture: String,
    /// What pressing it does.
    pub help: String,
    /// The proof's number; none for what is always there.
    pub proof: Option<i64>,
}

impl PrintView {
    fn new(of: String, name: String, picture: String, proof: Option<i64>) -> Self {
        let back = if proof.is_some() { "; twice to take it back" } else { "" };
        let help = format!(
            "{name}: press to compare with it, hold to see it; with Shift it stands on the picture's own side{back}"
        );
        Self { of, name, picture, help, proof }
    }
}

/// All of them.
#[derive(Template)]
#[template(path = "partials/prints.html")]
pub struct PrintsView {
    upright: bool,
    prints: Vec<PrintView>,
    swapped: bool,
}

impl PrintsView {
    pub fn new(lab: &Lab, frame: &Frame, swapped: bool) -> Result<Self, WebError> {
        let f = &frame.summary;
        let address = |of: &str, v: &str| format!("/frames/{}/thumbnail?{of}&v={v}", f.id);
        let plain = lab.against(frame, &f.development, Against::Stock)?;
        let proof = |proof: Proof| {
            let of = format!("proof:{}", proof.id);
            let v = development_version(&f.content, &proof.development);
            PrintView::new(of.clone(), proof.name, address(&format!("of={of}"), &v), Some(proof.id))
        };
        let always = [
            ("original", "Original".to_owned(), address("original=true", &f.content)),
            ("stock", frame.stock.name(), address("of=stock", &development_version(&f.content, &plain))),
        ];
        let always = always.map(|(of, name, picture)| PrintView::new(of.into(), name, picture, None));
        let prints = always.into_iter().chain(lab.library.proofs(f.id)?.into_iter().map(proof)).collect();
        Ok(Self { upright: f.height > f.width, prints, swapped })
    }
}
