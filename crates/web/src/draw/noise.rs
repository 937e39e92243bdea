//! The noise of a print beside the one it is to have: by tone, and by distance.

use std::fmt::Write as _;

use amber_matching::chart::Fit;
use amber_matching::grain::{GrainMeasure, LAGS};

/// Of both drawings.
const WIDTH: f64 = 300.0;
const LEFT: f64 = 34.0;
const FOOT: f64 = 100.0;
const TOP: f64 = 8.0;

fn across(share: f64) -> f64 {
    LEFT + share * (WIDTH - LEFT - 8.0)
}

fn up(share: f64) -> f64 {
    FOOT - share.clamp(0.0, 1.0) * (FOOT - TOP)
}

fn line(points: impl Iterator<Item = [f64; 2]>, class: &str) -> String {
    let points: Vec<String> = points.map(|[x, y]| format!("{:.1},{:.1}", across(x), up(y))).collect();
    format!(r#"<polyline class="{class}" points="{}" />"#, points.join(" "))
}

fn dots(points: impl Iterator<Item = [f64; 2]>) -> String {
    points.fold(String::new(), |mut all, [x, y]| {
        let _ = write!(all, r#"<circle class="ag-noise-aim" cx="{:.1}" cy="{:.1}" r="3" />"#, across(x), up(y));
        all
    })
}

fn axis(zero: &str, foot: [&str; 3], highest: &str) -> String {
    let text = |x: f64, y: f64, anchor: &str, text: &str| {
        format!(r#"<text class="ag-axis" x="{x:.0}" y="{y:.0}" text-anchor="{anchor}">{text}</text>"#)
    };
    let mut all = format!(r#"<path class="ag-noise-axis" d="M{LEFT} {TOP}V{FOOT}H{:.0}" />"#, across(1.0));
    all += &text(LEFT - 4.0, TOP + 6.0, "end", highest);
    all += &text(LEFT - 4.0, FOOT, "end", zero);
    all += &text(across(0.0), FOOT + 13.0, "start", foot[0]);
    all += &text(across(0.5), FOOT + 13.0, "middle", foot[1]);
    all += &text(across(1.0), FOOT + 13.0, "end", foot[2]);
    all
}

/// Standard deviation of luminance over the tone.
pub fn by_tone(aim: &GrainMeasure, reached: &GrainMeasure, before: &GrainMeasure) -> String {
    let all = [aim, reached, before].into_iter().flat_map(|m| m.tones.iter().map(|t| t.sigma()));
    let highest = all.fold(0.005f64, f64::max) * 1.1;
    let points =
        |m: &GrainMeasure| -> Vec<[f64; 2]> { m.tones.iter().map(|t| [t.tone, t.sigma() / highest]).collect() };
    let label = format!("{:.1} %", 100.0 * highest);
    axis("0", ["black", "tone of the print", "white"], &label)
        + &line(points(before).into_iter(), "ag-noise-before")
        + &line(points(reached).into_iter(), "ag-noise-reached")
        + &dots(points(aim).into_iter())
}

/// Correlation of luminance over the distance in pixels.
pub fn by_lag(aim: &GrainMeasure, reached: &GrainMeasure, before: &GrainMeasure) -> String {
    let last = (LAGS - 1) as f64;
    let points = |m: &GrainMeasure| -> Vec<[f64; 2]> {
        m.correlation().into_iter().enumerate().map(|(lag, c)| [lag as f64 / last, c]).collect()
    };
    let far = format!("{} px", LAGS - 1);
    axis("0", ["0", "distance", &far], "1")
        + &line(points(before).into_iter(), "ag-noise-before")
        + &line(points(reached).into_iter(), "ag-noise-reached")
        + &dots(points(aim).into_iter())
}

/// Fitted curves over log exposure, and the measured steps.
pub fn wedge(fit: &Fit) -> String {
    let steps = fit.stock.chart.as_ref().map(|c| c.wedge.as_slice()).unwrap_or_default();
    let (Some(first), Some(last)) = (steps.first(), steps.last()) else { return String::new() };
    let span = (last.log_exposure - first.log_exposure).max(0.1);
    let highest = steps.iter().flat_map(|s| s.density.iter().copied()).fold(1.0f64, f64::max) * 1.08;
    let ends = [first, last].map(|s| format!("{:+.1}", s.log_exposure).replace('-', "−"));
    let mut all = axis("0", [&ends[0], "log exposure", &ends[1]], &format!("{highest:.1}"));
    for (k, layer) in fit.layers.iter().enumerate() {
        let curve = (0..=60).map(|i| {
            let share = f64::from(i) / 60.0;
            [share, layer.density(first.log_exposure + share * span) / highest]
        });
        all += &line(curve, &format!("ag-noise-reached ag-layer{k}"));
        let measured = steps.iter().map(|s| [(s.log_exposure - first.log_exposure) / span, s.density[k] / highest]);
        all += &dots(measured);
    }
    all
}
