//! The journal on real files in a temporary folder, with every step of a run made to fail.

#![expect(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

mod faults;
mod runs;
mod staging;
mod support;
