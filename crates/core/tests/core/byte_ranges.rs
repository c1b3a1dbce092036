//! Bytes: an alignment of our own, its bounds, and ranges carried from side to side.

use std::ops::Range;

use proptest::prelude::*;
use tideline_core::internal::align::work::counted;
use tideline_core::internal::kinds::{Comparison, ContentOptions, WantedKind, compare};
use tideline_core::internal::merge::{TakeInto, take_ranges};
use tideline_core::internal::model::ranges::BytesComparison;
use tideline_core::internal::model::{Form, Kind, Unit};

fn options() -> ContentOptions {
    ContentOptions::default().kind(Some(WantedKind::As(Kind::Bytes)))
}

fn found(before: &[u8], after: &[u8]) -> BytesComparison {
    found_with(before, after, &options())
}

fn found_with(before: &[u8], after: &[u8], options: &ContentOptions) -> BytesComparison {
    match compare(b"x.bin", (before, after), options) {
        Comparison::Bytes(bytes) => bytes.found,
        other => panic!("these are bytes, not {:?}", other.kind()),
    }
}

/// Bytes that look random and are always the same.
fn noise(seed: u64, length: usize) -> Vec<u8> {
    let mut state = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1;
    let mut next = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state >> 24) as u8
    };
    (0..length).map(|_| next()).collect()
}

/// An edit of bytes.
#[derive(Clone, Debug)]
enum Edit {
    Change(usize, Vec<u8>),
    Insert(usize, Vec<u8>),
    Remove(usize, usize),
}

fn edits() -> impl Strategy<Value = Vec<Edit>> {
    let some = || prop::collection::vec(any::<u8>(), 1..40);
    let edit = prop_oneof![
        (any::<usize>(), some()).prop_map(|(at, bytes)| Edit::Change(at, bytes)),
        (any::<usize>(), some()).prop_map(|(at, bytes)| Edit::Insert(at, bytes)),
        (any::<usize>(), 1..40_usize).prop_map(|(at, length)| Edit::Remove(at, length)),
    ];
    prop::collection::vec(edit, 0..8)
}

fn edited(before: &[u8], edits: &[Edit]) -> Vec<u8> {
    let mut after = before.to_vec();
    for edit in edits {
        let at = |at: usize| at % (after.len() + 1);
        match edit {
            Edit::Change(place, bytes) => {
                let at = at(*place);
                for (own, byte) in after[at..].iter_mut().zip(bytes) {
                    *own = *byte;
                }
            }
            Edit::Insert(place, bytes) => {
                let at = at(*place);
                after.splice(at..at, bytes.iter().copied());
            }
            Edit::Remove(place, length) => {
                let at = at(*place);
                let end = (at + length).min(after.len());
                after.drain(at..end);
            }
        }
    }
    after
}

/// What a comparison promises of its ranges.
fn assert_is_script(before: &[u8], after: &[u8], found: &BytesComparison) {
    let mut at = (0, 0);
    for (index, change) in found.changes.iter().enumerate() {
        assert_eq!(change.number, index + 1);
        let (b, a) = (&change.before, &change.after);
        assert!(before[at.0..b.start] == after[at.1..a.start], "what lies before change {} is equal", change.number);
        assert!(!b.is_empty() || !a.is_empty(), "a change has bytes");
        let form = match (b.is_empty(), a.is_empty()) {
            (true, _) => Form::New,
            (_, true) => Form::Gone,
            _ => Form::Edited,
        };
        assert_eq!(change.form, form);
        at = (b.end, a.end);
    }
    assert!(before[at.0..] == after[at.1..], "what lies behind the last change is equal");
}

fn sizes(found: &BytesComparison) -> Vec<(Range<usize>, Range<usize>)> {
    found.changes.iter().map(|change| (change.before.clone(), change.after.clone())).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn ranges_turn_before_into_after_whatever_they_hold(
        (before, after) in (crate::support::bytes(), crate::support::bytes())
    ) {
        let found = found(&before, &after);
        assert_is_script(&before, &after, &found);
        prop_assert_eq!(found.extent().unit, Unit::Bytes);
    }

    #[test]
    fn edits_of_larger_contents_are_found_where_they_were_made(
        (seed, length, edits) in (any::<u64>(), 20_000..120_000_usize, edits())
    ) {
        let before = noise(seed, length);
        let after = edited(&before, &edits);
        let found = found(&before, &after);
        assert_is_script(&before, &after, &found);
        let touched: usize = edits.iter().map(|edit| match edit {
            Edit::Change(_, bytes) | Edit::Insert(_, bytes) => bytes.len(),
            Edit::Remove(_, length) => *length,
        }).sum();
        // Edits that stand near each other are told as one.
        let told: usize = found.changes.iter().map(|change| change.before.len().max(change.after.len())).sum();
        prop_assert!(told <= touched * 2 + edits.len() * 80, "{told} bytes told of {touched} touched");
        prop_assert!(found.changes.len() <= edits.len() * 3);
    }

    #[test]
    fn exchanged_sides_mirror(
        (seed, edits) in (any::<u64>(), edits())
    ) {
        let before = noise(seed, 30_000);
        let after = edited(&before, &edits);
        let there = sizes(&found(&before, &after));
        let back: Vec<_> = sizes(&found(&after, &before)).into_iter().map(|(b, a)| (a, b)).collect();
        prop_assert_eq!(there, back);
    }

    #[test]
    fn chosen_ranges_are_carried_and_others_stay(
        (seed, edits, picks) in (any::<u64>(), edits(), prop::collection::vec(any::<bool>(), 24))
    ) {
        let before = noise(seed, 5_000);
        let after = edited(&before, &edits);
        let found = found(&before, &after);
        let all = vec![true; found.changes.len()];
        let none = vec![false; found.changes.len()];
        prop_assert_eq!(&take_ranges((&before, &after), &found, TakeInto::Before, &all), &after);
        prop_assert_eq!(&take_ranges((&before, &after), &found, TakeInto::After, &all), &before);
        prop_assert_eq!(&take_ranges((&before, &after), &found, TakeInto::Before, &none), &before);
        // What is carried one way and what is left that way meet in the middle.
        let picks: Vec<bool> = picks.into_iter().chain(std::iter::repeat(false)).take(found.changes.len()).collect();
        let others: Vec<bool> = picks.iter().map(|pick| !pick).collect();
        prop_assert_eq!(
            take_ranges((&before, &after), &found, TakeInto::Before, &picks),
            take_ranges((&before, &after), &found, TakeInto::After, &others)
        );
    }
}

#[test]
fn an_insertion_and_a_removal_far_apart_leave_all_between_equal() {
    let before = noise(7, 3 << 20);
    let mut after = before.clone();
    after.splice(1_000_000..1_000_000, *b"seven or so bytes");
    after.drain(2_500_000..2_500_100);
    let found = found(&before, &after);
    assert_eq!(
        sizes(&found),
        [(1_000_000..1_000_000, 1_000_000..1_000_017), (2_499_983..2_500_083, 2_500_000..2_500_000)]
    );
}

#[test]
fn one_byte_of_a_large_image_is_one_change() {
    let mut before = vec![0; 20 << 20];
    before[..4096].copy_from_slice(&noise(1, 4096));
    before[9_000_000..9_100_000].copy_from_slice(&noise(2, 100_000));
    let mut after = before.clone();
    after[9_050_000] ^= 1;
    after[15_000_000] = 1;
    let found = found(&before, &after);
    assert_eq!(
        sizes(&found),
        [(9_050_000..9_050_001, 9_050_000..9_050_001), (15_000_000..15_000_001, 15_000_000..15_000_001)]
    );
}

#[test]
fn what_is_a_hole_on_both_sides_is_not_read() {
    let before = noise(3, 1 << 20);
    let mut after = before.clone();
    after[100_000] ^= 1;
    after[700_000] ^= 1;
    let all = found(&before, &after);
    assert_eq!(all.changes.len(), 2);
    // Nothing but a look at the bytes could tell that this is no hole.
    let seen = found_with(&before, &after, &options().holes(vec![600_000..800_000]));
    assert_eq!(sizes(&seen), [(100_000..100_001, 100_000..100_001)]);
}

#[test]
fn work_stays_within_a_multiple_of_the_size_on_hostile_contents() {
    let size = 1 << 20;
    let zeros = vec![0_u8; size];
    let repeated =
        |pattern: &[u8], length: usize| -> Vec<u8> { pattern.iter().copied().cycle().take(length).collect() };
    let cases: Vec<(&str, Vec<u8>, Vec<u8>)> = vec![
        ("unrelated", noise(1, size), noise(2, size)),
        ("zeros, more of them", zeros.clone(), vec![0; size + 77]),
        ("zeros and ones", zeros.clone(), vec![1; size]),
        ("a pattern, shifted", repeated(b"abcdefg", size), repeated(b"defgabc", size + 3)),
        ("two patterns", repeated(b"ab", size), repeated(b"abc", size)),
        ("every other byte", repeated(&[0, 1], size), repeated(&[0, 2], size)),
        ("one byte in each kilobyte", zeros.clone(), (0..size).map(|at| u8::from(at % 1024 == 0)).collect()),
        ("noise, one byte inserted in each kilobyte", noise(5, size), {
            let noise = noise(5, size);
            noise.chunks(1024).flat_map(|chunk| chunk.iter().copied().chain([7])).collect()
        }),
    ];
    for (name, before, after) in cases {
        let (found, steps) = counted(|| found(&before, &after));
        assert_is_script(&before, &after, &found);
        let bytes = (before.len() + after.len()) as u64;
        assert!(steps <= 60 * bytes, "{name}: {steps} steps for {bytes} bytes");
    }
}

#[test]
fn too_many_ranges_are_told_as_fewer() {
    // More ranges, eight bytes apart, than are told one by one.
    let before = noise(9, 4 << 20);
    let after: Vec<u8> =
        before.iter().enumerate().map(|(at, byte)| if at % 8 == 0 { byte ^ 0xff } else { *byte }).collect();
    let found = found(&before, &after);
    assert_is_script(&before, &after, &found);
    assert!(found.changes.len() <= 1 << 18, "{}", found.changes.len());
    assert!(found.joined_within > 4, "and that is said");
}

#[test]
fn the_format_is_told_by_the_first_bytes() {
    let elf = [&b"\x7fELF\x02\x01\x01\0"[..], &[0; 60]].concat();
    let mut other = elf.clone();
    other[40] = 9;
    assert_eq!(found(&elf, &other).formats.0.as_deref(), Some("Executable and Linkable Format (ELF)"));
    assert_eq!(found(b"\0\x01\x02", b"\0\x01\x03").formats, (None, None));
}
