//! A picture rendered and encoded on its way out: what exports, orders and the command line share.

use std::sync::Arc;
use std::sync::mpsc::sync_channel;

use amber_core::CoreError;
use amber_core::render::{RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::surface::mount::Mount;
use amber_files::encode::Place;
use amber_files::{Attached, Bits, Encoding, FileError, encode};
use rayon::ThreadPool;

use super::size::Size;
use crate::error::LabError;

/// A whole picture at the size at which it leaves.
pub fn sized(full: Scaled, size: &Size, pool: &ThreadPool) -> Scaled {
    let whole = [full.full_width, full.full_height];
    match size.pixels(whole) {
        asked if asked == whole => full,
        [width, height] => pool.install(|| full.reduced(width, height)),
    }
}

/// Renders and encodes on the way out. A mount is of the whole picture.
pub fn develop_into(
    out: &mut dyn Place,
    renderer: &Renderer,
    request: &RenderRequest,
    mount: Option<Mount>,
    (encoding, attached): (&Encoding, &Attached),
    watch: Watch,
) -> Result<(), LabError> {
    let mount = mount.map(Arc::new);
    let size = mount.as_ref().map_or([request.region.width, request.region.height], |mount| mount.layout.whole);
    let most = encoding.longest_side();
    if size[0].max(size[1]) > most {
        return Err(LabError::TooLong { side: size[0].max(size[1]), most, ending: encoding.ending() });
    }
    let space = request.finish.space;
    match encoding.bits() {
        Bits::Eight => beside(
            |take| match mount {
                None => renderer.display_8_bit_bands(request, watch, take),
                Some(mount) => renderer.display_8_bit_bands(request, watch, &mut renderer.mounting(mount, space, take)),
            },
            |mut bands| encode::of_8_bit(encoding, &mut bands, size, attached, out),
        ),
        Bits::Sixteen => beside(
            |take| match mount {
                None => renderer.display_16_bit_bands(request, watch, take),
                Some(mount) => {
                    renderer.display_16_bit_bands(request, watch, &mut renderer.mounting(mount, space, take))
                }
            },
            |mut bands| encode::of_16_bit(encoding, &mut bands, size, attached, out),
        ),
    }
}

/// Encodes bands on a thread of its own while the next ones are rendered.
fn beside<T: Send>(
    render: impl FnOnce(&mut dyn FnMut(Vec<T>) -> Result<(), CoreError>) -> Result<(), CoreError>,
    encode: impl FnOnce(std::sync::mpsc::IntoIter<Vec<T>>) -> Result<(), FileError> + Send,
) -> Result<(), LabError> {
    let (hand_over, bands) = sync_channel(1);
    std::thread::scope(|scope| {
        let encoder = scope.spawn(move || encode(bands.into_iter()));
        // an encoder that has given up takes no more, and says why
        let mut refused = false;
        let rendered = render(&mut |band| {
            hand_over.send(band).map_err(|_| {
                refused = true;
                CoreError::Abandoned
            })
        });
        drop(hand_over);
        let encoded = encoder.join().map_err(|_| LabError::Broken)?;
        match rendered {
            Err(error) if !refused => Err(error.into()),
            _ => Ok(encoded?),
        }
    })
}
