//! `amber-grain order`: lab orders made, run on files, and what several workers did put together.

use std::path::PathBuf;
use std::sync::Arc;

use amber_core::render::Renderer;
use amber_files::{Limits, write};
use amber_lab::{Files, LabOrder, Plan, file_pool, merged};

use crate::arguments::{NewOrder, Order, RunOrder};
use crate::exit::Failure;
use crate::presets::named_presets;
use crate::progress::{Progress, Telling};
use crate::sheets::Pictures;
use crate::{documents, files, output, sentence, stocks};

pub fn run(command: &Order) -> Result<(), Failure> {
    match command {
        Order::New(arguments) => Ok(new(arguments)?),
        Order::Run(arguments) => on_files(arguments),
        Order::Merge { folder, output } => {
            let manifest = merged(folder).map_err(|e| sentence::of(&e))?;
            let text = serde_json::to_string_pretty(&manifest).map_err(|e| e.to_string())?;
            match output {
                Some(path) => Ok(write::save(path, format!("{text}\n").as_bytes()).map_err(|e| sentence::of(&e))?),
                None => Ok(output::print(&text)?),
            }
        }
        Order::Check { file } => {
            let order = documents::order(file)?;
            Ok(output::print(&format!("{}: it can be used. Its pictures: {}", file.display(), order.hash()))?)
        }
        Order::Schema => Ok(output::print(&format!("{:#}", LabOrder::schema().to_value()))?),
    }
}

fn new(arguments: &NewOrder) -> Result<(), String> {
    let development = arguments.development.as_deref().map(documents::development).transpose()?;
    let mut stock = None;
    let mut development = development;
    if let Some(named) = &arguments.stock {
        let found = stocks::named_or_read(named)?;
        let mut changed = development.unwrap_or_else(|| amber_core::Development::new(&found));
        changed.change_stock(&found);
        development = Some(changed);
        // a stock that ships is found by its name wherever the order is run
        stock = amber_core::Catalogue::find(&found.id).is_err().then(|| Box::new(found.as_ref().clone()));
    }
    let order = LabOrder {
        name: arguments.name_of_order.clone(),
        pattern: arguments.name.clone(),
        development,
        stock,
        presets: named_presets(&arguments.presets)?,
        strength: f64::from(arguments.strength),
        crop: arguments.crop.clone(),
        output: arguments.file.output(None)?,
        ..LabOrder::default()
    };
    order.check().map_err(|e| sentence::of(&e))?;
    let text = format!("{}\n", order.to_json());
    match &arguments.output {
        Some(path) => write::save(path, text.as_bytes()).map_err(|e| sentence::of(&e)),
        None => output::print(text.trim_end()),
    }
}

/// Threads of each of several workers: as many as there are cores for it.
fn threads_each(jobs: usize) -> usize {
    let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    (cores / jobs).max(1)
}

fn on_files(arguments: &RunOrder) -> Result<(), Failure> {
    let order = documents::order(&arguments.order)?;
    let inputs: Vec<PathBuf> = files::all_of(&arguments.files)?;
    if inputs.is_empty() {
        return Err("no files were named".into());
    }
    let folder = &arguments.out;
    std::fs::create_dir_all(folder).map_err(|e| format!("{} cannot be made: {e}", folder.display()))?;
    let plan = Plan::new(&order, &inputs).map_err(|e| sentence::of(&e))?;
    let share = plan.shard(arguments.shard);
    let limits = Limits { megapixels: arguments.max_megapixels };
    let pictures = Arc::new(Pictures::of_files(&arguments.sheets, limits)?);
    let jobs = arguments.jobs.clamp(1, 64).min(share.len().max(1));
    let renderer = || -> Result<Arc<Renderer>, String> {
        let pool = file_pool(Some(threads_each(jobs))).map_err(|e| sentence::of(&e))?;
        Ok(Arc::new(Renderer::new(pool, 0).with_pictures(pictures.clone())))
    };
    let renderers: Vec<Arc<Renderer>> = (0..jobs).map(|_| renderer()).collect::<Result<_, _>>()?;
    let work = Files { order: &order, folder, limits, quickly: arguments.resume };
    let telling = Telling { json: arguments.json, quiet: arguments.quiet };
    let progress = Progress::new(telling, share.len());
    work.run_all(&share, &renderers, |done| progress.tell(&done));
    progress.end()
}
