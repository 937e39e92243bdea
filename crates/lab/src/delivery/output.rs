//! How a finished picture is written: format, size, sharpening, colour space, and what is attached.

use amber_core::output::{OutputSpace, Sharpening};
use amber_core::render::Finish;
use amber_files::{Attached, Caption, Encoding, Kept, Metadata, Travelling};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::size::Size;
use crate::error::LabError;

/// Share of the difference that sharpening by 100 adds.
const FULL_SHARPENING: f64 = 1.5;

/// How a finished picture is written.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(default, deny_unknown_fields)]
pub struct Output {
    pub encoding: Encoding,
    pub size: Size,
    /// Sharpened for its size: 0 not at all, 100 strongly.
    pub sharpening: f64,
    pub space: OutputSpace,
    /// What is kept of the original's EXIF.
    pub exif: Kept,
    pub words: Caption,
    /// The resolution that the file states where the size is none on paper.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ppi: Option<f64>,
    /// Whether the development travels in the file.
    pub development: bool,
}

impl Default for Output {
    fn default() -> Self {
        Self {
            encoding: Encoding::default(),
            size: Size::Full,
            sharpening: 0.0,
            space: OutputSpace::Srgb,
            exif: Kept::All,
            words: Caption::default(),
            ppi: None,
            development: true,
        }
    }
}

impl Output {
    /// The same as a document reads it.
    pub fn from_json(text: &str) -> Result<Self, LabError> {
        let output: Self = serde_json::from_str(text).map_err(|e| LabError::Document { why: e.to_string() })?;
        output.check()?;
        Ok(output)
    }

    pub fn to_json(&self) -> String {
        serde_json::to_string(self).unwrap_or_default()
    }

    /// Refuses what cannot be written.
    pub fn check(&self) -> Result<(), LabError> {
        self.size.check()?;
        if let Encoding::Jpeg { quality, within_kb, .. } = self.encoding {
            if !(1..=100).contains(&quality) {
                return Err(LabError::Quality(quality.into()));
            }
            if within_kb == Some(0) {
                return Err(LabError::Size { what: "a file's kB", value: 0.0, low: 1.0, high: f64::from(u32::MAX) });
            }
        }
        if !(0.0..=100.0).contains(&self.sharpening) {
            return Err(LabError::Size { what: "sharpening", value: self.sharpening, low: 0.0, high: 100.0 });
        }
        if let Some(ppi) = self.ppi.filter(|ppi| !(1.0..=9600.0).contains(ppi)) {
            return Err(LabError::Size { what: "pixels per inch", value: ppi, low: 1.0, high: 9600.0 });
        }
        if matches!(self.encoding, Encoding::Jxl { .. }) && self.space != OutputSpace::Srgb {
            return Err(amber_files::FileError::SrgbOnly { format: "JPEG XL" }.into());
        }
        Ok(())
    }

    /// How a picture of so many pixels leaves.
    pub fn finish(&self, full: [u32; 2]) -> Finish {
        let amount = self.sharpening / 100.0 * FULL_SHARPENING;
        let sharpening = match self.size.pixels_per_inch(full) {
            Some(ppi) => Sharpening::for_print(amount, ppi),
            None => Sharpening::for_screen(amount),
        };
        Finish { space: self.space, sharpening: (amount > 0.0).then_some(sharpening) }
    }

    /// What the file says beside its pixels.
    pub fn attached(&self, metadata: &Metadata, travelling: Option<Travelling>, full: [u32; 2]) -> Attached {
        Attached {
            space: self.space,
            metadata: metadata.kept(self.exif),
            caption: self.words.cleaned(),
            travelling: travelling.filter(|_| self.development),
            pixels_per_inch: self.size.pixels_per_inch(full).or(self.ppi),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_document_says_only_what_differs() {
        let plain = Output::from_json("{}").unwrap();
        assert_eq!(plain, Output::default());
        let asked = r#"{"encoding":{"type":"tiff"},"size":{"by":"print","width_mm":300,"height_mm":200,"ppi":240},
            "sharpening":40,"space":"display-p3","exif":"reduced","words":{"copyright":"Ada"}}"#;
        let output = Output::from_json(asked).unwrap();
        assert_eq!(Output::from_json(&output.to_json()).unwrap(), output);
        let finish = output.finish([6000, 4000]);
        assert!((finish.sharpening.unwrap().amount - 0.6).abs() < 1e-12);
        assert_eq!(plain.finish([6000, 4000]), Finish::SCREEN);
        for wrong in [r#"{"quality":3}"#, r#"{"sharpening":101}"#, r#"{"encoding":{"type":"jxl"},"space":"rec2020"}"#] {
            assert!(Output::from_json(wrong).is_err(), "{wrong}");
        }
    }
}
