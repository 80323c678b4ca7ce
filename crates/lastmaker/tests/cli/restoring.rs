//! restore and history: taking it back, also after the program has saved again.

use std::fs;

use crate::desk::Desk;

const OLD: &str = "a=D:\\Herbarium\\Sheets\nb=1\nc=D:\\Herbarium\\Labels\n";

/// A desk whose file was rewritten and then saved again by its program.
fn saved_again() -> (Desk, &'static str) {
    let desk = Desk::new()
        .file("files/a.ini", OLD)
        .file("files/b.ini", OLD);
    desk.rewrite(&[]).ends_with(0);
    let saved = "a=H:\\Collections\\Herbarium\\Sheets\nb=2\nc=H:\\Collections\\Herbarium\\Labels\nd=H:\\Collections\\Herbarium\\New\n";
    desk.put("files/a.ini", saved);
    (desk, saved)
}

#[test]
fn what_was_saved_since_is_named_and_left() {
    let (desk, saved) = saved_again();
    let ran = desk.restore(&[]).ends_with(1);
    assert!(ran.out.contains("Put back 1 original"), "{}", ran.out);
    assert!(ran.out.contains("a.ini") && ran.out.contains("saved again since"));
    assert_eq!(desk.text("files/a.ini"), saved);
    assert_eq!(desk.text("files/b.ini"), OLD);
}

#[test]
fn the_original_can_be_put_back_all_the_same() {
    let (desk, saved) = saved_again();
    let id = desk.records()[0]
        .file_name()
        .unwrap()
        .to_string_lossy()
        .into_owned();
    desk.restore(&[&id, "--changed", "original"]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), OLD);
    // The version that it replaced is in a record of its own.
    let newest = desk.records()[1]
        .file_name()
        .unwrap()
        .to_string_lossy()
        .into_owned();
    desk.restore(&[&newest]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), saved);
}

#[test]
fn only_the_edits_can_be_taken_back() {
    let (desk, saved) = saved_again();
    let ran = desk.restore(&["--changed", "edits"]).ends_with(0);
    assert!(ran.out.contains("took back 2 of 2 changes"), "{}", ran.out);
    let expected = "a=D:\\Herbarium\\Sheets\nb=2\nc=D:\\Herbarium\\Labels\nd=H:\\Collections\\Herbarium\\New\n";
    assert_eq!(desk.text("files/a.ini"), expected);
    let newest = desk.records()[1]
        .file_name()
        .unwrap()
        .to_string_lossy()
        .into_owned();
    desk.restore(&[&newest]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), saved);
}

#[test]
fn a_file_that_is_gone_can_come_back() {
    let desk = Desk::new().file("files/a.ini", OLD);
    desk.rewrite(&[]).ends_with(0);
    fs::remove_file(desk.path("files/a.ini")).unwrap();
    assert!(desk.restore(&[]).ends_with(1).out.contains("it is gone"));
    desk.restore(&["--changed", "original"]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), OLD);
}

#[test]
fn history_tells_what_was_done_and_taken_back() {
    let desk = Desk::new().file("files/a.ini", OLD);
    let empty = desk
        .run(["history", "--record-dir", "records"])
        .ends_with(0);
    assert!(empty.out.contains("There are no records"));
    desk.rewrite(&[]).ends_with(0);
    desk.restore(&[]).ends_with(0);
    let ran = desk
        .run(["history", "--record-dir", "records"])
        .ends_with(0);
    assert!(
        ran.out.contains("rewrite, 1 file") && ran.out.contains("  taken back\n"),
        "{}",
        ran.out
    );
    assert!(ran.out.contains("restore of"));
    assert!(ran.out.contains(r"D:\Herbarium = H:\Collections\Herbarium"));
    let json = desk
        .run(["history", "--record-dir", "records", "--format", "json"])
        .ends_with(0)
        .json();
    assert_eq!(json["records"].as_array().unwrap().len(), 2);
    let none = desk.restore(&[]).ends_with(2);
    assert!(none.err.contains("no rewrite to take back"));
    assert!(none.err.contains("restore of"), "the records are listed");
    assert!(
        desk.restore(&["20010101-000000"])
            .ends_with(2)
            .err
            .contains("no record")
    );
}

#[test]
fn a_record_of_another_build_is_listed_and_not_restored() {
    let desk = Desk::new().file("files/a.ini", OLD);
    desk.rewrite(&[]).ends_with(0);
    let manifest = desk.records()[0].join("manifest.jsonl");
    let text = fs::read_to_string(&manifest).unwrap();
    fs::write(&manifest, text.replace("\"version\":3", "\"version\":99")).unwrap();
    assert!(
        desk.run(["history", "--record-dir", "records"])
            .ends_with(0)
            .out
            .contains("another build")
    );
    let id = desk.records()[0]
        .file_name()
        .unwrap()
        .to_string_lossy()
        .into_owned();
    assert!(
        desk.restore(&[&id])
            .ends_with(2)
            .err
            .contains("the build that wrote it")
    );
    assert!(desk.text("files/a.ini").contains("H:"));
    fs::write(&manifest, "nonsense\n").unwrap();
    assert!(desk.restore(&[&id]).ends_with(2).err.contains("damaged"));
}
