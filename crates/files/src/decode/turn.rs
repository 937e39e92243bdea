//! EXIF's eight ways for a picture to lie.

/// The place in the upright picture of a pixel of the file.
#[derive(Debug, Clone, Copy)]
pub struct Turn {
    /// 1..8 as EXIF counts them; others lie as they are.
    pub way: u16,
    pub width: usize,
    pub height: usize,
}

impl Turn {
    /// Width and height when upright.
    pub fn upright(&self) -> (usize, usize) {
        if (5..=8).contains(&self.way) { (self.height, self.width) } else { (self.width, self.height) }
    }

    pub fn place(&self, x: usize, y: usize) -> usize {
        let (right, down) = (self.width - 1 - x, self.height - 1 - y);
        let (column, row) = match self.way {
            2 => (right, y),
            3 => (right, down),
            4 => (x, down),
            5 => (y, x),
            6 => (down, x),
            7 => (down, right),
            8 => (y, right),
            _ => (x, y),
        };
        row * self.upright().0 + column
    }

    /// A whole picture, upright.
    pub fn turned<T: Copy + Default>(&self, samples: &[T], channels: usize) -> Vec<T> {
        let mut upright = vec![T::default(); samples.len()];
        for (y, row) in samples.chunks_exact(channels * self.width.max(1)).enumerate() {
            for (x, pixel) in row.chunks_exact(channels).enumerate() {
                let at = channels * self.place(x, y);
                upright[at..at + channels].copy_from_slice(pixel);
            }
        }
        upright
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// As EXIF's table draws them (CIPA DC-008, 4.6.4, Orientation): where the file's first row and first column lie.
    #[test]
    fn the_eight_ways_are_those_of_the_table() {
        let file = [1, 2, 3, 4, 5, 6];
        let ways: [(usize, [u8; 6]); 8] = [
            (3, [1, 2, 3, 4, 5, 6]), // first row at the top, first column at the left
            (3, [3, 2, 1, 6, 5, 4]), // top, right
            (3, [6, 5, 4, 3, 2, 1]), // bottom, right
            (3, [4, 5, 6, 1, 2, 3]), // bottom, left
            (2, [1, 4, 2, 5, 3, 6]), // left, top
            (2, [4, 1, 5, 2, 6, 3]), // right, top
            (2, [6, 3, 5, 2, 4, 1]), // right, bottom
            (2, [3, 6, 2, 5, 1, 4]), // left, bottom
        ];
        for (i, (width, upright)) in ways.into_iter().enumerate() {
            let turn = Turn { way: i as u16 + 1, width: 3, height: 2 };
            assert_eq!((turn.upright().0, turn.turned(&file, 1)), (width, upright.to_vec()), "way {}", i + 1);
        }
    }
}
