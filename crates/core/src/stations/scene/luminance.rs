//! Luminance of scene light in stops, the scale on which tones are judged.

use multiversion::multiversion;

pub use crate::colour::space::MID_GREY;
use crate::colour::space::WIDE_LUMINANCE as LUMINANCE;
use crate::numeric::log2;
use crate::picture::Picture;
use crate::picture::buffer::SceneLight;

/// Light, relative to mid grey, that is added before the logarithm, so that black is a tone and not an abyss.
const FLOOR: f32 = 1.0 / 1024.0;

/// Stops from mid grey of every pixel, as though Scene's exposure of `exposure_stops` had not been given.
pub fn stops(light: &Picture<SceneLight>, exposure_stops: f32) -> Vec<f32> {
    let mut out = vec![0.0; light.region.pixels()];
    let per_grey = 1.0 / (MID_GREY * exposure_stops.exp2());
    fill(&mut out, [light.plane(0), light.plane(1), light.plane(2)], per_grey);
    out
}

#[multiversion(targets("x86_64+avx2"))]
fn fill(out: &mut [f32], [red, green, blue]: [&[f32]; 3], per_grey: f32) {
    for (((o, r), g), b) in out.iter_mut().zip(red).zip(green).zip(blue) {
        let y = LUMINANCE[0] * r + LUMINANCE[1] * g + LUMINANCE[2] * b;
        *o = log2((y * per_grey).max(0.0) + FLOOR);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    #[test]
    fn mid_grey_is_zero_whatever_the_exposure() {
        for ev in [0.0f32, 1.5, -3.0] {
            let light = Picture::from_planes(Region::whole(1, 1), vec![vec![MID_GREY * ev.exp2()]; 3]);
            assert!(stops(&light, ev)[0].abs() < 0.002, "{ev}");
        }
        let black = Picture::from_planes(Region::whole(1, 1), vec![vec![0.0]; 3]);
        assert!((stops(&black, 0.0)[0] + 10.0).abs() < 1e-4);
    }
}
