//! Sizes of mounts against the standards' figures, and what they may touch.

use super::layout::{Stock, WIDE_35_MM, WIDE_120_MM};
use super::*;
use crate::controls::{Choices, Value};

fn tones() -> FilmTones {
    FilmTones { tones: (0..=2 * TONE_STOPS).map(|k| [k as f32 / (2 * TONE_STOPS) as f32; 3]).collect() }
}

fn settings(kind: MountKind) -> MountSettings {
    let stock = crate::Catalogue::first();
    let mut development = crate::Development::new(&stock);
    development.set(&stock, "surface.mount.kind", Value::Choice(kind.id().into())).unwrap();
    MountSettings::read(&development.values(&stock))
}

fn mounted(kind: MountKind, picture: [u32; 2], gate: Gate) -> Mount {
    let pitch_um = crate::picture::FilmGeometry::filling(gate, picture[0], picture[1]).pitch_um;
    let tones = tones();
    let of = Of { picture, pitch_um, gate, tones: &tones, edge_print: "PLOVER", seed: 4 };
    Mount::new(&settings(kind), &of).unwrap()
}

const GATE_35: Gate = Gate::new(36.0, 24.0);

/// Film widths as ISO 1007 and ISO 732 state them (from memory).
#[test]
fn the_rebate_is_as_wide_as_the_film() {
    let mount = mounted(MountKind::Rebate, [3600, 2400], GATE_35);
    assert!((f64::from(mount.layout.whole[1]) * 0.01 - WIDE_35_MM).abs() < 0.05);
    let upright = mounted(MountKind::Rebate, [2400, 3600], GATE_35);
    assert_eq!(upright.layout.whole, [mount.layout.whole[1], mount.layout.whole[0]]);
    let roll = mounted(MountKind::Rebate, [5600, 5600], Gate::new(56.0, 56.0));
    assert!((f64::from(roll.layout.whole[0].max(roll.layout.whole[1])) * 0.01 - WIDE_120_MM).abs() < 0.05);
    let half = Stock::of(Gate::new(24.0, 18.0));
    assert_eq!(half, Stock::Perforated { along: false });
    assert_eq!(Stock::of(Gate::new(120.0, 96.0)), Stock::Sheet);
    assert_eq!(Stock::of(Gate::new(17.0, 13.0)), Stock::Narrow);
}

/// Sides in millimetres of a print 240 mm long: 12 mm are a twentieth; none leave what is said in per cent.
#[test]
fn a_border_in_millimetres_is_a_share_of_the_print() {
    let stock = crate::Catalogue::first();
    let read = |mm: f64| {
        let mut development = crate::Development::new(&stock);
        for (id, value) in [("surface.mount.width", 8.0), ("surface.mount.width_mm", mm)] {
            development.set(&stock, id, Value::Number(value)).unwrap();
        }
        let settings = MountSettings { kind: MountKind::Border, ..MountSettings::read(&development.values(&stock)) };
        Layout::new(&settings, [2400, 1600], 15.0, GATE_35).unwrap().whole
    };
    assert_eq!(read(12.0), [2400 + 2 * 120, 1600 + 2 * 120]);
    assert_eq!(read(0.0), [2400 + 2 * 192, 1600 + 2 * 192]);
}

/// Perforations 4.75 mm apart and 1.981 mm long along the film, counted on the picture.
#[test]
fn perforations_have_their_pitch() {
    // white is seen through them
    let settings = MountSettings { ground: [1.0; 3], ..settings(MountKind::Rebate) };
    let tones = tones();
    let picture = [3600, 2400];
    let of = Of { picture, pitch_um: 10.0, gate: GATE_35, tones: &tones, edge_print: "PLOVER", seed: 4 };
    let mount = Mount::new(&settings, &of).unwrap();
    let shown = mount.over(Region::new(0, 340, mount.layout.whole[0], 1));
    let open: Vec<bool> = shown.rgb[0].iter().map(|v| *v > 0.5).collect();
    let starts: Vec<usize> = (1..open.len()).filter(|i| open[*i] && !open[i - 1]).collect();
    assert!(starts.len() >= 7, "{starts:?}");
    for pair in starts.windows(2) {
        assert!((pair[1] as f64 - pair[0] as f64 - 475.0).abs() <= 1.0, "{starts:?}");
    }
    let from = starts[1];
    let length = open[from..].iter().take_while(|open| **open).count();
    assert!((length as f64 - 198.1).abs() <= 3.0, "{length}");
}

#[test]
fn the_middle_of_a_picture_stays_as_it_is() {
    for kind in MountKind::ALL.iter().filter(|kind| **kind != MountKind::None) {
        for picture in [[300, 200], [200, 300], [240, 240]] {
            let mount = mounted(*kind, picture, GATE_35);
            let inner = mount.layout.picture;
            let middle = Region::new(inner.x + inner.width / 4, inner.y + inner.height / 4, 90, 90);
            assert!(mount.over(middle).cover.iter().all(|c| *c == 0.0), "{kind:?}");
            let [w, h] = mount.layout.whole;
            let corner = mount.over(Region::new(w - 1, h - 1, 1, 1));
            assert_eq!(corner.cover, [1.0], "{kind:?}");
            let whole = mount.over(Region::whole(w, h));
            assert!(whole.rgb.iter().flatten().all(|v| (0.0..=1.0).contains(v)), "{kind:?}");
            let part = Region::new(w / 3, 0, w / 2, h / 2);
            let cut = mount.over(part);
            for (i, c) in cut.cover.iter().enumerate() {
                let (x, y) = (part.x as usize + i % part.width as usize, part.y as usize + i / part.width as usize);
                let at = y * w as usize + x;
                assert_eq!(c.to_bits(), whole.cover[at].to_bits(), "{kind:?}");
                assert_eq!(cut.rgb[1][i].to_bits(), whole.rgb[1][at].to_bits(), "{kind:?}");
            }
        }
    }
}

#[test]
fn the_lower_side_of_an_instant_frame_is_the_thick_one() {
    let layout = mounted(MountKind::Instant, [400, 400], Gate::new(79.0, 79.0)).layout;
    let lower = layout.whole[1] - layout.picture.bottom();
    assert!(lower > 3 * layout.picture.y && layout.picture.x == layout.picture.y);
}

#[test]
fn a_whole_that_keeps_the_size_has_a_smaller_picture() {
    let mount = mounted(MountKind::Border, [1000, 600], GATE_35);
    assert_eq!(mount.layout.whole, [1120, 720]);
    let [width, height] = mount.layout.picture_for_its_size();
    let again = mounted(MountKind::Border, [width, height], GATE_35);
    assert!(again.layout.whole[0].abs_diff(1000) <= 1, "{:?}", again.layout.whole);
}
