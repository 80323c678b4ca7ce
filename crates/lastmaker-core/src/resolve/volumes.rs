//! Volumes: disks that a sheet names by their label or serial number, and whether what a POSIX place
//! lies on is there at all.

use std::path::{Path, PathBuf};

use crate::base::platform::{self, VolumeName};
use crate::place::{Place, Root};
use crate::sheet::is_volume;

/// The folder that a sheet means where it says where a place is seen: a path, or a volume by its name
/// and a path on it (`label:HERBARIUM/Collections`). One that is not here now is no folder.
pub(super) fn meant(folder: &Path) -> PathBuf {
    let text = folder.to_string_lossy();
    let named = is_volume(&text).then(|| text.split_once(':')).flatten();
    let Some((kind, rest)) = named else {
        return folder.to_owned();
    };
    let (name, below) = rest.split_once(['/', '\\']).unwrap_or((rest, ""));
    let volume = match kind {
        "label" => VolumeName::Label(name),
        _ => VolumeName::Serial(name),
    };
    match platform::find_volume(volume) {
        Some(root) => root.join(below),
        None => folder.to_owned(),
    }
}

/// How many names of a POSIX place are those of the mount point that it lies on, if that is missing or
/// empty, seen below `root`.
pub(super) fn unmounted(root: &Path, place: &Place) -> Option<usize> {
    if place.root != Root::Posix {
        return None;
    }
    let names: Vec<&str> = place.components.iter().map(String::as_str).collect();
    let depth = match names[..] {
        ["run", "media", _, _, ..] => 4,
        ["media", _, _, ..] if !is_volume_itself(root, &names[..2]) => 3,
        ["media" | "Volumes" | "mnt", _, ..] => 2,
        _ => return None,
    };
    let mut point = root.to_owned();
    point.extend(&names[..depth]);
    // On a mount point itself nothing is missing.
    let below = names.len() > depth || !point.exists();
    let mut entries = point.read_dir().into_iter().flatten();
    (below && entries.next().is_none()).then_some(depth)
}

/// Whether a disk is mounted right at this folder, which else is a user's, with disks below it.
fn is_volume_itself(root: &Path, names: &[&str]) -> bool {
    let mut point = root.to_owned();
    point.extend(names);
    let (Some(above), true) = (point.parent(), point.is_dir()) else {
        return false;
    };
    platform::are_on_one_volume(above, &point) == Some(false)
        || point
            .read_dir()
            .into_iter()
            .flatten()
            .flatten()
            .any(|entry| {
                // A user's folder holds nothing but mount points.
                entry.file_type().is_ok_and(|kind| !kind.is_dir())
            })
}

#[cfg(test)]
mod tests {
    use std::fs;

    use super::*;

    #[test]
    fn what_lies_on_a_volume_that_is_not_there() {
        let root = tempfile::tempdir().unwrap();
        for folder in ["mnt/empty", "mnt/full/x", "media/ines/HERB/x", "srv"] {
            fs::create_dir_all(root.path().join(folder)).unwrap();
        }
        let cases = [
            ("/mnt/empty/a", true),
            ("/mnt/gone/a", true),
            ("/mnt/gone", true),
            ("/mnt/full/a", false),
            ("/media/ines/HERB/a", false),
            ("/media/ines/OTHER/a", true),
            ("/run/media/ines/HERB/a", true),
            ("/Volumes/Press/a", true),
            ("/srv/a", false),
            ("/mnt", false),
        ];
        for (written, expected) in cases {
            let place = Place::parse(written).unwrap();
            assert_eq!(
                unmounted(root.path(), &place).is_some(),
                expected,
                "{written}"
            );
        }
    }

    #[test]
    fn folders_that_are_no_volumes_stay() {
        for folder in ["disks/h", "label:never-seen-anywhere", "labels/x"] {
            assert_eq!(meant(Path::new(folder)), Path::new(folder));
        }
    }
}
