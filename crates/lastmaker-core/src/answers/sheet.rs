//! What a sheet says, as it is understood.

use crate::place::Place;
use crate::report::{SeenAt, SheetMove, SheetPortable, SheetReport, SheetVariable};
use crate::sheet::Sheet;

/// What a sheet says.
pub fn sheet(sheet: &Sheet) -> SheetReport {
    let places = |places: &[Place]| places.iter().map(Place::to_string).collect();
    let text = |path: &std::path::PathBuf| path.to_string_lossy().into_owned();
    SheetReport {
        file: sheet.file.as_ref().map(text),
        native: sheet.native,
        repeatable: sheet.is_repeatable(),
        moves: sheet
            .moves
            .iter()
            .map(|one| SheetMove {
                from: one.from.to_string(),
                to: one.to.to_string(),
                except: places(&one.except),
                also: places(&one.also),
                ignore_case: one.ignore_case,
            })
            .collect(),
        seen_at: sheet
            .seen_at
            .iter()
            .map(|(place, folder)| SeenAt {
                place: place.to_string(),
                folder: text(folder),
            })
            .collect(),
        variables: sheet
            .variables
            .iter()
            .map(|(name, value)| SheetVariable {
                name: name.clone(),
                value: value.to_string(),
            })
            .collect(),
        paths: sheet.paths.iter().map(text).collect(),
        skip: sheet.skip.clone(),
        accepted_reasons: sheet.accept.reasons().to_vec(),
        accepted_sites: sheet.accept.sites(),
        portable: sheet
            .portable
            .iter()
            .map(|one| SheetPortable {
                files: one.files.clone(),
                variables: one.variables.map(|form| form.written("NAME")),
            })
            .collect(),
    }
}
