//! Signs that hold for a text as a whole, wherever in it they are.

use memchr::memmem::Finder;

use super::super::document::Signatures;

/// What is looked for in a text, piece by piece.
pub(super) struct Signs {
    signatures: Signatures,
    wanted: Vec<(Finder<'static>, &'static str)>,
    found: Vec<&'static str>,
    /// The end of the last piece: a sign may lie across two.
    before: Vec<u8>,
}

impl Signs {
    /// Looks for signatures, and these marks of formats.
    pub(super) fn new(marks: Vec<&'static str>) -> Self {
        let wanted = marks.into_iter().map(|mark| (Finder::new(mark), mark));
        Self {
            signatures: Signatures::default(),
            wanted: wanted.collect(),
            found: Vec::new(),
            before: Vec::new(),
        }
    }

    /// Looks through the next piece.
    pub(super) fn add(&mut self, piece: &[u8]) {
        const LONGEST: usize = Signatures::LONGEST;
        let joined = [&self.before[..], &piece[..piece.len().min(LONGEST)]].concat();
        for bytes in [&joined[..], piece] {
            self.signatures.look_through(bytes);
            let found = &mut self.found;
            self.wanted.retain(|(finder, mark)| {
                let there = finder.find(bytes).is_some();
                found.extend(there.then_some(*mark));
                !there
            });
        }
        let kept = joined.len().min(LONGEST);
        self.before = if piece.len() < LONGEST {
            joined[joined.len() - kept..].to_vec()
        } else {
            piece[piece.len() - LONGEST..].to_vec()
        };
    }

    /// Why the text may not be changed, if it is signed, and the marks that are in it.
    pub(super) fn found(self) -> (Option<&'static str>, Vec<&'static str>) {
        (self.signatures.first(), self.found)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn signs_across_pieces_are_found() {
        let text = b"x\nCREATE TABLE a (b) ENGINE=y;\n-----BEGIN SSH SIGNATURE-----\n";
        for size in [1, 3, 7, 30, 200] {
            let mut signs = Signs::new(vec!["ENGINE=", "/*!40"]);
            text.chunks(size).for_each(|piece| signs.add(piece));
            let (signature, marks) = signs.found();
            assert!(signature.is_some(), "{size}");
            assert_eq!(marks, ["ENGINE="], "{size}");
        }
    }
}
