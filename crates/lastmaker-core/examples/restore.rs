//! Takes the latest rewrite below a folder back: `cargo run --example restore -- FOLDER STORE`.

#![allow(clippy::print_stdout, reason = "an example tells what it did")]

use std::error::Error;
use std::path::PathBuf;
use std::sync::atomic::AtomicBool;

use lastmaker_core::answers::{RestorePlan, RestoreWish, find_record};
use lastmaker_core::record::{ChangedPolicy, Store, Timestamp, Watch};
use lastmaker_core::tree::Scope;

fn main() -> Result<(), Box<dyn Error>> {
    let mut arguments = std::env::args().skip(1);
    let (Some(folder), Some(store)) = (arguments.next(), arguments.next()) else {
        return Err("a folder and a folder of records are wanted".into());
    };
    let store = Store::new(PathBuf::from(store));
    let wish = RestoreWish {
        record: None,
        paths: vec![PathBuf::from(folder).canonicalize()?],
        scope: Scope::default(),
        move_from: None,
        // What a program has saved since is named and left.
        policy: ChangedPolicy::Leave,
        from_dirs: Vec::new(),
        max_document: 256 << 20,
    };
    let found = find_record(&store, &wish, true)?;
    let plan = RestorePlan::new(&found, &wish)?;
    let watch = Watch {
        made: &|_| {},
        stop: &AtomicBool::new(false),
    };
    let report = plan.commit(&store, Timestamp::now(), &watch)?;
    println!("{} files went back", report.restored.len());
    for one in &report.left {
        println!("left: {}: {}", one.file.shown, one.why);
    }
    Ok(())
}
