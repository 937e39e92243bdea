//! Work that the threads of a pool share: the parts of a slice, or numbers from 0.
//!
//! The work is called through a pointer. How it is shared is long code, and would otherwise be compiled anew for every
//! place that shares something; a call for each part costs nothing beside the part.

use rayon::prelude::*;

/// Parts of `length` values, the last of what is left, each with its number.
pub(crate) fn for_parts<T: Send>(values: &mut [T], length: usize, work: &(dyn Fn(usize, &mut [T]) + Sync)) {
    values.par_chunks_mut(length).enumerate().for_each(|(index, part)| work(index, part));
}

/// What is made of the numbers below `count`, in their order.
pub(crate) fn made_of<T: Send>(count: usize, make: &(dyn Fn(usize) -> T + Sync)) -> Vec<T> {
    (0..count).into_par_iter().map(make).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_part_is_worked_on_once_and_the_last_is_what_is_left() {
        for count in [0usize, 1, 7, 8, 9, 1000] {
            let mut values = vec![0u32; count];
            for_parts(&mut values, 8, &|index, part| {
                assert_eq!(part.len(), 8.min(count - 8 * index));
                part.iter_mut().for_each(|v| *v += 1 + index as u32);
            });
            assert_eq!(values, (0..count).map(|i| 1 + i as u32 / 8).collect::<Vec<_>>());
            assert_eq!(made_of(count, &|i| 2 * i), (0..count).map(|i| 2 * i).collect::<Vec<_>>());
        }
    }
}
