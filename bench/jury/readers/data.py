"""Data: JSON, TOML, YAML, tables, property lists, registry exports, databases' dumps."""

import csv
import json
import plistlib
import sqlite3
import tomllib
import xml.etree.ElementTree as tree
from pathlib import Path

from model import Values, each, syntax


def leaves(node) -> list[str]:
    if isinstance(node, dict):
        return [v for key, value in node.items() for v in [str(key), *leaves(value)]]
    if isinstance(node, (list, tuple)):
        return [v for value in node for v in leaves(value)]
    return [node if isinstance(node, str) else repr(node)]


def json_reader(file: Path) -> Values:
    return leaves(json.loads(file.read_text()))


JSON_FORMS = [
    '{"k": "@P@/a"}',
    '{"k": "@W2@\\\\a b"}',
    '{"k": "@F@/a"}',
    '{"@P@/a": 1}',
    '{"args": ["@P@/bin/v", "--in", "@P@/a", "--data=@P@/b"]}',
    '{"args": ["@W2@\\\\v.exe", "/in:@W2@\\\\a"]}',
    '{"imagePath": "@W2@\\\\a"}',
    '{"command": "@P@/bin/v"}',
    '{"command": ["sh", "-c", "ls @P@/a"]}',
    '{"list": "@W2@\\\\a;@W2@\\\\b"}',
    '{"k": "@S2@\\\\a"}',
    '{"url": "file://@P@/a"}',
    '{"url": "file:///@F@/a"}',
    '{"run_dir": "@P@/run", "options_file": "@P@/o"}',
]
syntax("json", "a.json", JSON_FORMS, each(json_reader), together=False)


def command_words(text: str) -> list[str]:
    """A Windows command line as programs part it."""
    words, at = [], 0
    text = text.strip(" ")
    while at < len(text):
        word, quoted = "", False
        while at < len(text) and (quoted or text[at] not in " \t"):
            run = 0
            while at < len(text) and text[at] == "\\":
                run, at = run + 1, at + 1
            if at < len(text) and text[at] == '"':
                word += "\\" * (run // 2)
                if run % 2:
                    word += '"'
                else:
                    quoted = not quoted
                at += 1
            else:
                word += "\\" * run
                if at < len(text) and (quoted or text[at] not in " \t"):
                    word, at = word + text[at], at + 1
        words.append(word)
        while at < len(text) and text[at] in " \t":
            at += 1
    return words


def json_command(file: Path) -> Values:
    return command_words(json.loads(file.read_text())["command"])


syntax(
    "json-windows-command",
    "c.json",
    [
        '{"command": "@W2@\\\\v.exe @W2@\\\\a.tif"}',
        '{"command": "v.exe --in @W2@\\\\a --out @W2@\\\\b"}',
        '{"command": "v.exe --in=@W2@\\\\a"}',
        '{"command": "v.exe \\"@W2@\\\\a b\\" -x"}',
        '{"command": "\\"@W2@\\\\v.exe\\" -x @W2@\\\\a\\\\"}',
        '{"command": "v.exe /in:@W2@\\\\a"}',
        '{"command": "v.exe @S2@\\\\a -x"}',
    ],
    each(json_command),
)

syntax(
    "toml",
    "a.toml",
    [
        'k = "@P@/a"\n',
        "k = '@W@\\a b'\n",
        'k = "@W2@\\\\a"\n',
        "k = '''@W@\\a'''\n",
        'k = """\n@P@/a\n"""\n',
        "args = ['--in', '@P@/a']\n",
        '"@P@/a" = 1\n',
        '["@P@/a"]\nk = 1\n',
    ],
    each(lambda file: leaves(tomllib.loads(file.read_text()))),
)


def yaml_reader(file: Path) -> Values:
    import yaml

    return leaves(list(yaml.safe_load_all(file.read_text())))


YAML_FORMS = [
    "k: @P@/a\n",
    "k: @P@\n",
    "k: '@W@\\a b'\n",
    'k: "@W2@\\\\a"\n',
    "k: @W@\\a\n",
    "k: @W@\\a b # note\n",
    "- @P@/a\n- @P@/b\n",
    "k: [@P@/a, @P@/b]\n",
    "k: {a: @P@/a, b: '@P@/b'}\n",
    "k: |\n  see @P@/a\n  and @P@/b\n",
    "k: >\n  see @P@/a\n  and @P@/b\n",
    "k: see @P@/a\n  and more\n",
    "@P@/a: 1\n",
    "volumes:\n  - @P@/a:/data\n  - @P@/b:/x:ro\n",
    "args: ['--in=@P@/a', \"-x\"]\n",
    "script:\n  - cp @P@/a @P@/b\n",
    "k: ${V:-@P@/a}\n",
    "k: !tag @P@/a\n",
    "k: &x @P@/a\n",
]
syntax(
    "yaml", "a.yaml", [f for f in YAML_FORMS if "!tag" not in f], each(yaml_reader), together=False
)


def compose(file: Path) -> Values:
    """A compose file's values: YAML, and `$$` for a dollar sign, by the compose specification."""
    import re

    values = yaml_reader(file)
    found = []
    for value in values or []:
        if re.search(r"(?<!\$)(?:\$\$)*\$[\w({]", value):
            return ["interpolated"]
        found.append(value.replace("$$", "$"))
    return found


syntax(
    "compose",
    "docker-compose.yml",
    [
        "services:\n  a:\n    volumes:\n      - @P@/a:/data\n",
        "services:\n  a:\n    volumes:\n      - type: bind\n        source: @P@/a\n        target: /data\n",
        "services:\n  a:\n    env_file: @P@/a\n",
    ],
    each(compose),
)


def csv_reader(delimiter: str):
    def read(file: Path) -> Values:
        with open(file, newline="") as lines:
            return [field for row in csv.reader(lines, delimiter=delimiter) for field in row]

    return each(read)


CSV_FORMS = [
    "a,@P@/a,b\n",
    'a,"@P@/a, b",c\n',
    "@W@\\a,1,2\n",
    '"@W@\\a",1,2\n',
    "1,2,@W@\n",
    "1,see @P@/a here,2\n",
    "1,@S@\\a,2\n",
]
syntax("csv", "a.csv", CSV_FORMS, csv_reader(","), head="x,y,z\n1,2,3\n", together=False)
syntax(
    "tsv",
    "a.tsv",
    [f.replace(",", "\t") for f in CSV_FORMS],
    csv_reader("\t"),
    head="x\ty\tz\n1\t2\t3\n",
    together=False,
)


def xml_reader(file: Path) -> Values:
    values = []
    for node in tree.parse(file).iter():
        values += list(node.attrib.values())
        values += [t for t in (node.text, node.tail) if t and t.strip()]
    return values


syntax(
    "xml",
    "a.xml",
    [
        '<a k="@P@/a"/>',
        "<a k='@W@\\a b'/>",
        "<a><b>@P@/a</b><b>@W@\\a</b></a>",
        "<a><![CDATA[@P@/a]]></a>",
        "<a><file>@S@\\a</file></a>",
        '<a href="file://@P@/a"/>',
        "<a><commandLine>@W@\\v.exe</commandLine></a>",
    ],
    each(xml_reader),
    together=False,
    head='<?xml version="1.0"?>\n',
)
syntax(
    "property-list",
    "a.plist",
    [
        "<key>k</key><string>@P@/a</string>",
        "<key>ProgramArguments</key><array><string>@P@/v</string><string>--in=@P@/a</string></array>",
        "<key>@P@/a</key><true/>",
        "<key>Program</key><string>@P@/bin/v</string>",
    ],
    each(lambda file: leaves(plistlib.loads(file.read_bytes()))),
    head='<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE plist PUBLIC "-//Apple//DTD PLIST 1.0//EN" "http://www.apple.com/DTDs/PropertyList-1.0.dtd">\n<plist version="1.0"><dict>',
    foot="</dict></plist>\n",
)


def sql_reader(file: Path) -> Values:
    database = sqlite3.connect(":memory:")
    database.executescript(file.read_text())
    return leaves(list(database.execute("select * from t")))


syntax(
    "sql",
    "a.sql",
    ["insert into t values('@P@/a');\n", "insert into t values('@W@\\a b');\n", "insert into t values('see @P@/a');\n"],
    each(sql_reader),
    head="create table t(a text);\n",
)
