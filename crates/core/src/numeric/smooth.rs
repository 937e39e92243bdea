//! Smooth steps and ramps in double precision, for set-up.

/// ln(1 + e^u) without overflow.
pub fn softplus(u: f64) -> f64 {
    u.max(0.0) + (-u.abs()).exp().ln_1p()
}

/// The inverse of [`softplus`]: ln(e^v - 1), `v` > 0.
pub fn softplus_inverse(v: f64) -> f64 {
    if v > 30.0 { v } else { v.exp_m1().ln() }
}

/// Hermite step from 0 at `from` to 1 at `to`.
pub fn smoothstep(value: f64, from: f64, to: f64) -> f64 {
    let t = ((value - from) / (to - from)).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// Hermite step of a share, in single precision, for pixel loops.
#[inline(always)]
pub fn smooth_share(t: f32) -> f32 {
    let t = t.clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn softplus_round_trip() {
        for u in [-20.0, -3.0, -0.1, 0.0, 0.4, 7.0, 60.0] {
            assert!((softplus_inverse(softplus(u)) - u).abs() < 1e-6 * (1.0 + u.abs()), "{u}");
        }
    }

    #[test]
    fn step_has_flat_ends() {
        assert_eq!(smoothstep(-1.0, 0.0, 1.0), 0.0);
        assert_eq!(smoothstep(0.5, 0.0, 1.0), 0.5);
        assert_eq!(smoothstep(2.0, 0.0, 1.0), 1.0);
        assert_eq!([-1.0, 0.5, 3.0].map(smooth_share), [0.0, 0.5, 1.0]);
    }
}
