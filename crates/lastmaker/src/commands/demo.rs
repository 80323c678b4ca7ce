//! `lastmaker demo`.

use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use include_dir::{Dir, include_dir};

use crate::exit::{CommandResult, Failure, Outcome};
use crate::ui::{Color, FAINT, NAME, Ui};

static FILES: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/../../demo");

/// Run the whole job on shipped made-up data
///
/// Lays out the Linden Herbarium, a small collection whose data moved from D:\Herbarium to
/// H:\Collections\Herbarium, and walks through the job with the real commands.
#[derive(Debug, clap::Args)]
pub(crate) struct DemoArgs {
    /// An empty folder to lay the data out in; else a temporary one, which is kept
    #[arg(value_name = "DIR")]
    dir: Option<PathBuf>,
    /// When to use colours
    #[arg(long, value_enum, default_value_t, value_name = "WHEN")]
    color: Color,
}

/// One step: what it shows, the command, and the exit code that it must have.
struct Step {
    shows: &'static str,
    arguments: &'static [&'static str],
    code: i32,
}

const STEPS: &[Step] = &[
    Step {
        shows: "Know what points where. Every place that the files name is counted. The old drive D: has lost its \
                Herbarium folder, so what points there dangles; the scanner's driver stayed and is live.",
        arguments: &["survey", "--sheet", "moves.toml"],
        code: 0,
    },
    Step {
        shows: "Say what moved. This sheet does: two moves, one exception, one stand-in letter.",
        arguments: &["sheet", "moves.toml"],
        code: 0,
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
        shows: "See what is left: what still dangles, with its likeliest place.",
        arguments: &["check", "--sheet", "moves.toml"],
        code: 1,
    },
    Step {
        shows: "The record knows what was done.",
        arguments: &["history", "--record-dir", "records"],
        code: 0,
    },
    Step {
        shows: "Take it back. The files are again what they were, to the byte.",
        arguments: &["restore", "--record-dir", "records"],
        code: 0,
    },
];

pub(crate) fn run(args: &DemoArgs) -> CommandResult {
    let ui = Ui::new(args.color, false, false);
    let folder = lay_out(args.dir.as_deref())?;
    let program = std::env::current_exe().map_err(|error| {
        Failure::new(format!(
            "the demo cannot find the program that it is part of: {error}"
        ))
    })?;
    let before = digest(&folder)?;
    let mut out = ui.results(None)?;
    writeln!(
        out,
        "{NAME}The Linden Herbarium{NAME:#} is laid out in {}",
        folder.display()
    )?;
    for (index, step) in STEPS.iter().enumerate() {
        writeln!(out, "\n{NAME}{}. {}{NAME:#}", index + 1, step.shows)?;
        writeln!(
            out,
            "{FAINT}$ lastmaker {}{FAINT:#}\n",
            step.arguments.join(" ")
        )?;
        out.flush()?;
        run_step(&program, &folder, step, args.color, &mut out)?;
    }
    let after = digest(&folder)?;
    if before != after {
        return Err(Failure::new(
            "after the restore the files are not what they were before; this is a defect",
        ));
    }
    writeln!(
        out,
        "\n{NAME}Every file is what it was before the rewrite.{NAME:#} Try it yourself there:"
    )?;
    writeln!(out, "  cd {}", folder.display())?;
    writeln!(out, "  lastmaker preview")?;
    out.flush()?;
    Ok(Outcome::Clean)
}

/// Writes the shipped files into an empty or new folder.
fn lay_out(dir: Option<&Path>) -> Result<PathBuf, Failure> {
    let failed =
        |error: std::io::Error| Failure::new(format!("the demo data cannot be laid out: {error}"));
    let folder = match dir {
        Some(dir) => {
            std::fs::create_dir_all(dir).map_err(failed)?;
            if std::fs::read_dir(dir).map_err(failed)?.next().is_some() {
                return Err(Failure::with_help(
                    format!(
                        "{} is not empty, and the demo lays its files out only in an empty folder",
                        dir.display()
                    ),
                    "name a new one, or none: then a temporary one is made",
                ));
            }
            dir.to_owned()
        }
        None => tempfile::Builder::new()
            .prefix("linden-herbarium-")
            .tempdir()
            .map_err(failed)?
            .keep(),
    };
    FILES.extract(&folder).map_err(failed)?;
    Ok(folder)
}

fn run_step(
    program: &Path,
    folder: &Path,
    step: &Step,
    color: Color,
    out: &mut dyn Write,
) -> Result<(), Failure> {
    let mut command = Command::new(program);
    command
        .args(step.arguments)
        .current_dir(folder)
        .stdin(Stdio::null());
    let colored = match color {
        Color::Always => "always",
        Color::Never => "never",
        Color::Auto if std::io::IsTerminal::is_terminal(&std::io::stdout()) => "always",
        Color::Auto => "never",
    };
    command.args(["--color", colored]);
    let finished = command
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .output()
        .map_err(|error| Failure::new(format!("the step cannot be run: {error}")))?;
    out.write_all(&finished.stdout)?;
    out.write_all(&finished.stderr)?;
    if finished.status.code() == Some(step.code) {
        Ok(())
    } else {
        Err(Failure::new(format!(
            "`lastmaker {}` ended with {:?} instead of {}; this is a defect",
            step.arguments.join(" "),
            finished.status.code(),
            step.code
        )))
    }
}

/// Names and contents of the laid out files, without the records and the change files.
fn digest(folder: &Path) -> Result<Vec<(PathBuf, Vec<u8>)>, Failure> {
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
