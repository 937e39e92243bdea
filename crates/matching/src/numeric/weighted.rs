//! Orders of values that have weights.

/// The value up to which a share of the weights lies; 0 where there is none.
pub fn quantile(values: impl Iterator<Item = (f64, f64)>, share: f64) -> f64 {
    let mut values: Vec<(f64, f64)> = values.collect();
    values.sort_by(|a, b| a.0.total_cmp(&b.0));
    let wanted = share * values.iter().map(|v| v.1).sum::<f64>();
    let mut sum = 0.0;
    let at = values.iter().find(|(_, weight)| {
        sum += weight;
        sum >= wanted
    });
    at.or(values.last()).map_or(0.0, |v| v.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weights_count() {
        let values = [(3.0, 1.0), (1.0, 1.0), (2.0, 6.0)];
        let of = |share: f64| quantile(values.into_iter(), share);
        assert_eq!([of(0.0), of(0.1), of(0.5), of(0.8), of(0.95), of(2.0)], [1.0, 1.0, 2.0, 2.0, 3.0, 3.0]);
        assert_eq!(quantile(std::iter::empty(), 0.5), 0.0);
    }
}
