//! 3x3 matrices in double precision, for set-up; pixels use the rounded single-precision rows.

/// A 3x3 matrix, row by row.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Matrix3(pub [[f64; 3]; 3]);

impl Matrix3 {
    pub const IDENTITY: Self = Self([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]]);

    pub fn diagonal(d: [f64; 3]) -> Self {
        Self([[d[0], 0.0, 0.0], [0.0, d[1], 0.0], [0.0, 0.0, d[2]]])
    }

    pub fn apply(&self, v: [f64; 3]) -> [f64; 3] {
        self.0.map(|row| row[0] * v[0] + row[1] * v[1] + row[2] * v[2])
    }

    /// `self` after `first`: (self x first).
    pub fn after(&self, first: &Matrix3) -> Self {
        let mut out = [[0.0; 3]; 3];
        for (i, row) in out.iter_mut().enumerate() {
            for (j, cell) in row.iter_mut().enumerate() {
                *cell = (0..3).map(|k| self.0[i][k] * first.0[k][j]).sum();
            }
        }
        Self(out)
    }

    /// The inverse by cofactors; `None` when the determinant vanishes.
    pub fn inverse(&self) -> Option<Self> {
        let m = &self.0;
        let cofactor = |r: usize, c: usize| {
            let (r1, r2) = ((r + 1) % 3, (r + 2) % 3);
            let (c1, c2) = ((c + 1) % 3, (c + 2) % 3);
            m[r1][c1] * m[r2][c2] - m[r1][c2] * m[r2][c1]
        };
        let determinant: f64 = (0..3).map(|c| m[0][c] * cofactor(0, c)).sum();
        if determinant.abs() < 1e-30 {
            return None;
        }
        let mut out = [[0.0; 3]; 3];
        for (i, row) in out.iter_mut().enumerate() {
            for (j, cell) in row.iter_mut().enumerate() {
                *cell = cofactor(j, i) / determinant;
            }
        }
        Some(Self(out))
    }

    pub fn scaled(&self, factor: f64) -> Self {
        Self(self.0.map(|row| row.map(|v| v * factor)))
    }

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
