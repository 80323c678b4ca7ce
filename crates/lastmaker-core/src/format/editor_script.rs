//! Scripts and sessions of modal editors: lines of commands (Vim's `usr_41`, `cmdline`, `eval`). A
//! command that takes files has words, in which a backslash keeps a sign's special meaning away; other
//! commands have expressions with strings in them, `'…'` with doubled quotes and `"…"` with escapes.

use std::ops::Range;
use std::sync::Arc;

use super::{Claim, Format, Grammar, Passage, Reader, Sample, Subject, emit};
use crate::about::About;
use crate::codec::{BareText, C, Doubled, EDITOR_FILE, EDITOR_SHARE, EDITOR_WORD, Escaped, Style};
use crate::layer::{Layer, Layers, alone};
use crate::scan::{Hint, may_hold_place};
use crate::text::Encoding;

/// Scripts and sessions of modal editors.
pub(super) struct EditorScript;

const ABOUT: About = About {
    name: "editor-script",
    what: "scripts and sessions of modal editors",
    content: "",
    names: &[".vim", "=vimrc", "=_vimrc", "=.vimrc", "=.gvimrc", "=.exrc"],
    read: "words of commands that take files, strings of the others, comments",
    limits: "a new blank in the value of an option is doubtful",
};

/// Commands whose words are files.
const WITH_FILES: [&str; 33] = [
    "ar", "arga", "argadd", "argedit", "arglocal", "args", "ba", "bad", "badd", "balt", "cd",
    "chdir", "e", "edit", "lcd", "new", "r", "read", "ru", "runtime", "saveas", "so", "source",
    "sp", "split", "sview", "tabe", "tabedit", "tabnew", "tcd", "vne", "vsplit", "view",
];

impl Format for EditorScript {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let file_name = subject.file_name;
        Claim::certain_if(ABOUT.is_named(file_name))
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[
            Sample::new("a.vim", "", "let a = '", "'\n"),
            Sample::new("a.vim", "", "edit ", "\n"),
        ];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        None
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Wrappings {
            word: Arc::new([
                Arc::new(Escaped {
                    escapes: &EDITOR_WORD,
                    document: Style::default(),
                }) as Arc<dyn Layer>,
                Arc::new(BareText(&EDITOR_FILE)),
            ]),
            share: alone(BareText(&EDITOR_SHARE)),
            single: alone(Doubled('\'')),
            double: alone(Escaped {
                escapes: &C,
                document: Style::of(text, &C, Style::default()),
            }),
            plain: Arc::new([]),
        })
    }
}

/// What words and strings wear.
struct Wrappings {
    word: Layers,
    share: Layers,
    single: Layers,
    double: Layers,
    plain: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut at = 0;
        for line in text.split_inclusive('\n') {
            let end = at + line.trim_end_matches(['\r', '\n']).len();
            if may_hold_place(line) {
                self.command(text, at..end, each);
            }
            at += line.len();
        }
        Grammar::Kept
    }
}

impl Wrappings {
    fn command(&self, text: &str, span: Range<usize>, each: &mut dyn FnMut(Passage<'_>)) {
        let line = &text[span.clone()];
        let body = line.trim_start_matches([' ', '\t', ':', '|']);
        let start = span.end - body.len();
        if body.starts_with('"') {
            return emit(start..span.end, &self.plain, Hint::Prose, each);
        }
        let name = body.len()
            - body
                .trim_start_matches(|c: char| c.is_ascii_alphabetic())
                .len();
        // Scripts of the newer kind have variables of such names.
        let behind = body[name..].trim_start();
        let assigned = behind.starts_with(['=', '(', '[', '.']) || behind.starts_with("+=");
        if assigned || !WITH_FILES.contains(&&body[..name]) {
            return self.expression(text, start..span.end, each);
        }
        let mut at = start + name;
        while let Some(word) = next_word(text, at..span.end) {
            if text[word.start..].starts_with('|') {
                return self.command(text, word.start..span.end, each);
            }
            // Two backslashes at its start begin a share.
            let share = text[word.start..].starts_with(r"\\");
            let worn = if share { &self.share } else { &self.word };
            emit(word.clone(), worn, Hint::Word, each);
            at = word.end;
        }
    }

    /// Strings, and between them code; a quote that nothing closes begins a comment.
    fn expression(&self, text: &str, span: Range<usize>, each: &mut dyn FnMut(Passage<'_>)) {
        let (mut at, mut between) = (span.start, span.start);
        while let Some(open) = text[at..span.end].find(['\'', '"']).map(|open| at + open) {
            let quote = text.as_bytes()[open];
            let Some(close) = closing(&text[..span.end], open + 1, quote) else {
                break;
            };
            emit(between..open, &self.plain, Hint::Code, each);
            let worn = if quote == b'"' {
                &self.double
            } else {
                &self.single
            };
            emit(open + 1..close, worn, Hint::Name, each);
            at = close + 1;
            between = at;
        }
        emit(between..span.end, &self.plain, Hint::Code, each);
    }
}

/// The next word of a command, in which a backslash keeps a blank; `|` is one by itself.
fn next_word(text: &str, span: Range<usize>) -> Option<Range<usize>> {
    let bytes = &text.as_bytes()[..span.end];
    let blank = |byte: &u8| matches!(byte, b' ' | b'\t');
    let start = span.start + bytes[span.start..].iter().position(|byte| !blank(byte))?;
    let mut end = start;
    while let Some(byte) = bytes.get(end) {
        match byte {
            b'\\' => end += 2,
            b'|' if end == start => return Some(start..start + 1),
            byte if blank(byte) || *byte == b'|' => break,
            _ => end += 1,
        }
    }
    Some(start..end.min(span.end))
}

/// Where the string is closed whose inside begins at `at`.
fn closing(text: &str, mut at: usize, quote: u8) -> Option<usize> {
    let bytes = text.as_bytes();
    loop {
        match *bytes.get(at)? {
            b'\\' if quote == b'"' => at += 2,
            byte if byte != quote => at += 1,
            _ if quote == b'\'' && bytes.get(at + 1) == Some(&quote) => at += 2,
            _ => return Some(at),
        }
    }
}
