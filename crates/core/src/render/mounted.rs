//! A picture in its mount.

use std::sync::Arc;

use super::plan::{Plan, RenderRequest, Until};
use super::renderer::{Renderer, Watch};
use crate::error::CoreError;
use crate::numeric::parallel::for_parts;
use crate::output::{self, Colours, OutputSpace};
use crate::picture::buffer::{Display, LayerExposure};
use crate::picture::{Picture, Region};
use crate::stations::film::FilmSettings;
use crate::stations::surface::mount::{FilmTones, Mount, MountKind, MountSettings, Of, TONE_STOPS};
use crate::stock::StockKind;

/// Rows of a mount that are painted together.
const STRIP: u32 = 16;
/// Exposure of mid grey.
const MID_GREY: f32 = 0.18;
/// Light of the lamp with which the edge of a film is printed, on the layers of red, green and blue.
const EDGE_LIGHT: [f32; 3] = [1.0, 0.62, 0.26];

/// A channel of an output pixel.
pub trait Code: Copy + Default + Send + Sync {
    /// Of an encoded value.
    fn of(value: f32) -> Self;
    /// As an encoded value.
    fn value(self) -> f32;
}

impl Code for u8 {
    fn of(value: f32) -> Self {
        (value * 255.0 + 0.5) as u8
    }

    fn value(self) -> f32 {
        f32::from(self) * (1.0 / 255.0)
    }
}

impl Code for u16 {
    fn of(value: f32) -> Self {
        (value * 65535.0 + 0.5) as u16
    }

    fn value(self) -> f32 {
        f32::from(self) * (1.0 / 65535.0)
    }
}

impl Plan {
    /// What the film gives for light on its rebate, printed as the picture is.
    fn film_tones(&self) -> Result<FilmTones, CoreError> {
        let count = 2 * TONE_STOPS as u32 + 1;
        let film = self.film();
        if film.stock.kind == StockKind::ScreenPlate {
            // a plate has no rebate: bare glass is dark
            return Ok(FilmTones { tones: (0..count).map(|k| [0.08 + 0.04 * k as f32; 3]).collect() });
        }
        let exposure = |weight: f32, k: u32| match k {
            0 => 0.0,
            k => MID_GREY * weight * libm::exp2f(k as f32 - TONE_STOPS as f32),
        };
        let weights = if film.layers() == 1 { &[1.0][..] } else { &EDGE_LIGHT[..] };
        let planes = weights.iter().map(|weight| (0..count).map(|k| exposure(*weight, k)).collect()).collect();
        let lit: Picture<LayerExposure> = Picture::from_planes(Region::whole(count, 1), planes);
        let print = self.print()?.stage().reflect(film.develop(lit), None);
        let seen: Picture<Display> = output::encode(print);
        let tone = |k: usize| [0, 1, 2].map(|channel| seen.plane(channel)[k]);
        Ok(FilmTones { tones: (0..count as usize).map(tone).collect() })
    }
}

impl Renderer {
    /// The mount of a whole picture at the scale of a request; `None` where it has none.
    pub fn mount(&self, request: &RenderRequest) -> Result<Option<Mount>, CoreError> {
        let source = &request.scaled.source;
        self.mount_of(request, [source.width(), source.height()])
    }

    /// The same for a picture that is made to a size.
    pub fn mount_of(&self, request: &RenderRequest, picture: [u32; 2]) -> Result<Option<Mount>, CoreError> {
        let values = request.development.values(request.stock);
        let settings = MountSettings::read(&values);
        if settings.kind == MountKind::None {
            return Ok(None);
        }
        let scaled = request.scaled;
        let film_tones = match settings.kind {
            MountKind::Rebate | MountKind::Holder => self.planned(request, Until::Print, Watch::NONE)?.film_tones()?,
            _ => FilmTones { tones: vec![[0.0; 3]] },
        };
        let gate = FilmSettings::read(&values).gate;
        let of = Of {
            picture,
            pitch_um: scaled.full_pitch_um(gate) * f64::from(scaled.full_width) / f64::from(picture[0]),
            gate,
            tones: &film_tones,
            edge_print: &format!("{} {}", request.stock.name(), request.stock.iso),
            seed: request.development.seed,
        };
        Ok(Mount::new(&settings, &of))
    }

    /// Puts bands of a whole picture into its mount: each band of the picture comes in with its place, and goes out
    /// with all that lies beside it; the first and the last with what lies above and below.
    pub fn mounting<T: Code>(
        &self,
        mount: Arc<Mount>,
        space: OutputSpace,
        take: &mut dyn FnMut(Vec<T>) -> Result<(), CoreError>,
    ) -> impl FnMut(Vec<T>) -> Result<(), CoreError> {
        let mut done = 0;
        let colours = space.colours();
        move |band| {
            let (inner, [width, height]) = (mount.layout.picture, mount.layout.whole);
            let rows = (band.len() / (3 * inner.width as usize)) as u32;
            let top = if done == 0 { 0 } else { inner.y + done };
            let last = done + rows >= inner.height;
            let bottom = if last { height } else { inner.y + done + rows };
            let whole = Region::new(0, top, width, bottom - top);
            let picture = Region::new(inner.x, inner.y + done, inner.width, rows);
            let mut out = vec![T::default(); 3 * whole.pixels()];
            self.pool().install(|| {
                for_parts(&mut out, 3 * width as usize * STRIP as usize, &|index, strip| {
                    let y = top + index as u32 * STRIP;
                    let high = (strip.len() / (3 * width as usize)) as u32;
                    let region = Region::new(0, y, width, high);
                    lay(strip, region, (&mount, &colours), &band, picture);
                });
            });
            done += rows;
            take(out)
        }
    }

    /// A whole picture in its mount, in 8 bits, interleaved, with its size; the picture alone where it has none.
    pub fn mounted_8_bit(&self, request: &RenderRequest, watch: Watch) -> Result<(Vec<u8>, [u32; 2]), CoreError> {
        let Some(mount) = self.mount(request)? else {
            let size = [request.region.width, request.region.height];
            return Ok((self.display_8_bit(request, watch)?, size));
        };
        let (size, mut whole) = (mount.layout.whole, Vec::new());
        let mut take = |band| {
            whole = band;
            Ok(())
        };
        self.mounting(Arc::new(mount), request.finish.space, &mut take)(self.display_8_bit(request, watch)?)?;
        Ok((whole, size))
    }
}

/// Lays a strip of the whole: the mount, and the picture where the mount does not hide it.
fn lay<T: Code>(out: &mut [T], region: Region, (mount, colours): (&Mount, &Colours), band: &[T], picture: Region) {
    let untouched = mount.layout.untouched();
    for (y, row) in (region.y..).zip(out.chunks_exact_mut(3 * region.width as usize)) {
        let seen = (y >= picture.y && y < picture.bottom()).then(|| {
            let start = 3 * (y - picture.y) as usize * picture.width as usize;
            &band[start..start + 3 * picture.width as usize]
        });
        let kept = untouched.filter(|r| seen.is_some() && y >= r.y && y < r.bottom());
        let kept = kept.map_or(picture.x..picture.x, |r| r.x..r.right());
        if let Some(line) = seen {
            let [start, end] = [kept.start, kept.end].map(|x| 3 * (x - picture.x) as usize);
            row[3 * kept.start as usize..3 * kept.end as usize].copy_from_slice(&line[start..end]);
        }
        for x in (0..kept.start).chain(kept.end..region.width) {
            let pixel = &mut row[3 * x as usize..3 * x as usize + 3];
            let inside = x >= picture.x && x < picture.right();
            let under = seen.filter(|_| inside).map(|line| &line[3 * (x - picture.x) as usize..][..3]);
            let (colour, cover) = mount.at(x, y);
            let colour = colours.of(colour);
            match under {
                Some(under) if cover == 0.0 => pixel.copy_from_slice(under),
                Some(under) => {
                    for k in 0..3 {
                        let v = under[k].value();
                        pixel[k] = T::of(v + cover * (colour[k] - v));
                    }
                }
                None => (0..3).for_each(|k| pixel[k] = T::of(colour[k])),
            }
        }
    }
}
