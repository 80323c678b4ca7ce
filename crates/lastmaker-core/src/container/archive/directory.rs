//! The directory of a zip archive, and where each number in it is written.

use std::ops::Range;

use super::super::Fault;
use super::super::bytes::{little, u16_at};
use super::member::{ELSEWHERE, Field, Member};
use crate::layer::Edit;

/// The members in the order of the directory.
#[derive(Debug)]
pub(super) struct Directory {
    pub(super) members: Vec<Member>,
    /// Offsets of the directory and of the 64-bit record at its end, and what they point at.
    pointers: Vec<(Field, usize)>,
    /// What is before the archive, as a program that unpacks itself does.
    shift: usize,
}

/// No archive of documents has more members.
const MOST_MEMBERS: usize = 1 << 20;

/// What the records at the end of an archive tell of its directory.
struct End {
    /// How many members the directory has.
    count: u64,
    /// Where the directory ends.
    directory_end: usize,
    /// How long it is.
    length: u64,
    /// Where its offset is written.
    offset: Field,
    /// Other offsets, and what they point at; none for the directory.
    pointers: Vec<(Field, Option<usize>)>,
}

fn cut() -> Fault {
    Fault::Damaged("the archive is cut short or damaged: it has no directory at its end")
}

fn damaged() -> Fault {
    Fault::Damaged("the archive is damaged: its directory does not fit its members")
}

impl End {
    fn read(bytes: &[u8]) -> Result<Self, Fault> {
        let at = end_record(bytes).ok_or_else(cut)?;
        let end = Self {
            count: u16_at(bytes, at + 10).ok_or_else(cut)? as u64,
            directory_end: at,
            length: little(bytes, at + 12, 4).ok_or_else(cut)?,
            offset: Field::new(at + 16, 4),
            pointers: Vec::new(),
        };
        if u16_at(bytes, at + 4) != Some(0) && u16_at(bytes, at + 4) != Some(0xFFFF) {
            return Err(Fault::OneOfSeveral);
        }
        let locator = at.checked_sub(20);
        match locator.filter(|at| bytes[*at..].starts_with(b"PK\x06\x07")) {
            Some(locator) => end.long(bytes, locator).ok_or_else(damaged),
            None => Ok(end),
        }
    }

    /// What the 64-bit record tells that the record at `locator` points at.
    fn long(self, bytes: &[u8], locator: usize) -> Option<Self> {
        let record = little(bytes, locator + 8, 8)? as usize;
        // The record is further on where something was put before the archive.
        let at = (record..locator).find(|at| bytes[*at..].starts_with(b"PK\x06\x06"))?;
        let mut pointers = Vec::new();
        if little(bytes, self.offset.at, 4) != Some(ELSEWHERE) {
            pointers.push((self.offset, None));
        }
        pointers.push((Field::new(locator + 8, 8), Some(at)));
        Some(Self {
            count: little(bytes, at + 32, 8)?,
            directory_end: at,
            length: little(bytes, at + 40, 8)?,
            offset: Field::new(at + 48, 8),
            pointers,
        })
    }
}

impl Directory {
    /// Reads the directory of `bytes`.
    pub(super) fn read(bytes: &[u8]) -> Result<Self, Fault> {
        let end = End::read(bytes)?;
        let start = end.directory_end.checked_sub(end.length as usize);
        let start = start.ok_or_else(damaged)?;
        let said = little(bytes, end.offset.at, end.offset.width).ok_or_else(damaged)?;
        let shift = start.checked_sub(said as usize).ok_or_else(damaged)?;
        let pointers = end.pointers.into_iter().chain([(end.offset, None)]);
        let pointers = pointers.map(|(field, target)| (field, target.unwrap_or(start)));
        if end.count as usize > MOST_MEMBERS {
            return Err(Fault::TooManyMembers);
        }
        let mut directory = Self {
            members: Vec::new(),
            pointers: pointers.collect(),
            shift,
        };
        let mut at = start;
        for _ in 0..end.count {
            let told = Member::read(bytes, at, end.directory_end, shift);
            let (member, next) = told.ok_or_else(damaged)?;
            directory.members.push(member);
            at = next;
        }
        if directory.overlaps(start) {
            Err(Fault::Overlap("members"))
        } else {
            Ok(directory)
        }
    }

    /// Whether members overlap each other or the directory, which begins at `start`.
    fn overlaps(&self, start: usize) -> bool {
        let spans = self.members.iter().map(Member::span);
        let mut spans: Vec<Range<usize>> = spans.collect();
        spans.sort_by_key(|span| span.start);
        spans.windows(2).any(|two| two[0].end > two[1].start)
            || spans.last().is_some_and(|last| last.end > start)
    }

    /// The edits of every offset, where what is at an offset moves by `moved`.
    pub(super) fn move_offsets(
        &self,
        bytes: &[u8],
        moved: impl Fn(usize) -> i64,
    ) -> Result<Vec<Edit>, Fault> {
        let headers = self.members.iter().map(|member| member.header);
        headers
            .chain(self.pointers.iter().copied())
            .filter(|(_, target)| moved(*target) != 0)
            .map(|(field, target)| {
                debug_assert!(little(bytes, field.at, field.width).is_some());
                let now = (target - self.shift) as i64 + moved(target);
                field.set(now as u64)
            })
            .collect()
    }
}

/// Where the record at the end of the directory is: the last one whose comment reaches to
/// the end of the file.
fn end_record(bytes: &[u8]) -> Option<usize> {
    let lowest = bytes.len().saturating_sub(22 + 0xFFFF);
    let fits =
        |at: usize| u16_at(bytes, at + 20).is_some_and(|comment| at + 22 + comment == bytes.len());
    memchr::memmem::rfind_iter(&bytes[lowest..], b"PK\x05\x06")
        .map(|at| lowest + at)
        .find(|at| fits(*at))
}
