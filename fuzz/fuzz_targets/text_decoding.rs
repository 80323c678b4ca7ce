//! Bytes of any encoding: each edit of the text is an edit of the same letters of the file.
#![no_main]

use lastmaker_core::layer::{Edit, Edits, splice};
use lastmaker_core::text::Text;

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let Some(text) = Text::open(bytes, None) else {
        return;
    };
    let length = text.content.len();
    let all = Edits::new(vec![Edit {
        span: 0..length,
        with: Vec::new(),
    }])
    .expect("one edit");
    let lifted = text.lift(all).expect("nothing to encode");
    assert_eq!(splice(bytes, &lifted), &bytes[..text.mark]);
    // A letter put in at any boundary leaves the bytes on both sides.
    let middle = (0..=length / 2)
        .rev()
        .find(|at| text.content.is_char_boundary(*at))
        .unwrap_or(0);
    let one = Edits::new(vec![Edit {
        span: middle..middle,
        with: b"x".to_vec(),
    }])
    .expect("one edit");
    let lifted = text.lift(one).expect("ASCII in every encoding");
    let edit = &lifted.as_slice()[0];
    let new = splice(bytes, &lifted);
    assert_eq!(&new[..edit.span.start], &bytes[..edit.span.start]);
    assert_eq!(
        &new[edit.span.start + edit.with.len()..],
        &bytes[edit.span.start..]
    );
    lastmaker_fuzz::obeys_the_law(bytes, "a.txt");
});
