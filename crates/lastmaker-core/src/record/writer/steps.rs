//! Steps of a record: the manifest says what is about to be done, then it is done.

use super::{RecordWriter, Watch};
use crate::record::advice::with_advice;
use crate::record::manifest::{EntryState, Line};
use crate::record::{RecordError, Step};

impl RecordWriter {
    /// Does steps, one after another, and says of each what became of it. One that cannot be done is left,
    /// and so are those for which it was to make room: `goes_with_last` says of each whether it belongs to
    /// the one before it.
    ///
    /// # Errors
    /// Where the record itself cannot be written: what was not begun yet is as it was.
    pub fn take_steps(
        &mut self,
        steps: &[(Step, bool)],
        watch: &Watch<'_>,
    ) -> Result<Vec<EntryState>, RecordError> {
        let mut states: Vec<EntryState> = Vec::with_capacity(steps.len());
        for (step, goes_with_last) in steps {
            let before = states.last();
            let state = match before {
                Some(EntryState::Left(_)) if *goes_with_last => {
                    EntryState::Left("what it rests on could not be done".to_owned())
                }
                _ if watch.is_stopped() => EntryState::Left("the run was stopped".to_owned()),
                _ => self.take_step(step)?,
            };
            (watch.made)(1);
            states.push(state);
        }
        Ok(states)
    }

    fn take_step(&mut self, step: &Step) -> Result<EntryState, RecordError> {
        self.last += 1;
        self.end.entries += 1;
        self.manifest
            .add([Line::Step(self.last, Box::new(step.clone()))])?;
        let state = match step.take() {
            Ok(()) => EntryState::Done,
            Err(error) => EntryState::Left(why_not(step, &error)),
        };
        self.end.done += usize::from(state == EntryState::Done);
        self.manifest.add([Line::State(self.last, state.clone())])?;
        Ok(state)
    }
}

/// Why a step could not be done. Where links are refused as such, that says so.
fn why_not(step: &Step, error: &std::io::Error) -> String {
    // EPERM of symlink(2): the file system has no links.
    let without_links = cfg!(unix) && error.raw_os_error() == Some(1)
        || error.kind() == std::io::ErrorKind::Unsupported;
    // ERROR_PRIVILEGE_NOT_HELD.
    let without_right = cfg!(windows) && error.raw_os_error() == Some(1314);
    match step {
        Step::MakeLink { .. } if without_links => {
            format!("{error}; the disk has no links there (FAT, some shares)")
        }
        Step::MakeLink { .. } if without_right => format!(
            "{error}; symbolic links need a right of their own: turn the developer mode on, or run as administrator"
        ),
        _ => with_advice(error),
    }
}
