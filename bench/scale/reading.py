#!/usr/bin/env python3
"""Measures how fast each format is read in full, on one core.

    bench/scale/reading.py [PROGRAM [NAME...]]

For each format some 24 MB of made-up documents of 60 KB, a place in one line of 40; `survey --jobs 1` over them, CPU
seconds of user time, the best of nine, less the time for the same files with nothing in them. NAMEs choose formats.
"""

import os
import random
import subprocess
import sys
import tempfile
from pathlib import Path

PROGRAM = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker")
CHOSEN = sys.argv[2:]
WORDS = "sheet label loan map press leaf root stem scan box shelf genus species river meadow width height color font zoom".split()
FILES, SIZE = 2000, 60_000
chance = random.Random(13)


def word():
    return chance.choice(WORDS)


def words(number=6):
    return " ".join(word() for _ in range(number))


def value():
    """What a line says: a place in one of 40."""
    if chance.random() < 1 / 40:
        return rf"C:\Collections\{word()}\{chance.randrange(9999)}.tif"
    return words()


def lines(line, head="", tail=""):
    def document():
        parts = [head]
        size = 0
        while size < SIZE:
            parts.append(line())
            size += len(parts[-1])
        return "".join(parts) + tail
    return document


doubled = lambda: value().replace("\\", "\\\\")
number = lambda: chance.randrange(99999)


def json_lines():
    return f'  "{word()}{number()}": {{"title": "{words(4)}", "path": "{doubled()}", "count": {number()}}},\n'


FORMATS = {
    "JSON (.json)": ("a.json", lines(json_lines, "{\n", '  "end": null\n}\n')),
    "JSON lines (.jsonl)": ("a.jsonl", lines(lambda: f'{{"title": "{words(4)}", "path": "{doubled()}", "count": {number()}}}\n')),
    "INI (.ini)": ("a.ini", lines(lambda: f"{word()}{number()}={value()}\r\n", "[Viewer]\r\n")),
    "settings (.conf)": ("a.conf", lines(lambda: f"{word()} = {value()}\n")),
    "XML (.xml)": ("a.xml", lines(lambda: f'  <{(w := word())} id="{number()}" name="{words(2)}">{value()}</{w}>\n', "<?xml version=\"1.0\"?>\n<all>\n", "</all>\n")),
    "registry export, UTF-16 (.reg)": ("a.reg", lines(lambda: f'"{word()}{number()}"="{doubled()}"\r\n', "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Software\\Viewer]\r\n")),
    "registry export, version 4 (.reg)": ("a.reg", lines(lambda: f'"{word()}{number()}"="{doubled()}"\r\n', "REGEDIT4\r\n\r\n[HKEY_CURRENT_USER\\Software\\Viewer]\r\n")),
    "plain text (.txt)": ("a.txt", lines(lambda: f"{words(5)} {value()}\n")),
    "unknown text": ("a.xyz", lines(lambda: f"{words(5)} {value()}\n")),
    "batch (.cmd)": ("a.cmd", lines(lambda: chance.choice([f"set {word()}={value()}\r\n", f"copy \"{value()}\" {word()}.txt\r\n", f"echo {words()}\r\n"]))),
    "PowerShell (.ps1)": ("a.ps1", lines(lambda: f"${word()} = '{value()}'\n")),
    "shell (.sh)": ("a.sh", lines(lambda: chance.choice([f"{word()}='{value()}'\n", f"cp {word()} {word()}.txt\n"]), "#!/bin/sh\n")),
    "YAML (.yaml)": ("a.yaml", lines(lambda: f"{word()}{number()}: '{value()}'\n")),
    "TOML (.toml)": ("a.toml", lines(lambda: f"{word()}{number()} = '{value()}'\n")),
    "CSV (.csv)": ("a.csv", lines(lambda: f"{number()},{word()},{value()},{words(3)}\n")),
    "properties (.properties)": ("a.properties", lines(lambda: f"{word()}.{number()}={doubled()}\n")),
    "HTML (.html)": ("a.html", lines(lambda: f'<p class="{word()}"><a href="{word()}.html">{words(3)}</a> {value()}</p>\n', "<!doctype html>\n<html><body>\n", "</body></html>\n")),
    "Markdown (.md)": ("a.md", lines(lambda: f"- {words(4)} `{value()}` [{word()}]({word()}.md)\n")),
    "RTF (.rtf)": ("a.rtf", lines(lambda: f"\\pard {words(4)} {doubled()}\\par\n", "{\\rtf1\\ansi ", "}")),
    "Python (.py)": ("a.py", lines(lambda: f"{word()}{number()} = '{doubled()}'  # {words(2)}\n")),
    "C (.c)": ("a.c", lines(lambda: f'static const char *{word()}{number()} = "{doubled()}"; /* {words(2)} */\n')),
    "Lua (.lua)": ("a.lua", lines(lambda: f'{word()}{number()} = "{doubled()}"\n')),
    "service unit (.service)": ("a.service", lines(lambda: f"Environment={word()}={value()}\n", "[Unit]\nDescription=x\n[Service]\n")),
    "desktop entry (.desktop)": ("a.desktop", lines(lambda: f"{word()}{number()}={value()}\n", "[Desktop Entry]\n")),
}


def seconds(folder):
    command = [PROGRAM, "survey", folder, "--jobs", "1", "--no-sheet", "--elsewhere", "-q"]
    best = None
    for _ in range(9):
        start = os.times()
        subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=False)
        end = os.times()
        took = end.children_user - start.children_user
        best = took if best is None else min(best, took)
    return best


def main():
    print("| format | MB/s |\n|---|---|")
    with tempfile.TemporaryDirectory() as base:
        empty = Path(base) / "empty"
        empty.mkdir()
        for at in range(FILES):
            (empty / f"{at}.txt").write_text("")
        nothing = seconds(empty)
        for name, (file, document) in FORMATS.items():
            if CHOSEN and not any(chosen in name for chosen in CHOSEN):
                continue
            folder = Path(base) / file
            folder.mkdir(exist_ok=True)
            made = [document() for _ in range(8)]
            encoding = "utf-16" if "UTF-16" in name else "utf-8"
            total = 0
            for at in range(FILES):
                data = made[at % 8].encode(encoding)
                total += len(data)
                (folder / f"{at}-{file}").write_bytes(data)
            took = max(seconds(folder) - nothing, 0.001)
            print(f"| {name} | {total / 1e6 / took:.0f} |", flush=True)
            for path in folder.iterdir():
                path.unlink()


os.environ["LC_ALL"] = "C"
main()
