//! What is meant to happen to one found place: the edits of its passage, or why none.

use crate::codec::encode_fresh;
use crate::format::Role;
use crate::layer::{Edit, Edits, splice};
use crate::place::{Form, Found, Hint, Place, Root, Spelling, readings};
use crate::report::{Notice, Standing};
use crate::resolve::Suggestion;
use crate::scan::SitePassage;
use crate::sheet::{Decision, Relocation, Sheet};

/// What is meant to happen to one found place.
#[derive(Clone, Debug)]
pub(super) struct Intent {
    pub(super) standing: Standing,
    pub(super) why: Option<String>,
    pub(super) notice: Option<Notice>,
    pub(super) suggestions: Vec<Suggestion>,
    /// The edits of the passage's content that make the change; empty unless it moves.
    pub(super) edits: Vec<Edit>,
    /// Where the reference ends in the content, by its likeliest reading.
    pub(super) end: usize,
    pub(super) place: Place,
    pub(super) new_place: Option<Place>,
    /// By which of the sheet's moves.
    pub(super) by: Option<usize>,
    /// How the place is written, and as what it was read.
    pub(super) spelling: Spelling,
    /// Whether the change puts the reference in quotes.
    pub(super) quotes: bool,
    /// Whether the change puts right what was mistyped, too.
    pub(super) repaired: bool,
}

impl Intent {
    fn without_edits(
        standing: Standing,
        why: Option<String>,
        (end, place): (usize, Place),
        spelling: Spelling,
    ) -> Self {
        Self {
            standing,
            why,
            notice: None,
            suggestions: Vec::new(),
            edits: Vec::new(),
            end,
            place,
            new_place: None,
            by: None,
            spelling,
            quotes: false,
            repaired: false,
        }
    }

    /// Takes the change back and says why.
    pub(super) fn withdraw(&mut self, standing: Standing, why: impl Into<String>) {
        self.standing = standing;
        self.why = Some(why.into());
        self.notice = None;
        self.edits.clear();
    }
}

/// What a document as a whole allows.
#[derive(Clone, Copy, Debug)]
pub(super) struct Mood {
    /// Why nothing in it may be changed.
    pub(super) sealed: Option<&'static str>,
    /// The format that it claims to be of and whose grammar it breaks.
    pub(super) broke: Option<&'static str>,
    /// Whether what is evidently mistyped is put right.
    pub(super) repair: bool,
}

/// What is to happen to `found`; none if no move touches it.
pub(super) fn intend(
    site: &SitePassage,
    found: &Found,
    content: &str,
    sheet: &Sheet,
    mood: Mood,
) -> Option<Intent> {
    let end = readings(found, content)[0];
    let decision = sheet.decide(found, content);
    let seen = match &decision {
        Decision::Moves(relocation) | Decision::Doubtful(relocation, _) => relocation.seen.clone(),
        _ => None,
    };
    let found = seen.as_deref().unwrap_or(found);
    let place = found.place_until(content, end);
    let relocation = match decision {
        Decision::Elsewhere => return None,
        Decision::Kept => {
            return Some(Intent::without_edits(
                Standing::Kept,
                None,
                (end, place),
                found.spelling,
            ));
        }
        Decision::Doubtful(relocation, why) => {
            let end = end.max(relocation.end);
            let new_place = place.rebased(relocation.depth, &relocation.to);
            let mut intent =
                Intent::without_edits(Standing::Doubtful, Some(why), (end, place), found.spelling);
            intent.new_place = Some(new_place);
            intent.by = Some(relocation.by);
            return Some(intent);
        }
        Decision::Moves(relocation) => relocation,
    };
    let end = end.max(relocation.end);
    let new_place = place.rebased(relocation.depth, &relocation.to);
    let mut intent = Intent::without_edits(Standing::ToMove, None, (end, place), found.spelling);
    intent.new_place = Some(new_place);
    intent.by = Some(relocation.by);
    if let Some(why) = mood.sealed {
        intent.withdraw(Standing::Sealed, why);
        return Some(intent);
    }
    match site.role {
        Role::ByHand => {
            let written = &content[found.start..intent.end];
            intent.suggestions = spelled_right(site, found, written, intent.new_place.as_ref());
            match intent.suggestions.first() {
                Some(right) if mood.repair && found.firm_end.is_some() => {
                    intent.edits.push(Edit {
                        span: found.start..intent.end,
                        with: right.place.clone().into_bytes(),
                    });
                    intent.repaired = true;
                }
                _ => intent.withdraw(Standing::Malformed, UNDOUBLED),
            }
            return Some(intent);
        }
        Role::Stray => {
            intent.withdraw(
                Standing::Doubtful,
                "it stands outside of any string of a document that breaks its format's grammar",
            );
            return Some(intent);
        }
        Role::Mixed => {
            intent.withdraw(
                Standing::Sealed,
                "it stands among bytes that are no text, some of which may count its length",
            );
            return Some(intent);
        }
        Role::Torn { tail } if found.start < tail => {
            // Where the old place is named before the tear, that passage has it.
            if relocation.end <= tail {
                return None;
            }
            intent.withdraw(Standing::Sealed, TORN);
            return Some(intent);
        }
        Role::Name {
            outlives_import: true,
            ..
        } => intent.notice = Some(Notice::OldNameStays),
        _ => {
            intent.notice = intent
                .new_place
                .as_ref()
                .filter(|place| is_long(found, place))
                .map(|_| Notice::LongPlace);
        }
    }
    match change(found, content, &relocation, end, site.hint) {
        Ok((edits, quotes)) => {
            intent.edits = edits;
            intent.quotes = quotes;
        }
        Err(why) => intent.withdraw(Standing::Doubtful, why),
    }
    if let Some(format) = mood.broke
        && let Some(letter) = unknown_letter(&intent.edits, content)
    {
        intent.withdraw(
            Standing::Doubtful,
            format!(
                "the file breaks the grammar of {format}, so how {letter:?} is written in it is not known"
            ),
        );
    }
    if let Some((flaw, extra)) = &found.flaw
        && !intent.edits.is_empty()
    {
        if mood.repair {
            mend(&mut intent, extra);
        } else {
            let right = mended(content, &intent.edits, found, extra, intent.end);
            intent.withdraw(Standing::Malformed, flaw.sentence());
            intent.suggestions.push(Suggestion {
                place: right,
                why: "the new place without the slip".to_owned(),
            });
        }
    }
    Some(intent)
}

/// Why a place that is not in one piece is sealed.
pub(crate) const TORN: &str = "it is cut in two by something that is no text (a deleted stretch, a field, a note); mend it in its program";

/// Why a string with single backslashes is malformed.
pub(crate) const UNDOUBLED: &str =
    "its backslashes are not doubled, so the program reads something else";

/// Takes the letters that are too many out of the text as well.
fn mend(intent: &mut Intent, extra: &std::ops::Range<usize>) {
    let covered = |edit: &Edit| edit.span.start <= extra.start && extra.end <= edit.span.end;
    if !intent.edits.iter().any(covered) {
        intent.edits.push(Edit {
            span: extra.clone(),
            with: Vec::new(),
        });
    }
    intent.repaired = true;
}

/// The reference as it would read with the edits made and the letters that are too many gone.
fn mended(
    content: &str,
    edits: &[Edit],
    found: &Found,
    extra: &std::ops::Range<usize>,
    end: usize,
) -> String {
    let start = found.start;
    let mut all = Vec::new();
    for edit in edits {
        all.push(Edit {
            span: edit.span.start - start..edit.span.end - start,
            with: edit.with.clone(),
        });
    }
    let inside = extra.start >= start && extra.end <= end;
    let covered = edits
        .iter()
        .any(|edit| edit.span.start <= extra.start && extra.end <= edit.span.end);
    if inside && !covered {
        all.push(Edit {
            span: extra.start - start..extra.end - start,
            with: Vec::new(),
        });
    }
    let whole = &content.as_bytes()[start..end.max(start)];
    match Edits::new(all) {
        Ok(edits) => String::from_utf8_lossy(&splice(whole, &edits)).into_owned(),
        Err(_) => content[start..end].to_owned(),
    }
}

/// A letter of the edits that plain text has one way to write and other syntaxes have several,
/// unless the text that it replaces has it too.
fn unknown_letter(edits: &[Edit], content: &str) -> Option<char> {
    edits.iter().find_map(|edit| {
        let stood = &content[edit.span.clone()];
        String::from_utf8_lossy(&edit.with).chars().find(|letter| {
            let plain = letter.is_ascii_alphanumeric() || " _.:\\/-()".contains(*letter);
            !plain && !stood.contains(*letter)
        })
    })
}

/// Whether a Windows place is too long for programs that know of no longer ones.
fn is_long(found: &Found, place: &Place) -> bool {
    const LONGEST: usize = 259;
    place.root.is_windows()
        && found.spelling.form != Form::Verbatim
        && place.to_string().encode_utf16().count() > LONGEST
}

/// The spellings that would be right where somebody typed single backslashes: of the new
/// place, if it moves, and of the one that is written.
pub(crate) fn spelled_right(
    site: &SitePassage,
    found: &Found,
    written: &str,
    new_place: Option<&Place>,
) -> Vec<Suggestion> {
    // Those that a string typed by hand stands without.
    let missing = &site.layers[site.chain.depth().min(site.layers.len())..];
    let new = new_place
        .and_then(|place| {
            let mut text = found.spelling.write(place).ok()?;
            if place.components.is_empty() || written.ends_with(['\\', '/']) {
                text.push(found.spelling.separator_for(place));
            }
            Some(text)
        })
        .map(|text| (text, "the new place with its backslashes doubled"));
    let same = (
        written.to_owned(),
        "the same place with its backslashes doubled",
    );
    new.into_iter()
        .chain([same])
        .filter_map(|(text, why)| {
            Some(Suggestion {
                place: missing
                    .iter()
                    .rev()
                    .try_fold(text, |text, layer| encode_fresh(layer.as_ref(), &text))?,
                why: why.to_owned(),
            })
        })
        .collect()
}

/// The edits of the content that put the new place where the old one stands, and whether
/// they add quotes.
fn change(
    found: &Found,
    content: &str,
    relocation: &Relocation,
    end: usize,
    hint: Hint,
) -> Result<(Vec<Edit>, bool), String> {
    let to = &relocation.to;
    let mut with = found.spelling.write(to).map_err(|why| why.to_string())?;
    let tail = &content[relocation.end..end];
    let folder = found.spelling.is_folder();
    let windows = found.root.is_windows() && !folder;
    let crosses = windows != (to.root.is_windows() && !folder);
    let separator = found.spelling.separator_for(to);
    let rooted = to.components.is_empty() && !matches!(to.root, Root::Share { .. });
    // What becomes a root needs the root's own separator, but for a bare `D:`.
    let bare_drive = matches!(found.root, Root::Drive(_)) && relocation.end == found.root_end;
    if rooted && !bare_drive && !folder && !tail.starts_with(['\\', '/']) {
        with.push(separator);
    }
    let mut edits = Vec::new();
    if crosses {
        let beyond = &content[end..found.hard_end.max(end)];
        if found.firm_end.is_none() && beyond.contains(['\\', '/']) {
            return Err(
                "where the path ends is not clear, and its separators must turn".to_owned(),
            );
        }
        edits.extend(turned(content, relocation.end..end, separator, windows));
    }
    // In a formula or a query the quotes stand in the text itself.
    let around = content[..found.start].chars().next_back();
    if let Some(quote) = around.filter(|c| "'\"`".contains(*c))
        && with.contains(quote)
    {
        return Err(format!(
            "the new place holds the {quote} in which the old one stands"
        ));
    }
    let quotes = found.bare_argument && with.contains(char::is_whitespace);
    if quotes {
        if found.spelling.doubling > 1 {
            return Err("it needs quotes now, and the syntax around it is not known".to_owned());
        }
        if content[..found.start].ends_with(['`', '[']) {
            return Err(
                "it needs quotes now, and stands in quotes of a kind that is not known".to_owned(),
            );
        }
        let first = content[..found.start].trim().eq_ignore_ascii_case("start");
        if hint.titled && first {
            return Err(
                "it needs quotes now, and `start` would take it for a window's title".to_owned(),
            );
        }
        let firm = found.firm_end.unwrap_or(end).max(relocation.end);
        with.insert(0, '"');
        // A backslash before the closing quote would escape it.
        let backslashes = content[relocation.end..firm]
            .bytes()
            .rev()
            .take_while(|b| *b == b'\\')
            .count();
        let close = format!("{}\"", "\\".repeat(backslashes));
        if firm == relocation.end {
            with.push_str(&close);
        } else {
            edits.push(Edit {
                span: firm..firm,
                with: close.into_bytes(),
            });
        }
    }
    edits.push(Edit {
        span: found.start..relocation.end,
        with: with.into_bytes(),
    });
    Ok((edits, quotes))
}

/// Edits that turn the separators of a tail.
fn turned(
    content: &str,
    tail: std::ops::Range<usize>,
    separator: char,
    windows: bool,
) -> Vec<Edit> {
    let parts = |b: u8| b == b'/' || (windows && b == b'\\');
    let bytes = content.as_bytes();
    let mut edits = Vec::new();
    let mut at = tail.start;
    while at < tail.end {
        let run = bytes[at..tail.end]
            .iter()
            .take_while(|b| parts(**b))
            .count();
        if run > 0 {
            edits.push(Edit {
                span: at..at + run,
                with: separator.to_string().into_bytes(),
            });
        }
        at += run.max(1);
    }
    edits
}
