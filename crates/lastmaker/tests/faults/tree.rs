//! A tree with one of each kind of file that is rewritten, and all that can be seen of it.

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
use std::path::{Path, PathBuf};

/// The place that the files name, and the one that it moved to.
pub(crate) const MOVE: &str = r"D:\Herbarium=H:\Collections\Herbarium";

/// Lays the tree out in the folder `root`.
pub(crate) fn lay_out(root: &Path) {
    let put = |name: &str, content: &[u8]| {
        let path = root.join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, content).unwrap();
    };
    put("viewer.ini", b"root=D:\\Herbarium\\Sheets\r\n");
    put("desk/maps.json", br#"{"maps": ["D:\\Herbarium\\Maps", 1]}"#);
    put("desk/.hidden/list.txt", b"D:\\Herbarium\\Loans\n");
    put("read-only.cfg", b"path = D:\\Herbarium\\x\n");
    put("other.txt", b"nothing of interest\n");
    let wide: Vec<u8> = "\u{feff}Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Desk]\r\n\"Root\"=\"D:\\\\Herbarium\"\r\n"
        .encode_utf16()
        .flat_map(u16::to_le_bytes)
        .collect();
    put("export.reg", &wide);
    database(&root.join("desk/catalog.db"));
    put("labels.zip", &archive());
    put("twice/one.ini", b"a=D:\\Herbarium\\one\n");
    fs::hard_link(root.join("twice/one.ini"), root.join("twice/two.ini")).unwrap();
    fs::hard_link(root.join("twice/one.ini"), root.join("desk/three.ini")).unwrap();
    symlink("/mnt/d/Herbarium/Sheets", root.join("sheets")).unwrap();
    symlink("viewer.ini", root.join("near")).unwrap();
    fs::set_permissions(
        root.join("read-only.cfg"),
        fs::Permissions::from_mode(0o440),
    )
    .unwrap();
    fs::set_permissions(root.join("viewer.ini"), fs::Permissions::from_mode(0o750)).unwrap();
}

fn database(path: &Path) {
    let database = rusqlite::Connection::open(path).unwrap();
    database
        .execute_batch(
            r"CREATE TABLE sheet (id INTEGER PRIMARY KEY, path TEXT);
              INSERT INTO sheet (path) VALUES ('D:\Herbarium\1.tif'), ('other'), ('D:\Herbarium\2.tif');",
        )
        .unwrap();
}

fn archive() -> Vec<u8> {
    let mut writer = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    let options = zip::write::SimpleFileOptions::default();
    for (name, content) in [("a.ini", "x=D:\\Herbarium\\a"), ("b.txt", "b")] {
        writer.start_file(name, options).unwrap();
        std::io::Write::write_all(&mut writer, content.as_bytes()).unwrap();
    }
    writer.finish().unwrap().into_inner()
}

/// All that can be seen of one file.
#[derive(Clone, PartialEq, Eq)]
pub(crate) struct Seen {
    /// What it holds, or where it leads.
    pub(crate) content: Vec<u8>,
    mode: u32,
    owner: (u32, u32),
    /// The first name of the same file.
    same_as: Option<PathBuf>,
}

impl std::fmt::Debug for Seen {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let content = String::from_utf8_lossy(&self.content[..self.content.len().min(80)]);
        write!(
            f,
            "{content:?} {:o} {:?} {:?}",
            self.mode, self.owner, self.same_as
        )
    }
}

/// All files below `root`, by their paths below it.
pub(crate) type Tree = BTreeMap<PathBuf, Seen>;

/// Looks at the tree.
pub(crate) fn look(root: &Path) -> Tree {
    let mut tree = Tree::new();
    let mut names: BTreeMap<u64, PathBuf> = BTreeMap::new();
    let mut paths = Vec::new();
    let mut left = vec![root.to_owned()];
    while let Some(folder) = left.pop() {
        for entry in fs::read_dir(folder).unwrap() {
            let entry = entry.unwrap();
            if entry.file_type().unwrap().is_dir() {
                left.push(entry.path());
            } else {
                paths.push(entry.path());
            }
        }
    }
    paths.sort();
    for path in paths {
        let below = path.strip_prefix(root).unwrap().to_owned();
        let metadata = fs::symlink_metadata(&path).unwrap();
        let content = match fs::read_link(&path) {
            Ok(target) => target.as_os_str().as_bytes().to_vec(),
            Err(_) => fs::read(&path).unwrap(),
        };
        let first = names.entry(metadata.ino()).or_insert_with(|| below.clone());
        let seen = Seen {
            content,
            mode: metadata.mode(),
            owner: (metadata.uid(), metadata.gid()),
            same_as: (metadata.nlink() > 1).then(|| first.clone()),
        };
        tree.insert(below, seen);
    }
    tree
}

/// What of `tree` is neither as in `old` nor as in `new`; where files are being joined, their
/// other names do not matter.
pub(crate) fn torn(tree: &Tree, old: &Tree, new: &Tree) -> Vec<String> {
    let mut torn = Vec::new();
    for (path, before) in old {
        let now = tree.get(path).map(|seen| &seen.content);
        if now != Some(&before.content) && now != Some(&new[path].content) {
            torn.push(format!("{}: {:?}", path.display(), tree.get(path)));
        }
    }
    torn
}
