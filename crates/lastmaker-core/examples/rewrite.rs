//! Makes a move in the files below a folder, keeping the originals in a store:
//! `cargo run --example rewrite -- FOLDER 'D:\Herbarium=H:\Collections\Herbarium' STORE`.

#![allow(clippy::print_stdout, reason = "an example tells what it did")]

use std::error::Error;
use std::path::PathBuf;
use std::sync::atomic::AtomicBool;

use lastmaker_core::answers::{RewriteOptions, prepare};
use lastmaker_core::job::Workspace;
use lastmaker_core::record::{Store, Timestamp, Watch};
use lastmaker_core::sheet::Sheet;
use lastmaker_core::tree::Scope;

fn main() -> Result<(), Box<dyn Error>> {
    let mut arguments = std::env::args().skip(1);
    let mut next = || {
        arguments
            .next()
            .ok_or("a folder, a move and a folder for records are wanted")
    };
    let (folder, one, store) = (next()?, next()?, next()?);
    let mut sheet = Sheet::default();
    sheet.add_move(&one)?;
    let scope = Scope::new(vec![PathBuf::from(folder)], &[], &[])?;
    let workspace = Workspace::new(sheet, scope);
    let store = Store::new(PathBuf::from(store));

    // What would be done is known before anything is: here somebody can be asked.
    let options = RewriteOptions::default();
    let prepared = prepare(&workspace.job().build(), &store, &options, |_| {})?;
    println!("{} files are to be changed", prepared.files());
    if prepared.changes_nothing() {
        return Ok(());
    }
    let watch = Watch {
        made: &|files| println!("{files} more are done"),
        stop: &AtomicBool::new(false),
    };
    let report = prepared.commit(&store, Timestamp::now(), &watch)?;
    if let Some(done) = report.done {
        println!("record {} takes it back", done.record);
    }
    Ok(())
}
