//! Reading patches and placing their hunks.

use proptest::prelude::*;
use tideline_core::internal::align::{Bounds, align};
use tideline_core::internal::patch::{
    Binary, Doubt, FileLabel, Hunk, HunkPlacement, LineRole, Operation, Patch, PatchOptions, PlaceOptions, Placement,
    PlacementFailure, place, read_patch, write_file_patch, write_hunks,
};

use crate::support::{bytes, edited_pair, lines, text};

fn patch_of(before: &[u8], after: &[u8], context: usize) -> Vec<u8> {
    let labels = (FileLabel::new("a/x"), FileLabel::new("b/x"));
    let edits = align(before, after, &Bounds::default());
    let mut out = Vec::new();
    let options = PatchOptions::default().context(context);
    write_file_patch((&labels.0, &labels.1), (before, after), &edits, &options, &mut out).unwrap();
    out
}

fn read(text: &str) -> Patch {
    read_patch(text.as_bytes()).unwrap()
}

fn placed(target: &str, patch: &str, options: &PlaceOptions<'_>) -> Placement {
    place(target.as_bytes(), &read(patch).files[0].hunks, options)
}

/// Ten lines with names of their own.
const TEN: &str = "one\ntwo\nthree\nfour\nfive\nsix\nseven\neight\nnine\nten\n";
const FIVE: &str = "--- a/x\n+++ b/x\n@@ -2,7 +2,7 @@\n two\n three\n four\n-five\n+5\n six\n seven\n eight\n";

#[test]
fn a_hunk_goes_to_its_line_or_to_the_nearest_place_where_it_holds() {
    let five = TEN.replace("five", "5");
    let found = placed(TEN, FIVE, &PlaceOptions::default());
    assert!(
        matches!(found.fits[..], [HunkPlacement::Placed(placed)] if (placed.line, placed.offset, placed.differing) == (1, 0, 0))
    );
    assert_eq!(found.text, five.as_bytes());
    let lower = placed(&format!("zero\n-1\n{TEN}"), FIVE, &PlaceOptions::default());
    assert!(matches!(lower.fits[..], [HunkPlacement::Placed(placed)] if placed.offset == 2));
    assert_eq!(lower.text, format!("zero\n-1\n{five}").as_bytes());
    let higher = placed(&TEN[4..], FIVE, &PlaceOptions::default());
    assert!(matches!(higher.fits[..], [HunkPlacement::Placed(placed)] if placed.offset == -1));
    // Of two places, the nearer.
    let twice = format!("{TEN}{}{TEN}", "filler\n".repeat(30));
    assert_eq!(placed(&twice, FIVE, &PlaceOptions::default()).text, twice.replacen("five", "5", 1).as_bytes());
}

#[test]
fn outer_context_may_differ_within_the_slack() {
    let other = TEN.replace("two", "2").replace("eight", "8").replace("three", "drei");
    let found = placed(&other, FIVE, &PlaceOptions::default());
    assert!(
        matches!(found.fits[..], [HunkPlacement::Placed(placed)] if (placed.offset, placed.differing) == (0, 3)),
        "{:?}",
        found.fits
    );
    assert_eq!(found.text, other.replace("five", "5").as_bytes(), "the context keeps what is there");
    let strict = placed(&other, FIVE, &PlaceOptions::default().tolerance(1));
    let [HunkPlacement::PlacementFailure(PlacementFailure::NoMatch { line: 1, instead, .. })] = &strict.fits[..] else {
        panic!("{:?}", strict.fits)
    };
    let told: Vec<_> =
        instead.iter().map(|row| (row.expected.as_deref(), row.found.as_ref().map(|(at, _)| *at))).collect();
    assert_eq!(told, [(Some(&b"two\n"[..]), Some(1)), (Some(b"three\n"), Some(2)), (Some(b"eight\n"), Some(7))]);
    assert_eq!(strict.text, other.as_bytes());
}

#[test]
fn equally_near_places_are_ambiguous() {
    let patch = "--- a\n+++ b\n@@ -6,3 +6,3 @@\n a\n-b\n+B\n c\n";
    let target = "x\na\nb\nc\nx\nx\nx\nx\nx\na\nb\nc\n";
    let found = placed(target, patch, &PlaceOptions::default());
    assert_eq!(found.fits, [HunkPlacement::PlacementFailure(PlacementFailure::Ambiguous(1, 9))]);
    assert_eq!(found.text, target.as_bytes());
}

#[test]
fn what_is_in_already_is_known() {
    let five = TEN.replace("five", "5");
    assert_eq!(placed(&five, FIVE, &PlaceOptions::default()).fits, [HunkPlacement::AlreadyIn(1)]);
    let lower = format!("zero\n{five}");
    let found = placed(&lower, FIVE, &PlaceOptions::default());
    assert_eq!((&found.fits[..], found.text), (&[HunkPlacement::AlreadyIn(2)][..], lower.into_bytes()));
}

#[test]
fn the_target_keeps_its_own_line_ends() {
    let target = TEN.replace('\n', "\r\n");
    let found = placed(&target, FIVE, &PlaceOptions::default());
    assert_eq!(found.text, target.replace("five", "5").as_bytes());
    let windows = FIVE.replace('\n', "\r\n");
    assert_eq!(placed(TEN, &windows, &PlaceOptions::default()).text, TEN.replace("five", "5").as_bytes());
    // A patch that is about line ends changes them.
    let ends = patch_of(b"a\nb\nc\n", b"a\nb\r\nc\n", 3);
    assert_eq!(
        place(b"a\nb\nc\n", &read_patch(&ends).unwrap().files[0].hunks, &PlaceOptions::default()).text,
        b"a\nb\r\nc\n"
    );
}

#[test]
fn white_space_matters_unless_it_is_put_aside() {
    let target = TEN.replace("four", "    four");
    let patch = FIVE.replace(" four", "   four").replace("-five", "-five  ");
    let strict = placed(&target, &patch, &PlaceOptions::default());
    assert!(!strict.is_whole());
    let file_rules = super::rules::file_rules("space", "", "x");
    let found = placed(&target, &patch, &PlaceOptions::default().file_rules(Some(&file_rules)));
    assert!(matches!(found.fits[..], [HunkPlacement::Placed(placed)] if placed.loosely));
    assert_eq!(found.text, target.replace("five", "5").as_bytes());
}

#[test]
fn marks_show_both_and_lose_nothing() {
    let target = TEN.replace("five", "fünf");
    let options = PlaceOptions::default().tolerance(0).mark_conflicts(Some("x.patch".to_owned()));
    let found = placed(&target, FIVE, &options);
    let text = String::from_utf8(found.text).unwrap();
    let marked = "<<<<<<< this file\nfünf\n||||||| before the hunk of line 3 of x.patch\nfive\n=======\n5\n\
        >>>>>>> after the hunk of line 3 of x.patch\n";
    assert_eq!(text, format!("one\ntwo\nthree\nfour\n{marked}six\nseven\neight\nnine\nten\n"));
    // Lines that look like such marks make the marks longer.
    let found = placed(&target.replace("fünf", "<<<<<<< mine"), FIVE, &options);
    assert!(String::from_utf8(found.text).unwrap().contains("\n<<<<<<<< this file\n<<<<<<< mine\n|||||||| before"));
}

#[test]
fn the_headers_of_the_wild_are_read() {
    let patch = read(
        "From somebody\n\nText, and a line:\n--- not a header\n\n\
         diff --git a/old name.txt b/new name.txt\nsimilarity index 90%\nrename from old name.txt\nrename to new name.txt\n\
         diff --git a/run.sh b/run.sh\nold mode 100644\nnew mode 100755\n\
         diff --git a/gone b/gone\ndeleted file mode 100644\nindex 1..0\n--- a/gone\n+++ /dev/null\n@@ -1 +0,0 @@\n-x\n\
         diff --git a/picture.png b/picture.png\nindex 1..2 100644\nBinary files a/picture.png and b/picture.png differ\n\
         --- \"a/caf\\303\\251\\t\"\t2031-04-05 06:07:08 +0000\n+++ \"b/caf\\303\\251\\t\"\t2031-04-05 06:07:08 +0000\n@@ -0,0 +1,2 @@ section\n+a\n+b\n\\ No newline at end of file\n-- \nsignature\n",
    );
    let names: Vec<_> = patch.files.iter().map(|file| (file.before.clone(), file.after.clone())).collect();
    let name = |name: &str| Some(name.as_bytes().to_vec());
    assert_eq!(names[0], (name("a/old name.txt"), name("b/new name.txt")));
    assert!(patch.files[0].operation == Operation::Move && patch.files[0].hunks.is_empty());
    assert_eq!(patch.files[1].modes, (Some(0o100_644), Some(0o100_755)));
    assert_eq!(names[2], (name("a/gone"), None));
    assert_eq!(patch.files[3].binary, Some(Binary::Differs));
    assert_eq!(names[4], (name("a/café\t"), name("b/café\t")));
    assert_eq!(patch.files[4].hunks[0].lines[1].text, &b"b"[..]);
    assert_eq!(patch.files.len(), 5);
}

/// A large patch is read by two threads; what looks like a part about a file in its middle may be lines of a hunk.
#[test]
fn a_large_patch_is_read_as_its_parts_are() {
    let hunk = "@@ -1,2 +1,2 @@\n--- old/name\n+++ new/name\n level\n";
    let parts: Vec<String> = (0..20_000).map(|n| format!("--- a/{n}\n+++ b/{n}\n{hunk}")).collect();
    let patch = read(&parts.concat());
    let lines: Vec<usize> = patch.files.iter().map(|file| file.line).collect();
    assert_eq!(lines, (0..20_000).map(|n| 1 + 6 * n).collect::<Vec<_>>());
    assert_eq!(patch.files[19_999].hunks[0].line, 6 * 19_999 + 3);
    // One file whose hunks all end with such lines.
    let hunk = |n: usize| format!("@@ -{n},2 +{n},2 @@\n level\n--- old/name\n+++ new/name\n");
    let one = read(&format!("--- a/x\n+++ b/x\n{}", (1..30_000).map(hunk).collect::<String>()));
    assert_eq!((one.files.len(), one.files[0].hunks.len()), (1, 29_999));
    let damaged = parts.concat().replace("b/19000\n@@ -1,2", "b/19000\n@@ -1,3");
    // The hunk takes the line below it for its third; then one line is too many.
    assert_eq!(read_patch(damaged.as_bytes()).unwrap_err().line, 19_000 * 6 + 3);
}

#[test]
fn the_context_format_is_read_as_the_unified_one() {
    let context = "*** a/x\t2031-04-05\n--- b/x\t2031-04-06\n***************\n*** 2,8 ****\n  two\n  three\n  four\n! five\n  six\n  seven\n  eight\n--- 2,9 ----\n  two\n  three\n  four\n! 5\n! 5.5\n  six\n  seven\n  eight\n***************\n*** 9,10 ****\n--- 10,12 ----\n  nine\n+ nine and a half\n  ten\n";
    let patch = read(context);
    let found = place(TEN.as_bytes(), &patch.files[0].hunks, &PlaceOptions::default());
    assert_eq!(found.text, TEN.replace("five", "5\n5.5").replace("nine\n", "nine\nnine and a half\n").as_bytes());
    assert!(found.is_whole());
}

#[test]
fn damaged_patches_name_the_line_and_what_was_expected() {
    for (text, line, expected) in [
        ("nothing here\n", 1, "there is no patch in it"),
        ("@@ -1 +1 @@\n-a\n+b\n", 1, "a hunk without the two lines"),
        ("--- a\n+++ b\nno hunk\n", 3, "a hunk was expected"),
        ("--- a\n+++ b\n@@ 1 2 @@\n", 3, "the head of a hunk was expected"),
        (
            "--- a\n+++ b\n@@ -1,2 +1,2 @@\n a\n",
            3,
            "the head of this hunk says 2 lines before and 2 lines after; 1 and 1 stand there",
        ),
        ("--- a\n+++ b\n@@ -1,2 +1,2 @@\n a\n*b\n", 3, "1 and 1 stand there"),
        ("--- a\n+++ b\n@@ -1 +1 @@\n-a\n-b\n", 3, "2 and 0 stand there"),
        ("--- a\n+++ b\n@@ -1 +1 @@\n-a\n+b\n+c\n", 3, "1 and 2 stand there"),
        ("--- a\n+++ b\n@@ -1 +1 @@\n-a\n+b", 5, "the patch ends within this line"),
        ("*** a\n--- b\n***************\n*** one ****\n", 4, "the head of half a hunk was expected"),
        (
            "*** a\n--- b\n***************\n*** 1,2 ****\n  a\n  b\n--- 1,2 ----\n  a\n  c\n",
            3,
            "the same lines where neither is marked",
        ),
        ("diff --git a/x b/x\nnew mode 9\n", 2, "is no file mode"),
    ] {
        let error = read_patch(text.as_bytes()).unwrap_err();
        assert_eq!(error.line, line, "{text}: {error}");
        assert!(error.reason.contains(expected), "{text}: {error}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// What is written is read again, goes in, is known to be in, and comes out.
    #[test]
    fn patches_go_in_and_come_out((before, after) in edited_pair(), context in 0..4_usize) {
        there_and_back(&before, &after, context)?;
    }

    #[test]
    fn patches_of_ambiguous_texts_go_in_and_come_out(before in text(), after in text(), context in 0..4_usize) {
        there_and_back(&before, &after, context)?;
    }

    #[test]
    fn patches_of_any_bytes_go_in_and_come_out(before in bytes(), after in bytes()) {
        there_and_back(&before, &after, 3)?;
    }

    /// A file that moved on far away from the hunks takes them all the same.
    #[test]
    fn patches_follow_a_file_that_moved_on((before, after) in edited_pair(), more in 1..60_usize) {
        let patch = patch_of(&before, &after, 3);
        prop_assume!(!patch.is_empty());
        let hunks = read_patch(&patch).unwrap().files.remove(0).hunks;
        let has_context = hunks.iter().all(|hunk| hunk.lines.first().is_some_and(|line| line.role == LineRole::Context));
        prop_assume!(has_context);
        let above: Vec<u8> = (0..more).flat_map(|n| format!("above {n}\n").into_bytes()).collect();
        let found = place(&[above.clone(), before].concat(), &hunks, &PlaceOptions::default());
        prop_assert!(!found.is_whole() || found.text == [above, after].concat(), "{:?}", found.fits);
    }

    /// Hunks that stand where they were written are found without numbering lines; the long way finds the same.
    #[test]
    fn the_short_way_finds_what_the_long_way_finds(before in text(), after in text(), target in text(), context in 0..4_usize) {
        let patch = patch_of(&before, &after, context);
        prop_assume!(!patch.is_empty());
        let hunks = read_patch(&patch).unwrap().files.remove(0).hunks;
        // No line of these texts holds a time stamp, but rules send them all the long way.
        let file_rules = super::rules::file_rules("timestamps", "", "x");
        for target in [&before, &after, &target] {
            let short = place(target, &hunks, &PlaceOptions::default());
            let long = place(target, &hunks, &PlaceOptions::default().file_rules(Some(&file_rules)));
            prop_assert_eq!(short.fits, long.fits);
            prop_assert_eq!(short.text, long.text);
        }
    }

    /// Whatever the bytes, reading ends in a patch or an error, and placing in a text.
    #[test]
    fn any_bytes_are_a_patch_or_an_error(noise in prop::collection::vec(0..22_usize, 0..40), target in text()) {
        const PIECES: [&[u8]; 22] = [
            b"--- a\n", b"+++ b\n", b"@@ -1,2 +1,2 @@\n", b"@@ -0,0 +1 @@\n", b"@@ -9,1 +99999999999999999999 @@\n", b" a\n", b"-b\n", b"+c\n", b"\n",
            b"\\ No newline\n", b"*** a\n", b"***************\n", b"*** 1,2 ****\n", b"--- 1,2 ----\n", b"  a\n", b"! b\n", b"diff --git a/x b/y\n",
            b"rename to \"q\\9\n", b"new mode 100755\n", b"\xff\xfe", b"\0", b"@@ -",
        ];
        let text: Vec<u8> = noise.into_iter().flat_map(|piece| PIECES[piece].to_vec()).collect();
        if let Ok(patch) = read_patch(&text) {
            for file in &patch.files {
                let found = place(&target, &file.hunks, &PlaceOptions::default().mark_conflicts(Some("x".to_owned())));
                prop_assert_eq!(found.fits.len(), file.hunks.len());
                let _ = place(&target, &file.clone().reversed().hunks, &PlaceOptions::default());
            }
        }
    }
}

fn there_and_back(before: &[u8], after: &[u8], context: usize) -> Result<(), TestCaseError> {
    let written = patch_of(before, after, context);
    if written.is_empty() {
        return Ok(());
    }
    let patch = read_patch(&written).unwrap();
    let file = &patch.files[0];
    let mut again = Vec::new();
    write_hunks((&FileLabel::new("a/x"), &FileLabel::new("b/x")), &file.hunks, &mut again).unwrap();
    prop_assert_eq!(&again, &written);
    let options = PlaceOptions::default();
    // Lines that are added without context and stand there already are in, as far as anybody can tell.
    let untold = |hunks: &[Hunk], found: &Placement| {
        let mut both = hunks.iter().zip(&found.fits);
        both.any(|(hunk, fit)| hunk.old_lines().next().is_none() && fit.is_already_in())
    };
    let found = place(before, &file.hunks, &options);
    prop_assert!(found.is_whole());
    prop_assert!(found.text == after || untold(&file.hunks, &found), "{:?}", found.fits);
    let reversed = file.clone().reversed().hunks;
    let back = place(after, &reversed, &options);
    prop_assert!(back.is_whole());
    prop_assert!(back.text == before || untold(&reversed, &back), "{:?}", back.fits);
    if context == 3 {
        let twice = place(after, &file.hunks, &options);
        let put = |fit: &HunkPlacement| matches!(fit, HunkPlacement::Placed(_));
        // What the lines do not tell apart may go in again, but never a part of it.
        let blind = file.hunks.iter().any(|hunk| hunk.old_lines().next().is_none());
        let shrinks = blind || lines(after).len() <= lines(before).len();
        prop_assert!(twice.text == after || shrinks && twice.fits.iter().any(put), "{:?}", twice.fits);
    }
    Ok(())
}

/// A function like several others in a text.
fn function(name: &str, body: &str) -> String {
    format!("fn {name}() {{\n    let level = gauge.read();\n    {body}\n    level.close();\n}}\n\n")
}

#[test]
fn what_only_removes_is_not_in_while_its_lines_are_there() {
    let patch = "--- a\n+++ b\n@@ -2,7 +2,6 @@\n two\n three\n four\n-five\n six\n seven\n eight\n";
    // The innermost context line differs: the hunk does not fit, and is not in either.
    let target = TEN.replace("four", "vier");
    let found = placed(&target, patch, &PlaceOptions::default());
    assert!(matches!(found.fits[..], [HunkPlacement::PlacementFailure(_)]), "{:?}", found.fits);
    assert_eq!(found.text, target.as_bytes());
    // In reverse: it is not out while the line that it adds is there.
    let reversed = read(patch).files.remove(0).reversed();
    let without = target.replace("five\n", "");
    let out = place(without.as_bytes(), &reversed.hunks, &PlaceOptions::default());
    assert!(matches!(out.fits[..], [HunkPlacement::PlacementFailure(_)]), "{:?}", out.fits);
    let gone = placed(&TEN.replace("five\n", ""), patch, &PlaceOptions::default());
    assert_eq!(gone.fits, [HunkPlacement::AlreadyIn(1)]);
    // With tolerance, as it fits with tolerance.
    let gone = placed(&TEN.replace("five\n", "").replace("two", "zwei"), patch, &PlaceOptions::default());
    assert_eq!(gone.fits, [HunkPlacement::AlreadyIn(1)]);
}

#[test]
fn what_it_adds_is_not_added_twice() {
    let patch = "--- a\n+++ b\n@@ -2,6 +2,7 @@\n two\n three\n four\n+four and a half\n five\n six\n seven\n";
    let inside = TEN.replace("four\n", "four\nfour and a half\n");
    // It is in, and lines around it changed since.
    for (line, other) in [("two", "2"), ("four\n", "vier\n"), ("five", "fünf"), ("seven", "7")] {
        let target = inside.replacen(line, other, 1);
        let found = placed(&target, patch, &PlaceOptions::default().tolerance(3));
        assert_eq!(found.text, target.as_bytes(), "{line}: {:?}", found.fits);
    }
    // It went in somewhat higher, in other words a reader would ask.
    let higher = TEN.replace("two\n", "two\nfour and a half\n").replace("seven", "7");
    let found = placed(&higher, patch, &PlaceOptions::default());
    assert!(matches!(found.fits[..], [HunkPlacement::PlacementFailure(_)]), "{:?}", found.fits);
    // Or a longer way off, where the file is long.
    let more: String = (0..30).map(|n| format!("filler {n}\n")).collect();
    let lower = TEN.replace("seven", "7").replace("ten\n", &format!("ten\nfour and a half\n{more}"));
    let found = placed(&lower, patch, &PlaceOptions::default());
    let [
        HunkPlacement::PlacementFailure(PlacementFailure::Doubtful {
            line: 1, against: Doubt::AddedNearby(10), ..
        }),
    ] = found.fits[..]
    else {
        panic!("{:?}", found.fits)
    };
}

#[test]
fn a_file_that_shifted_as_a_whole_takes_its_hunks_at_one_distance() {
    // Two functions alike, and a third; the second hunk tells them apart.
    let before = [function("one", "same();"), function("two", "same();"), function("three", "other();")].concat();
    let after = before.replacen("    same();\n", "    first();\n", 1).replace("other();", "last();");
    let patch = patch_of(before.as_bytes(), after.as_bytes(), 1);
    let hunks = read_patch(&patch).unwrap().files.remove(0).hunks;
    let front = "a line of its own\n".repeat(6);
    let found = place((front.clone() + &before).as_bytes(), &hunks, &PlaceOptions::default());
    assert_eq!(String::from_utf8(found.text).unwrap(), front + &after, "{:?}", found.fits);
}

#[test]
fn another_function_is_no_place_for_a_hunk_that_lost_its_own() {
    let before = [function("one", "same();"), function("two", "read();"), function("three", "same();")].concat();
    let after = before.replacen("    same();\n", "    first();\n", 1);
    let hunks = read_patch(&patch_of(before.as_bytes(), after.as_bytes(), 3)).unwrap().files.remove(0).hunks;
    let target = before.replacen("    same();\n", "    edited();\n", 1);
    let found = place(target.as_bytes(), &hunks, &PlaceOptions::default());
    assert!(matches!(found.fits[..], [HunkPlacement::PlacementFailure(_)]), "{:?}", found.fits);
    assert_eq!(found.text, target.as_bytes());
}

#[test]
fn hunks_without_context_are_known_when_they_are_in() {
    let after = TEN.replace("five\n", "five\nfive and a half\n");
    let hunks = read_patch(&patch_of(TEN.as_bytes(), after.as_bytes(), 0)).unwrap().files.remove(0).hunks;
    let options = PlaceOptions::default();
    assert_eq!(place(TEN.as_bytes(), &hunks, &options).text, after.as_bytes());
    let twice = place(after.as_bytes(), &hunks, &options);
    assert_eq!((&twice.fits[..], &twice.text[..]), (&[HunkPlacement::AlreadyIn(5)][..], after.as_bytes()));
}

#[test]
fn a_refusal_says_which_slack_would_do() {
    let target = TEN.replace("four", "vier");
    let found = placed(&target, FIVE, &PlaceOptions::default());
    let [HunkPlacement::PlacementFailure(PlacementFailure::NoMatch { line: 1, tolerance: Some(3), .. })] =
        found.fits[..]
    else {
        panic!("{:?}", found.fits)
    };
    let found = placed(&target, FIVE, &PlaceOptions::default().tolerance(3));
    assert_eq!(found.text, target.replace("five", "5").as_bytes());
}
