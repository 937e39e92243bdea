//! 3x3 matrices in double precision, for set-up; pixels use the rounded single-precision rows.

/// A 3x3 matrix, row by row.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Matrix3(pub [[f64; 3]; 3]);

impl Matrix3 {
    /// Changes nothing.
    pub const IDENTITY: Self = Self([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]]);

    /// Scales each coordinate.
    pub const fn diagonal(d: [f64; 3]) -> Self {
        Self([[d[0], 0.0, 0.0], [0.0, d[1], 0.0], [0.0, 0.0, d[2]]])
    }

    /// The matrix times a column.
    pub const fn apply(&self, v: [f64; 3]) -> [f64; 3] {
        let [a, b, c] = self.0;
        [
            a[0] * v[0] + a[1] * v[1] + a[2] * v[2],
            b[0] * v[0] + b[1] * v[1] + b[2] * v[2],
            c[0] * v[0] + c[1] * v[1] + c[2] * v[2],
        ]
    }

    /// `self` after `first`: (self x first).
    pub const fn after(&self, first: &Matrix3) -> Self {
        let (a, b) = (&self.0, &first.0);
        let mut out = [[0.0; 3]; 3];
        let mut at = 0;
        while at < 9 {
            let (i, j) = (at / 3, at % 3);
            out[i][j] = a[i][0] * b[0][j] + a[i][1] * b[1][j] + a[i][2] * b[2][j];
            at += 1;
        }
        Self(out)
    }

    /// The inverse by cofactors; `None` when the determinant vanishes.
    pub const fn inverse(&self) -> Option<Self> {
        let m = &self.0;
        let determinant = m[0][0] * self.cofactor(0, 0) + m[0][1] * self.cofactor(0, 1) + m[0][2] * self.cofactor(0, 2);
        if determinant.abs() < 1e-30 {
            return None;
        }
        let mut out = [[0.0; 3]; 3];
        let mut at = 0;
        while at < 9 {
            out[at / 3][at % 3] = self.cofactor(at % 3, at / 3) / determinant;
            at += 1;
        }
        Some(Self(out))
    }

    /// The inverse of a matrix that is known to have one. For constants: where it has none, the program does not
    /// compile.
    pub const fn inverted(&self) -> Self {
        match self.inverse() {
            Some(inverse) => inverse,
            None => panic!("this matrix has no inverse"),
        }
    }

    const fn cofactor(&self, r: usize, c: usize) -> f64 {
        let m = &self.0;
        let (r1, r2) = ((r + 1) % 3, (r + 2) % 3);
        let (c1, c2) = ((c + 1) % 3, (c + 2) % 3);
        m[r1][c1] * m[r2][c2] - m[r1][c2] * m[r2][c1]
    }

    /// Every element times a factor.
    pub fn scaled(&self, factor: f64) -> Self {
        Self(self.0.map(|row| row.map(|v| v * factor)))
    }

    /// Rounded, for pixels.
    pub fn to_f32(&self) -> [[f32; 3]; 3] {
        self.0.map(|row| row.map(|v| v as f32))
    }
}

/// One row of a matrix times one pixel, in the fixed order that every pixel loop uses.
#[inline(always)]
pub fn dot(row: &[f32; 3], r: f32, g: f32, b: f32) -> f32 {
    row[0] * r + row[1] * g + row[2] * b
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn inverse_undoes() {
        let m = Matrix3([[0.9, 0.1, 0.2], [0.0, 1.3, -0.2], [0.4, 0.0, 0.7]]);
        let back = m.after(&m.inverse().unwrap());
        for i in 0..3 {
            for j in 0..3 {
                assert!((back.0[i][j] - f64::from(i == j)).abs() < 1e-14);
            }
        }
        assert!(Matrix3([[1.0, 2.0, 3.0], [2.0, 4.0, 6.0], [0.0, 1.0, 1.0]]).inverse().is_none());
    }
}
