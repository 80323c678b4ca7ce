//! What goes before a change and along with it: what is asked, what is told, how far it is, and that the file in hand
//! is finished where somebody stops the run.

pub(crate) mod choosing;
pub(crate) mod restoring;
pub(crate) mod rewriting;

use std::sync::atomic::{AtomicU64, Ordering};

use lastmaker_core::record::Watch;

use crate::interrupt::with_files_in_hand;
use crate::ui::Ui;

/// Runs what changes files, with a line that says how many of them are done.
pub(crate) fn changing_files<T>(
    ui: &Ui,
    what: &'static str,
    files: usize,
    work: impl FnOnce(&Watch<'_>) -> T,
) -> T {
    let counter = AtomicU64::new(0);
    let made = |made: usize| {
        counter.fetch_add(made as u64, Ordering::Relaxed);
    };
    ui.watch(what, &counter, Some(files as u64), || {
        with_files_in_hand(|stop| work(&Watch { made: &made, stop }))
    })
}

/// Runs what changes links, which are few.
pub(crate) fn changing_links<T>(work: impl FnOnce(&Watch<'_>) -> T) -> T {
    with_files_in_hand(|stop| {
        work(&Watch {
            made: &|_| {},
            stop,
        })
    })
}
