#!/usr/bin/env python3
"""Measures how the time of each command grows as its input doubles, and prints the exponent: 1 is linear.

    bench/scale/doubling.py [PROGRAM [NAME...]]

CPU seconds, user and system, the best of three, less those of the same command with hardly any input. The exponent is
that between the smallest and the largest size. NAMEs choose rows.
"""

import math
import os
import subprocess
import sys
import tempfile
from pathlib import Path

PROGRAM = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker")
CHOSEN = sys.argv[2:]
MOVE = ["--move", r"D:\Herbarium=H:\Collections\Herbarium"]


def settings(number, folder="Sheets"):
    return "".join(rf"sheet{at}=D:\Herbarium\{folder}\{at}.tif" + "\r\n" for at in range(number))


def cpu(command, cwd):
    start = os.times()
    done = subprocess.run(command, cwd=cwd, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, check=False)
    end = os.times()
    if done.returncode not in (0, 1):
        sys.exit(f"{command} ended with {done.returncode}: {done.stderr.decode()}")
    return end.children_user + end.children_system - start.children_user - start.children_system


def run(command, desk, *more):
    of_records = command in ("history", "restore")
    usual = [] if of_records else ["--no-sheet"] + (["--elsewhere"] if command != "explain" else [])
    records = [] if command in ("survey", "explain") else ["--record-dir", desk / "records"]
    return [PROGRAM, command, *more, *usual, *records, "-q"]


def one_file(text, name="a.ini", encoding="utf-8"):
    def make(desk, number):
        (desk / "files").mkdir()
        (desk / "files" / name).write_bytes(text(number).encode(encoding))
    return make


def rewritten(desk, number):
    """A rewrite of one file, saved since, so that its edits are taken back."""
    one_file(settings)(desk, number)
    path = desk / "files/a.ini"
    subprocess.run(run("rewrite", desk, "files", *MOVE, "--yes", "--anyway", "--patient"), cwd=desk, stdout=subprocess.DEVNULL, check=False)
    path.write_bytes(path.read_bytes() + b"saved=1\r\n")


def record(desk, number):
    """A record of many files."""
    for at in range(number // 20):
        folder = desk / "files" / str(at % 50)
        folder.mkdir(parents=True, exist_ok=True)
        (folder / f"{at}.ini").write_text(settings(1))
    subprocess.run(run("rewrite", desk, "files", *MOVE, "--yes", "--anyway"), cwd=desk, stdout=subprocess.DEVNULL, check=False)


def missing(desk, number):
    """Targets that are missing, in a folder of as many that are there."""
    one_file(lambda number: settings(number // 10))(desk, number)
    seen = desk / "seen/Sheets"
    seen.mkdir(parents=True)
    for at in range(number // 10):
        (seen / f"{at:07}x.tif").write_text("")


wide = lambda number: "\r\n".join(rf"note {at}: D:\Herbarium\Sheets\{at}.tif, seen" for at in range(number))
SEEN = ["--seen-at", r"D:\Herbarium=seen"]
ROWS = {
    "`preview`, one INI": (one_file(settings), lambda desk: run("preview", desk, "files", *MOVE, "--patient")),
    "`preview`, UTF-16 in windows": (
        one_file(wide, "a.txt", "utf-16"),
        lambda desk: run("preview", desk, "files", *MOVE, "--patient", "--max-document", "1"),
    ),
    "`survey`": (one_file(settings), lambda desk: run("survey", desk, "files")),
    "`check`": (one_file(settings), lambda desk: run("check", desk, "files", *MOVE)),
    "`check`, a tenth as many missing names": (missing, lambda desk: run("check", desk, "files", *SEEN)),
    "`explain`": (one_file(settings), lambda desk: run("explain", desk, "files/a.ini", *MOVE)),
    "`restore --changed edits --preview`": (
        rewritten,
        lambda desk: run("restore", desk, "files", "--changed", "edits", "--preview"),
    ),
    "`history`, a twentieth as many files": (record, lambda desk: run("history", desk)),
}


def main():
    sizes = [10_000, 20_000, 40_000, 80_000]
    print("| run | " + " | ".join(f"{size:,}" for size in sizes) + " | exponent |\n|---|" + "---|" * (len(sizes) + 1))
    for name, (make, command) in ROWS.items():
        if CHOSEN and not any(chosen in name for chosen in CHOSEN):
            continue
        took = []
        for size in [20, *sizes]:
            with tempfile.TemporaryDirectory() as base:
                desk = Path(base)
                make(desk, size)
                took.append(min(cpu(command(desk), desk) for _ in range(3)))
        took = [max(seconds - took[0], 0.001) for seconds in took[1:]]
        exponent = math.log(took[-1] / took[0]) / math.log(sizes[-1] / sizes[0])
        print(f"| {name} | " + " | ".join(f"{seconds:.2f} s" for seconds in took) + f" | {exponent:.2f} |", flush=True)


os.environ["LC_ALL"] = "C"
main()
