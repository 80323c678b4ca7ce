//! The page to hand over: what is on it, that it needs nothing else, and that nothing on it is taken for markup.

use crate::desk::{Desk, SEEN_MOVE};

/// A desk with what wants a page.
fn desk() -> Desk {
    Desk::new()
        .file("files/a.ini", "x=D:\\Herbarium\\Gone\\<b>&amp;\n")
        .file("files/<i>.txt", "The box D:\\Herbarium Old stays.\n")
        .file("disks/h/Collections/Herbarium/Sheets/b", "")
}

fn page(desk: &Desk, command: &[&str]) -> String {
    let all = command
        .iter()
        .chain(&SEEN_MOVE)
        .chain(&["--format", "html"]);
    let ran = desk.run(all.copied());
    assert!(ran.out.starts_with("<!doctype html>"), "{}", ran.err);
    assert!(ran.out.trim_end().ends_with("</html>"));
    // It is one file: nothing is fetched, and names are no markup.
    for sign in [
        "http:",
        "https:",
        "src=",
        "@import",
        "url(",
        "<b>&amp;\\",
        "<i>.txt",
    ] {
        assert!(!ran.out.contains(sign), "{sign}");
    }
    ran.out
}

fn headings(page: &str) -> Vec<&str> {
    let parts = page.split("<h2 id=\"").skip(1);
    parts.filter_map(|part| part.split('"').next()).collect()
}

#[cfg(unix)]
#[test]
fn from_a_preview_to_the_record() {
    let desk = desk();
    let preview = page(&desk, &["preview", "files"]);
    assert_eq!(
        headings(&preview),
        ["moves", "missing", "by-hand", "changed"]
    );
    assert!(preview.contains("would be changed. Nothing has been changed yet."));
    assert!(
        preview.contains(r"x=<b>D:</b>\Herbarium\Gone\&lt;b&gt;&amp;amp;"),
        "{preview}"
    );
    assert!(preview.contains(r"x=<b>H:\Collections</b>\Herbarium\Gone\&lt;b&gt;&amp;amp;"));
    assert!(preview.contains("&lt;i&gt;.txt 1:9"));
    let rewrite = page(&desk, &["rewrite", "files", "--yes", "--anyway"]);
    let all = ["moves", "missing", "by-hand", "changed", "take-back"];
    assert_eq!(headings(&rewrite), all);
    let id = desk.ids()[0].clone();
    let command = format!("lastmaker restore {id} --record-dir records");
    assert!(rewrite.contains(&command));
    // The record tells the same later.
    let report = ["history", "--report", &id, "--record-dir", "records"];
    let kept = desk.run(report).ends_with(0).out;
    assert_eq!(headings(&kept), all);
    assert!(kept.contains(&command));
    let json = desk.run(report.iter().copied().chain(["--format", "json"]));
    assert_eq!(json.ends_with(0).json()["command"], "rewrite");
    let file = ["--out", "report.html"];
    desk.run(report.iter().copied().chain(file)).ends_with(0);
    assert_eq!(headings(&desk.text("report.html")), all);
    let unknown = ["history", "--report", "none", "--record-dir", "records"];
    assert!(
        desk.run(unknown)
            .ends_with(2)
            .err
            .contains("no record none")
    );
    let check = page(&desk, &["check", "files"]);
    assert_eq!(headings(&check), ["moves", "dangling", "by-hand"]);
}

#[test]
fn of_a_comparison() {
    let desk = Desk::new()
        .file("old/a.txt", "a")
        .file("old/lost.txt", "l")
        .file("new/a.txt", "a");
    let ran = desk
        .run(["compare", "old", "new", "--format", "html"])
        .ends_with(1);
    assert!(ran.out.contains("The two sides differ."), "{}", ran.out);
    assert!(
        ran.out
            .contains("<td>only at the old place</td><td><code>lost.txt</code></td>")
    );
}

#[test]
fn what_has_no_page_says_so() {
    let desk = Desk::new();
    let ran = desk.run(["formats", "--format", "html"]).ends_with(2);
    assert!(ran.err.contains("is no page"), "{}", ran.err);
}
