//! The dialects of escapes, a table each.

use super::{Escapes, Hex, Letters, Unknown};
use crate::layer::VariableForm;

/// What a person calls a here-document of a shell.
pub const HERE_DOCUMENT: &str = "here-document";

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
    octal: false,
    variables: None,
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

/// Defines dialects, and the table of all of them.
macro_rules! dialects {
    ($($(#[$doc:meta])* $name:ident = $dialect:expr;)*) => {
        $($(#[$doc])* pub static $name: Escapes = $dialect;)*

        /// Every dialect.
        pub static DIALECTS: &[&Escapes] = &[$(&$name),*];
    };
}

dialects! {
    /// JSON (RFC 8259, section 7).
    JSON = Escapes {
        name: "JSON string",
        simple: &[
            (b'"', '"'), (b'\\', '\\'), (b'/', '/'), (b'b', '\u{8}'), (b'f', '\u{c}'),
            (b'n', '\n'), (b'r', '\r'), (b't', '\t'),
        ],
        unicode4: true,
        letters: Letters::Utf16,
        ..BASE
    };

    /// Registry exports: `\\` and `\"`, and the few others that some registry editors write.
    REGISTRY = Escapes {
        name: "registry string",
        simple: &[
            (b'\\', '\\'), (b'"', '"'), (b'n', '\n'), (b'r', '\r'), (b't', '\t'), (b'0', '\0'),
        ],
        ..BASE
    };

    /// Hives as text: control letters by name or in base 8, others outside ASCII as `\x…` of up to
    /// four digits.
    HIVE = Escapes {
        name: "registry string",
        simple: &[
            (b'\\', '\\'), (b'"', '"'), (b'[', '['), (b']', ']'), (b'a', '\u{7}'),
            (b'b', '\u{8}'), (b'e', '\u{1b}'), (b'f', '\u{c}'), (b'n', '\n'), (b'r', '\r'),
            (b't', '\t'), (b'v', '\u{b}'), (b'0', '\0'),
        ],
        hex: Hex::Unit,
        digits: 8,
        letters: Letters::Greedy,
        ..BASE
    };

    /// JavaScript (ECMA-262, string literals), in either quote and in templates.
    JAVASCRIPT = Escapes {
        name: "JavaScript string",
        simple: &[
            (b'"', '"'), (b'\'', '\''), (b'`', '`'), (b'$', '$'), (b'\\', '\\'), (b'/', '/'),
            (b'b', '\u{8}'), (b'f', '\u{c}'), (b'n', '\n'), (b'r', '\r'), (b't', '\t'),
            (b'v', '\u{b}'), (b'0', '\0'),
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
    JAVASCRIPT_SINGLE = Escapes {
        escaped: "'",
        ..JAVASCRIPT
    };

    /// The same in a template.
    JAVASCRIPT_TEMPLATE = Escapes {
        escaped: "`$",
        ..JAVASCRIPT
    };

    /// C and its relatives (ISO C, 6.4.4.4).
    C = Escapes {
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

    /// Kotlin's and Groovy's strings in double quotes, in which `$` begins what is put in.
    KOTLIN = Escapes {
        name: "Kotlin string",
        simple: &[
            (b'"', '"'), (b'\'', '\''), (b'\\', '\\'), (b'$', '$'), (b'b', '\u{8}'),
            (b'f', '\u{c}'), (b'n', '\n'), (b'r', '\r'), (b't', '\t'),
        ],
        unicode4: true,
        escaped: "\"$",
        letters: Letters::Utf16,
        ..BASE
    };

    /// The same in single quotes.
    KOTLIN_SINGLE = Escapes {
        escaped: "'",
        ..KOTLIN
    };

    /// Python's string literals.
    PYTHON = Escapes {
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
    PYTHON_SINGLE = Escapes {
        escaped: "'",
        ..PYTHON
    };

    /// Lua's string literals (Lua 5.4 manual, 3.1).
    LUA = Escapes {
        name: "Lua string",
        simple: C_SIMPLE,
        hex: Hex::Byte,
        braces: true,
        digits: 10,
        joins_lines: true,
        ..BASE
    };

    /// The same in single quotes.
    LUA_SINGLE = Escapes {
        escaped: "'",
        ..LUA
    };

    /// TOML's basic strings (TOML 1.0).
    TOML_BASIC = Escapes {
        name: "TOML string",
        simple: &[
            (b'"', '"'), (b'\\', '\\'), (b'b', '\u{8}'), (b'f', '\u{c}'), (b'n', '\n'),
            (b'r', '\r'), (b't', '\t'), (b'e', '\u{1b}'),
        ],
        hex: Hex::Letter,
        unicode4: true,
        unicode8: true,
        joins_lines: true,
        letters: Letters::Scalar,
        ..BASE
    };

    /// YAML's double-quoted scalars (YAML 1.2.2, 5.7).
    YAML_DOUBLE = Escapes {
        name: "YAML double-quoted scalar",
        simple: &[
            (b'"', '"'), (b'\\', '\\'), (b'/', '/'), (b'0', '\0'), (b'a', '\u{7}'),
            (b'b', '\u{8}'), (b't', '\t'), (b'\t', '\t'), (b'n', '\n'), (b'v', '\u{b}'),
            (b'f', '\u{c}'), (b'r', '\r'), (b'e', '\u{1b}'), (b' ', ' '), (b'N', '\u{85}'),
            (b'_', '\u{a0}'), (b'L', '\u{2028}'), (b'P', '\u{2029}'),
        ],
        hex: Hex::Letter,
        unicode4: true,
        unicode8: true,
        joins_lines: true,
        letters: Letters::ShortScalar,
        ..BASE
    };

    /// Values of Java property files (`java.util.Properties`).
    PROPERTIES = Escapes {
        name: "property value",
        simple: &[
            (b'\\', '\\'), (b':', ':'), (b'=', '='), (b' ', ' '), (b'#', '#'), (b'!', '!'),
            (b'n', '\n'), (b'r', '\r'), (b't', '\t'), (b'f', '\u{c}'),
        ],
        unicode4: true,
        unknown: Unknown::Drops,
        escaped: "",
        joins_lines: true,
        letters: Letters::Utf16,
        ..BASE
    };

    /// Keys of Java property files, which a blank or a sign would end.
    PROPERTIES_KEY = Escapes {
        name: "property key",
        escaped: " \t:=#!",
        ..PROPERTIES
    };

    /// Values of the settings dialect that escapes every letter outside ASCII as `\x…`.
    HEX_SETTINGS = Escapes {
        name: "escaped setting",
        simple: &[
            (b'\\', '\\'), (b'"', '"'), (b'a', '\u{7}'), (b'b', '\u{8}'), (b'f', '\u{c}'),
            (b'n', '\n'), (b'r', '\r'), (b't', '\t'), (b'v', '\u{b}'), (b'0', '\0'),
        ],
        hex: Hex::Greedy,
        letters: Letters::Greedy,
        ..BASE
    };

    /// POSIX shell, double quotes (POSIX.1-2017, 2.2.3).
    SHELL_DOUBLE = Escapes {
        name: "shell double quotes",
        simple: &[(b'"', '"'), (b'\\', '\\'), (b'$', '$'), (b'`', '`')],
        unknown: Unknown::Keeps,
        escaped: "\"$`",
        joins_lines: true,
        ..BASE
    };

    /// POSIX shell, a here-document whose end is not quoted (POSIX.1-2017, 2.7.4).
    SHELL_DOCUMENT = Escapes {
        name: HERE_DOCUMENT,
        simple: &[(b'\\', '\\'), (b'$', '$'), (b'`', '`')],
        escaped: "$`",
        variables: Some(VariableForm::DOLLAR),
        ..SHELL_DOUBLE
    };

    /// POSIX shell, a word without quotes (POSIX.1-2017, 2.2.1).
    SHELL_WORD = Escapes {
        name: "shell word",
        unknown: Unknown::Drops,
        escaped: " \t\"'$`&|;<>()*?[]#!{},",
        joins_lines: true,
        ..BASE
    };

    /// Shells' `$'…'`.
    SHELL_ANSI = Escapes {
        name: "shell C-style quotes",
        hex: Hex::Byte,
        escaped: "'",
        unknown: Unknown::Keeps,
        ..C
    };

    /// PowerShell, double quotes.
    POWERSHELL = Escapes {
        name: "PowerShell double quotes",
        mark: b'`',
        simple: &[
            (b'`', '`'), (b'n', '\n'), (b'r', '\r'), (b't', '\t'), (b'0', '\0'), (b'a', '\u{7}'),
            (b'b', '\u{8}'), (b'f', '\u{c}'), (b'v', '\u{b}'), (b'$', '$'), (b'"', '"'),
        ],
        unknown: Unknown::Drops,
        escaped: "\"$",
        joins_lines: true,
        variables: Some(VariableForm::ENV),
        ..BASE
    };

    /// PowerShell, a word without quotes.
    POWERSHELL_WORD = Escapes {
        name: "PowerShell word",
        escaped: " \t\"'$(){};,|&<>@#",
        variables: None,
        ..POWERSHELL
    };

    /// SQL strings of the databases that read backslash escapes, in single quotes.
    SQL = Escapes {
        name: "SQL string",
        simple: &[
            (b'\'', '\''), (b'"', '"'), (b'\\', '\\'), (b'0', '\0'), (b'b', '\u{8}'),
            (b'n', '\n'), (b'r', '\r'), (b't', '\t'), (b'Z', '\u{1a}'),
        ],
        unknown: Unknown::Drops,
        escaped: "'",
        ..BASE
    };

    /// Strings of style sheets (CSS Syntax Level 3, 4.3.5): any letter behind the mark is itself.
    CSS = Escapes {
        name: "style sheet string",
        unknown: Unknown::Drops,
        escaped: "\"'",
        joins_lines: true,
        ..BASE
    };

    /// What is in `url()` without quotes, which a blank or a bracket would end (4.3.6).
    CSS_URL = Escapes {
        name: "bare URL",
        escaped: " \"'()",
        ..CSS
    };

    /// A word of an editor's command: a backslash keeps away what a sign would mean there.
    EDITOR_WORD = Escapes {
        name: "editor word",
        simple: &[
            (b'\\', '\\'), (b' ', ' '), (b'"', '"'), (b'|', '|'), (b'%', '%'), (b'#', '#'),
            (b'$', '$'), (b'`', '`'), (b'*', '*'), (b'?', '?'), (b'[', '['), (b'{', '{'),
            (b'<', '<'), (b'\'', '\''), (b'!', '!'), (b'~', '~'),
        ],
        unknown: Unknown::Keeps,
        escaped: " \"|%#$`*?[{<'!~",
        ..BASE
    };

    /// Emacs Lisp's strings.
    LISP = Escapes {
        name: "Lisp string",
        hex: Hex::Greedy,
        braces: false,
        unknown: Unknown::Drops,
        simple: &[
            (b'"', '"'), (b'\\', '\\'), (b'a', '\u{7}'), (b'b', '\u{8}'), (b'f', '\u{c}'),
            (b'n', '\n'), (b'r', '\r'), (b't', '\t'), (b'v', '\u{b}'), (b'e', '\u{1b}'),
            (b's', ' '),
        ],
        unicode4: true,
        digits: 8,
        joins_lines: true,
        letters: Letters::Raw,
        ..BASE
    };

    /// Nested quoted keys and values.
    KEY_VALUES = Escapes {
        name: "quoted value",
        simple: &[(b'"', '"'), (b'\\', '\\'), (b'n', '\n'), (b't', '\t')],
        ..BASE
    };

    /// PHP, single quotes.
    PHP_SINGLE = Escapes {
        name: "PHP string",
        simple: &[(b'\'', '\''), (b'\\', '\\')],
        unknown: Unknown::Keeps,
        escaped: "'",
        ..BASE
    };

    /// PHP, double quotes.
    PHP_DOUBLE = Escapes {
        name: "PHP string",
        simple: &[
            (b'"', '"'), (b'\\', '\\'), (b'$', '$'), (b'n', '\n'), (b'r', '\r'), (b't', '\t'),
            (b'v', '\u{b}'), (b'e', '\u{1b}'), (b'f', '\u{c}'),
        ],
        hex: Hex::Byte,
        braces: true,
        digits: 8,
        unknown: Unknown::Keeps,
        escaped: "\"$",
        ..BASE
    };

    /// Values of desktop entries (Desktop Entry Specification, value types).
    DESKTOP = Escapes {
        name: "desktop entry value",
        simple: &[
            (b's', ' '), (b'n', '\n'), (b't', '\t'), (b'r', '\r'), (b'\\', '\\'), (b';', ';'),
        ],
        escaped: "",
        unknown: Unknown::Keeps,
        ..BASE
    };

    /// Values of service units (`systemd.syntax`, quoting).
    UNIT = Escapes {
        name: "unit value",
        simple: &[
            (b'a', '\u{7}'), (b'b', '\u{8}'), (b'f', '\u{c}'), (b'n', '\n'), (b'r', '\r'),
            (b't', '\t'), (b'v', '\u{b}'), (b'\\', '\\'), (b'"', '"'), (b'\'', '\''), (b's', ' '),
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
}
