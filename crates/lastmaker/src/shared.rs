//! Options that most commands take, as typed and as meant.

use std::path::{Path, PathBuf};
use std::sync::atomic::AtomicU64;
use std::time::Duration;

use lastmaker_core::answers::RewriteRefusal;
use lastmaker_core::job::{Job, Portable, RelativeReferences, SaidPortable};
use lastmaker_core::limits::Means;
use lastmaker_core::place::Place;
use lastmaker_core::record::Store;
use lastmaker_core::resolve::Resolver;
use lastmaker_core::sheet::{self, PortableFiles, Sheet};
use lastmaker_core::text::Encoding;
use lastmaker_core::tree::Scope;

use crate::environment;
use crate::exit::Failure;
use crate::render::{How, forms};
use crate::ui::{Color, Ui, quoted, shown};

/// How a command talks.
#[derive(Debug, clap::Args)]
pub(crate) struct TalkArgs {
    /// How results are written
    #[arg(
        long,
        value_parser = forms::parser(),
        default_value = forms::usual(),
        value_name = "FORMAT",
        help_heading = "Output"
    )]
    pub(crate) format: forms::Asked,
    /// Write the results to a new file instead of standard output
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) out: Option<PathBuf>,
    /// When to use colours
    #[arg(
        long,
        value_enum,
        default_value_t,
        value_name = "WHEN",
        help_heading = "Output"
    )]
    pub(crate) color: Color,
    /// Say nothing but results and errors
    #[arg(short, long, help_heading = "Output")]
    pub(crate) quiet: bool,
    /// Say more
    #[arg(short, long, help_heading = "Output")]
    pub(crate) verbose: bool,
}

impl TalkArgs {
    /// How answers are wanted.
    pub(crate) fn how(&self) -> How {
        How {
            form: self.format,
            verbose: self.verbose,
        }
    }

    pub(crate) fn ui(&self) -> Ui {
        Ui::new(self.color, self.quiet, self.verbose)
    }
}

/// What moved, and what is seen where.
#[derive(Debug, clap::Args)]
pub(crate) struct SheetOptions {
    /// The sheet that says what moved; else `moves.toml` in this folder, if it is there
    #[arg(long, value_name = "FILE", help_heading = "What moved")]
    pub(crate) sheet: Option<PathBuf>,
    /// Use no sheet, even if `moves.toml` is here
    #[arg(long, conflicts_with = "sheet", help_heading = "What moved")]
    pub(crate) no_sheet: bool,
    /// A move, beside those of the sheet; split at the first `=` with a place on both sides
    #[arg(long = "move", value_name = "OLD=NEW", help_heading = "What moved")]
    pub(crate) moves: Vec<String>,
    /// Where a place is seen from this machine
    #[arg(long, value_name = "PLACE=DIR", help_heading = "What moved")]
    pub(crate) seen_at: Vec<String>,
    /// The files belong to another machine: its drives are not this machine's
    #[arg(long, help_heading = "What moved")]
    pub(crate) elsewhere: bool,
}

impl SheetOptions {
    /// Reads the sheet, `named` if a command names one by itself, and adds what the command
    /// line says.
    pub(crate) fn read(&self, ui: &Ui, named: Option<&Path>) -> Result<Sheet, Failure> {
        let usual = Path::new("moves.toml");
        let file = match named.or(self.sheet.as_deref()) {
            Some(file) => Some(file),
            None if !self.no_sheet && usual.is_file() => {
                ui.say("Using the sheet moves.toml in this folder (--no-sheet uses none).");
                Some(usual)
            }
            None => None,
        };
        let mut sheet = match file {
            Some(file) => read_sheet(file)?,
            None => Sheet::default(),
        };
        for one in &self.moves {
            sheet
                .add_move(one)
                .map_err(|fault| Failure::new(format!("--move: {fault}")))?;
        }
        for one in &self.seen_at {
            sheet
                .add_seen_at(one, Path::new(""))
                .map_err(|fault| Failure::new(format!("--seen-at: {fault}")))?;
        }
        if let Some((_, fault)) = sheet.faults().first() {
            return Err(Failure::new(format!(
                "the moves do not fit together: {fault}"
            )));
        }
        if self.elsewhere {
            sheet.native = false;
        }
        Ok(sheet)
    }
}

/// Reads a sheet, or says everything that is wrong with it.
fn read_sheet(file: &Path) -> Result<Sheet, Failure> {
    let bytes = std::fs::read(file).map_err(|error| {
        Failure::with_help(
            format!("the sheet {} cannot be read: {error}", file.display()),
            "`lastmaker sheet --move OLD=NEW` prints one to begin with",
        )
    })?;
    sheet::read(&bytes, file).map_err(|faults| {
        let lines = faults
            .iter()
            .map(|fault| format!("{}:{}: {}", file.display(), fault.line, fault.what));
        Failure::Said {
            message: "the sheet cannot be used:".to_owned(),
            more: lines.collect(),
            help: Some("nothing was changed; correct these lines and run again".to_owned()),
        }
    })
}

/// Which doubts are accepted.
#[derive(Debug, clap::Args)]
pub(crate) struct AcceptArgs {
    /// Change what is doubtful in this line all the same
    #[arg(long, value_name = "FILE:LINE[:COLUMN]", help_heading = "What moved")]
    accept: Vec<String>,
    /// Change what is doubtful for this reason all the same; its name stands beside each doubt
    #[arg(long, value_name = "NAME", help_heading = "What moved")]
    accept_reason: Vec<String>,
}

impl AcceptArgs {
    /// Adds what the command line accepts to what the sheet does.
    pub(crate) fn add_to(&self, sheet: &mut Sheet) -> Result<(), Failure> {
        for site in &self.accept {
            let added = sheet.accept.add_site(site, Path::new(""));
            added.map_err(|fault| Failure::new(format!("--accept: {fault}")))?;
        }
        for name in &self.accept_reason {
            let added = sheet.accept.add_reason(name);
            added.map_err(|fault| Failure::new(format!("--accept-reason: {fault}")))?;
        }
        Ok(())
    }
}

/// How files are read.
#[derive(Debug, clap::Args)]
pub(crate) struct ReadingArgs {
    /// The encoding of eight-bit text whose bytes do not show it
    #[arg(long, value_name = "NAME", help_heading = "What is looked at")]
    encoding: Option<String>,
    /// Read files of this name or path as this format (`lastmaker formats` lists them)
    #[arg(long, value_name = "GLOB=FORMAT", help_heading = "What is looked at")]
    read_as: Vec<String>,
    /// The largest document that is read as a whole, in MiB, and a third of --max-memory at the
    /// most; larger text is read in pieces
    #[arg(
        long,
        value_name = "MIB",
        default_value_t = 256,
        help_heading = "What is looked at"
    )]
    max_document: u64,
    /// Memory for the files in hand, in MiB; a file that needs more is left
    #[arg(
        long,
        value_name = "MIB",
        default_value_t = 600,
        help_heading = "What is looked at"
    )]
    max_memory: u64,
    /// Give every file the time that it takes, not ten seconds
    #[arg(long, help_heading = "What is looked at")]
    patient: bool,
}

/// How long one file may take, in seconds.
const PATIENCE: u64 = 10;

impl ReadingArgs {
    /// A desk at which these files are read so.
    pub(crate) fn desk(&self, ui: Ui, sheet: Sheet, mut scope: Scope) -> Result<Desk, Failure> {
        for one in &self.read_as {
            scope
                .read_as(one)
                .map_err(|fault| Failure::new(format!("--read-as: {fault}")))?;
        }
        let patience = (!self.patient).then(|| Duration::from_secs(PATIENCE));
        let means = Means::new(mebibytes(self.max_memory), patience);
        Ok(Desk {
            max_document: mebibytes(self.max_document).min(means.largest_document()),
            means,
            resolver: Resolver::new(&sheet),
            portable: sheet
                .portable
                .iter()
                .map(said_portable)
                .collect::<Result<_, _>>()?,
            ui,
            sheet,
            scope,
            encoding: self.encoding.as_deref().map(encoding).transpose()?,
            thorough: false,
            jobs: 1,
            looked_at: AtomicU64::new(0),
        })
    }
}

/// What references are written as beside the new place in full.
#[derive(Debug, clap::Args)]
pub(crate) struct SpellingArgs {
    /// Write references relative to their document where both lie under the same new place, in formats whose
    /// programs are known to take that; the sheet names others under `portable`
    #[arg(long, help_heading = "What moved")]
    pub(crate) portable: bool,
    /// Mend references relative to their document that lead nowhere since it or what they name has moved, in
    /// the same formats
    #[arg(long, help_heading = "What moved")]
    pub(crate) relative: bool,
    /// Have relative references, in the same formats, name in full what they lead to, so that their documents
    /// can be moved alone
    #[arg(long, conflicts_with_all = ["relative", "portable"], help_heading = "What moved")]
    pub(crate) absolute: bool,
}

impl SpellingArgs {
    /// A job as these options have it.
    pub(crate) fn job<'d>(&self, desk: &'d Desk, job: Job<'d>) -> Job<'d> {
        Job {
            relative: match (self.absolute, self.relative) {
                (true, _) => RelativeReferences::InFull,
                (false, true) => RelativeReferences::Mended,
                (false, false) => RelativeReferences::Left,
            },
            portable: Portable {
                known: self.portable,
                said: &desk.portable,
            },
            ..job
        }
    }
}

fn said_portable(portable: &PortableFiles) -> Result<SaidPortable, Failure> {
    let files = Scope::new(Vec::new(), &[], &portable.files)
        .map_err(|fault| Failure::new(format!("[[portable]]: {fault}")))?;
    Ok(SaidPortable {
        files,
        variables: portable.variables,
    })
}

/// How many threads are used: as many as were asked for, else one for each processor.
pub(crate) fn threads(asked: Option<usize>) -> usize {
    asked.unwrap_or_else(|| std::thread::available_parallelism().map_or(1, usize::from))
}

/// A place that an argument names.
pub(crate) fn place(argument: &str, written: &str) -> Result<Place, Failure> {
    Place::parse(written)
        .map_err(|fault| Failure::new(format!("{argument}: {written:?} is no place: {fault}")))
}

/// A limit given in MiB, in bytes.
pub(crate) fn mebibytes(limit: u64) -> u64 {
    limit.saturating_mul(1 << 20)
}

/// What is looked at, and how.
#[derive(Debug, clap::Args)]
pub(crate) struct ScanArgs {
    /// Files and folders to look at, hidden ones included; else those of the sheet
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) sheet: SheetOptions,
    /// Leave out files and folders of this name or path
    #[arg(long, value_name = "GLOB", help_heading = "What is looked at")]
    pub(crate) skip: Vec<String>,
    /// Look only at files of this name or path
    #[arg(long, value_name = "GLOB", help_heading = "What is looked at")]
    pub(crate) only: Vec<String>,
    /// Read everything, also what is ruled out by its first bytes
    #[arg(long, help_heading = "What is looked at")]
    pub(crate) thorough: bool,
    #[command(flatten)]
    pub(crate) reading: ReadingArgs,
    /// Number of threads; else one for each processor
    #[arg(long, value_name = "N", help_heading = "What is looked at")]
    pub(crate) jobs: Option<usize>,
    #[command(flatten)]
    pub(crate) talk: TalkArgs,
}

/// Everything that a run over a tree rests on.
#[derive(Debug)]
pub(crate) struct Desk {
    pub(crate) ui: Ui,
    pub(crate) sheet: Sheet,
    scope: Scope,
    portable: Vec<SaidPortable>,
    resolver: Resolver,
    encoding: Option<Encoding>,
    thorough: bool,
    max_document: u64,
    means: Means,
    jobs: usize,
    pub(crate) looked_at: AtomicU64,
}

impl ScanArgs {
    /// Means what was typed: reads the sheet, compiles the globs.
    pub(crate) fn desk(&self, records: Option<&Store>) -> Result<Desk, Failure> {
        let ui = self.talk.ui();
        let sheet = self.sheet.read(&ui, None)?;
        let paths = if self.paths.is_empty() {
            sheet.paths.clone()
        } else {
            self.paths.clone()
        };
        if paths.is_empty() {
            return Err(Failure::with_help(
                "there is nothing to look at",
                "name a file or folder, or give the sheet [scan] paths = ['…']",
            ));
        }
        for path in &paths {
            must_exist(path)?;
        }
        let own = [self.talk.out.as_deref(), records.map(Store::folder)];
        let scope = scope(&sheet, paths, [&self.skip, &self.only], own)?;
        if sheet.is_repeatable() {
            ui.mention("The sheet is repeatable: a second rewrite finds nothing.");
        } else {
            ui.mention("A new place lies under an old one: the record keeps which files have been through it.");
        }
        Ok(Desk {
            thorough: self.thorough,
            jobs: threads(self.jobs),
            ..self.reading.desk(ui, sheet, scope)?
        })
    }
}

/// What is looked at: these paths, by the globs to skip and those to keep to, but for the sheet and what is a
/// run's own.
pub(crate) fn scope(
    sheet: &Sheet,
    paths: Vec<PathBuf>,
    [skip, only]: [&[String]; 2],
    own: [Option<&Path>; 2],
) -> Result<Scope, Failure> {
    let skip: Vec<String> = sheet.skip.iter().chain(skip).cloned().collect();
    let mut scope =
        Scope::new(paths, &skip, only).map_err(|fault| Failure::new(fault.to_string()))?;
    for path in [sheet.file.as_deref()].into_iter().chain(own).flatten() {
        scope.protect(path);
    }
    Ok(scope)
}

impl Desk {
    pub(crate) fn job(&self, history_files: bool, repair: bool) -> Job<'_> {
        Job {
            sheet: &self.sheet,
            scope: &self.scope,
            resolver: &self.resolver,
            encoding: self.encoding,
            thorough: self.thorough,
            history_files,
            repair,
            existing_only: false,
            portable: Portable::default(),
            relative: RelativeReferences::Left,
            max_document: self.max_document,
            means: &self.means,
            jobs: self.jobs,
            looked_at: &self.looked_at,
        }
    }

    /// Whether there are files to look at.
    pub(crate) fn looks_at_files(&self) -> bool {
        !self.scope.paths.is_empty()
    }

    /// Leaves a file or folder out of what is looked at.
    pub(crate) fn protect(&mut self, path: &Path) {
        self.scope.protect(path);
    }

    /// Refuses to go on without moves.
    pub(crate) fn need_moves(&self) -> Result<(), Failure> {
        if self.sheet.moves.is_empty() {
            return Err(RewriteRefusal::NoMoves.into());
        }
        Ok(())
    }
}

fn encoding(name: &str) -> Result<Encoding, Failure> {
    Encoding::for_label(name).ok_or_else(|| {
        Failure::with_help(
            format!("the encoding {name:?} is not known"),
            "use a name of the WHATWG Encoding Standard, such as windows-1252, windows-1251, shift_jis or utf-8",
        )
    })
}

/// Refuses a path that is not there.
pub(crate) fn must_exist(path: &Path) -> Result<(), Failure> {
    explain_swallowed_quote(path)?;
    if path.symlink_metadata().is_err() {
        return Err(Failure::with_help(
            format!("{} does not exist", path.display()),
            "check the spelling; nothing was looked at",
        ));
    }
    Ok(())
}

/// `"D:\My Data\"` reaches a program with a quote at its end.
fn explain_swallowed_quote(path: &Path) -> Result<(), Failure> {
    let text = path.to_string_lossy();
    if text.contains('"') && !path.exists() {
        return Err(Failure::with_help(
            format!("{text:?} holds a quote"),
            "the shell took the backslash before the closing quote for an escape; leave that backslash out",
        ));
    }
    Ok(())
}

/// Where records are kept.
#[derive(Debug, clap::Args)]
pub(crate) struct RecordArgs {
    /// The folder in which originals are kept; else one in this user's state folder
    #[arg(long, value_name = "FOLDER", help_heading = "Records")]
    pub(crate) record_dir: Option<PathBuf>,
}

impl RecordArgs {
    pub(crate) fn store(&self) -> Result<Store, Failure> {
        Ok(Store::new(match &self.record_dir {
            Some(folder) => std::path::absolute(folder)?,
            None => environment::default_records()?,
        }))
    }

    /// The option that finds the same records again.
    pub(crate) fn again(&self) -> String {
        match &self.record_dir {
            Some(folder) => format!(
                " --record-dir {}",
                quoted(&shown(&folder.to_string_lossy()))
            ),
            None => String::new(),
        }
    }
}
