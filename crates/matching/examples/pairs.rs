use amber_core::colour::{difference::ciede2000, lab::from_linear_srgb};
use amber_core::controls::Value;
use amber_core::render::*;
use amber_core::{Catalogue, Development, Source, Stock};
use amber_matching::colour::Palette;
use amber_matching::grain::*;
use amber_matching::reference::{energy::*, search::*};
use rayon::prelude::*;
use std::sync::Arc;

fn print_of(
    renderer: &Renderer,
    source: &Arc<Source>,
    stock: &Stock,
    development: &Development,
    grain: GrainShown,
) -> Source {
    let scaled = Scaled::full(source.clone(), &format!("{:p}", Arc::as_ptr(source)));
    let request = RenderRequest {
        scaled: &scaled,
        stock,
        development,
        region: source.region(),
        grain,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let shown = renderer.display_8_bit(&request, Watch::NONE).unwrap();
    Source::of_8_bit(source.width(), source.height(), shown).unwrap()
}
fn apart(a: &Source, b: &Source) -> f64 {
    let lin = amber_core::picture::source::linear_of_code();
    let a = a.reduced(a.width() / 6, a.height() / 6);
    let b = b.reduced(b.width() / 6, b.height() / 6);
    let lab = |s: &Source, i: usize| from_linear_srgb(s.pixel(i).map(|c| f64::from(lin[c as usize])));
    let mut d: Vec<f64> = (0..a.region().pixels()).map(|i| ciede2000(lab(&a, i), lab(&b, i))).collect();
    d.sort_by(f64::total_cmp);
    d[d.len() / 2]
}

fn main() {
    let edge: u32 = std::env::args().nth(1).map_or(720, |v| v.parse().unwrap());
    let seed: u32 = std::env::args().nth(2).map_or(3, |v| v.parse().unwrap());
    let many: usize = std::env::args().nth(3).map_or(24, |v| v.parse().unwrap());
    let renderer = Renderer::new(Arc::new(rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap()), 0);
    let mut photos = Vec::new();
    for f in [
        "flash-backstage",
        "grey-quay",
        "hill-road",
        "lantern-street",
        "marionette-portrait",
        "noon-meadow",
        "paint-shelf",
        "rehearsal",
    ] {
        let b = std::fs::read(format!("demo/photographs/{f}.jpg")).unwrap();
        let s = amber_files::open(&b, amber_files::Limits { megapixels: 100 }).unwrap().source;
        let (w, h) = amber_core::picture::reduce::size_for_long_edge(edge.min(s.long_edge()), s.width(), s.height());
        photos.push((f, Arc::new(s.reduced(w, h))));
    }
    let mut state = seed;
    let mut random = move || {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        f64::from(state >> 8) / f64::from(1 << 24)
    };
    let explainer = Explainer::default();
    let (mut first, mut three, mut near, mut near_own) = (0, 0, 0, 0);
    for n in 0..many {
        let stock = &Catalogue::all()[(random() * 34.0) as usize];
        let (a, b) = (&photos[n % 8], &photos[(n * 3 + 1 + n / 8) % 8]);
        let b = if a.0 == b.0 { &photos[(n + 1) % 8] } else { b };
        let mut d = Development::new(stock);
        let mut set = |id: &str, v: f64| {
            let c = amber_core::stations::find(id).unwrap();
            if (c.applies)(stock) {
                d.set(stock, id, Value::Number(v)).unwrap();
            }
        };
        match (random() * 6.0) as u32 {
            0 => set("film.push", if random() < 0.5 { 0.5 } else { 1.0 }),
            1 => set("years.age", (5.0 + 20.0 * random()).round()),
            2 => {
                set("print.filter.yellow", (16.0 * random() - 8.0).round());
                set("print.filter.magenta", (12.0 * random() - 6.0).round());
            }
            3 => {
                set("print.contrast", 1.15);
                set("print.grade", 3.0);
            }
            4 => set("print.exposure", 0.25),
            _ => {}
        }
        set("film.grain.granularity", (stock.grain.granularity * (0.8 + 0.6 * random()) * 2.0).round() / 2.0);
        let reference = print_of(&renderer, &a.1, stock, &d, GrainShown::Full);
        let truth = print_of(&renderer, &b.1, stock, &d, GrainShown::Full);
        let t = std::time::Instant::now();
        let palette = Palette::of(&reference);
        let aim = GrainMeasure::of(&reference, reference.region()).unwrap();
        let size = [reference.width(), reference.height()];
        let mut ranked: Vec<(f64, &Arc<Stock>)> = Catalogue::all()
            .par_iter()
            .map(|s| {
                let e = explainer.explained(&palette, s, &Development::new(s)).unwrap();
                (e.badness(), s)
            })
            .collect();
        for r in &mut ranked {
            let m = Strips::new(&renderer, r.1, Enlarged { film: size, scale: 1.0 })
                .measured(&Strips::of_greys(&Development::new(r.1)))
                .unwrap();
            r.0 += unexplained_grain(r.1, &m, &aim);
        }
        ranked.sort_by(|a, b| a.0.total_cmp(&b.0));
        let rank0 = ranked.iter().position(|s| s.1.id == stock.id).unwrap();
        let t1 = t.elapsed();
        let mut found: Vec<(f64, String, Found, Way)> = ranked[..5]
            .par_iter()
            .flat_map(|(_, s)| {
                [Way::Plain, Way::Printed, Way::Aged].into_par_iter().map(|way| {
                    let f = Search { explainer: &explainer, reference: &palette, stock: s, abandoned: &|| false }
                        .best(way)
                        .unwrap();
                    (f.energy, s.id.clone(), f, way)
                })
            })
            .collect();
        for f in &mut found {
            let s = Catalogue::find(&f.1).unwrap();
            let m = Strips::new(&renderer, &s, Enlarged { film: size, scale: 1.0 })
                .measured(&Strips::of_greys(&Development::new(&s)))
                .unwrap();
            f.0 += unexplained_grain(&s, &m, &aim);
        }
        found.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut stocks: Vec<String> = Vec::new();
        for f in &found {
            if !stocks.contains(&f.1) {
                stocks.push(f.1.clone());
            }
        }
        let rank = stocks.iter().position(|s| *s == stock.id);
        let best = Catalogue::find(&found[0].1).unwrap();
        let ours = print_of(&renderer, &b.1, &best, &found[0].2.development, GrainShown::Full);
        let own = print_of(&renderer, &b.1, ranked[0].1, &Development::new(ranked[0].1), GrainShown::Full);
        let (de, de_own) = (apart(&ours, &truth), apart(&own, &truth));
        first += usize::from(rank == Some(0));
        three += usize::from(rank.is_some_and(|r| r < 3));
        near += usize::from(de < 4.0);
        near_own += usize::from(de_own < 4.0);
        println!(
            "{} {:?} on {} -> {}: rank {rank0} -> {rank:?}; {} {:?} dE {de:.2} (plain {} {de_own:.2}) {t1:.1?} {:.1?}",
            stock.id,
            d.values.iter().map(|(k, v)| format!("{k}={v:?}")).collect::<Vec<_>>(),
            a.0,
            b.0,
            found[0].1,
            found[0].2.development.values,
            ranked[0].1.id,
            t.elapsed()
        );
    }
    println!("first {first} three {three} near {near} plain {near_own} of {many}");
}
