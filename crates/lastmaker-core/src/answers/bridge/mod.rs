//! Links at old places: which would help, which stand, making them and taking them away.

mod doing;
mod lines;

pub use doing::{take_away, take_back};

use std::fs;

use crate::bridge::script::{Task, script};
use crate::bridge::{
    Bridge, Existing, Need, Refusal, Served, Site, Verdict, existing, fewest, link_at,
};
use crate::job::Job;
use crate::place::Place;
use crate::record::Rewrites;
use crate::report::{BridgeReport, LeftFile, Standing, Target};
use crate::tree::Scope;

use super::check::{CheckOptions, each_wanting};

/// What the files of a job ask of links.
#[derive(Debug, Default)]
pub struct Asked {
    /// References that name an old place and will go on doing so.
    needs: Vec<Need>,
    /// Every reference that names an old place, those included that a rewrite can change.
    naming: Vec<Need>,
    beyond_help: usize,
    to_rewrite: usize,
    left: Vec<LeftFile>,
}

/// Looks for the references of the job's scope that name old places.
pub fn asked(job: &Job<'_>, rewrites: &Rewrites) -> Asked {
    let options = CheckOptions {
        all: false,
        relative: false,
        rewrites,
        indexed: job.looked_at,
    };
    let mut asked = Asked::default();
    let left = each_wanting(job, &options, |file, reference, old| {
        if reference.new_place.is_none() {
            return;
        }
        let need = Need { old, file };
        asked.naming.push(need.clone());
        match reference.standing {
            Standing::ToMove => asked.to_rewrite += 1,
            // The program that reads it reads something else.
            Standing::Malformed => {}
            // A program that found nothing made it anew: that is merged, not bridged.
            _ if reference.target == Some(Target::Live) && reference.bridge.is_none() => {}
            _ if reference.new_target == Some(Target::Dangling) => asked.beyond_help += 1,
            _ => asked.needs.push(need),
        }
    });
    asked.left = left;
    asked
}

/// Links that there could be, and those that are to go.
#[derive(Debug, Default)]
pub struct BridgePlan {
    bridges: Vec<Bridge>,
    /// Links that are no longer chosen.
    unchosen: Vec<Existing>,
    asked: Asked,
    set_aside: bool,
}

impl BridgePlan {
    /// The fewest links that serve what is asked for.
    pub fn worked_out(site: &Site<'_>, asked: Asked) -> Self {
        Self {
            bridges: fewest(site, &asked.needs),
            unchosen: Vec::new(),
            asked,
            set_aside: site.set_aside,
        }
    }

    /// A link from one place to another.
    pub fn of_one(site: &Site<'_>, old: &Place, new: &Place, asked: Option<Asked>) -> Self {
        let bridge = Bridge {
            way: site.way(old, new),
            verdict: site.judge(old, new),
            serves: asked.as_ref().map(|asked| served(&asked.naming, old)),
            old: old.clone(),
            new: new.clone(),
        };
        Self {
            bridges: vec![bridge],
            unchosen: Vec::new(),
            asked: asked.unwrap_or_default(),
            set_aside: site.set_aside,
        }
    }

    /// A link inside of `old` for each child of `new` that `chosen` lets through; links to other children
    /// of it that stand there are to go.
    pub fn of_each(
        site: &Site<'_>,
        old: &Place,
        new: &Place,
        chosen: &Scope,
        asked: Option<Asked>,
    ) -> Self {
        let mut plan = Self {
            asked: asked.unwrap_or_default(),
            set_aside: site.set_aside,
            ..Self::default()
        };
        let folder = site.resolver.path_of(new);
        let names = folder.and_then(|folder| fs::read_dir(folder).ok());
        let names = names.into_iter().flatten().flatten();
        let mut names: Vec<String> = names
            .filter_map(|entry| entry.file_name().into_string().ok())
            .collect();
        names.sort();
        if names.is_empty() {
            plan.bridges.push(Bridge {
                way: site.way(old, new),
                verdict: Verdict::Refused(Refusal::NewMissing),
                serves: None,
                old: old.clone(),
                new: new.clone(),
            });
        }
        for name in names {
            let (old, new) = (old.child(&name), new.child(&name));
            let verdict = site.judge(&old, &new);
            let is_chosen = !chosen.leaves_out(std::path::Path::new(&name), false);
            match (is_chosen, &verdict) {
                (true, _) => plan.bridges.push(Bridge {
                    way: site.way(&old, &new),
                    verdict,
                    serves: None,
                    old,
                    new,
                }),
                (false, Verdict::Stands) => {
                    plan.unchosen.extend(link_at(site.resolver, &old));
                }
                (false, _) => {}
            }
        }
        plan
    }

    /// What would be made.
    pub fn into_report(self) -> BridgeReport {
        let mut report = self.begun();
        let line = |bridge| lines::of_bridge(bridge, false);
        report.bridges = self.bridges.iter().map(line).collect();
        let unchosen = self.unchosen.iter().map(lines::unchosen);
        report.bridges.extend(unchosen);
        report
    }

    /// A script that makes them, or takes them away.
    pub fn script(&self, task: Task) -> String {
        script(task, &self.bridges, self.set_aside)
    }

    fn begun(&self) -> BridgeReport {
        BridgeReport {
            beyond_help: self.asked.beyond_help,
            to_rewrite: self.asked.to_rewrite,
            left: self.asked.left.clone(),
            ..BridgeReport::default()
        }
    }
}

/// The links that stand at the old places of the job's moves, and what goes through each, if that was
/// `asked`.
pub fn standing(job: &Job<'_>, asked: Option<&Asked>) -> BridgeReport {
    let moves = job.sheet.moves.iter();
    let names = moves.flat_map(|one| one.names().map(move |name| (name, &one.to)));
    let mut report = BridgeReport {
        only_standing: true,
        left: asked.map(|asked| asked.left.clone()).unwrap_or_default(),
        ..BridgeReport::default()
    };
    let mut seen = Vec::new();
    for link in names.flat_map(|(name, new)| existing(job.resolver, name, new)) {
        if seen.contains(&link.path) {
            continue;
        }
        seen.push(link.path.clone());
        let serves = asked.map(|asked| served(&asked.naming, &link.old));
        report.bridges.push(lines::of_existing(&link, serves));
    }
    report
}

/// How much of what is needed lies at or below a place.
fn served(needs: &[Need], old: &Place) -> Served {
    let through: Vec<&Need> = needs.iter().filter(|need| need.old.is_under(old)).collect();
    let mut files: Vec<usize> = through.iter().map(|need| need.file).collect();
    files.sort_unstable();
    files.dedup();
    Served {
        references: through.len(),
        files: files.len(),
    }
}
