//! What several subjects need: small random texts, and references that share no code with the core.

use proptest::prelude::*;
use tideline_core::internal::align::Edit;

/// Texts of few different short lines, so that matches are many and ambiguous; half of them lack the final line end.
pub(crate) fn text() -> impl Strategy<Value = Vec<u8>> {
    let line = prop::sample::select(vec!["", "a", "b", "  c", "}", "x y", "\r", "d\u{e9}", "a b"]);
    (prop::collection::vec(line, 0..24), any::<bool>()).prop_map(|(lines, ended)| {
        let mut text = lines.join("\n").into_bytes();
        if ended && !lines.is_empty() {
            text.push(b'\n');
        }
        text
    })
}

/// Any bytes at all.
pub(crate) fn bytes() -> impl Strategy<Value = Vec<u8>> {
    prop::collection::vec(prop_oneof![Just(b'\n'), Just(b'a'), Just(0), any::<u8>()], 0..60)
}

/// A text and an edited copy of it: some lines dropped, doubled, replaced or carried elsewhere.
pub(crate) fn edited_pair() -> impl Strategy<Value = (Vec<u8>, Vec<u8>)> {
    let edits = prop::collection::vec((any::<prop::sample::Index>(), 0..4_u8), 0..12);
    (1..200_usize, edits).prop_map(|(count, edits)| {
        let lines: Vec<String> = (0..count).map(|n| format!("line {}\n", n * 7 % 150)).collect();
        let mut changed = lines.clone();
        for (index, what) in edits {
            if changed.is_empty() {
                break;
            }
            let at = index.index(changed.len());
            match what {
                0 => drop(changed.remove(at)),
                1 => changed.insert(at, changed[at].clone()),
                2 => changed[at] = format!("edited {at}\n"),
                _ => {
                    let line = changed.remove(at);
                    changed.push(line);
                }
            }
        }
        (lines.concat().into_bytes(), changed.concat().into_bytes())
    })
}

/// Carries edits out on `before`.
pub(crate) fn carry_out(before: &[u8], after: &[u8], edits: &[Edit]) -> Vec<u8> {
    let mut result = Vec::new();
    let mut at = 0;
    for edit in edits {
        result.extend(&before[at..edit.before.bytes.start]);
        result.extend(&after[edit.after.bytes.clone()]);
        at = edit.before.bytes.end;
    }
    result.extend(&before[at..]);
    result
}

/// Lines gone and new, together.
pub(crate) fn size(edits: &[Edit]) -> usize {
    edits.iter().map(|edit| edit.before.lines.len() + edit.after.lines.len()).sum()
}

/// The true smallest script size, by a full table.
pub(crate) fn smallest_size(before: &[u8], after: &[u8]) -> usize {
    let (b, a) = (lines(before), lines(after));
    let mut common = vec![vec![0; a.len() + 1]; b.len() + 1];
    for (i, line) in b.iter().enumerate() {
        for (j, other) in a.iter().enumerate() {
            common[i + 1][j + 1] =
                if line == other { common[i][j] + 1 } else { common[i][j + 1].max(common[i + 1][j]) };
        }
    }
    b.len() + a.len() - 2 * common[b.len()][a.len()]
}

/// Lines with their ends.
pub(crate) fn lines(text: &[u8]) -> Vec<&[u8]> {
    text.split_inclusive(|&byte| byte == b'\n').collect()
}
