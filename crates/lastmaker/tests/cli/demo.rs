//! The demo: the whole job on the shipped data, with exact counts.

use crate::desk::{Desk, tree};

#[test]
fn the_whole_job_runs_and_ends_where_it_began() {
    let desk = Desk::new();
    let ran = desk.run(["demo", "herbarium"]).ends_with(0);
    assert!(
        ran.out
            .contains("Every file is what it was before the rewrite."),
        "{}",
        ran.out
    );
    assert!(
        desk.run(["demo", "herbarium"])
            .ends_with(2)
            .err
            .contains("not empty")
    );
}

#[test]
fn counts_on_the_demo_data() {
    let desk = Desk::new();
    desk.run(["demo", "herbarium"]).ends_with(0);
    let sheet = ["--sheet", "herbarium/moves.toml", "--format", "json"];
    let run = |command: &str, more: &[&str]| {
        let mut all = vec![command];
        all.extend(sheet);
        all.extend(more);
        desk.run(all)
    };
    let both = |folder: &str| tree(&desk.path("herbarium").join(folder));
    let before = (both("profile"), both("documents"));
    let survey = run("survey", &[]).ends_with(0).json();
    assert_eq!(
        (survey["references"].as_u64(), survey["files"].as_u64()),
        (Some(135), Some(46))
    );
    let preview = run("preview", &["--record-dir", "fresh"])
        .ends_with(1)
        .json();
    let totals = |report: &serde_json::Value, names: &[&str]| -> Vec<u64> {
        names
            .iter()
            .map(|name| report["totals"][name].as_u64().unwrap())
            .collect()
    };
    let standings = [
        "to_move",
        "kept",
        "doubtful",
        "malformed",
        "sealed",
        "collision",
        "notices",
        "in_history",
    ];
    assert_eq!(totals(&preview, &standings), [95, 5, 5, 1, 3, 2, 2, 7]);
    let rewrite = run("rewrite", &["--yes", "--record-dir", "fresh"])
        .ends_with(1)
        .json();
    assert_eq!(rewrite["done"]["rewritten_references"], 95);
    assert_eq!(rewrite["done"]["rewritten_files"], 37);
    let check = run("check", &["--record-dir", "fresh"]).ends_with(1).json();
    assert_eq!(
        totals(
            &check,
            &[
                "judged",
                "live",
                "dangling",
                "unreachable",
                "leftover",
                "malformed"
            ]
        ),
        [114, 98, 5, 0, 10, 1]
    );
    desk.run(["restore", "--record-dir", "fresh", "--yes"])
        .ends_with(0);
    assert!((both("profile"), both("documents")) == before);
}
