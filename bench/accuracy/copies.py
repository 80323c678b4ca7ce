#!/usr/bin/env python3
"""Whether `compare` finds what goes wrong with copies made by real means, and nothing else.

Copies a tree by rsync, cp, round trips through tar and zip, and onto a FAT image (written by mtools,
read back as its names came out), checks that each is called whole as far as its means allow, plants
faults in each and checks that every one is found and none made up. Then kills a comparison of
contents in the middle, again and again, and counts what the next ones read anew.

    bench/accuracy/copies.py [PROGRAM]

Needs rsync, tar, zip, unzip, mtools, dosfstools.
"""

import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

PROGRAM = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker")
SILENT = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}


def tree(base, chance, fat=False):
    names = ["Sheets", "Maps & plans", "Gr\u00f6\u00dfe", "labels"] + ([] if fat else ["odd 'quotes'", "a: b?"])
    for top in names:
        for folder in range(4):
            for number in range(12):
                path = base / top / f"folder {folder}" / f"plate {number:03} {chance.randrange(10**6)}.tif"
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_bytes(chance.randbytes(chance.choice([0, 1, 700, 5000, 70_000])))
                os.utime(path, (1_700_000_000 + number * 2,) * 2)
    (base / "empty").mkdir()
    if not fat:
        (base / "link").symlink_to("labels/folder 0")
        (base / "dead").symlink_to("nowhere")


def compare(old, new, *more):
    ran = subprocess.run([PROGRAM, "compare", "--no-sheet", old, new, "--content", "--format", "json", *more],
                         capture_output=True, text=True, check=False)
    if ran.returncode == 2:
        sys.exit(ran.stderr)
    return json.loads(ran.stdout)["pairs"][0]


def through_fat(old, new):
    image = new.parent / "fat.img"
    subprocess.run(["mkfs.vfat", "-C", image, "65536"], check=True, **SILENT)
    for entry in old.iterdir():
        subprocess.run(["mcopy", "-i", image, "-s", "-m", entry, "::"], check=True, **SILENT)
    new.mkdir()
    subprocess.run(["mcopy", "-i", image, "-s", "-m", "-n", "::", new], check=True, **SILENT)
    image.unlink()


def by_tar(old, new):
    new.mkdir()
    archive = new.parent / "a.tar"
    subprocess.run(["tar", "cf", archive, "-C", old, "."], check=True)
    subprocess.run(["tar", "xf", archive, "-C", new], check=True)
    archive.unlink()


def by_zip(old, new):
    new.mkdir()
    archive = new.parent / "a.zip"
    subprocess.run(["zip", "-qry", archive, "."], cwd=old, check=True)
    subprocess.run(["unzip", "-q", archive, "-d", new], check=True)
    archive.unlink()


MEANS = {
    "rsync -a": lambda old, new: subprocess.run(["rsync", "-a", f"{old}/", f"{new}/"], check=True),
    "rsync -r (no times, no links)": lambda old, new: subprocess.run(["rsync", "-r", f"{old}/", f"{new}/"], check=True, **SILENT),
    "cp -a": lambda old, new: subprocess.run(["cp", "-a", old, new], check=True),
    "cp -r": lambda old, new: subprocess.run(["cp", "-r", old, new], check=True),
    "cp -rL (links followed)": lambda old, new: subprocess.run(["cp", "-rL", old, new], check=False, **SILENT),
    "tar and back": by_tar,
    "zip and back": by_zip,
    "a FAT image and back": through_fat,
}


def plant(new, chance):
    """Plants faults; the paths with their kinds."""
    files = sorted(path for path in new.rglob("*.tif") if path.relative_to(new).parts[0] != "link")
    chance.shuffle(files)
    planted = {}

    def note(path, kind):
        planted[path.relative_to(new).as_posix()] = kind

    large = [path for path in files if path.stat().st_size > 600]
    for path in large[:6]:
        data = bytearray(path.read_bytes())
        data[chance.randrange(len(data))] ^= 1
        times = path.stat()
        path.write_bytes(data)
        os.utime(path, ns=(times.st_atime_ns, times.st_mtime_ns))
        note(path, "content")
    for path in large[6:12]:
        path.write_bytes(path.read_bytes()[:-1])
        note(path, "size")
    rest = [path for path in files if path.relative_to(new).as_posix() not in planted]
    for path in rest[:6]:
        path.unlink()
        note(path, "missing")
    for path in rest[6:9]:
        extra = path.with_name("not in the old one " + path.name)
        extra.write_bytes(b"x")
        note(extra, "extra")
    for path in rest[9:12]:
        path.unlink()
        path.mkdir()
        note(path, "kind")
    for path in rest[12:15]:
        path.rename(path.with_name(path.name.upper()))
        note(path, "name")
    return planted


def main():
    print(f"{'means':32} {'whole as told':34} {'planted':>8} {'found':>6} {'made up':>8}")
    sound = True
    for number, (name, means) in enumerate(MEANS.items()):
        chance = random.Random(number)
        with tempfile.TemporaryDirectory() as base:
            old, new = Path(base) / "old", Path(base) / "new"
            old.mkdir()
            tree(old, chance, "FAT" in name)
            means(old, new)
            before = {(one["path"], one["kind"]) for one in compare(old, new)["differences"]}
            kinds = sorted({kind for _, kind in before})
            told = "whole" if not before else f"{len(before)} {', '.join(kinds)}: {', '.join(sorted(p for p, _ in before))}"
            planted = plant(new, chance)
            after = {(one["path"], one["kind"]) for one in compare(old, new)["differences"]} - before
            found = sum((path, kind) in after for path, kind in planted.items())
            made_up = len(after - set(planted.items()))
            sound &= found == len(planted) and made_up == 0
            print(f"{name:32} {told:34.34} {len(planted):8} {found:6} {made_up:8}")
    print(f"every fault found, none made up: {sound}\n")
    killed()


def killed():
    with tempfile.TemporaryDirectory() as base:
        base = Path(base)
        old, new = base / "old", base / "new"
        old.mkdir()
        data = random.Random(1).randbytes(1 << 20)
        for number in range(1500):
            (old / f"{number:05}.tif").write_bytes(number.to_bytes(4, "big") + data)
        subprocess.run(["cp", "-a", old, new], check=True)
        environment = {**os.environ, "HOME": str(base), "XDG_STATE_HOME": ""}
        arguments = [PROGRAM, "compare", "--no-sheet", old, new, "--content", "--jobs", "1"]

        def read_bytes(kill_after):
            run = subprocess.Popen(arguments, env=environment, **SILENT)
            if kill_after:
                time.sleep(kill_after)
                counted = Path(f"/proc/{run.pid}/io").read_text().split()
                run.send_signal(signal.SIGKILL)
                run.wait()
                return int(counted[1]), None
            while True:
                try:
                    counted = Path(f"/proc/{run.pid}/io").read_text().split()
                except (FileNotFoundError, ProcessLookupError, PermissionError):
                    break
                last = int(counted[1]) if len(counted) > 1 else last
                if run.poll() is not None:
                    break
            return last, run.returncode

        parts = [read_bytes(0.15)[0] for _ in range(3)]
        rest, code = read_bytes(None)
        whole = 2 * 1500 * ((1 << 20) + 4)
        print(f"a comparison of {whole >> 20} MiB killed {len(parts)} times: read {', '.join(str(part >> 20) for part in parts)} "
              f"and then {rest >> 20} MiB, {100 * (sum(parts) + rest) / whole:.0f} % of all; exit code {code}")
        shutil.rmtree(new)


main()
