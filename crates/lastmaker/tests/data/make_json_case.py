#!/usr/bin/env python3
"""Writes the case python-json with Python's own json module: the same data with the old and
with the new places, in each of the styles that the module writes."""
import json
import pathlib

CASE = pathlib.Path(__file__).parent / "cases" / "python-json"


def data(root, share, letters):
    return {
        "version": 3,
        "root": root,
        "sheets": [root + r"\Sheets\2019\0412.tif", root + "\\Sheets\\Gr\u00fcn \u6a19 \U0001f33f\\x.tif"],
        "forward": root.replace("\\", "/") + "/Maps",
        "share": share + r"\labels",
        "nested": {root: {"quote": 'a "b" c', "tab": "a\tb", "slash": "a/b"}},
        "other": r"D:\HerbariumOld\x",
        "letters": letters,
        "numbers": [1, 2.5, -3e10, True, None],
    }


def write(folder, places):
    folder.mkdir(parents=True, exist_ok=True)
    styles = {
        "indented": dict(indent=2),
        "indented-raw": dict(indent=4, ensure_ascii=False),
        "compact": dict(separators=(",", ":")),
        "compact-raw": dict(separators=(",", ":"), ensure_ascii=False),
        "plain": {},
        "tabs": dict(indent="\t"),
    }
    for name, style in styles.items():
        # What else the document holds shows whether letters are escaped.
        text = json.dumps(data(*places, "Stra\u00dfe"), **style)
        (folder / f"{name}.json").write_text(text + "\n", encoding="utf-8", newline="\n")
    lines = [json.dumps(data(*places, "\u00e9")) for _ in range(3)]
    (folder / "lines.jsonl").write_text("\n".join(lines) + "\n", encoding="utf-8", newline="\n")


write(CASE / "in", ("D:\\Herbarium", r"\\mossbank\press"))
write(CASE / "out", ("H:\\K\u00e4fer \u2013 Herbarium", r"\\fernhall\press"))
(CASE / "moves.toml").write_text(
    "[[move]]\nfrom = 'D:\\Herbarium'\nto = 'H:\\K\u00e4fer \u2013 Herbarium'\n\n"
    "[[move]]\nfrom = '\\\\mossbank\\press'\nto = '\\\\fernhall\\press'\n",
    encoding="utf-8",
    newline="\n",
)
