//! Bytes, images and sheets, in every look.

use std::collections::BTreeMap;

use proptest::prelude::*;
use tideline_core::internal::kinds::{Comparison, ContentOptions, WantedKind, compare};
use tideline_core::internal::model::Kind;
use tideline_views::json::{give_pair_changes, records::Record};
use tideline_views::terminal::{Colours, Layout, Look, Theme, draw_pair};
use tideline_views::{Context, Labels, PairView, Title, beside_as_png};
use unicode_width::UnicodeWidthStr;

use crate::without_colours;

fn bytes_of<'b>(before: &'b [u8], after: &'b [u8]) -> Comparison<'b> {
    let options = ContentOptions::default().kind(Some(WantedKind::As(Kind::Bytes)));
    compare(b"gauge.bin", (before, after), &options)
}

fn drawn(comparison: &Comparison<'_>, look: &Look) -> String {
    let labels = Labels::new("spring", "autumn");
    let title = Title { name: "gauge.bin", type_name: "gauge.bin", labels: &labels, note: None };
    let mut out = Vec::new();
    draw_pair(&PairView::new(comparison, title), look, &mut out).unwrap();
    String::from_utf8(out).expect("what is drawn is UTF-8")
}

/// A row of bytes as it was drawn: the mark, both offsets and the bytes.
#[derive(Debug, PartialEq)]
struct Drawn {
    mark: char,
    before: Option<usize>,
    after: Option<usize>,
    bytes: Vec<Option<u8>>,
}

/// Reads the rows of a stacked view with offsets of so many digits.
fn rows(text: &str, digits: usize) -> Vec<Drawn> {
    let is_row = |line: &&str| {
        let letters: Vec<char> = line.chars().collect();
        letters.len() > 2 * digits + 9
            && matches!(letters[1], ' ' | 'o' | '*')
            && letters[3..3 + digits]
                .iter()
                .chain(&letters[5 + digits..5 + 2 * digits])
                .all(|letter| letter.is_ascii_hexdigit() || *letter == ' ')
            && letters[3..5 + 2 * digits].iter().any(char::is_ascii_hexdigit)
            && letters[..3].iter().collect::<String>().trim().len() <= 1
    };
    let read = |line: &str| {
        let letters: Vec<char> = line.chars().collect();
        let offset = |start: usize| {
            let text: String = letters[start..start + digits].iter().collect();
            usize::from_str_radix(text.trim(), 16).ok()
        };
        let start = 2 * digits + 7;
        let byte = |column: usize| {
            let at = start + column * 3 + column / 8;
            let text: String = letters.get(at..at + 2)?.iter().collect();
            u8::from_str_radix(&text, 16).ok()
        };
        Drawn { mark: letters[1], before: offset(3), after: offset(5 + digits), bytes: (0..16).map(byte).collect() }
    };
    text.lines().filter(is_row).map(read).collect()
}

fn edited() -> impl Strategy<Value = (Vec<u8>, Vec<u8>)> {
    let edit = (any::<prop::sample::Index>(), 0..3_u8, prop::collection::vec(any::<u8>(), 1..6));
    (prop::collection::vec(any::<u8>(), 60..300), prop::collection::vec(edit, 1..5)).prop_map(|(before, edits)| {
        let mut after = before.clone();
        for (index, what, bytes) in edits {
            let at = index.index(after.len());
            match what {
                0 => after[at] = after[at].wrapping_add(1),
                1 => drop(after.splice(at..at, bytes)),
                _ => drop(after.drain(at..(at + bytes.len()).min(after.len()))),
            }
        }
        (before, after)
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]

    #[test]
    fn what_is_drawn_of_bytes_is_what_stands_there((before, after) in edited()) {
        let comparison = bytes_of(&before, &after);
        let Comparison::Bytes(pair) = &comparison else { panic!("these are bytes") };
        let look = Look::default().plain(true).width(120).context(Context::All).legend(false);
        let text = drawn(&comparison, &look);
        let (mut old, mut new) = (BTreeMap::new(), BTreeMap::new());
        for row in rows(&text, 4) {
            let known: Vec<u8> = row.bytes.iter().flatten().copied().collect();
            // A marked row is of one side; others are of both.
            for (side, at) in [(&mut old, row.before), (&mut new, row.after)] {
                for (offset, byte) in at.into_iter().flat_map(|at| (at..).zip(&known)) {
                    side.insert(offset, *byte);
                }
            }
        }
        for change in &pair.found.changes {
            for (side, range, bytes) in [(&old, &change.before, &before), (&new, &change.after, &after)] {
                for at in range.clone().filter(|at| change.form != tideline_core::internal::model::Form::Edited || before.get(*at) != after.get(*at)) {
                    prop_assert_eq!(side.get(&at), Some(&bytes[at]), "offset {:#x}\n{}", at, text);
                }
            }
        }
    }

    #[test]
    fn no_row_of_bytes_is_wider_than_the_terminal(
        ((before, after), width, beside) in (edited(), 60..200_usize, any::<bool>())
    ) {
        let comparison = bytes_of(&before, &after);
        let layout = if beside { Layout::Beside } else { Layout::Stacked };
        for colours in [Colours::None, Colours::All] {
            let look = Look::default().layout(layout).width(width).colours(colours).legend(false);
            let text = without_colours(&drawn(&comparison, &look));
            for line in text.lines().filter(|line| !line.starts_with("  ")) {
                prop_assert!(line.width() <= width, "{} columns of {width}: {line}", line.width());
            }
        }
    }

    #[test]
    fn records_of_ranges_rebuild_the_other_side((before, after) in edited()) {
        let comparison = bytes_of(&before, &after);
        let labels = Labels::new("spring", "autumn");
        let title = Title { name: "x", type_name: "x", labels: &labels, note: None };
        let mut built = Vec::new();
        let mut at = 0;
        give_pair_changes(b"x", &PairView::new(&comparison, title), (&Default::default(), usize::MAX), &mut |record| {
            let Record::Range(range) = record else { panic!("ranges only") };
            built.extend_from_slice(&before[at..range.before.offset]);
            let bytes = base64::Engine::decode(&base64::prelude::BASE64_STANDARD, range.after.base64.unwrap()).unwrap();
            assert_eq!((bytes.len(), built.len()), (range.after.length, range.after.offset));
            built.extend(bytes);
            at = range.before.offset + range.before.length;
            Ok(())
        }).unwrap();
        built.extend_from_slice(&before[at..]);
        prop_assert_eq!(built, after);
    }
}

#[test]
fn long_changes_are_cut_unless_all_is_asked_for() {
    let before = vec![0_u8; 64];
    let after = [&before[..], &[7_u8; 4096]].concat();
    let comparison = bytes_of(&before, &after);
    let look = Look::default().plain(true).width(120);
    let cut = drawn(&comparison, &look);
    assert!(cut.contains("240 more rows not shown (--context all shows them)"), "{cut}");
    assert_eq!(drawn(&comparison, &look.context(Context::All)).matches("07 07 07 07 07 07 07 07  07").count(), 256);
}

#[test]
fn ranges_near_each_other_share_a_heading_and_far_ones_do_not() {
    let before = vec![0_u8; 1024];
    let mut after = before.clone();
    for at in [100, 110, 130, 900] {
        after[at] = 1;
    }
    let text = drawn(&bytes_of(&before, &after), &Look::default().plain(true).width(120));
    assert!(
        text.contains("changes 1-3 of 4 - offset 0x64 (100) - 1 byte edited; 1 byte edited; 1 byte edited\n"),
        "{text}"
    );
    assert!(text.contains("change 4 of 4 - offset 0x384 (900)"), "{text}");
}

/// A bitmap of 24 bits a pixel, from its upper row to its lower.
fn bitmap(width: usize, height: usize, pixel: impl Fn(usize, usize) -> [u8; 3]) -> Vec<u8> {
    let stride = (width * 3).div_ceil(4) * 4;
    let size = 54 + stride * height;
    let mut bytes = Vec::with_capacity(size);
    bytes.extend_from_slice(b"BM");
    bytes.extend_from_slice(&(size as u32).to_le_bytes());
    bytes.extend_from_slice(&[0; 4]);
    bytes.extend_from_slice(&54_u32.to_le_bytes());
    bytes.extend_from_slice(&40_u32.to_le_bytes());
    bytes.extend_from_slice(&(width as i32).to_le_bytes());
    bytes.extend_from_slice(&(height as i32).to_le_bytes());
    bytes.extend_from_slice(&1_u16.to_le_bytes());
    bytes.extend_from_slice(&24_u16.to_le_bytes());
    bytes.extend_from_slice(&[0; 24]);
    for y in (0..height).rev() {
        let row: Vec<u8> = (0..width).flat_map(|x| pixel(x, y)).rev().collect();
        // Rows are of blue, green and red, from the left.
        let row: Vec<u8> = row.chunks(3).rev().flatten().copied().collect();
        bytes.extend_from_slice(&row);
        bytes.resize(bytes.len() + stride - width * 3, 0);
    }
    bytes
}

fn images() -> (Vec<u8>, Vec<u8>) {
    let sea = |x: usize, y: usize| [20 + x as u8, 80 + y as u8, 200];
    let buoy =
        move |x: usize, y: usize| if (30..36).contains(&x) && (10..14).contains(&y) { [255, 0, 0] } else { sea(x, y) };
    (bitmap(60, 40, sea), bitmap(60, 40, buoy))
}

#[test]
fn an_image_is_shown_in_small_where_there_are_colours_enough() {
    let (before, after) = images();
    let comparison = compare(b"chart.bmp", (&before, &after), &ContentOptions::default());
    assert_eq!(comparison.kind(), Kind::Image);
    for colours in [Colours::None, Colours::Sixteen] {
        assert!(!drawn(&comparison, &Look::default().colours(colours)).contains('▀'), "{colours:?}");
    }
    for colours in [Colours::Many, Colours::All] {
        for theme in [Theme::Dark, Theme::Light] {
            let look = Look::default().colours(colours).theme(theme).width(100);
            let text = drawn(&comparison, &look);
            assert!(text.contains("what differs"));
            assert!(without_colours(&text).lines().all(|line| line.width() <= 100), "{colours:?}");
            assert!(!drawn(&comparison, &look.preview(false)).contains('▀'));
        }
    }
    let all = drawn(&comparison, &Look::default().colours(Colours::All).width(100));
    assert!(all.contains("\x1b[38;2;255;45;85m") || all.contains("48;2;255;45;85"), "what differs is marked");
    assert!(
        !drawn(&comparison, &Look::default().colours(Colours::Many).width(100)).contains("38;2;"),
        "256 colours are enough"
    );
    let plain = drawn(&comparison, &Look::default().plain(true));
    assert!(plain.contains("1 % 6 x 4 pixels at 30, 10") && plain.is_ascii(), "{plain}");
}

#[test]
fn two_images_become_one_with_the_difference_beside_them() {
    let (before, after) = images();
    let Comparison::Image(pair) = compare(b"chart.bmp", (&before, &after), &ContentOptions::default()) else {
        panic!("these are images")
    };
    let png = beside_as_png(&pair).unwrap();
    let made = image::load_from_memory(&png).unwrap().into_rgba8();
    assert_eq!(made.dimensions(), (3 * 60 + 4 * 16, 40 + 2 * 16));
    let third = 3 * 16 + 2 * 60;
    assert_eq!(made.get_pixel(third + 32, 16 + 12).0, [0xff, 0x2d, 0x55, 0xff], "the buoy is marked");
    let same = made.get_pixel(third + 5, 16 + 5).0;
    assert!(same[0] == same[1] && same[1] == same[2], "what is the same is grey");
    assert_eq!(made.get_pixel(16 + 5, 16 + 5).0, [25, 85, 200, 255], "the images are as they are");
}
