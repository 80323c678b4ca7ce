//! Lists the places that the files below a folder name: `cargo run --example survey -- FOLDER`.

#![allow(clippy::print_stdout, reason = "an example tells what it found")]

use std::error::Error;
use std::path::PathBuf;

use lastmaker_core::answers::survey;
use lastmaker_core::job::Workspace;
use lastmaker_core::sheet::Sheet;
use lastmaker_core::tree::Scope;

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os()
        .nth(1)
        .map_or_else(|| ".".into(), PathBuf::from);
    let scope = Scope::new(vec![folder], &[], &[])?;
    let workspace = Workspace::new(Sheet::default(), scope);
    let report = survey(&workspace.job().build());
    for one in &report.places {
        println!(
            "{:>6}  {:<11}  {}",
            one.references,
            one.target.word(),
            one.place
        );
    }
    println!("{} references in {} files", report.references, report.files);
    Ok(())
}
