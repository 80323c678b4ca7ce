//! The layers that strings of one document of settings lines wear.

use std::sync::Arc;

use super::{BareValue, Lines};
use crate::codec::{
    Bare, BareText, ByteArray, Escaped, Escapes, Field, PHP_SINGLE, PROPERTIES_KEY, QUOTED_SETTING,
    RAW_SINGLE, RECIPE, SHELL_DOUBLE, Style,
};
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
    /// A line of a recipe.
    pub(super) recipe: Layers,
    /// What is written as it is.
    pub(super) plain: Layers,
}

impl Wrappings {
    /// The layers of `text`, which is in `dialect`.
    pub(super) fn of(dialect: &'static Lines, text: &str) -> Self {
        let escaped = |escapes: &'static Escapes, fallback: Style| {
            let document = Style::of(text, escapes, fallback);
            alone(Escaped { escapes, document })
        };
        let bare = |bare: &'static Bare| alone(BareText(bare));
        let value = match dialect.bare {
            BareValue::Plain(plain) => bare(plain),
            BareValue::Escaped(escapes, style) | BareValue::List(escapes, style) => {
                escaped(escapes, style)
            }
        };
        let field: Arc<dyn Layer> = Arc::new(Field::of_list());
        let item: Layers = std::iter::once(field)
            .chain(value.iter().cloned())
            .collect();
        let bytes: Arc<dyn Layer> = Arc::new(ByteArray);
        let letters = Style {
            letters: true,
            ..Style::default()
        };
        Self {
            dialect,
            key: escaped(dialect.key_escapes.unwrap_or(&PROPERTIES_KEY), letters),
            bytes: item.iter().cloned().chain([bytes]).collect(),
            item,
            value,
            quoted: bare(&QUOTED_SETTING),
            double: escaped(&SHELL_DOUBLE, Style::default()),
            single: escaped(&PHP_SINGLE, Style::default()),
            literal: bare(&RAW_SINGLE),
            recipe: bare(&RECIPE),
            plain: Arc::new([]),
        }
    }
}
