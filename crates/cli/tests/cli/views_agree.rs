//! Every command and every form of output tells the same of a pair under the same rules.

use proptest::prelude::*;
use proptest::test_runner::RngSeed;
use serde_json::Value;

use crate::support::Folder;

const RULES: [&str; 12] = [
    "case",
    "space",
    "edge-space",
    "space-amount",
    "blank-lines",
    "line-ends",
    "final-newline",
    "comments",
    "trailing-punctuation",
    "timestamps",
    "numbers",
    "line-breaks",
];

fn text() -> impl Strategy<Value = String> {
    let piece = prop::sample::select(vec!["a", "B", "b", " ", "  ", "# c", "x", ";", "06:07:08", "4", "12"]);
    let end = prop::sample::select(vec!["\n", "\n", "\r\n", "\n\n", ""]);
    prop::collection::vec((prop::collection::vec(piece, 0..4), end), 0..6)
        .prop_map(|lines| lines.into_iter().map(|(pieces, end)| pieces.concat() + end).collect())
}

fn some_rules() -> impl Strategy<Value = Vec<&'static str>> {
    prop::sample::subsequence(RULES.to_vec(), 0..3)
}

/// The records of one kind, without what tells when and where.
fn records(json: &str, kind: &str) -> Vec<Value> {
    let mut records: Vec<Value> = json.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    records.retain(|record: &Value| record["record"] == kind);
    for record in &mut records {
        for side in ["before", "after"] {
            if let Some(side) = record[side].as_object_mut() {
                side.retain(|key, _| ["line", "lines"].contains(&key.as_str()));
            }
        }
    }
    records
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, rng_seed: RngSeed::Fixed(5), ..ProptestConfig::default() })]

    #[test]
    fn all_views_tell_the_same(before in text(), after in text(), ignore in some_rules(), mute in some_rules()) {
        let list = |rules: &[&str]| rules.iter().map(|rule| format!("\"{rule}\"")).collect::<Vec<_>>().join(", ");
        let saved = format!(
            "[saved.pair]\nbefore = \"one\"\nafter = \"two\"\nignore = [{}]\nmute = [{}]\n", list(&ignore), list(&mute)
        );
        let folder = Folder::with(&[("one/a.py", &before), ("two/a.py", &after), ("tideline.toml", &saved)]);
        let rules: Vec<&str> = ignore.iter().flat_map(|rule| ["--ignore", rule]).chain(mute.iter().flat_map(|rule| ["--mute", rule])).collect();
        let run = |arguments: &[&str]| folder.run(&[arguments, &rules].concat());

        let json = run(&["compare", "--json", "one/a.py", "two/a.py"]);
        let differs = json.status == Some(1);
        let summary = &records(&json.out, "summary")[0];
        prop_assert_eq!(summary["changes"] != 0, differs);
        let weighed = |weight: &str| records(&json.out, "change").iter().filter(|change| change["weight"] == weight).count();
        prop_assert_eq!(&summary["changes"], weighed("counted"));
        prop_assert_eq!(&summary["muted_changes"], weighed("muted"));

        // The exit status of everything that compares.
        for arguments in [
            ["compare", "one/a.py", "two/a.py"].as_slice(),
            &["compare", "--quiet", "one/a.py", "two/a.py"],
            &["compare", "--quiet", "one", "two"],
            &["compare", "one", "two"],
            &["compare", "--each-file", "one", "two"],
        ] {
            prop_assert_eq!(run(arguments).status, json.status, "{:?}", arguments);
        }
        prop_assert_eq!(folder.run(&["saved", "pair", "--quiet"]).status, json.status);
        let flat = run(&["compare", "--flat", "--counted-only", "one", "two"]);
        prop_assert_eq!((flat.status, flat.out.as_str()), (json.status, if differs { "a.py\n" } else { "" }));
        let patch = run(&["patch", "--counted-only", "one", "two"]);
        prop_assert_eq!(!patch.out.is_empty(), differs, "{}", patch.out);

        // Records of two files, of two folders, of a saved comparison and of a report.
        let of_folders = run(&["compare", "--json", "--each-file", "one", "two"]);
        let saved = folder.run(&["saved", "pair", "--json", "--each-file"]);
        let report = run(&["report", "-o", "-", "--format", "json", "one", "two"]);
        let report: Value = serde_json::from_str(&report.out).unwrap();
        let report: Vec<String> = report["records"].as_array().unwrap().iter().map(Value::to_string).collect();
        for kind in ["pair", "change", "summary"] {
            // A pair that is the same is not listed among those of folders.
            let listed = |record: &Value| kind != "pair" || record["status"] != "same";
            let wanted: Vec<Value> = records(&json.out, kind).into_iter().filter(listed).collect();
            for (name, out) in [("folders", &of_folders.out), ("saved", &saved.out), ("report", &report.join("\n"))] {
                prop_assert_eq!(&records(out, kind), &wanted, "{} records of {}", kind, name);
            }
        }

        // A rule that put lines aside matches something in one of the files; these three look at both.
        for aside in summary["put_aside"].as_array().into_iter().flatten() {
            let rule = aside["rule"].as_str().unwrap();
            let matches = |file: &str| {
                let tested = run(&["rules", "test", file]).out;
                tested.lines().any(|line| {
                    let told = line.split_once(&format!(" {rule} ")).map_or("", |(_, told)| told);
                    told.contains("match") && (!told.contains(": 0 matches") || told.contains("gone"))
                })
            };
            let of_both = ["case", "final-newline", "line-breaks"].contains(&rule);
            prop_assert!(of_both || matches("one/a.py") || matches("two/a.py"), "{}: {:?} and {:?}", rule, before, after);
        }

        // What explains the lines of a change says what the change weighs.
        for change in records(&json.out, "change") {
            let number = change["number"].to_string();
            let explained = run(&["explain", "--change", &number, "one/a.py", "two/a.py"]).out;
            let says = |word: &str| explained.contains(&format!(": {word} (change"));
            prop_assert_eq!(says("counted") || says("counts"), change["weight"] == "counted", "{}{}", explained, change);
        }
    }
}
