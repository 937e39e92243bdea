//! The light on its way from the scene through the lens.

use std::sync::Arc;

use crate::effect::{Effect, Effects, FilmFrame};
use crate::key::{Key, key};
use crate::picture::buffer::SceneLight;
use crate::picture::{Picture, Region, Source};
use crate::stations::scene::SceneStage;

/// Scene, and what has joined it so far. It gives the light of any rectangle, of the frame or of a smaller copy.
#[derive(Clone)]
pub struct Light {
    scene: SceneStage,
    scene_key: Key,
    /// Width on the film of the frame, in um.
    width_um: f64,
    effects: Effects<SceneLight>,
}

impl Light {
    /// `scene_key` names the picture and Scene's settings.
    pub fn new(scene: SceneStage, scene_key: Key, width_um: f64) -> Self {
        Self { scene, scene_key, width_um, effects: Effects::default() }
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
        self.effects.over(&self.frame(source), region, |region| self.scene.light(source, region))
    }
}
