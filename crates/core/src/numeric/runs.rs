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

/// Every value of a lane changed.
#[inline(always)]
pub fn each(lane: &mut Lane, change: impl Fn(f32) -> f32) {
    for v in lane {
        *v = change(*v);
    }
}

/// Every pixel of a run changed.
#[inline(always)]
pub fn each_pixel([red, green, blue]: &mut [Lane; 3], change: impl Fn([f32; 3]) -> [f32; 3]) {
    for i in 0..RUN {
        [red[i], green[i], blue[i]] = change([red[i], green[i], blue[i]]);
    }
}
