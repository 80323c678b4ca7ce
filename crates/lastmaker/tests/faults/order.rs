//! Power cuts: what must be on the disk before what, read from a trace of the program's calls.

use std::fs;
use std::path::PathBuf;

use nix::libc;

use crate::Desk;
use crate::tracer::{Call, run};

/// A trace of a rewrite of some more files than the usual ones.
fn trace(more: usize) -> (Desk, Vec<Call>) {
    let desk = Desk::new();
    for number in 0..more {
        let path = desk.files().join(format!("more-{number}.ini"));
        fs::write(path, "a=D:\\Herbarium\\x\n").unwrap();
    }
    let few: &[&str] = match more {
        0 => &["--only", "viewer.ini", "--only", "maps.json"],
        _ => &[],
    };
    let ran = run(&mut desk.rewrite(few), usize::MAX, None);
    assert_eq!(ran.code, Some(0));
    (desk, ran.calls)
}

fn first(calls: &[Call], what: impl Fn(&Call) -> bool) -> usize {
    calls.iter().position(what).expect("there is such a call")
}

#[test]
fn what_a_file_needs_is_on_the_disk_before_it_changes() {
    for more in [0, 40] {
        let (desk, calls) = trace(more);
        let files = desk.files().canonicalize().unwrap();
        let store = files.with_file_name("records");
        let record = fs::read_dir(&store)
            .unwrap()
            .next()
            .unwrap()
            .unwrap()
            .path();
        let is_exchange =
            |call: &Call| call.number == libc::SYS_renameat2 && call.path().starts_with(&files);
        let exchange = first(&calls, is_exchange);
        let before = &calls[..exchange];
        // The record's name, all the way down, and what is in it.
        let names = [
            files.parent().unwrap(),
            &store,
            &record,
            &record.join("originals"),
        ];
        for folder in names {
            // A call for the whole file system does for the originals.
            let all =
                |call: &Call| call.number == libc::SYS_syncfs && folder.ends_with("originals");
            let made = |call: &Call| (call.syncs() && call.on == folder) || all(call);
            assert!(
                before.iter().any(made),
                "{} is not synced, {more}",
                folder.display()
            );
        }
        // The manifest's first line comes before any original, and its entries after them all.
        let manifest = record.join("manifest.jsonl");
        let synced: Vec<usize> = before
            .iter()
            .enumerate()
            .filter(|(_, call)| call.syncs() && call.on == manifest)
            .map(|(at, _)| at)
            .collect();
        let [header, entries] = synced[..] else {
            panic!("{synced:?}");
        };
        let in_originals = |call: &Call| call.on.starts_with(record.join("originals"));
        let originals = first(before, in_originals);
        assert!(header < originals, "{more}");
        let whole_system = |call: &Call| call.number == libc::SYS_syncfs;
        let kept = before[originals..entries].iter();
        let kept = kept.filter(|call| (call.syncs() && in_originals(call)) || whole_system(call));
        assert!(kept.count() >= if more == 0 { 2 } else { 1 }, "{more}");
        // Each new copy is synced after it was written and before it is exchanged.
        let temporaries: Vec<PathBuf> = calls[exchange..]
            .iter()
            .filter(|call| call.number == libc::SYS_unlinkat)
            .map(Call::path)
            .collect();
        let copies = before[entries..]
            .iter()
            .filter(|call| whole_system(call) || (call.syncs() && temporaries.contains(&call.on)));
        assert!(copies.count() >= if more == 0 { 2 } else { 1 }, "{more}");
        // The last thing that is written is that it has ended.
        let last = calls.iter().rev().find(|call| call.syncs()).unwrap();
        assert_eq!(last.on, manifest);
    }
}
