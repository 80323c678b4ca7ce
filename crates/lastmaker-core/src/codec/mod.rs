//! How strings are escaped where they are: one syntax a file, each a [`Layer`].

mod bare;
mod batch;
mod by_hand;
mod byte_array;
mod config_word;
mod connection;
mod counted;
mod doubled;
mod escaped;
mod expanded;
mod field;
mod file_uri;
mod fold;
mod markup;
mod percent;
mod registry;
mod rtf;
mod runs;
mod shell_word;
mod subrange;
mod torn;
mod unit_name;

pub use bare::*;
pub use batch::BatchText;
pub use by_hand::typed_by_hand;
pub use byte_array::ByteArray;
pub use config_word::*;
pub use connection::ConnectionValue;
pub use counted::Counted;
pub use doubled::Doubled;
pub use escaped::*;
pub use expanded::{CRONTAB, CronText, DollarText};
pub use field::Field;
pub(crate) use file_uri::FILE_URI;
pub use file_uri::FileUri;
pub use fold::{Brackets, Fold};
pub use markup::{Markup, MarkupLetters};
pub(crate) use percent::PERCENT;
pub use percent::{Percent, UriPart};
pub use registry::RegistryHex;
pub use rtf::RtfText;
pub use runs::Runs;
pub use shell_word::{SHELL, ShellWord, shell_word_end};
pub use subrange::{STRETCH, Subrange};
pub use torn::Torn;
pub use unit_name::UnitName;

use crate::layer::{Layer, Opened};

/// Writes `text` the way `layer` would write it where nothing was before; none if the
/// layer cannot.
pub fn encode_fresh(layer: &dyn Layer, text: &str) -> Option<String> {
    use crate::layer::{Edit, Edits, UnitMap, splice};
    let empty = Opened {
        content: Vec::new(),
        map: UnitMap::default(),
    };
    let edits = Edits::new(vec![Edit {
        span: 0..0,
        with: text.as_bytes().to_vec(),
    }])
    .ok()?;
    let lifted = layer.lift(b"", &empty, &edits).ok()?;
    String::from_utf8(splice(b"", &lifted)).ok()
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use proptest::prelude::*;

    use super::*;
    use crate::layer::{Edit, Edits, Layers, OpenedChain, splice};
    use crate::text::Encoding;

    fn escaped(escapes: &'static Escapes) -> Arc<dyn Layer> {
        Arc::new(Escaped {
            escapes,
            document: Style::default(),
        })
    }

    /// Every codec, some in the chains in which they are used, with what is around a content
    /// that none of them escapes.
    fn chains() -> Vec<(Layers, fn(&str) -> String)> {
        let bare: fn(&str) -> String = str::to_owned;
        let markup = |quote| Markup {
            quote,
            letters: MarkupLetters::Decimal,
        };
        let counted = |letters| Counted {
            quoted: true,
            letters,
        };
        let rich = |unicode| RtfText {
            page: Encoding::WINDOWS_1252,
            fallbacks: 1,
            unicode,
        };
        let mut all: Vec<(Vec<Arc<dyn Layer>>, fn(&str) -> String)> = vec![
            (vec![Arc::new(Doubled('\''))], bare),
            (vec![Arc::new(Doubled('"'))], bare),
            (vec![Arc::new(markup(None))], bare),
            (vec![Arc::new(markup(Some('"')))], bare),
            (vec![Arc::new(markup(Some('\'')))], bare),
            (vec![Arc::new(markup(Some(' ')))], bare),
            (vec![Arc::new(Field::of_table(b','))], bare),
            (vec![Arc::new(Field::of_table(b';'))], |c| {
                format!("\"{c}\"")
            }),
            (
                vec![Arc::new(Field::of_list()), escaped(&HEX_SETTINGS)],
                bare,
            ),
            (
                vec![
                    Arc::new(Field::of_list()),
                    escaped(&HEX_SETTINGS),
                    Arc::new(ByteArray),
                ],
                |c| format!("@ByteArray({c})"),
            ),
            (vec![Arc::new(counted(false))], |c| {
                format!("{}:\"{c}\"", c.len())
            }),
            (vec![Arc::new(counted(true))], |c| {
                format!("{}:\"{c}\"", c.len())
            }),
            (
                vec![Arc::new(BatchText {
                    quoted: false,
                    read_again: false,
                    bangs: true,
                })],
                bare,
            ),
            (
                vec![Arc::new(BatchText {
                    quoted: true,
                    read_again: true,
                    bangs: false,
                })],
                bare,
            ),
            (vec![Arc::new(ShellWord { backslashes: false })], bare),
            (vec![Arc::new(ShellWord { backslashes: true })], |c| {
                format!("'{c}'")
            }),
            (vec![Arc::new(rich(true))], bare),
            (vec![Arc::new(rich(false))], bare),
            (vec![escaped(&JSON), escaped(&JSON)], bare),
            (
                vec![Arc::new(markup(Some('"'))), escaped(&JAVASCRIPT)],
                bare,
            ),
        ];
        for part in [
            UriPart::Path,
            UriPart::Guarded,
            UriPart::Link,
            UriPart::Component,
        ] {
            all.push((vec![Arc::new(Percent { part })], bare));
        }
        for kind in BARE_KINDS.iter().copied() {
            all.push((vec![Arc::new(BareText(kind))], bare));
        }
        for escapes in DIALECTS.iter().copied() {
            all.push((vec![escaped(escapes)], bare));
        }
        all.into_iter()
            .map(|(layers, around)| (layers.into(), around))
            .collect()
    }

    proptest! {
        /// What is written reads as what was meant, and what is around it stays.
        #[test]
        fn every_codec_reads_what_it_writes(
            (head, old, tail) in ("[a-z]{0,4}", "[a-z]{1,4}", "[a-z]{0,4}"),
            new in "\\PC{0,8}|[A-Z:/\\\\ .,;=#$%&'\"^`<>{}()!?\u{e4}\u{1f33f}]{0,8}",
        ) {
            for (layers, around) in chains() {
                let outer = around(&format!("{head}{old}{tail}"));
                let chain = OpenedChain::open(&layers, outer.as_bytes()).unwrap();
                let edits = Edits::new(vec![Edit {
                    span: head.len()..head.len() + old.len(),
                    with: new.clone().into_bytes(),
                }]).unwrap();
                let Ok(lifted) = chain.lift(outer.as_bytes(), edits) else { continue };
                let written = String::from_utf8(splice(outer.as_bytes(), &lifted)).unwrap();
                let again = OpenedChain::open(&layers, written.as_bytes());
                let read = again.map(|again| again.content(&written).to_owned());
                prop_assert_eq!(read, Ok(format!("{head}{new}{tail}")), "{:?}: {}", &layers, &written);
            }
        }
    }
}
