"""Source files: each script shows its own strings."""

import ast
import subprocess
from pathlib import Path

from model import Values, each, syntax

from .shells import nul_parted, output


def script(*program: str):
    return each(lambda file: nul_parted(output([*program, str(file)], cwd=file.parent)))


def python_strings(file: Path) -> Values:
    values = []
    for node in ast.walk(ast.parse(file.read_text())):
        if isinstance(node, ast.Constant) and isinstance(node.value, (str, bytes)):
            value = node.value
            values.append(value.decode("latin-1") if isinstance(value, bytes) else value)
    return values


syntax(
    "python",
    "a.py",
    [
        "a = '@P@/a'\n",
        'a = "@W2@\\\\a b"\n',
        "a = r'@W@\\a'\n",
        'a = """@P@/a"""\n',
        "a = b'@P@/a'\n",
        "a = rb'@W@\\a'\n",
        "a = f'@P@/a/{x}'\n",
        "a = f'@P@/a'\n",
        "run(['@P@/bin/v', '--in', '@P@/a'])\n",
        "command = '@P@/bin/v'\n",
        "a = u'@P@/a'\n",
        "a = '@P@/a' '@P@/b'\n",
        "a = os.path.join('@P@', 'x')\n",
    ],
    each(python_strings),
)


def python_run(file: Path) -> Values:
    return nul_parted(output(["python3", str(file)]))


syntax(
    "python-run",
    "b.py",
    [
        "show(f'@P@/a/{x}')\n",
        "show('@P@/a/{}'.format(x))\n",
        "show('@P@/a/%s' % x)\n",
        "show(b'@P@/a'.decode())\n",
        "show('see @P@/a')\n",
        "import shlex\nshow(*shlex.split('v --in @P@/a'))\n",
    ],
    each(python_run),
    head="x = 'x'\ndef show(*all):\n    for a in all: print(a, end='\\0')\n",
)

syntax(
    "perl",
    "a.pl",
    [
        "show('@P@/a');\n",
        'show("@P@/a");\n',
        "show(q(@P@/a));\n",
        "show(q{@P@/a});\n",
        "show(qq{@P@/a});\n",
        "show(qw(@P@/a @P@/b));\n",
        "show('@W@\\a');\n",
        'show("@W2@\\\\a");\n',
        "show(<<'E');\n@P@/a\nE\n",
        'show(<<"E");\n@P@/a\nE\n',
        "my %h = (a => '@P@/a'); show($h{a});\n",
        "show('x' =~ m{^@P@/a} ? 'yes' : 'no');\n",
        "show('x' =~ /^\\/srv\\/herbarium/ ? 'yes' : 'no');\n",
    ],
    script("perl"),
    head='sub show { print map { "$_\\0" } @_ }\n',
)
syntax(
    "ruby",
    "a.rb",
    [
        "show('@P@/a')\n",
        'show("@P@/a")\n',
        "show(*%w[@P@/a @P@/b])\n",
        "show(%q(@P@/a))\n",
        "show(<<~E)\n  @P@/a\nE\n",
        "show('@W@\\a')\n",
        "show({root: '@P@/a'}[:root])\n",
    ],
    script("ruby"),
    head='def show(*all) = all.each { |a| print a, "\\0" }\n',
)
syntax(
    "php",
    "a.php",
    [
        "show('@P@/a');\n",
        'show("@P@/a");\n',
        "show('@W@\\a');\n",
        'show("@W2@\\\\a");\n',
        "show(<<<E\n@P@/a\nE);\n",
        "show(<<<'E'\n@P@/a\nE);\n",
        "show(['root' => '@P@/a']['root']);\n",
    ],
    script("php"),
    head='<?php\nfunction show($a) { print "$a\\0"; }\n',
)
syntax(
    "javascript",
    "a.js",
    [
        "show('@P@/a')\n",
        'show("@W2@\\\\a")\n',
        "show(`@P@/a`)\n",
        "show(String.raw`@W@\\a`)\n",
        "show({command: '@P@/a'}.command)\n",
        "show(['@P@/a', '--x=@P@/b'])\n",
        "show('@P@/a'.replace(/zzz/, 'y'))\n",
        "show(/^\\/srv\\/herbarium/.source)\n",
    ],
    script("node"),
    head="const show = a => process.stdout.write([a].flat().join('\\0') + '\\0')\n",
)
syntax(
    "lua",
    "a.lua",
    ["show('@P@/a')\n", 'show("@W2@\\\\a")\n', "show([[@W@\\a]])\n", "show({root = '@P@/a'}.root)\n"],
    script("lua5.4"),
    head="function show(a) io.write(tostring(type(a) == 'table' and a.root or a), '\\0') end\n",
)


def java(files: list[Path]) -> dict[Path, Values]:
    """All classes compiled at once; one that does not compile is compiled by itself."""
    return {file: nul_parted(output(["java", str(file)])) for file in files}


syntax(
    "java",
    "A.java",
    [
        'class A { public static void main(String[] x) { System.out.print("@P@/a\\0"); } }\n',
        'class A { public static void main(String[] x) { System.out.print("@W2@\\\\a\\0"); } }\n',
        'class A { public static void main(String[] x) { System.out.print("""\n  @P@/a\\0"""); } }\n',
    ],
    java,
)


def c_program(file: Path) -> Values:
    program = file.with_suffix(".out")
    if output(["gcc", "-w", "-o", str(program), str(file)]) is None:
        return None
    return nul_parted(output([str(program)]))


syntax(
    "c",
    "a.c",
    [
        'int main() { fwrite("@P@/a", 1, sizeof("@P@/a"), stdout); }\n',
        '#define ROOT "@W2@\\\\a"\nint main() { fwrite(ROOT, 1, sizeof(ROOT), stdout); }\n',
    ],
    each(c_program),
    head="#include <stdio.h>\n",
)


def emacs(files: list[Path]) -> dict[Path, Values]:
    result = {}
    for file in files:
        result[file] = nul_parted(output(["emacs", "--batch", "-Q", "-l", str(file)]))
    return result


syntax(
    "emacs-lisp",
    "a.el",
    ['(princ "@P@/a\\0")\n', '(princ "@W2@\\\\a\\0")\n', "(setq a '(\"@P@/a\"))(princ (car a))(princ \"\\0\")\n"],
    emacs,
)


def cmake(file: Path) -> Values:
    done = subprocess.run(["cmake", "-P", str(file)], capture_output=True, timeout=60)
    return done.stderr.decode().splitlines() if done.returncode == 0 else None


syntax(
    "cmake",
    "a.cmake",
    [
        'set(D "@P@/a")\nshow(${D})\n',
        "set(D @P@/a)\nshow(${D})\n",
        "set(D @P@/a @P@/b)\nshow(${D})\n",
        'set(D "@P@/a;@P@/b")\nshow(${D})\n',
        "set(D [[@P@/a]])\nshow(${D})\n",
        'set(D "@F@/a")\nshow(${D})\n',
    ],
    each(cmake),
    head='function(show)\nforeach(i ${ARGV})\nmessage("${i}")\nendforeach()\nendfunction()\n',
)
