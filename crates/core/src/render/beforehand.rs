//! Tables made before there is a picture: while its file is still being decoded.

use super::renderer::Renderer;
use super::tables::FilmTables;
use crate::development::Development;
use crate::error::CoreError;
use crate::picture::FilmGeometry;
use crate::picture::framing::Framing;
use crate::stations::bath::BathSettings;
use crate::stations::film::{FilmKeys, FilmSettings};
use crate::stations::lens::LensSettings;
use crate::stations::print::{PrintSettings, printing};
use crate::stations::tone::ToneSettings;
use crate::stations::years::YearsSettings;
use crate::stock::Stock;

impl Renderer {
    /// Makes the tables that a picture of a size will need, grain and all, where it leaves as wide as `width` makes of
    /// its framed size. To be called from a thread that is none of the renderer's own.
    pub fn make_tables(
        &self,
        stock: &Stock,
        development: &Development,
        full: [u32; 2],
        width: impl Fn([u32; 2]) -> u32,
    ) -> Result<(), CoreError> {
        let values = development.values(stock);
        let (film, bath) = (FilmSettings::read(&values), BathSettings::read(&values));
        let keys = FilmKeys::new(stock, &film, &bath);
        let tables = FilmTables { film: &film, bath: &bath, keys: &keys, keeping: self.keeping(false) };
        let response = tables.response(stock)?;

        let framing = LensSettings::framing(&values);
        let (on_film, framed) = match Framing::new(&framing, full[0], full[1]) {
            _ if framing.is_none() => (full, full),
            framing => (framing.film, [framing.width, framing.height]),
        };
        let full_pitch_um = FilmGeometry::filling(film.gate, on_film[0], on_film[1]).pitch_um;
        let pitch_um = full_pitch_um * f64::from(framed[0]) / f64::from(width(framed).max(1));
        tables.grain(&response, development.seed, pitch_um)?;
        let printed = tables.printed(&response, full_pitch_um, Some(Some(pitch_um)))?;
        let (tone, years) = (ToneSettings::read(&values), YearsSettings::read(&values));
        printing::tables(&PrintSettings::of(&values, &tone, &years), &printed, self.keeping(false)).map(drop)
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
    use crate::stations::film::grain::{GrainStage, UnresolvedGrain};
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
        renderer.make_tables(&stock, &development, [240, 160], |[width, _]| width / 2).unwrap();
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
}
