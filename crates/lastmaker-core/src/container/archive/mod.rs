//! Zip archives (PKWARE's application note 6.3.10), and the documents that are zip archives:
//! Office Open XML (ECMA-376), OpenDocument 1.3, EPUB 3.
//!
//! Yields every member, in the order of the directory. What is changed is packed anew by the
//! same method; every other byte stays: order, names, times, extra fields, what lies before,
//! between and after the members. A signed document, and a member whose name climbs out of
//! the archive, seal the whole.

mod directory;
mod member;

use std::io::Read;

use flate2::read::{DeflateDecoder, DeflateEncoder};
use flate2::{Compression, Crc};

use super::bytes::little;
use super::{Budget, Container, Each, Fault, LiftFault, NewPart, Part, PartContent, Source};
use crate::about::About;
use crate::layer::{ByteEdits, Edit, Edits};
use directory::Directory;
use member::Member;

/// Zip archives.
pub(super) struct Archive;

const ABOUT: About = About {
    name: "zip",
    what: "documents of office suites (docx, xlsx, pptx, odt, ods, odp, odg and their kin), e-books, zip archives",
    content: "PK and a directory at its end",
    names: &[],
    read: "every member in its own format: relationships, links, cells, formulas, field codes, text cut into runs; members in members four deep",
    limits: "signed and encrypted documents are sealed; members that are neither stored nor deflated, and archives in several pieces, are named and left; a macro project is binary",
};

/// A member that begins with this signature.
const LOCAL: &[u8] = b"PK\x03\x04";
/// An archive without members.
const EMPTY: &[u8] = b"PK\x05\x06";

const STORED: u16 = 0;
const DEFLATED: u16 = 8;

const SIGNED: &str = "the document is signed, and a change would break the signature; change it in its program and sign it anew";
const CLIMBS: &str = "a member's name climbs out of the archive, so the archive is not what a program writes; it is left as it is";

impl Container for Archive {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, bytes: &[u8], _file_name: &str) -> bool {
        bytes.starts_with(LOCAL) || bytes.starts_with(EMPTY)
    }

    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault> {
        let Source { bytes, budget, .. } = source;
        let directory = Directory::read(bytes)?;
        let sealed = seal(&directory, bytes, budget)?;
        for member in &directory.members {
            let holding = if member.name.ends_with('/') {
                Ok(Vec::new())
            } else {
                unpack(bytes, member, budget)
            };
            let holding = match &holding {
                Ok(content) => PartContent::Document {
                    name: member.name.rsplit(['/', '\\']).next().unwrap_or(""),
                    bytes: content,
                    cut: member.name.ends_with(".xml"),
                },
                Err(Refusal::Spent(fault)) => return Err(fault.clone()),
                Err(Refusal::Member(why)) => PartContent::Unreadable(Fault::Member {
                    name: shown(&member.name),
                    why: why.clone(),
                }),
            };
            each(Part {
                way: &member.name,
                holding,
                sealed,
            })?;
        }
        Ok(())
    }

    fn lift(&self, source: Source<'_>, new: &[NewPart]) -> Result<ByteEdits, LiftFault> {
        let Source { bytes, .. } = source;
        let directory = Directory::read(bytes)?;
        let mut edits = Vec::new();
        let mut changed: Vec<(usize, i64)> = Vec::new();
        for part in new {
            let member = directory.members.get(part.part).ok_or(Fault::FewerParts)?;
            let packed = pack(member, &part.content)?;
            let mut crc = Crc::new();
            crc.update(&part.content);
            let grown = packed.len() as i64 - member.data.len() as i64;
            edits.extend(member.refresh(
                bytes,
                crc.sum(),
                packed.len() as u64,
                part.content.len() as u64,
            )?);
            edits.push(Edit {
                span: member.data.clone(),
                with: packed,
            });
            changed.push((member.data.start, grown));
        }
        // What lies after a changed member has moved by what that has grown.
        changed.sort_unstable();
        let mut sum = 0;
        for (_, grown) in &mut changed {
            sum += *grown;
            *grown = sum;
        }
        let moved = |at: usize| -> i64 {
            let before = changed.partition_point(|(start, _)| *start < at);
            before.checked_sub(1).map_or(0, |last| changed[last].1)
        };
        edits.extend(directory.move_offsets(bytes, moved)?);
        let edits: Vec<Edit> = edits
            .into_iter()
            .filter(|edit| bytes.get(edit.span.clone()) != Some(&edit.with[..]))
            .collect();
        Edits::new(edits).map_err(|_| Fault::Overlap("members").into())
    }
}

/// Why a member has no content.
enum Refusal {
    /// The member is at fault.
    Member(String),
    /// The whole archive unpacks to more than may be.
    Spent(Fault),
}

fn shown(name: &str) -> String {
    let short: String = name.chars().take(120).collect();
    format!("{short:?}")
}

/// Why nothing in the archive may be changed, if so.
fn seal(
    directory: &Directory,
    bytes: &[u8],
    budget: &Budget,
) -> Result<Option<&'static str>, Fault> {
    let climbs = |name: &str| {
        let mut parts = name.split(['/', '\\']);
        name.starts_with('/') || parts.any(|part| part == "..")
    };
    if directory.members.iter().any(|member| climbs(&member.name)) {
        return Ok(Some(CLIMBS));
    }
    let signs = |name: &str| {
        name.starts_with("_xmlsignatures/")
            || name == "META-INF/documentsignatures.xml"
            || name == "META-INF/macrosignatures.xml"
            || (name.starts_with("META-INF/")
                && [".SF", ".RSA", ".DSA", ".EC"]
                    .iter()
                    .any(|end| name.ends_with(end)))
    };
    if directory.members.iter().any(|member| signs(&member.name)) {
        return Ok(Some(SIGNED));
    }
    // OpenDocument says in its manifest which of its members are encrypted.
    let manifest = directory
        .members
        .iter()
        .find(|member| member.name == "META-INF/manifest.xml");
    if let Some(member) = manifest
        && let Ok(content) = unpack(bytes, member, &budget.afresh())
        && memchr::memmem::find(&content, b"encryption-data").is_some()
    {
        return Err(Fault::Encrypted(
            "it is encrypted, so nothing in it can be read; save it without its password, or change its links in its program",
        ));
    }
    Ok(None)
}

/// The content of a member, checked against its size and its checksum.
fn unpack(bytes: &[u8], member: &Member, budget: &Budget) -> Result<Vec<u8>, Refusal> {
    let wrong = |why: &str| Refusal::Member(why.to_owned());
    if member.flags & 1 != 0 {
        return Err(wrong(
            "is encrypted, so it cannot be read; the others are read",
        ));
    }
    let packed = &bytes[member.data.clone()];
    let content = match member.method {
        STORED => {
            budget.spend(packed.len()).map_err(Refusal::Spent)?;
            packed.to_vec()
        }
        DEFLATED => {
            let most = budget.left();
            let mut content = Vec::new();
            DeflateDecoder::new(packed)
                .take(most.saturating_add(1))
                .read_to_end(&mut content)
                .map_err(|_| wrong("is damaged: it does not unpack; the others are read"))?;
            budget.spend(content.len()).map_err(Refusal::Spent)?;
            content
        }
        method => {
            return Err(Refusal::Member(format!(
                "is packed by method {method}, which is not read; the others are read"
            )));
        }
    };
    let mut crc = Crc::new();
    crc.update(&content);
    if content.len() as u64 != member.size || crc.sum() != member.crc {
        return Err(wrong(
            "is damaged: its checksum is not that of its content; the others are read",
        ));
    }
    Ok(content)
}

/// The content as the member's method packs it.
fn pack(member: &Member, content: &[u8]) -> Result<Vec<u8>, Fault> {
    if member.method == STORED {
        return Ok(content.to_vec());
    }
    // Two bits of the flags say how hard the packer tried.
    let level = match member.flags >> 1 & 3 {
        1 => Compression::best(),
        2 | 3 => Compression::fast(),
        _ => Compression::default(),
    };
    let mut packed = Vec::new();
    DeflateEncoder::new(content, level)
        .read_to_end(&mut packed)
        .map_err(|error| Fault::Unpacked(error.to_string()))?;
    Ok(packed)
}

impl Member {
    /// The edits that tell a new checksum and new sizes, packed and not, wherever they are.
    fn refresh(&self, bytes: &[u8], crc: u32, packed: u64, size: u64) -> Result<Vec<Edit>, Fault> {
        let mut edits = Vec::new();
        for (fields, value) in [
            (&self.crcs, u64::from(crc)),
            (&self.packed_sizes, packed),
            (&self.sizes, size),
        ] {
            for field in fields {
                // Where a descriptor after the data tells them, the header has zeros.
                let kept = little(bytes, field.at, field.width) == Some(0) && field.may_be_zero;
                if !kept {
                    edits.push(field.set(value)?);
                }
            }
        }
        Ok(edits)
    }
}
