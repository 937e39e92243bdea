//! What is made before there is a picture: while its file is still being decoded.

use std::sync::{Arc, PoisonError, Weak};

use super::plan::TILE;
use super::renderer::Renderer;
use super::tables::FilmTables;
use crate::development::Development;
use crate::error::CoreError;
use crate::picture::framing::Framing;
use crate::picture::{FilmGeometry, Region};
use crate::stations::bath::BathSettings;
use crate::stations::film::grain::GrainStage;
use crate::stations::film::{FilmKeys, FilmSettings};
use crate::stations::lens::LensSettings;
use crate::stations::print::{PrintSettings, printing};
use crate::stations::tone::ToneSettings;
use crate::stations::years::YearsSettings;
use crate::stock::Stock;

impl Renderer {
    /// Makes the tables that a picture of a size will need, where it leaves as large as `size` makes of its framed
    /// size; then, as long as it may go on, the grain of its first tiles, which the next render of it takes. To be
    /// called from a thread that is none of the renderer's own.
    pub fn make_beforehand(
        &self,
        stock: &Stock,
        development: &Development,
        full: [u32; 2],
        size: impl Fn([u32; 2]) -> [u32; 2],
        go_on: &dyn Fn() -> bool,
    ) -> Result<(), CoreError> {
        let values = development.values(stock);
        let (film, bath) = (FilmSettings::read(&values), BathSettings::read(&values));
        let keys = FilmKeys::new(stock, &film, &bath);
        let tables = FilmTables { film: &film, bath: &bath, keys: &keys, keeping: self.keeping(false) };
        let response = tables.response(stock)?;

        let framing = LensSettings::framing(&values);
        let (on_film, framed, corner) = match Framing::new(&framing, full[0], full[1]) {
            _ if framing.is_none() => (full, full, [0; 2]),
            framing => (framing.film, [framing.width, framing.height], framing.corner),
        };
        let full_pitch_um = FilmGeometry::filling(film.gate, on_film[0], on_film[1]).pitch_um;
        let leaving = size(framed).map(|side| side.max(1));
        let smaller = f64::from(framed[0]) / f64::from(leaving[0]);
        let pitch_um = full_pitch_um * smaller;
        let grain = tables.grain(&response, development.seed, pitch_um)?;
        let printed = tables.printed(&response, full_pitch_um, Some(Some(pitch_um)))?;
        let (tone, years) = (ToneSettings::read(&values), YearsSettings::read(&values));
        printing::tables(&PrintSettings::of(&values, &tone, &years), &printed, self.keeping(false))?;
        if let Some(grain) = grain {
            self.hold_ahead(Arc::downgrade(&grain));
            let corner = corner.map(|v| (f64::from(v) / smaller).round() as u32);
            let whole = Region::whole(leaving[0], leaving[1]);
            let on_film = |cell: Region| Region { x: cell.x + corner[0], y: cell.y + corner[1], ..cell };
            grain.make_ahead(whole.cells(TILE, &whole).into_iter().map(on_film), go_on);
        }
        Ok(())
    }

    /// Lets go of grain that was made ahead and that no render took.
    pub fn let_go_ahead(&self) {
        self.hold_ahead(Weak::new());
    }

    /// Fields of one grain are held at a time: those of the last one are let go.
    fn hold_ahead(&self, grain: Weak<GrainStage>) {
        let mut held = self.kept.ahead.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(last) = std::mem::replace(&mut *held, grain).upgrade() {
            last.let_go();
        }
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::controls::Value;
    use crate::picture::Source;
    use crate::render::{RenderRequest, Scaled, Watch};
    use crate::stations::film::FilmResponse;
    use crate::stations::film::grain::UnresolvedGrain;
    use crate::stations::print::PrintStage;
    use crate::stock::Catalogue;

    /// What was made beforehand is what the render asks for, framed and made smaller.
    #[test]
    fn a_render_finds_its_tables() {
        let source = Arc::new(Source::from_linear_srgb(240, 160, |x, y| [f64::from(x + y) / 500.0; 3]));
        let stock = Catalogue::first();
        let mut development = Development::new(&stock);
        development.set(&stock, "lens.format", Value::Choice("1x1".into())).unwrap();
        let pool = Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap());
        let renderer = Renderer::new(pool, 0);
        let halved = |[width, height]: [u32; 2]| [width / 2, height / 2];
        renderer.make_beforehand(&stock, &development, [240, 160], halved, &|| false).unwrap();
        let kept = || {
            let shelf = renderer.keeping(false).shelf;
            [
                shelf.bytes_of::<FilmResponse>(),
                shelf.bytes_of::<GrainStage>(),
                shelf.bytes_of::<Option<UnresolvedGrain>>(),
                shelf.bytes_of::<PrintStage>(),
            ]
        };
        let before = kept();
        assert!(!before.contains(&0), "{before:?}");
        let full = Scaled::full(source, "tables").for_development(&development, &stock, &|| false).unwrap();
        let scaled = full.reduced(full.full_width / 2, full.full_height / 2);
        let request = RenderRequest::whole(&scaled, &stock, &development);
        renderer.display_8_bit(&request, Watch::NONE).unwrap();
        assert_eq!(before, kept());
    }

    /// Grain that was made ahead is that of the render, under the enlarger too; what nobody takes is let go.
    #[test]
    fn grain_made_ahead_is_the_same_and_is_taken() {
        let source = Arc::new(Source::from_linear_srgb(700, 300, |x, y| [f64::from(x + y) / 1500.0; 3]));
        let stock = Catalogue::first();
        let mut development = Development::new(&stock);
        development.set(&stock, "lens.crop.size", Value::Number(80.0)).unwrap();
        let renderer = || Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap()), 0);
        let scaled = Scaled::full(source, "ahead").for_development(&development, &stock, &|| false).unwrap();
        let request = RenderRequest::whole(&scaled, &stock, &development);
        let plain = renderer().display_8_bit(&request, Watch::NONE).unwrap();
        let renderer = renderer();
        let left = || renderer.kept.ahead.lock().unwrap().upgrade().map(|grain| grain.fields_ahead());
        renderer.make_beforehand(&stock, &development, [700, 300], |framed| framed, &|| true).unwrap();
        assert!(left().unwrap() >= 3, "{:?}", left());
        assert!(plain == renderer.display_8_bit(&request, Watch::NONE).unwrap());
        assert_eq!(left(), Some(0));
        renderer.make_beforehand(&stock, &development, [700, 300], |framed| framed, &|| true).unwrap();
        let grain = renderer.kept.ahead.lock().unwrap().upgrade().unwrap();
        renderer.let_go_ahead();
        assert_eq!((grain.fields_ahead(), left()), (0, None));
    }
}
