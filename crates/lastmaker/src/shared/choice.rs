//! A part of the job: some moves, files of some kind.

use clap::builder::{PossibleValuesParser, TypedValueParser};
use lastmaker_core::answers::{format_names, formats};
use lastmaker_core::sheet::Sheet;

use super::place;
use crate::exit::Failure;

/// Which part of the job is done.
#[derive(Debug, clap::Args)]
pub(crate) struct ChoiceArgs {
    /// Only the move from this place; what other moves take from below it stays
    #[arg(long, value_name = "PLACE", help_heading = "What moved")]
    move_from: Vec<String>,
    /// Only files of this format (`lastmaker formats` lists them)
    #[arg(
        long = "kind",
        value_name = "FORMAT",
        value_parser = kinds(),
        hide_possible_values = true,
        help_heading = "What is looked at"
    )]
    pub(crate) kinds: Vec<&'static str>,
}

impl ChoiceArgs {
    /// Leaves the chosen moves in the sheet.
    pub(crate) fn apply(&self, sheet: &mut Sheet) -> Result<(), Failure> {
        if self.move_from.is_empty() {
            return Ok(());
        }
        let places = self.move_from.iter().map(|one| place("--move-from", one));
        let places: Vec<_> = places.collect::<Result<_, _>>()?;
        sheet.keep_moves(&places).map_err(|unknown| {
            let known: Vec<String> = sheet.moves.iter().map(|one| one.from.to_string()).collect();
            Failure::with_help(
                format!("--move-from: no move is from {unknown}"),
                format!("there are moves from {}", known.join(", ")),
            )
        })
    }
}

/// Reads the name of a format, a container or a link.
fn kinds() -> impl TypedValueParser<Value = &'static str> {
    let names = || format_names(&formats());
    PossibleValuesParser::new(names()).map(move |name| {
        let mut all = names().into_iter();
        all.find(|known| *known == name).unwrap_or_default()
    })
}
