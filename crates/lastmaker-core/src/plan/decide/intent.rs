//! What is meant to happen to one found place: the edits of its passage, or why none.

use std::ops::Range;

use crate::codec::encode_fresh;
use crate::format::Role;
use crate::judge::{self, FoundIn, Policy, Reason, Verdict};
use crate::layer::{Edit, Edits, InLayer, Unfit, splice};
use crate::place::{Form, Place};
use crate::report::{Notice, Standing, Suggestion, Target};
use crate::sheet::{Relocation, Sheet};
use crate::text::Encoding;

use super::change::change;
use super::portable::{Change, Respelled};

/// What is meant to happen to one found place.
#[derive(Clone, Debug)]
pub(crate) struct Intent {
    /// What was decided over it.
    pub(crate) verdict: Verdict,
    /// The place that it names afterwards.
    pub(crate) new_place: Option<Place>,
    /// What follows from the change.
    pub(crate) notice: Option<Notice>,
    /// What may be meant.
    pub(crate) suggestions: Vec<Suggestion>,
    /// The edits of the passage's content that make the change; empty unless it moves.
    pub(crate) edits: Vec<Edit>,
    /// The edit that gives the reference another spelling, in place of `edits`.
    pub(crate) respelled: Option<Respelled>,
    /// Whether a doubt was accepted: letters that might mean something else are written.
    pub(crate) accepted: bool,
    /// Whether the change puts right what was mistyped, too.
    pub(in crate::plan) repaired: bool,
}

impl Intent {
    fn of(verdict: Verdict) -> Self {
        Self {
            new_place: verdict.new_place(),
            verdict,
            notice: None,
            suggestions: Vec::new(),
            edits: Vec::new(),
            respelled: None,
            accepted: false,
            repaired: false,
        }
    }

    /// A reference that is relative to its document already, and is written anew.
    pub(in crate::plan) fn relative(verdict: Verdict, new: Place, respelled: Respelled) -> Self {
        Self {
            new_place: Some(new),
            respelled: Some(respelled),
            ..Self::of(verdict)
        }
    }

    /// Whether letters that might mean something else are written as they are.
    pub(crate) fn is_accepted(&self) -> bool {
        self.accepted || self.respelled.as_ref().is_some_and(|one| one.means_them)
    }

    /// Whether the change is made, as far as is known.
    pub(crate) fn changes(&self) -> bool {
        !self.edits.is_empty() || self.respelled.is_some()
    }

    /// What it becomes where it names its new place in full; none if it does not change, or not to that.
    pub(in crate::plan) fn change<'a>(&'a self, case: FoundIn<'a>) -> Option<Change<'a>> {
        let plain = self.changes() && !self.repaired;
        Some(Change {
            case,
            relocation: self.verdict.relocation.as_ref().filter(|_| plain)?,
            new: self.new_place.as_ref()?,
            edits: &self.edits,
        })
    }

    /// Takes the change back if only what exists is changed and its new place does not.
    fn leave_if_missing(&mut self, policy: Policy<'_>) {
        if let (true, Some(resolver), Some(new)) =
            (self.changes(), policy.existing, &self.new_place)
            && resolver.target(new) != Target::Live
        {
            self.withdraw(Reason::NotThere);
        }
    }

    /// Takes the change back and says why.
    pub(in crate::plan) fn withdraw(&mut self, reason: Reason) {
        self.verdict.standing = reason.standing();
        self.verdict.reason = Some(reason);
        self.notice = None;
        self.edits.clear();
        self.respelled = None;
    }
}

/// What is to happen to a found place; none if no move touches it.
pub(in crate::plan) fn intend(
    case: FoundIn<'_>,
    sheet: &Sheet,
    policy: Policy<'_>,
) -> Option<Intent> {
    let verdict = judge::before_rewrite(case, sheet, policy)?;
    if matches!(verdict.standing, Standing::Elsewhere | Standing::Moved) {
        return None;
    }
    let mut intent = Intent::of(verdict);
    let Some(relocation) = intent.verdict.relocation.clone() else {
        return Some(intent);
    };
    // Where it is another reading of the place that moves, its spelling is kept.
    let case = FoundIn {
        found: relocation.seen.as_deref().unwrap_or(case.found),
        ..case
    };
    if case.site.role == Role::Undoubled {
        double_backslashes(&mut intent, case);
    } else if intent.verdict.standing == Standing::ToMove {
        intent.notice = notice(case, &intent);
        relocate(&mut intent, case, &relocation, policy);
    }
    intent.leave_if_missing(policy);
    Some(intent)
}

/// Makes the change over which there was a doubt that is accepted; none if it has no place to go.
pub(in crate::plan) fn insist(
    intent: &Intent,
    case: FoundIn<'_>,
    policy: Policy<'_>,
) -> Option<Intent> {
    let relocation = intent.verdict.relocation.clone()?;
    let mut verdict = intent.verdict.clone();
    verdict.standing = Standing::ToMove;
    verdict.reason = None;
    let mut insisted = Intent {
        accepted: true,
        ..Intent::of(verdict)
    };
    let case = FoundIn {
        found: relocation.seen.as_deref().unwrap_or(case.found),
        ..case
    };
    insisted.notice = notice(case, &insisted);
    relocate(&mut insisted, case, &relocation, policy);
    insisted.leave_if_missing(policy);
    Some(insisted)
}

/// Puts the new place in, and mends what was mistyped in the old one.
fn relocate(intent: &mut Intent, case: FoundIn<'_>, relocation: &Relocation, policy: Policy<'_>) {
    match change(case, relocation, intent.verdict.end, intent.accepted) {
        Ok(edits) => intent.edits = edits,
        Err(why) => intent.withdraw(Reason::Unwritable(why)),
    }
    if let Some(format) = policy.broke.filter(|_| !intent.accepted)
        && let Some(letter) = unknown_letter(&intent.edits, case.content)
    {
        intent.withdraw(Reason::UnknownLetter { format, letter });
    }
    if let Some(page) = policy.open_page
        && let Some(letter) = open_letter(&intent.edits, case.content, page)
    {
        intent.withdraw(Reason::Unfit(Unfit::Undecided { letter }));
    }
    if let Some((flaw, extra)) = &case.found.flaw
        && intent.changes()
    {
        if policy.repair {
            mend(intent, extra);
        } else {
            let right = mended(case, intent, extra);
            intent.withdraw(Reason::Flawed(*flaw));
            intent.suggestions.push(Suggestion {
                place: right,
                why: "the new place without the slip".to_owned(),
                certain: true,
            });
        }
    }
}

/// What follows from a change that is made all the same.
fn notice(case: FoundIn<'_>, intent: &Intent) -> Option<Notice> {
    if let Role::Name {
        outlives_import: true,
        ..
    } = case.site.role
    {
        return Some(Notice::OldNameStays);
    }
    if ["Mount.Where", "Automount.Where"].contains(&case.site.site.as_str()) {
        return Some(Notice::UnitName);
    }
    let long = is_long(&intent.verdict, intent.new_place.as_ref()?);
    long.then_some(Notice::LongPlace)
}

/// What is right where somebody typed single backslashes: told, or put in if that is wanted.
fn double_backslashes(intent: &mut Intent, case: FoundIn<'_>) {
    let span = case.found.start..intent.verdict.end;
    let written = &case.content[span.clone()];
    let Intent {
        verdict, new_place, ..
    } = &*intent;
    // Of one in a sealed document nothing is told but that.
    if !matches!(verdict.reason, None | Some(Reason::Undoubled)) {
        return;
    }
    intent.suggestions = spelled_right(case, written, new_place.as_ref());
    if intent.verdict.standing != Standing::ToMove {
        return;
    }
    match intent.suggestions.first() {
        Some(right) => {
            let with = right.place.clone().into_bytes();
            intent.edits.push(Edit { span, with });
            intent.repaired = true;
        }
        None => intent.withdraw(Reason::Undoubled),
    }
}

/// Takes the letters that are too many out of the text as well.
fn mend(intent: &mut Intent, extra: &Range<usize>) {
    if !covered(&intent.edits, extra) {
        intent.edits.push(gone(extra.clone()));
    }
    intent.repaired = true;
}

fn covered(edits: &[Edit], extra: &Range<usize>) -> bool {
    let covers = |edit: &Edit| edit.span.start <= extra.start && extra.end <= edit.span.end;
    edits.iter().any(covers)
}

fn gone(span: Range<usize>) -> Edit {
    Edit {
        span,
        with: Vec::new(),
    }
}

/// The reference as it would read with the edits made and the letters that are too many gone.
fn mended(case: FoundIn<'_>, intent: &Intent, extra: &Range<usize>) -> String {
    let (start, end) = (case.found.start, intent.verdict.end);
    let mut all = intent.edits.clone();
    let inside = extra.start >= start && extra.end <= end;
    if inside && !covered(&all, extra) {
        all.push(gone(extra.clone()));
    }
    for edit in &mut all {
        edit.span = edit.span.start - start..edit.span.end - start;
    }
    let whole = &case.content[start..end.max(start)];
    match Edits::<InLayer>::new(all) {
        Ok(edits) => String::from_utf8_lossy(&splice(whole.as_bytes(), &edits)).into_owned(),
        Err(_) => whole.to_owned(),
    }
}

/// Whether a Windows place is too long for programs that know of no longer ones.
fn is_long(verdict: &Verdict, place: &Place) -> bool {
    const LONGEST: usize = 259;
    place.root.is_windows()
        && verdict.spelling.form != Form::Verbatim
        && place.is_longer_than(LONGEST)
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

/// A letter of the edits that the file's code page, which is not sure, may write otherwise: one beyond
/// ASCII that the text which it replaces does not settle, or a separator behind such a letter, which may be a
/// part of that.
fn open_letter(edits: &[Edit], content: &str, page: Encoding) -> Option<char> {
    edits.iter().find_map(|edit| {
        let stood = &content[edit.span.clone()];
        let with = String::from_utf8_lossy(&edit.with);
        let new = with
            .chars()
            .find(|letter| !page.is_settled_by(stood, *letter));
        let before = content[..edit.span.start].chars().next_back();
        let behind = before.filter(|c| !c.is_ascii() && stood.starts_with('\\'));
        new.or(behind)
    })
}

/// The spellings that would be right where somebody typed single backslashes: of the new
/// place, if it moves, and of the one that is `written`.
pub(crate) fn spelled_right(
    FoundIn { site, found, .. }: FoundIn<'_>,
    written: &str,
    new_place: Option<&Place>,
) -> Vec<Suggestion> {
    // Those that a string typed by hand lacks.
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
                certain: true,
            })
        })
        .collect()
}
