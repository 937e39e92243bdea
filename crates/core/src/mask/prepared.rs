//! A mask ready to be read over any region of a frame at any scale.

use std::sync::Arc;

use super::places::Places;
use super::{Join, Key, Mask, MaskUse, Shape, Stroke, brush, grown, key_of, outline, range};
use crate::cache::Cache;
use crate::picture::framing::Framing;
use crate::picture::guided::LocalLines;
use crate::picture::{Plane, Region, Source};

/// What is drawn or grown once over the original picture.
pub(crate) enum Drawn {
    Strokes(Plane),
    Lines(LocalLines),
    /// A whole mask, blurred.
    Feathered(Plane),
}

impl Drawn {
    fn bytes(&self) -> usize {
        match self {
            Self::Strokes(plane) | Self::Feathered(plane) => plane.values.len() * size_of::<f32>(),
            Self::Lines(lines) => lines.bytes(),
        }
    }
}

/// Drawn masks, kept while there is room.
pub struct MaskCache(Cache<(Key, Key), Drawn>);

enum Ready {
    Drawn(Arc<Drawn>),
    Computed(Shape),
}

/// A mask of a picture.
pub struct PreparedMask {
    parts: Vec<(Join, Ready)>,
    inverted: bool,
    feathered: Option<Arc<Drawn>>,
    framing: Option<Framing>,
    /// Width over height of the original.
    aspect: f64,
}

/// The original picture, small, as masks look at it.
pub(crate) struct Original<'a> {
    pub small: &'a Source,
    pub content: Key,
    pub framing: Option<&'a Framing>,
}

impl MaskCache {
    /// Keeps drawn masks within so many bytes.
    pub fn new(budget: usize) -> Self {
        Self(Cache::new(budget))
    }

    fn kept(&self, original: &Original, key: Key, make: impl FnOnce() -> Drawn) -> Arc<Drawn> {
        self.0.get_or_always_make((original.content, key), || {
            let drawn = make();
            let bytes = drawn.bytes();
            (drawn, bytes)
        })
    }

    /// Strokes over the small picture. All but the last are kept too: the next stroke costs only itself.
    fn strokes(&self, original: &Original, strokes: &[Stroke]) -> Arc<Drawn> {
        self.kept(original, key_of(&("strokes", strokes)), || {
            let (width, height) = (original.small.width() as usize, original.small.height() as usize);
            let Some((last, before)) = strokes.split_last() else {
                return Drawn::Strokes(Plane { width, height, values: vec![0.0; width * height] });
            };
            let found = self.0.get(&(original.content, key_of(&("strokes", before))));
            let mut plane = match found.as_deref() {
                Some(Drawn::Strokes(plane)) => plane.clone(),
                _ => {
                    let mut plane = Plane { width, height, values: vec![0.0; width * height] };
                    before.iter().for_each(|stroke| brush::lay(&mut plane, stroke));
                    let bytes = plane.values.len() * size_of::<f32>();
                    let kept = Arc::new(Drawn::Strokes(plane.clone()));
                    self.0.put((original.content, key_of(&("strokes", before))), kept, bytes);
                    plane
                }
            };
            brush::lay(&mut plane, last);
            Drawn::Strokes(plane)
        })
    }

    /// Prepares a mask for a picture.
    pub(crate) fn prepare(&self, mask: &Mask, original: &Original) -> PreparedMask {
        let ready = |shape: &Shape| match shape {
            Shape::Brush { strokes } => Ready::Drawn(self.strokes(original, strokes)),
            Shape::Edge(shape) => Ready::Drawn(
                self.kept(original, key_of(&("edge", shape)), || Drawn::Lines(grown::grow(shape, original.small))),
            ),
            other => Ready::Computed(other.clone()),
        };
        let small = original.small;
        let mut prepared = PreparedMask {
            parts: mask.parts.iter().map(|p| (p.join, ready(&p.shape))).collect(),
            inverted: mask.inverted,
            feathered: None,
            framing: original.framing.copied(),
            aspect: f64::from(small.width()) / f64::from(small.height()),
        };
        if mask.feather > 0.0 {
            let (width, height) = (small.width() as usize, small.height() as usize);
            prepared.feathered = Some(self.kept(original, key_of(&("feather", mask.key())), || {
                let unframed = Places::new(None, [small.width(), small.height()], small.region());
                let values = prepared.joined(&unframed, small, small.region());
                let sigma = mask.feather * (width as f64).hypot(height as f64);
                Drawn::Feathered(Plane { width, height, values }.blurred(sigma))
            }));
        }
        prepared
    }
}

impl PreparedMask {
    /// 0 to 1 for every pixel of a region of a frame.
    pub fn over(&self, frame: &Source, region: Region) -> Vec<f32> {
        let places = Places::new(self.framing.as_ref(), [frame.width(), frame.height()], region);
        match self.feathered.as_deref() {
            Some(Drawn::Feathered(plane)) => places.read(plane),
            _ => self.joined(&places, frame, region),
        }
    }

    fn joined(&self, places: &Places, frame: &Source, region: Region) -> Vec<f32> {
        let mut out = vec![0.0f32; region.pixels()];
        for (join, part) in &self.parts {
            let values = match part {
                Ready::Drawn(drawn) => match drawn.as_ref() {
                    Drawn::Strokes(plane) | Drawn::Feathered(plane) => places.read(plane),
                    Drawn::Lines(lines) => {
                        let mut values = places.read(lines.slope());
                        let guide = grown::guide(frame, region);
                        for ((v, offset), g) in values.iter_mut().zip(places.read(lines.offset())).zip(guide) {
                            *v = (*v * g + offset).clamp(0.0, 1.0);
                        }
                        values
                    }
                },
                Ready::Computed(Shape::Ellipse(oval)) => outline::ellipse(oval, self.aspect, places),
                Ready::Computed(Shape::Linear(ramp)) => outline::linear(ramp, self.aspect, places),
                Ready::Computed(Shape::Hue(range)) => range::hue(range, frame, region),
                Ready::Computed(Shape::Tone(range)) => range::tone(range, frame, region),
                // drawn above
                Ready::Computed(Shape::Brush { .. } | Shape::Edge(_)) => continue,
            };
            let both = out.iter_mut().zip(&values);
            match join {
                Join::Add => both.for_each(|(a, b)| *a += b - *a * b),
                Join::Subtract => both.for_each(|(a, b)| *a *= 1.0 - b),
                Join::Intersect => both.for_each(|(a, b)| *a *= b),
            }
        }
        if self.inverted {
            out.iter_mut().for_each(|v| *v = 1.0 - *v);
        }
        out
    }
}

/// A prepared mask as a control uses it.
#[derive(Clone)]
pub struct PreparedUse {
    asked: MaskUse,
    mask: Arc<PreparedMask>,
}

impl PreparedUse {
    pub(crate) fn new(asked: &MaskUse, mask: Arc<PreparedMask>) -> Self {
        Self { asked: asked.clone(), mask }
    }

    /// 0 to 1 for every pixel of a region of a frame.
    pub fn over(&self, frame: &Source, region: Region) -> Vec<f32> {
        let mut values = self.mask.over(frame, region);
        if self.asked.outside {
            values.iter_mut().for_each(|v| *v = 1.0 - *v);
        }
        values
    }
}

/// As what was asked for: it joins keys.
impl std::fmt::Debug for PreparedUse {
    fn fmt(&self, f: &mut std::fmt::Formatter) -> std::fmt::Result {
        self.asked.fmt(f)
    }
}
