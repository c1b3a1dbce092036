//! A place in a text that is read, and the comments found so far.

use std::ops::Range;

use crate::internal::align::work;
use crate::internal::rules::syntax::Syntax;
use crate::internal::text::bytes::{is_letter_or_digit, line_end, line_start};
use crate::internal::text::words::line_end_len;

/// Code inside quoted text inside code is followed this deep; what lies deeper is taken for text.
const DEEPEST: usize = 40;
/// Longer words mean nothing in any language.
const LONGEST_WORD: usize = 64;

/// Where code ends.
#[derive(Clone, Copy, Debug)]
pub(super) enum Stop {
    /// Where the text ends.
    End,
    /// Before a mark, in any case of its letters.
    Mark(&'static str),
    /// Behind the bracket that closes one which was opened before; both brackets.
    Close(u8, u8),
}

/// Who reads the code inside quoted text.
pub(super) type ReadCode = fn(&mut Scan<'_>, &Syntax, Stop);

/// A place in a text.
pub(super) struct Scan<'t> {
    pub(super) text: &'t [u8],
    pub(super) at: usize,
    pub(super) found: Vec<Range<usize>>,
    /// How many quoted texts the code that is read stands in. Comments in there are stepped over, and are not told.
    depth: usize,
    /// How deep the code stands in other text at all.
    nesting: usize,
    /// Where the last comment ended, and where the code before it and before those that touch it ended.
    comment_end: usize,
    code_end: usize,
    /// Where the last quoted text ended.
    pub(super) quote_end: usize,
    /// How often what looked like an element of markup was none.
    pub(super) failures: usize,
}

impl<'t> Scan<'t> {
    pub(super) fn new(text: &'t [u8]) -> Self {
        Self {
            text,
            at: 0,
            found: Vec::new(),
            depth: 0,
            nesting: 0,
            comment_end: 0,
            code_end: 0,
            quote_end: 0,
            failures: 0,
        }
    }

    /// The same at a place.
    pub(super) fn at(text: &'t [u8], at: usize) -> Self {
        Self { at, ..Self::new(text) }
    }

    pub(super) fn is_at_end(&self) -> bool {
        self.at >= self.text.len()
    }

    /// The byte that comes so many behind the next; 0 beyond the text.
    pub(super) fn peek(&self, ahead: usize) -> u8 {
        self.text.get(self.at + ahead).copied().unwrap_or_default()
    }

    pub(super) fn rest(&self) -> &'t [u8] {
        &self.text[self.at.min(self.text.len())..]
    }

    pub(super) fn ahead(&self, mark: &str) -> bool {
        // Most often the first byte tells.
        let mark = mark.as_bytes();
        self.text.get(self.at) == mark.first() && self.rest().starts_with(mark)
    }

    /// Whether a mark comes next, in any case of its letters.
    pub(super) fn ahead_in_any_case(&self, mark: &str) -> bool {
        self.rest().get(..mark.len()).is_some_and(|head| head.eq_ignore_ascii_case(mark.as_bytes()))
    }

    /// The byte before the next; none at the start of the text.
    pub(super) fn before(&self) -> Option<u8> {
        self.at.checked_sub(1).and_then(|at| self.text.get(at)).copied()
    }

    /// The word that ends right here; of a very long one, its end.
    pub(super) fn word_before(&self) -> &'t [u8] {
        let length = self.text[..self.at].iter().rev().take(LONGEST_WORD).take_while(|byte| is_word(**byte)).count();
        &self.text[self.at - length..self.at]
    }

    /// The code that stands before, without white space and comments.
    pub(super) fn above(&self) -> &'t [u8] {
        let between = &self.text[self.comment_end.min(self.at)..self.at];
        let end = if between.trim_ascii_start().is_empty() { self.code_end } else { self.at };
        self.text[..end].trim_ascii_end()
    }

    /// Where a mark stands from some place on.
    pub(super) fn find(&self, mark: &[u8], from: usize) -> Option<usize> {
        let from = from.min(self.text.len());
        let rest = &self.text[from..];
        // Marks are short and mostly near: a search that is prepared first would take longer.
        let found = memchr::memchr_iter(*mark.first()?, rest).find(|at| rest[*at..].starts_with(mark));
        work::count(found.unwrap_or(rest.len()));
        found.map(|at| from + at)
    }

    /// The first byte of the line.
    pub(super) fn line_start(&self) -> usize {
        line_start(self.text, self.at)
    }

    /// The end of the line without its line end.
    pub(super) fn content_end(&self) -> usize {
        let end = content_end(self.text, self.at);
        work::count(end.saturating_sub(self.at));
        end
    }

    /// What of the line stands before.
    pub(super) fn line_before(&self) -> &'t [u8] {
        let start = self.line_start();
        work::count(self.at - start);
        &self.text[start..self.at]
    }

    /// Whether nothing but white space stands before on the line.
    pub(super) fn starts_line(&self) -> bool {
        let before = self.text[..self.at].iter().rev().find(|byte| **byte == b'\n' || !byte.is_ascii_whitespace());
        before.is_none_or(|byte| *byte == b'\n')
    }

    /// Goes on at a place.
    pub(super) fn go(&mut self, at: usize) {
        work::count(1);
        self.at = at.max(self.at).min(self.text.len());
    }

    /// Goes on behind so many bytes.
    pub(super) fn skip(&mut self, bytes: usize) {
        self.go(self.at + bytes);
    }

    /// Goes on behind a sign and what it escapes, which may be a line end of two bytes.
    pub(super) fn skip_escaped(&mut self) {
        self.skip(if self.peek(1) == b'\r' && self.peek(2) == b'\n' { 3 } else { 2 });
    }

    /// Goes on behind the bytes for which something holds.
    pub(super) fn skip_while(&mut self, holds: impl Fn(u8) -> bool) {
        let rest = self.rest();
        let run = rest.iter().position(|byte| !holds(*byte)).unwrap_or(rest.len());
        work::count(run);
        self.at += run;
    }

    /// Goes on behind a mark, or at the end of the text where it does not come.
    pub(super) fn skip_past(&mut self, mark: &[u8]) {
        let end = self.find(mark, self.at).map_or(self.text.len(), |at| at + mark.len());
        self.go(end);
    }

    /// Takes what is left of the line for text: it cannot be told for sure what it is.
    pub(super) fn line_is_text(&mut self) {
        self.go(self.content_end());
    }

    /// Takes all that is left for text.
    pub(super) fn rest_is_text(&mut self) {
        self.at = self.text.len();
    }

    /// Tells a comment from here up to a place.
    pub(super) fn comment(&mut self, end: usize) {
        let end = end.min(self.text.len());
        self.is_no_code(end);
        if self.depth == 0 && end > self.at {
            self.found.push(self.at..end);
        }
        self.go(end);
    }

    /// What comes up to a place is no code.
    pub(super) fn is_no_code(&mut self, end: usize) {
        let between = &self.text[self.comment_end.min(self.at)..self.at];
        if self.comment_end > self.at || !between.trim_ascii_start().is_empty() {
            self.code_end = self.at;
        }
        self.comment_end = end;
    }

    /// Reads code that stands in quoted text.
    pub(super) fn inside(&mut self, read: impl FnOnce(&mut Self)) {
        self.depth += 1;
        self.nested(read);
        self.depth -= 1;
    }

    /// Reads code that stands in other text, in which a comment is a comment.
    pub(super) fn nested(&mut self, read: impl FnOnce(&mut Self)) {
        if self.nesting >= DEEPEST {
            return self.rest_is_text();
        }
        self.nesting += 1;
        read(self);
        self.nesting -= 1;
    }

    /// The end of text between brackets that nest, or between two marks of one kind; a backslash takes its meaning from what follows. It begins
    /// here, with its opening mark. `None` where it does not end.
    pub(super) fn end_of_delimited(&self, from: usize, escapes: bool) -> Option<usize> {
        let open = *self.text.get(from)?;
        let close = closing(open);
        let mut depth = 0;
        let mut at = from + 1;
        while at < self.text.len() {
            match self.text[at] {
                b'\\' if escapes => at += 1,
                byte if byte == close && depth == 0 => return Some(at + 1),
                byte if byte == close => depth -= 1,
                byte if byte == open => depth += 1,
                _ => {}
            }
            at += 1;
        }
        work::count(self.text.len() - from);
        None
    }
}

/// What closes text that such a mark opens.
pub(super) fn closing(open: u8) -> u8 {
    match open {
        b'(' => b')',
        b'[' => b']',
        b'{' => b'}',
        b'<' => b'>',
        other => other,
    }
}

/// The end of a line without its line end.
pub(super) fn content_end(text: &[u8], at: usize) -> usize {
    let at = at.min(text.len());
    let end = line_end(text, at);
    end - line_end_len(&text[at..end])
}

/// Whether a line without its line end goes on in the next: it ends with a backslash that no other takes away.
pub(super) fn is_continued(line: &[u8]) -> bool {
    line.iter().rev().take_while(|byte| **byte == b'\\').count() % 2 == 1
}

pub(super) fn is_word(byte: u8) -> bool {
    byte == b'_' || is_letter_or_digit(byte)
}
