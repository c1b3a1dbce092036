//! What becomes of a hunk that has no place: the place that is most like it, what stands in its way there, and the marks between
//! which it can be put into the file.

use std::collections::HashMap;

use super::model::{Hunk, HunkLine};
use super::place::{Fit, Instead, Misfit, Placer, STRANGER};
use crate::align::{Bounds, script::script};
use crate::text::lines::Numbered;

impl Placer<'_, '_> {
    pub(super) fn misfit(&mut self, hunk: &Hunk, misfit: Misfit, expected: usize) -> Fit {
        if let Some(name) = self.options.marks.as_ref().filter(|_| !self.trying) {
            let line = match misfit {
                Misfit::Nowhere { line, .. } => line,
                Misfit::Ambiguous(..) => expected,
            };
            let name = format!("hunk of line {} of {name}", hunk.line);
            self.mark(hunk, line.clamp(self.taken, self.lines.len().max(self.taken)), &name);
        }
        Fit::Misfit(misfit)
    }

    /// Puts a hunk that does not fit between marks, below what stands there.
    fn mark(&mut self, hunk: &Hunk, line: usize, name: &str) {
        self.take_upto(line);
        let end = (line + hunk.old_lines().count()).min(self.lines.len());
        let mut put = |text: &[u8]| {
            if self.text.last().is_some_and(|byte| *byte != b'\n') {
                self.text.push(b'\n');
            }
            self.text.extend_from_slice(text);
        };
        put(format!("~~~~ tideline: the {name} does not fit; this is here: ~~~~\n").as_bytes());
        for at in line..end {
            put(self.lines.get(at));
        }
        put(b"~~~~ tideline: and the patch wants this: ~~~~\n");
        for row in hunk.new_lines() {
            put(&row.text);
        }
        put(format!("~~~~ tideline: end of the {name} ~~~~\n").as_bytes());
        self.taken = end;
    }

    /// The place that is most like a hunk: where most of its lines stand in the same distance from each other.
    pub(super) fn likeness(&self, hunk: &Hunk, old: &[u32], expected: usize) -> Misfit {
        const MOST_PLACES: usize = 200;
        let mut votes: HashMap<usize, usize> = HashMap::new();
        for (offset, number) in old.iter().enumerate() {
            for place in self.places[*number as usize].iter().take(MOST_PLACES) {
                if let Some(start) = (*place as usize).checked_sub(offset) {
                    *votes.entry(start).or_default() += 1;
                }
            }
        }
        let best = votes.into_iter().max_by_key(|(start, votes)| {
            (*votes, std::cmp::Reverse(start.abs_diff(expected)), std::cmp::Reverse(*start))
        });
        let line = best.map_or(expected.min(self.lines.len()), |(start, _)| start);
        Misfit::Nowhere { line, instead: self.instead(hunk, old, line) }
    }

    /// What a hunk expects at a line and what is there instead.
    fn instead(&self, hunk: &Hunk, old: &[u32], line: usize) -> Vec<Instead> {
        let window = line.min(self.lines.len())..(line + old.len()).min(self.lines.len());
        let distinct = self.places.len() + 1;
        let stranger = u32::try_from(distinct - 1).unwrap_or(STRANGER);
        let there = self.numbers[window.clone()].iter().map(|number| (*number).min(stranger)).collect();
        let numbered = Numbered { before: old.to_vec(), after: there, distinct };
        let texts: Vec<&HunkLine> = hunk.old_lines().collect();
        let mut instead = Vec::new();
        for (gone, new) in script(&numbered, &Bounds::default()).stretches() {
            for offset in 0..gone.len().max(new.len()) {
                let expected = gone.clone().nth(offset).map(|at| texts[at].text.to_vec());
                let found = new.clone().nth(offset).map(|at| window.start + at);
                instead.push(Instead { expected, found: found.map(|at| (at, self.lines.get(at).to_vec())) });
            }
        }
        instead
    }
}
