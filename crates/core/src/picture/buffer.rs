//! Pixel buffers that say what their numbers are.
//!
//! Light, density and reflectance are different types: a function that wants density cannot be handed light.
//! Planes lie apart (all of red, then all of green), so that loops over one plane vectorise.

use std::marker::PhantomData;

use super::Region;
use crate::numeric::parallel::made_of;

/// What the numbers of a buffer mean.
pub trait Quantity: Copy + Send + Sync + 'static {
    /// The quantity's name as the command line and the docs write it.
    const NAME: &'static str;
}

macro_rules! quantities {
    ($($(#[$doc:meta])* $name:ident = $text:literal;)*) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, Copy)]
        pub struct $name;
        impl Quantity for $name {
            const NAME: &'static str = $text;
        }
    )*};
}

quantities! {
    /// Linear scene light in the working space, mid grey at 0.18, unbounded above.
    SceneLight = "scene.light";
    /// Linear exposure of each layer relative to mid grey at 0.18; one plane per layer.
    LayerExposure = "film.exposure";
    /// Density (log10) of each developed layer, above no base; one plane per layer.
    LayerDensity = "bath.density";
    /// Linear reflectance of the print, or transmittance of the transparency, as linear working-space RGB, white = 1.
    Reflectance = "print.reflectance";
    /// Display-encoded sRGB, 0..1.
    Display = "output";
}

/// A rectangle of pixels of one quantity, in one or three planes.
#[derive(Debug, Clone)]
pub struct Picture<Q: Quantity> {
    /// Where it lies in the frame.
    pub region: Region,
    planes: Vec<Vec<f32>>,
    quantity: PhantomData<Q>,
}

impl<Q: Quantity> Picture<Q> {
    /// A buffer of zeros.
    pub fn new(region: Region, planes: usize) -> Self {
        Self::from_planes(region, vec![vec![0.0; region.pixels()]; planes])
    }

    /// Takes planes of `region.pixels()` values each.
    pub fn from_planes(region: Region, planes: Vec<Vec<f32>>) -> Self {
        debug_assert!(planes.iter().all(|p| p.len() == region.pixels()));
        Self { region, planes, quantity: PhantomData }
    }

    /// 1 for a single layer, 3 for colour.
    pub fn plane_count(&self) -> usize {
        self.planes.len()
    }

    /// One plane, row by row.
    pub fn plane(&self, index: usize) -> &[f32] {
        &self.planes[index]
    }

    /// One plane, to be changed.
    pub fn plane_mut(&mut self, index: usize) -> &mut [f32] {
        &mut self.planes[index]
    }

    /// All planes.
    pub fn planes(&self) -> &[Vec<f32>] {
        &self.planes
    }

    /// The three planes of a colour buffer; `None` for a single layer.
    pub fn three_mut(&mut self) -> Option<[&mut [f32]; 3]> {
        match self.planes.as_mut_slice() {
            [r, g, b] => Some([r, g, b]),
            _ => None,
        }
    }

    /// The same memory as another quantity: for a stage that has just turned the numbers into that quantity.
    pub(crate) fn into_quantity<R: Quantity>(self) -> Picture<R> {
        Picture { region: self.region, planes: self.planes, quantity: PhantomData }
    }

    /// Copies the part that `part` covers; `part` must lie inside.
    pub fn cut(&self, part: Region) -> Picture<Q> {
        let mut out = Picture::new(part, self.planes.len());
        out.paste(self);
        out
    }

    /// The part alone: itself where that is all of it.
    pub fn into_part(self, part: Region) -> Picture<Q> {
        if self.region == part { self } else { self.cut(part) }
    }

    /// Copies from `other` wherever the two overlap.
    pub fn paste(&mut self, other: &Picture<Q>) {
        let Some(shared) = self.region.intersect(&other.region) else { return };
        let (to, from) = (self.region, other.region);
        for (target, source) in self.planes.iter_mut().zip(&other.planes) {
            for y in shared.y..shared.bottom() {
                let a = ((y - to.y) * to.width + shared.x - to.x) as usize;
                let b = ((y - from.y) * from.width + shared.x - from.x) as usize;
                let length = shared.width as usize;
                target[a..a + length].copy_from_slice(&source[b..b + length]);
            }
        }
    }

    /// Goes towards `other`, of the same region, by a share for every pixel.
    pub fn mix(&mut self, other: &Picture<Q>, share: &[f32]) {
        for (plane, other) in self.planes.iter_mut().zip(&other.planes) {
            plane.iter_mut().zip(other).zip(share).for_each(|((v, o), s)| *v += s * (o - *v));
        }
    }

    /// Made strip by strip of so many rows, on all threads, and put together.
    pub fn by_strips(region: Region, rows: u32, make: impl Fn(Region) -> Self + Sync + Send) -> Self {
        let strips = region.strips(rows);
        let strips = made_of(strips.len(), &|i| make(strips[i]));
        let count = strips.first().map_or(0, Self::plane_count);
        let plane = |k: usize| strips.iter().map(|strip| strip.plane(k)).collect::<Vec<_>>().concat();
        Self::from_planes(region, (0..count).map(plane).collect())
    }

    /// Bytes of the planes.
    pub fn bytes(&self) -> usize {
        self.planes.iter().map(|p| p.len() * size_of::<f32>()).sum()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn mixing_goes_by_shares() {
        let of = |v: f32| Picture::<SceneLight>::from_planes(Region::whole(3, 1), vec![vec![v; 3]; 3]);
        let mut picture = of(1.0);
        picture.mix(&of(3.0), &[0.0, 0.5, 1.0]);
        assert_eq!(picture.plane(2), &[1.0, 2.0, 3.0]);
    }

    #[test]
    fn cut_takes_the_right_pixels() {
        let region = Region::new(10, 20, 8, 6);
        let plane: Vec<f32> = (0..region.pixels()).map(|i| i as f32).collect();
        let picture: Picture<SceneLight> = Picture::from_planes(region, vec![plane]);
        let part = picture.cut(Region::new(13, 22, 2, 2));
        assert_eq!(part.plane(0), &[19.0, 20.0, 27.0, 28.0]);
    }
}
