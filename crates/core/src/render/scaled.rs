//! A picture at one render scale: its source, its size, what was measured on it, how it was framed.

use std::sync::Arc;

use crate::development::Development;
use crate::error::CoreError;
use crate::key::key;
use crate::mask::{Key as MaskKey, MaskCache, MaskUse, Original, PreparedUse};
use crate::measure::Facts;
use crate::picture::framing::{Framing, FramingSettings};
use crate::picture::{FilmGeometry, Gate, Source};
use crate::stations::lens::LensSettings;
use crate::stations::scene::SceneSettings;
use crate::stations::scene::noise::{self, NoiseSettings};
use crate::stock::Stock;

/// A source at one render scale, with the size of the full picture it was reduced from.
#[derive(Debug, Clone)]
pub struct Scaled {
    /// The pixels at this scale.
    pub source: Arc<Source>,
    /// Pixels across of the full picture.
    pub full_width: u32,
    /// Pixels down of the full picture.
    pub full_height: u32,
    /// Names the original's content; part of every key.
    pub content: Arc<str>,
    /// Measured on the full picture, at once or when it is asked for.
    pub facts: Arc<Facts>,
    /// What fills the film's gate, in full pixels.
    pub film: [u32; 2],
    /// Where in that the picture's corner lies, in full pixels.
    pub corner: [u32; 2],
    /// The picture as it came, which masks look at.
    pub(super) original: Arc<AsItCame>,
    /// How it was framed, where it was.
    pub(super) framing: Option<Framing>,
    /// What it was smoothed and framed by.
    made_by: (NoiseSettings, FramingSettings),
}

/// A picture before it was framed, small.
#[derive(Debug)]
pub(super) struct AsItCame {
    facts: Arc<Facts>,
    content: MaskKey,
}

impl Scaled {
    /// A picture at its full size, measured; `content` names it where things are kept.
    pub fn full(source: Arc<Source>, content: &str) -> Self {
        let (full, facts) = ([source.width(), source.height()], Arc::new(Facts::of(&source)));
        Self::recalled(source, full, facts, content)
    }

    /// [`Scaled::full`] for one render: measured only where the render asks for it. Holds the full picture even after
    /// it was reduced.
    pub fn unmeasured(source: Arc<Source>, content: &str) -> Self {
        let (full, facts) = ([source.width(), source.height()], Arc::new(Facts::unmeasured(&source)));
        Self::recalled(source, full, facts, content)
    }

    /// A picture at some scale, reduced and measured before, from a full one of a size.
    pub fn recalled(source: Arc<Source>, full: [u32; 2], facts: Arc<Facts>, content: &str) -> Self {
        let [full_width, full_height] = full;
        let original = Arc::new(AsItCame { facts: facts.clone(), content: key(&[&"original", &content]) });
        Self {
            source,
            full_width,
            full_height,
            content: content.into(),
            facts,
            film: [full_width, full_height],
            corner: [0, 0],
            original,
            framing: None,
            made_by: (NoiseSettings::NONE, FramingSettings::NONE),
        }
    }

    /// The same picture framed, at its own scale.
    pub fn framed(&self, settings: &FramingSettings) -> Self {
        if settings.is_none() {
            return self.clone();
        }
        let framing = Framing::new(settings, self.full_width, self.full_height);
        let scale = f64::from(self.source.width()) / f64::from(self.full_width);
        Self {
            source: Arc::new(framing.cut_at(&self.source, scale)),
            full_width: framing.width,
            full_height: framing.height,
            content: format!("{} {settings:?}", self.content).into(),
            facts: Arc::new(self.facts.framed(&framing, self.full_width)),
            film: framing.film,
            corner: framing.corner,
            original: self.original.clone(),
            framing: Some(framing),
            made_by: (self.made_by.0, *settings),
        }
    }

    /// A mask of this picture, ready to be read.
    pub(super) fn mask(&self, asked: &MaskUse, cache: &MaskCache) -> PreparedUse {
        let original = &self.original;
        let original =
            Original { small: original.facts.small(), content: original.content, framing: self.framing.as_ref() };
        PreparedUse::new(asked, Arc::new(cache.prepare(&asked.mask, &original)))
    }

    /// Micrometres on the film that a pixel of the full picture takes.
    pub fn full_pitch_um(&self, gate: Gate) -> f64 {
        FilmGeometry::filling(gate, self.film[0], self.film[1]).pitch_um
    }

    /// Where in the format the picture's corner lies, in pixels of this scale.
    pub(super) fn corner_here(&self) -> [u32; 2] {
        let scale = f64::from(self.source.width()) / f64::from(self.full_width);
        self.corner.map(|v| (f64::from(v) * scale).round() as u32)
    }

    /// The same picture with its noise smoothed. At a reduced scale that is an approximation, for a view in motion: the
    /// settled way is to smooth the full picture and reduce it then.
    pub fn smoothed(&self, settings: &NoiseSettings, abandoned: &(dyn Fn() -> bool + Sync)) -> Result<Self, CoreError> {
        if settings.is_none() {
            return Ok(self.clone());
        }
        // averaging over an area leaves less of the noise
        let scale = f64::from(self.source.width()) / f64::from(self.full_width);
        let source = noise::smoothed(&self.source, self.facts.noise(), settings, scale, abandoned);
        let source = Arc::new(source.ok_or(CoreError::Abandoned)?);
        let content = format!("{} {settings:?}", self.content).into();
        // the picture before it is let go
        let facts = Arc::new(self.facts.measured());
        Ok(Self { source, content, facts, made_by: (*settings, self.made_by.1), ..self.clone() })
    }

    /// Counts as smoothed: so small that the reduction has averaged its noise.
    pub fn too_small_for_noise(&self, settings: &NoiseSettings) -> Self {
        Self { made_by: (*settings, self.made_by.1), ..self.clone() }
    }

    /// Whether it was smoothed and framed as a development asks for.
    pub(super) fn suits(&self, development: &Development, stock: &Stock) -> bool {
        let values = development.values(stock);
        let (noise, framing) = (SceneSettings::noise(&values), LensSettings::framing(&values));
        let (smoothed, framed) = &self.made_by;
        (noise == *smoothed || noise.is_none() && smoothed.is_none())
            && (framing == *framed || framing.is_none() && framed.is_none())
    }

    /// [`Scaled::smoothed`] and [`Scaled::framed`] as a development wants it.
    pub fn for_development(
        &self,
        development: &Development,
        stock: &Stock,
        abandoned: &(dyn Fn() -> bool + Sync),
    ) -> Result<Self, CoreError> {
        let values = development.values(stock);
        let smoothed = self.smoothed(&SceneSettings::noise(&values), abandoned)?;
        Ok(smoothed.framed(&LensSettings::framing(&values)))
    }

    /// The same picture reduced to a size.
    pub fn reduced(&self, width: u32, height: u32) -> Self {
        Self { source: Arc::new(self.source.reduced(width, height)), ..self.clone() }
    }
}
