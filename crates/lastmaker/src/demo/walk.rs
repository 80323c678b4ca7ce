//! Through the steps of the demo, one after the other.

use std::io::{self, IsTerminal, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use super::{Pause, Step};
use crate::exit::Failure;
use crate::ui::{Color, FAINT, NAME};

/// Runs steps on data that is laid out.
pub(crate) struct Walk<'a> {
    program: PathBuf,
    folder: &'a Path,
    pause: Option<Pause>,
    color: Color,
}

impl<'a> Walk<'a> {
    /// Steps on the data in this folder, run by this very program.
    pub(crate) fn new(folder: &'a Path, pauses: bool, color: Color) -> Result<Self, Failure> {
        let program = std::env::current_exe().map_err(|error| {
            Failure::new(format!(
                "the demo cannot find the program that it is part of: {error}"
            ))
        })?;
        Ok(Self {
            program,
            folder,
            pause: pauses.then(Pause::new).flatten(),
            color,
        })
    }

    /// Runs one step after the other; false if the person who is asked between them has seen enough.
    pub(crate) fn through(&self, steps: &[Step], out: &mut impl Write) -> Result<bool, Failure> {
        let folder = self.folder.display();
        writeln!(
            out,
            "{NAME}The Linden Herbarium{NAME:#} is laid out in {folder}"
        )?;
        let mut number = 0;
        for (index, step) in steps.iter().enumerate() {
            // A step without words of its own belongs to the one before.
            if !step.shows.is_empty() {
                number += 1;
                if let Some(pause) = self.pause.as_ref().filter(|_| index > 0) {
                    out.flush()?;
                    if !pause.wait()? {
                        writeln!(out, "The demo ends here; its files are in {folder}")?;
                        out.flush()?;
                        return Ok(false);
                    }
                }
                writeln!(out, "\n{NAME}{number}. {}{NAME:#}", step.shows)?;
            }
            let typed = step.arguments.join(" ");
            writeln!(out, "{FAINT}$ lastmaker {typed}{FAINT:#}\n")?;
            out.flush()?;
            let text = self.run(step)?;
            match &self.pause {
                Some(pause) => pause.write(out, &text)?,
                None => out.write_all(&text)?,
            }
        }
        Ok(true)
    }

    /// What a step prints.
    fn run(&self, step: &Step) -> Result<Vec<u8>, Failure> {
        let mut command = Command::new(&self.program);
        command
            .args(step.arguments)
            .current_dir(self.folder)
            .stdin(Stdio::null());
        let colored = match self.color {
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
}

/// What to try once the steps are done.
pub(crate) fn say_what_next(out: &mut impl Write, folder: &Path) -> io::Result<()> {
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
