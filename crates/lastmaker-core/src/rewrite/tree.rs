//! The plan for a whole tree: what preview shows and rewrite makes.

use std::collections::{BTreeMap, HashMap};
use std::fs::File;
use std::path::{Path, PathBuf};

use serde::Serialize;

use crate::container::Budget;
use crate::job::{Job, file_name, left_by_scan, name_in_folder};
use crate::layer::Edits;
use crate::place::Hint;
use crate::platform;
use crate::record::{Ledger, LinkKind, hash_link, kind_of_link, target_from};
use crate::report::{LeftFile, Reference, SCHEMA, Standing};
use crate::resolve::Target;
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
    identity: Option<((u64, u64), u64)>,
    history: bool,
}

/// What becomes of a tree.
#[derive(Debug)]
pub struct TreePlan {
    /// The files that name an old place, in path order.
    pub files: Vec<FilePlan>,
    /// Files that could not be looked at or that are left as they are, and why.
    pub left: Vec<LeftFile>,
    /// Counts.
    pub totals: PlanTotals,
}

/// The counts of a plan.
#[derive(Clone, Debug, Default, Serialize)]
pub struct PlanTotals {
    /// Files looked at.
    pub files: u64,
    /// Files that change.
    pub changing_files: usize,
    /// References that change.
    pub to_move: usize,
    /// References that an exception keeps.
    pub kept: usize,
    /// References that could be read two ways.
    pub doubtful: usize,
    /// References that are evidently mistyped.
    pub malformed: usize,
    /// References that cannot be rewritten safely.
    pub sealed: usize,
    /// References whose entries would become the same.
    pub collision: usize,
    /// Changes that a person should know something about.
    pub notices: usize,
    /// References in logs, backups and recycle bins, which stay.
    pub in_history: usize,
    /// Distinct new places.
    pub new_places: NewPlaces,
}

/// Which of the distinct new places exist.
#[derive(Clone, Copy, Debug, Default, Serialize)]
pub struct NewPlaces {
    /// How many there are.
    pub distinct: usize,
    /// Those that exist.
    pub live: usize,
    /// Those that do not.
    pub dangling: usize,
    /// Those that cannot be checked from here.
    pub unreachable: usize,
}

impl NewPlaces {
    /// Whether the moves lead to a folder that hardly holds anything of what is named: below
    /// one in ten of those that can be checked, or none that can.
    pub fn looks_wrong(&self) -> bool {
        let checkable = self.live + self.dangling;
        self.distinct > 0 && (checkable == 0 || self.live * 10 < checkable)
    }
}

/// The models that machines read.
#[derive(Debug, Serialize)]
pub struct PlanReport<'a> {
    /// Version of this document.
    pub schema: u32,
    /// The question.
    pub command: &'static str,
    /// Every reference that a move touches.
    pub references: Vec<&'a Reference>,
    /// Files that are left as they are, and why.
    pub left: &'a [LeftFile],
    /// Counts.
    pub totals: &'a PlanTotals,
}

impl TreePlan {
    /// The plan as machines read it.
    pub fn report(&self, command: &'static str) -> PlanReport<'_> {
        PlanReport {
            schema: SCHEMA,
            command,
            references: self
                .files
                .iter()
                .flat_map(|file| &file.references)
                .collect(),
            left: &self.left,
            totals: &self.totals,
        }
    }

    /// Whether a person has to look at something.
    pub fn has_findings(&self) -> bool {
        let totals = &self.totals;
        let wanting =
            totals.doubtful + totals.malformed + totals.sealed + totals.collision + totals.notices;
        wanting > 0 || !self.left.is_empty()
    }
}

/// Plans the rewrite of the job's scope. `ledger` says what earlier rewrites did, for sheets
/// that are not repeatable; with `again` files that changed since are planned all the same.
pub fn plan_tree(job: &Job<'_>, ledger: &Ledger, again: bool) -> TreePlan {
    let sieve = Sieve::new(job.sheet, job.thorough);
    let repeatable = job.sheet.is_repeatable();
    let walked = job.walk(&sieve, |entry| {
        let earlier = if repeatable {
            None
        } else {
            earlier(ledger, entry)
        };
        let planned = plan_file(job, &sieve, entry, (earlier, again))?;
        Ok((!planned.is_empty()).then_some(planned))
    });
    let mut left = left_by_scan(&walked.faults);
    let mut files = Vec::new();
    let mut totals = PlanTotals {
        files: walked.files,
        ..PlanTotals::default()
    };
    for item in walked.items.into_iter().flatten() {
        match item {
            Planned::Left(fault) => left.push(fault),
            Planned::File(file) if file.history && !job.history_files => {
                totals.in_history += file.references.len();
            }
            Planned::File(file) => files.push(*file),
        }
    }
    join_names(&mut files);
    resolve_new_places(job, &mut files, &mut totals);
    count(&files, &mut totals);
    TreePlan {
        files,
        left,
        totals,
    }
}

enum Planned {
    File(Box<FilePlan>),
    Left(LeftFile),
}

/// What an earlier rewrite did to a file.
struct Earlier {
    moves: Vec<String>,
    after: String,
}

fn earlier(ledger: &Ledger, entry: &Entry<'_>) -> Option<Earlier> {
    let canonical = canonical(entry).ok()?;
    let (moves, after) = ledger.applied(&canonical)?;
    Some(Earlier {
        moves: moves.to_vec(),
        after: after.to_owned(),
    })
}

fn plan_file(
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
            && let Some(why) = in_use(entry.path)
        {
            withdraw(file, Standing::Sealed, &why);
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

fn withdraw(file: &mut FilePlan, standing: Standing, why: &str) {
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

/// Files with several names are rewritten once if all their names lie within the scope.
fn join_names(files: &mut Vec<FilePlan>) {
    let mut groups: BTreeMap<(u64, u64), Vec<usize>> = BTreeMap::new();
    for (index, file) in files.iter().enumerate() {
        if let Some((identity, _)) = file.identity {
            groups.entry(identity).or_default().push(index);
        }
    }
    let mut drop = Vec::new();
    for group in groups.into_values() {
        let names = files[group[0]].identity.map_or(1, |(_, names)| names);
        if group.len() as u64 == names {
            let links = group[1..]
                .iter()
                .map(|other| files[*other].canonical.clone())
                .collect();
            files[group[0]].links = links;
            drop.extend_from_slice(&group[1..]);
        } else {
            for index in group {
                withdraw(
                    &mut files[index],
                    Standing::Doubtful,
                    "the file has another name outside of the paths given (a hard link); give the folder of that \
                     name too, or make this a file of its own",
                );
            }
        }
    }
    let mut index = 0;
    files.retain(|_| {
        index += 1;
        !drop.contains(&(index - 1))
    });
}

/// Finds out which of the new places exist.
fn resolve_new_places(job: &Job<'_>, files: &mut [FilePlan], totals: &mut PlanTotals) {
    let mut seen: HashMap<String, Target> = HashMap::new();
    for reference in files.iter_mut().flat_map(|file| &mut file.references) {
        let Some(new) = reference
            .new_place
            .as_ref()
            .and_then(|new| crate::place::Place::parse(new).ok())
        else {
            continue;
        };
        let target = *seen
            .entry(new.key())
            .or_insert_with(|| job.resolver.target(&new));
        reference.new_target = Some(target);
    }
    // Only places that are really to be written count.
    let mut counted: HashMap<&str, Target> = HashMap::new();
    for reference in files.iter().flat_map(|file| &file.references) {
        if let (Standing::ToMove, Some(new), Some(target)) = (
            reference.standing,
            reference.new_place.as_deref(),
            reference.new_target,
        ) {
            counted.insert(new, target);
        }
    }
    totals.new_places.distinct = counted.len();
    for target in counted.into_values() {
        match target {
            Target::Live => totals.new_places.live += 1,
            Target::Dangling => totals.new_places.dangling += 1,
            Target::Unreachable => totals.new_places.unreachable += 1,
        }
    }
}

fn count(files: &[FilePlan], totals: &mut PlanTotals) {
    for file in files {
        totals.changing_files += usize::from(!file.edits.is_empty());
        for reference in &file.references {
            totals.notices += usize::from(reference.notice.is_some());
            *match reference.standing {
                Standing::ToMove => &mut totals.to_move,
                Standing::Kept => &mut totals.kept,
                Standing::Malformed => &mut totals.malformed,
                Standing::Sealed => &mut totals.sealed,
                Standing::Collision => &mut totals.collision,
                _ => &mut totals.doubtful,
            } += 1;
        }
    }
}
