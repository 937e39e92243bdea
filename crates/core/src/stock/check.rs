//! Checks of a stock file: every number within what the computation can bear, every name known.

use super::{Image, Plate, Process, ScreenMosaic, Stock, StockKind, material};
use crate::colour::spectrum::Peak;
use crate::error::CoreError;
use crate::text::is_plain;

type Within<'a> = dyn Fn(&str, f64, f64, f64) -> Result<(), String> + 'a;

fn count_of(field: &str, found: usize, layers: usize) -> Result<(), String> {
    if found == layers {
        Ok(())
    } else {
        Err(format!("{field} has {found} entries, but this film has {layers} layers"))
    }
}

/// Peaks [nm, width in nm, weight] of a spectrum; a negative width turns an edge round.
fn peaks_within(field: &str, peaks: &[Peak], most_weight: f64, within: &Within) -> Result<(), String> {
    for [nm, width, weight] in peaks {
        within(&format!("{field}, nm"), *nm, 300.0, 900.0)?;
        within(&format!("{field}, width in nm"), width.abs(), 1.0, 300.0)?;
        within(&format!("{field}, weight"), *weight, 0.0, most_weight)?;
    }
    Ok(())
}

impl Stock {
    /// That the computation can bear every number and knows every name.
    pub(crate) fn check(&self) -> Result<(), CoreError> {
        self.checked().map_err(|why| CoreError::StockFile { why })
    }

    fn checked(&self) -> Result<(), String> {
        let layers = self.layers();
        let within: &Within = &|field, value, low, high| {
            if value.is_finite() && (low..=high).contains(&value) {
                Ok(())
            } else {
                Err(format!("{field} is {value}, but must lie between {low} and {high}"))
            }
        };
        let count = |field: &str, found: usize| count_of(field, found, layers);
        let word = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        if self.id.is_empty() || self.id.len() > 64 || !self.id.chars().all(word) {
            return Err("id must be 1 to 64 lower-case letters, digits or hyphens".into());
        }
        within("iso", self.iso, 0.5, 25_600.0)?;
        within("balance_K", self.balance_kelvin, 2000.0, 12_000.0)?;
        if self.kind != StockKind::ScreenPlate {
            count("sens", self.sensitivity.len())?;
        }
        count("curve", self.curves.list().len())?;
        count("grain.layer_ratio", self.grain.layer_ratio.len())?;
        count("grain.diameter_ratio", self.grain.diameter_ratio.len())?;
        let text = |field: &str, value: &Option<String>, most: usize| match value {
            Some(v) if v.chars().count() > most => Err(format!("{field} is longer than {most} characters")),
            Some(v) if !v.lines().all(is_plain) || field == "name" && !is_plain(v) => {
                Err(format!("{field} has characters that cannot be seen; type it again"))
            }
            _ => Ok(()),
        };
        text("name", &self.name, 60)?;
        text("notes", &self.notes, 600)?;
        text("family", &Some(self.family.clone()), 40)?;
        self.sensitivity.iter().try_for_each(|peaks| peaks_within("sens", peaks, 100.0, within))?;
        for (i, c) in self.curves.list().iter().enumerate() {
            let at = |field: &str| format!("curve {}, {field}", i + 1);
            within(&at("dmin"), c.dmin, 0.0, 3.0)?;
            within(&at("gamma"), c.gamma, 0.05, 20.0)?;
            within(&at("toe"), c.toe, 0.01, 3.0)?;
            within(&at("shoulder"), c.shoulder, 0.01, 3.0)?;
            within(&at("dmax"), c.dmax, c.dmin + 0.2, 5.0)?;
        }
        if let Some(chart) = &self.chart {
            chart.check(layers).map_err(|why| format!("chart: {why}"))?;
        }
        within("grain.granularity", self.grain.granularity, 0.0, 50.0)?;
        within("grain.diameter_um", self.grain.diameter_um, 1.0, 25.0)?;
        within("grain.roughness", self.grain.roughness, 0.0, 1.0)?;
        within("gate_mm, long side", self.gate[0], 4.0, 400.0)?;
        within("gate_mm, short side", self.gate[1], 4.0, self.gate[0])?;
        within("aim", self.aim, 0.02, 0.9)?;
        within("q", self.q, 0.2, 2.0)?;
        within("skip_bleach", self.skip_bleach, 0.0, 1.0)?;
        self.check_numbers(within)?;
        self.check_features(within)?;
        self.check_way_to_a_picture(within)?;
        Ok(())
    }

    /// Numbers that stand alone, with the range in which the computation means something.
    fn check_numbers(&self, within: &Within) -> Result<(), String> {
        let grain = &self.grain;
        let single = [
            ("scene_K", self.scene_kelvin.unwrap_or(self.balance_kelvin), 1500.0, 25_000.0),
            ("mask", self.mask, 0.0, 1.0),
            ("base_flat", self.base_flat, 0.0, 2.0),
            ("dens", self.dens, -2.0, 2.0),
            ("ev", self.ev, -4.0, 4.0),
            ("grain.blur_um", grain.blur_um, 0.0, 20.0),
            ("grain.colour_share", grain.colour_share, 0.0, 1.0),
        ];
        for (field, value, low, high) in single {
            within(field, value, low, high)?;
        }
        let lists: [(&str, &[f64], f64, f64); 5] = [
            ("cref", &self.cref, 0.0, 5.0),
            ("cc", &self.cc, -60.0, 60.0),
            ("grain.layer_ratio", &grain.layer_ratio, 0.0, 4.0),
            ("grain.diameter_ratio", &grain.diameter_ratio, 0.2, 4.0),
            ("grain.zone_weights", &grain.zone_weights, 0.0, 2.0),
        ];
        for (field, values, low, high) in lists {
            values.iter().try_for_each(|v| within(field, *v, low, high))?;
        }
        peaks_within("base", &self.base, 3.0, within)?;
        for curve in self.curves.list() {
            within("curve, shift", curve.shift, -1.0, 1.0)?;
            within("curve, push_skew", curve.push_skew, -0.3, 0.3)?;
        }
        if let Some(viewer) = &self.viewer {
            within("viewer.share", viewer.share, 0.0, 1.0)?;
            within("viewer.gain", viewer.gain, 0.1, 4.0)?;
        }
        Ok(())
    }

    fn check_features(&self, within: &Within) -> Result<(), String> {
        count_of("halation.strength", self.halation.strength.len(), self.layers())?;
        for strength in &self.halation.strength {
            within("halation.strength", *strength, 0.0, 1.0)?;
        }
        within("halation.boost", self.halation.boost, 0.0, 40.0)?;
        for value in self.inhibition.iter().chain(&self.inhibition_high).flatten().flatten() {
            within("inhibition", *value, -3.0, 3.0)?;
        }
        if let Some(nir) = &self.nir {
            within("nir.share", nir.share, 0.0, 1.0)?;
            within("nir.slope", nir.slope, 0.0, 2.0)?;
            within("nir.min", nir.min, 0.0, nir.max)?;
            within("nir.max", nir.max, 0.1, 4.0)?;
            within("nir.leaf, start", nir.leaf[0], -1.0, 2.0)?;
            within("nir.leaf, end", nir.leaf[1], nir.leaf[0] + 0.001, 2.0)?;
            within("nir.leaf_gain", nir.leaf_gain, 0.0, 10.0)?;
        }
        if let Some(mottle) = &self.mottle {
            for amp in mottle.amp {
                within("mottle.amp", amp, 0.0, 0.2)?;
            }
            within("mottle.common", mottle.common, 0.0, 1.0)?;
            within("mottle.pitch_um", mottle.pitch_um, 50.0, 50_000.0)?;
        }
        if let Some(fade) = &self.fade {
            within("fade.years", fade.years, 0.0, 200.0)?;
        }
        if let Some(records) = &self.records
            && records.iter().any(|r| *r > 2)
        {
            return Err("records must be 0, 1 or 2 for each layer".into());
        }
        if let Some(contrast) = &self.contrast
            && contrast != "document"
        {
            return Err(format!("contrast is '{contrast}', but can only be 'document'"));
        }
        Ok(())
    }

    fn check_way_to_a_picture(&self, within: &Within) -> Result<(), String> {
        let words = self.kind.words();
        match self.kind {
            StockKind::BlackAndWhiteNegative | StockKind::BlackAndWhiteInstant => {
                let paper = self.paper.as_deref().ok_or(format!("a {words} needs `paper`"))?;
                material::graded_paper(paper).ok_or(format!("there is no paper called '{paper}'"))?;
            }
            StockKind::ColourNegative => {
                let print = self.print.as_deref().ok_or(format!("a {words} needs `print`"))?;
                material::print_material(print).ok_or(format!("there is no print material called '{print}'"))?;
            }
            StockKind::ContactPrint => {
                check_process(self.process.as_ref().ok_or("a contact print needs `process`")?, within)?;
            }
            StockKind::Plate => {
                check_plate(self.plate.as_ref().ok_or("a plate needs `plate`")?, within)?;
            }
            StockKind::Reversal | StockKind::Instant | StockKind::ScreenPlate => {
                let view = self.view.as_deref().ok_or(format!("a {words} needs `view`"))?;
                material::viewing_light(view).ok_or(format!("there is no viewing light called '{view}'"))?;
            }
        }
        if self.kind == StockKind::BlackAndWhiteNegative {
            within("grade", self.grade.ok_or("a black-and-white negative needs `grade`")?, 0.0, 5.0)?;
        }
        if self.kind.has_dyes() {
            let dyes = self.dyes.as_deref().ok_or("a colour film needs `dyes`")?;
            material::dye_set(dyes).ok_or(format!("there is no dye set called '{dyes}'"))?;
        }
        if self.kind == StockKind::ScreenPlate {
            check_screen(self.screen.as_ref().ok_or("a screen plate needs `screen`")?, within)?;
        }
        Ok(())
    }
}

/// A historic process.
fn check_process(process: &Process, within: &Within) -> Result<(), String> {
    within("process.curve, dmax", process.curve.dmax, 0.3, 4.0)?;
    within("process.curve, gamma", process.curve.gamma, 0.1, 10.0)?;
    within("process.curve, toe", process.curve.toe, 0.01, 3.0)?;
    within("process.curve, shoulder", process.curve.shoulder, 0.01, 3.0)?;
    within("process.curve, dmin", process.curve.dmin, 0.0, 0.2)?;
    process.lost_per_year.iter().try_for_each(|v| within("process.lost_per_year", *v, 0.0, 0.5))?;
    within("process.yellowing", process.yellowing, 0.0, 5.0)?;
    process.coating.iter().try_for_each(|v| within("process.coating", *v, 0.0, 1.0))?;
    if let Image::Colourant(image) = &process.image {
        within("process.image, flat", image.flat, 0.0, 3.0)?;
        peaks_within("process.image, g", &image.g, 3.0, within)?;
        peaks_within("process.image, edge", &image.edge, 3.0, within)?;
        if material::visual_density(&image.spectrum()) < 0.01 {
            return Err("process.image absorbs nothing".into());
        }
    }
    Ok(())
}

/// A wet plate.
fn check_plate(plate: &Plate, within: &Within) -> Result<(), String> {
    within("plate.grey_cover", plate.grey_cover, 0.01, 0.9)?;
    within("plate.k", plate.k, 0.1, 5.0)?;
    within("plate.r_silver", plate.r_silver, 0.01, 1.0)?;
    within("plate.r_plate", plate.r_plate, 0.0, plate.r_silver)?;
    within("plate.gain", plate.gain, 0.1, 4.0)?;
    plate.coating.iter().try_for_each(|v| within("plate.coating", *v, 0.0, 1.0))?;
    peaks_within("plate.silver_tint", &plate.silver_tint, 2.0, within)?;
    peaks_within("plate.plate_tint", &plate.plate_tint, 2.0, within)?;
    Ok(())
}

/// The filter mosaic of a screen plate.
fn check_screen(screen: &ScreenMosaic, within: &Within) -> Result<(), String> {
    within("screen.pitch_um", screen.pitch_um, 2.0, 200.0)?;
    within("screen.sample_um", screen.sample_um, 0.5, 50.0)?;
    within("screen.jitter", screen.jitter, 0.0, 1.0)?;
    within("screen.depth", screen.depth, 0.0, 1.0)?;
    within("screen.white", screen.white, 0.05, 1.0)?;
    within("screen.gap_um", screen.gap_um, 0.0, screen.pitch_um / 2.0)?;
    within("screen.gap_share", screen.gap_share, 0.0, 0.9)?;
    within("screen.gap_t", screen.gap_t, 0.0, 1.0)?;
    screen.shares.iter().try_for_each(|s| within("screen.shares", *s, 0.0, 1.0))?;
    for filter in &screen.filters {
        within("screen.filters, flat", filter.flat, 0.0, 1.0)?;
        peaks_within("screen.filters, g", &filter.g, 1.0, within)?;
        peaks_within("screen.filters, edge", &filter.edge, 1.0, within)?;
    }
    peaks_within("screen.pan", &screen.pan, 100.0, within)?;
    within("screen.shares, their sum", screen.shares.iter().sum(), 0.999, 1.001)?;
    Ok(())
}
