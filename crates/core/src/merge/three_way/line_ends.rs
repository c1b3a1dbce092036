//! Line ends and the final line end: merged as values of their own, so that a file whose line ends one side changed still merges line by line.

use std::borrow::Cow;

use super::options::Prefer;
use super::region::{MergedValue, Three};

/// How the lines of a text end.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LineEnds {
    /// All with a line feed.
    Lf,
    /// All with a carriage return and a line feed.
    CrLf,
}

impl LineEnds {
    /// The bytes that end a line.
    pub fn bytes(self) -> &'static [u8] {
        match self {
            Self::Lf => b"\n",
            Self::CrLf => b"\r\n",
        }
    }

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::Lf => "LF",
            Self::CrLf => "CR LF",
        }
    }
}

/// How a text ends its lines.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Found {
    /// It ends none.
    Nothing,
    /// All alike.
    All(LineEnds),
    /// Not all alike.
    Mixed,
}

fn found(text: &[u8]) -> Found {
    let Some(first) = memchr::memchr(b'\n', text) else { return Found::Nothing };
    if memchr::memchr(b'\r', text).is_none() {
        return Found::All(LineEnds::Lf);
    }
    let is_crlf = |at: usize| at > 0 && text[at - 1] == b'\r';
    let first = is_crlf(first);
    let is_mixed = memchr::memchr_iter(b'\n', text).any(|at| is_crlf(at) != first);
    match (is_mixed, first) {
        (true, _) => Found::Mixed,
        (false, true) => Found::All(LineEnds::CrLf),
        (false, false) => Found::All(LineEnds::Lf),
    }
}

/// What three texts have besides their lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Endings {
    /// How lines end. Nothing where that is mixed in one of the texts: then each line keeps its own.
    pub line_ends: Option<MergedValue<Option<LineEnds>>>,
    /// Whether the last line ends. Nothing of an empty text.
    pub final_newline: MergedValue<Option<bool>>,
}

/// A value of which a text may tell nothing: it then has that of the base, else that of the other.
fn filled<T: Copy + PartialEq>(values: Three<Option<T>>) -> MergedValue<Option<T>> {
    let Three { base, mine, theirs } = values;
    MergedValue::of(Three::new(base, mine.or(base).or(theirs), theirs.or(base).or(mine)))
}

impl Endings {
    /// Takes the endings off three texts: lines end with a line feed, the last one too.
    pub(super) fn taken_off(texts: Three<&mut Cow<'_, [u8]>>) -> Self {
        let mut texts = texts;
        let each = texts.as_ref().map(|text| found(text));
        let is_mixed = each.all().contains(&Found::Mixed);
        let ends = each.map(|found| match found {
            Found::All(ends) => Some(ends),
            Found::Nothing | Found::Mixed => None,
        });
        let final_newline = texts.as_ref().map(|text| text.last().map(|last| *last == b'\n'));
        for (text, ends) in
            [(&mut texts.base, ends.base), (&mut texts.mine, ends.mine), (&mut texts.theirs, ends.theirs)]
        {
            if ends == Some(LineEnds::CrLf) && !is_mixed {
                **text = Cow::Owned(without_carriage_returns(text));
            }
            if text.last().is_some_and(|last| *last != b'\n') {
                text.to_mut().push(b'\n');
            }
        }
        Self { line_ends: (!is_mixed).then(|| filled(ends)), final_newline: filled(final_newline) }
    }

    /// Gives a result the endings it is to have. A last line that is none of the texts' own keeps its line end.
    pub(super) fn put_on(&self, mut text: Vec<u8>, ends_in_mark: bool, prefer: Option<Prefer>) -> Vec<u8> {
        if self.final_newline.chosen(prefer) == Some(false) && !ends_in_mark && text.ends_with(b"\n") {
            text.pop();
        }
        match self.line_ends.map(|ends| ends.chosen(prefer)) {
            Some(Some(LineEnds::CrLf)) => with_carriage_returns(&text),
            _ => text,
        }
    }
}

fn without_carriage_returns(text: &[u8]) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(text.len());
    for line in text.split_inclusive(|byte| *byte == b'\n') {
        match line.strip_suffix(b"\r\n") {
            Some(line) => {
                bytes.extend_from_slice(line);
                bytes.push(b'\n');
            }
            None => bytes.extend_from_slice(line),
        }
    }
    bytes
}

fn with_carriage_returns(text: &[u8]) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(text.len() + text.len() / 16);
    for line in text.split_inclusive(|byte| *byte == b'\n') {
        match line.strip_suffix(b"\n") {
            Some(line) => {
                bytes.extend_from_slice(line);
                bytes.extend_from_slice(b"\r\n");
            }
            None => bytes.extend_from_slice(line),
        }
    }
    bytes
}
