//! The picture on its way along the line: light, exposure, the film on the light table.

mod support;

use amber_core::controls::Value;
use amber_core::render::{Alone, RenderRequest, Scaled, Watch};
use amber_core::{Catalogue, Development, Region, Source};
use support::{renderer, request, spatial};

fn scene() -> Scaled {
    let at =
        |x: u32, y: u32| [0.02 + f64::from(x) / 90.0, 0.02 + f64::from(y) / 60.0, 0.1 + f64::from((x * y) % 7) / 14.0];
    Scaled::full(Source::from_linear_srgb(80, 54, at).into(), "looking in")
}

/// A region is a crop of the whole, with everything on that looks beyond its pixel.
#[test]
fn a_region_is_a_crop_of_the_whole() {
    let renderer = renderer(2);
    for stock in ["plover", "juniper"].map(|id| Catalogue::find(id).unwrap()) {
        let development = spatial(&stock);
        let scaled = scene().for_development(&development, &stock, &|| false).unwrap();
        for alone in [Alone::Light, Alone::Exposure, Alone::Film] {
            let all = request(&scaled, &stock, &development);
            let (whole, size) = (renderer.alone_8_bit(&all, alone, Watch::NONE).unwrap(), all.region);
            let region = Region::new(17, 9, 31, 22);
            let part = renderer.alone_8_bit(&RenderRequest { region, ..all }, alone, Watch::NONE).unwrap();
            for row in 0..region.height {
                let at = 3 * ((region.y + row) * size.width + region.x) as usize;
                let from = 3 * (row * region.width) as usize;
                let count = 3 * region.width as usize;
                assert_eq!(part[from..from + count], whole[at..at + count], "{} {alone:?}", stock.id);
            }
        }
    }
}

/// What was lighter in the scene is denser on the film, and the light is the camera's picture again where nothing was
/// done to it.
#[test]
fn light_is_the_picture_and_the_film_is_its_negative() {
    let (renderer, stock) = (renderer(2), Catalogue::first());
    let mut development = Development::new(&stock);
    development.switch("scene", false).unwrap();
    development.switch("lens", false).unwrap();
    development.set(&stock, "film.grain.granularity", Value::Number(0.0)).unwrap();
    let scaled = scene().for_development(&development, &stock, &|| false).unwrap();
    let all = request(&scaled, &stock, &development);
    let original = scaled.source.display_8_bit(all.region);
    let light = renderer.alone_8_bit(&all, Alone::Light, Watch::NONE).unwrap();
    let far = original.iter().zip(&light).map(|(a, b)| a.abs_diff(*b)).max().unwrap();
    assert!(far <= 1, "{far}");
    let film = renderer.alone_8_bit(&all, Alone::Film, Watch::NONE).unwrap();
    let sum = |pixels: &[u8], x: u32, y: u32| -> u32 {
        pixels[3 * (y * 80 + x) as usize..][..3].iter().map(|v| u32::from(*v)).sum()
    };
    assert!(sum(&original, 70, 48) > sum(&original, 4, 4));
    assert!(sum(&film, 70, 48) < sum(&film, 4, 4));
}
