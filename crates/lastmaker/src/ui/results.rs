//! Where results go: to standard output, through a pager if that is a terminal and they are long, or to a file.

use std::fs::File;
use std::io::{self, BufWriter, IsTerminal, Write};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use anstream::{AutoStream, ColorChoice, StripStream};

use super::Ui;
use crate::environment;
use crate::exit::Failure;

impl Ui {
    /// The stream for results: standard output, or the file that the technician named.
    pub(crate) fn results(&self, out: Option<&Path>) -> Result<Box<dyn Write>, Failure> {
        let Some(path) = out else {
            let held = match self.pager && io::stdout().is_terminal() {
                true => height().map(|lines| Held {
                    text: Vec::new(),
                    lines,
                }),
                false => None,
            };
            return Ok(Box::new(Results {
                choice: self.color.choice(),
                held,
                to: None,
            }));
        };
        let file = File::create_new(path).map_err(|error| {
            if error.kind() == io::ErrorKind::AlreadyExists {
                Failure::with_help(
                    format!("{} exists already", path.display()),
                    "name another file with --out, or delete that one first",
                )
            } else {
                Failure::new(format!("{} cannot be written: {error}", path.display()))
            }
        })?;
        Ok(Box::new(BufWriter::new(AutoStream::never(file))))
    }

    /// How many letters fit on a line of the results, if that is known.
    pub(crate) fn width(&self) -> Option<usize> {
        let said = environment::columns();
        let seen = || {
            let size = terminal_size::terminal_size_of(io::stdout())?;
            Some(usize::from(size.0.0))
        };
        said.or_else(seen).filter(|width| *width > 0)
    }
}

/// How many lines the terminal shows.
fn height() -> Option<usize> {
    let (_, lines) = terminal_size::terminal_size_of(io::stdout())?;
    Some(usize::from(lines.0))
}

/// Text that is held until it is known whether it fits on the screen.
struct Held {
    text: Vec<u8>,
    /// How many lines fit.
    lines: usize,
}

/// Standard output, or a pager in front of it.
struct Results {
    choice: ColorChoice,
    held: Option<Held>,
    to: Option<To>,
}

enum To {
    Output(BufWriter<AutoStream<io::Stdout>>),
    Pager(Child),
}

impl Results {
    fn to(&mut self) -> &mut To {
        let choice = self.choice;
        self.to.get_or_insert_with(|| To::output(choice))
    }

    /// Writes what was held, through a pager if there is one.
    fn let_go(&mut self, long: bool) -> io::Result<()> {
        let Some(held) = self.held.take() else {
            return Ok(());
        };
        if long && let Some(pager) = pager() {
            self.to = Some(To::Pager(pager));
        }
        self.write_all(&held.text)
    }

    fn end(&mut self) -> io::Result<()> {
        self.let_go(false)?;
        match self.to.take() {
            Some(To::Output(mut stream)) => stream.flush(),
            Some(To::Pager(mut pager)) => {
                drop(pager.stdin.take());
                pager.wait().map(drop)
            }
            None => Ok(()),
        }
    }
}

impl To {
    fn output(choice: ColorChoice) -> Self {
        let stream = AutoStream::new(io::stdout(), choice);
        Self::Output(BufWriter::with_capacity(1 << 16, stream))
    }
}

impl Write for Results {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        if let Some(held) = &mut self.held {
            held.text.extend_from_slice(bytes);
            let is_long = memchr::memchr_iter(b'\n', &held.text).count() >= held.lines;
            if is_long {
                self.let_go(true)?;
            }
            return Ok(bytes.len());
        }
        let choice = self.choice;
        match self.to() {
            To::Output(stream) => stream.write(bytes),
            To::Pager(Child {
                stdin: Some(to), ..
            }) => {
                let colored = match choice {
                    ColorChoice::Auto => AutoStream::choice(&io::stdout()),
                    choice => choice,
                };
                let to: &mut (dyn Write + Send) = to;
                let written = match colored {
                    ColorChoice::Never => StripStream::new(to).write_all(bytes),
                    _ => to.write_all(bytes),
                };
                // A pager that was left wants no more, which is no fault.
                match written {
                    Err(error) if error.kind() != io::ErrorKind::BrokenPipe => Err(error),
                    _ => Ok(bytes.len()),
                }
            }
            To::Pager(_) => Ok(bytes.len()),
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match &mut self.to {
            Some(To::Output(stream)) => stream.flush(),
            _ => Ok(()),
        }
    }
}

impl Drop for Results {
    fn drop(&mut self) {
        // Whatever could be said of it was said at the last flush.
        let _ = self.end();
    }
}

/// The pager that the user has named, else the usual one of the system, if it is there.
fn pager() -> Option<Child> {
    let named = environment::pager()?;
    let (program, words) = named.split_first()?;
    if program == "cat" {
        return None;
    }
    let mut command = Command::new(program);
    // Colours are shown, and what is on the screen stays there.
    if !environment::says_how_to_page() {
        command.env("LESS", "RX");
    }
    command.args(words).stdin(Stdio::piped()).spawn().ok()
}
