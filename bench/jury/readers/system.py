"""Configuration of the system's own programs."""

import re
import shlex
import shutil
import subprocess
from pathlib import Path

from model import Values, each, syntax

from .shells import nul_parted, output


def fstab(file: Path) -> Values:
    done = subprocess.run(
        ["findmnt", "--fstab", "--tab-file", str(file), "--raw", "--noheadings", "-o", "SOURCE,TARGET,OPTIONS"],
        capture_output=True,
    )
    if done.returncode != 0 or b"parse error" in done.stderr:
        return None
    rows = done.stdout.decode("utf-8", "surrogateescape").splitlines()
    fields = [field for row in rows for field in row.split(" ")]
    raw = [re.sub(rb"\\x([0-9a-f]{2})", lambda m: bytes([int(m[1], 16)]), f.encode("utf-8", "surrogateescape")) for f in fields]
    return [r.decode("utf-8", "surrogateescape") for r in raw]


syntax(
    "fstab",
    "fstab",
    [
        "/dev/sdb1 @P@ ext4 defaults 0 2\n",
        "/dev/sdb1 @P@/a ext4 defaults 0 2\n",
        "@P@/a /mnt/x none bind 0 0\n",
        "/dev/sdb1 @P@/a\\040b ext4 defaults 0 2\n",
        "//mossbank/press /mnt/x cifs credentials=@P@/c 0 0\n",
    ],
    each(fstab),
    head="# device mount type options dump pass\n",
)


def sudoers(file: Path) -> Values:
    if shutil.which("visudo") is None:
        return None
    copy = file.with_name("sudoers.checked")
    copy.write_bytes(file.read_bytes())
    copy.chmod(0o440)
    if output(["visudo", "-c", "-f", str(copy)]) is None:
        return None
    text = output(["cvtsudoers", "-f", "json", str(copy)])
    if text is None:
        return None
    import json

    from .data import leaves

    return leaves(json.loads(text))


syntax(
    "sudoers",
    "sudoers",
    [
        "ines ALL=(root) @P@/bin/v\n",
        "ines ALL=(root) NOPASSWD: @P@/bin/v, @P@/bin/w -x\n",
        'Defaults secure_path="@P@/bin:/usr/bin"\n',
        "Cmnd_Alias V = @P@/bin/v\nines ALL = V\n",
    ],
    each(sudoers),
)


def ssh_client(file: Path) -> Values:
    text = output(["ssh", "-G", "-F", str(file), "host"])
    if text is None:
        return None
    keys = ("identityfile ", "userknownhostsfile ", "controlpath ", "proxycommand ", "certificatefile ")
    return [line for line in text.splitlines() if line.startswith(keys)]


syntax(
    "ssh-config",
    "ssh_config",
    [
        "IdentityFile @P@/a\n",
        'IdentityFile "@P@/a b"\n',
        "Host *\n  UserKnownHostsFile @P@/a\n",
        "ControlPath @P@/%h\n",
        "IdentityFile=@P@/a\n",
        "ProxyCommand @P@/bin/v --x %h\n",
    ],
    each(ssh_client),
)


def sshd(file: Path) -> Values:
    key = Path("/tmp/jury-host-key")
    if not key.exists():
        output(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", str(key)])
    Path("/run/sshd").mkdir(exist_ok=True)
    text = output(["/usr/sbin/sshd", "-T", "-f", str(file), "-h", str(key)])
    if text is None:
        return None
    keys = ("authorizedkeysfile ", "banner ", "pidfile ", "chrootdirectory ", "subsystem ", "forcecommand ")
    return [line for line in text.splitlines() if line.startswith(keys)]


syntax(
    "sshd-config",
    "sshd_config",
    [
        "AuthorizedKeysFile @P@/a\n",
        'AuthorizedKeysFile "@P@/a b"\n',
        "Banner @P@/a\n",
        "PidFile @P@/a\n",
        "Subsystem sftp @P@/bin/sftp -x\n",
        "ForceCommand @P@/bin/v -x\n",
    ],
    each(sshd),
)


def nginx(file: Path) -> Values:
    """The directives as the server itself prints what it failed on or took; its parser is also
    followed here for the values (words, quotes and escapes of ngx_conf_file)."""
    import tempfile

    with tempfile.TemporaryDirectory(prefix="jury-nginx-") as folder:
        # `-t` opens logs and the like: only grammar matters.
        done = subprocess.run(
            ["nginx", "-t", "-c", str(file), "-p", folder, "-g", "daemon off;"], capture_output=True
        )
    errors = done.stderr.decode("utf-8", "replace")
    broken = ("unexpected", "invalid number", "unknown directive", "unknown \"", "invalid variable", "invalid condition", "not terminated", "is duplicate", "invalid parameter")
    if any(word in errors for word in broken):
        return None
    return nginx_words(file.read_text())


def nginx_words(text: str) -> Values:
    words, at = [], 0
    while at < len(text):
        letter = text[at]
        if letter in " \t\r\n;{}":
            at += 1
        elif letter == "#":
            at = text.find("\n", at)
        elif letter in "'\"":
            word, at = "", at + 1
            while text[at] != letter:
                if text[at] == "\\" and text[at + 1] in "\"'\\trn":
                    at += 1
                    word += {"t": "\t", "r": "\r", "n": "\n"}.get(text[at], text[at])
                else:
                    word += text[at]
                at += 1
            at += 1
            words.append(word)
        else:
            word = ""
            while at < len(text) and text[at] not in " \t\r\n;{":
                if text[at] == "$" and text[at + 1] == "{":
                    word, at = word + "${", at + 2
                    continue
                if text[at] == "\\":
                    at += 1
                    word += {"t": "\t", "r": "\r", "n": "\n"}.get(text[at], text[at])
                else:
                    word += text[at]
                at += 1
            words.append(word)
    return words


def nginx_values(file: Path) -> Values:
    words = nginx(file)
    # A variable of the server in what was no variable before is another value.
    return words if words is None else [re.sub(r"\$(\w+|\{\w+\})", "<variable>", w) for w in words]


syntax(
    "nginx",
    "nginx.conf",
    [
        "http { server { root @P@/a; } }\n",
        'http { server { root "@P@/a b"; } }\n',
        "http { server { location /x/ { alias @P@/a/; } } }\n",
        "http { access_log @P@/a.log combined; }\n",
        "http { server { error_page 404 /x; root '@P@/a'; } }\n",
    ],
    each(nginx_values),
    head="events {}\n",
)


def apache(file: Path) -> Values:
    """`httpd -t` for the grammar; `-D DUMP_CONFIG` prints the directives with their arguments."""
    wrapped = file.with_name("whole.conf")
    wrapped.write_text(
        "LoadModule authz_core_module /usr/lib/apache2/modules/mod_authz_core.so\n"
        "LoadModule alias_module /usr/lib/apache2/modules/mod_alias.so\n"
        "LoadModule mpm_event_module /usr/lib/apache2/modules/mod_mpm_event.so\n"
        "LoadModule env_module /usr/lib/apache2/modules/mod_env.so\n"
        f"ServerName x\nPidFile /tmp/jury.pid\nErrorLog /dev/null\n{file.read_text()}"
    )
    done = subprocess.run(
        ["/usr/sbin/apache2", "-t", "-D", "DUMP_CONFIG", "-f", str(wrapped)], capture_output=True
    )
    errors = done.stderr.decode("utf-8", "replace")
    if "Syntax error" in errors and "does not exist" not in errors and "not a directory" not in errors:
        return None
    values = []
    for line in file.read_text().splitlines():
        values += apache_words(line.strip("<> \t")) if line.strip() else []
    return values


def apache_words(line: str) -> list[str]:
    """Words as `ap_getword_conf` parts them; `${NAME}` is a variable anywhere."""
    words, at = [], 0
    while at < len(line):
        if line[at].isspace():
            at += 1
            continue
        quote = line[at] if line[at] in "'\"" else None
        word = ""
        if quote:
            at += 1
            while at < len(line) and line[at] != quote:
                if line[at] == "\\" and at + 1 < len(line) and line[at + 1] in ("\\", quote):
                    at += 1
                word += line[at]
                at += 1
            at += 1
        else:
            while at < len(line) and not line[at].isspace():
                word += line[at]
                at += 1
        words.append(re.sub(r"\$\{[^}]*\}", "<variable>", word))
    return words


syntax(
    "apache",
    "httpd.conf",
    [
        "DocumentRoot @P@/a\n",
        'DocumentRoot "@P@/a b"\n',
        'Alias /x "@P@/a"\n',
        "Alias /x @P@/a\n",
        '<Directory "@P@/a">\nRequire all granted\n</Directory>\n',
        "<Directory @P@/a>\nRequire all granted\n</Directory>\n",
        "SetEnv A @P@/a\n",
    ],
    each(apache),
)


def logrotate(file: Path) -> Values:
    copy = file.with_name("copy.conf")
    copy.write_bytes(file.read_bytes())
    copy.chmod(0o644)
    done = subprocess.run(["logrotate", "-d", str(copy)], capture_output=True)
    text = done.stderr.decode("utf-8", "replace")
    if "error:" in text and "stat of" not in text:
        return None
    patterns = re.findall(r"rotating pattern: (.*?)  (?:weekly|after)", text)
    return [word for pattern in patterns for word in shlex.split(pattern)]


syntax(
    "logrotate",
    "logrotate.conf",
    [
        "@P@/a.log {\n  weekly\n}\n",
        '"@P@/a b.log" {\n  weekly\n}\n',
        '"@P@/a.log" @P@/b.log {\n  weekly\n}\n',
    ],
    each(logrotate),
)


def samba(file: Path) -> Values:
    text = output(["testparm", "-s", "--suppress-prompt", str(file)])
    if text is None:
        return None
    return [line.strip() for line in text.splitlines() if "path" in line or "log file" in line or "preexec" in line]


syntax(
    "samba",
    "smb.conf",
    [
        "[a]\npath = @P@/a\n",
        "[a]\npath = @P@/a b\n",
        '[a]\npath = "@P@/a b"\n',
        "[global]\nlog file = @P@/log.%m\n",
        "[a]\npath = @P@\npreexec = @P@/bin/v -x\n",
    ],
    each(samba),
    together=False,
)


