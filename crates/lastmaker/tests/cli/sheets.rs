//! The sheet: found, checked, printed.

use crate::desk::Desk;

#[test]
fn every_fault_is_given_with_its_line_and_nothing_is_changed() {
    let desk = Desk::new()
        .file("moves.toml", "[[move]]\nfrom = \"D:\\new\"\nto = 'H:\\x'\n[[move]]\nfrom = 'E:\\a'\n[seen-at]\nH = 'x'\n")
        .file("files/a.ini", r"x=D:\Herbarium\Sheets");
    let ran = desk
        .run(["rewrite", "files", "--yes", "--record-dir", "records"])
        .ends_with(2);
    for line in ["moves.toml:2:", "moves.toml:4:", "moves.toml:7:"] {
        assert!(ran.err.contains(line), "{line}: {}", ran.err);
    }
    assert!(ran.err.contains("single quotes"));
    assert!(desk.records().is_empty());
}

#[test]
fn a_sheet_is_printed_as_it_is_understood() {
    let desk = Desk::new();
    let ran = desk
        .run([
            "sheet",
            "--move",
            crate::desk::MOVE,
            "--seen-at",
            r"H:\=disks/h",
        ])
        .ends_with(0);
    desk.put("moves.toml", &ran.out);
    let again = desk.run(["sheet"]).ends_with(0);
    assert_eq!(again.out, ran.out);
    assert!(
        again
            .err
            .contains("1 move in it; a second run finds nothing.")
    );
    let named = desk.run(["sheet", "moves.toml"]).ends_with(0);
    assert_eq!(named.out, ran.out);
    assert!(
        desk.run(["sheet", "missing.toml"])
            .ends_with(2)
            .err
            .contains("cannot be read")
    );
}

#[test]
fn paths_exceptions_and_stand_ins_of_the_sheet() {
    let desk = Desk::new()
        .file(
            "desk/moves.toml",
            "[[move]]\nfrom = 'D:\\Herbarium'\nto = 'H:\\Collections\\Herbarium'\nexcept = ['D:\\Herbarium\\Loans']\nalso = ['S:\\']\n\
             [variables]\nUSERPROFILE = 'C:\\Users\\ines'\n[scan]\npaths = ['in']\nskip = ['*.tmp']\n[seen-at]\n'H:\\' = '../disks/h'\n",
        )
        .file("desk/in/a.ini", "a=D:\\Herbarium\\Sheets\nb=D:\\Herbarium\\Loans\\x\nc=S:\\Sheets\nd=%USERPROFILE%\\x\n")
        .file("desk/in/b.tmp", r"a=D:\Herbarium\Sheets");
    let run = [
        "rewrite",
        "--sheet",
        "desk/moves.toml",
        "--yes",
        "--record-dir",
        "records",
    ];
    desk.run(run).ends_with(0);
    assert_eq!(
        desk.text("desk/in/a.ini"),
        "a=H:\\Collections\\Herbarium\\Sheets\nb=D:\\Herbarium\\Loans\\x\nc=H:\\Collections\\Herbarium\\Sheets\nd=%USERPROFILE%\\x\n"
    );
    assert_eq!(desk.text("desk/in/b.tmp"), r"a=D:\Herbarium\Sheets");
}
