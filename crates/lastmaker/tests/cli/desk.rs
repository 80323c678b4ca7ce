//! A folder of its own for each test, and the program run in it.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use tempfile::TempDir;

/// The move that most tests make.
pub(crate) const MOVE: &str = r"D:\Herbarium=H:\Collections\Herbarium";

/// The same move for whoever needs to say where the new drive is seen, and where records are kept.
pub(crate) const SEEN_MOVE: [&str; 6] = [
    "--move",
    MOVE,
    "--seen-at",
    r"H:\=disks/h",
    "--record-dir",
    "records",
];

/// A folder with files, and `disks/h` standing in for `H:\`.
pub(crate) struct Desk {
    folder: TempDir,
}

/// What a run of the program brought.
pub(crate) struct Ran {
    pub(crate) code: i32,
    pub(crate) out: String,
    pub(crate) err: String,
}

impl Ran {
    /// Checks the exit code, and shows everything if it is another.
    #[track_caller]
    pub(crate) fn ends_with(self, code: i32) -> Self {
        assert_eq!(
            self.code, code,
            "\n-- out --\n{}\n-- err --\n{}",
            self.out, self.err
        );
        self
    }

    /// The results as JSON.
    pub(crate) fn json(&self) -> serde_json::Value {
        serde_json::from_str(&self.out).unwrap()
    }
}

impl Desk {
    pub(crate) fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        fs::create_dir_all(folder.path().join("disks/h/Collections/Herbarium/Sheets")).unwrap();
        Self { folder }
    }

    /// Adds a file and gives the desk back, for chains.
    pub(crate) fn file(self, name: &str, content: impl AsRef<[u8]>) -> Self {
        self.put(name, content);
        self
    }

    pub(crate) fn put(&self, name: &str, content: impl AsRef<[u8]>) {
        let path = self.path(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, content).unwrap();
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub(crate) fn read(&self, name: &str) -> Vec<u8> {
        fs::read(self.path(name)).unwrap_or_else(|error| panic!("{name}: {error}"))
    }

    pub(crate) fn text(&self, name: &str) -> String {
        String::from_utf8(self.read(name)).unwrap()
    }

    /// The program with nothing of the environment but what its system needs: what the person
    /// who runs the tests has set there must not matter.
    pub(crate) fn program(&self) -> Command {
        let mut program = Command::new(env!("CARGO_BIN_EXE_lastmaker"));
        program.env_clear();
        for name in ["SystemRoot", "WINEPREFIX", "PATH"] {
            program.envs(std::env::var_os(name).map(|value| (name, value)));
        }
        let own = ["HOME", "USERPROFILE", "APPDATA", "LOCALAPPDATA"];
        program.envs(own.map(|name| (name, self.folder.path())));
        program.envs(["TEMP", "TMP", "TMPDIR"].map(|name| (name, std::env::temp_dir())));
        program
    }

    /// Runs the program with these arguments and nothing else.
    #[must_use]
    pub(crate) fn run<'a>(&self, arguments: impl IntoIterator<Item = &'a str>) -> Ran {
        self.run_in(".", arguments)
    }

    /// The same in a folder below.
    #[must_use]
    pub(crate) fn run_in<'a>(
        &self,
        folder: &str,
        arguments: impl IntoIterator<Item = &'a str>,
    ) -> Ran {
        let mut program = self.program();
        program.current_dir(self.path(folder)).args(arguments);
        ran(program)
    }

    /// The same with a variable of the environment.
    #[must_use]
    pub(crate) fn run_with<'a>(
        &self,
        variable: &str,
        value: &str,
        arguments: impl IntoIterator<Item = &'a str>,
    ) -> Ran {
        let mut program = self.program();
        program.current_dir(self.path(".")).args(arguments);
        program.env(variable, value);
        ran(program)
    }

    /// Runs a command on the folder `files` with the usual move; records go to `records`.
    #[must_use]
    pub(crate) fn with_move(&self, command: &str, more: &[&str]) -> Ran {
        let mut arguments = vec![
            command,
            "files",
            "--move",
            MOVE,
            "--seen-at",
            r"H:\=disks/h",
        ];
        if command != "check" {
            arguments.extend(["--record-dir", "records"]);
        }
        arguments.extend(more);
        self.run(arguments)
    }

    #[must_use]
    pub(crate) fn rewrite(&self, more: &[&str]) -> Ran {
        let mut all = vec!["--yes", "--anyway"];
        all.extend(more);
        self.with_move("rewrite", &all)
    }

    #[must_use]
    pub(crate) fn restore(&self, more: &[&str]) -> Ran {
        let mut all = vec!["restore", "--record-dir", "records", "--yes"];
        all.extend(more);
        self.run(all)
    }

    /// The names of the records, the oldest first.
    pub(crate) fn ids(&self) -> Vec<String> {
        let name = |path: &PathBuf| path.file_name().unwrap().to_string_lossy().into_owned();
        self.records().iter().map(name).collect()
    }

    /// The records' folders, the oldest first.
    pub(crate) fn records(&self) -> Vec<PathBuf> {
        let mut all: Vec<PathBuf> = fs::read_dir(self.path("records"))
            .map(|entries| entries.map(|entry| entry.unwrap().path()).collect())
            .unwrap_or_default();
        // Of records of one second, that with a count is the later.
        all.sort_by_key(|path| {
            let name = path.file_name().unwrap().to_string_lossy().into_owned();
            (name[..name.len().min(15)].to_owned(), name.len(), name)
        });
        all
    }
}

/// Every file below `folder` with its content, in order.
pub(crate) fn tree(folder: &Path) -> Vec<(PathBuf, Vec<u8>)> {
    let mut all = Vec::new();
    let mut left = vec![folder.to_owned()];
    while let Some(next) = left.pop() {
        for entry in fs::read_dir(&next).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                left.push(path);
            } else {
                let name = path.strip_prefix(folder).unwrap().to_owned();
                all.push((name, fs::read(&path).unwrap()));
            }
        }
    }
    all.sort();
    all
}

/// A zip archive of these members.
pub(crate) fn archive(files: &[(&str, &[u8])]) -> Vec<u8> {
    let mut writer = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, content) in files {
        let options = zip::write::SimpleFileOptions::default();
        writer.start_file(*name, options).unwrap();
        std::io::Write::write_all(&mut writer, content).unwrap();
    }
    writer.finish().unwrap().into_inner()
}

fn ran(mut program: Command) -> Ran {
    let output = program.stdin(Stdio::null()).output().unwrap();
    Ran {
        code: output.status.code().unwrap(),
        out: String::from_utf8(output.stdout).unwrap(),
        err: String::from_utf8(output.stderr).unwrap(),
    }
}
