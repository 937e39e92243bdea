//! How a file is written, as it is said on the command line.

use amber_core::output::OutputSpace;
use amber_files::{Bits, Caption, Encoding, Kept, Sampling};
use amber_lab::{Output, Size};
use clap::{Args, ValueEnum};

use crate::sentence;

/// Formats by name.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Format {
    #[value(alias = "jpeg")]
    Jpg,
    Png,
    #[value(alias = "tiff")]
    Tif,
    Webp,
    Jxl,
}

impl Format {
    fn encoding(self) -> Encoding {
        let ending = match self {
            Self::Jpg => "jpg",
            Self::Png => "png",
            Self::Tif => "tif",
            Self::Webp => "webp",
            Self::Jxl => "jxl",
        };
        Encoding::of_ending(ending).unwrap_or_default()
    }
}

#[derive(Debug, Clone, Copy, ValueEnum)]
pub enum SamplingName {
    Auto,
    #[value(name = "4:4:4")]
    Full,
    #[value(name = "4:2:0")]
    Half,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
pub enum SpaceName {
    Srgb,
    DisplayP3,
    Rec2020,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
pub enum ExifName {
    All,
    /// No place, no serial numbers, no names of persons.
    Reduced,
    Nothing,
}

/// How files are written.
#[derive(Debug, Clone, Args)]
#[command(next_help_heading = "The file")]
pub struct OutputOptions {
    /// The format; that of the output's ending where it is not said.
    #[arg(long, value_enum)]
    pub format: Option<Format>,
    /// JPEG quality, 1 to 100.
    #[arg(long)]
    pub quality: Option<u8>,
    /// How far the colour of a JPEG is subsampled; auto: not from quality 90 on.
    #[arg(long, value_enum)]
    pub sampling: Option<SamplingName>,
    /// Largest JPEG in kB (1000 bytes): the quality is lowered until it fits.
    #[arg(long, value_name = "KB")]
    pub max_kb: Option<u32>,
    /// Bits of each channel: 8 or 16. PNG and JPEG XL have 8, TIFF 16, where it is not said.
    #[arg(long)]
    pub bits: Option<u8>,
    /// Compress a TIFF without loss.
    #[arg(long)]
    pub deflate: bool,
    /// Reduce the picture to this long edge in pixels.
    #[arg(long, value_name = "PX")]
    pub long_edge: Option<u32>,
    /// Reduce it to fit into a box: WIDTHxHEIGHT in pixels.
    #[arg(long = "box", value_name = "WxH", conflicts_with = "long_edge")]
    pub within: Option<String>,
    /// Reduce it to so many millions of pixels.
    #[arg(long, value_name = "MILLIONS", conflicts_with_all = ["long_edge", "within"])]
    pub megapixels: Option<f64>,
    /// Reduce it to a print: WIDTHxHEIGHT in millimetres, at --ppi pixels per inch.
    #[arg(long, value_name = "WxH", conflicts_with_all = ["long_edge", "within", "megapixels"])]
    pub print: Option<String>,
    /// Pixels per inch: of a print, 300 where it is not said; or written into the file.
    #[arg(long)]
    pub ppi: Option<f64>,
    /// Sharpen for the size, 0 to 100.
    #[arg(long, default_value_t = 0.0)]
    pub sharpen: f64,
    /// The colour space, embedded as a profile.
    #[arg(long, value_enum)]
    pub space: Option<SpaceName>,
    /// What is kept of the original's EXIF.
    #[arg(long, value_enum)]
    pub exif: Option<ExifName>,
    /// A title (IPTC), written into the file.
    #[arg(long, default_value = "")]
    pub title: String,
    /// A caption (IPTC), written into the file.
    #[arg(long, default_value = "")]
    pub caption: String,
    /// A copyright notice, written into the file.
    #[arg(long, default_value = "")]
    pub copyright: String,
    /// Leave the development out of the file: it cannot be taken up again from it.
    #[arg(long)]
    pub no_development: bool,
}

/// WIDTHxHEIGHT.
fn pair(text: &str, option: &str) -> Result<[f64; 2], String> {
    let wrong = || format!("{option} {text}: write WIDTHxHEIGHT, such as 300x200");
    let (width, height) = text.split_once(['x', 'X', '×']).ok_or_else(wrong)?;
    let number = |text: &str| text.trim().parse::<f64>().map_err(|_| wrong());
    Ok([number(width)?, number(height)?])
}

impl OutputOptions {
    /// The ending of a file's name chooses the format where --format does not.
    pub fn output(&self, ending: Option<&str>) -> Result<Output, String> {
        let encoding = match (self.format, ending) {
            (Some(format), _) => format.encoding(),
            (None, None) => Encoding::default(),
            (None, Some(ending)) => Encoding::of_ending(ending).ok_or_else(|| {
                format!("'{ending}' is not an ending it writes; use .jpg, .png, .tif, .webp or .jxl, or say --format")
            })?,
        };
        let caption =
            Caption { title: self.title.clone(), caption: self.caption.clone(), copyright: self.copyright.clone() };
        let output = Output {
            encoding: self.with_settings(encoding)?,
            size: self.size()?,
            sharpening: self.sharpen,
            space: match self.space {
                None | Some(SpaceName::Srgb) => OutputSpace::Srgb,
                Some(SpaceName::DisplayP3) => OutputSpace::DisplayP3,
                Some(SpaceName::Rec2020) => OutputSpace::Rec2020,
            },
            exif: match self.exif {
                None | Some(ExifName::All) => Kept::All,
                Some(ExifName::Reduced) => Kept::Reduced,
                Some(ExifName::Nothing) => Kept::Nothing,
            },
            words: caption.cleaned(),
            ppi: self.ppi.filter(|_| self.print.is_none()),
            development: !self.no_development,
        };
        output.check().map_err(|e| sentence::of(&e))?;
        Ok(output)
    }

    fn with_settings(&self, encoding: Encoding) -> Result<Encoding, String> {
        let bits = self.bits.map(Bits::try_from).transpose()?;
        let refuse = |option: &str, is_said: bool| match is_said {
            true => Err(format!("{option} is not for .{} files", encoding.ending())),
            false => Ok(()),
        };
        let jpeg = matches!(encoding, Encoding::Jpeg { .. });
        refuse("--max-kb", self.max_kb.is_some() && !jpeg)?;
        refuse("--sampling", self.sampling.is_some() && !jpeg)?;
        refuse("--deflate", self.deflate && !matches!(encoding, Encoding::Tiff { .. }))?;
        refuse("--bits 16", bits == Some(Bits::Sixteen) && (jpeg || matches!(encoding, Encoding::Webp {})))?;
        Ok(match encoding {
            Encoding::Jpeg { quality, .. } => Encoding::Jpeg {
                quality: self.quality.unwrap_or(quality),
                sampling: match self.sampling {
                    None | Some(SamplingName::Auto) => Sampling::Auto,
                    Some(SamplingName::Full) => Sampling::Full,
                    Some(SamplingName::Half) => Sampling::Half,
                },
                within_kb: self.max_kb,
            },
            Encoding::Png { bits: usual } => Encoding::Png { bits: bits.unwrap_or(usual) },
            Encoding::Tiff { bits: usual, .. } => Encoding::Tiff { bits: bits.unwrap_or(usual), deflate: self.deflate },
            Encoding::Webp {} => Encoding::Webp {},
            Encoding::Jxl { bits: usual } => Encoding::Jxl { bits: bits.unwrap_or(usual) },
        })
    }

    fn size(&self) -> Result<Size, String> {
        if let Some(px) = self.long_edge {
            return Ok(Size::LongEdge { px });
        }
        if let Some(text) = &self.within {
            let [width, height] = pair(text, "--box")?;
            return Ok(Size::Box { width_px: width as u32, height_px: height as u32 });
        }
        if let Some(millions) = self.megapixels {
            return Ok(Size::Megapixels { millions });
        }
        let Some(text) = &self.print else { return Ok(Size::Full) };
        let [width_mm, height_mm] = pair(text, "--print")?;
        Ok(Size::Print { width_mm, height_mm, ppi: self.ppi.unwrap_or(300.0) })
    }
}
