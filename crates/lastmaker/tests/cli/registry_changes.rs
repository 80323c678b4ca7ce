//! `rewrite --change-files`: registry files of the changes alone.

use std::path::Path;

use crate::desk::Desk;

fn desk() -> Desk {
    let export = Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("tests/data/cases/registry-editor/in/linden.reg");
    Desk::new().file("files/linden.reg", std::fs::read(export).unwrap())
}

fn text(bytes: &[u8]) -> String {
    let units: Vec<u16> = bytes
        .chunks_exact(2)
        .map(|pair| u16::from_le_bytes([pair[0], pair[1]]))
        .collect();
    String::from_utf16(&units).unwrap()
}

#[test]
fn the_changes_alone_and_their_undo() {
    let desk = desk();
    let ran = desk
        .rewrite(&["--change-files", "out/changes"])
        .ends_with(1);
    assert!(
        ran.out.contains("linden.changes.reg") && ran.out.contains("linden.undo.reg"),
        "{}",
        ran.out
    );
    let changes = text(&desk.read("out/changes/linden.changes.reg"));
    let undo = text(&desk.read("out/changes/linden.undo.reg"));
    for file in [&changes, &undo] {
        assert!(file.starts_with("\u{feff}Windows Registry Editor Version 5.00\r\n\r\n"));
        assert!(file.len() < text(&desk.read("files/linden.reg")).len());
    }
    assert!(
        changes.contains("[-HKEY_CURRENT_USER\\Software\\Linden\\Recent\\D:/Herbarium/Sheets]")
    );
    assert!(changes.contains("\"D:\\\\Herbarium\\\\Labels\\\\wide.lbl\"=-"));
    assert!(undo.contains(
        "[-HKEY_CURRENT_USER\\Software\\Linden\\Recent\\H:/Collections/Herbarium/Sheets]"
    ));
    assert!(undo.contains("@=\"D:\\\\Herbarium\""));
}

#[test]
fn what_is_there_is_not_written_over() {
    let desk = desk().file("out/linden.undo.reg", "mine");
    let before = desk.read("files/linden.reg");
    let ran = desk.rewrite(&["--change-files", "out"]).ends_with(2);
    assert!(ran.err.contains("is there already"), "{}", ran.err);
    assert_eq!(desk.read("files/linden.reg"), before);
    assert_eq!(desk.text("out/linden.undo.reg"), "mine");
}

#[test]
fn change_files_in_the_scope_are_not_looked_at() {
    let desk = desk();
    desk.rewrite(&["--change-files", "files/changes"])
        .ends_with(1);
    let undo = desk.read("files/changes/linden.undo.reg");
    desk.rewrite(&["--change-files", "files/changes"])
        .ends_with(0);
    assert_eq!(desk.read("files/changes/linden.undo.reg"), undo);
}
