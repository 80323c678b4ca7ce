//! Making links and taking them away, each run with a record of its own.

use std::path::Path;

use super::{BridgePlan, lines};
use crate::answers::familiar;
use crate::bridge::{Bridge, Existing, Verdict, Way, Works, link_at};
use crate::job::Job;
use crate::place::{Place, Root};
use crate::record::{
    Beginning, EntryState, Kind, LinkKind, Manifest, PathText, RecordError, Step, Store, Timestamp,
    Watch, kind_of_link,
};
use crate::report::{BridgeKind, BridgeLine, BridgeReport, BridgeState, Document};

/// Steps for one link, with the line that tells of it, and how it stands if all is done.
struct Doing {
    steps: Vec<Step>,
    line: BridgeLine,
    done: BridgeState,
}

impl BridgePlan {
    /// Makes the links that can be made, and takes those away that are not chosen any more. `lasting` says that
    /// letters are given again at each sign-in.
    ///
    /// # Errors
    /// Where the record cannot be written.
    pub fn make(
        self,
        lasting: bool,
        store: &Store,
        now: Timestamp,
        watch: &Watch<'_>,
    ) -> Result<BridgeReport, RecordError> {
        let mut report = self.begun();
        let mut doings = Vec::new();
        for bridge in &self.bridges {
            doings.push(Doing {
                steps: match &bridge.verdict {
                    Verdict::Possible(works) => steps_of(bridge, works, lasting),
                    _ => Vec::new(),
                },
                line: lines::of_bridge(bridge, lasting),
                done: BridgeState::Made,
            });
        }
        doings.extend(self.unchosen.iter().map(taking));
        let moves = self.bridges.iter();
        let moves = moves.map(|one| format!("{} = {}", one.old, one.new));
        let beginning = beginning(now, moves.collect(), None);
        do_all(doings, store, beginning, watch, &mut report)?;
        Ok(report)
    }
}

/// Takes the links at `places` away; what is no link there is left.
///
/// # Errors
/// Where the record cannot be written.
pub fn take_away(
    job: &Job<'_>,
    places: &[Place],
    store: &Store,
    now: Timestamp,
    watch: &Watch<'_>,
) -> Result<BridgeReport, RecordError> {
    let mut report = BridgeReport::default();
    let mut doings = Vec::new();
    for place in places {
        match link_at(job.resolver, place) {
            Some(link) if job.resolver.is_native(place) => doings.push(taking(&link)),
            link => {
                let why = match link {
                    Some(_) => "it is another machine's place",
                    None => "no link stands there, so nothing was taken away",
                };
                report.bridges.push(BridgeLine {
                    why: Some(why.to_owned()),
                    ..lines::line(
                        &place.to_string(),
                        String::new(),
                        BridgeKind::Link,
                        BridgeState::Left,
                    )
                });
            }
        }
    }
    let moves = doings.iter();
    let moves = moves.map(|one| format!("{} = {}", one.line.old, one.line.new));
    let beginning = beginning(now, moves.collect(), None);
    do_all(doings, store, beginning, watch, &mut report)?;
    Ok(report)
}

/// Takes back what the run of `record` did, the last first.
///
/// # Errors
/// Where the new record cannot be written.
pub fn take_back(
    record: &Manifest,
    store: &Store,
    now: Timestamp,
    watch: &Watch<'_>,
) -> Result<BridgeReport, RecordError> {
    let mut report = BridgeReport::default();
    let steps = record.steps_done().rev().map(Step::reverse);
    let doings = steps.filter(|step| !step.stands()).map(|step| {
        let (line, done) = told(&step);
        Doing {
            steps: vec![step],
            line,
            done,
        }
    });
    let header = &record.header;
    let beginning = beginning(now, header.moves.clone(), Some(header.id.clone()));
    do_all(doings.collect(), store, beginning, watch, &mut report)?;
    // Folders and renamed things are told where they could not be put back.
    report
        .bridges
        .retain(|line| !line.new.is_empty() || line.state == BridgeState::Left);
    Ok(report)
}

/// A step as it is told, and how it stands when it is done.
fn told(step: &Step) -> (BridgeLine, BridgeState) {
    let path = step.path();
    match step {
        Step::MakeLink { target, link, .. } => (
            lines::of_path(&path, &target.to_path(), *link, BridgeState::Stands),
            BridgeState::Made,
        ),
        Step::TakeLink { target, link, .. } => (
            lines::of_path(&path, &target.to_path(), *link, BridgeState::Stands),
            BridgeState::Taken,
        ),
        Step::GiveLetter { folder, .. } | Step::TakeLetter { folder, .. } => {
            let folder = familiar(&folder.to_path());
            let line = lines::line(
                &familiar(&path),
                folder,
                BridgeKind::Letter,
                BridgeState::Stands,
            );
            match step {
                Step::GiveLetter { .. } => (line, BridgeState::Made),
                _ => (line, BridgeState::Taken),
            }
        }
        Step::MakeFolder { .. }
        | Step::TakeFolder { .. }
        | Step::RememberLetter { .. }
        | Step::ForgetLetter { .. }
        | Step::Rename { .. } => {
            let line = lines::line(
                &familiar(&path),
                String::new(),
                BridgeKind::Link,
                BridgeState::Stands,
            );
            (line, BridgeState::Taken)
        }
    }
}

/// What it takes to make a link.
fn steps_of(bridge: &Bridge, works: &Works, lasting: bool) -> Vec<Step> {
    let text = |path: &Path| PathText::from(path);
    let link = match (bridge.way, &bridge.old.root) {
        (Way::Letter, Root::Drive(letter)) => {
            let (letter, folder) = (*letter, text(&works.target));
            let mut steps = vec![Step::GiveLetter {
                letter,
                folder: folder.clone(),
            }];
            if lasting {
                steps.push(Step::RememberLetter { letter, folder });
            }
            return steps;
        }
        (Way::Link(Some(kind)), _) => kind,
        _ => LinkKind::Symbolic,
    };
    let aside = works.aside.iter().map(|aside| Step::Rename {
        path: text(&works.path),
        to: text(aside),
    });
    let folders = works
        .folders
        .iter()
        .map(|path| Step::MakeFolder { path: text(path) });
    let made = Step::MakeLink {
        path: text(&works.path),
        target: text(&works.target),
        link,
    };
    aside.chain(folders).chain([made]).collect()
}

fn taking(link: &Existing) -> Doing {
    let step = Step::TakeLink {
        path: PathText::from(link.path.as_path()),
        target: PathText::from(link.target.as_path()),
        link: kind_of_link(&link.path).unwrap_or(LinkKind::Symbolic),
    };
    Doing {
        steps: vec![step],
        // Whether it can be followed does not matter any more.
        line: BridgeLine {
            why: None,
            ..lines::of_existing(link, None)
        },
        done: BridgeState::Taken,
    }
}

fn beginning(now: Timestamp, moves: Vec<String>, undoes: Option<String>) -> Beginning {
    Beginning {
        created: now,
        kind: Kind::Bridge,
        undoes,
        moves,
        scope: Vec::new(),
    }
}

/// Does everything, and tells each line as it turned out. Without anything to do there is no record.
fn do_all(
    doings: Vec<Doing>,
    store: &Store,
    beginning: Beginning,
    watch: &Watch<'_>,
    report: &mut BridgeReport,
) -> Result<(), RecordError> {
    let groups = doings.iter().map(|doing| doing.steps.clone());
    let groups: Vec<Vec<Step>> = groups.filter(|steps| !steps.is_empty()).collect();
    let mut writer = if groups.is_empty() {
        None
    } else {
        Some(store.begin(beginning)?)
    };
    let states = match &mut writer {
        Some(writer) => writer.take_steps(&groups, watch)?,
        None => Vec::new(),
    };
    let mut states = states.into_iter();
    for doing in doings {
        let mut line = doing.line;
        if !doing.steps.is_empty() {
            line.state = doing.done;
            if let Some(EntryState::Left(why)) = states.next() {
                line.state = BridgeState::Left;
                line.why = Some(why);
                line.folders = Vec::new();
            }
        }
        report.bridges.push(line);
    }
    if let Some(writer) = writer {
        report.kept_in = Some(writer.id().to_owned());
        let told = serde_json::to_vec(&Document::of(report)).map_err(RecordError::report)?;
        writer.finish(&told)?;
    }
    Ok(())
}
