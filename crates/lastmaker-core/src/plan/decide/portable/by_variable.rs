//! References that begin at an environment variable's value, where their program puts that in.
//!
//! Only a variable that the sheet knows is written, below whose value after the moves the new place lies, and
//! only in a document that does not speak of the variable in another way: it might set it. A variable that is each
//! user's own is written only in what lies below that user's places: another user may run what lies elsewhere.

use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::OnceLock;

use crate::codec::{CRONTAB, HERE_DOCUMENT, SHELL};
use crate::judge::FoundIn;
use crate::layer::{Edit, VariableForm};
use crate::open::{Document, OpenedDocument};
use crate::place::{Form, Place};
use crate::scan::{Fit, Hint, fit};
use crate::sheet::Sheet;

use super::{Change, Respelled};

/// Variables that a machine need not have, although others say where they would lead, and the shell's own
/// sign, whose meaning depends on where it stands.
const NOT_EVERYWHERE: [&str; 6] = [
    "TEMP",
    "TMP",
    "XDG_CONFIG_HOME",
    "XDG_DATA_HOME",
    "XDG_CACHE_HOME",
    "~",
];

/// Variables that have another value for each user.
const OF_USER: [&str; 5] = ["HOME", "USERPROFILE", "HOMEPATH", "APPDATA", "LOCALAPPDATA"];

/// What a command stands in that another user may run, or another machine.
const RUN_BY_OTHERS: [&str; 3] = [CRONTAB, HERE_DOCUMENT, SHELL];

/// In which spellings the references of a document may name a variable.
#[derive(Debug)]
pub(super) struct Variables {
    /// Whether in those that their format is known to take.
    known: bool,
    /// In this one, as the sheet says.
    said: Option<VariableForm>,
    /// Of each variable of the sheet, whether it has its value for whoever runs the document.
    holds: Vec<bool>,
    /// Of each variable of the sheet, whether the document may set it itself.
    set_here: OnceLock<Vec<bool>>,
}

/// What is to be written: a variable, in place of `span` of the content, and what is behind it.
struct Written<'a> {
    /// The number of the variable in the sheet.
    number: usize,
    name: &'a str,
    span: Range<usize>,
    /// The variable's value after the moves, in the reference's own spelling.
    value: String,
    rest: String,
    /// The place as our reader finds it then, to which the value is what it was before the moves.
    reads: Place,
}

impl Variables {
    /// Those of the file at `canonical` by its format, if that is wanted; `folder_of` says where a place is seen.
    pub(super) fn of(
        known: bool,
        sheet: &Sheet,
        canonical: &Path,
        folder_of: impl Fn(&Place) -> Option<PathBuf>,
    ) -> Self {
        let lies_below = |value: &Place| {
            let folder = folder_of(sheet.relocated(value).as_ref().unwrap_or(value));
            folder.is_some_and(|folder| canonical.starts_with(folder))
        };
        let of_user = |name: &String| OF_USER.iter().any(|one| one.eq_ignore_ascii_case(name));
        let mut own = sheet.variables.iter().filter(|(name, _)| of_user(name));
        let is_users = known && own.any(|(_, value)| lies_below(value));
        let holds = |(name, _): &(String, Place)| is_users || !of_user(name);
        Self {
            known,
            said: None,
            holds: sheet.variables.iter().map(holds).collect(),
            set_here: OnceLock::new(),
        }
    }

    /// And those that the sheet says.
    pub(super) fn and_said(self, said: Option<VariableForm>) -> Self {
        Self { said, ..self }
    }

    /// Those of a document in the file. Of a part the sheet says nothing.
    pub(super) fn of_leaf(&self, leaf: &OpenedDocument<'_, '_>) -> Self {
        Self {
            known: self.known,
            said: self.said.filter(|_| !leaf.is_part()),
            holds: self.holds.clone(),
            set_here: OnceLock::new(),
        }
    }

    /// The reference so spelled; none if it stays absolute.
    pub(super) fn respelled(
        &self,
        document: &Document<'_>,
        change: Change<'_>,
        sheet: &Sheet,
    ) -> Option<Respelled> {
        let site = change.case.site;
        if !self.known && self.said.is_none() || site.chain.depth() != site.layers.len() {
            return None;
        }
        let of_text = &document.text.content;
        let set_here = self.set_here.get_or_init(|| {
            let names = sheet.variables.iter();
            let is_set =
                |(name, value): &(String, Place)| is_set(of_text, name, !value.root.is_windows());
            names.map(is_set).collect()
        });
        let written = written(change, sheet, set_here)?;
        let said = self
            .said
            .and_then(|form| as_value(document, change, form, &written));
        let known = || {
            let holds = self.known.then_some(&self.holds)?;
            as_format(document, change, &written, holds)
        };
        said.or_else(known)
    }
}

/// What would be written of a reference; none if it lies below no variable's value.
fn written<'s>(change: Change<'_>, sheet: &'s Sheet, set_here: &[bool]) -> Option<Written<'s>> {
    let Change {
        case,
        relocation,
        new,
        edits,
    } = change;
    let FoundIn { found, content, .. } = case;
    let spelling = found.spelling;
    let plain = matches!(spelling.form, Form::Plain | Form::Variable) && spelling.doubling == 1;
    let to = &relocation.to;
    // Where a new place needs more than its name, as quotes, it is named in full.
    let [edit] = edits else { return None };
    if !plain || edit.span != (found.start..relocation.end) || !new.is_under(to) {
        return None;
    }
    let all = sheet.variables.iter().enumerate();
    let usable = all.filter(|(number, (name, _))| !set_here[*number] && is_usable(name));
    let now = usable.map(|(number, (_, value))| {
        let now = sheet.relocated(value).unwrap_or_else(|| value.clone());
        (number, now)
    });
    let around = now.filter(|(_, now)| !now.components.is_empty() && new.is_under(now));
    let (number, now) = around.max_by_key(|(_, now)| now.components.len())?;
    let (name, before) = &sheet.variables[number];
    let value = spelling.write(&now).ok()?;
    let (span, rest) = match now.components.len().checked_sub(to.components.len()) {
        // The value ends behind the prefix that moves.
        Some(further) if further > 0 => {
            let mut old = found.place_until(content, relocation.end);
            old.components.truncate(relocation.depth);
            old.components
                .extend_from_slice(&now.components[to.components.len()..]);
            let Fit::Clear(prefix) = fit(found, content, &old, !old.root.is_windows()) else {
                return None;
            };
            (found.start..prefix.end, String::new())
        }
        _ => {
            let in_full = std::str::from_utf8(&edit.with).ok()?;
            (edit.span.clone(), in_full.strip_prefix(&value)?.to_owned())
        }
    };
    // A variable alone is no path to whoever reads it, and a name goes on until a separator.
    let next = content[span.end..].chars().next();
    if rest.is_empty() && next.is_none_or(|c| !"\\/".contains(c)) {
        return None;
    }
    let reads = new.rebased(now.components.len(), before);
    // A later run must find that it is where it belongs.
    let stays = sheet.relocated(&reads).unwrap_or_else(|| reads.clone());
    stays.same(new).then_some(Written {
        number,
        name,
        span,
        value,
        rest,
        reads,
    })
}

/// Whether this is the name of a variable that every program gets.
fn is_usable(name: &str) -> bool {
    let letters = |c: char| c.is_ascii_alphanumeric() || c == '_';
    let begins = name.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_');
    begins && name.chars().all(letters) && !NOT_EVERYWHERE.contains(&name)
}

/// Whether a text names a variable otherwise than for its value, or gives it one.
fn is_set(text: &str, name: &str, respect_case: bool) -> bool {
    let bytes = text.as_bytes();
    let first = name.as_bytes()[0];
    let (lower, upper) = (first.to_ascii_lowercase(), first.to_ascii_uppercase());
    memchr::memchr2_iter(lower, upper, bytes).any(|at| {
        let end = at + name.len();
        let is_name = bytes.get(at..end).is_some_and(|it| {
            if respect_case {
                it == name.as_bytes()
            } else {
                it.eq_ignore_ascii_case(name.as_bytes())
            }
        });
        let word =
            |byte: Option<&u8>| byte.is_some_and(|b| b.is_ascii_alphanumeric() || *b == b'_');
        if !is_name || word(bytes.get(end)) || (at > 0 && word(bytes.get(at - 1))) {
            return false;
        }
        let before = &bytes[..at];
        // A folder of that name is none.
        if before.ends_with(b"\\") || before.ends_with(b"/") {
            return false;
        }
        let signs: [&[u8]; 4] = [b"%", b"$", b"${", b"$("];
        let env = before.len() >= 4 && before[before.len() - 4..].eq_ignore_ascii_case(b"env:");
        let is_use = env || signs.iter().any(|sign| before.ends_with(sign));
        let behind = text.get(end..).unwrap_or_default();
        let behind = behind.trim_start_matches([' ', ':', '?', '}']);
        !is_use || (behind.starts_with('=') && !behind.starts_with("=="))
    })
}

/// A value whose program is said, or known, to put in what is so written.
fn as_value(
    document: &Document<'_>,
    change: Change<'_>,
    form: VariableForm,
    written: &Written<'_>,
) -> Option<Respelled> {
    let site = change.case.site;
    let text = matches!(site.hint, Hint::Code | Hint::Script | Hint::Command { .. });
    let begins = |text: &str| text.contains(['%', '$', '`']);
    let content = site.chain.content(document.raw(&site.span));
    if text || begins(&written.value) || begins(&written.rest) || content.contains(['%', '$']) {
        return None;
    }
    Some(Respelled {
        chain: site.chain.clone(),
        edit: Edit {
            span: written.span.clone(),
            with: format!("{}{}", form.written(written.name), written.rest).into_bytes(),
        },
        reads: Some(written.reads.clone()),
        means_them: true,
    })
}

/// A reference in a format whose program puts variables' values in.
fn as_format(
    document: &Document<'_>,
    change: Change<'_>,
    written: &Written<'_>,
    holds: &[bool],
) -> Option<Respelled> {
    let site = change.case.site;
    if is_expanded_value(document, site.span.start().get(), &site.site) {
        return as_value(document, change, VariableForm::PERCENT, written);
    }
    // A command inside of a command may be another user's, or another machine's, as a crontab's may.
    let depth = site.layers.len().checked_sub(1)?;
    let mut around = site.layers[..depth].iter().map(|layer| layer.name());
    if around.any(|name| RUN_BY_OTHERS.contains(&name)) || !holds[written.number] {
        return None;
    }
    let chain = site.chain.outermost(depth);
    let span = site.chain.span_at(depth, written.span.clone())?;
    let outer = chain.content(document.raw(&site.span)).as_bytes();
    let expansion = site.layers[depth].expansion(outer, span.clone())?;
    let plain = |letter: char| {
        let blank = letter == ' ' && expansion.keeps_blanks;
        blank || letter.is_alphanumeric() || "\\/:._-".contains(letter)
    };
    // The value is put in as it is, so nothing in it may mean something there.
    let all = [&written.value, &written.rest];
    all.iter()
        .all(|text| text.chars().all(plain))
        .then(|| Respelled {
            chain,
            edit: Edit {
                span,
                with: format!("{}{}", expansion.form.written(written.name), written.rest)
                    .into_bytes(),
            },
            reads: Some(written.reads.clone()),
            means_them: true,
        })
}

/// Whether the data that begins at `start` of a registry export is of the type whose readers put variables'
/// values in (`REG_EXPAND_SZ`), below a user's own keys; those in which variables themselves are kept are none.
fn is_expanded_value(document: &Document<'_>, start: usize, site: &str) -> bool {
    const OF_USER: &str = "HKEY_CURRENT_USER\\";
    let of_user = site
        .get(..OF_USER.len())
        .is_some_and(|key| key.eq_ignore_ascii_case(OF_USER));
    let environment = site.to_ascii_lowercase().contains("\\environment.");
    let expanded = document.text.content[..start].ends_with("hex(2):");
    of_user && !environment && expanded && document.format.name().starts_with("registry")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_document_that_may_set_a_variable() {
        let cases = [
            ("copy %HERB%\\x y", false),
            ("ls $HERB/x ${HERB}/y $env:herb\\z", false),
            ("ls $HERBARIUM/x D:\\Herb\\x", false),
            ("set HERB=D:\\x", true),
            ("set \"herb=D:\\x\"", true),
            ("HERB=/srv/x", true),
            ("read HERB", true),
            ("$env:HERB = 'x'", true),
            ("${HERB:=x}", true),
            ("if [ $HERB == x ]", false),
        ];
        for (text, expected) in cases {
            assert_eq!(is_set(text, "HERB", false), expected, "{text}");
        }
        assert!(!is_set("ls /home/ines", "HOME", true));
    }
}
