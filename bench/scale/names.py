#!/usr/bin/env python3
"""Measures looking at a tree in which the old folder's name is rare, common, a word of every day, or a
whole drive, against the floor: a walk that reads each file once and looks for one literal.

    bench/scale/names.py [PROGRAM [FLOOR]]

30,000 made-up files, some 300 MB: 300 name `D:\\Herbarium`, 10,000 hold that name as something else
(`D:\\HerbariumOld`, a host, a word), all hold words of every day. A place of another sort stands in one line
of 2,000, so with the decoys one file in five has some; in a second tree in one line of 33, so nine in ten do: there
a survey has to read nearly everything. CPU seconds, user and system, medians of seven in turn in one run.
FLOOR is the binary of `bench/floor`.
"""

import os
import random
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
PROGRAM = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker")
FLOOR = os.path.abspath(sys.argv[2] if len(sys.argv) > 2 else HERE / "floor/target/release/floor")
WORDS = """data photos projects backup music video documents settings cache files program windows system user sheet label
loan map press leaf root stem scan box shelf genus species river meadow grid margin width height color font zoom layer
index count total left right upper lower enabled folder recent window title border printer paper collector date place note
key value option drive volume cabinet archive number size id path name type""".split()
DECOYS = [r"D:\HerbariumOld\x", "https://herbarium.example/x", "the herbarium is", r"C:\Herbarium\x", "herbarium_count", "\"herbarium\": 1"]
PLACES = [r"C:\Windows\System32\x.dll", "/usr/share/x", "C:/ProgramData/x.ini", r"E:\Archive\x.zip"]


def tree(base, share):
    """`share` is the share of lines that name a place of another sort."""
    chance = random.Random(30_000)
    for number in range(30_000):
        folder = base / f"{number % 37}" / f"{number // 1000}"
        folder.mkdir(parents=True, exist_ok=True)
        lines = []
        size = 0
        wanted = min(int(chance.lognormvariate(8.6, 1.0)), 200_000)
        while size < wanted:
            line = f"{chance.choice(WORDS)}={' '.join(chance.choices(WORDS, k=6))}"
            if chance.random() < share:
                line = f"{chance.choice(WORDS)}={chance.choice(PLACES)}"
            lines.append(line)
            size += len(line) + 2
        if number % 3 == 0:
            lines.insert(len(lines) // 2, f"decoy={chance.choice(DECOYS)}")
        if number % 100 == 0:
            lines.append(rf"path=D:\Herbarium\Sheets\{number}.tif")
        if number % 100 == 2:
            lines.append(r"path=C:\Program Files\Viewer\viewer.exe")
        if number % 100 == 1:
            lines.append(rf"path=D:\Data\{number}.tif")
        (folder / f"{number}.ini").write_text("\r\n".join(lines), newline="")


def cpu(command):
    start = os.times()
    subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=False)
    end = os.times()
    return end.children_user + end.children_system - start.children_user - start.children_system


def main():
    with tempfile.TemporaryDirectory() as base:
        base = Path(base)
        files, full = base / "files", base / "full"
        tree(files, 1 / 2000)
        tree(full, 1 / 33)
        total = sum(path.stat().st_size for path in files.rglob("*.ini"))
        print(f"30,000 files, {total / 1e6:.0f} MB, {os.cpu_count()} processors\n")
        usual = ["--no-sheet", "--elsewhere", "-q", "--record-dir", base / "records"]
        move = lambda command, move: [PROGRAM, command, files, "--move", move, *usual]
        runs = {
            "floor, one literal": [FLOOR, "Herbarium", files],
            "`LC_ALL=C grep -rlaF Data`": ["grep", "-rlaF", "Data", files],
            "`preview`, a name found nowhere": move("preview", r"D:\Qwertzuiop=H:\x"),
            "`preview`, a name with decoys in a third of the files": move("preview", r"D:\Herbarium=H:\x"),
            r"`preview`, `C:\Program Files`": move("preview", r"C:\Program Files=E:\x"),
            r"`preview`, a word of every day (`D:\Data`)": move("preview", r"D:\Data=H:\x"),
            r"`preview`, a whole drive (`D:\`), named in 2,300 files": move("preview", "D:\\=R:\\"),
            r"`preview`, a whole drive named nowhere (`Q:\`)": move("preview", "Q:\\=R:\\"),
            "`survey`": [PROGRAM, "survey", files, "--no-sheet", "--elsewhere", "-q"],
            "`survey`, places in nine files of ten": [PROGRAM, "survey", full, "--no-sheet", "--elsewhere", "-q"],
            "`check`, one move": move("check", r"D:\Herbarium=H:\Collections\Herbarium"),
        }
        took = {name: [] for name in runs}
        for number in range(8):
            for name, command in runs.items():
                if number:
                    took[name].append(cpu(command))
                else:
                    cpu(command)
        floor = statistics.median(took["floor, one literal"])
        print("| run | CPU | times the floor |\n|---|---|---|")
        for name, seconds in took.items():
            median = statistics.median(seconds)
            print(f"| {name} | {median:.2f} s | {median / floor:.1f} |")


os.environ["LC_ALL"] = "C"
main()
