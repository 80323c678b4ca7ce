//! `lastmaker restore`.

use std::sync::atomic::AtomicU64;

use clap::ValueEnum;
use lastmaker_core::answers::{FoundRecord, RestoreRefusal, find_record, restore};
use lastmaker_core::record::{ChangedPolicy, Store, Timestamp};

use crate::exit::{CommandResult, Failure};
use crate::render::answer;
use crate::shared::{RecordArgs, TalkArgs};
use crate::ui::Ui;

/// Put the originals of a record back
///
/// Files that a program has saved since are named and left, unless --changed says what to do
/// with them. Whatever is replaced goes into a record of its own first, so that a restore can
/// be taken back too.
#[derive(Debug, clap::Args)]
pub(crate) struct RestoreArgs {
    /// The record, as `history` names it; else the latest rewrite that was not taken back
    #[arg(value_name = "RECORD")]
    record: Option<String>,
    /// What to do with files that were saved again since
    #[arg(long, value_enum, default_value_t, value_name = "HOW")]
    changed: Changed,
    #[command(flatten)]
    records: RecordArgs,
    #[command(flatten)]
    talk: TalkArgs,
}

#[derive(Clone, Copy, Debug, Default, ValueEnum)]
enum Changed {
    /// Leave them and name them
    #[default]
    Leave,
    /// Put the original back all the same
    Original,
    /// Take back only what the rewrite changed, where it still stands
    Edits,
}

impl Changed {
    fn policy(self) -> ChangedPolicy {
        match self {
            Self::Leave => ChangedPolicy::Leave,
            Self::Original => ChangedPolicy::Original,
            Self::Edits => ChangedPolicy::Edits,
        }
    }
}

pub(crate) fn run(args: &RestoreArgs) -> CommandResult {
    let store = args.records.store()?;
    let ui = args.talk.ui();
    let mut out = ui.results(args.talk.out.as_deref())?;
    let record = find(args, &store, &ui)?.manifest;
    let files = record.done().count() as u64;
    let counter = AtomicU64::new(0);
    let report = ui.watch("Files restored:", &counter, Some(files), || {
        let policy = args.changed.policy();
        restore(&store, &record, policy, Timestamp::now(), &counter)
    })?;
    answer(args.talk.format, &mut out, args.records.again(), &report)
}

/// The record that is meant.
fn find(args: &RestoreArgs, store: &Store, ui: &Ui) -> Result<FoundRecord, Failure> {
    let found = find_record(store, args.record.as_deref());
    let found = found.map_err(|refusal| match refusal {
        RestoreRefusal::Nothing => Failure::with_help(
            refusal.to_string(),
            format!("records are looked for in {}", store.folder().display()),
        ),
        RestoreRefusal::Record(error) => error.into(),
    })?;
    if found.was_broken_off {
        ui.say(format!(
            "The run that made record {} was broken off; what it did is taken back.",
            found.manifest.header.id
        ));
    }
    Ok(found)
}
