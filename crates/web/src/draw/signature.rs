//! Signatures: each station draws what it does, from its live values. SVG of 160 x 34.

use amber_core::controls::Values;
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::CharacteristicCurve;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::lens::falloff::Falloff;
use amber_core::stations::lens::{LensFilter, LensSettings};
use amber_core::stations::print::graded_print::paper_curve;
use amber_core::stations::print::{PrintSettings, grey_ramp};
use amber_core::stations::scene::SceneSettings;
use amber_core::stations::scene::structure::placed_zones;
use amber_core::stations::surface::catalogue::{self, Family};
use amber_core::stations::surface::settings::SheetSettings;
use amber_core::stations::years::rates::Storage;
use amber_core::stations::years::settings::{AGE, STORAGE};
use amber_core::stations::years::{Losses, YearsSettings};
use amber_core::stock::material::{graded_paper, print_material};
use amber_core::{Development, Region, Station, Stock};

use super::ramp;

const LAYERS: [&str; 3] = ["var(--d-r)", "var(--d-g)", "var(--d-b)"];

/// The drawing of a station; empty where it is not built.
pub fn of(station: Station, development: &Development, stock: &Stock) -> String {
    let values = development.values(stock);
    match station {
        Station::Scene => scene(&SceneSettings::read(&values)),
        Station::Lens => lens(&LensSettings::read(&values), &LensFilter::read(&values)),
        Station::Film => film(stock, &FilmSettings::read(&values), &BathSettings::read(&values)),
        Station::Bath => bath(stock, &BathSettings::read(&values)),
        Station::Print => {
            let crossed = BathSettings::read(&values).crossed;
            let developed = if crossed { stock.crossed() } else { stock.clone() };
            print(&developed, &PrintSettings::read(&values))
        }
        Station::Tone => tone(stock, &values),
        Station::Years => years(&values),
        Station::Surface => surface(&values),
    }
}

/// The frame with what lies on it: light from a side, specks, lines, and a corner that is folded.
fn surface(values: &Values) -> String {
    let shown = SheetSettings::shown(values);
    let has = |family: Family| {
        shown.iter().any(|sheet| catalogue::kind(&sheet.kind).is_some_and(|kind| kind.family == family))
    };
    let mut svg = String::from(r##"<rect x="14" y="6" width="38" height="22" fill="#2a2a2a" stroke="#8a8a88"/>"##);
    if has(Family::Light) {
        svg += r##"<path d="M40 6h12v22H46q-9 -9 -6 -22z" fill="#d98a3c" opacity=".8"/>"##;
    }
    if has(Family::Film) {
        svg += r##"<path d="M19 7v20M24 14q5 -4 6 3" stroke="#d6d6d4" stroke-width=".8" fill="none"/><circle cx="32"
            cy="20" r=".9" fill="#d6d6d4"/><circle cx="22" cy="22" r=".6" fill="#d6d6d4"/>"##;
    }
    if has(Family::Plate) {
        svg += r##"<path d="M14 6h9q-2 4 -5 4q-1 3 -4 4zM52 28h-8q1 -3 4 -3q1 -4 4 -5z" fill="#0c0c0c"/>"##;
    }
    if has(Family::Paper) || has(Family::Wear) {
        svg += r##"<path d="M15 11h36M15 17h36M15 23h36" stroke="#9a9a98" stroke-width=".5"/>"##;
    }
    if shown.iter().any(|sheet| catalogue::kind(&sheet.kind).is_none()) {
        svg += r##"<path d="M26 10l20 4l-4 12l-20 -4z" fill="none" stroke="#f0f0ee" stroke-width="1"/>"##;
    }
    svg
}

/// The ramp of the print's tones.
fn tone(stock: &Stock, values: &Values) -> String {
    const TONES: usize = 40;
    let film = FilmResponse::new(stock, &FilmSettings::read(values), &BathSettings::read(values));
    match grey_ramp(&film, values, TONES) {
        Ok(tones) => ramp::strip(&tones, 32, [14.0, 9.0, 132.0, 14.0]),
        Err(_) => String::new(),
    }
}

/// What is left of the dyes over 150 years in this place, a mark at the age, and the colour of the paper.
fn years(values: &Values) -> String {
    const MOST: f64 = 150.0;
    let storage: Storage = values.chosen(&STORAGE);
    let age = values.number(&AGE);
    let place = |years: f64, left: f64| (14.0 + 100.0 * years / MOST, 27.0 - 20.0 * left);
    let mut svg = String::new();
    for (k, colour) in ["#6fb3c4", "#c47fa0", "#c9b45c"].into_iter().enumerate() {
        let left = |i: usize| {
            let years = MOST * i as f64 / 30.0;
            place(years, Losses::after(years, storage, [0.0; 2]).dyes[k])
        };
        svg += &line((0..=30).map(left), colour);
    }
    let (x, _) = place(age, 0.0);
    let stain = YearsSettings::read(values).losses.stain;
    let blue = (238.0 * 10f64.powf(-1.1 * stain)).clamp(0.0, 255.0) as u8;
    svg + &format!(
        r##"<path d="M{x:.1} 5V29" stroke="#f0f0ee" stroke-width="1"/><rect x="124" y="8" width="20" height="16"
            fill="rgb(240,{},{blue})"/>"##,
        (240.0 * 10f64.powf(-0.2 * stain)) as u8
    )
}

fn line(points: impl Iterator<Item = (f64, f64)>, colour: &str) -> String {
    let path: Vec<String> = points.map(|(x, y)| format!("{x:.1} {y:.1}")).collect();
    format!(r#"<polyline points="{}" fill="none" stroke="{colour}" stroke-width="1.5"/>"#, path.join(" "))
}

/// Eleven patches in the greys of the zones, moved by the exposure and by where each is placed.
fn scene(settings: &SceneSettings) -> String {
    placed_zones(&settings.structure.placed_stops)
        .into_iter()
        .enumerate()
        .map(|(zone, placed)| {
            let lift = ((settings.exposure_stops + placed - zone as f64) * 2.6).clamp(-11.0, 11.0);
            let grey = 8 + zone * 238 / 10;
            let (x, y) = (14.0 + 7.0 * zone as f64, 17.0 - lift);
            format!(
                r##"<rect x="{x}" y="{y:.1}" width="6" height="6" fill="rgb({grey},{grey},{grey})" stroke="#777"
                    stroke-width=".5"/>"##
            )
        })
        .collect()
}

/// The field of the falloff over a frame, the profile of a thin line through the optics, and the filter.
fn lens(settings: &LensSettings, filter: &LensFilter) -> String {
    const COLUMNS: u32 = 10;
    const ROWS: u32 = 7;
    let factors = Falloff::new(&settings.falloff)
        .map(|f| f.factors([COLUMNS, ROWS], Region::whole(COLUMNS, ROWS)))
        .unwrap_or_else(|| vec![1.0; (COLUMNS * ROWS) as usize]);
    let mut svg = String::new();
    for (i, factor) in factors.iter().enumerate() {
        let grey = (165.0 * f64::from(*factor).powf(0.45)).clamp(0.0, 255.0) as u32;
        let (x, y) = (14.0 + 3.0 * (i as u32 % COLUMNS) as f64, 6.0 + 3.0 * (i as u32 / COLUMNS) as f64);
        svg += &format!(
            r#"<rect x="{x:.1}" y="{y:.1}" width="3" height="3" shape-rendering="crispEdges"
                fill="rgb({grey},{grey},{grey})"/>"#
        );
    }
    let blur = (settings.softness.overall_um + settings.softness.edges_um + settings.shake.length_um / 3.5) / 60.0;
    let (sigma, glow) = (1.2 + 2.0 * blur.min(6.0), settings.bloom.strength);
    let profile = |i: usize| {
        let x = i as f64 - 22.0;
        let height = (1.2 / sigma) * (-0.5 * (x / sigma).powi(2)).exp() + 0.3 * glow * (-0.5 * (x / 9.0).powi(2)).exp();
        (54.0 + i as f64, 27.0 - 19.0 * height.min(1.0))
    };
    svg += &line((0..=44).map(profile), "#d6d6d4");
    let colour = match filter.colour.as_str() {
        "yellow" => "#d9c35a",
        "orange" => "#d99a4a",
        "red" => "#c85a4a",
        "green" => "#6f9f5f",
        "blue" => "#5070b0",
        _ if filter.mired > 0.0 => "#b08a55",
        _ if filter.mired < 0.0 => "#5f7fa8",
        _ => return svg,
    };
    svg + &format!(r#"<circle cx="110" cy="17" r="7" fill="{colour}" opacity=".8"/>"#)
}

/// A stock's characteristic curves over eleven zones, drawn as large as is asked.
pub fn curves(stock: &Stock, width: f64, height: f64) -> String {
    const STEPS: usize = 60;
    let film = FilmResponse::own(stock);
    let highest = film.curves.iter().map(|c| c.shape.dmax).fold(0.5, f64::max).ceil();
    let (left, right, top, foot) = (24.0, width - 6.0, 6.0, height - 8.0);
    let y = |density: f64| foot - (foot - top) * density / highest;
    let mut svg = String::new();
    for density in 1..highest as usize + 1 {
        let at = y(density as f64);
        svg += &format!(
            r##"<path d="M{left} {at:.1}H{right}" stroke="#2c2c2c"/><text x="18" y="{:.1}" text-anchor="end"
                class="ag-axis">{density}</text>"##,
            at + 3.5
        );
    }
    let colours = if film.layers() == 1 { &["#d6d6d4"][..] } else { &LAYERS[..] };
    for (curve, colour) in film.curves.iter().zip(colours) {
        let point = |i: usize| {
            let share = i as f64 / STEPS as f64;
            let x = film.grey + (share * 11.0 - 5.5) * 2f64.log10();
            (left + (right - left) * share, y(curve.density(x)))
        };
        svg += &line((0..=STEPS).map(point), colour);
    }
    svg
}

/// The characteristic curves, and specks as large and as many as the grain.
fn film(stock: &Stock, settings: &FilmSettings, bath: &BathSettings) -> String {
    let film = FilmResponse::new(stock, settings, bath);
    let highest = film.curves.iter().map(|c| c.shape.dmax).fold(0.1, f64::max);
    let curves: String = film
        .curves
        .iter()
        .zip(if film.layers() == 1 { &["#d6d6d4"][..] } else { &LAYERS[..] })
        .map(|(curve, colour)| {
            let point = |i: usize| {
                let x = film.grey + (i as f64 / 20.0 - 0.5) * 3.2;
                (14.0 + 2.6 * i as f64, 28.0 - 22.0 * curve.density(x) / highest)
            };
            line((0..=20).map(point), colour)
        })
        .collect();
    let radius = (settings.grain_diameter_um / 9.0).clamp(0.3, 2.2);
    let strength = (settings.granularity / 30.0).clamp(0.0, 1.0);
    let specks: String = (0..46u32)
        .map(|i| {
            let h = i.wrapping_mul(2_654_435_761) ^ (i << 13);
            let (x, y) = (77.0 + (h % 320) as f64 / 10.0, 8.0 + (h / 331 % 180) as f64 / 10.0);
            format!(
                r##"<circle cx="{x:.1}" cy="{y:.1}" r="{radius:.1}" fill="#d6d6d4" opacity="{:.2}"/>"##,
                0.7 * strength
            )
        })
        .collect();
    format!(r##"{curves}<rect x="76" y="7" width="34" height="20" fill="#0c0c0c"/>{specks}"##)
}

/// Density over the time in the bath with a dot at the chosen time; two lines that cross when the chemistry does.
fn bath(stock: &Stock, settings: &BathSettings) -> String {
    const LONGEST: f64 = 2.0;
    let film = FilmResponse::own(stock);
    let (x, y) = (|time: f64| 14.0 + 48.0 * time / LONGEST, |d: f64| 28.0 - 20.0 * d);
    // density rises with time as 1 - e^(-kt) (Nutting; Mees)
    let density = |time: f64| 1.0 - (-1.3 * time).exp();
    let fog = (settings.fog_density / film.curves[0].shape.dmax).clamp(0.0, 0.4);
    let curve = line(
        (0..=20).map(|i| LONGEST * f64::from(i) / 20.0).map(|t| (x(t), y(fog + (1.0 - fog) * density(t)))),
        "#d6d6d4",
    );
    let at = (x(settings.time), y(fog + (1.0 - fog) * density(settings.time)));
    let dot = format!(r##"<circle cx="{:.1}" cy="{:.1}" r="2.4" fill="#d6d6d4"/>"##, at.0, at.1);
    let pair = if settings.crossed {
        line([(76.0, 9.0), (104.0, 26.0)].into_iter(), "#d6d6d4")
            + &line([(76.0, 26.0), (104.0, 9.0)].into_iter(), "#9a9a98")
    } else {
        String::new()
    };
    curve + &dot + &pair
}

/// The paper's curve and the filtration's bars.
fn print(stock: &Stock, settings: &PrintSettings) -> String {
    let curve = |c: CharacteristicCurve| {
        let middle = c.exposure(c.shape.dmin + 0.5 * (c.shape.dmax - c.shape.dmin));
        let point = |i: usize| {
            let x = middle + (i as f64 / 20.0 - 0.5) * 1.8;
            (14.0 + 2.3 * i as f64, 28.0 - 22.0 * c.density(x) / c.shape.dmax)
        };
        line((0..=20).map(point), "#d6d6d4")
    };
    if let Some(paper) = stock.paper.as_deref().and_then(graded_paper) {
        return curve(paper_curve(paper, settings.grade));
    }
    let Some(material) = stock.print.as_deref().and_then(print_material) else {
        // a slide: its frame, looked through
        return r##"<rect x="14" y="7" width="30" height="20" fill="none" stroke="#7a7a7a"/><rect x="18" y="10"
            width="22" height="14" fill="#d6d6d4" opacity=".5"/>"##
            .into();
    };
    let bars: String = [("var(--d-c)", 0), ("var(--d-m)", 1), ("var(--d-y)", 2)]
        .into_iter()
        .map(|(colour, i)| {
            let height = settings.filtration_cc[i] / 60.0 * 10.0;
            let top = 17.0 - height.max(0.0);
            format!(
                r#"<rect x="{}" y="{top:.1}" width="6" height="{:.1}" fill="{colour}"/>"#,
                72 + 9 * i,
                height.abs().max(1.0)
            )
        })
        .collect();
    curve(CharacteristicCurve::new(material.curves()[1], 0.0, false)) + &bars
}

#[cfg(test)]
mod tests {
    use super::*;
    use amber_core::Catalogue;
    use amber_core::controls::{Kind, Value};
    use amber_core::stations;

    /// Every drawing at both ends of every control: numbers only, nothing outside its box.
    #[test]
    fn drawings_hold_at_the_ends_of_every_range() {
        for stock in Catalogue::all() {
            for control in stations::all() {
                let Kind::Scalar { low, high, .. } = control.kind else { continue };
                for end in [low, high] {
                    let mut development = Development::new(stock);
                    development.set(stock, control.id, Value::Number(end)).unwrap();
                    let svg = of(control.station, &development, stock);
                    assert!(!svg.is_empty() && !svg.contains("NaN") && !svg.contains("inf"), "{}: {svg}", control.id);
                    for y in svg.split(" y=\"").skip(1).filter_map(|t| t.split('"').next()) {
                        let y: f64 = y.parse().unwrap();
                        assert!((0.0..=34.0).contains(&y), "{} at {end}: y {y}", control.id);
                    }
                }
            }
        }
    }
}
