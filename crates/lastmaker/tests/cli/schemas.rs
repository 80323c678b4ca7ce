//! The answers as programs get them: each command's JSON fits its schema, which lies in the docs.

use std::path::{Path, PathBuf};

use lastmaker_core::report::schemas;
use serde_json::Value;

use crate::desk::{Desk, Ran};

fn schema_of(command: &str) -> Value {
    let all = schemas();
    let found = all.into_iter().find(|(name, _)| *name == command);
    found.unwrap().1
}

fn file_of(command: &str) -> PathBuf {
    let docs = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/schema");
    docs.join(format!("{command}.json"))
}

fn text_of(schema: &Value) -> String {
    let text = serde_json::to_string_pretty(schema).unwrap();
    format!("{text}\n")
}

#[test]
fn the_schemas_in_the_docs_are_those_of_the_answers() {
    for (command, schema) in schemas() {
        let written = std::fs::read_to_string(file_of(command)).unwrap_or_default();
        assert_eq!(
            written.replace("\r\n", "\n"),
            text_of(&schema),
            "docs/schema/{command}.json is old; `cargo test --test cli -- --ignored schemas` writes it anew"
        );
    }
}

#[test]
#[ignore = "writes the schemas into the docs"]
fn write_the_schemas_into_the_docs() {
    for (command, schema) in schemas() {
        std::fs::create_dir_all(file_of(command).parent().unwrap()).unwrap();
        std::fs::write(file_of(command), text_of(&schema)).unwrap();
    }
}

/// What is wrong with an answer, by the schema of a command.
fn faults(command: &str, answer: &Value) -> Vec<String> {
    let schema = schema_of(command);
    let validator = jsonschema::validator_for(&schema).unwrap();
    let faults = validator.iter_errors(answer);
    faults
        .map(|fault| format!("{command}: {}: {fault}", fault.instance_path))
        .collect()
}

#[test]
fn every_command_answers_as_its_schema_says() {
    let desk = Desk::new();
    desk.run(["demo", "herbarium"]).ends_with(0);
    let sheet = ["--sheet", "herbarium/moves.toml", "--record-dir", "records"];
    let old = "herbarium/disks/mossbank-press";
    let new = "herbarium/disks/fernhall-press";
    let profile = "herbarium/profile";
    let without: &[&str] = &["--sheet", "herbarium/moves.toml"];
    let with: &[&str] = &sheet;
    let record_dir: &[&str] = &sheet[2..];
    let map = r"D:\Herbarium=H:\Collections\Herbarium";
    let cases: &[(&str, &[&str], &[&str])] = &[
        ("survey", &["survey"], without),
        ("compare", &["compare", old, new], &[]),
        (
            "trace",
            &["trace", profile, "--into", "herbarium/disks/h"],
            &["--no-sheet"],
        ),
        ("preview", &["preview"], with),
        ("check", &["check", "--all", "--relative"], with),
        ("bridge", &["bridge"], with),
        ("rewrite", &["rewrite", "--yes"], with),
        ("check", &["check"], with),
        (
            "explain",
            &["explain", "herbarium/profile/.mapdesk/layers.json"],
            without,
        ),
        ("history", &["history"], record_dir),
        ("restore", &["restore", "--yes"], record_dir),
        (
            "history-forget",
            &["history", "--forget", "--older-than", "0d", "--yes"],
            record_dir,
        ),
        ("sheet", &["sheet"], without),
        ("sheet", &["sheet", "--no-sheet", "--move", map], &[]),
        ("formats", &["formats"], &[]),
    ];
    for (schema, command, more) in cases {
        let all = command.iter().chain(*more).chain(&["--format", "json"]);
        let Ran { out, err, .. } = desk.run(all.copied());
        let answer: Value = serde_json::from_str(&out)
            .unwrap_or_else(|fault| panic!("{command:?}: {fault}\n{out}\n{err}"));
        assert_eq!(faults(schema, &answer), [""; 0]);
        // A document that lacks what the schema asks for does not fit.
        let mut lacking = answer;
        lacking.as_object_mut().unwrap().remove("schema");
        assert!(!faults(schema, &lacking).is_empty(), "{schema}");
    }
}

#[test]
fn lines_hold_what_the_document_holds() {
    let desk = Desk::new();
    desk.run(["demo", "herbarium"]).ends_with(0);
    let run = |form: &str| {
        let all = [
            "preview",
            "--sheet",
            "herbarium/moves.toml",
            "--record-dir",
            "r",
        ];
        desk.run(all.into_iter().chain(["--format", form])).out
    };
    let document: Value = serde_json::from_str(&run("json")).unwrap();
    let lines = run("jsonl");
    let mut lines = lines
        .lines()
        .map(|line| serde_json::from_str::<Value>(line).unwrap());
    let head = lines.next().unwrap();
    assert_eq!(
        (&head["schema"], &head["totals"]),
        (&document["schema"], &document["totals"])
    );
    let lines: Vec<Value> = lines.collect();
    for list in ["references", "moves", "missing"] {
        let items = lines.iter().filter(|item| item["list"] == list);
        let items: Vec<Value> = items
            .map(|item| {
                let mut item = item.clone();
                item.as_object_mut().unwrap().remove("list");
                item
            })
            .collect();
        assert_eq!(document[list].as_array().unwrap(), &items, "{list}");
    }
}

#[test]
fn tables_for_spreadsheets() {
    let text = "x=D:\\Herbarium\\a;b\ny==D:\\Herbarium\\\"q\"\n";
    let desk = Desk::new().file("files/a.ini", text);
    let ran = desk.run([
        "preview",
        "files",
        "--move",
        r"D:\Herbarium=H:\C",
        "--format",
        "csv",
        "--record-dir",
        "r",
    ]);
    let table = ran.out.strip_prefix('\u{feff}').unwrap();
    let mut lines = table.split("\r\n");
    assert!(
        lines
            .next()
            .unwrap()
            .starts_with("file,line,column,site,written,place,")
    );
    let first = lines.next().unwrap();
    let cells = r#"a.ini,1,3,x,"D:\Herbarium\a;b","#;
    assert!(
        first.starts_with("files") && first.contains(cells),
        "{first}"
    );
    let formats = desk.run(["formats", "--format", "csv"]).ends_with(2);
    assert!(formats.err.contains("is no table"), "{}", formats.err);
}
