//! Marks as a grease pencil draws them on a contact sheet.

use amber_lab::pencil_lines;
use amber_library::Mark;

/// Width and height on which it is drawn.
const SIZE: [f64; 2] = [300.0, 200.0];
/// How far a hand strays, in shares of the picture.
const STRAYS: f64 = 0.014;

/// A mark as the inside of an SVG of 300 by 200; nothing where there is none. Every frame's is drawn anew, by the same
/// hand.
pub fn pencil(mark: Mark, seed: i64) -> String {
    pencil_lines(mark).iter().enumerate().map(|(i, line)| twice(&stroked(line, seed + 31 * i as i64))).collect()
}

/// The stroke and the grain over it: wax catches only the high places of the paper.
fn twice(path: &str) -> String {
    format!(r#"<path class="ag-wax" d="{path}" /><path class="ag-wax ag-thin" d="{path}" />"#)
}

/// A line through places that stray a little, as curves.
fn stroked(line: &[[f32; 2]], seed: i64) -> String {
    let place = |i: usize| {
        let [x, y] = line[i].map(f64::from);
        let stray = |k: i64| STRAYS * (unit(seed.wrapping_mul(97) + 13 * i as i64 + k) * 2.0 - 1.0);
        [(x + stray(1)) * SIZE[0], (y + stray(2)) * SIZE[1]]
    };
    let mut path = String::new();
    for i in 0..line.len() {
        let [x, y] = place(i);
        if i == 0 {
            path += &format!("M{x:.1} {y:.1}");
        } else {
            let [px, py] = place(i - 1);
            path += &format!("Q{px:.1} {py:.1} {:.1} {:.1}", (px + x) / 2.0, (py + y) / 2.0);
        }
        if i > 0 && i + 1 == line.len() {
            path += &format!("L{x:.1} {y:.1}");
        }
    }
    path
}

/// A number from 0 to 1 that is always the same for a seed.
fn unit(seed: i64) -> f64 {
    let mixed = (seed as u64).wrapping_add(0x9E37_79B9_7F4A_7C15).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    ((mixed ^ (mixed >> 29)) >> 40) as f64 / (1u64 << 24) as f64
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_frame_is_marked_by_hand() {
        assert_eq!(pencil(Mark::None, 1), "");
        let keep = pencil(Mark::Keep, 1);
        assert!(keep.starts_with("<path") && keep == pencil(Mark::Keep, 1) && keep != pencil(Mark::Keep, 2));
        assert!(pencil(Mark::Drop, 1).matches("<path").count() == 4, "two strokes, each with its grain");
    }
}
