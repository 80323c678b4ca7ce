//! The syntaxes that the lexer reads, a table each.

use super::{Between, Delimiters, Inside, Keys, Quote, Syntax};
use crate::about::About;
use crate::codec::{
    C, CSS, CSS_URL, JAVASCRIPT, JAVASCRIPT_SINGLE, JAVASCRIPT_TEMPLATE, KEY_VALUES, KOTLIN,
    KOTLIN_SINGLE, LISP, LUA, LUA_SINGLE, PHP_DOUBLE, PHP_SINGLE, POWERSHELL, POWERSHELL_WORD,
    PYTHON, PYTHON_SINGLE, SQL, TOML_BASIC,
};
use crate::format::Sample;

/// A string on one line.
const fn quote(open: &'static str, close: &'static str, inside: Inside) -> Quote {
    Quote {
        delimiters: Delimiters::OneLine(open, close),
        inside,
    }
}

/// A string that may run over lines.
const fn lines(open: &'static str, close: &'static str, inside: Inside) -> Quote {
    Quote {
        delimiters: Delimiters::Lines(open, close),
        inside,
    }
}

/// A string in long brackets.
const LONG_BRACKETS: Quote = Quote {
    delimiters: Delimiters::LongBrackets,
    inside: Inside::Raw,
};

const BASE: Syntax = Syntax {
    about: About::BLANK,
    samples: &[],
    starts: &[],
    interpreters: &[],
    marks: &[],
    line_comments: &[],
    block_comments: &[],
    quotes: &[],
    between: Between::Code,
    keys: Keys::Assigned(b"=:"),
    names_files: false,
    in_statements: false,
};

/// TOML 1.0.
pub(in crate::format) static TOML: Syntax = Syntax {
    about: About {
        name: "toml",
        what: "TOML",
        content: "",
        names: &[".toml", "=cargo.lock", "=pipfile"],
        read: "keys, basic, literal and multi-line strings, comments",
        limits: "",
    },
    samples: &[
        Sample::new("a.toml", "", "k = \"", "\"\n"),
        Sample::new("a.toml", "", "k = '", "'\n"),
    ],
    line_comments: &["#"],
    quotes: &[
        lines("\"\"\"", "\"\"\"", Inside::Escaped(&TOML_BASIC)),
        lines("'''", "'''", Inside::Raw),
        quote("\"", "\"", Inside::Escaped(&TOML_BASIC)),
        quote("'", "'", Inside::Raw),
    ],
    keys: Keys::InSections(b"="),
    ..BASE
};

/// JavaScript and what is written in its syntax.
pub(in crate::format) static JAVASCRIPT_SOURCE: Syntax = Syntax {
    about: About {
        name: "javascript",
        what: "JavaScript and settings in its syntax",
        content: "",
        names: &[
            ".js", ".mjs", ".cjs", ".jsx", ".ts", ".tsx", ".json5", ".qml",
        ],
        read: "strings of every quote, comments",
        limits: "what code puts together from pieces is not seen",
    },
    interpreters: &["node", "nodejs", "deno", "bun"],
    samples: &[Sample::new("a.js", "", "k = '", "';\n")],
    line_comments: &["//"],
    block_comments: &[("/*", "*/")],
    quotes: &[
        quote("\"", "\"", Inside::Escaped(&JAVASCRIPT)),
        quote("'", "'", Inside::Escaped(&JAVASCRIPT_SINGLE)),
        lines("String.raw`", "`", Inside::RawTemplate),
        lines("`", "`", Inside::Escaped(&JAVASCRIPT_TEMPLATE)),
    ],
    between: Between::CodeWithPatterns,
    ..BASE
};

/// Lua 5.4.
pub(in crate::format) static LUA_SOURCE: Syntax = Syntax {
    about: About {
        name: "lua",
        what: "Lua",
        content: "",
        names: &[".lua"],
        read: "strings, long brackets, comments",
        limits: "what code puts together from pieces is not seen",
    },
    interpreters: &["lua", "luajit", "texlua"],
    samples: &[Sample::new("a.lua", "", "k = [[", "]]\n")],
    line_comments: &["--"],
    block_comments: &[("--[[", "]]"), ("--[=[", "]=]")],
    quotes: &[
        quote("\"", "\"", Inside::Escaped(&LUA)),
        quote("'", "'", Inside::Escaped(&LUA_SINGLE)),
        LONG_BRACKETS,
    ],
    keys: Keys::Assigned(b"="),
    ..BASE
};

/// Python 3.
pub(in crate::format) static PYTHON_SOURCE: Syntax = Syntax {
    about: About {
        name: "python",
        what: "Python",
        content: "a first line such as #!/usr/bin/python",
        names: &[".py", ".pyw", ".pyi", "=sconstruct"],
        read: "strings of every prefix and quote, comments",
        limits: "what code puts together from pieces is not seen",
    },
    samples: &[Sample::new("a.py", "", "k = r\"", "\"\n")],
    interpreters: &["python", "pypy"],
    line_comments: &["#"],
    quotes: &[
        lines("r\"\"\"", "\"\"\"", Inside::RawJoined),
        lines("r'''", "'''", Inside::RawJoined),
        lines("R\"\"\"", "\"\"\"", Inside::RawJoined),
        lines("R'''", "'''", Inside::RawJoined),
        quote("r\"", "\"", Inside::RawJoined),
        quote("r'", "'", Inside::RawJoined),
        quote("R\"", "\"", Inside::RawJoined),
        quote("R'", "'", Inside::RawJoined),
        quote("rb\"", "\"", Inside::RawBytes),
        quote("rb'", "'", Inside::RawBytes),
        quote("br\"", "\"", Inside::RawBytes),
        quote("br'", "'", Inside::RawBytes),
        quote("fr\"", "\"", Inside::RawJoined),
        quote("fr'", "'", Inside::RawJoined),
        quote("rf\"", "\"", Inside::RawJoined),
        quote("rf'", "'", Inside::RawJoined),
        quote("b\"", "\"", Inside::Bytes(&PYTHON)),
        quote("b'", "'", Inside::Bytes(&PYTHON_SINGLE)),
        lines("f\"\"\"", "\"\"\"", Inside::Formatted(&PYTHON)),
        lines("f'''", "'''", Inside::Formatted(&PYTHON_SINGLE)),
        quote("f\"", "\"", Inside::Formatted(&PYTHON)),
        quote("f'", "'", Inside::Formatted(&PYTHON_SINGLE)),
        quote("F\"", "\"", Inside::Formatted(&PYTHON)),
        quote("F'", "'", Inside::Formatted(&PYTHON_SINGLE)),
        lines("\"\"\"", "\"\"\"", Inside::Escaped(&PYTHON)),
        lines("'''", "'''", Inside::Escaped(&PYTHON_SINGLE)),
        quote("\"", "\"", Inside::Escaped(&PYTHON)),
        quote("'", "'", Inside::Escaped(&PYTHON_SINGLE)),
    ],
    ..BASE
};

/// C and its relatives, Java and C# among them.
pub(in crate::format) static C_SOURCE: Syntax = Syntax {
    about: About {
        name: "c-like",
        what: "C and its relatives: C++, Java, C#, Go, resource scripts",
        content: "",
        names: &[
            ".c", ".h", ".cc", ".cpp", ".cxx", ".hpp", ".java", ".cs", ".rc", ".go", ".swift",
        ],
        read: "strings, raw strings, comments",
        limits: "what code puts together from pieces is not seen",
    },
    samples: &[Sample::new("a.c", "", "a = \"", "\";\n")],
    line_comments: &["//"],
    block_comments: &[("/*", "*/")],
    quotes: &[
        lines("R\"(", ")\"", Inside::Raw),
        lines("@\"", "\"", Inside::Doubled('"')),
        quote("$\"", "\"", Inside::Formatted(&C)),
        lines("`", "`", Inside::Raw),
        quote("\"", "\"", Inside::Escaped(&C)),
        quote("'", "'", Inside::Escaped(&C)),
    ],
    ..BASE
};

/// Kotlin, and Groovy, in which builds are described.
pub(in crate::format) static KOTLIN_SOURCE: Syntax = Syntax {
    about: About {
        name: "kotlin-like",
        what: "Kotlin and Groovy, build descriptions among them",
        content: "",
        names: &[".kt", ".kts", ".groovy", ".gradle"],
        read: "strings, raw strings, comments, with $ as \\$",
        limits: "what code puts together from pieces is not seen",
    },
    samples: &[Sample::new("a.kt", "", "val a = \"", "\"\n")],
    line_comments: &["//"],
    block_comments: &[("/*", "*/")],
    quotes: &[
        lines("\"\"\"", "\"\"\"", Inside::RawTemplate),
        quote("\"", "\"", Inside::Escaped(&KOTLIN)),
        quote("'", "'", Inside::Escaped(&KOTLIN_SINGLE)),
    ],
    ..BASE
};

/// PHP.
pub(in crate::format) static PHP_SOURCE: Syntax = Syntax {
    about: About {
        name: "php",
        what: "PHP",
        content: "<?php at its start",
        names: &[".php"],
        read: "strings, comments",
        limits: "what code puts together from pieces is not seen",
    },
    interpreters: &["php"],
    samples: &[Sample::new("a.php", "<?php\n", "$a = '", "';\n")],
    starts: &["<?php"],
    line_comments: &["//", "#"],
    block_comments: &[("/*", "*/")],
    quotes: &[
        lines("\"", "\"", Inside::Escaped(&PHP_DOUBLE)),
        lines("'", "'", Inside::Escaped(&PHP_SINGLE)),
    ],
    keys: Keys::Assigned(b"=>"),
    ..BASE
};

/// Dumps of databases that escape nothing but the quote, as the standard has it.
pub(in crate::format) static SQL_SOURCE: Syntax = Syntax {
    about: About {
        name: "sql",
        what: "SQL dumps that escape nothing but the quote",
        content: "PRAGMA foreign_keys=OFF; at its start",
        names: &[".sql", ".ddl"],
        read: "strings, quoted names, comments",
        limits: "text within hex digits is not seen",
    },
    samples: &[Sample::new("a.sql", "", "INSERT INTO a VALUES('", "');\n")],
    starts: &["PRAGMA foreign_keys=OFF;"],
    line_comments: &["--"],
    block_comments: &[("/*", "*/")],
    quotes: &[
        lines("'", "'", Inside::Doubled('\'')),
        lines("\"", "\"", Inside::Doubled('"')),
    ],
    keys: Keys::Assigned(b"="),
    in_statements: true,
    ..BASE
};

/// Dumps of databases that read backslash escapes.
pub(in crate::format) static SQL_ESCAPED_SOURCE: Syntax = Syntax {
    about: About {
        name: "sql-with-escapes",
        what: "SQL dumps that escape with backslashes",
        content: "ENGINE= or other signs of such a dump",
        names: SQL_SOURCE.about.names,
        read: "strings, quoted names, comments, with the escapes of the dump",
        limits: "text within hex digits is not seen",
    },
    samples: &[Sample::new(
        "a.sql",
        "CREATE TABLE a (b TEXT) ENGINE=x;\n",
        "INSERT INTO a VALUES ('",
        "');\n",
    )],
    quotes: &[
        lines("'", "'", Inside::Escaped(&SQL)),
        lines("\"", "\"", Inside::Escaped(&SQL)),
        lines("`", "`", Inside::Raw),
    ],
    marks: &[
        "ENGINE=",
        "\\'",
        ") VALUES (_binary",
        "/*!40",
        // Serialised data, of which the standard would leave the quotes as they are.
        "s:1:\\\"",
        "s:2:\\\"",
        "s:3:\\\"",
        "s:4:\\\"",
        "s:5:\\\"",
        "s:6:\\\"",
        "s:7:\\\"",
        "s:8:\\\"",
        "s:9:\\\"",
    ],
    line_comments: &["-- ", "#"],
    ..SQL_SOURCE
};

/// PowerShell.
pub(in crate::format) static POWERSHELL_SOURCE: Syntax = Syntax {
    about: About {
        name: "powershell",
        what: "PowerShell",
        content: "",
        names: &[".ps1", ".psm1", ".psd1"],
        read: "words, strings, here-strings, comments",
        limits: "a signed script is sealed; what a script puts together from pieces is not seen",
    },
    interpreters: &["pwsh", "powershell"],
    samples: &[
        Sample::new("a.ps1", "", "$k = \"", "\"\n"),
        Sample::new("a.ps1", "", "Get-Item ", "\n"),
    ],
    line_comments: &["#"],
    block_comments: &[("<#", "#>")],
    quotes: &[
        lines("@\"\r\n", "\r\n\"@", Inside::Escaped(&POWERSHELL)),
        lines("@\"\n", "\n\"@", Inside::Escaped(&POWERSHELL)),
        lines("@'\r\n", "\r\n'@", Inside::Raw),
        lines("@'\n", "\n'@", Inside::Raw),
        lines("\"", "\"", Inside::Escaped(&POWERSHELL)),
        lines("'", "'", Inside::Doubled('\'')),
    ],
    keys: Keys::Assigned(b"="),
    between: Between::Words(&POWERSHELL_WORD),
    ..BASE
};

/// Lisp data and settings.
pub(in crate::format) static LISP_SOURCE: Syntax = Syntax {
    about: About {
        name: "lisp",
        what: "Lisp data and settings",
        content: "",
        names: &[".el", ".eld", ".lisp", ".scm", "=.emacs"],
        read: "strings, comments",
        limits: "",
    },
    samples: &[Sample::new("a.el", "", "(setq k \"", "\")\n")],
    line_comments: &[";"],
    quotes: &[lines("\"", "\"", Inside::Escaped(&LISP))],
    keys: Keys::Assigned(b""),
    ..BASE
};

/// Style sheets (CSS Syntax Level 3).
pub(in crate::format) static STYLE_SHEET: Syntax = Syntax {
    about: About {
        name: "style-sheet",
        what: "style sheets of web pages",
        content: "",
        names: &[".css"],
        read: "URLs, bare and in quotes, strings and comments",
        limits: "letters written by their number (\\44) are not read",
    },
    samples: &[
        Sample::new("a.css", "", "a{b:url(", ")}\n"),
        Sample::new("a.css", "", "a{b:\"", "\"}\n"),
    ],
    block_comments: &[("/*", "*/")],
    quotes: &[
        Quote {
            delimiters: Delimiters::Bare("url(", ")"),
            inside: Inside::Escaped(&CSS_URL),
        },
        quote("\"", "\"", Inside::Escaped(&CSS)),
        quote("'", "'", Inside::Escaped(&CSS)),
    ],
    keys: Keys::Assigned(b":"),
    names_files: true,
    ..BASE
};

/// Nested quoted keys and values, in which launchers keep their options.
pub(in crate::format) static KEY_VALUES_SYNTAX: Syntax = Syntax {
    about: About {
        name: "quoted-key-values",
        what: "nested quoted keys and values, in which launchers keep their options",
        content: "a quoted key, and a brace or a quoted value behind it",
        names: &[],
        read: "keys and values, with \\\\ and \\\" as escapes; command lines in them keep their quotes",
        limits: "",
    },
    samples: &[Sample::new("options", "\"a\"\n{\n", "\"k\" \"", "\"\n")],
    line_comments: &["//"],
    quotes: &[lines("\"", "\"", Inside::Escaped(&KEY_VALUES))],
    keys: Keys::Pairs,
    between: Between::Text,
    ..BASE
};
