//! Around a restore: which record it is, and whether it is meant.

use lastmaker_core::answers::{
    FoundRecord, RestorePlan, RestoreRefusal, RestoreWish, find_record, history,
};
use lastmaker_core::record::{Header, Manifest, RecordError, Step, Store};

use crate::exit::Failure;
use crate::render::{Page, count, written};
use crate::ui::{Ui, shown};

/// The record that is meant. Unless it is only looked at, a broken run of it is settled first.
pub(crate) fn find(
    wish: &RestoreWish,
    settling: bool,
    store: &Store,
    ui: &Ui,
) -> Result<FoundRecord, Failure> {
    let found = find_record(store, wish, settling);
    let found = found.map_err(|refusal| match refusal {
        RestoreRefusal::Nothing(_) => {
            list_records(store, ui);
            Failure::with_help(
                refusal.to_string(),
                format!(
                    "name a record to take it back wherever its files lie; records are looked for in {}",
                    store.folder().display()
                ),
            )
        }
        refusal => refusal.into(),
    })?;
    for record in &found.settled {
        ui.say(format!(
            "The run that made record {record} had been broken off, and is settled now."
        ));
    }
    Ok(found)
}

/// Shows the records that there are, beside the results.
fn list_records(store: &Store, ui: &Ui) {
    ui.show(|out| {
        let mut page = Page::usual(out, ui.width());
        written(&history(store), &mut page)
    });
}

/// Shows the links of a record that are still as it left them; gives their number.
pub(crate) fn links_that_stand(manifest: &Manifest, ui: &Ui) -> usize {
    ui.say(format!("Record {}:", manifest.header.id));
    let stands = |step: &&Step| step.is_of_link() && step.stands();
    let links = manifest.steps_done().filter(stands);
    links
        .inspect(|link| ui.say(format!("  {}", shown(&link.path().to_string_lossy()))))
        .count()
}

/// Whether a record is to be taken back, as whoever is at the keyboard says.
pub(crate) struct Confirmation<'a> {
    pub(crate) header: &'a Header,
    /// Whether nobody is to be asked.
    pub(crate) yes: bool,
    /// The option that finds the same records again.
    pub(crate) again: &'a str,
    pub(crate) ui: &'a Ui,
}

impl Confirmation<'_> {
    /// Goes on only if these many links are to be taken back. Who names a record in a script has said what is meant.
    pub(crate) fn of_links(&self, links: usize, is_named: bool) -> Result<(), Failure> {
        let help = format!(
            "run again with --yes, or name the record: lastmaker restore {}{}",
            self.header.id, self.again
        );
        self.ask(&count(links, "link"), "for", is_named, &help)
    }

    /// Goes on only if this is to be done, which is told first.
    pub(crate) fn of_files(&self, plan: &RestorePlan<'_>, is_named: bool) -> Result<(), Failure> {
        if plan.files() == 0 {
            return Ok(());
        }
        self.ui.say(format!("Record {}:", self.header.id));
        for one in &self.header.moves {
            self.ui.say(format!("  {}", shown(one)));
        }
        let files = count(plan.files(), "file");
        let folder = plan.folder().unwrap_or_default();
        self.ui.say(format!("  {files} under {}", shown(&folder)));
        let help = format!(
            "look with --preview, then run again with --yes, or name the record: lastmaker restore {}{}",
            self.header.id, self.again
        );
        self.ask(&files, "in", is_named, &help)
    }

    fn ask(&self, what: &str, how: &str, is_named: bool, help: &str) -> Result<(), Failure> {
        if self.yes || (is_named && !self.ui.can_ask()) {
            return Ok(());
        }
        let question = format!("Take this back {how} {what}?");
        self.ui.must_agree(&question, "nothing was changed", help)
    }

    /// Why a restore ended in the middle, and how to go on.
    pub(crate) fn broken_off(&self, error: RecordError) -> Failure {
        Failure::from(error).after(&format!(
            "what went back before that stays so; `lastmaker restore {}{}` goes on",
            self.header.id, self.again
        ))
    }
}
