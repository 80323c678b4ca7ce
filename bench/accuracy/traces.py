#!/usr/bin/env python3
"""Whether the sheet that `trace` drafts rewrites every reference to where its target really went.

Makes trees that were moved in ways of which all is known, with one in twenty targets lost, lets
`trace` find out from names alone, rewrites copies of the settings by the drafted sheet, and compares
each reference with the truth. In the last cases two places fit equally well: there nothing may be
guessed. Prints one row a case.

    bench/accuracy/traces.py [PROGRAM]
"""

import json
import os
import random
import subprocess
import sys
import tempfile
from pathlib import Path

PROGRAM = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker")


class Case:
    def __init__(self, name, base, seen, into):
        self.name, self.base, self.seen, self.into = name, Path(base), seen, into
        self.random = random.Random(name)
        self.truth = {}  # place as written -> new place; the same if it stays
        self.lost = set()

    def disk(self, place):
        for root, folder in self.seen.items():
            if place.startswith(root):
                below = place[len(root):].strip("\\/").replace("\\", "/")
                return self.base / folder / below
        raise KeyError(place)

    def put(self, place, text="x"):
        path = self.disk(place)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)

    def moved(self, old, new, lost=None):
        """A reference to `old`, whose target is at `new` now, or is lost."""
        self.truth[old] = new
        if lost is None:
            lost = self.random.random() < 0.05
        if lost:
            self.lost.add(old)
        else:
            self.put(new, new)

    def tree(self, old, new, folders=6, files=15, name="sheet"):
        for folder in range(folders):
            for number in range(files):
                tail = f"{name} {folder}\\{name}-{folder:02}{number:03}.tif"
                self.moved(f"{old}\\{tail}", f"{new}\\{tail}")

    def run(self, *more):
        settings = self.base / "settings"
        settings.mkdir()
        places = list(self.truth)
        for number in range(0, len(places), 25):
            (settings / f"{number:05}.json").write_text(json.dumps(places[number:number + 25], indent=1))
        seen = [part for root, folder in self.seen.items() for part in ["--seen-at", f"{root}={folder}"]]
        traced = subprocess.run(
            [PROGRAM, "trace", "settings", "--no-sheet", "--elsewhere", *seen, "--into", *self.into, *more,
             "--write", "found.toml", "--format", "json"],
            cwd=self.base, capture_output=True, text=True, check=False)
        self.report = json.loads(traced.stdout)
        subprocess.run(
            [PROGRAM, "rewrite", "settings", "--sheet", "found.toml", "--yes", "--anyway", "--elsewhere",
             "--record-dir", "records"], cwd=self.base, capture_output=True, text=True, check=False)
        right = wrong = left = 0
        for number in range(0, len(places), 25):
            now = json.loads((settings / f"{number:05}.json").read_text())
            for old, new in zip(places[number:number + 25], now):
                if old in self.lost:
                    continue
                right += new.lower() == self.truth[old].lower()
                left += new == old and self.truth[old] != old
                wrong += new.lower() != self.truth[old].lower() and new != old
        certain = sum(one["certain"] for one in self.report["moves"])
        print(f"{self.name:42} {len(places) - len(self.lost):6} {right:6} {left:6} {wrong:6} {len(self.report['moves']):6} {certain:8}")
        if os.environ.get("SHOW"):
            print((self.base / "found.toml").read_text())
        return right, left, wrong


def case(name, seen, into, fill, more=()):
    with tempfile.TemporaryDirectory() as base:
        one = Case(name, base, seen, into)
        for folder in seen.values():
            (one.base / folder).mkdir(parents=True, exist_ok=True)
        fill(one)
        return one.run(*more)


H = {"H:\\": "h"}
HM = {"H:\\": "h", "M:\\": "m"}


def renamed_root(c):
    c.tree(r"D:\Herbarium", r"H:\Collections\Linden")


def letter(c):
    c.tree(r"D:\Herbarium", r"H:\Herbarium")
    c.tree(r"D:\Pictures\Talks", r"H:\Pictures\Talks", name="slide")


def merged(c):
    c.tree(r"D:\Herbarium", r"H:\All\Herbarium")
    c.tree(r"E:\Maps", r"H:\All\Maps", name="map")


def merged_into_one(c):
    c.tree(r"D:\Scans", r"H:\Scans", name="scan")
    c.tree(r"E:\More", r"H:\Scans", name="more")


def resorted(c):
    for folder in range(12):
        where = ["H:\\Sorted\\A", "H:\\Sorted\\B", "M:\\Rest"][folder % 3]
        for number in range(12):
            tail = f"Box {folder}\\plate-{folder:02}{number:03}.tif"
            c.moved(f"D:\\Herbarium\\{tail}", f"{where}\\{tail}")


def resorted_by_file(c):
    for number in range(120):
        year = ["2019", "2020", "2021"][number % 3]
        c.moved(f"D:\\Scans\\scan-{number:05}.tif", f"H:\\By Year\\{year}\\scan-{number:05}.tif")


def renamed_user(c):
    for folder in ["Documents", "Pictures\\Herbarium", "AppData\\Roaming\\Map Desk"]:
        c.tree(f"C:\\Users\\ines\\{folder}", f"C:\\Users\\ines.linden\\{folder}", folders=2, name=folder.split("\\")[-1].lower())


def five(c):
    c.tree(r"D:\Herbarium\Sheets", r"H:\Collections\Sheets")
    c.tree(r"D:\Herbarium\Maps", r"M:\Maps", name="map")
    c.tree(r"E:\Loans", r"H:\Loans 2026", name="loan")
    c.tree(r"\\mossbank\press", r"\\fernhall\press", name="print")
    c.tree(r"C:\Users\ines\Pictures", r"H:\Pictures", name="picture")


def some_stay(c):
    c.tree(r"D:\Herbarium", r"H:\Herbarium")
    for number in range(20):
        place = f"D:\\Herbarium\\Loans\\loan-{number}.doc"
        c.put(place)
        c.truth[place] = place


def one_more_level(c):
    c.tree(r"D:\Herbarium", r"H:\Herbarium\Herbarium")


def common_names(c):
    for folder in range(150):
        for name in ["index.html", "notes.txt", f"plate-{folder:04}.tif"]:
            c.moved(f"D:\\Herbarium\\Box {folder}\\{name}", f"H:\\Store\\Box {folder}\\{name}", lost=False)
    for folder in range(100):
        c.put(f"H:\\Other\\{folder}\\index.html")


def two_copies(c):
    c.tree(r"D:\Herbarium", r"H:\Collections\Herbarium")
    for old, new in c.truth.items():
        if old not in c.lost:
            c.put(new.replace("Collections", "Backup"), new)


def two_copies_one_old(c):
    """The old tree still exists, and one of the copies is of other contents."""
    c.tree(r"D:\Herbarium", r"H:\Collections\Herbarium")
    for old, new in c.truth.items():
        if old not in c.lost:
            c.put(old, new)
            c.put(new.replace("Collections", "Thumbnails"), "small")


def main():
    print(f"{'case':42} {'places':>6} {'right':>6} {'left':>6} {'wrong':>6} {'moves':>6} {'certain':>8}")
    sure = [
        case("a renamed root", H, ["h"], renamed_root),
        case("a letter changed", H, ["h"], letter),
        case("two disks merged", H, ["h"], merged),
        case("two folders merged into one", H, ["h"], merged_into_one),
        case("a collection re-sorted by folder", HM, ["h", "m"], resorted),
        case("a folder re-sorted file by file", H, ["h"], resorted_by_file),
        case("a renamed user", {"C:\\": "c"}, ["c"], renamed_user),
        case("five moves at once", {**HM, r"\\fernhall\press": "press"}, ["h", "m", "press"], five),
        case("a part stayed", {**H, "D:\\": "d"}, ["h"], some_stay),
        case("unpacked one level too deep", H, ["h"], one_more_level),
        case("names that are everywhere", H, ["h"], common_names),
        case("two copies, told apart by the old tree", {**H, "D:\\": "d"}, ["h"], two_copies_one_old, ["--old", "d"]),
    ]
    open_cases = [case("two copies that fit equally well", H, ["h"], two_copies)]
    right = all(left == wrong == 0 for _, left, wrong in sure)
    guessed = any(right or wrong for right, _, wrong in open_cases)
    print(f"\nevery reference right where names tell: {right}; guessed where they do not: {guessed}")


main()
