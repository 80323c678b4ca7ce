//! The layers that strings of one document of settings lines wear.

use std::sync::Arc;

use super::{BareValue, Commands, Lines, Quotes, Shape};
use crate::codec::{
    Bare, BareText, ByteArray, ConfigWord, DollarText, ENVIRONMENT_QUOTED, ENVIRONMENT_SINGLE,
    Escaped, Escapes, Field, LAUNCHER_WORD, PHP_SINGLE, PLACE_LINE, QUOTED_SETTING, RAW_SINGLE,
    SETTING_KEY, SHELL_DOUBLE, Style, UNIT_COMMAND_WORD, UNIT_PATH, UNIT_PROGRAM, UNIT_WORD,
};
use crate::format::shell::ShellReader;
use crate::layer::{Layer, Layers, alone};

/// A document's reader: its dialect, and the layers of each kind of string in it.
pub(super) struct Wrappings {
    pub(super) dialect: &'static Lines,
    /// A value without quotes.
    pub(super) value: Layers,
    /// A key, where keys are escaped.
    pub(super) key: Layers,
    /// An item of a list.
    pub(super) item: Layers,
    /// A byte array in a list.
    pub(super) bytes: Layers,
    /// A value in quotes that escape nothing.
    pub(super) quoted: Layers,
    /// A shell's value in double quotes.
    pub(super) double: Layers,
    /// A shell's value in single quotes.
    pub(super) single: Layers,
    /// A value in single quotes whose backslashes are letters.
    pub(super) literal: Layers,
    /// The program and a word of a command, a word of a list, and a path of a service unit.
    pub(super) unit_program: Layers,
    pub(super) unit_command: Layers,
    pub(super) unit_word: Layers,
    pub(super) unit_path: Layers,
    /// A word of the command of a desktop entry.
    pub(super) launcher: Layers,
    /// The lines of a recipe, where the dialect has some.
    pub(super) recipe: Option<ShellReader>,
    /// A key or a section's name that is written as it is.
    pub(super) name: Layers,
    /// A line that is a place.
    pub(super) line: Layers,
    /// A comment.
    pub(super) plain: Layers,
}

impl Wrappings {
    /// The layers of `text`, which is in `dialect`.
    pub(super) fn of(dialect: &'static Lines, text: &str) -> Self {
        let escaped = |escapes, fallback| alone(escaped(text, escapes, fallback));
        let bare = |bare: &'static Bare| alone(BareText(bare));
        let value = match dialect.bare {
            BareValue::Plain(plain) => bare(plain),
            BareValue::Word(words) => alone(ConfigWord(words)),
            BareValue::Escaped(escapes, style) | BareValue::List(escapes, style) => {
                escaped(escapes, style)
            }
        };
        let letters = Style {
            letters: true,
            ..Style::default()
        };
        let name = bare(&SETTING_KEY);
        let quoted = bare(&QUOTED_SETTING);
        let key = match dialect.key_escapes {
            Some(escapes) => escaped(escapes, letters),
            None => name.clone(),
        };
        // How a document escapes is looked for in all of it, so only where its dialect does.
        let (double, single) = match dialect.quotes {
            Quotes::Shell => shell_quotes(text),
            Quotes::Letters | Quotes::Whole => (quoted.clone(), quoted.clone()),
        };
        let plain: Layers = Arc::new([]);
        // What the dialect has no strings of is not made for each of its documents.
        let only_if =
            |has: bool, layers: &dyn Fn() -> Layers| if has { layers() } else { plain.clone() };
        let lists = matches!(dialect.bare, BareValue::List(..));
        let item = only_if(lists, &|| {
            let field: Arc<dyn Layer> = Arc::new(Field::of_list());
            std::iter::once(field)
                .chain(value.iter().cloned())
                .collect()
        });
        let units = dialect.commands == Commands::Units;
        let unit = |words| only_if(units, &|| alone(ConfigWord(words)));
        Self {
            dialect,
            key,
            bytes: only_if(lists, &|| {
                let bytes: Arc<dyn Layer> = Arc::new(ByteArray);
                item.iter().cloned().chain([bytes]).collect()
            }),
            item: item.clone(),
            launcher: only_if(dialect.commands == Commands::Exec, &|| {
                let word: Arc<dyn Layer> = Arc::new(ConfigWord(&LAUNCHER_WORD));
                value.iter().cloned().chain([word]).collect()
            }),
            value: value.clone(),
            quoted,
            double,
            single,
            literal: bare(&RAW_SINGLE),
            unit_program: unit(&UNIT_PROGRAM),
            unit_command: unit(&UNIT_COMMAND_WORD),
            unit_word: unit(&UNIT_WORD),
            unit_path: unit(&UNIT_PATH),
            recipe: dialect
                .recipes
                .then(|| ShellReader::of(text, &[Arc::new(DollarText)])),
            name,
            line: only_if(dialect.shape == Shape::Place, &|| bare(&PLACE_LINE)),
            plain: plain.clone(),
        }
    }
}

/// The layer of strings of `text` with these escapes.
fn escaped(text: &str, escapes: &'static Escapes, fallback: Style) -> Escaped {
    Escaped {
        escapes,
        document: Style::of(text, escapes, fallback),
    }
}

/// The layers of values in a shell's double and single quotes. Readers of environment files do not agree on
/// what some letters mean inside of them.
fn shell_quotes(text: &str) -> (Layers, Layers) {
    let guarded = |escapes, guard: &'static Bare| {
        let layer: Arc<dyn Layer> = Arc::new(escaped(text, escapes, Style::default()));
        let guard: Arc<dyn Layer> = Arc::new(BareText(guard));
        Arc::new([layer, guard])
    };
    (
        guarded(&SHELL_DOUBLE, &ENVIRONMENT_QUOTED),
        guarded(&PHP_SINGLE, &ENVIRONMENT_SINGLE),
    )
}
