//! `amber-grain develop`: one picture, one file, no browser.

use amber_core::stations;
use std::path::Path;
use std::sync::Arc;

use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::numeric::matrix::dot;
use amber_core::picture::buffer::Quantity;
use amber_core::picture::reduce::size_for_long_edge;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Scaled, Watch};
use amber_core::{Catalogue, Development, Picture, Region, Stock};
use amber_files::{FileError, Limits, write};
use amber_lab::{Destination, LabError, develop_into, in_its_mount, render_pool};

use crate::arguments::Develop;
use crate::documents;
use crate::presets;
use crate::sentence;
use crate::sheets::Pictures;
use crate::stocks;

type Sentence = String;

fn sentence(error: impl std::error::Error + 'static) -> Sentence {
    sentence::of(&error)
}

pub fn run(arguments: &Develop) -> Result<(), Sentence> {
    let target = Target::of(arguments)?;
    if is_same_file(&arguments.input, &arguments.output) {
        return Err(format!("{} is the original: write to another file", arguments.output.display()));
    }
    let mut pictures = Pictures::of_files(&arguments.sheets, Limits { megapixels: arguments.max_megapixels })?;
    let (mut development, stock) = development_of(arguments, &mut pictures)?;
    let bytes = std::fs::read(&arguments.input)
        .map_err(|source| FileError::Read { path: arguments.input.display().to_string(), source })
        .map_err(sentence)?;
    if arguments.seed.is_none() && arguments.development.is_none() {
        development.seed = amber_library::seed_of(&amber_library::Originals::hash_of(&bytes));
    }
    let pool = render_pool(arguments.threads.map(|n| n.max(1))).map_err(sentence)?;
    let limits = Limits { megapixels: arguments.max_megapixels };
    let opened = pool
        .install(|| amber_files::open(&bytes, limits))
        .map_err(|e| format!("{}: {e}", arguments.input.display()))?;
    let full = pool
        .install(|| {
            let full = Scaled::full(Arc::new(opened.source), "command line");
            full.for_development(&development, &stock, &|| false)
        })
        .map_err(sentence)?;
    let scaled = match arguments.long_edge {
        None => full,
        Some(0) => return Err("--long-edge needs at least 1 pixel".into()),
        Some(edge) => {
            if edge > full.full_width.max(full.full_height) {
                eprintln!("amber-grain: the picture is smaller than --long-edge {edge}; it keeps its size");
            }
            let (width, height) = size_for_long_edge(edge, full.full_width, full.full_height);
            pool.install(|| full.reduced(width, height))
        }
    };
    let renderer = Renderer::new(pool, 0).with_pictures(Arc::new(pictures));
    // a region, and a quantity before the end, is of the picture without its mount
    let is_whole = arguments.region.is_none() && matches!(target, Target::Jpeg(_) | Target::Tiff16);
    let (scaled, mount) = match is_whole {
        true => in_its_mount(&renderer, scaled, &stock, &development).map_err(sentence)?,
        false => (scaled, None),
    };
    let region = match &arguments.region {
        None => scaled.source.region(),
        Some(text) => region_of(text)?,
    };
    let request = RenderRequest {
        scaled: &scaled,
        stock: &stock,
        development: &development,
        region,
        grain: GrainShown::Full,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let metadata = &opened.metadata;
    let develop = |destination: &Destination| {
        let file = write::arriving(&arguments.output, |out| {
            develop_into(out, &renderer, &request, mount, destination, Watch::NONE)
        });
        let file = file.map_err(|e: LabError| sentence(e))?;
        file.replacing(&arguments.output).map_err(|e| format!("{}: {e}", arguments.output.display()))
    };
    let file = match target {
        Target::Jpeg(quality) => return develop(&Destination::Jpeg { quality, metadata }),
        Target::Tiff16 => return develop(&Destination::Tiff16 { metadata }),
        Target::Light => {
            let mut light = renderer.scene_light(&request, Watch::NONE).map_err(sentence)?;
            to_linear_srgb(&mut light);
            write::tiff_float(&light).map_err(sentence)?
        }
        Target::Exposure => {
            write::tiff_float(&renderer.exposure(&request, Watch::NONE).map_err(sentence)?).map_err(sentence)?
        }
        Target::Density => {
            write::tiff_float(&renderer.density(&request, Watch::NONE).map_err(sentence)?).map_err(sentence)?
        }
        Target::Reflectance => {
            let mut reflectance = renderer.reflectance(&request, Watch::NONE).map_err(sentence)?;
            to_linear_srgb(&mut reflectance);
            write::tiff_float(&reflectance).map_err(sentence)?
        }
    };
    write::save(&arguments.output, &file).map_err(sentence)
}

/// What is written.
enum Target {
    Jpeg(u8),
    Tiff16,
    Light,
    Exposure,
    Density,
    Reflectance,
}

impl Target {
    fn of(arguments: &Develop) -> Result<Self, Sentence> {
        let ending = arguments.output.extension().map(|e| e.to_string_lossy().to_lowercase()).unwrap_or_default();
        let tiff = matches!(ending.as_str(), "tif" | "tiff");
        match arguments.stage.as_deref() {
            Some(stage) if !tiff => {
                Err(format!("--stage {stage} writes a float TIFF: give an output that ends in .tif"))
            }
            Some("scene.light") => Ok(Self::Light),
            Some("film.exposure") => Ok(Self::Exposure),
            Some("bath.density") => Ok(Self::Density),
            Some("print.reflectance") => Ok(Self::Reflectance),
            Some(other) => Err(format!(
                "there is no stage '{other}'; there are scene.light, film.exposure, bath.density, print.reflectance"
            )),
            None if tiff => Ok(Self::Tiff16),
            None if matches!(ending.as_str(), "jpg" | "jpeg") => {
                if !(1..=100).contains(&arguments.quality) {
                    return Err(format!("--quality goes from 1 to 100; {} lies outside", arguments.quality));
                }
                Ok(Self::Jpeg(arguments.quality))
            }
            None => Err(format!("'{ending}' is not an ending it writes; use .jpg, or .tif for 16 bits")),
        }
    }
}

/// The development that the options describe: the document first, then the stock, then single values.
fn development_of(arguments: &Develop, pictures: &mut Pictures) -> Result<(Development, Arc<Stock>), Sentence> {
    let mut development = match &arguments.development {
        Some(path) => documents::development(path)?,
        None => Development::new(&Catalogue::first()),
    };
    let stock = match &arguments.stock {
        Some(named) => {
            let stock = stocks::named_or_read(named)?;
            development.change_stock(&stock);
            stock
        }
        None => Catalogue::find(&development.stock.id).map_err(sentence)?,
    };
    if !development.stock.hash.is_empty() && development.stock.hash != stock.content_hash() {
        eprintln!("amber-grain: the stock '{}' has changed since this development was made", stock.id);
    }
    let strength = f64::from(arguments.strength) / 100.0;
    let stock = presets::lay(&mut development, stock, &arguments.presets, strength)?;
    for assignment in &arguments.set {
        let (id, value) =
            assignment.split_once('=').ok_or_else(|| format!("--set {assignment}: write it as CONTROL=VALUE"))?;
        let control = stations::find(id.trim()).map_err(sentence)?;
        let value = pictures.value_of(control, value)?;
        development.set(&stock, control.id, value).map_err(sentence)?;
    }
    for lamp in &arguments.off {
        development.switch(lamp.trim(), false).map_err(sentence)?;
    }
    development.check().map_err(sentence)?;
    pictures.all_there(&development.values(&stock))?;
    if let Some(seed) = arguments.seed {
        development.seed = seed;
    }
    Ok((development, stock))
}

/// Whether two paths name one file, under whatever names.
fn is_same_file(a: &Path, b: &Path) -> bool {
    #[cfg(unix)]
    {
        use std::os::unix::fs::MetadataExt;
        if let (Ok(a), Ok(b)) = (std::fs::metadata(a), std::fs::metadata(b)) {
            return (a.dev(), a.ino()) == (b.dev(), b.ino());
        }
    }
    matches!((a.canonicalize(), b.canonicalize()), (Ok(a), Ok(b)) if a == b)
}

/// X,Y,W,H.
fn region_of(text: &str) -> Result<Region, Sentence> {
    let wrong = || format!("--region {text}: write four whole numbers X,Y,W,H, W and H at least 1");
    let numbers: Vec<u32> = text.split(',').map(|n| n.trim().parse()).collect::<Result<_, _>>().map_err(|_| wrong())?;
    match numbers.as_slice() {
        [x, y, width, height] if *width > 0 && *height > 0 => Ok(Region::new(*x, *y, *width, *height)),
        _ => Err(wrong()),
    }
}

/// Working space to linear sRGB primaries, unbounded: the space in which the film models are stated.
fn to_linear_srgb<Q: Quantity>(picture: &mut Picture<Q>) {
    let matrix = WIDE_TO_SRGB.to_f32();
    if let Some([red, green, blue]) = picture.three_mut() {
        for ((r, g), b) in red.iter_mut().zip(green.iter_mut()).zip(blue.iter_mut()) {
            let wide = (*r, *g, *b);
            *r = dot(&matrix[0], wide.0, wide.1, wide.2);
            *g = dot(&matrix[1], wide.0, wide.1, wide.2);
            *b = dot(&matrix[2], wide.0, wide.1, wide.2);
        }
    }
}
