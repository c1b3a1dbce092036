//! Documents compared by what they mean.

use proptest::prelude::*;
use tideline_core::internal::kinds::data::{DataFormat, Document, NodeId, NodeKind, find_node, read_document};
use tideline_core::internal::kinds::{ContentOptions, KindOptions, Tolerance, WantedKind, compare_named};
use tideline_core::internal::model::Kind;
use tideline_core::internal::rules::{Effect, Rule, Rules, What};
use tideline_core::{Comparison, DataPair, Form, Status, Weight};

fn options() -> ContentOptions {
    ContentOptions::default().kind(Some(WantedKind::As(Kind::Data)))
}

fn under(effect: Effect, what: &[&str]) -> ContentOptions {
    let rule = |what: &&str| Rule::new(*what, effect, vec![((*what).to_owned(), What::parse(what, []).unwrap())]);
    options().rules(Rules::new(what.iter().map(rule).collect()))
}

fn pair<'b>(name: &str, before: &'b str, after: &'b str, options: &ContentOptions) -> Box<DataPair<'b>> {
    pair_of((name, name), before, after, options)
}

fn pair_of<'b>(names: (&str, &str), before: &'b str, after: &'b str, options: &ContentOptions) -> Box<DataPair<'b>> {
    let names = (names.0.as_bytes(), names.1.as_bytes());
    match compare_named(names, (before.as_bytes(), after.as_bytes()), options) {
        Comparison::Data(documents) => documents,
        other => panic!("{before:?} and {after:?} are data, not {:?}: {:?}", other.kind(), other.unparsed()),
    }
}

/// The changes: form, path after or before, and the path it came from if that is another.
fn told(pair: &DataPair<'_>) -> Vec<String> {
    let path = |place: &Option<tideline_core::NodePlace>| place.as_ref().map(|place| place.path.clone());
    let line = |change: &tideline_core::NodeChange| {
        let muted = if change.weight == Weight::Muted { " muted" } else { "" };
        let (before, after) = (path(&change.before), path(&change.after));
        let from =
            if change.form == Form::Moved { format!(" from {}", before.clone().unwrap()) } else { String::new() };
        format!("{}{muted} {}{from}", change.form.name(), after.or(before).unwrap())
    };
    pair.found.changes.iter().map(line).collect()
}

fn json(before: &str, after: &str) -> Vec<String> {
    told(&pair("x.json", before, after, &options()))
}

#[test]
fn what_changed_deep_in_lists_of_lists_is_found_there() {
    assert_eq!(json("[[{\"a\": null}]]", "[[{\"a\": 1}]]"), ["edited /0/0/a"]);
    assert_eq!(json("[1, [[{\"a\": 1}]], 3]", "[1, [[{\"a\": 5}]], 3]"), ["edited /1/0/0/a"]);
    // Lists that share nothing are two.
    assert_eq!(json("[1, [2], 3]", "[1, [4], 3]"), ["gone /1", "new /1"]);
}

fn causes(pair: &DataPair<'_>) -> Vec<(String, usize)> {
    pair.found.account.parts().into_iter().map(|part| (part.rule, part.lines)).collect()
}

#[test]
fn what_only_meaning_makes_equal_is_muted_with_its_cause() {
    let (before, after) = (
        r#"{"a": 1, "b": [1, 2.0], "c": {"x": "y", "z": null}}"#,
        "{\"c\":{\"z\":null,\"x\":\"y\"},\n\"b\":[1.0,2],\"a\":1e0}",
    );
    let found = pair("x.json", before, after, &options());
    assert!(told(&found).is_empty());
    assert_eq!(causes(&found), [("key order".to_owned(), 2), ("number spelling".to_owned(), 3)]);
    assert_eq!(Comparison::Data(found).status(false), Status::Muted);
    let spaced = pair("x.json", r#"{"a":"\u00e4"}"#, "{ \"a\": \"ä\" }\n", &options());
    assert_eq!(causes(&spaced), [("layout".to_owned(), 1)]);
}

#[test]
fn a_change_names_its_path_and_its_line() {
    let found = pair(
        "x.json",
        "{\"a\":{\n \"b/c\": [10, 20],\n \"d~\": 1}}",
        "{\"a\":{\n \"b/c\": [10, 21],\n \"e\": true}}",
        &options(),
    );
    assert_eq!(told(&found), ["edited /a/b~1c/1", "gone /a/d~0", "new /a/e"]);
    let lines: Vec<usize> = found.found.changes.iter().map(|change| change.place().unwrap().lines.0).collect();
    assert_eq!(lines, [2, 3, 3]);
    for change in &found.found.changes {
        if let Some(place) = &change.after {
            assert_eq!(find_node(&found.after, &place.path), place.node, "a path leads to its node");
        }
    }
}

#[test]
fn numbers_are_exact_beyond_what_a_machine_counts() {
    assert_eq!(json("[9007199254740993]", "[9007199254740992]"), ["edited /0"]);
    assert_eq!(json("[1e1000]", "[1e1001]"), ["edited /0"]);
    assert!(json("[100000000000000000000000]", "[1e23]").is_empty());
    let near = options().how(KindOptions::default().tolerance(Tolerance::parse("1%")));
    let found = pair("x.json", "[100, 200]", "[100.9, 203]", &near);
    assert_eq!(told(&found), ["edited muted /0", "edited /1"]);
    assert_eq!(causes(&found), [("tolerance 1%".to_owned(), 1)]);
}

#[test]
fn a_text_is_no_number_and_nothing_is_no_null() {
    assert_eq!(json(r#"{"a": 60}"#, r#"{"a": "60"}"#), ["edited /a"]);
    assert_eq!(json(r#"{"a": null}"#, "{}"), ["gone /a"]);
    assert_eq!(json(r#"{"a": []}"#, r#"{"a": {}}"#), ["edited /a"]);
    assert_eq!(json("true", "false"), ["edited "]);
}

#[test]
fn records_are_known_again_by_what_identifies_them() {
    let before = r#"[{"id": 1, "v": "a"}, {"id": 2, "v": "b"}, {"id": 3, "v": "c"}]"#;
    assert_eq!(
        json(before, r#"[{"id": 1, "v": "a"}, {"id": 3, "v": "x"}, {"id": 4, "v": "b"}]"#),
        ["gone /1", "edited /1/v", "new /2"]
    );
    assert_eq!(
        json(before, r#"[{"id": 3, "v": "c"}, {"id": 1, "v": "a"}, {"id": 2, "v": "y"}]"#),
        ["moved /0 from /2", "edited /2/v"]
    );
    let by_place = options().how(KindOptions::default().key(vec!["/at/place".to_owned()]));
    let record = |place: &str, id: usize| format!(r#"{{"at": {{"place": "{place}"}}, "id": {id}}}"#);
    let (old, new) =
        (format!("[{}, {}]", record("x", 1), record("y", 2)), format!("[{}, {}]", record("x", 2), record("y", 3)));
    assert_eq!(told(&pair("x.json", &old, &new, &by_place)), ["edited /0/id", "edited /1/id"]);
    assert_eq!(json(&old, &new), ["gone /0", "edited /0/at/place", "new /1"], "by its id it is another");
}

#[test]
fn other_lists_are_aligned_and_their_items_paired_by_what_they_share() {
    assert_eq!(json("[1, 2, 3, 4]", "[1, 3, 4, 5]"), ["gone /1", "new /3"]);
    assert_eq!(json("[1, 2, 3]", "[1, 9, 3]"), ["edited /1"]);
    assert_eq!(json(r#"["a", "b", "c"]"#, r#"["c", "a", "b"]"#), ["moved /0 from /2"]);
    let (old, new) = (r#"[{"x": 1, "y": 2, "z": 3}]"#, r#"[{"n": 0}, {"x": 1, "y": 2, "z": 4}]"#);
    assert_eq!(json(old, new), ["new /0", "edited /1/z"]);
}

#[test]
fn a_branch_that_stands_elsewhere_under_another_name_moved() {
    let (old, new) = (r#"{"a": {"k": 1, "l": [1, 2]}, "z": 0}"#, r#"{"b": {"in": {"l": [1, 2], "k": 1}}, "z": 0}"#);
    assert_eq!(json(old, new), ["gone /a", "new /b"], "what it is in came with it");
    let (old, new) =
        (r#"{"a": {"k": 1, "l": [1, 2]}, "b": {"x": 0}}"#, r#"{"b": {"x": 0, "n": {"l": [1, 2], "k": 1}}}"#);
    assert_eq!(json(old, new), ["moved /b/n from /a"]);
    assert_eq!(json(r#"{"a": 1}"#, r#"{"b": 1}"#), ["gone /a", "new /b"], "a 1 is not known again");
}

#[test]
fn one_format_is_compared_with_another() {
    let yaml = "name: quay\nlevels: [1.50, 2]\non: true\nnote: >\n  two\n  lines\nnone: ~\nhex: 0x1F\n";
    let same = r#"{"on": true, "name": "quay", "levels": [1.5, 2], "note": "two lines\n", "none": null, "hex": 31}"#;
    let found = pair_of(("a.yaml", "b.json"), yaml, same, &options());
    assert!(told(&found).is_empty(), "{:?}", told(&found));
    let toml = "name = \"quay\"\nlevels = [1.50, 2]\non = true\nhex = 0x1F\n[note]\nat = 2026-03-01\n";
    let found = pair_of(("a.toml", "b.json"), toml, same, &options());
    assert_eq!(told(&found), ["new /none", "edited /note"], "a map became a text");
}

#[test]
fn yaml_is_read_with_its_anchors_tags_and_documents() {
    let yaml = |before: &str, after: &str| told(&pair("x.yaml", before, after, &options()));
    let (anchored, written_out) = ("a: &x {k: 1}\nb: *x\n", "a: {k: 1}\nb:\n  k: 1\n");
    assert!(yaml(anchored, written_out).is_empty());
    assert_eq!(yaml(anchored, "a: &x {k: 1}\nb: {k: 2}\n"), ["edited /b/k"]);
    assert_eq!(yaml("a: !Ref x\n", "a: x\n"), ["edited /a"]);
    assert!(yaml("a: !!str 1\n", "a: \"1\"\n").is_empty());
    assert_eq!(yaml("a: 007\n", "a: \"007\"\n"), ["edited /a"]);
    assert_eq!(yaml("a: 1\n---\na: 2\n", "a: 1\n---\na: 3\n"), ["edited /1/a"]);
    let loose = "a:\n  b: [\n    1, # ä\n    2 # two\n  ]\n  c: {\n    d: \"}\"\n  }\n";
    assert!(yaml(loose, "a: {b: [1, 2], c: {d: '}'}}\n").is_empty(), "a bracket may stand below its key");
    let comments = pair("x.yaml", "a: 1 # one\n# two\n", "a: 1 # other\n", &options());
    assert!(told(&comments).is_empty());
    assert_eq!(causes(&comments), [("comments".to_owned(), 2)]);
    let count = options().how(KindOptions::default().comments_count(Some(true)));
    assert_eq!(told(&pair("x.toml", "a = 1 # one\n", "a = 1 # two\n", &count)), ["edited /a"]);
}

#[test]
fn xml_is_read_by_names_whatever_the_order_of_attributes_and_the_indentation() {
    let xml = |before: &str, after: &str| told(&pair("x.xml", before, after, &options()));
    let before = "<t:a xmlns:t=\"urn:x\" k=\"1\" l=\"2\"><t:b>text</t:b></t:a>";
    assert!(xml(before, "<a xmlns=\"urn:x\" l=\"2\" k=\"1\">\n  <b>\n    text\n  </b>\n</a>\n").is_empty());
    assert_eq!(xml(before, "<a l=\"2\" k=\"1\"><b>text</b></a>"), ["edited /a"], "another namespace is another name");
    assert_eq!(xml("<a k='1'/>", "<a k='2'/>"), ["edited /a/@k"]);
    assert_eq!(xml("<p>one <b>two</b> three</p>", "<p>one <b>two</b>  three</p>"), ["edited /p/text()[2]"]);
    assert!(xml("<a>&lt;&#65;</a>", "<a><![CDATA[<A]]></a>").is_empty());
    assert_eq!(xml("<a><!-- x --></a>", "<a/>"), ["gone /a/comment()"]);
    let left_out = under(Effect::Ignore, &["comments"]);
    assert!(told(&pair("x.xml", "<a><!-- x --><b/></a>", "<a><b/></a>", &left_out)).is_empty());
    let before = "<l><s id='a'><v>1</v></s><s id='b'><v>2</v></s></l>";
    assert_eq!(xml(before, "<l><s id='b'><v>2</v></s><s id='a'><v>3</v></s></l>").len(), 2, "one moved, one edited");
}

#[test]
fn rules_name_paths_and_text_rules_hold_inside_values() {
    let (before, after) = (
        r#"{"meta": {"at": 1, "by": "x"}, "log": "seen 2026-03-01T10:00:00Z", "name": "Quay"}"#,
        r#"{"meta": {"at": 2, "by": "y"}, "log": "seen 2026-09-01T10:00:00Z", "name": "quay"}"#,
    );
    let all = under(Effect::Ignore, &["path:/meta/*", "timestamps", "case"]);
    let found = pair("x.json", before, after, &all);
    assert!(told(&found).is_empty(), "{:?}", told(&found));
    let parts = [("case", 1), ("path:/meta/*", 2), ("timestamps", 1)];
    assert_eq!(causes(&found), parts.map(|(rule, count)| (rule.to_owned(), count)));
    assert_eq!(Comparison::Data(found).status(false), Status::Same);
    let muted = pair("x.json", before, after, &under(Effect::Mute, &["path:/meta"]));
    assert_eq!(told(&muted), ["edited muted /meta/at", "edited muted /meta/by", "edited /log", "edited /name"]);
    let xml = under(Effect::Ignore, &["path:/l/s/@made"]);
    assert!(told(&pair("x.xml", "<l><s made='1'/><s/></l>", "<l><s made='2'/><s/></l>", &xml)).is_empty());
}

#[test]
fn what_is_no_document_is_text_and_says_where_it_fails() {
    let wrong = [
        ("x.json", "{\"a\": 1,}", 1, 9),
        ("x.json", "{\"a\": 01}", 1, 7),
        ("x.json", "[\n\"\\x\"]", 2, 2),
        ("x.json", "[\"\\ud800\"]", 1, 3),
        ("x.json", "[1] 2 x", 1, 5),
        ("x.yaml", "a: [1\nb: 2\n", 2, 2),
        ("x.toml", "a = 1\na = 2\n", 2, 1),
        ("x.xml", "<a>\n<b></a>", 2, 4),
        ("x.xml", "<a/><b/>", 1, 5),
        ("x.json", "", 1, 1),
    ];
    for (name, text, line, column) in wrong {
        let found = compare_named((b"x.json", name.as_bytes()), (b"{}", text.as_bytes()), &options());
        let unparsed = found.unparsed().unwrap_or_else(|| panic!("{text:?} is read"));
        assert!(unparsed.is_fatal && !unparsed.is_before);
        assert_eq!(unparsed.place, Some((line, column)), "{text:?}: {}", unparsed.reason);
        assert_eq!(found.kind(), Kind::Text);
    }
    let auto = ContentOptions::default().kind(Some(WantedKind::Auto));
    let found = compare_named((b"x", b"x"), (b"[section]\na=1\n", b"[section]\na=2\n"), &auto);
    assert_eq!((found.kind(), found.unparsed()), (Kind::Text, None), "a guess that fails is no failure");
}

#[test]
fn depth_and_expansion_are_bounded() {
    let deep = |depth: usize| "[".repeat(depth) + &"]".repeat(depth);
    assert!(read_document(deep(150).into_bytes().into(), DataFormat::Json).is_ok());
    let failure = read_document(deep(100_000).into_bytes().into(), DataFormat::Json).unwrap_err();
    assert_eq!(failure.reason, "more than 200 levels of nesting");
    let xml = "<a>".repeat(1000) + &"</a>".repeat(1000);
    assert!(read_document(xml.into_bytes().into(), DataFormat::Xml).is_err());
    let mut laughs = "a0: &a0 [x, x, x, x, x, x, x, x, x]\n".to_owned();
    for at in 1..12 {
        let repeated = vec![format!("*a{}", at - 1); 9].join(", ");
        laughs.push_str(&format!("a{at}: &a{at} [{repeated}]\n"));
    }
    let failure = read_document(laughs.into_bytes().into(), DataFormat::Yaml).unwrap_err();
    assert!(failure.reason.contains("too large"), "{}", failure.reason);
    let entities = "<!DOCTYPE a [<!ENTITY b \"bbbb\"><!ENTITY c \"&b;&b;\">]><a>&c;</a>";
    let read = read_document(entities.as_bytes().into(), DataFormat::Xml).unwrap();
    let text = (0..read.len()).find(|node| read.kind(*node) == NodeKind::Text).unwrap();
    assert_eq!(read.value(text), "&c;", "what a document declares is never expanded");
}

#[test]
fn keys_that_stand_in_a_map_twice_are_told() {
    let found = pair("x.json", "{\"a\": 1,\n\"a\": 2}", "{\"a\": 2}", &options());
    let told: Vec<(String, usize)> = found.before.duplicates().iter().map(|key| (key.key.clone(), key.line)).collect();
    assert_eq!(told, [("a".to_owned(), 2)]);
}

/// A value, for random documents.
#[derive(Clone, Debug)]
enum Json {
    Word(&'static str),
    Number(i64, u8),
    Text(String),
    List(Vec<Json>),
    Map(Vec<(String, Json)>),
}

fn value() -> impl Strategy<Value = Json> {
    let leaf = prop_oneof![
        prop::sample::select(vec!["null", "true", "false"]).prop_map(Json::Word),
        (-1000_i64..1000, 0..3_u8).prop_map(|(number, places)| Json::Number(number, places)),
        "[a-zä\"\\\\ /~:#-]{0,6}".prop_map(Json::Text),
    ];
    leaf.prop_recursive(4, 40, 5, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..5).prop_map(Json::List),
            prop::collection::btree_map("[a-f~/]{1,3}", inner, 0..5)
                .prop_map(|map| Json::Map(map.into_iter().collect())),
        ]
    })
}

fn quoted(text: &str) -> String {
    format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""))
}

/// Writes a value; where it is shuffled, keys run backwards, numbers are spelled otherwise, and there is white space.
fn written(value: &Json, is_shuffled: bool) -> String {
    let space = if is_shuffled { "\n  " } else { "" };
    match value {
        Json::Word(word) => (*word).to_owned(),
        Json::Number(number, places) if is_shuffled => format!("{number}.{}e0", "0".repeat(usize::from(*places) + 1)),
        Json::Number(number, _) => number.to_string(),
        Json::Text(text) => quoted(text),
        Json::List(items) => {
            let items: Vec<String> = items.iter().map(|item| written(item, is_shuffled)).collect();
            format!("[{space}{}{space}]", items.join(&format!(",{space}")))
        }
        Json::Map(members) => {
            let mut members: Vec<String> = members
                .iter()
                .map(|(key, value)| format!("{}:{space}{}", quoted(key), written(value, is_shuffled)))
                .collect();
            if is_shuffled {
                members.reverse();
            }
            format!("{{{space}{}{space}}}", members.join(","))
        }
    }
}

/// The paths of all leaves of a document.
fn leaves(document: &Document<'_>, node: NodeId, path: &str, found: &mut Vec<(String, NodeId)>) {
    if !document.kind(node).is_branch() {
        found.push((path.to_owned(), node));
    }
    for (at, child) in document.children(node).enumerate() {
        let step = document.key(child).map_or_else(|| at.to_string(), |key| key.replace('~', "~0").replace('/', "~1"));
        leaves(document, child, &format!("{path}/{step}"), found);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    /// Equal by meaning is equal under every shuffling, in JSON and as YAML, of which JSON is a part.
    #[test]
    fn shuffled_documents_mean_the_same(value in value()) {
        let (plain, shuffled) = (written(&value, false), written(&value, true));
        for names in [("a.json", "b.json"), ("a.json", "b.yaml")] {
            let found = pair_of(names, &plain, &shuffled, &options());
            prop_assert!(told(&found).is_empty(), "{plain} and {shuffled}: {:?}", told(&found));
            let comparison = Comparison::Data(found);
            prop_assert!(matches!(comparison.status(plain == shuffled), Status::Same | Status::Muted));
        }
    }

    /// One leaf that is written anew is one edit, at its path, and nothing else.
    #[test]
    fn an_edit_comes_back_as_that_edit(value in value(), pick in any::<prop::sample::Index>()) {
        let before = written(&value, false);
        let document = read_document(before.clone().into_bytes().into(), DataFormat::Json).unwrap();
        let mut all = Vec::new();
        leaves(&document, 0, "", &mut all);
        prop_assume!(!all.is_empty());
        let (path, node) = pick.get(&all).clone();
        let mut after = before.clone();
        after.replace_range(document.span(node), "\"a value of its own\"");
        let found = pair("x.json", &before, &after, &options());
        let changes = told(&found);
        let is_in_list = path.rsplit('/').next().is_some_and(|step| step.parse::<usize>().is_ok());
        // In a list, equal neighbours may stand for each other.
        prop_assert!(changes == [format!("edited {path}")] || is_in_list && changes.len() <= 2, "{before} {after} {changes:?}");
    }

    /// The sides exchanged give the mirrored result.
    #[test]
    fn mirrored_documents_mirror(one in value(), other in value()) {
        let (one, other) = (written(&one, false), written(&other, true));
        let there = pair("x.json", &one, &other, &options());
        let back = pair("x.json", &other, &one, &options());
        prop_assert_eq!(there.found.changes.len(), back.found.changes.len());
        let sides = |change: &tideline_core::NodeChange, is_back: bool| {
            let (one, other) = (format!("{:?}", change.before), format!("{:?}", change.after));
            (if is_back { (other, one) } else { (one, other) }, change.weight == Weight::Muted)
        };
        let mut forth: Vec<_> = there.found.changes.iter().map(|change| sides(change, false)).collect();
        let mut mirrored: Vec<_> = back.found.changes.iter().map(|change| sides(change, true)).collect();
        forth.sort_unstable();
        mirrored.sort_unstable();
        prop_assert_eq!(forth, mirrored);
        prop_assert_eq!(&there.found.account, &back.found.account);
    }

    /// A document differs from another exactly if it means something else.
    #[test]
    fn documents_are_equal_only_if_they_mean_the_same(one in value(), other in value()) {
        let same = written(&one, true) == written(&other, true);
        let (one, other) = (written(&one, false), written(&other, false));
        prop_assert_eq!(json(&one, &other).is_empty(), same, "{} and {}", one, other);
    }

    /// No input of any format breaks the reader, and places lie in the text.
    #[test]
    fn any_text_is_read_or_refused(text in "[a-c0-9{}\\[\\]<>/=\"':,&*!|>#\\-? \\n\\t~%@\\\\äü]{0,60}") {
        for format in [DataFormat::Json, DataFormat::JsonLines, DataFormat::Yaml, DataFormat::Toml, DataFormat::Xml] {
            if let Ok(document) = read_document(text.clone().into_bytes().into(), format) {
                for node in 0..document.len() {
                    let span = document.span_with_key(node);
                    prop_assert!(span.start <= span.end && span.end <= text.len(), "{format:?} {text:?} {span:?}");
                    prop_assert!(text.is_char_boundary(span.start) && text.is_char_boundary(span.end));
                }
            }
        }
    }
}
