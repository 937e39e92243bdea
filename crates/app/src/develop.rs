//! `amber-grain develop`: pictures into files, no browser.

use amber_core::stations;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use amber_core::colour::space::WIDE_TO_SRGB;
use amber_core::numeric::matrix::dot;
use amber_core::picture::buffer::Quantity;
use amber_core::render::{Finish, GrainShown, RenderRequest, Renderer, Watch};
use amber_core::{Catalogue, Development, Picture, Region, Stock};
use amber_files::{Limits, write};
use amber_lab::{
    AtSize, FileOutcome, FileWork, LabError, Output, Size, Undeveloped, file_pool, for_light, name_of_file,
    opened_beside_tables, safe_name,
};

use crate::arguments::Develop;
use crate::exit::Failure;
use crate::progress::{Progress, Telling};
use crate::sheets::Pictures;
use crate::{documents, files, presets, sentence, stocks};

type Sentence = String;

fn sentence(error: impl std::error::Error + 'static) -> Sentence {
    sentence::of(&error)
}

pub fn run(arguments: &Develop) -> Result<(), Failure> {
    let inputs = files::all_of(&arguments.inputs)?;
    let places = places(arguments, &inputs)?;
    let limits = Limits { megapixels: arguments.max_megapixels };
    let mut pictures = Pictures::of_files(&arguments.sheets, limits)?;
    let (development, stock) = development_of(arguments, &mut pictures)?;
    let pool = file_pool(arguments.threads.map(|n| n.max(1))).map_err(sentence)?;
    let renderer = Renderer::new(pool, 0).with_pictures(Arc::new(pictures));
    let work = Work { arguments, limits, development, stock, renderer };
    if let [(input, output)] = places.as_slice()
        && !arguments.json
    {
        return Ok(work.one(input, output).map(drop)?);
    }
    let telling = Telling { json: arguments.json, quiet: arguments.quiet };
    let progress = Progress::new(telling, places.len());
    for (input, output) in &places {
        let outcome = match work.one(input, output) {
            Ok((bytes, hash)) => FileOutcome::Made { bytes, hash },
            Err(why) => FileOutcome::Failed { why },
        };
        let [input, output] = [input, output].map(|path| path.display().to_string());
        progress.tell(&FileWork { input, output, outcome });
    }
    progress.end()
}

/// Each input with the file that it goes to.
fn places(arguments: &Develop, inputs: &[PathBuf]) -> Result<Vec<(PathBuf, PathBuf)>, Sentence> {
    let output = &arguments.output;
    let is_folder = output.is_dir() || output.as_os_str().to_string_lossy().ends_with('/');
    let places = match inputs {
        [] => return Err("the folder holds no picture".into()),
        [one] if !is_folder => vec![(one.clone(), output.clone())],
        _ if !is_folder => {
            return Err(format!("{} pictures need a folder: end -o {} with a /", inputs.len(), output.display()));
        }
        many => {
            std::fs::create_dir_all(output).map_err(|e| format!("{} cannot be made: {e}", output.display()))?;
            let ending = arguments.file.output(None)?.encoding.ending();
            let mut taken = std::collections::HashSet::new();
            let place = |input: &PathBuf| {
                let stem = input.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
                let stem = safe_name(&stem).unwrap_or_else(|_| "picture".into());
                let numbered = |n: u32| if n == 1 { stem.clone() } else { format!("{stem} {n}") };
                let free = (1..).map(numbered).find(|name| taken.insert(name.to_lowercase()));
                (input.clone(), output.join(format!("{}.{ending}", free.unwrap_or(stem))))
            };
            many.iter().map(place).collect()
        }
    };
    match places.iter().find(|(input, output)| is_same_file(input, output)) {
        Some((_, output)) => Err(format!("{} is the original: write to another file", output.display())),
        None => Ok(places),
    }
}

/// What is the same for every picture.
struct Work<'a> {
    arguments: &'a Develop,
    limits: Limits,
    development: Development,
    stock: Arc<Stock>,
    renderer: Renderer,
}

impl Work<'_> {
    /// Develops a picture; gives the length and the hash of what was written.
    fn one(&self, input: &Path, output: &Path) -> Result<(u64, String), Sentence> {
        let arguments = self.arguments;
        let target = Target::of(arguments, output)?;
        let bytes = files::bytes_of(input)?;
        let hash = amber_library::Originals::hash_of(&bytes);
        let mut development = self.development.clone();
        if arguments.seed.is_none() && arguments.development.is_none() {
            development.seed = amber_library::seed_of(&hash);
        }
        let (of, size) = ((&development, self.stock.as_ref()), &target.output.size);
        let opened = opened_beside_tables(&bytes, self.limits, &self.renderer, of, size);
        let opened = opened.map_err(|e| format!("{}: {e}", input.display()))?;
        if let Some(stops) = opened.light_stops {
            for_light(&mut development, &self.stock, stops).map_err(sentence)?;
        }
        let name = name_of_file(&input.display().to_string());
        let picture = Undeveloped {
            hash: &hash,
            name: &name,
            development: &development,
            stock: &self.stock,
            output: &target.output,
        };
        let at_size = picture.at_size(opened, &self.renderer).map_err(sentence)?;
        self.say_if_smaller(&target.output, &at_size);
        let region = arguments.region.as_deref().map(region_of).transpose()?;
        if let Some(quantity) = target.quantity {
            let region = region.unwrap_or_else(|| at_size.scaled.source.region());
            let request = RenderRequest {
                scaled: &at_size.scaled,
                stock: &self.stock,
                development: &development,
                region,
                grain: GrainShown::Full,
                keep_tiles: false,
                finish: Finish::SCREEN,
            };
            let file = quantity.of(&self.renderer, &request)?;
            if files::is_stream(output) {
                return self.streamed(|out| std::io::Write::write_all(out, &file).map_err(sentence));
            }
            write::save(output, &file).map_err(sentence)?;
            return Ok((file.len() as u64, blake3::hash(&file).to_hex().to_string()));
        }
        let renderer = &self.renderer;
        if files::is_stream(output) {
            return self
                .streamed(|out| picture.develop_into(at_size, region, renderer, Watch::NONE, out).map_err(sentence));
        }
        let file = write::arriving(output, |out| picture.develop_into(at_size, region, renderer, Watch::NONE, out));
        let file = file.map_err(|e: LabError| sentence(e))?;
        let wrong = |e: std::io::Error| format!("{}: {e}", output.display());
        let length = file.bytes().map_err(wrong)?;
        let mut hasher = blake3::Hasher::new();
        if arguments.json {
            std::io::copy(&mut file.reopened().map_err(wrong)?, &mut hasher).map_err(wrong)?;
        }
        file.replacing(output).map_err(wrong)?;
        Ok((length, hasher.finalize().to_hex().to_string()))
    }

    fn streamed(
        &self,
        write: impl FnOnce(&mut std::io::Cursor<Vec<u8>>) -> Result<(), Sentence>,
    ) -> Result<(u64, String), Sentence> {
        files::to_standard_output(write).map(|length| (length, String::new()))
    }

    fn say_if_smaller(&self, output: &Output, picture: &AtSize) {
        if let Size::LongEdge { px } = output.size
            && px > picture.whole[0].max(picture.whole[1])
            && !self.arguments.quiet
        {
            eprintln!("amber-grain: the picture is smaller than --long-edge {px}; it keeps its size");
        }
    }
}

/// A quantity on the way, to be written as 32-bit float TIFF.
#[derive(Debug, Clone, Copy)]
enum Stage {
    Light,
    Exposure,
    Density,
    Reflectance,
}

impl Stage {
    fn of(self, renderer: &Renderer, request: &RenderRequest) -> Result<Vec<u8>, Sentence> {
        let watch = Watch::NONE;
        let file = match self {
            Self::Light => {
                let mut light = renderer.scene_light(request, watch).map_err(sentence)?;
                to_linear_srgb(&mut light);
                write::tiff_float(&light)
            }
            Self::Exposure => write::tiff_float(&renderer.exposure(request, watch).map_err(sentence)?),
            Self::Density => write::tiff_float(&renderer.density(request, watch).map_err(sentence)?),
            Self::Reflectance => {
                let mut reflectance = renderer.reflectance(request, watch).map_err(sentence)?;
                to_linear_srgb(&mut reflectance);
                write::tiff_float(&reflectance)
            }
        };
        file.map_err(sentence)
    }
}

/// What is written.
struct Target {
    output: Output,
    quantity: Option<Stage>,
}

impl Target {
    fn of(arguments: &Develop, output: &Path) -> Result<Self, Sentence> {
        let ending = output.extension().map(|e| e.to_string_lossy().to_lowercase());
        let ending = if files::is_stream(output) { None } else { Some(ending.unwrap_or_default()) };
        let quantity = match arguments.stage.as_deref() {
            None => None,
            Some(stage) if ending.as_deref().is_some_and(|e| e != "tif" && e != "tiff") => {
                return Err(format!("--stage {stage} writes a float TIFF: give an output that ends in .tif"));
            }
            Some("scene.light") => Some(Stage::Light),
            Some("film.exposure") => Some(Stage::Exposure),
            Some("bath.density") => Some(Stage::Density),
            Some("print.reflectance") => Some(Stage::Reflectance),
            Some(other) => {
                return Err(format!(
                    "there is no stage '{other}'; there are scene.light, film.exposure, bath.density, \
                     print.reflectance"
                ));
            }
        };
        Ok(Self { output: arguments.file.output(ending.as_deref())?, quantity })
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
pub fn region_of(text: &str) -> Result<Region, Sentence> {
    let wrong = || format!("{text}: write four whole numbers X,Y,W,H, W and H at least 1");
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
