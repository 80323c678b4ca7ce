"""Shells and what shells read: each script shows the arguments that a command gets."""

import os
import shutil
import subprocess
from pathlib import Path

from model import Values, each, syntax

SHOW = "shopt -s expand_aliases 2>/dev/null || true\nshow() { for a in \"$@\"; do printf '%s\\0' \"$a\"; done; }\n"


def output(command: list[str], **more) -> str | None:
    """What a program prints; none if it fails."""
    done = subprocess.run(
        command, capture_output=True, timeout=60, stdin=subprocess.DEVNULL, **more
    )
    return done.stdout.decode("utf-8", "surrogateescape") if done.returncode == 0 else None


def nul_parted(text: str | None) -> Values:
    return None if text is None else text.split("\0")[:-1]


def shell(*program: str):
    env = {"PATH": "/usr/bin:/bin", "HOME": "/nonexistent", "LC_ALL": "C.UTF-8"}
    return each(lambda file: nul_parted(output([*program, str(file)], env=env)))


FORMS = [
    "show @P@/a.tif\n",
    "show @P@\n",
    "show @P@/\n",
    "show '@P@/a b'\n",
    'show "@P@/a b"\n',
    "show @P@/a\\ b\n",
    "show --data=@P@/a -x\n",
    "show --data='@P@/a b' -x\n",
    'show --data="@P@/a b" -x\n',
    "show -I@P@/a -L@P@/b\n",
    "show @P@/a @P@/b\n",
    'show @P@/"a b"/c\n',
    'show "@P@"/a\n',
    "A=@P@/a\nshow \"$A\"\n",
    "A='@P@/a b'\nshow \"$A\"\n",
    'A="@P@/a b"\nshow "$A"\n',
    "export A=@P@/a B=@P@/b\nshow \"$A\" \"$B\"\n",
    "PATH=@P@/bin:$PATH\nshow \"${PATH%%:/usr*}\"\n",
    'show "$(echo @P@/a)"\n',
    "show \"$(printf %s '@P@/a b')\"\n",
    'show "`echo @P@/a`"\n',
    "show ${V:-@P@/a}\n",
    'show "${V:-@P@/a}"\n',
    ": ${V:=@P@/a}\nshow \"$V\"\n",
    'V=@P@/a/b; show "${V#@P@}"\n',
    "cat <<EOF | { read -r A; show \"$A\"; }\nsee @P@/a\nEOF\n",
    "cat <<'EOF' | { read -r A; show \"$A\"; }\nsee @P@/a\nEOF\n",
    "cat <<EOF | { read -r A; show \"$A\"; }\n@P@/a\nEOF\n",
    "sh -c 'printf \"%s\\0\" @P@/a'\n",
    "sh -c \"printf '%s\\0' @P@/a\"\n",
    "eval 'show @P@/a'\n",
    "eval \"show '@P@/a b'\"\n",
    "case @P@/a in @P@/*) show yes;; *) show no;; esac\n",
    "if [ @P@ = @P@ ]; then show yes; else show no; fi\n",
    "for i in @P@/a @P@/b; do show \"$i\"; done\n",
    "show x/y:@P@/a:y\n",
    "show 'sync @P@/a to @P@/b'\n",
    "show \"a,@P@/b\"\n",
    "trap 'show @P@/a' EXIT\n",
    "alias v='show @P@/a'\nv\n",
    "find_it() { show @P@/a; }; find_it\n",
    "show @P@/a # and @P@/b\n",
    "show @P@/a;show @P@/b&&show @P@/c\n",
    "(show @P@/a)\n",
    "V=$(printf '%s' '@P@/a'); show \"$V\"\n",
    "show '@W@\\a'\n",
    'show "@W@\\a b"\n',
    "show @W2@\\\\a\n",
    "show '@S@\\a'\n",
]

for name, file, head, program in (
    ("bash", "a.sh", "#!/bin/bash\n", ("bash", "--norc")),
    ("dash", "a.sh", "#!/bin/sh\n", ("dash",)),
    ("zsh", "a.zsh", "", ("zsh", "-f")),
    ("mksh", "a.ksh", "", ("mksh",)),
    ("bash-by-name", ".bash_aliases", "", ("bash", "--norc")),
    ("profile", ".profile", "", ("dash",)),
    ("bash-shebang-only", "show-all", "#!/usr/bin/env bash\n", ("bash", "--norc")),
):
    syntax(name, file, FORMS, shell(*program), head=head + SHOW)

syntax(
    "bash-arrays",
    "a.bash",
    [
        'A=(@P@/a @P@/b)\nshow "${A[@]}"\n',
        "A=( '@P@/a b' \"@P@/c\" )\nshow \"${A[@]}\"\n",
        "show $'@P@/a\\tb'\n",
        "[[ @P@/a == @P@/* ]] && show yes\n",
        "show {@P@/a,@P@/b}\n",
        "while read -r l; do show \"$l\"; done <<< @P@/a\n",
        "show \"${V:-'@P@/a b'}\"\n",
        "declare -A M=([k]=@P@/a)\nshow \"${M[k]}\"\n",
    ],
    shell("bash", "--norc"),
    head=SHOW,
)

syntax(
    "fish",
    "a.fish",
    [
        "show @P@/a\n",
        "show '@P@/a b'\n",
        'show "@P@/a b"\n',
        "set A @P@/a\nshow $A\n",
        "show --data=@P@/a\n",
        "set -x PATH @P@/bin $PATH\nshow $PATH[1]\n",
    ],
    shell("fish", "--no-config"),
    head="function show; for a in $argv; printf '%s\\0' $a; end; end\n",
)


def make_reader(file: Path) -> Values:
    return nul_parted(output(["make", "-s", "-f", str(file), "all"], cwd=file.parent))


syntax(
    "make",
    "Makefile",
    [
        "all:\n\t@printf '%s\\0' @P@/a\n",
        "all:\n\t@printf '%s\\0' '@P@/a b'\n",
        "all:\n\t@printf '%s\\0' \"@P@/a b\"\n",
        "D=@P@/a\nall:\n\t@printf '%s\\0' '$(D)'\n",
        "D := @P@\nall:\n\t@printf '%s\\0' '$(D)/a'\n",
        "D ?= @P@/a # note\nall:\n\t@printf '%s\\0' '$(D)'\n",
        "D = @P@/a @P@/b\nall:\n\t@printf '%s\\0' $(D)\n",
        "D = -I@P@/a -L@P@/b\nall:\n\t@printf '%s\\0' $(D)\n",
        "F = $(wildcard @P@/x)$(addprefix @P@/,a)\nall:\n\t@printf '%s\\0' '$(F)'\n",
        "all: ; @printf '%s\\0' @P@/a\n",
        "export D=@P@/a\nall:\n\t@printf '%s\\0' \"$$D\"\n",
        "ifeq (@P@,@P@)\nD=yes\nendif\nall:\n\t@printf '%s\\0' '$(D)'\n",
        "define D\nsee @P@/a\nendef\nall:\n\t@printf '%s\\0' '$(D)'\n",
    ],
    each(make_reader),
)

def cron_line(file: Path) -> Values:
    """The command of a line of a crontab, as crontab(5) reads it: an unescaped percent sign is a
    newline, and the shell reads what is before it."""
    values = []
    for line in file.read_text(errors="surrogateescape").splitlines():
        if not line.strip() or line.startswith("#"):
            continue
        first = line.split()[0]
        if "=" in first and not first[0].isdigit() and not first.startswith(("*", "@")):
            name, _, value = line.partition("=")
            value = value.strip()
            if len(value) > 1 and value[0] in "'\"" and value[-1] == value[0]:
                value = value[1:-1]
            values.append(value)
            continue
        command = line.split(None, 1 if first.startswith("@") else 5)[-1]
        letters, escaped, stdin = [], False, None
        for at, letter in enumerate(command):
            if escaped:
                if letter != "%":
                    letters.append("\\")
                letters.append(letter)
                escaped = False
            elif letter == "\\":
                escaped = True
            elif letter == "%":
                stdin = command[at + 1 :]
                break
            else:
                letters.append(letter)
        shown = output(["dash", "-c", SHOW + "".join(letters)])
        if shown is None:
            return None
        values += nul_parted(shown) + ([stdin] if stdin is not None else [])
    return values


syntax(
    "crontab",
    "crontab",
    [
        "0 5 * * * show @P@/a\n",
        "0 5 * * * show '@P@/a b'\n",
        '0 5 * * * show "@P@/a b"\n',
        "@daily show @P@/a --log=@P@/b\n",
        "LOG=@P@/a\n0 5 * * * show x\n",
        'LOG="@P@/a b"\n0 5 * * * show x\n',
        "*/5 * * * * show @P@/a && show @P@/b\n",
    ],
    each(cron_line),
    head="# m h dom mon dow command\n",
)


def wine_cmd(files: list[Path]) -> dict[Path, Values]:
    """Each script run by Wine's command interpreter: the program it calls shows its arguments."""
    if shutil.which("wine") is None:
        return {file: None for file in files}
    env = dict(os.environ, WINEDEBUG="-all", WINEPREFIX="/tmp/jury-wine", WINEARCH="win64")
    env |= {"WINEDLLOVERRIDES": "mscoree,mshtml=;winemenubuilder.exe=d"}
    env.pop("DISPLAY", None)
    if not Path(env["WINEPREFIX"]).exists():
        subprocess.run(["wineboot", "-i"], env=env, capture_output=True)
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    subprocess.run(["wineserver", "-p"], env=env, **quiet)
    return {file: one_cmd(file, env) for file in files}


def one_cmd(file: Path, env: dict[str, str]) -> Values:
    # What Wine starts beside the script would hold a pipe open.
    shown = file.with_suffix(".shown")
    with open(shown, "wb") as out:
        subprocess.run(
            ["wine", "cmd", "/c", "Z:" + str(file).replace("/", "\\")],
            stdout=out,
            stderr=subprocess.DEVNULL,
            env=env,
            timeout=60,
            stdin=subprocess.DEVNULL,
        )
    text = shown.read_bytes().decode("utf-8", "replace")
    shown.unlink()
    return text.replace("\r", "").split("\n")


syntax(
    "batch",
    "a.bat",
    [
        "echo @W@\\a\n",
        'echo "@W@\\a b"\n',
        "set R=@W@\\a\necho %R%\n",
        'set "R=@W@\\a"\necho "%R%"\n',
        "call :show @W@\\a @W@\\b\n",
        'call :show "@W@\\a b" /x\n',
        "call :show /data:@W@\\a\n",
        "call :show --data=@W@\\a\n",
        'call :show --data="@W@\\a b"\n',
        "if exist @W@\\a (echo yes) else (echo no @W@\\b)\n",
        "for %%i in (@W@\\a @W@\\b) do echo %%i\n",
        'for %%i in ("@W@\\a b") do echo %%i\n',
        "echo x | findstr x && echo @W@\\a\n",
        "(echo @W@\\a)\n",
        "call :show @S@\\a\n",
        'call :show "@S@\\a b"\n',
        "call :show @F@/a\n",
        "echo see @W@\\a>con\n",
        "cd @W@\\a&echo %ERRORLEVEL%\n",
        "if \"@W@\\a\"==\"@W@\\a\" echo yes\n",
        "if @W@\\a==@W@\\a echo yes\n",
    ],
    wine_cmd,
    head="@echo off\n",
    foot="goto :eof\n:show\necho [%~1] [%~2] [%~3]\n",
    newline="\r\n",
)
