//! The dialects of settings lines, a table each.

use super::{Lines, Values};
use crate::format::About;
use crate::text::Encoding;

/// Sections, keys and values of no particular program.
pub(in crate::format) static INI: Lines = Lines {
    about: About {
        name: "ini",
        what: "sections, keys and values of no particular program: INI, key: value, .url, .pls",
        content: "[section] lines with keys under them",
        names: &[
            ".ini",
            ".cfg",
            ".conf",
            ".inf",
            ".url",
            ".theme",
            ".gitconfig",
            ".editorconfig",
            ".pls",
            ".cnf",
            ".prf",
            ".prefs",
            ".setting",
            ".settings",
            ".config",
        ],
        read: "keys, plain and quoted values, comments",
        limits: "a value that would change its meaning in the new place (a comment sign, blanks at its end) is doubtful",
    },
    signs: &[],
    comments: &[";", "#"],
    separators: b"=:",
    values: Values::Plain,
    own: None,
};

/// The dialect with escapes, percent-encoded keys and comma lists.
pub(in crate::format) static ESCAPED_INI: Lines = Lines {
    about: About {
        name: "ini-with-escapes",
        what: "settings lines with escapes, percent-encoded keys and comma lists",
        content: "values that are escaped throughout",
        names: INI.about.names,
        read: "keys, values, lists, with \\\\ and \\x as escapes",
        limits: "byte arrays and variants that hold more than text are sealed",
    },
    values: Values::Escaped,
    separators: b"=",
    comments: &[";"],
    own: Some(Encoding::Utf8),
    ..INI
};

/// Java property files.
pub(in crate::format) static JAVA_PROPERTIES: Lines = Lines {
    about: About {
        name: "properties",
        what: "Java property files",
        content: "",
        names: &[".properties"],
        read: "keys and values, with \\\\, \\: and \\u00e9 as the document has them; continued lines",
        limits: "",
    },
    comments: &["#", "!"],
    values: Values::Properties,
    own: Some(Encoding::WINDOWS_1252),
    ..INI
};

/// Desktop entries.
pub(in crate::format) static DESKTOP_ENTRY: Lines = Lines {
    about: About {
        name: "desktop-entry",
        what: "desktop entries",
        content: "[Desktop Entry]",
        names: &[".desktop", ".directory"],
        read: "keys and values; command lines in Exec with their own quotes",
        limits: "",
    },
    signs: &["[Desktop Entry]"],
    comments: &["#"],
    separators: b"=",
    values: Values::Desktop,
    own: Some(Encoding::Utf8),
};

/// Service units.
pub(in crate::format) static SERVICE_UNIT: Lines = Lines {
    about: About {
        name: "service-unit",
        what: "service units",
        content: "[Unit] or [Service]",
        names: &[
            ".service",
            ".mount",
            ".automount",
            ".socket",
            ".timer",
            ".path",
            ".target",
            ".slice",
            ".nspawn",
            ".network",
        ],
        read: "keys and values; command lines with their own quotes and escapes",
        limits: "specifiers (%h) are not expanded",
    },
    signs: &["[Unit]", "[Service]"],
    comments: &["#", ";"],
    separators: b"=",
    values: Values::Unit,
    own: Some(Encoding::Utf8),
};

/// Environment files.
pub(in crate::format) static DOTENV: Lines = Lines {
    about: About {
        name: "dotenv",
        what: "environment files",
        content: "",
        names: &[".env", "=.envrc"],
        read: "values, plain or in quotes, as shells read them",
        limits: "",
    },
    comments: &["#"],
    separators: b"=",
    values: Values::Assignments,
    own: Some(Encoding::Utf8),
    ..INI
};

/// Package and library descriptions and build files.
pub(in crate::format) static BUILD: Lines = Lines {
    about: About {
        name: "build-file",
        what: "package descriptions, library descriptions, makefiles",
        content: "",
        names: &[
            ".pc",
            ".la",
            ".mk",
            ".mak",
            ".make",
            "=makefile",
            "=gnumakefile",
            "=cmakecache.txt",
        ],
        read: "values, word by word",
        limits: "a place that gains a blank is doubtful where the syntax has no way to write it",
    },
    comments: &["#"],
    separators: b"=:",
    values: Values::Words,
    own: Some(Encoding::Utf8),
    ..INI
};

/// Playlists with a place on each line.
pub(in crate::format) static PLAYLIST: Lines = Lines {
    about: About {
        name: "playlist",
        what: "playlists with a place on each line",
        content: "#EXTM3U",
        names: &[".m3u", ".m3u8"],
        read: "lines, comments",
        limits: "relative lines are not checked",
    },
    signs: &["#EXTM3U"],
    comments: &["#"],
    separators: b"",
    values: Values::Lines,
    own: None,
};

/// Cue sheets.
pub(in crate::format) static CUE: Lines = Lines {
    about: About {
        name: "cue-sheet",
        what: "cue sheets",
        content: "",
        names: &[".cue"],
        read: "quoted strings and words",
        limits: "",
    },
    comments: &["REM"],
    separators: b"",
    values: Values::Cue,
    ..INI
};
