//! Edits of both sides that touch, gathered: each cluster is a stretch of the base with what either side made of it.

use super::region::Three;
use super::scripts::Scripts;
use crate::internal::align::Edit;
use crate::internal::model::Span;
use crate::internal::rules::Verdict;

/// A stretch of the base that edits cover without a gap, and what stands there on either side.
#[derive(Clone, Debug)]
pub(super) struct Cluster {
    pub(super) spans: Three<Span>,
    /// Whether mine has an edit in it, and theirs.
    pub(super) is_edited: (bool, bool),
    /// Whether any of its edits counts.
    pub(super) counts: bool,
}

/// The clusters of two scripts, in order. Between two of them at least one line is the same in all three texts, or the edits on both sides of
/// that place are of one side.
pub(super) fn clusters(scripts: &Scripts) -> Vec<Cluster> {
    let mut found = Vec::new();
    let (mut mine, mut theirs) = (Walk::new(&scripts.mine), Walk::new(&scripts.theirs));
    loop {
        let start = match (mine.next(), theirs.next()) {
            (None, None) => return found,
            (Some(one), None) | (None, Some(one)) => one.before.clone(),
            (Some(one), Some(other)) => {
                if starts_first(one, other) {
                    one.before.clone()
                } else {
                    other.before.clone()
                }
            }
        };
        let mut base =
            Span { lines: start.lines.start..start.lines.start, bytes: start.bytes.start..start.bytes.start };
        let from = (mine.at, theirs.at);
        // Edits of one side that touch each other only differ in whether they count.
        while mine.extend(&mut base) | theirs.extend(&mut base) {}
        let spans = Three::new(base.clone(), mine.span(from.0, &base), theirs.span(from.1, &base));
        let edits = mine.edits[from.0..mine.at].iter().chain(&theirs.edits[from.1..theirs.at]);
        let counts = edits.into_iter().any(|edit| edit.verdict == Verdict::Counted);
        found.push(Cluster { spans, is_edited: (mine.at > from.0, theirs.at > from.1), counts });
    }
}

fn starts_first(one: &Edit, other: &Edit) -> bool {
    one.before.lines.start <= other.before.lines.start
}

/// A walk over the edits of one side.
struct Walk<'e> {
    edits: &'e [Edit],
    at: usize,
}

impl<'e> Walk<'e> {
    fn new(edits: &'e [Edit]) -> Self {
        Self { edits, at: 0 }
    }

    fn next(&self) -> Option<&'e Edit> {
        self.edits.get(self.at)
    }

    /// Adds the next edit to a stretch of the base if it touches it.
    fn extend(&mut self, base: &mut Span) -> bool {
        let Some(edit) = self.next().filter(|edit| edit.before.lines.start <= base.lines.end) else { return false };
        if edit.before.lines.end > base.lines.end {
            base.lines.end = edit.before.lines.end;
            base.bytes.end = edit.before.bytes.end;
        }
        self.at += 1;
        true
    }

    /// What stands on this side for a stretch of the base, of which the edits from one on were the first.
    fn span(&self, first: usize, base: &Span) -> Span {
        let upto = |at: usize| match at.checked_sub(1).map(|last| &self.edits[last]) {
            Some(edit) => (&edit.before, &edit.after),
            None => (&NOTHING, &NOTHING),
        };
        let (start, end) = (upto(first), upto(self.at));
        let shifted = |base: usize, (before, after): (usize, usize)| after + (base - before);
        let lines = |of: (&Span, &Span)| (of.0.lines.end, of.1.lines.end);
        let bytes = |of: (&Span, &Span)| (of.0.bytes.end, of.1.bytes.end);
        Span {
            lines: shifted(base.lines.start, lines(start))..shifted(base.lines.end, lines(end)),
            bytes: shifted(base.bytes.start, bytes(start))..shifted(base.bytes.end, bytes(end)),
        }
    }
}

static NOTHING: Span = Span { lines: 0..0, bytes: 0..0 };
