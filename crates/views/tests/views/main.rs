//! The views through their public functions: each draws into a vector.

#![expect(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

mod files;
mod media;
mod pages;
mod plans;
mod screens;
mod trees;

/// What is left when the colours are taken away; the rest of an escape sequence would show in it.
fn without_colours(text: &str) -> String {
    let mut parts = text.split("\u{1b}[");
    let first = parts.next().unwrap_or_default().to_owned();
    parts.fold(first, |text, part| text + part.split_once('m').map_or(part, |(_, rest)| rest))
}
