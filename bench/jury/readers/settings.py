"""Settings lines of many programs."""

import configparser
import os
import pwd
import re
import shlex
import subprocess
from pathlib import Path

from model import Values, each, syntax

from .shells import nul_parted, output


def config_parser(**options):
    def read(file: Path) -> Values:
        parser = configparser.ConfigParser(**options)
        parser.optionxform = str
        parser.read_string(file.read_text())
        return [v for s in parser.sections() for k, v in parser.items(s)]

    return each(read)


INI_FORMS = [
    "k=@W@\\a\n",
    "k = @W@\\a b\n",
    "k=@P@/a\n",
    "k: @P@/a\n",
    "k=@P@\n",
    "command=@P@/bin/view\n",
    "run_dir=@P@/run\n",
    "imagePath=@W@\\a b.tif\n",
    "optionsFile=@W@\\a\n",
    "launch options=@W@\\a\n",
    "list=@W@\\a;@W@\\b\n",
    "list=@P@/a,@P@/b\n",
    "list=@P@/a:@P@/b\n",
    "cmd=@P@/bin/view --in @P@/a\n",
    'cmd="@P@/bin/view" "@P@/a b"\n',
    "cmd=@W@\\v.exe @W@\\a.tif\n",
    'cmd="@W@\\v.exe" "@W@\\a b.tif"\n',
    "k=see @P@/a for it\n",
    "k=@S@\\a\n",
    "k=file://@P@/a\n",
    "k=file:///@F@/a\n",
    "; note\n# note\nk=@P@/a\nj=1\n",
    "url=sqlite:///@P@/a.db\n",
]
syntax("ini-raw", "a.ini", INI_FORMS, config_parser(interpolation=None), head="[a]\n")
syntax("ini-interpolated", "setup.cfg", INI_FORMS, config_parser(), head="[a]\n")
syntax(
    "ini-inline-comments",
    "b.ini",
    INI_FORMS,
    config_parser(interpolation=None, inline_comment_prefixes=("#", ";")),
    head="[a]\n",
)


def config_obj(file: Path) -> Values:
    from configobj import ConfigObj

    parsed = ConfigObj(str(file), encoding="utf-8", interpolation=False, list_values=True)
    values = []
    for value in parsed["a"].values():
        values += value if isinstance(value, list) else [value]
    return values


syntax("configobj", "c.ini", [f for f in INI_FORMS if "k: " not in f], each(config_obj), head="[a]\n")


def git_config(file: Path) -> Values:
    text = output(["git", "config", "--file", str(file), "--null", "--list"])
    return None if text is None else [e.partition("\n")[2] for e in text.split("\0")[:-1]]


syntax(
    "git-config",
    ".gitconfig",
    [
        "[a]\n\tk = @P@/a\n",
        '[a]\n\tk = "@P@/a b"\n',
        "[a]\n\tk = @P@/a b\n",
        "[core]\n\thooksPath = @P@\n",
        "[a]\n\tk = @F@/a\n",
        '[a]\n\tk = "@W2@\\\\a"\n',
        "[a]\n\tk = @W2@\\\\a\n",
        "[include]\n\tpath = @P@/x # note\n",
        '[credential]\n\thelper = "!@P@/bin/helper --x"\n',
        "[alias]\n\tv = !ls @P@/a\n",
        '[safe]\n\tdirectory = @P@/a\n\tdirectory = "@F@/b"\n',
        "[core]\n\teditor = '@P@/bin/ed it' --wait\n",
    ],
    each(git_config),
    together=False,
)


def dotenv_python(file: Path) -> Values:
    from dotenv import dotenv_values

    found = dotenv_values(file, interpolate=True)
    return None if any(v is None for v in found.values()) else list(found.values())


def dotenv_shell(file: Path) -> Values:
    names = re.findall(r"^(?:export )?(\w+)=", file.read_text(), re.M)
    show = "".join(f'printf "%s\\0" "${n}";' for n in names)
    return nul_parted(output(["dash", "-c", f'. "{file}"; {show}'], env={"PATH": "/usr/bin"}))


ENV_FORMS = [
    "A=@P@/a\n",
    "A='@P@/a b'\n",
    'A="@P@/a b"\n',
    "export A=@P@/a\n",
    "A=@P@/a # note\n",
    "A=@P@/a:@P@/b\n",
    "A=${B:-@P@/a}\n",
    'A="${B:-@P@/a}"\n',
    "A=@P@\n",
    "A=@F@/a\n",
    "A='@W@\\a'\n",
    "A=file://@P@/a\n",
    'CMD="@P@/bin/v --in @P@/a"\n',
]
syntax("dotenv-python", ".env", ENV_FORMS, each(dotenv_python))
syntax("dotenv-shell", "b.env", ENV_FORMS, each(dotenv_shell))


def java_properties(files: list[Path]) -> dict[Path, Values]:
    source = Path(__file__).with_name("Properties.java")
    done = subprocess.run(
        ["java", str(source)],
        input="\n".join(map(str, files)).encode(),
        capture_output=True,
        timeout=300,
    )
    values = [part.split("\0")[:-1] for part in done.stdout.decode().split("\1")]
    return dict(zip(files, values))


PROPERTY_FORMS = [
    "k=@P@/a\n",
    "k = @P@/a b\n",
    "k=@W2@\\\\a\n",
    "k=D\\:\\\\Herbarium\\\\a\n",
    "k: @P@/a\n",
    "k @P@/a\n",
    "k=@F@/a\n",
    "k=@P@/a,\\\n  @P@/b\n",
    "k=@P@/a:@P@/b\n",
    "k=@S2@\\\\a\n",
    "k=@S2@\\\\a\\u00e9\n",
    "command=@P@/bin/v --in @P@/a\n",
    "k=file\\:@P@/a\n",
    "@P@/a=1\n",
]
syntax("properties", "a.properties", PROPERTY_FORMS, java_properties)
syntax("prefs", "a.prefs", ["eclipse.preferences.version=1\n" + f for f in PROPERTY_FORMS], java_properties)

UNIT_FORMS = [
    "ExecStart=@P@/bin/v\n",
    "ExecStart=@P@/bin/v --in @P@/a\n",
    'ExecStart=/bin/echo "@P@/a b"\n',
    "ExecStart=/bin/echo '@P@/a b'\n",
    "ExecStart=-@P@/bin/v -x\n",
    "ExecStart=+@P@/bin/v -x\n",
    "ExecStart=/bin/echo --data=@P@/a\n",
    'ExecStart=/bin/echo --data="@P@/a b"\n',
    "ExecStart=/bin/sh -c 'ls @P@/a'\n",
    'ExecStart=/bin/sh -c "ls @P@/a"\n',
    "ExecStart=/bin/echo @P@/a \\\n  @P@/b\n",
    "ExecStart=/bin/echo a@P@/b\n",
    "ExecStart=/bin/echo %h @P@/a\n",
    "ExecStart=/bin/echo @P@/a;b\n",
    "ExecStart=/bin/echo @P@/a ; /bin/echo @P@/b\n",
    "ExecStart=/bin/true\nWorkingDirectory=@P@/a\n",
    "ExecStart=/bin/true\nWorkingDirectory=-@P@/a b\n",
    "ExecStart=/bin/true\nEnvironment=A=@P@/a\n",
    'ExecStart=/bin/true\nEnvironment="A=@P@/a b" B=@P@/b\n',
    "ExecStart=/bin/true\nEnvironment=A=@P@/a B=x\n",
    "ExecStart=/bin/true\nEnvironmentFile=@P@/a\n",
    "ExecStart=/bin/true\nEnvironmentFile=-@P@/a b\n",
    "ExecStart=/bin/true\nStandardOutput=file:@P@/a\n",
    "ExecStart=/bin/true\nStandardOutput=append:@P@/a b\n",
    "ExecStart=/bin/true\nReadWritePaths=@P@/a -@P@/b\n",
    "ExecStart=/bin/true\nBindPaths=@P@/a:@P@/b\n",
    "ExecStart=/bin/true\nLoadCredential=x:@P@/a\n",
    "ExecStart=/bin/true\nRootDirectory=@P@/a\n",
    "ExecStart=/bin/true\nPIDFile=@P@/a\n",
]


def units(files: list[Path]) -> dict[Path, Values]:
    """The units as the service manager itself has them after loading."""
    import tempfile

    folder = Path(tempfile.mkdtemp(prefix="jury-units-"))
    wants = []
    for index, file in enumerate(files):
        (folder / f"jury{index:04}.service").write_bytes(file.read_bytes())
        wants.append(f"Wants=jury{index:04}.service")
    (folder / "jury.target").write_text("[Unit]\n" + "\n".join(wants) + "\n")
    nobody = pwd.getpwnam("nobody")
    for path in [folder, *folder.iterdir()]:
        os.chmod(path, 0o755)
        os.chown(path, nobody.pw_uid, nobody.pw_gid)
    runtime = folder / "run"
    runtime.mkdir()
    os.chown(runtime, nobody.pw_uid, nobody.pw_gid)
    env = {"XDG_RUNTIME_DIR": str(runtime), "SYSTEMD_UNIT_PATH": f"{folder}:", "PATH": "/usr/bin", "HOME": "/nonexistent", "LC_ALL": "C.UTF-8"}
    done = subprocess.run(
        ["/lib/systemd/systemd", "--test", "--user", "--unit=jury.target"],
        capture_output=True, env=env, user="nobody", timeout=120, cwd="/",
    )
    text = (done.stdout + done.stderr).decode("utf-8", "replace")
    keep = (
        "Command Line:", "WorkingDirectory:", "Environment:", "EnvironmentFile:",
        "StandardOutputFile", "ReadWritePaths", "BindPaths:", "RootDirectory:", "PIDFile:", "LoadCredential",
    )
    result = {file: [] for file in files}
    current = None
    for line in text.splitlines():
        if start := re.match(r"\s*-> Unit (\S+):", line):
            index = re.fullmatch(r"jury(\d+)\.service", start[1])
            current = files[int(index[1])] if index else None
        elif current is not None and (body := line.strip()).startswith(keep):
            if body.startswith("Environment:"):
                result[current] += [body.partition(":")[2].strip()]
            elif body.startswith("Command Line:"):
                # What is doubled here is single for the program.
                plain = body.partition(":")[2].replace("\\$", "$").replace("$$", "$").replace("\\`", "`")
                try:
                    result[current] += shlex.split(plain)
                except ValueError:
                    result[current] += [body]
            else:
                result[current].append(body)
    subprocess.run(["rm", "-rf", str(folder)])
    return result


syntax("unit", "a.service", UNIT_FORMS, units, head="[Service]\n")


def desktop(file: Path) -> Values:
    """By the desktop entry specification: escapes of strings first, then the quoting of Exec."""
    checked = subprocess.run(["desktop-file-validate", str(file)], capture_output=True)
    if b"error" in checked.stdout:
        return None
    values = []
    for line in file.read_text().splitlines():
        key, sign, value = line.partition("=")
        if not sign or key in ("Type", "Name"):
            continue
        value = re.sub(
            r"\\(.)", lambda m: {"s": " ", "n": "\n", "t": "\t", "r": "\r", "\\": "\\"}.get(m[1], m[0]), value
        )
        values += exec_words(value) if key == "Exec" else [value]
    return values


def exec_words(value: str) -> list[str]:
    words, word, at, begun = [], "", 0, False
    while at < len(value):
        letter = value[at]
        if letter == '"':
            begun, at = True, at + 1
            while value[at] != '"':
                if value[at] == "\\":
                    at += 1
                word += value[at]
                at += 1
        elif letter == " ":
            if begun or word:
                words.append(word)
            word, begun = "", False
        else:
            word += letter
        at += 1
    if begun or word:
        words.append(word)
    # `%%` is a percent sign, other codes are the launcher's.
    return [w.replace("%%", "\0").replace("\0", "%") for w in words]


syntax(
    "desktop-entry",
    "a.desktop",
    [
        "Exec=@P@/bin/v\n",
        "Exec=@P@/bin/v %f\n",
        'Exec="@P@/bin/v" --in "@P@/a b"\n',
        "Exec=@P@/bin/v --in=@P@/a %U\n",
        "Exec=env A=@P@/a /bin/v\n",
        'Exec=sh -c "ls @P@/a"\n',
        "Exec=/bin/v\nPath=@P@/a\n",
        "Exec=/bin/v\nIcon=@P@/a b.png\n",
        "Exec=/bin/v\nTryExec=@P@/bin/v\n",
    ],
    each(desktop),
    head="[Desktop Entry]\nType=Application\nName=Viewer\n",
)


def vim(file: Path) -> Values:
    text = output(
        ["vim", "-es", "-u", "NONE", "-i", "NONE", "-c", f"source {file}", "-c",
         "redir => g:o | silent echo g:v | redir END", "-c",
         f"call writefile(split(g:v, '\\n'), '{file}.out')", "-c", "qa!"],
        cwd=file.parent,
    )
    out = Path(f"{file}.out")
    return None if text is None or not out.exists() else out.read_text().splitlines()


syntax(
    "vim",
    "a.vim",
    [
        "let g:v = '@P@/a b'\n",
        'let g:v = "@P@/a b"\n',
        "set backupdir=@P@/a\nlet g:v = &backupdir\n",
        "let &backupdir = '@P@/a'\nlet g:v = &backupdir\n",
        "let $A = '@P@/a'\nlet g:v = $A\n",
        "edit @P@/a\nlet g:v = bufname('%')\n",
        "badd +1 @P@/a\\ b\nlet g:v = bufname(bufnr('$'))\n",
        "  :e! @P@/a | let g:v = bufname('%')\n",
        "args @P@/a @P@/b\nlet g:v = argv(0) . \"\\n\" . argv(1)\n",
    ],
    each(vim),
)


ORG = """(progn (require 'org) (find-file "{0}") (org-mode)
  (let (v) (org-element-map (org-element-parse-buffer) 'link
    (lambda (l) (push (org-element-property :path l) v)))
  (with-temp-file "{0}.out" (insert (mapconcat 'identity (reverse v) "\\n")))))"""


def org(file: Path) -> Values:
    output(["emacs", "--batch", "-Q", "--eval", ORG.format(file)], cwd=file.parent)
    out = Path(f"{file}.out")
    return out.read_text().splitlines() if out.exists() else None


syntax(
    "org",
    "a.org",
    [
        "* Head\n[[file:@P@/a b.org::*Head][y]] and [[@P@/c]]\n",
        "see [[file:@P@/x]].\n",
    ],
    each(org),
)
