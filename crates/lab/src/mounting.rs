//! A picture at the size at which it stands in its mount.

use amber_core::picture::reduce::Level;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled};
use amber_core::stations::surface::mount::{Mount, MountSettings};
use amber_core::{Development, Region, Stock};
use amber_files::write;
use amber_library::Frame;

use crate::Lab;
use crate::error::LabError;
use crate::hands::Hands;
use crate::sources::Care;
use crate::waiting::Waiting;

/// Longest edge of a mount that is shown round a view.
const LONGEST: u32 = 3000;

/// The mount of a picture as large as it is to be, and the picture as it stands in that: where the whole is to keep the
/// picture's size, the picture is made smaller.
pub fn in_its_mount(
    renderer: &Renderer,
    scaled: Scaled,
    stock: &Stock,
    development: &Development,
) -> Result<(Scaled, Option<Mount>), LabError> {
    let mount_of = |scaled: &Scaled| {
        let region = scaled.source.region();
        let grain = GrainShown::Full;
        renderer.mount(&RenderRequest {
            scaled,
            stock,
            development,
            region,
            grain,
            keep_tiles: false,
            finish: Finish::SCREEN,
        })
    };
    let Some(mount) = mount_of(&scaled)? else { return Ok((scaled, None)) };
    if !MountSettings::read(&development.values(stock)).keeps {
        return Ok((scaled, Some(mount)));
    }
    let [width, height] = mount.layout.picture_for_its_size();
    let smaller = renderer.pool().install(|| scaled.reduced(width, height));
    let mount = mount_of(&smaller)?;
    Ok((smaller, mount))
}

impl Lab {
    /// The mount alone, as a PNG that is clear where the picture is seen, for a picture so many pixels wide.
    pub fn mount_alone(&self, frame: &Frame, development: &Development, width: u32) -> Result<Vec<u8>, LabError> {
        let stock = &frame.stock;
        let waiting = Waiting::here();
        let hands = Hands { pool: self.renderer.pool(), over: &|| waiting.is_over() };
        let level = Level::covering(480, frame.summary.width, frame.summary.height);
        let scaled = self.source_of(&frame.summary, level, development, stock, Care::Quick, hands)?;
        let (region, grain) = (scaled.source.region(), GrainShown::Averaged);
        let request = RenderRequest {
            scaled: &scaled,
            stock,
            development,
            region,
            grain,
            keep_tiles: false,
            finish: Finish::SCREEN,
        };
        let per = f64::from(width) / f64::from(scaled.full_width);
        let size = [scaled.full_width, scaled.full_height].map(|v| ((f64::from(v) * per).round() as u32).max(1));
        if size.iter().any(|side| *side > LONGEST) {
            return Err(LabError::LongEdge(size[0].max(size[1])));
        }
        let Some(mount) = self.renderer.mount_of(&request, size)? else {
            return Ok(write::png_with_cover(&[0; 4], 1, 1)?);
        };
        let [w, h] = mount.layout.whole;
        let pixels = hands.work(|| {
            let shown = mount.over(Region::whole(w, h));
            let code = |v: f32| (v * 255.0 + 0.5) as u8;
            let pixel = |i: usize| [shown.rgb[0][i], shown.rgb[1][i], shown.rgb[2][i], shown.cover[i]].map(code);
            (0..shown.cover.len()).flat_map(pixel).collect::<Vec<u8>>()
        });
        Ok(write::png_with_cover(&pixels, w, h)?)
    }
}
