//! What is taken out of documents, compared: texts with places, sheets as tables, and what was left out. The reader is one of the test's own.

use std::sync::Arc;

use proptest::prelude::*;
use tideline_core::internal::kinds::document::{
    Extracted, ExtractedContents, LeftOutPart, PACKING, PlaceGroup, Places, ReadAs, ReadDocuments, Sheet,
};
use tideline_core::internal::kinds::text::TextOptions;
use tideline_core::internal::kinds::{
    Comparison, ContentOptions, KindOptions, KindReason, WantedKind, compare, kind_reason,
};
use tideline_core::internal::model::{Form, Kind, Status, Unit, Weight};
use tideline_core::internal::rules::{Effect, Rule, Rules, What};
use tideline_core::internal::tree::{MemoryTree, Note, Progress, TreeOptions, compare as compare_trees};

/// Reads documents that begin with `D` (text), `S` (sheets, each behind its name and a tab) or `!` (broken). What stands behind a `~` at the
/// end is left out.
#[derive(Debug)]
struct Plain;

impl ReadDocuments for Plain {
    fn read(&self, _: &[u8], bytes: &[u8], _: Option<ReadAs>) -> Option<Result<Extracted, String>> {
        let text = std::str::from_utf8(bytes).ok()?;
        let (text, rest) = text.split_once('~').unwrap_or((text, ""));
        let left_out = if rest.is_empty() {
            Vec::new()
        } else {
            vec![LeftOutPart { name: "pictures".to_owned(), hash: [rest.as_bytes()[0]; 32] }]
        };
        let contents = match text.chars().next()? {
            'D' => {
                let text = text.as_bytes()[1..].to_vec();
                let group = |first_line, name: &str| PlaceGroup { first_line, name: name.to_owned(), unit: "line" };
                let places = Places::new(vec![group(0, "page 1"), group(3, "page 2")]);
                ExtractedContents::Text { text, places, type_name: "x.md" }
            }
            'S' => {
                let sheet = |part: &str| {
                    let (name, text) = part.split_once('\t').unwrap_or((part, ""));
                    let (name, text) = (name.to_owned(), text.as_bytes().to_vec());
                    Sheet { name, first_row: 2, first_column: 1, has_header: true, text }
                };
                ExtractedContents::Sheets(text[1..].split(';').filter(|part| !part.is_empty()).map(sheet).collect())
            }
            '!' => return Some(Err("it is broken".to_owned())),
            _ => return None,
        };
        Some(Ok(Extracted { what: "plain document".to_owned(), contents, left_out }))
    }

    fn may_read(&self, _: &[u8], bytes: &[u8], _: Option<ReadAs>) -> bool {
        matches!(bytes.first(), Some(b'D' | b'S' | b'!'))
    }
}

fn options() -> ContentOptions {
    ContentOptions::default().read_documents(Arc::new(Plain))
}

fn compared<'b>(before: &'b str, after: &'b str, options: &ContentOptions) -> Comparison<'b> {
    compare(b"letter.doc", (before.as_bytes(), after.as_bytes()), options)
}

fn ignoring(what: &str) -> Rules {
    let parsed = What::parse(what, []).unwrap();
    Rules::new(vec![Rule::new(what, Effect::Ignore, vec![(what.to_owned(), parsed)])])
}

#[test]
fn a_document_is_its_text_with_rules_units_and_places() {
    let comparison = compared("Done\ntwo 1\nthree\nfour\n", "Done\ntwo 2\nthree\nfive\n", &options());
    assert_eq!((comparison.kind(), comparison.status(false)), (Kind::Text, Status::Changed));
    assert_eq!((comparison.extent().counted, comparison.extent().unit), (2, Unit::Paragraphs));
    let places = &comparison.extracted().unwrap().places.1;
    assert_eq!((places.of(1), places.of(3)), (Some(("page 1", "line", 2)), Some(("page 2", "line", 1))));
    let comparison = compared("Done 1\n", "Done 2\n", &options().rules(ignoring("numbers")));
    assert_eq!(comparison.status(false), Status::Same);
}

#[test]
fn what_was_left_out_tells_why_nothing_else_differs() {
    for (before, after, status) in [
        ("Done\n~a", "Done\n~b", Status::Changed),
        ("Done\n~ax", "Done\n~ay", Status::Muted),
        ("Sone\tn\n1\n~a", "Sone\tn\n1\n~b", Status::Changed),
        ("Sone\tn\n1\n~ax", "Sone\tn\n1\n~ay", Status::Muted),
    ] {
        let comparison = compared(before, after, &options());
        assert_eq!(comparison.status(false), status, "{before:?} and {after:?}");
        let differing = comparison.only_beside().map(|beside| beside.differing.join(", "));
        assert_eq!(differing.as_deref(), (status == Status::Changed).then_some("pictures"));
        let packing = comparison.account().by_rule(Effect::Mute).first().map(|part| part.0.to_owned());
        assert_eq!(packing.as_deref(), (status == Status::Muted).then_some(PACKING));
    }
}

#[test]
fn a_tree_says_what_alone_differs_and_what_cannot_be_read() {
    let before = MemoryTree::new().file("a.doc", "Done\n~a").file("b.doc", "Done\n").file("c.doc", "Done\n");
    let after = MemoryTree::new().file("a.doc", "Done\n~b").file("b.doc", "!").file("c.doc", "Done\nmore\n");
    let trees = TreeOptions::default().contents(options());
    let found = compare_trees(&before, &after, &trees, &Progress::default());
    let told: Vec<_> = found.pairs.iter().map(|pair| (pair.path.to_text(), pair.status)).collect();
    let path = |name: &str| name.to_owned();
    assert_eq!(
        told,
        [(path("a.doc"), Status::Changed), (path("b.doc"), Status::Unreadable), (path("c.doc"), Status::Changed)]
    );
    assert_eq!(found.pairs[0].note, Some(Note::NotCompared(vec!["pictures".to_owned()])));
    assert!(matches!(&found.pairs[1].note, Some(Note::Unparsed(unparsed)) if unparsed.reason == "it is broken"));
    assert_eq!(found.pairs[2].extent.unit, Unit::Paragraphs);
    // Whoever writes goes by bytes, and reads no documents.
    let by_bytes = compare_trees(&before, &after, &trees.counts(false), &Progress::default());
    assert!(by_bytes.pairs.iter().all(|pair| pair.status == Status::Changed));
}

#[test]
fn a_kind_that_was_told_goes_before_what_a_document_is() {
    let (before, after) = ("Done\n", "Dtwo\n");
    for kind in [Kind::Text, Kind::Bytes] {
        let told = options().kind(Some(WantedKind::As(kind)));
        let comparison = compared(before, after, &told);
        assert_eq!((comparison.kind(), comparison.extracted().is_none()), (kind, true));
        assert_eq!(kind_reason(b"letter.doc", &told), KindReason::Told);
    }
    assert_eq!(kind_reason(b"letter.doc", &options()), KindReason::Contents);
    assert_eq!(compared("!", "Done\n", &options()).unparsed().map(|unparsed| unparsed.is_before), Some(true));
    // A text by itself is compared with the text of a document; what is neither is bytes.
    assert_eq!(compared("one\ntwo\n", "Done\nthree\n", &options()).extent().counted, 1);
    assert_eq!(compare(b"x", (b"\0\x01", b"Done\n"), &options()).kind(), Kind::Bytes);
    assert_eq!(compared("Done\n", "Sone\tn\n1\n", &options()).kind(), Kind::Text, "two kinds of documents are none");
}

fn sheets<'b>(
    before: &'b str,
    after: &'b str,
    options: &ContentOptions,
) -> (Vec<(String, Form, Weight)>, Comparison<'b>) {
    let comparison = compared(before, after, options);
    let Comparison::Sheets(pair) = &comparison else { panic!("these are sheets: {:?}", comparison.unparsed()) };
    let told = pair
        .sheets
        .iter()
        .flat_map(|sheet| sheet.found.changes.iter().map(|change| (sheet.name.clone(), change.form, change.weight)));
    (told.collect(), comparison)
}

#[test]
fn sheets_are_matched_by_name_and_their_changes_numbered_on() {
    let before = "Sone\tid,v\na,1\nb,2\n;gone\tid\nx\n;two\tid,v\nq,1\n";
    let after = "Stwo\tid,v\nq,2\n;one\tid,v\nb,2\na,3\n;new\tid\ny\nz\n";
    let (told, comparison) = sheets(before, after, &options());
    let name = |name: &str| name.to_owned();
    assert_eq!(
        told,
        [
            (name("two"), Form::Edited, Weight::Counted),
            (name("one"), Form::Edited, Weight::Counted),
            (name("new"), Form::New, Weight::Counted),
            (name("new"), Form::New, Weight::Counted),
            (name("gone"), Form::Gone, Weight::Counted),
        ]
    );
    let Comparison::Sheets(pair) = &comparison else { unreachable!() };
    let numbers: Vec<usize> =
        pair.sheets.iter().flat_map(|sheet| sheet.found.changes.iter().map(|change| change.number)).collect();
    assert_eq!(numbers, [1, 2, 3, 4, 5]);
    assert_eq!((comparison.extent().unit, comparison.extent().size), (Unit::Cells, 5));
    // A key holds for the sheets that have such a column.
    let keyed = options().how(KindOptions::default().key(vec!["v".to_owned()]));
    assert!(compared(before, after, &keyed).unparsed().is_none());
}

#[test]
fn formulas_that_moved_with_their_rows_are_muted_and_others_count() {
    let before = "Sone\tid,sum\na,=B4+C4\nb,=B5+C5\nc,=SUM(B4:B5)\nd,=B$1*B7\n";
    let after = "Sone\tid,sum\nnew,=B4\na,=B5+C5\nb,=B6-C6\nc,=SUM(B5:B6)\nd,=B$1*B8\n";
    let (told, comparison) = sheets(before, after, &options());
    let weights: Vec<(Form, Weight)> = told.into_iter().map(|(_, form, weight)| (form, weight)).collect();
    assert_eq!(
        weights,
        [
            (Form::New, Weight::Counted),
            (Form::Edited, Weight::Muted),
            (Form::Edited, Weight::Counted),
            (Form::Edited, Weight::Muted),
            (Form::Edited, Weight::Muted),
        ]
    );
    assert_eq!(comparison.account().by_rule(Effect::Mute), [("formulas that moved with their rows", 3)]);
    let counted_only = options().text(TextOptions::default().counted_only(true));
    let (told, comparison) = sheets(before, after, &counted_only);
    assert_eq!(told.len(), 2, "muted ones are left out");
    let Comparison::Sheets(pair) = &comparison else { unreachable!() };
    assert_eq!(pair.sheets[0].found.hidden, 3);
    assert_eq!(pair.sheets[0].found.changes.iter().map(|change| change.number).collect::<Vec<_>>(), [1, 2]);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn known_edits_of_sheets_come_back_cell_by_cell(
        (rows, edited, removed) in (
            2..30_usize,
            prop::collection::btree_set((0..30_usize, 1..4_usize), 0..8),
            prop::collection::btree_set(0..30_usize, 0..4),
        )
    ) {
        let text = |is_after: bool| {
            let mut text = "Slevels\tid,a,b,c\n".to_owned();
            for row in (0..rows).filter(|row| !is_after || !removed.contains(row)) {
                let cell = |column: usize| {
                    let is_edited = is_after && edited.contains(&(row, column));
                    format!("{}{row}-{column}", if is_edited { "new" } else { "old" })
                };
                text.push_str(&format!("row {row},{},{},{}\n", cell(1), cell(2), cell(3)));
            }
            text
        };
        let (before, after) = (text(false), text(true));
        let comparison = compared(&before, &after, &options());
        let Comparison::Sheets(pair) = &comparison else { panic!("these are sheets") };
        let cells: usize = pair.sheets[0].found.changes.iter().map(|change| change.cells.len()).sum();
        let gone = pair.sheets[0].found.changes.iter().filter(|change| change.form == Form::Gone).count();
        let is_there = |row: &usize| *row < rows && !removed.contains(row);
        prop_assert_eq!(cells, edited.iter().filter(|(row, _)| is_there(row)).count());
        prop_assert_eq!(gone, removed.iter().filter(|row| **row < rows).count());
        let exchanged = compared(&after, &before, &options());
        let Comparison::Sheets(back) = &exchanged else { panic!("these are sheets") };
        let mut mirrored: Vec<_> = back.sheets[0].found.changes.iter().map(|change| (change.after, change.before)).collect();
        let mut there: Vec<_> = pair.sheets[0].found.changes.iter().map(|change| (change.before, change.after)).collect();
        mirrored.sort_unstable();
        there.sort_unstable();
        prop_assert_eq!(there, mirrored);
        for change in &pair.sheets[0].found.changes {
            // Lines are rows of the sheet, behind the two above its first.
            if let Some(row) = change.after {
                prop_assert_eq!(pair.sheets[0].after.line(row), row + 2);
            }
        }
    }
}
