//! The least that any scan must do: a parallel walk that reads each file once into a reused
//! buffer and looks for one literal.
//!
//!     floor LITERAL FOLDER
//!
//! And the least that keeping originals must do: each file of a list copied into a folder and
//! synced, by as many threads as there are processors.
//!
//!     floor --keep LIST FOLDER

use std::cell::RefCell;
use std::fs::{self, File};
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};

use rayon::prelude::*;

thread_local! {
    static BUFFER: RefCell<Vec<u8>> = RefCell::new(vec![0; 4 << 20]);
}

fn walk<'s>(tasks: &rayon::Scope<'s>, folder: PathBuf, finder: &'s memchr::memmem::Finder<'_>, hits: &'s AtomicUsize) {
    let mut files = Vec::new();
    for entry in fs::read_dir(&folder).into_iter().flatten().flatten() {
        let kind = entry.file_type().unwrap();
        if kind.is_dir() {
            let path = entry.path();
            tasks.spawn(move |tasks| walk(tasks, path, finder, hits));
        } else if kind.is_file() {
            files.push(entry.path());
        }
    }
    for path in files {
        BUFFER.with_borrow_mut(|buffer| {
            let mut file = File::open(&path).unwrap();
            loop {
                let read = file.read(buffer).unwrap();
                if finder.find(&buffer[..read]).is_some() {
                    hits.fetch_add(1, Ordering::Relaxed);
                }
                if read < buffer.len() {
                    break;
                }
            }
        });
    }
}

fn keep(list: &str, folder: &Path) {
    fs::create_dir_all(folder).unwrap();
    let names = fs::read_to_string(list).unwrap();
    let names: Vec<&str> = names.lines().collect();
    names.par_iter().enumerate().for_each(|(index, name)| {
        let mut copy = File::create(folder.join(format!("{index:06}"))).unwrap();
        std::io::copy(&mut File::open(name).unwrap(), &mut copy).unwrap();
        copy.sync_all().unwrap();
    });
}

fn main() {
    let mut arguments = std::env::args().skip(1);
    let literal = arguments.next().expect("a literal");
    if literal == "--keep" {
        let list = arguments.next().expect("a list");
        return keep(&list, Path::new(&arguments.next().expect("a folder")));
    }
    let folder = PathBuf::from(arguments.next().expect("a folder"));
    let finder = memchr::memmem::Finder::new(literal.as_bytes());
    let hits = AtomicUsize::new(0);
    rayon::scope(|tasks| walk(tasks, folder, &finder, &hits));
    println!("{}", hits.into_inner());
}
