//! Is all of an old place also at its new one.

use std::fs::{self, File};
use std::path::Path;
use std::time::{Duration, SystemTime};

use serde_json::Value;

use crate::desk::Desk;

/// A desk with the same tree at `old` and `new`.
fn twice() -> Desk {
    let desk = Desk::new();
    for side in ["old", "new"] {
        for (name, content) in [
            ("Sheets/2019/0412.tif", "scan"),
            ("Sheets/2019/0413.tif", "scan two"),
            ("Sheets/2021/0871.tif", "another"),
            ("Maps/base.map", "map"),
            ("readme.txt", ""),
        ] {
            desk.put(&format!("{side}/{name}"), content);
            set_age(&desk.path(&format!("{side}/{name}")), 100_000);
        }
    }
    desk
}

/// Makes a file as old as so many seconds.
fn set_age(path: &Path, seconds: u64) {
    let time = SystemTime::now() - Duration::from_secs(seconds);
    let file = File::options().write(true).open(path).unwrap();
    file.set_modified(time).unwrap();
}

/// The differences of the only pair: `kind path`.
fn differences(report: &Value) -> Vec<String> {
    let all = report["pairs"][0]["differences"].as_array().unwrap();
    let told = |one: &Value| {
        format!(
            "{} {}",
            one["kind"].as_str().unwrap(),
            one["path"].as_str().unwrap()
        )
    };
    all.iter().map(told).collect()
}

#[test]
fn a_whole_copy() {
    let desk = twice();
    for more in [&[][..], &["--content"]] {
        let mut arguments = vec!["compare", "old", "new"];
        arguments.extend(more);
        let ran = desk.run(arguments.iter().copied()).ends_with(0);
        let how = if more.is_empty() {
            ""
        } else {
            ", by their contents"
        };
        let last = ran.out.lines().last().unwrap();
        assert_eq!(last, format!("whole: 5 files, 22 bytes on both sides{how}"));
    }
    let json = desk
        .run(["compare", "old", "new", "--format", "json"])
        .ends_with(0)
        .json();
    assert_eq!(
        (&json["command"], &json["whole"]),
        (&"compare".into(), &true.into())
    );
    let pair = &json["pairs"][0];
    assert_eq!(pair["old_files"], 5);
    assert_eq!(pair["new_bytes"], 22);
    assert_eq!(pair["stand_in"], false);
}

#[test]
fn each_fault_is_found_and_none_is_made_up() {
    // What is done to the new side, and the difference that it makes, by contents.
    type Fault = (&'static str, fn(&Desk), &'static [&'static str]);
    let cases: [Fault; 9] = [
        (
            "a file is gone",
            |desk| fs::remove_file(desk.path("new/Maps/base.map")).unwrap(),
            &["missing Maps/base.map"],
        ),
        (
            "a folder is gone",
            |desk| fs::remove_dir_all(desk.path("new/Sheets/2019")).unwrap(),
            &[
                "missing Sheets/2019/0412.tif",
                "missing Sheets/2019/0413.tif",
            ],
        ),
        (
            "a file was cut short",
            |desk| desk.put("new/Sheets/2019/0413.tif", "scan t"),
            &["size Sheets/2019/0413.tif"],
        ),
        (
            "a byte is another",
            |desk| desk.put("new/Sheets/2019/0413.tif", "scan twO"),
            &["content Sheets/2019/0413.tif"],
        ),
        (
            "a file more",
            |desk| desk.put("new/Maps/more.map", "more"),
            &["extra Maps/more.map"],
        ),
        (
            "an empty folder",
            |desk| fs::create_dir(desk.path("old/Empty")).unwrap(),
            &["missing Empty"],
        ),
        (
            "another name",
            |desk| fs::rename(desk.path("new/readme.txt"), desk.path("new/readme_.txt")).unwrap(),
            &["missing readme.txt", "extra readme_.txt"],
        ),
        (
            "a folder in the place of a file",
            |desk| {
                fs::remove_file(desk.path("new/readme.txt")).unwrap();
                fs::create_dir(desk.path("new/readme.txt")).unwrap();
            },
            &["kind readme.txt"],
        ),
        ("nothing", |_| {}, &[]),
    ];
    for (name, fault, expected) in cases {
        let desk = twice();
        fault(&desk);
        let ran = desk.run(["compare", "old", "new", "--content", "--format", "json"]);
        let code = i32::from(!expected.is_empty());
        let json = ran.ends_with(code).json();
        let mut expected: Vec<&str> = expected.to_vec();
        expected.sort_by_key(|line| line.split_once(' ').map(|(_, path)| path));
        assert_eq!(differences(&json), expected, "{name}");
    }
}

#[cfg(unix)]
#[test]
fn names_and_links_that_were_changed_on_the_way() {
    let desk = twice();
    desk.put("old/Gr\u{f6}n?.tif", "x");
    desk.put("new/GRO\u{308}N_.tif", "x");
    let link = |target: &str, name: &str| {
        std::os::unix::fs::symlink(target, desk.path(name)).unwrap();
    };
    link("readme.txt", "old/same");
    link("readme.txt", "new/same");
    link("Maps", "old/other");
    link("Sheets", "new/other");
    link("nowhere", "old/file");
    desk.put("new/file", "x");
    // Links from one side into the other are no copies, and no differences either.
    fs::remove_file(desk.path("old/Maps/base.map")).unwrap();
    link("../../new/Maps/base.map", "old/Maps/base.map");
    let json = desk
        .run(["compare", "old", "new", "--format", "json"])
        .ends_with(1)
        .json();
    assert_eq!(
        differences(&json),
        ["name Gr\u{f6}n?.tif", "link file", "link other"]
    );
    let pair = &json["pairs"][0];
    assert_eq!(pair["bridges"], 1);
    assert_eq!(pair["differences"][0]["new_name"], "GRO\u{308}N_.tif");
}

#[cfg(unix)]
#[test]
fn one_folder_is_no_copy_of_itself() {
    let desk = twice();
    std::os::unix::fs::symlink("new", desk.path("link")).unwrap();
    let ran = desk.run(["compare", "link", "new"]).ends_with(1);
    assert!(
        ran.out
            .contains("the old place is only a link to the new one"),
        "{}",
        ran.out
    );
    let json = desk
        .run(["compare", "new", "link", "--format", "json"])
        .ends_with(1)
        .json();
    assert_eq!(json["pairs"][0]["one_folder"], "new-is-link");
}

#[test]
fn a_stand_in_is_told_from_what_it_stands_for() {
    let desk = twice();
    for number in 0..20 {
        desk.put(&format!("new/more/{number}.tif"), "more");
        set_age(&desk.path(&format!("new/more/{number}.tif")), 50_000);
    }
    desk.put("thin/settings.ini", "made anew");
    let stand_in = |old: &str| {
        let ran = desk.run(["compare", old, "new", "--format", "json"]);
        ran.ends_with(1).json()["pairs"][0]["stand_in"].clone()
    };
    assert_eq!(stand_in("thin"), true);
    // One file of the old content, or one from before, and it is no stand-in.
    desk.put("thin/Maps/base.map", "map");
    assert_eq!(stand_in("thin"), false);
    fs::remove_dir_all(desk.path("thin/Maps")).unwrap();
    set_age(&desk.path("thin/settings.ini"), 200_000);
    assert_eq!(stand_in("thin"), false);
    fs::create_dir(desk.path("empty")).unwrap();
    assert_eq!(stand_in("empty"), true);
}

#[test]
fn what_was_changed_since_on_either_side() {
    let desk = twice();
    desk.put("old/readme.txt", "new words");
    let changed = |desk: &Desk| {
        let ran = desk.run(["compare", "old", "new", "--format", "json"]);
        let pair = ran.ends_with(1).json()["pairs"][0].clone();
        (pair["both_changed"].clone(), pair["differences"].clone())
    };
    let (both, differences) = changed(&desk);
    assert_eq!(
        (both, &differences[0]["newer"]),
        (false.into(), &"old".into())
    );
    desk.put("new/Maps/base.map", "a newer map");
    assert_eq!(changed(&desk).0, true);
    // A copy that is older and of the same size is read even if nobody asks for contents.
    let desk = twice();
    desk.put("old/Maps/base.map", "MAP");
    let (_, differences) = changed(&desk);
    assert_eq!(differences[0]["kind"], "content");
}

#[test]
fn all_moves_of_a_sheet_with_their_exceptions() {
    let desk = Desk::new();
    for name in ["Sheets/a.tif", "Maps/b.map", "Loans/c.doc"] {
        desk.put(&format!("disks/d/Herbarium/{name}"), name);
    }
    desk.put("disks/h/Collections/Herbarium/Sheets/a.tif", "Sheets/a.tif");
    desk.put("disks/m/Maps/b.map", "Maps/b.map");
    desk.put(
        "moves.toml",
        "[[move]]\nfrom = 'D:\\Herbarium'\nto = 'H:\\Collections\\Herbarium'\nexcept = ['D:\\Herbarium\\Loans']\n\
         [[move]]\nfrom = 'D:\\Herbarium\\Maps'\nto = 'M:\\Maps'\n\
         [seen-at]\n'D:\\' = 'disks/d'\n'H:\\' = 'disks/h'\n'M:\\' = 'disks/m'\n",
    );
    let ran = desk.run(["compare"]).ends_with(0);
    assert!(ran.out.contains("whole: 2 files"), "{}", ran.out);
    // By itself a pair of places has the exceptions of its move.
    let pair = [r"D:\Herbarium", r"H:\Collections\Herbarium"];
    desk.run(["compare", pair[0], pair[1]]).ends_with(0);
    let json = desk
        .run([
            "compare",
            "--no-sheet",
            "disks/d/Herbarium",
            "disks/h/Collections/Herbarium",
            "--format",
            "json",
        ])
        .ends_with(1)
        .json();
    assert_eq!(
        differences(&json),
        ["missing Loans/c.doc", "missing Maps/b.map"]
    );
    fs::remove_dir_all(desk.path("disks/m")).unwrap();
    let ran = desk.run(["compare"]).ends_with(1);
    assert!(
        ran.out.contains(r"M:\Maps is not seen from here"),
        "{}",
        ran.out
    );
}

#[test]
fn a_comparison_that_was_broken_off_goes_on_where_it_was() {
    let desk = twice();
    let journals = || -> Vec<std::path::PathBuf> {
        let mut found = Vec::new();
        let mut left = vec![desk.path(".")];
        while let Some(folder) = left.pop() {
            for entry in fs::read_dir(folder).unwrap() {
                let path = entry.unwrap().path();
                if path.is_dir() {
                    left.push(path);
                } else if path.extension().is_some_and(|end| end == "jsonl") {
                    found.push(path);
                }
            }
        }
        found
    };
    desk.run(["compare", "old", "new", "--content"])
        .ends_with(0);
    assert!(
        journals().is_empty(),
        "a comparison that is done is forgotten"
    );
    // What an earlier run found of a file that has not been changed since is not read again.
    let time = |name: &str| {
        let modified = fs::metadata(desk.path(name)).unwrap().modified().unwrap();
        modified
            .duration_since(SystemTime::UNIX_EPOCH)
            .unwrap()
            .as_nanos() as u64
    };
    let canonical = |name: &str| desk.path(name).canonicalize().unwrap();
    let mut hasher = blake3::Hasher::new();
    for side in ["old", "new"] {
        hasher.update(canonical(side).as_os_str().as_encoded_bytes());
        hasher.update(&[0]);
    }
    let name = format!("{}.jsonl", &hasher.finalize().to_hex()[..16]);
    let line = serde_json::json!({
        "path": blake3::hash(Path::new("Maps").join("base.map").as_os_str().as_encoded_bytes()).to_hex().as_str(),
        "size": 3,
        "times": [time("old/Maps/base.map"), time("new/Maps/base.map")],
        "same": false,
    });
    let folder = if cfg!(windows) {
        "lastmaker/comparisons"
    } else {
        ".local/state/lastmaker/comparisons"
    };
    desk.put(&format!("{folder}/{name}"), format!("{line}\n{{\"cut"));
    let json = desk
        .run(["compare", "old", "new", "--content", "--format", "json"])
        .ends_with(1)
        .json();
    assert_eq!(differences(&json), ["content Maps/base.map"]);
    assert!(journals().is_empty());
}

#[test]
fn what_cannot_be_compared_says_why() {
    let desk = twice();
    let cases: [(&[&str], &str); 5] = [
        (&["compare"], "nothing to compare"),
        (&["compare", "old", "nope"], "nope does not exist"),
        (&["compare", r"D:\Herbarium", "new"], "not seen from here"),
        (&["compare", "old/readme.txt", "new"], "is not a folder"),
        (
            &["compare", r"H:\Gone", "new", "--seen-at", r"H:\=disks/h"],
            "its root is seen",
        ),
    ];
    for (arguments, why) in cases {
        let ran = desk.run(arguments.iter().copied()).ends_with(2);
        assert!(ran.err.contains(why), "{arguments:?}: {}", ran.err);
    }
    // Named and left out.
    let ran = desk.run(["compare", "old", "new", "--skip", "Maps", "--only", "*.tif"]);
    assert!(ran.ends_with(0).out.contains("whole: 3 files"));
}
