//! Making what was written durable, many files at once.
//!
//! A sync of one new file costs its own turn of the file system's journal. Where the system can
//! make a whole file system durable and says what failed, one call does for a batch of files;
//! elsewhere each file is synced by itself.

use std::fs::File;
use std::io;

use rayon::prelude::*;

use super::this::sync_file_systems;

/// With fewer files than this, each is synced by itself: a call for the whole file system also
/// waits for what other programs have written.
const WORTH_IT: usize = 8;

/// Makes files, or folders' entries, durable; says of each whether it is.
pub(in crate::record) fn sync_together(files: &[File]) -> Vec<io::Result<()>> {
    if files.len() >= WORTH_IT && sync_file_systems(files) {
        return files.iter().map(|_| Ok(())).collect();
    }
    files.par_iter().map(File::sync_all).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn few_and_many_files_are_synced() {
        let folder = tempfile::tempdir().unwrap();
        for number in [1, 20] {
            let make = |index| File::create(folder.path().join(format!("{number}-{index}")));
            let files: Vec<File> = (0..number).map(|index| make(index).unwrap()).collect();
            let synced = sync_together(&files);
            assert_eq!(synced.len(), number);
            assert!(synced.iter().all(Result::is_ok));
        }
    }
}
