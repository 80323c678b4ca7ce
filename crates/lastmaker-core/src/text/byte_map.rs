//! Where the letters of a decoded text are in its bytes.

use super::Encoding;

/// Marks on the way through a text, so that any letter is found from the one before it.
#[derive(Clone, Debug)]
pub struct ByteMap {
    /// Offsets in the text and in the bytes, rising; the first is of the start.
    marks: Vec<(usize, usize)>,
}

/// How many bytes lie between two marks, roughly.
const APART: usize = 1024;

impl ByteMap {
    /// The map of the text that `body` decodes to.
    pub fn of(encoding: Encoding, body: &[u8]) -> Self {
        let mut marks = vec![(0, 0)];
        let (mut inner, mut outer) = (0, 0);
        while outer < body.len() {
            // As many letters as lie between two marks at the most.
            let end = body.len().min(outer + APART);
            let (count, width) = encoding.ascii_run(&body[outer..end]);
            inner += count;
            outer += count * width;
            if count == 0 {
                let (letter, width) = encoding.unit(&body[outer..]);
                inner += letter.len_utf8();
                outer += width;
            }
            if outer - marks[marks.len() - 1].1 >= APART {
                marks.push((inner, outer));
            }
        }
        Self { marks }
    }

    /// The byte of `body` at which the letter at `target` of the text begins; none inside of a letter.
    pub fn byte_at(&self, encoding: Encoding, body: &[u8], target: usize) -> Option<usize> {
        let mark = self.marks.partition_point(|(inner, _)| *inner <= target);
        let (mut inner, mut outer) = self.marks[mark.saturating_sub(1)];
        while inner < target {
            let (letter, width) = encoding.unit(body.get(outer..).filter(|it| !it.is_empty())?);
            inner += letter.len_utf8();
            outer += width;
        }
        (inner == target).then_some(outer)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_letter_is_found() {
        let text: String = (0..5_000)
            .map(|number| if number % 7 == 0 { '\u{f6}' } else { 'x' })
            .collect();
        let body = Encoding::Utf16Le.encode(&text).unwrap();
        let map = ByteMap::of(Encoding::Utf16Le, &body);
        for (count, (at, letter)) in text.char_indices().enumerate() {
            let found = map.byte_at(Encoding::Utf16Le, &body, at);
            assert_eq!(found, Some(count * 2));
            if letter.len_utf8() == 2 {
                assert_eq!(map.byte_at(Encoding::Utf16Le, &body, at + 1), None);
            }
        }
        let end = map.byte_at(Encoding::Utf16Le, &body, text.len());
        assert_eq!(end, Some(body.len()));
        assert_eq!(map.byte_at(Encoding::Utf16Le, &body, text.len() + 1), None);
    }
}
