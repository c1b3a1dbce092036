//! A rename: whole words that are called one thing before and another after.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::Arc;

use memchr::memmem;

/// A rename, in one direction: what has the new name before and the old one after is not renamed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rename {
    old: Arc<[u8]>,
    new: Arc<[u8]>,
    /// Whether capital and small letters of ASCII are the same.
    any_case: bool,
}

impl Rename {
    /// Reads `OLD=NEW`, in which `\=`, `\,` and `\\` stand for the letters themselves. Nothing of what is malformed, or renames nothing.
    pub fn parse(text: &str) -> Option<Self> {
        let mut names = vec![String::new()];
        let mut letters = text.chars();
        while let Some(letter) = letters.next() {
            match letter {
                '\\' => {
                    let next = letters.next()?;
                    if !matches!(next, '=' | ',' | '\\') {
                        names.last_mut()?.push('\\');
                    }
                    names.last_mut()?.push(next);
                }
                '=' => names.push(String::new()),
                _ => names.last_mut()?.push(letter),
            }
        }
        let [old, new] = <[String; 2]>::try_from(names).ok()?;
        let is_name = |name: &str| !name.trim().is_empty() && !name.contains('\n');
        (is_name(&old) && is_name(&new) && old != new).then(|| Self {
            old: old.as_bytes().into(),
            new: new.as_bytes().into(),
            any_case: false,
        })
    }

    /// How a rename is written, if it can be one: names go over no line end, and stand as whole words.
    pub fn written(old: &[u8], new: &[u8]) -> Option<String> {
        let escaped = |name: &[u8]| {
            let name = std::str::from_utf8(name).ok()?;
            Some(name.replace('\\', "\\\\").replace('=', "\\=").replace(',', "\\,"))
        };
        let written = format!("{}={}", escaped(old)?, escaped(new)?);
        let read = Self::parse(&written)?;
        (*read.old == *old && *read.new == *new).then(|| format!("renamed:{written}"))
    }

    /// Whether a text is a name by itself, and not a part of an expression: it begins and ends as words do.
    pub fn is_name(text: &[u8]) -> bool {
        text.first().is_some_and(|byte| is_word(*byte)) && text.last().is_some_and(|byte| is_word(*byte))
    }

    /// Finds the names in capital and in small letters.
    pub(super) fn forget_case(&mut self) {
        (self.old, self.new) = (self.old.to_ascii_lowercase().into(), self.new.to_ascii_lowercase().into());
        self.any_case = true;
    }

    /// A line as the names are looked for in it.
    fn looked_through<'l>(&self, line: &'l [u8]) -> Cow<'l, [u8]> {
        if self.any_case { Cow::Owned(line.to_ascii_lowercase()) } else { Cow::Borrowed(line) }
    }

    /// What stands for the name on either side: the new one.
    pub(super) fn stands_for(&self) -> &Arc<[u8]> {
        &self.new
    }

    /// A text with the new name wherever it has the old one; nothing where it has none.
    pub(super) fn applied(&self, text: &[u8]) -> Option<Vec<u8>> {
        let found = occurrences(&self.looked_through(text), &self.old);
        let last = found.last()?.end;
        let mut renamed = Vec::with_capacity(text.len());
        let mut at = 0;
        for range in found {
            renamed.extend_from_slice(&text[at..range.start]);
            renamed.extend_from_slice(&self.new);
            at = range.end;
        }
        renamed.extend_from_slice(&text[last..]);
        Some(renamed)
    }

    /// Where a line has either name, as whole words, in order. Where one is a part of the other, the longer is meant.
    pub(super) fn find(&self, line: &[u8]) -> Vec<Range<usize>> {
        let line = &self.looked_through(line);
        let (old, new) = (occurrences(line, &self.old), occurrences(line, &self.new));
        let (mut found, mut others) = if self.old.len() > self.new.len() { (old, new) } else { (new, old) };
        let mut at = 0;
        others.retain(|range| {
            while found.get(at).is_some_and(|longer: &Range<usize>| longer.end <= range.start) {
                at += 1;
            }
            found.get(at).is_none_or(|longer| longer.start >= range.end)
        });
        found.extend(others);
        found.sort_unstable_by_key(|range| range.start);
        found
    }

    /// Whether names that stand in the same place are renamed the other way round.
    pub(super) fn is_reversed(&self, before: &[u8], after: &[u8]) -> bool {
        *self.looked_through(before) == *self.new && *self.looked_through(after) == *self.old
    }
}

/// Letters, digits and underscores belong to words, and so does every letter beyond ASCII.
fn is_word(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || byte == b'_' || !byte.is_ascii()
}

/// Where a name stands as whole words.
fn occurrences(line: &[u8], name: &[u8]) -> Vec<Range<usize>> {
    let is_whole = |at: &usize| {
        let (first, last) = (name[0], name[name.len() - 1]);
        let goes_on_before = is_word(first) && *at > 0 && is_word(line[at - 1]);
        let goes_on_behind = is_word(last) && line.get(at + name.len()).is_some_and(|byte| is_word(*byte));
        !goes_on_before && !goes_on_behind
    };
    memmem::find_iter(line, name).filter(is_whole).map(|at| at..at + name.len()).collect()
}
