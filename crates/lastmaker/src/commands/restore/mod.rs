//! `lastmaker restore`.

mod wish;

use lastmaker_core::answers::{RestorePlan, take_back};
use lastmaker_core::record::{Kind, Timestamp};

use self::wish::WishArgs;
use crate::changing::restoring::{Confirmation, find, links_that_stand};
use crate::changing::{changing_files, changing_links};
use crate::exit::{CommandResult, Outcome};
use crate::render::{answer, count};
use crate::shared::{RecordArgs, TalkArgs};

/// Put the originals of a record back, all or in part
///
/// Without a record it is the latest rewrite that is not taken back of what lies in the present
/// folder, or under the paths given. Files that a program has saved since are named and left,
/// unless --changed says what to do with them. Whatever is replaced goes into a record of its own
/// first, so that a restore can be taken back too.
#[derive(Debug, clap::Args)]
pub(crate) struct RestoreArgs {
    #[command(flatten)]
    wish: WishArgs,
    /// Show what would be done, and do nothing
    #[arg(long)]
    preview: bool,
    /// Do not ask
    #[arg(long)]
    yes: bool,
    #[command(flatten)]
    records: RecordArgs,
}

pub(crate) fn run(args: &RestoreArgs, talk: &TalkArgs) -> CommandResult {
    let ui = talk.ui();
    let again = args.records.again();
    let store = args.records.store()?;
    let wish = args.wish.wish(&store)?;
    let found = find(&wish, !args.preview, &store, &ui)?;
    let confirmation = Confirmation {
        header: &found.manifest.header,
        yes: args.yes,
        again: &again,
        ui: &ui,
    };
    if found.manifest.header.kind == Kind::Bridge {
        let links = links_that_stand(&found.manifest, &ui);
        if args.preview {
            return Ok(Outcome::Clean);
        }
        confirmation.of_links(links, !args.wish.what.is_empty())?;
        let report =
            changing_links(|watch| take_back(&found.manifest, &store, Timestamp::now(), watch))?;
        let mut out = ui.results(talk.out.as_deref())?;
        return answer(talk.how(), &mut out, again, &report);
    }
    let mut out = ui.results(talk.out.as_deref())?;
    let plan = RestorePlan::new(&found, &wish)?;
    let report = if args.preview {
        plan.into_report()
    } else {
        confirmation.of_files(&plan, wish.record.is_some())?;
        let files = plan.files();
        changing_files(&ui, "Files restored:", files, |watch| {
            plan.commit(&store, Timestamp::now(), watch)
        })
        .map_err(|error| confirmation.broken_off(error))?
    };
    let done = report.restored.len() + report.edits_taken_back.len();
    answer(talk.how(), &mut out, again, &report).map_err(|failure| {
        failure.after(&format!("{} went back all the same", count(done, "file")))
    })
}
