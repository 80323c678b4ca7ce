//! Settings lines in every dialect, and other texts of keys and values.
#![no_main]

const NAMES: [&str; 16] = [
    "a.ini", "a.conf", "a.properties", "a.desktop", "a.service", "a.env", "a.pc", "a.m3u", "a.cue",
    "a.toml", "a.yaml", "a.csv", "options.txt", "a.sh", "a.ps1", "a.bat",
];

libfuzzer_sys::fuzz_target!(|input: (u8, &[u8])| {
    let (which, bytes) = input;
    lastmaker_fuzz::obeys_the_law(bytes, NAMES[usize::from(which) % NAMES.len()]);
});
