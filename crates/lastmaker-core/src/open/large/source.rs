//! Where a large text comes from.

use std::io::{self, Read};
use std::path::Path;

use crate::base::platform;
use crate::layer::{ByteEdits, SplicedReader};
use crate::text::{Detected, Encoding, SAMPLE, Shown, detect_by};

/// A text that is read from its start as often as it is asked.
pub trait Source {
    /// It from its start.
    ///
    /// # Errors
    /// As the system says.
    fn open(&self) -> io::Result<Box<dyn Read + '_>>;

    /// How long it is, in bytes.
    fn size(&self) -> u64;
}

/// A file on the disk, which is never opened through a link.
pub(crate) struct FileSource<'a> {
    path: &'a Path,
    size: u64,
}

impl<'a> FileSource<'a> {
    /// The file at `path`, as long as it is now.
    ///
    /// # Errors
    /// As the system says, and where there is no regular file.
    pub(crate) fn new(path: &'a Path) -> io::Result<Self> {
        let (_, metadata) = platform::open_regular(path)?;
        let size = metadata.len();
        Ok(Self { path, size })
    }
}

impl Source for FileSource<'_> {
    fn open(&self) -> io::Result<Box<dyn Read + '_>> {
        Ok(Box::new(platform::open_regular(self.path)?.0))
    }

    fn size(&self) -> u64 {
        self.size
    }
}

impl Source for &[u8] {
    fn open(&self) -> io::Result<Box<dyn Read + '_>> {
        Ok(Box::new(*self))
    }

    fn size(&self) -> u64 {
        self.len() as u64
    }
}

/// Another text with edits made in it.
pub(crate) struct SplicedSource<'a> {
    of: &'a dyn Source,
    edits: &'a ByteEdits,
}

impl<'a> SplicedSource<'a> {
    /// `of` with `edits` made in it.
    pub(crate) fn new(of: &'a dyn Source, edits: &'a ByteEdits) -> Self {
        Self { of, edits }
    }
}

impl Source for SplicedSource<'_> {
    fn open(&self) -> io::Result<Box<dyn Read + '_>> {
        Ok(Box::new(SplicedReader::new(self.of.open()?, self.edits)))
    }

    fn size(&self) -> u64 {
        let edits = self.edits.as_slice().iter();
        edits.fold(self.of.size(), |size, edit| {
            size + edit.with.len() as u64 - edit.span.len() as u64
        })
    }
}

/// Shows what `source` gives to `each`, piece by piece.
///
/// # Errors
/// As reading does.
pub(crate) fn pieces(source: &dyn Source, each: &mut dyn FnMut(&[u8])) -> io::Result<()> {
    const PIECE: usize = 1 << 20;
    let mut read = source.open()?;
    let mut piece = vec![0; PIECE];
    loop {
        match read.read(&mut piece) {
            Ok(0) => return Ok(()),
            Ok(length) => each(&piece[..length]),
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
    }
}

/// In which encoding the text of `source` is by its bytes, if it is text; `said` is taken for eight-bit text. Whether
/// all of it is ASCII, too.
///
/// # Errors
/// As reading does.
pub(crate) fn encoding_of(
    source: &dyn Source,
    said: Option<Encoding>,
) -> io::Result<(Option<Detected>, bool)> {
    let mut shown = Shown::default();
    pieces(source, &mut |piece| shown.add(piece))?;
    let ascii = shown.is_ascii();
    let head = head(source, SAMPLE)?;
    Ok((detect_by(&head, said, || shown), ascii))
}

/// How `source` begins: so many bytes at the most.
///
/// # Errors
/// As reading does.
pub(super) fn head(source: &dyn Source, most: usize) -> io::Result<Vec<u8>> {
    let mut head = Vec::new();
    source.open()?.take(most as u64).read_to_end(&mut head)?;
    Ok(head)
}
