//! Documents of every format, read whole, in portions and in windows. The first byte says which.
#![no_main]

use lastmaker_core::format::FORMATS;

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let Some((kind, document)) = bytes.split_first() else {
        return;
    };
    let mut samples = FORMATS.iter().flat_map(|format| format.samples()).cycle();
    if let Some(sample) = samples.nth(usize::from(*kind)) {
        lastmaker_fuzz::every_way::planned_alike(document, sample.file, &lastmaker_fuzz::sheet());
    }
});
