//! What several of these tests begin with.
#![allow(dead_code, reason = "each test binary uses a part of it")]

use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled};
use amber_core::{Development, Stock};

/// A renderer that keeps tiles.
pub fn renderer(threads: usize) -> Renderer {
    let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
    Renderer::new(Arc::new(pool), 64 << 20)
}

/// A renderer of two threads that keeps no tiles.
pub fn forgetful() -> Renderer {
    Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap()), 0)
}

/// A whole frame without grain.
pub fn plain<'a>(scaled: &'a Scaled, stock: &'a Stock, development: &'a Development) -> RenderRequest<'a> {
    RenderRequest { grain: GrainShown::Off, ..request(scaled, stock, development) }
}

/// A whole frame with its grain.
pub fn request<'a>(scaled: &'a Scaled, stock: &'a Stock, development: &'a Development) -> RenderRequest<'a> {
    let region = scaled.source.region();
    RenderRequest {
        scaled,
        stock,
        development,
        region,
        grain: GrainShown::Full,
        keep_tiles: false,
        finish: Finish::SCREEN,
    }
}

pub fn tuned(stock: &Stock, values: &[(&str, Value)]) -> Development {
    let mut development = Development::new(stock);
    for (id, value) in values {
        development.set(stock, id, value.clone()).unwrap();
    }
    development
}

pub fn with(stock: &Stock, values: &[(&str, f64)]) -> Development {
    let mut development = Development::new(stock);
    for (id, v) in values {
        development.set(stock, id, Value::Number(*v)).unwrap();
    }
    development
}

/// Everything that looks beyond its pixel, at once.
pub fn spatial(stock: &Stock) -> Development {
    masked(with(
        stock,
        &[
            ("film.halation.strength", 0.4),
            ("film.halation.threshold", 0.5),
            ("film.halation.guard", 0.5),
            ("film.hue.red", 0.7),
            ("film.grain.granularity", 22.0),
            ("bath.uneven.amount", 0.7),
            ("bath.uneven.streaks", 0.7),
            ("bath.uneven.edges", 0.7),
            ("print.acutance.fine", 0.8),
            ("print.acutance.fine_radius", 40.0),
            ("print.acutance.coarse", 0.5),
            ("print.acutance.coarse_radius", 200.0),
            ("print.strength", 80.0),
            ("scene.zone.3", 0.8),
            ("scene.zone.7", -0.9),
            ("scene.air", -0.7),
            ("scene.local_contrast", 0.8),
            ("scene.detail", 0.9),
            ("scene.saturation", 30.0),
            ("scene.quiet_colours", 40.0),
            ("scene.balance.shadows.blue", 20.0),
            ("scene.band.green.hue", 25.0),
            ("scene.noise.luminance", 0.6),
            ("scene.noise.colour", 0.8),
            ("lens.filter.mired", 40.0),
            ("lens.shake.length", 400.0),
            ("lens.shake.angle", 25.0),
            ("lens.softness.overall", 40.0),
            ("lens.softness.edges", 500.0),
            ("lens.softness.x", 20.0),
            ("lens.falloff.stops", -1.5),
            ("lens.falloff.natural", 25.0),
            ("lens.bloom.strength", 0.6),
            ("lens.bloom.threshold", 1.0),
            ("lens.fringes.red", 60.0),
            ("lens.flash.stops", 1.0),
            ("tone.two.dark.strength", 60.0),
            ("tone.four.strength", 50.0),
            ("tone.wash.strength", 30.0),
            ("tone.grey.strength", 20.0),
            ("tone.coating.edge", 0.8),
            ("tone.coating.uneven", 0.7),
            ("years.age", 30.0),
            ("years.sun.strength", 0.6),
            ("years.mirroring", 0.7),
            ("years.foxing.amount", 0.6),
            ("years.water.amount", 0.5),
        ],
    ))
}

/// With masks of every kind, on everything that takes one.
pub fn masked(mut development: Development) -> Development {
    let masks = [
        r#"{"name":"Brush","feather":0.004,"parts":[{"kind":"brush","strokes":[
            {"size":0.2,"softness":0.8,"strength":0.7,"points":[[0.2,0.2],[0.6,0.5]]},
            {"size":0.1,"erase":true,"points":[[0.3,0.3]]}]}]}"#,
        r#"{"name":"Ellipse","inverted":true,"parts":[
            {"kind":"ellipse","centre":[0.4,0.6],"radii":[0.2,0.3],"turn":20,"feather":0.6},
            {"join":"intersect","kind":"linear","from":[0.1,0.2],"to":[0.8,0.9]}]}"#,
        r#"{"name":"Ranges","parts":[{"kind":"hue","low":20,"high":120,"feather":[20,40]},
            {"kind":"tone","low":4,"high":6,"feather":[1,2]}]}"#,
        r#"{"name":"Edge","parts":[{"kind":"edge","size":0.05,"reach":0.5,"strokes":[[[0.5,0.5],[0.6,0.6]]]}]}"#,
    ];
    for (id, mask) in ["1", "2", "3", "4"].into_iter().zip(masks) {
        development.masks.insert(id.into(), serde_json::from_str(mask).unwrap());
    }
    for (id, toner) in [("tone.bath.1.toner", "sepia"), ("tone.bath.2.toner", "selenium")] {
        development.values.insert(id.into(), Value::Choice(toner.into()));
    }
    let places = [
        "lens.softness",
        "lens.shake",
        "lens.bloom",
        "film.hue",
        "tone.toning",
        "tone.two",
        "tone.wash",
        "years.age",
        "years.sun",
        "years.water",
    ];
    let places = places.map(|effect| format!("{effect}.mask"));
    let masks = ["1", "not 2", "3", "4", "2", "not 1", "3", "not 4", "2", "not 3"];
    for (id, mask) in places.into_iter().zip(masks) {
        development.values.insert(id, Value::Choice(mask.into()));
    }
    let local = ["exposure", "temperature", "saturation", "placed", "contrast", "air", "softness"];
    for (key, mask) in [(1, "not 1"), (2, "2"), (3, "4")] {
        development.values.insert(format!("scene.local.{key}.mask"), Value::Choice(mask.into()));
        for (member, value) in local.iter().zip([0.8, -40.0, 50.0, 0.6, 0.7, -0.5, 90.0]) {
            development.values.insert(format!("scene.local.{key}.{member}"), Value::Number(value));
        }
    }
    development.check().unwrap();
    development
}
