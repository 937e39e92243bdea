//! `amber-grain bench`: how long a frame takes, stage by stage, and what it needs. Figures of one run are to be
//! compared with one another, not with those of another machine.

mod boolean_model;
mod figures;
mod lens;
mod scene;
mod surface;
mod tone;

use std::io::Cursor;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Duration;

use amber_core::effect::{Effect, FilmFrame};
use amber_core::measure::Facts;
use amber_core::output;
use amber_core::picture::buffer::LayerDensity;
use amber_core::picture::{FilmGeometry, Picture};
use amber_core::render::{RenderRequest, Renderer, Scaled, Watch};
use amber_core::stations::bath::settings::UnevenSettings;
use amber_core::stations::bath::{BathSettings, UnevenStage};
use amber_core::stations::film::grain::GrainStage;
use amber_core::stations::film::halation::{Glow, Halation, Haloing};
use amber_core::stations::film::{FilmResponse, FilmSettings};
use amber_core::stations::print::acutance::Acutance;
use amber_core::stations::print::settings::Edge;
use amber_core::stations::print::stage::Tables;
use amber_core::stations::print::strength::Strength;
use amber_core::stations::print::{PrintSettings, PrintStage, Viewing};
use amber_core::stations::scene::{SceneSettings, SceneStage};
use amber_core::{Catalogue, Development, Region, Source, Stock};
use amber_files::{Attached, Bits, Encoding, Limits, plain, write};
use amber_lab::{Size, develop_into, file_pool, opened_beside_tables};
use boolean_model::BooleanModel;
use cpu_time::ThreadTime;
use figures::{Figures, Spent, timed};
use rayon::prelude::*;

use crate::arguments::Bench;
use crate::sentence;

/// Side of the tiles, as the renderer cuts them.
const TILE: u32 = 256;
const QUALITY: u8 = 92;
/// Runs of the whole chain; the quickest counts.
const RUNS: usize = 3;
const LIMITS: Limits = Limits { megapixels: 1000 };

pub fn run(arguments: &Bench) -> Result<(), String> {
    let stock = Catalogue::find(&arguments.stock).map_err(|e| sentence::of(&e))?;
    let pool = file_pool(arguments.threads.map(|n| n.max(1))).map_err(|e| sentence::of(&e))?;
    let threads = pool.current_num_threads();
    let height = ((f64::from(arguments.megapixels) * 1e6 / 1.5).sqrt() as u32).max(64);
    let width = height * 3 / 2;
    let pixels = f64::from(width) * f64::from(height);
    let file = invented_file(width, height)?;
    if let Some(path) = &arguments.picture {
        return write::save(path, &file).map_err(|e| sentence::of(&e));
    }
    let plain = plain_unit(&file)?;
    if arguments.plain {
        let (wall, cpu) = (plain[0].1.wall + plain[1].1.wall, plain[0].1.cpu + plain[1].1.cpu);
        let both = serde_json::json!({ "seconds": wall.as_secs_f64(), "cpu_seconds": cpu.as_secs_f64() });
        return crate::output::print(&both.to_string());
    }
    let mut figures = Figures::default();
    figures.add("plain decode and encode", plain.to_vec());
    let plain = plain[0].1 + plain[1].1;
    figures.add("file to file", file_to_file(&file, &stock, &pool)?);
    let opened = pool.install(|| amber_files::open(&file, LIMITS)).map_err(|e| sentence::of(&e))?;
    drop(file);
    let scaled = pool.install(|| Scaled::full(Arc::new(opened.source), "bench"));
    let stages = pool.install(|| Stages::new(&stock, &scaled));
    figures.add("stages", stages.alone(&pool, &scaled.source));
    drop(stages);
    figures.add("effects of the scene, when on", scene::effects(&stock, &scaled, &pool));
    let renderer = Renderer::new(pool, 0);
    figures.add("effects of the lens, when on", lens::effects(&stock, &scaled, &renderer));
    figures.add("effects on the print, when on", tone::effects(&stock, &scaled, &renderer));
    figures.add("sheets and mounts, when on", surface::effects(&stock, &scaled, renderer));
    if arguments.json {
        let all = serde_json::json!({
            "width": width, "height": height, "stock": stock.id, "threads": threads,
            "architecture": std::env::consts::ARCH, "peak_memory_mib": peak_memory_mib(),
            "figures": figures.json(plain, pixels),
        });
        return crate::output::print(&all.to_string());
    }
    println!("{width} x {height} on {}, {threads} threads; plain is its decode and encode together", stock.name());
    figures.print(plain, pixels);
    match peak_memory_mib() {
        Some(mib) => println!("\npeak memory {mib} MiB"),
        None => println!("\npeak memory is not known on this system"),
    }
    against_monte_carlo();
    Ok(())
}

/// Decoding a file to 8-bit RGB and encoding it again by the same crates.
fn plain_unit(file: &[u8]) -> Result<[(String, Spent); 2], String> {
    let (mut decode, mut encode) = (None, None);
    for _ in 0..RUNS {
        let (decoded, spent) = timed(|| plain::decoded(file));
        let (pixels, width, height) = decoded.map_err(|e| sentence::of(&e))?;
        decode = Some(decode.map_or(spent, |best: Spent| best.min(spent)));
        let (encoded, spent) = timed(|| plain::encoded(&pixels, width, height, QUALITY));
        encoded.map_err(|e| sentence::of(&e))?;
        encode = Some(encode.map_or(spent, |best: Spent| best.min(spent)));
    }
    Ok([("decode JPEG".into(), decode.unwrap_or_default()), ("encode JPEG".into(), encode.unwrap_or_default())])
}

/// As `develop` does it, in one process: opened, prepared, rendered, encoded.
fn file_to_file(file: &[u8], stock: &Stock, pool: &Arc<rayon::ThreadPool>) -> Result<Vec<(String, Spent)>, String> {
    let attached = Attached::default();
    let development = Development::new(stock);
    let formats = [
        ("JPEG to JPEG", Encoding::jpeg(QUALITY)),
        ("JPEG to 16-bit TIFF", Encoding::Tiff { bits: Bits::Sixteen, deflate: false }),
    ];
    let (mut opening, mut measuring) = (None, None);
    let mut figures = Vec::new();
    for (name, encoding) in formats {
        let mut best = None;
        for _ in 0..RUNS {
            let renderer = Renderer::new(pool.clone(), 0);
            let (scaled, whole) = timed(|| -> Result<Scaled, String> {
                let of = (&development, stock);
                let opened = opened_beside_tables(file, LIMITS, &renderer, of, &Size::Full);
                let scaled = Scaled::unmeasured(Arc::new(opened.map_err(|e| sentence::of(&e))?.source), "bench");
                let request = RenderRequest::whole(&scaled, stock, &development);
                let mut out = Cursor::new(Vec::new());
                let made = develop_into(&mut out, &renderer, &request, None, (&encoding, &attached), Watch::NONE);
                made.map_err(|e| sentence::of(&e))?;
                Ok(scaled)
            });
            let scaled = scaled?;
            best = Some(best.map_or(whole, |best: Spent| best.min(whole)));
            let (opened, open) = timed(|| pool.install(|| amber_files::open(file, LIMITS)));
            opened.map_err(|e| sentence::of(&e))?;
            opening = Some(opening.map_or(open, |best: Spent| best.min(open)));
            let (_, facts) = timed(|| pool.install(|| Facts::of(&scaled.source)));
            measuring = Some(measuring.map_or(facts, |best: Spent| best.min(facts)));
        }
        figures.push((name.to_string(), best.unwrap_or_default()));
    }
    figures.push(("of it opening, by itself".into(), opening.unwrap_or_default()));
    figures.push(("measuring the picture, where it is asked for".into(), measuring.unwrap_or_default()));
    Ok(figures)
}

/// Soft colours, hard edges, noise and a few lamps, as a JPEG.
fn invented_file(width: u32, height: u32) -> Result<Vec<u8>, String> {
    let mut pixels = Vec::with_capacity(3 * width as usize * height as usize);
    for y in 0..height {
        for x in 0..width {
            let (u, v) = (f64::from(x) / f64::from(width), f64::from(y) / f64::from(height));
            let edge = f64::from((x / 211 + y / 173) % 2) * 30.0;
            let lamp = if (x % 900) < 40 && (y % 1100) < 40 { 120.0 } else { 0.0 };
            let noise = f64::from(x.wrapping_mul(2_654_435_761).wrapping_add(y.wrapping_mul(40_503)) >> 28) - 8.0;
            let tone = |a: f64, b: f64| (40.0 + 150.0 * (a * u + b * v) + edge + lamp + noise).clamp(0.0, 255.0) as u8;
            pixels.extend([tone(0.7, 0.3), tone(0.4, 0.5), tone(0.1, 0.8)]);
        }
    }
    write::jpeg(&pixels, width, height, 95, None).map_err(|e| sentence::of(&e))
}

/// Everything prepared, as a render would.
struct Stages {
    scene: SceneStage,
    film: Arc<FilmResponse>,
    halation: Option<Haloing>,
    glow_time: Spent,
    grain: Option<GrainStage>,
    print: PrintStage,
    table_time: Spent,
    grain_time: Spent,
    uneven: Option<UnevenStage>,
    width_um: f64,
    acutance: Option<Acutance>,
    strength: Option<Strength>,
}

impl Stages {
    fn new(stock: &Stock, scaled: &Scaled) -> Self {
        let settings = FilmSettings::own(stock);
        let film = Arc::new(FilmResponse::new(stock, &settings, &BathSettings::own(stock)));
        let geometry = FilmGeometry::filling(settings.gate, scaled.full_width, scaled.full_height);
        let scene = SceneStage::unmeasured(&SceneSettings::own(stock));
        let (print, table_time) =
            timed(|| Viewing::new(&film, &PrintSettings::own(stock)).map(|v| PrintStage::new(Tables::new(&v, &film))));
        let (halation, glow_time) = timed(|| {
            Halation::new(stock, &settings.halation).map(|halation| {
                let expose = |source: &Source, region: Region| film.expose(scene.light(source, region), 1.0);
                let glow = Glow::new(&halation, &scaled.source, geometry.pitch_um, &expose);
                Haloing::with(halation, &settings.halation, glow)
            })
        });
        let uneven = UnevenSettings { amount: 0.5, streaks: 0.5, edges: 0.3, seed: 1 };
        let edges = [Edge { amount: 0.5, radius_um: 12.0 }, Edge { amount: 0.3, radius_um: 90.0 }];
        let (grain, grain_time) = timed(|| GrainStage::new(&settings, &film, 1, geometry.pitch_um));
        Self {
            grain,
            grain_time,
            print: print.expect("built-in stocks name materials that are there"),
            uneven: UnevenStage::new(&uneven, film.clone(), 1, geometry),
            acutance: Acutance::new(&edges, geometry.pitch_um),
            width_um: geometry.pitch_um * f64::from(geometry.width),
            strength: Strength::new(0.8, scene.decoding(), false),
            scene,
            film,
            halation,
            glow_time,
            table_time,
        }
    }

    /// Core time of each stage over the whole frame; the stages that are off by their own values come last.
    fn alone(&self, pool: &rayon::ThreadPool, source: &Source) -> Vec<(String, Spent)> {
        const NAMES: [&str; 11] = [
            "scene: decode, balance",
            "film: layer exposure",
            "film: halation, reading",
            "film: interlayer, curves",
            "film: grain",
            "print: table to display",
            "output: 8 bits",
            "bath: uneven (when on)",
            "print: reflectance (when on)",
            "print: acutance (when on)",
            "print: strength (when on)",
        ];
        let clocks: [AtomicU64; NAMES.len()] = Default::default();
        let on = |clock: usize, start: ThreadTime| {
            clocks[clock].fetch_add(start.elapsed().as_nanos() as u64, Ordering::Relaxed);
        };
        let (whole, frame) = (source.region(), FilmFrame::filling(source, self.width_um));
        pool.install(|| {
            whole.cells(TILE, &whole).par_iter().for_each(|cell| {
                let start = ThreadTime::now();
                let light = self.scene.light(source, *cell);
                on(0, start);
                let kept = light.clone();
                let start = ThreadTime::now();
                let mut exposure = self.film.expose(light, 1.0);
                on(1, start);
                let start = ThreadTime::now();
                if let Some(halation) = &self.halation {
                    exposure = halation.apply(&frame, exposure, *cell);
                }
                on(2, start);
                let start = ThreadTime::now();
                let mut density = self.film.develop(exposure);
                on(3, start);
                let uneven: Picture<LayerDensity> = density.clone();
                let start = ThreadTime::now();
                if let Some(stage) = &self.uneven {
                    std::hint::black_box(stage.apply(&frame, uneven, *cell));
                }
                on(7, start);
                let start = ThreadTime::now();
                if let Some(grain) = &self.grain {
                    density = grain.apply(&frame, density, *cell);
                }
                on(4, start);
                let again = density.clone();
                let start = ThreadTime::now();
                let shown = self.print.show(density, None);
                on(5, start);
                let start = ThreadTime::now();
                std::hint::black_box(output::to_8_bit(&shown));
                on(6, start);
                let start = ThreadTime::now();
                let mut reflectance = self.print.reflect(again, None);
                on(8, start);
                let start = ThreadTime::now();
                if let Some(acutance) = &self.acutance {
                    reflectance = acutance.apply(&frame, reflectance, *cell);
                }
                on(9, start);
                let start = ThreadTime::now();
                if let Some(strength) = &self.strength {
                    strength.mix(&mut reflectance, &kept);
                }
                on(10, start);
            });
        });
        let threads = pool.current_num_threads() as u32;
        let one = |(name, clock): (&str, &AtomicU64)| {
            let cpu = Duration::from_nanos(clock.load(Ordering::Relaxed));
            (name.to_string(), Spent { cpu, wall: cpu / threads })
        };
        let mut times: Vec<(String, Spent)> = NAMES.into_iter().zip(&clocks).map(one).collect();
        times.insert(2, ("film: halation, spreading".into(), self.glow_time));
        times.push(("print: building the table".into(), self.table_time));
        times.push(("grain: set-up".into(), self.grain_time));
        times
    }
}

/// Grain of one silver layer against the Boolean model's plain Monte Carlo, on one core.
fn against_monte_carlo() {
    const SIDE: u32 = 1024;
    const SMALL: u32 = 24;
    let Ok(stock) = Catalogue::find("juniper") else { return };
    let settings = FilmSettings::own(&stock);
    let film = FilmResponse::own(&stock);
    let Some(grain) = GrainStage::new(&settings, &film, 1, 6.0) else { return };
    let region = Region::whole(SIDE, SIDE);
    let source = Source::from_linear_srgb(SIDE, SIDE, |_, _| [0.2; 3]);
    let frame = FilmFrame::filling(&source, 6.0 * f64::from(SIDE));
    let mut fast: Option<Spent> = None;
    for _ in 0..RUNS {
        let mut density = Picture::from_planes(region, vec![vec![0.5f32; region.pixels()]]);
        let ((), time) = timed(|| {
            for cell in region.cells(TILE, &region) {
                density.paste(&grain.apply(&frame, density.cut(cell), cell));
            }
        });
        fast = Some(fast.map_or(time, |best| best.min(time)));
    }
    let ours = fast.unwrap_or_default().cpu.as_nanos() as f64 / region.pixels() as f64;
    println!("\ngrain of one layer at 6 um, one core: {ours:.1} ns per pixel");
    for samples in [100, 800] {
        let model = BooleanModel { radius_um: 1.15, density: 0.5, pitch_um: 6.0, samples };
        let (tones, time) = timed(|| model.render(SMALL));
        std::hint::black_box(tones);
        let theirs = time.cpu.as_nanos() as f64 / f64::from(SMALL * SMALL);
        println!(
            "Boolean model, {samples} points a pixel: {theirs:.0} ns per pixel, {:.0} times as long",
            theirs / ours
        );
    }
}

/// The most memory that this process ever held, where the system says so.
fn peak_memory_mib() -> Option<u64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find(|l| l.starts_with("VmHWM:"))?;
    let kib: u64 = line.split_whitespace().nth(1)?.parse().ok()?;
    Some(kib >> 10)
}
