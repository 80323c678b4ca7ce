//! Containers: what is written of them can be read again.
#![no_main]

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    lastmaker_fuzz::container_reads_what_it_writes(bytes);
});
