//! Fields of grain made before they are asked for: while a file is decoded, which one thread does.
//!
//! A field hangs on the place on the film alone, so it can be made before there is a picture. It is taken away by the
//! first that asks for its rectangle; for any other it is made anew, with the same bits.

use std::collections::HashMap;
use std::sync::{Mutex, MutexGuard, PoisonError};

use crate::picture::Region;

/// Bytes of fields that are made ahead at most.
const MOST_BYTES: usize = 112 << 20;

/// The unit fields of all layers over some rectangles of the film.
#[derive(Debug, Default)]
pub struct FieldsAhead(Mutex<HashMap<Region, Vec<Vec<f32>>>>);

impl FieldsAhead {
    /// A poisoned lock only means that another render panicked; the map itself is whole.
    fn held(&self) -> MutexGuard<'_, HashMap<Region, Vec<Vec<f32>>>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Makes the fields of rectangles, one after the other, as long as it may go on and there is room.
    pub fn make(
        &self,
        regions: impl Iterator<Item = Region>,
        fields: impl Fn(Region) -> Vec<Vec<f32>>,
        go_on: &dyn Fn() -> bool,
    ) {
        let mut bytes = 0;
        for region in regions {
            if bytes >= MOST_BYTES || !go_on() {
                return;
            }
            let made = fields(region);
            bytes += made.iter().map(|plane| plane.len() * size_of::<f32>()).sum::<usize>();
            self.held().insert(region, made);
        }
    }

    /// The fields of a rectangle, where they are there: they are not afterwards.
    pub fn take(&self, region: Region) -> Option<Vec<Vec<f32>>> {
        self.held().remove(&region)
    }

    #[cfg(test)]
    pub fn count(&self) -> usize {
        self.held().len()
    }

    /// Lets go of what nobody has taken.
    pub fn clear(&self) {
        *self.held() = HashMap::new();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn fields_are_taken_once_and_bounded() {
        let ahead = FieldsAhead::default();
        let regions = || (0..1000).map(|i| Region::new(256 * i, 0, 256, 256));
        ahead.make(regions(), |region| vec![vec![region.x as f32; region.pixels()]; 3], &|| true);
        assert_eq!(ahead.count(), (MOST_BYTES / (3 * 4 * 256 * 256)) + 1);
        let second = Region::new(256, 0, 256, 256);
        assert_eq!(ahead.take(second).unwrap()[2][7], 256.0);
        assert!(ahead.take(second).is_none());
        ahead.clear();
        assert!(ahead.take(Region::new(0, 0, 256, 256)).is_none());
        let asked = std::cell::Cell::new(0);
        let twice = || asked.replace(asked.get() + 1) < 2;
        ahead.make(regions(), |region| vec![vec![0.0; region.pixels()]], &twice);
        assert_eq!(ahead.count(), 2);
    }
}
