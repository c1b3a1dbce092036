//! `--json`: the records against their schema, against what people are shown, and as a full account of the change.

use std::fs;

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use proptest::prelude::*;
use serde_json::Value;

use crate::support::Folder;

const SCHEMA: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/records.schema.json");

fn records(folder: &Folder, arguments: &[&str]) -> Vec<Value> {
    let ran = folder.run(&[&["--json"], arguments].concat());
    ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

fn of_kind<'r>(records: &'r [Value], kind: &str) -> Vec<&'r Value> {
    records.iter().filter(|record| record["record"] == kind).collect()
}

fn bytes(value: &Value) -> Vec<u8> {
    match value {
        Value::String(text) => text.clone().into_bytes(),
        other => BASE64_STANDARD.decode(other["base64"].as_str().unwrap()).unwrap(),
    }
}

/// Carries the changes of the records out on the text before.
fn rebuilt(before: &[u8], records: &[Value]) -> Vec<u8> {
    let mut lines: Vec<Vec<u8>> = before.split_inclusive(|&byte| byte == b'\n').map(<[u8]>::to_vec).collect();
    let mut gone = Vec::new();
    let mut new = Vec::new();
    for change in of_kind(records, "change") {
        let side = |name: &str| -> (usize, Vec<Vec<u8>>) {
            let lines = change[name]["lines"].as_array().unwrap().iter().map(bytes).collect();
            (usize::try_from(change[name]["line"].as_u64().unwrap()).unwrap() - 1, lines)
        };
        let (start, taken) = side("before");
        assert_eq!(lines[start..start + taken.len()], taken[..], "what is gone was there");
        gone.extend(start..start + taken.len());
        new.push(side("after"));
    }
    gone.sort_unstable();
    for at in gone.into_iter().rev() {
        lines.remove(at);
    }
    new.sort_by_key(|(start, _)| *start);
    for (start, added) in new {
        lines.splice(start..start, added);
    }
    lines.concat()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn after_can_be_rebuilt_from_before_and_the_records(
        before in prop::collection::vec(prop_oneof![Just(b'\n'), Just(b'a'), 1..=255_u8], 0..60),
        after in prop::collection::vec(prop_oneof![Just(b'\n'), Just(b'a'), 1..=255_u8], 0..60),
    ) {
        let folder = Folder::new();
        folder.write("a", &before);
        folder.write("b", &after);
        let records = records(&folder, &["--encoding", "utf-8", "a", "b"]);
        let without_mark = |text: &[u8]| text.strip_prefix(b"\xef\xbb\xbf").unwrap_or(text).to_vec();
        prop_assert_eq!(rebuilt(&without_mark(&before), &records), without_mark(&after));
    }
}

fn samples() -> Folder {
    let block = "the storm came from the west\nand the gauge stood under water\n";
    let folder = Folder::with(&[
        ("a/x.py", &format!("{block}def f():\n    one\n    more\n    again\ntail\n")),
        ("b/x.py", &format!("def f():\n    once\n    more\n    again\n{block}tail")),
        ("a/same", "same\n"),
        ("b/same", "same\n"),
    ]);
    folder.write("a/latin", b"sch\xf6ne Fl\xfcsse und B\xe4che\n");
    folder.write("b/latin", "schöne Flüsse und Seen\n".as_bytes());
    folder.write("a/bytes", b"\0\x01\x02");
    folder.write("b/bytes", b"\0\x01\x03\x04");
    folder
}

#[test]
fn every_record_fits_the_published_schema() {
    let schema: Value = serde_json::from_str(&fs::read_to_string(SCHEMA).unwrap()).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let folder = samples();
    for name in ["x.py", "same", "latin", "bytes"] {
        let records = records(&folder, &[&format!("a/{name}"), &format!("b/{name}")]);
        let kinds: Vec<_> = records.iter().map(|record| record["record"].as_str().unwrap()).collect();
        assert_eq!((kinds[0], kinds[1], *kinds.last().unwrap()), ("comparison", "pair", "summary"), "{name}");
        for record in records {
            let errors: Vec<_> = validator.iter_errors(&record).map(|error| error.to_string()).collect();
            assert!(errors.is_empty(), "{name}: {errors:?}\n{record:#}");
        }
    }
    let demo = Folder::new();
    demo.run(&["demo", "d"]);
    for arguments in [
        &["d/media/spring", "d/media/autumn", "--each-file", "--json"][..],
        &["explain", "d/media/spring/gauge.bin", "d/media/autumn/gauge.bin", "--json"],
        &[
            "take",
            "--changes",
            "1",
            "--into",
            "before",
            "--dry-run",
            "--json",
            "d/media/spring/gauge.bin",
            "d/media/autumn/gauge.bin",
        ],
    ] {
        let ran = demo.run(arguments);
        assert!(!ran.out.is_empty(), "{}", ran.err);
        for line in ran.out.lines() {
            let record: Value = serde_json::from_str(line).unwrap();
            let errors: Vec<_> = validator.iter_errors(&record).map(|error| error.to_string()).collect();
            assert!(errors.is_empty(), "{arguments:?}: {errors:?}\n{record:#}");
        }
    }
    assert!(!validator.is_valid(&serde_json::json!({ "record": "pair", "path": 1 })), "the schema says something");
}

#[test]
fn the_published_schema_is_that_of_the_types() {
    let current = tideline_views::json::schema();
    if std::env::var_os("TIDELINE_WRITE_SCHEMA").is_some() {
        fs::write(SCHEMA, &current).unwrap();
    }
    let published = fs::read_to_string(SCHEMA).unwrap_or_default();
    assert_eq!(published, current, "set TIDELINE_WRITE_SCHEMA=1 and run this test to publish it anew");
}

#[test]
fn counts_are_those_that_people_are_shown() {
    let folder = samples();
    let shown = folder.run(&["a/x.py", "b/x.py"]).out;
    let records = records(&folder, &["a/x.py", "b/x.py"]);
    let changes = of_kind(&records, "change");
    assert!(shown.contains(&format!("    {} changes ", changes.len())), "{shown}");
    assert_eq!(of_kind(&records, "pair")[0]["changes"], changes.len());
    assert_eq!(of_kind(&records, "summary")[0]["changes"], changes.len());
    let forms: Vec<_> = changes.iter().map(|change| change["form"].as_str().unwrap()).collect();
    assert_eq!(forms, ["moved", "edited", "edited"]);
    assert_eq!(changes[1]["section"], "def f()");
}

#[test]
fn facts_of_both_sides_are_given() {
    let folder = samples();
    let records_of = |name: &str| records(&folder, &[&format!("a/{name}"), &format!("b/{name}")]);
    let latin = records_of("latin");
    let pair = of_kind(&latin, "pair")[0];
    assert_eq!(pair["before"]["encoding"], "windows-1252");
    assert_eq!(pair["after"]["encoding"], "UTF-8");
    assert_eq!(pair["after"]["size"], 25);
    assert_eq!(of_kind(&latin, "change")[0]["before"]["lines"][0], "schöne Flüsse und Bäche\n");
    let bytes = records_of("bytes");
    assert_eq!((of_kind(&bytes, "pair")[0]["kind"].as_str(), bytes.len()), (Some("bytes"), 4));
    let same = records_of("same");
    assert_eq!((of_kind(&same, "summary")[0]["same"].as_u64(), same.len()), (Some(1), 3));
}
