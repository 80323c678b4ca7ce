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
    let before = tree(&desk.path("herbarium/profile"));
    let survey = run("survey", &[]).ends_with(0).json();
    assert_eq!(
        (survey["references"].as_u64(), survey["files"].as_u64()),
        (Some(109), Some(37))
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
    assert_eq!(totals(&preview, &standings), [74, 4, 4, 1, 1, 1, 2, 7]);
    let rewrite = run("rewrite", &["--yes", "--record-dir", "fresh"])
        .ends_with(1)
        .json();
    assert_eq!(rewrite["done"]["rewritten_references"], 74);
    assert_eq!(rewrite["done"]["rewritten_files"], 30);
    let check = run("check", &[]).ends_with(1).json();
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
        [87, 75, 5, 0, 6, 1]
    );
    desk.run(["restore", "--record-dir", "fresh"]).ends_with(0);
    assert_eq!(tree(&desk.path("herbarium/profile")), before);
}
