//! The whole job by calling the core, without the command line: survey, preview, rewrite, check,
//! history, restore.

#![allow(
    clippy::unwrap_used,
    clippy::disallowed_methods,
    reason = "these are tests"
)]

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};

use lastmaker_core::answers::{
    CheckOptions, RestorePlan, RestoreWish, RewriteOptions, RewriteRefusal, check, explain,
    find_record, history, prepare, preview, settle_unfinished, survey,
};
use lastmaker_core::job::{Job, Workspace};
use lastmaker_core::record::{ChangedPolicy, Store, Timestamp, Watch};
use lastmaker_core::report::{Answer, CheckReport, Document, RecordKind, Standing, Target};
use lastmaker_core::sheet::{self, Sheet};
use lastmaker_core::tree::Scope;

const SHEET: &str = r"
[[move]]
from = 'D:\Herbarium'
to = 'H:\Collections\Herbarium'
[seen-at]
'H:\' = 'disks/h'
'D:\' = 'disks/d'
";

/// A folder with files, the sheet, and what is seen where.
struct Desk {
    folder: tempfile::TempDir,
    workspace: Workspace,
}

impl Desk {
    fn new(files: &[(&str, &str)]) -> Self {
        let folder = tempfile::tempdir().unwrap();
        for (name, content) in files {
            let path = folder.path().join(name);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, content).unwrap();
        }
        for disk in ["disks/d", "disks/h"] {
            fs::create_dir_all(folder.path().join(disk)).unwrap();
        }
        let sheet = sheet::read(SHEET.as_bytes(), &folder.path().join("moves.toml")).unwrap();
        let scope = Scope::new(vec![folder.path().join("files")], &[], &[]).unwrap();
        let workspace = Workspace::new(sheet, scope);
        Self { folder, workspace }
    }

    fn job(&self) -> Job<'_> {
        self.workspace
            .job()
            .max_document(1 << 24)
            .threads(2)
            .build()
    }

    /// The same for other files.
    fn over(&self, path: &Path) -> Workspace {
        let scope = Scope::new(vec![path.to_owned()], &[], &[]).unwrap();
        Workspace::new(self.workspace.sheet().clone(), scope)
    }

    fn store(&self) -> Store {
        Store::new(self.folder.path().join("records"))
    }

    fn read(&self, name: &str) -> String {
        fs::read_to_string(self.folder.path().join(name)).unwrap()
    }
}

const VIEWER: (&str, &str) = (
    "files/viewer.json",
    r#"{"scan": "D:\\Herbarium\\Sheets\\0412.tif", "label": "D:\\Herbarium\\Labels"}"#,
);
const LABELS: (&str, &str) = ("files/labels.ini", "[a]\r\nroot=D:\\Herbarium\r\n");
const SCAN: (&str, &str) = ("disks/h/Collections/Herbarium/Sheets/0412.tif", "x");

fn checked(desk: &Desk) -> CheckReport {
    let options = CheckOptions {
        all: false,
        relative: false,
        rewrites: &desk.store().rewrites(),
        indexed: &AtomicU64::new(0),
    };
    check(&desk.job(), &options)
}

fn commit(
    desk: &Desk,
    store: &Store,
    options: &RewriteOptions,
) -> lastmaker_core::report::RewriteReport {
    let mut seen = None;
    let prepared = prepare(&desk.job(), store, options, |plan| {
        seen = Some(plan.totals.new_places);
    })
    .unwrap();
    assert_eq!(seen.map(|places| places.distinct), Some(3));
    assert_eq!(prepared.totals().to_move, 3);
    let (report, made) = watched(|watch| prepared.commit(store, Timestamp::UNIX_EPOCH, watch));
    assert_eq!(made, 2);
    report.unwrap()
}

/// What `work` gives, and how many files it says that it dealt with.
fn watched<T>(work: impl FnOnce(&Watch<'_>) -> T) -> (T, u64) {
    let (stop, made) = (AtomicBool::new(false), AtomicU64::new(0));
    let count = |more| {
        made.fetch_add(more as u64, Ordering::Relaxed);
    };
    let given = work(&Watch {
        made: &count,
        stop: &stop,
    });
    (given, made.into_inner())
}

#[test]
fn the_whole_job_is_done_by_calling_the_core() {
    let desk = Desk::new(&[VIEWER, LABELS, SCAN]);
    let store = desk.store();

    let surveyed = survey(&desk.job());
    assert_eq!(
        (surveyed.references, surveyed.naming_files, surveyed.files),
        (3, 2, 2)
    );
    assert!(
        surveyed
            .places
            .iter()
            .all(|one| one.target == Target::Dangling)
    );

    let planned = preview(&desk.job(), &store, false);
    assert_eq!(
        (planned.totals.to_move, planned.totals.changing_files),
        (3, 2)
    );
    assert_eq!(planned.files[1].references.len(), 2);
    assert_eq!(desk.read(VIEWER.0), VIEWER.1, "a preview writes nothing");

    settle_unfinished(&store, false, |_| panic!("nothing is unfinished")).unwrap();
    let rewritten = commit(&desk, &store, &RewriteOptions::default());
    let done = rewritten.done.as_ref().unwrap();
    assert_eq!((done.rewritten_references, done.rewritten_files), (3, 2));
    // One new place of three is not there.
    assert!(rewritten.failed.is_empty() && rewritten.has_findings());
    assert_eq!(
        desk.read(LABELS.0),
        "[a]\r\nroot=H:\\Collections\\Herbarium\r\n"
    );
    let kept = fs::read(PathBuf::from(&done.folder).join("report.json")).unwrap();
    let kept: serde_json::Value = serde_json::from_slice(&kept).unwrap();
    assert_eq!(
        (&kept["schema"], &kept["command"]),
        (&1.into(), &"rewrite".into())
    );

    let checked = checked(&desk);
    let totals = &checked.totals;
    assert_eq!((totals.judged, totals.live, totals.dangling), (3, 2, 1));
    assert_eq!(
        checked.references.iter().next().unwrap().standing,
        Standing::Moved
    );
    let listed = serde_json::to_value(Document::of(&checked)).unwrap();
    assert_eq!(listed["references"][0]["target"], "dangling");
    assert_eq!(listed["command"], "check");

    let records = history(&store).records;
    assert_eq!((records.len(), records[0].files), (1, 2));
    assert_eq!(records[0].kind, Some(RecordKind::Rewrite));

    let wish = RestoreWish {
        record: None,
        paths: vec![desk.folder.path().canonicalize().unwrap()],
        scope: Scope::default(),
        move_from: None,
        policy: ChangedPolicy::Leave,
        from_dirs: Vec::new(),
        max_document: 1 << 20,
    };
    let found = find_record(&store, &wish, true).unwrap();
    assert!(found.settled.is_empty());
    let plan = RestorePlan::new(&found, &wish).unwrap();
    let (restored, made) = watched(|watch| plan.commit(&store, Timestamp::UNIX_EPOCH, watch));
    let restored = restored.unwrap();
    assert_eq!(made, 2);
    assert_eq!((restored.restored.len(), restored.left.len()), (2, 0));
    for (name, content) in [VIEWER, LABELS] {
        assert_eq!(desk.read(name), content);
    }
    assert!(
        find_record(&store, &wish, true).is_err(),
        "there is nothing left to take back"
    );
}

#[test]
fn what_would_go_wrong_is_refused_before_anything_changes() {
    let desk = Desk::new(&[VIEWER, LABELS]);
    let store = desk.store();
    let options = RewriteOptions::default();
    let refused = prepare(&desk.job(), &store, &options, |_| {}).unwrap_err();
    assert!(matches!(&refused, RewriteRefusal::WrongFolder(places) if places.live == 0));
    assert!(refused.to_string().contains("is it the wrong folder?"));
    let nothing = Workspace::new(Sheet::default(), desk.workspace.scope().clone());
    let refused = prepare(&nothing.job().build(), &store, &options, |_| {}).unwrap_err();
    assert!(matches!(refused, RewriteRefusal::NoMoves));
    let anyway = RewriteOptions {
        anyway: true,
        ..options
    };
    assert!(commit(&desk, &store, &anyway).done.is_some());
    let twice = prepare(&desk.job(), &store, &anyway, |_| {}).unwrap();
    assert!(twice.changes_nothing() && twice.into_report().done.is_none());
}

#[test]
fn a_file_is_explained_by_calling_the_core() {
    let desk = Desk::new(&[VIEWER]);
    let file = desk.folder.path().join(VIEWER.0);
    let explained = explain(&desk.over(&file).job().build(), Some(1)).unwrap();
    assert_eq!((explained.format, explained.references.len()), ("json", 2));
    let gone = desk.over(Path::new("gone"));
    assert!(
        explain(&gone.job().build(), None)
            .unwrap_err()
            .to_string()
            .contains("does not exist")
    );
}

/// A name that is no Unicode is told by its bytes too, also of a file that cannot be read.
#[cfg(unix)]
#[test]
fn names_that_are_no_unicode_come_with_their_bytes() {
    use std::os::unix::ffi::OsStrExt;
    let desk = Desk::new(&[VIEWER]);
    let bytes = b"caf\xe9.gz";
    let file = desk
        .folder
        .path()
        .join("files")
        .join(std::ffi::OsStr::from_bytes(bytes));
    fs::write(&file, b"\x1f\x8b\x08\0 cut short").unwrap();
    let checked = checked(&desk);
    let told = serde_json::to_value(&checked).unwrap();
    let name = told["left"][0]["file_bytes"].as_array().unwrap();
    let tail: Vec<u8> = name[name.len() - bytes.len()..]
        .iter()
        .map(|byte| byte.as_u64().unwrap() as u8)
        .collect();
    assert_eq!(tail, bytes);
    assert!(
        told["left"][0]["file"]
            .as_str()
            .unwrap()
            .ends_with("caf\u{fffd}.gz")
    );
}
