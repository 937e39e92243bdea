//! Twelve references, each the print of another photograph on a hidden stock with a hidden tuning.

mod support;

use std::sync::Arc;

use amber_core::controls::Value;
use amber_core::render::{Renderer, Scaled, Watch};
use amber_core::{Catalogue, CoreError, Development, Source, Stock};
use amber_matching::MatchError;
use amber_matching::reference::{Asked, Proposal, match_reference};

use support::{apart, print_of, renderer};

/// The stock, what is tuned of it, the photograph of the reference and the one to be brought there.
type Pair = (&'static str, &'static [(&'static str, f64)], &'static str, &'static str);

const PAIRS: [Pair; 12] = [
    ("dunlin", &[("film.grain.granularity", 26.0)], "hill-road", "flash-backstage"),
    ("garnet", &[("film.push", 1.0)], "paint-shelf", "lantern-street"),
    ("nightjar", &[("film.push", 0.5)], "hill-road", "grey-quay"),
    ("wren", &[("years.age", 13.0)], "grey-quay", "noon-meadow"),
    ("cladonia", &[], "flash-backstage", "hill-road"),
    ("whelk", &[("film.grain.granularity", 20.0)], "marionette-portrait", "noon-meadow"),
    ("cowrie", &[], "noon-meadow", "hill-road"),
    ("cyanotype", &[("print.contrast", 1.15)], "lantern-street", "hill-road"),
    ("alder", &[("print.grade", 3.0)], "noon-meadow", "grey-quay"),
    ("gum", &[("print.exposure", 0.25)], "marionette-portrait", "paint-shelf"),
    ("feldspar", &[("film.push", 0.5)], "rehearsal", "paint-shelf"),
    ("beryl", &[("print.filter.yellow", 4.0)], "noon-meadow", "grey-quay"),
];

fn photograph(name: &str) -> Arc<Source> {
    support::photograph(name, 720)
}

fn asked<'a>(
    renderer: &'a Renderer,
    frame: &'a Scaled,
    own: &'a (Development, Arc<Stock>),
    reference: &'a Source,
    watch: Watch<'a>,
) -> Asked<'a> {
    Asked { renderer, frame, development: &own.0, stock: &own.1, reference, stocks: Catalogue::all(), watch }
}

#[test]
fn hidden_stocks_are_found_and_their_prints_met() {
    let renderer = renderer();
    let first = Catalogue::first();
    let own = (Development::new(&first), first);
    let (mut among_three, mut near, mut best_near) = (0, 0, 0);
    for (id, tuning, of, frame) in PAIRS {
        let stock = Catalogue::find(id).unwrap();
        let mut hidden = Development::new(&stock);
        for (control, value) in tuning {
            hidden.set(&stock, control, Value::Number(*value)).unwrap();
        }
        let [source, photograph] = [of, frame].map(photograph);
        let reference = print_of(&source, &stock, &hidden);
        let truth = print_of(&photograph, &stock, &hidden);
        let scaled = Scaled::full(photograph.clone(), frame);
        let found = match_reference(&asked(&renderer, &scaled, &own, &reference, Watch::NONE)).unwrap();
        let rank = found.ranked.iter().position(|r| r.stock.id == id).unwrap();
        let distance = |p: &Proposal| apart(&print_of(&photograph, &p.stock, &p.development), &truth);
        let distances: Vec<f64> = found.proposals.iter().map(distance).collect();
        let words: Vec<String> = found.proposals.iter().map(|p| p.words()).collect();
        println!("{id} of {of} for {frame}: rank {rank}, {distances:.1?}, {words:?}");
        assert!(found.proposals.len() == 3 && found.proposals.iter().all(|p| p.moved.len() <= 8));
        among_three += usize::from(rank < 3);
        near += usize::from(distances[0] < 4.0);
        best_near += usize::from(distances.iter().any(|d| *d < 4.0));
    }
    println!("among the first three {among_three}, first print near {near}, one of three near {best_near}");
    assert!(among_three >= 9, "{among_three}");
    assert!(near >= 10 && best_near >= 11, "{near} {best_near}");
}

const HALATION: &str = "film.halation.strength";

/// What a reference shows of lights and edges, on a stock that is known.
#[test]
fn falloff_and_the_glow_round_lights_are_brought_along() {
    let renderer = renderer();
    let stock = Catalogue::find("plover").unwrap();
    let stocks = [stock.clone()];
    let own = (Development::new(&stock), stock.clone());
    let scaled = Scaled::full(photograph("noon-meadow"), "noon-meadow");
    let moved = |of: &str, hidden: &[(&str, f64)]| -> Vec<(&'static str, f64)> {
        let mut development = Development::new(&stock);
        for (control, value) in hidden {
            development.set(&stock, control, Value::Number(*value)).unwrap();
        }
        let reference = print_of(&photograph(of), &stock, &development);
        let asked = Asked { stocks: &stocks, ..asked(&renderer, &scaled, &own, &reference, Watch::NONE) };
        let found = match_reference(&asked).unwrap();
        let of_place =
            found.proposals[0].moved.iter().filter(|m| ["lens.falloff.stops", HALATION].contains(&m.control.id));
        of_place.map(|m| (m.control.id, m.value.as_number().unwrap())).collect()
    };
    for of in ["hill-road", "lantern-street", "paint-shelf"] {
        assert_eq!(moved(of, &[]), [], "{of} as it is");
    }
    let darkened = moved("hill-road", &[("lens.falloff.stops", -1.6)]);
    assert!(matches!(darkened[..], [("lens.falloff.stops", stops)] if (-2.2..-1.25).contains(&stops)), "{darkened:?}");
    let glowing = moved("lantern-street", &[(HALATION, 0.25)]);
    assert!(matches!(glowing[..], [(HALATION, strength)] if (0.1..0.4).contains(&strength)), "{glowing:?}");
}

#[test]
fn what_tells_nothing_is_refused_and_what_is_given_up_ends() {
    let renderer = renderer();
    let first = Catalogue::first();
    let own = (Development::new(&first), first);
    let scaled = Scaled::full(photograph("grey-quay"), "grey-quay");
    let grey = Source::from_linear_srgb(200, 150, |_, _| [0.18; 3]);
    let refused = match_reference(&asked(&renderer, &scaled, &own, &grey, Watch::NONE)).unwrap_err();
    assert!(
        matches!(&refused, MatchError::TooLittle { .. }) && refused.to_string().contains("too little"),
        "{refused}"
    );
    let over = Watch { abandoned: &|| true, progress: &|_, _| {} };
    let reference = photograph("paint-shelf");
    let ended = match_reference(&asked(&renderer, &scaled, &own, &reference, over)).unwrap_err();
    assert!(matches!(ended, MatchError::Core(CoreError::Abandoned)));
}
