//! Light at places between pixels, by Catmull and Rom's cubic (1974).

/// The samples of a picture as they are held, three to a pixel, and what light each stands for.
pub(super) struct Samples<'a, T, L> {
    pub held: &'a [T],
    pub size: [u32; 2],
    pub light: L,
}

impl<T: Copy, L: Fn(T) -> f32> Samples<'_, T, L> {
    /// Light at a place in shares of the picture; beyond its edges the edge's pixels go on.
    #[inline]
    pub fn at(&self, [u, v]: [f64; 2]) -> [f32; 3] {
        let [width, height] = self.size.map(i64::from);
        let (x, y) = (u * width as f64 - 0.5, v * height as f64 - 0.5);
        let (left, top) = (nearest_floor(x), nearest_floor(y));
        let (across, down) = (cubic((x - left as f64) as f32), cubic((y - top as f64) as f32));
        let mut sum = [0.0f32; 3];
        for (row, down) in (top - 1..).zip(down).filter(|(_, weight)| *weight != 0.0) {
            let start = row.clamp(0, height - 1) * width;
            for (column, across) in (left - 1..).zip(across).filter(|(_, weight)| *weight != 0.0) {
                let at = 3 * (start + column.clamp(0, width - 1)) as usize;
                for (total, sample) in sum.iter_mut().zip(&self.held[at..at + 3]) {
                    *total += across * down * (self.light)(*sample);
                }
            }
        }
        sum
    }
}

/// The pixel to the left; what lies within rounding of a pixel is on it.
fn nearest_floor(v: f64) -> i64 {
    let round = v.round();
    if (v - round).abs() < 1e-6 { round as i64 } else { v.floor() as i64 }
}

/// Weights of four neighbours at a fraction between the middle two; whole pixels are themselves.
fn cubic(t: f32) -> [f32; 4] {
    if t.abs() < 1e-5 {
        return [0.0, 1.0, 0.0, 0.0];
    }
    let (t2, t3) = (t * t, t * t * t);
    [-0.5 * t3 + t2 - 0.5 * t, 1.5 * t3 - 2.5 * t2 + 1.0, -1.5 * t3 + 2.0 * t2 + 0.5 * t, 0.5 * t3 - 0.5 * t2]
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Light of 3 x + 2 y and twice as much: a cubic gives straight slopes as they are.
    #[test]
    fn slopes_are_kept_and_edges_go_on() {
        let size = [9u32, 7];
        let value = |x: u32, y: u32| (3 * x + 2 * y) as u8;
        let pixel = |i: u32| [value(i % 9, i / 9), 2 * value(i % 9, i / 9), 5];
        let held: Vec<u8> = (0..63).flat_map(pixel).collect();
        let samples = Samples { held: &held, size, light: f32::from };
        let at = |x: f64, y: f64| samples.at([(x + 0.5) / 9.0, (y + 0.5) / 7.0]);
        for (x, y) in [(3.0, 2.0), (3.25, 2.0), (4.5, 3.75), (1.0, 4.9)] {
            let wanted = 3.0 * x + 2.0 * y;
            for (found, wanted) in at(x, y).into_iter().zip([wanted, 2.0 * wanted, 5.0]) {
                assert!((f64::from(found) - wanted).abs() < 1e-5, "{x} {y}: {found}");
            }
        }
        assert_eq!(at(-4.0, 0.0), [0.0, 0.0, 5.0]);
        assert_eq!(at(30.0, 20.0), [36.0, 72.0, 5.0]);
    }
}
