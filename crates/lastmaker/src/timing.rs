//! What takes how long: for whoever asks with --stats, or with -vv for a bug report.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use lastmaker_core::base::phase::TARGET;
use tracing::field::{Field, Visit};
use tracing::span::{Attributes, Id, Record};
use tracing::{Event, Metadata, Subscriber};

use crate::ui::{FAINT, shown};

/// What is known of the phases so far.
#[derive(Default)]
struct Known {
    names: Vec<&'static str>,
    /// Of each phase, how often it was entered, and how long all threads were in it, phases within left aside.
    times: BTreeMap<usize, (u64, Duration)>,
}

/// Times the phases, and tells of files if that is wanted.
pub(crate) struct Timing {
    begun: Instant,
    known: Arc<Mutex<Known>>,
    /// Whether each file is told of.
    tells: bool,
}

thread_local! {
    /// The phases that this thread is in: which, since when, and how long it was in others meanwhile.
    static INSIDE: RefCell<Vec<(usize, Instant, Duration)>> = const { RefCell::new(Vec::new()) };
}

/// What was found out, to be told at the end.
pub(crate) struct Timed {
    begun: Instant,
    known: Arc<Mutex<Known>>,
}

/// Begins to time the run; `tells` says that files are told of too.
pub(crate) fn begin(tells: bool) -> Timed {
    let timing = Timing {
        begun: Instant::now(),
        known: Arc::default(),
        tells,
    };
    let timed = Timed {
        begun: timing.begun,
        known: Arc::clone(&timing.known),
    };
    // There is one run in a process, so nobody else listens.
    let _ = tracing::subscriber::set_global_default(timing);
    timed
}

impl Timed {
    /// Tells how long each phase took.
    pub(crate) fn tell(&self) {
        let known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        let whole = self.begun.elapsed();
        anstream::eprintln!("\n{FAINT}  phase    times       seconds, in all threads{FAINT:#}");
        for (phase, (times, spent)) in &known.times {
            let name = known.names.get(*phase).copied().unwrap_or_default();
            anstream::eprintln!("  {name:<7}  {times:>9}  {:>8.3}", spent.as_secs_f64());
        }
        anstream::eprintln!("  from start to end  {:>8.3}", whole.as_secs_f64());
    }
}

/// The words of an event.
#[derive(Default)]
struct Words(String);

impl Visit for Words {
    fn record_debug(&mut self, field: &Field, value: &dyn std::fmt::Debug) {
        let _ = match field.name() {
            "message" => write!(self.0, "{value:?}"),
            name => write!(self.0, "  {name}={value:?}"),
        };
    }
}

impl Subscriber for Timing {
    fn enabled(&self, metadata: &Metadata<'_>) -> bool {
        metadata.target() == TARGET && (metadata.is_span() || self.tells)
    }

    fn new_span(&self, span: &Attributes<'_>) -> Id {
        let name = span.metadata().name();
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        let at = match known.names.iter().position(|known| *known == name) {
            Some(at) => at,
            None => {
                known.names.push(name);
                known.names.len() - 1
            }
        };
        Id::from_u64(at as u64 + 1)
    }

    fn record(&self, _: &Id, _: &Record<'_>) {}

    fn record_follows_from(&self, _: &Id, _: &Id) {}

    fn event(&self, event: &Event<'_>) {
        let mut words = Words::default();
        event.record(&mut words);
        let at = self.begun.elapsed().as_secs_f64();
        anstream::eprintln!("{FAINT}{at:>9.4}{FAINT:#}  {}", shown(&words.0));
    }

    fn enter(&self, span: &Id) {
        let at = span.into_u64() as usize - 1;
        INSIDE.with_borrow_mut(|inside| inside.push((at, Instant::now(), Duration::ZERO)));
    }

    fn exit(&self, _: &Id) {
        INSIDE.with_borrow_mut(|inside| {
            let Some((at, since, others)) = inside.pop() else {
                return;
            };
            let spent = since.elapsed();
            if let Some((.., around)) = inside.last_mut() {
                *around += spent;
            }
            let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
            let (times, sum) = known.times.entry(at).or_default();
            *times += 1;
            *sum += spent.saturating_sub(others);
        });
    }
}
