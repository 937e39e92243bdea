//! What Tone and Years add to a finished print.

use amber_core::controls::Value;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Development, Stock};

use super::figures::{Spent, timed};

/// Effects by the controls that turn them on.
const EFFECTS: [(&str, &[(&str, f64)]); 6] = [
    ("tone: four tones", &[("tone.four.strength", 80.0)]),
    ("years: age, in the table", &[("years.age", 30.0)]),
    ("years: sun", &[("years.sun.strength", 0.5)]),
    ("years: foxing", &[("years.foxing.amount", 0.5)]),
    ("years: water", &[("years.water.amount", 0.5)]),
    ("tone: wash", &[("tone.wash.strength", 50.0)]),
];

/// Core time of each effect over the whole frame, its table made before.
pub fn effects(stock: &Stock, scaled: &Scaled, renderer: &Renderer) -> Vec<(String, Spent)> {
    let run = |development: &Development| {
        let (region, grain) = (scaled.source.region(), GrainShown::Off);
        let request =
            RenderRequest { scaled, stock, development, region, grain, keep_tiles: false, finish: Finish::SCREEN };
        let once = || timed(|| std::hint::black_box(renderer.display_8_bit(&request, Watch::NONE).is_ok())).1;
        once();
        once().min(once())
    };
    let own = Development::new(stock);
    let plain = run(&own);
    let one = |(name, values): &(&str, &[(&str, f64)])| {
        let mut development = own.clone();
        for (id, v) in *values {
            development.values.insert((*id).into(), Value::Number(*v));
        }
        (name.to_string(), run(&development).saturating_sub(plain))
    };
    EFFECTS.iter().map(one).collect()
}
