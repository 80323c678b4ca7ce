//! A kill at each step leaves a state that the next run names and puts right.
//!
//! The manifest only grows, so every state that a kill can leave is a prefix of a finished
//! one, with each file old or new and its copy beside it or not.

use std::fs;

use crate::desk::Desk;

const OLD: &str = "a=D:\\Herbarium\\Sheets\n";
const NEW: &str = "a=H:\\Collections\\Herbarium\\Sheets\n";

/// A desk with two files after a rewrite that was killed when `lines` of its manifest were
/// written, `cut` bytes of the next one too, and the files were as given.
fn killed(lines: usize, cut: usize, files: [&str; 2], beside: Option<&str>) -> Desk {
    let desk = Desk::new()
        .file("files/a.ini", OLD)
        .file("files/b.ini", OLD);
    desk.rewrite(&[]).ends_with(0);
    let manifest = desk.records()[0].join("manifest.jsonl");
    let text = fs::read_to_string(&manifest).unwrap();
    let mut kept: String = text.split_inclusive('\n').take(lines).collect();
    kept.push_str(&text[kept.len()..(kept.len() + cut).min(text.len())]);
    fs::write(&manifest, &kept).unwrap();
    // The report is written when all is done.
    if lines < 5 {
        fs::remove_file(desk.records()[0].join("report.json")).unwrap();
    }
    desk.put("files/a.ini", files[0]);
    desk.put("files/b.ini", files[1]);
    if let Some(content) = beside {
        let id = desk.records()[0].file_name().unwrap().to_owned();
        let name = format!("files/.lastmaker-{}-1.tmp", id.to_string_lossy());
        desk.put(&name, content);
    }
    desk
}

/// Everything a kill can leave: lines of the manifest, bytes of a line cut short, the files,
/// and what lies beside the first.
fn states() -> Vec<(usize, usize, [&'static str; 2], Option<&'static str>)> {
    vec![
        (1, 0, [OLD, OLD], None),
        (1, 25, [OLD, OLD], None),
        (2, 40, [OLD, OLD], None),
        (3, 0, [OLD, OLD], Some("a=H:")),
        (3, 0, [OLD, OLD], Some(NEW)),
        (3, 0, [NEW, OLD], Some(OLD)),
        (3, 0, [NEW, NEW], None),
        (3, 10, [NEW, NEW], None),
        (4, 0, [NEW, NEW], None),
        (5, 0, [NEW, NEW], None),
        (5, 5, [NEW, NEW], None),
    ]
}

fn beside(desk: &Desk) -> usize {
    fs::read_dir(desk.path("files")).unwrap().count() - 2
}

#[test]
fn the_next_run_names_it_and_changes_nothing() {
    for (lines, cut, files, copy) in states() {
        let desk = killed(lines, cut, files, copy);
        let ran = desk.rewrite(&[]).ends_with(2);
        assert!(ran.err.contains("broken off"), "{lines} {cut}: {}", ran.err);
        assert!(ran.err.contains("lastmaker restore"));
        assert_eq!([desk.text("files/a.ini"), desk.text("files/b.ini")], files);
    }
}

#[test]
fn finishing_keeps_what_was_done_and_goes_on() {
    for (lines, cut, files, copy) in states() {
        let desk = killed(lines, cut, files, copy);
        desk.rewrite(&["--finish"]).ends_with(0);
        assert_eq!(
            [desk.text("files/a.ini"), desk.text("files/b.ini")],
            [NEW, NEW],
            "{lines} {cut} {files:?}"
        );
        assert_eq!(beside(&desk), 0);
        // All of it can be taken back, the latest first.
        for record in desk.records().iter().rev() {
            let id = record.file_name().unwrap().to_string_lossy().into_owned();
            desk.restore(&[&id]).ends_with(0);
        }
        assert_eq!(desk.text("files/a.ini"), OLD, "{lines} {cut} {files:?}");
    }
}

#[test]
fn restoring_takes_back_what_was_done() {
    for (lines, cut, files, copy) in states() {
        // Files that the manifest does not speak of yet cannot have changed.
        let desk = killed(lines, cut, files, copy);
        desk.restore(&[]).ends_with(0);
        assert_eq!(
            [desk.text("files/a.ini"), desk.text("files/b.ini")],
            [OLD, OLD],
            "{lines} {cut} {files:?}"
        );
        assert_eq!(beside(&desk), 0);
        desk.rewrite(&[]).ends_with(0);
    }
}

#[cfg(target_os = "linux")]
#[test]
fn a_save_in_the_instant_of_the_exchange_is_put_back() {
    let theirs = "a=D:\\Herbarium\\Sheets\nsaved=1\n";
    let desk = killed(3, 0, [NEW, OLD], Some(theirs));
    desk.rewrite(&["--finish", "--skip", "a.ini"]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), theirs);
    assert_eq!(beside(&desk), 0);
}
