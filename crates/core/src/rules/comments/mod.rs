//! Finding the comments of a text, language by language. All that only looks like a comment is stepped over: quoted text of every shape, code
//! inside it, documents, patterns, markup. Where a small reader cannot be sure, it says *text*: two files that differ are never told as
//! equal because of a wrong guess.
//!
//! Most languages are rows of a table ([`super::languages`]) that steer one reader of code; those whose grammar is their own have a reader of
//! their own. Every byte is passed a bounded number of times.

mod code;
mod documents;
mod features;
mod jsx;
mod make;
mod markup;
mod perl;
mod raw_quotes;
mod ruby;
mod scan;
mod shell;
mod tex;
mod yaml;

use std::ops::Range;

use super::syntax::{Reader, Syntax};
use scan::{Scan, Stop};

/// The comments of a text, in order, without the line end of the last line of each.
///
/// ```
/// use tideline_core::internal::rules::{comments, languages::Syntax};
///
/// let found = comments(b"a(); // \"one\"\nb(\"// none\");\n", Syntax::of("x.c").unwrap());
/// assert_eq!(found, [5..13]);
/// ```
pub fn comments(text: &[u8], syntax: &Syntax) -> Vec<Range<usize>> {
    let mut scan = Scan::new(text);
    match syntax.reader {
        Reader::Code => code::code(&mut scan, syntax, Stop::End),
        Reader::Html => markup::page(&mut scan, true, None),
        Reader::Xml => markup::page(&mut scan, false, None),
        Reader::Islands => markup::islands(&mut scan, syntax),
        Reader::Shell => shell::script(&mut scan),
        Reader::Ruby => ruby::code(&mut scan, syntax, Stop::End),
        Reader::Perl => perl::program(&mut scan),
        Reader::Yaml => yaml::stream(&mut scan),
        Reader::Tex => tex::document(&mut scan),
        Reader::Make => make::makefile(&mut scan),
    }
    scan.found
}
