//! Tables compared row by row and cell by cell.

use std::collections::BTreeMap;

use proptest::prelude::*;
use tideline_core::internal::kinds::{
    ContentOptions, KindOptions, Scratch, ScratchFile, Tolerance, WantedKind, compare_named,
};
use tideline_core::internal::model::Kind;
use tideline_core::internal::model::table::{CellType, RowMatch, TableRemark};
use tideline_core::internal::rules::{Effect, Rule, Rules, What};
use tideline_core::{Comparison, Form, Status, TablePair, Weight};

fn options() -> ContentOptions {
    ContentOptions::default().kind(Some(WantedKind::As(Kind::Table)))
}

fn keyed(how: KindOptions) -> ContentOptions {
    options().how(how)
}

fn under(effect: Effect, what: &[&str]) -> ContentOptions {
    let rule = |what: &&str| Rule::new(*what, effect, vec![((*what).to_owned(), What::parse(what, []).unwrap())]);
    options().rules(Rules::new(what.iter().map(rule).collect()))
}

fn pair<'b>(before: &'b str, after: &'b str, options: &ContentOptions) -> Box<TablePair<'b>> {
    pair_of("x.csv", before, after, options)
}

fn pair_of<'b>(name: &str, before: &'b str, after: &'b str, options: &ContentOptions) -> Box<TablePair<'b>> {
    match compare_named((name.as_bytes(), name.as_bytes()), (before.as_bytes(), after.as_bytes()), options) {
        Comparison::Table(tables) => tables,
        other => panic!("these are tables, not {:?}: {:?}", other.kind(), other.unparsed()),
    }
}

/// The changes: form, rows from 1, and what differs in them.
fn told(pair: &TablePair<'_>) -> Vec<String> {
    let line = |change: &tideline_core::RowChange| {
        let muted = if change.weight == Weight::Muted { " muted" } else { "" };
        let row = |row: Option<usize>| row.map_or("-".to_owned(), |row| (row + 1).to_string());
        let cells: Vec<String> = change
            .cells
            .iter()
            .map(|cell| {
                let column = &pair.found.columns[cell.column];
                let cause = cell.cause.as_ref().map(|cause| format!(" ({cause})")).unwrap_or_default();
                format!(" {}{cause}", column.name)
            })
            .collect();
        format!("{}{muted} {} {}{}", change.form.name(), row(change.before), row(change.after), cells.concat())
    };
    pair.found.changes.iter().map(line).collect()
}

fn causes(pair: &TablePair<'_>) -> Vec<(String, usize)> {
    pair.found.account.parts().into_iter().map(|part| (part.rule, part.lines)).collect()
}

fn key(pair: &TablePair<'_>) -> Vec<String> {
    match &pair.found.matched {
        RowMatch::Key { columns, .. } => columns.iter().map(|at| pair.found.columns[*at].name.clone()).collect(),
        RowMatch::InOrder => Vec::new(),
    }
}

const LEVELS: &str = "id,station,level\n1,quay,1.20\n2,weir,0.90\n3,spit,2.00\n4,bar,1.10\n";

#[test]
fn rows_sorted_anew_do_not_count_and_edits_among_them_do() {
    let after = "id,station,level\n4,bar,1.10\n3,spit,2.10\n1,quay,1.20\n5,mouth,0.40\n";
    let found = pair(LEVELS, after, &options());
    assert_eq!(key(&found), ["id"]);
    assert_eq!(told(&found), ["gone 2 -", "edited 3 2 level", "new - 4"]);
    assert_eq!(causes(&found), [("row order".to_owned(), 2)]);
    let counts = keyed(KindOptions::default().row_order_counts(Some(true)));
    let found = pair(LEVELS, after, &counts);
    assert_eq!(told(&found).iter().filter(|line| line.starts_with("moved")).count(), 2, "{:?}", told(&found));
    let shuffled = pair(LEVELS, "id,station,level\n4,bar,1.10\n3,spit,2.00\n2,weir,0.90\n1,quay,1.20\n", &options());
    assert!(told(&shuffled).is_empty());
    assert_eq!(Comparison::Table(shuffled).status(false), Status::Muted);
}

#[test]
fn a_key_is_found_where_it_is_unique_filled_and_stable() {
    let before = "updated,code,name\n10:00,a,one\n10:01,b,two\n10:02,c,three\n";
    let after = "updated,code,name\n11:00,a,one\n11:01,b,two\n11:02,c,tree\n";
    assert_eq!(key(&pair(before, after, &options())), ["code"], "no row is known again by its time");
    let pairs = "station,hour,level\nquay,1,5\nquay,2,5\nweir,1,5\nweir,2,6\n";
    assert_eq!(key(&pair(pairs, &pairs.replace('6', "7"), &options())), ["station", "hour"]);
    let none = "a,b\nx,y\nx,y\nz,y\n";
    assert!(key(&pair(none, "a,b\nx,y\nz,y\nx,y\n", &options())).is_empty());
    let told = pair(LEVELS, LEVELS, &keyed(KindOptions::default().key(vec!["station".to_owned()])));
    assert_eq!(key(&told), ["station"]);
    let missing = keyed(KindOptions::default().key(vec!["place".to_owned()]));
    let found = compare_named((b"x.csv", b"x.csv"), (LEVELS.as_bytes(), LEVELS.as_bytes()), &missing);
    let reason = &found.unparsed().unwrap().reason;
    assert_eq!(reason, "there is no column `place` for the key; columns are id, station, level");
}

#[test]
fn without_a_key_rows_are_matched_in_order_by_what_they_share() {
    let before = "day,what,by\nmon,cleaned,ann\nmon,cleaned,ann\ntue,painted,bo\nwed,read,cy\n";
    let after = "day,what,by\nmon,cleaned,ann\nmon,cleaned,ann\ntue,painted,di\nthu,fixed,cy\nwed,read,cy\n";
    assert_eq!(told(&pair(before, after, &options())), ["edited 3 3 by", "new - 4"]);
    let moved = "day,what,by\nwed,read,cy\nmon,cleaned,ann\nmon,cleaned,ann\ntue,painted,bo\n";
    let found = pair(before, moved, &options());
    assert!(told(&found).is_empty());
    assert_eq!(causes(&found), [("row order".to_owned(), 1)]);
}

#[test]
fn columns_are_matched_by_name_wherever_they_stand() {
    let after = "station,depth,level,note\nquay,7,1.20,\nweir,8,0.90,x\nspit,9,2.00,\nbar,10,1.10,\n";
    let before = "station,level,gone,depth_m\nquay,1.20,a,7\nweir,0.90,b,8\nspit,2.00,c,9\nbar,1.10,d,10\n";
    let found = pair(before, after, &options());
    let forms: Vec<String> =
        found.found.column_changes().map(|(column, form)| format!("{} {}", column.name, form.name())).collect();
    assert_eq!(forms, ["gone gone", "depth edited", "note new"]);
    let renamed = found.found.columns.iter().find(|column| column.name == "depth").unwrap();
    assert_eq!(renamed.renamed_from.as_deref(), Some("depth_m"), "the same values under another name");
    assert!(told(&found).is_empty());
    assert!(found.found.differs(), "a column that came or went counts");
    let swapped = pair("a,b\n1,2\n", "b,a\n2,1\n", &options());
    assert_eq!(swapped.found.column_changes().filter(|(_, form)| *form == Form::Moved).count(), 1);
}

#[test]
fn cells_are_numbers_or_dates_where_a_whole_column_is() {
    let (before, after) = ("id,v\n1,1.50\n2,7\n3,\n", "id,v\n1,1.5\n2,8\n3,\n");
    let found = pair(before, after, &options());
    assert_eq!(told(&found), ["edited muted 1 1 v (number spelling)", "edited 2 2 v"]);
    assert_eq!(found.found.columns[1].cells, CellType::Number);
    let text = keyed(KindOptions::default().cells_as_text(Some(true)));
    assert_eq!(told(&pair(before, after, &text)), ["edited 1 1 v", "edited 2 2 v"]);
    let codes = pair("id,v\n1,1.50\n2,007\n", "id,v\n1,1.5\n2,007\n", &options());
    assert_eq!(told(&codes), ["edited 1 1 v"], "007 is no number, so none of the column is");
    let dates = pair("id,at\na,2026-03-01T00:00Z\n", "id,at\na,2026-03-01T01:00:00+01:00\n", &options());
    assert_eq!(told(&dates), ["edited muted 1 1 at (date spelling)"]);
    let keys =
        pair("id,v\n1.0,x\n2.0,y\n", "id,v\n1,x\n2.0,y\n", &keyed(KindOptions::default().key(vec!["id".into()])));
    assert_eq!(told(&keys), ["gone 1 -", "new - 1"], "keys are always text");
}

#[test]
fn numbers_that_are_near_enough_are_muted() {
    let column = |name: &str| tideline_core::internal::rules::NamePattern::column(name).unwrap();
    let how = KindOptions::default()
        .tolerance(Tolerance::parse("1%"))
        .column_tolerances(vec![(column("exact"), Tolerance::parse("0").unwrap())]);
    let found = pair("id,v,exact\na,100,100\nb,100,1\n", "id,v,exact\na,100.5,100.5\nb,102,1\n", &keyed(how));
    assert_eq!(told(&found), ["edited 1 1 v (tolerance 1%) exact", "edited 2 2 v"]);
}

#[test]
fn rules_leave_columns_aside_and_hold_inside_cells() {
    let (before, after) = (
        "id,updated_at,updated_by,note\n1,10:00,ann,Seen  twice\n2,10:00,bo,x\n",
        "id,updated_at,updated_by,note\n1,11:00,cy,seen twice\n2,11:00,bo,x\n",
    );
    let found = pair(before, after, &under(Effect::Ignore, &["column:updated_*", "case", "space-amount"]));
    assert!(told(&found).is_empty(), "{:?}", told(&found));
    assert_eq!(causes(&found)[0].0, "case");
    assert!(causes(&found).contains(&("column:updated_*".to_owned(), 2)));
    assert_eq!(Comparison::Table(found).status(false), Status::Same);
    let found = pair(before, after, &under(Effect::Mute, &["column:updated_*"]));
    assert_eq!(
        told(&found),
        [
            "edited 1 1 updated_at (column:updated_*) updated_by (column:updated_*) note",
            "edited muted 2 2 updated_at (column:updated_*)"
        ]
    );
}

#[test]
fn what_is_found_in_the_wild_is_read() {
    let quoted = pair("id;v\r\n1;\"a;\"\"b\"\"\nc\"\r\n2;x\r\n", "id;v\n1;\"a;\"\"b\"\"\nd\"\n2;x\n", &options());
    assert_eq!(told(&quoted), ["edited 1 1 v"]);
    assert_eq!(quoted.before.delimiter(), Some(b';'));
    assert_eq!((quoted.before.line(0), quoted.before.line(1)), (2, 4));
    let ragged = pair("id,a,b\n1,x\n2,x,y,z\n3,x,y\n", "id,a,b\n1,x,\n2,x,y,z\n3,x,y\n", &options());
    let TableRemark::Ragged { rows, first, columns, .. } = &ragged.found.remarks[0] else { panic!("rows are ragged") };
    assert_eq!((*rows, first.as_slice(), *columns), (2, &[(2, 2), (3, 4)][..], 3));
    assert_eq!(told(&ragged), ["edited 1 1 b"], "no cell is not an empty one");
    let bare = keyed(KindOptions::default().no_header(Some(true)).delimiter(Some(b'|')));
    let found = pair("a|1\nb|2\n", "a|1\nb|3\n", &bare);
    assert_eq!(told(&found), ["edited 2 2 column 2"]);
    let open = pair("id,v\n1,\"x\n2,y\n", "id,v\n1,\"x\n2,z\n", &options());
    assert!(open.found.remarks.iter().any(|remark| matches!(remark, TableRemark::OpenQuote { line: 2, .. })));
    let only_quotes = pair("id,v\n1,x\n", "id,v\n1,\"x\"\n", &options());
    assert_eq!(causes(&only_quotes), [("layout".to_owned(), 1)]);
}

#[test]
fn a_table_beside_nothing_has_new_rows_and_no_new_columns() {
    let found = pair("", LEVELS, &options());
    assert_eq!(told(&found).len(), 4);
    assert_eq!(found.found.column_changes().count(), 0);
    assert_eq!(told(&pair(LEVELS, "\n", &options()))[0], "gone 1 -");
}

#[test]
fn records_of_json_are_rows() {
    let before = "{\"id\": 1, \"v\": 1.50, \"n\": null}\n{\"id\": 2, \"v\": 2}\n";
    let after = "{\"v\": 2, \"id\": 2, \"w\": \"\"}\n{\"id\": 1, \"v\": 1.5}\n";
    let found = pair_of("x.jsonl", before, after, &options());
    assert_eq!(key(&found), ["id"]);
    assert_eq!(told(&found), ["edited muted 1 2 v (number spelling)"]);
    let found = pair_of("x.json", "[{\"a\": 1, \"b\": 2}]", "[{\"a\": 1, \"b\": 3}]", &options());
    assert_eq!(told(&found), ["edited 1 1 b"]);
}

#[test]
fn duplicate_keys_are_told_and_matched_in_order() {
    let by_id = keyed(KindOptions::default().key(vec!["id".to_owned()]));
    let found = pair("id,v\n1,a\n1,b\n2,c\n", "id,v\n1,a\n1,x\n1,y\n2,c\n", &by_id);
    assert_eq!(told(&found), ["edited 2 2 v", "new - 3"]);
    let keys: Vec<(bool, String, usize)> = found
        .found
        .remarks
        .iter()
        .filter_map(|remark| match remark {
            TableRemark::DuplicateKeys { is_before, first, .. } => Some((*is_before, first[0].0.clone(), first[0].1)),
            _ => None,
        })
        .collect();
    assert_eq!(keys, [(true, "1".to_owned(), 3), (false, "1".to_owned(), 3)]);
}

/// Files in memory, which stand for those of a disk.
#[derive(Debug)]
struct InMemory;

impl Scratch for InMemory {
    fn file(&self) -> std::io::Result<Box<dyn ScratchFile>> {
        Ok(Box::new(std::io::Cursor::new(Vec::new())))
    }
}

/// Rows by their ids.
fn table() -> impl Strategy<Value = BTreeMap<u16, (u8, String)>> {
    prop::collection::btree_map(0..500_u16, (0..9_u8, "[a-c,\"\\n]{0,4}"), 0..30)
}

fn written<'r>(rows: impl IntoIterator<Item = (&'r u16, &'r (u8, String))>) -> String {
    let mut text = "id,size,note\n".to_owned();
    for (id, (size, note)) in rows {
        text.push_str(&format!("{id},{size},\"{}\"\n", note.replace('"', "\"\"")));
    }
    text
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    /// Known edits of a table come back as those edits, however its rows are sorted; exchanged sides mirror.
    #[test]
    fn edits_of_rows_come_back_as_those_edits(before in table(), after in table(), backwards in any::<bool>()) {
        let by_id = keyed(KindOptions::default().key(vec!["id".to_owned()]));
        let one = written(&before);
        let other = if backwards { written(after.iter().rev()) } else { written(&after) };
        let found = pair(&one, &other, &by_id);
        let count = |form: Form| found.found.changes.iter().filter(|change| change.form == form).count();
        prop_assert_eq!(count(Form::Gone), before.keys().filter(|id| !after.contains_key(id)).count());
        prop_assert_eq!(count(Form::New), after.keys().filter(|id| !before.contains_key(id)).count());
        let edited = before.iter().filter(|(id, row)| after.get(id).is_some_and(|other| other != *row)).count();
        prop_assert_eq!(count(Form::Edited), edited);
        for change in found.found.changes.iter().filter(|change| change.form == Form::Edited) {
            let (old, new) = (found.before.cells(change.before.unwrap()), found.after.cells(change.after.unwrap()));
            prop_assert_eq!(&old[0], &new[0]);
            let differing = (0..3).filter(|at| old[*at] != new[*at]).count();
            prop_assert_eq!(change.cells.len(), differing);
        }
        let back = pair(&other, &one, &by_id);
        prop_assert_eq!(found.found.changes.len(), back.found.changes.len());
        let mut forth: Vec<_> = found.found.changes.iter().map(|change| (change.before, change.after)).collect();
        let mut mirrored: Vec<_> = back.found.changes.iter().map(|change| (change.after, change.before)).collect();
        forth.sort_unstable();
        mirrored.sort_unstable();
        prop_assert_eq!(forth, mirrored);
    }

    /// Rows that only stand in another order differ in nothing that counts, with a key and without.
    #[test]
    fn a_shuffled_table_does_not_differ(rows in prop::collection::vec(("[ab]{1,2}", 0..4_u8), 1..20), turn in 0..20_usize) {
        let text = |rows: &[(String, u8)]| {
            rows.iter().fold("name,size\n".to_owned(), |text, (name, size)| format!("{text}{name},{size}\n"))
        };
        let mut turned = rows.clone();
        turned.rotate_left(turn % rows.len());
        turned.reverse();
        let (one, other) = (text(&rows), text(&turned));
        let found = pair(&one, &other, &options());
        prop_assert!(told(&found).is_empty(), "{one}{other}{:?}", told(&found));
    }

    /// Keys that are sorted in runs match the rows that keys in memory match.
    #[test]
    fn runs_on_a_disk_match_what_memory_matches(
        before in prop::collection::vec((0..9_u8, 0..3_u8), 0..40),
        after in prop::collection::vec((0..9_u8, 0..3_u8), 0..40),
        most in 1..30_usize,
    ) {
        let text = |rows: &[(u8, u8)]| rows.iter().fold("id,v\n".to_owned(), |text, (id, v)| format!("{text}{id},{v}\n"));
        let (one, other) = (text(&before), text(&after));
        let by_id = KindOptions::default().key(vec!["id".to_owned()]);
        let held = pair(&one, &other, &keyed(by_id.clone()));
        let on_disk = by_id.scratch(Some(std::sync::Arc::new(InMemory))).rows_in_memory(most);
        prop_assert_eq!(&held.found, &pair(&one, &other, &keyed(on_disk)).found);
    }

    /// No text breaks the reader of tables.
    #[test]
    fn any_text_is_a_table(before in "[a,;\"\\r\\n\\t|1.]{0,40}", after in "[a,;\"\\r\\n\\t|1.]{0,40}") {
        let found = pair(&before, &after, &options());
        for change in &found.found.changes {
            if let Some(row) = change.before {
                prop_assert!(found.before.span(row).end <= before.len());
            }
        }
    }
}
