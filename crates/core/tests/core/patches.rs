//! Patches, read back by a strict reader that shares no code with the writer.

use proptest::prelude::*;
use tideline_core::internal::align::{Bounds, align};
use tideline_core::internal::patch::{FileLabel, PatchOptions, write_file_patch};

use crate::support::{bytes, edited_pair, lines, text};

fn patch(before: &[u8], after: &[u8], context: usize) -> Vec<u8> {
    let mut out = Vec::new();
    let edits = align(before, after, &Bounds::default());
    let labels = (&FileLabel::new("a"), &FileLabel::new("b").stamp(Some("2031-04-05 06:07:08.000000000 +0000".into())));
    let options = PatchOptions::default().context(context);
    write_file_patch(labels, (before, after), &edits, &options, &mut out).unwrap();
    out
}

/// Applies a patch of one file and insists on every detail of the format.
fn apply_strictly(before: &[u8], patch: &[u8]) -> Vec<u8> {
    if patch.is_empty() {
        return before.to_vec();
    }
    let old = lines(before);
    let mut rows = lines(patch).into_iter().peekable();
    assert_eq!(rows.next(), Some(&b"--- a\n"[..]));
    assert_eq!(rows.next(), Some(&b"+++ b\t2031-04-05 06:07:08.000000000 +0000\n"[..]));
    let (mut result, mut at): (Vec<Vec<u8>>, usize) = (Vec::new(), 0);
    while let Some(heading) = rows.next() {
        let (old_start, old_count, new_start, new_count) = ranges(heading);
        let first = if old_count == 0 { old_start } else { old_start - 1 };
        result.extend(old[at..first].iter().map(|line| line.to_vec()));
        at = first;
        assert_eq!(if new_count == 0 { new_start } else { new_start - 1 }, result.len());
        let (mut seen_old, mut seen_new) = (0, 0);
        while seen_old < old_count || seen_new < new_count {
            let row = rows.next().expect("a row of the hunk");
            let mut content = row[1..].to_vec();
            if rows.peek().is_some_and(|next| next.starts_with(b"\\ ")) {
                rows.next();
                assert_eq!(content.pop(), Some(b'\n'));
            }
            if row[0] != b'+' {
                assert_eq!(old[at], &content[..]);
                (at, seen_old) = (at + 1, seen_old + 1);
            }
            if row[0] != b'-' {
                result.push(content);
                seen_new += 1;
            }
            assert!(matches!(row[0], b' ' | b'-' | b'+'));
        }
        assert_eq!((seen_old, seen_new), (old_count, new_count));
    }
    result.extend(old[at..].iter().map(|line| line.to_vec()));
    result.concat()
}

fn ranges(heading: &[u8]) -> (usize, usize, usize, usize) {
    let text = std::str::from_utf8(heading).unwrap();
    let inner = text.strip_prefix("@@ -").and_then(|rest| rest.strip_suffix(" @@\n")).expect("a hunk heading");
    let (old, new) = inner.split_once(" +").unwrap();
    let range = |text: &str| match text.split_once(',') {
        Some((start, count)) => {
            assert_ne!(count, "1", "a count of one is omitted");
            (start.parse().unwrap(), count.parse().unwrap())
        }
        None => (text.parse().unwrap(), 1),
    };
    let ((old_start, old_count), (new_start, new_count)) = (range(old), range(new));
    (old_start, old_count, new_start, new_count)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(500))]

    #[test]
    fn a_strict_reader_gets_after_back(before in text(), after in text(), context in 0..5_usize) {
        prop_assert_eq!(apply_strictly(&before, &patch(&before, &after, context)), after);
    }

    #[test]
    fn any_bytes_can_be_carried(before in bytes(), after in bytes(), context in 0..5_usize) {
        prop_assert_eq!(apply_strictly(&before, &patch(&before, &after, context)), after);
    }

    #[test]
    fn edits_far_apart_are_hunks_of_their_own((before, after) in edited_pair()) {
        prop_assert_eq!(apply_strictly(&before, &patch(&before, &after, 3)), after);
    }
}

#[test]
fn the_format_is_to_the_letter() {
    let written = patch(b"one\ntwo\nthree", b"one\n2\nthree\n", 1);
    let expected = "--- a\n+++ b\t2031-04-05 06:07:08.000000000 +0000\n@@ -1,3 +1,3 @@\n one\n-two\n-three\n\
                    \\ No newline at end of file\n+2\n+three\n";
    assert_eq!(String::from_utf8(written).unwrap(), expected);
    let hunk = |before: &[u8], after: &[u8]| lines(&patch(before, after, 0))[2].to_vec();
    assert_eq!(hunk(b"", b"a\n"), b"@@ -0,0 +1 @@\n");
    assert_eq!(hunk(b"a\nb\n", b""), b"@@ -1,2 +0,0 @@\n");
    assert_eq!(hunk(b"a\nb\nc\n", b"a\nc\n"), b"@@ -2 +1,0 @@\n");
}

#[test]
fn odd_names_are_quoted() {
    let mut out = Vec::new();
    let edits = align(b"a\n", b"b\n", &Bounds::default());
    let labels = (&FileLabel::new("tide\n\"log\""), &FileLabel::new("Flut höhe"));
    write_file_patch(labels, (b"a\n", b"b\n"), &edits, &PatchOptions::default(), &mut out).unwrap();
    let text = String::from_utf8(out).unwrap();
    assert!(text.starts_with("--- \"tide\\n\\\"log\\\"\"\n+++ Flut höhe\t\n"), "{text}");
}
