//! Faults at every call that changes the disk: whatever fails, and wherever the program is killed,
//! no file is torn or lost, the record is named, and the way back and the way on both hold.
//!
//! `cargo test` tries some of the points; `bench/faults` tries all of them.
#![cfg(all(target_os = "linux", target_arch = "x86_64"))]
#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::disallowed_methods,
    clippy::print_stdout,
    reason = "these are tests"
)]

mod order;
mod races;
mod soak;
mod tracer;
mod tree;

use std::path::PathBuf;
use std::process::Command;

use nix::errno::Errno;
use tempfile::TempDir;

use tracer::{Fault, plain, run};
use tree::{MOVE, Tree, lay_out, look, torn};

/// Every fault that is tried.
const FAULTS: [Fault; 8] = [
    Fault::Kill,
    Fault::Torn,
    Fault::Once(Errno::ENOSPC),
    Fault::FromThenOn(Errno::ENOSPC),
    Fault::Once(Errno::EIO),
    Fault::Once(Errno::EACCES),
    Fault::Once(Errno::EROFS),
    Fault::Once(Errno::EINTR),
];

/// What the program is doing when the fault comes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Doing {
    Rewrite,
    Restore,
    /// Finishing a rewrite that was killed.
    Finish,
    /// Taking back a rewrite that was killed.
    RestoreBroken,
    /// Going on with a restore that was killed.
    RestoreAgain,
    /// Taking back a restore.
    RestoreOfRestore,
}

const ALL: [Doing; 6] = [
    Doing::Rewrite,
    Doing::Restore,
    Doing::Finish,
    Doing::RestoreBroken,
    Doing::RestoreAgain,
    Doing::RestoreOfRestore,
];

/// A folder with a tree and records.
struct Desk {
    folder: TempDir,
}

impl Desk {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        lay_out(&folder.path().join("files"));
        Self { folder }
    }

    fn files(&self) -> PathBuf {
        self.folder.path().join("files")
    }

    fn look(&self) -> Tree {
        look(&self.files())
    }

    fn program(&self, arguments: &[&str]) -> Command {
        let mut program = self.without_records(arguments);
        program.args(["--record-dir", "records"]);
        program
    }

    fn without_records(&self, arguments: &[&str]) -> Command {
        let mut program = Command::new(env!("CARGO_BIN_EXE_lastmaker"));
        program
            .args(arguments)
            .current_dir(self.folder.path())
            .env_clear()
            .env("HOME", self.folder.path())
            .env("RAYON_NUM_THREADS", "1");
        program
    }

    fn rewrite(&self, more: &[&str]) -> Command {
        let usual = [
            "rewrite", "files", "--move", MOVE, "--anyway", "--yes", "--jobs", "1",
        ];
        self.program(&[&usual, more].concat())
    }

    fn restore(&self) -> Command {
        self.program(&["restore", "--yes"])
    }

    /// Brings the desk to where `doing` begins.
    fn prepare(&self, doing: Doing) {
        match doing {
            Doing::Rewrite => {}
            Doing::Restore => expect_code(&mut self.rewrite(&[]), &[0, 1]),
            Doing::Finish | Doing::RestoreBroken => {
                kill_in_the_middle(&|| self.rewrite(&[]));
            }
            Doing::RestoreOfRestore => {
                expect_code(&mut self.rewrite(&[]), &[0, 1]);
                expect_code(&mut self.restore(), &[0]);
            }
            Doing::RestoreAgain => {
                expect_code(&mut self.rewrite(&[]), &[0, 1]);
                kill_in_the_middle(&|| self.restore());
            }
        }
    }

    fn command(&self, doing: Doing) -> Command {
        match doing {
            Doing::Rewrite => self.rewrite(&[]),
            Doing::Finish => self.rewrite(&["--finish"]),
            Doing::Restore | Doing::RestoreBroken | Doing::RestoreAgain => self.restore(),
            Doing::RestoreOfRestore => {
                let records = std::fs::read_dir(self.folder.path().join("records")).unwrap();
                let names = records.map(|entry| entry.unwrap().file_name().into_string().unwrap());
                // Of records of one second, that with a count is the later.
                let last =
                    names.max_by_key(|name| (name[..15].to_owned(), name.len(), name.clone()));
                let last = last.unwrap();
                self.program(&["restore", &last, "--yes"])
            }
        }
    }
}

fn expect_code(command: &mut Command, codes: &[i32]) {
    let (status, told) = plain(command);
    assert!(
        status.code().is_some_and(|code| codes.contains(&code)),
        "{command:?}: {status}\n{told}"
    );
}

/// Kills a run at the fourth of its exchanges, when some files are new and some old.
fn kill_in_the_middle(command: &dyn Fn() -> Command) {
    // The run goes the same way each time until then.
    let exchange = nix::libc::SYS_renameat2;
    let known = MIDDLE.with(|known| known.borrow().clone());
    let key = format!("{:?}", command().get_args().collect::<Vec<_>>());
    let point = match known.get(&key) {
        Some(point) => *point,
        None => {
            let probe = Desk::new();
            if key.contains("restore") {
                expect_code(&mut probe.rewrite(&[]), &[0, 1]);
            }
            let mut again = command();
            again.current_dir(probe.folder.path());
            let calls = run(&mut again, usize::MAX, None).calls;
            let exchanges = calls
                .iter()
                .enumerate()
                .filter(|(_, call)| call.number == exchange);
            let point = exchanges
                .map(|(at, _)| at)
                .nth(4)
                .expect("there are several");
            MIDDLE.with(|known| known.borrow_mut().insert(key, point));
            point
        }
    };
    let killed = run(&mut command(), point, Some(Fault::Kill));
    assert_eq!(killed.code, None, "it was to be killed");
}

thread_local! {
    /// Where the middle of each command is.
    static MIDDLE: std::cell::RefCell<std::collections::HashMap<String, usize>> = std::cell::RefCell::default();
}

/// The tree before and after a rewrite to which nothing happens.
struct Trees {
    old: Tree,
    new: Tree,
}

impl Trees {
    fn new() -> Self {
        let desk = Desk::new();
        let old = desk.look();
        expect_code(&mut desk.rewrite(&[]), &[0, 1]);
        let new = desk.look();
        let changed = old
            .iter()
            .filter(|(path, seen)| new[*path].content != seen.content);
        assert_eq!(changed.count(), 11, "{new:#?}");
        Self { old, new }
    }
}

/// One fault at one point of what the program is doing: whether it got there, or what is wrong afterwards.
fn try_point(
    trees: &Trees,
    doing: Doing,
    point: usize,
    fault: Fault,
    on: bool,
) -> Result<bool, String> {
    let desk = Desk::new();
    desk.prepare(doing);
    let ran = run(&mut desk.command(doing), point, Some(fault));
    let torn = torn(&desk.look(), &trees.old, &trees.new);
    if !torn.is_empty() {
        return Err(format!("torn: {torn:?}"));
    }
    if ran.calls.len() <= point {
        // A record of the same second gets another name after some more calls, so this run may be over before.
        return Ok(false);
    }
    let killed = matches!(fault, Fault::Kill | Fault::Torn);
    if killed != ran.code.is_none() {
        return Err(format!("ended with {:?}", ran.code));
    }
    let (wanted, commands) = if on {
        (
            &trees.new,
            [desk.rewrite(&["--finish"]), desk.rewrite(&["--finish"])],
        )
    } else {
        (&trees.old, [desk.restore(), desk.restore()])
    };
    let mut told = String::new();
    for mut command in commands {
        let (status, said) = plain(&mut command);
        told.push_str(&format!("{status}: {said}\n"));
        if status.code().is_none_or(|code| code > 2) {
            return Err(format!("the next run ended with {status}: {said}"));
        }
        if difference(&desk.look(), wanted).is_empty() && unfinished(&desk).is_empty() {
            return Ok(true);
        }
    }
    let differs = difference(&desk.look(), wanted);
    Err(format!("{differs:?} {:?}\n{told}", unfinished(&desk)))
}

/// What of the tree is not as wanted.
fn difference(tree: &Tree, wanted: &Tree) -> Vec<String> {
    let paths = tree.keys().chain(wanted.keys());
    let differs = paths.filter(|path| tree.get(*path) != wanted.get(*path));
    let mut all: Vec<String> = differs
        .map(|path| {
            format!(
                "{}: {:?}, not {:?}",
                path.display(),
                tree.get(path),
                wanted.get(path)
            )
        })
        .collect();
    all.dedup();
    all
}

/// Records that are not finished, and folders that are none.
fn unfinished(desk: &Desk) -> Vec<String> {
    let listed = plain(&mut desk.program(&["history", "--format", "json"])).1;
    let listed: serde_json::Value = serde_json::from_str(&listed).unwrap();
    let records = listed["records"].as_array().unwrap();
    let broken = records.iter().filter(|record| record["state"].is_string());
    broken
        .map(|record| format!("{} {}", record["id"], record["state"]))
        .collect()
}

/// How many calls that change the disk a run makes.
fn points(doing: Doing) -> usize {
    let desk = Desk::new();
    desk.prepare(doing);
    run(&mut desk.command(doing), usize::MAX, None).calls.len()
}

/// Tries every `step`th of all points, and gives how many those are and what failed.
fn try_points(step: usize) -> (usize, Vec<String>) {
    let trees = Trees::new();
    let mut failures = Vec::new();
    let (mut number, mut tried) = (0, 0);
    for doing in ALL {
        let points = points(doing);
        for fault in FAULTS {
            for point in 0..points {
                number += 1;
                if number % step != 0 {
                    continue;
                }
                // Both the way back and the way on are tried, by turns.
                let on = (number / step).is_multiple_of(2);
                let outcome = try_point(&trees, doing, point, fault, on);
                tried += usize::from(outcome != Ok(false));
                if let Err(why) = outcome {
                    let way = if on { "on" } else { "back" };
                    failures.push(format!(
                        "{doing:?} {fault:?} at {point} of {points}, then {way}: {why}"
                    ));
                }
            }
        }
    }
    (tried, failures)
}

#[test]
fn nothing_is_lost_at_some_points() {
    let (tried, failures) = try_points(29);
    assert!(tried > 100, "{tried}");
    assert!(
        failures.is_empty(),
        "{} of {tried}:\n{}",
        failures.len(),
        failures.join("\n")
    );
}

#[test]
#[ignore = "takes minutes; bench/faults runs it"]
fn nothing_is_lost_at_all_points() {
    let step = std::env::var("STEP").map_or(1, |step| step.parse().unwrap());
    let (tried, failures) = try_points(step);
    println!("{tried} points, {} failures", failures.len());
    assert!(failures.is_empty(), "{}", failures.join("\n"));
}
