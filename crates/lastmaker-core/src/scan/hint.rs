//! What a format knows of a passage beside its text.

/// What a passage is, as its format knows it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Hint {
    /// Running text for people: a comment, a paragraph.
    #[default]
    Prose,
    /// Text that a program reads in a way that is not known in full: code between strings, a file
    /// of no known syntax.
    Code,
    /// A value with exact bounds, under a key.
    Value(Key),
    /// A key, a name, or a value that no key says anything of.
    Name,
    /// A string of a program's source under no key: a path as well as a pattern or a message.
    Literal,
    /// A name in which others nest at backslashes, as the registry's keys do.
    KeyPath,
    /// A command line, by the grammar of its format.
    Command {
        /// Whether a first argument in quotes is taken for a window's title.
        titled: bool,
    },
    /// One argument of a command already, however it is quoted.
    Word,
    /// Commands of a shell.
    Script,
    /// The path of a URI, whose separators are slashes.
    UriPath,
}

/// What the words of a key say of its value.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Key {
    /// They say command, exec, launch, arguments, options, …
    pub command: bool,
    /// They say drive, volume or disk.
    pub drive: bool,
}

/// Words of keys whose values are command lines.
const COMMANDS: [&str; 12] = [
    "command",
    "commandline",
    "cmd",
    "cmdline",
    "exec",
    "execute",
    "launch",
    "args",
    "arguments",
    "options",
    "imagepath",
    "run",
];

/// Words of keys whose values are drives.
const DRIVES: [&str; 3] = ["drive", "volume", "disk"];

/// So much of a key is looked at, in bytes: one of a million letters may be that of thousands of values.
const LONGEST_KEY: usize = 1024;

impl Key {
    /// What the words of `key` say.
    pub fn of(key: &str) -> Self {
        let mut all = Self::default();
        if key.len() < LONGEST_KEY && key.bytes().all(|byte| byte.is_ascii_lowercase()) {
            // Most keys are one word, and no letter of it need be asked what it is.
            all.command = COMMANDS.contains(&key);
            all.drive = DRIVES.contains(&key);
            return all;
        }
        let mut behind_image = false;
        for word in words(&key[..key.floor_char_boundary(LONGEST_KEY)]) {
            let lower = (!word.is_ascii()).then(|| word.to_lowercase());
            let word = lower.as_deref().unwrap_or(word);
            let is = |wanted: &&str| word.eq_ignore_ascii_case(wanted);
            all.command |= COMMANDS.iter().any(is) || (behind_image && is(&"path"));
            all.drive |= DRIVES.iter().any(is);
            behind_image = is(&"image");
        }
        all
    }
}

impl Hint {
    /// A command line whose first quoted argument is an argument like others.
    pub const COMMAND: Self = Self::Command { titled: false };

    /// A value under `key`.
    pub fn for_value(key: &str) -> Self {
        Self::Value(Key::of(key))
    }

    /// Whether the passage is a value, a key or a name with exact bounds, not running text.
    pub fn is_value(self) -> bool {
        !matches!(self, Self::Prose | Self::Code | Self::Script)
    }

    /// Whether a backslash and a letter in it may be an escape that its reader takes off later.
    pub(super) fn may_hold_escapes(self) -> bool {
        !self.is_value() || matches!(self, Self::Literal | Self::Word)
    }

    /// Whether its key says that it is a drive.
    pub fn names_drive(self) -> bool {
        matches!(self, Self::Value(key) if key.drive)
    }

    /// Whether its key says that it is a command line.
    pub(super) fn may_be_command(self) -> bool {
        matches!(self, Self::Value(key) if key.command)
    }

    /// Whether its format says that it is a command line.
    pub(super) fn is_command(self) -> bool {
        matches!(self, Self::Command { .. })
    }

    /// Whether blanks at either end are a part of it, not of the syntax around it.
    pub(super) fn is_exact(self) -> bool {
        matches!(
            self,
            Self::Value(_) | Self::Name | Self::Literal | Self::KeyPath | Self::Word
        )
    }
}

/// The words of a key: parted at punctuation and where a capital begins one.
fn words(key: &str) -> impl Iterator<Item = &str> {
    let mut rest = key;
    std::iter::from_fn(move || {
        rest = rest.trim_start_matches(|letter: char| !letter.is_alphanumeric());
        let mut lower_before = false;
        let ends = |letter: char| {
            let begins = letter.is_uppercase() && lower_before;
            lower_before = letter.is_lowercase();
            begins || !letter.is_alphanumeric()
        };
        let length = rest.find(ends).unwrap_or(rest.len());
        let word = &rest[..length];
        rest = &rest[length..];
        (!word.is_empty()).then_some(word)
    })
}
