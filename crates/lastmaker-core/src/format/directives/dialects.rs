//! The dialects of directives, a table each.

use super::{Addresses, Arguments, Directives};
use crate::about::About;
use crate::codec::{
    CMAKE_ARGUMENT, DOCKERFILE_WORD, HTTPD_WORD, MOUNT_WORD, NGINX_WORD, ROTATED_WORD, SSH_WORD,
    SUDOERS_WORD,
};
use crate::format::{Namespace, Sample};

const BASE: Directives = Directives {
    about: About::BLANK,
    samples: &[],
    signs: &[],
    words: &NGINX_WORD,
    comment: '#',
    parting: "",
    continues: false,
    assigns: false,
    keywords: false,
    special: &[],
    usual: Arguments::Words,
    namespace: None,
    addresses: &[],
};

/// Settings of the web server nginx.
pub(in crate::format) static NGINX: Directives = Directives {
    about: About {
        name: "web-server-blocks",
        what: "web server settings in blocks with braces",
        content: "server { or http { at the start of a line, in a file without an ending or in .conf",
        names: &["=nginx.conf", ".nginx", "=fastcgi_params", "=fastcgi.conf"],
        read: "words, bare and in quotes; comments",
        limits: "a new `$` is doubtful: it would begin a variable",
    },
    samples: &[Sample::new("nginx.conf", "events {}\n", "root ", ";\n")],
    signs: &["server {", "http {", "upstream ", "events {"],
    parting: ";{}",
    addresses: &[
        ("location", Addresses::All),
        ("rewrite", Addresses::All),
        ("return", Addresses::All),
        ("error_page", Addresses::All),
        ("try_files", Addresses::All),
        ("auth_request", Addresses::All),
        ("proxy_redirect", Addresses::All),
        ("proxy_cookie_path", Addresses::All),
    ],
    ..BASE
};

/// Settings of Apache's web server.
pub(in crate::format) static HTTPD: Directives = Directives {
    about: About {
        name: "web-server-sections",
        what: "web server settings in sections with angle brackets",
        content: "<VirtualHost or <Directory at the start of a line, in a file without an ending or in .conf",
        names: &["=httpd.conf", "=apache2.conf", ".htaccess"],
        read: "words, bare and in quotes; comments",
        limits: "a new `$` or `%` is doubtful",
    },
    samples: &[Sample::new("httpd.conf", "", "DocumentRoot ", "\n")],
    signs: &[
        "<VirtualHost",
        "<Directory",
        "<IfModule",
        "<Location",
        "DocumentRoot ",
    ],
    words: &HTTPD_WORD,
    parting: "<>",
    continues: true,
    special: &[
        ("rewriterule", Arguments::Unknown),
        ("rewritecond", Arguments::Unknown),
        ("aliasmatch", Arguments::Unknown),
        ("scriptaliasmatch", Arguments::Unknown),
        ("filesmatch", Arguments::Unknown),
        ("directorymatch", Arguments::Unknown),
        ("locationmatch", Arguments::Unknown),
        ("customlog", Arguments::Unknown),
        ("logformat", Arguments::Unknown),
    ],
    addresses: &[
        ("location", Addresses::All),
        ("alias", Addresses::First),
        ("scriptalias", Addresses::First),
        ("wsgiscriptalias", Addresses::First),
        ("proxypass", Addresses::First),
        ("proxypassreverse", Addresses::First),
        ("redirect", Addresses::All),
        ("redirectpermanent", Addresses::All),
        ("redirecttemp", Addresses::All),
        ("errordocument", Addresses::All),
        ("rewritebase", Addresses::All),
        ("fallbackresource", Addresses::All),
    ],
    ..BASE
};

/// Settings of SSH, of both ends.
pub(in crate::format) static SSH_SETTINGS: Directives = Directives {
    about: About {
        name: "ssh-settings",
        what: "settings of SSH clients and servers",
        content: "",
        names: &["ssh_config", "sshd_config"],
        read: "words, bare and in quotes; commands as text",
        limits: "a new `%` is doubtful, and so is a blank in a command",
    },
    samples: &[Sample::new("ssh_config", "", "IdentityFile ", "\n")],
    words: &SSH_WORD,
    keywords: true,
    special: &[
        ("proxycommand", Arguments::Unknown),
        ("localcommand", Arguments::Unknown),
        ("remotecommand", Arguments::Unknown),
        ("knownhostscommand", Arguments::Unknown),
        ("forcecommand", Arguments::Unknown),
        ("authorizedkeyscommand", Arguments::Unknown),
        ("subsystem", Arguments::Unknown),
        ("match", Arguments::Unknown),
    ],
    ..BASE
};

/// Tables of mounts and of exported folders.
pub(in crate::format) static MOUNT_TABLE: Directives = Directives {
    about: About {
        name: "mount-table",
        what: "tables of mounts and of exported folders",
        content: "",
        names: &["fstab", "=mtab", "=exports", "crypttab"],
        read: "columns, with blanks as \\040",
        limits: "a new comma is doubtful",
    },
    samples: &[Sample::new("fstab", "", "/dev/x ", " ext4 defaults 0 0\n")],
    words: &MOUNT_WORD,
    ..BASE
};

/// Who may run what as somebody else.
pub(in crate::format) static SUDOERS: Directives = Directives {
    about: About {
        name: "sudoers",
        what: "who may run what as somebody else",
        content: "",
        names: &["sudoers"],
        read: "words, bare and in quotes",
        limits: "signs that are patterns are doubtful",
    },
    samples: &[Sample::new("sudoers", "", "Defaults x=\"", "\"\n")],
    words: &SUDOERS_WORD,
    parting: ",:=()!",
    continues: true,
    ..BASE
};

/// Which logs are rotated, and how.
pub(in crate::format) static LOGROTATE: Directives = Directives {
    about: About {
        name: "log-rotation",
        what: "which logs are rotated, and how",
        content: "",
        names: &["=logrotate.conf", ".logrotate"],
        read: "words, bare and in quotes; scripts as a shell reads them",
        limits: "signs that are patterns are doubtful",
    },
    samples: &[Sample::new("logrotate.conf", "", "", " {\n}\n")],
    words: &ROTATED_WORD,
    parting: "{}",
    special: &[
        ("postrotate", Arguments::ScriptUntil("endscript")),
        ("prerotate", Arguments::ScriptUntil("endscript")),
        ("firstaction", Arguments::ScriptUntil("endscript")),
        ("lastaction", Arguments::ScriptUntil("endscript")),
        ("preremove", Arguments::ScriptUntil("endscript")),
    ],
    ..BASE
};

/// How an image is built.
pub(in crate::format) static DOCKERFILE: Directives = Directives {
    about: About {
        name: "image-build",
        what: "build files of container images",
        content: "",
        names: &["=dockerfile", "=containerfile", ".dockerfile"],
        read: "words, arrays, commands as a shell reads them",
        limits: "its places are inside of the image, so they are kept",
    },
    samples: &[Sample::new("Dockerfile", "FROM x\n", "# ", "\n")],
    namespace: Some(Namespace::Container),
    words: &DOCKERFILE_WORD,
    continues: true,
    assigns: true,
    special: &[
        ("run", Arguments::ArrayOrShell),
        ("cmd", Arguments::ArrayOrShell),
        ("entrypoint", Arguments::ArrayOrShell),
        ("healthcheck", Arguments::Unknown),
        ("onbuild", Arguments::Unknown),
        ("copy", Arguments::ArrayOrText),
        ("add", Arguments::ArrayOrText),
        ("volume", Arguments::ArrayOrText),
        ("shell", Arguments::ArrayOrText),
        ("workdir", Arguments::Unknown),
    ],
    ..BASE
};

/// Build descriptions of CMake.
pub(in crate::format) static CMAKE: Directives = Directives {
    about: About {
        name: "cmake",
        what: "build descriptions of CMake",
        content: "",
        names: &["=cmakelists.txt", ".cmake"],
        read: "arguments, bare and in quotes; comments",
        limits: "a new semicolon is doubtful: it parts lists",
    },
    samples: &[Sample::new("a.cmake", "", "set(K \"", "\")\n")],
    words: &CMAKE_ARGUMENT,
    parting: "()",
    ..BASE
};

/// Commands that run at set times.
pub(in crate::format) static CRONTAB: Directives = Directives {
    about: About {
        name: "crontab",
        what: "commands that run at set times",
        content: "",
        names: &["=crontab", ".crontab", ".cron"],
        read: "commands as a shell reads them, with % as \\%; variables",
        limits: "",
    },
    samples: &[Sample::new("crontab", "", "0 5 * * * cp ", " /x\n")],
    words: &NGINX_WORD,
    usual: Arguments::Scheduled,
    ..BASE
};
