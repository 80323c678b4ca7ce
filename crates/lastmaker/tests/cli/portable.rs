//! References that become relative to their document: which do, which stay absolute, and that they still name
//! the same file after the next move.

use crate::desk::{Desk, Ran, SEEN_MOVE, archive};

/// Documents in `h`, which lay on another drive before.
const PARTED: [&str; 8] = [
    "h",
    "--no-sheet",
    "--move",
    r"D:\old=H:\new",
    "--seen-at",
    r"D:\=d",
    "--seen-at",
    r"H:\=h",
];

/// A desk on which `H:\` is seen at `disks/h`, with documents in the moved folder.
fn rewritten(name: &str, content: impl AsRef<[u8]>, more: &[&str]) -> (Desk, Ran) {
    let desk = Desk::new().file(&format!("disks/h/Collections/Herbarium/{name}"), content);
    let all = ["rewrite", "disks/h", "--yes", "--anyway"];
    let ran = desk.run(all.iter().chain(&SEEN_MOVE).chain(more).copied());
    (desk, ran)
}

/// What a document in `Lists` becomes.
fn becomes(name: &str, content: &str, more: &[&str]) -> String {
    let name = format!("Lists/{name}");
    let (desk, _) = rewritten(&name, content, more);
    desk.text(&format!("disks/h/Collections/Herbarium/{name}"))
}

#[test]
fn what_its_program_resolves_becomes_relative_and_nothing_else() {
    let new = "file:///H:/Collections/Herbarium";
    let cases: &[(&str, &str, &str)] = &[
        // Lists of files, as paths.
        (
            "a.m3u",
            "#EXTM3U\r\nD:\\Herbarium\\Sheets\\a.tif\r\n",
            "#EXTM3U\r\n..\\Sheets\\a.tif\r\n",
        ),
        ("a.m3u", "d:/herbarium/lists/x/a.tif\n", "./x/a.tif\n"),
        ("a.m3u", "D:\\Herbarium\\Lists\\#1.tif\n", ".\\#1.tif\n"),
        (
            "a.pls",
            "[playlist]\nFile1=D:\\Herbarium\\Sheets\\a.tif\n",
            "[playlist]\nFile1=..\\Sheets\\a.tif\n",
        ),
        (
            "a.cue",
            "FILE \"D:\\Herbarium\\Sheets\\a.wav\" WAVE\n",
            "FILE \"..\\Sheets\\a.wav\" WAVE\n",
        ),
        (
            "a.m3u",
            "D:\\Herbarium\\Sheets\\..\\Maps\\a.tif\n",
            "..\\Sheets\\..\\Maps\\a.tif\n",
        ),
        // The folder itself, and a URI in a list that holds paths, stay absolute.
        ("a.m3u", "D:\\Herbarium\n", "H:\\Collections\\Herbarium\n"),
        (
            "a.m3u",
            "file:///D:/Herbarium/a%20b.tif\n",
            "file:///H:/Collections/Herbarium/a%20b.tif\n",
        ),
        // Pages and style sheets, as addresses.
        (
            "a.html",
            "<!doctype html><a href=\"file:///D:/Herbarium/Sheets/a%20b.tif#top\">D:\\Herbarium\\Sheets</a>",
            "<!doctype html><a href=\"../Sheets/a%20b.tif#top\">H:\\Collections\\Herbarium\\Sheets</a>",
        ),
        (
            "a.html",
            "<!doctype html><img src='FILE:///d|/Herbarium/Sheets/a.png' data-x='file:///D:/Herbarium/x'>",
            &format!("<!doctype html><img src='../Sheets/a.png' data-x='{new}/x'>"),
        ),
        (
            "a.html",
            "<!doctype html><base href=\"x/\"><a href=\"file:///D:/Herbarium/a\">",
            &format!("<!doctype html><base href=\"x/\"><a href=\"{new}/a\">"),
        ),
        (
            "a.css",
            "a{background:url(\"file:///D:/Herbarium/a.png\");content:\"file:///D:/Herbarium/b\"}",
            &format!("a{{background:url(\"../a.png\");content:\"{new}/b\"}}"),
        ),
        // Formats of which nobody knows how their programs take it.
        (
            "a.ini",
            "x=D:\\Herbarium\\a.tif\n",
            "x=H:\\Collections\\Herbarium\\a.tif\n",
        ),
        (
            "a.txt",
            "D:\\Herbarium\\a.tif\n",
            "H:\\Collections\\Herbarium\\a.tif\n",
        ),
    ];
    for (name, content, expected) in cases {
        assert_eq!(
            becomes(name, content, &["--portable"]),
            *expected,
            "{content}"
        );
    }
    // Without the option everything stays absolute.
    let list = "D:\\Herbarium\\Sheets\\a.tif\n";
    assert_eq!(
        becomes("a.m3u", list, &[]),
        "H:\\Collections\\Herbarium\\Sheets\\a.tif\n"
    );
}

#[test]
fn the_sheet_names_documents_whose_program_is_known_to_the_technician() {
    let sheet = "[[move]]\nfrom = 'D:\\Herbarium'\nto = 'H:\\Collections\\Herbarium'\n\
        [[portable]]\nfiles = ['viewer.*', '*.conf']\n[seen-at]\n'H:\\' = 'disks/h'\n";
    let folder = "disks/h/Collections/Herbarium/Lists";
    let desk = Desk::new().file("moves.toml", sheet);
    let cases = [
        ("viewer.ini", "x=D:\\Herbarium\\a.tif\n", "x=..\\a.tif\n"),
        (
            "viewer.json",
            r#"{"x": "D:\\Herbarium\\Lists\\a.tif"}"#,
            r#"{"x": ".\\a.tif"}"#,
        ),
        (
            "a.conf",
            "x=\"D:\\Herbarium\\Sheets\\a.tif\"\n",
            "x=\"..\\Sheets\\a.tif\"\n",
        ),
        // More than a place in one string, or a command, is no reference alone.
        (
            "b.conf",
            "x=D:\\Herbarium\\a;D:\\Herbarium\\b\n",
            "x=H:\\Collections\\Herbarium\\a;H:\\Collections\\Herbarium\\b\n",
        ),
        (
            "other.ini",
            "x=D:\\Herbarium\\a.tif\n",
            "x=H:\\Collections\\Herbarium\\a.tif\n",
        ),
    ];
    for (name, content, _) in &cases {
        desk.put(&format!("{folder}/{name}"), content);
    }
    let run = desk.run([
        "rewrite",
        "disks/h",
        "--yes",
        "--anyway",
        "--record-dir",
        "records",
    ]);
    run.ends_with(0);
    for (name, _, expected) in &cases {
        assert_eq!(desk.text(&format!("{folder}/{name}")), *expected, "{name}");
    }
    // What was saved since goes back piece by piece.
    let saved = format!("y=1\n{}", desk.text(&format!("{folder}/viewer.ini")));
    desk.put(&format!("{folder}/viewer.ini"), saved);
    let id = desk.ids()[0].clone();
    desk.restore(&[&id, "--changed", "edits"]).ends_with(0);
    assert_eq!(
        desk.text(&format!("{folder}/viewer.ini")),
        "y=1\nx=D:\\Herbarium\\a.tif\n"
    );
    assert_eq!(desk.text(&format!("{folder}/viewer.json")), cases[1].1);
}

#[test]
fn a_document_outside_of_the_moved_folder_keeps_absolute_references() {
    let desk = Desk::new().file("files/a.m3u", "D:\\Herbarium\\a.tif\n");
    desk.rewrite(&["--portable"]).ends_with(0);
    assert_eq!(
        desk.text("files/a.m3u"),
        "H:\\Collections\\Herbarium\\a.tif\n"
    );
    // So does one under another new place than what it names.
    let more = [
        "--portable",
        "--move",
        r"D:\Maps=H:\Collections\Herbarium\Maps",
    ];
    let list = "D:\\Maps\\a.map\nD:\\Herbarium\\b.tif\n";
    let text = becomes("a.m3u", list, &more);
    assert_eq!(text, "H:\\Collections\\Herbarium\\Maps\\a.map\n..\\b.tif\n");
}

#[test]
fn packages_resolve_against_themselves_or_their_folder() {
    let content = |href: &str| {
        format!(
            "<?xml version=\"1.0\"?><office:document-content xmlns:xlink=\"x\" xmlns:text=\"t\"><text:a \
             xlink:href=\"{href}\">file:///D:/Herbarium/Sheets/a.tif</text:a></office:document-content>"
        )
    };
    let rels = |target: &str| {
        format!(
            "<?xml version=\"1.0\"?><Relationships><Relationship Target=\"{target}\" \
             TargetMode=\"External\"/></Relationships>"
        )
    };
    let old = "file:///D:/Herbarium/Sheets/a.tif";
    type Write = dyn Fn(&str) -> String;
    let cases: [(&str, &str, &str, &Write, &str); 2] = [
        (
            "a.odt",
            "application/vnd.oasis.opendocument.text",
            "content.xml",
            &content,
            "../../Sheets/a.tif",
        ),
        (
            "a.docx",
            "",
            "word/_rels/document.xml.rels",
            &rels,
            "../Sheets/a.tif",
        ),
    ];
    for (name, kind, part, write, expected) in cases {
        let mut parts: Vec<(&str, &[u8])> = Vec::new();
        if !kind.is_empty() {
            parts.push(("mimetype", kind.as_bytes()));
        }
        let before = write(old);
        parts.push((part, before.as_bytes()));
        let name = format!("Lists/{name}");
        let (desk, ran) = rewritten(&name, archive(&parts), &["--portable"]);
        ran.ends_with(0);
        let bytes = desk.read(&format!("disks/h/Collections/Herbarium/{name}"));
        let mut zip = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
        let mut text = String::new();
        std::io::Read::read_to_string(&mut zip.by_name(part).unwrap(), &mut text).unwrap();
        // What is shown to people stays an absolute address.
        let shown =
            write(expected).replace("file:///D:/Herbarium/", "file:///H:/Collections/Herbarium/");
        assert_eq!(text, shown);
    }
}

#[cfg(unix)]
#[test]
fn after_the_next_move_they_still_name_the_same_files() {
    use std::fs;
    use std::path::Path;

    let desk = Desk::new();
    let base = desk.path(".").canonicalize().unwrap();
    let (old, new, third) = (base.join("old"), base.join("new"), base.join("third"));
    let names = ["sheets/a.tif", "lists/deep/b.tif", "c d.tif", "lists/e.tif"];
    for name in names {
        desk.put(&format!("new/{name}"), name);
    }
    let list: String = names
        .iter()
        .map(|name| format!("{}\n", old.join(name).display()))
        .collect();
    for folder in ["lists", "lists/deep", "."] {
        desk.put(&format!("new/{folder}/a.m3u"), &list);
    }
    let one = format!("{}={}", old.display(), new.display());
    let rewrite = [
        "rewrite",
        "new",
        "--yes",
        "--move",
        &one,
        "--portable",
        "--record-dir",
        "records",
    ];
    desk.run(rewrite).ends_with(0);
    fs::rename(&new, &third).unwrap();
    for folder in ["lists", "lists/deep", "."] {
        let folder = third.join(folder);
        let text = fs::read_to_string(folder.join("a.m3u")).unwrap();
        let lines: Vec<&str> = text.lines().collect();
        assert_eq!(lines.len(), names.len());
        for (line, name) in lines.iter().zip(names) {
            assert!(Path::new(line).is_relative(), "{line}");
            assert_eq!(
                fs::read_to_string(folder.join(line)).unwrap(),
                name,
                "{line}"
            );
        }
    }
}

#[test]
fn a_check_finds_relative_references_that_the_documents_move_broke() {
    let list = "#EXTM3U\n../../music/a.mp3\n./near.mp3\nhttp://x.example/b\n";
    let page = "<!doctype html><a href=\"../../music/a.mp3#t\">x</a> <a href=\"#top\">t</a> \
        <a href=\"./near.mp3\">n</a> <a href=\"mailto:ines@x.example\">m</a>\n";
    let desk = Desk::new()
        .file("d/music/a.mp3", "")
        .file("h/new/lists/near.mp3", "")
        .file("h/new/lists/a.m3u", list)
        .file("h/new/lists/a.html", page)
        .file(
            "h/new/lists/based.html",
            page.replace("<a href=\"#top", "<base href=\"/\"><a href=\"#top"),
        );
    let moved = ["check"].into_iter().chain(PARTED);
    desk.run(moved.clone()).ends_with(0);
    let all = moved.chain(["--relative", "--format", "json"]);
    let report = desk.run(all).ends_with(1).json();
    let lost: Vec<(&str, u64, &str, &str)> = report["references"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| {
            let text = |field: &str| one[field].as_str().unwrap();
            let cure = one["suggestions"][0]["place"].as_str().unwrap();
            let name = text("file").rsplit(['/', '\\']).next().unwrap();
            (name, one["line"].as_u64().unwrap(), text("written"), cure)
        })
        .collect();
    let expected = [
        ("a.html", 1, "../../music/a.mp3#t", r"D:\music\a.mp3"),
        ("a.m3u", 2, "../../music/a.mp3", r"D:\music\a.mp3"),
    ];
    assert_eq!(lost, expected);
}

/// A document that was moved, what was left and what went with it, and the moves.
fn split(list: &str, page: &str) -> Desk {
    Desk::new()
        .file("d/music/a b.mp3", "a")
        .file("d/old/stayed.mp3", "s")
        .file("h/new/lists/near.mp3", "n")
        .file("h/new/lists/a.m3u", list)
        .file("h/new/lists/a.html", page)
        .file("h/other/lists/b.m3u", "../../music/gone.mp3\n")
}

#[test]
fn what_a_move_broke_names_the_same_file_again() {
    let list = "#EXTM3U\r\n..\\..\\music\\a b.mp3\r\n.\\near.mp3\r\n..\\..\\music\\never.mp3\r\n";
    let page =
        "<!doctype html><a href=\"../../music/a%20b.mp3#t\">x</a> <a href='./near.mp3'>n</a>\n";
    let desk = split(list, page);
    let all = PARTED
        .into_iter()
        .chain(["--record-dir", "records", "--relative"]);
    let run = |command: &[&'static str]| desk.run(command.iter().copied().chain(all.clone()));
    assert!(
        run(&["preview"])
            .ends_with(0)
            .out
            .contains("2 references in 2 files would change")
    );
    run(&["rewrite", "--yes"]).ends_with(0);
    // What lies below another root is named in full.
    let mended = list.replace("..\\..\\music\\a b.mp3", "D:\\music\\a b.mp3");
    assert_eq!(desk.text("h/new/lists/a.m3u"), mended);
    let mended = page.replace("../../music", "file:///D:/music");
    assert_eq!(desk.text("h/new/lists/a.html"), mended);
    // A second run finds nothing, and everything goes back.
    assert!(run(&["preview"]).ends_with(0).out.contains("0 references"));
    desk.restore(&[&desk.ids()[0]]).ends_with(0);
    assert_eq!(desk.text("h/new/lists/a.m3u"), list);
    assert_eq!(desk.text("h/new/lists/a.html"), page);
}

#[cfg(unix)]
#[test]
fn names_without_a_folder_are_mended_where_they_are_files() {
    let files: [(&str, &str, &str); 6] = [
        (
            "a.m3u",
            "#EXTM3U\na b.mp3\n./a b.mp3\ngone.mp3\n",
            "a b.mp3\n",
        ),
        (
            "a.pls",
            "[playlist]\nFile1=a b.mp3\nTitle1=a b.mp3\n",
            "a b.mp3\nTitle1",
        ),
        (
            "a.cue",
            "FILE \"a b.mp3\" MP3\nTITLE \"a b.mp3\"\n",
            "a b.mp3\" MP3",
        ),
        (
            "a.html",
            "<!doctype html><a href=\"c.html#t\">c.html</a> <img src='c.html' alt='c.html'>\n",
            "c.html#t\">",
        ),
        (
            "a.css",
            "@import \"c.html\";a{b:url(c.html);content:\"c.html\"}\n",
            "c.html);",
        ),
        (
            "b.html",
            "<!doctype html><a href=index>x</a> <a href=v1.2>y</a>\n",
            "",
        ),
    ];
    let mut desk = Desk::new()
        .file("one/lists/a b.mp3", "a")
        .file("one/lists/c.html", "c");
    for (name, content, _) in &files {
        desk = desk.file(&format!("two/{name}"), content);
    }
    let base = desk.path(".").canonicalize().unwrap();
    let place = |name: &str| base.join(name).display().to_string();
    let lists = format!("{}={}", place("one/lists"), place("two"));
    let all = [
        "two",
        "--no-sheet",
        "--move",
        &lists,
        "--relative",
        "--record-dir",
        "records",
    ];
    let run = |command: &[&str]| desk.run(command.iter().chain(&all).copied());
    run(&["rewrite", "--yes", "--anyway"]).ends_with(0);
    for (name, content, near) in &files {
        let new = desk.text(&format!("two/{name}"));
        let old = if name.ends_with("html") || name.ends_with("css") {
            "c.html"
        } else {
            "a b.mp3"
        };
        let mut expected = (*content).to_owned();
        for at in [
            "#EXTM3U\n",
            "./",
            "File1=",
            "FILE \"",
            "href=\"",
            "src='",
            "@import \"",
            "url(",
        ] {
            let lead = at.trim_start_matches("./");
            expected =
                expected.replace(&format!("{at}{old}"), &format!("{lead}../one/lists/{old}"));
        }
        assert_eq!(new, expected, "{name}");
        assert!(
            near.is_empty() || new.contains(&format!("../one/lists/{near}")),
            "{new}"
        );
    }
    assert!(run(&["preview"]).ends_with(0).out.contains("0 references"));
}

#[cfg(unix)]
#[test]
fn a_list_of_thousands_is_mended_in_portions() {
    const COUNT: usize = 3000;
    let list: String = (0..COUNT)
        .map(|n| format!("../music/{}.mp3\n", n % 7))
        .collect();
    let mut desk = Desk::new().file("two/deep/a.m3u", &list);
    for n in 0..6 {
        desk = desk.file(&format!("one/music/{n}.mp3"), "");
    }
    let base = desk.path(".").canonicalize().unwrap();
    let place = |name: &str| base.join(name).display().to_string();
    let lists = format!("{}={}", place("one/lists"), place("two/deep"));
    let all = [
        "rewrite",
        "two",
        "--no-sheet",
        "--move",
        &lists,
        "--relative",
    ];
    let more = ["--yes", "--anyway", "--record-dir", "records"];
    desk.run(all.iter().chain(&more).copied()).ends_with(0);
    let new = desk.text("two/deep/a.m3u");
    for (n, line) in new.lines().enumerate() {
        let lost = n % 7 == 6;
        let folder = if lost { "../music" } else { "../../one/music" };
        assert_eq!(line, format!("{folder}/{}.mp3", n % 7));
    }
    assert_eq!(new.lines().count(), COUNT);
    desk.restore(&[&desk.ids()[0]]).ends_with(0);
    assert_eq!(desk.text("two/deep/a.m3u"), list);
    // In full, too.
    let ran = desk.run([
        "rewrite",
        "one",
        "two",
        "--no-sheet",
        "--absolute",
        "--yes",
        "--record-dir",
        "r",
    ]);
    ran.ends_with(0);
}

#[cfg(unix)]
#[test]
fn a_split_below_one_root_stays_relative() {
    let desk = Desk::new()
        .file("one/lists/a.m3u", "../music/a.mp3\n../../else/b.mp3\n")
        .file(
            "one/lists/page.html",
            "<!doctype html><img src='../music/c%23.png'>\n",
        )
        .file("two/music/a.mp3", "a")
        .file("two/music/c#.png", "c")
        .file("else/b.mp3", "b");
    let base = desk.path(".").canonicalize().unwrap();
    let place = |name: &str| base.join(name).display().to_string();
    // What they name has moved, and they have not.
    let music = format!("{}={}", place("one/music"), place("two/music"));
    let run = |path: &str, one: &str| {
        let all = [
            "rewrite",
            path,
            "--no-sheet",
            "--yes",
            "--anyway",
            "--relative",
            "--move",
            one,
        ];
        desk.run(all.iter().copied().chain(["--record-dir", "records"]))
            .ends_with(0)
    };
    run("one", &music);
    assert_eq!(
        desk.text("one/lists/a.m3u"),
        "../../two/music/a.mp3\n../../else/b.mp3\n"
    );
    assert_eq!(
        desk.text("one/lists/page.html"),
        "<!doctype html><img src='../../two/music/c%23.png'>\n"
    );
    // Now they move, and what they name stays.
    std::fs::create_dir_all(base.join("three/deep")).unwrap();
    std::fs::rename(base.join("one/lists"), base.join("three/deep/lists")).unwrap();
    let lists = format!("{}={}", place("one/lists"), place("three/deep/lists"));
    run("three", &lists);
    let text = desk.text("three/deep/lists/a.m3u");
    assert_eq!(text, "../../../two/music/a.mp3\n../../../else/b.mp3\n");
    for line in text.lines() {
        assert!(base.join("three/deep/lists").join(line).exists(), "{line}");
    }
}

#[cfg(unix)]
#[test]
fn in_full_a_document_can_be_moved_alone() {
    let list = "#EXTM3U\n../music/a b.mp3\n./gone.mp3\n/srv/x.mp3\nhttp://x.example/a\n";
    let page = "<!doctype html><a href='../music/a%20b.mp3#t'>x</a> <a href='#t'>t</a>\n";
    let desk = Desk::new()
        .file("one/music/a b.mp3", "a")
        .file("one/lists/a.m3u", list)
        .file("one/lists/a.html", page);
    let base = desk.path(".").canonicalize().unwrap();
    let run = |more: &[&str]| {
        let all = [
            "rewrite",
            "one",
            "--no-sheet",
            "--yes",
            "--record-dir",
            "records",
        ];
        desk.run(all.iter().copied().chain(more.iter().copied()))
    };
    run(&[]).ends_with(2);
    run(&["--absolute"]).ends_with(0);
    let music = base.join("one/music").display().to_string();
    let full = list.replace("../music", &music);
    assert_eq!(desk.text("one/lists/a.m3u"), full);
    let full = page.replace("../music", &format!("file://{music}"));
    assert_eq!(desk.text("one/lists/a.html"), full);
    assert!(
        run(&["--absolute"]).ends_with(0).out.contains("Nothing"),
        "a second run finds nothing"
    );
    desk.restore(&[&desk.ids()[0]]).ends_with(0);
    assert_eq!(desk.text("one/lists/a.m3u"), list);
    assert_eq!(desk.text("one/lists/a.html"), page);
}
