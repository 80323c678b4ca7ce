//! Commits that must not be made, and what they leave.

use std::fs;
use std::path::PathBuf;
use std::sync::atomic::AtomicBool;

use super::manifest::MANIFEST_NAME;
use super::*;
use crate::layer::{ByteEdits, Edit, Edits};

const OLD: &[u8] = b"a=D:\\x\n";
const NEW: &[u8] = b"a=H:\\x\n";

struct Desk {
    folder: tempfile::TempDir,
    edits: ByteEdits,
}

impl Desk {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        fs::create_dir(folder.path().join("files")).unwrap();
        let edits = vec![Edit {
            span: 2..3,
            with: b"H".to_vec(),
        }];
        Self {
            folder,
            edits: Edits::new(edits).unwrap(),
        }
    }

    /// The canonical path of a new file.
    fn file(&self, name: &str, content: &[u8]) -> PathBuf {
        let path = self.folder.path().join("files").join(name);
        fs::write(&path, content).unwrap();
        path.canonicalize().unwrap()
    }

    fn change(&self, path: PathBuf) -> Change<'_> {
        Change {
            path,
            links: Vec::new(),
            before: Some(blake3::hash(OLD)),
            after: blake3::hash(NEW),
            content: NewContent::Edits(&self.edits),
            moves: None,
            sites: None,
            belongings: None,
            modified: None,
            exclusive: false,
            expendable: false,
        }
    }

    fn store(&self) -> Store {
        Store::new(self.folder.path().join("records"))
    }

    fn begin(&self) -> RecordWriter {
        self.begin_of(Kind::Rewrite)
    }

    fn begin_of(&self, kind: Kind) -> RecordWriter {
        let begun = self.store().begin(Beginning {
            created: Timestamp::UNIX_EPOCH,
            kind,
            undoes: None,
            moves: Vec::new(),
            scope: vec![self.folder.path().canonicalize().unwrap()],
        });
        begun.unwrap()
    }

    fn commit(&self, changes: &[Change<'_>]) -> Vec<Made> {
        let mut writer = self.begin();
        let stop = AtomicBool::new(false);
        let watch = Watch {
            made: &|_| {},
            stop: &stop,
        };
        let outcomes = writer.commit(changes, &watch).unwrap();
        writer.finish(b"{}").unwrap();
        outcomes.into_iter().map(|outcome| outcome.made).collect()
    }

    fn names(&self) -> Vec<String> {
        let entries = fs::read_dir(self.folder.path().join("files")).unwrap();
        let mut names: Vec<String> = entries
            .map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned())
            .collect();
        names.sort();
        names
    }
}

fn left(outcome: &Made) -> String {
    match outcome {
        Made::Left(why) => why.to_string(),
        other => panic!("{other:?}"),
    }
}

#[test]
fn only_what_was_planned_on_is_replaced() {
    let desk = Desk::new();
    let good = desk.file("good", OLD);
    let changed = desk.file("changed", b"a=D:\\x\nsaved since\n");
    let gone = desk.file("gone", OLD);
    fs::remove_file(&gone).unwrap();
    let wrong = desk.file("wrong", OLD);
    let mut odd = desk.change(wrong.clone());
    odd.after = blake3::hash(b"something else");
    let changes = [
        desk.change(good.clone()),
        desk.change(changed.clone()),
        desk.change(gone),
        odd,
    ];
    let outcomes = desk.commit(&changes);
    assert!(matches!(outcomes[0], Made::Done));
    assert!(left(&outcomes[1]).contains("changed after it was read"));
    assert!(left(&outcomes[2]).contains("no longer be read"));
    assert!(left(&outcomes[3]).contains("not what was planned"));
    assert_eq!(fs::read(good).unwrap(), NEW);
    assert_eq!(fs::read(wrong).unwrap(), OLD);
    assert_eq!(
        desk.names(),
        ["changed", "good", "wrong"],
        "nothing is left beside the files"
    );
    let manifest = desk.store().list()[0].manifest().unwrap();
    assert_eq!(manifest.done().count(), 1);
    assert!(manifest.finished);
}

#[cfg(unix)]
#[test]
fn a_link_that_was_swapped_in_is_not_followed() {
    use std::os::unix::fs::symlink;
    let desk = Desk::new();
    let elsewhere = desk.file("elsewhere", OLD);
    let file = desk.file("file", OLD);
    fs::remove_file(&file).unwrap();
    symlink(&elsewhere, &file).unwrap();
    let inner = desk
        .folder
        .path()
        .canonicalize()
        .unwrap()
        .join("files/inner");
    fs::create_dir(&inner).unwrap();
    fs::write(inner.join("deep"), OLD).unwrap();
    let other = desk.folder.path().join("other");
    fs::rename(&inner, &other).unwrap();
    symlink(&other, &inner).unwrap();
    let outcomes = desk.commit(&[desk.change(file), desk.change(inner.join("deep"))]);
    assert!(left(&outcomes[0]).contains("become a link"));
    assert!(left(&outcomes[1]).contains("has become a link"));
    assert_eq!(fs::read(elsewhere).unwrap(), OLD);
    assert_eq!(fs::read(other.join("deep")).unwrap(), OLD);
}

#[test]
fn a_record_is_locked_while_it_is_written() {
    let desk = Desk::new();
    let writer = desk.begin();
    let listed = desk.store().list();
    assert_eq!(listed[0].state, RecordState::BeingWritten);
    let manifest = listed[0].manifest().unwrap();
    assert!(matches!(
        settle(manifest.clone()),
        Err(RecordError::Locked { .. })
    ));
    drop(writer);
    assert_eq!(desk.store().list()[0].state, RecordState::Unfinished);
    assert!(settle(manifest).unwrap().finished);
    let second = desk.begin();
    assert_eq!(
        second.id(),
        "19700101-000000-2",
        "two records of one second have two names"
    );
}

#[cfg(target_os = "linux")]
#[test]
fn attributes_survive() {
    use rustix::fs::{XattrFlags, getxattr, setxattr};
    let desk = Desk::new();
    let file = desk.file("file", OLD);
    if setxattr(&file, "user.linden", b"herbarium", XattrFlags::empty()).is_err() {
        // This file system has none.
        return;
    }
    let made = desk.commit(&[desk.change(file.clone())]);
    assert!(matches!(made[..], [Made::Done]));
    let mut value = [0; 32];
    let length = getxattr(&file, "user.linden", &mut value).unwrap();
    assert_eq!(&value[..length], b"herbarium");
}

#[cfg(target_os = "linux")]
#[test]
fn flags_survive() {
    use rustix::fs::{IFlags, ioctl_getflags, ioctl_setflags};
    let desk = Desk::new();
    let file = desk.file("file", OLD);
    let flags = |path: &PathBuf| ioctl_getflags(fs::File::open(path).unwrap());
    let set = |flags| ioctl_setflags(fs::File::open(&file).unwrap(), flags);
    if flags(&file).is_ok_and(|now| set(now | IFlags::NOATIME).is_err()) || flags(&file).is_err() {
        // This file system has none.
        return;
    }
    let made = desk.commit(&[desk.change(file.clone())]);
    assert!(matches!(made[..], [Made::Done]), "{made:?}");
    assert!(flags(&file).unwrap().contains(IFlags::NOATIME));
    assert_eq!(fs::read(&file).unwrap(), NEW);
}

#[test]
fn what_a_program_saves_while_a_file_is_put_back_wins() {
    let desk = Desk::new();
    let file = desk.file("file", OLD);
    let folder = system::folder::Folder::open(file.parent().unwrap()).unwrap();
    let spot = system::folder::Spot {
        folder: folder.into(),
        name: "file".into(),
    };
    // The new copy is in place, and what came out is not what was planned on.
    fs::write(&file, NEW).unwrap();
    desk.file("out", b"saved first");
    let change = desk.change(file.clone());
    let open = crate::base::platform::OpenFiles::default();
    let fault = replace::settle_exchange(&change, &spot, "out".as_ref(), &open).unwrap_err();
    assert!(matches!(fault, ChangeFault::SavedMeanwhile), "{fault}");
    assert_eq!(fs::read(&file).unwrap(), b"saved first");
    // The same, but the program has saved once more over the new copy.
    fs::write(&file, "saved last").unwrap();
    desk.file("out", b"saved first");
    let fault = replace::settle_exchange(&change, &spot, "out".as_ref(), &open).unwrap_err();
    assert!(matches!(fault, ChangeFault::SavedAside(_)), "{fault}");
    assert_eq!(fs::read(&file).unwrap(), b"saved last");
    let aside = fs::read(file.with_file_name("out")).unwrap();
    assert_eq!(aside, b"saved first", "nothing that anybody saved is lost");
}

#[test]
fn steps_before_one_that_fails_are_taken_back_and_a_kill_is_settled() {
    let desk = Desk::new();
    desk.file("in-the-way", OLD);
    let at = |name: &str| PathText::from(desk.folder.path().join("files").join(name).as_path());
    let folder = |name: &str| Step::MakeFolder { path: at(name) };
    let rename = |from: &str, to: &str| Step::Rename {
        path: at(from),
        to: at(to),
    };
    let groups = [
        vec![folder("a"), folder("a/b"), rename("gone", "a/b/gone")],
        vec![folder("c"), rename("in-the-way", "c/aside")],
    ];
    let mut writer = desk.begin_of(Kind::Bridge);
    let stop = AtomicBool::new(false);
    let watch = Watch {
        made: &|_| {},
        stop: &stop,
    };
    let states = writer.take_steps(&groups, &watch).unwrap();
    assert!(matches!(states[0], EntryState::Left(_)), "{states:?}");
    assert_eq!(states[1], EntryState::Done);
    assert_eq!(desk.names(), ["c"]);
    // Nothing is said of how the last step ended, as after a kill.
    let folder = writer.folder().to_owned();
    drop(writer);
    let manifest = folder.join(MANIFEST_NAME);
    let text = fs::read_to_string(&manifest).unwrap();
    let whole = text.trim_end().rfind('\n').unwrap();
    fs::write(&manifest, &text[..whole + 1]).unwrap();
    let settled = settle(Manifest::read(&folder).unwrap()).unwrap();
    let last = settled.steps.last().unwrap();
    assert_eq!(last.1, EntryState::Done);
    assert!(Manifest::read(&folder).unwrap().finished);
    // What no record says is refused.
    let odd = text.replace("in-the-way", "../in-the-way");
    fs::write(&manifest, odd).unwrap();
    assert!(Manifest::read(&folder).is_err());
}
