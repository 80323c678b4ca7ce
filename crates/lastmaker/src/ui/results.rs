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
            let held = if self.pager && io::stdout().is_terminal() {
                height().map(|lines| Held {
                    text: Vec::new(),
                    lines,
                })
            } else {
                None
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
        Ok(without_styles(file))
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
    /// How many more lines fit.
    lines: usize,
}

/// Standard output, or a pager in front of it.
struct Results {
    choice: ColorChoice,
    held: Option<Held>,
    to: Option<To>,
}

/// Where results go once that is known.
struct To {
    stream: Box<dyn Write>,
    pager: Option<Child>,
}

/// So many letters are written at once.
const AT_ONCE: usize = 1 << 16;

/// Writes to `to` what is no style. The pieces between two styles are gathered again before they are written.
fn without_styles(to: impl Write + 'static) -> Box<dyn Write> {
    let to: Box<dyn Write> = Box::new(BufWriter::with_capacity(AT_ONCE, to));
    Box::new(BufWriter::with_capacity(AT_ONCE, StripStream::new(to)))
}

impl To {
    fn output(choice: ColorChoice) -> Self {
        let stream = AutoStream::new(io::stdout(), choice);
        Self {
            stream: match stream.current_choice() {
                ColorChoice::Never => without_styles(io::stdout()),
                _ => Box::new(BufWriter::with_capacity(AT_ONCE, stream)),
            },
            pager: None,
        }
    }

    /// The user's pager, if there is one.
    fn pager(choice: ColorChoice) -> Option<Self> {
        let mut pager = pager()?;
        let to = pager.stdin.take()?;
        let choice = match choice {
            ColorChoice::Auto => AutoStream::choice(&io::stdout()),
            choice => choice,
        };
        Some(Self {
            stream: match choice {
                ColorChoice::Never => without_styles(to),
                _ => Box::new(BufWriter::with_capacity(AT_ONCE, to)),
            },
            pager: Some(pager),
        })
    }

    /// What came of writing. A pager that was left wants no more, which is no fault.
    fn unless_left<T>(&self, written: io::Result<T>, instead: T) -> io::Result<T> {
        match written {
            Err(error) if self.pager.is_some() && error.kind() == io::ErrorKind::BrokenPipe => {
                Ok(instead)
            }
            written => written,
        }
    }
}

impl Results {
    /// Writes what was held, through a pager if there is one.
    fn let_go(&mut self, long: bool) -> io::Result<()> {
        let Some(held) = self.held.take() else {
            return Ok(());
        };
        if long {
            self.to = To::pager(self.choice);
        }
        self.write_all(&held.text)
    }

    fn end(&mut self) -> io::Result<()> {
        self.let_go(false)?;
        self.flush()?;
        let Some(To { stream, pager }) = self.to.take() else {
            return Ok(());
        };
        // A pager waits for the end of what it is to show.
        drop(stream);
        pager.map_or(Ok(()), |mut pager| pager.wait().map(drop))
    }
}

impl Write for Results {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        if let Some(held) = &mut self.held {
            held.text.extend_from_slice(bytes);
            let ended = memchr::memchr_iter(b'\n', bytes).count();
            held.lines = held.lines.saturating_sub(ended);
            if held.lines == 0 {
                self.let_go(true)?;
            }
            return Ok(bytes.len());
        }
        let to = self.to.get_or_insert_with(|| To::output(self.choice));
        let written = to.stream.write(bytes);
        to.unless_left(written, bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        match &mut self.to {
            Some(to) => {
                let flushed = to.stream.flush();
                to.unless_left(flushed, ())
            }
            None => Ok(()),
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
