//! The syntaxes of words, a table each.

use super::WordSyntax;
use crate::codec::{Escapes, SHELL_DOUBLE, UNIT, Unknown};

/// Defines word syntaxes, and the table of all of them.
macro_rules! words {
    ($($(#[$doc:meta])* $name:ident = $syntax:expr;)*) => {
        $($(#[$doc])* pub static $name: WordSyntax = $syntax;)*

        /// Every word syntax.
        pub static WORD_SYNTAXES: &[&WordSyntax] = &[$(&$name),*];
    };
}

/// Backslashes are letters like others: what would begin an escape is in no text.
static NO_ESCAPES: Escapes = Escapes {
    name: "word",
    mark: 0,
    simple: &[],
    ..WEB_SERVER
};

/// nginx: `\` keeps a few letters, and stands for itself before others.
static WEB_SERVER: Escapes = Escapes {
    name: "word",
    simple: &[
        (b'"', '"'),
        (b'\'', '\''),
        (b'\\', '\\'),
        (b't', '\t'),
        (b'r', '\r'),
        (b'n', '\n'),
    ],
    unknown: Unknown::Keeps,
    escaped: "",
    joins_lines: false,
    ..SHELL_DOUBLE
};

static WEB_SERVER_DOUBLE: Escapes = Escapes {
    escaped: "\"",
    ..WEB_SERVER
};
static WEB_SERVER_SINGLE: Escapes = Escapes {
    escaped: "'",
    ..WEB_SERVER
};

static HTTPD_QUOTED: Escapes = Escapes {
    simple: &[(b'"', '"'), (b'\\', '\\')],
    escaped: "\"",
    ..WEB_SERVER
};
static HTTPD_SINGLE: Escapes = Escapes {
    simple: &[(b'\'', '\''), (b'\\', '\\')],
    escaped: "'",
    ..WEB_SERVER
};

/// Columns of mount tables: letters by their number in base 8.
static TABLE_WORD: Escapes = Escapes {
    simple: &[],
    digits: 8,
    octal: true,
    escaped: " \t#\"",
    ..WEB_SERVER
};

/// Whatever follows a backslash stands for itself.
static SUDO_WORD: Escapes = Escapes {
    simple: &[],
    unknown: Unknown::Drops,
    escaped: "=:, \"#@",
    ..WEB_SERVER
};

static IMAGE_WORD: Escapes = Escapes {
    escaped: " \t\"'$",
    ..SUDO_WORD
};
static IMAGE_DOUBLE: Escapes = Escapes {
    simple: &[(b'"', '"'), (b'\\', '\\'), (b'$', '$')],
    escaped: "\"$",
    ..WEB_SERVER
};

static CMAKE_WORD: Escapes = Escapes {
    escaped: " \t()#\"$",
    ..SUDO_WORD
};
static CMAKE_QUOTED: Escapes = Escapes {
    simple: &[
        (b'"', '"'),
        (b'\\', '\\'),
        (b'$', '$'),
        (b'@', '@'),
        (b't', '\t'),
        (b'r', '\r'),
        (b'n', '\n'),
    ],
    escaped: "\"$",
    joins_lines: true,
    ..WEB_SERVER
};

static UNIT_DOUBLE: Escapes = Escapes {
    escaped: "\"",
    ..UNIT
};
static UNIT_SINGLE: Escapes = Escapes {
    escaped: "'",
    ..UNIT
};

static LAUNCHER_QUOTED: Escapes = Escapes {
    simple: &[(b'"', '"'), (b'\\', '\\'), (b'$', '$'), (b'`', '`')],
    escaped: "\"$`",
    ..WEB_SERVER
};

static GIT_BARE: Escapes = Escapes {
    simple: &[
        (b'"', '"'),
        (b'\\', '\\'),
        (b't', '\t'),
        (b'b', '\u{8}'),
        (b'n', '\n'),
    ],
    unknown: Unknown::Malformed,
    escaped: "\"",
    joins_lines: true,
    ..WEB_SERVER
};

words! {
    /// Values of git's settings (git-config(1)): quotes may be around the whole or a part.
    GIT_VALUE = WordSyntax {
        name: "value",
        bare: &GIT_BARE,
        quoted_only: ";#",
        quotes: &[('"', &GIT_BARE)],
        doubled: "",
        refused: "",
        unquotable: "",
        prefers_escapes: true,
    };
    /// Words of nginx: `$` begins a variable in and out of quotes.
    NGINX_WORD = WordSyntax {
        name: "word",
        bare: &WEB_SERVER,
        quoted_only: " \t;{}\"'#\\",
        quotes: &[('"', &WEB_SERVER_DOUBLE), ('\'', &WEB_SERVER_SINGLE)],
        doubled: "",
        refused: "$",
        unquotable: "",
        prefers_escapes: false,
    };
    /// Words of Apache's httpd: `${NAME}` is a variable anywhere, `%` in some directives.
    HTTPD_WORD = WordSyntax {
        name: "word",
        bare: &NO_ESCAPES,
        quoted_only: " \t\"'<>#\\",
        quotes: &[('"', &HTTPD_QUOTED), ('\'', &HTTPD_SINGLE)],
        doubled: "",
        refused: "$%*?[]",
        unquotable: "",
        prefers_escapes: false,
    };
    /// Words of the settings of SSH: `%` begins a code in some, and is refused in others.
    SSH_WORD = WordSyntax {
        name: "word",
        bare: &NO_ESCAPES,
        quoted_only: " \t#'=",
        quotes: &[('"', &NO_ESCAPES)],
        doubled: "",
        refused: "%$\"\\*?!,",
        unquotable: "",
        prefers_escapes: false,
    };
    /// Columns of `fstab` and `exports` (fstab(5)); in some a comma parts options.
    MOUNT_WORD = WordSyntax {
        name: "column",
        bare: &TABLE_WORD,
        quoted_only: "",
        quotes: &[],
        doubled: "",
        refused: ",",
        unquotable: "",
        prefers_escapes: true,
    };
    /// Words of sudoers (sudoers(5)); some signs are patterns.
    SUDOERS_WORD = WordSyntax {
        name: "word",
        bare: &SUDO_WORD,
        quoted_only: "",
        quotes: &[('"', &NO_ESCAPES)],
        doubled: "",
        refused: "*?[]\\^\"$'&;{}~+`%!()@",
        unquotable: "",
        prefers_escapes: true,
    };
    /// Names of files in logrotate's settings, which are patterns.
    ROTATED_WORD = WordSyntax {
        name: "word",
        bare: &NO_ESCAPES,
        quoted_only: " \t'#,;&()^!=@",
        quotes: &[('"', &NO_ESCAPES)],
        doubled: "",
        refused: "*?[]{}\\\"~$`",
        unquotable: "",
        prefers_escapes: false,
    };
    /// Words of a Dockerfile's instructions: `$` names a variable.
    DOCKERFILE_WORD = WordSyntax {
        name: "word",
        bare: &IMAGE_WORD,
        quoted_only: "",
        quotes: &[('"', &IMAGE_DOUBLE), ('\'', &NO_ESCAPES)],
        doubled: "",
        refused: "`",
        unquotable: "",
        prefers_escapes: true,
    };
    /// Words of CMake: `;` parts lists wherever a value goes.
    CMAKE_ARGUMENT = WordSyntax {
        name: "argument",
        bare: &CMAKE_WORD,
        quoted_only: "'",
        quotes: &[('"', &CMAKE_QUOTED)],
        doubled: "",
        refused: ";@\\",
        unquotable: "",
        prefers_escapes: false,
    };
    /// Words of a command in a service unit (systemd.service(5)).
    UNIT_COMMAND_WORD = WordSyntax {
        name: "word",
        bare: &UNIT,
        quoted_only: " \t'\";",
        quotes: &[('"', &UNIT_DOUBLE), ('\'', &UNIT_SINGLE)],
        doubled: "%$",
        refused: "\\",
        unquotable: "",
        prefers_escapes: false,
    };
    /// The program of a command in a service unit, in whose name no quotes may be.
    UNIT_PROGRAM = WordSyntax {
        doubled: "%",
        refused: "'\"\\$",
        ..UNIT_COMMAND_WORD
    };
    /// Words of a list in a service unit (systemd.syntax(7)).
    UNIT_WORD = WordSyntax {
        doubled: "%",
        refused: ":\\",
        unquotable: ":",
        ..UNIT_COMMAND_WORD
    };
    /// The value of a service unit that is one path.
    UNIT_PATH = WordSyntax {
        name: "value",
        bare: &NO_ESCAPES,
        quoted_only: "",
        quotes: &[],
        doubled: "%",
        refused: "\\\"'",
        unquotable: "",
        prefers_escapes: false,
    };
    /// Words of the command of a desktop entry (Desktop Entry Specification, the `Exec` key).
    LAUNCHER_WORD = WordSyntax {
        name: "word",
        bare: &NO_ESCAPES,
        quoted_only: " \t\"'\\><~|&;$*?#()`",
        quotes: &[('"', &LAUNCHER_QUOTED)],
        doubled: "%",
        refused: "\\",
        unquotable: "",
        prefers_escapes: false,
    };
}
