//! A manifest that is being added to.

use std::fs::{File, OpenOptions};
use std::io::{Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};

use super::{Line, MANIFEST_NAME};
use crate::base::platform::private_files;
use crate::record::RecordError;

/// A manifest that is being added to.
#[derive(Debug)]
pub(in crate::record) struct ManifestWriter {
    path: PathBuf,
    file: File,
    /// Its length up to the last whole line, in bytes.
    length: u64,
}

impl ManifestWriter {
    /// Begins the manifest of a new record.
    pub(in crate::record) fn begin(folder: &Path) -> Result<Self, RecordError> {
        Self::open(folder, private_files().create_new(true))
    }

    /// Goes on with one, behind its last whole line.
    pub(in crate::record) fn go_on(folder: &Path) -> Result<Self, RecordError> {
        let mut writer = Self::open(folder, &mut private_files())?;
        let text =
            std::fs::read(&writer.path).map_err(RecordError::io(&writer.path, "cannot be read"))?;
        writer.length = memchr::memrchr(b'\n', &text).map_or(0, |at| at as u64 + 1);
        writer
            .cut()
            .map_err(RecordError::io(&writer.path, "cannot be written"))?;
        Ok(writer)
    }

    fn open(folder: &Path, options: &mut OpenOptions) -> Result<Self, RecordError> {
        let path = folder.join(MANIFEST_NAME);
        options.write(true);
        let file = options
            .open(&path)
            .map_err(RecordError::io(&path, "cannot be written"))?;
        Ok(Self {
            path,
            file,
            length: 0,
        })
    }

    /// Takes away what is behind the last whole line.
    fn cut(&mut self) -> std::io::Result<()> {
        self.file.set_len(self.length)?;
        self.file.seek(SeekFrom::Start(self.length)).map(|_| ())
    }

    /// Adds lines and makes sure that they are on the disk. If they cannot be, none is added.
    pub(in crate::record) fn add(
        &mut self,
        lines: impl IntoIterator<Item = Line>,
    ) -> Result<(), RecordError> {
        let mut text = Vec::new();
        for line in lines {
            serde_json::to_writer(&mut text, &line).map_err(RecordError::Unwritable)?;
            text.push(b'\n');
        }
        if text.is_empty() {
            return Ok(());
        }
        let added = self
            .file
            .write_all(&text)
            .and_then(|()| self.file.sync_data());
        if let Err(error) = added {
            // A line cut short must not run into the next; if even that fails, the next run
            // passes over it.
            let _ = self.cut();
            return Err(RecordError::io(&self.path, "cannot be written")(error));
        }
        self.length += text.len() as u64;
        Ok(())
    }
}
