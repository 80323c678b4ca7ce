#!/usr/bin/env python3
"""Writes the cases whose documents come from the usual writers of each format: the same
settings once with the old places and once with the new ones.

Needs Python's standard library and, from PyPI: tomli_w tomlkit PyYAML ruamel.yaml javaproperties
python-dotenv phpserialize lxml PySide6-Essentials; and bash, node, php, lua5.4, sqlite3, soffice
and a python3 with GLib's introspection (/usr/bin/python3) on the machine.
"""
import configparser
import csv
import html
import io
import json
import pathlib
import plistlib
import re
import shlex
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import xml.etree.ElementTree as ET

CASES = pathlib.Path(__file__).parent / "cases"


class Places:
    """Where the collection, its maps and its share are."""

    def __init__(self, root, maps, share):
        self.root, self.maps, self.share = root, maps, share

    def values(self):
        """Values as programs keep them, with what must stay among them."""
        return {
            "root": self.root,
            "sheet": self.root + "\\Sheets\\2019\\0412 Salix.tif",
            "letters": self.root + "\\Gr\u00fcn\\Stra\u00dfe.tif",
            "forward": self.root.replace("\\", "/") + "/Labels",
            "map": self.maps + "\\rivers.map",
            "labels": self.share + "\\labels\\narrow.lbl",
            "verbatim": "\\\\?\\" + self.root + "\\deep",
            "other": "D:\\HerbariumOld\\keep",
            "count": "12",
            "title": "Pressed sheets: new & old <draft>",
        }


OLD = Places("D:\\Herbarium", "D:\\Maps", "\\\\mossbank\\press")
OFFICE = Places("H:\\Press & Herbarium", "M:\\Maps, new", "\\\\fernhall\\press")
NEW = Places("H:\\Gr\u00fcn & Herbarium", "M:\\Maps, new", "\\\\fernhall\\press")


def uri(path):
    from PySide6.QtCore import QUrl

    return bytes(QUrl.fromLocalFile("/" + path.replace("\\", "/")).toEncoded()).decode()


# --- Python's standard library


def ini(places):
    out = {}
    for name, delimiters in [("equals", ("=",)), ("colons", (":",))]:
        parser = configparser.RawConfigParser(delimiters=delimiters)
        parser.optionxform = str
        parser["Folders"] = places.values()
        parser["Recent"] = {"item1": places.values()["sheet"], "item2": places.values()["labels"]}
        text = io.StringIO()
        parser.write(text, space_around_delimiters=name == "equals")
        out[f"{name}.ini"] = text.getvalue().encode()
    return out


def tables(places):
    values = places.values()
    rows = [["name", "place", "remark"]]
    rows += [[key, value, "as \"found\", kept"] for key, value in values.items()]
    out = {}
    styles = {
        "excel.csv": dict(dialect="excel"),
        "all.csv": dict(quoting=csv.QUOTE_ALL),
        "semicolons.csv": dict(delimiter=";", lineterminator="\n"),
        "tabs.tsv": dict(dialect="excel-tab"),
    }
    for name, style in styles.items():
        text = io.StringIO(newline="")
        csv.writer(text, **style).writerows(rows)
        out[name] = text.getvalue().encode()
    return out


def xml(places):
    values = places.values()
    root = ET.Element("settings", {"version": "2"})
    for key, value in values.items():
        ET.SubElement(root, "entry", {"name": key, "place": value}).text = value
    ET.SubElement(root, "location").text = uri(values["letters"])
    ET.SubElement(root, "names", {"quote": 'a "b" ' + values["sheet"]})
    ET.indent(root)
    out = {}
    for name, encoding in [("ascii", "us-ascii"), ("utf8", "utf-8"), ("utf16", "utf-16"), ("western", "iso-8859-1")]:
        out[f"{name}.xml"] = ET.tostring(root, encoding=encoding, xml_declaration=True)
    return out


def plists(places):
    values = dict(places.values(), recent=[places.values()["sheet"], uri(places.values()["map"])])
    return {"viewer.plist": plistlib.dumps(values, sort_keys=False)}


def shell(places):
    """Words as Python quotes them for a POSIX shell."""
    lines = ["#!/bin/sh"]
    for key, value in places.values().items():
        lines.append(f"{key}={shlex.quote(value)}")
        lines.append(f"open {shlex.quote(value)} --title {shlex.quote('a b')}")
    return {"open.sh": ("\n".join(lines) + "\n").encode()}


def sql(places):
    base = sqlite3.connect(":memory:")
    base.execute("CREATE TABLE places (name TEXT, place TEXT, remark TEXT)")
    for key, value in places.values().items():
        base.execute("INSERT INTO places VALUES (?, ?, ?)", (key, value, "it's " + uri(value) if ":" in value[:3] else "none"))
    return {"catalog.sql": ("\n".join(base.iterdump()) + "\n").encode()}


def python(places):
    import pprint

    return {"settings.py": f"SETTINGS = {pprint.pformat(places.values(), sort_dicts=False)}\n".encode()}


# --- PyPI


def toml(places):
    import tomli_w
    import tomlkit

    document = tomlkit.document()
    document.add(tomlkit.comment("kept by the label printer"))
    for key, value in places.values().items():
        document[key] = value
    literal = tomlkit.table()
    for key in ["sheet", "labels"]:
        literal[key] = tomlkit.string(places.values()[key], literal=True)
    literal["lines"] = tomlkit.string(f"\n{places.root}\\a\n{places.share}\\b\n", literal=True, multiline=True)
    document["literal"] = literal
    plain = {"folders": places.values(), "list": list(places.values().values()), "names": {places.root: 1}}
    return {
        "written.toml": tomli_w.dumps(plain).encode(),
        "edited.toml": tomlkit.dumps(document).encode(),
    }


def yaml(places):
    import ruamel.yaml
    import yaml as pyyaml

    data = {"folders": places.values(), "list": list(places.values().values()), "note": f"first\n{places.root}\\x\nlast\n"}
    out = {}
    styles = {
        "raw": dict(allow_unicode=True, width=1000),
        "double": dict(default_style='"', width=1000),
        "single": dict(default_style="'", allow_unicode=True, width=1000),
        "flow": dict(default_flow_style=True, allow_unicode=True, width=1000),
    }
    for name, style in styles.items():
        out[f"{name}.yaml"] = pyyaml.safe_dump(data, sort_keys=False, **style).encode()
    text = io.StringIO()
    writer = ruamel.yaml.YAML()
    writer.width = 1000
    writer.dump({"folders": places.values(), "block": ruamel.yaml.scalarstring.LiteralScalarString(f"{places.root}\\x\n{places.share}\\y\n")}, text)
    out["other.yaml"] = text.getvalue().encode()
    return out


def properties(places):
    import javaproperties

    values = dict(places.values())
    values[places.root + "\\key"] = "a name"
    return {
        "plain.properties": javaproperties.dumps(values, timestamp=False).encode("latin-1"),
        "raw.properties": javaproperties.dumps(values, timestamp=False, ensure_ascii=False).encode(),
        "viewer.xml": javaproperties.dumps_xml(values).encode(),
    }


def dotenv_files(places):
    import dotenv

    out = {}
    for mode in ["always", "auto"]:
        path = pathlib.Path(tempfile.mkdtemp()) / f"{mode}.env"
        path.touch()
        for key, value in places.values().items():
            dotenv.set_key(path, key.upper(), value, quote_mode=mode)
        out[path.name] = path.read_bytes()
    return out


def serialised(places):
    import phpserialize

    values = places.values()
    nested = dict(values, inner=phpserialize.dumps(values).decode())
    return {"cache.txt": phpserialize.dumps(nested) + b"\n"}


def markup(places):
    import lxml.etree
    import lxml.html

    values = places.values()
    root = lxml.etree.Element("project")
    root.append(lxml.etree.Comment(" " + values["sheet"] + " "))
    for key, value in values.items():
        lxml.etree.SubElement(root, key, src=value).text = lxml.etree.CDATA(value + "\\cdata")
    body = lxml.html.Element("body")
    for key, value in values.items():
        link = lxml.html.Element("a", href=uri(value) if value[1:3] == ":\\" else value)
        link.text = key
        body.append(link)
        body.append(lxml.html.Element("img", src=value))
    return {
        "pretty.xml": lxml.etree.tostring(root, pretty_print=True, xml_declaration=True, encoding="utf-8"),
        "page.html": b"<!doctype html>\n" + lxml.html.tostring(body, pretty_print=True, encoding="unicode").encode(),
    }


def toolkit(places):
    from PySide6.QtCore import QByteArray, QSettings

    path = pathlib.Path(tempfile.mkdtemp()) / "desk.ini"
    settings = QSettings(str(path), QSettings.Format.IniFormat)
    for key, value in places.values().items():
        settings.setValue(f"folders/{key}", value)
    settings.setValue("recent/files", list(places.values().values()))
    settings.setValue("recent/bytes", QByteArray(places.share.encode()))
    settings.setValue("General with space/top", places.values()["sheet"])
    settings.sync()
    return {"desk.ini": path.read_bytes()}


# --- interpreters


def run(command, *arguments, text=None):
    return subprocess.run([command, *arguments], input=text, check=True, capture_output=True, encoding="utf-8").stdout


def scripts(places):
    values = json.dumps(places.values())
    bash = "#!/bin/bash\n"
    for key, value in places.values().items():
        bash += run("bash", "-c", 'export LC_ALL=C.UTF-8; printf "%s=%q\\n" "$1" "$2"; declare "v=$2"; printf "%s=%s\\n" "$1" "${v@Q}"', "-", key, value)
    util = "process.stdout.write(require('util').inspect(JSON.parse(process.argv[1]), {breakLength: 80}))"
    lua = "return {\n"
    for key, value in places.values().items():
        lua += f"  {key} = " + run("lua5.4", "-e", "io.write(string.format('%q', arg[1]))", "-", value, text="") + ",\n"
    entry = """
import sys
from gi.repository import GLib
file = GLib.KeyFile()
file.set_string("Desktop Entry", "Type", "Application")
for pair in sys.stdin.read().splitlines():
    key, value = pair.split("=", 1)
    file.set_string("Desktop Entry", "X-" + key, value)
print(file.to_data()[0], end="")
"""
    pairs = "\n".join(f"{key}={value}" for key, value in places.values().items())
    inserts = "".join("INSERT INTO places VALUES ('%s', '%s');\n" % (key, value.replace("'", "''")) for key, value in places.values().items())
    table = "CREATE TABLE places (name TEXT, place TEXT);\n" + inserts
    return {
        "settings.lua": (lua + "}\n").encode(),
        "viewer.desktop": run("/usr/bin/python3", "-c", entry, text=pairs).encode(),
        "dump.sql": run("sqlite3", text=table + ".dump\n").encode(),
        "rows.json": run("sqlite3", text=table + ".mode json\nSELECT * FROM places;\n").encode(),
        "rows.html": ("<html><table>\n" + run("sqlite3", text=table + ".mode html\nSELECT * FROM places;\n") + "</table></html>\n").encode(),
        "words.sh": bash.encode(),
        "settings.js": ("module.exports = " + run("node", "-e", util, values) + ";\n").encode(),
        "data.js": ("window.settings = " + run("node", "-e", "process.stdout.write(JSON.stringify(JSON.parse(process.argv[1]), null, 2))", values) + ";\n").encode(),
        "settings.php": ("<?php\nreturn " + run("php", "-r", "var_export(json_decode($argv[1], true));", values) + ";\n").encode(),
        "slashes.json": (run("php", "-r", "echo json_encode(json_decode($argv[1], true), JSON_PRETTY_PRINT);", values) + "\n").encode(),
        "serialised.txt": (run("php", "-r", "echo serialize(json_decode($argv[1], true));", values) + "\n").encode(),
    }


# --- the office suite


def office(places):
    """One page of text with links, and one table, converted by the office suite."""
    values = places.values()
    folder = pathlib.Path(tempfile.mkdtemp())
    page = ["<html><head><meta charset='utf-8'><title>Sheets</title></head><body>"]
    for key, value in values.items():
        page.append(f"<p>{key}:</p><p>{html.escape(value)}</p>")
        if value[1:3] == ":\\":
            page.append(f"<p><a href='{html.escape(uri(value))}'>{key}</a></p>")
    page.append("</body></html>")
    (folder / "page.html").write_text("".join(page), encoding="utf-8")
    rows = "".join(f"{key}\t{value}\n" for key, value in values.items())
    (folder / "table.csv").write_text(rows, encoding="utf-8")

    def convert(name, target, more=()):
        out = folder / "out"
        command = ["soffice", f"-env:UserInstallation=file://{folder}/profile", "--headless", *more]
        subprocess.run([*command, "--convert-to", target, "--outdir", out, folder / name], check=True, capture_output=True)
        made = out / (pathlib.Path(name).stem + "." + target.split(":")[0])
        return made.read_bytes()

    import_tabs = ["--infilter=CSV:9,34,UTF8"]
    rtf = convert("page.html", "rtf", ["--infilter=HTML (StarWriter)"])
    return {
        # The time of writing says nothing here.
        "page.rtf": re.sub(rb"\\(creatim|revtim|printim)[^{}]*", rb"\\\1\\yr2026\\mo11\\dy25", rtf),
        "page.html": convert("page.html", "html:HTML (StarWriter)", ["--infilter=HTML (StarWriter)"]),
        "commas.csv": convert("table.csv", "csv:Text - txt - csv (StarCalc):44,34,UTF8", import_tabs),
        "semicolons.csv": convert("table.csv", "csv:Text - txt - csv (StarCalc):59,34,ANSI", import_tabs),
    }


WRITERS = {
    "office-suite": office,
    "python-ini": ini,
    "python-tables": tables,
    "python-xml": xml,
    "python-plist": plists,
    "python-shell": shell,
    "python-sql": sql,
    "python-source": python,
    "packages-toml": toml,
    "packages-yaml": yaml,
    "packages-properties": properties,
    "packages-dotenv": dotenv_files,
    "packages-serialised": serialised,
    "packages-markup": markup,
    "toolkit-settings": toolkit,
    "interpreters": scripts,
}


def sheet(new):
    pairs = zip([OLD.root, OLD.maps, OLD.share], [new.root, new.maps, new.share])
    return "\n".join(f"[[move]]\nfrom = '{a}'\nto = '{b}'\n" for a, b in pairs)


def main(wanted):
    for name, writer in WRITERS.items():
        if wanted and name not in wanted:
            continue
        case = CASES / name
        shutil.rmtree(case, ignore_errors=True)
        for side, places in [("in", OLD), ("out", NEW)]:
            (case / side).mkdir(parents=True)
            # Writers of links differ over letters outside ASCII; the office suite's stand raw.
            given = OFFICE if places is NEW and writer is office else places
            for file, content in writer(given).items():
                (case / side / file).write_bytes(content)
        (case / "moves.toml").write_text(sheet(OFFICE if writer is office else NEW), encoding="utf-8", newline="\n")


main(sys.argv[1:])
