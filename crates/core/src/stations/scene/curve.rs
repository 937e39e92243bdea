//! The curve on the scene's tones: master, then red, green, blue.
//!
//! Its axes are tones as the camera rendered them (encoded, 0 to 100 %); the light is taken to that scale, bent, and
//! taken back. Light beyond the camera's white goes on in proportion. Each channel's way is one table over the
//! logarithm of light.

use crate::colour::transfer::{decode_srgb, encode_srgb};
use crate::numeric::{Sampled, ToneCurve, log2};
use crate::picture::Picture;
use crate::picture::buffer::SceneLight;

use super::decoding::Decoding;

/// Range of the table, in stops of light relative to 1.
const LOWEST: f64 = -16.0;
const HIGHEST: f64 = 8.0;
const SAMPLES: usize = 2048;

/// Light after the curve by log2 of light, for each channel.
#[derive(Debug, Clone)]
pub struct SceneCurve {
    tables: [Option<Sampled>; 3],
}

impl SceneCurve {
    /// Points of master, red, green and blue in per cent; `None` when all are straight.
    pub fn new(points: &[Option<Vec<[f64; 2]>>; 4], decoding: &Decoding) -> Option<Self> {
        let curves = points.each_ref().map(|p| p.as_ref().map(|p| ToneCurve::through(p)).filter(|c| !c.is_straight()));
        let table = |channel: usize| {
            let both = [&curves[0], &curves[channel + 1]];
            both.iter().any(|c| c.is_some()).then(|| table(both, decoding))
        };
        let tables = [table(0), table(1), table(2)];
        tables.iter().any(Option::is_some).then_some(Self { tables })
    }

    /// Bends a tile of light.
    pub fn apply(&self, light: &mut Picture<SceneLight>) {
        for (index, table) in self.tables.iter().enumerate() {
            if let Some(table) = table {
                let plane = light.plane_mut(index);
                plane.iter_mut().for_each(|v| *v = log2(v.max(1e-6)));
                table.map(plane);
            }
        }
    }
}

fn table(curves: [&Option<ToneCurve>; 2], decoding: &Decoding) -> Sampled {
    let bent = |tone: f64| curves.iter().copied().flatten().fold(tone, |t, c| c.at(t));
    let light_of = |tone: f64| f64::from(decoding.apply([decode_srgb(tone.clamp(0.0, 1.0)) as f32; 3])[0]);
    let tone_of = |light: f64| encode_srgb(f64::from(decoding.render([light as f32; 3])[0]).clamp(0.0, 1.0));
    let white = light_of(1.0);
    Sampled::new(LOWEST, HIGHEST, SAMPLES, |stop| {
        let light = if stop <= LOWEST { 0.0 } else { stop.exp2() };
        let wanted = bent(tone_of(light.min(white)));
        // a curve that lifts black lifts it for all that is below
        light_of(wanted) * (light / white).max(1.0)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    fn through(points: &[[f64; 2]], channel: usize, tone: f64) -> f64 {
        let decoding = Decoding::new(1.0, 0.85);
        let mut all: [Option<Vec<[f64; 2]>>; 4] = Default::default();
        all[channel] = Some(points.to_vec());
        let curve = SceneCurve::new(&all, &decoding).unwrap();
        let light = decoding.apply([decode_srgb(tone) as f32; 3])[0];
        let mut picture = Picture::from_planes(Region::whole(1, 1), vec![vec![light]; 3]);
        curve.apply(&mut picture);
        encode_srgb(f64::from(decoding.render([picture.plane(0)[0]; 3])[0]))
    }

    #[test]
    fn bends_the_tones_that_the_camera_rendered() {
        for (tone, wanted) in [(0.25, 0.25), (0.5, 0.6), (0.75, 0.75), (1.0, 1.0)] {
            let points = [[0.0, 0.0], [25.0, 25.0], [50.0, 60.0], [75.0, 75.0], [100.0, 100.0]];
            assert!((through(&points, 0, tone) - wanted).abs() < 2e-3, "{tone}");
        }
    }

    #[test]
    fn the_end_points_move_both_ways() {
        let ends = [[0.0, 8.0], [100.0, 90.0]];
        assert!((through(&ends, 0, 0.0) - 0.08).abs() < 2e-3);
        assert!((through(&ends, 0, 1.0) - 0.90).abs() < 2e-3);
        // a channel's black moved to the right
        assert!(through(&[[10.0, 0.0], [100.0, 100.0]], 1, 0.08) < 0.01);
        // another channel's curve leaves this one
        assert!((through(&ends, 3, 0.3) - 0.3).abs() < 1e-5);
    }

    #[test]
    fn beyond_white_goes_on_in_proportion() {
        let decoding = Decoding::new(1.0, 0.85);
        let points = [Some(vec![[0.0, 0.0], [50.0, 55.0], [100.0, 100.0]]), None, None, None];
        let curve = SceneCurve::new(&points, &decoding).unwrap();
        let white = decoding.apply([1.0; 3])[0];
        let mut picture = Picture::from_planes(Region::whole(1, 1), vec![vec![4.0 * white]; 3]);
        curve.apply(&mut picture);
        assert!((picture.plane(0)[0] / white - 4.0).abs() < 0.01);
        assert!(SceneCurve::new(&[None, None, None, None], &decoding).is_none());
        let straight = Some(vec![[0.0, 0.0], [37.0, 37.0], [100.0, 100.0]]);
        assert!(SceneCurve::new(&[straight.clone(), None, straight, None], &decoding).is_none());
    }
}
