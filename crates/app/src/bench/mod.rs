//! `amber-grain bench`: how long a frame takes, stage by stage, and what it needs. Figures of one run are to be
//! compared with one another, not with those of another machine.

mod boolean_model;
mod lens;
mod scene;
mod tone;

use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant};

use amber_core::effect::{Effect, FilmFrame};
use amber_core::output;
use amber_core::picture::buffer::LayerDensity;
use amber_core::picture::{FilmGeometry, Picture};
use amber_core::render::{GrainShown, RenderRequest, Renderer, Scaled, Watch};
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
use amber_files::{Limits, Metadata, write};
use amber_lab::render_pool;
use boolean_model::BooleanModel;
use rayon::prelude::*;

use crate::arguments::Bench;
use crate::sentence;

/// Side of the tiles, as the renderer cuts them.
const TILE: u32 = 256;
const QUALITY: u8 = 92;
/// Runs of the whole chain; the quickest counts.
const RUNS: usize = 3;

pub fn run(arguments: &Bench) -> Result<(), String> {
    let stock = Catalogue::find(&arguments.stock).map_err(|e| sentence::of(&e))?;
    let pool = render_pool(arguments.threads.map(|n| n.max(1))).map_err(|e| sentence::of(&e))?;
    let threads = pool.current_num_threads();
    let height = ((f64::from(arguments.megapixels) * 1e6 / 1.5).sqrt() as u32).max(64);
    let width = height * 3 / 2;
    let pixels = f64::from(width) * f64::from(height);
    println!("{width} x {height} on {}, {threads} threads; core time, nanoseconds per pixel and core\n", stock.name());

    let file = invented_file(width, height)?;
    let (opened, decode) = timed(|| pool.install(|| amber_files::open(&file, Limits { megapixels: 1000 })));
    let opened = opened.map_err(|e| sentence::of(&e))?;
    drop(file);
    let scaled = Scaled::full(Arc::new(opened.source), "bench");
    let stages = pool.install(|| Stages::new(&stock, &scaled));
    let alone = stages.alone(&pool, &scaled.source).into_iter().map(|(name, time)| (name.to_string(), time));
    let scene_effects = scene::effects(&stock, &scaled, &pool);
    let renderer = Renderer::new(pool, 0);
    let after = lens::effects(&stock, &scaled, &renderer).into_iter().chain(tone::effects(&stock, &scaled, &renderer));
    for (name, time) in alone.chain(scene_effects).chain(after) {
        println!("{name:<40} {:>8.0} ms {:>8.1} ns", time.as_secs_f64() * 1e3, time.as_nanos() as f64 / pixels);
    }

    let development = Development::new(&stock);
    let request = RenderRequest {
        scaled: &scaled,
        stock: &stock,
        development: &development,
        region: scaled.source.region(),
        grain: GrainShown::Full,
        keep_tiles: false,
    };
    let (mut chain, mut picture) = (Duration::MAX, Vec::new());
    for _ in 0..RUNS {
        let (made, time) = timed(|| renderer.display_8_bit(&request, Watch::NONE));
        picture = made.map_err(|e| sentence::of(&e))?;
        chain = chain.min(time);
    }
    let (encoded, encode) = timed(|| write::jpeg(&picture, width, height, QUALITY, Some(&Metadata::default())));
    encoded.map_err(|e| sentence::of(&e))?;
    let per_pixel = chain.as_nanos() as f64 * threads as f64 / pixels;
    println!("\nwall time");
    for (name, time) in [("decode JPEG", decode), ("encode JPEG", encode), ("whole chain", chain)] {
        println!("{name:<28} {:>8.0} ms", time.as_secs_f64() * 1e3);
    }
    println!("\nwhole chain                  {per_pixel:>8.1} ns per pixel and core");
    println!("whole chain / (decode + encode)  {:.2}", chain.as_secs_f64() / (decode + encode).as_secs_f64());
    match peak_memory_mib() {
        Some(mib) => println!("peak memory                  {mib:>8} MiB"),
        None => println!("peak memory                  not known on this system"),
    }
    against_monte_carlo();
    Ok(())
}

fn timed<T>(work: impl FnOnce() -> T) -> (T, Duration) {
    let start = Instant::now();
    let made = work();
    (made, start.elapsed())
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
    glow_time: Duration,
    grain: Option<GrainStage>,
    print: PrintStage,
    table_time: Duration,
    grain_time: Duration,
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
    fn alone(&self, pool: &rayon::ThreadPool, source: &Source) -> Vec<(&'static str, Duration)> {
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
        let on = |clock: usize, start: Instant| {
            clocks[clock].fetch_add(start.elapsed().as_nanos() as u64, Ordering::Relaxed);
        };
        let (whole, frame) = (source.region(), FilmFrame::filling(source, self.width_um));
        pool.install(|| {
            whole.cells(TILE, &whole).par_iter().for_each(|cell| {
                let start = Instant::now();
                let light = self.scene.light(source, *cell);
                on(0, start);
                let kept = light.clone();
                let start = Instant::now();
                let mut exposure = self.film.expose(light, 1.0);
                on(1, start);
                let start = Instant::now();
                if let Some(halation) = &self.halation {
                    exposure = halation.apply(&frame, exposure, *cell);
                }
                on(2, start);
                let start = Instant::now();
                let mut density = self.film.develop(exposure);
                on(3, start);
                let uneven: Picture<LayerDensity> = density.clone();
                let start = Instant::now();
                if let Some(stage) = &self.uneven {
                    std::hint::black_box(stage.apply(&frame, uneven, *cell));
                }
                on(7, start);
                let start = Instant::now();
                if let Some(grain) = &self.grain {
                    density = grain.apply(&frame, density, *cell);
                }
                on(4, start);
                let again = density.clone();
                let start = Instant::now();
                let shown = self.print.show(density, None);
                on(5, start);
                let start = Instant::now();
                std::hint::black_box(output::to_8_bit(&shown));
                on(6, start);
                let start = Instant::now();
                let mut reflectance = self.print.reflect(again, None);
                on(8, start);
                let start = Instant::now();
                if let Some(acutance) = &self.acutance {
                    reflectance = acutance.apply(&frame, reflectance, *cell);
                }
                on(9, start);
                let start = Instant::now();
                if let Some(strength) = &self.strength {
                    strength.mix(&mut reflectance, &kept);
                }
                on(10, start);
            });
        });
        let mut times: Vec<(&str, Duration)> =
            NAMES.into_iter().zip(&clocks).map(|(n, c)| (n, Duration::from_nanos(c.load(Ordering::Relaxed)))).collect();
        let threads = pool.current_num_threads() as u32;
        times.insert(2, ("film: halation, spreading", self.glow_time * threads));
        times.push(("print: building the table", self.table_time * threads));
        times.push(("grain: set-up", self.grain_time * threads));
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
    let mut fast = Duration::MAX;
    for _ in 0..RUNS {
        let mut density = Picture::from_planes(region, vec![vec![0.5f32; region.pixels()]]);
        let ((), time) = timed(|| {
            for cell in region.cells(TILE, &region) {
                density.paste(&grain.apply(&frame, density.cut(cell), cell));
            }
        });
        fast = fast.min(time);
    }
    let ours = fast.as_nanos() as f64 / region.pixels() as f64;
    println!("\ngrain of one layer at 6 um, one core: {ours:.1} ns per pixel");
    for samples in [100, 800] {
        let model = BooleanModel { radius_um: 1.15, density: 0.5, pitch_um: 6.0, samples };
        let (tones, time) = timed(|| model.render(SMALL));
        std::hint::black_box(tones);
        let theirs = time.as_nanos() as f64 / f64::from(SMALL * SMALL);
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
