//! Forty ways to spell a place, and the documents that a mixed tree is made of: each written
//! here by itself, without the core.

/// Where the data is: in which tree a text is meant to be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Side {
    /// Before anything moved.
    Old,
    /// On another drive.
    Drive,
    /// On a machine of the other family.
    Posix,
}

use Side::{Drive, Old, Posix};

impl Side {
    /// The collection with backslashes where that is the family's way.
    fn root(self) -> &'static str {
        match self {
            Old => r"D:\Herbarium",
            Drive => r"H:\Collections\Herbarium",
            Posix => "/srv/herbarium",
        }
    }

    fn share(self) -> &'static str {
        match self {
            Old => r"\\mossbank\press",
            Drive => r"\\fernhall\press",
            Posix => "/srv/press",
        }
    }

    fn forward(self) -> String {
        self.root().replace('\\', "/")
    }

    fn windows(self) -> bool {
        self != Posix
    }

    fn separator(self) -> &'static str {
        if self.windows() { r"\" } else { "/" }
    }

    /// Names joined in the family's way.
    fn tail(self, names: &[&str]) -> String {
        names
            .iter()
            .map(|name| format!("{}{name}", self.separator()))
            .collect()
    }

    /// The path of a URI.
    fn uri(self) -> String {
        match self {
            Posix => self.forward(),
            _ => format!("/{}", self.forward()),
        }
    }

    /// A drive as a folder below `lead`; there is no such thing on the other side.
    fn folder(self, lead: &str) -> String {
        match self {
            Old => format!("{lead}/d/Herbarium"),
            Drive => format!("{lead}/h/Collections/Herbarium"),
            Posix => self.forward(),
        }
    }
}

/// A way to spell a place.
pub(crate) type Spelling = fn(Side) -> String;

const SHEET: [&str; 2] = ["Sheets", "0412.tif"];

fn doubled(text: &str, times: usize) -> String {
    text.replace('\\', &"\\".repeat(times))
}

/// `lead` where the family knows such prefixes.
fn led(lead: &str, side: Side, rest: &str) -> String {
    if side.windows() {
        format!("{lead}{rest}")
    } else {
        rest.to_owned()
    }
}

/// The spellings, each as a whole value.
pub(crate) const SPELLINGS: [Spelling; 42] = [
    |s| s.root().to_owned(),
    |s| format!("{}{}", s.root(), s.tail(&SHEET)),
    |s| format!("{}{}", s.root(), s.tail(&["Gr\u{fc}n", "Stra\u{df}e.tif"])),
    |s| format!("{}{}", s.root(), s.separator()),
    |s| format!("{}{}", s.root(), s.tail(&["a", "b", "c", "d.map"])),
    |s| format!("{}/Labels/narrow.lbl", s.forward()),
    |s| format!("{}/Labels/", s.forward()),
    |s| match s {
        Old => r"d:\herbarium\Maps\base.map".to_owned(),
        Drive => r"h:\Collections\Herbarium\Maps\base.map".to_owned(),
        Posix => "/srv/herbarium/Maps/base.map".to_owned(),
    },
    |s| format!("{}/Maps/base.map", s.root()),
    |s| doubled(&format!("{}{}", s.root(), s.tail(&SHEET)), 2),
    |s| doubled(&format!("{}{}", s.root(), s.tail(&SHEET)), 4),
    |s| led(r"\\?\", s, &format!("{}{}", s.root(), s.tail(&SHEET))),
    |s| led(r"\\.\", s, &format!("{}{}", s.root(), s.tail(&SHEET))),
    |s| led(r"\??\", s, &format!("{}{}", s.root(), s.tail(&SHEET))),
    |s| format!("{}{}", s.share(), s.tail(&["labels", "proof.lbl"])),
    |s| s.share().to_owned(),
    |s| format!("{}/labels/proof.lbl", s.share().replace('\\', "/")),
    |s| doubled(&format!("{}{}", s.share(), s.tail(&["labels"])), 2),
    |s| match s {
        Old => r"\\?\UNC\mossbank\press\labels".to_owned(),
        Drive => r"\\?\UNC\fernhall\press\labels".to_owned(),
        Posix => "/srv/press/labels".to_owned(),
    },
    |s| match s {
        Old => r"\\mossbank\D$\Herbarium\Sheets".to_owned(),
        Drive => r"\\mossbank\H$\Collections\Herbarium\Sheets".to_owned(),
        Posix => "/srv/herbarium/Sheets".to_owned(),
    },
    |s| format!("file://{}/Sheets/0412.tif", s.uri()),
    |s| format!("file://{}/Gr%C3%BCn/a%20b.tif", s.uri()),
    |s| format!("file://localhost{}/Sheets", s.uri()),
    |s| format!("file:{}/Sheets", s.uri()),
    |s| match s {
        Posix => format!("file://{}/Sheets", s.uri()),
        _ => format!("file:///{}{}", s.root(), s.tail(&["Sheets"])),
    },
    |s| match s {
        Old => "file:///d%3A/Herbarium/Sheets".to_owned(),
        Drive => "file:///h%3A/Collections/Herbarium/Sheets".to_owned(),
        _ => format!("file://{}/Sheets", s.uri()),
    },
    |s| match s {
        Old => "file:///D|/Herbarium/Sheets".to_owned(),
        Drive => "file:///H|/Collections/Herbarium/Sheets".to_owned(),
        _ => format!("file://{}/Sheets", s.uri()),
    },
    |s| match s {
        Old => "file://mossbank/press/labels".to_owned(),
        Drive => "file://fernhall/press/labels".to_owned(),
        Posix => "file:///srv/press/labels".to_owned(),
    },
    |s| format!("jdbc:sqlite:{}/loans.db", s.forward()),
    |s| match s {
        Old => "http://localhost/open?p=D%3A%5CHerbarium%5CSheets&q=1".to_owned(),
        Drive => "http://localhost/open?p=H%3A%5CCollections%5CHerbarium%5CSheets&q=1".to_owned(),
        _ => "http://localhost/open?p=%2Fsrv%2Fherbarium%2FSheets&q=1".to_owned(),
    },
    |s| format!("{}/Maps/base.map", s.folder("/mnt")),
    |s| format!("{}/Maps/base.map", s.folder("/cygdrive")),
    |s| format!("{}/Maps/base.map", s.folder("")),
    |s| match s {
        Posix => "/srv/herbarium/Maps".to_owned(),
        _ => format!("/{}/Maps", s.forward()),
    },
    |s| match s {
        Old => r"%DATA%\Herbarium\Sheets".to_owned(),
        _ => format!("{}{}", s.root(), s.tail(&["Sheets"])),
    },
    |s| match s {
        Old => "${DATA}/Herbarium/Sheets".to_owned(),
        _ => format!("{}/Sheets", s.forward()),
    },
    |_| r"%PRESS%\Sheets".to_owned(),
    |s| format!("{}{};C:\\Windows", s.root(), s.tail(&["bin"])),
    |s| format!("C:\\Windows;{}{}", s.root(), s.tail(&["bin"])),
    |s| match s {
        Old => r"S:\Sheets\0412.tif".to_owned(),
        _ => format!("{}{}", s.root(), s.tail(&SHEET)),
    },
    |s| match s {
        Old => r"D:\HERBAR~1\Sheets\0412.tif".to_owned(),
        _ => format!("{}{}", s.root(), s.tail(&SHEET)),
    },
    |s| match s {
        Old => r"D:\Loans\..\Herbarium\Sheets".to_owned(),
        _ => format!("{}{}", s.root(), s.tail(&["Sheets"])),
    },
];

/// What looks like a place, or is another one.
pub(crate) const DECOYS: [&str; 10] = [
    r"D:\HerbariumOld\keep",
    "D:/Herbarium2/keep",
    r"\\mossbank\presses\keep",
    r"E:\Herbarium\keep",
    "http://d:/Herbarium",
    "abcD:Herbarium",
    "12:30/45",
    r"\\otherbank\press\keep",
    "/mnt/e/Herbarium/keep",
    "std::fs::Herbarium",
];

/// A value of the POSIX side after it went back: drives and shares with backslashes, URIs as such.
pub(crate) fn back(value: &str) -> String {
    if value.starts_with("file:") {
        return value
            .replace("/srv/herbarium", "/D:/Herbarium")
            .replace("///srv/press", "//mossbank/press");
    }
    if value.contains("%2F") {
        return value
            .replace("%2Fsrv%2Fherbarium", "D%3A%5CHerbarium")
            .replace("%2F", "%5C");
    }
    let Some(start) = value.find("/srv/") else {
        return value.to_owned();
    };
    let end = value[start..]
        .find(';')
        .map_or(value.len(), |at| start + at);
    let place = value[start..end]
        .replace("/srv/herbarium", "D:/Herbarium")
        .replace("/srv/press", "//mossbank/press")
        .replace('/', r"\");
    format!("{}{place}{}", &value[..start], &value[end..])
}
