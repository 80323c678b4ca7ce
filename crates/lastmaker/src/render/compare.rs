//! A comparison: what differs, folder by folder, and whether the copy is whole.

use std::io::{self, Write};

use lastmaker_core::report::{
    CompareReport, ComparedPair, Difference, DifferenceKind, OneFolder, Side,
};

use super::table::table;
use super::{Cells, ForPeople, Page, are, bytes, count, grouped, left};
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, shown};

/// How many differences of one kind are shown unless all are asked for.
const SHOWN: usize = 20;

impl ForPeople for CompareReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        for pair in &self.pairs {
            write_pair(page, pair)?;
        }
        left(page.out, &self.left, "Not compared")?;
        page.gap()?;
        write_verdict(page.out, self)
    }

    fn cells(&self) -> Option<Cells<'_>> {
        let rows = self.pairs.iter().flat_map(|pair| {
            let row = |one: &Difference| {
                let size = |size: Option<u64>| size.map(|it| it.to_string()).unwrap_or_default();
                vec![
                    pair.old.clone(),
                    pair.new.clone(),
                    one.path.clone(),
                    one.kind.word().to_owned(),
                    one.new_name.clone().unwrap_or_default(),
                    size(one.old_size),
                    size(one.new_size),
                    one.why.clone().unwrap_or_default(),
                ]
            };
            pair.differences.iter().map(row)
        });
        Some(Cells {
            heading: &[
                "old",
                "new",
                "path",
                "difference",
                "new name",
                "old size",
                "new size",
                "why",
            ],
            rows: Box::new(rows),
        })
    }
}

fn write_pair(page: &mut Page<'_>, pair: &ComparedPair) -> io::Result<()> {
    page.gap()?;
    let out = &mut *page.out;
    writeln!(
        out,
        "{NAME}{}{NAME:#} and {NAME}{}{NAME:#}",
        shown(&pair.old),
        shown(&pair.new)
    )?;
    if let Some(one) = pair.one_folder {
        let told = match one {
            OneFolder::OldIsLink => "the old place is only a link to the new one",
            OneFolder::NewIsLink => "the new place is only a link to the old one",
            OneFolder::Same => "both are one and the same folder",
        };
        return writeln!(
            out,
            "  {DOUBT}{told}{DOUBT:#}: what lies there is there once, and nothing was compared"
        );
    }
    writeln!(
        out,
        "  {FAINT}{} in {}; {} in {}{FAINT:#}",
        size(pair.old_files, pair.old_bytes),
        shown(&pair.old_seen_at),
        size(pair.new_files, pair.new_bytes),
        shown(&pair.new_seen_at)
    )?;
    write_remarks(out, pair)?;
    if !pair.stand_in {
        write_folders(out, pair, page.verbose)?;
        for kind in KINDS {
            write_kind(out, pair, kind, page.verbose)?;
        }
    }
    left(out, &pair.left, "Could not be looked at")
}

fn size(files: u64, size: u64) -> String {
    format!("{}, {}", count(files as usize, "file"), bytes(size))
}

/// What a person should know before the details.
fn write_remarks(out: &mut dyn Write, pair: &ComparedPair) -> io::Result<()> {
    if pair.stand_in && pair.old_files == 0 {
        writeln!(
            out,
            "  {DOUBT}the old place is empty{DOUBT:#}: the data was moved and not copied, or a program made the folder anew"
        )?;
    } else if pair.stand_in {
        writeln!(
            out,
            "  {DOUBT}the old place looks like a stand-in{DOUBT:#}: a program that did not find its folder made it anew; \
             it is younger\n  than what is at the new place and holds nothing of it, so it says nothing of the copy. What is \
             only there:"
        )?;
        for one in only_old(pair).take(SHOWN) {
            write_difference(out, one)?;
        }
    }
    if pair.both_changed {
        writeln!(
            out,
            "  {DOUBT}both sides have changed since the copy was made{DOUBT:#}: merge what is listed before one of them goes"
        )?;
    }
    if pair.bridges > 0 {
        let links = count(pair.bridges as usize, "link");
        writeln!(
            out,
            "  {FAINT}{links} from one side into the other: what they lead to is there once{FAINT:#}"
        )?;
    }
    if pair.went_back > 0 {
        let older = are(
            pair.went_back as usize,
            "file",
            "older at the new place",
            "older at the new place",
        );
        writeln!(out, "  {FAINT}{older}, with the same content{FAINT:#}")?;
    }
    Ok(())
}

fn only_old(pair: &ComparedPair) -> impl Iterator<Item = &Difference> {
    let missing = |one: &&Difference| one.kind != DifferenceKind::Extra;
    pair.differences.iter().filter(missing)
}

/// The folders in which something differs.
fn write_folders(out: &mut dyn Write, pair: &ComparedPair, all: bool) -> io::Result<()> {
    if pair.folders.len() < 2 {
        return Ok(());
    }
    let most = if all { usize::MAX } else { SHOWN };
    let heading = ["folder", "old files", "size", "new files", "size", "differ"];
    let mut rows = vec![heading.map(str::to_owned)];
    for folder in pair.folders.iter().take(most) {
        let name = if folder.path.is_empty() {
            "."
        } else {
            &folder.path
        };
        rows.push([
            middle_out(&shown(name)),
            grouped(folder.old_files as usize),
            bytes(folder.old_bytes),
            grouped(folder.new_files as usize),
            bytes(folder.new_bytes),
            grouped(folder.differences as usize),
        ]);
    }
    writeln!(out)?;
    table(out, 1, &rows)?;
    more(out, pair.folders.len(), most, "folder")
}

/// A name of a folder, without its middle if it is too long for a column.
fn middle_out(name: &str) -> String {
    const WIDEST: usize = 60;
    const KEPT: usize = 29;
    let letters: Vec<char> = name.chars().collect();
    if letters.len() <= WIDEST {
        return name.to_owned();
    }
    let (head, tail) = (&letters[..KEPT], &letters[letters.len() - KEPT..]);
    let middle = ['\u{2026}'];
    head.iter().chain(&middle).chain(tail).collect()
}

const KINDS: [DifferenceKind; 7] = [
    DifferenceKind::Missing,
    DifferenceKind::Size,
    DifferenceKind::Content,
    DifferenceKind::Kind,
    DifferenceKind::Link,
    DifferenceKind::Name,
    DifferenceKind::Extra,
];

fn heading(kind: DifferenceKind) -> &'static str {
    match kind {
        DifferenceKind::Missing => "missing at the new place",
        DifferenceKind::Extra => "only at the new place",
        DifferenceKind::Size => "of another size",
        DifferenceKind::Content => "of one size, with another content",
        DifferenceKind::Kind => "something else there",
        DifferenceKind::Name => "under another name there",
        DifferenceKind::Link => "links that do not fit",
    }
}

fn write_kind(
    out: &mut dyn Write,
    pair: &ComparedPair,
    kind: DifferenceKind,
    all: bool,
) -> io::Result<()> {
    let number = pair.count(kind);
    if number == 0 {
        return Ok(());
    }
    let style = if kind == DifferenceKind::Extra {
        NEW
    } else {
        OLD
    };
    writeln!(
        out,
        "\n  {style}{}{style:#} ({})",
        heading(kind),
        grouped(number)
    )?;
    let most = if all { usize::MAX } else { SHOWN };
    let of_kind = pair.differences.iter().filter(|one| one.kind == kind);
    for one in of_kind.take(most) {
        write_difference(out, one)?;
    }
    more(out, number, most, "")
}

fn more(out: &mut dyn Write, number: usize, most: usize, noun: &str) -> io::Result<()> {
    if number <= most {
        return Ok(());
    }
    let rest = match noun {
        "" => grouped(number - most),
        noun => count(number - most, noun),
    };
    writeln!(out, "    {FAINT}and {rest} more (-v lists all){FAINT:#}")
}

fn write_difference(out: &mut dyn Write, one: &Difference) -> io::Result<()> {
    write!(out, "    {}", shown(&one.path))?;
    if let Some(name) = &one.new_name {
        write!(out, " {FAINT}is there as{FAINT:#} {}", shown(name))?;
    }
    let told = match (one.old_size, one.new_size) {
        (Some(old), Some(new)) if old == new => bytes(old),
        (Some(old), Some(new)) => {
            let exact = |size| format!("{} bytes", grouped(size as usize));
            format!("{} and {}", exact(old), exact(new))
        }
        (Some(size), None) | (None, Some(size)) => bytes(size),
        (None, None) => String::new(),
    };
    let newer = match one.newer {
        Some(Side::Old) => "changed last at the old place",
        Some(Side::New) => "changed last at the new place",
        None => "",
    };
    let why = one.why.as_deref().map(shown).unwrap_or_default();
    let remarks: Vec<&str> = [told.as_str(), newer, &why]
        .into_iter()
        .filter(|remark| !remark.is_empty())
        .collect();
    if !remarks.is_empty() {
        write!(out, "  {FAINT}{}{FAINT:#}", remarks.join("; "))?;
    }
    writeln!(out)
}

fn in_short(kind: DifferenceKind, number: usize) -> String {
    let figure = grouped(number);
    match kind {
        DifferenceKind::Missing => format!("{figure} missing"),
        DifferenceKind::Extra => format!("{figure} only at the new place"),
        DifferenceKind::Size => format!("{figure} of another size"),
        DifferenceKind::Content => format!("{figure} with another content"),
        DifferenceKind::Kind => format!("{figure} of another kind"),
        DifferenceKind::Name => format!("{figure} under another name"),
        DifferenceKind::Link => format!("{} not as it was", count(number, "link")),
    }
}

/// The last line: whole, or what is not.
fn write_verdict(out: &mut dyn Write, report: &CompareReport) -> io::Result<()> {
    let sum = |of: fn(&ComparedPair) -> u64| report.pairs.iter().map(of).sum::<u64>();
    let files = sum(|pair| pair.old_files);
    if report.whole {
        let how = if report.content {
            ", by their contents"
        } else {
            ""
        };
        return writeln!(
            out,
            "{NEW}whole{NEW:#}: {} on both sides{how}",
            size(files, sum(|pair| pair.old_bytes))
        );
    }
    let mut parts = Vec::new();
    for kind in KINDS {
        let of_kind = report.pairs.iter().filter(|pair| !pair.stand_in);
        let number: usize = of_kind.map(|pair| pair.count(kind)).sum();
        if number > 0 {
            parts.push(in_short(kind, number));
        }
    }
    let standing_in = report.pairs.iter().filter(|pair| pair.stand_in).count();
    if standing_in > 0 {
        parts.push(format!(
            "{} empty or a stand-in",
            count(standing_in, "old place")
        ));
    }
    let one = |pair: &&ComparedPair| pair.one_folder.is_some();
    let one = report.pairs.iter().filter(one).count();
    if one > 0 {
        parts.push(format!("{} of the same folder", count(one, "pair")));
    }
    let unseen = report.left.len()
        + report
            .pairs
            .iter()
            .map(|pair| pair.left.len())
            .sum::<usize>();
    if unseen > 0 {
        parts.push(format!("{} not to be looked at", grouped(unseen)));
    }
    writeln!(
        out,
        "{OLD}not whole{OLD:#}, of {} at the old place: {}",
        count(files as usize, "file"),
        parts.join(", ")
    )
}
