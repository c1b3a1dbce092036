//! Pages and Markdown: whatever the files hold, nothing of it is lost, and nothing becomes markup.

use proptest::prelude::*;
use scraper::{ElementRef, Html, Selector};
use tideline_core::internal::kinds::text::{TextOptions, compare_masked};
use tideline_core::internal::rules::{Account, Effect, MaskedText, Rule, Rules, What};
use tideline_views::html::{Assets, write_file_page};
use tideline_views::report::{Body, FileReport, Head, Shape};
use tideline_views::{Context, FileView, Labels, PairView, Syntax, markdown};

fn rules(ignored: Option<&str>) -> Rules {
    let rule = |name: &str| {
        let what = What::parse(name, []).unwrap();
        Rule::new(name, Effect::Ignore, vec![(name.to_owned(), what)])
    };
    Rules::new(ignored.map(rule).into_iter().collect())
}

/// Lets `write` write about two texts that are compared under rules.
fn written<R>(
    (before, after): (&[u8], &[u8]),
    rules: &Rules,
    write: impl FnOnce(&Head<'_>, &FileReport<'_>) -> R,
) -> R {
    let labels = Labels::new("spring", "autumn");
    let file_rules = rules.file_rules(b"levels.py");
    let (before, after) = (MaskedText::new(before, &file_rules), MaskedText::new(after, &file_rules));
    let comparison = compare_masked(&before, &after, &TextOptions::default());
    let view = FileView {
        name: "levels.py",
        type_name: "levels.py",
        labels: &labels,
        note: None,
        before: &before,
        after: &after,
        comparison: &comparison,
        first: (0, 0),
        originals: (None, None),
        extracted: None,
    };
    let account = Account::default();
    let head = Head {
        title: "Levels",
        labels: &labels,
        paths: ("spring", "autumn"),
        made: "today",
        command: "tideline report",
        rules,
        account: &account,
        about: None,
    };
    write(&head, &FileReport::of_files("levels.py", false, Body::Pair(PairView::Text(view))))
}

fn page(texts: (&[u8], &[u8]), rules: &Rules, shape: &Shape) -> Html {
    let mut out = Vec::new();
    written(texts, rules, |head, file| write_file_page(head, file, shape, (Assets::Inline, None), &mut out).unwrap());
    Html::parse_document(&String::from_utf8(out).unwrap())
}

/// The lines of each side as a page has them, with their numbers.
fn sides(page: &Html) -> [Vec<(usize, String)>; 2] {
    let lines = Selector::parse(".row, .fold pre").unwrap();
    let (number, code) = (Selector::parse("i").unwrap(), Selector::parse("code").unwrap());
    let text = |element: ElementRef<'_>| element.text().collect::<String>();
    let [mut before, mut after] = [Vec::new(), Vec::new()];
    for element in page.select(&lines) {
        if element.value().name() == "pre" {
            let first = |side: &str| element.attr(side).unwrap().parse::<usize>().unwrap();
            let (b, a) = (first("data-before"), first("data-after"));
            for (at, line) in text(element).split_terminator('\n').enumerate() {
                before.push((b + at, line.to_owned()));
                after.push((a + at, line.to_owned()));
            }
            continue;
        }
        let numbers = element.select(&number).map(|number| text(number).parse::<usize>().unwrap());
        let halves: Vec<(usize, String)> = numbers.zip(element.select(&code).map(text)).collect();
        let is = |class: &str| element.value().classes().any(|own| own == class);
        match &halves[..] {
            [one, other] => {
                before.push(one.clone());
                after.push(other.clone());
            }
            [one] if is("gone") || is("before") => before.push(one.clone()),
            [one] => after.push(one.clone()),
            _ => panic!("a row without lines"),
        }
    }
    [before, after]
}

/// Lines that can be shown as they are.
fn text() -> impl Strategy<Value = String> {
    let word =
        prop::sample::select(vec!["a", "B", "b", " ", "</code>", "&amp;", "<!--", "x", "\t", "if", "#", "\"", ""]);
    let line = prop::collection::vec(word, 0..4).prop_map(|words| words.concat() + "\n");
    prop::collection::vec(line, 0..24).prop_map(|lines| lines.concat())
}

fn shapes() -> impl Strategy<Value = Shape> {
    let context = prop_oneof![(0_usize..4).prop_map(Context::Lines), Just(Context::All)];
    let syntax = prop::sample::select(vec![Syntax::Off, Syntax::On]);
    (context, syntax).prop_map(|(context, syntax)| Shape::default().context(context).syntax(syntax))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn both_files_stand_in_a_page_line_by_line(
        before in text(), after in text(), shape in shapes(),
        ignored in prop::sample::select(vec![None, Some("case"), Some("space"), Some("blank-lines")]),
    ) {
        let page = page((before.as_bytes(), after.as_bytes()), &rules(ignored), &shape);
        let own = |text: &str| -> Vec<(usize, String)> {
            text.lines().enumerate().map(|(at, line)| (at + 1, line.to_owned())).collect()
        };
        let [shown_before, shown_after] = sides(&page);
        // Without a change there is nothing to show.
        if !(shown_before.is_empty() && shown_after.is_empty()) {
            prop_assert_eq!(shown_after, own(&after));
            // Of lines that are equal but for what is ignored, a fold holds those of one side only where they are equal to the letter.
            prop_assert_eq!(shown_before, own(&before));
        }
        let changes = Selector::parse(".change").unwrap();
        let script = Selector::parse("main script").unwrap();
        prop_assert_eq!(page.select(&script).count(), 0);
        prop_assert!(page.errors.is_empty(), "{:?}", page.errors);
        prop_assert_eq!(page.select(&changes).count() > 0, !sides(&page)[0].is_empty() || !sides(&page)[1].is_empty());
    }

    #[test]
    fn no_bytes_of_a_file_break_a_page_or_a_block(before in prop::collection::vec(any::<u8>(), 0..60), after in "[`\n a]{0,40}") {
        let page = page((&before, after.as_bytes()), &rules(None), &Shape::default());
        prop_assert!(page.errors.is_empty(), "{:?}", page.errors);
        let mut out = Vec::new();
        let texts = (&before[..], after.as_bytes());
        written(texts, &rules(None), |_, file| markdown::write_file(file, &Shape::default(), &mut out).unwrap());
        let text = String::from_utf8(out).unwrap();
        let mut open: Option<&str> = None;
        for line in text.lines() {
            match open {
                None => open = line.strip_suffix("text").filter(|fence| !fence.is_empty() && fence.trim_matches('`').is_empty()),
                Some(fence) if line == fence => open = None,
                Some(fence) => prop_assert!(!line.trim_start().starts_with(fence), "{:?} stands in {:?}", line, fence),
            }
        }
        prop_assert_eq!(open, None);
    }
}

#[test]
fn what_is_too_much_is_counted() {
    let before: String = (0..5000).map(|line| format!("line {line}\n")).collect();
    let after = format!("{before}{}", "more\n".repeat(4100));
    let page = page((before.as_bytes(), after.as_bytes()), &rules(None), &Shape::default().most_folded(1000));
    let said = |selector: &str| -> Vec<String> {
        page.select(&Selector::parse(selector).unwrap()).map(|element| element.text().collect()).collect()
    };
    assert_eq!(said("p.fold"), ["4,997 equal lines, not in this report"]);
    assert_eq!(said(".cut"), ["103 more lines of this change are not in this report."]);
    assert_eq!(said(".row").len(), 4000);
}

#[test]
fn a_very_long_line_is_cut_around_its_changes_and_can_be_opened() {
    let line = |word: &str| format!("{}{word}{}\n", "tide ".repeat(20_000), " level".repeat(20_000));
    let (before, after) = (line("low"), line("high"));
    let shape = Shape::default();
    let said = |shape: &Shape, selector: &str| -> Vec<String> {
        let page = page((before.as_bytes(), after.as_bytes()), &rules(None), shape);
        page.select(&Selector::parse(selector).unwrap()).map(|element| element.text().collect()).collect()
    };
    let parts = said(&shape, ".part");
    assert!(
        parts[0].contains("low") && parts[0].len() < 20_000 && parts[0].contains("columns ...]"),
        "{}",
        parts[0].len()
    );
    let (gone, new) = (said(&shape, ".row code del"), said(&shape, ".row code ins"));
    assert_eq!(
        (gone, new),
        (vec!["low".to_owned(); 2], vec!["high".to_owned(); 2]),
        "in the part and in the whole line"
    );
    let whole = said(&shape, ".row code:first-of-type .whole");
    assert_eq!(whole[0], format!("the whole line{}", before.trim_end_matches('\n')));
    let small = said(&Shape::default().most_folded(1000), ".row code:first-of-type");
    assert!(small[0].ends_with("(too long to be opened here; --context all writes it whole)"));
    assert_eq!(said(&Shape::default().context(Context::All), ".whole").len(), 0, "all of it is there");
}
