//! Other programs at the same files while they are rewritten: nothing outside is changed, and
//! nothing that anybody wrote is lost.

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::thread::sleep;
use std::time::Duration;

use crate::tree::look;
use crate::{Desk, expect_code};

const OLD: &str = "a=D:\\Herbarium\\Sheets\n";
const NEW: &str = "a=H:\\Collections\\Herbarium\\Sheets\n";

fn start(mut command: Command) -> Child {
    command
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null());
    command.spawn().unwrap()
}

/// A desk with folders of many files, and the same beside them, outside of the scope.
fn many(folders: usize, files: usize) -> Desk {
    let desk = Desk::new();
    for root in ["files", "outside"] {
        for folder in 0..folders {
            let path = desk.files().with_file_name(root).join(format!("f{folder}"));
            fs::create_dir_all(&path).unwrap();
            for file in 0..files {
                fs::write(path.join(format!("{file:03}.ini")), OLD).unwrap();
            }
        }
    }
    desk
}

/// What was done to files, by their names.
#[derive(Default)]
struct Done {
    /// What was saved over them.
    saved: BTreeMap<String, String>,
    /// What was added to their ends.
    added: BTreeMap<String, String>,
}

/// Swaps a folder for a link to the one outside, again and again, and tampers with files.
fn disturb(files: &Path, outside: &Path, run: &mut Child, round: usize) -> Done {
    let mut done = Done::default();
    let mut turn = round;
    while run.try_wait().unwrap().is_none() {
        turn += 1;
        let folder = files.join(format!("f{}", turn % 6));
        let away = files.with_file_name("away");
        if fs::rename(&folder, &away).is_ok() {
            symlink(outside.join(format!("f{}", turn % 6)), &folder).unwrap();
            sleep(Duration::from_micros(200 * (round as u64 % 7)));
            fs::remove_file(&folder).unwrap();
            fs::rename(&away, &folder).unwrap();
        }
        let name = format!("f{}/{:03}.ini", turn % 6, (turn * 37) % 80);
        let text = format!("{OLD}saved={turn}\n");
        match turn % 4 {
            // As editors do: a new file over the old one.
            0 => {
                let new = files.with_file_name("new");
                fs::write(&new, &text).unwrap();
                fs::rename(&new, files.join(&name)).unwrap();
                done.added.remove(&name);
                done.saved.insert(name, text);
            }
            1 => {
                let _ = fs::remove_file(files.join(&name));
                done.added.remove(&name);
                done.saved.remove(&name);
            }
            // As logs do: some more at the end, which must be there afterwards.
            2 if !done.saved.contains_key(&name) => {
                use std::io::Write;
                let file = fs::OpenOptions::new().append(true).open(files.join(&name));
                if file.is_ok_and(|mut file| writeln!(file, "saved={turn}").is_ok()) {
                    done.added.insert(name, format!("saved={turn}\n"));
                }
            }
            _ => {}
        }
    }
    done
}

fn disturbed(rounds: usize) {
    for round in 0..rounds {
        let desk = many(6, 80);
        let files = desk.files();
        let outside = files.with_file_name("outside");
        let before = look(&outside);
        let mut run = start(desk.rewrite(&[]));
        let done = disturb(&files, &outside, &mut run, round);
        assert!(
            run.wait().unwrap().code().is_some_and(|code| code <= 2),
            "round {round}"
        );
        assert!(
            look(&outside) == before,
            "round {round}: something outside was changed"
        );
        for (path, seen) in look(&files) {
            let name = path.to_string_lossy().into_owned();
            if !name.starts_with('f') {
                continue;
            }
            let text = String::from_utf8(seen.content).unwrap();
            // What somebody saved is there, as it was saved or rewritten as a whole.
            let added = done.added.get(&name).map_or("", String::as_str);
            assert!(text.contains(added), "round {round}, {name}: {text}");
            match done.saved.get(&name) {
                Some(saved) => {
                    let rewritten = saved.replace(OLD, NEW);
                    assert!(
                        text == *saved || text == rewritten,
                        "round {round}, {name}: {text}"
                    );
                }
                None => assert!(
                    text == OLD || text == NEW || text.contains("saved"),
                    "round {round}, {name}: {text}"
                ),
            }
        }
        // What lies beside a file is something that somebody saved, in between two other saves.
        for (path, seen) in look(&files) {
            if path.to_string_lossy().contains(".lastmaker-") {
                let text = String::from_utf8_lossy(&seen.content).into_owned();
                assert!(
                    text.contains("saved"),
                    "round {round}: {} is left",
                    path.display()
                );
            }
        }
    }
}

/// Several runs at once over the same files.
fn crowded(rounds: usize) {
    for round in 0..rounds {
        let desk = many(3, 40);
        let before = look(&desk.files());
        let first = start(desk.rewrite(&[]));
        sleep(Duration::from_millis(round as u64 % 5 * 5));
        let second = match round % 2 {
            0 => start(desk.rewrite(&[])),
            _ => start(desk.restore()),
        };
        for mut run in [first, second] {
            assert!(
                run.wait().unwrap().code().is_some_and(|code| code <= 2),
                "round {round}"
            );
        }
        // Whoever came first, all of it can be taken back.
        for _ in 0..4 {
            if desk
                .restore()
                .stdout(Stdio::null())
                .stderr(Stdio::null())
                .status()
                .unwrap()
                .code()
                == Some(2)
            {
                break;
            }
        }
        let now = look(&desk.files());
        let differs: Vec<_> = before
            .keys()
            .filter(|path| before[*path].content != now[*path].content)
            .collect();
        assert!(
            differs.is_empty() && before.len() == now.len(),
            "round {round}: {differs:?}"
        );
    }
}

#[test]
fn swapped_folders_and_saved_files() {
    disturbed(3);
}

#[test]
fn two_runs_at_once() {
    crowded(4);
}

#[test]
#[ignore = "takes minutes; bench/faults runs it"]
fn swapped_folders_and_saved_files_many_times() {
    disturbed(50);
}

#[test]
#[ignore = "takes minutes; bench/faults runs it"]
fn two_runs_at_once_many_times() {
    crowded(50);
}

#[test]
fn a_file_that_is_open_for_writing_is_left() {
    use std::io::Write;
    let desk = Desk::new();
    let path = desk.files().join("viewer.ini");
    let before = fs::read(&path).unwrap();
    // Another program has it open, to add to it later; a third one only reads.
    let script = "exec 3>>viewer.ini; exec 4<desk/maps.json; read line; echo later >&3";
    let mut other = Command::new("sh")
        .args(["-c", script])
        .current_dir(desk.files())
        .stdin(Stdio::piped())
        .spawn()
        .unwrap();
    sleep(Duration::from_millis(200));
    let (status, told) = crate::plain(&mut desk.rewrite(&[]));
    assert_eq!(status.code(), Some(1), "{told}");
    assert!(
        told.contains("viewer.ini") && told.contains("close the program"),
        "{told}"
    );
    assert!(!told.contains("maps.json"), "{told}");
    other.stdin.take().unwrap().write_all(b"\n").unwrap();
    assert!(other.wait().unwrap().success());
    assert_eq!(fs::read(&path).unwrap(), [&before[..], b"later\n"].concat());
    expect_code(&mut desk.rewrite(&[]), &[0]);
}

#[test]
fn a_run_that_is_told_to_stop_finishes_the_file_in_hand() {
    use nix::sys::signal::{Signal, kill};
    let mut stopped = 0;
    for (round, signal) in [Signal::SIGINT, Signal::SIGTERM]
        .into_iter()
        .cycle()
        .take(4)
        .enumerate()
    {
        let desk = many(6, 90);
        let before = look(&desk.files());
        let mut command = desk.rewrite(&[]);
        let run = command
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        // When some of the files are rewritten.
        let begun = || {
            fs::read_dir(desk.files().with_file_name("records"))
                .is_ok_and(|mut all| all.next().is_some())
        };
        while !begun() {
            sleep(Duration::from_millis(1));
        }
        sleep(Duration::from_millis(10 * round as u64));
        let _ = kill(nix::unistd::Pid::from_raw(run.id() as i32), signal);
        let output = run.wait_with_output().unwrap();
        let told = String::from_utf8_lossy(&output.stdout).into_owned();
        if output.status.code() == Some(128 + signal as i32) {
            stopped += usize::from(told.contains("Stopped before"));
            assert!(told.contains("Rewrote"), "{told}");
        }
        // No run is in the way, and all goes back.
        expect_code(&mut desk.rewrite(&[]), &[0]);
        for _ in 0..2 {
            let _ = crate::plain(&mut desk.restore());
        }
        assert!(crate::difference(&look(&desk.files()), &before).is_empty());
    }
    assert!(stopped > 0, "no run was stopped in the middle");
}
