//! Three versions merged by what they mean: tables by key, data by path.

use proptest::prelude::*;
use serde_json::Value;
use tideline_core::internal::kinds::data::{DataFormat, merge_documents};
use tideline_core::internal::kinds::{ContentOptions, KindOptions, WantedKind};
use tideline_core::internal::merge::{FileMerge, Marks, MergeOptions, Three, merge_files};
use tideline_core::internal::model::Kind;

fn options(kind: Kind) -> ContentOptions {
    ContentOptions::default().kind(Some(WantedKind::As(kind)))
}

/// The merged text with its conflicts marked, how many there are, and how many changes came in by kind.
fn merged(name: &str, kind: Kind, versions: [&str; 3]) -> (String, usize, Option<usize>) {
    let [base, mine, theirs] = versions.map(str::as_bytes);
    let versions = Three::new(base, mine, theirs);
    let FileMerge::Text(text) = merge_files(name.as_bytes(), versions, &options(kind), &MergeOptions::default()) else {
        panic!("{name} is text");
    };
    let labels = Three::new("base", "mine", "theirs").map(str::to_owned);
    let marked = text.merge.marked(&Marks { labels, base_text: false });
    let conflicts = text.merge.conflicts().count();
    (String::from_utf8(marked).unwrap(), conflicts, text.by_kind.map(|by| by.taken))
}

#[test]
fn edits_that_lines_would_call_conflicts_merge_by_path() {
    let (base, mine, theirs) = (
        "{\"a\": 1, \"b\": 2, \"c\": {\"d\": 3}}\n",
        "{\"a\": 10, \"b\": 2, \"c\": {\"d\": 3}}\n",
        "{\"b\": 20, \"a\": 1, \"c\": {\"d\": 3, \"e\": 4}}\n",
    );
    let wanted = "{\"a\": 10, \"b\": 20, \"c\": {\"d\": 3, \"e\": 4}}\n";
    assert_eq!(merged("x.json", Kind::Data, [base, mine, theirs]), (wanted.to_owned(), 0, Some(2)));
    let FileMerge::Text(lines) = merge_files(
        b"x.json",
        Three::new(base.as_bytes(), mine.as_bytes(), theirs.as_bytes()),
        &ContentOptions::default(),
        &MergeOptions::default(),
    ) else {
        panic!("these are texts")
    };
    assert_eq!(lines.merge.conflicts().count(), 1, "by lines it is one");
}

#[test]
fn what_both_changed_is_marked_and_the_rest_comes_in() {
    let base = "{\n  \"a\": 1,\n  \"b\": 2,\n  \"c\": 3\n}\n";
    let mine = base.replace("1", "10").replace("3", "30");
    let theirs = base.replace("1", "11").replace("2", "20");
    let (text, conflicts, taken) = merged("x.json", Kind::Data, [base, &mine, &theirs]);
    assert_eq!((conflicts, taken), (1, Some(1)));
    assert_eq!(
        text,
        "{\n<<<<<<< mine\n  \"a\": 10,\n=======\n  \"a\": 11,\n>>>>>>> theirs\n  \"b\": 20,\n  \"c\": 30\n}\n"
    );
}

#[test]
fn records_merge_by_identity_and_lists_in_order() {
    let json = |base: &str, mine: &str, theirs: &str| merged("x.json", Kind::Data, [base, mine, theirs]);
    let base = r#"[{"id": 1, "v": "a", "w": 0}, {"id": 2, "v": "b", "w": 0}]"#;
    let mine = r#"[{"id": 2, "v": "b", "w": 0}, {"id": 1, "v": "x", "w": 0}]"#;
    let theirs = r#"[{"id": 1, "v": "a", "w": 9}, {"id": 3, "v": "c", "w": 0}, {"id": 2, "v": "b", "w": 0}]"#;
    let (text, conflicts, _) = json(base, mine, theirs);
    assert_eq!(conflicts, 0);
    let wanted: Value = serde_json::from_str(
        r#"[{"id": 2, "v": "b", "w": 0}, {"id": 1, "v": "x", "w": 9}, {"id": 3, "v": "c", "w": 0}]"#,
    )
    .unwrap();
    assert_eq!(serde_json::from_str::<Value>(&text).unwrap(), wanted);
    assert_eq!(json("[1, 2, 3, 4, 5]", "[0, 1, 2, 3, 4, 5]", "[1, 2, 3, 5]").0, "[0, 1, 2, 3, 5]");
    assert_eq!(json("[1, 2, 3]", "[1, 9, 3]", "[1, 8, 3]").1, 1);
}

#[test]
fn yaml_and_toml_merge_with_the_layout_of_mine() {
    let base = "# station\nname: quay\nsensor:\n  interval: 60   # seconds\n  offset: 140\nalarms:\n  - id: high\n    level: 4.2\n  - id: low\n    level: 0.3\n";
    let mine = base.replace("offset: 140", "offset: 138").replace("name: quay", "name: 'north quay'");
    let theirs = "name: quay\nalarms:\n- id: high\n  level: 4.5\n- id: low\n  level: 0.3\n- id: ice\n  level: 1\nsensor: {interval: 30, offset: 140}\nuplink:\n    channel: 12\n";
    let (text, conflicts, taken) = merged("x.yaml", Kind::Data, [base, &mine, theirs]);
    assert_eq!((conflicts, taken), (0, Some(4)), "{text}");
    assert_eq!(
        text,
        "# station\nname: 'north quay'\nsensor:\n  interval: 30   # seconds\n  offset: 138\nuplink:\n    channel: 12\nalarms:\n  - id: high\n    level: 4.5\n  - id: low\n    level: 0.3\n  - id: ice\n    level: 1\n"
    );
    let base =
        "# station\nname = \"quay\"\n\n[sensor]\ninterval = 60  # seconds\noffset = 140\n\n[uplink]\nchannel = 12\n";
    let mine = base.replace("offset = 140", "offset = 138").replace("[uplink]\nchannel = 12\n", "");
    let theirs =
        base.replace("interval = 60", "interval = 30").replace("name", "unit = \"m\"\nname") + "\n[extra]\nx = 1\n";
    let (text, conflicts, _) = merged("x.toml", Kind::Data, [base, &mine, &theirs]);
    assert_eq!(conflicts, 0, "{text}");
    assert_eq!(
        text,
        "# station\nunit = \"m\"\nname = \"quay\"\n\n[sensor]\ninterval = 30  # seconds\noffset = 138\n\n[extra]\nx = 1\n"
    );
    let (text, conflicts, _) = merged("x.yaml", Kind::Data, ["a: 1\nb: 2\n", "a: 2\nb: 2\n", "a: 3\nb: 4\n"]);
    assert_eq!((text.as_str(), conflicts), ("<<<<<<< mine\na: 2\n=======\na: 3\n>>>>>>> theirs\nb: 4\n", 1));
}

#[test]
fn tables_merge_by_key_and_cell_by_cell() {
    let base = "id,v,w\n1,a,x\n2,b,y\n3,c,z\n";
    let mine = "id,v,w\n3,c,z\n1,\"aa\",x\n2,b,y\n";
    let theirs = "id,v,w\n1,a,xx\n3,c,z\n4,d,q\n";
    assert_eq!(
        merged("x.csv", Kind::Table, [base, mine, theirs]),
        ("id,v,w\n3,c,z\n4,d,q\n1,\"aa\",xx\n".to_owned(), 0, Some(3))
    );
    let (text, conflicts, _) =
        merged("x.csv", Kind::Table, [base, "id,v,w\n1,p,x\n2,b,y\n3,c,z\n", "id,v,w\n1,q,x\n2,b,r\n3,c,z\n"]);
    assert_eq!(conflicts, 1);
    assert_eq!(text, "id,v,w\n<<<<<<< mine\n1,p,x\n=======\n1,q,x\n>>>>>>> theirs\n2,b,r\n3,c,z\n");
    let by = options(Kind::Table).how(KindOptions::default().key(vec!["no such".to_owned()]));
    let FileMerge::Text(lines) = merge_files(
        b"x.csv",
        Three::new(base.as_bytes(), mine.as_bytes(), theirs.as_bytes()),
        &by,
        &MergeOptions::default(),
    ) else {
        panic!("these are texts")
    };
    assert!(lines.by_kind.is_none(), "without a key they are merged by lines");
}

fn document() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![(-5_i64..5).prop_map(Value::from), "[a-c]{0,3}".prop_map(Value::from)];
    leaf.prop_recursive(3, 20, 4, |inner| {
        prop::collection::btree_map("[a-d]", inner, 0..4).prop_map(|map| Value::Object(map.into_iter().collect()))
    })
}

/// What comes of three values by the rule for maps: key by key; nothing where both changed one.
fn by_hand(base: Option<&Value>, mine: Option<&Value>, theirs: Option<&Value>) -> Option<Option<Value>> {
    if mine == theirs || base == theirs {
        return Some(mine.cloned());
    }
    if base == mine {
        return Some(theirs.cloned());
    }
    let (Some(Value::Object(base)), Some(Value::Object(mine)), Some(Value::Object(theirs))) = (base, mine, theirs)
    else {
        return None;
    };
    let mut merged = serde_json::Map::new();
    let keys: std::collections::BTreeSet<&String> = mine.keys().chain(theirs.keys()).collect();
    for key in keys {
        if let Some(value) = by_hand(base.get(key), mine.get(key), theirs.get(key))? {
            merged.insert(key.clone(), value);
        }
    }
    Some(Some(Value::Object(merged)))
}

/// A document of YAML in blocks.
fn yaml(value: &Value, depth: usize) -> String {
    let indent = "  ".repeat(depth);
    match value {
        Value::Object(members) if !members.is_empty() => members
            .iter()
            .map(|(key, value)| match value {
                Value::Object(inner) if !inner.is_empty() => format!("{indent}{key}:\n{}", yaml(value, depth + 1)),
                _ => format!("{indent}{key}: {}\n", yaml(value, depth).trim()),
            })
            .collect(),
        Value::Object(_) => "{}".to_owned(),
        other => other.to_string(),
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    /// A merge by path is what the rule for maps makes of three documents, in JSON and in YAML.
    #[test]
    fn a_merge_is_what_a_merge_by_hand_gives(base in document(), mine in document(), theirs in document(), is_pretty in any::<bool>()) {
        let wanted = by_hand(Some(&base), Some(&mine), Some(&theirs));
        let text = |value: &Value| if is_pretty { serde_json::to_string_pretty(value).unwrap() } else { value.to_string() };
        let (b, m, t) = (text(&base), text(&mine), text(&theirs));
        let merge = merge_documents(DataFormat::Json, b.as_bytes(), m.as_bytes(), t.as_bytes());
        let merge = merge.expect("JSON can always be written");
        prop_assert_eq!(merge.conflicts.is_empty(), wanted.is_some(), "{} {} {}", b, m, t);
        if let Some(Some(wanted)) = &wanted {
            prop_assert_eq!(&serde_json::from_slice::<Value>(&merge.mine).unwrap(), wanted);
        }
        let [b, m, t] = [&base, &mine, &theirs].map(|value| yaml(value, 0));
        // What cannot be written line by line is left to the merge of lines.
        if let Some(merge) = merge_documents(DataFormat::Yaml, b.as_bytes(), m.as_bytes(), t.as_bytes()) {
            prop_assert_eq!(merge.conflicts.is_empty(), wanted.is_some());
        }
    }
}
