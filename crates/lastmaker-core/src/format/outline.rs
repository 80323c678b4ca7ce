//! Outlines of notes (Org syntax): running text with links in double brackets, lines of settings that
//! begin with `#+`, and blocks of code between such lines.

use std::ops::Range;

use super::{Claim, Format, Grammar, Passage, Reader, Sample, Subject, emit};
use crate::about::About;
use crate::codec::{BareText, LINKED_FILE, MARKED_TEXT};
use crate::layer::{Layers, alone};
use crate::scan::{Hint, may_hold_place};
use crate::text::Encoding;

/// Outlines of notes.
pub(super) struct Outline;

const ABOUT: About = About {
    name: "outline",
    what: "outlines of notes (Org)",
    content: "",
    names: &[".org"],
    read: "links in double brackets, settings, blocks of code and running text",
    limits: "in running text a place followed by a blank is doubtful",
};

impl Format for Outline {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let file_name = subject.file_name;
        Claim::certain_if(ABOUT.is_named(file_name))
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new("a.org", "", "[[", "][k]]\n")];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, _: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Wrappings {
            plain: alone(BareText(&MARKED_TEXT)),
            link: alone(BareText(&LINKED_FILE)),
        })
    }
}

/// What running text and the targets of links wear.
struct Wrappings {
    plain: Layers,
    link: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let (mut at, mut in_code) = (0, false);
        for line in text.split_inclusive('\n') {
            let start = at;
            at += line.len();
            let setting = line.trim_start();
            let begins = |word: &str| {
                let head = setting.get(..word.len());
                head.is_some_and(|head| head.eq_ignore_ascii_case(word))
            };
            if begins("#+begin_") {
                in_code = true;
            } else if begins("#+end_") {
                in_code = false;
            }
            if !may_hold_place(line) {
                continue;
            }
            let hint = if in_code || begins("#+") {
                Hint::Code
            } else {
                Hint::Prose
            };
            let mut from = start;
            for link in links(line) {
                let link = start + link.start..start + link.end;
                emit(from..link.start, &self.plain, hint, each);
                emit(link.clone(), &self.link, Hint::Name, each);
                from = link.end;
            }
            emit(from..at, &self.plain, hint, each);
        }
        Grammar::Kept
    }
}

/// The paths in the links of a line: behind `file:`, and before what is looked for in the file.
fn links(line: &str) -> Vec<Range<usize>> {
    let mut all = Vec::new();
    let mut at = 0;
    while let Some(open) = line[at..].find("[[").map(|open| at + open + 2) {
        let Some(length) = line[open..].find(']') else {
            break;
        };
        let target = &line[open..open + length];
        let path = target.strip_prefix("file:").unwrap_or(target);
        let start = open + target.len() - path.len();
        let end = start + path.find("::").unwrap_or(path.len());
        if !path.starts_with("//") {
            all.push(start..end);
        }
        at = open + length;
    }
    all
}
