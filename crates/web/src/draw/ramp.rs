//! The tone ramp: the print of a grey scale, as a strip and as L*, a*, b* over density. SVG of 470 x 140.

use amber_core::colour::transfer::encode_srgb;
use amber_core::stations::print::PrintTone;

/// The strip over L* 0 to 100.
pub const STRIP: (f64, f64) = (8.0, 296.0);
const STRIP_TOP: f64 = 10.0;
const STRIP_HEIGHT: f64 = 46.0;
/// Box of the chart.
const CHART: [f64; 4] = [334.0, 10.0, 462.0, 122.0];
/// Steps of the strip.
const STEPS: usize = 96;

fn hex(rgb: [f64; 3]) -> String {
    let [r, g, b] = rgb.map(|v| (255.0 * encode_srgb(v.clamp(0.0, 1.0))).round() as u8);
    format!("#{r:02x}{g:02x}{b:02x}")
}

/// The colour of the print at a lightness; `None` where the print has none.
fn at(tones: &[PrintTone], lightness: f64) -> Option<[f64; 3]> {
    let pair = tones.windows(2).find(|p| {
        let (a, b) = (p[0].lab[0].min(p[1].lab[0]), p[0].lab[0].max(p[1].lab[0]));
        (a..=b).contains(&lightness)
    })?;
    let (a, b) = (pair[0].lab[0], pair[1].lab[0]);
    let t = if (b - a).abs() < 1e-9 { 0.0 } else { (lightness - a) / (b - a) };
    Some(std::array::from_fn(|k| pair[0].rgb[k] + t * (pair[1].rgb[k] - pair[0].rgb[k])))
}

/// The strip alone, `width` x `height` at a place.
pub fn strip(tones: &[PrintTone], steps: usize, [x, y, width, height]: [f64; 4]) -> String {
    let step = width / steps as f64;
    (0..steps)
        .filter_map(|i| {
            let rgb = at(tones, 100.0 * (i as f64 + 0.5) / steps as f64)?;
            let left = x + step * i as f64;
            // a little wider, so that no seam shows
            Some(format!(
                r#"<rect x="{left:.2}" y="{y}" width="{:.2}" height="{height}" fill="{}"/>"#,
                step + 0.4,
                hex(rgb)
            ))
        })
        .collect()
}

/// Strip and chart.
pub fn ramp(tones: &[PrintTone]) -> String {
    let (left, right) = STRIP;
    let mut svg = strip(tones, STEPS, [left, STRIP_TOP, right - left, STRIP_HEIGHT]);
    svg += &format!(
        r##"<rect x="{left}" y="{STRIP_TOP}" width="{}" height="{STRIP_HEIGHT}" fill="none" stroke="#555"/>"##,
        right - left
    );
    for l in [0, 25, 50, 75, 100] {
        let x = left + (right - left) * f64::from(l) / 100.0;
        svg += &format!(
            r##"<text x="{x:.1}" y="136" text-anchor="middle" class="ag-axis">{l}</text><path d="M{x:.1} 122v4"
                stroke="#666"/>"##
        );
    }
    let [x0, y0, x1, y1] = CHART;
    let deepest = tones.iter().map(|t| t.density).fold(1.0, f64::max).ceil();
    let x = |density: f64| x0 + (x1 - x0) * (density / deepest).clamp(0.0, 1.0);
    let middle = (y0 + y1) / 2.0;
    svg += &format!(r##"<path d="M{x0} {y0}V{y1}H{x1}M{x0} {middle}H{x1}" fill="none" stroke="#3a3a3a"/>"##);
    for d in 0..=deepest as u32 {
        svg += &format!(r#"<text x="{:.1}" y="136" text-anchor="middle" class="ag-axis">{d}</text>"#, x(f64::from(d)));
    }
    let scaled = |v: f64| middle - (v / 50.0 * (y1 - y0) / 2.0).clamp(-56.0, 56.0);
    let y = |name: &str, tone: &PrintTone| match name {
        "L*" => y1 - (y1 - y0) * tone.lab[0] / 100.0,
        "a*" => scaled(tone.lab[1]),
        _ => scaled(tone.lab[2]),
    };
    let lines = [("L*", "#d6d6d4"), ("a*", "#d08a98"), ("b*", "#c9b45c")];
    for (i, (name, colour)) in lines.into_iter().enumerate() {
        let points: Vec<String> = tones.iter().map(|t| format!("{:.1},{:.1}", x(t.density), y(name, t))).collect();
        svg += &format!(
            r#"<polyline points="{}" fill="none" stroke="{colour}" stroke-width="1.4"/><text x="316" y="{}"
                class="ag-axis"><tspan fill="{colour}">{name}</tspan></text>"#,
            points.join(" "),
            20 + 14 * i
        );
    }
    svg
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::Catalogue;
    use amber_core::controls::Values;
    use amber_core::stations::film::FilmResponse;
    use amber_core::stations::print::grey_ramp;

    #[test]
    fn a_ramp_is_drawn_for_every_kind_of_stock() {
        for id in ["plover", "alder", "cyanotype", "tintype", "beryl", "parmelia", "limpet"] {
            let stock = Catalogue::find(id).unwrap();
            let tones = grey_ramp(&FilmResponse::own(&stock), &Values::own(&stock), 48).unwrap();
            let svg = ramp(&tones);
            assert!(!svg.contains("NaN") && svg.matches("<rect").count() > 40, "{id}");
            assert_eq!(svg.matches("<polyline").count(), 3);
        }
        let tones = grey_ramp(
            &FilmResponse::own(&Catalogue::find("cyanotype").unwrap()),
            &Values::own(&Catalogue::find("cyanotype").unwrap()),
            48,
        );
        let [r, _, b] = at(&tones.unwrap(), 40.0).unwrap();
        assert!(b > 2.0 * r, "blue");
    }
}
