//! rewrite: every change made, nothing else touched, every refusal said.

use std::fs;

use crate::desk::{Desk, tree};

#[test]
fn every_reference_changes_and_the_record_takes_it_back() {
    let desk = Desk::new()
        .file(
            "files/a.ini",
            b"\xef\xbb\xbfroot=D:\\Herbarium\\Sheets\r\nother=D:\\Herb\r\n",
        )
        .file(
            "files/.hidden/b.json",
            r#"{"a":"D:\\Herbarium\\Sheets","b":"d:\/herbarium"}"#,
        )
        .file("files/untouched.txt", "D:\\Herbarium2");
    let before = tree(&desk.path("files"));
    let ran = desk.rewrite(&[]).ends_with(0);
    assert!(
        ran.out.contains("Rewrote 3 references in 2 files."),
        "{}",
        ran.out
    );
    assert_eq!(
        desk.read("files/a.ini"),
        b"\xef\xbb\xbfroot=H:\\Collections\\Herbarium\\Sheets\r\nother=D:\\Herb\r\n"
    );
    assert_eq!(
        desk.text("files/.hidden/b.json"),
        r#"{"a":"H:\\Collections\\Herbarium\\Sheets","b":"h:\/Collections\/Herbarium"}"#
    );
    let again = desk.rewrite(&[]).ends_with(0);
    assert!(again.out.contains("Nothing was to be rewritten."));
    assert_eq!(
        desk.records().len(),
        1,
        "a run that changes nothing makes no record"
    );
    desk.with_move("check", &[]).ends_with(0);
    let back = desk.restore(&[]).ends_with(0);
    assert!(back.out.contains("Put back 2 originals"));
    assert_eq!(tree(&desk.path("files")), before);
}

#[test]
fn without_a_terminal_it_needs_to_be_told() {
    let desk = Desk::new().file("files/a.ini", r"x=D:\Herbarium\Sheets");
    let ran = desk.with_move("rewrite", &[]).ends_with(2);
    assert!(ran.err.contains("--yes"), "{}", ran.err);
    assert_eq!(desk.text("files/a.ini"), r"x=D:\Herbarium\Sheets");
    assert!(desk.records().is_empty());
}

#[test]
fn a_wrong_folder_is_refused() {
    let desk = Desk::new();
    for index in 0..12 {
        desk.put(
            &format!("files/{index}.ini"),
            format!(r"x=D:\Herbarium\missing{index}"),
        );
    }
    let ran = desk.with_move("rewrite", &["--yes"]).ends_with(2);
    assert!(ran.err.contains("wrong folder"), "{}", ran.err);
    let unseen = desk.run([
        "rewrite",
        "files",
        "--yes",
        "--no-sheet",
        "--elsewhere",
        "--record-dir",
        "records",
        "--move",
        crate::desk::MOVE,
    ]);
    assert!(
        unseen
            .ends_with(2)
            .err
            .contains("none of the new places can be checked")
    );
    assert!(desk.records().is_empty());
    desk.rewrite(&[]).ends_with(0);
    assert_eq!(
        desk.text("files/3.ini"),
        r"x=H:\Collections\Herbarium\missing3"
    );
}

#[test]
fn swapped_drives_are_remembered() {
    let desk = Desk::new()
        .file("files/a.ini", "a=D:\\x\nb=E:\\y\n")
        .file("files/b.json", r#"["D:", "e:"]"#);
    let swap = [
        "rewrite",
        "files",
        "--no-sheet",
        "--yes",
        "--anyway",
        "--record-dir",
        "records",
        "--move",
        r"D:\=E:\",
        "--move",
        r"E:\=D:\",
    ];
    desk.run(swap).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), "a=E:\\x\nb=D:\\y\n");
    assert_eq!(desk.text("files/b.json"), r#"["E:", "d:"]"#);
    let again = desk.run(swap).ends_with(0);
    assert!(
        again.out.contains("Nothing was to be rewritten."),
        "{}",
        again.out
    );
    // A program saves: now nobody can tell which of its places are old.
    desk.put("files/a.ini", "a=E:\\x\nb=D:\\y\nc=D:\\z\n");
    let doubt = desk.run(swap).ends_with(1);
    assert!(doubt.out.contains("3 doubtful"), "{}", doubt.out);
    assert_eq!(desk.text("files/a.ini"), "a=E:\\x\nb=D:\\y\nc=D:\\z\n");
    let mut told = swap.to_vec();
    told.push("--again");
    desk.run(told).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), "a=D:\\x\nb=E:\\y\nc=E:\\z\n");
}

#[test]
fn a_move_into_itself_twice_and_after_a_restore() {
    let desk = Desk::new().file("files/a.ini", r"a=D:\Herbarium\x");
    let inner = [
        "rewrite",
        "files",
        "--no-sheet",
        "--yes",
        "--anyway",
        "--record-dir",
        "records",
        "--move",
        r"D:\Herbarium=D:\Herbarium\2026",
    ];
    for _ in 0..2 {
        desk.run(inner).ends_with(0);
        assert_eq!(desk.text("files/a.ini"), r"a=D:\Herbarium\2026\x");
    }
    desk.restore(&[]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), r"a=D:\Herbarium\x");
    desk.run(inner).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), r"a=D:\Herbarium\2026\x");
}

#[test]
fn its_own_files_are_never_touched() {
    let sheet = "[[move]]\nfrom = 'D:\\Herbarium'\nto = 'H:\\Collections\\Herbarium'\n[seen-at]\n'H:\\' = 'disks/h'\n[scan]\npaths = ['.']\n";
    let desk = Desk::new()
        .file("moves.toml", sheet)
        .file("a.ini", r"x=D:\Herbarium\Sheets");
    let run = [
        "rewrite",
        "--yes",
        "--record-dir",
        "records",
        "--out",
        "report.txt",
    ];
    let ran = desk.run(run).ends_with(0);
    assert!(ran.err.contains("Using the sheet moves.toml"));
    assert_eq!(desk.text("moves.toml"), sheet);
    assert_eq!(desk.text("a.ini"), r"x=H:\Collections\Herbarium\Sheets");
    let records = tree(&desk.path("records"));
    let report = desk.text("report.txt");
    assert!(report.contains("Rewrote 1 reference in 1 file."));
    // The old place is in the record, in the sheet and in the report; nothing is found.
    let again = desk
        .run(["preview", "--record-dir", "records", "--skip", "report.txt"])
        .ends_with(0);
    assert!(
        again.out.contains("0 references in 0 files would change"),
        "{}",
        again.out
    );
    assert_eq!(tree(&desk.path("records")), records);
}

#[test]
fn read_only_files_are_rewritten_and_stay_read_only() {
    let desk = Desk::new().file("files/a.ini", r"x=D:\Herbarium\Sheets");
    let mut permissions = fs::metadata(desk.path("files/a.ini"))
        .unwrap()
        .permissions();
    permissions.set_readonly(true);
    fs::set_permissions(desk.path("files/a.ini"), permissions).unwrap();
    assert!(
        desk.with_move("preview", &[])
            .ends_with(0)
            .out
            .contains("read-only and stays so")
    );
    desk.rewrite(&[]).ends_with(0);
    let still = |desk: &Desk| {
        fs::metadata(desk.path("files/a.ini"))
            .unwrap()
            .permissions()
            .readonly()
    };
    assert_eq!(
        desk.text("files/a.ini"),
        r"x=H:\Collections\Herbarium\Sheets"
    );
    assert!(still(&desk));
    desk.restore(&[]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), r"x=D:\Herbarium\Sheets");
    assert!(still(&desk));
    // The temporary folder must be able to go.
    #[cfg(windows)]
    {
        let mut permissions = fs::metadata(desk.path("files/a.ini"))
            .unwrap()
            .permissions();
        #[expect(
            clippy::permissions_set_readonly_false,
            reason = "on Windows it is one attribute"
        )]
        permissions.set_readonly(false);
        fs::set_permissions(desk.path("files/a.ini"), permissions).unwrap();
    }
}

#[cfg(unix)]
#[test]
fn modes_survive_there_and_back() {
    use std::os::unix::fs::PermissionsExt;
    let desk = Desk::new();
    let modes = [0o600, 0o640, 0o444, 0o755];
    let mode = |index: usize| {
        fs::metadata(desk.path(&format!("files/{index}")))
            .unwrap()
            .permissions()
            .mode()
            & 0o7777
    };
    for (index, bits) in modes.iter().enumerate() {
        desk.put(&format!("files/{index}"), r"x=D:\Herbarium\Sheets");
        fs::set_permissions(
            desk.path(&format!("files/{index}")),
            fs::Permissions::from_mode(*bits),
        )
        .unwrap();
    }
    let times: Vec<_> = (0..4)
        .map(|i| {
            fs::metadata(desk.path(&format!("files/{i}")))
                .unwrap()
                .modified()
                .unwrap()
        })
        .collect();
    desk.rewrite(&[]).ends_with(0);
    assert_eq!((0..4).map(mode).collect::<Vec<_>>(), modes);
    desk.restore(&[]).ends_with(0);
    assert_eq!((0..4).map(mode).collect::<Vec<_>>(), modes);
    let after: Vec<_> = (0..4)
        .map(|i| {
            fs::metadata(desk.path(&format!("files/{i}")))
                .unwrap()
                .modified()
                .unwrap()
        })
        .collect();
    assert_eq!(after, times);
    let record = fs::metadata(&desk.records()[0])
        .unwrap()
        .permissions()
        .mode()
        & 0o077;
    let store = fs::metadata(desk.path("records"))
        .unwrap()
        .permissions()
        .mode()
        & 0o077;
    assert_eq!(record & store, 0, "nobody else may look into records");
}

#[cfg(unix)]
#[test]
fn names_of_one_file_stay_joined_or_are_left() {
    use std::os::unix::fs::MetadataExt;
    let desk = Desk::new()
        .file("files/a.ini", r"x=D:\Herbarium\Sheets")
        .file("files/sub/c.ini", r"x=D:\Herbarium\Sheets");
    fs::hard_link(desk.path("files/a.ini"), desk.path("files/sub/b.ini")).unwrap();
    fs::create_dir(desk.path("outside")).unwrap();
    fs::hard_link(desk.path("files/sub/c.ini"), desk.path("outside/d.ini")).unwrap();
    let ran = desk.rewrite(&[]).ends_with(1);
    assert!(ran.out.contains("1 doubtful"), "{}", ran.out);
    let inode = |name: &str| fs::metadata(desk.path(name)).unwrap().ino();
    assert_eq!(
        desk.text("files/sub/b.ini"),
        r"x=H:\Collections\Herbarium\Sheets"
    );
    assert_eq!(inode("files/a.ini"), inode("files/sub/b.ini"));
    assert_eq!(desk.text("files/sub/c.ini"), r"x=D:\Herbarium\Sheets");
    desk.restore(&[]).ends_with(0);
    assert_eq!(desk.text("files/sub/b.ini"), r"x=D:\Herbarium\Sheets");
    assert_eq!(inode("files/a.ini"), inode("files/sub/b.ini"));
    assert_eq!(
        fs::read_dir(desk.path("files")).unwrap().count(),
        2,
        "nothing is left beside the files"
    );
}

#[test]
fn encodings_can_be_said() {
    let desk = Desk::new().file("files/a.ini", b"x=D:\\Herbarium\\Sheets\r\n");
    let to = "D:\\Herbarium=H:\\K\u{e4}fer";
    let run = |more: &[&str]| {
        let mut all = vec![
            "rewrite",
            "files",
            "--no-sheet",
            "--yes",
            "--anyway",
            "--record-dir",
            "records",
            "--move",
            to,
        ];
        all.extend(more);
        desk.run(all)
    };
    assert!(run(&[]).ends_with(1).out.contains("1 doubtful"));
    run(&["--encoding", "windows-1252"]).ends_with(0);
    assert_eq!(desk.read("files/a.ini"), b"x=H:\\K\xe4fer\\Sheets\r\n");
}

#[test]
fn a_large_text_is_rewritten_in_pieces() {
    let desk = Desk::new();
    let line = |place: &str| {
        format!(
            "{}\"{place}\\Sheets\"{}",
            "x".repeat(700_000),
            "y".repeat(900_000)
        )
    };
    desk.put("files/long.txt", line(r"D:\Herbarium"));
    let ran = desk.rewrite(&["--max-document", "1"]).ends_with(0);
    assert!(ran.out.contains("Rewrote 1 reference in 1 file."));
    assert!(desk.text("files/long.txt") == line(r"H:\Collections\Herbarium"));
    desk.restore(&[]).ends_with(0);
    assert!(desk.text("files/long.txt") == line(r"D:\Herbarium"));
}
