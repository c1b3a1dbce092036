//! Rows carried from one table into another.

use proptest::prelude::*;
use tideline_core::internal::kinds::{ContentOptions, KindOptions, WantedKind, compare_named};
use tideline_core::internal::merge::take_rows;
use tideline_core::internal::model::Kind;
use tideline_core::{Comparison, TablePair, TakeInto};

fn options(how: KindOptions) -> ContentOptions {
    ContentOptions::default().kind(Some(WantedKind::As(Kind::Table))).how(how)
}

fn pair<'b>(before: &'b str, after: &'b str, how: KindOptions) -> Box<TablePair<'b>> {
    match compare_named((b"x.csv", b"x.csv"), (before.as_bytes(), after.as_bytes()), &options(how)) {
        Comparison::Table(tables) => tables,
        other => panic!("these are tables, not {:?}", other.kind()),
    }
}

fn taken(before: &str, after: &str, into: TakeInto, numbers: &[usize]) -> String {
    let tables = pair(before, after, KindOptions::default().key(vec!["id".to_owned()]));
    let picks: Vec<bool> = (1..=tables.found.changes.len()).map(|number| numbers.contains(&number)).collect();
    let taken = take_rows((&tables.before, &tables.after), &tables.found, into, &picks).unwrap();
    String::from_utf8(taken).unwrap()
}

#[test]
fn rows_are_carried_and_the_others_stay_byte_for_byte() {
    let before = "id,v,\"w\"\r\n1, a ,\"x\"\r\n2,b,y\r\n\r\n3,c,z\r\n";
    let after = "w,id,v\nz,3,\"c,c\"\nn,4,d\nx,1, a \n";
    assert_eq!(taken(before, after, TakeInto::Before, &[]), before);
    assert_eq!(taken(before, after, TakeInto::Before, &[1]), "id,v,\"w\"\r\n1, a ,\"x\"\r\n\r\n3,c,z\r\n");
    assert_eq!(
        taken(before, after, TakeInto::Before, &[2]),
        "id,v,\"w\"\r\n1, a ,\"x\"\r\n2,b,y\r\n\r\n3,\"c,c\",z\r\n"
    );
    let new = taken(before, after, TakeInto::Before, &[3]);
    assert_eq!(new, "id,v,\"w\"\r\n1, a ,\"x\"\r\n2,b,y\r\n\r\n3,c,z\r\n4,d,n\r\n");
    assert_eq!(taken(before, after, TakeInto::After, &[1]), "w,id,v\nz,3,\"c,c\"\nn,4,d\nx,1, a \ny,2,b\n");
}

#[test]
fn a_row_comes_in_behind_the_row_that_it_stands_behind() {
    let (before, after) = ("id,v\n1,a\n3,c", "id,v\n0,z\n1,a\n2,b\n3,c\n");
    assert_eq!(taken(before, after, TakeInto::Before, &[1, 2]), "id,v\n0,z\n1,a\n2,b\n3,c");
    assert_eq!(taken("id,v\n", after, TakeInto::Before, &[4]), "id,v\n3,c\n");
    let bare = KindOptions::default().no_header(Some(true)).key(vec!["column 1".to_owned()]);
    let tables = pair("1,a\n", "0,z\n1,a\n", bare);
    let into = take_rows((&tables.before, &tables.after), &tables.found, TakeInto::Before, &[true]).unwrap();
    assert_eq!(into, b"0,z\n1,a\n");
}

#[test]
fn a_row_that_moved_is_carried_to_its_place() {
    let how = KindOptions::default().key(vec!["id".to_owned()]).row_order_counts(Some(true));
    let tables = pair("id,v\n1,a\n2,b\n3,c\n", "id,v\n3,d\n1,a\n2,b\n", how);
    let into = take_rows((&tables.before, &tables.after), &tables.found, TakeInto::Before, &[true]).unwrap();
    assert_eq!(String::from_utf8(into).unwrap(), "id,v\n3,d\n1,a\n2,b\n");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    /// All changes taken into one side leave nothing that counts; none taken leave it as it was.
    #[test]
    fn all_rows_taken_leave_no_difference(
        before in prop::collection::btree_map(0..40_u8, "[a-c,\"]{0,3}", 0..15),
        after in prop::collection::btree_map(0..40_u8, "[a-c,\"]{0,3}", 0..15),
        into_before in any::<bool>(),
    ) {
        let written = |rows: &std::collections::BTreeMap<u8, String>| {
            rows.iter().fold("id,v\n".to_owned(), |text, (id, v)| format!("{text}{id},\"{}\"\n", v.replace('"', "\"\"")))
        };
        let (before, after) = (written(&before), written(&after));
        let (into, other) = if into_before { (TakeInto::Before, &after) } else { (TakeInto::After, &before) };
        let all: Vec<usize> = (1..=60).collect();
        let taken = taken(&before, &after, into, &all);
        let left = pair(&taken, other, KindOptions::default().key(vec!["id".to_owned()]));
        prop_assert!(!left.found.differs(), "{before}{after}{taken}");
    }
}
