//! `lastmaker sheet`.

use std::path::{Path, PathBuf};

use lastmaker_core::sheet::{Additions, EditFault, Sheet};

use crate::exit::{CommandResult, Failure, Outcome};
use crate::render::sheet::ToldSheet;
use crate::render::{answer, count};
use crate::shared::{SheetOptions, TalkArgs};
use crate::sheet_file::{self, folder_of, relative};
use crate::ui::{Ui, shown};

/// Check a sheet and print it as it is understood
///
/// Every fault is given at once, each with its line. With --move and without a sheet it makes
/// one to begin with: lastmaker sheet --move 'D:\Old=E:\New' --out moves.toml
/// Into a sheet that is there --out adds what the command line says; its comments stay.
#[derive(Debug, clap::Args)]
pub(crate) struct SheetArgs {
    /// The sheet; else `moves.toml` in this folder or the nearest above it
    #[arg(value_name = "FILE", conflicts_with_all = ["sheet", "no_sheet"])]
    file: Option<PathBuf>,
    #[command(flatten)]
    options: SheetOptions,
}

pub(crate) fn run(args: &SheetArgs, talk: &TalkArgs) -> CommandResult {
    let ui = talk.ui();
    let named = args.file.as_deref();
    if let (Some(file), true) = (&talk.out, talk.format.is_for_people()) {
        return add(args, file, &ui);
    }
    let sheet = args.options.read(&ui, named)?;
    let mut out = ui.results(talk.out.as_deref())?;
    let told = answer(talk.how(), &mut out, String::new(), &ToldSheet::of(&sheet))?;
    say(&ui, &sheet);
    Ok(told)
}

fn say(ui: &Ui, sheet: &Sheet) {
    let repeatable = if sheet.is_repeatable() {
        "a second run finds nothing"
    } else {
        "a new place lies under an old one, so the record keeps which files have been through it"
    };
    ui.say(format!(
        "{} in it; {repeatable}.",
        count(sheet.moves.len(), "move")
    ));
}

/// Writes a sheet, or adds to the one that is there.
fn add(args: &SheetArgs, file: &Path, ui: &Ui) -> CommandResult {
    if args.file.as_deref().is_some_and(|named| named != file) {
        return Err(Failure::with_help(
            "a sheet is written into the file that --out names",
            "leave the other name out; to copy a sheet, copy its file",
        ));
    }
    let said = SheetOptions {
        sheet: None,
        no_sheet: true,
        ..args.options.clone()
    };
    let said = said.read(ui, None)?;
    let seen_at: Vec<_> = said
        .seen_at
        .iter()
        .map(|(place, path)| (place.clone(), relative(path, folder_of(file))))
        .collect();
    sheet_file::write(file, |text| {
        let additions = Additions {
            moves: &said.moves,
            seen_at: &seen_at,
            accepted: &[],
        };
        let head = match text {
            Some(_) => "",
            None => "# What moved. In single quotes a backslash is a backslash.\n\n",
        };
        let new = additions.to(text.unwrap_or_default())?;
        Ok::<_, EditFault>(format!("{head}{new}"))
    })?;
    let named = SheetOptions {
        sheet: Some(file.to_owned()),
        no_sheet: false,
        moves: Vec::new(),
        seen_at: Vec::new(),
        ..args.options.clone()
    };
    let sheet = named.read(ui, None)?;
    ui.say(format!("Written to {}.", shown(&file.to_string_lossy())));
    say(ui, &sheet);
    Ok(Outcome::Clean)
}
