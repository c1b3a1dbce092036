//! What a patch under rules turns a text into: only what counts is carried over; all else stays as it is before.

use std::ops::Range;

use crate::internal::align::parts::{MaskedLine, carry_over};
use crate::internal::align::wrapped::{Piece, State, pieces};
use crate::internal::align::{Bounds, Edit, align_masked};
use crate::internal::kinds::text::{Grain, detail_by_lines};
use crate::internal::model::{Row, Span, Weight};
use crate::internal::rules::{Account, Effect, MaskedText, Verdict};
use crate::internal::text::lines::Lines;

/// A text with the changes that were wanted, and what the rules masked.
#[derive(Clone, Debug)]
pub struct CountedText {
    /// The text.
    pub text: Vec<u8>,
    /// What the rules masked; of it, what is muted is carried out unless it was not wanted.
    pub account: Account,
}

/// The text before with the changes that count carried out, and the muted ones too unless `counted_only`. Ignored text stays
/// as it is before, in lines that change too.
///
/// ```
/// use tideline_core::internal::patch::counted_text;
/// use tideline_core::internal::rules::{Effect, Rule, Rules, MaskedText, What};
///
/// let what = vec![("timestamps".to_owned(), What::parse("timestamps", []).unwrap())];
/// let file_rules = Rules::new(vec![Rule::new("clock", Effect::Mute, what)]).file_rules(b"a.log");
/// let (before, after) = (b"06:00:00 low 1\n06:00:01 high\n", b"07:00:00 low 2\n07:00:01 high\n");
/// let wanted = counted_text(&MaskedText::new(before, &file_rules), &MaskedText::new(after, &file_rules), true);
/// assert_eq!(wanted.text, b"06:00:00 low 2\n06:00:01 high\n");
/// ```
pub fn counted_text(before: &MaskedText<'_>, after: &MaskedText<'_>, counted_only: bool) -> CountedText {
    let stays = |effect: Effect| effect == Effect::Ignore || counted_only;
    let alignment = align_masked(before, after, &Bounds::default());
    let carried = |how: &mut dyn FnMut(&Edit, &mut Vec<u8>)| {
        let mut wanted = Vec::with_capacity(before.text().len());
        let mut at = 0;
        for edit in &alignment.edits {
            wanted.extend_from_slice(&before.text()[at..edit.before.bytes.start]);
            let kept = match edit.verdict {
                Verdict::Counted => true,
                Verdict::Muted => !counted_only,
                Verdict::Ignored => false,
            };
            if kept {
                how(edit, &mut wanted);
            } else {
                wanted.extend_from_slice(&before.text()[edit.before.bytes.clone()]);
            }
            at = edit.before.bytes.end;
        }
        wanted.extend_from_slice(&before.text()[at..]);
        wanted
    };
    let by_words =
        &mut |edit: &Edit, wanted: &mut Vec<u8>| carry((before, &edit.before), (after, &edit.after), &stays, wanted);
    let by_lines = &mut |edit: &Edit, wanted: &mut Vec<u8>| {
        wanted.extend_from_slice(&after.text()[edit.after.bytes.clone()]);
    };
    // What does not count stays as it is, as long as nothing that counts is lost by it: where text ends without a line end, or a word means more
    // at the start of a line, it may be.
    let mut wanted = carried(by_words);
    if !is_equal(&wanted, after) {
        wanted = carried(by_lines);
    }
    if !is_equal(&wanted, after) {
        wanted = after.text().to_vec();
    }
    CountedText { text: wanted, account: alignment.account }
}

/// Whether nothing that counts differs between a text and another under its rules.
fn is_equal(text: &[u8], other: &MaskedText<'_>) -> bool {
    if other.file_rules().is_clear() {
        return true;
    }
    let text = MaskedText::new(text, other.file_rules()).before();
    let counts = |edit: &Edit| edit.verdict == Verdict::Counted;
    !align_masked(&text, other, &Bounds::default()).edits.iter().any(counts)
}

/// Carries one edit out. Where lines are broken stays as it is before, unless that is carried too.
fn carry(
    (before, span_before): (&MaskedText<'_>, &Span),
    (after, span_after): (&MaskedText<'_>, &Span),
    stays: &impl Fn(Effect) -> bool,
    wanted: &mut Vec<u8>,
) {
    let Some(pieces) = pieces((before, span_before), (after, span_after), &Bounds::default()) else {
        return carry_lines((before, span_before), (after, span_after), stays, wanted);
    };
    let rules = before.file_rules();
    let breaks_stay = rules.line_breaks().is_none_or(|rule| stays(rules.rules()[rule].effect()));
    for Piece { before: b, after: a, state } in pieces {
        match state {
            State::Lines => carry_lines((before, &b), (after, &a), stays, wanted),
            State::Wrapped(..) | State::Edited(_) if !breaks_stay => {
                wanted.extend_from_slice(&after.text()[a.bytes]);
            }
            State::Wrapped(..) => wanted.extend_from_slice(&before.text()[b.bytes]),
            State::Edited(edited) => {
                let mut piece = Vec::with_capacity(b.bytes.len());
                let mut at = b.bytes.start;
                for (gone, new) in edited.differs {
                    piece.extend_from_slice(&before.text()[at..gone.start]);
                    piece.extend_from_slice(&after.text()[new]);
                    at = gone.end;
                }
                piece.extend_from_slice(&before.text()[at..b.bytes.end]);
                // A word at the start of a line may mean more there, as a bullet does.
                let new = &after.text()[a.bytes];
                let is_right = is_equal(&piece, &MaskedText::new(new, rules));
                wanted.extend_from_slice(if is_right { &piece } else { new });
            }
        }
    }
}

/// Carries one edit out, line by line.
fn carry_lines(
    (before, span_before): (&MaskedText<'_>, &Span),
    (after, span_after): (&MaskedText<'_>, &Span),
    stays: &impl Fn(Effect) -> bool,
    wanted: &mut Vec<u8>,
) {
    let detail = detail_by_lines((before, span_before), (after, span_after), &Grain::Line);
    let bytes = |lines: &Lines<'_>, span: &Span, line: usize| {
        span.bytes.start + lines.start(line)..span.bytes.start + lines.start(line + 1)
    };
    let of_before = |line: usize| bytes(&detail.before, span_before, line);
    let of_after = |line: usize| bytes(&detail.after, span_after, line);
    let carried = |weight: Weight| weight == Weight::Counted || !stays(Effect::Mute);
    for row in &detail.rows {
        match row {
            Row::Equal { before: line, .. } | Row::Hidden { before: Some(line), .. } => {
                wanted.extend_from_slice(&before.text()[of_before(*line)]);
            }
            Row::Hidden { before: None, .. } => {}
            Row::Gone { before: line, weight, .. } => {
                if !carried(*weight) {
                    wanted.extend_from_slice(&before.text()[of_before(*line)]);
                }
            }
            Row::New { after: line, weight, .. } => {
                if carried(*weight) {
                    wanted.extend_from_slice(&after.text()[of_after(*line)]);
                }
            }
            Row::Edited { before: line, weight, .. } if !carried(*weight) => {
                wanted.extend_from_slice(&before.text()[of_before(*line)]);
            }
            Row::Edited { before: b, after: a, .. } => {
                let read = |masked: &MaskedText<'_>, bytes: Range<usize>| MaskedLine {
                    mask: masked.mask_of(bytes.clone()),
                    bytes,
                };
                let (b, a) = (read(before, of_before(*b)), read(after, of_after(*a)));
                if b.mask.gone.is_some() || a.mask.gone.is_some() {
                    wanted.extend_from_slice(&after.text()[a.bytes]);
                } else {
                    wanted.extend(carry_over((before, &b), (after, &a), stays));
                }
            }
        }
    }
}
