//! The demo before a person: it waits between its steps, and shows no more of each than fits on the screen.

use std::io::{self, IsTerminal, Write};

use console::{Key, Term};

use crate::ui::FAINT;

/// Lines of the screen that are not a step's output.
const AROUND: usize = 8;

/// How many of its last lines are shown of a step whose output does not fit.
const LAST: usize = 8;

/// What waits for a person.
pub(crate) struct Pause {
    terminal: Term,
}

impl Pause {
    /// None where there is nobody to wait for.
    pub(crate) fn new() -> Option<Self> {
        let present = io::stdin().is_terminal() && io::stdout().is_terminal();
        present.then(|| Self {
            terminal: Term::stderr(),
        })
    }

    /// As much of a step's output as fits: its beginning and its end.
    pub(crate) fn write(&self, out: &mut dyn Write, text: &[u8]) -> io::Result<()> {
        let rows = usize::from(self.terminal.size().0);
        let room = rows.saturating_sub(AROUND).max(2 * LAST);
        let lines: Vec<&[u8]> = text.split_inclusive(|byte| *byte == b'\n').collect();
        if lines.len() <= room {
            return out.write_all(text);
        }
        let first = room - LAST - 1;
        for line in &lines[..first] {
            out.write_all(line)?;
        }
        let left = lines.len() - first - LAST;
        writeln!(out, "{FAINT}  … {left} more lines …{FAINT:#}")?;
        for line in &lines[lines.len() - LAST..] {
            out.write_all(line)?;
        }
        Ok(())
    }

    /// Waits for a key; whether the demo goes on.
    pub(crate) fn wait(&self) -> io::Result<bool> {
        let asking = "\n[any key goes on, q ends the demo]";
        self.terminal.write_str(asking)?;
        let key = self.terminal.read_key()?;
        self.terminal.clear_line()?;
        Ok(!matches!(key, Key::Char('q' | 'Q') | Key::Escape))
    }
}
