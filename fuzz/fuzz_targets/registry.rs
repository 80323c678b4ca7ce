//! Registry exports, of either version.
#![no_main]

libfuzzer_sys::fuzz_target!(|input: (bool, &[u8])| {
    let (old, rest) = input;
    let head: &[u8] = if old {
        b"REGEDIT4\r\n\r\n"
    } else {
        b"Windows Registry Editor Version 5.00\r\n\r\n"
    };
    lastmaker_fuzz::obeys_the_law(&[head, rest].concat(), "a.reg");
});
