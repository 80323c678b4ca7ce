//! How the references of one file are read, layer by layer.

use super::written::{Written, written};
use crate::format::Role;
use crate::job::Job;
use crate::judge::{Case, Reason, Verdict, before_rewrite};
use crate::open::{EachLeaf, Kind, LINK, Leaf, LineCounter, SitePassage, kind_of};
use crate::place::Found;
use crate::plan::{Draft, Intent, PlanOptions, Spellings};
use crate::report::{
    ExplainReport, ExplainedMove, ExplainedReference, FileName, Position, Standing,
};
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
    tell_kind(job, entry, &mut report);
    let mut references = Vec::new();
    let mut document_left = None;
    // What the sheet says of files, it says of their paths below what it scans.
    let scanned = job.sheet.paths.iter();
    let mut below = scanned.filter_map(|path| entry.path.strip_prefix(path).ok());
    let below = below.next().unwrap_or(entry.path);
    let of_file = Spellings::of(job, job.sheet, entry, below);
    let mut visitor = EachLeaf {
        sieve: None,
        binary: true,
        each: |leaf: &Leaf<'_, '_>| {
            let spellings = of_file.of_leaf(leaf);
            let options = PlanOptions {
                reading: leaf.reading,
                repair: job.repair,
                spellings: Some(&spellings),
                resolver: Some(job.resolver),
                file: entry.path,
                ..PlanOptions::of(job.sheet)
            };
            let draft = Draft::of_all(leaf, options);
            let explaining = Explaining {
                job,
                leaf,
                options,
                map: leaf.document.text.byte_map(),
            };
            references.extend(explaining.references(&draft, line));
            document_left = document_left.take().or(draft.left);
        },
    };
    let mut left = job.look_inside(entry, &mut visitor)?;
    report.references = references;
    report.left = document_left.map(|why| why.to_string()).or(left.pop());
    Ok(report)
}

/// Tells what the file is as a whole.
fn tell_kind(job: &Job<'_>, entry: &Entry<'_>, report: &mut ExplainReport) {
    match entry.content {
        Content::Whole(content) => match kind_of(content, &entry.name(), job.reading(entry)) {
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
        Content::TooLarge => {}
    }
}

/// One document of the file while it is explained.
struct Explaining<'a> {
    job: &'a Job<'a>,
    leaf: &'a Leaf<'a, 'a>,
    options: PlanOptions<'a>,
    /// Where the letters of its text are in its bytes.
    map: Option<ByteMap>,
}

impl Explaining<'_> {
    /// The references of the document, or those of one line, in the order of the text.
    fn references(&self, draft: &Draft, line: Option<usize>) -> Vec<ExplainedReference> {
        let document = self.leaf.document;
        let mut lines = LineCounter::default();
        let mut all = Vec::new();
        for (site, of_site) in draft.sites.iter().zip(&draft.intents) {
            for (found, intent) in site.finds.iter().zip(of_site) {
                let start = site.in_text(found.start);
                let at = lines.at(&document.text.content, start);
                if line.is_some_and(|line| line != at.line) {
                    continue;
                }
                let explained = self.reference(site, found, intent.as_ref(), at);
                all.extend(explained.map(|reference| (start, reference)));
            }
        }
        // Stretches in another syntax come after the passage that they are in.
        all.sort_by_key(|(start, _)| *start);
        all.into_iter().map(|(_, reference)| reference).collect()
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
        let case = Case {
            site,
            found,
            content: self.leaf.document.content_of(site),
        };
        let verdict = before_rewrite(case, self.options.sheet, Default::default())?;
        let counts = self.job.looking().named(case).is_some();
        let untouched = matches!(verdict.standing, Standing::Elsewhere | Standing::Moved);
        (counts && untouched).then_some(verdict)
    }

    /// The move that touches it.
    fn by(&self, verdict: &Verdict) -> Option<ExplainedMove> {
        let by = verdict.relocation.as_ref()?.by;
        let one = self.options.sheet.moves.get(by)?;
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
        Role::ByHand => "a string typed by hand",
        Role::Mixed => "data that is not all text",
        Role::Foreign(_) => "a value, but none that is looked for on this machine",
        Role::Counted => "text whose length is written before it",
        Role::Torn { .. } => "text that is not in one piece",
    }
}
