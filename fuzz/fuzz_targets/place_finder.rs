//! Any text: places come in order and within bounds, and rewriting them obeys the law.
#![no_main]

use lastmaker_core::scan::{Finder, Hint, Key};

libfuzzer_sys::fuzz_target!(|input: (u8, &str)| {
    let (kind, text) = input;
    let hint = match kind & 7 {
        0 => Hint::Prose,
        1 => Hint::Name,
        2 => Hint::KeyPath,
        3 => Hint::Word,
        4 => Hint::UriPath,
        5 => Hint::Command {
            titled: kind & 8 != 0,
        },
        _ => Hint::Value(Key {
            command: kind & 8 != 0,
            drive: kind & 16 != 0,
        }),
    };
    let mut last = 0;
    for found in Finder::default().find(text, hint) {
        assert!(last <= found.start && found.start <= found.root_end);
        assert!(found.root_end <= found.hard_end && found.hard_end <= text.len());
        assert!(found.firm_end.is_none_or(|firm| firm <= found.hard_end));
        for token in &found.tokens {
            assert!(!text[token.clone()].is_empty());
        }
        let _ = found.alias(text);
        last = found.start;
    }
    lastmaker_fuzz::obeys_the_law(
        text.as_bytes(),
        if kind & 128 != 0 { "a.md" } else { "a.txt" },
    );
});
