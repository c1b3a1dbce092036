//! The journal: on a file system in memory where anything can happen, and on the real one.

#![expect(clippy::unwrap_used, reason = "a test that cannot go on fails")]

mod cases;
mod cut_off;
mod law;
mod model;
mod real;
mod staging;
