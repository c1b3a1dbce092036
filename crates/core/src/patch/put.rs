//! Putting a hunk that has a place into the text.

use std::ops::Range;

use super::model::{Hunk, LineRole};
use super::place::{Fit, Placed, Placer};
use crate::text::words::line_end_len;

impl Placer<'_, '_> {
    /// Puts a hunk in, `cut` context lines at its ends left out; `line` is where the first line of the rest belongs.
    pub(super) fn put(&mut self, hunk: &Hunk, line: usize, cut: (usize, usize), old: &[u32]) -> Fit {
        let rows = &hunk.lines[cut.0..hunk.lines.len() - cut.1];
        let kept = old.len() - cut.0 - cut.1;
        self.take_upto(line);
        let in_place = line..line + kept;
        let exact = rows
            .iter()
            .filter(|row| row.role != LineRole::New)
            .zip(in_place.clone())
            .all(|(row, at)| row.text == self.lines.get(at));
        let mut at = line;
        for row in rows {
            match row.role {
                LineRole::Context => {
                    self.text.extend_from_slice(self.lines.get(at));
                    at += 1;
                }
                LineRole::Gone => at += 1,
                LineRole::New => self.put_line(&row.text, exact, &in_place, at),
            }
        }
        self.taken = at;
        let begins = line as isize - cut.0 as isize;
        let differing = {
            let outer = (0..cut.0).chain(old.len() - cut.1..old.len());
            let holds = |offset: usize| {
                let at = begins + offset as isize;
                usize::try_from(at).ok().and_then(|at| self.numbers.get(at)) == Some(&old[offset])
            };
            outer.filter(|offset| !holds(*offset)).count()
        };
        self.drift = begins - hunk.before as isize;
        Fit::Placed(Placed {
            line: usize::try_from(begins).unwrap_or(0),
            offset: self.drift,
            differing,
            loosely: !exact,
        })
    }

    /// Puts a new line in. Where the lines of the hunk do not stand in the target byte for byte, it ends as those around it.
    fn put_line(&mut self, text: &[u8], exact: bool, in_place: &Range<usize>, at: usize) {
        let bare = &text[..text.len() - line_end_len(text)];
        let is_last = at >= self.lines.len();
        if self.text.last().is_some_and(|byte| *byte != b'\n') {
            // The line above was the last and had no line end.
            self.text.push(b'\n');
        }
        if exact && (text.ends_with(b"\n") || is_last) {
            return self.text.extend_from_slice(text);
        }
        let model = in_place.clone().chain(0..self.lines.len().min(1)).next().map(|line| self.lines.get(line));
        let end: &[u8] = match model {
            Some(line) if line.ends_with(b"\r\n") => b"\r\n",
            _ => b"\n",
        };
        let unended = self.lines.len().checked_sub(1).is_some_and(|last| !self.lines.get(last).ends_with(b"\n"));
        self.text.extend_from_slice(bare);
        if !(is_last && unended && !exact) {
            self.text.extend_from_slice(end);
        }
    }

    /// Takes lines of the target over as they are.
    pub(super) fn take_upto(&mut self, line: usize) {
        let line = line.min(self.lines.len());
        if line > self.taken {
            for at in self.taken..line {
                self.text.extend_from_slice(self.lines.get(at));
            }
            self.taken = line;
        }
    }
}
