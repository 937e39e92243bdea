use amber_core::colour::{difference::ciede2000, lab::from_linear_srgb};
use amber_core::controls::Value;
use amber_core::render::*;
use amber_core::{Catalogue, Development, Source, Stock};
use amber_matching::reference::{Asked, match_reference};
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
    let (mut first, mut three, mut in_three, mut near, mut near_best) = (0, 0, 0, 0, 0);
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
        let scaled = Scaled::full(b.1.clone(), "frame");
        let own = Development::new(&Catalogue::first());
        let stocks = Catalogue::all().to_vec();
        let asked = Asked {
            renderer: &renderer,
            frame: &scaled,
            development: &own,
            stock: &Catalogue::first(),
            reference: &reference,
            stocks: &stocks,
            watch: Watch::NONE,
        };
        let found = match_reference(&asked).unwrap();
        let took = t.elapsed();
        let rank = found.ranked.iter().position(|r| r.stock.id == stock.id).unwrap();
        let apart_of: Vec<f64> = found
            .proposals
            .iter()
            .map(|p| {
                let mut development = p.development.clone();
                development.seed = d.seed;
                apart(&print_of(&renderer, &b.1, &p.stock, &development, GrainShown::Full), &truth)
            })
            .collect();
        let best = apart_of.iter().copied().fold(f64::INFINITY, f64::min);
        first += usize::from(rank == 0);
        three += usize::from(rank < 3);
        near += usize::from(apart_of[0] < 4.0);
        near_best += usize::from(best < 4.0);
        in_three += usize::from(found.proposals.iter().any(|p| p.stock.id == stock.id));
        println!(
            "{} {:?} {} -> {}: rank {rank} {:?} dE {apart_of:.1?} {took:.1?}",
            stock.id,
            d.values.keys().collect::<Vec<_>>(),
            a.0,
            b.0,
            found.proposals.iter().map(|p| p.words()).collect::<Vec<_>>()
        );
    }
    println!("first {first} three {three} proposals {in_three} near {near} best {near_best} of {many}");
}
