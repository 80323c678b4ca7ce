//! `lastmaker explain`.

use std::ffi::OsString;
use std::path::{Path, PathBuf};

use lastmaker_core::answers::{explain, familiar};
use lastmaker_core::sheet::parted_site;
use lastmaker_core::tree::Scope;

use crate::exit::{CommandResult, Failure};
use crate::render::answer;
use crate::shared::{AcceptArgs, ReadingArgs, SheetOptions, SpellingArgs, TalkArgs, must_exist};

/// Show how each reference of a file is read, layer by layer
///
/// From the bytes of the file through its encoding and each escaping to the place, by which
/// move it goes where, and how that is written on the way back. Writes nothing.
#[derive(Debug, clap::Args)]
pub(crate) struct ExplainArgs {
    /// The file, and a line of it if only that is of interest
    #[arg(value_name = "FILE[:LINE[:COLUMN]]")]
    file: OsString,
    #[command(flatten)]
    sheet: SheetOptions,
    #[command(flatten)]
    reading: ReadingArgs,
    /// Explain it as `rewrite --repair` would do it
    #[arg(long, help_heading = "What moved")]
    repair: bool,
    #[command(flatten)]
    spelling: SpellingArgs,
    #[command(flatten)]
    accept: AcceptArgs,
}

pub(crate) fn run(args: &ExplainArgs, talk: &TalkArgs) -> CommandResult {
    let ui = talk.ui();
    let mut sheet = args.sheet.read(&ui, None)?;
    args.accept.add_to(&mut sheet)?;
    let (file, line) = file_and_line(&args.file);
    must_exist(&file)?;
    if file.is_dir() {
        return Err(Failure::with_help(
            format!("{} is a folder", file.display()),
            "name one file; `lastmaker preview` shows the changes of a whole folder",
        ));
    }
    let scope = Scope::new(vec![file.clone()], &[], &[])
        .map_err(|fault| Failure::new(fault.to_string()))?;
    let setup = args.reading.setup(ui, sheet, scope)?;
    let job = setup.job().history_files(true).repair(args.repair);
    let job = args.spelling.apply(&setup, job).build();
    let explained = explain(&job, line)
        .map_err(|why| Failure::new(format!("{} is not explained: {why}", familiar(&file))))?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    answer(talk.how(), &mut out, String::new(), &explained)
}

/// A number behind the file is a line, unless there is a file of the whole name.
fn file_and_line(typed: &OsString) -> (PathBuf, Option<usize>) {
    let whole = Path::new(typed);
    let text = typed.to_str().filter(|_| whole.symlink_metadata().is_err());
    match text.and_then(parted_site) {
        Some((file, line, _)) => (PathBuf::from(file), Some(line)),
        None => (whole.to_owned(), None),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_stands_behind_the_last_colon() {
        let cases = [
            ("a.ini", "a.ini", None),
            ("a.ini:12", "a.ini", Some(12)),
            ("a.ini:0", "a.ini:0", None),
            ("a.ini:x", "a.ini:x", None),
            (r"D:\a.ini:3", r"D:\a.ini", Some(3)),
            ("a.ini:12:5", "a.ini", Some(12)),
            ("a:12:5", "a", Some(12)),
            ("D:a.ini", "D:a.ini", None),
        ];
        for (typed, file, line) in cases {
            let expected = (PathBuf::from(file), line);
            assert_eq!(file_and_line(&typed.into()), expected, "{typed}");
        }
    }
}
