//! Ellipses and straight falls.

use super::places::Places;
use super::{Oval, Ramp};
use crate::numeric::smooth_share;

/// `aspect` is the original picture's width over its height.
pub(super) fn ellipse(oval: &Oval, aspect: f64, places: &Places) -> Vec<f32> {
    let mut out = vec![0.0; places.count()];
    // in diagonals
    let diagonal = aspect.hypot(1.0);
    let (wide, high) = ((aspect / diagonal) as f32, (1.0 / diagonal) as f32);
    let (sine, cosine) = (oval.turn as f32).to_radians().sin_cos();
    let [cx, cy] = oval.centre.map(|v| v as f32);
    let [rx, ry] = oval.radii.map(|v| 1.0 / v as f32);
    let per_feather = 1.0 / oval.feather.max(0.01) as f32;
    places.each(|i, [u, v]| {
        let (x, y) = ((u - cx) * wide, (v - cy) * high);
        let (x, y) = ((x * cosine + y * sine) * rx, (y * cosine - x * sine) * ry);
        out[i] = smooth_share((1.0 - (x * x + y * y).sqrt()) * per_feather);
    });
    out
}

pub(super) fn linear(ramp: &Ramp, aspect: f64, places: &Places) -> Vec<f32> {
    let mut out = vec![0.0; places.count()];
    let [ax, ay] = ramp.from.map(|v| v as f32);
    let wide = aspect as f32;
    let (dx, dy) = ((ramp.to[0] as f32 - ax) * wide, ramp.to[1] as f32 - ay);
    let per = 1.0 / (dx * dx + dy * dy).max(1e-8);
    places.each(|i, [u, v]| {
        let along = ((u - ax) * wide * dx + (v - ay) * dy) * per;
        out[i] = 1.0 - smooth_share(along);
    });
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    fn at(shape: impl Fn(&Places) -> Vec<f32>, x: u32, y: u32) -> f32 {
        shape(&Places::new(None, [300, 200], Region::new(x, y, 1, 1)))[0]
    }

    #[test]
    fn an_ellipse_ends_at_its_outline_and_turns_with_the_clock() {
        // the diagonal is 360.6 pixels: radii of 108 and 36
        let oval = Oval { centre: [0.5, 0.5], radii: [0.3, 0.1], turn: 0.0, feather: 0.2 };
        let of = |oval: Oval| move |places: &Places| ellipse(&oval, 1.5, places);
        assert_eq!(at(of(oval.clone()), 150, 100), 1.0);
        assert_eq!(at(of(oval.clone()), 150 + 80, 100), 1.0);
        assert_eq!(at(of(oval.clone()), 150 + 110, 100), 0.0);
        assert_eq!(at(of(oval.clone()), 150, 100 + 40), 0.0);
        let turned = Oval { turn: 45.0, ..oval };
        assert_eq!(at(of(turned.clone()), 150 + 40, 100 + 40), 1.0, "to the right and down");
        assert_eq!(at(of(turned), 150 + 40, 100 - 40), 0.0);
    }

    #[test]
    fn a_fall_is_half_in_its_middle() {
        let ramp = Ramp { from: [0.5, 0.2], to: [0.5, 0.8] };
        let of = |places: &Places| linear(&ramp, 1.5, places);
        assert_eq!((at(of, 10, 20), at(of, 10, 180)), (1.0, 0.0));
        assert!((at(of, 290, 100) - 0.5).abs() < 0.01);
    }
}
