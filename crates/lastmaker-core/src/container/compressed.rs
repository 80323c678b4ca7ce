//! Single files that are compressed: gzip (RFC 1952), zlib (RFC 1950) alone or after its
//! unpacked length, Zstandard (RFC 8878), xz, bzip2.
//!
//! Yields the one document inside. It is packed anew by the same method, as hard as the old
//! one says it was tried; a header's name, time and comment stay. A file of several streams in
//! a row is sealed.

use std::io::Read;
use std::ops::Range;

use flate2::{Compression, Crc};

use super::bytes::{big, little, u16_at};
use super::{Budget, Container, Each, Fault, LiftFault, NewPart, Part, PartContent, Source};
use crate::about::About;
use crate::layer::{ByteEdits, Edit, Edits};

/// How a file is compressed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Method {
    Gzip,
    Zstandard,
    Xz,
    Bzip2,
    Zlib,
}

/// Files compressed by one method.
pub(super) struct Compressed {
    method: Method,
    about: About,
}

const READ: &str = "the document inside, in its own format; packed anew by the same method";
const SEVERAL: &str =
    "it holds several compressed streams in a row, so it is read and never changed";

const fn about(
    name: &'static str,
    what: &'static str,
    content: &'static str,
    names: &'static [&'static str],
    limits: &'static str,
) -> About {
    About {
        name,
        what,
        content,
        names,
        read: READ,
        limits,
    }
}

/// gzip.
pub(super) static GZIP: Compressed = Compressed {
    method: Method::Gzip,
    about: about(
        "gzip",
        "files compressed by gzip: project files, drawings, settings",
        "1f 8b",
        &[".gz", ".svgz"],
        "several streams in a row are sealed",
    ),
};
/// Zstandard.
pub(super) static ZSTANDARD: Compressed = Compressed {
    method: Method::Zstandard,
    about: about(
        "zstd",
        "files compressed by Zstandard",
        "28 b5 2f fd",
        &[".zst"],
        "how hard the packer tried is not told, so it is packed as hard as usual; dictionaries are not read",
    ),
};
/// xz.
pub(super) static XZ: Compressed = Compressed {
    method: Method::Xz,
    about: about(
        "xz",
        "files compressed by xz",
        "fd 7zXZ",
        &[".xz"],
        "several streams in a row are sealed",
    ),
};
/// bzip2.
pub(super) static BZIP2: Compressed = Compressed {
    method: Method::Bzip2,
    about: about(
        "bzip2",
        "files compressed by bzip2",
        "BZh",
        &[".bz2"],
        "several streams in a row are sealed",
    ),
};
/// zlib.
pub(super) static ZLIB: Compressed = Compressed {
    method: Method::Zlib,
    about: about(
        "zlib",
        "a zlib stream, alone or behind its unpacked length in four bytes of either order",
        "the head of a zlib stream, which unpacks to the end of the file",
        &[],
        "with anything else around the stream it is binary",
    ),
};

/// A compressed file taken apart.
struct Taken {
    content: Vec<u8>,
    /// Where the compressed stream is; what is outside of it tells of it or stays.
    stream: Range<usize>,
    /// Whether something else follows it.
    more: bool,
}

impl Container for Compressed {
    fn about(&self) -> &About {
        &self.about
    }

    fn claims(&self, bytes: &[u8], _file_name: &str) -> bool {
        match self.method {
            Method::Gzip => bytes.starts_with(b"\x1f\x8b\x08"),
            Method::Zstandard => bytes.starts_with(b"\x28\xb5\x2f\xfd"),
            Method::Xz => bytes.starts_with(b"\xfd7zXZ\0"),
            Method::Bzip2 => bytes.starts_with(b"BZh") && bytes.get(4..10) == Some(b"1AY&SY"),
            Method::Zlib => zlib_start(bytes).is_some(),
        }
    }

    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault> {
        let Source {
            bytes,
            name,
            budget,
        } = source;
        let taken = self.take_apart(bytes, budget.left())?;
        budget.spend(taken.content.len())?;
        let inner = self
            .about
            .names
            .iter()
            .filter(|end| name.to_lowercase().ends_with(*end))
            .find_map(|end| name.get(..name.len() - end.len()))
            .unwrap_or(name);
        each(Part {
            way: inner,
            holding: PartContent::Document {
                name: inner,
                bytes: &taken.content,
                cut: inner.ends_with(".fodt"),
            },
            sealed: taken.more.then_some(SEVERAL),
        })
    }

    fn lift(&self, source: Source<'_>, new: &[NewPart]) -> Result<ByteEdits, LiftFault> {
        let Source { bytes, budget, .. } = source;
        let Some(new) = new.first() else {
            return Ok(ByteEdits::default());
        };
        let taken = self.take_apart(bytes, budget.left())?;
        let packed = self
            .pack(&bytes[taken.stream.clone()], bytes, &new.content)
            .map_err(|error| Fault::Unpacked(error.to_string()))?;
        let mut edits = vec![Edit {
            span: taken.stream.clone(),
            with: packed,
        }];
        let length = u32::try_from(new.content.len()).map_err(|_| Fault::Uncountable)?;
        match self.method {
            Method::Gzip => {
                let mut crc = Crc::new();
                crc.update(&new.content);
                let mut trailer = crc.sum().to_le_bytes().to_vec();
                trailer.extend(length.to_le_bytes());
                edits.push(Edit {
                    span: taken.stream.end..taken.stream.end + 8,
                    with: trailer,
                });
            }
            Method::Zlib if taken.stream.start == 4 => {
                let high_first = big(bytes, 0, 4) == Some(taken.content.len() as u64);
                edits.push(Edit {
                    span: 0..4,
                    with: if high_first {
                        length.to_be_bytes()
                    } else {
                        length.to_le_bytes()
                    }
                    .to_vec(),
                });
            }
            _ => {}
        }
        Edits::new(edits).map_err(|_| Fault::Overlap("parts").into())
    }
}

impl Compressed {
    fn take_apart(&self, bytes: &[u8], most: u64) -> Result<Taken, Fault> {
        let whole = 0..bytes.len();
        match self.method {
            Method::Gzip => {
                let start = gzip_header(bytes).ok_or_else(damaged)?;
                let (content, used) = inflate(&bytes[start..], false, most)?;
                let end = start + used;
                let mut crc = Crc::new();
                crc.update(&content);
                let sound = little(bytes, end, 4) == Some(crc.sum().into())
                    && little(bytes, end + 4, 4) == Some(content.len() as u64 & 0xFFFF_FFFF);
                if !sound {
                    return Err(damaged());
                }
                let more = bytes[end + 8..].iter().any(|b| *b != 0);
                Ok(Taken {
                    content,
                    stream: start..end,
                    more,
                })
            }
            Method::Zlib => {
                let start = zlib_start(bytes).ok_or_else(damaged)?;
                let (content, used) = inflate(&bytes[start..], true, most)?;
                let more = start + used < bytes.len();
                Ok(Taken {
                    content,
                    stream: start..start + used,
                    more,
                })
            }
            Method::Zstandard => {
                let decoder = zstd::stream::read::Decoder::new(bytes).map_err(|_| damaged())?;
                let content = read_limited(decoder.single_frame(), most)?;
                let more = zstd::zstd_safe::find_frame_compressed_size(bytes)
                    .is_ok_and(|length| length < bytes.len());
                Ok(Taken {
                    content,
                    stream: whole,
                    more,
                })
            }
            Method::Xz => {
                // Its head says how much memory unpacking takes, true or not.
                let stream = liblzma::stream::Stream::new_stream_decoder(
                    XZ_MEMORY,
                    liblzma::stream::CONCATENATED,
                )
                .map_err(|_| damaged())?;
                let decoder = liblzma::bufread::XzDecoder::new_stream(bytes, stream);
                let content = read_limited(decoder, most)?;
                let footers = memchr::memmem::find_iter(bytes, b"\xfd7zXZ\0").count();
                Ok(Taken {
                    content,
                    stream: whole,
                    more: footers > 1,
                })
            }
            Method::Bzip2 => {
                let content = read_limited(bzip2::bufread::MultiBzDecoder::new(bytes), most)?;
                let starts = memchr::memmem::find_iter(bytes, b"BZh")
                    .filter(|at| bytes.get(at + 4..at + 10) == Some(b"1AY&SY"));
                Ok(Taken {
                    content,
                    stream: whole,
                    more: starts.count() > 1,
                })
            }
        }
    }

    /// The stream that packs `content` as `old` was packed.
    fn pack(&self, old: &[u8], file: &[u8], content: &[u8]) -> std::io::Result<Vec<u8>> {
        let mut packed = Vec::new();
        match self.method {
            Method::Gzip => {
                // The header tells of the two extremes only.
                let level = match file.get(8) {
                    Some(2) => Compression::best(),
                    Some(4) => Compression::fast(),
                    _ => Compression::default(),
                };
                flate2::read::DeflateEncoder::new(content, level).read_to_end(&mut packed)?;
            }
            Method::Zlib => {
                let level = match old.get(1).map_or(2, |flags| flags >> 6) {
                    0 => Compression::fast(),
                    1 => Compression::new(5),
                    2 => Compression::default(),
                    _ => Compression::best(),
                };
                flate2::read::ZlibEncoder::new(content, level).read_to_end(&mut packed)?;
            }
            Method::Zstandard => {
                let mut encoder = zstd::stream::write::Encoder::new(&mut packed, 3)?;
                let descriptor = old.get(4).copied().unwrap_or_default();
                encoder.include_checksum(descriptor & 4 != 0)?;
                let sized = descriptor & 0b1110_0000 != 0;
                encoder.include_contentsize(sized)?;
                if sized {
                    encoder.set_pledged_src_size(Some(content.len() as u64))?;
                }
                std::io::Write::write_all(&mut encoder, content)?;
                encoder.finish()?;
            }
            Method::Xz => {
                use liblzma::stream::{Check, Stream};
                let check = match old.get(7).copied().unwrap_or(4) & 0xF {
                    0 => Check::None,
                    1 => Check::Crc32,
                    10 => Check::Sha256,
                    _ => Check::Crc64,
                };
                let stream = Stream::new_easy_encoder(6, check)?;
                liblzma::bufread::XzEncoder::new_stream(content, stream)
                    .read_to_end(&mut packed)?;
            }
            Method::Bzip2 => {
                let level = old.get(3).map_or(9, |digit| digit.saturating_sub(b'0'));
                let level = bzip2::Compression::new(u32::from(level.clamp(1, 9)));
                bzip2::bufread::BzEncoder::new(content, level).read_to_end(&mut packed)?;
            }
        }
        Ok(packed)
    }
}

/// More memory than any of the usual ways to pack needs for unpacking, in bytes.
const XZ_MEMORY: u64 = 256 << 20;

fn damaged() -> Fault {
    Fault::Damaged("it is cut short or damaged: it does not unpack")
}

/// What `reader` yields, if that is not more than `most` bytes.
fn read_limited(reader: impl Read, most: u64) -> Result<Vec<u8>, Fault> {
    let mut content = Vec::new();
    reader
        .take(most.saturating_add(1))
        .read_to_end(&mut content)
        .map_err(|_| damaged())?;
    Ok(content)
}

/// Unpacks the stream at the start of `bytes`, and says how long that is. More than `most`
/// bytes are not unpacked to their end.
fn inflate(bytes: &[u8], zlib: bool, most: u64) -> Result<(Vec<u8>, usize), Fault> {
    let mut stream = flate2::Decompress::new(zlib);
    let mut content = Vec::with_capacity((bytes.len() * 4).clamp(1 << 12, 1 << 24));
    loop {
        let at = stream.total_in() as usize;
        let status = stream
            .decompress_vec(&bytes[at..], &mut content, flate2::FlushDecompress::None)
            .map_err(|_| damaged())?;
        if status == flate2::Status::StreamEnd {
            return Ok((content, stream.total_in() as usize));
        }
        if content.len() as u64 > most {
            // The budget, asked to pay for this, says what is wrong.
            return Err(Budget::new(most).exceeded());
        }
        if content.len() < content.capacity() && stream.total_in() as usize >= bytes.len() {
            return Err(damaged());
        }
        content.reserve(content.len().max(1 << 12));
    }
}

/// Where the stream after a gzip header begins.
fn gzip_header(bytes: &[u8]) -> Option<usize> {
    let flags = *bytes.get(3)?;
    let mut at = 10;
    if flags & 4 != 0 {
        at += 2 + u16_at(bytes, at)?;
    }
    // A name and a comment, each ended by a zero.
    for flag in [8, 16] {
        if flags & flag != 0 {
            at += memchr::memchr(0, bytes.get(at..)?)? + 1;
        }
    }
    if flags & 2 != 0 {
        at += 2;
    }
    (at < bytes.len()).then_some(at)
}

/// Where a zlib stream begins: at the start, or after four bytes that may be its length.
fn zlib_start(bytes: &[u8]) -> Option<usize> {
    let head = |at: usize| {
        let (Some(method), Some(flags)) = (bytes.get(at), bytes.get(at + 1)) else {
            return false;
        };
        // Deflate with the largest window, and a check over both bytes.
        *method == 0x78
            && (u16::from(*method) << 8 | u16::from(*flags)).is_multiple_of(31)
            && flags & 0x20 == 0
            && unpacks(&bytes[at..])
    };
    [0, 4].into_iter().find(|at| head(*at))
}

/// Whether the first few bytes are no text, and unpack: the two of a zlib header may be text.
fn unpacks(bytes: &[u8]) -> bool {
    let text = |b: &u8| !b.is_ascii_control() || b.is_ascii_whitespace();
    if bytes.iter().take(256).all(text) {
        return false;
    }
    let mut room = [0; 64];
    let mut stream = flate2::Decompress::new(true);
    let fed = stream.decompress(bytes, &mut room, flate2::FlushDecompress::None);
    fed.is_ok() && stream.total_out() > 0
}
