//! What each effect of Lens, and a local adjustment, adds to the scene's light.

use amber_core::controls::Value;
use amber_core::mask::{Join, Mask, Oval, Part, Shape, Stroke};
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Development, Stock};

use super::figures::{Spent, timed};

/// Effects by the controls that turn them on.
const EFFECTS: [(&str, &[(&str, f64)]); 7] = [
    ("lens: softness", &[("lens.softness.overall", 30.0)]),
    ("lens: soft edges", &[("lens.softness.edges", 200.0)]),
    ("lens: shake", &[("lens.shake.length", 100.0), ("lens.shake.angle", 20.0)]),
    ("lens: falloff", &[("lens.falloff.stops", -1.0)]),
    ("lens: bloom", &[("lens.bloom.strength", 0.5)]),
    ("lens: fringes", &[("lens.fringes.red", 20.0)]),
    ("lens: flash", &[("lens.flash.stops", 1.0)]),
];
/// Strokes of the mask that is painted.
const STROKES: usize = 50;

/// Core time of each effect over the whole frame, without and with what is made for the whole frame first.
pub fn effects(stock: &Stock, scaled: &Scaled, renderer: &Renderer) -> Vec<(String, Spent)> {
    let run = |development: &Development| {
        let (region, grain) = (scaled.source.region(), GrainShown::Off);
        let request =
            RenderRequest { scaled, stock, development, region, grain, keep_tiles: false, finish: Finish::SCREEN };
        timed(|| std::hint::black_box(renderer.scene_light(&request, Watch::NONE).is_ok())).1
    };
    let own = Development::new(stock);
    run(&own);
    let plain = run(&own);
    let mut times = Vec::new();
    let add = |times: &mut Vec<_>, name: &str, development: &Development| {
        let (first, second) = (run(development), run(development));
        let quick = first.min(second).saturating_sub(plain);
        times.push((name.to_string(), quick));
        times.push((format!("{name}: made first"), first.saturating_sub(plain + quick)));
    };
    for (name, values) in EFFECTS {
        let mut development = own.clone();
        for (id, v) in values {
            development.values.insert((*id).into(), Value::Number(*v));
        }
        add(&mut times, name, &development);
    }
    let mut leaning = own.clone();
    leaning.values.insert("lens.straighten".into(), Value::Number(2.5));
    let framing = || renderer.pool().install(|| scaled.for_development(&leaning, stock, &|| false));
    times.push(("lens: straightened".into(), timed(|| std::hint::black_box(framing().is_ok())).1));
    for (name, shape) in [("an ellipse", ellipse()), ("50 strokes", strokes())] {
        let mut development = own.clone();
        let parts = vec![Part { join: Join::Add, shape }];
        development.masks.insert("m".into(), Mask { name: "M".into(), parts, ..Mask::default() });
        development.values.insert("scene.local.1.mask".into(), Value::Choice("m".into()));
        development.values.insert("scene.local.1.exposure".into(), Value::Number(0.5));
        add(&mut times, &format!("scene: burned through {name}"), &development);
    }
    times
}

fn ellipse() -> Shape {
    Shape::Ellipse(Oval { centre: [0.5, 0.5], radii: [0.3, 0.2], turn: 20.0, feather: 0.5 })
}

fn strokes() -> Shape {
    let stroke = |i: usize| {
        let y = i as f64 / STROKES as f64;
        let points = (0..40).map(|k| [f64::from(k) / 40.0, y + 0.02 * (f64::from(k) * 0.5).sin()]).collect();
        Stroke { size: 0.04, softness: 0.7, strength: 0.8, erase: i % 5 == 4, points }
    };
    Shape::Brush { strokes: (0..STROKES).map(stroke).collect() }
}
