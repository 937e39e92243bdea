//! Each stage on one tile, one core. Ratios within one run count; the machines differ.

use amber_core::effect::{Effect, FilmFrame};
use amber_core::picture::Picture;
use amber_core::picture::buffer::LayerDensity;
use amber_core::stations::film::FilmResponse;
use amber_core::stations::film::FilmSettings;
use amber_core::stations::film::grain::GrainStage;
use amber_core::stations::print::stage::Tables;
use amber_core::stations::print::{PrintSettings, PrintStage, Viewing};
use amber_core::stations::scene::{SceneSettings, SceneStage};
use amber_core::{Catalogue, Region, Source};
use criterion::{BatchSize, Criterion, Throughput, criterion_group, criterion_main};

const SIDE: u32 = 256;

fn stages(c: &mut Criterion) {
    let source = Source::from_linear_srgb(SIDE, SIDE, |x, y| {
        let (u, v) = (f64::from(x) / 255.0, f64::from(y) / 255.0);
        [0.02 + 0.8 * u * v, 0.05 + 0.5 * v, 0.7 * (1.0 - u)]
    });
    let region = Region::whole(SIDE, SIDE);
    let frame = FilmFrame::filling(&source, 6.0 * f64::from(SIDE));
    for id in ["plover", "feldspar", "juniper"] {
        let stock = Catalogue::find(id).expect("built in");
        let scene = SceneStage::unmeasured(&SceneSettings::own(&stock));
        let film = FilmResponse::own(&stock);
        let grain = GrainStage::new(&FilmSettings::own(&stock), &film, 1, 6.0).expect("it has grain");
        let viewing = Viewing::new(&film, &PrintSettings::own(&stock)).expect("built in");
        let print = PrintStage::new(Tables::new(&viewing, &film));
        let light = scene.light(&source, region);
        let exposure = film.expose(light.clone(), 1.0);
        let density: Picture<LayerDensity> = film.develop(exposure.clone());
        let mut group = c.benchmark_group(id);
        group.throughput(Throughput::Elements(region.pixels() as u64));
        group.bench_function("scene", |b| b.iter(|| scene.light(&source, region)));
        group.bench_function("expose", |b| {
            b.iter_batched(|| light.clone(), |l| film.expose(l, 1.0), BatchSize::LargeInput)
        });
        group.bench_function("develop", |b| {
            b.iter_batched(|| exposure.clone(), |e| film.develop(e), BatchSize::LargeInput)
        });
        group.bench_function("grain", |b| {
            b.iter_batched(|| density.clone(), |d| grain.apply(&frame, d, region), BatchSize::LargeInput);
        });
        group.bench_function("print", |b| {
            b.iter_batched(|| density.clone(), |d| print.show(d, None), BatchSize::LargeInput)
        });
        group.bench_function("table", |b| b.iter(|| PrintStage::new(Tables::new(&viewing, &film))));
        group.finish();
    }
}

criterion_group!(benches, stages);
criterion_main!(benches);
