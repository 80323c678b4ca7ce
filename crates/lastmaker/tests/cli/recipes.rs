//! Each recipe of `docs/recipes.md`, with the sheet as it stands there.

use crate::desk::Desk;

const PAGE: &str = include_str!("../../../../docs/recipes.md");

/// The sheet of a recipe.
fn sheet(name: &str) -> &'static str {
    let head = format!("```toml\n# recipe: {name}\n");
    let start = PAGE
        .find(&head)
        .unwrap_or_else(|| panic!("no recipe is called {name}"));
    let rest = &PAGE[start + "```toml\n".len()..];
    &rest[..rest.find("```").unwrap()]
}

/// How many recipes the page has.
fn recipes() -> usize {
    PAGE.matches("# recipe: ").count()
}

#[test]
fn each_does_what_it_says() {
    // The recipe, and what is written before and after.
    let cases: [(&str, &[(&str, &str)]); 7] = [
        (
            "renamed user",
            &[
                (
                    r"C:\Users\ines\Pictures\x.tif",
                    r"C:\Users\ines.linden\Pictures\x.tif",
                ),
                (r"%APPDATA%\viewer.ini", r"%APPDATA%\viewer.ini"),
                (r"C:\Users\inesita\x", r"C:\Users\inesita\x"),
            ],
        ),
        (
            "known folders",
            &[
                (r"C:\Users\ines\Pictures\x.tif", r"H:\Pictures\x.tif"),
                (r"%USERPROFILE%\Pictures\x.tif", r"H:\Pictures\x.tif"),
                (r"C:\Users\ines\Documents\a.odt", r"M:\Ines\Documents\a.odt"),
                (
                    r"C:\Users\ines\Documents\Templates\t.ott",
                    r"C:\Users\ines\Documents\Templates\t.ott",
                ),
                (r"C:\Users\ines\Desktop\x", r"C:\Users\ines\Desktop\x"),
            ],
        ),
        ("removable disk", &[(r"E:\Scans\1.tif", r"F:\Scans\1.tif")]),
        (
            "mounted disks",
            &[(r"D:\Herbarium\x.tif", r"H:\Collections\Herbarium\x.tif")],
        ),
        (
            "share to drive",
            &[
                (r"\\mossbank\press\a", r"P:\Press\a"),
                (r"\\MOSSBANK.linden.example\press\a", r"P:\Press\a"),
                (r"S:\a", r"P:\Press\a"),
            ],
        ),
        ("drive to share", &[(r"P:\Press\a", r"\\fernhall\press\a")]),
        ("swapped letters", &[(r"D:\a", r"E:\a"), (r"E:\a", r"D:\a")]),
    ];
    assert_eq!(cases.len(), recipes(), "each recipe is run");
    for (name, lines) in cases {
        let desk = Desk::new().file("moves.toml", sheet(name));
        desk.put("mnt/new-disk/Collections/Herbarium/x.tif", "x");
        desk.put("mnt/old-disk/readme", "x");
        let text = |side: fn(&(&str, &str)) -> String| {
            let lines: Vec<String> = lines.iter().map(side).collect();
            lines.join("\r\n")
        };
        desk.put("files/a.ini", text(|(old, _)| format!("key={old}")));
        let ran = desk.run([
            "rewrite",
            "files",
            "--yes",
            "--anyway",
            "--record-dir",
            "records",
        ]);
        assert!(ran.code < 2, "{name}: {}", ran.err);
        assert_eq!(
            desk.text("files/a.ini"),
            text(|(_, new)| format!("key={new}")),
            "{name}"
        );
        let printed = desk.run(["sheet"]).ends_with(0);
        assert!(printed.out.contains("[[move]]"), "{name}");
    }
}

#[test]
fn a_disk_that_is_not_there_is_unreachable() {
    let desk = Desk::new()
        .file("moves.toml", sheet("removable disk"))
        .file("files/a.ini", "key=F:\\Scans\\1.tif\n");
    let report = desk
        .run(["check", "files", "--all", "--format", "json"])
        .ends_with(0)
        .json();
    assert_eq!(report["totals"]["unreachable"], 1);
    assert_eq!(report["references"][0]["target"], "unreachable");
    let sheet = desk.run(["sheet"]).ends_with(0);
    assert!(sheet.out.contains("label:HERBARIUM"), "{}", sheet.out);
}
