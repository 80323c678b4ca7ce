//! What somebody may have meant who typed an option or a command that there is not.

use clap::error::{ContextKind, ContextValue, ErrorKind};

/// Words of other programs for what is called otherwise here.
const OPTIONS: [(&str, &str); 22] = [
    ("--exclude", "--skip GLOB leaves files out"),
    ("--ignore", "--skip GLOB leaves files out"),
    ("--include", "--only GLOB keeps to some files"),
    (
        "--glob",
        "--only GLOB keeps to some files, --skip GLOB leaves some out",
    ),
    (
        "--dry-run",
        "`lastmaker preview` shows what a rewrite would change",
    ),
    (
        "--force",
        "--yes does not ask; --anyway goes on although hardly any new place exists",
    ),
    ("--from", "--move OLD=NEW says what moved"),
    ("--to", "--move OLD=NEW says what moved"),
    ("--replace", "--move OLD=NEW says what moved"),
    ("--old", "--move OLD=NEW says what moved"),
    ("--new", "--move OLD=NEW says what moved"),
    (
        "--map",
        "--move OLD=NEW says what moved; --seen-at PLACE=DIR says where a place is mounted",
    ),
    (
        "--backup",
        "a rewrite always keeps the originals in a record; `lastmaker restore` puts them back",
    ),
    (
        "--no-backup",
        "a rewrite always keeps the originals; `lastmaker history --forget` removes them later",
    ),
    ("--undo", "`lastmaker restore` takes a rewrite back"),
    ("--output", "--out FILE writes the results to a file"),
    ("--json", "--format json writes for programs"),
    ("--csv", "--format csv writes for spreadsheets"),
    ("--html", "--format html writes a page to hand over"),
    (
        "--config",
        "--sheet FILE names the sheet that says what moved",
    ),
    ("--threads", "--jobs N sets the number of threads"),
    (
        "--recursive",
        "folders are looked at with all that is in them",
    ),
];

/// Likewise for commands.
const COMMANDS: [(&str, &str); 12] = [
    ("undo", "restore"),
    ("revert", "restore"),
    ("rollback", "restore"),
    ("scan", "survey"),
    ("search", "survey"),
    ("find", "survey"),
    ("replace", "rewrite"),
    ("fix", "rewrite"),
    ("verify", "check"),
    ("diff", "preview"),
    ("list", "survey"),
    ("link", "bridge"),
];

/// What may have been meant, if something is known of it.
pub(crate) fn meant(error: &clap::Error) -> Option<String> {
    let typed = |kind| match error.get(kind) {
        Some(ContextValue::String(typed)) => Some(typed.as_str()),
        _ => None,
    };
    match error.kind() {
        ErrorKind::UnknownArgument => {
            let typed = typed(ContextKind::InvalidArg)?;
            let option = typed.split('=').next().unwrap_or(typed);
            let known = OPTIONS.iter().find(|(name, _)| *name == option);
            known.map(|(_, meant)| (*meant).to_owned())
        }
        ErrorKind::InvalidSubcommand => {
            let typed = typed(ContextKind::InvalidSubcommand)?;
            let known = COMMANDS.iter().find(|(name, _)| *name == typed);
            known.map(|(_, meant)| format!("`lastmaker {meant}` may be what you mean"))
        }
        _ => None,
    }
}
