//! What a person decides before a rewrite: all of it, file by file, or first over the doubts.

use std::collections::HashSet;
use std::io::{self, Write};

use lastmaker_core::answers::Prepared;
use lastmaker_core::report::{PlanReport, Position, Reference, Standing};

use crate::exit::Failure;
use crate::render::plan::{write_doubt, write_file};
use crate::render::{ForPeople, Page, count};
use crate::shared::TalkArgs;
use crate::ui::{NAME, Ui, shown};

/// What was decided.
pub(crate) enum Decision {
    /// The rewrite is made.
    Make,
    /// It is made for some files.
    Some(HashSet<String>),
    /// These doubts are accepted, so it is to be planned anew.
    Accept(Vec<Accepted>),
}

/// Where a doubt is accepted.
pub(crate) struct Accepted {
    pub(crate) file: String,
    at: Position,
}

impl Accepted {
    /// The site as a sheet names it, to which the file goes by this name.
    pub(crate) fn site(&self, file: &str) -> String {
        format!("{file}:{}:{}", self.at.line, self.at.column)
    }
}

/// Asks until it is decided.
///
/// # Errors
/// Where it is declined, or nobody can be asked.
pub(crate) fn decide(ui: &Ui, talk: &TalkArgs, prepared: &Prepared) -> Result<Decision, Failure> {
    let totals = prepared.totals();
    let nothing = || Failure::Declined("Nothing was changed.".to_owned());
    if !ui.can_ask() {
        return Err(Failure::with_help(
            "there is nobody to ask, so nothing was changed",
            "look at `lastmaker preview`, then run again with --yes",
        ));
    }
    let doubts: Vec<Reference> = prepared.references().filter(is_open).collect();
    let question = format!(
        "{NAME}Rewrite {} in {}?{NAME:#}",
        count(totals.to_move, "reference"),
        count(totals.changing_files, "file")
    );
    let mut answers = vec!["yes", "no", "list", "files"];
    let mut keys = "[y]es, [n]o, [l]ist them, [f]ile by file".to_owned();
    if !doubts.is_empty() {
        answers.push("doubts");
        let number = count(doubts.len(), "doubt");
        keys.push_str(&format!(", [d]ecide {number} first"));
    }
    loop {
        match ui.choose(&format!("{question}  {keys}:"), &answers) {
            Some("yes") => return Ok(Decision::Make),
            Some("list") => list(ui, talk, &prepared.report())?,
            Some("files") => {
                if let Some(chosen) = file_by_file(ui, &prepared.report())? {
                    return Ok(Decision::Some(chosen));
                }
            }
            Some("doubts") => {
                let accepted = one_by_one(ui, &doubts)?;
                if !accepted.is_empty() {
                    return Ok(Decision::Accept(accepted));
                }
            }
            _ => return Err(nothing()),
        }
    }
}

/// Whether a doubt can be decided.
fn is_open(reference: &Reference) -> bool {
    let acceptable = reference.reason.is_some_and(|name| name.row().acceptable);
    reference.standing == Standing::Doubtful && acceptable && reference.position.is_some()
}

/// Shows the whole plan.
fn list(ui: &Ui, talk: &TalkArgs, report: &PlanReport) -> Result<(), Failure> {
    let mut out = ui.results(None)?;
    let mut page = Page {
        verbose: true,
        ..Page::usual(&mut out, talk.how().width)
    };
    Ok(report.write(&mut page)?)
}

/// Shows something beside the question.
fn show(ui: &Ui, write: impl FnOnce(&mut Page<'_>) -> io::Result<()>) {
    let mut text = Vec::new();
    let mut page = Page::usual(&mut text, ui.width());
    if write(&mut page).is_ok() {
        let mut error = anstream::stderr();
        let _ = writeln!(error);
        let _ = error.write_all(&text);
    }
}

/// Asks for each file; none if all of it is to be asked again.
fn file_by_file(ui: &Ui, report: &PlanReport) -> Result<Option<HashSet<String>>, Failure> {
    let mut chosen = HashSet::new();
    let files: Vec<_> = report.files.iter().filter(|file| file.changes).collect();
    let mut rest = false;
    for (number, file) in files.iter().enumerate() {
        let name = &file.references.file().shown;
        if !rest {
            show(ui, |page| write_file(page, file));
            let question = format!(
                "{NAME}Change this file?{NAME:#}  {} of {}  [y]es, [n]o, [a]ll that are left, [e]nd with those chosen, [b]ack:",
                number + 1,
                files.len()
            );
            match ui.choose(&question, &["yes", "no", "all", "end", "back"]) {
                Some("yes") => {}
                Some("no") => continue,
                Some("all") => rest = true,
                Some("end") => break,
                Some("back") => return Ok(None),
                _ => return Err(Failure::Declined("Nothing was changed.".to_owned())),
            }
        }
        chosen.insert(name.clone());
    }
    if chosen.is_empty() {
        ui.say("No file is chosen.");
        return Ok(None);
    }
    Ok(Some(chosen))
}

/// Asks for each doubt whether it is changed all the same; gives those that are.
fn one_by_one(ui: &Ui, doubts: &[Reference]) -> Result<Vec<Accepted>, Failure> {
    let mut accepted = Vec::new();
    for (number, doubt) in doubts.iter().enumerate() {
        let Some(at) = doubt.position else {
            continue;
        };
        let file = &doubt.file.shown;
        show(ui, |page| {
            writeln!(page.out, "{NAME}{}{NAME:#}", shown(file))?;
            write_doubt(page, doubt)
        });
        let becomes = doubt.new_place.as_deref().unwrap_or_default();
        let question = format!(
            "{NAME}Is it {}, and becomes {}?{NAME:#}  {} of {}  [y]es, change it; [n]o, leave it; [e]nd:",
            shown(&doubt.place),
            shown(becomes),
            number + 1,
            doubts.len()
        );
        match ui.choose(&question, &["yes", "no", "end"]) {
            Some("yes") => accepted.push(Accepted {
                file: file.clone(),
                at,
            }),
            Some("no") => {}
            Some("end") => break,
            _ => return Err(Failure::Declined("Nothing was changed.".to_owned())),
        }
    }
    Ok(accepted)
}
