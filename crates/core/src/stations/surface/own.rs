//! A picture of one's own as a sheet.

use std::sync::Arc;

use super::matter::{Colours, Matter, Neutral, Stuff};
use super::placing::{Ground, Laid, Placing, Window};
use crate::controls::choices;
use crate::picture::own::{Level, NOT_YET, OwnPicture, covering_between};

choices! {
    /// How a picture is laid.
    pub enum Fit {
        Once = "once", "Once";
        Stretch = "stretch", "Stretched";
        Repeat = "repeat", "Repeated";
    }
}

/// A picture laid on a ground.
pub struct OwnSheet {
    picture: Arc<OwnPicture>,
    /// Micrometres of the sheet that a pixel of the picture takes, across and down.
    um: [f64; 2],
    fit: Fit,
}

/// Micrometres that a pixel of a picture takes at scale 1: it covers the ground, or is stretched to it.
fn pixel_um(size: [u32; 2], fit: Fit, half_um: [f64; 2]) -> [f64; 2] {
    let each = [0, 1].map(|k| 2.0 * half_um[k] / f64::from(size[k]));
    match fit {
        Fit::Stretch => each,
        _ => [each[0].max(each[1]); 2],
    }
}

/// How a picture of a size must be laid so that no edge of it shows, and whether one shows as it is laid.
pub fn covering(size: [u32; 2], fit: Fit, ground: &Ground, laid: &Laid, frame: [u32; 2]) -> (Laid, bool) {
    let placing = Placing::new(ground, laid, frame);
    let um = pixel_um(size, fit, placing.half_um);
    let half = [0, 1].map(|k| 0.5 * um[k] * f64::from(size[k]));
    // a hair's breadth is not an edge
    let growth = placing.growth_to_cover(half, frame);
    let shows = fit != Fit::Repeat && growth > 1.0 + 1e-6;
    (if shows { Laid { scale: laid.scale * growth, ..*laid } } else { *laid }, shows)
}

impl OwnSheet {
    /// On a ground of half a size.
    pub fn new(picture: Arc<OwnPicture>, fit: Fit, half_um: [f64; 2]) -> Self {
        Self { um: pixel_um(picture.size(), fit, half_um), picture, fit }
    }

    /// The picture at every pixel of a window.
    pub fn over(&self, window: &Window) -> Matter {
        let pixels = window.region.pixels();
        let footprint = (window.placing.pixel_um / self.um[0].max(self.um[1])).max(1.0);
        let index = (libm::log2(footprint) + 0.35).floor().max(0.0) as usize;
        let level = self.picture.level(index);
        let full = self.picture.size().map(f64::from);
        // a level's pixel, from its own count: an odd side's half is a little wider than half
        let per = [level.width as f64 / (full[0] * self.um[0]), level.height as f64 / (full[1] * self.um[1])];
        // pixels of the level that one of the frame is wide
        let soft = per.map(|per| per * window.placing.pixel_um);
        let (mut rgb, mut cover) = ([vec![0.0; pixels], vec![0.0; pixels], vec![0.0; pixels]], vec![0.0; pixels]);
        let region = &window.region;
        let width = region.width as usize;
        let [red, green, blue] = &mut rgb;
        let lines = red.chunks_exact_mut(width).zip(green.chunks_exact_mut(width)).zip(blue.chunks_exact_mut(width));
        for ((y, ((r, g), b)), cover) in (region.y..).zip(lines).zip(cover.chunks_exact_mut(width)) {
            let place = |column: usize| {
                let [u, v] = window.placing.on_sheet(f64::from(region.x) + column as f64 + 0.5, f64::from(y) + 0.5);
                [u * per[0] + 0.5 * level.width as f64, v * per[1] + 0.5 * level.height as f64]
            };
            cover.fill(NOT_YET);
            level.line_within(self.picture.is_opaque(), &place, soft, [r, g, b], cover);
            for i in 0..width {
                if cover[i] == NOT_YET {
                    cover[i] = 0.0;
                    if let Some(sampled) = self.sampled(level, place(i), soft) {
                        [r[i], g[i], b[i], cover[i]] = sampled;
                    }
                }
            }
        }
        Stuff::Paint { rgb: Colours::Rgb(rgb), cover, neutral: Neutral::White }.into()
    }

    /// Colour and cover at a place of a level, in its pixels; `None` beyond its edges.
    fn sampled(&self, level: &Level, at: [f64; 2], soft: [f64; 2]) -> Option<[f32; 4]> {
        let sides = [level.width, level.height];
        let mut corners = [[0usize; 2]; 2];
        let mut shares = [0.0f32; 2];
        let mut edge = 1.0f32;
        for k in 0..2 {
            let side = sides[k] as f64;
            // its edge is as soft as a pixel of the frame, and no softer
            if self.fit != Fit::Repeat {
                let inside = (at[k].min(side - at[k]) + 1e-6) / soft[k] + 0.5;
                if inside <= 0.0 {
                    return None;
                }
                edge *= inside.min(1.0) as f32;
            }
            let place = at[k] - 0.5;
            let below = place.floor();
            shares[k] = (place - below) as f32;
            let of = |i: i64| match self.fit {
                Fit::Repeat => {
                    let within = i.rem_euclid(2 * sides[k] as i64) as usize;
                    if within < sides[k] { within } else { 2 * sides[k] - 1 - within }
                }
                _ => i.clamp(0, sides[k] as i64 - 1) as usize,
            };
            corners[k] = [of(below as i64), of(below as i64 + 1)];
        }
        let pair = |line: usize| {
            let [left, right] = corners[0].map(|column| level.pixel(column, line));
            std::array::from_fn(|k| if k < 4 { left[k] } else { right[k - 4] })
        };
        let [red, green, blue, cover] = covering_between([&pair(corners[1][0]), &pair(corners[1][1])], shares);
        (cover > 0.0).then_some([red, green, blue, cover * edge])
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::Region;

    const GROUND: Ground = Ground { middle: [0.5; 2], size: [1.0; 2], width_um: 36_000.0 };

    fn picture(width: u32, height: u32) -> Arc<OwnPicture> {
        let of = |i: u32| [(i * 7 % 251) as u8, (i * 13 % 241) as u8, (i % 233) as u8, 255];
        Arc::new(OwnPicture::new(width, height, (0..width * height).flat_map(of).collect()).unwrap())
    }

    fn laid(picture: &Arc<OwnPicture>, fit: Fit, laid: Laid, size: [u32; 2]) -> ([Vec<f32>; 3], Vec<f32>) {
        let placing = Placing::new(&GROUND, &laid, size);
        let sheet = OwnSheet::new(picture.clone(), fit, placing.half_um);
        let window = Window { region: Region::whole(size[0], size[1]), placing: &placing };
        match sheet.over(&window).stuff {
            Stuff::Paint { rgb, cover, .. } => ([0, 1, 2].map(|k| rgb.plane(k).to_vec()), cover),
            other => panic!("{other:?}"),
        }
    }

    /// A picture of the frame's own size lies on it pixel by pixel.
    #[test]
    fn it_covers_the_frame_exactly() {
        let picture = picture(90, 60);
        let (rgb, cover) = laid(&picture, Fit::Once, Laid::PLAIN, [90, 60]);
        for i in 0..90 * 60 {
            assert!((rgb[0][i] * 255.0 - (i * 7 % 251) as f32).abs() < 1e-3, "{i}");
            assert_eq!(cover[i], 1.0);
        }
        let turned = laid(&picture, Fit::Once, Laid { degrees: 180.0, ..Laid::PLAIN }, [90, 60]).0;
        let mirrored = laid(&picture, Fit::Once, Laid { mirrored: [true, true], ..Laid::PLAIN }, [90, 60]).0;
        assert_eq!(turned, mirrored);
    }

    /// A picture that covers here and there is read in lines as it is read place by place.
    #[test]
    fn lines_are_their_places() {
        let of = |i: u32| [(i * 7 % 251) as u8, (i * 13 % 241) as u8, (i % 233) as u8, (i / 9 % 3 * 120) as u8];
        let picture = Arc::new(OwnPicture::new(70, 50, (0..70 * 50).flat_map(of).collect()).unwrap());
        let size = [120, 90];
        let turned = Laid { degrees: 17.0, scale: 0.9, ..Laid::PLAIN };
        let placing = Placing::new(&GROUND, &turned, size);
        for fit in [Fit::Once, Fit::Stretch, Fit::Repeat] {
            let sheet = OwnSheet::new(picture.clone(), fit, placing.half_um);
            let (rgb, cover) = laid(&picture, fit, turned, size);
            let level = picture.level(0);
            let per = [0, 1].map(|k| 1.0 / sheet.um[k]);
            let mut seen = 0;
            for i in 0..120 * 90 {
                let [u, v] = placing.on_sheet((i % 120) as f64 + 0.5, (i / 120) as f64 + 0.5);
                let at = [u * per[0] + 35.0, v * per[1] + 25.0];
                let single = sheet.sampled(level, at, per.map(|per| per * placing.pixel_um)).unwrap_or_default();
                let found = [rgb[0][i], rgb[1][i], rgb[2][i], cover[i]];
                let off = single.iter().zip(found).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
                assert!(off < 1e-4, "{fit:?} {i}: {single:?} {found:?}");
                seen += usize::from(cover[i] > 0.3);
            }
            assert!(seen > 3_000, "{seen}");
        }
    }

    #[test]
    fn once_has_edges_and_repeated_has_none() {
        let picture = picture(64, 64);
        let half = Laid { scale: 0.5, ..Laid::PLAIN };
        let (_, cover) = laid(&picture, Fit::Once, half, [96, 64]);
        assert_eq!((cover[0], cover[32 * 96 + 48]), (0.0, 1.0));
        let (_, cover) = laid(&picture, Fit::Repeat, half, [96, 64]);
        assert!(cover.iter().all(|c| (c - 1.0).abs() < 1e-6));
        let (_, shows) = covering([64, 64], Fit::Once, &GROUND, &half, [96, 64]);
        let (grown, _) = covering([64, 64], Fit::Once, &GROUND, &half, [96, 64]);
        assert!(shows && (grown.scale - 1.0).abs() < 1e-9, "{grown:?}");
        assert!(!covering([64, 64], Fit::Repeat, &GROUND, &half, [96, 64]).1);
        assert!(laid(&picture, Fit::Once, grown, [96, 64]).1.iter().all(|c| (c - 1.0).abs() < 1e-6));
        let turned = Laid { degrees: 30.0, ..Laid::PLAIN };
        let (grown, shows) = covering([64, 64], Fit::Stretch, &GROUND, &turned, [96, 64]);
        assert!(shows && laid(&picture, Fit::Stretch, grown, [96, 64]).1.iter().all(|c| (c - 1.0).abs() < 1e-6));
    }
}
