//! How the references of one file are read, layer by layer.

use super::written::{Written, written};
use crate::base::limits::Limits;
use crate::container::{Part, PartContent};
use crate::format::Role;
use crate::job::Job;
use crate::judge::{FoundIn, Reason, Unproven, Verdict, before_rewrite};
use crate::layer::{TextEdits, TextOffset};
use crate::open::{
    Group, Kind, LINK, Left, LineCounter, OpenedDocument, SitePassage, Visitor, kind_of,
};
use crate::plan::{Intent, Occurrence, Occurrences, PlanOptions, Spellings, Teller, decide};
use crate::report::{
    ExplainReport, ExplainedMove, ExplainedReference, FileName, Position, Standing,
};
use crate::scan::Found;
use crate::text::ByteMap;
use crate::tree::{Content, Entry, FileFault, Sieve};

/// Why a file cannot be explained.
#[derive(Debug, thiserror::Error)]
pub enum ExplainFault {
    /// It cannot be read.
    #[error(transparent)]
    File(#[from] FileFault),
    /// There is nothing of the kind.
    #[error("it is no file that can be read")]
    NoFile,
}

/// Explains the file that is the job's scope, or one line of it, counted from 1.
///
/// # Errors
/// Where the file cannot be read.
pub fn explain(job: &Job<'_>, line: Option<usize>) -> Result<ExplainReport, ExplainFault> {
    let walked = job.walk(&Sieve::open(), |entry| {
        explain_file(job, entry, line).map(Some)
    });
    if let Some(scan) = walked.faults.into_iter().next() {
        return Err(scan.fault.into());
    }
    walked.items.into_iter().next().ok_or(ExplainFault::NoFile)
}

fn explain_file(
    job: &Job<'_>,
    entry: &Entry<'_>,
    line: Option<usize>,
) -> Result<ExplainReport, FileFault> {
    let mut report = ExplainReport {
        file: FileName::from(entry.path),
        line,
        with_moves: !job.sheet.moves.is_empty(),
        ..ExplainReport::default()
    };
    tell_kind(job, entry, &mut report)?;
    // What the sheet says of files, it says of their paths below what it scans.
    let scanned = job.sheet.paths.iter();
    let mut below = scanned.filter_map(|path| entry.path.strip_prefix(path).ok());
    let below = below.next().unwrap_or(entry.path);
    let explainer = |limits| Explainer {
        job,
        entry,
        spellings: Spellings::of(job, job.sheet, entry, below),
        limits,
        line,
        references: Vec::new(),
        left: None,
    };
    let (explained, mut left) = job.look_inside(entry, explainer)?;
    report.references = explained.references;
    report.left = explained.left.map(|why| why.to_string()).or(left.pop());
    Ok(report)
}

/// Tells what the file is as a whole.
fn tell_kind(
    job: &Job<'_>,
    entry: &Entry<'_>,
    report: &mut ExplainReport,
) -> Result<(), FileFault> {
    match entry.content {
        Content::Whole(content) => match kind_of(content, &entry.name(), job.reading(entry)?) {
            Kind::Container(container) => report.format = container.name(),
            Kind::Document(document) => {
                report.mark = document.text.mark;
                report.encoding = document.text.encoding.name();
                report.format = document.format.name();
                report.broke = document.broke;
                report.sealed = document.sealed();
            }
        },
        Content::Link(_) => report.format = LINK,
        Content::TooLarge => {
            return job.with_large_text(entry, |text, _| {
                let (encoding, mark) = text.encoding();
                (report.encoding, report.mark) = (encoding.name(), mark);
                report.format = text.format().name();
                report.broke = text.broke();
                report.sealed = text.sealed();
                Ok(())
            });
        }
    }
    Ok(())
}

/// Explains every document of a file.
struct Explainer<'a> {
    job: &'a Job<'a>,
    entry: &'a Entry<'a>,
    spellings: Spellings,
    limits: Limits,
    /// The line that is asked for, counted from 1.
    line: Option<usize>,
    references: Vec<ExplainedReference>,
    /// Why nothing of a document is changed.
    left: Option<Unproven>,
}

impl Visitor for Explainer<'_> {
    type Made = ();
    type Mark = ();

    fn wants(&self, _: &PartContent<'_>) -> bool {
        true
    }

    fn document(&mut self, leaf: &OpenedDocument<'_, '_>, _: &mut Left) -> Option<()> {
        let spellings = self.spellings.of_leaf(leaf);
        let options = PlanOptions {
            spellings: Some(&spellings),
            limits: self.limits,
            for_record: false,
            ..PlanOptions::of_job(self.job, self.job.sheet, self.entry.path)
        };
        let mut explaining = Explaining {
            job: self.job,
            leaf,
            map: leaf.document.text.byte_map(),
            line: self.line,
            lines: leaf.document.lines(),
            told: Vec::new(),
        };
        let decided = decide(leaf.document, options, &mut explaining);
        // Stretches in another syntax come after the passage that they are in.
        explaining.told.sort_by_key(|(start, _)| *start);
        let told = explaining.told.into_iter();
        self.references.extend(told.map(|(_, reference)| reference));
        self.left = self.left.take().or(decided.left);
        None
    }

    fn mark(&self, _: &Part<'_>) {}

    fn container(&mut self, _: Group<'_, (), ()>) -> Option<()> {
        None
    }
}

/// One document of the file while it is explained.
struct Explaining<'a> {
    job: &'a Job<'a>,
    leaf: &'a OpenedDocument<'a, 'a>,
    /// Where the letters of its text are in its bytes.
    map: Option<ByteMap>,
    line: Option<usize>,
    lines: LineCounter,
    /// What is told so far, with where it begins in the text.
    told: Vec<(TextOffset, ExplainedReference)>,
}

impl Teller for Explaining<'_> {
    fn begin(&mut self) {
        self.told.clear();
        self.lines = self.leaf.document.lines();
    }

    fn wants(&mut self, site: &SitePassage) -> bool {
        let on_line = |found: &Found| self.asked_for(site, found).is_some();
        site.finds.iter().any(on_line)
    }

    fn tell(&mut self, sites: Vec<Occurrences>, _: &TextEdits) {
        for Occurrences { site, all } in sites {
            for Occurrence { found, intent } in all {
                let Some((start, at)) = self.asked_for(&site, &found) else {
                    continue;
                };
                let explained = self.reference(&site, &found, intent.as_ref(), at);
                self.told
                    .extend(explained.map(|reference| (start, reference)));
            }
        }
    }
}

impl Explaining<'_> {
    /// Where a place begins, if that is in the line that is asked for.
    fn asked_for(&mut self, site: &SitePassage, found: &Found) -> Option<(TextOffset, Position)> {
        let start = site.in_text(found.start);
        let text = &self.leaf.document.text.content;
        let at = self.lines.at(text, start);
        let asked = self.line.is_none_or(|line| line == at.line);
        asked.then_some((start, at))
    }

    /// One reference; none if it is no place, or is told elsewhere.
    fn reference(
        &self,
        site: &SitePassage,
        found: &Found,
        intent: Option<&Intent>,
        at: Position,
    ) -> Option<ExplainedReference> {
        let leaf = self.leaf;
        let verdict = self.verdict(site, found, intent)?;
        let written = written(
            (leaf.document, self.map.as_ref()),
            site,
            found.start..verdict.end,
            intent,
        )?;
        let new_place = intent.and_then(|intent| intent.new_place.as_ref());
        let target = |place| self.job.resolver.target(place);
        Some(ExplainedReference {
            position: leaf.position(at),
            site: leaf.site(&site.site, at),
            part: part(site.role),
            offset: self.offset(&written),
            bytes: written.bytes,
            layers: written.layers,
            spelling: verdict.spelling.in_words(match intent {
                Some(_) => &verdict.place.root,
                None => &found.root,
            }),
            target: Some(target(&verdict.place)),
            standing: verdict.standing,
            place: verdict.place.to_string(),
            reason: verdict.reason.as_ref().map(Reason::name),
            why: verdict.reason.as_ref().map(ToString::to_string),
            by: self.by(&verdict),
            new_place: new_place.map(ToString::to_string),
            new_target: new_place.map(target),
            new_bytes: written.new_bytes,
            notice: intent.and_then(|intent| intent.notice),
            suggestions: intent.map_or_else(Vec::new, |intent| intent.suggestions.clone()),
        })
    }

    /// What is decided over a find; none if it is no place, or is told elsewhere.
    fn verdict(
        &self,
        site: &SitePassage,
        found: &Found,
        intent: Option<&Intent>,
    ) -> Option<Verdict> {
        if let Some(intent) = intent {
            return Some(intent.verdict.clone());
        }
        let case = FoundIn {
            site,
            found,
            content: self.leaf.document.content_of(site),
        };
        let verdict = before_rewrite(case, self.job.sheet, Default::default())?;
        let counts = self.job.looking().named(case).is_some();
        let untouched = matches!(verdict.standing, Standing::Elsewhere | Standing::Moved);
        (counts && untouched).then_some(verdict)
    }

    /// The move that touches it.
    fn by(&self, verdict: &Verdict) -> Option<ExplainedMove> {
        let by = verdict.relocation.as_ref()?.by;
        let one = self.job.sheet.moves.get(by)?;
        Some(ExplainedMove {
            from: one.from.to_string(),
            to: one.to.to_string(),
        })
    }

    /// Where the reference's bytes are: in its document, or in the file of no known kind.
    fn offset(&self, written: &Written) -> usize {
        match self.leaf.run {
            Some(run) => run.at + written.offset * if run.wide { 2 } else { 1 },
            None => written.offset,
        }
    }
}

fn part(role: Role) -> &'static str {
    match role {
        Role::Value => "a value",
        Role::Name { .. } => "a name",
        Role::Prose => "running text",
        Role::Stray => "text outside of any string",
        Role::Undoubled => "a string typed by hand",
        Role::Mixed => "data that is not all text",
        Role::Foreign(_) => "a value, but none that is looked for on this machine",
        Role::Counted => "text whose length is written before it",
        Role::Torn { .. } => "text that is not in one piece",
    }
}
