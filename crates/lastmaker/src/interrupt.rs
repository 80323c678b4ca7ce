//! Ctrl-C and a request to end: while files are replaced the file in hand is finished, else the
//! program ends at once.

use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, LazyLock};

use signal_hook::consts::{SIGINT, SIGTERM};
use signal_hook::flag;

/// What a person or the system asked for.
#[derive(Default)]
struct Asked {
    /// Whether to stop.
    stop: Arc<AtomicBool>,
    /// By which signal; 0 if none came.
    signal: Arc<AtomicUsize>,
    /// Whether nothing is in hand.
    at_leisure: Arc<AtomicBool>,
}

static ASKED: LazyLock<Asked> = LazyLock::new(Asked::default);

/// Takes the signals from now on. Where that cannot be, they end the program as ever.
pub(crate) fn listen() {
    ASKED.at_leisure.store(true, Ordering::SeqCst);
    for signal in [SIGINT, SIGTERM] {
        let _ = flag::register_conditional_shutdown(signal, 128 + signal, ASKED.at_leisure.clone());
        let _ = flag::register_usize(signal, ASKED.signal.clone(), signal as usize);
        let _ = flag::register(signal, ASKED.stop.clone());
    }
}

/// Runs `work`, which is told by the flag to finish the file in hand and stop.
pub(crate) fn with_files_in_hand<T>(work: impl FnOnce(&AtomicBool) -> T) -> T {
    ASKED.at_leisure.store(false, Ordering::SeqCst);
    let result = work(&ASKED.stop);
    ASKED.at_leisure.store(true, Ordering::SeqCst);
    result
}

/// The exit code that tells by which signal the work was stopped.
pub(crate) fn code() -> Option<u8> {
    let signal = ASKED.signal.load(Ordering::SeqCst);
    (signal != 0).then(|| u8::try_from(128 + signal).unwrap_or(u8::MAX))
}
