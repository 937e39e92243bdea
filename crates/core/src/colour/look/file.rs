//! Tables as files: the text form that many programs read (`.cube`), and the picture form (Hald), an identity picture
//! with the look on it.

use std::fmt::Write;

use super::{Look, check_size};
use crate::error::CoreError;

/// Levels of Hald pictures that are made, by the size of their tables: a picture of level L has L^3 pixels a side.
pub const HALD_LEVELS: [u32; 2] = [4, 8];
/// Most characters of a text form: 129^3 lines of 40.
const MOST_CHARACTERS: usize = 100 << 20;

fn wrong(why: impl Into<String>) -> CoreError {
    CoreError::Look { why: why.into() }
}

/// Three numbers of a line.
fn numbers(line: &str) -> Option<[f32; 3]> {
    let mut words = line.split_whitespace().map(|word| word.parse::<f32>().ok().filter(|v| v.is_finite()));
    let three = [words.next()??, words.next()??, words.next()??];
    words.next().is_none().then_some(three)
}

impl Look {
    /// The text form, with what it cannot carry in its comments.
    pub fn to_cube(&self, title: &str) -> String {
        let title: String = title.chars().filter(|c| !c.is_control() && *c != '"').collect();
        let mut out = format!("TITLE \"{title}\"\n# Encoded sRGB in, encoded sRGB out.\n");
        if !self.left_out.is_empty() {
            let _ = writeln!(out, "# Not in it, since a table knows no place: {}.", self.left_out.join(", "));
        }
        let _ = writeln!(out, "LUT_3D_SIZE {}\nDOMAIN_MIN 0.0 0.0 0.0\nDOMAIN_MAX 1.0 1.0 1.0", self.size);
        for [r, g, b] in self.colours.iter() {
            let _ = writeln!(out, "{r:.6} {g:.6} {b:.6}");
        }
        out
    }

    /// Reads the text form.
    pub fn of_cube(text: &str) -> Result<Self, CoreError> {
        if text.len() > MOST_CHARACTERS {
            return Err(wrong("it is too long"));
        }
        let (mut size, mut colours): (Option<u32>, Vec<[f32; 3]>) = (None, Vec::new());
        let (mut low, mut high) = ([0.0; 3], [1.0; 3]);
        for (n, line) in text.lines().enumerate() {
            let line = line.trim();
            let (word, rest) = line.split_once(char::is_whitespace).unwrap_or((line, ""));
            let bad = || wrong(format!("line {}: '{}'", n + 1, crate::text::shortened(line)));
            match word {
                "" | "TITLE" => {}
                _ if word.starts_with('#') => {}
                "LUT_1D_SIZE" => return Err(wrong("it is a table of curves; one of colours is needed (LUT_3D_SIZE)")),
                "LUT_3D_SIZE" => {
                    let asked: u32 = rest.trim().parse().map_err(|_| bad())?;
                    check_size(asked)?;
                    size = Some(asked);
                    colours.reserve(asked.pow(3) as usize);
                }
                "DOMAIN_MIN" => low = numbers(rest).ok_or_else(bad)?,
                "DOMAIN_MAX" => high = numbers(rest).ok_or_else(bad)?,
                _ => {
                    let asked = size.ok_or_else(|| wrong("its size (LUT_3D_SIZE) is missing"))?;
                    if colours.len() >= asked.pow(3) as usize {
                        return Err(wrong(format!("it has more than {asked}^3 colours")));
                    }
                    colours.push(numbers(line).ok_or_else(bad)?);
                }
            }
        }
        if low != [0.0; 3] || high != [1.0; 3] {
            return Err(wrong("its domain is not 0 to 1: it is not one for encoded pictures"));
        }
        let size = size.ok_or_else(|| wrong("its size (LUT_3D_SIZE) is missing"))?;
        Self::of_colours(size, colours)
    }

    /// The picture form: its side in pixels, and 16-bit RGB, interleaved. The table must have as many colours a channel
    /// as a level squared.
    pub fn to_hald(&self) -> Result<(u32, Vec<u16>), CoreError> {
        let level = (1..=11).find(|level: &u32| level * level == self.size);
        let level =
            level.ok_or_else(|| wrong(format!("a Hald picture has 16 or 64 colours a channel, not {}", self.size)))?;
        let pixels = self.colours.iter().flat_map(|colour| colour.map(|v| (v * 65535.0 + 0.5) as u16)).collect();
        Ok((level.pow(3), pixels))
    }

    /// Reads the picture form: a square picture of encoded sRGB, interleaved, 0..1.
    pub fn of_hald(side: u32, pixels: &[f32]) -> Result<Self, CoreError> {
        let level = (2..=11).find(|level: &u32| level.pow(3) == side);
        let level =
            level.ok_or_else(|| wrong(format!("a Hald picture is 64 or 512 pixels wide and high, not {side}")))?;
        Self::of_colours(level * level, pixels.chunks_exact(3).map(|p| [p[0], p[1], p[2]]).collect())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn look(size: u32) -> Look {
        let level = |i: u32| i as f32 / (size - 1) as f32;
        let colours = (0..size.pow(3)).map(|i| [level(i % size), 0.5, level(i / size / size)]).collect();
        Look { left_out: vec!["Grain".into()], ..Look::of_colours(size, colours).unwrap() }
    }

    #[test]
    fn what_is_written_is_read() {
        let cube = look(5).to_cube("Quay \"1\"\n");
        assert!(cube.starts_with("TITLE \"Quay 1\"\n") && cube.contains("Grain"), "{cube}");
        let read = Look::of_cube(&cube).unwrap();
        assert_eq!(read.size(), 5);
        for (a, b) in read.colours.iter().flatten().zip(look(5).colours.iter().flatten()) {
            assert!((a - b).abs() < 1e-6);
        }
        let (side, pixels) = look(16).to_hald().unwrap();
        assert_eq!(side, 64);
        let values: Vec<f32> = pixels.iter().map(|v| f32::from(*v) / 65535.0).collect();
        let read = Look::of_hald(side, &values).unwrap();
        assert!(
            read.colours.iter().flatten().zip(look(16).colours.iter().flatten()).all(|(a, b)| (a - b).abs() < 1e-4)
        );
        assert!(look(17).to_hald().is_err() && Look::of_hald(63, &values).is_err());
    }

    #[test]
    fn tables_that_are_none_get_a_sentence() {
        for (wrong, said) in [
            ("0 0 0", "LUT_3D_SIZE"),
            ("LUT_1D_SIZE 4\n0 0 0", "curves"),
            ("LUT_3D_SIZE 2\n0 0 0", "1 colours where 2^3"),
            ("LUT_3D_SIZE 900", "900 colours"),
            ("LUT_3D_SIZE 2\n0 0 x", "line 2"),
            ("LUT_3D_SIZE 2\nDOMAIN_MAX 2 2 2\n", "domain"),
        ] {
            let error = Look::of_cube(wrong).unwrap_err().to_string();
            assert!(error.contains(said), "{wrong}: {error}");
        }
    }
}
