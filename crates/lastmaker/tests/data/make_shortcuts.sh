#!/usr/bin/env bash
# Makes `shortcuts/shell-*.lnk` by the shell of Windows, or of what stands in for it. Needs
# x86_64-w64-mingw32-gcc, and in RUN a command that runs a Windows program with the drives
# D: (with Herbarium\Labels\narrow.lbl on it) and P: (where the shortcuts go).
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
x86_64-w64-mingw32-gcc -municode -o "$work/shortcuts.exe" "$here/make_shortcuts.c" -lole32 -lshell32 -luuid
$RUN "$work/shortcuts.exe" make 'P:\shell-local.lnk' 'D:\Herbarium\Labels\narrow.lbl' 'D:\Herbarium\Labels' \
    '--sheet "D:\Herbarium\Sheets\0412.tif"' 'D:\Herbarium\Labels\leaf.ico'
$RUN "$work/shortcuts.exe" make 'P:\shell-share.lnk' '\\mossbank\press\scans\index.txt' '\\mossbank\press\scans' '' \
    '\\mossbank\press\leaf.ico'
