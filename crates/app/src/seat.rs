//! `amber-grain seat`: a picture seated on a stock.

use amber_files::Limits;
use amber_lab::told;
use amber_matching::seat::{Asked, Mark, MarkOf, PrintSize, seat};

use crate::arguments::Seat;
use crate::opening::{Begun, written};
use crate::{files, output, sentence};

/// Largest print and distance, in cm.
const LARGEST_CM: f64 = 3000.0;

pub fn run(arguments: &Seat) -> Result<(), String> {
    let limits = Limits { megapixels: arguments.max_megapixels };
    let begun = Begun::with(&arguments.input, arguments.development.as_deref(), arguments.stock.as_deref(), limits)?;
    let marks = [(&arguments.grey, MarkOf::Grey), (&arguments.face, MarkOf::Face)];
    let marks: Result<Vec<Mark>, String> =
        marks.into_iter().filter_map(|(text, of)| text.as_deref().map(|text| mark(text, of))).collect();
    let marks = marks?;
    let asked = Asked {
        small: &begun.small.source,
        development: &begun.development,
        stock: &begun.stock,
        marks: &marks,
        find_face: !arguments.no_face,
        print: print_size(arguments)?,
    };
    let seating = begun.renderer.pool().install(|| seat(&asked)).map_err(|e| sentence::of(&e))?;
    written(&arguments.output, &seating.proposed.to_json())?;
    if arguments.json {
        return output::print(&told::seating(&seating).to_string());
    }
    if arguments.quiet || files::is_stream(&arguments.output) {
        return Ok(());
    }
    let (before, after) = (begun.development.written(&begun.stock), seating.proposed.written(&begun.stock));
    for control in seating.controls {
        let [was, is] = [before.value(control), after.value(control)].map(|v| control.written(&v));
        if was != is {
            output::print(&format!("{}: {was} to {is}", control.full_label()))?;
        }
    }
    seating.notes.iter().try_for_each(|note| output::print(note))
}

/// X,Y or X,Y,ZONE.
fn mark(text: &str, of: MarkOf) -> Result<Mark, String> {
    let wrong = || format!("{text}: write X,Y or X,Y,ZONE, with X and Y from 0 to 1 and a zone from 0 to 10");
    let numbers: Vec<f64> = text.split(',').map(|n| n.trim().parse()).collect::<Result<_, _>>().map_err(|_| wrong())?;
    let (place, zone) = match numbers.as_slice() {
        [x, y] => ([*x, *y], None),
        [x, y, zone] if (0.0..=10.0).contains(zone) => ([*x, *y], Some(*zone)),
        _ => return Err(wrong()),
    };
    let inside = place.iter().all(|v| (0.0..=1.0).contains(v));
    if inside { Ok(Mark { of, place, zone }) } else { Err(wrong()) }
}

fn print_size(arguments: &Seat) -> Result<Option<PrintSize>, String> {
    let sides = arguments.print_cm.into_iter().chain(arguments.distance_cm);
    if let Some(wrong) = sides.into_iter().find(|cm| !(1.0..=LARGEST_CM).contains(cm)) {
        return Err(format!("{wrong} cm: prints and distances go from 1 to {LARGEST_CM} cm"));
    }
    Ok(arguments.print_cm.map(|long_edge_cm| PrintSize { long_edge_cm, distance_cm: arguments.distance_cm }))
}
