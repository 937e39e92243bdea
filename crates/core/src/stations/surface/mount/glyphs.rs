//! Letters and numbers of the film's edge, as strokes on a grid of 4 by 6.

/// Strokes of a character: runs of points `xy`, one run after the other.
fn strokes(c: char) -> &'static str {
    match c {
        '0' => "10 30 41 45 36 16 05 01 10",
        '1' => "11 20 26",
        '2' => "01 10 30 41 42 06 46",
        '3' => "01 10 30 41 42 33 44 45 36 16 05|13 33",
        '4' => "30 04 44|30 36",
        '5' => "40 10 03 33 44 45 36 06",
        '6' => "30 10 02 05 16 36 45 44 33 13 04",
        '7' => "00 40 16",
        '8' => "10 30 41 42 33 13 02 01 10|13 04 05 16 36 45 44 33",
        '9' => "42 33 13 02 01 10 30 41 44 36 16",
        'A' => "06 20 46|14 34",
        'B' => "00 06 36 45 44 33 03|33 42 41 30 00",
        'C' => "41 30 10 01 05 16 36 45",
        'D' => "00 06 26 45 41 20 00",
        'E' => "40 00 06 46|03 33",
        'F' => "40 00 06|03 33",
        'G' => "41 30 10 01 05 16 36 45 43 23",
        'H' => "00 06|40 46|03 43",
        'I' => "20 26",
        'J' => "30 35 26 16 05",
        'K' => "00 06|40 03 46",
        'L' => "00 06 46",
        'M' => "06 00 23 40 46",
        'N' => "06 00 46 40",
        'O' => "10 30 41 45 36 16 05 01 10",
        'P' => "06 00 30 41 42 33 03",
        'Q' => "10 30 41 45 36 16 05 01 10|24 46",
        'R' => "06 00 30 41 42 33 03|23 46",
        'S' => "41 30 10 01 02 13 33 44 45 36 16 05",
        'T' => "00 40|20 26",
        'U' => "00 05 16 36 45 40",
        'V' => "00 26 40",
        'W' => "00 16 23 36 40",
        'X' => "00 46|40 06",
        'Y' => "00 23 40|23 26",
        'Z' => "00 40 06 46",
        '-' => "13 33",
        // an arrow between the numbers
        '>' => "11 33 15 11",
        _ => "",
    }
}

/// Advance from one character to the next, and height, on the grid.
const ADVANCE: f32 = 6.0;
const HEIGHT: f32 = 6.0;

/// Pieces of lines of a text whose upper left corner lies at a place, so high, written along a direction.
pub fn written(text: &str, at: [f32; 2], height: f32, along: [f32; 2]) -> Vec<[[f32; 2]; 2]> {
    let unit = height / HEIGHT;
    let place =
        |x: f32, y: f32| [at[0] + unit * (x * along[0] - y * along[1]), at[1] + unit * (x * along[1] + y * along[0])];
    let mut pieces = Vec::new();
    for (index, c) in text.chars().enumerate() {
        for run in strokes(c).split('|') {
            let points: Vec<[f32; 2]> = run
                .split(' ')
                .filter_map(|point| {
                    let mut digits = point.chars().filter_map(|d| d.to_digit(10)).map(|d| d as f32);
                    Some(place(digits.next()? + ADVANCE * index as f32, digits.next()?))
                })
                .collect();
            pieces.extend(points.windows(2).map(|pair| [pair[0], pair[1]]));
        }
    }
    pieces
}

/// Breadth of a text of a height.
pub fn breadth(text: &str, height: f32) -> f32 {
    (ADVANCE * text.chars().count() as f32 - 2.0).max(0.0) * height / HEIGHT
}

/// Distance of a place from a piece of a line.
pub fn from_piece([x, y]: [f32; 2], [a, b]: &[[f32; 2]; 2]) -> f32 {
    let along = [b[0] - a[0], b[1] - a[1]];
    let square = (along[0] * along[0] + along[1] * along[1]).max(1e-12);
    let t = (((x - a[0]) * along[0] + (y - a[1]) * along[1]) / square).clamp(0.0, 1.0);
    let (dx, dy) = (x - a[0] - t * along[0], y - a[1] - t * along[1]);
    (dx * dx + dy * dy).sqrt()
}
