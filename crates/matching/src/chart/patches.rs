//! Patches of colour found in a picture of a chart, between four corners.

use amber_core::Source;
use amber_core::colour::lab::Lab;
use amber_core::picture::source::linear_of_code;
use amber_core::stock::chart::MOST_PATCHES;
use serde::Deserialize;

use super::d50::lab_of;
use crate::error::MatchError;

/// Share of a patch, from its middle, that is read: its rim may show the frame between patches.
const READ: f64 = 0.44;
/// Places across and down a patch.
const PLACES: usize = 12;
/// Share of the places that is left out at either end: dust and glare.
const TRIMMED: f64 = 0.1;

/// The plane of the picture in which a chart lies: shares of its sides to shares of the picture's (Heckbert 1989: the
/// projective map from a square to a quadrilateral).
struct Projected {
    m: [f64; 8],
}

impl Projected {
    /// Corners from the upper left, clockwise.
    fn onto([p, q, r, s]: [[f64; 2]; 4]) -> Self {
        let [dx1, dx2, sx] = [q[0] - r[0], s[0] - r[0], p[0] - q[0] + r[0] - s[0]];
        let [dy1, dy2, sy] = [q[1] - r[1], s[1] - r[1], p[1] - q[1] + r[1] - s[1]];
        let whole = dx1 * dy2 - dx2 * dy1;
        let whole = if whole.abs() < 1e-12 { 1e-12 } else { whole };
        let [g, h] = [(sx * dy2 - dx2 * sy) / whole, (dx1 * sy - sx * dy1) / whole];
        Self {
            m: [
                q[0] - p[0] + g * q[0],
                s[0] - p[0] + h * s[0],
                p[0],
                q[1] - p[1] + g * q[1],
                s[1] - p[1] + h * s[1],
                p[1],
                g,
                h,
            ],
        }
    }

    fn at(&self, u: f64, v: f64) -> [f64; 2] {
        let [a, b, c, d, e, f, g, h] = self.m;
        let w = g * u + h * v + 1.0;
        [(a * u + b * v + c) / w, (d * u + e * v + f) / w]
    }
}

/// Where in a picture a chart or a wedge lies, and into how many fields it is parted.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
pub struct Fields {
    /// Shares of the picture's sides, from the upper left clockwise.
    pub corners: [[f64; 2]; 4],
    /// Fields in a row.
    pub across: usize,
    /// Rows.
    pub down: usize,
}

/// Colours (CIE Lab under D50) of the patches of a chart, row by row.
pub fn read_patches(source: &Source, fields: &Fields) -> Result<Vec<Lab>, MatchError> {
    Ok(light_of(source, fields)?.into_iter().map(lab_of).collect())
}

/// Mean light (linear sRGB) of the fields, row by row.
pub(super) fn light_of(
    source: &Source,
    &Fields { corners, across, down }: &Fields,
) -> Result<Vec<[f64; 3]>, MatchError> {
    const MOST: usize = MOST_PATCHES;
    if !(1..=MOST).contains(&across) || !(1..=MOST).contains(&down) || across * down > MOST {
        return Err(MatchError::Chart { why: format!("a chart has 1 to {MOST} fields, counted across and down") });
    }
    if !corners.iter().flatten().all(|v| (-0.2..=1.2).contains(v)) {
        return Err(MatchError::Chart { why: "a corner lies outside the picture".into() });
    }
    let plane = Projected::onto(corners);
    let patch = |i: usize| {
        let [column, row] = [i % across, i / across];
        let along = |cell: usize, place: usize, count: usize| {
            let inside = 0.5 + READ * ((place as f64 + 0.5) / PLACES as f64 - 0.5);
            (cell as f64 + inside) / count as f64
        };
        let places =
            (0..PLACES * PLACES).map(|k| plane.at(along(column, k % PLACES, across), along(row, k / PLACES, down)));
        mean(source, places)
    };
    Ok((0..across * down).map(patch).collect())
}

/// Mean of linear sRGB over places, channel by channel, without the darkest and the lightest.
fn mean(source: &Source, places: impl Iterator<Item = [f64; 2]>) -> [f64; 3] {
    let linear = linear_of_code();
    let pixel = |[x, y]: [f64; 2]| {
        let at = |share: f64, side: u32| ((share * f64::from(side)) as i64).clamp(0, i64::from(side) - 1) as usize;
        let index = at(y, source.height()) * source.width() as usize + at(x, source.width());
        source.pixel(index).map(|code| f64::from(linear[code as usize]))
    };
    let pixels: Vec<[f64; 3]> = places.map(pixel).collect();
    std::array::from_fn(|k| {
        let mut values: Vec<f64> = pixels.iter().map(|p| p[k]).collect();
        values.sort_by(f64::total_cmp);
        let out = (values.len() as f64 * TRIMMED) as usize;
        let kept = &values[out..values.len() - out];
        kept.iter().sum::<f64>() / kept.len() as f64
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::chart::d50::linear_srgb_of;

    /// A chart of six by four that leans away from the viewer, with black between the patches.
    #[test]
    fn patches_of_a_leaning_chart_are_read() {
        let corners = [[0.12, 0.2], [0.85, 0.1], [0.95, 0.9], [0.05, 0.8]];
        let plane = Projected::onto(corners);
        for (corner, [u, v]) in corners.iter().zip([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]]) {
            let at = plane.at(u, v);
            assert!((at[0] - corner[0]).abs() < 1e-9 && (at[1] - corner[1]).abs() < 1e-9);
        }
        let colour = |i: usize| [30.0 + 2.5 * i as f64, 20.0 - 1.5 * i as f64, 1.2 * i as f64 - 10.0];
        let (width, height) = (600usize, 400usize);
        let mut pixels = vec![[0.0; 3]; width * height];
        let steps = 1200;
        for i in 0..steps * steps {
            let [u, v] = [i % steps, i / steps].map(|v| (v as f64 + 0.5) / steps as f64);
            let [x, y] = plane.at(u, v);
            let inside = |share: f64, count: f64| (0.08..0.92).contains(&(share * count).fract());
            let patch = (v * 4.0) as usize * 6 + (u * 6.0) as usize;
            if inside(u, 6.0) && inside(v, 4.0) {
                let at = (y * height as f64) as usize * width + (x * width as f64) as usize;
                pixels[at] = linear_srgb_of(colour(patch));
            }
        }
        let source =
            Source::from_linear_srgb(width as u32, height as u32, |x, y| pixels[y as usize * width + x as usize]);
        let fields = Fields { corners, across: 6, down: 4 };
        let read = read_patches(&source, &fields).unwrap();
        for (i, lab) in read.iter().enumerate() {
            let off = (0..3).map(|k| (lab[k] - colour(i)[k]).abs()).fold(0.0, f64::max);
            assert!(off < 0.2, "{i}: {lab:?} {:?}", colour(i));
        }
        assert!(read_patches(&source, &Fields { across: 0, ..fields }).is_err());
        let outside = [[-3.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]];
        assert!(read_patches(&source, &Fields { corners: outside, ..fields }).is_err());
    }
}
