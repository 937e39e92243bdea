//! One frame through every stage, and its print as a portable pixmap:
//! `cargo run --release --example one_frame OUT.ppm`.

use std::error::Error;

use amber_core::controls::Value;
use amber_core::{Catalogue, Development, Frame, Source};

pub fn main() -> Result<(), Box<dyn Error>> {
    // a lamp over a slope of greys; in life, codes of sRGB from a file: `Source::from_srgb_8_bit`
    let source = Source::from_linear_srgb(600, 400, |x, y| {
        let lamp =
            f64::from(x).hypot(f64::from(y) - 60.0) < 12.0 || (x as i32 - 420).pow(2) + (y as i32 - 90).pow(2) < 200;
        if lamp { [1.0; 3] } else { [0.5, 0.4, 0.3].map(|v| v * f64::from(x) / 600.0) }
    });
    let frame = Frame::new(source)?;
    let stock = Catalogue::find("plover")?;
    let mut development = Development::new(&stock);
    development.set(&stock, "film.push", Value::Number(1.0))?;
    development.set(&stock, "film.halation.strength", Value::Number(0.3))?;

    let print = frame.render(&stock, &development)?.long_edge(480);
    let [width, height] = print.size();
    let middle = |planes: &[Vec<f32>]| planes.iter().map(|p| p[p.len() / 2]).collect::<Vec<_>>();
    println!("scene light  {:?}", middle(print.scene_light()?.planes()));
    println!("exposure     {:?}", middle(print.exposure()?.planes()));
    println!("density      {:?}", middle(print.density()?.planes()));
    println!("reflectance  {:?}", middle(print.reflectance()?.planes()));
    if let Some(path) = std::env::args().nth(1) {
        let mut file = format!("P6 {width} {height} 255\n").into_bytes();
        file.extend(print.display_8_bit()?);
        std::fs::write(path, file)?;
    }
    Ok(())
}
