//! The questions, one file each: a job in, a report out.

mod bridge;
mod broken_link;
mod change_files;
mod check;
mod compare;
mod condense;
mod explain;
mod formats;
mod history;
mod preview;
mod restore;
mod rewrite;
mod sheet;
mod survey;
mod trace;
mod written;

pub use bridge::{Asked, BridgePlan, asked, standing, take_away, take_back};
pub use change_files::ChangeFileFault;
pub use check::{CheckOptions, check};
pub use compare::Comparison;
pub use explain::{ExplainFault, explain};
pub use formats::{format_names, formats};
pub use history::{Forgotten, forget, history, to_forget};
pub use preview::preview;
pub use restore::{FoundRecord, RestorePlan, RestoreRefusal, RestoreWish, familiar, find_record};
pub use rewrite::{Prepared, RewriteOptions, RewriteRefusal, Settled, prepare, settle_unfinished};
pub use sheet::sheet;
pub use survey::survey;
pub use trace::{TraceOptions, trace};
