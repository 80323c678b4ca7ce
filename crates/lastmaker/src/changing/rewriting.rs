//! Around a rewrite: what was broken off before, what is planned, whether it is meant, and how to go on if it breaks off.

use std::path::Path;

use lastmaker_core::answers::{
    Prepared, RewriteOptions, RewriteRefusal, Settled, prepare, settle_unfinished,
};
use lastmaker_core::record::{Store, Timestamp};
use lastmaker_core::report::RewriteReport;
use lastmaker_core::sheet::Additions;

use super::changing_files;
use super::choosing::{Accepted, Decision, decide};
use crate::exit::Failure;
use crate::render::count;
use crate::render::evidence::{write_missing, write_moves};
use crate::shared::{PlanArgs, Setup, TalkArgs};
use crate::sheet_file::{self, folder_of, relative};
use crate::ui::shown;

/// One rewrite, as it is asked for.
pub(crate) struct Rewriting<'a> {
    pub(crate) plan: &'a PlanArgs,
    pub(crate) options: &'a RewriteOptions,
    pub(crate) talk: &'a TalkArgs,
    pub(crate) store: &'a Store,
    /// The option that finds the same records again.
    pub(crate) again: &'a str,
    /// Whether nobody is to be asked.
    pub(crate) yes: bool,
}

impl Rewriting<'_> {
    /// Plans, asks until it is decided, and makes the changes.
    pub(crate) fn run(&self, setup: &mut Setup) -> Result<RewriteReport, Failure> {
        loop {
            let mut prepared = self.prepared(setup)?;
            if prepared.changes_nothing() {
                return Ok(prepared.into_report());
            }
            if !self.yes {
                match decide(&setup.ui, self.talk, &prepared)? {
                    Decision::Make => {}
                    Decision::Some(chosen) => prepared.choose(|file| chosen.contains(file)),
                    Decision::Accept(doubts) => {
                        accept(setup, &doubts)?;
                        continue;
                    }
                }
            }
            let files = prepared.files();
            let committed = changing_files(&setup.ui, "Files rewritten:", files, |watch| {
                prepared.commit(self.store, Timestamp::now(), watch)
            });
            return committed.map_err(|refusal| self.refused(refusal));
        }
    }

    /// A run that was broken off comes first: nobody knows which of its files are which.
    pub(crate) fn settle(&self, setup: &Setup) -> Result<(), Failure> {
        let told = |settled: Settled| {
            setup.ui.say(format!(
                "Record {} is settled: {} of its {} files were rewritten, the others are as they were.",
                settled.record, settled.rewritten, settled.of
            ));
        };
        let settled = settle_unfinished(self.store, self.options.finish, told);
        settled.map_err(|refusal| self.refused(refusal))
    }

    /// Plans the rewrite and shows what it comes to.
    fn prepared(&self, setup: &Setup) -> Result<Prepared, Failure> {
        let job = self.plan.job(setup);
        let (mut moves, mut missing) = (Vec::new(), Vec::new());
        let prepared = setup.watch("Files looked at:", || {
            prepare(&job, self.store, self.options, |plan| {
                moves.clone_from(&plan.moves);
                missing.clone_from(&plan.missing);
            })
        });
        setup.ui.show(|out| {
            write_moves(out, &moves)?;
            write_missing(out, &missing, self.talk.verbose > 0)
        });
        Ok(prepared?)
    }

    /// Why nothing is written, or no more; where a record is left of it, how to go on.
    fn refused(&self, refusal: RewriteRefusal) -> Failure {
        let record = match &refusal {
            RewriteRefusal::BrokenOff { record, .. } => record,
            RewriteRefusal::Unfinished { record, undoes } => undoes.as_ref().unwrap_or(record),
            _ => return refusal.into(),
        };
        let how = format!(
            "`lastmaker restore {record}{}` takes back what it did; `lastmaker rewrite --finish …` keeps that and goes on",
            self.again
        );
        Failure::with_help(refusal.to_string(), how)
    }
}

/// Accepts these doubts, and writes that into the sheet if it is wanted.
fn accept(setup: &mut Setup, doubts: &[Accepted]) -> Result<(), Failure> {
    for doubt in doubts {
        let site = doubt.site(&doubt.file);
        let added = setup
            .workspace
            .sheet_mut()
            .accept
            .add_site(&site, Path::new(""));
        added.map_err(|fault| Failure::new(fault.to_string()))?;
    }
    let Some(sheet) = setup.workspace.sheet().file.as_deref() else {
        return Ok(());
    };
    let question = format!(
        "Write {} into {}, so that a later run knows?  [y]es, [n]o:",
        count(doubts.len(), "decision"),
        shown(&sheet.to_string_lossy())
    );
    if setup.ui.choose(&question, &["yes", "no"]) != Some("yes") {
        return Ok(());
    }
    let from_sheet =
        |doubt: &Accepted| doubt.site(&relative(Path::new(&doubt.file), folder_of(sheet)));
    let accepted: Vec<String> = doubts.iter().map(from_sheet).collect();
    sheet_file::write(sheet, |text| {
        let additions = Additions {
            accepted: &accepted,
            ..Additions::default()
        };
        additions.to(text.unwrap_or_default())
    })
}
