//! The crate as a library: a frame, its sizes, regions and stages; and no picture that silently ignores a setting.

use amber_core::controls::Value;
use amber_core::render::{GrainShown, Scaled, Watch};
use amber_core::{Catalogue, CoreError, Frame, Picture, Region, Source};
use support::{renderer, request, tuned, with};

#[path = "../examples/one_frame.rs"]
mod one_frame;
mod support;

fn source() -> Source {
    Source::from_linear_srgb(120, 80, |x, y| {
        let hash = f64::from((x * 7919 + y * 104_729) % 97) / 97.0;
        [0.02 + 0.8 * hash, 0.3 * hash + 0.004 * f64::from(x), 0.6 * (1.0 - hash)]
    })
}

#[test]
fn the_example_runs() {
    one_frame::main().unwrap();
}

#[test]
fn every_stage_at_every_size_and_a_region_is_a_crop() {
    let frame = Frame::new(source()).unwrap();
    let stock = Catalogue::first();
    let development = with(&stock, &[("lens.softness.overall", 60.0), ("print.acutance.coarse", 1.0)]);
    let print = || frame.render(&stock, &development).unwrap();
    assert_eq!(
        (print().size(), print().long_edge(60).size(), print().long_edge(500).size()),
        ([120, 80], [60, 40], [120, 80])
    );
    let part = Region::new(31, 22, 40, 29);
    fn crop<Q: amber_core::picture::buffer::Quantity>(part: Picture<Q>, whole: Picture<Q>) {
        assert!(part.planes() == whole.cut(part.region).planes(), "{}", Q::NAME);
    }
    crop(print().region(part).scene_light().unwrap(), print().scene_light().unwrap());
    crop(print().region(part).exposure().unwrap(), print().exposure().unwrap());
    crop(print().region(part).density().unwrap(), print().density().unwrap());
    crop(print().region(part).reflectance().unwrap(), print().reflectance().unwrap());
    let eight = print().display_8_bit().unwrap();
    let sixteen = print().display_16_bit().unwrap();
    assert!(eight.iter().zip(&sixteen).all(|(a, b)| u32::from(*a) == (u32::from(*b) + 128) / 257));
    assert_ne!(eight, print().grain(GrainShown::Off).display_8_bit().unwrap());
    assert!(matches!(print().region(Region::new(100, 0, 40, 40)).density(), Err(CoreError::RegionOutside { .. })));
}

/// A picture that was not framed or smoothed as the development asks for is refused, not rendered as though it were.
#[test]
fn no_setting_is_silently_ignored() {
    let stock = Catalogue::first();
    let plain = Scaled::full(std::sync::Arc::new(source()), "plain");
    for (id, value) in [
        ("lens.crop.size", Value::Number(60.0)),
        ("lens.mirror", Value::Switch(true)),
        ("scene.noise.luminance", Value::Number(0.5)),
    ] {
        let development = tuned(&stock, &[(id, value)]);
        let refused = renderer(2).display_8_bit(&request(&plain, &stock, &development), Watch::NONE);
        assert_eq!(refused, Err(CoreError::NotFramed), "{id}");
        let made = plain.for_development(&development, &stock, &|| false).unwrap();
        assert!(renderer(2).display_8_bit(&request(&made, &stock, &development), Watch::NONE).is_ok(), "{id}");
    }
    // a place alone moves nothing: there is nothing left over
    let development = with(&stock, &[("lens.crop.x", 50.0)]);
    assert!(renderer(2).display_8_bit(&request(&plain, &stock, &development), Watch::NONE).is_ok());
}
