//! Stocks that were hidden behind a chart are found again.

use amber_core::colour::difference::ciede2000;
use amber_core::stations::film::FilmResponse;
use amber_core::stock::StockKind;
use amber_core::stock::chart::{Chart, Patch, SeenBy, WedgeStep};
use amber_core::{Catalogue, CoreError, Development, Source, Stock};
use amber_matching::MatchError;
use amber_matching::chart::d50::{lab_of, linear_srgb_of};
use amber_matching::chart::{ChartFile, fit};
use amber_matching::colour::PointPrint;

/// The fourteen test colours of CIE 13.3-1995 in Lab under D50, computed from their published spectra, and ten greys.
const COLOURS: [[f64; 3]; 14] = [
    [62.0, 19.0, 13.0],
    [61.0, 2.7, 29.3],
    [62.1, -17.8, 43.9],
    [60.8, -31.7, 15.3],
    [61.9, -19.1, -9.7],
    [60.9, -4.0, -29.3],
    [61.1, 17.8, -23.9],
    [63.2, 27.3, -12.3],
    [41.8, 62.0, 31.7],
    [82.0, 1.8, 71.7],
    [51.6, -41.2, 11.5],
    [29.2, -5.2, -49.4],
    [80.8, 13.7, 21.8],
    [40.8, -12.4, 24.1],
];

fn references() -> Vec<[f64; 3]> {
    COLOURS.into_iter().chain((0..10).map(|i| [12.0 + 9.0 * f64::from(i), 0.0, 0.0])).collect()
}

fn printed(stock: &Stock, references: &[[f64; 3]]) -> Vec<[f64; 3]> {
    let source = Source::from_linear_srgb(references.len() as u32, 1, |x, _| linear_srgb_of(references[x as usize]));
    let print = PointPrint::new(stock, &Development::new(stock)).unwrap();
    print.linear_srgb(&source).into_iter().map(lab_of).collect()
}

fn chart_of(stock: &Stock, kind: StockKind) -> ChartFile {
    let film = FilmResponse::own(stock);
    let step = |i: i32| {
        let log_exposure = -2.4 + 0.15 * f64::from(i);
        let density = film.curves.iter().map(|c| c.density(film.grey + log_exposure)).collect();
        WedgeStep { log_exposure, density }
    };
    let references = references();
    let patches = references.iter().zip(printed(stock, &references)).enumerate();
    let patches = patches
        .map(|(i, (reference, measured))| Patch {
            name: format!("{}", i + 1),
            reference: *reference,
            measured: Some(measured),
        })
        .collect();
    let chart = Chart { wedge: (0..28).map(step).collect(), patches, seen_by: SeenBy::Unknown };
    ChartFile { kind, name: "Found".into(), iso: stock.iso, print: None, chart }
}

#[test]
fn hidden_stocks_are_found() {
    for (id, kind) in [
        ("oriole", StockKind::ColourNegative),
        ("heron", StockKind::ColourNegative),
        ("petrel", StockKind::ColourNegative),
        ("bora", StockKind::ColourNegative),
        ("celestine", StockKind::Reversal),
        ("garnet", StockKind::Reversal),
        ("alder", StockKind::BlackAndWhiteNegative),
    ] {
        let hidden = Catalogue::find(id).unwrap();
        let started = std::time::Instant::now();
        let found = fit(&chart_of(&hidden, kind), &|| false).unwrap();
        // other colours than those of the chart tell whether the film was found or only its chart
        let others: Vec<[f64; 3]> = references().iter().map(|[l, a, b]| [0.8 * l + 10.0, 0.7 * b, 0.7 * a]).collect();
        let apart: Vec<f64> = printed(&hidden, &others)
            .into_iter()
            .zip(printed(&found.stock, &others))
            .map(|(a, b)| ciede2000(a, b))
            .collect();
        let others = apart.iter().sum::<f64>() / apart.len() as f64;
        println!(
            "{id}: density {:.4} colours {:.2} others {others:.2} {:?} {:?} {:?} {:.1?} {:?}",
            found.density_off(),
            found.colour_off().unwrap(),
            found.seen_by,
            found.stock.dyes,
            found.stock.print,
            started.elapsed(),
            found.notes
        );
        assert!(found.density_off() < 0.03, "{id}");
        assert!(found.colour_off().unwrap() < 1.5, "{id}");
    }
}

/// A densitometer that reads a dye beside its peak: the wedge says less of it than the print shows. On a negative the
/// paper and the choice of dyes can stand for some of it.
#[test]
fn dyes_are_as_strong_as_the_patches_say() {
    for (id, kind, read, within) in [
        ("heron", StockKind::ColourNegative, [0.85, 1.0, 1.15], 0.12),
        ("celestine", StockKind::Reversal, [0.9, 0.85, 0.95], 0.06),
    ] {
        let hidden = Catalogue::find(id).unwrap();
        let mut file = chart_of(&hidden, kind);
        for step in &mut file.chart.wedge {
            step.density.iter_mut().zip(read).for_each(|(density, read)| *density *= read);
        }
        let found = fit(&file, &|| false).unwrap();
        println!("{id}: {:.3?} {:.2} {:?}", found.dye_strengths, found.colour_off().unwrap(), found.notes);
        assert!(found.colour_off().unwrap() < 1.5 && found.density_off() < 0.03, "{id}");
        for (strength, read) in found.dye_strengths.iter().zip(read) {
            assert!((strength * read - 1.0).abs() < within, "{id}: {:?}", found.dye_strengths);
        }
        assert!(found.notes.iter().any(|note| note.contains("times as dense as was measured")), "{:?}", found.notes);
    }
}

#[test]
fn outliers_and_missing_patches_are_said() {
    let hidden = Catalogue::find("plover").unwrap();
    let mut file = chart_of(&hidden, StockKind::ColourNegative);
    file.chart.wedge[12].density[1] += 0.4;
    file.chart.patches[3].measured = None;
    file.chart.patches[7].measured = Some([20.0, 0.0, 60.0]);
    let found = fit(&file, &|| false).unwrap();
    let notes = found.notes.join(" ");
    println!("{notes}");
    assert!(notes.contains("of green lies +0.40 off"), "{notes}");
    assert!(notes.contains("Not measured: 4.") && notes.contains("The patch 8 lies"), "{notes}");
    assert!(found.colour_off().unwrap() < 1.5 && found.density_off() < 0.03);
    let ended = fit(&file, &|| true).unwrap_err();
    assert!(matches!(ended, MatchError::Core(CoreError::Abandoned)), "{ended}");
    file.chart.wedge.truncate(4);
    assert!(fit(&file, &|| false).unwrap_err().to_string().contains("4 steps"));
}
