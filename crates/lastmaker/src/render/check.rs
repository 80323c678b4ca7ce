//! A check: what dangles together and why, the likeliest cure, and what else wants attention.

use std::collections::{BTreeMap, HashMap};
use std::io::{self, Write};

use lastmaker_core::report::{
    Cause, CheckReport, DanglingGroup, GroupCure, Reference, Standing, Suggestion, Target,
};

use super::evidence::write_moves;
use super::plan::position;
use super::references::cells;
use super::table::table;
use super::{Cells, Extent, ForPeople, Listed, Page, count, grouped, left};
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, shown};

/// How many references of a group are shown unless all are asked for.
const SHOWN: usize = 3;
/// How many references of one standing are shown unless all are asked for.
const LISTED: usize = 40;
/// How many groups of one cause are shown unless all are asked for.
const GROUPS: usize = 30;

impl ForPeople for CheckReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        let out = &mut *page.out;
        let (extent, all) = (page.extent, page.verbose);
        match extent {
            Extent::Usual => {
                write_groups(out, self, all)?;
                write_listed(out, self, all, |_| true)?;
                write_bridged(out, self, all)?;
            }
            Extent::Summary => write_causes(out, self)?,
            Extent::Only(Listed::Missing) => write_groups(out, self, true)?,
            Extent::Only(list) => write_listed(out, self, true, |standing| match list {
                Listed::Changed => standing == Standing::ToMove,
                Listed::Sealed => standing == Standing::Sealed,
                _ => !matches!(standing, Standing::ToMove | Standing::Sealed),
            })?,
        }
        let whole = !matches!(extent, Extent::Only(_));
        if whole && !self.left.is_empty() {
            left(out, &self.left, "Not looked at")?;
            writeln!(out)?;
        }
        if whole && !self.moves.is_empty() {
            write_moves(out, &self.moves)?;
            writeln!(out)?;
        }
        write_totals(out, self)
    }

    fn cells(&self) -> Option<Cells<'_>> {
        Some(cells(self.references.iter()))
    }
}

/// References of which the first are shown and the others counted.
#[derive(Default)]
struct FirstOf {
    first: Vec<Reference>,
    all: usize,
}

impl FirstOf {
    fn add(&mut self, reference: Reference, most: usize) {
        self.all += 1;
        if self.first.len() < most {
            self.first.push(reference);
        }
    }

    fn rest(&self) -> usize {
        self.all - self.first.len()
    }
}

/// What dangles together.
fn write_groups(out: &mut dyn Write, report: &CheckReport, all: bool) -> io::Result<()> {
    let folded = report.groups.iter().map(|group| group.place.to_lowercase());
    let by_place: HashMap<String, &DanglingGroup> = folded.zip(&report.groups).collect();
    let shown = if all { usize::MAX } else { SHOWN };
    let mut members: HashMap<&str, FirstOf> = HashMap::new();
    for reference in report.references.iter() {
        if reference.target == Some(Target::Dangling) && !is_listed_apart(reference.standing) {
            let way = on_way(&reference.place).find_map(|place| by_place.get(&place));
            if let Some(group) = way {
                let members = members.entry(&group.place).or_default();
                members.add(reference, shown);
            }
        }
    }
    for cause in [
        Cause::MissingFolder,
        Cause::MissingFile,
        Cause::UnreachableRoot,
    ] {
        let is_shown = |group: &&DanglingGroup| {
            group.cause == cause
                && (cause == Cause::UnreachableRoot || members.contains_key(group.place.as_str()))
        };
        let groups: Vec<&DanglingGroup> = report.groups.iter().filter(is_shown).collect();
        let most = if all { usize::MAX } else { GROUPS };
        for group in groups.iter().take(most) {
            write_group(out, group, members.get(group.place.as_str()))?;
        }
        if groups.len() > most {
            let rest = groups.len() - most;
            writeln!(
                out,
                "{FAINT}and {} more (-v lists all){FAINT:#}\n",
                grouped(rest)
            )?;
        } else if cause == Cause::UnreachableRoot && !groups.is_empty() {
            writeln!(out)?;
        }
    }
    Ok(())
}

/// How many places are gone for each cause, and how many of their references have a likely cure.
fn write_causes(out: &mut dyn Write, report: &CheckReport) -> io::Result<()> {
    let causes = [
        (Cause::MissingFolder, "folder is gone"),
        (Cause::MissingFile, "file is gone"),
        (Cause::UnreachableRoot, "not to be seen from here"),
    ];
    let mut rows = vec![["why", "places", "references", "with a likely cure"].map(str::to_owned)];
    for (cause, words) in causes {
        let groups = || {
            report
                .groups
                .iter()
                .filter(move |group| group.cause == cause)
        };
        let references = |group: &DanglingGroup| group.references;
        let cured = groups().filter(|group| !group.cures.is_empty());
        if groups().next().is_some() {
            rows.push([
                words.to_owned(),
                grouped(groups().count()),
                grouped(groups().map(references).sum()),
                grouped(cured.map(references).sum()),
            ]);
        }
    }
    if rows.len() > 1 {
        table(out, 1, &rows)?;
        writeln!(out)?;
    }
    Ok(())
}

/// Whether a reference is listed with others that stand alike.
fn is_listed_apart(standing: Standing) -> bool {
    !matches!(
        standing,
        Standing::Elsewhere | Standing::Moved | Standing::Kept | Standing::ToMove
    )
}

/// A place and the folders on the way to it, the place first, in lower case.
pub(super) fn on_way(place: &str) -> impl Iterator<Item = String> {
    let place = place.to_lowercase();
    let mut end = Some(place.len());
    std::iter::from_fn(move || {
        let at = end?;
        end = place[..at].rfind(['\\', '/']).filter(|at| *at > 0);
        Some(place[..at].to_owned())
    })
}

fn write_group(
    out: &mut dyn Write,
    group: &DanglingGroup,
    members: Option<&FirstOf>,
) -> io::Result<()> {
    let place = shown(&group.place);
    let from = format!(
        "{} in {}",
        count(group.references, "reference"),
        count(group.files, "file")
    );
    match group.cause {
        Cause::UnreachableRoot => {
            return writeln!(
                out,
                "{DOUBT}{place}{DOUBT:#} is not to be seen from here: {from}"
            );
        }
        Cause::MissingFolder if group.targets > 1 => writeln!(
            out,
            "{OLD}{place}{OLD:#} is gone: {from}, to {}",
            count(group.targets, "place")
        )?,
        _ => writeln!(out, "{OLD}{place}{OLD:#} is gone: {from}")?,
    }
    for cure in &group.cures {
        write_cure(out, cure)?;
    }
    if group.cures.is_empty() {
        writeln!(
            out,
            "    {FAINT}nothing like it is to be seen from here{FAINT:#}"
        )?;
    }
    for reference in members.iter().flat_map(|members| &members.first) {
        let at = position(reference);
        let file = shown(&reference.file.shown);
        write!(out, "    {FAINT}{file}:{at}{FAINT:#}")?;
        if group.cause != Cause::MissingFile {
            write!(out, "  {}", shown(&reference.written))?;
        }
        writeln!(out)?;
        // What the group's cures do not have.
        if group.cause == Cause::MissingFolder && !is_cured(group, reference) {
            for suggestion in &reference.suggestions {
                write_suggestion(out, suggestion, "  likely")?;
            }
        }
    }
    let rest = members.map_or(0, FirstOf::rest);
    if rest > 0 {
        let rest = grouped(rest);
        writeln!(out, "    {FAINT}and {rest} more (-v lists all){FAINT:#}")?;
    }
    writeln!(out)
}

/// Whether the first of what may be meant by a reference lies under a cure of its group.
fn is_cured(group: &DanglingGroup, reference: &Reference) -> bool {
    let first = reference.suggestions.first().map(|one| one.place.as_str());
    let under = |cure: &GroupCure| first.is_some_and(|it| it.starts_with(&cure.suggestion.place));
    first.is_none() || group.cures.iter().any(under)
}

fn write_cure(out: &mut dyn Write, cure: &GroupCure) -> io::Result<()> {
    let evidence = match cure.of {
        1 => shown(&cure.suggestion.why),
        of => format!(
            "{} of {} names {} there; {}",
            grouped(cure.found),
            grouped(of),
            if cure.found == 1 { "is" } else { "are" },
            shown(&cure.suggestion.why)
        ),
    };
    writeln!(
        out,
        "    {NEW}likely:{NEW:#} {}  {FAINT}({evidence}{}){FAINT:#}",
        shown(&cure.suggestion.place),
        doubt(&cure.suggestion)
    )
}

/// Says so of what is not certain.
fn doubt(suggestion: &Suggestion) -> &'static str {
    if suggestion.certain {
        ""
    } else {
        "; not certain"
    }
}

fn write_suggestion(out: &mut dyn Write, one: &Suggestion, word: &str) -> io::Result<()> {
    writeln!(
        out,
        "    {NEW}{word}:{NEW:#} {}  {FAINT}({}{}){FAINT:#}",
        shown(&one.place),
        shown(&one.why),
        doubt(one)
    )
}

/// What wants attention whether it dangles or not, by how it stands.
fn write_listed(
    out: &mut dyn Write,
    report: &CheckReport,
    all: bool,
    is_wanted: impl Fn(Standing) -> bool,
) -> io::Result<()> {
    let headings = [
        (Standing::ToMove, "To be moved by a rewrite"),
        (Standing::Leftover, "Still at the old place after a rewrite"),
        (Standing::Sealed, "Sealed: cannot be rewritten safely"),
        (Standing::Doubtful, "Doubtful: could be read two ways"),
        (
            Standing::Collision,
            "Colliding: entries would become the same",
        ),
        (Standing::Malformed, "Malformed: evidently mistyped"),
    ];
    let mut by_standing: BTreeMap<Standing, FirstOf> = BTreeMap::new();
    for reference in report.references.iter().filter(|one| !is_bridged(one)) {
        let most = most_of(reference.standing, all);
        let listed = by_standing.entry(reference.standing).or_default();
        listed.add(reference, most);
    }
    for (standing, heading) in headings.into_iter().filter(|one| is_wanted(one.0)) {
        let Some(listed) = by_standing.get(&standing) else {
            continue;
        };
        writeln!(out, "{DOUBT}{heading}{DOUBT:#} ({})", grouped(listed.all))?;
        let mut file = None;
        for reference in &listed.first {
            if file != Some(&reference.file) {
                writeln!(out, "  {NAME}{}{NAME:#}", shown(&reference.file.shown))?;
                file = Some(&reference.file);
            }
            write_reference(out, reference)?;
        }
        if listed.rest() > 0 {
            let rest = grouped(listed.rest());
            match most_of(standing, all) {
                0 => writeln!(out, "  {FAINT}`lastmaker preview` shows them{FAINT:#}")?,
                _ => writeln!(out, "  {FAINT}and {rest} more (-v lists all){FAINT:#}")?,
            }
        }
        writeln!(out)?;
    }
    Ok(())
}

/// How many references that stand so are shown.
fn most_of(standing: Standing, all: bool) -> usize {
    match (all, standing) {
        (true, _) => usize::MAX,
        // A preview shows these in full.
        (false, Standing::ToMove) => 0,
        _ => LISTED,
    }
}

/// Whether a link at the old place makes good what no rewrite changes.
fn is_bridged(reference: &Reference) -> bool {
    reference.bridge.is_some() && reference.standing != Standing::ToMove
}

/// What goes through links at old places, by link.
fn write_bridged(out: &mut dyn Write, report: &CheckReport, all: bool) -> io::Result<()> {
    let mut by_link: BTreeMap<String, FirstOf> = BTreeMap::new();
    let most = if all { usize::MAX } else { 0 };
    for reference in report.references.iter().filter(is_bridged) {
        let link = reference.bridge.clone().unwrap_or_default();
        by_link.entry(link).or_default().add(reference, most);
    }
    for (link, references) in &by_link {
        writeln!(
            out,
            "{NEW}Live, through a bridge at {}{NEW:#} ({})",
            shown(link),
            grouped(references.all)
        )?;
        for reference in &references.first {
            let file = shown(&reference.file.shown);
            let at = position(reference);
            let written = shown(&reference.written);
            writeln!(out, "  {FAINT}{file}:{at}{FAINT:#}  {written}")?;
        }
        writeln!(out)?;
    }
    Ok(())
}

fn write_reference(out: &mut dyn Write, reference: &Reference) -> io::Result<()> {
    writeln!(
        out,
        "    {FAINT}{}{FAINT:#}  {}",
        position(reference),
        shown(&reference.written)
    )?;
    if let Some(why) = &reference.why {
        writeln!(out, "      {FAINT}{}{FAINT:#}", shown(why))?;
    }
    if let Some(alive) = which_is_alive(reference) {
        writeln!(out, "      {FAINT}{alive}{FAINT:#}")?;
    }
    let word = if reference.standing == Standing::Malformed {
        "  right would be"
    } else {
        "  likely"
    };
    for suggestion in &reference.suggestions {
        write_suggestion(out, suggestion, word)?;
    }
    Ok(())
}

/// Which of the old place and the new one exist.
fn which_is_alive(reference: &Reference) -> Option<&'static str> {
    use Target::{Dangling, Live, Unreachable};
    Some(match (reference.target?, reference.new_target?) {
        (Live, Live) => "the old place and the new one exist",
        (Live, Dangling) => "only the old place exists",
        (Dangling, Live) => "only the new place exists",
        (Dangling, Dangling) => "neither the old place nor the new one exists",
        (Live, Unreachable) => "the old place exists, the new one cannot be checked from here",
        (Unreachable, Live) => "the new place exists, the old one cannot be checked from here",
        (Dangling, Unreachable) => "the old place is gone, the new one cannot be checked from here",
        (Unreachable, Dangling) => "the new place does not exist, the old one cannot be checked",
        (Unreachable, Unreachable) => return None,
    })
}

fn write_totals(out: &mut dyn Write, report: &CheckReport) -> io::Result<()> {
    let (totals, with_sheet) = (&report.totals, report.with_sheet);
    let judged = if with_sheet {
        format!("{} to what moved", count(totals.judged, "reference"))
    } else {
        count(totals.judged, "reference")
    };
    write!(
        out,
        "{NAME}{judged}{NAME:#} in {}: {} live",
        count(totals.files as usize, "file"),
        grouped(totals.live)
    )?;
    let parts = [
        (totals.dangling, "dangling"),
        (totals.unreachable, "not to be checked from here"),
        (totals.bridged, "live through a bridge"),
        (totals.to_move, "to be moved"),
        (totals.leftover, "still at the old place"),
        (totals.malformed, "malformed"),
    ];
    for (number, word) in parts {
        if number > 0 {
            write!(out, ", {} {word}", grouped(number))?;
        }
    }
    writeln!(out, ".")?;
    if totals.dangling_elsewhere > 0 {
        writeln!(
            out,
            "{} elsewhere in these files (--all reads every file and lists them).",
            count(totals.dangling_elsewhere, "dangling reference")
        )?;
    }
    if totals.in_history > 0 {
        writeln!(
            out,
            "{} in logs, backups or recycle bins not judged.",
            count(totals.in_history, "reference")
        )?;
    }
    Ok(())
}
