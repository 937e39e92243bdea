//! Pixels worked on in runs: short enough for the nearest cache, long enough that a processor has one pixel's
//! arithmetic under way while another's waits.
//!
//! A long computation on one pixel after the other is a chain in which every step waits for the last; the same steps,
//! each over a run of pixels, overlap. The operations and their order are those of a single pixel: so are the bits.

/// Pixels of a run.
pub const RUN: usize = 64;

/// One value for each pixel of a run.
pub type Lane = [f32; RUN];

/// Three planes in runs. What lies beyond the picture in the last run is left from the run before it, or 0.
#[inline(always)]
pub fn in_runs(planes: [&mut [f32]; 3], mut work: impl FnMut(usize, &mut [Lane; 3])) {
    let [red, green, blue] = planes;
    let mut run = [[0.0f32; RUN]; 3];
    let chunks = red.chunks_mut(RUN).zip(green.chunks_mut(RUN)).zip(blue.chunks_mut(RUN));
    for (index, ((red, green), blue)) in chunks.enumerate() {
        let count = red.len();
        for (lane, plane) in run.iter_mut().zip([&*red, &*green, &*blue]) {
            lane[..count].copy_from_slice(plane);
        }
        work(index * RUN, &mut run);
        for (lane, plane) in run.iter().zip([red, green, blue]) {
            plane.copy_from_slice(&lane[..count]);
        }
    }
}

/// Whether one of the values is above a limit; looks at all of them, side by side.
#[inline(always)]
pub fn any_above(values: &[f32], limit: f32) -> bool {
    values.iter().fold(false, |any, v| any | (*v > limit))
}

/// Every value of a lane changed.
#[inline(always)]
pub fn each<const N: usize>(lane: &mut [f32; N], change: impl Fn(f32) -> f32) {
    for v in lane {
        *v = change(*v);
    }
}

/// Every pixel of a run, or of a row of any length that is known beforehand, changed.
#[inline(always)]
pub fn each_pixel<const N: usize>([red, green, blue]: &mut [[f32; N]; 3], change: impl Fn([f32; 3]) -> [f32; 3]) {
    for i in 0..N {
        [red[i], green[i], blue[i]] = change([red[i], green[i], blue[i]]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Lengths that are no whole run: every pixel is seen once, in its place, and nothing beyond is written.
    #[test]
    fn runs_cover_their_planes() {
        for count in [0usize, 1, 63, 64, 65, 200] {
            let mut planes = [1.0f32, 2.0, 3.0].map(|k| (0..count).map(|i| k * i as f32).collect::<Vec<f32>>());
            let [red, green, blue] = &mut planes;
            let mut starts = Vec::new();
            in_runs([red, green, blue], |from, run| {
                starts.push(from);
                each(&mut run[0], |v| v + 0.5);
                each_pixel(run, |[r, g, b]| [r, b, g]);
            });
            assert_eq!(starts, (0..count).step_by(RUN).collect::<Vec<_>>());
            for i in 0..count {
                let found = [planes[0][i], planes[1][i], planes[2][i]];
                assert_eq!(found, [i as f32 + 0.5, 3.0 * i as f32, 2.0 * i as f32], "{count} {i}");
            }
        }
    }
}
