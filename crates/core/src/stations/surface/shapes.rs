//! Marks with an outline: specks and lines, drawn by their distance.
//!
//! They lie on the sheet in micrometres and are drawn in pixels of the picture, wherever the sheet was moved, scaled
//! or turned to. A mark narrower than a pixel is drawn as wide as one and by so much the fainter.

use super::placing::Window;

/// A piece of a line: where it is, its half width and how much it is there.
#[derive(Debug, Clone, Copy)]
pub struct Knot {
    /// In micrometres on the sheet.
    pub at: [f32; 2],
    /// Half of its width.
    pub half_um: f32,
    /// 0 to 1.
    pub share: f32,
}

/// A line through knots.
#[derive(Debug, Clone)]
pub struct Line {
    knots: Vec<Knot>,
    /// Left, top, right, bottom of all of it.
    around: [f32; 4],
}

fn around(points: impl Iterator<Item = ([f32; 2], f32)>) -> [f32; 4] {
    points.fold([f32::MAX, f32::MAX, f32::MIN, f32::MIN], |[l, t, r, b], ([x, y], reach)| {
        [l.min(x - reach), t.min(y - reach), r.max(x + reach), b.max(y + reach)]
    })
}

fn meet(a: &[f32; 4], b: &[f32; 4], margin: f32) -> bool {
    a[0] <= b[2] + margin && b[0] <= a[2] + margin && a[1] <= b[3] + margin && b[1] <= a[3] + margin
}

impl Line {
    /// Of at least two knots.
    pub fn new(knots: Vec<Knot>) -> Self {
        let around = around(knots.iter().map(|k| (k.at, k.half_um)));
        Self { knots, around }
    }

    /// Draws it over a window where there is not more already. `soft_um` is how far its border fades.
    pub fn draw(&self, window: &Window, soft_um: f32, out: &mut [f32]) {
        let pixel = window.pixel_um();
        let margin = 2.0 * pixel + soft_um;
        let seen = window.holding();
        if !meet(&self.around, &seen, margin) {
            return;
        }
        for pair in self.knots.windows(2) {
            let [a, b] = [&pair[0], &pair[1]];
            if a.share <= 0.0 && b.share <= 0.0 {
                continue;
            }
            let box_um = around([(a.at, a.half_um), (b.at, b.half_um)].into_iter());
            if meet(&box_um, &seen, margin) {
                draw_piece(window, a, b, soft_um, out);
            }
        }
    }
}

/// Rows and columns of a window that lie near places of the picture.
fn near(window: &Window, low: [f32; 2], high: [f32; 2]) -> [std::ops::Range<usize>; 2] {
    let span = |low: f32, high: f32, from: u32, count: u32| {
        let place = |v: f32| (v - from as f32).clamp(0.0, count as f32) as usize;
        place(low.floor())..place(high.ceil() + 1.0)
    };
    let r = &window.region;
    [span(low[0], high[0], r.x, r.width), span(low[1], high[1], r.y, r.height)]
}

fn draw_piece(window: &Window, a: &Knot, b: &Knot, soft_um: f32, out: &mut [f32]) {
    let pixel = window.pixel_um();
    let [pa, pb] = [a, b].map(|knot| window.placing.on_picture(knot.at));
    let soft = soft_um / pixel;
    let reach = a.half_um.max(b.half_um) / pixel + soft + 1.0;
    let low = [0, 1].map(|k| pa[k].min(pb[k]) - reach);
    let high = [0, 1].map(|k| pa[k].max(pb[k]) + reach);
    let [columns, rows] = near(window, low, high);
    let along = [pb[0] - pa[0], pb[1] - pa[1]];
    let square = (along[0] * along[0] + along[1] * along[1]).max(1e-12);
    let (region, width) = (&window.region, window.region.width as usize);
    for row in rows {
        let dy = (region.y as usize + row) as f32 + 0.5 - pa[1];
        for column in columns.clone() {
            let dx = (region.x as usize + column) as f32 + 0.5 - pa[0];
            let t = ((dx * along[0] + dy * along[1]) / square).clamp(0.0, 1.0);
            let (ex, ey) = (dx - t * along[0], dy - t * along[1]);
            let half = (a.half_um + t * (b.half_um - a.half_um)) / pixel;
            let here = inside((ex * ex + ey * ey).sqrt(), half, soft) * (a.share + t * (b.share - a.share));
            let v = &mut out[row * width + column];
            *v = v.max(here);
        }
    }
}

/// How much of a pixel lies within a line of a half width, at a distance from its middle; all in pixels.
#[inline(always)]
fn inside(distance: f32, half: f32, soft: f32) -> f32 {
    let drawn = half.max(0.5);
    let ramp = 1.0 + soft;
    ((drawn - distance) / ramp + 0.5).clamp(0.0, 1.0) * (half / drawn)
}

/// A speck with an outline of its own.
#[derive(Debug, Clone, Copy)]
pub struct Speck {
    /// In micrometres on the sheet.
    pub at: [f32; 2],
    /// Mean radius.
    pub radius_um: f32,
    /// 0 to 1.
    pub share: f32,
    /// Waves of the outline: how many, how high, how turned, for each of two.
    pub waves: [[f32; 3]; 2],
    /// Length over breadth, and the direction of the length.
    pub oval: [f32; 2],
}

impl Speck {
    /// Draws it over a window where there is not more already.
    pub fn draw(&self, window: &Window, out: &mut [f32]) {
        let pixel = window.pixel_um();
        let reach = 2.2 * self.radius_um * self.oval[0].max(1.0) + 2.0 * pixel;
        let [x, y] = self.at;
        if !meet(&[x, y, x, y], &window.holding(), reach) {
            return;
        }
        let centre = window.placing.on_picture(self.at);
        let radius = self.radius_um / pixel;
        // a speck smaller than a pixel is one pixel, by so much the fainter as its area is less
        let drawn = radius.max(0.6);
        let faint = (radius / drawn) * (radius / drawn);
        let far = 2.2 * drawn * self.oval[0].max(1.0) + 1.0;
        let [columns, rows] = near(window, centre.map(|c| c - far), centre.map(|c| c + far));
        let (region, width) = (&window.region, window.region.width as usize);
        let (sine, cosine) = (libm::sinf(self.oval[1]), libm::cosf(self.oval[1]));
        let shaped = radius > 1.2;
        for row in rows {
            let dy = (region.y as usize + row) as f32 + 0.5 - centre[1];
            for column in columns.clone() {
                let dx = (region.x as usize + column) as f32 + 0.5 - centre[0];
                let (along, across) = (cosine * dx + sine * dy, cosine * dy - sine * dx);
                let (along, across) = (along / self.oval[0], across);
                let distance = (along * along + across * across).sqrt();
                let edge = if shaped && distance > 0.3 * drawn && distance < 2.2 * drawn {
                    let angle = libm::atan2f(across, along);
                    let wave = |[count, height, turn]: [f32; 3]| height * libm::cosf(count * angle + turn);
                    drawn * (1.0 + wave(self.waves[0]) + wave(self.waves[1])).max(0.2)
                } else {
                    drawn
                };
                let here = (edge - distance + 0.5).clamp(0.0, 1.0) * self.share * faint;
                let v = &mut out[row * width + column];
                *v = v.max(here);
            }
        }
    }
}

/// Cells of a side in which something is strewn, around a rectangle grown by a reach.
pub fn cells(within: [f32; 4], side: f32, reach: f32) -> impl Iterator<Item = (i32, i32)> {
    let [l, t, r, b] = [within[0] - reach, within[1] - reach, within[2] + reach, within[3] + reach]
        .map(|v| (v / side).floor().clamp(-30_000.0, 30_000.0) as i32);
    (t..=b).flat_map(move |j| (l..=r).map(move |i| (i, j)))
}

#[cfg(test)]
mod tests {
    use super::super::placing::{Ground, Laid, Placing};
    use super::*;
    use crate::picture::Region;

    const GROUND: Ground = Ground { middle: [0.5; 2], size: [1.0; 2], width_um: 1000.0 };

    fn drawn(width: u32, draw: impl Fn(&Window, &mut [f32])) -> Vec<f32> {
        let placing = Placing::new(&GROUND, &Laid::PLAIN, [width, width]);
        let region = Region::whole(width, width);
        let mut out = vec![0.0; region.pixels()];
        draw(&Window { region, placing: &placing }, &mut out);
        out
    }

    /// A mark takes the same part of the picture at every scale.
    #[test]
    fn what_is_narrower_than_a_pixel_is_fainter() {
        let knot = |x: f32| Knot { at: [x, 3.0], half_um: 10.0, share: 1.0 };
        let line = Line::new(vec![knot(-400.0), knot(400.0)]);
        let speck = Speck { at: [7.0, 9.0], radius_um: 30.0, share: 1.0, waves: [[0.0; 3]; 2], oval: [1.0, 0.0] };
        let share = |width: u32, out: Vec<f32>| out.iter().sum::<f32>() / (width * width) as f32;
        let lines = [500u32, 100, 20].map(|w| share(w, drawn(w, |window, out| line.draw(window, 0.0, out))));
        let specks = [500u32, 100].map(|w| share(w, drawn(w, |window, out| speck.draw(window, out))));
        assert!((lines[0] / 0.016 - 1.0).abs() < 0.06, "{lines:?}");
        assert!((lines[1] / lines[0] - 1.0).abs() < 0.1 && (lines[2] / lines[0] - 1.0).abs() < 0.25, "{lines:?}");
        let area = std::f32::consts::PI * 900.0 / 1e6;
        assert!(specks.iter().all(|s| (s / area - 1.0).abs() < 0.25), "{specks:?} {area}");
    }

    #[test]
    fn a_part_is_a_crop() {
        let placing = Placing::new(&GROUND, &Laid { degrees: 20.0, ..Laid::PLAIN }, [200, 200]);
        let knots = (0..9).map(|k| Knot { at: [k as f32 * 80.0 - 300.0, (k * k) as f32], half_um: 9.0, share: 0.8 });
        let line = Line::new(knots.collect());
        let over = |region: Region| {
            let mut out = vec![0.0; region.pixels()];
            line.draw(&Window { region, placing: &placing }, 6.0, &mut out);
            out
        };
        let whole = over(Region::whole(200, 200));
        let part = Region::new(61, 70, 90, 50);
        for (i, v) in over(part).iter().enumerate() {
            let (x, y) = (part.x as usize + i % 90, part.y as usize + i / 90);
            assert_eq!(v.to_bits(), whole[y * 200 + x].to_bits());
        }
        assert!(whole.iter().any(|v| *v > 0.7));
    }
}
