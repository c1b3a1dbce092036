//! The built program on files in a temporary folder.

#![expect(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

mod applied_parts;
mod apply;
mod chosen;
mod compare;
mod config;
mod demo;
mod documents;
mod encodings;
mod explain;
mod golden;
mod help;
mod inventory;
mod json;
mod kinds;
mod layouts;
mod media;
mod merge;
mod packed;
mod patch;
mod reading;
mod readme;
mod report;
mod review;
mod revision;
mod rules;
mod safety;
mod support;
mod sync;
mod take;
mod tree_patch;
mod trees;
mod trouble;
mod views_agree;
mod watch;
