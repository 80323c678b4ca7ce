//! The manifest of a record, whoever wrote it: what is read names nothing outside of its scope.
#![no_main]

use std::fs;
use std::path::{Component, PathBuf};
use std::sync::LazyLock;

use lastmaker_core::record::{Chain, Manifest, PathText, restore_items};
use libfuzzer_sys::fuzz_target;

/// The folder of a record, with one original.
static RECORD: LazyLock<PathBuf> = LazyLock::new(|| {
    let name = format!("lastmaker-fuzz-{}", std::process::id());
    let folder = std::env::temp_dir().join(name).join("20260101-120000");
    fs::create_dir_all(folder.join("originals")).expect("a folder can be made");
    fs::write(folder.join("originals/000001 a.ini"), "a").expect("a file can be made");
    folder
});

fuzz_target!(|bytes: &[u8]| {
    fs::write(RECORD.join("manifest.jsonl"), bytes).expect("the manifest can be written");
    let Ok(mut manifest) = Manifest::read(&RECORD) else {
        return;
    };
    let scope: Vec<PathBuf> = manifest
        .header
        .scope
        .iter()
        .map(PathText::to_path)
        .collect();
    for (entry, _) in &manifest.entries {
        for path in std::iter::once(&entry.path)
            .chain(&entry.links)
            .map(PathText::to_path)
        {
            assert!(
                scope.iter().any(|root| path.starts_with(root)),
                "{}",
                path.display()
            );
            assert!(!path.components().any(|part| part == Component::ParentDir));
        }
        let original = entry.original(&RECORD);
        assert_eq!(original.parent(), Some(&*RECORD.join("originals")));
    }
    manifest.seen_from("/nowhere".as_ref(), "/elsewhere".as_ref());
    let items = restore_items(&manifest, &Chain::default(), |path| {
        path.starts_with("/nowhere")
    });
    assert!(items.len() <= manifest.entries.len());
});
