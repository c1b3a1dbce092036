//! Patches of JSON: the examples of RFC 6902 and RFC 7396, and patches that were written, put in by an applier of the tests' own.

use std::borrow::Cow;

use proptest::prelude::*;
use serde_json::{Value, json};
use tideline_core::internal::kinds::data::{
    DataFormat, apply_json_patch, apply_merge_patch, is_json_patch, read_document, write_json_patch, write_merge_patch,
};

/// What the patch makes of a value, by the letter of RFC 6902.
fn applied(mut value: Value, patch: &Value) -> Result<Value, String> {
    for operation in patch.as_array().ok_or("no list")? {
        let text = |name: &str| operation[name].as_str().map(str::to_owned).ok_or(format!("no {name}"));
        let path = text("path")?;
        match text("op")?.as_str() {
            "add" => put(&mut value, &path, operation["value"].clone())?,
            "remove" => drop(cut(&mut value, &path)?),
            "replace" => *value.pointer_mut(&path).ok_or("nothing to replace")? = operation["value"].clone(),
            "move" => {
                let part = cut(&mut value, &text("from")?)?;
                put(&mut value, &path, part)?;
            }
            "copy" => {
                let part = value.pointer(&text("from")?).ok_or("nothing to copy")?.clone();
                put(&mut value, &path, part)?;
            }
            "test" if value.pointer(&path) == Some(&operation["value"]) => {}
            other => return Err(format!("{other} {path}")),
        }
    }
    Ok(value)
}

fn split(path: &str) -> Option<(String, String)> {
    let at = path.rfind('/')?;
    Some((path[..at].to_owned(), path[at + 1..].replace("~1", "/").replace("~0", "~")))
}

fn put(value: &mut Value, path: &str, part: Value) -> Result<(), String> {
    let Some((parent, last)) = split(path) else {
        *value = part;
        return Ok(());
    };
    match value.pointer_mut(&parent) {
        Some(Value::Object(members)) => drop(members.insert(last, part)),
        Some(Value::Array(items)) => {
            let at = if last == "-" { items.len() } else { last.parse().map_err(|_| "no index")? };
            if at > items.len() {
                return Err("beyond the end".to_owned());
            }
            items.insert(at, part);
        }
        _ => return Err(format!("no parent {parent}")),
    }
    Ok(())
}

fn cut(value: &mut Value, path: &str) -> Result<Value, String> {
    let (parent, last) = split(path).ok_or("the whole")?;
    match value.pointer_mut(&parent) {
        Some(Value::Object(members)) => members.remove(&last).ok_or("nothing there".to_owned()),
        Some(Value::Array(items)) => {
            let at: usize = last.parse().map_err(|_| "no index")?;
            if at < items.len() { Ok(items.remove(at)) } else { Err("nothing there".to_owned()) }
        }
        _ => Err("no parent".to_owned()),
    }
}

fn ours(text: &str, patch: &str) -> Result<String, String> {
    let patched = apply_json_patch(text.as_bytes(), patch.as_bytes()).map_err(|error| error.to_string())?;
    Ok(String::from_utf8(patched.text).unwrap())
}

fn patch_of(before: &str, after: &str) -> String {
    let read = |text: &str| read_document(Cow::Owned(text.to_owned().into_bytes()), DataFormat::Json).unwrap();
    String::from_utf8(write_json_patch(&read(before), &read(after))).unwrap()
}

/// The examples of RFC 6902, appendix A: a document, a patch, and what comes of it; nothing where it must fail.
#[test]
fn the_examples_of_the_standard_hold() {
    let examples = [
        (
            r#"{"foo": "bar"}"#,
            r#"[{"op": "add", "path": "/baz", "value": "qux"}]"#,
            Some(r#"{"baz": "qux", "foo": "bar"}"#),
        ),
        (
            r#"{"foo": ["bar", "baz"]}"#,
            r#"[{"op": "add", "path": "/foo/1", "value": "qux"}]"#,
            Some(r#"{"foo": ["bar", "qux", "baz"]}"#),
        ),
        (r#"{"baz": "qux", "foo": "bar"}"#, r#"[{"op": "remove", "path": "/baz"}]"#, Some(r#"{"foo": "bar"}"#)),
        (
            r#"{"foo": ["bar", "qux", "baz"]}"#,
            r#"[{"op": "remove", "path": "/foo/1"}]"#,
            Some(r#"{"foo": ["bar", "baz"]}"#),
        ),
        (
            r#"{"baz": "qux", "foo": "bar"}"#,
            r#"[{"op": "replace", "path": "/baz", "value": "boo"}]"#,
            Some(r#"{"baz": "boo", "foo": "bar"}"#),
        ),
        (
            r#"{"foo": {"bar": "baz", "waldo": "fred"}, "qux": {"corge": "grault"}}"#,
            r#"[{"op": "move", "from": "/foo/waldo", "path": "/qux/thud"}]"#,
            Some(r#"{"foo": {"bar": "baz"}, "qux": {"corge": "grault", "thud": "fred"}}"#),
        ),
        (
            r#"{"foo": ["all", "grass", "cows", "eat"]}"#,
            r#"[{"op": "move", "from": "/foo/1", "path": "/foo/3"}]"#,
            Some(r#"{"foo": ["all", "cows", "eat", "grass"]}"#),
        ),
        (
            r#"{"baz": "qux", "foo": ["a", 2, "c"]}"#,
            r#"[{"op": "test", "path": "/baz", "value": "qux"}, {"op": "test", "path": "/foo/1", "value": 2}]"#,
            Some(r#"{"baz": "qux", "foo": ["a", 2, "c"]}"#),
        ),
        (r#"{"baz": "qux"}"#, r#"[{"op": "test", "path": "/baz", "value": "bar"}]"#, None),
        (
            r#"{"foo": "bar"}"#,
            r#"[{"op": "add", "path": "/child", "value": {"grandchild": {}}}]"#,
            Some(r#"{"foo": "bar", "child": {"grandchild": {}}}"#),
        ),
        (
            r#"{"foo": "bar"}"#,
            r#"[{"op": "add", "path": "/baz", "value": "qux", "xyz": 123}]"#,
            Some(r#"{"foo": "bar", "baz": "qux"}"#),
        ),
        (r#"{"foo": "bar"}"#, r#"[{"op": "add", "path": "/baz/bat", "value": "qux"}]"#, None),
        (r#"{"/": 9, "~1": 10}"#, r#"[{"op": "test", "path": "/~01", "value": 10}]"#, Some(r#"{"/": 9, "~1": 10}"#)),
        (r#"{"/": 9, "~1": 10}"#, r#"[{"op": "test", "path": "/~01", "value": "10"}]"#, None),
        (
            r#"{"foo": ["bar"]}"#,
            r#"[{"op": "add", "path": "/foo/-", "value": ["abc", "def"]}]"#,
            Some(r#"{"foo": ["bar", ["abc", "def"]]}"#),
        ),
        (r#"{"a": {"b": 1}}"#, r#"[{"op": "move", "from": "/a", "path": "/a/b"}]"#, None),
        (r#"[1, 2]"#, r#"[{"op": "remove", "path": "/01"}]"#, None),
    ];
    for (text, patch, wanted) in examples {
        let made = ours(text, patch);
        let value = |text: &str| serde_json::from_str::<Value>(text).unwrap();
        assert_eq!(made.as_deref().ok().map(value), wanted.map(value), "{text} {patch}: {made:?}");
    }
}

#[test]
fn what_is_not_touched_stays_as_it_is_written() {
    let text = "{\n    \"name\" : \"quay\",\n    \"levels\": [1.50, 2,   3],\n    \"at\": {\"x\":1, \"y\":2}\n}\n";
    let patch = |operation: &str| ours(text, &format!("[{operation}]")).unwrap();
    assert_eq!(patch(r#"{"op": "replace", "path": "/levels/1", "value": 2.5}"#), text.replace(" 2,   3", " 2.5,   3"));
    assert_eq!(patch(r#"{"op": "add", "path": "/levels/-", "value": 4}"#), text.replace("2,   3]", "2,   3, 4]"));
    assert_eq!(
        patch(r#"{"op": "add", "path": "/unit", "value": {"of": ["level"]}}"#),
        text.replace(
            "\"y\":2}\n",
            "\"y\":2},\n    \"unit\" : {\n        \"of\" : [\n            \"level\"\n        ]\n    }\n"
        )
    );
    assert_eq!(patch(r#"{"op": "remove", "path": "/at/x"}"#), text.replace("\"x\":1, ", ""));
    assert_eq!(patch(r#"{"op": "remove", "path": "/name"}"#), text.replace("\"name\" : \"quay\",\n    ", ""));
    assert_eq!(
        patch(r#"{"op": "move", "from": "/at/y", "path": "/y"}"#),
        text.replace(", \"y\":2}\n", "},\n    \"y\" : 2\n")
    );
    assert_eq!(ours("[]", r#"[{"op": "add", "path": "/0", "value": 1}]"#).unwrap(), "[1]");
}

#[test]
fn a_patch_is_known_by_its_contents_and_refused_with_the_pointer_that_does_not_fit() {
    assert!(is_json_patch(br#" [{"op": "remove", "path": "/a"}]"#));
    for text in ["[]", "{}", "[1]", r#"[{"op": 1}]"#, "--- a\n+++ b\n"] {
        assert!(!is_json_patch(text.as_bytes()), "{text}");
    }
    let refused =
        ours(r#"{"a": {}}"#, r#"[{"op": "add", "path": "/x", "value": 1}, {"op": "remove", "path": "/a/b"}]"#);
    assert_eq!(refused.unwrap_err(), "operation 2 (remove /a/b) does not fit: there is nothing at this path");
    let unknown = ours("{}", r#"[{"op": "swap", "path": "/a"}]"#).unwrap_err();
    assert!(unknown.starts_with("the patch cannot be read: line 1, column 2: `swap` is no operation"), "{unknown}");
}

#[test]
fn what_stands_elsewhere_is_moved_or_copied_where_that_is_shorter() {
    let long = r#"{"interval_s": 300, "notes": "kept in the store room by the north door"}"#;
    let (before, after) = (format!(r#"{{"spare": {long}, "a": 1}}"#), format!(r#"{{"a": 1, "reserve": {long}}}"#));
    assert_eq!(patch_of(&before, &after), "[\n  {\"op\": \"move\", \"from\": \"/spare\", \"path\": \"/reserve\"}\n]\n");
    let twice = format!(r#"{{"spare": {long}, "a": 1, "reserve": {long}}}"#);
    assert_eq!(patch_of(&before, &twice), "[\n  {\"op\": \"copy\", \"from\": \"/spare\", \"path\": \"/reserve\"}\n]\n");
    assert_eq!(
        patch_of(r#"{"a": 60, "b": [1, 2]}"#, r#"{"a": 30, "b": [2]}"#),
        "[\n  {\"op\": \"test\", \"path\": \"/a\", \"value\": 60},\n  {\"op\": \"replace\", \"path\": \"/a\", \"value\": 30},\n  \
         {\"op\": \"test\", \"path\": \"/b/0\", \"value\": 1},\n  {\"op\": \"remove\", \"path\": \"/b/0\"}\n]\n"
    );
    assert_eq!(patch_of(r#"{"a": 1.0, "b": 2}"#, r#"{"b": 2, "a": 1}"#), "", "what means the same needs no patch");
}

/// The examples of RFC 7396, appendix A.
#[test]
fn the_examples_of_merge_patches_hold() {
    let examples = [
        (r#"{"a":"b"}"#, r#"{"a":"c"}"#, r#"{"a":"c"}"#),
        (r#"{"a":"b"}"#, r#"{"b":"c"}"#, r#"{"a":"b","b":"c"}"#),
        (r#"{"a":"b"}"#, r#"{"a":null}"#, "{}"),
        (r#"{"a":"b","b":"c"}"#, r#"{"a":null}"#, r#"{"b":"c"}"#),
        (r#"{"a":["b"]}"#, r#"{"a":"c"}"#, r#"{"a":"c"}"#),
        (r#"{"a":"c"}"#, r#"{"a":["b"]}"#, r#"{"a":["b"]}"#),
        (r#"{"a":{"b":"c"}}"#, r#"{"a":{"b":"d","c":null}}"#, r#"{"a":{"b":"d"}}"#),
        (r#"{"a":[{"b":"c"}]}"#, r#"{"a":[1]}"#, r#"{"a":[1]}"#),
        (r#"["a","b"]"#, r#"["c","d"]"#, r#"["c","d"]"#),
        (r#"{"a":"b"}"#, r#"["c"]"#, r#"["c"]"#),
        (r#"{"a":"foo"}"#, "null", "null"),
        (r#"{"e":null}"#, r#"{"a":1}"#, r#"{"e":null,"a":1}"#),
        ("[1,2]", r#"{"a":"b","c":null}"#, r#"{"a":"b"}"#),
        ("{}", r#"{"a":{"bb":{"ccc":null}}}"#, r#"{"a":{"bb":{}}}"#),
    ];
    for (text, patch, wanted) in examples {
        let made = apply_merge_patch(text.as_bytes(), patch.as_bytes()).unwrap().text;
        let value = |text: &[u8]| serde_json::from_slice::<Value>(text).unwrap();
        assert_eq!(value(&made), value(wanted.as_bytes()), "{text} {patch}");
    }
}

#[test]
fn what_a_merge_patch_cannot_say_is_refused_and_named() {
    let write = |before: &str, after: &str| {
        let read = |text: &str| read_document(Cow::Owned(text.to_owned().into_bytes()), DataFormat::Json).unwrap();
        write_merge_patch(&read(before), &read(after)).map(|bytes| String::from_utf8(bytes).unwrap())
    };
    let refused = |before: &str, after: &str| write(before, after).unwrap_err().to_string();
    assert!(refused(r#"{"a": {"b": 1}}"#, r#"{"a": {"b": null}}"#).starts_with("/a/b is null"));
    assert!(refused(r#"{"a": [1, 2]}"#, r#"{"a": [1, 3]}"#).starts_with("the list /a differs"));
    assert!(refused("[1]", "[2]").contains("is none"));
    let patch = write(r#"{"a": {"b": 1, "c": 2}, "d": [null]}"#, r#"{"a": {"b": 3}, "e": [null]}"#).unwrap();
    let patch: Value = serde_json::from_str(&patch).unwrap();
    assert_eq!(patch, json!({"d": null, "a": {"c": null, "b": 3}, "e": [null]}));
}

fn value() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        (-5_i64..5).prop_map(Value::from),
        "[ab~/\"]{0,3}".prop_map(Value::from),
    ];
    leaf.prop_recursive(4, 30, 5, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..5).prop_map(Value::from),
            prop::collection::btree_map("[ab~/]{0,2}", inner, 0..5)
                .prop_map(|map| Value::Object(map.into_iter().collect())),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    /// A patch that we write turns before into after, by our applier and by the independent one.
    #[test]
    fn a_written_patch_turns_one_into_the_other(before in value(), after in value(), is_pretty in any::<bool>()) {
        let text = |value: &Value| if is_pretty { serde_json::to_string_pretty(value) } else { serde_json::to_string(value) };
        let (one, other) = (text(&before).unwrap(), text(&after).unwrap());
        let patch = patch_of(&one, &other);
        prop_assert_eq!(patch.is_empty(), before == after);
        if patch.is_empty() {
            return Ok(());
        }
        let parsed: Value = serde_json::from_str(&patch).unwrap();
        prop_assert_eq!(applied(before.clone(), &parsed), Ok(after.clone()), "{}", patch);
        let ours = ours(&one, &patch);
        prop_assert!(ours.is_ok(), "{ours:?} {patch}");
        prop_assert_eq!(serde_json::from_str::<Value>(&ours.unwrap()).unwrap(), after, "{} {}", one, patch);
    }

    /// A merge patch does so too, wherever it can say what changes.
    #[test]
    fn a_written_merge_patch_turns_one_into_the_other(before in value(), after in value()) {
        let (one, other) = (before.to_string(), after.to_string());
        let read = |text: &str| read_document(Cow::Owned(text.to_owned().into_bytes()), DataFormat::Json).unwrap();
        if let Ok(patch) = write_merge_patch(&read(&one), &read(&other)) && !patch.is_empty() {
            let made = apply_merge_patch(one.as_bytes(), &patch).unwrap().text;
            prop_assert_eq!(serde_json::from_slice::<Value>(&made).unwrap(), after);
        }
    }

    /// Our applier and the independent one agree on patches of any kind, whether they fit or not.
    #[test]
    fn both_appliers_agree(
        before in value(),
        operations in prop::collection::vec((0..6_u8, "(/[ab01-]{1,2}){0,3}", "(/[ab01]{1,2}){0,2}", value()), 1..4),
    ) {
        let names = ["add", "remove", "replace", "move", "copy", "test"];
        let operations: Vec<Value> = operations
            .into_iter()
            .map(|(name, path, from, value)| json!({"op": names[usize::from(name)], "path": path, "from": from, "value": value}))
            .collect();
        // What the standard forbids, the simple applier does not look for.
        let is_plain = |operation: &Value| {
            let (from, path) = (operation["from"].as_str().unwrap(), operation["path"].as_str().unwrap());
            let is_odd = |step: &str| step.len() > 1 && (step.starts_with('0') || step.contains('-'));
            let ends = path.ends_with("/-") && operation["op"] != "add" || path.contains("-/");
            let is_into_itself = matches!(operation["op"].as_str(), Some("move" | "copy")) && (path.starts_with(from) || path.is_empty());
            !is_into_itself && !ends && !path.is_empty() && !path.split('/').chain(from.split('/')).any(is_odd)
        };
        let operations: Vec<Value> = operations.into_iter().filter(is_plain).collect();
        let patch = Value::from(operations);
        let theirs = applied(before.clone(), &patch);
        let ours = ours(&before.to_string(), &patch.to_string());
        match (&ours, &theirs) {
            (Ok(ours), Ok(theirs)) => prop_assert_eq!(&serde_json::from_str::<Value>(ours).unwrap(), theirs),
            (ours, theirs) => prop_assert_eq!(ours.is_ok(), theirs.is_ok(), "{} {}: {:?} {:?}", before, patch, ours, theirs),
        }
    }
}
