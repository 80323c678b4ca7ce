//! One file a command: its arguments, and one function that runs it.

pub(crate) mod bridge;
pub(crate) mod check;
pub(crate) mod compare;
pub(crate) mod completions;
pub(crate) mod demo;
pub(crate) mod explain;
pub(crate) mod formats;
pub(crate) mod history;
pub(crate) mod manual;
pub(crate) mod preview;
pub(crate) mod restore;
pub(crate) mod rewrite;
pub(crate) mod sheet;
pub(crate) mod survey;
pub(crate) mod trace;
