"""The old places, and the new ones that they move to: each special letter alone, at a name's
start, inside and at its end, and in pairs that mean something to some reader."""

from dataclasses import dataclass

OLD_POSIX = "/srv/herbarium"
OLD_DRIVE = "D:\\Herbarium"
OLD_SHARE = "\\\\mossbank\\press"

# Names that both families of systems can have.
NAMES = [
    "plain",
    "a b",
    "a  b",
    "it's",
    "a#b",
    "a #b",
    "#b",
    "a;b",
    "a ;b",
    "50%",
    "a%h",
    "%d b",
    "%TEMP%",
    "a$",
    "a$HOME",
    "${x} y",
    "$(x)",
    "a&b",
    "a & b",
    "a!b",
    "!x!",
    "a^b",
    "(a)",
    "a (b)",
    "a,b",
    "a, b",
    "a=b",
    "b = c",
    "`b`",
    "a@b",
    "@b c",
    "{a}",
    "a{b,c}",
    "[a]",
    "~a",
    "a~1",
    "+a",
    "-a b",
    "--a",
    "it's $x #1; 50% (a&b)",
    "é è",
    "標本 一",
    "new\\u0041",
    "a.b.",
]

# Names that only POSIX systems can have.
POSIX_NAMES = [
    "a:b",
    "a: b",
    'a"b',
    'say "x" y',
    "a\\b",
    "a\\ b",
    "a\\tn",
    "a?b",
    "a*b",
    "*",
    "a|b",
    "a<b>",
    "a 'b",
    "b\\",
]


@dataclass(frozen=True)
class Place:
    """One new place in each family."""

    name: str
    posix: str
    drive: str
    share: str


def places() -> list[Place]:
    both = [
        Place(name, f"/mnt/{name}/h", f"H:\\{name}\\h", f"\\\\fernhall\\press\\{name}")
        for name in NAMES
        if "\\" not in name and not name.endswith(".")
    ]
    ends = [
        Place(f"{name} at the end", f"/mnt/{name}", f"H:\\{name}", f"\\\\fernhall\\press {name}")
        for name in ("a b", "a#", "50%", "a$", "a^", "(a)", "a=", "é")
    ]
    posix = [
        Place(name, f"/mnt/{name}/h", "H:\\plain\\h", "\\\\fernhall\\press") for name in POSIX_NAMES
    ]
    roots = [Place("a root", "/", "H:\\", "\\\\fernhall\\press")]
    return both + ends + posix + roots
