//! The text of the target with the hunks in it that have a place.

use std::ops::Range;

use super::super::model::{Hunk, HunkLine, LineRole};
use super::super::placement::{HunkPlacement, PlaceOptions, PlacementFailure};
use super::decision::Decision;
use super::line_index::LineIndex;
use super::pieces::State;
use super::weigh::Candidate;
use crate::internal::text::words::line_end_len;

/// Puts hunks into a text; those without a place as conflicts, if that is asked for.
pub(super) fn text(
    line_index: &LineIndex<'_>,
    hunks: &[Hunk],
    decided: &[Decision<'_>],
    fits: &[HunkPlacement],
    options: &PlaceOptions<'_>,
) -> Vec<u8> {
    let added: usize = hunks.iter().flat_map(Hunk::new_lines).map(|row| row.text.len() + 1).sum();
    let mut writer =
        Writer { line_index, text: Vec::with_capacity(line_index.lines.start(line_index.len()) + added), taken: 0 };
    for (index, (hunk, decision)) in hunks.iter().zip(decided).enumerate() {
        match decision {
            Decision::At(candidate) => writer.put(&hunk.lines, candidate),
            Decision::Parts(parts) => parts.iter().for_each(|(part, candidate)| writer.put(part.rows, candidate)),
            Decision::Refused(..) => {
                let Some(patch) = &options.conflict_labels else { continue };
                let upto = decided[index + 1..].iter().find_map(first_changed).unwrap_or(line_index.len());
                writer.conflict(hunk, conflict_line(&fits[index]), upto, patch);
            }
        }
    }
    writer.take_upto(line_index.len());
    writer.text
}

/// The first line of the target that may not be written twice, because a hunk has its place there.
fn first_changed(decision: &Decision<'_>) -> Option<usize> {
    let candidate = match decision {
        Decision::At(candidate) => candidate,
        Decision::Parts(parts) => &parts.first()?.1,
        Decision::Refused(..) => return None,
    };
    Some(usize::try_from(candidate.start).unwrap_or(0))
}

/// Where a hunk without a place is shown.
fn conflict_line(fit: &HunkPlacement) -> usize {
    match fit {
        HunkPlacement::PlacementFailure(
            PlacementFailure::NoMatch { line, .. }
            | PlacementFailure::Doubtful { line, .. }
            | PlacementFailure::Ambiguous(line, _),
        ) => *line,
        HunkPlacement::Placed(_) | HunkPlacement::AlreadyIn(_) | HunkPlacement::Parts(_) => 0,
    }
}

struct Writer<'n, 't> {
    line_index: &'n LineIndex<'t>,
    text: Vec<u8>,
    /// Lines of the target that are in the text, or gone from it.
    taken: usize,
}

impl Writer<'_, '_> {
    /// Puts rows in where they stand; context is that of the target.
    fn put(&mut self, rows: &[HunkLine], candidate: &Candidate) {
        if candidate.state == State::In {
            return;
        }
        let lead = rows.iter().take_while(|row| row.role == LineRole::Context).count();
        let trail = rows[lead..].iter().rev().take_while(|row| row.role == LineRole::Context).count();
        let old = rows.iter().filter(|row| row.role != LineRole::New).count();
        let end = usize::try_from(candidate.start + old as isize).unwrap_or(0).min(self.line_index.len());
        let place = usize::try_from(candidate.start).unwrap_or(0).min(end)..end;
        let mut at = usize::try_from(candidate.start + lead as isize).unwrap_or(0);
        self.take_upto(at);
        for row in &rows[lead..rows.len() - trail] {
            match row.role {
                LineRole::Context => {
                    self.text.extend_from_slice(self.line_index.lines.get(at));
                    at += 1;
                }
                LineRole::Gone => at += 1,
                LineRole::New => self.put_line(&row.text, candidate.loose == 0, &place, at),
            }
        }
        self.taken = at;
    }

    /// Puts a new line in. Where the lines of the hunk do not stand in the target byte for byte, it ends as those around it.
    fn put_line(&mut self, text: &[u8], exact: bool, place: &Range<usize>, at: usize) {
        let lines = &self.line_index.lines;
        let bare = &text[..text.len() - line_end_len(text)];
        let is_last = at >= lines.len();
        if self.text.last().is_some_and(|byte| *byte != b'\n') {
            // The line above was the last and had no line end.
            self.text.push(b'\n');
        }
        if exact && (text.ends_with(b"\n") || is_last) {
            return self.text.extend_from_slice(text);
        }
        let model = place.clone().chain(0..lines.len().min(1)).next().map(|line| lines.get(line));
        let end: &[u8] = match model {
            Some(line) if line.ends_with(b"\r\n") => b"\r\n",
            _ => b"\n",
        };
        let unended = lines.len().checked_sub(1).is_some_and(|last| !lines.get(last).ends_with(b"\n"));
        self.text.extend_from_slice(bare);
        if !(is_last && unended && !exact) {
            self.text.extend_from_slice(end);
        }
    }

    /// Takes lines of the target over as they are.
    fn take_upto(&mut self, line: usize) {
        let end = line.min(self.line_index.len());
        if self.taken < end {
            let lines = &self.line_index.lines;
            self.write_lines(lines.text(self.taken..end));
        }
        self.taken = self.taken.max(line);
    }

    /// Shows a hunk without a place as a conflict: what is here, what the hunk expects, and what it wants instead. Lines at the ends
    /// that are the same in all three stay outside.
    fn conflict(&mut self, hunk: &Hunk, line: usize, upto: usize, patch: &str) {
        let old: Vec<&[u8]> = hunk.old_lines().map(|row| &row.text[..]).collect();
        let new: Vec<&[u8]> = hunk.new_lines().map(|row| &row.text[..]).collect();
        let start = line.clamp(self.taken, self.line_index.len().max(self.taken));
        let end = (start + old.len()).min(upto).max(start).min(self.line_index.len().max(start));
        let here: Vec<&[u8]> = (start..end).map(|at| self.line_index.lines.get(at)).collect();
        let least = here.len().min(old.len()).min(new.len());
        let same = |at: &dyn Fn(&[&[u8]]) -> Vec<u8>| at(&here) == at(&old) && at(&old) == at(&new);
        let head = (0..least).take_while(|at| same(&|lines| bare(lines[*at]))).count();
        let from_end = |at: usize| move |lines: &[&[u8]]| bare(lines[lines.len() - 1 - at]);
        let tail = (0..least - head).take_while(|at| same(&from_end(*at))).count();
        self.take_upto(start + head);
        let marks = Marks::longer_than(here.iter().chain(&old).chain(&new));
        let hunk_name = format!("the hunk of line {} of {patch}", hunk.line);
        let parts = [
            (&here, '<', "this file".to_owned()),
            (&old, '|', format!("before {hunk_name}")),
            (&new, '=', String::new()),
        ];
        for (lines, mark, label) in parts {
            self.write_lines(&marks.line(mark, &label));
            for line in &lines[head..lines.len() - tail] {
                self.write_lines(line);
            }
        }
        self.write_lines(&marks.line('>', &format!("after {hunk_name}")));
        self.taken = end - tail.min(end - start);
    }

    /// Writes lines, and ends the one above them first if it has no end.
    fn write_lines(&mut self, lines: &[u8]) {
        if self.text.last().is_some_and(|byte| *byte != b'\n') {
            self.text.push(b'\n');
        }
        self.text.extend_from_slice(lines);
    }
}

fn bare(line: &[u8]) -> Vec<u8> {
    line[..line.len() - line_end_len(line)].to_vec()
}

/// The marks that editors know as those of a conflict.
struct Marks {
    length: usize,
}

impl Marks {
    /// Marks that no line among these could be taken for.
    fn longer_than<'l>(lines: impl Iterator<Item = &'l &'l [u8]>) -> Self {
        let run = |line: &[u8]| match line.first() {
            Some(first @ (b'<' | b'|' | b'=' | b'>')) => line.iter().take_while(|byte| *byte == first).count(),
            _ => 0,
        };
        let longest = lines.map(|line| run(line)).max().unwrap_or(0);
        Self { length: if longest < 7 { 7 } else { longest + 1 } }
    }

    fn line(&self, mark: char, label: &str) -> Vec<u8> {
        let mark = mark.to_string().repeat(self.length);
        let line = if label.is_empty() { mark } else { format!("{mark} {label}") };
        format!("{line}\n").into_bytes()
    }
}
