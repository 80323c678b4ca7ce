//! One member of a zip archive (APPNOTE 6.3.10, 4.3.7 to 4.3.12): what the directory, the header
//! before its content and the descriptor after it tell of it.

use std::ops::Range;

use super::super::Fault;
use super::super::bytes::{little, u16_at, u32_at};
use crate::layer::Edit;

/// A number that tells something of a member, as it is written in the archive; the low byte first.
#[derive(Clone, Copy, Debug)]
pub(super) struct Field {
    pub(super) at: usize,
    pub(super) width: usize,
    /// Whether a zero here means that the number is written elsewhere.
    pub(super) may_be_zero: bool,
}

impl Field {
    pub(super) fn new(at: usize, width: usize) -> Self {
        Self {
            at,
            width,
            may_be_zero: false,
        }
    }

    fn read(self, bytes: &[u8]) -> Option<u64> {
        little(bytes, self.at, self.width)
    }

    /// The edit that puts `value` here.
    pub(super) fn set(self, value: u64) -> Result<Edit, Fault> {
        if self.width < 8 && value >> (8 * self.width) != 0 {
            return Err(Fault::Uncountable);
        }
        Ok(Edit {
            span: self.at..self.at + self.width,
            with: value.to_le_bytes()[..self.width].to_vec(),
        })
    }
}

/// A member, and where what is told of it is written.
#[derive(Debug)]
pub(super) struct Member {
    pub(super) name: String,
    pub(super) method: u16,
    pub(super) flags: u16,
    pub(super) crc: u32,
    pub(super) size: u64,
    /// Its packed content.
    pub(super) data: Range<usize>,
    pub(super) crcs: Vec<Field>,
    pub(super) packed_sizes: Vec<Field>,
    pub(super) sizes: Vec<Field>,
    /// Where the directory says the offset of its header, and that offset.
    pub(super) header: (Field, usize),
}

/// A number of the directory that is too large for its field says so by this.
pub(super) const ELSEWHERE: u64 = 0xFFFF_FFFF;

/// The length of what the directory tells of a member, without the parts of changing length.
const TOLD: usize = 46;
/// The length of a header, without the parts of changing length.
const HEADER: usize = 30;

impl Member {
    /// The member that the directory, which ends at `end`, tells of at `at`, and where it tells
    /// of the next.
    pub(super) fn read(bytes: &[u8], at: usize, end: usize, shift: usize) -> Option<(Self, usize)> {
        if !bytes.get(at..)?.starts_with(b"PK\x01\x02") || at + TOLD > end {
            return None;
        }
        let lengths = [28, 30, 32].map(|offset| u16_at(bytes, at + offset));
        let [name, extra, comment] = lengths.map(Option::unwrap_or_default);
        let next = at + TOLD + name + extra + comment;
        if next > end {
            return None;
        }
        let name = at + TOLD..at + TOLD + name;
        let mut wide = wide_fields(bytes, name.end..name.end + extra).into_iter();
        let mut field = |offset: usize| match little(bytes, at + offset, 4) {
            Some(ELSEWHERE) => wide.next(),
            _ => Some(Field::new(at + offset, 4)),
        };
        let size = field(24)?;
        let packed_size = field(20)?;
        let header = field(42)?;
        let local = (header.read(bytes)? as usize).checked_add(shift)?;
        let mut member = Self {
            name: String::from_utf8_lossy(&bytes[name.clone()]).into_owned(),
            method: u16_at(bytes, at + 10)? as u16,
            flags: u16_at(bytes, at + 8)? as u16,
            crc: u32_at(bytes, at + 16)? as u32,
            size: size.read(bytes)?,
            data: 0..packed_size.read(bytes)? as usize,
            crcs: vec![Field::new(at + 16, 4)],
            packed_sizes: vec![packed_size],
            sizes: vec![size],
            header: (header, local),
        };
        member.read_header(bytes, local, &bytes[name])?;
        if member.is_described() {
            member.read_descriptor(bytes, at)?;
        }
        Some((member, next))
    }

    /// From its header to the end of its content.
    pub(super) fn span(&self) -> Range<usize> {
        self.header.1..self.data.end
    }

    /// Whether a descriptor after the content tells sizes and checksum.
    fn is_described(&self) -> bool {
        self.flags & 8 != 0
    }

    /// Reads the header at `local`, which must be that of a member called `name`.
    fn read_header(&mut self, bytes: &[u8], local: usize, name: &[u8]) -> Option<()> {
        if !bytes.get(local..)?.starts_with(b"PK\x03\x04") {
            return None;
        }
        let local_name = u16_at(bytes, local + 26)?;
        let local_extra = u16_at(bytes, local + 28)?;
        let extra = local + HEADER + local_name;
        let start = extra + local_extra;
        self.data = start..start.checked_add(self.data.end)?;
        if self.data.end > bytes.len() || bytes.get(local + HEADER..extra)? != name {
            return None;
        }
        let may_be_zero = self.is_described();
        let field = |offset| Field {
            may_be_zero,
            ..Field::new(local + offset, 4)
        };
        self.crcs.push(field(14));
        let mut wide = wide_fields(bytes, extra..start).into_iter();
        for (fields, offset) in [(&mut self.sizes, 22), (&mut self.packed_sizes, 18)] {
            fields.push(match little(bytes, local + offset, 4)? {
                ELSEWHERE => Field {
                    may_be_zero,
                    ..wide.next()?
                },
                _ => field(offset),
            });
        }
        Some(())
    }

    /// Reads the descriptor after the content of what the directory tells of at `told_at`.
    fn read_descriptor(&mut self, bytes: &[u8], told_at: usize) -> Option<()> {
        let packed = self.data.len() as u64;
        let signed = bytes.get(self.data.end..)?.starts_with(b"PK\x07\x08");
        let at = self.data.end + if signed { 4 } else { 0 };
        let crc = little(bytes, told_at + 16, 4)?;
        let size = self.sizes[0];
        // The sizes are four bytes each, or eight: the one that tells the same is right.
        let tells = |width| {
            little(bytes, at, 4) == Some(crc)
                && little(bytes, at + 4, width) == Some(packed)
                && little(bytes, at + 4 + width, width) == size.read(bytes)
        };
        let width = [4, 8].into_iter().find(|width| tells(*width))?;
        self.crcs.push(Field::new(at, 4));
        self.packed_sizes.push(Field::new(at + 4, width));
        self.sizes.push(Field::new(at + 4 + width, width));
        Some(())
    }
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
            return starts.map(|at| Field::new(at, 8)).collect();
        }
        at += 4 + length;
    }
    Vec::new()
}
