//! The contact sheet as a picture or as a document: strips of frames on black rebate, with names and stocks in the
//! lettering of a film's edge.

mod page;

use amber_files::write;
use amber_library::{FrameSummary, Mark};
use pdf_writer::{Content, Filter, Finish, Name, Pdf, Rect, Ref};

use crate::Lab;
use crate::error::LabError;
use page::Page;

/// What is made of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PrintForm {
    Jpeg,
    Pdf,
}

/// The finished file.
#[derive(Debug, Clone)]
pub struct ContactPrint {
    pub bytes: Vec<u8>,
    pub media_type: &'static str,
    pub pages: usize,
}

/// Most frames of one print.
const MOST: usize = 1000;
/// A page of A4 lying on its side, at 200 pixels an inch.
const PAGE: [u32; 2] = [2339, 1654];
const PER_INCH: f32 = 200.0;
/// Columns and rows of a page: the first that hold all frames, or the last.
const FORMS: [[u32; 2]; 4] = [[3, 2], [4, 3], [5, 4], [6, 5]];
const MARGIN: u32 = 70;
/// Height of the heading, and of the rebate above and below a picture.
const HEADING: u32 = 60;
const REBATE: u32 = 34;
const LETTER: f32 = 15.0;
const QUALITY: u8 = 90;

const PAPER: [u8; 3] = [246, 245, 242];
const BLACK: [u8; 3] = [14, 14, 14];
/// Edge lettering: exposed through the base, not quite white.
const LETTERS: [u8; 3] = [214, 208, 194];
const PENCIL: [u8; 3] = [250, 250, 248];
const INK: [u8; 3] = [40, 40, 40];

impl Lab {
    /// Prints the contact sheet of some frames, in their order. A JPEG has all of its pages below one another.
    pub fn contact_print(&self, title: &str, frames: &[i64], to: PrintForm) -> Result<ContactPrint, LabError> {
        if frames.is_empty() {
            return Err(LabError::NoFrames);
        }
        if frames.len() > MOST {
            return Err(LabError::TooManyForPrint(MOST));
        }
        let summaries = self.library.some_frames(frames)?;
        let held = |[columns, rows]: [u32; 2]| (columns * rows) as usize;
        let form = FORMS.into_iter().find(|form| held(*form) >= summaries.len()).unwrap_or(FORMS[FORMS.len() - 1]);
        let on_page = held(form);
        let of = summaries.len().div_ceil(on_page).max(1);
        let mut pages = Vec::with_capacity(of);
        for (i, frames) in summaries.chunks(on_page).enumerate() {
            let heading = if of > 1 { format!("{title}   {} - {of}", i + 1) } else { title.to_owned() };
            pages.push(self.page(&heading, frames, form)?);
        }
        let bytes = match to {
            PrintForm::Jpeg => jpeg(&pages)?,
            PrintForm::Pdf => pdf(&pages)?,
        };
        let media_type = if to == PrintForm::Pdf { "application/pdf" } else { "image/jpeg" };
        Ok(ContactPrint { bytes, media_type, pages: of })
    }

    fn page(&self, heading: &str, frames: &[FrameSummary], [columns, rows]: [u32; 2]) -> Result<Page, LabError> {
        let mut page = Page::new(PAGE, PAPER);
        page.letter(heading, [MARGIN as f32, MARGIN as f32], 22.0, INK);
        let strip = (PAGE[1] - 2 * MARGIN - HEADING) / rows;
        let cell = (PAGE[0] - 2 * MARGIN) / columns;
        for (row, frames) in frames.chunks(columns as usize).enumerate() {
            let top = MARGIN + HEADING + strip * row as u32;
            page.fill([MARGIN, top, cell * frames.len() as u32, strip - 12], BLACK);
            for (column, frame) in frames.iter().enumerate() {
                self.cell(&mut page, frame, [MARGIN + cell * column as u32, top, cell, strip - 12])?;
            }
        }
        Ok(page)
    }

    /// A frame between its rebates.
    fn cell(&self, page: &mut Page, frame: &FrameSummary, [x, y, width, height]: [u32; 4]) -> Result<(), LabError> {
        let room = [width - 16, height - 2 * REBATE];
        if frame.trouble.is_none() {
            let jpeg = self.thumbnail(frame.id, crate::Shown::Developed)?;
            let (pixels, wide, high) = amber_files::plain::decoded(&jpeg)?;
            let scale = (room[0] as f32 / wide as f32).min(room[1] as f32 / high as f32);
            let [w, h] = [wide, high].map(|side| ((side as f32 * scale) as u32).max(1));
            let at = [x + 8 + (room[0] - w) / 2, y + REBATE + (room[1] - h) / 2];
            page.lay(&pixels, [wide, high], [at[0], at[1], w, h]);
            mark(page, frame.mark, [at[0], at[1], w, h]);
        }
        let stock = self.library.stock_of(&frame.development).map(|s| s.name()).unwrap_or_default();
        let letters = (room[0] as f32 / LETTER) as usize;
        let name = cut(&frame.name, letters - 4);
        let upper = (y + 9) as f32;
        page.letter(&format!("{}", frame.position), [(x + 8) as f32, upper], LETTER, LETTERS);
        page.letter(&name, [x as f32 + 8.0 + 3.5 * LETTER, upper], LETTER, LETTERS);
        let lower = (y + height - REBATE + 10) as f32;
        page.letter(&cut(&stock, letters), [(x + 8) as f32, lower], LETTER, LETTERS);
        let left = letters.saturating_sub(stock.chars().count() + 2);
        let beside = x as f32 + 8.0 + LETTER * (stock.chars().count() + 2) as f32;
        page.letter(&cut(&frame.note, left), [beside, lower], LETTER, PENCIL);
        Ok(())
    }
}

fn cut(text: &str, letters: usize) -> String {
    text.chars().take(letters).collect()
}

/// What is marked, as with a white grease pencil: a keep has a line round it, a maybe a corner, a drop is crossed out.
fn mark(page: &mut Page, mark: Mark, [x, y, width, height]: [u32; 4]) {
    let place = |p: [f32; 2]| [x as f32 + p[0] * width as f32, y as f32 + p[1] * height as f32];
    for line in lines(mark) {
        let places: Vec<[f32; 2]> = bent(line).into_iter().map(place).collect();
        for (i, pair) in places.windows(2).enumerate() {
            // a hand does not press evenly
            page.stroke(pair[0], pair[1], 2.6 + 0.7 * (i as f32 * 0.37).sin(), PENCIL);
        }
    }
}

/// Pieces of a curve between two places of a line.
const PIECES: usize = 12;

/// A line as a hand draws it: round from the middle of one piece to the middle of the next.
fn bent(line: &[[f32; 2]]) -> Vec<[f32; 2]> {
    let mix = |a: [f32; 2], b: [f32; 2], t: f32| [0, 1].map(|k| a[k] + t * (b[k] - a[k]));
    let mut curve = Vec::new();
    curve.extend(line.first());
    for three in line.windows(3) {
        let (from, to) = (mix(three[0], three[1], 0.5), mix(three[1], three[2], 0.5));
        for i in 0..=PIECES {
            let t = i as f32 / PIECES as f32;
            curve.push(mix(mix(from, three[1], t), mix(three[1], to, t), t));
        }
    }
    curve.extend(line.last());
    curve
}

/// The lines of a mark, in shares of the picture; drawn by hand, so nothing is quite straight.
pub fn lines(mark: Mark) -> &'static [&'static [[f32; 2]]] {
    match mark {
        Mark::None => &[],
        Mark::Keep => &[&[
            [0.08, 0.05],
            [0.5, 0.03],
            [0.94, 0.06],
            [0.96, 0.5],
            [0.93, 0.95],
            [0.5, 0.97],
            [0.06, 0.94],
            [0.04, 0.5],
            [0.07, 0.02],
        ]],
        Mark::Maybe => &[&[[0.68, 0.96], [0.86, 0.94], [0.955, 0.92], [0.96, 0.75], [0.95, 0.55]]],
        Mark::Drop => &[&[[0.05, 0.06], [0.5, 0.52], [0.96, 0.93]], &[[0.94, 0.07], [0.48, 0.5], [0.06, 0.95]]],
    }
}

/// Pages below one another.
fn jpeg(pages: &[Page]) -> Result<Vec<u8>, LabError> {
    let pixels: Vec<u8> = pages.iter().flat_map(|page| page.pixels().iter().copied()).collect();
    Ok(write::jpeg(&pixels, PAGE[0], PAGE[1] * pages.len() as u32, QUALITY, None)?)
}

/// One page of paper for each.
fn pdf(pages: &[Page]) -> Result<Vec<u8>, LabError> {
    let mut pdf = Pdf::new();
    let (catalogue, tree) = (Ref::new(1), Ref::new(2));
    let number = |page: usize, what: i32| Ref::new(3 + 3 * page as i32 + what);
    pdf.catalog(catalogue).pages(tree);
    pdf.pages(tree).kids((0..pages.len()).map(|i| number(i, 0))).count(pages.len() as i32);
    let [width, height] = PAGE.map(|side| side as f32 / PER_INCH * 72.0);
    for (i, picture) in pages.iter().enumerate() {
        let name = Name(b"Sheet");
        let mut page = pdf.page(number(i, 0));
        page.media_box(Rect::new(0.0, 0.0, width, height)).parent(tree).contents(number(i, 1));
        page.resources().x_objects().pair(name, number(i, 2));
        page.finish();
        let mut content = Content::new();
        content.save_state().transform([width, 0.0, 0.0, height, 0.0, 0.0]).x_object(name).restore_state();
        pdf.stream(number(i, 1), &content.finish());
        let bytes = write::jpeg(picture.pixels(), PAGE[0], PAGE[1], QUALITY, None)?;
        let mut image = pdf.image_xobject(number(i, 2), &bytes);
        image.filter(Filter::DctDecode);
        image.width(PAGE[0] as i32).height(PAGE[1] as i32).bits_per_component(8);
        image.color_space().device_rgb();
        image.finish();
    }
    Ok(pdf.finish())
}
