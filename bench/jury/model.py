"""What a syntax is to the jury: documents to rewrite, and the real reader of them."""

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from places import OLD_DRIVE, OLD_POSIX, OLD_SHARE

Values = list[str] | None
"""What a reader reads in a document, in order; none if it refuses the document."""


@dataclass
class Syntax:
    """A syntax: each form is a document with old places in it.

    In a form `@P@` is the old POSIX place, `@W@` the drive's, `@W2@` the same with its
    backslashes doubled, `@F@` with slashes, `@S@` and `@S2@` the share.
    """

    name: str
    file: str
    forms: list[str]
    read: Callable[[list[Path]], dict[Path, Values]]
    head: str = ""
    foot: str = ""
    # What must stay as it is, whatever moves.
    decoys: list[str] = field(default_factory=list)
    newline: str = "\n"
    encoding: str = "utf-8"
    # Whether the values of a document stand or fall together, as a command's words do.
    together: bool = True


def fill(form: str) -> str:
    marks = {
        "@P@": OLD_POSIX,
        "@W@": OLD_DRIVE,
        "@W2@": OLD_DRIVE.replace("\\", "\\\\"),
        "@W4@": OLD_DRIVE.replace("\\", "\\\\\\\\"),
        "@F@": OLD_DRIVE.replace("\\", "/"),
        "@S@": OLD_SHARE,
        "@S2@": OLD_SHARE.replace("\\", "\\\\"),
    }
    for mark, text in marks.items():
        form = form.replace(mark, text)
    return form


def each(read_one: Callable[[Path], Values]) -> Callable[[list[Path]], dict[Path, Values]]:
    """A reader of many documents made of a reader of one."""

    def read(files: list[Path]) -> dict[Path, Values]:
        result: dict[Path, Values] = {}
        for file in files:
            try:
                result[file] = read_one(file)
            except Exception:
                result[file] = None
        return result

    return read


REGISTRY: list[Syntax] = []


def syntax(*args, **more) -> None:
    REGISTRY.append(Syntax(*args, **more))
