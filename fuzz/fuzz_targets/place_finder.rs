//! Any text: places come in order and within bounds, and rewriting them obeys the law.
#![no_main]

use lastmaker_core::place::{Finder, Hint};

libfuzzer_sys::fuzz_target!(|input: (u8, &str)| {
    let (kind, text) = input;
    let hint = Hint {
        value: kind & 1 != 0,
        command: kind & 2 != 0,
        arguments: kind & 4 != 0,
        drive: kind & 8 != 0,
        behind_backslash: kind & 16 != 0,
        slashes: kind & 32 != 0,
        exact: kind & 64 != 0,
        ..Hint::default()
    };
    let mut last = 0;
    for found in Finder::default().find(text, hint) {
        assert!(last <= found.start && found.start <= found.root_end);
        assert!(found.root_end <= found.hard_end && found.hard_end <= text.len());
        assert!(found.firm_end.is_none_or(|firm| firm <= found.hard_end));
        for token in &found.tokens {
            assert!(!text[token.clone()].is_empty());
        }
        let _ = found.other_reading(text);
        last = found.start;
    }
    lastmaker_fuzz::obeys_the_law(text.as_bytes(), if kind & 128 != 0 { "a.md" } else { "a.txt" });
});
