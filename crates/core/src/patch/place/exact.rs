//! Hunks that stand where they were written, byte for byte: what most patches find, and told without numbering any line.

use super::super::model::{Hunk, HunkLine, LineRole};
use super::super::placement::{HunkPlacement, Placed, Placement};
use crate::internal::text::bytes::line_end;
use crate::internal::text::words::line_end_len;

/// Places the hunks of a file if all of them stand at their own lines in every byte, and none could be in already.
pub(super) fn place_exactly(target: &[u8], hunks: &[Hunk]) -> Option<Placement> {
    let mut walk = Walk { target, at: 0, line: 0, text: Vec::with_capacity(target.len() + target.len() / 8) };
    let fits = hunks.iter().map(|hunk| walk.hunk(hunk)).collect::<Option<Vec<HunkPlacement>>>()?;
    walk.text.extend_from_slice(&target[walk.at..]);
    Some(Placement { fits, text: walk.text })
}

struct Walk<'t> {
    target: &'t [u8],
    /// What is taken of the target, in bytes and in lines.
    at: usize,
    line: usize,
    text: Vec<u8>,
}

impl Walk<'_> {
    fn hunk(&mut self, hunk: &Hunk) -> Option<HunkPlacement> {
        let start = self.find(hunk.before)?;
        if hunk.old_lines().next().is_none() || self.stands_already(hunk, start) {
            return None;
        }
        self.text.extend_from_slice(&self.target[self.at..start]);
        self.at = start;
        for row in &hunk.lines {
            if row.text.is_empty() {
                return None;
            }
            if row.role != LineRole::New {
                self.at += self.target[self.at..].starts_with(&row.text).then_some(row.text.len())?;
                self.line += 1;
            }
            let at_end = self.at == self.target.len();
            // Only the last line of the target can lack its line end, and nothing may come after one that does.
            if !row.text.ends_with(b"\n") && !at_end || row.role != LineRole::Gone && !self.is_ended() {
                return None;
            }
            if row.role != LineRole::Gone {
                self.text.extend_from_slice(&row.text);
            }
        }
        (self.at == self.target.len() || self.is_ended()).then_some(HunkPlacement::Placed(Placed {
            line: hunk.before,
            offset: 0,
            differing: 0,
            context: hunk.lines.iter().filter(|row| row.role == LineRole::Context).count(),
            loosely: false,
            in_front: false,
        }))
    }

    fn is_ended(&self) -> bool {
        self.text.last().is_none_or(|byte| *byte == b'\n')
    }

    /// Where a line of the target begins that is not taken yet.
    fn find(&mut self, line: usize) -> Option<usize> {
        let mut start = self.at;
        while self.line < line {
            if start == self.target.len() {
                return None;
            }
            start = line_end(self.target, start);
            self.line += 1;
        }
        (self.line == line).then_some(start)
    }

    /// Whether the lines that the hunk leaves behind stand there, but for their line ends.
    fn stands_already(&self, hunk: &Hunk, start: usize) -> bool {
        let mut at = start;
        hunk.new_lines().all(|row: &HunkLine| {
            let line = &self.target[at..line_end(self.target, at)];
            at += line.len();
            !line.is_empty() && bare(line) == bare(&row.text)
        })
    }
}

fn bare(line: &[u8]) -> &[u8] {
    &line[..line.len() - line_end_len(line)]
}
