//! Frozen renders: every stock as it is, and with everything on. A change of one is made on purpose and said why:
//! `INSTA_UPDATE=always cargo test --release -p amber-core --test frozen`, and look at the pictures.

use std::fmt::Write;
use std::sync::Arc;

use amber_core::render::{Scaled, Watch};
use amber_core::{Catalogue, Development, Source, Stock};
use support::{renderer, request, spatial};

mod support;

/// Tones from black to clipped white, colours of the whole gamut, hard edges and a lamp of two pixels.
fn scene() -> Scaled {
    let source = Source::from_linear_srgb(96, 64, |x, y| {
        let (u, v) = (f64::from(x) / 95.0, f64::from(y) / 63.0);
        if (40..42).contains(&x) && (12..14).contains(&y) {
            return [1.0; 3];
        }
        let check = f64::from((x / 12 + y / 8) % 2) * 0.15;
        [1.1 * u * u + check, 0.02 + 0.7 * v * u, 0.8 * (1.0 - u) * v + 0.5 * check]
    });
    Scaled::full(Arc::new(source), "frozen")
}

fn hash(stock: &Stock, development: &Development) -> String {
    let scaled = scene().for_development(development, stock, &|| false).unwrap();
    let codes = renderer(2).display_16_bit(&request(&scaled, stock, development), Watch::NONE).unwrap();
    let bytes: Vec<u8> = codes.iter().flat_map(|c| c.to_le_bytes()).collect();
    blake3::hash(&bytes).to_hex()[..16].to_owned()
}

#[test]
fn renders_are_what_they_were() {
    let mut told = String::new();
    for stock in Catalogue::all() {
        let own = hash(stock, &Development::new(stock));
        let all = hash(stock, &spatial(stock));
        writeln!(told, "{:12} {own} {all}", stock.id).unwrap();
    }
    insta::assert_snapshot!(told);
}
