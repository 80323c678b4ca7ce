//! The plan for one file: its document, its container, or where it leads if it is a link.

use std::fs::File;
use std::path::{Path, PathBuf};

use crate::container::Budget;
use crate::job::{Job, file_name, name_in_folder};
use crate::layer::Edits;
use crate::place::Hint;
use crate::platform;
use crate::record::{Ledger, LinkKind, hash_link, kind_of_link, target_from};
use crate::report::{LeftFile, Reference, Standing};
use crate::scan::{Content, Document, Entry, LINK, Reading, Sieve, explain};

use super::beside::{in_use, is_beside_database};
use super::content::{Nest, plan_content};
use super::large::plan_large;
use super::plan::{PlanOptions, PlannedReference, plan};

/// What becomes of one file.
#[derive(Debug)]
pub struct FilePlan {
    /// The file as it was found.
    pub path: PathBuf,
    /// Its canonical path; the same as `path` if nothing changes.
    pub canonical: PathBuf,
    /// The format that read it.
    pub format: &'static str,
    /// Name of its encoding.
    pub encoding: &'static str,
    /// Its references that a move touches, in order.
    pub references: Vec<Reference>,
    /// The edits of its bytes; empty if nothing changes.
    pub edits: Edits,
    /// Hash of what was read.
    pub before: blake3::Hash,
    /// Hash of what it will be.
    pub after: blake3::Hash,
    /// Whether it is read-only.
    pub read_only: bool,
    /// Its other names, all within the scope.
    pub links: Vec<PathBuf>,
    /// The moves that it will have been through.
    pub moves: Vec<String>,
    /// What sort of link it is and where it will lead, if it is a link.
    pub link: Option<(LinkKind, PathBuf)>,
    /// Whether its edits make sense only all together: it is a container.
    pub whole: bool,
    /// Whether programs write it piece by piece while they have it open.
    pub in_place: bool,
    pub(super) identity: Option<((u64, u64), u64)>,
    pub(super) history: bool,
}

/// What a file brought.
pub(super) enum Planned {
    File(Box<FilePlan>),
    Left(LeftFile),
}

/// What an earlier rewrite did to a file.
pub(super) struct Earlier {
    moves: Vec<String>,
    after: String,
}

pub(super) fn earlier(ledger: &Ledger, entry: &Entry<'_>) -> Option<Earlier> {
    let canonical = canonical(entry).ok()?;
    let (moves, after) = ledger.applied(&canonical)?;
    Some(Earlier {
        moves: moves.to_vec(),
        after: after.to_owned(),
    })
}

pub(super) fn plan_file(
    job: &Job<'_>,
    sieve: &Sieve,
    entry: &Entry<'_>,
    (earlier, again): (Option<Earlier>, bool),
) -> Result<Vec<Planned>, String> {
    if is_beside_database(entry.path) {
        return Ok(Vec::new());
    }
    let mut done = Vec::new();
    let mut doubt = None;
    if let Some(earlier) = earlier {
        let hash = match entry.content {
            Content::Whole(content) => blake3::hash(content),
            Content::Link(target) => hash_link(target),
            Content::TooLarge => {
                crate::record::hash_file(entry.path).map_err(|error| explain(&error))?
            }
        };
        if hash.to_hex().as_str() == earlier.after {
            done = earlier.moves;
        } else if !again {
            doubt = Some(
                "it was rewritten before and has been saved since, so nobody can tell which of its places \
                 are old; --again applies the moves once more",
            );
        }
    }
    let sheet = if done.is_empty() {
        job.sheet.clone()
    } else {
        job.sheet.without(&done)
    };
    if sheet.moves.is_empty() {
        return Ok(Vec::new());
    }
    let options = PlanOptions {
        sheet: &sheet,
        reading: job.reading(entry),
        repair: job.repair,
    };
    let mut all = read_and_plan(job, sieve, entry, options)?;
    for planned in &mut all {
        if let Planned::File(plan) = planned {
            if let Some(why) = doubt {
                withdraw(plan, Standing::Doubtful, why);
            }
            plan.moves.clone_from(&done);
            plan.moves
                .extend(sheet.moves.iter().map(crate::sheet::Move::identity));
        }
    }
    Ok(all)
}

fn read_and_plan(
    job: &Job<'_>,
    sieve: &Sieve,
    entry: &Entry<'_>,
    options: PlanOptions<'_>,
) -> Result<Vec<Planned>, String> {
    let name = name_in_folder(entry.path);
    let content = match entry.content {
        Content::Whole(content) => content,
        Content::Link(target) => return plan_link(entry, target, options),
        Content::TooLarge => return plan_too_large(entry, options),
    };
    let budget = Budget::new(job.max_document);
    let planned = plan_content(content, &name, options, Nest::new(sieve, &budget));
    let left = planned.left.iter().map(|why| left_file(entry.path, why));
    let mut all: Vec<Planned> = left.map(Planned::Left).collect();
    let before = blake3::hash(content);
    let after = planned.new.as_deref().map_or(before, blake3::hash);
    let references = convert(entry.path, planned.references);
    let mut file = finish(
        entry,
        (planned.format, planned.encoding),
        references,
        planned.edits,
        (before, after),
    )?;
    if let Some(file) = &mut file {
        file.whole = planned.container.is_some();
        file.in_place = planned
            .container
            .is_some_and(|one| one.is_written_in_place());
        if file.in_place
            && !file.edits.is_empty()
            && let Some(why) = in_use(entry.path)
        {
            let number = file.references.len();
            let why = format!("it has {number} references to what moved, but {why}");
            all.push(Planned::Left(left_file(entry.path, &why)));
            return Ok(all);
        }
    }
    all.extend(file.map(|file| Planned::File(Box::new(file))));
    Ok(all)
}

/// The canonical path of an entry: of a link that of the link itself, not of what it leads to.
fn canonical(entry: &Entry<'_>) -> std::io::Result<PathBuf> {
    if !matches!(entry.content, Content::Link(_)) {
        return entry.path.canonicalize();
    }
    let parent = match entry.path.parent() {
        Some(parent) if !parent.as_os_str().is_empty() => parent,
        _ => Path::new("."),
    };
    Ok(parent
        .canonicalize()?
        .join(entry.path.file_name().unwrap_or_default()))
}

/// Plans a text that is too large to be read as a whole.
fn plan_too_large(entry: &Entry<'_>, options: PlanOptions<'_>) -> Result<Vec<Planned>, String> {
    let open = || platform::open_regular(entry.path).map(|(file, _)| file);
    let planned = plan_large(open, options).map_err(|error| explain(&error))?;
    let Some(large) = planned else {
        let why = "it is larger than --max-document and is not text, so it is not read; raise that";
        return Ok(vec![Planned::Left(left_file(entry.path, why))]);
    };
    let references = convert(entry.path, large.references);
    let file = finish(
        entry,
        ("plain-text", large.encoding),
        references,
        large.edits,
        (large.before, large.after),
    )?;
    Ok(planned_file(file))
}

/// Plans a link of the file system: what it holds is where it leads.
fn plan_link(
    entry: &Entry<'_>,
    target: &Path,
    options: PlanOptions<'_>,
) -> Result<Vec<Planned>, String> {
    let bytes = target.as_os_str().as_encoded_bytes();
    let reading = Reading::of_string(Hint::for_name());
    let options = PlanOptions { reading, ..options };
    let Some(document) = Document::open(bytes, "", reading) else {
        return Ok(Vec::new());
    };
    let mut planned = plan(&document, bytes, "", options);
    for reference in &mut planned.references {
        reference.format = LINK;
        (reference.line, reference.column) = (0, 0);
        reference.site = "where it leads".to_owned();
    }
    let new = planned.new.as_deref().map(target_from).transpose();
    let new = new.map_err(|error| explain(&error))?;
    let before = hash_link(target);
    let after = new.as_deref().map_or(before, hash_link);
    let references = convert(entry.path, planned.references);
    let mut file = finish(
        entry,
        (LINK, ""),
        references,
        planned.edits,
        (before, after),
    )?;
    if let (Some(file), Some(new)) = (&mut file, new) {
        let kind = kind_of_link(entry.path).map_err(|error| explain(&error))?;
        file.link = Some((kind, new));
    }
    Ok(planned_file(file))
}

fn planned_file(file: Option<FilePlan>) -> Vec<Planned> {
    file.map(|file| Planned::File(Box::new(file)))
        .into_iter()
        .collect()
}

fn finish(
    entry: &Entry<'_>,
    (format, encoding): (&'static str, &'static str),
    references: Vec<Reference>,
    edits: Edits,
    (before, after): (blake3::Hash, blake3::Hash),
) -> Result<Option<FilePlan>, String> {
    if references.is_empty() {
        return Ok(None);
    }
    let mut file = FilePlan {
        path: entry.path.to_owned(),
        canonical: entry.path.to_owned(),
        format,
        encoding,
        references,
        edits,
        before,
        after,
        read_only: false,
        links: Vec::new(),
        moves: Vec::new(),
        link: None,
        whole: false,
        in_place: false,
        identity: None,
        history: entry.history,
    };
    if !file.edits.is_empty() {
        file.canonical = canonical(entry).map_err(|error| explain(&error))?;
    }
    if !file.edits.is_empty() && !matches!(entry.content, Content::Link(_)) {
        let opened = File::open(entry.path).map_err(|error| explain(&error))?;
        let metadata = opened.metadata().map_err(|error| explain(&error))?;
        file.read_only = metadata.permissions().readonly();
        file.identity = platform::identity(&opened)
            .ok()
            .filter(|(_, names)| *names > 1);
    }
    Ok(Some(file))
}

fn left_file(path: &Path, why: &str) -> LeftFile {
    LeftFile {
        file: path.to_string_lossy().into_owned(),
        why: why.to_owned(),
    }
}

fn convert(path: &Path, planned: Vec<PlannedReference>) -> Vec<Reference> {
    let name = file_name(path);
    planned
        .into_iter()
        .map(|one| Reference {
            file: name.shown.clone(),
            file_bytes: name.bytes.clone(),
            site: one.site,
            line: one.line,
            column: one.column,
            written: one.written,
            place: one.place.to_string(),
            target: None,
            standing: one.standing,
            new_place: one.new_place.map(|place| place.to_string()),
            new_target: None,
            format: one.format,
            broke: one.broke,
            why: one.why,
            notice: one.notice,
            before: Some(one.before),
            after: (one.standing == Standing::ToMove).then_some(one.after),
            marks: one.marks,
            shown_before: one.shown_before,
            suggestions: one.suggestions,
        })
        .collect()
}

pub(super) fn withdraw(file: &mut FilePlan, standing: Standing, why: &str) {
    for reference in &mut file.references {
        if reference.standing == Standing::ToMove {
            reference.standing = standing;
            reference.why = Some(why.to_owned());
            reference.after = None;
            reference.notice = None;
        }
    }
    file.edits = Edits::default();
    file.after = file.before;
}
