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
        fs::write(path, content)
    };
    write("moves.toml".to_owned(), MOVES.to_owned()).map_err(not_laid_out)?;
    for station in 1..=STATIONS {
        for (path, content) in files_of(station) {
            write(path, content).map_err(not_laid_out)?;
        }
    }
    Ok(folder)
}

/// The files of a station: what it keeps, and what is on the new disks.
fn files_of(station: usize) -> Vec<(String, String)> {
    let year = 1950 + station % 70;
    let sheet = |number: usize| format!(r"Sheets\{year}\{:04}.tif", station * 10 + number);
    let sheets: Vec<String> = (0..SHEETS).map(sheet).collect();
    let old = |below: &str| format!(r"D:\Herbarium\{below}");
    let own = format!("stations/{station:03}");
    let lines = |line: &dyn Fn(&str) -> String| -> String {
        sheets.iter().map(|sheet| line(sheet)).collect()
    };
    let entries = lines(&|sheet| format!("    {:?},\n", old(sheet)));
    let map = old(&format!(r"Maps\{station:03}.map"));
    let mut files = vec![
        (
            format!("{own}/viewer/recent.json"),
            format!(
                "{{\n  \"recent\": [\n{}\n  ]\n}}\n",
                entries.trim_end_matches(",\n")
            ),
        ),
        (
            format!("{own}/viewer/slideshow.m3u"),
            format!("#EXTM3U\r\n{}", lines(&|sheet| old(sheet) + "\r\n")),
        ),
        (
            format!("{own}/printer/labels.ini"),
            format!(
                "[labels]\r\nfolder={}\r\nproof=\\\\mossbank\\press\\labels\\proof.lbl\r\n",
                old("Labels")
            ),
        ),
        (
            format!("{own}/printer/print.cmd"),
            format!(
                "@echo off\r\nfor %%f in ({}\\*.lbl) do print %%f\r\n",
                old("Labels")
            ),
        ),
        (
            format!("{own}/mapdesk/settings.reg"),
            format!(
                "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Software\\Map Desk\\{station}]\r\n\
                 \"Map\"=\"{}\"\r\n",
                map.replace('\\', r"\\")
            ),
        ),
        (
            format!("{own}/mapdesk/layers.xml"),
            format!(
                "<layers>\n  <layer>{map}</layer>\n  <layer>{}</layer>\n</layers>\n",
                old(r"Maps\base.map")
            ),
        ),
        (
            format!("{own}/catalog.csv"),
            format!(
                "number,file\r\n{}",
                lines(&|sheet| format!("{station},{}\r\n", old(sheet)))
            ),
        ),
        (
            format!("{own}/notes.md"),
            format!(
                "# Station {station}\n\nScans are in `{}`.\nThe box D:\\Herbarium Old stays.\n",
                old(&format!(r"Sheets\{year}"))
            ),
        ),
        (
            format!("{own}/index.html"),
            format!(
                "<!doctype html>\n<title>Station {station}</title>\n{}",
                lines(&|sheet| {
                    let address = old(sheet).replace('\\', "/");
                    format!("<p><a href=\"file:///{address}\">{sheet}</a></p>\n")
                })
            ),
        ),
        (
            format!("{own}/backup.sh"),
            "#!/bin/sh\ncp -r /mnt/d/Herbarium/Labels \"$1\"\n".to_owned(),
        ),
    ];
    let there = |below: &str| {
        let below = below.replace('\\', "/");
        (
            format!("disks/h/Collections/Herbarium/{below}"),
            String::new(),
        )
    };
    // Some sheets were lost on the way.
    let kept = sheets.iter().enumerate();
    let kept = kept.filter(|(number, _)| (station + number) % 40 != 0);
    files.extend(kept.map(|(_, sheet)| there(sheet)));
    files.push(there(&format!(r"Maps\{station:03}.map")));
    if station == 1 {
        files.push(there(r"Maps\base.map"));
        files.push(there(r"Labels\wide.lbl"));
        files.push((
            "disks/fernhall-press/labels/proof.lbl".to_owned(),
            String::new(),
        ));
    }
    files
}
