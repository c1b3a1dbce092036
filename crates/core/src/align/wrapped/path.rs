//! How two projections go together.

use std::ops::Range;

use crate::internal::model::Segment;

/// How two projections go together: stretches that differ, and runs between them that are equal.
pub(super) struct Path {
    /// Each run: where it starts on both sides, and how long it is.
    pub(super) runs: Vec<(usize, usize, usize)>,
    pub(super) stretches: Vec<(Range<usize>, Range<usize>)>,
}

impl Path {
    pub(super) fn of(before: &[Segment], after: &[Segment]) -> Self {
        let mut path = Self { runs: Vec::new(), stretches: Vec::new() };
        let (mut b, mut a) = (before.iter().peekable(), after.iter().peekable());
        let (mut at_b, mut at_a) = (0, 0);
        while b.peek().is_some() || a.peek().is_some() {
            let (from_b, from_a) = (at_b, at_a);
            while let Some(part) = b.next_if(|part| part.differs.is_some()) {
                at_b = part.bytes.end;
            }
            while let Some(part) = a.next_if(|part| part.differs.is_some()) {
                at_a = part.bytes.end;
            }
            if at_b > from_b || at_a > from_a {
                path.stretches.push((from_b..at_b, from_a..at_a));
            }
            // What is equal is of one length; a side may hold it in more than one piece.
            let upto = |part: Option<&&Segment>, at: usize| part.map_or(at, |part| part.bytes.end);
            let length = (upto(b.peek(), at_b) - at_b).min(upto(a.peek(), at_a) - at_a);
            if length > 0 {
                path.runs.push((at_b, at_a, length));
            }
            (at_b, at_a) = (at_b + length, at_a + length);
            b.next_if(|part| part.bytes.end <= at_b);
            a.next_if(|part| part.bytes.end <= at_a);
            if length == 0 && at_b == from_b && at_a == from_a {
                break;
            }
        }
        path
    }
}
