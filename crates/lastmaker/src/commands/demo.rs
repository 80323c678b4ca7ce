//! `lastmaker demo`.

use std::io::{self, IsTerminal, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use crate::demo::{LARGE_STEPS, Pause, STEPS, Step, digest, lay_out, lay_out_large};
use crate::exit::{CommandResult, Failure, Outcome};
use crate::shared::TalkArgs;
use crate::ui::{Color, FAINT, NAME, Ui};

/// Run the whole job on shipped made-up data
///
/// Lays out the Linden Herbarium, a small collection whose data moved from D:\Herbarium to
/// H:\Collections\Herbarium, and walks through the job with the real commands.
#[derive(Debug, clap::Args)]
pub(crate) struct DemoArgs {
    /// An empty folder to lay the data out in; else a temporary one, which is kept
    #[arg(value_name = "DIR")]
    dir: Option<PathBuf>,
    /// Some two thousand files, to see how the output scales
    #[arg(long)]
    large: bool,
    /// Do not wait for a key between the steps
    #[arg(long)]
    no_pause: bool,
}

pub(crate) fn run(args: &DemoArgs, talk: &TalkArgs) -> CommandResult {
    let ui = Ui {
        pager: false,
        ..talk.ui()
    };
    let (folder, steps) = if args.large {
        (lay_out_large(args.dir.as_deref())?, LARGE_STEPS)
    } else {
        (lay_out(args.dir.as_deref())?, STEPS)
    };
    let program = std::env::current_exe().map_err(|error| {
        Failure::new(format!(
            "the demo cannot find the program that it is part of: {error}"
        ))
    })?;
    let before = digest(&folder)?;
    let mut out = ui.results(None)?;
    if !walk_through(
        &mut out,
        steps,
        &program,
        &folder,
        !args.no_pause,
        talk.color,
    )? {
        return Ok(Outcome::Clean);
    }
    if before != digest(&folder)? {
        return Err(Failure::new(
            "after the restore the files are not what they were before; this is a defect",
        ));
    }
    say_what_next(&mut out, &folder)?;
    Ok(Outcome::Clean)
}

/// Runs one step after the other; false if the person who is asked between them has seen enough.
fn walk_through(
    out: &mut impl Write,
    steps: &[Step],
    program: &Path,
    folder: &Path,
    pauses: bool,
    color: Color,
) -> Result<bool, Failure> {
    let pause = pauses.then(Pause::new).flatten();
    writeln!(
        out,
        "{NAME}The Linden Herbarium{NAME:#} is laid out in {}",
        folder.display()
    )?;
    let mut number = 0;
    for (index, step) in steps.iter().enumerate() {
        // A step without words of its own belongs to the one before.
        if !step.shows.is_empty() {
            number += 1;
            if let Some(pause) = pause.as_ref().filter(|_| index > 0) {
                out.flush()?;
                if !pause.wait()? {
                    writeln!(
                        out,
                        "The demo ends here; its files are in {}",
                        folder.display()
                    )?;
                    out.flush()?;
                    return Ok(false);
                }
            }
            writeln!(out, "\n{NAME}{number}. {}{NAME:#}", step.shows)?;
        }
        writeln!(
            out,
            "{FAINT}$ lastmaker {}{FAINT:#}\n",
            step.arguments.join(" ")
        )?;
        out.flush()?;
        let text = run_step(program, folder, step, color)?;
        match &pause {
            Some(pause) => pause.write(out, &text)?,
            None => out.write_all(&text)?,
        }
    }
    Ok(true)
}

fn say_what_next(out: &mut impl Write, folder: &Path) -> io::Result<()> {
    writeln!(
        out,
        "\n{NAME}Every file is what it was before the rewrite.{NAME:#} Try it yourself there:"
    )?;
    writeln!(out, "  cd {}", folder.display())?;
    writeln!(out, "  lastmaker preview --summary")?;
    writeln!(
        out,
        "  lastmaker rewrite          # asks first; the record of it is this user's"
    )?;
    writeln!(out, "  lastmaker check")?;
    writeln!(
        out,
        "  lastmaker restore          # takes the latest rewrite here back"
    )?;
    out.flush()
}

fn run_step(program: &Path, folder: &Path, step: &Step, color: Color) -> Result<Vec<u8>, Failure> {
    let mut command = Command::new(program);
    command
        .args(step.arguments)
        .current_dir(folder)
        .stdin(Stdio::null());
    let colored = match color {
        Color::Always => "always",
        Color::Never => "never",
        Color::Auto if std::io::stdout().is_terminal() => "always",
        Color::Auto => "never",
    };
    command.args(["--color", colored]);
    let finished = command
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .output()
        .map_err(|error| Failure::new(format!("the step cannot be run: {error}")))?;
    if finished.status.code() == Some(step.code) {
        Ok([finished.stdout, finished.stderr].concat())
    } else {
        Err(Failure::new(format!(
            "`lastmaker {}` ended with {:?} instead of {}; this is a defect",
            step.arguments.join(" "),
            finished.status.code(),
            step.code
        )))
    }
}
