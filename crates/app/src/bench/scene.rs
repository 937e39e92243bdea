//! What each effect of Scene adds to decoding and balance.

use amber_core::controls::Value;
use amber_core::render::Scaled;
use amber_core::stations::scene::noise::NoiseSettings;
use amber_core::stations::scene::{SceneSettings, SceneStage};
use amber_core::{Development, Stock};
use rayon::prelude::*;

use super::TILE;
use super::figures::{Spent, timed};

/// Effects by the controls that turn them on.
const EFFECTS: [(&str, &[(&str, f64)]); 7] = [
    ("scene: zone placement", &[("scene.zone.3", 0.5), ("scene.zone.7", -0.5)]),
    ("scene: contrast and detail", &[("scene.local_contrast", 0.5), ("scene.detail", 0.5)]),
    ("scene: air cleared", &[("scene.air", -0.5)]),
    ("scene: air veiled", &[("scene.air", 0.5)]),
    ("scene: tone balance", &[("scene.balance.shadows.blue", 10.0)]),
    ("scene: saturation", &[("scene.saturation", 20.0)]),
    ("scene: hue bands", &[("scene.band.green.hue", 10.0)]),
];
/// Runs of each; the quickest counts.
const RUNS: usize = 2;

/// Core time of each effect over the whole frame, and of what is measured on the picture first.
pub fn effects(stock: &Stock, scaled: &Scaled, pool: &rayon::ThreadPool) -> Vec<(String, Spent)> {
    let whole = scaled.source.region();
    let cells = whole.cells(TILE, &whole);
    let over_the_frame = |stage: &SceneStage| {
        let run = || {
            pool.install(|| {
                cells.par_iter().for_each(|cell| {
                    std::hint::black_box(stage.light(&scaled.source, *cell));
                });
            });
        };
        (0..RUNS).map(|_| timed(run).1).min().unwrap_or_default()
    };
    let settings = |development: &Development| SceneSettings::read(&development.values(stock));
    let prepared = |development: &Development| {
        timed(|| pool.install(|| SceneStage::measured(&settings(development), stock, scaled.facts.small())))
    };
    let own = Development::new(stock);
    let plain = over_the_frame(&prepared(&own).0);
    let mut times = Vec::new();
    let mut set_up = Spent::default();
    let mut add = |name: &str, development: &Development| {
        let (stage, preparing) = prepared(development);
        set_up = set_up.max(preparing);
        times.push((name.to_string(), over_the_frame(&stage).saturating_sub(plain)));
    };
    for (name, values) in EFFECTS {
        let mut development = own.clone();
        for (id, v) in values {
            development.values.insert((*id).into(), Value::Number(*v));
        }
        add(name, &development);
    }
    let mut bent = own;
    let curve = Value::Curve(vec![[0.0, 3.0], [50.0, 55.0], [100.0, 98.0]]);
    bent.values.insert("scene.curve.master".into(), curve);
    add("scene: curve", &bent);
    times.push(("scene: measuring the picture".into(), set_up));
    for (name, luminance, colour) in [("scene: smoothing noise", 0.5, 0.0), ("scene: smoothing colour noise", 0.0, 0.5)]
    {
        let settings = NoiseSettings { luminance, colour };
        let ((), time) = timed(|| {
            pool.install(|| {
                std::hint::black_box(scaled.smoothed(&settings, &|| false).is_ok());
            });
        });
        times.push((name.to_string(), time));
    }
    times
}
