//! YAML 1.2: plain, single-quoted, double-quoted and block scalars, in blocks and in brackets.
//!
//! Yields keys, scalars, the lines of block scalars, and comments. Anchors, tags and directives
//! are passed over. The reader keeps to what decides where a scalar begins and ends, and does
//! not prove the whole grammar.

mod containers;
mod walk;

use std::sync::Arc;

use super::{Claim, Format, Reader, Sample, Subject};
use crate::about::About;
use crate::codec::{Brackets, DollarText, Doubled, Escaped, Fold, Style, YAML_DOUBLE};
use crate::layer::{Layer, Layers};
use crate::text::Encoding;

/// YAML, and what is written in it.
pub(super) struct Yaml {
    about: About,
    samples: &'static [Sample],
    /// What shows it beside its name.
    starts: &'static [&'static str],
    /// Whether its program takes `$` for a variable unless it is doubled.
    dollars: bool,
}

/// Descriptions of services in containers (the compose specification).
pub(super) static COMPOSE: Yaml = Yaml {
    about: About {
        name: "compose-file",
        what: "descriptions of services in containers, in YAML",
        content: "",
        names: &[
            "compose.yaml",
            "compose.yml",
            "compose.override.yaml",
            "compose.override.yml",
        ],
        read: "as YAML, with $$ as a dollar sign",
        limits: YAML.about.limits,
    },
    samples: &[Sample::new("compose.yaml", "", "- ", "\n")],
    starts: &[],
    dollars: true,
};

/// YAML 1.2.
pub(super) static YAML: Yaml = Yaml {
    about: About {
        name: "yaml",
        what: "YAML",
        content: "%YAML or --- at its start",
        names: &[".yaml", ".yml", ".clang-format", ".clangd"],
        read: "keys, plain, quoted and block scalars, comments; anchors and tags stay",
        limits: "a plain scalar that the new place would break is doubtful",
    },
    samples: &[
        Sample::new("a.yaml", "", "- ", "\n"),
        Sample::new("a.yaml", "", "- \"", "\"\n"),
        Sample::new("a.yaml", "k: |\n", "  ", "\n"),
    ],
    starts: &["%YAML ", "---\n", "---\r\n"],
    dollars: false,
};

impl Format for Yaml {
    fn about(&self) -> &About {
        &self.about
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        let started = self.starts.iter().any(|start| text.starts_with(start));
        if self.about.is_named(file_name) || started {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn samples(&self) -> &'static [Sample] {
        self.samples
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let fold = |escapes, plain| Arc::new(Fold { escapes, plain }) as Arc<dyn Layer>;
        let upper_hex = Style {
            upper_hex: true,
            ..Style::default()
        };
        let escaped = Arc::new(Escaped {
            escapes: &YAML_DOUBLE,
            document: Style::of(text, &YAML_DOUBLE, upper_hex),
        });
        let dollar: Arc<dyn Layer> = Arc::new(DollarText);
        let within = |layers: Vec<Arc<dyn Layer>>| -> Layers {
            let inner = self.dollars.then(|| dollar.clone());
            layers.into_iter().chain(inner).collect()
        };
        Box::new(Wrappings {
            double: within(vec![fold(true, None), escaped]),
            single: within(vec![fold(false, None), Arc::new(Doubled('\''))]),
            outside: within(vec![fold(false, Some(Brackets::Outside))]),
            inside: within(vec![fold(false, Some(Brackets::Inside))]),
            block: within(Vec::new()),
            bare: Arc::new([]),
            compose: self.dollars,
        })
    }
}

/// A document's reader: the layers of each kind of scalar in it.
struct Wrappings {
    double: Layers,
    single: Layers,
    /// Of a plain scalar outside of brackets.
    outside: Layers,
    /// Of a plain scalar inside of brackets.
    inside: Layers,
    /// Of a line of a block scalar.
    block: Layers,
    bare: Layers,
    /// Whether the document describes services in containers.
    compose: bool,
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;
    use crate::format::{Grammar, Role};

    fn scalars(text: &str) -> (Vec<String>, bool) {
        let mut all = Vec::new();
        let fine = YAML.passages(text, Encoding::Utf8, &mut |passage| {
            if passage.role == Role::Value {
                let raw = &text[passage.span.clone()];
                all.push(format!("{}|{raw}", site_text(passage.site)));
            }
        });
        (all, fine == Grammar::Kept)
    }

    #[test]
    fn scalars_and_their_keys() {
        let cases: [(&str, &[&str]); 12] = [
            ("a: D:\\x y # note\nb: 'E:\\z'\n", &["a|D:\\x y", "b|E:\\z"]),
            (
                "a:\n  b: \"D:\\\\x\"\n  c:\n    - D:/y\n    - 'F:/it''s'\n",
                &["a.b|D:\\\\x", "a.c|D:/y", "a.c|F:/it''s"],
            ),
            (
                "a: [D:/x, \"E:/y\", {b: F:/z}]\n",
                &["a|D:/x", "a|E:/y", "a.b|F:/z"],
            ),
            (
                "a: |\n  D:\\x\n  E:\\y\nb: /c\n",
                &["a|D:\\x", "a|E:\\y", "b|/c"],
            ),
            (
                "a: D:/my\n  files/x\nb: /y\n",
                &["a|D:/my\n  files/x", "b|/y"],
            ),
            ("- &id D:/x\n- *id\n- !tag E:/y\n", &["|D:/x", "|E:/y"]),
            ("%YAML 1.2\n---\na: D:/x\n...\n", &["a|D:/x"]),
            ("a: \"D:\\\\x\n  y\"\n", &["a|D:\\\\x\n  y"]),
            ("\"D:\\\\k\": v/w\n", &["D:\\\\k|v/w"]),
            ("a: http://x/y\n", &["a|http://x/y"]),
            ("- a: D:/x\n  b: E:/y\n", &["a|D:/x", "b|E:/y"]),
            ("a: >-\r\n  D:/x\r\n\r\nb: /y\r\n", &["a|D:/x", "b|/y"]),
        ];
        for (text, expected) in cases {
            let (got, fine) = scalars(text);
            let got: Vec<&str> = got.iter().map(String::as_str).collect();
            assert_eq!((got, fine), (expected.to_vec(), true), "{text}");
        }
        for broken in ["a: [x", "a: \"x", "a: 'x", "a: ]", "a: \"x\\"] {
            assert!(!scalars(broken).1, "{broken}");
        }
    }
}
