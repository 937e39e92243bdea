//! The exposure axis drawn wide: the film's curve over it and where the picture's tones fall. SVG 470 units wide.

use amber_lab::FilmReading;

/// The axis from zone -0.5 to 10.5.
const LEFT: f64 = 8.0;
const RIGHT: f64 = 462.0;
const TOP: f64 = 4.0;
const COLOURS: [&str; 3] = ["var(--d-r)", "var(--d-g)", "var(--d-b)"];
/// The eleven zones.
pub const ZONE_NAMES: [&str; 11] = ["0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X"];

/// Place of a zone on the axis.
fn x(zone: f64) -> f64 {
    LEFT + (RIGHT - LEFT) * (zone + 0.5) / 11.0
}

/// What is drawn beside the curve and the picture's exposures.
#[derive(Default)]
pub struct Beside<'a> {
    /// Another distribution, as an outline.
    pub outline: Option<&'a [f64]>,
    /// The film's straight line, in stops from mid grey.
    pub straight: Option<[f64; 2]>,
    /// Names of the zones under the axis.
    pub named: bool,
}

/// The drawing, down to `foot`.
pub fn wide(reading: &FilmReading, foot: f64, beside: &Beside) -> String {
    let height = foot - TOP;
    let mut svg =
        format!(r##"<rect x="{LEFT}" y="{TOP}" width="{}" height="{height}" fill="#131313"/>"##, RIGHT - LEFT);
    if let Some([low, high]) = beside.straight {
        let (from, to) = (x((low + 5.0).max(-0.5)), x((high + 5.0).min(10.5)));
        svg += &format!(
            r##"<rect x="{from:.1}" y="{TOP}" width="{:.1}" height="{height}" fill="#262626"/><path d="M{from:.1}
                {TOP}V{foot}M{to:.1} {TOP}V{foot}" stroke="#7a7a7a" stroke-dasharray="2 3"/>"##,
            (to - from).max(0.0)
        );
    }
    for (zone, name) in ZONE_NAMES.iter().enumerate() {
        let at = x(zone as f64);
        svg += &format!(r##"<path d="M{at:.1} {foot}v-3" stroke="#666"/>"##);
        if beside.named {
            svg += &format!(
                r#"<text x="{at:.1}" y="{:.1}" text-anchor="middle" class="ag-axis">{name}</text>"#,
                foot + 12.0
            );
        }
    }
    let bins = reading.exposures.len().max(2);
    let along = |i: usize| LEFT + (RIGHT - LEFT) * i as f64 / (bins - 1) as f64;
    let most = reading.exposures.iter().chain(beside.outline.unwrap_or_default()).copied().fold(1e-9, f64::max);
    let shape = |shares: &[f64]| -> String {
        let points = shares
            .iter()
            .enumerate()
            .map(|(i, share)| format!("{:.1},{:.1}", along(i), foot - 0.55 * height * (share / most).sqrt()));
        points.collect::<Vec<_>>().join(" ")
    };
    svg +=
        &format!(r##"<polygon points="{LEFT},{foot} {} {RIGHT},{foot}" fill="#4a4a4a"/>"##, shape(&reading.exposures));
    if let Some(outline) = beside.outline {
        svg += &format!(r#"<polyline points="{}" fill="none" stroke="var(--ink-2)"/>"#, shape(outline));
    }
    let highest = reading.layers.iter().flat_map(|l| &l.now).copied().fold(0.5, f64::max) * 1.05;
    let single = reading.layers.len() == 1;
    for (layer, colour) in reading.layers.iter().zip(COLOURS) {
        let colour = if single { "var(--ink-1)" } else { colour };
        let points: Vec<String> = layer
            .now
            .iter()
            .enumerate()
            .map(|(i, d)| format!("{:.1},{:.1}", along(i), foot - height * d / highest))
            .collect();
        svg +=
            &format!(r#"<polyline points="{}" fill="none" stroke="{colour}" stroke-width="1.5"/>"#, points.join(" "));
    }
    svg
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_lab::CurveReading;

    #[test]
    fn zones_lie_a_stop_apart_and_the_drawing_stays_in_its_box() {
        assert!((x(5.0) - 235.0).abs() < 1e-9 && (x(6.0) - x(5.0) - 454.0 / 11.0).abs() < 1e-9);
        let layer =
            CurveReading { now: vec![0.2; 111], stock: vec![0.2; 111], handles: [[0.0; 2]; 3], reversal: false };
        let reading = FilmReading { layers: vec![layer], exposures: vec![1.0 / 111.0; 111], zones: [0.0; 11] };
        let outline = vec![0.0; 111];
        let beside = Beside { outline: Some(&outline), straight: Some([-40.0, 40.0]), named: true };
        let svg = wide(&reading, 62.0, &beside);
        assert!(!svg.contains("NaN") && svg.matches("polyline").count() == 2 && svg.contains(">VIII<"));
        assert!(svg.contains(r#"width="454.0""#), "the straight line is cut to the axis: {svg}");
    }
}
