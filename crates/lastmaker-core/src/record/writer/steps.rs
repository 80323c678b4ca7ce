//! Steps of a record: the manifest says what is about to be done, then it is done.

use super::{RecordWriter, Watch};
use crate::record::advice::with_advice;
use crate::record::manifest::{EntryState, Line};
use crate::record::{RecordError, Step};

impl RecordWriter {
    /// Does groups of steps, one after another, and says of each what became of it. Where a step cannot be
    /// done, those of its group that were are taken back.
    ///
    /// # Errors
    /// Where the record itself cannot be written: what was not begun yet is as it was.
    pub fn take_steps(
        &mut self,
        groups: &[Vec<Step>],
        watch: &Watch<'_>,
    ) -> Result<Vec<EntryState>, RecordError> {
        let mut states = Vec::with_capacity(groups.len());
        for group in groups {
            states.push(if watch.is_stopped() {
                EntryState::Left("the run was stopped".to_owned())
            } else {
                self.take_group(group)?
            });
            (watch.made)(1);
        }
        Ok(states)
    }

    fn take_group(&mut self, group: &[Step]) -> Result<EntryState, RecordError> {
        for (at, step) in group.iter().enumerate() {
            let state = self.take_step(step)?;
            if state != EntryState::Done {
                for done in group[..at].iter().rev() {
                    self.take_step(&done.reverse())?;
                }
                return Ok(state);
            }
        }
        Ok(EntryState::Done)
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
