//! JSON documents.
#![no_main]

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| lastmaker_fuzz::obeys_the_law(bytes, "a.json"));
