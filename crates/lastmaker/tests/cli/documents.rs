//! Documents of every format, written here by themselves: each value in the escaping that the
//! format asks for.

/// One format: the ending of its files, how a value is written, and the document around.
pub(crate) struct Kind {
    pub(crate) ending: &'static str,
    /// None if the format cannot hold the value so.
    value: fn(&str) -> Option<String>,
    /// What is around the lines of the values.
    head: &'static str,
    foot: &'static str,
    /// Around the value of number `{n}`.
    line: &'static str,
    wide: bool,
}

const BASE: Kind = Kind {
    ending: "",
    value: |text| Some(text.to_owned()),
    head: "",
    foot: "",
    line: "{v}\n",
    wide: false,
};

impl Kind {
    /// A document with these values, as many of them as it can hold.
    pub(crate) fn document(&self, values: &[String]) -> Vec<u8> {
        let mut text = self.head.to_owned();
        for (number, value) in values.iter().enumerate() {
            if let Some(written) = (self.value)(value) {
                let line = self.line.replace("{n}", &number.to_string());
                text.push_str(&line.replace("{v}", &written));
            }
        }
        text.push_str(self.foot);
        if self.wide {
            let units = std::iter::once(0xFEFF).chain(text.encode_utf16());
            return units.flat_map(u16::to_le_bytes).collect();
        }
        text.into_bytes()
    }

    /// Whether it can hold this value.
    pub(crate) fn holds(&self, value: &str) -> bool {
        (self.value)(value).is_some()
    }
}

fn backslashes(text: &str) -> Option<String> {
    Some(text.replace('\\', r"\\").replace('"', "\\\""))
}

fn without(text: &str, letters: &str) -> Option<String> {
    (!text.contains(|c| letters.contains(c))).then(|| text.to_owned())
}

/// A backslash before a quote would take it along.
fn unended(text: String) -> Option<String> {
    (!text.ends_with('\\')).then_some(text)
}

fn entities(text: &str) -> Option<String> {
    Some(text.replace('&', "&amp;").replace('<', "&lt;"))
}

fn hex(text: &str) -> Option<String> {
    let digits: Vec<String> = text
        .encode_utf16()
        .chain([0])
        .flat_map(u16::to_le_bytes)
        .map(|byte| format!("{byte:02x}"))
        .collect();
    // The export wraps after the comma that would be the last to fit in 80 columns.
    let mut lines = vec![String::new()];
    let mut column = r#""v0"=hex(2):"#.len();
    for (index, pair) in digits.iter().enumerate() {
        let last = index + 1 == digits.len();
        let width = if last { 2 } else { 3 };
        if column + width > 78 {
            lines.push("  ".to_owned());
            column = 2;
        }
        column += width;
        let line = lines.last_mut().unwrap();
        line.push_str(pair);
        if !last {
            line.push(',');
        }
    }
    Some(lines.join("\\\r\n"))
}

fn rich(text: &str) -> Option<String> {
    let mut written = String::new();
    for letter in text.chars() {
        match letter {
            '\\' | '{' | '}' => written.extend(['\\', letter]),
            _ if letter.is_ascii() => written.push(letter),
            _ => written.push_str(&format!("\\u{}?", letter as u32)),
        }
    }
    Some(written)
}

/// The formats of a mixed tree.
pub(crate) const KINDS: [Kind; 44] = [
    Kind {
        ending: "json",
        value: backslashes,
        head: "{\n",
        line: "  \"v{n}\": \"{v}\",\n",
        foot: "  \"end\": 1\n}\n",
        ..BASE
    },
    Kind {
        ending: "jsonl",
        value: backslashes,
        line: "{\"v\": \"{v}\"}\n",
        ..BASE
    },
    Kind {
        ending: "jsonc",
        value: backslashes,
        head: "// settings\n[\n",
        line: "  \"{v}\", // {n}\n",
        foot: "]\n",
        ..BASE
    },
    Kind {
        ending: "nested.json",
        value: |text| backslashes(&backslashes(text)?),
        head: "{\n",
        line: "  \"v{n}\": \"{\\\"in\\\": \\\"{v}\\\"}\",\n",
        foot: "  \"end\": 1\n}\n",
        ..BASE
    },
    Kind {
        ending: "reg",
        value: backslashes,
        head: "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Linden]\r\n",
        line: "\"v{n}\"=\"{v}\"\r\n",
        wide: true,
        ..BASE
    },
    Kind {
        ending: "old.reg",
        value: |text| backslashes(&without(text, "\u{fc}")?),
        head: "REGEDIT4\r\n\r\n[HKEY_CURRENT_USER\\Linden]\r\n",
        line: "\"v{n}\"=\"{v}\"\r\n",
        ..BASE
    },
    Kind {
        ending: "hex.reg",
        value: hex,
        head: "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Linden]\r\n",
        line: "\"v{n}\"=hex(2):{v}\r\n",
        wide: true,
        ..BASE
    },
    Kind {
        ending: "ini",
        head: "[Folders]\r\n",
        line: "v{n}={v}\r\n",
        ..BASE
    },
    Kind {
        ending: "quoted.ini",
        value: |text| without(text, "\""),
        head: "; kept\n[Folders]\n",
        line: "v{n} = \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "wide.ini",
        head: "[Folders]\r\n",
        line: "v{n}={v}\r\n",
        wide: true,
        ..BASE
    },
    Kind {
        ending: "conf",
        line: "v{n}: {v}\n",
        ..BASE
    },
    Kind {
        ending: "desk.conf",
        value: |text| backslashes(&without(text, ",;=\"%")?),
        head: "[%General]\n",
        line: "v{n}={v}\n",
        ..BASE
    },
    Kind {
        ending: "properties",
        value: |text| {
            Some(
                text.replace('\\', r"\\")
                    .replace(':', r"\:")
                    .replace('\u{fc}', r"\u00fc")
                    .replace('\u{df}', r"\u00df"),
            )
        },
        head: "# kept\n",
        line: "v{n}={v}\n",
        ..BASE
    },
    Kind {
        ending: "xml",
        value: entities,
        head: "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<settings>\n",
        line: "  <entry name=\"v{n}\" value=\"{v}\"/>\n",
        foot: "</settings>\n",
        ..BASE
    },
    Kind {
        ending: "text.xml",
        value: entities,
        head: "<settings>\n",
        line: "  <v{n}>{v}</v{n}>\n",
        foot: "</settings>\n",
        ..BASE
    },
    Kind {
        ending: "data.xml",
        head: "<settings>\n",
        line: "  <v{n}><![CDATA[{v}]]></v{n}>\n",
        foot: "</settings>\n",
        ..BASE
    },
    Kind {
        ending: "wide.xml",
        value: entities,
        head: "<?xml version=\"1.0\" encoding=\"utf-16\"?>\n<settings>\n",
        line: "  <v{n} at='{v}'/>\n",
        foot: "</settings>\n",
        wide: true,
    },
    Kind {
        ending: "svg",
        value: entities,
        head: "<svg xmlns=\"http://www.w3.org/2000/svg\">\n",
        line: "  <image href=\"{v}\"/>\n",
        foot: "</svg>\n",
        ..BASE
    },
    Kind {
        ending: "plist",
        value: entities,
        head: "<plist version=\"1.0\"><dict>\n",
        line: "  <key>v{n}</key><string>{v}</string>\n",
        foot: "</dict></plist>\n",
        ..BASE
    },
    Kind {
        ending: "html",
        value: |text| entities(&without(text, "%")?),
        head: "<!doctype html>\n<body>\n",
        line: "<p id=v{n}><img alt=\"x\" src=\"{v}\">\n",
        foot: "</body>\n",
        ..BASE
    },
    Kind {
        ending: "toml",
        value: backslashes,
        head: "# kept\n[folders]\n",
        line: "v{n} = \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "literal.toml",
        value: |text| without(text, "'"),
        line: "v{n} = '{v}' # kept\n",
        ..BASE
    },
    Kind {
        ending: "yaml",
        value: backslashes,
        head: "# kept\nfolders: &a\n",
        line: "  v{n}: \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "single.yml",
        value: |text| without(text, "'"),
        line: "- '{v}'\n",
        ..BASE
    },
    Kind {
        ending: "plain.yml",
        value: |text| without(text, "%"),
        line: "v{n}: {v}\n",
        ..BASE
    },
    Kind {
        ending: "csv",
        value: |text| Some(text.replace('"', "\"\"")),
        head: "name,place\r\n",
        line: "v{n},\"{v}\"\r\n",
        ..BASE
    },
    Kind {
        ending: "tsv",
        head: "name\tplace\n",
        line: "v{n}\t{v}\n",
        ..BASE
    },
    Kind {
        ending: "launch.txt",
        value: backslashes,
        head: "\"launch\"\n{\n",
        line: "\t\"v{n}\"\t\t\"{v}\"\n",
        foot: "}\n",
        ..BASE
    },
    Kind {
        ending: "bat",
        value: |text| without(text, "%&|"),
        head: "@echo off\r\n",
        line: "set V{n}={v}\r\n",
        ..BASE
    },
    Kind {
        ending: "ps1",
        value: |text| without(text, "'"),
        head: "# kept\n",
        line: "$v{n} = '{v}'\n",
        ..BASE
    },
    Kind {
        ending: "sh",
        value: |text| without(text, "'"),
        head: "#!/bin/sh\n",
        line: "v{n}='{v}'\n",
        ..BASE
    },
    Kind {
        ending: "desktop",
        value: |text| Some(text.replace('\\', r"\\")),
        head: "[Desktop Entry]\nType=Application\n",
        line: "X-v{n}={v}\n",
        ..BASE
    },
    Kind {
        ending: "url",
        value: |text| text.starts_with("file:").then(|| text.to_owned()),
        head: "[InternetShortcut]\r\n",
        line: "URL={v}\r\n",
        ..BASE
    },
    Kind {
        ending: "m3u8",
        head: "#EXTM3U\n",
        line: "#EXTINF:{n}\n{v}\n",
        ..BASE
    },
    Kind {
        ending: "md",
        value: |text| without(text, "`"),
        head: "# Kept\n\n",
        line: "- `{v}` is {n}\n",
        ..BASE
    },
    Kind {
        ending: "rtf",
        value: rich,
        head: "{\\rtf1\\ansi\\ansicpg1252 kept\\par\n",
        line: "{{v}}\\par\n",
        foot: "}\n",
        ..BASE
    },
    Kind {
        ending: "sql",
        value: |text| Some(text.replace('\'', "''")),
        head: "BEGIN;\n",
        line: "INSERT INTO places VALUES({n},'{v}');\n",
        foot: "COMMIT;\n",
        ..BASE
    },
    Kind {
        ending: "js",
        value: |text| Some(text.replace('\\', r"\\").replace('\'', r"\'")),
        head: "// kept\nconst v = [\n",
        line: "  '{v}',\n",
        foot: "];\n",
        ..BASE
    },
    Kind {
        ending: "lua",
        value: backslashes,
        head: "-- kept\nreturn {\n",
        line: "  v{n} = \"{v}\",\n",
        foot: "}\n",
        ..BASE
    },
    Kind {
        ending: "py",
        value: |text| without(text, "\"").filter(|text| !text.ends_with(['\\', '/'])),
        head: "# kept\n",
        line: "V{n} = r\"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "h",
        value: backslashes,
        head: "/* kept */\n",
        line: "#define V{n} \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "el",
        value: backslashes,
        head: ";; kept\n",
        line: "(setq v{n} \"{v}\")\n",
        ..BASE
    },
    Kind {
        ending: "env",
        // Readers of such files differ over backslashes in pairs and at the end.
        value: |text| {
            let pairs = text.starts_with(r"\\") || text.starts_with("//");
            without(text, "'").filter(|text| !pairs && !text.ends_with(['\\', '/']))
        },
        head: "# kept\n",
        line: "V{n}='{v}'\n",
        ..BASE
    },
    Kind {
        ending: "cache",
        value: |text| Some(format!("s:{}:\"{text}\"", text.len())),
        line: "a:1:{i:0;{v};}\n",
        ..BASE
    },
];

/// More formats, which cannot be told apart from others by what comes back from another system:
/// nothing in them shows then that they double backslashes.
pub(crate) const MORE_KINDS: [Kind; 24] = [
    Kind {
        ending: "gitignore",
        value: |text| without(text, "\""),
        head: "/srv/herbarium\n",
        line: "# Number {n} is \"{v}\", they say.\n",
        ..BASE
    },
    Kind {
        ending: "service",
        // Lists in arguments are not taken apart.
        value: |text| without(text, "%\"' ;").map(|text| text.replace('\\', r"\\")),
        head: "[Unit]\nDescription=kept\n[Service]\n",
        line: "Environment=\"V{n}={v}\"\n",
        ..BASE
    },
    Kind {
        ending: "pc",
        value: |text| without(text, " #$").filter(|text| !text.ends_with('\\')),
        head: "# kept\nName: kept\n",
        line: "v{n}={v}\n",
        ..BASE
    },
    Kind {
        ending: "cue",
        value: |text| without(text, "\""),
        head: "REM kept\r\n",
        line: "FILE \"{v}\" WAVE\r\n",
        ..BASE
    },
    Kind {
        ending: "php",
        value: |text| Some(text.replace('\\', r"\\").replace('\'', r"\'")),
        head: "<?php\n// kept\n",
        line: "$v{n} = '{v}';\n",
        ..BASE
    },
    Kind {
        ending: "dump.sql",
        value: |text| Some(text.replace('\\', r"\\").replace('\'', r"\'")),
        head: "CREATE TABLE places (number INT, place TEXT) ENGINE=kept;\n",
        line: "INSERT INTO places VALUES ({n},'{v}');\n",
        ..BASE
    },
    Kind {
        ending: "nginx",
        value: |text| without(text, "$").and_then(|text| backslashes(&text)),
        head: "events {}\nhttp {\n",
        line: "root \"{v}\"; # {n}\n",
        foot: "}\n",
        ..BASE
    },
    Kind {
        ending: "htaccess",
        value: |text| without(text, "$%").and_then(|text| backslashes(&text)),
        head: "# kept\n",
        line: "Alias /k{n} \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "ssh_config",
        value: |text| without(text, "$%\"").and_then(unended),
        head: "Host *\n",
        line: "  IdentityFile \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "fstab",
        value: |text| {
            {
                // A backslash before digits is a letter by its number.
                let numbered = text
                    .match_indices('\\')
                    .any(|(at, _)| text[at + 1..].starts_with(|c: char| c.is_ascii_digit()));
                without(text, ",#")
                    .filter(|_| !numbered)
                    .map(|text| text.replace(' ', r"\040"))
            }
        },
        head: "# kept\n",
        line: "{v} /k{n} none bind 0 0\n",
        ..BASE
    },
    Kind {
        ending: "sudoers",
        value: |text| without(text, "\"").and_then(unended),
        head: "# kept\n",
        line: "Defaults k{n}=\"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "logrotate",
        value: |text| without(text, "\"").and_then(unended),
        head: "# kept\n",
        line: "\"{v}\" {\n  maxage {n}\n}\n",
        ..BASE
    },
    Kind {
        // What it builds has places of its own.
        ending: "dockerfile",
        value: |text| without(text, "\""),
        head: "FROM kept\nWORKDIR D:/Herbarium\n",
        line: "# Number {n} is \"{v}\", they say.\n",
        ..BASE
    },
    Kind {
        ending: "cmake",
        value: |text| without(text, "$;@").and_then(|text| backslashes(&text)),
        head: "# kept\n",
        line: "set(V{n} \"{v}\")\n",
        ..BASE
    },
    Kind {
        ending: "crontab",
        value: |text| without(text, "'%"),
        head: "# kept\n",
        line: "{n} 5 * * * cp '{v}' x\n",
        ..BASE
    },
    Kind {
        ending: "compose.yaml",
        value: |text| Some(text.replace('\'', "''").replace('$', "$$")),
        head: "# kept\nservices:\n",
        line: "  v{n}: '{v}'\n",
        ..BASE
    },
    Kind {
        ending: "gitconfig",
        value: backslashes,
        head: "[kept]\n",
        line: "\tv{n} = \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "dat",
        value: |text| without(text, "\"").and_then(unended),
        head: "kept\n",
        line: "v{n} \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "txt",
        value: |text| without(text, "\""),
        head: "Kept.\n",
        line: "Number {n} is \"{v}\", they say.\n",
        ..BASE
    },
    Kind {
        ending: "kt",
        value: |text| backslashes(text).map(|text| text.replace('$', "\\$")),
        head: "// kept\n",
        line: "val v{n} = \"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "hive.reg",
        value: |text| {
            Some(text)
                .filter(|text| text.is_ascii())
                .and_then(backslashes)
        },
        head: "WINE REGISTRY Version 2\n;; kept\n\n[Kept] 17\n#time=1d\n",
        line: "\"v{n}\"=\"{v}\"\n",
        ..BASE
    },
    Kind {
        ending: "css",
        value: backslashes,
        head: "/* kept */\n",
        line: ".v{n} { src: url(\"{v}\"); }\n",
        ..BASE
    },
    Kind {
        ending: "vim",
        value: |text| Some(text.replace('\'', "''")),
        head: "\" kept\n",
        line: "let v{n} = '{v}'\n",
        ..BASE
    },
    Kind {
        ending: "org",
        value: |text| without(text, "[]"),
        head: "* Kept\n",
        line: "- [[{v}][kept {n}]]\n",
        ..BASE
    },
];
