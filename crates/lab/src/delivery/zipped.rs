//! Exports that were ordered together as one ZIP, written while they are made.

use std::io::Write;
use std::time::Duration;

use amber_files::FileError;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use super::queue::ExportState;
use crate::Lab;
use crate::error::LabError;

/// How long one that is not made yet is waited for before it is asked whether anybody still reads.
const PATIENCE: Duration = Duration::from_millis(500);
/// Name of the list of those that were not made.
const MISSING: &str = "not made.txt";

pub(crate) fn packed(error: impl ToString) -> LabError {
    FileError::Encode { why: error.to_string() }.into()
}

/// Pictures are compressed already: they are stored as they are.
pub(crate) fn stored() -> SimpleFileOptions {
    // a file may be larger than 4 GiB
    SimpleFileOptions::default().compression_method(CompressionMethod::Stored).large_file(true)
}

impl Lab {
    /// Writes the files of a batch into a ZIP, each as soon as it is made. `over` is asked whether anybody still reads.
    pub fn zip_exports(&self, batch: i64, out: impl Write, over: &dyn Fn() -> bool) -> Result<(), LabError> {
        let exports = self.exports_of(batch)?;
        if exports.is_empty() {
            return Err(LabError::NoExport(batch));
        }
        let mut zip = ZipWriter::new_stream(out);
        let mut missing = String::new();
        for export in exports {
            while !self.wait_for_export(export.id, PATIENCE)? {
                if over() {
                    return Err(amber_core::CoreError::Abandoned.into());
                }
            }
            let export = self.export(export.id)?;
            let why = match export.state {
                ExportState::Done { .. } => match std::fs::File::open(self.export_file(export.id)?) {
                    Ok(mut file) => {
                        zip.start_file(&export.file_name, stored()).map_err(packed)?;
                        std::io::copy(&mut file, &mut zip).map_err(packed)?;
                        continue;
                    }
                    Err(error) => error.to_string(),
                },
                ExportState::Failed(why) => why,
                _ => "cancelled".into(),
            };
            missing += &format!("{}: {why}\n", export.file_name);
        }
        if !missing.is_empty() {
            zip.start_file(MISSING, stored()).map_err(packed)?;
            zip.write_all(missing.as_bytes()).map_err(packed)?;
        }
        zip.finish().map_err(packed)?;
        Ok(())
    }
}
