#!/usr/bin/env python3
"""Measures what very many references in one document cost: time, and the most memory held beside three times the
document and 200 bytes a reference.

    bench/scale/references.py [PROGRAM]

JSON lines, INI, a table, a registry export in UTF-16, and plain text, with 100,000 and 300,000 references each, and a
million in JSON lines; `preview --patient --jobs 1`.
"""

import os
import resource
import subprocess
import sys
import tempfile
from pathlib import Path

PROGRAM = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else "target/release/lastmaker")
PLACE = r"D:\Herbarium\Sheets\{0:06}.tif"
DOUBLED = PLACE.replace("\\", "\\\\")
KINDS = {
    "JSON lines": ("a.jsonl", "", '{{"number":{0},"path":"' + DOUBLED + '"}}\n', "utf-8"),
    "INI": ("a.ini", "[Viewer]\r\n", "sheet{0}=" + PLACE + "\r\n", "utf-8"),
    "table": ("a.csv", "id,path\r\n", "{0}," + PLACE + "\r\n", "utf-8"),
    "registry export, UTF-16": (
        "a.reg",
        "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Software\\Viewer]\r\n",
        '"sheet{0}"="' + DOUBLED + '"\r\n',
        "utf-16",
    ),
    "plain text": ("a.txt", "", "see " + PLACE + " for it\n", "utf-8"),
}


def measured(path):
    command = [PROGRAM, "preview", path, "--patient", "--jobs", "1", "--no-sheet", "--elsewhere", "-q"]
    command += ["--record-dir", path.parent / "records", "--move", r"D:\Herbarium=H:\Collections\Herbarium"]
    start = os.times()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, _, usage = os.wait4(process.pid, 0)
    end = os.times()
    return end.elapsed - start.elapsed, usage.ru_maxrss / 1024


def main():
    print("| document | size | references | time | most memory | three times the size and 200 bytes each |")
    print("|---|---|---|---|---|---|")
    with tempfile.TemporaryDirectory() as base:
        for kind, (name, head, line, encoding) in KINDS.items():
            for number in [100_000, 300_000] + ([1_000_000] if kind == "JSON lines" else []):
                path = Path(base) / name
                # Written bit by bit: what this process holds counts for the one it starts.
                with open(path, "w", encoding=encoding, newline="") as file:
                    file.write(head)
                    for at in range(number):
                        file.write(line.format(at))
                size = path.stat().st_size
                seconds, most = measured(path)
                wanted = (3 * size + 200 * number) / 2**20
                print(f"| {kind} | {size / 2**20:.0f} MiB | {number:,} | {seconds:.1f} s | {most:.0f} MiB | {wanted:.0f} MiB |", flush=True)


os.environ["LC_ALL"] = "C"
main()
