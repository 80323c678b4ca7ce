#!/usr/bin/env python3
"""How often the first suggestion of `check` is the right one.

Makes a disk of some 30,000 files in a temporary folder, damages it in forty ways of which the right
cure is known, and in five that have none, lets settings name what was there before, and compares
what `check` suggests. Prints one row a kind of damage.

    bench/accuracy/cures.py [PROGRAM]
"""

import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import unicodedata
from pathlib import Path

PROGRAM = sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker"
ROOMS = ["Annex", "Cellar", "Gallery", "Library", "Orangery", "Reading Room", "Seed Store", "Workshop"]
FIRST = """acer alnus arnica betula bromus calluna carex corylus crataegus drosera epipactis erica fagus
fraxinus galium gentiana geum hedera humulus iris juncus juniperus larix linum lonicera luzula malus
mentha molinia nardus nuphar orchis papaver picea pinus poa populus potentilla primula prunus quercus
ranunculus rosa rubus salix sambucus saxifraga sorbus stellaria taxus thymus tilia trifolium ulmus
urtica vaccinium veronica viburnum vicia viola""".split()
SECOND = """alba alpina arvensis aurea autumnalis borealis caerulea campestris canina cordata elata
europaea glauca glutinosa grandis hirsuta lutea maritima montana nigra nivalis officinalis palustris
pendula petraea pratensis pumila repens robur rubra sylvatica tomentosa tremula uliginosa verna
vulgaris""".split()


class Disk:
    def __init__(self, base):
        self.base = base
        self.random = random.Random(20261127)
        self.names = set()
        self.expected = []  # (kind, written place, right place or None)
        for index in range(30_000):
            if index % 25 == 0:
                folder = self.folder()
            self.put(folder / self.name())

    def folder(self):
        room = self.random.choice(ROOMS)
        while True:
            folder = Path(room) / f"{self.random.choice(FIRST).title()} {self.random.choice(SECOND).title()} {self.random.choice(SECOND)}"
            if folder not in self.names:
                self.names.add(folder)
                return folder

    def name(self, end=None):
        while True:
            name = "-".join([self.random.choice(FIRST), self.random.choice(SECOND), self.random.choice(SECOND)])
            name += f"-{self.random.randrange(10_000):04}"
            if name not in self.names:
                self.names.add(name)
                return name + (end or self.random.choice([".tif", ".jpg", ".map", ".doc"]))

    def path(self, where, root="h"):
        return self.base / root / where

    def put(self, where, root="h"):
        path = self.path(where, root)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(str(where))

    def move(self, old, new, root="h", to=None):
        target = self.path(new, to or root)
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.move(self.path(old, root), target)

    def expect(self, kind, written, right):
        self.expected.append((kind, written, right))


def h(where):
    return "H:\\" + str(where).replace("/", "\\")


def missing_letter(name, random):
    at = longest_word(name)
    at += random.randrange(1, 4)
    return name[:at] + name[at + 1:]


def doubled_letter(name, random):
    at = longest_word(name) + random.randrange(1, 4)
    return name[:at] + name[at] + name[at:]


def swapped_letters(name, random):
    at = longest_word(name)
    while name[at + 1] == name[at + 2]:
        at += 1
    return name[:at + 1] + name[at + 2] + name[at + 1] + name[at + 3:]


def longest_word(name):
    best, start = (0, 0), 0
    for at in range(len(name) + 1):
        if at == len(name) or not name[at].isalpha():
            best = max(best, (at - start, -start))
            start = at + 1
    return -best[1]


FILES = {
    "file: -1 behind it": lambda n, e, r: f"{n}-1{e}",
    "file: (2) behind it": lambda n, e, r: f"{n} (2){e}",
    "file: _old behind it": lambda n, e, r: f"{n}_old{e}",
    "file: - Copy behind it": lambda n, e, r: f"{n} - Copy{e}",
    "file: _copy behind it": lambda n, e, r: f"{n}_copy{e}",
    "file: .bak behind all": lambda n, e, r: f"{n}{e}.bak",
    "file: another format": lambda n, e, r: n + {".tif": ".tiff", ".jpg": ".jpeg", ".map": ".mapx", ".doc": ".docx"}[e],
    "file: quite another format": lambda n, e, r: n + ".png",
    "file: a letter missing": lambda n, e, r: missing_letter(n, r) + e,
    "file: a letter doubled": lambda n, e, r: doubled_letter(n, r) + e,
    "file: letters swapped": lambda n, e, r: swapped_letters(n, r) + e,
    "file: blanks for dashes": lambda n, e, r: n.replace("-", " ") + e,
    "file: underscores for dashes": lambda n, e, r: n.replace("-", "_") + e,
}
FOLDERS = {
    "folder: -1 behind it": lambda n, r: n + "-1",
    "folder: (2) behind it": lambda n, r: n + " (2)",
    "folder: _old behind it": lambda n, r: n + "_old",
    "folder: - Copy behind it": lambda n, r: n + " - Copy",
    "folder: a letter missing": lambda n, r: missing_letter(n, r),
    "folder: letters swapped": lambda n, r: swapped_letters(n, r),
    "folder: underscores for blanks": lambda n, r: n.replace(" ", "_"),
    "folder: renamed altogether": lambda n, r: f"Box {r.randrange(10**6)}",
}


def damage(disk):
    r = disk.random
    for kind, change in FILES.items():
        for _ in range(20):
            folder, name = disk.folder(), disk.name()
            for _ in range(4):
                disk.put(folder / disk.name())
            stem, end = os.path.splitext(name)
            new = folder / change(stem, end, r)
            disk.put(new)
            disk.expect(kind, h(folder / name), h(new))

    def moved_file(kind, place):
        for _ in range(20):
            folder, name = disk.folder(), disk.name()
            for _ in range(4):
                disk.put(folder / disk.name())
            new = place(folder, name)
            disk.put(new)
            disk.expect(kind, h(folder / name), h(new))

    moved_file("file: a level deeper", lambda f, n: f / "sorted" / n)
    moved_file("file: a level up", lambda f, n: f.parent / n)
    moved_file("file: elsewhere by its name", lambda f, n: disk.folder() / n)
    moved_file("file: elsewhere with its folder", lambda f, n: Path("Attic") / "1999" / f.name / n)

    def moved_folder(kind, place, root="h", drive="H", members=None):
        for _ in range(12):
            folder = disk.folder()
            names = [disk.name() for _ in range(members or r.randrange(4, 20))]
            for name in names:
                new = place(folder, name)
                disk.put(new, root)
                disk.expect(kind, h(folder / name), drive + h(new)[1:])

    for kind, change in FOLDERS.items():
        new_names = {}
        moved_folder(kind, lambda f, n: f.parent / new_names.setdefault(f, change(f.name, r)) / n)
    moved_folder("folder: below another", lambda f, n: Path("Attic") / f.name / n)
    moved_folder("folder: far below another", lambda f, n: Path("Attic") / "a" / "b" / f.name / n)
    moved_folder("folder: within itself", lambda f, n: f / f.name / n)
    moved_folder("folder: gone, its files a level up", lambda f, n: f.parent / n)
    moved_folder("folder: within a new one", lambda f, n: f.parent / "wrapped" / f.name / n)
    moved_folder("folder: on another disk", lambda f, n: f / n, "m", "M")
    moved_folder("folder: on another disk, elsewhere", lambda f, n: Path("deep") / f.name / n, "m", "M")
    merged = {}
    moved_folder("folder: two became one", lambda f, n: Path("Merged") / f"Box {merged.setdefault(f, len(merged)) // 2}" / n)
    moved_folder("folder: split by its files", lambda f, n: f.parent / (f.name + (" A" if n < "m" else " B")) / n, members=16)
    moved_folder("folder: renamed, and the one above", lambda f, n: Path("Depot") / (f.name + " boxed") / n)
    # Some of the files are gone for good.
    for _ in range(8):
        folder = disk.folder()
        for index in range(40):
            name = disk.name()
            if index % 20:
                disk.put(Path("Attic") / folder.name / name)
            right = h(Path("Attic") / folder.name / name) if index % 20 else None
            disk.expect("folder: moved, some files lost", h(folder / name), right)
    # What the sheet says, before a rewrite; and what was left behind.
    for _ in range(40):
        folder, name = disk.folder(), disk.name()
        disk.put(folder / name)
        disk.expect("sheet: moved by it", "D:\\" + h(folder / name)[3:], h(folder / name))
    for _ in range(40):
        folder, name = disk.folder(), disk.name()
        disk.put(folder / name, "d")
        disk.expect("sheet: still at the old place", h(folder / name), "D:\\" + h(folder / name)[3:])
    # Systems that respect case and composition.
    for kind, change in [
        ("POSIX: another case", lambda n: n.upper()),
        ("POSIX: another case of the folder", None),
        ("POSIX: composed otherwise", lambda n: unicodedata.normalize("NFD", n)),
    ]:
        for _ in range(20):
            folder, name = disk.folder(), "B\u00e4rlapp " + disk.name()
            new = Path(str(folder).upper()) / name if change is None else folder / change(name)
            disk.put(new, "posix")
            disk.expect(kind, f"/srv/{folder}/{name}", f"/srv/{new}")
    # What has no cure: the likeliest thing in sight is another one.
    for kind, there in [
        ("trap: a sibling by its number", lambda n: n[:-1] + str((int(n[-1]) + 1) % 10)),
        ("trap: a sibling by its year", lambda n: n + " 2021"),
        ("trap: a sibling by one word", lambda n: n.split("-", 1)[0] + "-silvestris-" + n.split("-", 2)[2]),
    ]:
        for _ in range(60):
            folder, name = disk.folder(), disk.name(".tif")
            stem = name[:-4] + (" 2022" if "year" in kind else "")
            sibling = there(name[:-4])
            disk.put(folder / (sibling + ".tif"))
            disk.expect(kind, h(folder / (stem + ".tif")), None)
    for _ in range(60):
        folder = disk.folder()
        for _ in range(4):
            disk.put(folder / disk.name())
        disk.expect("trap: gone for good", h(folder / disk.name()), None)
    for index in range(60):
        disk.put(disk.folder() / "read me.txt")
        folder = disk.folder()
        disk.put(folder / disk.name())
        disk.expect("trap: a name that is everywhere", h(folder / "read me.txt"), None)


def main():
    program = os.path.abspath(PROGRAM)
    with tempfile.TemporaryDirectory() as base:
        base = Path(base)
        for root in ["d", "h", "m", "posix"]:
            (base / root).mkdir()
        disk = Disk(base)
        damage(disk)
        settings = base / "settings"
        settings.mkdir()
        written = [place for _, place, _ in disk.expected]
        for number in range(0, len(written), 50):
            (settings / f"{number:05}.json").write_text(json.dumps(written[number:number + 50], ensure_ascii=False, indent=1))
        # Places that exist: none of them may be said to dangle.
        live = [path for path in disk.base.joinpath("h").rglob("*.tif")][:4000]
        (settings / "live.json").write_text(json.dumps([h(path.relative_to(base / "h")) for path in live], indent=1))
        (base / "moves.toml").write_text(
            "[[move]]\nfrom = 'D:\\'\nto = 'H:\\'\n[seen-at]\n'D:\\' = 'd'\n'H:\\' = 'h'\n'M:\\' = 'm'\n'/srv' = 'posix'\n"
        )
        ran = subprocess.run(
            [program, "check", "settings", "--sheet", "moves.toml", "--all", "--format", "json"],
            cwd=base, capture_output=True, text=True, check=False,
        )
        told = {one["place"]: one for one in json.loads(ran.stdout)["references"]}
        rows = {}
        wrong, wrong_certain, offered = [], [], []
        for kind, place, right in disk.expected:
            row = rows.setdefault(kind, [0, 0, 0, 0])
            suggestions = told.get(place, {}).get("suggestions", [])
            first = suggestions[0] if suggestions else None
            row[0] += 1
            if right is None:
                row[1] += first is None
                if first and kind.startswith("trap: a sibling"):
                    offered.append((kind, place, first["place"]))
            elif first and unicodedata.normalize("NFC", first["place"]).lower() == unicodedata.normalize("NFC", right).lower():
                row[1] += 1
            else:
                wrong.append((kind, place, right, [one["place"] for one in suggestions]))
            if first and first["certain"]:
                row[2] += 1
                if right is None or first["place"].lower() != right.lower() and unicodedata.normalize("NFC", first["place"]).lower() != unicodedata.normalize("NFC", right).lower():
                    row[3] += 1
                    wrong_certain.append((kind, place, right, first))
        false_dangling = sum(h(path.relative_to(base / "h")) in told for path in live)
        print(f"{'damage':40} {'cases':>6} {'right':>6} {'certain':>8} {'wrong and certain':>18}")
        for kind, row in rows.items():
            print(f"{kind:40} {row[0]:6} {row[1]:6} {row[2]:8} {row[3]:18}")
        with_cure = [one for one in disk.expected if one[2] is not None]
        print(f"\n{len(rows)} kinds; of {len(with_cure)} references with one right cure it stands first for "
              f"{100 * (len(with_cure) - len(wrong)) / len(with_cure):.1f} %; wrong cures called certain: {len(wrong_certain)}; "
              f"siblings offered: {len(offered)}; of {len(live)} live places said to dangle: {false_dangling}")
        if os.environ.get("SHOW"):
            for one in (wrong + wrong_certain + offered)[:60]:
                print(one)


main()
