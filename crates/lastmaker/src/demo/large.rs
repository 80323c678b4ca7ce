//! A larger Linden Herbarium: some two thousand files of its stations, made up by number, so that whoever
//! looks at them sees how the output scales.

use std::fs;
use std::path::{Path, PathBuf};

use super::{Step, empty_folder, not_laid_out};
use crate::exit::Failure;

/// How many stations there are; each has the same files.
const STATIONS: usize = 200;

/// How many sheets a station names.
const SHEETS: usize = 8;

/// The sheet of the moves.
const MOVES: &str = r"# What moved in the stations of the Linden Herbarium.

[[move]]
from = 'D:\Herbarium'
to = 'H:\Collections\Herbarium'

[[move]]
from = '\\mossbank\press'
to = '\\fernhall\press'

# The disks are not in this machine: these folders stand in for them.
[seen-at]
'D:\' = 'disks/d'
'H:\' = 'disks/h'
'\\fernhall\press' = 'disks/fernhall-press'

[scan]
paths = ['stations']
";

/// The job on it, in the order in which it is done.
pub(crate) const LARGE_STEPS: &[Step] = &[
    Step {
        shows: "Two thousand files name the old drive. First the tables: moves, kinds of file, doubts by reason.",
        arguments: &["preview", "--summary"],
        code: 1,
    },
    Step {
        shows: "Then one list, in full: the new places that are not there.",
        arguments: &["preview", "--list", "missing"],
        code: 1,
    },
    Step {
        shows: "A trial first: one station, by its path.",
        arguments: &[
            "rewrite",
            "--only",
            "stations/017/**",
            "--yes",
            "--record-dir",
            "records",
        ],
        code: 1,
    },
    Step {
        shows: "The rest. What the trial did is done.",
        arguments: &["rewrite", "--yes", "--record-dir", "records"],
        code: 1,
    },
    Step {
        shows: "What is left, in a table.",
        arguments: &["check", "--summary", "--record-dir", "records"],
        code: 1,
    },
    Step {
        shows: "Take back the rewrite, and then the trial.",
        arguments: &["restore", "--record-dir", "records", "--yes"],
        code: 0,
    },
    Step {
        shows: "",
        arguments: &["restore", "--record-dir", "records", "--yes"],
        code: 0,
    },
];

/// Writes the files into an empty or new folder.
pub(crate) fn lay_out_large(dir: Option<&Path>) -> Result<PathBuf, Failure> {
    let folder = empty_folder(dir)?;
    let write = |path: String, content: String| {
        let path = folder.join(path);
        if let Some(parent) = path.parent() {
            fs::create_dir_all(parent)?;
        }
        #[expect(
            clippy::disallowed_methods,
            reason = "made-up data, in a folder that was empty"
        )]
        fs::write(path, content)
    };
    write("moves.toml".to_owned(), MOVES.to_owned()).map_err(not_laid_out)?;
    for station in 1..=STATIONS {
        let station = Station::new(station);
        for (path, content) in station.settings().into_iter().chain(station.documents()) {
            let path = format!("stations/{:03}/{path}", station.number);
            write(path, content).map_err(not_laid_out)?;
        }
        for path in station.data() {
            write(format!("disks/{path}"), String::new()).map_err(not_laid_out)?;
        }
    }
    Ok(folder)
}

/// One station, and what it scanned.
struct Station {
    number: usize,
    year: usize,
    /// Below the old folder.
    sheets: Vec<String>,
}

/// Some files, each with its path and content.
type Files = Vec<(&'static str, String)>;

fn old(below: &str) -> String {
    format!(r"D:\Herbarium\{below}")
}

impl Station {
    fn new(number: usize) -> Self {
        let year = 1950 + number % 70;
        let sheet = |nth: usize| format!(r"Sheets\{year}\{:04}.tif", number * 10 + nth);
        Self {
            number,
            year,
            sheets: (0..SHEETS).map(sheet).collect(),
        }
    }

    /// A line for each sheet.
    fn lines(&self, line: impl Fn(&str) -> String) -> String {
        self.sheets.iter().map(|sheet| line(sheet)).collect()
    }

    fn map(&self) -> String {
        format!(r"Maps\{:03}.map", self.number)
    }

    /// What its programs keep.
    fn settings(&self) -> Files {
        let entries = self.lines(|sheet| format!("    {:?},\n", old(sheet)));
        let map = old(&self.map());
        let labels = old("Labels");
        vec![
            (
                "viewer/recent.json",
                format!(
                    "{{\n  \"recent\": [\n{}\n  ]\n}}\n",
                    entries.trim_end_matches(",\n")
                ),
            ),
            (
                "viewer/slideshow.m3u",
                format!("#EXTM3U\r\n{}", self.lines(|sheet| old(sheet) + "\r\n")),
            ),
            (
                "printer/labels.ini",
                format!(
                    "[labels]\r\nfolder={labels}\r\nproof=\\\\mossbank\\press\\labels\\proof.lbl\r\n"
                ),
            ),
            (
                "printer/print.cmd",
                format!("@echo off\r\nfor %%f in ({labels}\\*.lbl) do print %%f\r\n"),
            ),
            (
                "mapdesk/settings.reg",
                format!(
                    "Windows Registry Editor Version 5.00\r\n\r\n\
                     [HKEY_CURRENT_USER\\Software\\Map Setup\\{}]\r\n\"Map\"=\"{}\"\r\n",
                    self.number,
                    map.replace('\\', r"\\")
                ),
            ),
            (
                "mapdesk/layers.xml",
                format!(
                    "<layers>\n  <layer>{map}</layer>\n  <layer>{}</layer>\n</layers>\n",
                    old(r"Maps\base.map")
                ),
            ),
        ]
    }

    /// What its people keep.
    fn documents(&self) -> Files {
        let Self { number, year, .. } = self;
        let link = |sheet: &str| {
            let address = old(sheet).replace('\\', "/");
            format!("<p><a href=\"file:///{address}\">{sheet}</a></p>\n")
        };
        vec![
            (
                "catalog.csv",
                format!(
                    "number,file\r\n{}",
                    self.lines(|sheet| format!("{number},{}\r\n", old(sheet)))
                ),
            ),
            (
                "notes.md",
                format!(
                    "# Station {number}\n\nScans are in `{}`.\nThe box D:\\Herbarium Old stays.\n",
                    old(&format!(r"Sheets\{year}"))
                ),
            ),
            (
                "index.html",
                format!(
                    "<!doctype html>\n<title>Station {number}</title>\n{}",
                    self.lines(link)
                ),
            ),
            (
                "backup.sh",
                "#!/bin/sh\ncp -r /mnt/d/Herbarium/Labels \"$1\"\n".to_owned(),
            ),
        ]
    }

    /// What lies on the new disks; some sheets were lost on the way.
    fn data(&self) -> Vec<String> {
        let there = |below: &str| format!(r"h\Collections\Herbarium\{below}").replace('\\', "/");
        let sheets = self.sheets.iter().enumerate();
        let kept = sheets.filter(|(nth, _)| !(self.number + nth).is_multiple_of(40));
        let mut all: Vec<String> = kept.map(|(_, sheet)| there(sheet)).collect();
        all.push(there(&self.map()));
        if self.number == 1 {
            all.extend([r"Maps\base.map", r"Labels\wide.lbl"].map(there));
            all.push("fernhall-press/labels/proof.lbl".to_owned());
        }
        all
    }
}
