use amber_core::controls::Value;
use amber_core::render::*;
use amber_core::{Catalogue, Development, Source, Stock};
use amber_matching::colour::{Palette, PointPrint};
use amber_matching::grain::*;
use amber_matching::reference::{natural::*, undeveloped::*};
use rayon::prelude::*;
use std::sync::Arc;

fn print_of(renderer: &Renderer, source: &Arc<Source>, stock: &Stock, development: &Development) -> Source {
    let scaled = Scaled::full(source.clone(), &format!("{:p}", Arc::as_ptr(source)));
    let request = RenderRequest {
        scaled: &scaled,
        stock,
        development,
        region: source.region(),
        grain: GrainShown::Full,
        keep_tiles: false,
        finish: Finish::SCREEN,
    };
    let shown = renderer.display_8_bit(&request, Watch::NONE).unwrap();
    Source::of_8_bit(source.width(), source.height(), shown).unwrap()
}
fn q(v: &mut Vec<(f64, f64)>, share: f64) -> f64 {
    v.sort_by(|a, b| a.0.total_cmp(&b.0));
    let all: f64 = v.iter().map(|t| t.1).sum();
    let mut s = 0.0;
    for (x, w) in v.iter() {
        s += w;
        if s >= share * all {
            return *x;
        }
    }
    v.last().unwrap().0
}
fn stats(was: &[Was]) -> Vec<f64> {
    let w: f64 = was.iter().map(|w| w.share.sqrt()).sum();
    let all: f64 = was.iter().map(|w| w.share).sum();
    let mut out = vec![
        was.iter().map(|w| w.share.sqrt() * (w.off / 1.0).powi(2).min(16.0)).sum::<f64>() / w,
        was.iter().map(|w| w.share.sqrt() * w.off.min(8.0)).sum::<f64>() / w,
        was.iter().map(|w| w.share * w.off.min(8.0)).sum::<f64>() / all,
    ];
    for c in 0..4 {
        let mut v: Vec<(f64, f64)> =
            was.iter().map(|w| (if c < 3 { w.encoded[c] } else { luma(w.encoded) }, w.share)).collect();
        for s in [0.005, 0.05, 0.25, 0.5, 0.75, 0.95, 0.995] {
            out.push(q(&mut v, s));
        }
    }
    for class in 0..4 {
        let near: Vec<&Was> = was
            .iter()
            .filter(|w| {
                let t = luma(w.encoded);
                let a = w.encoded[0] - w.encoded[1];
                let b = w.encoded[2] - 0.5 * (w.encoded[0] + w.encoded[1]);
                t >= 0.25 * class as f64 && t < 0.25 * class as f64 + 0.2501 && a.hypot(b) < 0.16
            })
            .collect();
        let seen: f64 = near.iter().map(|w| w.share).sum();
        out.push(seen);
        for k in 0..2 {
            let mut v: Vec<(f64, f64)> = near
                .iter()
                .map(|w| {
                    (
                        if k == 0 {
                            w.encoded[0] - w.encoded[1]
                        } else {
                            w.encoded[2] - 0.5 * (w.encoded[0] + w.encoded[1])
                        },
                        w.share.sqrt(),
                    )
                })
                .collect();
            out.push(if v.is_empty() { 0.0 } else { q(&mut v, 0.5) });
        }
    }
    let ch = |w: &Was| (w.encoded[0] - w.encoded[1]).hypot(w.encoded[2] - 0.5 * (w.encoded[0] + w.encoded[1]));
    let mut v: Vec<(f64, f64)> = was.iter().map(|w| (ch(w), w.share)).collect();
    for s in [0.1, 0.5, 0.9, 0.99] {
        out.push(q(&mut v, s));
    }
    out.push(was.iter().map(|w| w.share * ch(w)).sum::<f64>() / all);
    // share at the faces of the cube
    out.push(
        was.iter().filter(|w| w.encoded.iter().any(|v| *v <= 0.0005 || *v >= 0.9995)).map(|w| w.share).sum::<f64>()
            / all,
    );
    out
}
fn main() {
    let edge: u32 = std::env::args().nth(1).map_or(720, |v| v.parse().unwrap());
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
        let (w, h) = amber_core::picture::reduce::size_for_long_edge(edge, s.width(), s.height());
        photos.push((f, Arc::new(s.reduced(w, h))));
    }
    let (colours, greys) = (Lattice::of_colours(), Lattice::of_greys());
    let mut state = 9u32;
    let mut random = move || {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        f64::from(state >> 8) / f64::from(1 << 24)
    };
    let sizes: std::collections::BTreeSet<[u32; 2]> = photos.iter().map(|p| [p.1.width(), p.1.height()]).collect();
    let mut strips = std::collections::BTreeMap::new();
    for size in sizes {
        for s in Catalogue::all().iter() {
            let m = Strips::new(&renderer, s, Enlarged { film: size, scale: 1.0 })
                .measured(&Strips::of_greys(&Development::new(s)))
                .unwrap();
            strips.insert((size, s.id.clone()), m);
        }
    }
    for (name, photo) in &photos {
        for stock in Catalogue::all().iter() {
            for tuned in [false, true] {
                let mut d = Development::new(stock);
                if tuned {
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
                        _ => set("scene.exposure", -0.4),
                    }
                    set(
                        "film.grain.granularity",
                        (stock.grain.granularity * (0.8 + 0.6 * random()) * 2.0).round() / 2.0,
                    );
                }
                let print = print_of(&renderer, photo, stock, &d);
                let palette = Palette::of(&print);
                let aim = GrainMeasure::of(&print, print.region()).ok();
                let rows: Vec<String> = Catalogue::all()
                    .par_iter()
                    .map(|s| {
                        let p = PointPrint::new(s, &Development::new(s)).unwrap();
                        let coloured = s.layers() == 3;
                        let was = undeveloped(&palette, &p, if coloured { &colours } else { &greys });
                        let m = &strips[&([photo.width(), photo.height()], s.id.clone())];
                        let (mut gs, mut gl, mut gb) = (f64::NAN, f64::NAN, f64::NAN);
                        if let Some(aim) = &aim {
                            let r: Vec<(f64, f64)> = aim
                                .tones
                                .iter()
                                .filter_map(|t| {
                                    Some((
                                        (m.at(t.tone)?.sigma().max(1e-4) / t.sigma().max(1e-4)).ln(),
                                        (t.blocks as f64).sqrt(),
                                    ))
                                })
                                .collect();
                            let w: f64 = r.iter().map(|r| r.1).sum();
                            gs = r.iter().map(|r| r.0 * r.1).sum::<f64>() / w;
                            gl = (m.length_px() / aim.length_px()).ln();
                            gb = m.between()[0] - aim.between()[0];
                        }
                        let st: Vec<String> = stats(&was).iter().map(|v| format!("{v:.4}")).collect();
                        format!(
                            "{name},{},{tuned},{},{coloured},{gs:.4},{gl:.4},{gb:.4},{}",
                            stock.id,
                            s.id,
                            st.join(",")
                        )
                    })
                    .collect();
                rows.iter().for_each(|r| println!("{r}"));
            }
        }
    }
}
