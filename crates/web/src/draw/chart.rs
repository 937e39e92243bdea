//! The film chart: density over scene exposure, the picture's own exposures beneath. SVG of 200 x 128.

use amber_core::controls::{Control, Kind, Values};
use amber_core::stations::film::settings::{CURVES, LayerControls};
use amber_lab::{CurveReading, FilmReading};

const LEFT: f64 = 20.0;
const RIGHT: f64 = 198.0;
const TOP: f64 = 4.0;
const FOOT: f64 = 112.0;
const COLOURS: [&str; 3] = ["var(--d-r)", "var(--d-g)", "var(--d-b)"];
const ZONE_LABELS: [(&str, usize); 6] = [("0", 0), ("II", 2), ("IV", 4), ("VI", 6), ("VIII", 8), ("X", 10)];

/// The drawing, with handles on toe, middle and shoulder of each curve.
pub fn film(reading: &FilmReading, values: &Values) -> String {
    let steps = reading.exposures.len().max(2);
    let x = |step: f64| LEFT + (RIGHT - LEFT) * step / (steps - 1) as f64;
    let all = reading.layers.iter().flat_map(|l| l.now.iter().chain(&l.stock));
    let highest = (all.copied().fold(0.5, f64::max) * 2.0).ceil() / 2.0 + 0.1;
    let y = |density: f64| FOOT - (FOOT - TOP) * density / highest;
    let mut svg =
        format!(r##"<rect x="{LEFT}" y="{TOP}" width="{}" height="{}" fill="#131313"/>"##, RIGHT - LEFT, FOOT - TOP);
    let spacing = if highest > 2.7 { 1.0 } else { 0.5 };
    let mut density = spacing;
    while density < highest {
        let at = y(density);
        svg += &format!(
            r##"<path d="M{LEFT} {at:.1}H{RIGHT}" stroke="#2c2c2c"/><text x="16" y="{:.1}" text-anchor="end"
                class="ag-axis">{density:.1}</text>"##,
            at + 3.5
        );
        density += spacing;
    }
    for (name, zone) in ZONE_LABELS {
        // zone 0 lies five steps in: the axis starts half a zone earlier
        let at = x(5.0 + 10.0 * zone as f64);
        svg += &format!(
            r##"<path d="M{at:.1} {FOOT}v-3" stroke="#666"/><text x="{at:.1}" y="123" text-anchor="middle"
                class="ag-axis">{name}</text>"##
        );
    }
    svg += &histogram(&reading.exposures, x);
    let single = reading.layers.len() == 1;
    for (layer, colour) in reading.layers.iter().zip(COLOURS) {
        let colour = if single { "var(--ink-1)" } else { colour };
        let path = |values: &[f64]| {
            let points: Vec<String> =
                values.iter().enumerate().map(|(i, d)| format!("{:.1},{:.1}", x(i as f64), y(*d))).collect();
            points.join(" ")
        };
        svg += &format!(
            r#"<polyline points="{}" fill="none" stroke="{colour}" stroke-dasharray="2 3" opacity=".7"/><polyline
                points="{}" fill="none" stroke="{colour}" stroke-width="1.5"/>"#,
            path(&layer.stock),
            path(&layer.now)
        );
    }
    let controls = if single { &CURVES[3..] } else { &CURVES[..3] };
    for ((layer, controls), name) in reading.layers.iter().zip(controls).zip(["red", "green", "blue"]) {
        let places = layer.handles.map(|[step, density]| [x(step), y(density)]);
        svg += &handles(layer, controls, values, places, if single { "single" } else { name });
    }
    svg
}

/// Log exposure of one unit of the drawing across.
const LOG_EXPOSURE_PER_UNIT: f64 = 11.0 * std::f64::consts::LOG10_2 / (RIGHT - LEFT);
/// Share of its value that a contrast changes for one unit up.
const CONTRAST_PER_UNIT: f64 = 0.012;

/// The handles of a layer: dragged across for toe and shoulder, up and down for contrast.
fn handles(
    layer: &CurveReading,
    controls: &LayerControls,
    values: &Values,
    places: [[f64; 2]; 3],
    name: &str,
) -> String {
    // the toe lies at the thin end of the curve: left on a negative, right on a slide
    let outwards = if layer.reversal { 1.0 } else { -1.0 };
    let contrast = values.number(&controls.contrast);
    let moves = [
        (&controls.toe, "x", outwards * LOG_EXPOSURE_PER_UNIT),
        (&controls.contrast, "y", contrast * CONTRAST_PER_UNIT),
        (&controls.shoulder, "x", -outwards * LOG_EXPOSURE_PER_UNIT),
    ];
    moves
        .iter()
        .zip(places)
        .map(|((control, axis, per_unit), [cx, cy])| handle(control, values, axis, *per_unit, cx, cy, name))
        .collect()
}

fn handle(control: &Control, values: &Values, axis: &str, per_unit: f64, cx: f64, cy: f64, layer: &str) -> String {
    let Kind::Scalar { low, high, step, .. } = control.kind else { return String::new() };
    let (id, label, value) = (control.id, control.label, values.number(control));
    let own = control.own_value(values.stock());
    format!(
        r#"<circle class="ag-handle" cx="{cx:.1}" cy="{cy:.1}" r="4" data-layer="{layer}" data-handle="{id}"
            data-axis="{axis}" data-per="{per_unit:.6}" data-low="{low}" data-high="{high}" data-step="{step}"
            data-value="{value}" data-own="{own}"><title>{label}: drag {}</title></circle>"#,
        if axis == "x" { "sideways" } else { "up or down" }
    )
}

/// The print's tones as a histogram over L*, SVG of 200 x 36.
pub fn tones(lightness: &[f64]) -> String {
    let most = lightness.iter().copied().fold(1e-9, f64::max);
    let width = 198.0 / lightness.len() as f64;
    let bars: Vec<String> = lightness
        .iter()
        .enumerate()
        .map(|(i, share)| {
            let height = 34.0 * (share / most).sqrt();
            format!("M{:.1} 35V{:.1}h{width:.1}V35", 1.0 + width * i as f64, 35.0 - height)
        })
        .collect();
    format!(r##"<path d="{}" fill="#a0a09e"/><path d="M1 35.5H199" stroke="#666"/>"##, bars.join(""))
}

/// The distribution, as the root of its shares so that small ones are seen.
fn histogram(shares: &[f64], x: impl Fn(f64) -> f64) -> String {
    let most = shares.iter().copied().fold(1e-9, f64::max);
    let points: Vec<String> = shares
        .iter()
        .enumerate()
        .map(|(i, s)| format!("{:.1},{:.1}", x(i as f64), FOOT - 46.0 * (s / most).sqrt()))
        .collect();
    format!(r##"<polygon points="{LEFT},{FOOT} {} {RIGHT},{FOOT}" fill="#4a4a4a"/>"##, points.join(" "))
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::{Catalogue, Stock};

    fn reading(layers: usize, densities: Vec<f64>) -> FilmReading {
        let handles = [[10.0, 0.2], [50.0, 1.0], [90.0, 2.0]];
        let layer = CurveReading { now: densities.clone(), stock: densities.clone(), handles, reversal: false };
        let exposures = vec![1.0 / densities.len() as f64; densities.len()];
        FilmReading { layers: vec![layer; layers], exposures, zones: [1.0 / 11.0; 11] }
    }

    fn drawn(stock: &Stock, reading: &FilmReading) -> String {
        film(reading, &Values::own(stock))
    }

    #[test]
    fn curves_stay_in_the_chart() {
        let densities: Vec<f64> = (0..111).map(|i| 0.08 + 2.3 * i as f64 / 110.0).collect();
        let svg = drawn(&Catalogue::first(), &reading(3, densities));
        assert_eq!(svg.matches("<polyline").count(), 6, "now and stock for three layers");
        assert_eq!(svg.matches("data-handle").count(), 9, "toe, contrast and shoulder of three layers");
        for colour in COLOURS {
            assert!(svg.contains(colour));
        }
        let points = svg.split("points=\"").skip(1).filter_map(|t| t.split('"').next());
        for pair in points.flat_map(|p| p.split_whitespace()) {
            let (x, y) = pair.split_once(',').unwrap();
            let (x, y): (f64, f64) = (x.parse().unwrap(), y.parse().unwrap());
            assert!((LEFT..=RIGHT).contains(&x) && (TOP..=FOOT).contains(&y), "{x} {y}");
        }
    }

    #[test]
    fn a_single_layer_has_no_colour() {
        let svg = drawn(&Catalogue::find("juniper").unwrap(), &reading(1, vec![0.16, 1.0, 2.0]));
        assert!(svg.contains("var(--ink-1)") && !svg.contains("var(--d-r)"));
        assert!(svg.contains("film.curve.single.contrast"));
    }

    #[test]
    fn the_histogram_holds_its_height() {
        assert!(!tones(&[0.0; 64]).contains("NaN"));
        assert!(tones(&[0.0, 1.0]).contains("V1.0"));
    }
}
