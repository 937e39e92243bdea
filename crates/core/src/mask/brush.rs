//! Brush strokes on a plane over the picture.

use super::Stroke;
use crate::numeric::smooth_share;
use crate::picture::Plane;

/// Softest border in pixels of the plane: a harder one would show steps.
const LEAST_BORDER: f32 = 1.0;

/// Lays a stroke over those before it. Within one stroke nothing builds up: only the distance to its line counts.
pub(super) fn lay(plane: &mut Plane, stroke: &Stroke) {
    let Some(covered) = Covered::by(stroke.size, &stroke.points, plane) else { return };
    let radius = covered.radius;
    let border = (stroke.softness as f32 * radius).max(LEAST_BORDER);
    let strength = stroke.strength as f32;
    for (row, distances) in covered.squares.chunks_exact(covered.width).enumerate() {
        let start = (covered.y + row) * plane.width + covered.x;
        for (v, square) in plane.values[start..start + covered.width].iter_mut().zip(distances) {
            if *square == f32::MAX {
                continue;
            }
            let share = strength * smooth_share((radius + 0.5 * LEAST_BORDER - square.sqrt()) / border);
            *v = if stroke.erase { *v * (1.0 - share) } else { *v + share * (1.0 - *v) };
        }
    }
}

/// Squared distances to a line of points, over the rectangle that the brush covers.
pub(super) struct Covered {
    pub x: usize,
    pub y: usize,
    pub width: usize,
    pub squares: Vec<f32>,
    pub radius: f32,
}

impl Covered {
    /// `None` when it lies outside the plane.
    pub fn by(size: f64, points: &[[f64; 2]], plane: &Plane) -> Option<Self> {
        let (w, h) = (plane.width as f64, plane.height as f64);
        let radius = 0.5 * size * w.hypot(h);
        let line: Vec<[f32; 2]> = points.iter().map(|[x, y]| [(x * w - 0.5) as f32, (y * h - 0.5) as f32]).collect();
        let reach = radius as f32 + 1.0;
        let bounds = |k: usize, size: usize| {
            let low = line.iter().map(|p| p[k]).fold(f32::MAX, f32::min) - reach;
            let high = line.iter().map(|p| p[k]).fold(f32::MIN, f32::max) + reach;
            let most = size as f32;
            (low.floor().clamp(0.0, most) as usize, high.ceil().clamp(0.0, most) as usize)
        };
        let ((x0, x1), (y0, y1)) = (bounds(0, plane.width), bounds(1, plane.height));
        if line.is_empty() || x1 <= x0 || y1 <= y0 {
            return None;
        }
        let mut covered = Self {
            x: x0,
            y: y0,
            width: x1 - x0,
            squares: vec![f32::MAX; (x1 - x0) * (y1 - y0)],
            radius: radius as f32,
        };
        let dot = [line[0], line[0]];
        let segments = line.windows(2).map(|p| [p[0], p[1]]);
        for segment in std::iter::once(dot).chain(segments) {
            covered.near(segment, reach, y1 - y0);
        }
        Some(covered)
    }

    /// Lowers the distances round one segment.
    fn near(&mut self, [a, b]: [[f32; 2]; 2], reach: f32, height: usize) {
        let along = [b[0] - a[0], b[1] - a[1]];
        let per = 1.0 / (along[0] * along[0] + along[1] * along[1]).max(1e-12);
        let span = |k: usize, from: usize, size: usize| {
            let low = (a[k].min(b[k]) - reach - from as f32).floor().clamp(0.0, size as f32) as usize;
            let high = (a[k].max(b[k]) + reach - from as f32).ceil().clamp(0.0, size as f32) as usize;
            low..high
        };
        for row in span(1, self.y, height) {
            let y = (self.y + row) as f32 - a[1];
            for column in span(0, self.x, self.width) {
                let x = (self.x + column) as f32 - a[0];
                let t = ((x * along[0] + y * along[1]) * per).clamp(0.0, 1.0);
                let (dx, dy) = (x - t * along[0], y - t * along[1]);
                let square = &mut self.squares[row * self.width + column];
                *square = square.min(dx * dx + dy * dy);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stroke(points: Vec<[f64; 2]>, strength: f64, erase: bool) -> Stroke {
        Stroke { size: 0.1, softness: 0.5, strength, erase, points }
    }

    fn painted(strokes: &[Stroke]) -> Plane {
        let mut plane = Plane { width: 300, height: 200, values: vec![0.0; 60_000] };
        strokes.iter().for_each(|s| lay(&mut plane, s));
        plane
    }

    #[test]
    fn a_stroke_follows_its_line_and_does_not_build_up() {
        let there_and_back = vec![[0.2, 0.5], [0.8, 0.5], [0.2, 0.5]];
        let plane = painted(&[stroke(there_and_back, 0.6, false)]);
        let at = |x: usize, y: usize| plane.values[y * 300 + x];
        assert!((at(150, 100) - 0.6).abs() < 1e-5 && (at(61, 100) - 0.6).abs() < 1e-5);
        // the radius is 5 % of the diagonal, 18 pixels
        assert!(at(150, 100 + 12) < 0.55 && at(150, 100 + 12) > 0.1, "{}", at(150, 112));
        assert_eq!(at(150, 121), 0.0);
        assert_eq!(at(20, 100), 0.0);
    }

    #[test]
    fn strokes_add_up_and_an_eraser_takes_away() {
        let dot = |erase| stroke(vec![[0.5, 0.5]], 0.5, erase);
        let middle = |strokes: &[Stroke]| painted(strokes).values[100 * 300 + 150];
        assert!((middle(&[dot(false), dot(false)]) - 0.75).abs() < 1e-4);
        assert!((middle(&[dot(false), dot(true)]) - 0.25).abs() < 1e-4);
        // beyond the picture's edge nothing is painted and nothing breaks
        assert!(painted(&[stroke(vec![[2.0, 2.0]], 1.0, false)]).values.iter().all(|v| *v == 0.0));
    }
}
