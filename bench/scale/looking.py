#!/usr/bin/env python3
"""Measures comparing, checking and tracing side by side with standard tools, in one run.

    bench/scale/looking.py [PROGRAM]

- contents of 20,000 files and three large ones against `diff -rq`, sizes against two `find -printf` and `comm`;
- `check` of 12,000 settings of which 6,000 targets are missing against `preview` of the same;
- the index of 10,000, 100,000 and 1,000,000 names, by a trace into them.

Needs diff, find, sort, comm, GNU time; some 4 GB under the temporary folder.
"""

import json
import os
import random
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

PROGRAM = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker")
SILENT = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}


def measured(command, shell=False):
    """Seconds, and the most memory held in MiB."""
    with tempfile.NamedTemporaryFile() as told:
        command = ["/bin/bash", "-c", command] if shell else command
        start = time.monotonic()
        subprocess.run(["/usr/bin/time", "-f", "%M", "-o", told.name, *command], check=False, **SILENT)
        seconds = time.monotonic() - start
        return seconds, int(Path(told.name).read_text().split()[-1]) / 1024


def in_turn(commands, rounds=7):
    """Medians of rounds in which each is run once, after one that is not counted."""
    runs = {name: [] for name in commands}
    for number in range(rounds + 1):
        for name, command in commands.items():
            took = measured(command, isinstance(command, str))
            if number:
                runs[name].append(took)
    for name, took in runs.items():
        seconds = statistics.median(one[0] for one in took)
        print(f"| {name} | {seconds:.2f} s | {max(one[1] for one in took):.0f} MiB |")


def copies(base):
    chance = random.Random(3)
    blob = chance.randbytes(1 << 20)
    for number in range(20_000):
        folder = base / "old" / str(number % 40) / str(number // 1000)
        folder.mkdir(parents=True, exist_ok=True)
        length = chance.randrange(1000, 60_000)
        at = chance.randrange(len(blob) - length)
        (folder / f"plate {number}.tif").write_bytes(blob[at:at + length])
    for number in range(3):
        (base / "old" / f"large {number}.bin").write_bytes(os.urandom(150_000_000))
    subprocess.run(["cp", "-a", base / "old", base / "new"], check=True)
    listing = "cd '{}' && find . -printf '%P %s %y\\n' | LC_ALL=C sort"
    old, new = base / "old", base / "new"
    print(f"\n20,003 files, {sum(p.stat().st_size for p in old.rglob('*') if p.is_file()) / 1e9:.2f} GB on each side\n")
    print("| what | time | most memory |\n|---|---|---|")
    in_turn({
        "`diff -rq`": ["diff", "-rq", old, new],
        "`compare --content`": [PROGRAM, "compare", "--no-sheet", "-q", "--content", old, new],
        "two `find -printf`, sorted, and `comm`": f"comm -3 <({listing.format(old)}) <({listing.format(new)})",
        "`compare`": [PROGRAM, "compare", "--no-sheet", "-q", old, new],
    })


def missing(base):
    chance = random.Random(5)
    for number in range(12_000):
        folder = base / "h" / "Collections" / "Herbarium" / f"Box {number // 200}"
        folder.mkdir(parents=True, exist_ok=True)
        name = f"plate-{chance.randrange(10**9):09}-{number}.tif"
        if number % 2 == 0:
            (folder / name).touch()
        elif number % 4 == 1:
            (folder / name.replace("plate-", "plate_")).touch()
        settings = base / "settings" / str(number // 100)
        settings.mkdir(parents=True, exist_ok=True)
        place = "H:\\Collections\\Herbarium\\" + f"Box {number // 200}\\{name}"
        (settings / f"{number}.json").write_text(json.dumps({"sheet": place, "more": "y" * 2000}))
    usual = ["--no-sheet", "--elsewhere", "--seen-at", f"H:\\={base / 'h'}", "--record-dir", base / "records", "-q"]
    print("\n12,000 settings, 6,000 missing targets, of which 3,000 were renamed\n")
    print("| what | time | most memory |\n|---|---|---|")
    in_turn({
        "`preview`": [PROGRAM, "preview", base / "settings", "--move", r"H:\Collections\Herbarium=M:\Herbarium", *usual],
        "`check`": [PROGRAM, "check", base / "settings", "--move", r"D:\Herbarium=H:\Collections\Herbarium", *usual],
    })


def index(base):
    settings = base / "few"
    settings.mkdir()
    places = [f"D:\\Old\\folder {folder}\\plate-{folder:04}-{number:05}.tif"
              for folder in range(0, 1000, 7) for number in range(0, 1000, 100)]
    (settings / "a.json").write_text(json.dumps(places))
    print("\n| names | `trace` into them | most memory |\n|---|---|---|")
    made = 0
    for most in [10, 100, 1000]:
        while made < most:
            folder = base / "names" / f"room {made % 10}" / f"folder {made}"
            folder.mkdir(parents=True)
            for number in range(1000):
                os.close(os.open(folder / f"plate-{made:04}-{number:05}.tif", os.O_CREAT | os.O_WRONLY))
            made += 1
        command = [PROGRAM, "trace", settings, "--no-sheet", "--elsewhere", "-q", "--seen-at", f"H:\\={base / 'names'}",
                   "--into", base / "names"]
        took = [measured(command) for _ in range(4)][1:]
        seconds = statistics.median(one[0] for one in took)
        print(f"| {most * 1000:,} | {seconds:.2f} s | {max(one[1] for one in took):.0f} MiB |")


with tempfile.TemporaryDirectory() as folder:
    for part in [copies, missing, index]:
        part(Path(folder))
