//! Link information: where the target lay, on a volume or on a share (MS-SHLLINK 2.3).

use super::super::bytes::{from_utf16, to_utf16, u32_at};
use super::fault::ShortcutFault;

const ON_VOLUME: usize = 1;
const ON_SHARE: usize = 2;
/// Lengths of the head without and with offsets of text in UTF-16.
const SHORT_HEAD: usize = 0x1C;
const LONG_HEAD: usize = 0x24;

/// Text as bytes of a code page, and as UTF-16 where that is told too.
#[derive(Clone, Debug, Default)]
struct Twin {
    narrow: Vec<u8>,
    wide: Option<Vec<u8>>,
}

impl Twin {
    fn text(&self) -> Option<String> {
        match &self.wide {
            Some(wide) => from_utf16(wide),
            None if self.narrow.is_ascii() => {
                Some(String::from_utf8_lossy(&self.narrow).into_owned())
            }
            None => None,
        }
    }

    /// Text for a new target. Letters that the code page of another machine may lack are
    /// as `?` beside the text in UTF-16, as the system itself writes them.
    fn new(text: &str, wide: bool) -> Self {
        let narrow = crate::text::Encoding::WINDOWS_1252;
        let letter = |c: char| {
            let mut room = [0; 4];
            narrow
                .encode(c.encode_utf8(&mut room))
                .unwrap_or_else(|_| vec![b'?'])
        };
        Self {
            narrow: text.chars().flat_map(letter).collect(),
            wide: (wide || !text.is_ascii()).then(|| to_utf16(text)),
        }
    }
}

/// Link information.
#[derive(Clone, Debug)]
pub(super) struct Info {
    raw: Vec<u8>,
    flags: usize,
    volume: Vec<u8>,
    base: Twin,
    share: Option<Twin>,
    suffix: Twin,
}

/// The drive or the share that a path begins with.
pub(super) fn root(path: &str) -> &str {
    let is = |c: char| matches!(c, '\\' | '/');
    if path.starts_with(is) {
        let mut parts = path.match_indices(is).map(|(at, _)| at);
        return parts.nth(3).map_or(path, |end| &path[..end]);
    }
    path.find(is).map_or(path, |end| &path[..end])
}

/// A string that a zero ends.
fn narrow(bytes: &[u8], at: usize) -> Option<Vec<u8>> {
    let rest = bytes.get(at..)?;
    Some(rest[..memchr::memchr(0, rest)?].to_vec())
}

/// A string in UTF-16 that a zero ends.
fn wide(bytes: &[u8], at: usize) -> Option<Vec<u8>> {
    let rest = bytes.get(at..)?;
    let length = rest.chunks_exact(2).position(|pair| pair == [0, 0])?;
    Some(rest[..length * 2].to_vec())
}

impl Info {
    pub(super) fn read(raw: &[u8]) -> Option<Self> {
        let head = u32_at(raw, 4)?;
        let flags = u32_at(raw, 8)?;
        let long = head >= LONG_HEAD;
        let twin = |narrow_at: usize, wide_at: usize| -> Option<Twin> {
            let told = if long { u32_at(raw, wide_at)? } else { 0 };
            Some(Twin {
                narrow: narrow(raw, u32_at(raw, narrow_at)?)?,
                wide: match told {
                    0 => None,
                    at => Some(wide(raw, at)?),
                },
            })
        };
        let mut volume = Vec::new();
        let mut base = Twin::default();
        if flags & ON_VOLUME != 0 {
            let at = u32_at(raw, 12)?;
            volume = raw.get(at..at.checked_add(u32_at(raw, at)?)?)?.to_vec();
            base = twin(16, 28)?;
        }
        let mut share = None;
        if flags & ON_SHARE != 0 {
            let at = u32_at(raw, 20)?;
            let link = raw.get(at..)?;
            let name = u32_at(link, 8)?;
            let unicode = (name > 0x14).then(|| u32_at(link, 20)).flatten();
            share = Some(Twin {
                narrow: narrow(link, name)?,
                wide: match unicode {
                    Some(at) => Some(wide(link, at)?),
                    None => None,
                },
            });
        }
        let suffix = twin(24, 32)?;
        Some(Self {
            raw: raw.to_vec(),
            flags,
            volume,
            base,
            share,
            suffix,
        })
    }

    /// The target; none if its letters are not known, empty if there is none.
    pub(super) fn path(&self) -> Option<String> {
        let suffix = self.suffix.text()?;
        match &self.share {
            Some(share) if self.flags & ON_VOLUME == 0 => {
                let share = share.text()?;
                Some(if suffix.is_empty() {
                    share
                } else {
                    format!("{share}\\{suffix}")
                })
            }
            _ => Some(self.base.text()? + &suffix),
        }
    }

    /// The target as far as its letters are known.
    pub(super) fn lossy(&self) -> String {
        let known = |bytes: &[u8]| crate::text::Encoding::Utf8.decode(bytes).into_owned();
        known(&self.base.narrow) + &known(&self.suffix.narrow)
    }

    /// Writes the information anew for the target `new`.
    pub(super) fn retarget(&mut self, new: &str) -> Result<(), ShortcutFault> {
        let long = self.base.wide.is_some() || self.suffix.wide.is_some();
        let suffix = self.suffix.text().unwrap_or_default();
        let old = self.path().unwrap_or_default();
        let kept = new.strip_suffix(&suffix).filter(|_| !suffix.is_empty());
        // Some shells keep a path on a share as if it were one on a volume.
        let as_volume = self.share.is_none() && old.starts_with(r"\\");
        if new.starts_with(r"\\") && !as_volume {
            let share = root(new);
            let rest = new[share.len()..].trim_start_matches(['\\', '/']);
            let wide = self
                .share
                .as_ref()
                .is_some_and(|share| share.wide.is_some());
            self.share = Some(Twin::new(share, wide));
            self.suffix = Twin::new(rest, long);
            self.flags = ON_SHARE;
        } else {
            let (base, suffix) = match kept.filter(|base| base.len() > 2) {
                Some(base) => (base, suffix.as_str()),
                None => (new, ""),
            };
            if !root(&old).eq_ignore_ascii_case(root(new)) || self.volume.is_empty() {
                self.volume = unnamed_volume(&self.volume);
            }
            let wide = long || !base.is_ascii() || !suffix.is_ascii();
            self.base = Twin::new(base, wide);
            self.suffix = Twin::new(suffix, wide);
            self.flags = ON_VOLUME;
            self.share = None;
        }
        self.raw = self.made()?;
        Ok(())
    }

    /// The bytes for what is known now.
    fn made(&self) -> Result<Vec<u8>, ShortcutFault> {
        let local = self.flags & ON_VOLUME != 0;
        let wide = self.suffix.wide.is_some() || (local && self.base.wide.is_some());
        let head = if wide { LONG_HEAD } else { SHORT_HEAD };
        let mut offsets = [0usize; 6];
        let mut body = Vec::new();
        let mut put = |slot: usize, bytes: &[u8], ends: usize| {
            offsets[slot] = head + body.len();
            body.extend_from_slice(bytes);
            body.extend(std::iter::repeat_n(0, ends));
        };
        if local {
            put(0, &self.volume, 0);
            put(1, &self.base.narrow, 1);
        }
        if let Some(share) = &self.share {
            put(2, &share_link(share), 0);
        }
        put(3, &self.suffix.narrow, 1);
        if wide {
            if local {
                let base = self.base.wide.clone().unwrap_or_default();
                put(4, &base, 2);
            }
            put(5, self.suffix.wide.as_deref().unwrap_or_default(), 2);
        }
        let mut all = Vec::new();
        let mut number = |value: usize| -> Result<(), ShortcutFault> {
            let value = u32::try_from(value).map_err(|_| ShortcutFault::TargetTooLong)?;
            all.extend(value.to_le_bytes());
            Ok(())
        };
        number(head + body.len())?;
        number(head)?;
        number(self.flags)?;
        for offset in &offsets[..if wide { 6 } else { 4 }] {
            number(*offset)?;
        }
        all.extend(body);
        Ok(all)
    }

    /// The bytes.
    pub(super) fn write(&self) -> &[u8] {
        &self.raw
    }
}

/// A volume of the same kind of drive, without the serial number and the label of another.
fn unnamed_volume(old: &[u8]) -> Vec<u8> {
    let kind = u32_at(old, 4).unwrap_or_default() as u32;
    let numbers = [0x11, kind, 0, 0x10];
    let mut volume: Vec<u8> = numbers.into_iter().flat_map(u32::to_le_bytes).collect();
    volume.push(0);
    volume
}

/// A link to a share (MS-SHLLINK 2.3.2), without a drive that it is connected to.
fn share_link(share: &Twin) -> Vec<u8> {
    /// The provider is told: the usual one for Windows shares.
    const PROVIDER: (u32, u32) = (2, 0x0002_0000);
    let head = if share.wide.is_some() { 0x1C } else { 0x14 };
    let wide = share.wide.as_deref();
    let length = head + share.narrow.len() + 1 + wide.map_or(0, |wide| wide.len() + 2);
    let mut numbers = vec![length as u32, PROVIDER.0, head as u32, 0, PROVIDER.1];
    if wide.is_some() {
        numbers.extend([(head + share.narrow.len() + 1) as u32, 0]);
    }
    let mut link: Vec<u8> = numbers.into_iter().flat_map(u32::to_le_bytes).collect();
    link.extend(&share.narrow);
    link.push(0);
    if let Some(wide) = wide {
        link.extend(wide);
        link.extend([0, 0]);
    }
    link
}
