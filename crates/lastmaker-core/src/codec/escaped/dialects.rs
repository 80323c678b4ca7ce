//! The dialects of escapes, a table each.

use super::{Escapes, Hex, Letters, Unknown};

const BASE: Escapes = Escapes {
    name: "",
    mark: b'\\',
    simple: &[],
    hex: Hex::None,
    unicode4: false,
    unicode8: false,
    braces: false,
    digits: 0,
    unknown: Unknown::Malformed,
    escaped: "\"",
    joins_lines: false,
    letters: Letters::Raw,
};

/// JSON (RFC 8259, section 7).
pub static JSON: Escapes = Escapes {
    name: "JSON string",
    simple: &[
        (b'"', '"'),
        (b'\\', '\\'),
        (b'/', '/'),
        (b'b', '\u{8}'),
        (b'f', '\u{c}'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
    ],
    unicode4: true,
    letters: Letters::Utf16,
    ..BASE
};

/// Registry exports: `\\` and `\"`, and the few others that some registry editors write.
pub static REGISTRY: Escapes = Escapes {
    name: "registry string",
    simple: &[
        (b'\\', '\\'),
        (b'"', '"'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'0', '\0'),
    ],
    ..BASE
};

/// JavaScript (ECMA-262, string literals), in either quote and in templates.
pub static JAVASCRIPT: Escapes = Escapes {
    name: "JavaScript string",
    simple: &[
        (b'"', '"'),
        (b'\'', '\''),
        (b'`', '`'),
        (b'$', '$'),
        (b'\\', '\\'),
        (b'/', '/'),
        (b'b', '\u{8}'),
        (b'f', '\u{c}'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'v', '\u{b}'),
        (b'0', '\0'),
    ],
    hex: Hex::Letter,
    unicode4: true,
    braces: true,
    unknown: Unknown::Drops,
    joins_lines: true,
    letters: Letters::Utf16,
    ..BASE
};

/// The same in single quotes.
pub static JAVASCRIPT_SINGLE: Escapes = Escapes {
    escaped: "'",
    ..JAVASCRIPT
};

/// The same in a template.
pub static JAVASCRIPT_TEMPLATE: Escapes = Escapes {
    escaped: "`$",
    ..JAVASCRIPT
};

const C_SIMPLE: &[(u8, char)] = &[
    (b'"', '"'),
    (b'\'', '\''),
    (b'?', '?'),
    (b'\\', '\\'),
    (b'a', '\u{7}'),
    (b'b', '\u{8}'),
    (b'f', '\u{c}'),
    (b'n', '\n'),
    (b'r', '\r'),
    (b't', '\t'),
    (b'v', '\u{b}'),
];

/// C and its relatives (ISO C, 6.4.4.4).
pub static C: Escapes = Escapes {
    name: "C string",
    simple: C_SIMPLE,
    hex: Hex::Byte,
    unicode4: true,
    unicode8: true,
    digits: 8,
    joins_lines: true,
    letters: Letters::Scalar,
    ..BASE
};

/// Python's string literals.
pub static PYTHON: Escapes = Escapes {
    name: "Python string",
    simple: C_SIMPLE,
    unknown: Unknown::Keeps,
    hex: Hex::Letter,
    unicode4: true,
    unicode8: true,
    digits: 8,
    joins_lines: true,
    letters: Letters::ShortScalar,
    ..BASE
};

/// The same in single quotes.
pub static PYTHON_SINGLE: Escapes = Escapes {
    escaped: "'",
    ..PYTHON
};

/// Lua's string literals (Lua 5.4 manual, 3.1).
pub static LUA: Escapes = Escapes {
    name: "Lua string",
    simple: C_SIMPLE,
    hex: Hex::Byte,
    braces: true,
    digits: 10,
    joins_lines: true,
    ..BASE
};

/// The same in single quotes.
pub static LUA_SINGLE: Escapes = Escapes {
    escaped: "'",
    ..LUA
};

/// TOML's basic strings (TOML 1.0).
pub static TOML_BASIC: Escapes = Escapes {
    name: "TOML string",
    simple: &[
        (b'"', '"'),
        (b'\\', '\\'),
        (b'b', '\u{8}'),
        (b'f', '\u{c}'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'e', '\u{1b}'),
    ],
    hex: Hex::Letter,
    unicode4: true,
    unicode8: true,
    joins_lines: true,
    letters: Letters::Scalar,
    ..BASE
};

/// YAML's double-quoted scalars (YAML 1.2.2, 5.7).
pub static YAML_DOUBLE: Escapes = Escapes {
    name: "YAML double-quoted scalar",
    simple: &[
        (b'"', '"'),
        (b'\\', '\\'),
        (b'/', '/'),
        (b'0', '\0'),
        (b'a', '\u{7}'),
        (b'b', '\u{8}'),
        (b't', '\t'),
        (b'\t', '\t'),
        (b'n', '\n'),
        (b'v', '\u{b}'),
        (b'f', '\u{c}'),
        (b'r', '\r'),
        (b'e', '\u{1b}'),
        (b' ', ' '),
        (b'N', '\u{85}'),
        (b'_', '\u{a0}'),
        (b'L', '\u{2028}'),
        (b'P', '\u{2029}'),
    ],
    hex: Hex::Letter,
    unicode4: true,
    unicode8: true,
    joins_lines: true,
    letters: Letters::ShortScalar,
    ..BASE
};

/// Values of Java property files (`java.util.Properties`).
pub static PROPERTIES: Escapes = Escapes {
    name: "property value",
    simple: &[
        (b'\\', '\\'),
        (b':', ':'),
        (b'=', '='),
        (b' ', ' '),
        (b'#', '#'),
        (b'!', '!'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'f', '\u{c}'),
    ],
    unicode4: true,
    unknown: Unknown::Drops,
    escaped: "",
    joins_lines: true,
    letters: Letters::Utf16,
    ..BASE
};

/// Keys of Java property files, which a blank or a sign would end.
pub static PROPERTIES_KEY: Escapes = Escapes {
    name: "property key",
    escaped: " \t:=#!",
    ..PROPERTIES
};

/// Values of the settings dialect that escapes every letter outside ASCII as `\x…`.
pub static HEX_SETTINGS: Escapes = Escapes {
    name: "escaped setting",
    simple: &[
        (b'\\', '\\'),
        (b'"', '"'),
        (b'a', '\u{7}'),
        (b'b', '\u{8}'),
        (b'f', '\u{c}'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'v', '\u{b}'),
        (b'0', '\0'),
    ],
    hex: Hex::Greedy,
    letters: Letters::Greedy,
    ..BASE
};

/// POSIX shell, double quotes (POSIX.1-2017, 2.2.3).
pub static SHELL_DOUBLE: Escapes = Escapes {
    name: "shell double quotes",
    simple: &[(b'"', '"'), (b'\\', '\\'), (b'$', '$'), (b'`', '`')],
    unknown: Unknown::Keeps,
    escaped: "\"$`",
    joins_lines: true,
    ..BASE
};

/// POSIX shell, a word without quotes (POSIX.1-2017, 2.2.1).
pub static SHELL_WORD: Escapes = Escapes {
    name: "shell word",
    unknown: Unknown::Drops,
    escaped: " \t\"'$`&|;<>()*?[]#!{},",
    joins_lines: true,
    ..BASE
};

/// Shells' `$'…'`.
pub static SHELL_ANSI: Escapes = Escapes {
    name: "shell C-style quotes",
    hex: Hex::Byte,
    escaped: "'",
    unknown: Unknown::Keeps,
    ..C
};

/// PowerShell, double quotes.
pub static POWERSHELL: Escapes = Escapes {
    name: "PowerShell double quotes",
    mark: b'`',
    simple: &[
        (b'`', '`'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'0', '\0'),
        (b'a', '\u{7}'),
        (b'b', '\u{8}'),
        (b'f', '\u{c}'),
        (b'v', '\u{b}'),
        (b'$', '$'),
        (b'"', '"'),
    ],
    unknown: Unknown::Drops,
    escaped: "\"$",
    joins_lines: true,
    ..BASE
};

/// PowerShell, a word without quotes.
pub static POWERSHELL_WORD: Escapes = Escapes {
    name: "PowerShell word",
    escaped: " \t\"'$(){};,|&<>@#",
    ..POWERSHELL
};

/// SQL strings of the databases that read backslash escapes, in single quotes.
pub static SQL: Escapes = Escapes {
    name: "SQL string",
    simple: &[
        (b'\'', '\''),
        (b'"', '"'),
        (b'\\', '\\'),
        (b'0', '\0'),
        (b'b', '\u{8}'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'Z', '\u{1a}'),
    ],
    unknown: Unknown::Drops,
    escaped: "'",
    ..BASE
};

/// Emacs Lisp's strings.
pub static LISP: Escapes = Escapes {
    name: "Lisp string",
    hex: Hex::Greedy,
    braces: false,
    unknown: Unknown::Drops,
    simple: &[
        (b'"', '"'),
        (b'\\', '\\'),
        (b'a', '\u{7}'),
        (b'b', '\u{8}'),
        (b'f', '\u{c}'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'v', '\u{b}'),
        (b'e', '\u{1b}'),
        (b's', ' '),
    ],
    unicode4: true,
    digits: 8,
    joins_lines: true,
    letters: Letters::Raw,
    ..BASE
};

/// Nested quoted keys and values.
pub static KEY_VALUES: Escapes = Escapes {
    name: "quoted value",
    simple: &[(b'"', '"'), (b'\\', '\\'), (b'n', '\n'), (b't', '\t')],
    ..BASE
};

/// PHP, single quotes.
pub static PHP_SINGLE: Escapes = Escapes {
    name: "PHP string",
    simple: &[(b'\'', '\''), (b'\\', '\\')],
    unknown: Unknown::Keeps,
    escaped: "'",
    ..BASE
};

/// PHP, double quotes.
pub static PHP_DOUBLE: Escapes = Escapes {
    name: "PHP string",
    simple: &[
        (b'"', '"'),
        (b'\\', '\\'),
        (b'$', '$'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'v', '\u{b}'),
        (b'e', '\u{1b}'),
        (b'f', '\u{c}'),
    ],
    hex: Hex::Byte,
    braces: true,
    digits: 8,
    unknown: Unknown::Keeps,
    escaped: "\"$",
    ..BASE
};

/// Values of desktop entries (Desktop Entry Specification, value types).
pub static DESKTOP: Escapes = Escapes {
    name: "desktop entry value",
    simple: &[
        (b's', ' '),
        (b'n', '\n'),
        (b't', '\t'),
        (b'r', '\r'),
        (b'\\', '\\'),
        (b';', ';'),
    ],
    escaped: "",
    unknown: Unknown::Keeps,
    ..BASE
};

/// Values of service units (`systemd.syntax`, quoting).
pub static UNIT: Escapes = Escapes {
    name: "unit value",
    simple: &[
        (b'a', '\u{7}'),
        (b'b', '\u{8}'),
        (b'f', '\u{c}'),
        (b'n', '\n'),
        (b'r', '\r'),
        (b't', '\t'),
        (b'v', '\u{b}'),
        (b'\\', '\\'),
        (b'"', '"'),
        (b'\'', '\''),
        (b's', ' '),
    ],
    hex: Hex::Byte,
    unicode4: true,
    unicode8: true,
    digits: 8,
    escaped: "",
    unknown: Unknown::Keeps,
    joins_lines: true,
    ..BASE
};
