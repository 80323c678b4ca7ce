//! Shows what a move would change: `cargo run --example preview -- FOLDER 'D:\Herbarium=H:\Collections\Herbarium'`.

#![allow(clippy::print_stdout, reason = "an example tells what it found")]

use std::error::Error;
use std::path::PathBuf;

use lastmaker_core::answers::preview;
use lastmaker_core::job::Workspace;
use lastmaker_core::record::Store;
use lastmaker_core::sheet::Sheet;
use lastmaker_core::tree::Scope;

fn main() -> Result<(), Box<dyn Error>> {
    let mut arguments = std::env::args().skip(1);
    let (Some(folder), Some(one)) = (arguments.next(), arguments.next()) else {
        return Err("a folder and a move are wanted".into());
    };
    let mut sheet = Sheet::default();
    sheet.add_move(&one)?;
    let scope = Scope::new(vec![PathBuf::from(folder)], &[], &[])?;
    let workspace = Workspace::new(sheet, scope);
    // No rewrite was made: a store that is not there has no records.
    let store = Store::new(std::env::temp_dir().join("no records of this"));
    let report = preview(&workspace.job().build(), &store, false);
    for one in report.references() {
        let why = one.why.as_deref().unwrap_or_default();
        let new = one.new_place.as_deref().unwrap_or_default();
        println!(
            "{}  {}  {} → {new}  {why}",
            one.file.shown,
            one.standing.word(),
            one.place
        );
    }
    println!("{} references would change", report.totals.to_move);
    Ok(())
}
