//! Two files, in every layout.

use proptest::prelude::*;
use tideline_core::internal::kinds::text::{Grain, TextOptions, compare};
use tideline_core::internal::model::{Change, Form, TextComparison};
use tideline_core::internal::rules::MaskedText;
use tideline_views::terminal::{Colours, Layout, Look, Theme, draw_file};
use tideline_views::{Context, FileView, Labels};

use crate::without_colours;

const LAYOUTS: [Layout; 3] = [Layout::Stacked, Layout::Beside, Layout::Inline];

fn labels() -> Labels {
    Labels::new("spring", "autumn")
}

fn draw(before: &[u8], after: &[u8], look: &Look) -> (String, TextComparison) {
    let comparison = compare(before, after, &TextOptions::default());
    let labels = labels();
    let view = FileView {
        name: "levels.py",
        type_name: "levels.py",
        labels: &labels,
        note: None,
        before: &MaskedText::unmasked(before),
        after: &MaskedText::unmasked(after),
        comparison: &comparison,
        first: (0, 0),
        originals: (None, None),
        extracted: None,
    };
    let mut out = Vec::new();
    draw_file(&view, look, &mut out).unwrap();
    (String::from_utf8(out).expect("what is drawn is UTF-8"), comparison)
}

fn looks() -> Vec<Look> {
    let mut looks = Vec::new();
    for layout in LAYOUTS {
        for colours in [Colours::None, Colours::Sixteen, Colours::Many, Colours::All] {
            for plain in [false, true] {
                looks.push(Look::default().layout(layout).colours(colours).plain(plain).context(Context::Lines(1)));
            }
        }
    }
    looks
}

fn bytes() -> impl Strategy<Value = Vec<u8>> {
    let byte = prop_oneof![
        Just(b'\n'),
        Just(b'a'),
        Just(b'\t'),
        Just(0x1b),
        Just(b'['),
        Just(0xe2),
        Just(0x80),
        Just(0xae),
        any::<u8>()
    ];
    prop::collection::vec(byte, 0..80)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]

    #[test]
    fn no_bytes_of_a_file_command_the_terminal(before in bytes(), after in bytes()) {
        for look in looks() {
            let (text, _) = draw(&before, &after, &look);
            let shown = without_colours(&text);
            let harmful = |c: char| c.is_control() && c != '\n' || ('\u{202a}'..='\u{202e}').contains(&c);
            prop_assert!(!shown.chars().any(harmful), "{:?}: {:?}", look, shown);
        }
    }

    #[test]
    fn plain_drawings_are_ascii(before in bytes(), after in bytes()) {
        for layout in LAYOUTS {
            let (text, _) = draw(&before, &after, &Look::default().layout(layout).plain(true));
            prop_assert!(text.is_ascii(), "{}", text);
        }
    }

    #[test]
    fn every_line_that_differs_has_its_row(before in bytes(), after in bytes()) {
        let look = Look::default().context(Context::Lines(0)).legend(false);
        let (text, comparison) = draw(&before, &after, &look);
        let rows = |mark: &str| text.lines().filter(|row| row.starts_with(mark)).count();
        let lines = |form: fn(Form) -> bool, before: bool| -> usize {
            let wanted = comparison.changes.iter().filter(|change| form(change.form));
            let side = |change: &Change| if before { change.before.lines.len() } else { change.after.lines.len() };
            wanted.map(|change| side(change) - change.equal).sum()
        };
        // A row of two lines that are indented differently is of both sides.
        let both = rows(" ⇥ ");
        prop_assert_eq!(rows(" ○ ") + both, lines(|form| form != Form::Moved, true));
        prop_assert_eq!(rows(" ● ") + both, lines(|form| form != Form::Moved, false));
        let headings = text.lines().filter(|row| row.starts_with("  change ")).count();
        prop_assert_eq!(headings, comparison.places.len());
    }
}

#[test]
fn the_strip_shows_where_the_changes_lie() {
    let before: String = (0..320).map(|n| format!("reading number {n:05}\n")).collect();
    let after = before.replace("00003", "three").replace("reading number 00200\n", "");
    let (text, _) = draw(before.as_bytes(), after.as_bytes(), &Look::default());
    let strip = text.lines().next().unwrap().rsplit(' ').next().unwrap();
    assert_eq!(strip.chars().count(), 32);
    assert_eq!(strip.chars().position(|mark| mark == '◐'), Some(0));
    assert_eq!(strip.chars().position(|mark| mark == '○'), Some(20));
    let narrow = draw(before.as_bytes(), after.as_bytes(), &Look::default().width(50)).0;
    assert!(!narrow.lines().next().unwrap().contains('─'), "no strip where there is no room: {narrow}");
}

#[test]
fn themes_and_colours_change_the_colours_alone() {
    let (before, after) = (b"one\nlevel = 1\n", b"one\nlevel = 2\n");
    let plain = draw(before, after, &Look::default().legend(false)).0;
    let rows = |text: &str| -> Vec<String> {
        without_colours(text).lines().filter(|row| !row.contains('^')).map(|row| row.trim_end().to_owned()).collect()
    };
    let mut masked = Vec::new();
    for theme in [Theme::Dark, Theme::Light] {
        for colours in [Colours::Sixteen, Colours::Many, Colours::All] {
            let look = Look::default().legend(false).theme(theme).colours(colours);
            let text = draw(before, after, &look).0;
            assert_eq!(rows(&text), rows(&plain));
            masked.push(text);
        }
    }
    masked.dedup();
    assert_eq!(masked.len(), 6, "each has colours of its own");
}

#[test]
fn letters_on_the_ground_of_changed_words_are_readable() {
    // Contrast by WCAG 2.1, from the colours that are really written.
    for theme in [Theme::Dark, Theme::Light] {
        let text = draw(b"level = 1\n", b"level = 2\n", &Look::default().colours(Colours::All).theme(theme)).0;
        let mut checked = 0;
        for part in text.split("\u{1b}[38;2;").skip(1) {
            let Some((letters, rest)) = part.split_once('m') else { continue };
            let Some(ground) = rest.strip_prefix("\u{1b}[48;2;").and_then(|rest| rest.split_once('m')) else {
                continue;
            };
            let ratio = contrast(letters, ground.0);
            assert!(ratio >= 4.5, "{theme:?}: {letters} on {} has {ratio:.2}", ground.0);
            checked += 1;
        }
        assert!(checked >= 4, "{text:?}");
    }
}

fn contrast(one: &str, other: &str) -> f64 {
    let luminance = |colour: &str| {
        let part = |part: &str| {
            let value = f64::from(part.parse::<u8>().unwrap()) / 255.0;
            if value <= 0.04045 { value / 12.92 } else { ((value + 0.055) / 1.055).powf(2.4) }
        };
        let parts: Vec<f64> = colour.split(';').map(part).collect();
        0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]
    };
    let (a, b) = (luminance(one), luminance(other));
    (a.max(b) + 0.05) / (a.min(b) + 0.05)
}

#[test]
fn the_grain_decides_what_is_marked() {
    let markers = |grain: Grain| {
        let look = Look::default().grain(grain).legend(false);
        let text = draw(b"harbour_mouth = 12\n", b"harbour_month = 12\n", &look).0;
        text.matches('^').count()
    };
    assert_eq!((markers(Grain::Line), markers(Grain::Letter), markers(Grain::Word)), (0, 2, 10));
}

/// What is drawn of two texts, without colours.
fn stacked(before: &str, after: &str, look: &Look) -> String {
    draw(before.as_bytes(), after.as_bytes(), &look.clone().legend(false)).0
}

#[test]
fn a_line_that_is_indented_differently_is_drawn_once() {
    let before = "def read():\n    low = 1\n    high = 2\n";
    let after = "def read():\n    if late:\n        low = 1\n        high = 2\n";
    for (plain, mark) in [(true, 'i'), (false, '⇥')] {
        let (text, _) = draw(before.as_bytes(), after.as_bytes(), &Look::default().plain(plain));
        assert!(text.contains(&format!("\n {mark}  2   3            low = 1\n")), "{text}");
        assert_eq!(text.matches("low = 1").count(), 1, "{text}");
        assert!(text.contains(&format!("{mark} indented differently")), "the legend says so: {text}");
        let (none, _) = draw(b"low = 1\n", b"low = 2\n", &Look::default().plain(plain));
        assert!(!none.contains("indented"), "{none}");
    }
    let coloured = draw(before.as_bytes(), after.as_bytes(), &Look::default().colours(Colours::All)).0;
    assert_eq!(coloured.matches("low ").count(), 1, "{coloured}");
}

#[test]
fn lines_that_print_alike_are_spelled_out() {
    let plain = Look::default().plain(true);
    let blanks = stacked("the level of the gauge\n", "the level of the gauge  \n", &plain);
    assert!(blanks.contains("the level of the gauge..\n"), "{blanks}");
    let look = Look::default();
    let forms = stacked("the caf\u{e9} on the quay\n", "the cafe\u{301} on the quay\n", &look);
    assert!(forms.contains("<U+00E9>") && forms.contains("e<U+0301>"), "{forms}");
    // However short, they belong together.
    let short = stacked("a\n\u{e9}\nb\n", "a\ne\u{301}\nb\n", &look);
    assert!(short.contains("<U+00E9>") && short.contains("e<U+0301>"), "{short}");
    let spaces = stacked("the level is 5\u{a0}mm now\n", "the level is 5 mm now\n", &look);
    assert!(spaces.contains("5<U+00A0>mm") && spaces.contains("5·mm"), "{spaces}");
    let ends = stacked("the level\r\n", "the level\n", &look);
    assert!(ends.contains("the level␍\n"), "{ends}");
    // What is told apart by eye is not spelled out, and a picture keeps its joiners.
    let other = stacked("the caf\u{e9} on the quay\n", "the bar on the quay\n", &look);
    assert!(other.contains("caf\u{e9}"), "{other}");
    let picture = stacked("keeper: 👩‍🔬 today\n", "keeper: 👨‍🔬 today\n", &look);
    assert!(!picture.contains("U+200D"), "{picture}");
}

#[test]
fn changes_one_line_apart_stand_under_one_heading() {
    let before = "a = 1\nkept\nb = 1\nkept too\nc = 1\none\ntwo\nd = 1\n";
    let after = "a = 2\nkept\nb = 2\nkept too\nc = 2\none\ntwo\nd = 2\n";
    for layout in LAYOUTS {
        let text = stacked(before, after, &Look::default().layout(layout).width(60));
        let headings: Vec<&str> = text.lines().filter(|row| row.starts_with("  change")).collect();
        assert_eq!(headings, ["  changes 1–3 of 4 · lines 1–5", "  change 4 of 4 · line 8"], "{text}");
        let numbers: Vec<&str> =
            text.lines().filter_map(|row| row.get(..2)).filter(|head| head.trim().parse::<u8>().is_ok()).collect();
        assert_eq!(numbers, [" 1", " 2", " 3"], "{text}");
    }
    // Without equal lines around them, each has its own.
    let bare = stacked(before, after, &Look::default().context(Context::Lines(0)));
    assert_eq!(bare.matches("  change ").count(), 4, "{bare}");
}

#[test]
fn both_lines_of_a_pair_are_cut_at_the_same_place() {
    let words: Vec<String> = (0..900).map(|at| format!("word{at}")).collect();
    let before = format!("{}\n", words.join(" "));
    let after = before.replace("word700 ", "word700 and one more ");
    for look in [Look::default(), Look::default().layout(Layout::Beside).width(120)] {
        let text = stacked(&before, &after, &look);
        assert!(text.matches("word700").count() == 2, "both show the place: {text}");
    }
}

#[test]
fn beside_wraps_behind_blanks() {
    let before = "the level of the harbour gauge was read at low water by the keeper\n";
    let after = "the level of the harbour gauge was read at high water by the keeper\n";
    let text = stacked(before, after, &Look::default().layout(Layout::Beside).width(60));
    let left = |row: &str| row.split('│').next().unwrap().trim_end().to_owned();
    let rows: Vec<String> = text.lines().filter(|row| row.contains('│')).map(left).collect();
    assert!(rows.iter().any(|row| row.ends_with("low water by")), "{text}");
    assert!(text.lines().filter(|row| row.contains('^')).all(|row| row.contains('│')), "the divider goes on: {text}");
}

/// A text of short lines, and a copy in which some lines are edited, gone or doubled.
fn edited_lines() -> impl Strategy<Value = (String, String)> {
    let edits = prop::collection::vec((0..24_usize, 0..3_u8), 0..10);
    edits.prop_map(|edits| {
        let lines: Vec<String> = (0..24).map(|at| format!("reading_{at} = {}\n", at * 37 % 11)).collect();
        let mut after: Vec<String> = lines.clone();
        for (at, what) in edits {
            after[at] = match what {
                0 => format!("reading_{at} = {}\n", at + 100),
                1 => String::new(),
                _ => format!("{}note_{at} = 1\n", lines[at]),
            };
        }
        (lines.concat(), after.concat())
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]

    #[test]
    fn every_change_stands_under_one_heading_and_has_its_number((before, after) in edited_lines(), context in 0..4_usize) {
        for layout in LAYOUTS {
            let look = Look::default().layout(layout).width(100).context(Context::Lines(context)).legend(false);
            let (text, comparison) = draw(before.as_bytes(), after.as_bytes(), &look);
            let (mut told, mut grouped) = (Vec::new(), Vec::new());
            for heading in text.lines().filter_map(|row| row.strip_prefix("  change")) {
                let numbers = heading.trim_start_matches('s').trim_start().split(" of ").next().unwrap();
                let (first, last) = numbers.split_once('–').unwrap_or((numbers, numbers));
                let range = first.parse::<usize>().unwrap()..=last.parse::<usize>().unwrap();
                if first != last {
                    grouped.extend(range.clone());
                }
                told.extend(range);
            }
            let places: Vec<usize> = comparison.places.iter().map(|place| place.change + 1).collect();
            prop_assert_eq!(&told, &places, "{}", text);
            let is_number = |head: &str| head.trim().parse::<usize>().ok().filter(|_| !grouped.is_empty());
            let margin = comparison.changes.len().to_string().len() + 1;
            let numbers: Vec<usize> = text.lines().filter_map(|row| row.get(..margin)).filter_map(is_number).collect();
            prop_assert_eq!(numbers, grouped, "{}", text);
        }
    }

    #[test]
    fn both_lines_of_a_long_pair_show_the_place_of_every_change(at in 60..180_usize, what in 0..3_u8, layout in 0..3_usize) {
        let words: Vec<String> = (0..240).map(|word| format!("w{word}x")).collect();
        let before = format!("{}\n", words.join(" "));
        let word = &words[at];
        let after = match what {
            0 => before.replace(&format!(" {word} "), " "),
            1 => before.replace(&format!(" {word} "), &format!(" {word} and more of it ")),
            _ => before.replace(word.as_str(), "another"),
        };
        let look = Look::default().layout(LAYOUTS[layout]).width(80);
        let (text, _) = draw(before.as_bytes(), after.as_bytes(), &look);
        let (above, below) = (&words[at - 1], &words[at + 1]);
        let wanted = if layout == 2 { 1 } else { 2 };
        let flat: String = text.lines().map(|row| format!("{row} ")).collect();
        prop_assert!(flat.matches(above.as_str()).count() >= wanted, "{above}: {text}");
        prop_assert!(flat.matches(below.as_str()).count() >= wanted, "{below}: {text}");
    }
}

#[test]
fn what_changed_in_a_line_that_moved_stands_on_a_stronger_ground() {
    let block = |level: &str| {
        format!("def warn(gauge):\n    side = side_of(gauge)\n    mark = {level}\n    return sentence(side, mark)\n")
    };
    let rest: String = (0..8).map(|at| format!("reading_{at} = read({at})\n")).collect();
    let (before, after) = (format!("{}\n{rest}", block("low")), format!("{rest}\n{}", block("high")));
    let inverted = |colours| {
        let text = draw(before.as_bytes(), after.as_bytes(), &Look::default().colours(colours).legend(false)).0;
        text.matches("\u{1b}[7m\u{1b}[35m").count()
    };
    assert_eq!(inverted(Colours::Sixteen), 2, "a word at either end");
    let all = draw(before.as_bytes(), after.as_bytes(), &Look::default().colours(Colours::All)).0;
    assert!(all.contains("\u{1b}[48;2;90;58;150mlow"), "{all}");
}
