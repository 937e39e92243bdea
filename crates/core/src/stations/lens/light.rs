//! The light on its way from the scene through the lens.

use std::sync::Arc;

use crate::effect::{Effect, Effects, FilmFrame};
use crate::error::CoreError;
use crate::key::{Key, key};
use crate::memory::Memory;
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region, Source};
use crate::prepare::{Kept, Prepare};
use crate::stations::scene::SceneStage;

/// Rows of a held light that are made together.
const STRIP: u32 = 32;

/// Scene, and what has joined it so far. It gives the light of any rectangle, of the frame or of a smaller copy.
#[derive(Clone)]
pub struct Light {
    scene: SceneStage,
    scene_key: Key,
    /// Width on the film of the frame, in um.
    width_um: f64,
    effects: Effects<SceneLight>,
    held: Option<Held>,
}

/// The light of the whole of a picture, after some of the effects.
#[derive(Clone)]
struct Held {
    source: Arc<Source>,
    whole: Arc<Picture<SceneLight>>,
    /// How many effects it is after.
    joined: usize,
}

impl Kept for Picture<SceneLight> {
    fn bytes(&self) -> usize {
        Picture::bytes(self)
    }

    fn share(memory: &Memory) -> usize {
        memory.lights
    }
}

impl Light {
    /// `scene_key` names the picture and Scene's settings.
    pub fn new(scene: SceneStage, scene_key: Key, width_um: f64) -> Self {
        Self { scene, scene_key, width_um, effects: Effects::default(), held: None }
    }

    /// Follows what has joined already.
    pub fn push<E: Effect<SceneLight> + 'static>(&mut self, effect: Option<E>) {
        self.effects.push(effect);
    }

    /// Follows what has joined already, and is held by others too.
    pub fn share<E: Effect<SceneLight> + 'static>(&mut self, effect: Option<Arc<E>>) {
        self.effects.share(effect);
    }

    /// Where it comes from.
    pub fn scene(&self) -> &SceneStage {
        &self.scene
    }

    /// A frame on the film.
    pub fn frame<'a>(&self, source: &'a Source) -> FilmFrame<'a> {
        FilmFrame::filling(source, self.width_um)
    }

    /// Names the light, whatever the scale.
    pub fn key(&self) -> Key {
        key(&[&"light", &self.scene_key, &self.effects.key()])
    }

    /// Light of a rectangle of a source, which must lie inside.
    pub fn over(&self, source: &Source, region: Region) -> Picture<SceneLight> {
        let frame = self.frame(source);
        let from_scene = |region: Region| self.scene.light(source, region);
        match &self.held {
            None => self.effects.over(&frame, region, from_scene),
            Some(held) if std::ptr::eq(source, held.source.as_ref()) => {
                self.effects.after(held.joined).over(&frame, region, |region| held.whole.cut(region))
            }
            // lamps for themselves, in motion: what reaches further than a pixel would be made for each over again
            Some(_) => self.effects.without_reach(&frame).over(&frame, region, from_scene),
        }
    }

    /// Of a small picture in motion, the light of the whole as it is so far is made here, once, for all that asks for
    /// it: what blooms, blurs and halation are made of, and the tiles. What joins later goes on from it.
    pub fn hold(&mut self, prepare: &Prepare) -> Result<(), CoreError> {
        let is_held = self.held.as_ref().is_some_and(|held| held.joined == self.effects.len());
        if is_held || !prepare.is_small_in_motion() {
            return Ok(());
        }
        let source = prepare.source;
        let whole_key = key(&[&"held", &self.key(), &prepare.size(), &self.width_um]);
        let make = || Ok(Picture::by_strips(source.region(), STRIP, |strip| self.over(source, strip)));
        let whole = prepare.kept(whole_key, make)?;
        self.held = Some(Held { source: source.clone(), whole, joined: self.effects.len() });
        Ok(())
    }
}
