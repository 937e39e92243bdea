//! How often a hidden stock is found, and how near the prints of the proposals come: pairs of the demo photographs, the
//! one printed on any stock with any of six tunings, the other to be brought there.
//!
//! `cargo run --release -p amber-matching --example pairs -- LONG_EDGE SEED COUNT`

#[path = "../tests/support/mod.rs"]
mod support;

use amber_core::controls::Value;
use amber_core::render::{Scaled, Watch};
use amber_core::{Catalogue, Development, Stock, stations};
use amber_matching::MatchError;
use amber_matching::reference::{Asked, Proposal, match_reference};

use support::{apart, photograph, print_of, renderer};

const PHOTOGRAPHS: [&str; 8] = [
    "flash-backstage",
    "grey-quay",
    "hill-road",
    "lantern-street",
    "marionette-portrait",
    "noon-meadow",
    "paint-shelf",
    "rehearsal",
];

/// One of six tunings, and another granularity.
fn tuned(stock: &Stock, random: &mut impl FnMut() -> f64) -> Development {
    let mut development = Development::new(stock);
    let mut set = |id: &str, value: f64| {
        if stations::find(id).is_ok_and(|c| (c.applies)(stock)) {
            // in its range, so it is taken
            let _ = development.set(stock, id, Value::Number(value));
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
    development
}

fn main() -> Result<(), MatchError> {
    let numbers: Vec<u32> = std::env::args().skip(1).filter_map(|v| v.parse().ok()).collect();
    let [long_edge, seed, count] = [0, 1, 2].map(|i| numbers.get(i).copied().unwrap_or([720, 11, 36][i]));
    let renderer = renderer();
    let mut state = seed;
    let mut random = move || {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        f64::from(state >> 8) / f64::from(1 << 24)
    };
    let first = Catalogue::first();
    let own = Development::new(&first);
    let (mut nearest, mut among_three, mut near, mut one_near) = (0, 0, 0, 0);
    for n in 0..count as usize {
        let stock = &Catalogue::all()[(random() * Catalogue::all().len() as f64) as usize];
        let [a, b] = [n % 8, (n * 3 + 1 + n / 8) % 8];
        let [of, to] = [a, if a == b { (b + 1) % 8 } else { b }].map(|i| PHOTOGRAPHS[i]);
        let hidden = tuned(stock, &mut random);
        let [source, frame] = [of, to].map(|name| photograph(name, long_edge));
        let reference = print_of(&source, stock, &hidden);
        let truth = print_of(&frame, stock, &hidden);
        let scaled = Scaled::full(frame.clone(), to);
        let asked = Asked {
            renderer: &renderer,
            frame: &scaled,
            development: &own,
            stock: &first,
            reference: &reference,
            stocks: Catalogue::all(),
            watch: Watch::NONE,
        };
        let found = match_reference(&asked)?;
        let rank = found.ranked.iter().position(|r| r.stock.id == stock.id).unwrap_or(usize::MAX);
        let distance = |p: &Proposal| apart(&print_of(&frame, &p.stock, &p.development), &truth);
        let distances: Vec<f64> = found.proposals.iter().map(distance).collect();
        nearest += u32::from(rank == 0);
        among_three += u32::from(rank < 3);
        near += u32::from(distances.first().is_some_and(|d| *d < 4.0));
        one_near += u32::from(distances.iter().any(|d| *d < 4.0));
        let words: Vec<String> = found.proposals.iter().map(|p| p.words()).collect();
        println!("{} {:?}, {of} for {to}: {rank} {distances:.1?} {words:?}", stock.id, hidden.values.keys());
    }
    println!("of {count}: nearest {nearest}, among three {among_three}, first near {near}, one near {one_near}");
    Ok(())
}
