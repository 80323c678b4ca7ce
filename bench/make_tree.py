#!/usr/bin/env python3
"""Makes the tree that the benchmarks run on: made-up settings of many programs.

    bench/make_tree.py FOLDER [FILES]

100,000 files by default, about 600 MB, sizes heavy-tailed, 2 % with references to
D:\\Herbarium, 5 % in UTF-16, 8 % binary. The same arguments give the same bytes.
"""
import json
import pathlib
import random
import sys

WORDS = """sheet label loan map press leaf root stem scan box shelf genus species river meadow grid
margin width height color font zoom layer index count total left right upper lower enabled folder
recent window title border printer paper collector date place note key value option drive volume
cabinet specimen genera herb barium archive number window size""".split()
OLD = "D:\\Herbarium"


def words(rng, size):
    out = []
    length = 0
    while length < size:
        word = rng.choice(WORDS)
        out.append(word)
        length += len(word) + 1
    return out


def settings(rng, size, references):
    """INI-like text with `references` places in it."""
    lines = []
    pool = words(rng, size)
    at = 0
    while at < len(pool):
        take = pool[at : at + 6]
        at += 6
        lines.append(f"{take[0]}={' '.join(take[1:])}")
    for _ in range(references):
        name = rng.choice(WORDS)
        lines.insert(rng.randrange(len(lines) + 1), f"{name}={OLD}\\{rng.choice(WORDS)}\\{rng.randrange(9999):04}.tif")
    return "\r\n".join(lines) + "\r\n"


def document(rng, size, references):
    """JSON with `references` places in it."""
    pool = words(rng, size)
    entries = {f"{word}{index}": pool[index - 3 : index] for index, word in enumerate(pool) if index % 4 == 3}
    for index in range(references):
        entries[f"path{index}"] = f"{OLD}\\{rng.choice(WORDS)}\\{rng.randrange(9999):04}.tif"
    return json.dumps(entries, indent=2)


def main():
    root = pathlib.Path(sys.argv[1])
    count = int(sys.argv[2]) if len(sys.argv) > 2 else 100_000
    rng = random.Random(20_260_603)
    noise = rng.randbytes(1 << 20)
    total = 0
    # A few texts are made and cut, so that making the tree takes a minute and not an hour.
    texts = [settings(rng, 300_000, 0) for _ in range(4)]
    for index in range(count):
        folder = root / f"program{index % 97:02}" / f"profile{index // 97 % 20:02}"
        if index < 97 * 20:
            folder.mkdir(parents=True, exist_ok=True)
        size = min(int(rng.paretovariate(1.12) * 960), 1_500_000)
        kind = rng.random()
        named = rng.random() < 0.02
        if kind < 0.08 and not named:
            start = rng.randrange(len(noise) // 2)
            content = (noise[start:] * (1 + size // len(noise)))[:size]
            suffix = "dat"
        elif kind < 0.40 and size < 100_000:
            content = document(rng, size // 2, rng.randrange(1, 6) if named else 0).encode()
            suffix = "json"
        else:
            text = rng.choice(texts)
            start = rng.randrange(1000)
            text = (text[start:] * (1 + size // len(text)))[:size]
            if named:
                text += settings(rng, 200, rng.randrange(1, 6))
            wide = rng.random() < 0.07
            content = ("\ufeff" + text).encode("utf-16-le") if wide else text.encode()
            suffix = "ini"
        total += len(content)
        (folder / f"{rng.choice(WORDS)}{index:06}.{suffix}").write_bytes(content)
    print(f"{count} files, {total / 1e6:.0f} MB in {root}")


main()
