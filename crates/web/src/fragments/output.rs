//! How a file is to be written, as it is filled in on a form.

use std::path::PathBuf;

use amber_core::output::OutputSpace;
use amber_core::text::shortened;
use amber_files::{Bits, Caption, Encoding, Kept, Sampling};
use amber_lab::{Lab, Output, Size};
use serde::Deserialize;

use crate::error::WebError;

/// Fact in which the last form is remembered.
const LAST: &str = "last output";

/// What was filled in, as it was typed; what is missing is as usual.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub struct OutputForm {
    pub format: String,
    quality: Typed,
    sampling: String,
    within_kb: Typed,
    bits: Typed,
    deflate: String,
    size: String,
    long_edge: Typed,
    box_width: Typed,
    box_height: Typed,
    millions: Typed,
    print_width: Typed,
    print_height: Typed,
    print_ppi: Typed,
    sharpening: Typed,
    space: String,
    exif: String,
    title: String,
    caption: String,
    copyright: String,
    ppi: Typed,
    development: String,
    folder: String,
}

/// A number as it was typed, or none.
#[derive(Debug, Default, Deserialize)]
#[serde(from = "Either")]
struct Typed(String);

/// Forms send texts, scripts numbers.
#[derive(Deserialize)]
#[serde(untagged)]
enum Either {
    Text(String),
    Number(f64),
    Nothing(()),
}

impl From<Either> for Typed {
    fn from(either: Either) -> Self {
        match either {
            Either::Text(text) => Self(text.trim().to_owned()),
            Either::Number(number) => Self(number.to_string()),
            Either::Nothing(()) => Self::default(),
        }
    }
}

impl Typed {
    /// The number; none where nothing was typed.
    fn number(&self, what: &str) -> Result<Option<f64>, WebError> {
        if self.0.is_empty() {
            return Ok(None);
        }
        let said = || WebError::Unusable(format!("{what} is a number; '{}' is not", shortened(&self.0)));
        self.0.replace(',', ".").parse().ok().filter(|v: &f64| v.is_finite()).map(Some).ok_or_else(said)
    }

    fn whole(&self, what: &str) -> Result<Option<u32>, WebError> {
        let Some(number) = self.number(what)? else { return Ok(None) };
        let said = || WebError::Unusable(format!("{what} is a whole number; {number} is not"));
        let whole = number.fract() == 0.0 && (0.0..=f64::from(u32::MAX)).contains(&number);
        if whole { Ok(Some(number as u32)) } else { Err(said()) }
    }

    /// The number, which must have been typed.
    fn needed(&self, what: &str) -> Result<f64, WebError> {
        self.number(what)?.ok_or_else(|| WebError::Unusable(format!("{what} is missing")))
    }

    fn needed_whole(&self, what: &str) -> Result<u32, WebError> {
        self.whole(what)?.ok_or_else(|| WebError::Unusable(format!("{what} is missing")))
    }
}

/// One of several words.
fn one_of<T: Copy>(word: &str, all: &[(&str, T)], what: &str) -> Result<T, WebError> {
    let word = if word.is_empty() { all[0].0 } else { word };
    let found = all.iter().find(|(known, _)| *known == word).map(|(_, value)| *value);
    found.ok_or_else(|| WebError::Unusable(format!("there is no {what} '{}'", shortened(word))))
}

impl OutputForm {
    fn encoding(&self) -> Result<Encoding, WebError> {
        let bits = match self.bits.whole("the number of bits")? {
            None => None,
            Some(8) => Some(Bits::Eight),
            Some(16) => Some(Bits::Sixteen),
            Some(other) => return Err(WebError::Unusable(format!("a channel has 8 or 16 bits, not {other}"))),
        };
        Ok(match self.format.as_str() {
            "" | "jpeg" => Encoding::Jpeg {
                quality: self.quality.whole("the quality")?.map_or(92, |quality| quality.min(255) as u8),
                sampling: one_of(
                    &self.sampling,
                    &[("auto", Sampling::Auto), ("4:4:4", Sampling::Full), ("4:2:0", Sampling::Half)],
                    "sampling",
                )?,
                within_kb: self.within_kb.whole("the largest file")?,
            },
            "png" => Encoding::Png { bits: bits.unwrap_or(Bits::Eight) },
            "tiff" => {
                Encoding::Tiff { bits: bits.unwrap_or(Bits::Sixteen), deflate: !matches!(&*self.deflate, "" | "no") }
            }
            "webp" => Encoding::Webp {},
            "jxl" => Encoding::Jxl { bits: bits.unwrap_or(Bits::Eight) },
            other => return Err(WebError::Unusable(format!("there is no format '{}'", shortened(other)))),
        })
    }

    fn size(&self) -> Result<Size, WebError> {
        let edge = self.long_edge.whole("the long edge")?;
        Ok(match (self.size.as_str(), edge) {
            ("" | "long-edge", Some(px)) => Size::LongEdge { px },
            ("" | "full" | "long-edge", _) => Size::Full,
            ("box", _) => Size::Box {
                width_px: self.box_width.needed_whole("the box's width")?,
                height_px: self.box_height.needed_whole("the box's height")?,
            },
            ("megapixels", _) => Size::Megapixels { millions: self.millions.needed("the number of megapixels")? },
            ("print", _) => Size::Print {
                width_mm: self.print_width.needed("the print's width")?,
                height_mm: self.print_height.needed("the print's height")?,
                ppi: self.print_ppi.number("the print's resolution")?.unwrap_or(300.0),
            },
            (other, _) => return Err(WebError::Unusable(format!("there is no size by '{}'", shortened(other)))),
        })
    }

    /// What was asked for, checked.
    pub fn output(&self) -> Result<Output, WebError> {
        let spaces =
            [("srgb", OutputSpace::Srgb), ("display-p3", OutputSpace::DisplayP3), ("rec2020", OutputSpace::Rec2020)];
        let kept = [("all", Kept::All), ("reduced", Kept::Reduced), ("nothing", Kept::Nothing)];
        let words =
            Caption { title: self.title.clone(), caption: self.caption.clone(), copyright: self.copyright.clone() };
        let output = Output {
            encoding: self.encoding()?,
            size: self.size()?,
            sharpening: self.sharpening.number("sharpening")?.unwrap_or(0.0),
            space: one_of(&self.space, &spaces, "colour space")?,
            exif: one_of(&self.exif, &kept, "way to keep EXIF")?,
            words: words.cleaned(),
            ppi: self.ppi.number("the resolution")?,
            development: self.development != "no",
        };
        output.check()?;
        Ok(output)
    }

    /// The folder that was chosen, one of those that the application was given; none for the data folder's own.
    pub fn folder(&self, folders: &[PathBuf]) -> Result<Option<PathBuf>, WebError> {
        if self.folder.is_empty() {
            return Ok(None);
        }
        let known = folders.iter().find(|folder| folder.as_os_str() == self.folder.as_str());
        let said =
            || WebError::Unusable(format!("'{}' is not one of the application's folders", shortened(&self.folder)));
        known.cloned().map(Some).ok_or_else(said)
    }
}

/// Remembers how the last file was written: the next form begins with it. What is of one picture is not remembered.
pub fn remember(lab: &Lab, output: &Output) -> Result<(), WebError> {
    let words = Caption { copyright: output.words.copyright.clone(), ..Caption::default() };
    let kept = Output { words, ..output.clone() };
    Ok(lab.library.remember(LAST, &kept.to_json())?)
}

/// A form as it is shown at first: as the last one was filled in.
pub struct OutputView {
    pub format: &'static str,
    pub quality: u8,
    pub sampling: &'static str,
    pub within_kb: String,
    pub sixteen: bool,
    pub deflate: bool,
    pub size: &'static str,
    pub long_edge: String,
    pub box_width: String,
    pub box_height: String,
    pub millions: String,
    pub print_width: String,
    pub print_height: String,
    pub print_ppi: String,
    pub sharpening: f64,
    pub space: &'static str,
    pub exif: &'static str,
    pub copyright: String,
    pub ppi: String,
    pub development: bool,
    pub folders: Vec<String>,
    /// Long edge of the picture, or empty for several.
    pub full_edge: String,
}

impl OutputView {
    pub fn new(lab: &Lab, folders: &[PathBuf], full_edge: Option<u32>) -> Result<Self, WebError> {
        let last = lab.library.fact(LAST)?.and_then(|kept| Output::from_json(&kept).ok());
        let output = last.unwrap_or_default();
        let number = |value: Option<f64>| value.map(|v| v.to_string()).unwrap_or_default();
        let (mut quality, mut sampling, mut within_kb) = (92, "auto", None);
        let format = match output.encoding {
            Encoding::Jpeg { quality: q, sampling: s, within_kb: most } => {
                quality = q;
                sampling = match s {
                    Sampling::Auto => "auto",
                    Sampling::Full => "4:4:4",
                    Sampling::Half => "4:2:0",
                };
                within_kb = most;
                "jpeg"
            }
            Encoding::Png { .. } => "png",
            Encoding::Tiff { .. } => "tiff",
            Encoding::Webp {} => "webp",
            Encoding::Jxl { .. } => "jxl",
        };
        let (mut sides, mut edge, mut millions) = ([None; 2], None, None);
        let mut print = [Some(300.0), Some(200.0), Some(300.0)];
        let size = match output.size {
            Size::Full => "full",
            Size::LongEdge { px } => {
                edge = Some(f64::from(px));
                "long-edge"
            }
            Size::Box { width_px, height_px } => {
                sides = [width_px, height_px].map(|v| Some(f64::from(v)));
                "box"
            }
            Size::Megapixels { millions: m } => {
                millions = Some(m);
                "megapixels"
            }
            Size::Print { width_mm, height_mm, ppi } => {
                print = [width_mm, height_mm, ppi].map(Some);
                "print"
            }
        };
        let [print_width, print_height, print_ppi] = print.map(number);
        Ok(Self {
            format,
            quality,
            sampling,
            within_kb: number(within_kb.map(f64::from)),
            sixteen: output.encoding.bits() == Bits::Sixteen || matches!(output.encoding, Encoding::Jpeg { .. }),
            deflate: matches!(output.encoding, Encoding::Tiff { deflate: true, .. }),
            size,
            long_edge: number(edge),
            box_width: number(sides[0]),
            box_height: number(sides[1]),
            millions: number(millions),
            print_width,
            print_height,
            print_ppi,
            sharpening: output.sharpening,
            space: match output.space {
                OutputSpace::Srgb => "srgb",
                OutputSpace::DisplayP3 => "display-p3",
                OutputSpace::Rec2020 => "rec2020",
            },
            exif: match output.exif {
                Kept::All => "all",
                Kept::Reduced => "reduced",
                Kept::Nothing => "nothing",
            },
            copyright: output.words.copyright,
            ppi: number(output.ppi),
            development: output.development,
            folders: folders.iter().map(|folder| folder.display().to_string()).collect(),
            full_edge: full_edge.map(|edge| edge.to_string()).unwrap_or_default(),
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn form(json: &str) -> Result<Output, WebError> {
        serde_json::from_str::<OutputForm>(json).unwrap().output()
    }

    #[test]
    fn what_is_typed_is_what_is_written() {
        assert_eq!(form("{}").unwrap(), Output::default());
        let typed = r#"{"format":"tiff","bits":"8","deflate":"on","size":"print",
            "print_width":"300","print_height":"20,5","print_ppi":240,"sharpening":"35",
            "space":"rec2020","exif":"nothing","development":"no"}"#;
        let output = form(typed).unwrap();
        assert_eq!(output.encoding, Encoding::Tiff { bits: Bits::Eight, deflate: true });
        assert_eq!(output.size, Size::Print { width_mm: 300.0, height_mm: 20.5, ppi: 240.0 });
        assert!(!output.development);
        assert_eq!(form(r#"{"long_edge":" 900 "}"#).unwrap().size, Size::LongEdge { px: 900 });
        for (wrong, said) in [
            (r#"{"format":"bmp"}"#, "no format 'bmp'"),
            (r#"{"long_edge":"big"}"#, "'big' is not"),
            (r#"{"size":"box","box_width":"90"}"#, "height is missing"),
            (r#"{"quality":"0"}"#, "1 to 100"),
            (r#"{"space":"cmyk"}"#, "no colour space"),
            (r#"{"format":"png","bits":"12"}"#, "8 or 16 bits"),
        ] {
            let error = form(wrong).unwrap_err().to_string();
            assert!(error.contains(said), "{error}");
        }
    }
}
