//! The exact way from the film's densities to a picture: no table.

use super::bend::Bend;
use super::colour_print::ColourPrint;
use super::enlarger::Enlarger;
use super::finish::Finish;
use super::graded_print::{SilverMaterial, SilverPicture};
use super::paper::{clear_silver_film, colour_paper, silver_paper};
use super::plate::PlatePicture;
use super::scan::Scan;
use super::screen::ScreenPlate;
use super::settings::{FinishedSettings, PaperChoice, PrintSettings, View};
use super::transparency::DyePicture;
use super::viewing::Row;
use crate::colour::gamut;
use crate::controls::Values;
use crate::error::CoreError;
use crate::numeric::log_exp::transmittance;
use crate::numeric::runs::each_pixel;
use crate::stations::film::FilmResponse;
use crate::stations::print::colour_print::SKIPPED_SILVER;
use crate::stations::scene::decoding::Decoding;
use crate::stations::tone::{ToneSettings, Toning};
use crate::stations::years::YearsSettings;
use crate::stock::StockKind;

/// The colour paper of a film that names none, and the print film of positives on clear film.
const OWN_PAPER: &str = "gloss-paper";
const PRINT_FILM: &str = "cine-print";
/// Highlight headroom that a scan takes back.
const SCAN_HEADROOM_STOPS: f64 = 1.0;

/// How a developed film is looked at.
#[derive(Debug, Clone)]
enum Way {
    Print(ColourPrint),
    Slide(DyePicture),
    Silver(SilverPicture),
    Plate(PlatePicture),
    Scan(Scan),
    Screen(ScreenPlate),
}

/// A way of looking, with what is done to the print point by point.
#[derive(Debug, Clone)]
pub struct Viewing {
    way: Way,
    finish: Finish,
    bend: Option<Bend>,
    /// Silver left in a picture that is itself looked at: density per mean density above `fog`.
    silver: f32,
    fog: [f32; 3],
}

/// A negative is printed; everything else is itself the picture.
fn natural_view(kind: StockKind) -> View {
    match kind {
        StockKind::ColourNegative | StockKind::BlackAndWhiteNegative => View::Print,
        _ => View::Transparency,
    }
}

impl PrintSettings {
    fn log_exposure(&self) -> f64 {
        2f64.log10() * self.exposure_stops
    }

    fn enlarger(&self) -> Enlarger {
        Enlarger {
            log_exposure: self.log_exposure(),
            filtration_cc: self.filtration_cc,
            keep_brightness: self.keep_brightness,
            contrast: self.contrast,
        }
    }

    fn toning(&self) -> Option<Toning> {
        Toning::new(&self.baths, self.losses.sulphide)
    }
}

/// A print of dyes; `None` where it names a material that is not there.
fn on_paper(film: &FilmResponse, settings: &PrintSettings, choice: &PaperChoice) -> Option<ColourPrint> {
    let paper = colour_paper(&film.stock, OWN_PAPER, choice, &settings.finish)?;
    ColourPrint::new(film, &paper, &settings.enlarger(), &settings.losses)
}

/// A print of a historic process.
fn in_contact(film: &FilmResponse, settings: &PrintSettings) -> Option<SilverPicture> {
    let process = film.stock.process.as_ref()?;
    // a process's own image keeps its kind; only what a bath turns is silver's
    let toning = Toning::new(&settings.baths, 0.0);
    let material = SilverMaterial::process(&film.stock, process, settings.pigment, toning, &settings.losses);
    let (black, contrast) = (settings.finish.black_density, settings.contrast);
    Some(SilverPicture::contact(film, process, black, contrast, &material, settings.log_exposure()))
}

impl Viewing {
    /// The finished print of a development, bent too.
    pub fn of(film: &FilmResponse, values: &Values) -> Result<Self, CoreError> {
        let (tone, years) = (ToneSettings::read(values), YearsSettings::read(values));
        let print = Self::new(film, &PrintSettings::of(values, &tone, &years))?;
        let bend = Bend::new(&FinishedSettings::read(values).curves, &tone);
        Ok(Self { bend, ..print })
    }

    /// The print as its table holds it: before curves, colours of tones and wash.
    pub fn new(film: &FilmResponse, settings: &PrintSettings) -> Result<Self, CoreError> {
        let stock = &film.stock;
        let way = Self::way(film, settings).ok_or_else(|| CoreError::StockFile {
            why: format!("'{}' names a material that is not there", stock.id),
        })?;
        let itself = matches!(way, Way::Slide(_));
        let on_paper = matches!(stock.kind, StockKind::BlackAndWhiteNegative | StockKind::ContactPrint);
        let printed = matches!(way, Way::Print(_)) || matches!(way, Way::Silver(_)) && on_paper;
        Ok(Self {
            way,
            finish: Finish::new(&settings.finish, !printed),
            bend: None,
            silver: if itself { (SKIPPED_SILVER * stock.skip_bleach) as f32 } else { 0.0 },
            fog: std::array::from_fn(|i| film.curves[i.min(film.layers() - 1)].shape.dmin as f32),
        })
    }

    fn way(film: &FilmResponse, settings: &PrintSettings) -> Option<Way> {
        let (stock, losses, finish) = (&film.stock, &settings.losses, &settings.finish);
        let view = match settings.view {
            View::AsMeant => natural_view(stock.kind),
            asked => asked,
        };
        match stock.kind {
            StockKind::ScreenPlate => ScreenPlate::new(film).map(Way::Screen),
            StockKind::Instant => DyePicture::of_slide(film, losses, &Enlarger::neutral()).map(Way::Slide),
            StockKind::BlackAndWhiteInstant => {
                let paper = silver_paper(stock, &settings.paper, finish)?;
                let material = SilverMaterial::silver(&paper, settings.toning(), losses);
                Some(Way::Silver(SilverPicture::instant(film, &material)))
            }
            StockKind::ContactPrint => in_contact(film, settings).map(Way::Silver),
            StockKind::Plate => Some(Way::Plate(PlatePicture::new(film, stock.plate.as_ref()?, losses))),
            _ if view == View::Scan => {
                let decoding = Decoding::new(SCAN_HEADROOM_STOPS, stock.q);
                Some(Way::Scan(Scan::new(film, decoding, settings.log_exposure(), settings.filtration_cc)))
            }
            StockKind::BlackAndWhiteNegative => {
                let paper = match view {
                    View::Transparency => clear_silver_film(stock, finish)?,
                    _ => silver_paper(stock, &settings.paper, finish)?,
                };
                let material = SilverMaterial::silver(&paper, settings.toning(), losses);
                let print = SilverPicture::print(film, &paper, &material, settings.grade, settings.log_exposure());
                Some(Way::Silver(print))
            }
            StockKind::Reversal if view == View::Transparency => {
                // a light table has no taste: only what was set beyond the stock's own filtration
                let beyond = std::array::from_fn(|k| settings.filtration_cc[k] - stock.cc[k]);
                let light = Enlarger { filtration_cc: beyond, ..settings.enlarger() };
                DyePicture::of_slide(film, losses, &light).map(Way::Slide)
            }
            StockKind::ColourNegative if view == View::Transparency => {
                let choice = PaperChoice { material: Some(PRINT_FILM.into()), ..settings.paper.clone() };
                on_paper(film, settings, &choice).map(Way::Print)
            }
            StockKind::Reversal | StockKind::ColourNegative => {
                on_paper(film, settings, &settings.paper).map(Way::Print)
            }
        }
    }

    /// Linear sRGB, unbounded, for the densities of the layers (one value counts for a single-layer film): the finished
    /// print.
    pub fn linear_srgb(&self, densities: [f32; 3]) -> [f32; 3] {
        let print = self.unbent(densities);
        self.bend.as_ref().map_or(print, |bend| bend.of(print))
    }

    /// The finished print as the display shows it: fitted into its gamut.
    pub fn shown(&self, densities: [f32; 3]) -> [f64; 3] {
        let print = self.linear_srgb(densities).map(f64::from);
        if self.bend.as_ref().is_some_and(Bend::fits) { print } else { gamut::compress(print) }
    }

    /// The print before curves, colours of tones and wash: what its table holds.
    pub fn unbent(&self, densities: [f32; 3]) -> [f32; 3] {
        let seen = match &self.way {
            Way::Print(print) => print.linear_srgb(densities),
            Way::Slide(slide) => slide.linear_srgb(densities),
            Way::Silver(print) => print.linear_srgb(densities[0] as f64).map(|v| v as f32),
            Way::Plate(plate) => plate.linear_srgb(densities[0] as f64).map(|v| v as f32),
            Way::Scan(scan) => scan.linear_srgb(densities),
            Way::Screen(plate) => plate.linear_srgb(densities, &plate.mean),
        };
        self.finish.apply(if self.silver > 0.0 { self.through_silver(seen, densities) } else { seen })
    }

    /// [`Viewing::unbent`] of a row.
    pub fn unbent_row(&self, row: &mut [Row; 3]) {
        let densities = *row;
        match &self.way {
            Way::Print(print) => print.linear_srgb_row(row),
            Way::Slide(slide) => slide.linear_srgb_row(row),
            _ => return each_pixel(row, |densities| self.unbent(densities)),
        }
        let [red, green, blue] = row;
        for (i, ((r, g), b)) in red.iter_mut().zip(green).zip(blue).enumerate() {
            let (seen, densities) = ([*r, *g, *b], [0, 1, 2].map(|k| densities[k][i]));
            let seen = if self.silver > 0.0 { self.through_silver(seen, densities) } else { seen };
            [*r, *g, *b] = self.finish.apply(seen);
        }
    }

    fn through_silver(&self, seen: [f32; 3], densities: [f32; 3]) -> [f32; 3] {
        let above: f32 = (0..3).map(|i| densities[i] - self.fog[i]).sum();
        let kept = transmittance(self.silver * above * (1.0 / 3.0));
        seen.map(|v| v * kept)
    }

    /// The plate whose mosaic has to be laid over the picture, with the finish that follows.
    pub(super) fn screen(&self) -> Option<(&ScreenPlate, &Finish)> {
        match &self.way {
            Way::Screen(plate) => Some((plate, &self.finish)),
            _ => None,
        }
    }
}
