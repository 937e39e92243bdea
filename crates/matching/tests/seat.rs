//! Seating on stocks of every kind, over the demo photographs and four others.

use amber_core::colour::transfer::decode_srgb;
use amber_core::{Catalogue, Development, Source};
use amber_matching::seat::{Asked, Mark, MarkOf, PrintSize, seat};

fn demo() -> Vec<(String, Source)> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/photographs");
    let mut files: Vec<_> = std::fs::read_dir(folder).unwrap().map(|f| f.unwrap().path()).collect();
    files.retain(|f| f.extension().is_some_and(|e| e == "jpg"));
    files.sort();
    let open = |file: &std::path::PathBuf| {
        let bytes = std::fs::read(file).unwrap();
        let full = amber_files::open(&bytes, amber_files::Limits { megapixels: 100 }).unwrap().source;
        let (w, h) = amber_core::picture::reduce::size_for_long_edge(480, full.width(), full.height());
        (file.file_stem().unwrap().to_string_lossy().into_owned(), full.reduced(w, h))
    };
    files.iter().map(open).collect()
}

/// A night, a fog, a studio with black round the subject, a beach at noon.
fn others() -> Vec<(String, Source)> {
    let of = |name: &str, tone: &dyn Fn(f64, f64) -> [f64; 3]| {
        let at =
            |x: u32, y: u32| tone(f64::from(x) / 299.0, f64::from(y) / 199.0).map(|v| decode_srgb(v.clamp(0.0, 1.0)));
        (name.to_owned(), Source::from_linear_srgb(300, 200, at))
    };
    let lamp = |u: f64, v: f64, x: f64, y: f64| (-((u - x).powi(2) + (v - y).powi(2)) / 0.002).exp();
    vec![
        of("night", &|u, v| {
            let glow = lamp(u, v, 0.3, 0.4) + lamp(u, v, 0.7, 0.3);
            [0.06 + 0.1 * v + glow, 0.06 + 0.08 * v + 0.9 * glow, 0.09 + 0.06 * u + 0.6 * glow]
        }),
        of("fog", &|u, v| [0.55 + 0.15 * u * v, 0.57 + 0.14 * u * v, 0.6 + 0.12 * v]),
        of("studio", &|u, v| {
            let inside = (u - 0.5).hypot(v - 0.5) < 0.25;
            if inside { [0.4 + 0.5 * u, 0.3 + 0.45 * u, 0.25 + 0.4 * u] } else { [0.0; 3] }
        }),
        of("beach", &|u, v| if v < 0.4 { [0.55, 0.7, 0.95] } else { [0.8 + 0.2 * u, 0.75 + 0.2 * u, 0.6 + 0.25 * u] }),
    ]
}

#[test]
fn pictures_sit_well_on_stocks() {
    let mut bad = Vec::new();
    for (name, picture) in demo().into_iter().chain(others()) {
        for id in ["plover", "heron", "beryl", "juniper", "rowan", "bora", "cowrie", "albumen"] {
            let stock = Catalogue::find(id).unwrap();
            let development = Development::new(&stock);
            let marks = [];
            let asked = Asked {
                small: &picture,
                development: &development,
                stock: &stock,
                marks: &marks,
                find_face: true,
                print: Some(PrintSize { long_edge_cm: 30.0, distance_cm: None }),
            };
            let seating = seat(&asked).unwrap();
            let added = (seating.after.black - seating.before.black).max(seating.after.bare - seating.before.bare);
            println!(
                "{name} {id}: off {:.2}, added {added:.4} {:?} {:?}",
                seating.mid_grey_off_zones, seating.notes, seating.proposed.values
            );
            if seating.mid_grey_off_zones.abs() > 0.5 || added > 0.005 {
                bad.push(format!("{name} {id} {:.2} {added:.4}", seating.mid_grey_off_zones));
            }
        }
    }
    assert!(bad.is_empty(), "{bad:#?}");
}

/// A grey card in warm light is neutral on the print, whatever paper.
#[test]
fn a_marked_grey_is_neutral_on_its_paper() {
    let picture = Source::from_linear_srgb(300, 200, |x, y| {
        let card = x > 200 && y > 120;
        let (u, v) = (f64::from(x) / 299.0, f64::from(y) / 199.0);
        let tone = if card { [0.48; 3] } else { [0.1 + 0.85 * u, 0.15 + 0.7 * v, 0.2 + 0.5 * u * v] };
        let light = [1.25, 1.0, 0.7];
        std::array::from_fn(|k| (decode_srgb(tone[k]) * light[k]).min(1.0))
    });
    for id in ["plover", "petrel", "oriole", "whelk", "bora", "beryl", "nightjar", "dunlin"] {
        let stock = Catalogue::find(id).unwrap();
        let development = Development::new(&stock);
        let marks = [Mark { of: MarkOf::Grey, place: [0.84, 0.8], zone: Some(5.0) }];
        let asked = Asked {
            small: &picture,
            development: &development,
            stock: &stock,
            marks: &marks,
            find_face: false,
            print: None,
        };
        let seating = seat(&asked).unwrap();
        let [_, a, b] = seating.grey.unwrap();
        println!("{id}: {a:.2} {b:.2} {:?} {:?}", seating.notes, seating.proposed.values);
        assert!(a.hypot(b) < 2.0, "{id}: {a} {b}");
    }
}
