//! Photographs, their prints, and how far two prints lie apart.
#![allow(dead_code, reason = "each test binary uses a part of it")]

use std::sync::Arc;

use amber_core::colour::difference::ciede2000;
use amber_core::colour::lab::from_linear_srgb;
use amber_core::picture::reduce::size_for_long_edge;
use amber_core::picture::source::linear_of_code;
use amber_core::render::Renderer;
use amber_core::{Development, Frame, Source, Stock};

/// A photograph of the demo.
pub fn photograph(name: &str, long_edge: u32) -> Arc<Source> {
    let file = format!("{}/../../demo/photographs/{name}.jpg", env!("CARGO_MANIFEST_DIR"));
    let bytes = std::fs::read(file).unwrap();
    let full = amber_files::open(&bytes, amber_files::Limits { megapixels: 100 }).unwrap().source;
    let (width, height) = size_for_long_edge(long_edge, full.width(), full.height());
    Arc::new(full.reduced(width, height))
}

pub fn renderer() -> Renderer {
    Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap()), 0)
}

pub fn print_of(source: &Source, stock: &Stock, development: &Development) -> Source {
    let frame = Frame::new(source.clone()).unwrap();
    let shown = frame.render(stock, development).unwrap().display_8_bit().unwrap();
    Source::of_8_bit(source.width(), source.height(), shown).unwrap()
}

/// Median CIEDE2000 of two pictures of one subject, pixel by pixel of a reduction that averages grain.
pub fn apart(a: &Source, b: &Source) -> f64 {
    let linear = linear_of_code();
    let [a, b] = [a, b].map(|s| s.reduced(s.width() / 6, s.height() / 6));
    let lab = |s: &Source, i: usize| from_linear_srgb(s.pixel(i).map(|code| f64::from(linear[code as usize])));
    let mut all: Vec<f64> = (0..a.region().pixels()).map(|i| ciede2000(lab(&a, i), lab(&b, i))).collect();
    all.sort_by(f64::total_cmp);
    all[all.len() / 2]
}
