//! `lastmaker demo`.

use std::io::{IsTerminal, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use crate::demo::{STEPS, Step, digest, lay_out};
use crate::exit::{CommandResult, Failure, Outcome};
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
    /// When to use colours
    #[arg(long, value_enum, default_value_t, value_name = "WHEN")]
    color: Color,
}

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
        Color::Auto if std::io::stdout().is_terminal() => "always",
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
