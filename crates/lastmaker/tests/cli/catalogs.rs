//! Databases made by the database itself, in every variant that a catalog may come in.

use std::path::Path;

use rusqlite::Connection;

use crate::desk::{Desk, Ran};

/// A desk with the database `files/a.sqlite`, which `make` fills.
fn desk(make: impl FnOnce(&Connection)) -> Desk {
    let desk = Desk::new().file("files/other.txt", "nothing");
    let database = open(&desk);
    make(&database);
    database.close().unwrap();
    desk
}

fn open(desk: &Desk) -> Connection {
    let database = Connection::open(desk.path("files/a.sqlite")).unwrap();
    database.pragma_update(None, "foreign_keys", false).unwrap();
    database
}

/// Makes a database of these statements, rewrites it, and shows what the queries then bring.
fn after(statements: &str, queries: &[&str]) -> (Vec<String>, Ran) {
    let desk = desk(|database| database.execute_batch(statements).unwrap());
    let ran = desk.rewrite(&["--format", "json"]);
    let mut all = vec!["PRAGMA integrity_check", "PRAGMA foreign_key_check"];
    all.extend(queries);
    let database = open(&desk);
    (
        all.iter().map(|query| rows(&database, query)).collect(),
        ran,
    )
}

/// The rows of a query: values parted by bars, rows by semicolons.
fn rows(database: &Connection, query: &str) -> String {
    let mut statement = database.prepare(query).unwrap();
    let columns = statement.column_count();
    let rows = statement.query_map([], |row| {
        let values: Vec<String> = (0..columns)
            .map(|index| match row.get_ref(index).unwrap() {
                rusqlite::types::ValueRef::Text(text) => String::from_utf8_lossy(text).into_owned(),
                rusqlite::types::ValueRef::Blob(bytes) => {
                    String::from_utf8_lossy(bytes).into_owned()
                }
                rusqlite::types::ValueRef::Integer(number) => number.to_string(),
                other => format!("{other:?}"),
            })
            .collect();
        Ok(values.join("|"))
    });
    let rows: Vec<String> = rows.unwrap().map(Result::unwrap).collect();
    rows.join("; ")
}

#[test]
fn every_variant_is_rewritten_and_stays_sound() {
    let cases: [(&str, &str, &[(&str, &str)]); 11] = [
        (
            "text and keys, counts and settings of the file",
            r"PRAGMA page_size = 1024; PRAGMA user_version = 9; PRAGMA application_id = 77;
              CREATE TABLE t(a TEXT, n INT); INSERT INTO t VALUES ('D:\Herbarium\x', 1), ('D:\Herbaria', 2);",
            &[
                (
                    "SELECT * FROM t",
                    r"H:\Collections\Herbarium\x|1; D:\Herbaria|2",
                ),
                ("PRAGMA user_version", "9"),
                ("PRAGMA application_id", "77"),
                ("PRAGMA page_size", "1024"),
            ],
        ),
        (
            "no row numbers, a key that moves",
            r"CREATE TABLE t(k TEXT PRIMARY KEY, v) WITHOUT ROWID; INSERT INTO t VALUES ('D:\Herbarium\b', 1), ('a', 'D:/Herbarium/x'), ('z', 2);",
            &[(
                "SELECT * FROM t",
                r"H:\Collections\Herbarium\b|1; a|H:/Collections/Herbarium/x; z|2",
            )],
        ),
        (
            "triggers do not fire, computed columns follow",
            r"CREATE TABLE log(x); CREATE TABLE t(a TEXT, v TEXT AS (a || '!') VIRTUAL, s TEXT AS (upper(a)) STORED);
              CREATE TRIGGER told AFTER UPDATE ON t BEGIN INSERT INTO log VALUES ('fired'); END;
              INSERT INTO t(a) VALUES ('D:\Herbarium');",
            &[
                (
                    "SELECT * FROM t",
                    r"H:\Collections\Herbarium|H:\Collections\Herbarium!|H:\COLLECTIONS\HERBARIUM",
                ),
                ("SELECT count(*) FROM log", "0"),
            ],
        ),
        (
            "foreign keys on text move together",
            r"CREATE TABLE p(path TEXT PRIMARY KEY); CREATE TABLE c(path TEXT REFERENCES p(path) ON UPDATE RESTRICT);
              INSERT INTO p VALUES ('D:\Herbarium\a'); INSERT INTO c VALUES ('D:\Herbarium\a');",
            &[(
                "SELECT c.path FROM c JOIN p USING (path)",
                r"H:\Collections\Herbarium\a",
            )],
        ),
        (
            "full-text tables of their own",
            r"CREATE VIRTUAL TABLE f USING fts5(a, tokenize = 'porter'); INSERT INTO f VALUES ('D:\Herbarium\Sheets limes');
              CREATE VIRTUAL TABLE g USING fts4(a); INSERT INTO g VALUES ('D:\Herbarium\Maps');",
            &[
                (
                    "SELECT a FROM f WHERE f MATCH 'collections'",
                    r"H:\Collections\Herbarium\Sheets limes",
                ),
                (
                    "SELECT a FROM g WHERE g MATCH 'collections'",
                    r"H:\Collections\Herbarium\Maps",
                ),
                ("SELECT count(*) FROM g WHERE g MATCH 'd'", "0"),
            ],
        ),
        (
            "full-text indexes of another table",
            r"CREATE TABLE t(id INTEGER PRIMARY KEY, a TEXT); INSERT INTO t VALUES (1, 'D:\Herbarium\Sheets');
              CREATE VIRTUAL TABLE f USING fts5(a, content='t', content_rowid='id'); INSERT INTO f(f) VALUES ('rebuild');",
            &[
                ("SELECT rowid FROM f WHERE f MATCH 'collections'", "1"),
                ("SELECT count(*) FROM f WHERE f MATCH 'd'", "0"),
            ],
        ),
        (
            "a column that allows each value once",
            r"CREATE TABLE t(a TEXT UNIQUE); INSERT INTO t VALUES ('D:\Herbarium\x'), ('D:\Herbarium\y');",
            &[(
                "SELECT a FROM t ORDER BY a",
                r"H:\Collections\Herbarium\x; H:\Collections\Herbarium\y",
            )],
        ),
        (
            "UTF-16",
            "PRAGMA encoding = 'UTF-16be'; CREATE TABLE t(a TEXT); INSERT INTO t VALUES ('D:\\Herbarium\\M\u{f6}lln\u{1f33f}');",
            &[
                (
                    "SELECT a FROM t",
                    "H:\\Collections\\Herbarium\\M\u{f6}lln\u{1f33f}",
                ),
                ("PRAGMA encoding", "UTF-16be"),
            ],
        ),
        (
            "a journal written ahead, merged",
            r"PRAGMA journal_mode = wal; CREATE TABLE t(a TEXT); INSERT INTO t VALUES ('D:\Herbarium'); PRAGMA wal_checkpoint(TRUNCATE);",
            &[
                ("SELECT a FROM t", r"H:\Collections\Herbarium"),
                ("PRAGMA journal_mode", "wal"),
            ],
        ),
        (
            "roots whose children are relative, names that need quotes",
            r#"CREATE TABLE "odd ""table"(root TEXT, "select" TEXT, rowid TEXT); INSERT INTO "odd ""table" VALUES ('D:/Herbarium/', 'Sheets/a.tif', 'D:\Herbarium\r');"#,
            &[(
                r#"SELECT * FROM "odd ""table""#,
                r"H:/Collections/Herbarium/|Sheets/a.tif|H:\Collections\Herbarium\r",
            )],
        ),
        (
            "long text over many pages",
            r"PRAGMA page_size = 512; CREATE TABLE t(a TEXT); INSERT INTO t VALUES (replace(hex(zeroblob(3000)), '0', '.') || ' D:\Herbarium\x');",
            &[(
                "SELECT substr(a, 6001) FROM t",
                r" H:\Collections\Herbarium\x",
            )],
        ),
    ];
    for (what, statements, expected) in cases {
        let queries: Vec<&str> = expected.iter().map(|(query, _)| *query).collect();
        let (got, ran) = after(statements, &queries);
        assert_eq!(ran.code, 0, "{what}: {}{}", ran.out, ran.err);
        assert_eq!((got[0].as_str(), got[1].as_str()), ("ok", ""), "{what}");
        for (got, (query, expected)) in got[2..].iter().zip(expected) {
            assert_eq!(got, expected, "{what}: {query}");
        }
    }
}

#[test]
fn values_in_other_syntaxes() {
    let statements = r#"CREATE TABLE t(a); INSERT INTO t VALUES ('{"p": "D:\\Herbarium\\x"}'), ('file:///D:/Herbarium/a%20b'),
        (CAST('D:\Herbarium\y' AS BLOB)), (x'44003A005C00480065007200620061007200690075006D00')"#;
    let (got, ran) = after(
        statements,
        &[
            "SELECT typeof(a), replace(hex(a), '00', '') FROM t WHERE typeof(a) = 'blob'",
            "SELECT a FROM t WHERE typeof(a) = 'text'",
        ],
    );
    assert_eq!(ran.code, 0, "{}", ran.out);
    let hex = |text: &str| text.bytes().map(|b| format!("{b:02X}")).collect::<String>();
    assert_eq!(
        got[2],
        format!(
            "blob|{}; blob|{}",
            hex(r"H:\Collections\Herbarium\y"),
            hex(r"H:\Collections\Herbarium")
        )
    );
    assert_eq!(
        got[3],
        r#"{"p": "H:\\Collections\\Herbarium\\x"}; file:///H:/Collections/Herbarium/a%20b"#
    );
}

#[test]
fn only_pages_that_a_change_concerns_differ() {
    let desk = desk(|database| {
        database.execute_batch(
            r"PRAGMA page_size = 1024; CREATE TABLE t(a TEXT); CREATE TABLE u(b);
              WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 5000) INSERT INTO u SELECT hex(i) FROM n;
              INSERT INTO t VALUES ('D:\Herbarium\x');",
        ).unwrap();
    });
    let old = desk.read("files/a.sqlite");
    desk.rewrite(&[]).ends_with(0);
    let new = desk.read("files/a.sqlite");
    assert_eq!(old.len(), new.len());
    let differing = old
        .chunks(1024)
        .zip(new.chunks(1024))
        .filter(|(a, b)| a != b)
        .count();
    assert_eq!(
        differing, 2,
        "the first page's counters and the page of the row"
    );
    desk.restore(&[]).ends_with(0);
    assert!(desk.read("files/a.sqlite") == old);
}

/// How each reference stands, with its site.
fn standings(ran: &Ran) -> Vec<String> {
    let report = ran.json();
    let references = report["references"].as_array().unwrap().iter();
    references
        .map(|one| {
            format!(
                "{} {}",
                one["site"].as_str().unwrap(),
                one["standing"].as_str().unwrap()
            )
        })
        .collect()
}

#[test]
fn rows_that_must_differ_stay_where_they_would_not() {
    let statements = r"CREATE TABLE t(a TEXT UNIQUE, b TEXT);
        INSERT INTO t VALUES ('D:\Herbarium\x', 'one'), ('H:\Collections\Herbarium\x', 'two'), ('D:\Herbarium\y', 'D:\Herbarium\b');";
    let (got, ran) = after(statements, &["SELECT * FROM t"]);
    assert_eq!(ran.code, 1);
    assert_eq!(
        standings(&ran),
        [
            "t, row 1, a collision",
            "t, row 3, a to-move",
            "t, row 3, b to-move"
        ]
    );
    assert_eq!(
        got[2],
        r"D:\Herbarium\x|one; H:\Collections\Herbarium\x|two; H:\Collections\Herbarium\y|H:\Collections\Herbarium\b"
    );
    // Two that would become the same one: both stay.
    let (_, ran) = after(
        r"CREATE TABLE t(a TEXT UNIQUE); INSERT INTO t VALUES ('D:\Herbarium\x'), ('\\mossbank\press\x');",
        &[],
    );
    assert_eq!(standings(&ran), ["t, row 1, a to-move"]);
    let desk = desk(|database| {
        database.execute_batch(r"CREATE TABLE t(a TEXT UNIQUE); INSERT INTO t VALUES ('D:\Herbarium\x'), ('\\mossbank\press\x');").unwrap();
    });
    let ran = desk
        .rewrite(&[
            "--move",
            r"\\mossbank\press=H:\Collections\Herbarium",
            "--format",
            "json",
        ])
        .ends_with(1);
    assert_eq!(
        standings(&ran),
        ["t, row 1, a collision", "t, row 2, a collision"]
    );
}

#[test]
fn drives_may_swap_in_a_column_that_allows_each_place_once() {
    let desk = desk(|database| {
        database.execute_batch(
            r"CREATE TABLE t(a TEXT UNIQUE); INSERT INTO t VALUES ('D:\x'), ('E:\x'), ('E:\y'), ('F:\y'), ('D:\z');
              CREATE TABLE k(a TEXT PRIMARY KEY) WITHOUT ROWID; INSERT INTO k VALUES ('D:\x'), ('E:\x');",
        ).unwrap();
    });
    let ran = desk.run([
        "rewrite",
        "files",
        "--move",
        r"D:\=E:\",
        "--move",
        r"E:\=F:\",
        "--move",
        r"F:\=D:\",
        "--yes",
        "--anyway",
        "--record-dir",
        "records",
    ]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    let database = open(&desk);
    assert_eq!(
        rows(&database, "SELECT a FROM t ORDER BY rowid"),
        r"E:\x; F:\x; F:\y; D:\y; E:\z"
    );
    assert_eq!(rows(&database, "SELECT a FROM k"), r"E:\x; F:\x");
    assert_eq!(rows(&database, "PRAGMA integrity_check"), "ok");
}

#[test]
fn what_only_its_program_has_seals_a_table_and_no_other() {
    let desk = desk(|database| {
        database
            .create_collation("linden", |a, b| a.len().cmp(&b.len()))
            .unwrap();
        let flags = rusqlite::functions::FunctionFlags::SQLITE_DETERMINISTIC
            | rusqlite::functions::FunctionFlags::SQLITE_UTF8;
        database
            .create_scalar_function("leaf", 1, flags, |context| context.get::<String>(0))
            .unwrap();
        database.execute_batch(
            r"CREATE TABLE c(a TEXT COLLATE linden UNIQUE); INSERT INTO c VALUES ('D:\Herbarium\c');
              CREATE TABLE f(a TEXT); CREATE INDEX i ON f(leaf(a)); INSERT INTO f VALUES ('D:\Herbarium\f');
              CREATE VIRTUAL TABLE n USING fts5(a); INSERT INTO n VALUES ('D:\Herbarium\n');
              CREATE TABLE k(a TEXT CHECK (a NOT LIKE 'H:%')); INSERT INTO k VALUES ('D:\Herbarium\k');
              CREATE TABLE t(a TEXT); INSERT INTO t VALUES ('D:\Herbarium\t');
              CREATE VIEW v AS SELECT 'D:\Herbarium\v' AS x;
              PRAGMA writable_schema = on;
              UPDATE sqlite_schema SET sql = 'CREATE VIRTUAL TABLE n USING fts5(a, tokenize = ''linden'')' WHERE name = 'n';",
        ).unwrap();
    });
    let ran = desk.rewrite(&["--format", "json"]).ends_with(1);
    let mut got = standings(&ran);
    got.sort();
    assert_eq!(
        got,
        [
            "c, row 1, a sealed",
            "f, row 1, a sealed",
            "k, row 1, a sealed",
            "n, row 1, a sealed",
            "t, row 1, a to-move",
            "view v (schema) sealed",
        ]
    );
    let database = open(&desk);
    assert_eq!(
        rows(&database, "SELECT a FROM t"),
        r"H:\Collections\Herbarium\t"
    );
    assert_eq!(rows(&database, "SELECT a FROM c"), r"D:\Herbarium\c");
}

#[test]
fn a_hash_of_the_path_beside_it_is_a_doubt() {
    // md5sum of D:/Herbarium/x; and a hash of something else, a picture say.
    let statements = r"CREATE TABLE t(a TEXT, h TEXT); INSERT INTO t VALUES
        ('D:/Herbarium/x', 'HASH'), ('D:/Herbarium/y', '0123456789abcdef0123456789abcdef');";
    let (_, ran) = after(
        &statements.replace("HASH", "cbc6b0a0f2f0bd06d3a1d9c3b0bbd0ff"),
        &[],
    );
    assert_eq!(
        standings(&ran),
        ["t, row 1, a to-move", "t, row 2, a to-move"]
    );
    let (_, ran) = after(&statements.replace("HASH", MD5), &[]);
    assert_eq!(
        standings(&ran),
        ["t, row 1, a doubtful", "t, row 2, a to-move"]
    );
}

/// By md5sum, of `D:/Herbarium/x`.
const MD5: &str = "8804651d760537ce6bce288ddd6d7dd5";

#[test]
fn open_and_unmerged_ones_are_left() {
    let desk = desk(|database| {
        database
            .execute_batch(r"CREATE TABLE t(a TEXT); INSERT INTO t VALUES ('D:\Herbarium\x');")
            .unwrap();
    });
    let before = desk.read("files/a.sqlite");
    let left = |desk: &Desk| {
        let ran = desk.rewrite(&["--format", "json"]).ends_with(1);
        let why = ran.json()["left"][0]["why"].as_str().unwrap().to_owned();
        assert!(why.contains("close the program that has it open"), "{why}");
        why
    };
    desk.put("files/a.sqlite-wal", "something");
    assert!(left(&desk).contains("journal"));
    std::fs::remove_file(desk.path("files/a.sqlite-wal")).unwrap();
    if cfg!(target_os = "linux") {
        let open = std::fs::File::open(desk.path("files/a.sqlite")).unwrap();
        left(&desk);
        drop(open);
    }
    assert!(desk.read("files/a.sqlite") == before);
    desk.rewrite(&[]).ends_with(0);
}

#[test]
fn the_shipped_catalog_is_what_the_database_writes_for_the_new_place() {
    let data = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/data/containers");
    let desk = Desk::new().file(
        "files/a.sqlite",
        std::fs::read(data.join("in/catalog.sqlite")).unwrap(),
    );
    desk.rewrite(&[]).ends_with(0);
    let got = open(&desk);
    let expected = Connection::open(data.join("out/catalog.sqlite")).unwrap();
    for table in [
        "folders", "sheets", "settings", "log", "notes", "older", "named",
    ] {
        let query = format!("SELECT * FROM {table}");
        assert_eq!(rows(&got, &query), rows(&expected, &query), "{table}");
    }
    for query in [
        "PRAGMA integrity_check",
        "PRAGMA foreign_key_check",
        "SELECT rowid FROM notes WHERE notes MATCH 'collections'",
        "SELECT rowid FROM named WHERE named MATCH 'collections'",
        "SELECT rowid FROM older WHERE older MATCH 'collections'",
        "PRAGMA user_version",
        "PRAGMA application_id",
    ] {
        assert_eq!(rows(&got, query), rows(&expected, query), "{query}");
    }
}
