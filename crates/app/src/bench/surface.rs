//! What each kind of sheet, a picture of one's own and the film's rebate add to a finished picture.

use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::picture::own::{OwnPicture, OwnPictures};
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::surface::catalogue::KINDS;
use amber_core::{Development, Stock};

use super::figures::{Spent, timed};

/// The hash under which the invented picture is laid.
const OWN: &str = "own:0000000000000000000000000000000000000000000000000000000000000000";
/// Its sides.
const SIDES: [u32; 2] = [3000, 2000];

/// Always the same picture.
struct Invented(Arc<OwnPicture>);

impl OwnPictures for Invented {
    fn picture(&self, _hash: &str) -> Option<Arc<OwnPicture>> {
        Some(self.0.clone())
    }
}

fn invented() -> Option<OwnPicture> {
    let [width, height] = SIDES;
    let of = |i: u32| [i.wrapping_mul(2_654_435_761).to_be_bytes()[0], (i % 251) as u8, (i / width % 253) as u8, 255];
    OwnPicture::new(width, height, (0..width * height).flat_map(of).collect())
}

/// Core time of each over the whole frame.
pub fn effects(stock: &Stock, scaled: &Scaled, renderer: Renderer) -> Vec<(String, Spent)> {
    let Some(picture) = invented() else { return Vec::new() };
    let renderer = renderer.with_pictures(Arc::new(Invented(Arc::new(picture))));
    let run = |values: &[(&str, &str)]| {
        let mut development = Development::new(stock);
        for (id, value) in values {
            development.values.insert((*id).into(), Value::Choice((*value).into()));
        }
        let (region, grain) = (scaled.source.region(), GrainShown::Off);
        let request = RenderRequest {
            scaled,
            stock,
            development: &development,
            region,
            grain,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let once = || timed(|| std::hint::black_box(renderer.mounted_8_bit(&request, Watch::NONE).is_ok())).1;
        once().min(once())
    };
    let plain = run(&[]);
    let own = std::iter::once((OWN, "a picture of one's own"));
    let sheets = KINDS.iter().map(|kind| (kind.id, kind.id)).chain(own);
    let mut times: Vec<(String, Spent)> = sheets
        .map(|(kind, name)| (format!("sheet: {name}"), run(&[("surface.sheet.1.kind", kind)]).saturating_sub(plain)))
        .collect();
    let rebate = run(&[("surface.mount.kind", "rebate")]).saturating_sub(plain);
    times.push(("mount: rebate, not encoded".into(), rebate));
    times
}
