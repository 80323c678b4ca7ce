//! The least that any scan must do: a parallel walk that reads each file once into a reused
//! buffer and looks for one literal.
//!
//!     floor LITERAL FOLDER

use std::cell::RefCell;
use std::fs::{self, File};
use std::io::Read;
use std::path::PathBuf;
use std::sync::atomic::{AtomicUsize, Ordering};

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

fn main() {
    let mut arguments = std::env::args().skip(1);
    let literal = arguments.next().expect("a literal");
    let folder = PathBuf::from(arguments.next().expect("a folder"));
    let finder = memchr::memmem::Finder::new(literal.as_bytes());
    let hits = AtomicUsize::new(0);
    rayon::scope(|tasks| walk(tasks, folder, &finder, &hits));
    println!("{}", hits.into_inner());
}
