//! Reading a file as it will be once edits are made, without holding either.

use std::io::{self, Read};

use super::{ByteEdits, Edit};

/// Reads a file as it will be once edits are made, without holding either.
pub struct SplicedReader<'a, R> {
    inner: R,
    edits: std::slice::Iter<'a, Edit>,
    /// How far `inner` has been read.
    at: usize,
    next: Option<&'a Edit>,
    /// What is left of the replacement that is being given.
    pending: &'a [u8],
}

impl<'a, R: Read> SplicedReader<'a, R> {
    /// Reads `inner` with `edits` made in it.
    pub fn new(inner: R, edits: &'a ByteEdits) -> Self {
        let mut edits = edits.as_slice().iter();
        let next = edits.next();
        Self {
            inner,
            edits,
            at: 0,
            next,
            pending: &[],
        }
    }
}

impl<R: Read> Read for SplicedReader<'_, R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if buffer.is_empty() {
            return Ok(0);
        }
        loop {
            if !self.pending.is_empty() {
                let given = self.pending.len().min(buffer.len());
                buffer[..given].copy_from_slice(&self.pending[..given]);
                self.pending = &self.pending[given..];
                return Ok(given);
            }
            match self.next {
                Some(edit) if self.at == edit.span.start => {
                    let mut gone = (&mut self.inner).take((edit.span.end - edit.span.start) as u64);
                    self.at += io::copy(&mut gone, &mut io::sink())? as usize;
                    self.pending = &edit.with;
                    self.next = self.edits.next();
                }
                next => {
                    let room = next.map_or(buffer.len(), |edit| {
                        buffer.len().min(edit.span.start - self.at)
                    });
                    let read = self.inner.read(&mut buffer[..room])?;
                    self.at += read;
                    return Ok(read);
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::{Edits, splice};
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn reading_spliced_is_splicing(
            old in prop::collection::vec(any::<u8>(), 0..50),
            cuts in prop::collection::vec((0usize..50, 0usize..5, prop::collection::vec(any::<u8>(), 0..5)), 0..5),
        ) {
            let edits = cuts.into_iter().filter(|(s, l, _)| s + l <= old.len()).map(|(s, l, with)| Edit { span: s..s + l, with }).collect();
            let Ok(edits) = Edits::new(edits) else { return Ok(()) };
            let mut new = Vec::new();
            SplicedReader::new(&old[..], &edits).read_to_end(&mut new).unwrap();
            prop_assert_eq!(new, splice(&old, &edits));
        }
    }
}
