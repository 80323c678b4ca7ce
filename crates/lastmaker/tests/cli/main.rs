//! Drives the built program on files in a temporary folder.

#![allow(
    clippy::unwrap_used,
    clippy::disallowed_methods,
    reason = "these are tests"
)]

mod bridges;
mod broken_off;
mod cases;
mod catalogs;
mod comparing;
mod containers;
mod dangling;
mod deciding;
mod demo;
mod desk;
mod documents;
mod every_way;
mod explaining;
mod guide;
mod hostile;
mod limits;
mod links;
mod looking;
mod mixed_tree;
mod pages;
mod portable;
mod portable_variables;
mod recipes;
mod records;
mod registry_changes;
mod restoring;
mod rewriting;
mod schemas;
mod sheets;
mod snapshots;
mod spellings;
mod taking_back;
mod telling;
mod tracing;
