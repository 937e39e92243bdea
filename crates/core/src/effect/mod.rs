//! One shape for effects: prepared, with a key of all that it depends on, the pixels that it reaches, and one `apply`.
//!
//! A station lists its effects in the order in which they act, on the quantity on which they act. Whoever walks a list
//! asks for as much more around a region as the effects that follow reach; so a region is a crop of the whole.

mod finishing;

use std::convert::Infallible;
use std::sync::Arc;

pub use finishing::Finishing;

use crate::key::{Key, key};
use crate::picture::buffer::Quantity;
use crate::picture::{FilmGeometry, Picture, Region, Source};

/// The frame that a rectangle belongs to, at the scale at which it is rendered.
#[derive(Debug, Clone, Copy)]
pub struct FilmFrame<'a> {
    /// The decoded picture.
    pub source: &'a Source,
    /// Micrometres on the film per pixel.
    pub pitch_um: f64,
    /// Where in the film's format the picture's corner lies, in pixels.
    pub corner: [u32; 2],
}

impl<'a> FilmFrame<'a> {
    /// A frame that fills its format's width of `width_um`.
    pub fn filling(source: &'a Source, width_um: f64) -> Self {
        Self { source, pitch_um: width_um / f64::from(source.width()), corner: [0; 2] }
    }

    /// Width and height in pixels.
    pub fn size(&self) -> [u32; 2] {
        [self.source.width(), self.source.height()]
    }

    /// All of it.
    pub fn region(&self) -> Region {
        self.source.region()
    }

    /// Its lengths on the film.
    pub fn geometry(&self) -> FilmGeometry {
        let [width, height] = self.size();
        FilmGeometry { pitch_um: self.pitch_um, width, height }
    }
}

/// Something that changes a quantity. It is prepared from settings and knows nothing of its neighbours; what is neutral
/// is not made at all.
pub trait Effect<Q: Quantity>: Send + Sync {
    /// Names everything that its result depends on beside the frame and the quantity that comes in.
    fn key(&self) -> Key;

    /// Pixels beyond a region that count.
    fn reach(&self, _frame: &FilmFrame) -> u32 {
        0
    }

    /// The changed `part`. What comes in reaches further by [`Effect::reach`], or to the frame's edge.
    fn apply(&self, frame: &FilmFrame, padded: Picture<Q>, part: Region) -> Picture<Q>;
}

/// Effects in the order in which they act.
pub struct Effects<Q> {
    list: Vec<Arc<dyn Effect<Q>>>,
}

impl<Q> Clone for Effects<Q> {
    fn clone(&self) -> Self {
        Self { list: self.list.clone() }
    }
}

impl<Q> Default for Effects<Q> {
    fn default() -> Self {
        Self { list: Vec::new() }
    }
}

impl<Q: Quantity> Effects<Q> {
    /// Follows the others; what is neutral does not join.
    pub fn push<E: Effect<Q> + 'static>(&mut self, effect: Option<E>) {
        self.share(effect.map(Arc::new));
    }

    /// The same of what others hold too.
    pub fn share<E: Effect<Q> + 'static>(&mut self, effect: Option<Arc<E>>) {
        self.list.extend(effect.map(|effect| effect as Arc<dyn Effect<Q>>));
    }

    /// Whether none has joined.
    pub fn is_empty(&self) -> bool {
        self.list.is_empty()
    }

    /// How many have joined.
    pub fn len(&self) -> usize {
        self.list.len()
    }

    /// Those that act after the first few.
    pub fn after(&self, first: usize) -> Self {
        Self { list: self.list[first.min(self.list.len())..].to_vec() }
    }

    /// Those that look at nothing but the pixel.
    pub fn without_reach(&self, frame: &FilmFrame) -> Self {
        Self { list: self.list.iter().filter(|effect| effect.reach(frame) == 0).cloned().collect() }
    }

    /// Names all of them, in their order.
    pub fn key(&self) -> Key {
        let keys: Vec<Key> = self.list.iter().map(|effect| effect.key()).collect();
        key(&[&"effects", &keys])
    }

    /// A region of the changed quantity; `first` gives any rectangle of what comes in.
    pub fn over(&self, frame: &FilmFrame, region: Region, first: impl Fn(Region) -> Picture<Q>) -> Picture<Q> {
        let Ok(made) = self.try_over(frame, region, &|region| Ok::<_, Infallible>(first(region)));
        made
    }

    /// The same where what comes in may fail.
    pub fn try_over<E>(
        &self,
        frame: &FilmFrame,
        region: Region,
        first: &dyn Fn(Region) -> Result<Picture<Q>, E>,
    ) -> Result<Picture<Q>, E> {
        walked(&self.list, frame, region, first)
    }
}

/// The last asks the ones before for as much more as it reaches.
fn walked<Q: Quantity, E>(
    effects: &[Arc<dyn Effect<Q>>],
    frame: &FilmFrame,
    region: Region,
    first: &dyn Fn(Region) -> Result<Picture<Q>, E>,
) -> Result<Picture<Q>, E> {
    let Some((last, before)) = effects.split_last() else { return first(region) };
    let padded = walked(before, frame, region.grown(last.reach(frame), &frame.region()), first)?;
    Ok(last.apply(frame, padded, region))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture::buffer::SceneLight;

    /// Adds the pixel `far` to the right to every pixel.
    struct FromTheRight {
        far: u32,
    }

    impl Effect<SceneLight> for FromTheRight {
        fn key(&self) -> Key {
            key(&[&"from the right", &self.far])
        }

        fn reach(&self, _frame: &FilmFrame) -> u32 {
            self.far
        }

        fn apply(&self, _frame: &FilmFrame, padded: Picture<SceneLight>, part: Region) -> Picture<SceneLight> {
            let mut out = padded.cut(part);
            let from = padded.region;
            for (i, v) in out.plane_mut(0).iter_mut().enumerate() {
                let (x, y) = (part.x + i as u32 % part.width, part.y + i as u32 / part.width);
                let x = (x + self.far).min(from.right() - 1);
                *v += padded.plane(0)[((y - from.y) * from.width + x - from.x) as usize];
            }
            out
        }
    }

    #[test]
    fn a_list_is_padded_by_all_that_follows() {
        let source = Source::from_linear_srgb(40, 10, |_, _| [0.5; 3]);
        let frame = FilmFrame::filling(&source, 36_000.0);
        let mut effects = Effects::default();
        effects.push(Some(FromTheRight { far: 3 }));
        effects.push(None::<FromTheRight>);
        effects.push(Some(FromTheRight { far: 5 }));
        let first = |region: Region| {
            let at = |i: usize| ((region.x + i as u32 % region.width) * 7919 % 101) as f32;
            Picture::from_planes(region, vec![(0..region.pixels()).map(at).collect()])
        };
        let whole = effects.over(&frame, frame.region(), first);
        for part in [Region::new(0, 0, 9, 4), Region::new(17, 3, 6, 6), Region::new(33, 8, 7, 2)] {
            assert_eq!(effects.over(&frame, part, first).plane(0), whole.cut(part).plane(0), "{part:?}");
        }
        let mut turned = Effects::default();
        turned.push(Some(FromTheRight { far: 5 }));
        turned.push(Some(FromTheRight { far: 3 }));
        assert_ne!(turned.key(), effects.key(), "the order counts");
    }
}
