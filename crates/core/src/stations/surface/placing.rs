//! Where a sheet lies: from pixels of the picture to micrometres of the sheet and back.
//!
//! A sheet lies on a ground: the whole of the film's format for what is in the camera or on the negative (a crop shows
//! a part of it), the picture as it is framed for what is on the print or over everything. Its middle is moved in
//! shares of the ground, it is scaled and turned with the clock about that middle, mirrored and flipped. Transforms
//! are kept as numbers and never applied to anything, so that turning eight times by 45 degrees is not turning.

use crate::numeric::runs::{Lane, RUN};
use crate::picture::Region;

/// What a sheet lies on, relative to the picture's width and height: where its middle is and how large it is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ground {
    /// Middle, 0.5 being the picture's.
    pub middle: [f64; 2],
    /// Size, 1 being the picture's.
    pub size: [f64; 2],
    /// Micrometres that the picture is wide.
    pub width_um: f64,
}

impl Ground {
    /// The picture as it is framed, so many micrometres wide.
    pub fn of_picture(width_um: f64) -> Self {
        Self { middle: [0.5; 2], size: [1.0; 2], width_um }
    }

    /// All of the film's format, in pixels of a picture of a size whose corner lies somewhere in it: a crop shows a
    /// part.
    pub fn of_film(picture: [u32; 2], film: [f64; 2], corner: [f64; 2], width_um: f64) -> Self {
        let picture = picture.map(f64::from);
        let middle = [0, 1].map(|k| (0.5 * film[k] - corner[k]) / picture[k]);
        Self { middle, size: [film[0] / picture[0], film[1] / picture[1]], width_um }
    }
}

/// How a sheet was laid.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Laid {
    /// Its middle from the ground's, in shares of the ground.
    pub offset: [f64; 2],
    /// 1 as it is.
    pub scale: f64,
    /// With the clock.
    pub degrees: f64,
    /// Left and right exchanged; above and below.
    pub mirrored: [bool; 2],
}

impl Laid {
    /// As it comes.
    pub const PLAIN: Self = Self { offset: [0.0; 2], scale: 1.0, degrees: 0.0, mirrored: [false; 2] };
}

/// At one scale of the picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Placing {
    /// The sheet's middle, in pixels.
    middle: [f64; 2],
    /// From pixels to the sheet: across and down.
    to_sheet: [[f64; 2]; 2],
    /// The sheet's micrometres that a pixel is wide.
    pub pixel_um: f64,
    /// Half of the ground as it was before the sheet was laid on it: the ground that a sheet covers at scale 1.
    pub half_um: [f64; 2],
}

/// Sine and cosine in degrees, exact at quarter turns.
fn turned(degrees: f64) -> (f64, f64) {
    let degrees = degrees.rem_euclid(360.0);
    match degrees {
        0.0 => (0.0, 1.0),
        90.0 => (1.0, 0.0),
        180.0 => (0.0, -1.0),
        270.0 => (-1.0, 0.0),
        _ => (libm::sin(degrees.to_radians()), libm::cos(degrees.to_radians())),
    }
}

impl Placing {
    /// On a picture of a size in pixels.
    pub fn new(ground: &Ground, laid: &Laid, [width, height]: [u32; 2]) -> Self {
        let size = [f64::from(width), f64::from(height)];
        let pitch = ground.width_um / size[0];
        let ground_px = [0, 1].map(|k| ground.size[k] * size[k]);
        let middle = [0, 1].map(|k| ground.middle[k] * size[k] + laid.offset[k] * ground_px[k]);
        let (sine, cosine) = turned(laid.degrees);
        let um = pitch / laid.scale;
        let sign = laid.mirrored.map(|m| if m { -um } else { um });
        Self {
            middle,
            to_sheet: [[cosine * sign[0], sine * sign[0]], [-sine * sign[1], cosine * sign[1]]],
            pixel_um: um,
            half_um: ground_px.map(|px| 0.5 * px * pitch),
        }
    }

    /// A place of the picture, in pixels, on the sheet.
    #[inline(always)]
    pub fn on_sheet(&self, x: f64, y: f64) -> [f64; 2] {
        let (dx, dy) = (x - self.middle[0], y - self.middle[1]);
        let [[a, b], [c, d]] = self.to_sheet;
        [a * dx + b * dy, c * dx + d * dy]
    }

    /// A place of the sheet on the picture, in pixels.
    pub fn on_picture(&self, [u, v]: [f32; 2]) -> [f32; 2] {
        // turned and scaled evenly: the inverse is the transpose over the square of the scale
        let per = 1.0 / (self.pixel_um * self.pixel_um);
        let [[a, b], [c, d]] = self.to_sheet;
        let (u, v) = (f64::from(u), f64::from(v));
        [(self.middle[0] + (a * u + c * v) * per) as f32, (self.middle[1] + (b * u + d * v) * per) as f32]
    }

    /// The upright rectangle of the sheet that holds a rectangle of pixels: left, top, right, bottom.
    pub fn holding(&self, left: f64, top: f64, right: f64, bottom: f64) -> [f32; 4] {
        let corners = [[left, top], [right, top], [left, bottom], [right, bottom]].map(|[x, y]| self.on_sheet(x, y));
        let of = |k: usize, f: fn(f64, f64) -> f64| corners.iter().map(|c| c[k]).reduce(f).unwrap_or(0.0) as f32;
        [of(0, f64::min), of(1, f64::min), of(0, f64::max), of(1, f64::max)]
    }

    /// By how much a sheet of half size `half_um` at scale 1 must grow so that a picture of a size lies within it.
    pub fn growth_to_cover(&self, half_um: [f64; 2], [width, height]: [u32; 2]) -> f64 {
        let (right, bottom) = (f64::from(width), f64::from(height));
        let corners = [[0.0, 0.0], [right, 0.0], [0.0, bottom], [right, bottom]].map(|[x, y]| self.on_sheet(x, y));
        corners.iter().flat_map(|c| [c[0].abs() / half_um[0], c[1].abs() / half_um[1]]).fold(0.0, f64::max)
    }
}

/// The places of a run of pixels on the sheet.
pub struct Points {
    /// Across, in micrometres from the sheet's middle.
    pub u: Lane,
    /// Down.
    pub v: Lane,
}

/// A region of the picture, looked at from a sheet.
pub struct Window<'a> {
    /// In pixels of the picture.
    pub region: Region,
    /// Where the sheet lies.
    pub placing: &'a Placing,
}

impl Window<'_> {
    /// The sheet's micrometres that a pixel is wide.
    pub fn pixel_um(&self) -> f32 {
        self.placing.pixel_um as f32
    }

    /// The upright rectangle of the sheet that holds it.
    pub fn holding(&self) -> [f32; 4] {
        let r = &self.region;
        self.placing.holding(r.x.into(), r.y.into(), r.right().into(), r.bottom().into())
    }

    /// Fills a plane run by run; the last run of a row has places beyond it.
    pub fn fill(&self, out: &mut [f32], mut work: impl FnMut(&Points, &mut Lane)) {
        let width = self.region.width as usize;
        let mut points = Points { u: [0.0; RUN], v: [0.0; RUN] };
        let mut lane = [0.0f32; RUN];
        for (y, row) in (self.region.y..).zip(out.chunks_exact_mut(width)) {
            for (run, part) in row.chunks_mut(RUN).enumerate() {
                self.places(self.region.x as usize + run * RUN, y, &mut points);
                lane.fill(0.0);
                work(&points, &mut lane);
                part.copy_from_slice(&lane[..part.len()]);
            }
        }
    }

    /// A plane made run by run.
    pub fn plane(&self, work: impl FnMut(&Points, &mut Lane)) -> Vec<f32> {
        let mut out = vec![0.0; self.region.pixels()];
        self.fill(&mut out, work);
        out
    }

    /// A plane of something that changes slowly: made at places `step_um` apart on the sheet and drawn straight between
    /// them. The places are those of a lattice of the whole picture, so that a region is a crop.
    pub fn smooth(&self, step_um: f32, work: impl FnMut(&Points, &mut Lane)) -> Vec<f32> {
        let step = (step_um / self.pixel_um()).clamp(1.0, 16.0) as u32;
        if step == 1 {
            return self.plane(work);
        }
        let r = &self.region;
        let (left, top) = (r.x / step, r.y / step);
        let nodes = [(r.right() - 1) / step + 2 - left, (r.bottom() - 1) / step + 2 - top];
        let made = self.nodes([left, top], nodes, step, work);
        let mut out = vec![0.0; r.pixels()];
        let per = 1.0 / step as f32;
        let places: Vec<(usize, f32)> =
            (r.x..r.right()).map(|x| ((x / step - left) as usize, ((x % step) as f32 + 0.5) * per)).collect();
        let mut row = vec![0.0f32; nodes[0] as usize];
        for (y, line) in (r.y..).zip(out.chunks_exact_mut(r.width as usize)) {
            let (above, share) = ((y / step - top) as usize * nodes[0] as usize, ((y % step) as f32 + 0.5) * per);
            let (upper, lower) = made[above..].split_at(nodes[0] as usize);
            for ((v, a), b) in row.iter_mut().zip(upper).zip(lower) {
                *v = a + share * (b - a);
            }
            for (v, (at, share)) in line.iter_mut().zip(&places) {
                *v = row[*at] + share * (row[at + 1] - row[*at]);
            }
        }
        out
    }

    /// Values at the corners of every `step` pixels, from a first one on, row by row.
    fn nodes(
        &self,
        [left, top]: [u32; 2],
        [across, down]: [u32; 2],
        step: u32,
        mut work: impl FnMut(&Points, &mut Lane),
    ) -> Vec<f32> {
        let mut out = vec![0.0; (across * down) as usize];
        let mut points = Points { u: [0.0; RUN], v: [0.0; RUN] };
        let mut lane = [0.0f32; RUN];
        for (y, row) in (top..).zip(out.chunks_exact_mut(across as usize)) {
            for (run, part) in row.chunks_mut(RUN).enumerate() {
                let first = left + (run * RUN) as u32;
                self.lattice(f64::from(first * step), f64::from(y * step), f64::from(step), &mut points);
                lane.fill(0.0);
                work(&points, &mut lane);
                part.copy_from_slice(&lane[..part.len()]);
            }
        }
        out
    }

    /// Two planes made together.
    pub fn two_planes(&self, mut work: impl FnMut(&Points, &mut Lane, &mut Lane)) -> [Vec<f32>; 2] {
        let width = self.region.width as usize;
        let mut second = Vec::with_capacity(self.region.pixels());
        let first = self.plane(|points, lane| {
            let mut other = [0.0f32; RUN];
            work(points, lane, &mut other);
            let left = width - second.len() % width;
            second.extend_from_slice(&other[..left.min(RUN)]);
        });
        [first, second]
    }

    fn places(&self, x: usize, y: u32, points: &mut Points) {
        self.lattice(x as f64 + 0.5, f64::from(y) + 0.5, 1.0, points);
    }

    /// Places of a row, from one in pixels of the picture on, a step apart.
    fn lattice(&self, x: f64, y: f64, step: f64, points: &mut Points) {
        let [[a, b], [c, d]] = self.placing.to_sheet;
        let dy = y - self.placing.middle[1];
        for i in 0..RUN {
            // from the place itself, wherever the run began
            let dx = (x + step * f64::from(i as i32)) - self.placing.middle[0];
            points.u[i] = (a * dx + b * dy) as f32;
            points.v[i] = (c * dx + d * dy) as f32;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const GROUND: Ground = Ground { middle: [0.5; 2], size: [1.0; 2], width_um: 36_000.0 };

    #[test]
    fn there_and_back() {
        let laid = Laid { offset: [0.1, -0.3], scale: 1.7, degrees: 31.0, mirrored: [true, false] };
        let placing = Placing::new(&GROUND, &laid, [360, 240]);
        for (x, y) in [(0.0, 0.0), (17.0, 200.0), (350.0, 3.0)] {
            let [u, v] = placing.on_sheet(x, y);
            let [back_x, back_y] = placing.on_picture([u as f32, v as f32]);
            assert!((f64::from(back_x) - x).abs() < 1e-3 && (f64::from(back_y) - y).abs() < 1e-3, "{back_x} {back_y}");
        }
    }

    #[test]
    fn plain_is_micrometres_from_the_middle() {
        let placing = Placing::new(&GROUND, &Laid::PLAIN, [360, 240]);
        assert_eq!(placing.on_sheet(0.0, 0.0), [-18_000.0, -12_000.0]);
        assert_eq!(placing.half_um, [18_000.0, 12_000.0]);
        let moved = Placing::new(&GROUND, &Laid { offset: [0.5, 0.0], ..Laid::PLAIN }, [360, 240]);
        assert_eq!(moved.on_sheet(360.0, 120.0), [0.0, 0.0]);
    }

    #[test]
    fn a_full_turn_is_none_and_quarters_are_exact() {
        let at = |degrees: f64| Placing::new(&GROUND, &Laid { degrees, ..Laid::PLAIN }, [360, 240]);
        assert_eq!(at(8.0 * 45.0), at(0.0));
        assert_eq!(at(-90.0), at(270.0));
        // a quarter with the clock: what lay above lies to the right
        assert_eq!(at(90.0).on_sheet(360.0, 120.0), [0.0, -18_000.0]);
    }

    /// What changes slowly is drawn between places of a lattice that is the whole picture's.
    #[test]
    fn a_smooth_plane_is_a_crop_and_near_what_it_stands_for() {
        let laid = Laid { degrees: 12.0, ..Laid::PLAIN };
        let placing = Placing::new(&GROUND, &laid, [360, 240]);
        let wave = |points: &Points, lane: &mut Lane| {
            for i in 0..RUN {
                lane[i] = (points.u[i] / 4000.0).sin() * (points.v[i] / 5000.0).cos();
            }
        };
        let over = |region: Region| Window { region, placing: &placing }.smooth(500.0, wave);
        let whole = over(Region::whole(360, 240));
        let exact = Window { region: Region::whole(360, 240), placing: &placing }.plane(wave);
        assert!(whole.iter().zip(&exact).all(|(a, b)| (a - b).abs() < 0.01));
        let part = Region::new(101, 33, 77, 90);
        for (i, v) in over(part).iter().enumerate() {
            let at = (part.y as usize + i / 77) * 360 + part.x as usize + i % 77;
            assert_eq!(v.to_bits(), whole[at].to_bits());
        }
    }

    #[test]
    fn a_turned_sheet_must_grow_to_cover() {
        let plain = Placing::new(&GROUND, &Laid::PLAIN, [360, 240]);
        assert!((plain.growth_to_cover(plain.half_um, [360, 240]) - 1.0).abs() < 1e-12);
        let turned = Placing::new(&GROUND, &Laid { degrees: 90.0, ..Laid::PLAIN }, [360, 240]);
        assert!((turned.growth_to_cover(turned.half_um, [360, 240]) - 1.5).abs() < 1e-12);
    }
}
