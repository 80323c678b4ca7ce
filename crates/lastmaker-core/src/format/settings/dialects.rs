//! The dialects of settings lines, a table each.

use super::{BareValue, Commands, Lines, Look, Quotes, Shape};
use crate::about::About;
use crate::codec::{
    BUILD_WORD, DESKTOP, ENVIRONMENT, GIT_VALUE, HEX_SETTINGS, PROPERTIES, PROPERTIES_KEY, SETTING,
    Style, UNIT,
};
use crate::format::Sample;
use crate::text::Encoding;

/// Letters beyond ASCII are escaped.
const LETTERS: Style = Style {
    letters: true,
    ..Style::PLAIN
};

const BASE: Lines = Lines {
    about: About::BLANK,
    samples: &[],
    look: Look::Signs(&[]),
    comments: &[],
    separators: b"=",
    shape: Shape::Entry,
    sections: true,
    continues: false,
    joined_separators: false,
    recipes: false,
    key_escapes: None,
    bare: BareValue::Plain(&SETTING),
    quotes: Quotes::Letters,
    commands: Commands::ByKey,
    own: Some(Encoding::Utf8),
};

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
    samples: &[
        Sample::new("a.ini", "[a]\r\n", "k=", "\r\n"),
        Sample::new("a.ini", "[a]\n", "k: \"", "\"\n"),
    ],
    look: Look::Sections,
    comments: &[";", "#"],
    separators: b"=:",
    joined_separators: true,
    quotes: Quotes::Whole,
    own: None,
    ..BASE
};

/// Settings of git, in which `\\` and quotes are read.
pub(in crate::format) static GIT_SETTINGS: Lines = Lines {
    about: About {
        name: "git-settings",
        what: "settings of git: .gitconfig, .gitmodules, config",
        content: "[core] or [remote \"…\"] near its start",
        names: &[".gitconfig", "=.gitmodules", "=gitconfig"],
        read: "keys and values, with \\\\ and \\\" as escapes; quotes",
        limits: "",
    },
    samples: &[
        Sample::new(".gitconfig", "[a]\n", "\tk = ", "\n"),
        Sample::new(".gitconfig", "[a]\n", "\tk = \"", "\"\n"),
    ],
    look: Look::Signs(&["[core]", "[remote \"origin\"]"]),
    comments: &[";", "#"],
    continues: true,
    bare: BareValue::Word(&GIT_VALUE),
    ..BASE
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
    samples: &[Sample::new("a.conf", "[%General]\n", "k=", "\n")],
    look: Look::EscapesIn(&INI),
    comments: &[";"],
    bare: BareValue::List(&HEX_SETTINGS, LETTERS),
    ..BASE
};

/// Java property files.
pub(in crate::format) static JAVA_PROPERTIES: Lines = Lines {
    about: About {
        name: "properties",
        what: "Java property files",
        content: "eclipse.preferences.version=1",
        names: &[".properties"],
        read: "keys and values, with \\\\, \\: and \\u00e9 as the document has them; continued lines",
        limits: "",
    },
    samples: &[
        Sample::new("a.properties", "", "k=", "\n"),
        Sample::new("a.prefs", "eclipse.preferences.version=1\n", "k=", "\n"),
    ],
    look: Look::Signs(&["eclipse.preferences.version=1"]),
    comments: &["#", "!"],
    separators: b"=:",
    sections: false,
    continues: true,
    key_escapes: Some(&PROPERTIES_KEY),
    bare: BareValue::Escaped(
        &PROPERTIES,
        Style {
            upper_hex: true,
            ..LETTERS
        },
    ),
    own: Some(Encoding::WINDOWS_1252),
    ..BASE
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
    samples: &[Sample::new("a.desktop", "[Desktop Entry]\n", "Exec=", "\n")],
    look: Look::Signs(&["[Desktop Entry]"]),
    comments: &["#"],
    bare: BareValue::Escaped(&DESKTOP, Style::PLAIN),
    commands: Commands::Exec,
    ..BASE
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
    samples: &[
        Sample::new("a.service", "[Service]\n", "ExecStart=", "\n"),
        Sample::new("a.service", "[Service]\n", "Environment=A=", "\n"),
    ],
    look: Look::Signs(&["[Unit]", "[Service]"]),
    comments: &["#", ";"],
    continues: true,
    bare: BareValue::Escaped(&UNIT, Style::PLAIN),
    commands: Commands::Units,
    ..BASE
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
    samples: &[
        Sample::new("a.env", "", "K='", "'\n"),
        Sample::new("a.env", "", "K=\"", "\"\n"),
        Sample::new("a.env", "", "K=", "\n"),
    ],
    comments: &["#"],
    bare: BareValue::Plain(&ENVIRONMENT),
    quotes: Quotes::Shell,
    ..BASE
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
    samples: &[
        Sample::new("a.pc", "", "k=", "\n"),
        Sample::new("makefile", "all:\n", "\tcp ", "\n"),
    ],
    comments: &["#"],
    separators: b"=:",
    continues: true,
    joined_separators: true,
    recipes: true,
    bare: BareValue::Plain(&BUILD_WORD),
    ..BASE
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
    samples: &[Sample::new("a.m3u", "", "", "\n")],
    look: Look::Signs(&["#EXTM3U"]),
    comments: &["#"],
    shape: Shape::Place,
    own: None,
    ..BASE
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
    samples: &[Sample::new("a.cue", "", "FILE \"", "\" WAVE\n")],
    comments: &["REM"],
    shape: Shape::Words,
    own: None,
    ..BASE
};
