#!/usr/bin/env bash
# Writes the case registry-editor with a real registry editor (Wine's): the same keys with
# the old and with the new places, imported and exported again.
#
#   make_registry_case.sh RUNNER     RUNNER runs a Windows program, keeping its registry in $1
set -euo pipefail
runner=${1:?usage: make_registry_case.sh RUNNER}
case=$(cd "$(dirname "$0")" && pwd)/cases/registry-editor
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cat >"$work/fill.py" <<'PY'
import sys
old = sys.argv[1] == "in"
root = r"D:\Herbarium" if old else r"H:\Collections\Herbarium"
share = r"\\mossbank\press" if old else r"\\fernhall\press"
esc = lambda text: text.replace("\\", "\\\\").replace('"', '\\"')
wide = lambda text: (text + "\0").encode("utf-16-le")
hexed = lambda data: ",".join(f"{byte:02x}" for byte in data)
lines = ["Windows Registry Editor Version 5.00", ""]
def key(name): lines.extend(["", f"[HKEY_CURRENT_USER\\Software\\Linden{name}]"])
def text(name, value): lines.append(f'"{esc(name)}"="{esc(value)}"')
def binary(name, kind, data): lines.append(f'"{esc(name)}"={kind}:{hexed(data)}')
key("")
lines.append(f'@="{esc(root)}"')
text("A plain path", root + r"\Sheets\2019")
text("B forward", root.replace("\\", "/") + "/Maps")
text("C letters", root + "\\M\u00f6lln\\\u6a19\u672c.tif")
text("D command", f'"C:\\Program Files\\print.exe" --labels {root}\\Labels "{root}\\a b"')
text("E other", r"D:\HerbariumOld\x")
lines.append('"F number"=dword:00000500')
binary("G expand", "hex(2)", wide(rf"%ProgramFiles%\x;{root}\Sheets\2019\0412-salix-alba.tif"))
binary("H list", "hex(7)", wide(root + r"\Labels") + wide(share + r"\labels") + wide("no place") + b"\0\0")
binary("I text in bytes", "hex", wide(root + r"\Sheets\2021\0871-tilia-cordata.tif"))
binary("J bytes", "hex", bytes(range(70)))
binary("K a name so long that its data begin on a line of their own, as a registry editor writes it", "hex(2)", wide(root))
text("L quotes", f'the "{root}" of old')
text("M empty", "")
key("\\Recent\\" + root.replace("\\", "/") + "/Sheets")
text("View", "list")
key("\\Names")
text(root + r"\Labels\wide.lbl", "2021-06-04")
text("Z", share)
open(sys.argv[2], "wb").write(("\ufeff" + "\r\n".join(lines) + "\r\n").encode("utf-16-le"))
PY
for side in in out; do
    mkdir -p "$case/$side"
    python3 "$work/fill.py" "$side" "$work/$side.reg"
    prefix=$work/prefix-$side
    (cd "$work" && "$runner" -p "$prefix" regedit /S "$side.reg")
    (cd "$work" && "$runner" -p "$prefix" regedit /E "exported-$side.reg" 'HKEY_CURRENT_USER\Software\Linden')
    cp "$work/exported-$side.reg" "$case/$side/linden.reg"
done
printf '%s\n' '[[move]]' "from = 'D:\\Herbarium'" "to = 'H:\\Collections\\Herbarium'" '' '[[move]]' \
    "from = '\\\\mossbank\\press'" "to = '\\\\fernhall\\press'" >"$case/moves.toml"
