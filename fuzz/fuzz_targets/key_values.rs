//! Any bytes as the samples of every format are called.
#![no_main]

use lastmaker_core::format::FORMATS;

libfuzzer_sys::fuzz_target!(|input: (u8, &[u8])| {
    let (which, bytes) = input;
    let mut names = FORMATS
        .iter()
        .flat_map(|format| format.samples())
        .map(|sample| sample.file);
    let number = FORMATS
        .iter()
        .map(|format| format.samples().len())
        .sum::<usize>();
    let name = names.nth(usize::from(which) % number).expect("one of them");
    lastmaker_fuzz::obeys_the_law(bytes, name);
});
