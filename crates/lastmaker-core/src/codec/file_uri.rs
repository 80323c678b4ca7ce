//! The lead of a `file:` URI (RFC 8089 and the forms that it collects in its appendices).
//!
//! What is after the scheme is `///D:/x`, `/D:/x`, `//localhost/D:/x`, `//D:/x`, `D:/x`,
//! `//server/share/x`, `////server/share/x`, `///\\server\share\x` as office programs write it,
//! `///x` for `/x`; and `D|` for `D:`. The content
//! is the path as it would be written by itself: `D:/x`, `//server/share/x`, `/x`.
//!
//! Programs have schemes of their own for local files, in which the authority names the program
//! (`editor-file://app/d:/x`), and there are schemes for shares (`smb://server/share/x`).

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit};

/// How the layer is called.
pub(crate) const FILE_URI: &str = "file URI";

/// What is after the scheme of a URI that names a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FileUri {
    /// `file:`
    File,
    /// A program's own scheme for local files: the authority is no server.
    OfProgram,
    /// A scheme for shares, which names nothing else.
    Share,
}

impl FileUri {
    /// The form behind this scheme, in either case; none if it names no files.
    pub fn of_scheme(scheme: &str) -> Option<Self> {
        let is = |name: &str| scheme.eq_ignore_ascii_case(name);
        let (program, name) = scheme.split_at_checked(scheme.len().saturating_sub(4))?;
        if is("smb") || is("cifs") {
            return Some(Self::Share);
        }
        match program.as_bytes().last() {
            _ if !name.eq_ignore_ascii_case("file") => None,
            None | Some(b'+') => Some(Self::File),
            Some(b'-') => Some(Self::OfProgram),
            Some(_) => None,
        }
    }

    /// How many bytes of the outer text are before the content.
    fn lead(self, outer: &[u8]) -> Option<usize> {
        match self {
            Self::File => lead(outer),
            Self::Share => {
                lead(outer).filter(|_| outer.starts_with(b"//") && outer.get(2) != Some(&b'/'))
            }
            Self::OfProgram => {
                let authority = outer.strip_prefix(b"//")?;
                let slash = 2 + memchr::memchr(b'/', authority)?;
                let drive = is_drive(&outer[slash + 1..]);
                Some(if drive { slash + 1 } else { slash })
            }
        }
    }

    /// What comes instead of `stood` and what is `before` it.
    fn rewritten(self, before: &[u8], stood: &[u8], with: Vec<u8>) -> Result<Vec<u8>, Unfit> {
        let share = with.starts_with(b"//") || with.starts_with(br"\\");
        match self {
            Self::File => Ok(relead(before, stood, with)),
            Self::Share if share => Ok(with),
            Self::Share => Err(Unfit::NotWritable {
                what: "an address with the scheme of shares names no drive and no local folder",
            }),
            Self::OfProgram if share => Err(Unfit::NotWritable {
                what: "an address with a program's own scheme names no share",
            }),
            Self::OfProgram => {
                let authority = before.strip_suffix(b"/").unwrap_or(before);
                let slash: &[u8] = if is_drive(&with) { b"/" } else { b"" };
                Ok([authority, slash, &with].concat())
            }
        }
    }
}

/// How many bytes of the outer text are before the content.
fn lead(outer: &[u8]) -> Option<usize> {
    let slashes = outer.iter().take_while(|b| **b == b'/').count();
    let rest = &outer[slashes..];
    if is_drive(rest) {
        return (slashes <= 3).then_some(slashes);
    }
    let localhost = b"localhost/";
    if slashes == 2
        && rest
            .get(..localhost.len())
            .is_some_and(|h| h.eq_ignore_ascii_case(localhost))
    {
        let before = 2 + localhost.len();
        return Some(if is_drive(&outer[before..]) {
            before
        } else {
            before - 1
        });
    }
    match slashes {
        // `//server/share`, `////server/share` and `/////server/share`.
        2 => Some(0),
        4 | 5 => Some(slashes - 2),
        1 => Some(0),
        3 if rest.starts_with(br"\\") => Some(3),
        3 => Some(2),
        _ => None,
    }
}

/// `D:`, `D|` or `D%3A`.
fn is_drive(text: &[u8]) -> bool {
    let colon = |rest: &[u8]| {
        rest.starts_with(b":")
            || rest.starts_with(b"|")
            || rest
                .get(..3)
                .is_some_and(|c| c.eq_ignore_ascii_case(b"%3a"))
    };
    text.first().is_some_and(u8::is_ascii_alphabetic) && colon(&text[1..])
}

impl Layer for FileUri {
    fn name(&self) -> &'static str {
        FILE_URI
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let lead = self.lead(outer).ok_or(Malformed {
            what: "no path of a file URI",
            at: 0,
        })?;
        let mut content = outer[lead..].to_vec();
        let mut map = MapBuilder::default();
        map.bytes(lead..outer.len());
        if content.get(1) == Some(&b'|') {
            content[1] = b':';
        }
        Ok(Opened {
            content,
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let mut lifted = Vec::new();
        for edit in inner.as_slice() {
            let mut span = opened
                .map
                .outer(edit.span.clone())
                .ok_or(Unfit::InsideUnit)?;
            let mut with = edit.with.clone();
            if edit.span.start == 0 {
                let before = &outer[..span.start];
                let stood = outer.get(span.start..).unwrap_or(b"");
                with = self.rewritten(before, stood, with)?;
                span.start = 0;
            }
            lifted.push(Edit { span, with });
        }
        Edits::new(lifted).map_err(|_| Unfit::Overlap)
    }
}

/// The lead that the new path needs, and the path.
fn relead(before: &[u8], stood: &[u8], mut with: Vec<u8>) -> Vec<u8> {
    let was_drive = is_drive(stood);
    let was_share = !was_drive && (stood.starts_with(b"//") || stood.starts_with(br"\\"));
    let local: &[u8] = if before.ends_with(b"localhost/") || before.ends_with(b"localhost") {
        b"//localhost"
    } else if before.is_empty() && !was_share && stood.starts_with(b"/") {
        b""
    } else {
        b"//"
    };
    if is_drive(&with) {
        if was_drive && stood.get(1) == Some(&b'|') && with.get(1) == Some(&b':') {
            with[1] = b'|';
        }
        let lead: Vec<u8> = if was_drive {
            before.to_vec()
        } else {
            [local, b"/"].concat()
        };
        return [lead, with].concat();
    }
    if with.starts_with(br"\\") {
        return [b"///".as_slice(), &with].concat();
    }
    if with.starts_with(b"//") {
        // After four slashes the server is a part of the path.
        let lead: &[u8] = if was_share { before } else { b"" };
        return [lead, &with].concat();
    }
    if was_drive {
        // `/` of a POSIX path takes the place of the one before the drive.
        let kept = before
            .strip_suffix(b"/")
            .unwrap_or(if before.is_empty() { b"" } else { b"//" });
        return [kept, &with].concat();
    }
    if was_share {
        return [b"//".as_slice(), &with].concat();
    }
    [before, &with].concat()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;

    #[test]
    fn every_form_opens_to_a_path() {
        let cases = [
            ("///D:/x", "D:/x"),
            ("/D:/x", "D:/x"),
            ("//localhost/D:/x", "D:/x"),
            ("//D:/x", "D:/x"),
            ("D:/x", "D:/x"),
            ("///D|/x", "D:/x"),
            ("///d%3A/x", "d%3A/x"),
            ("//server/share/x", "//server/share/x"),
            ("////server/share/x", "//server/share/x"),
            ("/////server/share/x", "//server/share/x"),
            (r"///\\server\share\x", r"\\server\share\x"),
            ("///home/x", "/home/x"),
            ("/home/x", "/home/x"),
            ("//localhost/home/x", "/home/x"),
        ];
        for (outer, content) in cases {
            let opened = FileUri::File.open(outer.as_bytes()).unwrap();
            assert_eq!(
                String::from_utf8(opened.content).unwrap(),
                content,
                "{outer}"
            );
        }
        assert!(FileUri::File.open(b"x").is_err());
    }

    #[test]
    fn the_lead_follows_the_kind_of_place() {
        let cases = [
            ("///D:/x", "D:", "H:/C", "///H:/C/x"),
            ("/D:/x", "D:", "H:/C", "/H:/C/x"),
            ("D:/x", "D:", "H:/C", "H:/C/x"),
            ("///D|/x", "D:", "H:/C", "///H|/C/x"),
            ("//localhost/D:/x", "D:", "H:", "//localhost/H:/x"),
            ("///D:/x", "D:", "//server/share", "//server/share/x"),
            ("///D:/x", "D:", "/srv", "///srv/x"),
            ("/D:/x", "D:", "/srv", "/srv/x"),
            ("//a/b/x", "//a/b", "//c/d", "//c/d/x"),
            ("////a/b/x", "//a/b", "//c/d", "////c/d/x"),
            ("//a/b/x", "//a/b", "H:", "///H:/x"),
            ("//a/b/x", "//a/b", "/srv", "///srv/x"),
            ("///srv/x", "/srv", "H:", "///H:/x"),
            ("/srv/x", "/srv", "H:", "/H:/x"),
            ("///srv/x", "/srv", "//a/b", "//a/b/x"),
            (r"///\\a\b\x", r"\\a\b", r"\\c\d", r"///\\c\d\x"),
            (r"///\\a\b\x", r"\\a\b", "H:", r"///H:\x"),
            (r"///D:\x", "D:", r"\\a\b", r"///\\a\b\x"),
            (r"///\\a\b\x", r"\\a\b", "/srv", r"///srv\x"),
        ];
        for (outer, old, new, expected) in cases {
            let opened = FileUri::File.open(outer.as_bytes()).unwrap();
            let edit = Edit {
                span: 0..old.len(),
                with: new.as_bytes().to_vec(),
            };
            let edits = FileUri::File
                .lift(outer.as_bytes(), &opened, &Edits::new(vec![edit]).unwrap())
                .unwrap();
            let got = String::from_utf8(splice(outer.as_bytes(), &edits)).unwrap();
            assert_eq!(got, expected, "{outer} {old} -> {new}");
        }
    }

    #[test]
    fn schemes_of_programs_and_of_shares() {
        let (program, share) = (FileUri::OfProgram, FileUri::Share);
        let cases = [
            (program, "//app/d:/x", "d:", "h:/C", Some("//app/h:/C/x")),
            (program, "//app/d:/x", "d:", "/srv", Some("//app/srv/x")),
            (program, "///d%3A/x", "d%3A", "h%3A/C", Some("///h%3A/C/x")),
            (program, "//app/srv/x", "/srv", "H:", Some("//app/H:/x")),
            (
                program,
                "//app/srv/x",
                "/srv",
                "/home",
                Some("//app/home/x"),
            ),
            (program, "//app/d:/x", "d:", "//a/b", None),
            (share, "//a/b/x", "//a/b", "//c/d", Some("//c/d/x")),
            (share, "//a/b/x", "//a/b", "H:", None),
            (share, "//a/b/x", "//a/b", "/srv", None),
        ];
        for (form, outer, old, new, expected) in cases {
            let opened = form.open(outer.as_bytes()).unwrap();
            let edit = Edit {
                span: 0..old.len(),
                with: new.as_bytes().to_vec(),
            };
            let edits = Edits::new(vec![edit]).unwrap();
            let lifted = form.lift(outer.as_bytes(), &opened, &edits);
            let got =
                lifted.map(|edits| String::from_utf8(splice(outer.as_bytes(), &edits)).unwrap());
            assert_eq!(got.ok().as_deref(), expected, "{outer} {old} -> {new}");
        }
        assert!(share.open(b"///x").is_err());
        assert_eq!(FileUri::of_scheme("http"), None);
    }
}
