//! Opening a picture that is to be laid on others: with its alpha, and not larger than a sheet needs.

use amber_core::picture::own::OwnPicture;

use crate::error::FileError;
use crate::limits::Limits;
use crate::read;

/// Most pixels of a sheet, in millions: four bytes each are held while it is laid.
const MOST_MEGAPIXELS: u64 = 40;

/// Opens a JPEG, PNG or TIFF as a sheet. An alpha channel says what covers.
pub fn open(bytes: &[u8], limits: Limits) -> Result<OwnPicture, FileError> {
    let limits = Limits { megapixels: limits.megapixels.min(MOST_MEGAPIXELS) };
    let (width, height, rgba) = read::with_cover(bytes, limits)?;
    OwnPicture::new(width, height, rgba).ok_or(FileError::NotAPicture)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn alpha_is_kept_and_bounds_hold() {
        let rgba: Vec<u8> = (0..24u8).flat_map(|i| [200, 10 * (i % 6), 0, 60 * (i / 6)]).collect();
        let png = crate::write::png_with_cover(&rgba, 6, 4).unwrap();
        let opened = open(&png, Limits::default()).unwrap();
        assert_eq!(
            (opened.size(), opened.small(6).2[..3].to_vec()),
            ([6, 4], vec![128, 128, 128]),
            "nothing covers above"
        );
        assert!(open(&png, Limits { megapixels: 0 }).is_err());
        assert!(open(&png[..40], Limits::default()).is_err());
    }
}
