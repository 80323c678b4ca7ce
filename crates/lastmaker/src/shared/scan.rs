//! What is looked at, and how it is read.

use std::io::Read;
use std::path::{Path, PathBuf};
use std::time::Duration;

use lastmaker_core::answers::RewriteRefusal;
use lastmaker_core::base::limits::Resources;
use lastmaker_core::base::threads::processors;
use lastmaker_core::job::{JobBuilder, SaidPortable, Workspace};
use lastmaker_core::record::Store;
use lastmaker_core::sheet::{PortableFiles, Sheet};
use lastmaker_core::text::Encoding;
use lastmaker_core::tree::Scope;

use super::{SheetOptions, TalkArgs, mebibytes, must_exist};
use crate::environment;
use crate::exit::Failure;
use crate::ui::{Ui, quoted, shown};

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
    /// most; larger text is read in pieces where its format allows it, and else left and named
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
        default_value_t = 768,
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
    /// A setup at which these files are read so.
    pub(crate) fn setup(&self, ui: Ui, sheet: Sheet, mut scope: Scope) -> Result<Setup, Failure> {
        for one in &self.read_as {
            scope
                .read_as(one)
                .map_err(|fault| Failure::new(format!("--read-as: {fault}")))?;
        }
        let patience = (!self.patient).then(|| Duration::from_secs(PATIENCE));
        let resources = Resources::new(mebibytes(self.max_memory), patience);
        Ok(Setup {
            max_document: mebibytes(self.max_document),
            portable: sheet
                .portable
                .iter()
                .map(said_portable)
                .collect::<Result<_, _>>()?,
            ui,
            workspace: Workspace::new(sheet, scope).with_resources(resources),
            encoding: self.encoding.as_deref().map(encoding).transpose()?,
            thorough: false,
            jobs: 1,
            typed: Vec::new(),
        })
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
    asked.unwrap_or_else(processors)
}

/// What is looked at, and how.
#[derive(Debug, clap::Args)]
pub(crate) struct ScanArgs {
    /// Files and folders to look at, hidden ones included; else those of the sheet
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,
    /// Look at the files named in this file, one on each line, or on standard input (`-`)
    #[arg(
        long,
        value_name = "FILE",
        conflicts_with = "paths",
        help_heading = "What is looked at"
    )]
    files_from: Option<PathBuf>,
    /// The names that --files-from reads end with a null byte
    #[arg(
        short = '0',
        long = "null",
        requires = "files_from",
        help_heading = "What is looked at"
    )]
    null: bool,
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
}

/// Everything that a run over a tree rests on.
#[derive(Debug)]
pub(crate) struct Setup {
    pub(crate) ui: Ui,
    pub(crate) workspace: Workspace,
    pub(super) portable: Vec<SaidPortable>,
    encoding: Option<Encoding>,
    thorough: bool,
    max_document: u64,
    jobs: usize,
    /// Globs from the command line.
    typed: Vec<String>,
}

impl ScanArgs {
    /// Takes what was typed: reads the sheet, compiles the globs.
    pub(crate) fn setup(&self, talk: &TalkArgs, records: Option<&Store>) -> Result<Setup, Failure> {
        let ui = talk.ui();
        let sheet = self.sheet.read(&ui, None)?;
        let paths = match &self.files_from {
            Some(list) => named_in(list, self.null)?,
            None if self.paths.is_empty() => sheet.paths.clone(),
            None => self.paths.clone(),
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
        let own = [talk.out.as_deref(), records.map(Store::folder)];
        let scope = scope(&sheet, paths, [&self.skip, &self.only], own)?;
        if sheet.is_repeatable() {
            ui.mention("The sheet is repeatable: a second rewrite finds nothing.");
        } else {
            ui.mention("A new place lies under an old one: the record keeps which files have been through it.");
        }
        Ok(Setup {
            thorough: self.thorough,
            jobs: threads(self.jobs),
            typed: self.skip.iter().chain(&self.only).cloned().collect(),
            ..self.reading.setup(ui, sheet, scope)?
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

impl Setup {
    /// Begins a run as the options have it.
    pub(crate) fn job(&self) -> JobBuilder<'_> {
        self.workspace
            .job()
            .encoding(self.encoding)
            .thorough(self.thorough)
            .max_document(self.max_document)
            .threads(self.jobs)
    }

    /// Runs `work` over the files with a progress line, and says which globs matched nothing.
    pub(crate) fn watch<T>(&self, what: &'static str, work: impl FnOnce() -> T) -> T {
        let done = self.ui.watch(what, self.workspace.looked_at(), None, work);
        let typed = |glob: &&str| self.typed.iter().any(|one| one == glob);
        for glob in self.workspace.scope().unmatched().filter(typed) {
            self.ui.say(format!(
                "No file or folder matches {}.",
                quoted(&shown(glob))
            ));
        }
        done
    }

    /// Whether there are files to look at.
    pub(crate) fn looks_at_files(&self) -> bool {
        !self.workspace.scope().paths.is_empty()
    }

    /// Leaves a file or folder out of what is looked at.
    pub(crate) fn protect(&mut self, path: &Path) {
        self.workspace.scope_mut().protect(path);
    }

    /// Refuses to go on without moves.
    pub(crate) fn need_moves(&self) -> Result<(), Failure> {
        if self.workspace.sheet().moves.is_empty() {
            return Err(RewriteRefusal::NoMoves.into());
        }
        Ok(())
    }
}

/// The paths that a list names; `null` says that each ends with a null byte, not with its line.
fn named_in(list: &Path, null: bool) -> Result<Vec<PathBuf>, Failure> {
    let failed = |error: std::io::Error| {
        Failure::with_help(
            format!("--files-from: {} cannot be read: {error}", list.display()),
            "name a file with one path on each line, or - for standard input",
        )
    };
    let mut bytes = Vec::new();
    if list.as_os_str() == "-" {
        std::io::stdin().read_to_end(&mut bytes).map_err(failed)?
    } else {
        std::fs::File::open(list)
            .and_then(|mut file| file.read_to_end(&mut bytes))
            .map_err(failed)?
    };
    let end = if null { 0 } else { b'\n' };
    let names = bytes.split(|byte| *byte == end);
    let names = names.map(|name| {
        if null {
            name
        } else {
            name.strip_suffix(b"\r").unwrap_or(name)
        }
    });
    Ok(names
        .filter(|name| !name.is_empty())
        .map(environment::path_of_bytes)
        .collect())
}

fn encoding(name: &str) -> Result<Encoding, Failure> {
    Encoding::for_label(name).ok_or_else(|| {
        Failure::with_help(
            format!("the encoding {name:?} is not known"),
            "use a name of the WHATWG Encoding Standard, such as windows-1252, windows-1251, shift_jis or utf-8",
        )
    })
}
