//! The directory of a zip archive, and where each number in it stands.

use std::ops::Range;

use super::super::Fault;
use super::super::bytes::{little, u16_at, u32_at};
use crate::layer::Edit;

/// A number that tells something of a member, as it stands in the archive; the low byte first.
#[derive(Clone, Copy, Debug)]
pub(super) struct Field {
    pub(super) at: usize,
    pub(super) width: usize,
    /// Whether a zero here means that the number stands elsewhere.
    pub(super) may_be_zero: bool,
}

/// A member, and where what is told of it stands.
#[derive(Debug)]
pub(super) struct Member {
    pub(super) name: String,
    pub(super) method: u16,
    pub(super) flags: u16,
    pub(super) crc: u32,
    pub(super) size: u64,
    /// Where its packed content stands.
    pub(super) data: Range<usize>,
    pub(super) crcs: Vec<Field>,
    pub(super) packed_sizes: Vec<Field>,
    pub(super) sizes: Vec<Field>,
    /// Where the directory says at which offset its header stands, and that header.
    header: (Field, usize),
}

/// The members in the order of the directory.
#[derive(Debug)]
pub(super) struct Directory {
    pub(super) members: Vec<Member>,
    /// Offsets of the directory and of the 64-bit record at its end, and what they point at.
    pointers: Vec<(Field, usize)>,
    /// What stands before the archive, as a program that unpacks itself does.
    shift: usize,
}

/// A number of the directory that is too large for its field says so by this.
const ELSEWHERE: u64 = 0xFFFF_FFFF;
/// No archive of documents has more members.
const MOST_MEMBERS: usize = 1 << 20;

impl Directory {
    /// Reads the directory of `bytes`.
    pub(super) fn read(bytes: &[u8]) -> Result<Self, Fault> {
        let cut = || {
            Fault::because("the archive is cut short or damaged: it has no directory at its end")
        };
        let damaged =
            || Fault::because("the archive is damaged: its directory does not fit its members");
        let end = end_record(bytes).ok_or_else(cut)?;
        let mut count = u16_at(bytes, end + 10).ok_or_else(cut)? as u64;
        let mut length = little(bytes, end + 12, 4).ok_or_else(cut)?;
        let mut offset = Field {
            at: end + 16,
            width: 4,
            may_be_zero: false,
        };
        if u16_at(bytes, end + 4) != Some(0) && u16_at(bytes, end + 4) != Some(0xFFFF) {
            return Err(Fault::because(
                "it is one piece of an archive in several pieces",
            ));
        }
        let mut pointers = Vec::new();
        let mut directory_end = end;
        let long = end
            .checked_sub(20)
            .filter(|at| bytes[*at..].starts_with(b"PK\x06\x07"));
        if let Some(locator) = long {
            let record = little(bytes, locator + 8, 8).ok_or_else(damaged)? as usize;
            // The record may stand behind something that was put before the archive.
            let at = (record..locator)
                .find(|at| bytes[*at..].starts_with(b"PK\x06\x06"))
                .ok_or_else(damaged)?;
            count = little(bytes, at + 32, 8).ok_or_else(damaged)?;
            length = little(bytes, at + 40, 8).ok_or_else(damaged)?;
            if little(bytes, offset.at, 4) != Some(ELSEWHERE) {
                pointers.push((offset, 0));
            }
            offset = Field {
                at: at + 48,
                width: 8,
                may_be_zero: false,
            };
            pointers.push((
                Field {
                    at: locator + 8,
                    width: 8,
                    may_be_zero: false,
                },
                at,
            ));
            directory_end = at;
        }
        let start = directory_end
            .checked_sub(length as usize)
            .ok_or_else(damaged)?;
        let said = little(bytes, offset.at, offset.width).ok_or_else(damaged)? as usize;
        let shift = start.checked_sub(said).ok_or_else(damaged)?;
        pointers.push((offset, start));
        for pointer in &mut pointers {
            if pointer.1 == 0 {
                pointer.1 = start;
            }
        }
        if count as usize > MOST_MEMBERS {
            return Err(Fault::because(
                "it has more than a million members, so it is not read",
            ));
        }
        let mut members = Vec::new();
        let mut at = start;
        for _ in 0..count {
            let (member, next) = member(bytes, at, directory_end, shift).ok_or_else(damaged)?;
            members.push(member);
            at = next;
        }
        let mut spans: Vec<Range<usize>> = members
            .iter()
            .map(|member| member.header.1..member.data.end)
            .collect();
        spans.sort_by_key(|span| span.start);
        let overlap = spans.windows(2).any(|two| two[0].end > two[1].start)
            || spans.last().is_some_and(|last| last.end > start);
        if overlap {
            return Err(Fault::because(
                "its members overlap, as no program writes them, so it is not read",
            ));
        }
        Ok(Self {
            members,
            pointers,
            shift,
        })
    }

    /// The edits of every offset, where what stands at an offset moves by `moved`.
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

/// Where the record at the end of the directory stands: the last one whose comment reaches to
/// the end of the file.
fn end_record(bytes: &[u8]) -> Option<usize> {
    let lowest = bytes.len().saturating_sub(22 + 0xFFFF);
    let fits =
        |at: usize| u16_at(bytes, at + 20).is_some_and(|comment| at + 22 + comment == bytes.len());
    memchr::memmem::rfind_iter(&bytes[lowest..], b"PK\x05\x06")
        .map(|at| lowest + at)
        .find(|at| fits(*at))
}

/// The member that the directory tells of at `at`, and where it tells of the next.
fn member(bytes: &[u8], at: usize, end: usize, shift: usize) -> Option<(Member, usize)> {
    if !bytes.get(at..)?.starts_with(b"PK\x01\x02") || at + 46 > end {
        return None;
    }
    let (flags, method) = (
        u16_at(bytes, at + 8)? as u16,
        u16_at(bytes, at + 10)? as u16,
    );
    let lengths = [28, 30, 32].map(|offset| u16_at(bytes, at + offset));
    let [name, extra, comment] = lengths.map(Option::unwrap_or_default);
    let next = at + 46 + name + extra + comment;
    if next > end {
        return None;
    }
    let plain = |offset: usize| Field {
        at: at + offset,
        width: 4,
        may_be_zero: false,
    };
    let wide = wide_fields(bytes, at + 46 + name..at + 46 + name + extra);
    let mut wide = wide.into_iter();
    let mut field = |offset: usize| match little(bytes, at + offset, 4) {
        Some(ELSEWHERE) => wide.next(),
        _ => Some(plain(offset)),
    };
    let size = field(24)?;
    let packed_size = field(20)?;
    let header = field(42)?;
    let packed = little(bytes, packed_size.at, packed_size.width)? as usize;
    let local = (little(bytes, header.at, header.width)? as usize).checked_add(shift)?;
    if !bytes.get(local..)?.starts_with(b"PK\x03\x04") {
        return None;
    }
    let local_name = u16_at(bytes, local + 26)?;
    let local_extra = u16_at(bytes, local + 28)?;
    let start = local + 30 + local_name + local_extra;
    let data = start..start.checked_add(packed)?;
    if data.end > bytes.len()
        || bytes.get(local + 30..local + 30 + local_name)? != &bytes[at + 46..at + 46 + name]
    {
        return None;
    }
    let described = flags & 8 != 0;
    let local_field = |offset: usize| Field {
        at: local + offset,
        width: 4,
        may_be_zero: described,
    };
    let mut crcs = vec![plain(16), local_field(14)];
    let mut packed_sizes = vec![packed_size];
    let mut sizes = vec![size];
    let local_wide = wide_fields(bytes, local + 30 + local_name..start);
    let mut local_wide = local_wide.into_iter();
    for (fields, offset) in [(&mut sizes, 22), (&mut packed_sizes, 18)] {
        match little(bytes, local + offset, 4)? {
            ELSEWHERE => fields.push(Field {
                may_be_zero: described,
                ..local_wide.next()?
            }),
            _ => fields.push(local_field(offset)),
        }
    }
    if described {
        let signed = bytes.get(data.end..)?.starts_with(b"PK\x07\x08");
        let at = data.end + if signed { 4 } else { 0 };
        let crc = little(bytes, 16 + plain(0).at, 4)?;
        // The sizes are four bytes each, or eight: the one that tells the same is right.
        let told = |width| {
            little(bytes, at, 4) == Some(crc)
                && little(bytes, at + 4, width) == Some(packed as u64)
                && little(bytes, at + 4 + width, width) == little(bytes, size.at, size.width)
        };
        let width = [4, 8].into_iter().find(|width| told(*width))?;
        let field = |at, width| Field {
            at,
            width,
            may_be_zero: false,
        };
        crcs.push(field(at, 4));
        packed_sizes.push(field(at + 4, width));
        sizes.push(field(at + 4 + width, width));
    }
    let member = Member {
        name: String::from_utf8_lossy(&bytes[at + 46..at + 46 + name]).into_owned(),
        method,
        flags,
        crc: u32_at(bytes, at + 16)? as u32,
        size: little(bytes, size.at, size.width)?,
        data,
        crcs,
        packed_sizes,
        sizes,
        header: (header, local),
    };
    Some((member, next))
}

/// The numbers of eight bytes in the extra field that holds them (header 1).
fn wide_fields(bytes: &[u8], extra: Range<usize>) -> Vec<Field> {
    let mut at = extra.start;
    while at + 4 <= extra.end {
        let (Some(kind), Some(length)) = (u16_at(bytes, at), u16_at(bytes, at + 2)) else {
            break;
        };
        if kind == 1 && at + 4 + length <= extra.end {
            let starts = (at + 4..at + 4 + length / 8 * 8).step_by(8);
            return starts
                .map(|at| Field {
                    at,
                    width: 8,
                    may_be_zero: false,
                })
                .collect();
        }
        at += 4 + length;
    }
    Vec::new()
}
