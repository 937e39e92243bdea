//! The values by which a picture sits on a stock and its paper.

use amber_core::colour::lab::Lab;
use amber_core::controls::{Control, Kind, Value};
use amber_core::picture::source::linear_of_code;
use amber_core::stations::film::FilmSettings;
use amber_core::stations::print::settings::{CONTRAST, EXPOSURE as PRINT_EXPOSURE, GRADE, MAGENTA, YELLOW};
use amber_core::stations::scene::SceneSettings;
use amber_core::stations::scene::metering::{self, on_grid};
use amber_core::stations::scene::settings::{EXPOSURE, RENDERING, TEMPERATURE, TINT};
use amber_core::{CoreError, Development, Source, Stock};

use super::printed::{Printed, Reading};
use super::size::{PrintSize, Seen};
use super::skin::skin_in;
use crate::colour::Palette;
use crate::error::MatchError;

/// More solid black or bare paper than before that is allowed: share of the picture.
const MOST_ADDED: f64 = 0.004;
/// Share of the paper's range that a picture should fill at least.
const FILLED: f64 = 0.62;
/// Zones that mid grey may lie off where nothing is marked.
const MOST_OFF: f64 = 0.4;
/// How the contrast is moved, and how often at most.
const GRADE_STEP: f64 = 0.5;
const CONTRAST_STEP: f64 = 0.06;
const MOST_STEPS: usize = 5;
/// Zone of a marked face, and those between which a found one is left (common practice: light skin lies on VI, dark
/// skin on V; no source).
const FACE: f64 = 6.0;
const FACES: [f64; 2] = [4.75, 6.5];
/// How far from the neutral a marked grey may stay, in Lab.
const NEUTRAL: f64 = 0.4;
/// Half the side of a mark, as a share of the picture.
const MARK: f64 = 0.012;

/// What a mark is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum MarkOf {
    /// A grey that is to be neutral, and on a zone where one is said.
    Grey,
    /// A face.
    Face,
}

/// Something marked in the picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Mark {
    /// What it is.
    pub of: MarkOf,
    /// Where: shares of width and height.
    pub place: [f64; 2],
    /// The zone on which it is to print; its own where absent: a grey stays, a face comes to VI.
    pub zone: Option<f64>,
}

/// What is asked of a seating.
#[derive(Debug, Clone)]
pub struct Asked<'a> {
    /// The picture, small, framed.
    pub small: &'a Source,
    /// Its development, on the stock.
    pub development: &'a Development,
    /// The stock.
    pub stock: &'a Stock,
    /// What is marked.
    pub marks: &'a [Mark],
    /// Look for a face where none is marked.
    pub find_face: bool,
    /// How large it is printed.
    pub print: Option<PrintSize>,
}

/// What seating proposes.
#[derive(Debug, Clone)]
pub struct Seating {
    /// The development as proposed.
    pub proposed: Development,
    /// The controls that may have moved, in the order of the line.
    pub controls: Vec<&'static Control>,
    /// What was found and done, in sentences.
    pub notes: Vec<String>,
    /// Where a face was found.
    pub face: Option<[f64; 2]>,
    /// What is read on the print before and after.
    pub before: Reading,
    /// After.
    pub after: Reading,
    /// By how many zones mid grey lies off where the stock means it to be.
    pub mid_grey_off_zones: f64,
    /// The print's colour of the marked grey.
    pub grey: Option<Lab>,
    /// How the film is seen.
    pub seen: Option<Seen>,
}

struct Seat<'a> {
    asked: &'a Asked<'a>,
    palette: Palette,
    proposed: Development,
    notes: Vec<String>,
    before: Reading,
}

/// What a careful printer would do.
pub fn seat(asked: &Asked) -> Result<Seating, MatchError> {
    let palette = Palette::of(asked.small);
    let before = Printed::new(asked.stock, asked.development)?.reading(&palette);
    let mut seat = Seat { asked, palette, proposed: asked.development.clone(), notes: Vec::new(), before };
    seat.meter()?;
    seat.balance()?;
    seat.contrast()?;
    let face = seat.place_tones()?;
    seat.filter()?;
    seat.hold_the_ends()?;
    if asked.marks.is_empty() {
        seat.hold_mid_grey()?;
    }
    let seen = seat.size()?;
    seat.told(face, seen)
}

impl Seat<'_> {
    fn number(&self, control: &Control) -> f64 {
        self.proposed.written(self.asked.stock).number(control)
    }

    fn applies(&self, control: &Control) -> bool {
        (control.applies)(self.asked.stock)
    }

    fn set(&mut self, control: &Control, value: f64) -> Result<(), CoreError> {
        let Kind::Scalar { low, high, .. } = control.kind else { return Ok(()) };
        // no minus before nothing
        let value = on_grid(control, value.max(low).min(high)) + 0.0;
        self.proposed.set(self.asked.stock, control.id, Value::Number(value))
    }

    fn printed(&self) -> Result<Printed, CoreError> {
        Printed::new(self.asked.stock, &self.proposed)
    }

    /// Mean colour of a mark, linear sRGB.
    fn colour_at(&self, place: [f64; 2]) -> [f64; 3] {
        let small = self.asked.small;
        let linear = linear_of_code();
        let side = |v: f64, length: u32| {
            let reach = (MARK * f64::from(length)).max(0.5);
            let middle = v.clamp(0.0, 1.0) * f64::from(length);
            let low = (middle - reach).max(0.0) as u32;
            low..((middle + reach).ceil() as u32).clamp(low + 1, length.max(low + 1))
        };
        let (mut sum, mut count) = ([0.0; 3], 0.0);
        for y in side(place[1], small.height()) {
            for x in side(place[0], small.width()) {
                let index =
                    y.min(small.height() - 1) as usize * small.width() as usize + x.min(small.width() - 1) as usize;
                let pixel = small.pixel(index);
                (0..3).for_each(|k| sum[k] += f64::from(linear[pixel[k] as usize]));
                count += 1.0;
            }
        }
        sum.map(|v| v / count)
    }

    fn marked(&self, of: MarkOf) -> Option<Mark> {
        self.asked.marks.iter().copied().find(|m| m.of == of)
    }

    /// Exposure, rendering and balance as metering proposes them.
    fn meter(&mut self) -> Result<(), CoreError> {
        let values = self.proposed.values(self.asked.stock);
        let printed = self.printed()?;
        let settings = SceneSettings::read(&values);
        let proposal = metering::propose(&settings, self.asked.small, printed.film(), &|stops| printed.grey(stops));
        for (control, value) in proposal.values() {
            self.set(control, value)?;
        }
        Ok(())
    }

    /// A marked grey is neutral at the film.
    fn balance(&mut self) -> Result<(), CoreError> {
        let Some(mark) = self.marked(MarkOf::Grey) else { return Ok(()) };
        let colour = self.colour_at(mark.place);
        let wide = amber_core::colour::space::SRGB_TO_WIDE.apply(colour);
        match metering::neutral(wide) {
            Some((kelvin, tint)) => {
                self.set(&TEMPERATURE, kelvin)?;
                self.set(&TINT, tint)?;
            }
            None => self.notes.push("The marked grey is black; mark a lighter one.".into()),
        }
        Ok(())
    }

    /// The control of the paper's contrast, its step, and whether it does something here.
    fn paper(&self) -> Option<(&'static Control, f64)> {
        if self.applies(&GRADE) {
            return Some((&GRADE, GRADE_STEP));
        }
        self.applies(&CONTRAST).then_some((&CONTRAST, CONTRAST_STEP))
    }

    /// A harder paper where the picture fills little of the paper's range.
    fn contrast(&mut self) -> Result<(), CoreError> {
        let Some((control, step)) = self.paper() else { return Ok(()) };
        for _ in 0..MOST_STEPS {
            let reading = self.printed()?.reading(&self.palette);
            let filled = (reading.range[1] - reading.range[0]) / (reading.ends[1] - reading.ends[0]).max(1.0);
            if filled >= FILLED || self.added(&reading) > 0.5 * MOST_ADDED {
                break;
            }
            let now = self.number(control);
            self.set(control, now + step)?;
            if self.number(control) == now {
                break;
            }
        }
        Ok(())
    }

    /// More solid black or bare paper than before, whichever is more.
    fn added(&self, reading: &Reading) -> f64 {
        (reading.black - self.before.black).max(reading.bare - self.before.bare)
    }

    /// L* of a zone as the stock itself prints it.
    fn aim(&self, zone: f64) -> Result<f64, CoreError> {
        Ok(Printed::new(self.asked.stock, &Development::new(self.asked.stock))?.grey(zone - 5.0))
    }

    /// The zone on which something prints, by the stock's own greys.
    fn zone_of(&self, lightness: f64) -> Result<f64, CoreError> {
        let own = Printed::new(self.asked.stock, &Development::new(self.asked.stock))?;
        let (mut low, mut high) = (-6.0f64, 6.0f64);
        for _ in 0..30 {
            let middle = 0.5 * (low + high);
            if own.grey(middle) < lightness { low = middle } else { high = middle }
        }
        Ok(5.0 + 0.5 * (low + high))
    }

    /// A marked or found tone comes to its zone by the exposure of the print, or of the film where nothing is printed.
    fn place_tones(&mut self) -> Result<Option<[f64; 2]>, CoreError> {
        let marked = self.marked(MarkOf::Face).or_else(|| self.marked(MarkOf::Grey).filter(|m| m.zone.is_some()));
        let found = if marked.is_none() && self.asked.find_face { skin_in(self.asked.small) } else { None };
        let Some(place) = marked.map(|m| m.place).or(found) else { return Ok(None) };
        let colour = self.colour_at(place);
        let now = self.zone_of(self.printed()?.colour(colour)[0])?;
        let wanted = match marked {
            Some(mark) => mark.zone.unwrap_or(FACE),
            None => now.max(FACES[0]).min(FACES[1]),
        };
        let what = match marked.map(|m| m.of) {
            Some(MarkOf::Grey) => "The marked grey",
            Some(MarkOf::Face) => "The marked face",
            None => "Skin was found; it",
        };
        if (wanted - now).abs() < 0.1 {
            self.notes.push(format!("{what} lies on zone {now:.1} and stays there."));
            return Ok(found);
        }
        let lightness = self.aim(wanted)?;
        self.print_to(colour, lightness)?;
        if marked.is_none() {
            self.hold_mid_grey()?;
        }
        let after = self.zone_of(self.printed()?.colour(colour)[0])?;
        self.notes.push(format!("{what} comes from zone {now:.1} to {after:.1}."));
        Ok(found)
    }

    /// The exposure by which a colour prints as light as is wanted.
    fn print_to(&mut self, colour: [f64; 3], lightness: f64) -> Result<(), CoreError> {
        let control = if self.applies(&PRINT_EXPOSURE) { &PRINT_EXPOSURE } else { &EXPOSURE };
        let Kind::Scalar { low, high, .. } = control.kind else { return Ok(()) };
        let mut of = |value: f64| -> Result<f64, CoreError> {
            self.set(control, value)?;
            Ok(self.printed()?.colour(colour)[0])
        };
        let (mut low, mut high) = (low, high);
        let rises = of(high)? > of(low)?;
        for _ in 0..16 {
            let middle = 0.5 * (low + high);
            if (of(middle)? < lightness) == rises { low = middle } else { high = middle }
        }
        self.set(control, 0.5 * (low + high))
    }

    /// Filters in the enlarger by which a marked grey is neutral on this paper.
    fn filter(&mut self) -> Result<(), CoreError> {
        let Some(mark) = self.marked(MarkOf::Grey) else { return Ok(()) };
        if !self.applies(&YELLOW) {
            return Ok(());
        }
        let colour = self.colour_at(mark.place);
        let lightness = self.printed()?.colour(colour)[0];
        for _ in 0..6 {
            let at = |seat: &Self| Ok::<_, CoreError>(seat.printed()?.colour(colour));
            let here = at(self)?;
            if here[1].hypot(here[2]) < NEUTRAL {
                break;
            }
            let (magenta, yellow) = (self.number(&MAGENTA), self.number(&YELLOW));
            self.set(&MAGENTA, magenta + 3.0)?;
            let by_magenta = at(self)?;
            self.set(&MAGENTA, magenta)?;
            self.set(&YELLOW, yellow + 3.0)?;
            let by_yellow = at(self)?;
            self.set(&YELLOW, yellow)?;
            let slope = |there: Lab, k: usize| (there[k] - here[k]) / 3.0;
            let [a, b, c, d] = [slope(by_magenta, 1), slope(by_yellow, 1), slope(by_magenta, 2), slope(by_yellow, 2)];
            let whole = a * d - b * c;
            if whole.abs() < 1e-6 {
                break;
            }
            self.set(&MAGENTA, magenta - (here[1] * d - here[2] * b) / whole)?;
            self.set(&YELLOW, yellow - (here[2] * a - here[1] * c) / whole)?;
        }
        // filters take light: the mark stays as light as it was
        self.print_to(colour, lightness)
    }

    /// Where too much has become solid black or bare paper, contrast is taken back, then the light.
    fn hold_the_ends(&mut self) -> Result<(), CoreError> {
        if let Some((control, step)) = self.paper() {
            for _ in 0..MOST_STEPS {
                if self.added(&self.printed()?.reading(&self.palette)) <= MOST_ADDED {
                    return Ok(());
                }
                let now = self.number(control);
                let (before, range) = (self.proposed.clone(), self.added(&self.printed()?.reading(&self.palette)));
                self.set(control, now - step)?;
                if self.added(&self.printed()?.reading(&self.palette)) >= range {
                    self.proposed = before;
                    break;
                }
            }
        }
        let seated = self.proposed.clone();
        let values =
            |development: &Development, control: &Control| development.written(self.asked.stock).number(control);
        let moved: Vec<(&Control, f64, f64)> = [&EXPOSURE, &RENDERING, &PRINT_EXPOSURE]
            .into_iter()
            .filter(|c| (c.applies)(self.asked.stock))
            .map(|c| (c, values(self.asked.development, c), values(&seated, c)))
            .collect();
        for share in [0.75, 0.5, 0.25, 0.0] {
            if self.added(&self.printed()?.reading(&self.palette)) <= MOST_ADDED {
                break;
            }
            for (control, from, to) in &moved {
                self.set(control, from + share * (to - from))?;
            }
        }
        Ok(())
    }

    /// Without a mark nothing moves mid grey far: what the print's exposure does is taken back until it stays.
    fn hold_mid_grey(&mut self) -> Result<(), CoreError> {
        if !self.applies(&PRINT_EXPOSURE) {
            return Ok(());
        }
        let from = self.asked.development.written(self.asked.stock).number(&PRINT_EXPOSURE);
        let to = self.number(&PRINT_EXPOSURE);
        for share in [0.8, 0.6, 0.4, 0.2, 0.0] {
            if (self.zone_of(self.printed()?.grey(0.0))? - 5.0).abs() <= MOST_OFF {
                break;
            }
            self.set(&PRINT_EXPOSURE, from + share * (to - from))?;
        }
        Ok(())
    }

    /// Grain and halation for the size of the print.
    fn size(&mut self) -> Result<Option<Seen>, CoreError> {
        let Some(print) = self.asked.print else { return Ok(None) };
        let [w, h] = [self.asked.small.width(), self.asked.small.height()].map(f64::from);
        let film = FilmSettings::read(&self.proposed.values(self.asked.stock));
        let seen = print.seen(film.gate, w.max(h) / w.min(h), &film);
        if (seen.scale - 1.0).abs() > 0.02 {
            for (control, value) in seen.scaled(&film) {
                self.set(control, value)?;
            }
        }
        self.notes.push(format!(
            "Enlarged {:.1} times and seen from {:.0} cm, a grain of {:.1} µm takes {:.2}′, the glow {:.1}′.",
            seen.enlargement,
            seen.distance_cm,
            film.grain_diameter_um,
            seen.grain_arc_minutes,
            seen.halation_arc_minutes
        ));
        Ok(Some(seen))
    }

    fn told(mut self, face: Option<[f64; 2]>, seen: Option<Seen>) -> Result<Seating, MatchError> {
        let printed = self.printed()?;
        let after = printed.reading(&self.palette);
        let mid_grey_off_zones = self.zone_of(printed.grey(0.0))? - 5.0;
        let grey = self.marked(MarkOf::Grey).map(|mark| printed.colour(self.colour_at(mark.place)));
        if let Some([_, a, b]) = grey
            && a.hypot(b) > 2.0
        {
            self.notes.push(format!(
                "The marked grey stays {:.1} off neutral: this print has a colour of its own.",
                a.hypot(b)
            ));
        }
        let controls =
            [&EXPOSURE, &RENDERING, &TEMPERATURE, &TINT, &GRADE, &CONTRAST, &PRINT_EXPOSURE, &MAGENTA, &YELLOW];
        let of_size = seen
            .into_iter()
            .flat_map(|s| s.scaled(&FilmSettings::own(self.asked.stock)).into_iter().map(|(control, _)| control));
        let controls = controls.into_iter().chain(of_size).filter(|c| (c.applies)(self.asked.stock)).collect();
        Ok(Seating {
            proposed: self.proposed,
            controls,
            notes: self.notes,
            face,
            before: self.before,
            after,
            mid_grey_off_zones,
            grey,
            seen,
        })
    }
}
