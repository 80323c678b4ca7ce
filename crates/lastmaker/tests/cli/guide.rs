//! Every command of the guide, run on the demo data as it stands there.

use crate::desk::Desk;

const GUIDE: &str = include_str!("../../../../docs/guide.md");

/// The roles of the guide, each with its commands.
fn roles() -> Vec<(&'static str, Vec<&'static str>)> {
    let parts = GUIDE.split("\n## Role: ").skip(1);
    let role = |part: &'static str| {
        let name = part.lines().next().unwrap();
        let block = part.split("```sh\n").nth(1).unwrap();
        let commands = block.split("```").next().unwrap().lines();
        (name, commands.collect())
    };
    parts.map(role).collect()
}

#[cfg(unix)]
#[test]
fn each_role_comes_through() {
    let roles = roles();
    assert_eq!(roles.len(), 6);
    for (role, commands) in roles {
        let desk = Desk::new();
        desk.run(["demo", "herbarium", "--no-pause"]).ends_with(0);
        std::fs::remove_dir_all(desk.path("herbarium/records")).unwrap();
        assert!(!commands.is_empty(), "{role}");
        for command in commands {
            let words = command.strip_prefix("lastmaker ").unwrap();
            let ran = desk.run_in("herbarium", words.split(' '));
            assert!(ran.code <= 1, "{role}: {command}\n{}\n{}", ran.out, ran.err);
        }
    }
}

#[test]
fn the_recipe_in_python_is_for_the_fields_that_there_are() {
    let page = include_str!("../../../../docs/json.md");
    let desk = Desk::new();
    desk.run(["demo", "herbarium"]).ends_with(0);
    let check = [
        "check",
        "--sheet",
        "herbarium/moves.toml",
        "--format",
        "json",
    ];
    let report = desk.run(check).json();
    let groups = report["groups"].as_array().unwrap();
    let cured = groups
        .iter()
        .filter(|group| group["cures"][0]["place"].is_string());
    assert!(cured.count() > 0 && page.contains("group.get(\"cures\", [])"));
    for list in ["references", "groups", "moves", "left"] {
        assert!(
            report[list].is_array() && page.contains(&format!("`{list}`")),
            "{list}"
        );
    }
}
