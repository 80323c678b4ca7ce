//! What one way of reading sees every way sees: a small document, the same laid down with so much behind it that
//! it is read piece by piece, and every command that tells of its references.

use super::desk::Desk;

/// The moves of these documents.
const MOVES: [&str; 4] = [
    "--move",
    r"D:\Herbarium=H:\Collections\Herbarium",
    "--move",
    "/srv/herb=/mnt/big/herb",
];

/// Where a reference is, how it stands and why.
type Told = (u64, u64, String, String);

fn told(document: &serde_json::Value) -> Vec<Told> {
    let of_reference = |one: &serde_json::Value| {
        let word = |key: &str| one[key].as_str().unwrap_or_default().to_owned();
        let number = |key: &str| one[key].as_u64().unwrap_or_default();
        (
            number("line"),
            number("column"),
            word("standing"),
            word("reason"),
        )
    };
    let references = document["references"].as_array().unwrap();
    references.iter().map(of_reference).collect()
}

/// So much of a document is read whole when `--max-document 1` is said.
const LARGE: usize = (1 << 20) + (1 << 16);

fn large(document: &[u8], filler: &str) -> Vec<u8> {
    let mut bytes = document.to_vec();
    bytes.extend(filler.repeat(LARGE / filler.len()).bytes());
    bytes
}

/// A document, what fills it up, and whether it is left where it is too large, since its rules are not local.
const DOCUMENTS: [(&str, &[u8], &str, bool); 14] = [
    (
        "signed.txt",
        b"-----BEGIN PGP SIGNED MESSAGE-----\nHash: SHA256\n\nroot=D:\\Herbarium\\a\n",
        "nothing is named in this line\n",
        false,
    ),
    (
        "dump.sql",
        b"INSERT INTO o VALUES (1,'a:1:{s:4:\\\"root\\\";s:18:\\\"D:/Herbarium/a.txt\\\";}');\n",
        "INSERT INTO t VALUES (1,'nothing');\n",
        false,
    ),
    (
        "a.reg",
        b"Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\S\\D:/Herbarium]\r\n\"a\"=\"1\"\r\n\r\n\
          [HKEY_CURRENT_USER\\S\\H:/Collections/Herbarium]\r\n\"a\"=\"1\"\r\n\r\n",
        "[HKEY_CURRENT_USER\\F]\r\n\"x\"=\"nothing\"\r\n\r\n",
        true,
    ),
    (
        "nginx.conf",
        b"server {\n location /srv/herb/ {\n  root /srv/herb;\n }\n}\n",
        "# nothing\n",
        true,
    ),
    (
        "copy.sh",
        b"#!/bin/sh\ncp /srv/herb/a /srv/herb* x\n",
        "# nothing\n",
        true,
    ),
    (
        "copy.dat",
        b"cp /srv/herb/a /srv/herb* x\n",
        "nothing is named\n",
        false,
    ),
    (
        "a.jsonl",
        b"{\"a\": \"D:\\\\Herbarium\\\\x\"}\n{\"D:\\\\Herbarium\": 1, \"H:\\\\Collections\\\\Herbarium\": 2}\n",
        "{\"a\": \"nothing\"}\n",
        false,
    ),
    (
        "a.csv",
        b"id,drive,path\n1,D,D:\\Herbarium\\x\n2,E,\"D:\\Herbarium\\y, z\n\"\n",
        "3,F,nothing\n",
        false,
    ),
    ("a.xml", b"<a>D:\\Herbarium\\x</a>", " \n", true),
    ("a.yaml", b"a: D:\\Herbarium\\x\n", "b: nothing\n", true),
    ("a.ini", b"a=D:\\Herbarium\\x\n", "b=nothing\n", true),
    (
        "a.md",
        b"[x](D:/Herbarium/x)\n",
        "nothing is named\n",
        true,
    ),
    (
        "counted.txt",
        b"Content-Length: 14\n\nD:\\Herbarium\\x\nsee \"D:\\Herbarium\\x\"\n",
        "nothing is named\n",
        false,
    ),
    (
        "notes.txt",
        b"see D:\\Herbarium, then \"D:\\Herbarium\\x\"\n",
        "nothing is named\n",
        false,
    ),
];

#[test]
fn large_documents_come_out_as_small_ones() {
    for (name, small, filler, is_left) in DOCUMENTS {
        let desk = Desk::new();
        desk.put(&format!("small/{name}"), small);
        desk.put(&format!("large/{name}"), large(small, filler));
        let run = |folder: &str, command: &str| {
            let mut all = vec![command, folder, "--format", "json", "--max-document", "1"];
            all.extend(MOVES);
            desk.run(all)
        };
        let (small, large) = (run("small", "preview"), run("large", "preview"));
        assert!(!told(&small.json()).is_empty(), "{name}: {}", small.out);
        if is_left {
            let left = &large.json()["left"][0]["why"];
            let left = left.as_str().unwrap();
            assert!(
                left.contains("is not read piece by piece"),
                "{name}: {left}"
            );
            assert!(left.contains("--max-document 2"), "{name}: {left}");
            continue;
        }
        assert_eq!(told(&large.json()), told(&small.json()), "{name}");
        let (small, large) = (run("small", "check"), run("large", "check"));
        assert_eq!(told(&large.json()), told(&small.json()), "{name}");
        let explained = |folder: &str| {
            let file = format!("{folder}/{name}");
            let mut all = vec!["explain", &file, "--format", "json", "--max-document", "1"];
            all.extend(MOVES);
            desk.run(all)
        };
        let (small, large) = (explained("small"), explained("large"));
        assert_eq!(told(&large.json()), told(&small.json()), "{name}");
    }
}

/// A count in a dump is right afterwards however large the dump is.
#[test]
fn counts_in_a_large_dump_are_put_right() {
    let (name, small, filler, _) = DOCUMENTS[1];
    let desk = Desk::new();
    desk.put(&format!("files/{name}"), large(small, filler));
    desk.rewrite(&["--max-document", "1"]).ends_with(0);
    let expected = "s:30:\\\"H:/Collections/Herbarium/a.txt\\\";";
    assert!(desk.text(&format!("files/{name}")).contains(expected));
    desk.restore(&[]).ends_with(0);
    assert!(desk.read(&format!("files/{name}")) == large(small, filler));
}

#[test]
fn a_doubt_in_a_large_text_is_accepted_as_in_a_small_one() {
    let desk = Desk::new();
    let text = b"see D:\\Herbarium now\n";
    desk.put("files/small.txt", text);
    desk.put("files/large.txt", large(text, "nothing is named\n"));
    let more = ["--max-document", "1", "--accept-reason", "blank-follows"];
    desk.rewrite(&more).ends_with(0);
    for name in ["files/small.txt", "files/large.txt"] {
        let expected = "see H:\\Collections\\Herbarium now\n";
        assert!(desk.text(name).starts_with(expected), "{name}");
    }
}

/// In which encoding a text is that shows it nowhere else: by the names that moved, for every command.
#[test]
fn a_code_page_is_known_by_the_names_of_the_moves() {
    let desk = Desk::new();
    // Code page 437: a letter that is none in others.
    desk.put("files/a.ini", b"a=D:\\Gr\x81n\\x\r\n");
    desk.put("disks/h/x", "");
    let run = |command: &str, more: &[&str]| {
        let mut all = vec![
            command,
            "--move",
            "D:\\Gr\u{fc}n=H:\\",
            "--seen-at",
            "H:\\=disks/h",
        ];
        all.extend(["--format", "json"]);
        all.extend(more);
        desk.run(all)
    };
    let to_move = vec![(1, 3, "to-move".to_owned(), String::new())];
    assert_eq!(told(&run("preview", &["files"]).json()), to_move);
    assert_eq!(told(&run("explain", &["files/a.ini"]).json()), to_move);
    let checked = told(&run("check", &["files"]).ends_with(1).json());
    assert_eq!(checked, to_move);
    let survey = run("survey", &["files"]).json();
    assert_eq!(survey["places"][0]["place"], "D:\\Gr\u{fc}n\\x", "{survey}");
}

/// A letter whose bytes nothing shows is a doubt, however large the text is.
#[test]
fn an_open_code_page_is_a_doubt_in_a_large_text_too() {
    let desk = Desk::new();
    let text = b"name=caf\xe9 \x96 \x8a\xfc D:\\Herbarium\\x\n";
    desk.put("small/a.txt", text);
    desk.put("large/a.txt", large(text, "nothing is named\n"));
    let run = |folder: &str| {
        let more = [
            "--move",
            "D:\\Herbarium=E:\\Gr\u{fc}n",
            "--max-document",
            "1",
        ];
        let all = ["preview", folder, "--format", "json"];
        told(&desk.run(all.into_iter().chain(more)).json())
    };
    let doubt = ("doubtful".to_owned(), "encoding-open".to_owned());
    let (line, column, standing, reason) = run("small").remove(0);
    assert_eq!(((line, column), (standing, reason)), ((1, 16), doubt));
    assert_eq!(run("large"), run("small"));
}
