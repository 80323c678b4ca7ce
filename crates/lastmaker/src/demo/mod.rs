//! The shipped data of the Linden Herbarium, and the steps of the job on it.

mod large;
mod pause;
mod walk;

use std::path::{Path, PathBuf};

use include_dir::{Dir, include_dir};

use crate::exit::Failure;

pub(crate) use large::{LARGE_STEPS, lay_out_large};
use pause::Pause;
pub(crate) use walk::{Walk, say_what_next};

static FILES: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/../../demo");

/// One step: what it shows, the command, and the exit code that it must have.
pub(crate) struct Step {
    pub(crate) shows: &'static str,
    pub(crate) arguments: &'static [&'static str],
    pub(crate) code: i32,
}

/// The job, in the order in which it is done.
pub(crate) const STEPS: &[Step] = &[
    Step {
        shows: "Know what points where. Every place that the files name is counted. The old drive D: has lost its \
                Herbarium folder, so what points there dangles; the scanner's driver stayed and is live.",
        arguments: &["survey", "--sheet", "moves.toml"],
        code: 0,
    },
    Step {
        shows: "Nobody knows what moved? Name the disks where things might be now, and names tell: the fewest moves that \
                explain what dangles. (With --write they go into a sheet.)",
        arguments: &[
            "trace",
            "profile",
            "exports",
            "notes",
            "documents",
            "--no-sheet",
            "--seen-at",
            r"D:\=disks/d",
            "--seen-at",
            r"H:\=disks/h",
            "--seen-at",
            r"\\fernhall\press=disks/fernhall-press",
            "--into",
            "disks/h",
            "disks/fernhall-press",
        ],
        code: 1,
    },
    Step {
        shows: "Say what moved. This sheet does: two moves, one exception, one stand-in letter.",
        arguments: &["sheet", "moves.toml"],
        code: 0,
    },
    Step {
        shows: "Know that the copy is whole. A backup of the old server is at hand, and the new share lacks a file of it.",
        arguments: &[
            "compare",
            "disks/mossbank-press",
            r"\\fernhall\press",
            "--content",
            "--sheet",
            "moves.toml",
        ],
        code: 1,
    },
    Step {
        shows: "See it before it happens. Each change in its file's own escaping, then everything that wants a second \
                look. Exit code 1 says that there is such a thing.",
        arguments: &["preview", "--sheet", "moves.toml"],
        code: 1,
    },
    Step {
        shows: "In doubt? This is how the launch options are read, from their bytes to the places and back.",
        arguments: &[
            "explain",
            "profile/.mapdesk/launch-options.txt:6",
            "--sheet",
            "moves.toml",
        ],
        code: 0,
    },
    Step {
        shows: "Letters, lists, catalogs and shortcuts are read in their own structure. In this letter the old place is \
                cut in two, because half of it is set in bold.",
        arguments: &[
            "explain",
            "documents/letters/reminder.odt",
            "--sheet",
            "moves.toml",
        ],
        code: 0,
    },
    Step {
        shows: "Do it. The originals go into a record first. Of the registry's exports there are also files of the \
                changes alone, to import.",
        arguments: &[
            "rewrite",
            "--sheet",
            "moves.toml",
            "--yes",
            "--record-dir",
            "records",
            "--change-files",
            "changes",
        ],
        code: 1,
    },
    Step {
        shows: "See what is left: what still dangles and why, with its likeliest place.",
        arguments: &["check", "--sheet", "moves.toml", "--record-dir", "records"],
        code: 1,
    },
    Step {
        shows: "What no rewrite can change goes on naming the old place: a sealed list, a printed handout. These are the \
                fewest links that serve it; the loan book, which stayed, is not hidden.",
        arguments: &["bridge", "--sheet", "moves.toml", "--record-dir", "records"],
        code: 0,
    },
    Step {
        shows: "The record knows what was done.",
        arguments: &["history", "--record-dir", "records"],
        code: 0,
    },
    Step {
        shows: "Take it back. The files are again what they were, to the byte.",
        arguments: &["restore", "--record-dir", "records", "--yes"],
        code: 0,
    },
];

/// Writes the shipped files into an empty or new folder.
pub(crate) fn lay_out(dir: Option<&Path>) -> Result<PathBuf, Failure> {
    let folder = empty_folder(dir)?;
    FILES.extract(&folder).map_err(not_laid_out)?;
    Ok(folder)
}

fn not_laid_out(error: std::io::Error) -> Failure {
    Failure::new(format!("the demo data cannot be laid out: {error}"))
}

/// The folder that was named, if it is empty or new, else a temporary one.
fn empty_folder(dir: Option<&Path>) -> Result<PathBuf, Failure> {
    let Some(dir) = dir else {
        let mut builder = tempfile::Builder::new();
        let folder = builder.prefix("linden-herbarium-").tempdir();
        return Ok(folder.map_err(not_laid_out)?.keep());
    };
    std::fs::create_dir_all(dir).map_err(not_laid_out)?;
    if std::fs::read_dir(dir)
        .map_err(not_laid_out)?
        .next()
        .is_some()
    {
        return Err(Failure::with_help(
            format!(
                "{} is not empty, and the demo lays its files out only in an empty folder",
                dir.display()
            ),
            "name a new one, or none: then a temporary one is made",
        ));
    }
    Ok(dir.to_owned())
}

/// Names and contents of the laid out files, without the records and the change files.
pub(crate) fn digest(folder: &Path) -> Result<Vec<(PathBuf, Vec<u8>)>, Failure> {
    let failed =
        |error: std::io::Error| Failure::new(format!("the demo data cannot be read: {error}"));
    let mut all = Vec::new();
    let mut left = vec![folder.to_owned()];
    while let Some(next) = left.pop() {
        for entry in std::fs::read_dir(&next).map_err(failed)? {
            let path = entry.map_err(failed)?.path();
            if path.is_dir() {
                if path != folder.join("records") && path != folder.join("changes") {
                    left.push(path);
                }
            } else {
                let content = std::fs::read(&path).map_err(failed)?;
                all.push((path, content));
            }
        }
    }
    all.sort();
    Ok(all)
}
