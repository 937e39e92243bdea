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
        let within = left >= 1 && top >= 1 && left + 2 < width && top + 2 < height;
        for (row, down) in (top - 1..).zip(down).filter(|(_, weight)| *weight != 0.0) {
            let start = row.clamp(0, height - 1) * width;
            if within {
                let first = 3 * (start + left - 1) as usize;
                let (pixels, _) = self.held[first..first + 12].as_chunks::<3>();
                for (pixel, across) in pixels.iter().zip(across).filter(|(_, weight)| *weight != 0.0) {
                    self.add(&mut sum, across * down, pixel);
                }
            } else {
                for (column, across) in (left - 1..).zip(across).filter(|(_, weight)| *weight != 0.0) {
                    let at = 3 * (start + column.clamp(0, width - 1)) as usize;
                    let (pixel, _) = self.held[at..at + 3].as_chunks::<3>();
                    pixel.iter().for_each(|pixel| self.add(&mut sum, across * down, pixel));
                }
            }
        }
        sum
    }

    #[inline(always)]
    fn add(&self, sum: &mut [f32; 3], weight: f32, pixel: &[T; 3]) {
        for k in 0..3 {
            sum[k] += weight * (self.light)(pixel[k]);
        }
    }
}

/// The pixel to the left; what lies within rounding of a pixel is on it.
fn nearest_floor(v: f64) -> i64 {
    // by a conversion: what the library has for it is a call
    let toward_zero = v as i64;
    let floor = if toward_zero as f64 > v { toward_zero - 1 } else { toward_zero };
    if (floor + 1) as f64 - v < 1e-6 { floor + 1 } else { floor }
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

    #[test]
    fn what_is_nearly_a_pixel_is_on_it() {
        let places = [(3.2, 3), (-3.2, -4), (-0.0, 0), (7.0, 7), (-7.0, -7), (2.999_999_9, 3), (-4.000_000_1, -4)];
        for (v, wanted) in places.into_iter().chain([(2.999_99, 2), (-3.999_99, -4), (-0.000_01, -1)]) {
            assert_eq!(nearest_floor(v), wanted, "{v}");
        }
    }

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
