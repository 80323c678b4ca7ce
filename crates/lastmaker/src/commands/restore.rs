//! `lastmaker restore`.

use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};

use clap::ValueEnum;
use lastmaker_core::answers::{
    FoundRecord, RestorePlan, RestoreRefusal, RestoreWish, find_record, history, take_back,
};
use lastmaker_core::record::{
    ChangedPolicy, Kind, Step, Store, Timestamp, Watch, is_name, is_record,
};
use lastmaker_core::tree::Scope;

use crate::exit::{CommandResult, Failure, Outcome};
use crate::interrupt::with_files_in_hand;
use crate::render::{Page, answer, count, written};
use crate::shared::{RecordArgs, TalkArgs, mebibytes, place};
use crate::ui::{Ui, shown};

/// Put the originals of a record back, all or in part
///
/// Without a record it is the latest rewrite that is not taken back of what lies in the present
/// folder, or under the paths given. Files that a program has saved since are named and left,
/// unless --changed says what to do with them. Whatever is replaced goes into a record of its own
/// first, so that a restore can be taken back too.
#[derive(Debug, clap::Args)]
pub(crate) struct RestoreArgs {
    /// The record, as `history` names it, or its folder; then files and folders, if only those
    /// are to go back
    #[arg(value_name = "RECORD|PATH")]
    what: Vec<PathBuf>,
    /// What to do with files that were saved again since
    #[arg(long, value_enum, default_value_t, value_name = "HOW")]
    changed: Changed,
    /// Take back only what the move from this old place changed
    #[arg(long, value_name = "PLACE")]
    move_from: Option<String>,
    /// Only files of this name or path
    #[arg(long, value_name = "GLOB")]
    only: Vec<String>,
    /// Leave out files and folders of this name or path
    #[arg(long, value_name = "GLOB")]
    skip: Vec<String>,
    /// Show what would be done, and do nothing
    #[arg(long)]
    preview: bool,
    /// Do not ask
    #[arg(long)]
    yes: bool,
    /// A folder that the record names is called otherwise here
    #[arg(long, value_name = "OLD=NEW", help_heading = "Records")]
    from_dir: Vec<String>,
    /// The largest document that is taken back in part, in MiB
    #[arg(long, value_name = "MIB", default_value_t = 256)]
    max_document: u64,
    #[command(flatten)]
    records: RecordArgs,
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

pub(crate) fn run(args: &RestoreArgs, talk: &TalkArgs) -> CommandResult {
    let store = args.records.store()?;
    let ui = talk.ui();
    let wish = args.wish(&store)?;
    let found = find(args, &wish, &store, &ui)?;
    if found.manifest.header.kind == Kind::Bridge {
        return take_links_back(args, talk, &found, &store, &ui);
    }
    let mut out = ui.results(talk.out.as_deref())?;
    let plan = RestorePlan::new(&found, &wish)?;
    let report = if args.preview {
        plan.into_report()
    } else {
        confirm(args, &wish, &plan, &found, &ui)?;
        let files = plan.files() as u64;
        let counter = AtomicU64::new(0);
        let made = |made: usize| {
            counter.fetch_add(made as u64, Ordering::Relaxed);
        };
        ui.watch("Files restored:", &counter, Some(files), || {
            with_files_in_hand(|stop| {
                plan.commit(&store, Timestamp::now(), &Watch { made: &made, stop })
            })
        })
        .map_err(|error| {
            let record = &found.manifest.header.id;
            Failure::from(error).after(&format!(
                "what went back before that stays so; `lastmaker restore {record}{}` goes on",
                args.records.again()
            ))
        })?
    };
    let told = answer(talk.how(), &mut out, args.records.again(), &report);
    told.map_err(|failure| {
        let done = report.restored.len() + report.edits_taken_back.len();
        failure.after(&format!("{} went back all the same", count(done, "file")))
    })
}

/// Takes back what was done to links.
fn take_links_back(
    args: &RestoreArgs,
    talk: &TalkArgs,
    found: &FoundRecord,
    store: &Store,
    ui: &Ui,
) -> CommandResult {
    let header = &found.manifest.header;
    ui.say(format!("Record {}:", header.id));
    let stands = |step: &&Step| step.is_of_link() && step.stands();
    let links: Vec<&Step> = found.manifest.steps_done().filter(stands).collect();
    for link in &links {
        ui.say(format!("  {}", shown(&link.path().to_string_lossy())));
    }
    if args.preview {
        return Ok(Outcome::Clean);
    }
    if !args.yes && (ui.can_ask() || args.what.is_empty()) {
        let question = format!("Take this back for {}?", count(links.len(), "link"));
        let help = format!(
            "run again with --yes, or name the record: lastmaker restore {}",
            header.id
        );
        ui.must_agree(&question, "nothing was changed", &help)?;
    }
    let report = with_files_in_hand(|stop| {
        let watch = Watch {
            made: &|_| {},
            stop,
        };
        take_back(&found.manifest, store, Timestamp::now(), &watch)
    })?;
    let mut out = ui.results(talk.out.as_deref())?;
    answer(talk.how(), &mut out, args.records.again(), &report)
}

impl RestoreArgs {
    fn wish(&self, store: &Store) -> Result<RestoreWish, Failure> {
        let (record, paths) = match self.what.split_first() {
            Some((first, rest)) if is_meant_as_record(first, store) => {
                (Some(first.to_string_lossy().into_owned()), rest)
            }
            _ => (None, &self.what[..]),
        };
        let here = [PathBuf::from(".")];
        let paths = match (&record, paths) {
            (None, []) => &here[..],
            (_, paths) => paths,
        };
        let paths = paths.iter().map(|path| canonical(path));
        let move_from = self.move_from.as_deref();
        let move_from = move_from.map(|from| place("--move-from", from));
        let from_dirs = self.from_dir.iter().map(|one| from_dir(one));
        Ok(RestoreWish {
            record,
            paths: paths.collect::<Result<_, _>>()?,
            scope: Scope::new(Vec::new(), &self.skip, &self.only)
                .map_err(|fault| Failure::new(fault.to_string()))?,
            move_from: move_from.transpose()?,
            policy: self.changed.policy(),
            from_dirs: from_dirs.collect::<Result<_, _>>()?,
            max_document: mebibytes(self.max_document),
        })
    }
}

/// Whether the first argument is a record rather than a file or folder.
fn is_meant_as_record(first: &Path, store: &Store) -> bool {
    let text = first.to_string_lossy();
    is_name(&text) || is_record(first) || is_record(&store.folder().join(first))
}

/// A path in canonical form, also of what is gone.
fn canonical(path: &Path) -> Result<PathBuf, Failure> {
    let absolute = std::path::absolute(path)
        .map_err(|error| Failure::new(format!("{}: {error}", path.display())))?;
    for above in absolute.ancestors() {
        if let (Ok(known), Ok(below)) = (above.canonicalize(), absolute.strip_prefix(above)) {
            return Ok(if below.as_os_str().is_empty() {
                known
            } else {
                known.join(below)
            });
        }
    }
    Ok(absolute)
}

/// What `--from-dir` says.
fn from_dir(written: &str) -> Result<(PathBuf, PathBuf), Failure> {
    let parts = written.split_once('=');
    let Some((old, new)) = parts.filter(|(old, new)| !old.is_empty() && !new.is_empty()) else {
        return Err(Failure::new(format!(
            "--from-dir: {written:?} is not of the form OLD=NEW"
        )));
    };
    let new = Path::new(new).canonicalize().map_err(|error| {
        Failure::with_help(
            format!("--from-dir: {new} cannot be found: {error}"),
            "say where the folder is seen on this machine",
        )
    })?;
    Ok((PathBuf::from(old), new))
}

/// The record that is meant.
fn find(
    args: &RestoreArgs,
    wish: &RestoreWish,
    store: &Store,
    ui: &Ui,
) -> Result<FoundRecord, Failure> {
    let found = find_record(store, wish, !args.preview);
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

fn confirm(
    args: &RestoreArgs,
    wish: &RestoreWish,
    plan: &RestorePlan<'_>,
    found: &FoundRecord,
    ui: &Ui,
) -> Result<(), Failure> {
    if plan.files() == 0 {
        return Ok(());
    }
    let header = &found.manifest.header;
    ui.say(format!("Record {}:", header.id));
    for one in &header.moves {
        ui.say(format!("  {}", shown(one)));
    }
    let folder = plan.folder().unwrap_or_default();
    let what = format!("{} under {}", count(plan.files(), "file"), shown(&folder));
    ui.say(format!("  {what}"));
    if args.yes {
        return Ok(());
    }
    // Who names a record in a script has said what is meant.
    if !ui.can_ask() && wish.record.is_some() {
        return Ok(());
    }
    let help = format!(
        "look with --preview, then run again with --yes, or name the record: lastmaker restore {}{}",
        header.id,
        args.records.again()
    );
    let question = format!("Take this back in {}?", count(plan.files(), "file"));
    ui.must_agree(&question, "nothing was changed", &help)
}
