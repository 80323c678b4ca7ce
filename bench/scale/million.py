#!/usr/bin/env python3
"""Measures a tree of 1,000,000 files, a record of 100,000, and one export of the registry of 1.5 GB.

    bench/scale/million.py [PROGRAM [TREE]]

TREE is that of `bench/make_tree.py TREE 1000000` (6 GB), made if it is not there. Wall time, the least of three, and the
most memory held.
"""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
PROGRAM = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker")
TREE = Path(sys.argv[2] if len(sys.argv) > 2 else tempfile.gettempdir() + "/lastmaker-million")
MOVE = ["--move", r"D:\Herbarium=H:\Collections\Herbarium"]


def measured(command):
    start = time.monotonic()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, _, usage = os.wait4(process.pid, 0)
    return time.monotonic() - start, usage.ru_maxrss / 1024


def row(name, command, times=1):
    runs = [measured(command) for _ in range(times)]
    seconds, most = min(runs)[0], max(most for _, most in runs)
    print(f"| {name} | {seconds:.1f} s | {most:.0f} MiB |", flush=True)


def export(path):
    block = "".join(
        f"[HKEY_CURRENT_USER\\Software\\Viewer\\{key}]\r\n" + "".join(f'"sheet{value}"="leaf root stem scan box {value}"\r\n' for value in range(12))
        for key in range(1000)
    ) + '"path"="D:\\\\Herbarium\\\\x.tif"\r\n'
    block = block.encode("utf-16-le")
    with open(path, "wb") as file:
        file.write("\ufeffWindows Registry Editor Version 5.00\r\n\r\n".encode("utf-16-le"))
        while file.tell() < 1_500_000_000:
            file.write(block)


def main():
    if not TREE.is_dir():
        subprocess.run([HERE / "make_tree.py", TREE, "1000000"], check=True)
    print("| what | time | most memory |\n|---|---|---|")
    with tempfile.TemporaryDirectory() as base:
        base = Path(base)
        usual = ["--no-sheet", "--elsewhere", "-q", "--record-dir", base / "records"]
        for jobs in ["1", "2"]:
            row(f"`preview` of 1,000,000 files, `--jobs {jobs}`", [PROGRAM, "preview", TREE, *MOVE, *usual, "--jobs", jobs], 3)
        path = base / "export.reg"
        export(path)
        row("`preview` of an export in UTF-16, 1.5 GB", [PROGRAM, "preview", path, *MOVE, *usual, "--patient"])
        path.unlink()
        for number in range(100_000):
            folder = base / "files" / str(number % 100)
            folder.mkdir(parents=True, exist_ok=True)
            (folder / f"{number}.ini").write_text(rf"path=D:\Herbarium\Sheets\{number}.tif")
        row("`rewrite` of 100,000 files", [PROGRAM, "rewrite", base / "files", *MOVE, *usual, "--yes", "--anyway"])
        row("`history` of that record", [PROGRAM, "history", "--record-dir", base / "records"], 3)
        row("a `rewrite` that finds nothing, beside it", [PROGRAM, "rewrite", base / "files", *MOVE, *usual, "--yes", "--anyway"])
        row("`restore` of it", [PROGRAM, "restore", base / "files", "--record-dir", base / "records", "--yes", "-q"])


os.environ["LC_ALL"] = "C"
main()
