//! `lastmaker history`.

use std::io::Write;

use lastmaker_core::answers::{Forgotten, forget, history, to_forget};
use lastmaker_core::record::{Record, Store, Timestamp};

use crate::exit::{CommandResult, Failure, Outcome};
use crate::render::{answer, bytes, count, page_of_record};
use crate::shared::{RecordArgs, TalkArgs};
use crate::ui::Ui;

/// List the records on this machine, the oldest first
#[derive(Debug, clap::Args)]
pub(crate) struct HistoryArgs {
    /// Remove this record and its originals, after asking
    #[arg(long, value_name = "RECORD", num_args = 0..=1, help_heading = "Records")]
    forget: Option<Option<String>>,
    /// The page of what a rewrite has changed, as the record has kept it (or, with --format json, the answer itself)
    #[arg(
        long,
        value_name = "RECORD",
        conflicts_with = "forget",
        help_heading = "Records"
    )]
    report: Option<String>,
    /// With --forget: all records that are older than so many days, such as `90d`
    #[arg(
        long,
        value_name = "AGE",
        requires = "forget",
        help_heading = "Records"
    )]
    older_than: Option<String>,
    /// Do not ask
    #[arg(long, help_heading = "Records")]
    yes: bool,
    #[command(flatten)]
    records: RecordArgs,
}

pub(crate) fn run(args: &HistoryArgs, talk: &TalkArgs) -> CommandResult {
    let store = args.records.store()?;
    let ui = talk.ui();
    let mut out = ui.results(talk.out.as_deref())?;
    if let Some(id) = &args.report {
        return report(id, args, talk, &store, &mut *out);
    }
    let which = match (&args.forget, &args.older_than) {
        (None, _) => None,
        (Some(None), Some(age)) => Some(Forgotten::Before(before(age)?)),
        (Some(Some(id)), None) => Some(Forgotten::One(id.clone())),
        (Some(_), _) => {
            return Err(Failure::with_help(
                "what is to be forgotten is not clear",
                "name one record, --forget RECORD, or an age, --forget --older-than 90d",
            ));
        }
    };
    let again = args.records.again();
    match which {
        None => answer(talk.how(), &mut out, again, &history(&store)),
        Some(which) => {
            let records = to_forget(&store, &which)?;
            confirm(args, &records, &ui)?;
            let report = forget(&store, &records);
            answer(talk.how(), &mut out, again, &report)
        }
    }
}

/// Writes what a record tells of its run.
fn report(
    id: &str,
    args: &HistoryArgs,
    talk: &TalkArgs,
    store: &Store,
    out: &mut dyn Write,
) -> CommandResult {
    let unknown = || {
        Failure::with_help(
            format!("there is no record {id} whose run came to its end"),
            "`lastmaker history` lists the records",
        )
    };
    let record = store.list().into_iter().find(|record| record.id == id);
    let record = record.ok_or_else(unknown)?;
    let bytes = record.report().ok_or_else(unknown)?;
    let text = if talk.format.is_for_programs() {
        bytes
    } else {
        page_of_record(&record, &bytes, args.records.again())?.into_bytes()
    };
    out.write_all(&text)?;
    out.flush()?;
    Ok(Outcome::Clean)
}

/// The moment before which a record is older than `age`.
fn before(age: &str) -> Result<Timestamp, Failure> {
    let number = age.strip_suffix('d').unwrap_or(age);
    let days: Option<i64> = number
        .parse()
        .ok()
        .filter(|days| (0..=36_500).contains(days));
    let Some(days) = days else {
        return Err(Failure::with_help(
            format!("--older-than: {age:?} is no number of days"),
            "write it like 90d",
        ));
    };
    let ago = jiff::SignedDuration::from_hours(days * 24);
    Timestamp::now()
        .checked_sub(ago)
        .map_err(|error| Failure::new(format!("--older-than: {error}")))
}

fn confirm(args: &HistoryArgs, records: &[(Record, u64)], ui: &Ui) -> Result<(), Failure> {
    if args.yes || records.is_empty() {
        return Ok(());
    }
    for (record, size) in records {
        ui.say(format!(
            "  {}  {}, {}",
            record.id,
            count(record.files, "file"),
            bytes(*size)
        ));
    }
    let question = format!(
        "Remove {} with the originals? That can never be taken back.",
        count(records.len(), "record")
    );
    ui.must_agree(&question, "nothing was removed", "run again with --yes")
}
