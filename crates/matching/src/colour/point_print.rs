//! The print of single colours: what depends on the place is left out.

use amber_core::colour::lab::{Lab, from_linear_srgb};
use amber_core::stations::bath::BathSettings;
use amber_core::stations::film::placement::MID_GREY;
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::Viewing;
use amber_core::stations::scene::{SceneSettings, SceneStage};
use amber_core::{CoreError, Development, Source, Stock};

/// A development as it acts on a colour that stands alone.
pub struct PointPrint {
    scene: SceneStage,
    film: FilmResponse,
    viewing: Viewing,
}

impl PointPrint {
    /// Prepared from all values but those that depend on the place.
    pub fn new(stock: &Stock, development: &Development) -> Result<Self, CoreError> {
        let values = development.values(stock);
        let film = FilmResponse::new(stock, &FilmSettings::read(&values), &BathSettings::read(&values));
        let viewing = Viewing::of(&film, &values)?;
        let settings = SceneSettings { locals: Vec::new(), ..SceneSettings::read(&values) };
        Ok(Self { scene: SceneStage::unmeasured(&settings), film, viewing })
    }

    /// The film.
    pub fn film(&self) -> &FilmResponse {
        &self.film
    }

    /// Linear sRGB as it is shown, of every pixel of a source.
    pub fn linear_srgb(&self, colours: &Source) -> Vec<[f64; 3]> {
        let light = self.scene.light(colours, colours.region());
        let gain = self.scene.exposure_stops().exp2() as f32;
        let density = self.film.develop(self.film.expose(light, gain));
        let last = density.plane_count() - 1;
        let planes = [0, 1, 2].map(|k: usize| density.plane(k.min(last)));
        (0..planes[0].len()).map(|i| self.viewing.shown(planes.map(|p| p[i]))).collect()
    }

    /// CIE Lab (D50) of every pixel of a source.
    pub fn lab(&self, colours: &Source) -> Vec<Lab> {
        self.linear_srgb(colours).into_iter().map(from_linear_srgb).collect()
    }
}

impl PointPrint {
    /// CIE Lab of the print of a grey by its light at the film (mid grey is 0.18), whatever Scene does.
    pub fn grey(&self, light: f64) -> Lab {
        let exposure = self.film.grey + (light / MID_GREY).log10();
        let last = self.film.layers() - 1;
        let density = |k: usize| self.film.curves[k.min(last)].density(exposure) as f32;
        from_linear_srgb(self.viewing.shown([density(0), density(1), density(2)]))
    }
}
