//! An order on files: planned for all of them, done for a share of them, each again and again with the same result.

use std::path::{Path, PathBuf};
use std::str::FromStr;
use std::sync::Arc;

use amber_core::render::{Renderer, Watch};
use amber_core::{Catalogue, Development};
use amber_files::{FileError, Limits, write};
use serde::Serialize;

use super::LabOrder;
use super::record::Record;
use crate::delivery::{Named, Undeveloped, for_light, hash_of, opened_beside_tables};
use crate::error::LabError;
use crate::name_of_file;

/// One of several shares of the files, as workers take them: `2/5`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Shard {
    /// From 1.
    pub index: usize,
    pub count: usize,
}

impl Default for Shard {
    fn default() -> Self {
        Self { index: 1, count: 1 }
    }
}

impl FromStr for Shard {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("'{text}' is no share: write 2/5 for the second of five");
        let (index, count) = text.split_once('/').ok_or_else(wrong)?;
        let shard = Self { index: index.parse().map_err(|_| wrong())?, count: count.parse().map_err(|_| wrong())? };
        if shard.index >= 1 && shard.index <= shard.count { Ok(shard) } else { Err(wrong()) }
    }
}

/// What is the same for every file.
pub struct Files<'a> {
    pub order: &'a LabOrder,
    /// Where the pictures go.
    pub folder: &'a Path,
    pub limits: Limits,
    /// A picture that is there with the right size is believed to be whole.
    pub quickly: bool,
}

/// A file with the name of what is made of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Planned {
    pub input: PathBuf,
    /// With its ending.
    pub output: String,
}

/// Which files, and what their pictures are called. It depends on the list of files alone, so that any number of
/// workers come to the same one.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Plan(pub Vec<Planned>);

/// What became of a file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "state", rename_all = "kebab-case")]
pub enum FileOutcome {
    Made {
        bytes: u64,
        hash: String,
    },
    /// It was there already, as this order makes it of this file.
    There {
        bytes: u64,
        hash: String,
    },
    Failed {
        why: String,
    },
}

/// A file and what became of it, for a line of JSON.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct FileWork {
    pub input: String,
    pub output: String,
    #[serde(flatten)]
    pub outcome: FileOutcome,
}

impl Plan {
    /// For files in their order. What a name needs of a file beside its path is read from it: the day, only where the
    /// pattern asks for it.
    pub fn new(order: &LabOrder, files: &[PathBuf]) -> Result<Self, LabError> {
        Self::from(order, files, 1)
    }

    /// The same with numbers that begin somewhere.
    pub(super) fn from(order: &LabOrder, files: &[PathBuf], first: usize) -> Result<Self, LabError> {
        let stock = order_stock(order)?;
        let dated = order.pattern.contains("{date}");
        let stems: Vec<String> = files.iter().map(|file| stem(file)).collect();
        let rolls: Vec<String> = files.iter().map(|file| folder_name(file)).collect();
        let taken = |file: &PathBuf| {
            let bytes = std::fs::read(file).ok().filter(|_| dated)?;
            amber_files::Metadata::of_file(&bytes).taken()
        };
        let named: Vec<Named> = (0..files.len())
            .map(|i| Named {
                name: &stems[i],
                roll: &rolls[i],
                stock: &stock,
                number: i + first,
                taken: if dated { taken(&files[i]) } else { None },
            })
            .collect();
        let ending = order.output.encoding.ending();
        let planned =
            |(input, name): (&PathBuf, String)| Planned { input: input.clone(), output: format!("{name}.{ending}") };
        Ok(Self(files.iter().zip(order.names(&named)?).map(planned).collect()))
    }

    /// The share of a worker.
    pub fn shard(&self, shard: Shard) -> Vec<Planned> {
        self.0.iter().skip(shard.index - 1).step_by(shard.count).cloned().collect()
    }
}

fn stem(file: &Path) -> String {
    file.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default()
}

fn folder_name(file: &Path) -> String {
    file.parent().and_then(Path::file_name).map(|s| s.to_string_lossy().into_owned()).unwrap_or_default()
}

/// Name of the stock that pictures of files get.
fn order_stock(order: &LabOrder) -> Result<String, LabError> {
    let first = Catalogue::first();
    let own = Development::new(&first);
    let (_, stock) = order.laid_on((&own, first), |named| Ok(Catalogue::find(&named.id)?))?;
    Ok(stock.name())
}

impl Files<'_> {
    /// Makes the picture of a file, where it is not there already.
    pub fn run(&self, planned: &Planned, renderer: &Renderer) -> FileWork {
        let outcome = self.outcome(planned, renderer).unwrap_or_else(|e| FileOutcome::Failed { why: e.to_string() });
        FileWork { input: planned.input.display().to_string(), output: planned.output.clone(), outcome }
    }

    fn outcome(&self, planned: &Planned, renderer: &Renderer) -> Result<FileOutcome, LabError> {
        let shown = planned.input.display().to_string();
        let bytes = std::fs::read(&planned.input).map_err(|source| FileError::Read { path: shown.clone(), source })?;
        let input_hash = amber_library::Originals::hash_of(&bytes);
        let order_hash = self.order.hash();
        let path = self.folder.join(&planned.output);
        let known = Record::of(self.folder, &planned.output);
        let foreign = || LabError::Foreign { path: path.display().to_string() };
        match known {
            Some(known) => {
                let same = known.input_hash == input_hash && known.order_hash == order_hash;
                if same && known.is_there(self.folder, self.quickly) {
                    return Ok(FileOutcome::There { bytes: known.bytes, hash: known.output_hash });
                }
                // made of another file that is called the same
                if known.input != shown && known.input_hash != input_hash && path.exists() {
                    return Err(foreign());
                }
            }
            // a file that nobody wrote down is somebody else's
            None if path.exists() => return Err(foreign()),
            None => {}
        }
        let first = Catalogue::first();
        let own = Development { seed: amber_library::seed_of(&input_hash), ..Development::new(&first) };
        let (mut development, stock) = self.order.laid_on((&own, first), |named| Ok(Catalogue::find(&named.id)?))?;
        let (of, size) = ((&development, stock.as_ref()), &self.order.output.size);
        let opened = opened_beside_tables(&bytes, self.limits, renderer, of, size)?;
        if let Some(stops) = opened.light_stops {
            for_light(&mut development, &stock, stops)?;
        }
        let (name, output) = (name_of_file(&stem(&planned.input)), &self.order.output);
        let made = Undeveloped { hash: &input_hash, name: &name, development: &development, stock: &stock, output };
        let picture = made.at_size(opened, renderer)?;
        let file = write::arriving(&path, |out| made.develop_into(picture, None, renderer, Watch::NONE, out))?;
        let of = |source| FileError::Write { path: path.display().to_string(), source };
        let (bytes, output_hash) = (file.bytes().map_err(of)?, hash_of(file.reopened().map_err(of)?).map_err(of)?);
        let output = planned.output.clone();
        let record = Record { output, input: shown, input_hash, order_hash, output_hash: output_hash.clone(), bytes };
        record.keep(self.folder)?;
        file.replacing(&path).map_err(of)?;
        Ok(FileOutcome::Made { bytes, hash: output_hash })
    }

    /// Makes the pictures of files on several workers, each with a renderer of its own; `tell` hears of each as it
    /// ends.
    pub fn run_all(&self, planned: &[Planned], renderers: &[Arc<Renderer>], tell: impl Fn(FileWork) + Sync) {
        let next = std::sync::atomic::AtomicUsize::new(0);
        std::thread::scope(|scope| {
            for renderer in renderers {
                let (next, tell) = (&next, &tell);
                scope.spawn(move || {
                    while let Some(one) = planned.get(next.fetch_add(1, std::sync::atomic::Ordering::Relaxed)) {
                        let work = std::panic::AssertUnwindSafe(|| self.run(one, renderer));
                        // a panic is this picture's
                        let done = std::panic::catch_unwind(work).unwrap_or_else(|_| FileWork {
                            input: one.input.display().to_string(),
                            output: one.output.clone(),
                            outcome: FileOutcome::Failed { why: LabError::Broken.to_string() },
                        });
                        tell(done);
                    }
                });
            }
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shares_are_disjoint_and_whole() {
        let files: Vec<PathBuf> = (0..7).map(|i| PathBuf::from(format!("in/{i}.jpg"))).collect();
        let order = LabOrder { pattern: "{roll} {number:02}".into(), ..LabOrder::default() };
        let plan = Plan::new(&order, &files).unwrap();
        assert_eq!(plan.0[6].output, "in 07.jpg");
        let mut shares: Vec<Planned> = (1..=3).flat_map(|index| plan.shard(Shard { index, count: 3 })).collect();
        shares.sort_by(|a, b| a.output.cmp(&b.output));
        assert_eq!(shares, plan.0);
        assert_eq!("2/5".parse(), Ok(Shard { index: 2, count: 5 }));
        for wrong in ["0/5", "6/5", "2", "a/b", "1/0"] {
            assert!(wrong.parse::<Shard>().is_err(), "{wrong}");
        }
    }
}
