//! Drives the built program on files in a temporary folder.

mod broken_off;
mod cases;
mod demo;
mod desk;
mod looking;
mod restoring;
mod rewriting;
mod sheets;
