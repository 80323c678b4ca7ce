//! The part of the jury (`bench/jury`) whose readers are crates or always there: documents moved to
//! places with every special letter, read by real readers before and after. A value is the old one
//! with the new place in it; or it is the old one, and the plan says why.

#![allow(clippy::unwrap_used, reason = "these are tests")]

use lastmaker_core::open::{Document, Reading};
use lastmaker_core::plan::{PlanOptions, plan};
use lastmaker_core::sheet::Sheet;

const OLD: &str = "/srv/herbarium";

/// Names of folders with a letter in them that some reader takes for something.
const NAMES: [&str; 26] = [
    "plain", "a b", "a  b", "it's", "a\"b", "a#b", "a #b", "a;b", "50%", "a$HOME", "${x}", "$(x)",
    "a&b", "a`b", "a\\b", "a\\ b", "a: b", "- a", "{a}", "[b]", "a,b", "~a", "\u{e9}", "*a", "a|b",
    "<a>",
];

/// What a reader makes of a document: its values, in order.
type Values = Vec<String>;

/// What comes of a document whose old place moves to `new`, and whether anything is left with a word.
fn rewritten(text: &str, name: &str, new: &str) -> (String, bool) {
    let mut sheet = Sheet::default();
    sheet.add_move(&format!("{OLD}={new}")).unwrap();
    let document = Document::open(text.as_bytes(), name, Reading::default()).unwrap();
    let options = PlanOptions::of(&sheet);
    let plan = plan(&document, options);
    let told = plan.references.iter().any(|one| one.reason.is_some());
    let new = plan.new.unwrap_or_else(|| text.as_bytes().to_vec());
    (String::from_utf8(new).unwrap(), told)
}

/// Lets `read` judge each of `documents`, in which `@` is the old place.
fn judge(name: &str, documents: &[&str], read: impl Fn(&str) -> Values) {
    for document in documents {
        let text = document.replace('@', OLD);
        let before = read(&text);
        assert!(before.iter().any(|value| value.contains(OLD)), "{document}");
        for name_of_new in NAMES {
            let new = format!("/mnt/{name_of_new}/h");
            let (after, told) = rewritten(&text, name, &new);
            let got = read(&after);
            let mapped: Values = before
                .iter()
                .map(|value| value.replace(OLD, &new))
                .collect();
            assert_eq!(got.len(), before.len(), "{document} to {new}: {after}");
            let fits = |at: usize| got[at] == mapped[at] || (told && got[at] == before[at]);
            assert!(
                (0..got.len()).all(fits),
                "{document} to {new}:\n{after}\n{got:?}"
            );
        }
    }
}

/// The strings of a value, in order.
fn strings(value: &serde_json::Value, all: &mut Values) {
    match value {
        serde_json::Value::String(text) => all.push(text.clone()),
        serde_json::Value::Array(items) => items.iter().for_each(|item| strings(item, all)),
        serde_json::Value::Object(fields) => {
            for (name, field) in fields {
                all.push(name.clone());
                strings(field, all);
            }
        }
        _ => {}
    }
}

fn strings_of(value: &serde_json::Value) -> Values {
    let mut all = Vec::new();
    strings(value, &mut all);
    all
}

#[test]
fn json() {
    let documents = [
        r#"{"command": "@/a b", "args": ["@", "--in=@/x", "\u002fsrv\u002fherbarium\u002fq"]}"#,
        r#"{"list": "@/a:@/b", "keys": {"@/c": "@"}}"#,
    ];
    judge("a.json", &documents, |text| {
        let value: serde_json::Value = serde_json::from_str(text).unwrap();
        strings_of(&value)
    });
}

#[test]
fn yaml() {
    let documents = [
        "a: @/x\nb: '@/y'\nc: \"@/z\"\nd:\n  - @\n  - {e: @/f}\n",
        "a: |\n  @/x\nb: >-\n  @/y\n",
    ];
    judge("a.yaml", &documents, |text| {
        let value: serde_json::Value = serde_yaml_ng::from_str(text).unwrap();
        strings_of(&value)
    });
}

#[test]
fn toml_documents() {
    let documents = [
        "a = \"@/x\"\nb = '@/y'\nc = [\"@\", '''@/z''']\n",
        "[t]\n\"k\" = \"\"\"\n@/x\n\"\"\" # @/note\n",
    ];
    judge("a.toml", &documents, |text| {
        let value: toml::Value = toml::from_str(text).unwrap();
        strings_of(&serde_json::to_value(value).unwrap())
    });
}

#[cfg(unix)]
#[test]
fn shell_scripts() {
    let documents = [
        "printf '%s\\n' @/a \"@/b c\" '@' @/d\\ e --in=@/f\n",
        "x=@/a\nprintf '%s\\n' \"$x\"\ny='@/b'; printf '%s\\n' $y\n",
        "cat <<E\n@/a\nE\ncat <<'E'\n@/b\nE\n",
        "sh -c 'printf \"%s\\n\" @/a'\neval 'printf \"%s\\n\" @/b'\n",
        "for f in @/a @/b; do printf '%s\\n' \"$f\"; done\n",
        "printf '%s\\n' \"${V:-@/a}\" ${V:-@/b} \"$(printf %s @/c)\"\n",
    ];
    judge("a.sh", &documents, |text| {
        let shell = std::process::Command::new("sh").args(["-c", text]).output();
        let out = String::from_utf8(shell.unwrap().stdout).unwrap();
        out.lines().map(str::to_owned).collect()
    });
}
