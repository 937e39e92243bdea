//! Lamps of a few pixels: what spreads from them is the formula on the full picture's own pixels, at every pitch.

use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::picture::buffer::{LayerExposure, SceneLight};
use amber_core::render::{Finish, GrainShown, RenderRequest, Scaled, Watch};
use amber_core::{Catalogue, Development, Picture, Region, Source, Stock};
use support::{renderer, tuned};

mod support;

fn request<'a>(
    scaled: &'a Scaled,
    stock: &'a Stock,
    development: &'a Development,
    region: Region,
) -> RenderRequest<'a> {
    RenderRequest {
        scaled,
        stock,
        development,
        region,
        grain: GrainShown::Off,
        keep_tiles: false,
        finish: Finish::SCREEN,
    }
}

/// Clipped white discs on black: centre and radius in pixels.
fn discs(width: u32, height: u32, lamps: &[([f64; 2], f64)]) -> Scaled {
    let lit = |x: f64, y: f64| lamps.iter().any(|([a, b], r)| (x - a).hypot(y - b) <= *r);
    let source =
        Source::from_linear_srgb(
            width,
            height,
            |x, y| {
                if lit(f64::from(x), f64::from(y)) { [1.0; 3] } else { [0.0; 3] }
            },
        );
    Scaled::full(Arc::new(source), "lamps")
}

/// Halation against its model: h K*src outside the lamp, K the sum of the three Gaussians of 35, 120 and 300 um, src
/// the exposure times 1 + boost where the camera clipped. Within a fifth, from lamps of two pixels on.
#[test]
fn halation_of_small_lamps_is_the_formula() {
    let stock = Catalogue::find("sirocco").unwrap();
    let boost = stock.halation.boost;
    let strength = stock.halation.strength[0];
    let kernel = [(35.0, 0.42), (120.0, 0.36), (300.0, 0.22)];
    let pocket = [17.0, 13.0];
    for pitch in [5.0f64, 6.0, 10.0, 20.0] {
        let [width, height] = pocket.map(|mm| (mm * 1000.0 / pitch).round() as u32);
        let size = ("film.size", Value::Choice("pocket".into()));
        let own = tuned(&stock, std::slice::from_ref(&size));
        let none = tuned(&stock, &[size, ("film.halation.strength", Value::Number(0.0))]);
        for radius_um in [12.0, 20.0, 40.0, 60.0, 200.0] {
            let radius = radius_um / pitch;
            let centre = [(f64::from(width) / 2.0).floor(), (f64::from(height) / 2.0).floor()];
            let scaled = discs(width, height, &[(centre, radius)]);
            let beside = [(radius_um + 30.0) / pitch, (radius_um + 90.0) / pitch].map(f64::round);
            for off in beside {
                let region = Region::new((centre[0] + off) as u32, centre[1] as u32, 1, 1);
                let light = |development: &Development, region: Region| -> Picture<LayerExposure> {
                    renderer(2).exposure(&request(&scaled, &stock, development, region), Watch::NONE).unwrap()
                };
                let lamp = Region::new(centre[0] as u32, centre[1] as u32, 1, 1);
                let exposure = f64::from(light(&none, lamp).plane(0)[0]);
                let found = f64::from(light(&own, region).plane(0)[0] - light(&none, region).plane(0)[0]);
                let reach = radius.ceil() as i64;
                let mut spread = 0.0;
                for (dx, dy) in (-reach..=reach).flat_map(|y| (-reach..=reach).map(move |x| (x, y))) {
                    if (dx as f64).hypot(dy as f64) <= radius {
                        let square = ((dx as f64 - off).powi(2) + (dy as f64).powi(2)) * pitch * pitch;
                        let gaussian = |(s, w): &(f64, f64)| {
                            w * (-square / (2.0 * s * s)).exp() / (2.0 * std::f64::consts::PI * s * s)
                        };
                        spread += kernel.iter().map(gaussian).sum::<f64>() * pitch * pitch;
                    }
                }
                let formula = strength * exposure * (1.0 + boost) * spread;
                let ratio = found / formula;
                println!("pitch {pitch}, lamp {radius_um} um, {off} px beside: {ratio:.3}");
                assert!((ratio - 1.0).abs() < 0.2, "pitch {pitch}, lamp {radius_um} um: {found:.5} for {formula:.5}");
            }
        }
    }
}

/// Bloom with all of it kept gives back what it takes from lights of three pixels, within a fifth.
#[test]
fn bloom_of_small_lights_gives_what_it_takes() {
    let stock = Catalogue::find("plover").unwrap();
    let (width, height) = (2400u32, 1800u32);
    let lamps: Vec<([f64; 2], f64)> = (0..60)
        .map(|i| {
            let (x, y) = (i % 10, i / 10);
            ([240.0 * f64::from(x) + 117.0 + f64::from(i % 3), 300.0 * f64::from(y) + 141.0 + f64::from(i % 4)], 1.5)
        })
        .collect();
    let scaled = discs(width, height, &lamps);
    let bloom = |strength: f64| {
        tuned(
            &stock,
            &[
                ("lens.bloom.strength", Value::Number(strength)),
                ("lens.bloom.threshold", Value::Number(2.0)),
                ("lens.bloom.kept", Value::Number(100.0)),
            ],
        )
    };
    let light = |strength: f64| -> Picture<SceneLight> {
        let development = bloom(strength);
        renderer(2).scene_light(&request(&scaled, &stock, &development, scaled.source.region()), Watch::NONE).unwrap()
    };
    let (with, without) = (light(0.5), light(0.0));
    let (mut taken, mut given) = (0.0, 0.0);
    for (a, b) in with.plane(1).iter().zip(without.plane(1)) {
        let change = f64::from(a - b);
        if change < 0.0 { taken -= change } else { given += change }
    }
    println!("taken {taken:.1}, given {given:.1}");
    assert!(taken > 10.0 && (given / taken - 1.0).abs() < 0.2, "taken {taken:.1}, given {given:.1}");
}
