//! Lines that a reader keeps together.

use crate::internal::model::Span;
use crate::internal::rules::MaskedText;
use crate::internal::text::bytes::{line_end, lines_below};

/// A line before and a line after.
type HeldPair = (Span, Span);

/// Pairs of lines that are kept together, in order on both sides.
#[derive(Debug, Default)]
pub(crate) struct Holds {
    pairs: Vec<HeldPair>,
}

impl Holds {
    /// Those of two texts; of a pair, either text may know it. What lies outside of a text holds nothing.
    pub(crate) fn of(before: &MaskedText<'_>, after: &MaskedText<'_>) -> Self {
        let of_after = || after.holds().iter().map(|&(after, before)| (before, after));
        let mut pairs: Vec<(usize, usize)> = before.holds().iter().copied().chain(of_after()).collect();
        pairs.sort_unstable();
        pairs.dedup();
        let line = |masked: &MaskedText<'_>, line: usize| {
            let below = line.checked_sub(masked.first_line())?;
            let (start, passed) = lines_below(masked.text(), 0, below);
            let end = line_end(masked.text(), start);
            (passed == below && start < end).then_some(Span { lines: line..line + 1, bytes: start..end })
        };
        let spans = pairs.into_iter().filter_map(|(b, a)| Some((line(before, b)?, line(after, a)?)));
        let mut in_order: Vec<HeldPair> = Vec::new();
        for (b, a) in spans {
            if in_order.last().is_none_or(|(_, last)| last.lines.end <= a.lines.start) {
                in_order.push((b, a));
            }
        }
        Self { pairs: in_order }
    }

    /// The pairs, in order.
    pub(crate) fn iter(&self) -> impl Iterator<Item = &HeldPair> {
        self.pairs.iter()
    }

    /// The last pair that lies above a byte of the text before, and the first below it.
    pub(crate) fn around(&self, before: usize) -> (Option<&HeldPair>, Option<&HeldPair>) {
        let below = self.pairs.partition_point(|(held, _)| held.bytes.end <= before);
        (below.checked_sub(1).map(|above| &self.pairs[above]), self.pairs.get(below))
    }

    /// Those that lie in two spans, as lines counted from the starts of the spans.
    pub(crate) fn inside(&self, before: &Span, after: &Span) -> Vec<(usize, usize)> {
        let is_inside =
            |(b, a): &&(Span, Span)| before.lines.contains(&b.lines.start) && after.lines.contains(&a.lines.start);
        let relative = |(b, a): &(Span, Span)| (b.lines.start - before.lines.start, a.lines.start - after.lines.start);
        self.pairs.iter().filter(is_inside).map(relative).collect()
    }
}
