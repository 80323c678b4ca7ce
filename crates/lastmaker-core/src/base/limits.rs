//! How much memory and time one file may cost, so that a hostile one costs only itself.

use std::sync::{Condvar, Mutex};
use std::time::Duration;

use super::platform::thread_time;

/// What is kept of a reference while its document is planned, in bytes, roughly.
const OF_REFERENCE: u64 = 200;
/// What a reference costs in a string that is looked through as a whole, or in a part by itself, in
/// bytes, roughly.
const OF_FIND: u64 = 1_200;
/// What a reference costs until it is told, in bytes, roughly.
const OF_REFERENCE_AT_ONCE: u64 = 5_000;
/// How many references are planned at once.
const AT_ONCE: usize = 1_024;
/// How many times a document is in memory while it is planned.
const COPIES: u64 = 3;
/// Files up to this size, in bytes, wait for nobody.
const SMALL: u64 = 256 << 10;
/// What a file is reckoned to need at once, in times its size, its references included.
const RECKONED: u64 = 12;

/// What one file may cost at the most.
#[derive(Clone, Copy, Debug)]
pub struct Limits {
    /// How many references of it are planned.
    pub references: usize,
    /// How many of them are planned at once: those of a larger document come in portions.
    pub at_once: usize,
    /// How many there may be in one string, be it a whole text, or in all parts of a container.
    pub in_a_string: usize,
    /// How many there may be in a string that cannot be planned in portions.
    pub as_a_whole: usize,
    /// Until when, in time that this thread has worked.
    until: Option<Duration>,
}

impl Default for Limits {
    fn default() -> Self {
        Self {
            references: 1_000_000,
            at_once: AT_ONCE,
            in_a_string: 1_000_000,
            as_a_whole: 1_000_000,
            until: None,
        }
    }
}

impl Limits {
    /// Whether the time is over.
    pub(crate) fn is_late(&self) -> bool {
        self.until.is_some_and(|until| thread_time() > until)
    }
}

/// What a run may cost.
#[derive(Debug)]
pub struct Resources {
    /// Memory for the files in hand, in bytes.
    memory: u64,
    /// How long one file may take; none if that does not matter.
    patience: Option<Duration>,
    taken: Mutex<u64>,
    given_back: Condvar,
}

impl Resources {
    /// So much memory in bytes, and so much time for each file.
    pub fn new(memory: u64, patience: Option<Duration>) -> Self {
        Self {
            memory,
            patience,
            taken: Mutex::new(0),
            given_back: Condvar::new(),
        }
    }

    /// The largest document that there is room for, in bytes.
    pub fn largest_document(&self) -> u64 {
        self.memory / COPIES
    }

    /// Runs `work` on a file of `size` bytes when there is room for it, with what it may cost.
    pub(crate) fn spend<T>(&self, size: u64, work: impl FnOnce(Limits) -> T) -> T {
        self.spend_on(size, 1, work)
    }

    /// Runs `work` on a text of `size` bytes that is read in windows of `window` bytes: each may take the time of
    /// a file.
    pub(crate) fn spend_on_windows<T>(
        &self,
        size: u64,
        window: u64,
        work: impl FnOnce(Limits) -> T,
    ) -> T {
        let windows = 1 + size / window.max(1);
        self.spend_on(window, u32::try_from(windows).unwrap_or(u32::MAX), work)
    }

    fn spend_on<T>(&self, size: u64, files: u32, work: impl FnOnce(Limits) -> T) -> T {
        let room = self.memory.saturating_sub(COPIES * size);
        let room_for = |one: u64| usize::try_from(room / one).unwrap_or(usize::MAX);
        let limits = Limits {
            references: room_for(OF_REFERENCE),
            at_once: AT_ONCE,
            in_a_string: room_for(OF_FIND),
            as_a_whole: room_for(OF_REFERENCE_AT_ONCE),
            until: self
                .patience
                .map(|patience| thread_time() + patience * files),
        };
        if size <= SMALL {
            return work(limits);
        }
        let wanted = (size.saturating_mul(RECKONED)).min(self.memory);
        self.take(wanted);
        let _taken = Taken { from: self, wanted };
        work(limits)
    }

    fn take(&self, wanted: u64) {
        let Ok(mut taken) = self.taken.lock() else {
            return;
        };
        while *taken + wanted > self.memory && *taken > 0 {
            taken = match self.given_back.wait(taken) {
                Ok(taken) => taken,
                Err(_) => return,
            };
        }
        *taken += wanted;
    }
}

/// Memory that is in use.
struct Taken<'m> {
    from: &'m Resources,
    wanted: u64,
}

impl Drop for Taken<'_> {
    fn drop(&mut self) {
        if let Ok(mut taken) = self.from.taken.lock() {
            *taken = taken.saturating_sub(self.wanted);
        }
        self.from.given_back.notify_all();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_large_file_waits_until_there_is_room() {
        let means = Resources::new(64 << 20, None);
        let most = Mutex::new((0, 0));
        std::thread::scope(|scope| {
            for _ in 0..8 {
                scope.spawn(|| {
                    means.spend(3 << 20, |limits| {
                        assert_eq!(limits.references, (55 << 20) / 200);
                        let mut now = most.lock().unwrap();
                        now.0 += 1;
                        now.1 = now.1.max(now.0);
                        drop(now);
                        std::thread::sleep(Duration::from_millis(5));
                        most.lock().unwrap().0 -= 1;
                    });
                });
            }
        });
        assert_eq!(
            most.into_inner().unwrap(),
            (0, 1),
            "two need more than there is"
        );
    }

    #[test]
    fn time_is_what_the_thread_has_worked() {
        let means = Resources::new(1 << 20, Some(Duration::ZERO));
        let late = means.spend(1, |limits| {
            let mut sum = 0u64;
            for number in 0..10_000_000u64 {
                sum = sum.wrapping_mul(31).wrapping_add(number);
            }
            (limits.is_late(), sum)
        });
        assert!(late.0);
        assert!(!Limits::default().is_late());
    }
}
