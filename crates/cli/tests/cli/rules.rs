//! What does not count, as the options say it.

use proptest::prelude::*;
use serde_json::Value;

use crate::support::Folder;

const BEFORE: &str = "06:00:00.1 poll\n06:07:13.0 level 3.41\n06:14:26.0 uplink ok\n";
const AFTER: &str = "18:00:00.1 poll\n18:07:13.0 level 4.87\n18:14:26.0 uplink ok\n";

#[test]
fn muted_changes_are_faint_and_counted_apart() {
    let folder = Folder::with(&[("a.log", BEFORE), ("b.log", AFTER)]);
    let ran = folder.run(&["--mute", "timestamps", "a.log", "b.log"]);
    assert_eq!((ran.status, ran.err.as_str()), (Some(1), ""));
    let mut lines = ran.out.lines();
    assert!(lines.next().unwrap().contains("1 change + 2 muted"), "{}", ran.out);
    assert_eq!(lines.next(), Some("  muted 2 lines: timestamps 2"));
    assert!(ran.out.contains("change 1 of 3 · line 1 · muted: timestamps\n"), "{}", ran.out);
    assert!(ran.out.contains(" ◌  1        06:00:00.1 poll\n ◌      1    18:00:00.1 poll\n"), "{}", ran.out);
    let marked = " ○  2        06:07:13.0 level 3.41\n             ..........       ^^^^\n";
    assert!(ran.out.contains(marked), "muted and counted words of one line are told apart:\n{}", ran.out);
    assert!(ran.out.contains("◌ muted: does not count"), "{}", ran.out);

    let hidden = folder.run(&["--counted-only", "--mute", "timestamps", "a.log", "b.log"]);
    assert!(hidden.out.contains("change 1 of 1 · line 2\n"), "{}", hidden.out);
    assert!(hidden.out.contains("muted 2 lines: timestamps 2 (not shown)"), "{}", hidden.out);
    assert!(!hidden.out.contains('◌'), "{}", hidden.out);
}

#[test]
fn ignored_text_is_drawn_as_equal_text_each_side_its_own() {
    let folder = Folder::with(&[("a.log", BEFORE), ("b.log", AFTER)]);
    let stacked = folder.run(&["--ignore", "timestamps", "a.log", "b.log"]);
    assert!(stacked.out.contains("    1   1    18:00:00.1 poll\n"), "{}", stacked.out);
    let beside = folder.run(&["--layout", "beside", "--ignore", "timestamps", "a.log", "b.log"]);
    let row = beside.out.lines().find(|row| row.contains("poll")).unwrap();
    assert!(row.contains("06:00:00.1 poll") && row.contains("18:00:00.1 poll"), "{row}");
    assert!(beside.out.contains("ignored 2 lines: timestamps 2"), "{}", beside.out);
}

#[test]
fn lines_that_are_as_if_not_there_keep_both_sides_in_step() {
    let before = "a = 1\nb = 2\n# one\n# two\nc = 3\nd = 4\n";
    let after = "# zero\na = 1\nb = 2\nc = 3\nd = 5\n";
    let folder = Folder::with(&[("a.py", before), ("b.py", after)]);
    let ran = folder.run(&["--ignore", "comments", "--context", "all", "--no-legend", "a.py", "b.py"]);
    let rows: Vec<&str> = ran.out.lines().skip_while(|row| !row.contains("change 1")).skip(1).collect();
    let wanted = [
        "        1    # zero",
        "    1   2    a = 1",
        "    2   3    b = 2",
        "    3        # one",
        "    4        # two",
        "    5   4    c = 3",
        " ○  6        d = 4",
    ];
    assert_eq!(rows[..wanted.len()], wanted, "{}", ran.out);
    let near = folder.run(&["--ignore", "comments", "--context", "2", "--no-legend", "a.py", "b.py"]);
    assert!(near.out.contains("    4        # two\n    5   4    c = 3\n ○  6        d = 4\n"), "{}", near.out);
}

#[test]
fn the_exit_status_follows_what_counts() {
    let folder = Folder::with(&[("a.log", BEFORE), ("b.log", &BEFORE.replace("06:", "18:")), ("c.log", AFTER)]);
    for options in [&["--mute", "timestamps"][..], &["--ignore", "timestamps"]] {
        for quiet in [&["--quiet"][..], &[]] {
            let run = |other: &str| folder.run(&[options, quiet, &["a.log", other]].concat()).status;
            assert_eq!((run("b.log"), run("c.log")), (Some(0), Some(1)), "{options:?} {quiet:?}");
        }
    }
}

#[test]
fn trees_have_muted_pairs_and_one_account() {
    let folder = Folder::with(&[
        ("one/x.log", BEFORE),
        ("two/x.log", &BEFORE.replace("06:", "18:")),
        ("one/y.log", BEFORE),
        ("two/y.log", AFTER),
        ("one/z.py", "a = 1 # one\n"),
        ("two/z.py", "a = 1 # two\n"),
    ]);
    // Written at one moment, however busy the machine is: neither side is newer.
    for name in ["x.log", "y.log", "z.py"] {
        ["one", "two"].iter().for_each(|side| folder.set_time(&format!("{side}/{name}"), 1000));
    }
    let options = ["--mute", "timestamps", "--ignore", "comments"];
    let ran = folder.run(&[&options[..], &["one", "two"]].concat());
    assert!(ran.out.contains("3 files: 1 same, 1 muted, 1 changed\n"), "{}", ran.out);
    assert!(ran.out.contains("  muted 5 lines: timestamps 5\n  ignored 1 line: comments 1\n"), "{}", ran.out);
    assert!(ran.out.contains("◌ x.log    1 muted, 3 lines\n"), "{}", ran.out);
    assert!(ran.out.contains("◐ y.log    1 change, 1 ○ 1 ● + 2 muted, 2 lines\n"), "{}", ran.out);
    assert_eq!(ran.status, Some(1));
    let counted = folder.run(&[&options[..], &["--counted-only", "--flat", "one", "two"]].concat());
    assert_eq!(counted.out, "y.log\n");
    let quiet = folder.run(&[&options[..], &["--quiet", "--exclude", "y.log", "one", "two"]].concat());
    assert_eq!(quiet.status, Some(0), "nothing is left that counts");
    let each = folder.run(&[&options[..], &["--each-file", "--only", "muted", "one", "two"]].concat());
    assert!(each.out.contains("x.log    one ○  two ●    0 changes + 1 muted"), "{}", each.out);
}

#[test]
fn records_tell_weights_rules_and_what_was_put_aside() {
    let folder = Folder::with(&[("a.py", "a = 1 # x\nb = 2\nc\n"), ("b.py", "a = 3 # y\nb = 2 # z\nc\n\n")]);
    let arguments = ["--json", "--mute", "comments", "--ignore", "blank-lines", "a.py", "b.py"];
    let ran = folder.run(&arguments);
    let records: Vec<Value> = ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let of = |kind: &str| records.iter().filter(|record| record["record"] == kind).cloned().collect::<Vec<_>>();
    let changes = of("change");
    assert_eq!(changes[0]["weight"], "counted");
    assert_eq!(changes[0]["words"][0]["before"][1], serde_json::json!({"text": "1", "changed": true}));
    assert_eq!(
        changes[0]["words"][0]["before"][2],
        serde_json::json!({"text": " # x", "changed": false, "muted": true})
    );
    assert_eq!((&changes[1]["weight"], &changes[1]["rules"][0]), (&"muted".into(), &"comments".into()));
    assert_eq!(of("aside")[0]["after"]["lines"][0], "\n");
    let summary = of("summary").remove(0);
    assert_eq!((&summary["changes"], &summary["muted_changes"]), (&1.into(), &1.into()));
    let put_aside = serde_json::json!([
        {"rule": "blank-lines", "effect": "ignore", "lines": 1},
        {"rule": "comments", "effect": "mute", "lines": 1},
    ]);
    assert_eq!(summary["put_aside"], put_aside);
}

#[test]
fn a_patch_of_what_counts_leaves_the_rest_as_it_was() {
    let folder = Folder::with(&[("a.log", BEFORE), ("b.log", AFTER)]);
    let counted = folder.run(&["patch", "--labels", "a,b", "--counted-only", "--mute", "timestamps", "a.log", "b.log"]);
    assert!(counted.out.contains("-06:07:13.0 level 3.41\n+06:07:13.0 level 4.87\n"), "{}", counted.out);
    assert!(!counted.out.contains("18:"), "{}", counted.out);
    assert_eq!(counted.err, "tideline: not in the patch: muted lines 2: timestamps 2\n");
    let all = folder.run(&["patch", "--labels", "a,b", "--mute", "timestamps", "a.log", "b.log"]);
    assert_eq!(
        (all.out.matches("\n+18:").count(), all.err.as_str()),
        (3, ""),
        "muted changes are in it unless told otherwise"
    );
    let same = folder.run(&["patch", "--counted-only", "--mute", "timestamps,/level .*/", "a.log", "b.log"]);
    assert_eq!((same.status, same.out.as_str()), (Some(0), ""));
}

#[test]
fn what_cannot_be_meant_is_refused() {
    let folder = Folder::with(&[("a", "x\n"), ("b", "y\n")]);
    for (options, reason) in [
        (
            ["--ignore", "comment"],
            "cannot use --ignore comment: `comment` is neither built in nor the name of a rule; did you mean `comments`?",
        ),
        (["--mute", "/a(/"], "the pattern /a(/ is malformed: unclosed group"),
        (["--mute", "/.*/"], "matches everything"),
        (["--ignore", "chars:9-2"], "`chars:9-2` runs backwards"),
        (["--config", "none.toml"], "cannot read the configuration none.toml"),
    ] {
        let ran = folder.run(&[options[0], options[1], "a", "b"]);
        assert_eq!((ran.status, ran.out.as_str()), (Some(2), ""), "{options:?}");
        assert!(ran.err.contains(reason), "{options:?}: {}", ran.err);
    }
    let unused = folder.run(&["--mute", "uuids", "a", "b"]);
    assert_eq!(
        (unused.status, unused.err.as_str()),
        (Some(1), "tideline: note: --mute uuids put nothing aside: it matches in no line that differs\n")
    );
}

/// Applies a patch of one file, in the plainest way.
fn patched(before: &str, patch: &str) -> String {
    let mut result: Vec<&str> = Vec::new();
    let lines: Vec<&str> = before.split_inclusive('\n').collect();
    let mut at = 0;
    for line in patch.split_inclusive('\n').skip(2) {
        if let Some(range) = line.strip_prefix("@@ -") {
            let (start, count) =
                range.split(' ').next().unwrap().split_once(',').unwrap_or((range.split(' ').next().unwrap(), "1"));
            let start = start.parse::<usize>().unwrap() - usize::from(count != "0");
            result.extend(&lines[at..start]);
            at = start;
        } else if let Some(added) = line.strip_prefix('+') {
            result.push(added);
        } else {
            assert_eq!(lines[at], &line[1..], "context and what is gone are lines of BEFORE");
            if line.starts_with(' ') {
                result.push(lines[at]);
            }
            at += 1;
        }
    }
    result.extend(&lines[at..]);
    result.concat()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// A patch of what counts goes into BEFORE exactly, and afterwards nothing differs that counts.
    #[test]
    fn a_patch_of_what_counts_fits_and_is_whole(
        before in prop::collection::vec((0..3_u8, 0..4_u8, 0..2_u8), 1..12),
        after in prop::collection::vec((0..3_u8, 0..4_u8, 0..2_u8), 1..12),
    ) {
        let text = |lines: &[(u8, u8, u8)]| -> String {
            lines.iter().map(|(clock, level, remark)| {
                let remark = if *remark == 0 { String::new() } else { format!(" # {clock}{level}") };
                format!("06:00:0{clock} level {level}{remark}\n")
            }).collect()
        };
        let (before, after) = (text(&before), text(&after));
        let folder = Folder::with(&[("a.py", before.as_str()), ("b.py", after.as_str())]);
        for options in [["--mute", "timestamps", "--ignore", "comments"], ["--ignore", "timestamps", "--mute", "comments"]] {
            let made = folder.run(&[&["patch", "--counted-only", "--context", "1", "a.py", "b.py"], &options[..]].concat());
            let result = patched(&before, &made.out);
            folder.write("c.py", result.as_bytes());
            let left = folder.run(&[&["--quiet", "c.py", "b.py"], &options[..]].concat());
            prop_assert_eq!(left.status, Some(0), "{}\n{}", made.out, result);
        }
    }
}

#[test]
fn long_runs_of_muted_lines_are_folded_and_counted() {
    let lines = |clock: &str| (0..40).map(|at| format!("{clock} level {at}\n")).collect::<String>();
    let folder = Folder::with(&[("one", &lines("10:00:00")), ("two", &lines("10:00:01"))]);
    for layout in ["stacked", "beside", "inline"] {
        let ran = folder.run(&["--mute", "timestamps", "--layout", layout, "--context", "2", "one", "two"]);
        assert!(ran.out.contains(" ◌ 36 more muted lines not shown (--context all shows them)\n"), "{}", ran.out);
        assert!(ran.out.contains("level 1\n") && !ran.out.contains("level 20"), "{}", ran.out);
        let all = folder.run(&["--mute", "timestamps", "--layout", layout, "--context", "all", "one", "two"]);
        assert!(!all.out.contains("not shown") && all.out.contains("level 20"), "{}", all.out);
    }
    let ran = folder.run(&["report", "--mute", "timestamps", "one", "two", "-o", "-", "--format", "html"]);
    assert!(ran.out.contains("<summary>34 muted lines</summary>"), "{}", ran.out);
    assert!(ran.out.contains(" level 20</code>"), "all of it is in the page");
}

#[test]
fn text_that_was_only_wrapped_is_told_apart_in_files_trees_patches_and_reports() {
    let folder = Folder::new();
    let statement = "SELECT station, level FROM levels WHERE station = 7 AND level > 2;\n";
    let lines = statement.replace(' ', "\n");
    folder.write("one/same.sql", statement.as_bytes());
    folder.write("two/same.sql", lines.as_bytes());
    folder.write("one/edited.sql", statement.as_bytes());
    folder.write("two/edited.sql", lines.replace("level\n>\n2", "level\n>\n3").as_bytes());
    let run = |arguments: &[&str]| folder.run(arguments);
    let ignored = run(&["one", "two", "same.sql", "--ignore", "line-breaks"]);
    assert_eq!(ignored.status, Some(0), "{}", ignored.out);
    assert!(ignored.out.contains("ignored 13 lines: line-breaks 13"), "{}", ignored.out);
    let tree = run(&["one", "two", "--mute", "line-breaks"]);
    assert_eq!(tree.status, Some(1));
    assert!(tree.out.contains("◌ same.sql"), "{}", tree.out);
    assert!(tree.out.contains("muted 25 lines: line-breaks 25"), "{}", tree.out);
    let edited = run(&["one", "two", "edited.sql", "--mute", "line-breaks", "--context", "1"]);
    assert!(edited.out.contains(" ◌ 10 more muted lines not shown (--context all shows them)\n"), "{}", edited.out);
    assert!(edited.out.contains("> 2;\n") && edited.out.contains("      ^\n"), "{}", edited.out);
    let patch = run(&["patch", "one", "two", "--mute", "line-breaks", "--counted-only", "--context", "0"]);
    let changed = statement.replace("> 2", "> 3");
    assert!(patch.out.ends_with(&format!("@@ -1 +1 @@\n-{statement}+{changed}")), "{}", patch.out);
    let json = run(&["one/edited.sql", "two/edited.sql", "--mute", "line-breaks", "--json"]);
    assert!(json.out.contains(r#"{"text":"2","changed":true}"#), "{}", json.out);
    for (format, fold) in [("html", "muted lines</summary>"), ("markdown", "more muted line")] {
        let report = run(&["report", "one", "two", "--mute", "line-breaks", "--format", format, "-o", "-"]);
        assert!(report.out.contains(fold), "{format}: {}", report.out);
    }
}

#[test]
fn excluded_lines_inside_a_change_that_counts_are_accounted_for() {
    let folder = Folder::with(&[("one.py", "# c\nx\n"), ("two.py", "# d\ny\n")]);
    let ran = folder.run(&["compare", "--ignore", "comments", "one.py", "two.py"]);
    assert_eq!(ran.status, Some(1));
    assert!(ran.out.contains("ignored 1 line: comments 1"), "{}", ran.out);
    assert_eq!(ran.err, "", "no note that the rule put nothing aside");
}

#[test]
fn letters_are_named_as_a_reason_only_where_their_case_differs() {
    let folder = Folder::with(&[("one.txt", "a  b\nB\n"), ("two.txt", "a b\nb\n")]);
    let explain =
        |line: &str| folder.run(&["explain", "--mute", "case,space-amount", "--line", line, "one.txt", "two.txt"]).out;
    assert!(!explain("before:1").contains("case mutes"), "{}", explain("before:1"));
    assert!(explain("before:2").contains("case mutes which letters are capital"), "{}", explain("before:2"));
}

#[test]
fn a_rule_that_put_nothing_aside_by_itself_says_where_it_matches() {
    let folder = Folder::with(&[("b", "level 12 at 10:00:01\nlow 5\n"), ("a", "level 13 at 10:00:02\nlow 6 mm\n")]);
    // One line is put down to one rule, though it takes both.
    let ran = folder.run(&["--ignore", "numbers,timestamps", "b", "a"]);
    assert!(ran.out.contains("ignored 1 line: numbers 1\n"), "{}", ran.out);
    assert_eq!(
        ran.err,
        "tideline: note: --ignore timestamps put no line aside by itself; it matches in 1 line that differs\n"
    );
    let ran = folder.run(&["--ignore", "uuids", "b", "a"]);
    assert_eq!(ran.err, "tideline: note: --ignore uuids put nothing aside: it matches in no line that differs\n");
    let ran = folder.run(&["--ignore", "/mm/", "b", "a"]);
    assert_eq!(
        ran.err,
        "tideline: note: --ignore /mm/ put no line aside by itself; it matches in 1 line that differs\n"
    );
}

#[test]
fn a_rule_of_the_command_line_can_be_for_some_files_only() {
    let folder =
        Folder::with(&[("b/x.log", "low 1\n"), ("a/x.log", "low 2\n"), ("b/x.txt", "low 1\n"), ("a/x.txt", "low 2\n")]);
    let flat = |options: &[&str]| folder.run(&[options, &["--counted-only", "--flat", "b", "a"]].concat()).out;
    assert_eq!(flat(&["--mute", "*.log: numbers"]), "x.txt\n");
    assert_eq!(flat(&["--ignore", "*.log,*.txt: case,numbers"]), "");
    let told = folder.run(&["--mute", "*.log: numbers", "b", "a"]).out;
    assert!(told.contains("  muted 1 line: *.log: numbers 1\n"), "{told}");
    // A colon alone makes no scope.
    assert_eq!(flat(&["--ignore", "/low: ?/,renamed:x=y"]), "x.log\nx.txt\n");
    let wrong = folder.run(&["--ignore", "*.log: nubmers", "b", "a"]);
    assert!(wrong.err.contains("did you mean `numbers`?"), "{}", wrong.err);
}

#[test]
fn characters_without_an_end_go_to_the_end_of_the_line() {
    let folder = Folder::with(&[("b", "höhe 1 and more\n"), ("a", "höhe 2\n")]);
    assert_eq!(folder.run(&["--ignore", "chars:6-", "b", "a"]).status, Some(0));
    assert_eq!(folder.run(&["--ignore", "chars:7-", "b", "a"]).status, Some(1));
}
