//! The film round its picture: the rebate with perforations or notches and what was exposed on it at the works; and the
//! border that a filed negative holder leaves on a print.

use super::glyphs::{breadth, from_piece, written};
use super::layout::Stock;
use super::{FilmTones, Layout, MountKind, MountSettings, Of, Painted, within};
use crate::numeric::plane_noise::PlaneNoise;
use crate::numeric::smooth_share;
use crate::stations::surface::dice::Dice;

/// Perforations of 35 mm film in mm (ISO 1007): along the film, across it, round corners, pitch, from the edge.
const HOLE_MM: [f32; 2] = [1.981, 2.794];
const HOLE_ROUND_MM: f32 = 0.5;
const PITCH_MM: f32 = 4.75;
const FROM_EDGE_MM: f32 = 2.01;
/// Those of 16 mm film (ISO 69): along, across.
const SMALL_HOLE_MM: [f32; 2] = [1.27, 1.829];
/// Exposure of the edge print in mid greys, and of the glow round it.
const PRINTED: f32 = 14.0;

/// A hole in the film: middle, half size, round corners, in pixels.
struct Hole {
    middle: [f32; 2],
    half: [f32; 2],
    round: f32,
}

/// Side of the squares of the film in which there is something or nothing.
const SQUARE: f32 = 32.0;

/// What there is in a square of the rebate.
#[derive(Default, Clone)]
struct Square {
    /// The picture's border runs through it.
    border: bool,
    holes: Vec<u16>,
    pieces: Vec<u16>,
}

/// What there is on the rebate but its base, square by square.
struct Squares {
    across: usize,
    squares: Vec<Square>,
}

impl Squares {
    fn new([width, height]: [f32; 2]) -> Self {
        let count = |side: f32| (side / SQUARE).ceil() as usize + 1;
        Self { across: count(width), squares: vec![Square::default(); count(width) * count(height)] }
    }

    fn note(&mut self, [left, top, right, bottom]: [f32; 4], mut note: impl FnMut(&mut Square)) {
        let down = self.squares.len() / self.across;
        let span = |low: f32, high: f32, count: usize| {
            let place = |v: f32| (v / SQUARE).clamp(0.0, (count - 1) as f32) as usize;
            place(low)..=place(high)
        };
        for row in span(top, bottom, down) {
            for column in span(left, right, self.across) {
                note(&mut self.squares[row * self.across + column]);
            }
        }
    }

    fn at(&self, x: f32, y: f32) -> &Square {
        &self.squares[(y / SQUARE) as usize * self.across + (x / SQUARE) as usize]
    }
}

pub struct Film {
    holder: bool,
    sides: [f32; 4],
    whole: [f32; 2],
    long: f32,
    tones: FilmTones,
    ground: [f32; 3],
    colour: [f32; 3],
    holes: Vec<Hole>,
    /// Pieces of the lines of letters.
    pieces: Vec<[[f32; 2]; 2]>,
    /// Half the breadth of a letter's stroke, and how far its light spreads.
    stroke: f32,
    ragged: [PlaneNoise; 3],
    radius: f32,
    width: f32,
    squares: Squares,
}

impl Film {
    pub fn new(settings: &MountSettings, layout: &Layout, of: &Of) -> Self {
        let mm = (1000.0 / of.pitch_um) as f32;
        let mut dice = Dice::new(of.seed, 61);
        let mut film = Self {
            holder: settings.kind == MountKind::Holder,
            sides: layout.sides(),
            whole: layout.whole.map(|v| v as f32),
            long: layout.long(),
            tones: of.tones.clone(),
            ground: settings.ground,
            colour: settings.colour,
            holes: Vec::new(),
            pieces: Vec::new(),
            stroke: 0.11 * mm,
            ragged: [0.11, 0.022, 0.006].map(|pitch: f32| PlaneNoise::new(dice.seed(), pitch)),
            radius: (settings.round as f32).max(0.004) * layout.long(),
            width: (settings.width as f32).max(0.02) * layout.long(),
            squares: Squares::new(layout.whole.map(|v| v as f32)),
        };
        if !film.holder {
            film.works(settings, layout, of, mm, &mut dice);
            film.note_what_is_where();
        }
        film
    }

    fn note_what_is_where(&mut self) {
        let rim = 0.01 * self.long;
        for (index, hole) in self.holes.iter().enumerate() {
            let [x, y] = hole.middle;
            let [a, b] = hole.half.map(|half| half + rim);
            self.squares.note([x - a, y - b, x + a, y + b], |square| square.holes.push(index as u16));
        }
        let reach = 5.0 * self.stroke;
        for (index, [a, b]) in self.pieces.iter().enumerate() {
            let low = [0, 1].map(|k| a[k].min(b[k]) - reach);
            let high = [0, 1].map(|k| a[k].max(b[k]) + reach);
            self.squares.note([low[0], low[1], high[0], high[1]], |square| square.pieces.push(index as u16));
        }
        let soft = 0.004 * self.long + 2.0 + self.radius;
        let [l, t, r, b] = self.sides;
        self.squares.note([l - soft, t - soft, r + soft, b + soft], |square| square.border = true);
    }

    /// What the works made of the film: holes, notches, letters.
    fn works(&mut self, settings: &MountSettings, layout: &Layout, of: &Of, mm: f32, dice: &mut Dice) {
        let upright = layout.picture.height > layout.picture.width;
        let [left, top, right, bottom] = self.sides;
        let [width, height] = self.whole;
        let stock = Stock::of(of.gate);
        let number = if settings.number > 0 { settings.number } else { 1 + dice.seed() % 36 };
        // along the film is across the picture where its long side lies along it and it lies level
        let level = match stock {
            Stock::Perforated { along } | Stock::Roll { along } => along != upright,
            Stock::Narrow => !upright,
            Stock::Sheet => true,
        };
        let (run, across) = if level { (width, height) } else { (height, width) };
        let place = |along: f32, aside: f32| if level { [along, aside] } else { [width - aside, along] };
        let half = |[a, b]: [f32; 2]| if level { [0.5 * a * mm, 0.5 * b * mm] } else { [0.5 * b * mm, 0.5 * a * mm] };
        let direction = if level { [1.0, 0.0] } else { [0.0, 1.0] };
        let middle = 0.5 * run;
        let (near, far) = if level { (top, height - bottom) } else { (width - right, left) };
        match stock {
            Stock::Perforated { .. } => {
                let from = dice.between(0.15, 0.85) * PITCH_MM * mm;
                let count = (run / (PITCH_MM * mm)) as i32 + 2;
                for k in -1..count {
                    let along = from + k as f32 * PITCH_MM * mm;
                    for aside in [FROM_EDGE_MM, across / mm - FROM_EDGE_MM].map(|edge| {
                        let inwards = if edge < 0.5 * across / mm { 0.5 * HOLE_MM[1] } else { -0.5 * HOLE_MM[1] };
                        (edge + inwards) * mm
                    }) {
                        let hole = Hole { middle: place(along, aside), half: half(HOLE_MM), round: HOLE_ROUND_MM * mm };
                        self.holes.push(hole);
                    }
                }
                // letters stand in what is left between the holes and the edge
                let tall = 1.05 * mm;
                let name = of.edge_print.to_uppercase();
                self.write(&name, place(middle - 0.42 * run, 0.45 * mm), tall, direction);
                self.write(&number.to_string(), place(middle - 0.04 * run, 0.45 * mm), tall, direction);
                let lower = across - 0.45 * mm - tall;
                self.write(&format!("> {number}A"), place(middle + 0.18 * run, lower), tall, direction);
                self.write(&number.to_string(), place(middle - 0.24 * run, lower), tall, direction);
            }
            Stock::Roll { .. } => {
                let tall = (0.55 * near).min(1.5 * mm);
                let name = of.edge_print.to_uppercase();
                self.write(&name, place(middle - 0.36 * run, 0.5 * (near - tall)), tall, direction);
                self.write(&number.to_string(), place(middle + 0.1 * run, 0.5 * (near - tall)), tall, direction);
                self.write(">", place(middle + 0.3 * run, 0.5 * (near - tall)), tall, direction);
                let lower = across - 0.5 * (far + tall);
                self.write(&format!("{number} > {}", number + 1), place(middle - 0.1 * run, lower), tall, direction);
            }
            Stock::Narrow => {
                let aside = 0.5 * near;
                let hole = Hole { middle: place(0.32 * run, aside), half: half(SMALL_HOLE_MM), round: 0.25 * mm };
                self.holes.push(hole);
                self.stroke = 0.07 * mm;
                self.write(&number.to_string(), place(0.55 * run, 0.3 * near), 0.4 * near, direction);
            }
            Stock::Sheet => self.notch(mm, dice, near),
        }
    }

    /// Notches on a short side, a code of our own: a sheet is told in the dark by its right upper corner.
    fn notch(&mut self, mm: f32, dice: &mut Dice, rebate: f32) {
        let depth = 0.6 * rebate;
        for k in 0..3 {
            let along = self.whole[0] - (7.0 + 5.0 * k as f32) * mm;
            let broad = [1.1f32, 2.0, 1.4][(k + (dice.seed() % 3) as usize) % 3] * mm;
            self.holes.push(Hole { middle: [along, 0.0], half: [0.5 * broad, depth], round: 0.45 * broad });
        }
    }

    fn write(&mut self, text: &str, at: [f32; 2], height: f32, along: [f32; 2]) {
        let long = breadth(text, height);
        let seen = |v: f32, whole: f32| v > -long && v < whole + long;
        if seen(at[0], self.whole[0]) && seen(at[1], self.whole[1]) {
            self.pieces.extend(written(text, at, height, along));
        }
    }

    /// How far a place is within the nearest hole.
    fn in_hole(&self, square: &Square, x: f32, y: f32) -> f32 {
        let one = |hole: &Hole| {
            let [cx, cy] = hole.middle;
            let box_of = [cx - hole.half[0], cy - hole.half[1], cx + hole.half[0], cy + hole.half[1]];
            within([x, y], box_of, hole.round.min(hole.half[0].min(hole.half[1])))
        };
        square.holes.iter().map(|index| one(&self.holes[usize::from(*index)])).fold(f32::MIN, f32::max)
    }

    fn rebate(&self, x: f32, y: f32) -> ([f32; 3], f32) {
        let square = self.squares.at(x, y);
        let cover = match square.border {
            true => smooth_share(0.5 - within([x, y], self.sides, self.radius) / self.long / 0.0016),
            false => 1.0,
        };
        let reach = 5.0 * self.stroke;
        let letter = square.pieces.iter();
        let letter = letter.map(|index| from_piece([x, y], &self.pieces[usize::from(*index)])).fold(f32::MAX, f32::min);
        // the letters' light spreads a little in the emulsion
        let mut colour = self.tones.tones[0];
        if letter < reach {
            let ink = smooth_share((self.stroke - letter) / (0.9 * self.stroke) + 0.5);
            let glow = 0.016 * smooth_share(1.0 - letter / reach);
            colour = self.tones.at(PRINTED * (ink + glow));
        }
        if !square.holes.is_empty() {
            let hole = self.in_hole(square, x, y);
            let open = (hole + 0.5).clamp(0.0, 1.0);
            // the cut edge of the film catches light
            let rim = 0.1 * smooth_share(1.0 - hole.abs() / (0.0016 * self.long).max(1.2));
            colour = [0, 1, 2].map(|k| colour[k] + rim + open * (self.ground[k] - colour[k] - rim));
        }
        (colour, cover)
    }

    /// Round the picture a band of the film's black, its outer border filed by hand, and light that bled round it.
    fn filed(&self, x: f32, y: f32) -> ([f32; 3], f32) {
        let (u, v) = (x / self.long, y / self.long);
        let rough: f32 = [0.0042, 0.0016, 0.0007].iter().zip(&self.ragged).map(|(h, n)| h * n.at(u, v)).sum();
        let film = within([x, y], self.sides, self.radius) / self.long;
        // so far beyond the picture the holder was filed open
        let opened = 0.42 * self.width / self.long;
        let from = film + opened + rough;
        let black = self.tones.at(0.0);
        let paper = 1.0 - smooth_share(from / 0.0022 + 0.5);
        let bleed = 0.16 * smooth_share(1.0 - from / 0.012) * (1.0 - paper);
        let colour = [0, 1, 2].map(|k| {
            let dark = black[k] + bleed * (self.colour[k] - black[k]);
            dark + paper * (self.colour[k] - dark)
        });
        // the gate's own edge is soft
        (colour, smooth_share(0.5 - (film + 0.3 * rough) / 0.0028))
    }
}

impl Painted for Film {
    fn at(&self, x: f32, y: f32) -> ([f32; 3], f32) {
        if self.holder { self.filed(x, y) } else { self.rebate(x, y) }
    }
}
