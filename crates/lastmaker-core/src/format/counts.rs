//! Numbers in a text of no known syntax that say how long what follows is: in bytes, a line or a string
//! (netstrings, property lists of version control, dumps of caches, data of statistics programs), the body of
//! a message (RFC 9112, RFC 9110 section 8.6; WARC, ISO 28500), or a blob in a stream of commits.
//!
//! A text that is counted cannot be rewritten by itself: its reader would stop too early or too late.

use std::ops::Range;

/// Shorter texts hold no place, and small numbers stand everywhere.
const SHORTEST: usize = 4;

/// A line that counts the next one is no longer, in bytes.
const LONGEST_COUNT: usize = 16;

/// What is counted in a text.
pub(super) struct Counts<'t> {
    text: &'t str,
    /// The stretches of several lines that are counted, in order and disjoint.
    stretches: Vec<Range<usize>>,
}

impl<'t> Counts<'t> {
    /// Looks for what counts several lines.
    pub(super) fn of(text: &'t str) -> Self {
        let all = bodies(text).chain(blobs(text)).map(|counted| counted.span);
        let mut all: Vec<_> = all.filter(|stretch| ends_well(text, stretch)).collect();
        all.sort_unstable_by_key(|stretch| stretch.start);
        let mut stretches: Vec<Range<usize>> = Vec::new();
        for next in all {
            match stretches.last_mut() {
                Some(last) if next.start < last.end => last.end = last.end.max(next.end),
                _ => stretches.push(next),
            }
        }
        Self { text, stretches }
    }

    /// Whether something counts this line, or a part of it.
    pub(super) fn cover(&self, line: Range<usize>) -> bool {
        let next = self
            .stretches
            .partition_point(|stretch| stretch.end <= line.start);
        let known = self
            .stretches
            .get(next)
            .is_some_and(|stretch| stretch.start < line.end);
        let raw = self.text[line.clone()].trim_end_matches('\r');
        known || is_counted_before(self.text, line.start, raw) || holds_counted(raw)
    }
}

/// Behind the last line of `text` on which nothing in it depends that comes behind: no number counts what is on
/// both sides, and no line goes on. There are `rest` bytes more at the most.
pub(super) fn last_free_line(text: &str, rest: u64) -> Option<usize> {
    let reaches = |counted: &Counted| {
        let beyond = counted.span.end.saturating_sub(text.len()) as u64;
        beyond <= rest
    };
    let all = bodies(text).chain(blobs(text)).chain(serialised(text));
    let mut all: Vec<_> = all.filter(reaches).collect();
    all.sort_unstable_by_key(|counted| counted.at);
    // Stretches that overlap are one.
    let mut open: Vec<Range<usize>> = Vec::new();
    for counted in all {
        match open.last_mut() {
            Some(last) if counted.at < last.end => last.end = last.end.max(counted.latest),
            _ => open.push(counted.at..counted.latest),
        }
    }
    let mut end = text.len();
    loop {
        end = memchr::memrchr(b'\n', &text.as_bytes()[..end])? + 1;
        // Where something is counted on both sides, the cut comes before the line that has the number.
        let before = open.partition_point(|one| one.start < end);
        let across = before.checked_sub(1).map(|last| &open[last]);
        if let Some(across) = across.filter(|one| one.end > end) {
            end = across.start;
            continue;
        }
        let line = text[..end - 1].trim_end_matches('\r');
        let line = &line[line.rfind('\n').map_or(0, |at| at + 1)..];
        if !line.ends_with(['\\', '^', '`']) && !may_count(line) {
            return Some(end);
        }
        end -= 1;
    }
}

/// Whether a line may be a number that counts the next one.
fn may_count(line: &str) -> bool {
    let number = line.rsplit(' ').next().unwrap_or(line);
    let number = number.strip_prefix('$').unwrap_or(number);
    !number.is_empty()
        && line.len() <= LONGEST_COUNT
        && number.bytes().all(|byte| byte.is_ascii_hexdigit())
}

/// The quotes around a string, and what escapes them, are no longer, in bytes.
const QUOTES: usize = 64;

/// The strings of serialised data, from the lengths before them: `s:12:"…";`.
fn serialised(text: &str) -> impl Iterator<Item = Counted> + '_ {
    memchr::memchr_iter(b':', text.as_bytes()).filter_map(|colon| {
        let tag = colon.checked_sub(1).map(|before| text.as_bytes()[before]);
        if !matches!(tag, Some(b's' | b'S')) {
            return None;
        }
        let rest = &text[colon + 1..];
        let digits = rest.bytes().take_while(u8::is_ascii_digit).count();
        let count: usize = rest[..digits].parse().ok()?;
        let quoted = rest[digits..].starts_with(":\"") || rest[digits..].starts_with(":\\");
        let start = colon + 1 + digits;
        let inside = rest[digits..].strip_prefix(":\"");
        let exact = inside
            .and_then(|inside| inside.as_bytes().get(count))
            .is_some_and(|byte| *byte == b'"');
        // What is escaped, or a letter of a code page, takes more bytes here than are counted.
        let latest = if exact {
            start.checked_add(count)?
        } else {
            start
                .checked_add(count.checked_mul(4)?)?
                .checked_add(QUOTES)?
        };
        let counted = Counted::new(colon, start, count).filter(|_| quoted)?;
        Some(Counted { latest, ..counted })
    })
}

/// Whether a stretch is within the text and ends where a line does, or where the next message begins.
fn ends_well(text: &str, stretch: &Range<usize>) -> bool {
    let Some(rest) = text.get(stretch.end..) else {
        return false;
    };
    stretch.len() >= SHORTEST
        && (rest.is_empty()
            || rest.starts_with(['\r', '\n'])
            || text[..stretch.end].ends_with('\n')
            || is_header(rest.lines().next().unwrap_or("")))
}

const LENGTH: &str = "content-length:";

/// Whether a line is a header that says how long a body is.
fn is_header(line: &str) -> bool {
    line.get(..LENGTH.len())
        .is_some_and(|name| name.eq_ignore_ascii_case(LENGTH))
}

/// Something that a number counts.
struct Counted {
    /// Where the number is, or something before it in its line.
    at: usize,
    span: Range<usize>,
    /// Where it ends at the latest, if what is counted may be written longer.
    latest: usize,
}

impl Counted {
    fn new(at: usize, start: usize, count: usize) -> Option<Self> {
        let end = start.checked_add(count)?;
        Some(Self {
            at,
            span: start..end,
            latest: end,
        })
    }
}

/// What headers count: the bodies that begin behind the next blank line.
fn bodies(text: &str) -> impl Iterator<Item = Counted> + '_ {
    let ends = memchr::memmem::find_iter(text.as_bytes(), b"ength:");
    // Where the next blank line is over, so that it is looked for once for all headers before it.
    let mut start = 0;
    ends.filter_map(move |at| {
        let colon = at + "ength:".len();
        let named = text.get(colon.checked_sub(LENGTH.len())?..colon)?;
        if !named.eq_ignore_ascii_case(LENGTH) {
            return None;
        }
        let rest = &text[colon..];
        let count: usize = rest.lines().next()?.trim().parse().ok()?;
        if start < colon {
            start = behind_blank_line(text.as_bytes(), colon);
        }
        Counted::new(at, start, count)
    })
}

/// Where the first blank line behind `at` is over; the end of the text if there is none.
fn behind_blank_line(bytes: &[u8], at: usize) -> usize {
    let ends = memchr::memchr_iter(b'\n', &bytes[at..]).map(|end| at + end + 1);
    let blank = |start: usize| match bytes[start..] {
        [b'\n', ..] => Some(start + 1),
        [b'\r', b'\n', ..] => Some(start + 2),
        _ => None,
    };
    ends.filter_map(blank).next().unwrap_or(bytes.len())
}

/// What a line `data 123` counts, as streams of commits have it.
fn blobs(text: &str) -> impl Iterator<Item = Counted> + '_ {
    const WORD: &str = "\ndata ";
    memchr::memmem::find_iter(text.as_bytes(), WORD).filter_map(|at| {
        let rest = &text[at + WORD.len()..];
        let end = rest.find('\n')?;
        let count: usize = rest[..end].parse().ok()?;
        let start = at + WORD.len() + end + 1;
        Counted::new(at + 1, start, count)
    })
}

/// Whether the line before the one that begins at `start` is a number, perhaps with a word or a sign before it,
/// and just as many bytes or letters are in `line`.
fn is_counted_before(text: &str, start: usize, line: &str) -> bool {
    let Some(before) = text[..start].strip_suffix('\n') else {
        return false;
    };
    let before = before.trim_end_matches('\r');
    let from = memchr::memrchr(b'\n', before.as_bytes()).map_or(0, |newline| newline + 1);
    let before = &before[from..];
    if line.len() < SHORTEST || before.is_empty() || before.len() > LONGEST_COUNT {
        return false;
    }
    let (word, number) = before.rsplit_once(' ').unwrap_or(("", before));
    let number = number.strip_prefix('$').unwrap_or(number);
    let counts = |radix| {
        let digits = number.bytes().all(|byte| byte.is_ascii_hexdigit());
        let count = usize::from_str_radix(number, radix).ok().filter(|_| digits);
        count.is_some_and(|count| count == line.len() || count == line.chars().count())
    };
    word.bytes().all(|byte| byte.is_ascii_alphabetic())
        && (counts(10) || (word.is_empty() && counts(16)))
}

/// Whether there is a string in `line` with its length before it: `12:…,`.
fn holds_counted(line: &str) -> bool {
    memchr::memchr_iter(b':', line.as_bytes()).any(|colon| {
        let before = line[..colon].trim_end_matches(|c: char| c.is_ascii_digit());
        let count: Option<usize> = line[before.len()..colon].parse().ok();
        let string = &line[colon + 1..];
        let begins = before.is_empty() || before.ends_with(',');
        begins
            && count.is_some_and(|count| {
                let behind = string.as_bytes().get(count);
                count >= SHORTEST && (behind == Some(&b',') || count == string.len())
            })
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Many headers, and no blank line behind them.
    #[test]
    fn many_counts_are_looked_through_once() {
        let text = "Content-Length: 12\nD:\\H\\a.tif\n".repeat(100_000);
        let counts = Counts::of(&text);
        let lines = text
            .match_indices("D:")
            .filter(|(at, _)| counts.cover(*at..at + 10));
        assert_eq!(lines.count(), 0);
        let text = "Content-Length: 10\n\nD:\\H\\a.tif\n".repeat(100_000);
        let counts = Counts::of(&text);
        let lines = text
            .match_indices("D:")
            .filter(|(at, _)| counts.cover(*at..at + 10));
        assert_eq!(lines.count(), 100_000);
    }

    #[test]
    fn lines_that_are_counted_and_lines_that_are_not() {
        let cases = [
            ("K 4\nroot\nV 11\nD:\\H\\a.tifx\nEND\n", true),
            ("$4\r\npath\r\n$11\r\nD:\\H\\a.tifx\r\n", true),
            ("262153\n11\nD:\\H\\a.tifx\n", true),
            ("b\r\nD:\\H\\a.tifx\r\n0\r\n", true),
            ("11:D:\\H\\a.tifx,4:path,", true),
            ("4:path,11:D:\\H\\a.tifx,", true),
            ("blob\nmark :1\ndata 15\nSee\nD:\\H\\a.tifx\nreset\n", true),
            ("A: b\r\nContent-Length: 11\r\n\r\nD:\\H\\a.tifx", true),
            (
                "Text-content-length: 11\nContent-length: 11\n\nD:\\H\\a.tifx\n\n",
                true,
            ),
            ("V 12\nD:\\H\\a.tifx\n", false),
            ("11\n\nD:\\H\\a.tifx\n", false),
            ("There are 11\nD:\\H\\a.tifx\n", false),
            ("D:\\H\\a.tifx\n", false),
            ("12:30 D:\\H\\a.tifx\n", false),
            ("grep:11:D:\\H\\a.tifx\n", false),
            ("Content-Length: 4000\n\nD:\\H\\a.tifx\n", false),
            ("data 4\nroot\nD:\\H\\a.tifx\n", false),
        ];
        for (text, expected) in cases {
            let start = text.find("D:").unwrap();
            let start = text[..start].rfind('\n').map_or(0, |newline| newline + 1);
            let end = text[start..]
                .find('\n')
                .map_or(text.len(), |length| start + length);
            assert_eq!(Counts::of(text).cover(start..end), expected, "{text:?}");
        }
    }
}
