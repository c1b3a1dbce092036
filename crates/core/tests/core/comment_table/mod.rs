//! Tricky but ordinary texts, at least ten for each language: what is a comment in them stands between `«` and `»`, and nothing else is one. Text
//! that must count says `none`, comments say `one`.

mod documents;
mod programs;
mod scripts;

use std::ops::Range;

/// The name of a file in a language, and texts in it.
pub(crate) type Cases = (&'static str, &'static [&'static str]);

/// The cases of all languages.
pub(crate) fn all() -> impl Iterator<Item = &'static Cases> {
    scripts::CASES.iter().chain(programs::CASES).chain(documents::CASES)
}

/// A case without its marks, and the comments in it.
pub(crate) fn read(case: &str) -> (String, Vec<Range<usize>>) {
    let (mut text, mut found) = (String::new(), Vec::new());
    for part in case.split('«') {
        match part.split_once('»') {
            Some((comment, rest)) => {
                found.push(text.len()..text.len() + comment.len());
                text += comment;
                text += rest;
            }
            None => text += part,
        }
    }
    (text, found)
}
