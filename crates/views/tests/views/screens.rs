//! Two files on a screen: the same rows from either end, in every layout, at a cost that the screen bounds.

use proptest::prelude::*;
use tideline_core::internal::kinds::text::{TextOptions, compare_masked};
use tideline_core::internal::rules::{Effect, MaskedText, Rule, Rules, What};
use tideline_views::terminal::screen::{FileScreen, Frame, RowAt, ScreenLine};
use tideline_views::terminal::{Colours, Layout, Look};
use tideline_views::{Context, FileView, Labels};

/// Does something with the screen of two texts, of which numbers may be ignored.
fn with_screen<T>(
    before: &str,
    after: &str,
    look: &Look,
    ignores: bool,
    then: impl FnOnce(&mut FileScreen<'_>) -> T,
) -> T {
    let what = What::parse("numbers", []).unwrap();
    let rule = Rule::new("numbers", Effect::Ignore, vec![("numbers".to_owned(), what)]);
    let rules = Rules::new(if ignores { vec![rule] } else { Vec::new() }).file_rules(b"levels");
    let (b, a) = (MaskedText::new(before.as_bytes(), &rules), MaskedText::new(after.as_bytes(), &rules));
    let comparison = compare_masked(&b, &a, &TextOptions::default());
    let labels = Labels::new("spring", "autumn");
    let view = FileView {
        name: "levels",
        type_name: "levels",
        labels: &labels,
        note: None,
        before: &b,
        after: &a,
        comparison: &comparison,
        first: (0, 0),
        originals: (None, None),
        extracted: None,
    };
    then(&mut FileScreen::new(&view, look))
}

fn frame(layout: Layout, wraps: bool, pan: usize) -> Frame<'static> {
    Frame { layout, width: 60, wraps, pan, hits: None }
}

fn text(line: &ScreenLine) -> String {
    line.spans.iter().map(|span| span.text.as_str()).collect()
}

fn rows(screen: &mut FileScreen<'_>) -> Vec<RowAt> {
    let mut all = Vec::new();
    let mut at = screen.first();
    while let Some(row) = at {
        all.push(row);
        at = screen.after(row);
    }
    all
}

fn file() -> impl Strategy<Value = String> {
    prop::collection::vec(
        prop::sample::select(vec!["level 1", "level 2", "low", "", "a\tb", "high water at noon"]),
        0..24,
    )
    .prop_map(|lines| lines.iter().map(|line| format!("{line}\n")).collect())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn every_line_is_in_one_row_from_either_end(before in file(), after in file(), ignores: bool) {
        let look = Look::default().context(Context::All);
        with_screen(&before, &after, &look, ignores, |screen| {
            let down = rows(screen);
            let mut up = Vec::new();
            let mut at = screen.last();
            while let Some(row) = at {
                up.push(row);
                at = screen.before(row);
            }
            up.reverse();
            prop_assert_eq!(&down, &up);
            let mut lines = (Vec::new(), Vec::new());
            for &row in &down {
                let found = screen.lines_of(row).unwrap();
                prop_assert!(!found.is_fold);
                lines.0.extend(found.before);
                lines.1.extend(found.after);
                for (line, is_after) in [(found.before, false), (found.after, true)] {
                    if let Some(line) = line {
                        prop_assert_eq!(screen.row_of_line(line, is_after), Some(row));
                    }
                }
                for layout in [Layout::Stacked, Layout::Beside, Layout::Inline] {
                    for wraps in [false, true] {
                        let drawn = screen.draw(row, &frame(layout, wraps, 0));
                        prop_assert!(!drawn.is_empty());
                        prop_assert!(drawn.iter().all(|line| line.width() <= 60), "{:?}", drawn.iter().map(text).collect::<Vec<_>>());
                    }
                }
            }
            prop_assert_eq!(lines.0, (0..before.lines().count()).collect::<Vec<_>>());
            prop_assert_eq!(lines.1, (0..after.lines().count()).collect::<Vec<_>>());
            Ok(())
        })?;
    }

    #[test]
    fn folds_open_to_the_whole_file(before in file(), after in file(), context in 0..3_usize) {
        let look = Look::default().context(Context::Lines(context));
        with_screen(&before, &after, &look, false, |screen| {
            while let Some(fold) = rows(screen).into_iter().find(|row| screen.lines_of(*row).unwrap().is_fold) {
                prop_assert!(screen.open_fold(fold));
            }
            let opened = rows(screen).len();
            screen.set_context(Context::All);
            prop_assert_eq!(opened, rows(screen).len());
            Ok(())
        })?;
    }
}

#[test]
fn folds_head_the_change_below_and_a_line_in_one_is_found() {
    let before: String = (1..=40).map(|line| format!("line {line}\n")).collect();
    let after = before.replace("line 20\n", "line twenty\n");
    with_screen(&before, &after, &Look::default(), false, |screen| {
        let frame = frame(Layout::Stacked, false, 0);
        let drawn: Vec<String> =
            rows(screen).iter().flat_map(|row| screen.draw(*row, &frame)).map(|line| text(&line)).collect();
        assert_eq!(drawn[0], "  ⋯ 16 equal lines   change 1 of 1 · line 20");
        assert_eq!(drawn[4], " ○ 20        line 20");
        assert_eq!(drawn[5], "                  ^^", "under what changed");
        assert_eq!(drawn.last().unwrap(), "  ⋯ 17 equal lines");
        let row = screen.row_of_line(4, true).unwrap();
        assert_eq!(text(&screen.draw(row, &frame)[0]), "    5   5    line 5");
        screen.widen(screen.of_place(0), 5);
        assert!(screen.row_of_line(27, false).is_some());
        assert_eq!(screen.strip(10).iter().filter(|cell| cell.is_some()).count(), 1);
        assert_eq!((screen.part_of(screen.of_place(0), 10), screen.row_at_part(9, 10).is_some()), (4, true));
    });
}

#[test]
fn both_sides_pan_and_wrap_in_step_and_what_is_searched_for_is_marked() {
    let long = "abcdefghij".repeat(30);
    let (before, after) = (format!("{long}x\n"), format!("{long}y\n"));
    let look = Look::default().colours(Colours::All);
    with_screen(&before, &after, &look, false, |screen| {
        let row = screen.of_place(0);
        let panned = screen.draw(row, &frame(Layout::Beside, false, 290));
        let text_of = text(&panned[0]);
        assert!(text_of.contains("abcdefghijx") && text_of.contains("abcdefghijy"), "{text_of}");
        let cut = text(&screen.draw(row, &frame(Layout::Beside, false, 0))[0]);
        assert_eq!(cut.matches('›').count(), 2, "both go on: {cut}");
        assert!(screen.draw(row, &frame(Layout::Stacked, true, 0)).len() > 10);
        let once = screen.draw_once(row, &frame(Layout::Stacked, true, 0));
        let work = screen.work();
        assert_eq!(screen.draw_once(row, &frame(Layout::Stacked, true, 0)), once);
        assert_eq!(screen.work(), work, "it is drawn once for a screen");
        let hits = |text: &str| text.match_indices("ija").map(|(at, _)| at..at + 3).collect::<Vec<_>>();
        let frame = Frame { hits: Some(&hits), ..frame(Layout::Stacked, false, 0) };
        let marked = screen.draw(row, &frame);
        assert!(
            marked[0]
                .spans
                .iter()
                .any(|span| span.text == "ija" && span.style.get_effects().contains(anstyle::Effects::INVERT))
        );
    });
}

/// What a screen of rows costs at the head, in the middle and at the end of a file.
fn cost(lines: usize, columns: usize) -> usize {
    let line = |number: usize| format!("{number} {}\n", "tide ".repeat(columns / 5));
    let before: String = (0..lines).map(line).collect();
    let after: String = (0..lines)
        .map(|number| if number % 50 == 7 { line(number).replacen("tide", "ebb", 1) } else { line(number) })
        .collect();
    let look = Look::default();
    with_screen(&before, &after, &look, false, |screen| {
        let mut starts = vec![screen.first().unwrap(), screen.last().unwrap()];
        starts.push(screen.row_of_line(lines / 2, true).unwrap());
        for start in starts {
            for pan in [0, 64] {
                let mut at = Some(start);
                for _ in 0..40 {
                    let Some(row) = at else { break };
                    screen.draw(row, &frame(Layout::Stacked, false, pan));
                    at = screen.after(row);
                }
            }
        }
        screen.work()
    })
}

#[test]
fn a_screen_costs_what_its_rows_cost_however_long_the_file_is_and_its_lines_are() {
    let small = cost(500, 1000);
    assert!(cost(50_000, 1000) <= 2 * small);
    assert!(cost(500, 10_000) <= 2 * small);
}

#[test]
fn what_of_a_wrapped_line_is_not_shown_is_said() {
    let line = format!("{}\n", "tide ".repeat(10_000));
    with_screen(&line, &line, &Look::default().context(Context::All), false, |screen| {
        let row = screen.first().unwrap();
        let drawn: String = screen.draw(row, &frame(Layout::Stacked, true, 0)).iter().map(text).collect();
        let words: String = drawn.split_whitespace().collect::<Vec<_>>().join(" ");
        assert!(
            words.ends_with("[... 33,617 bytes more: not wrapped, they go on to the right]"),
            "{}",
            &words[words.len() - 90..]
        );
    });
}
