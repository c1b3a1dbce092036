//! `tideline patch` on two folders, read back by a reader of its own.

use std::collections::BTreeMap;
use std::fs;

use proptest::prelude::*;

use crate::support::Folder;

type Files = BTreeMap<String, String>;

fn files() -> impl Strategy<Value = Files> {
    let path = prop::sample::select(vec!["a", "b", "c/d", "c/e f", "c/g/h", "höhe", "x.y"]);
    let line = prop::sample::select(vec!["one\n", "two\n", "three\n", "\n", "--- a/b\n", "no end"]);
    let text = prop::collection::vec(line, 1..12).prop_map(|lines| lines.concat());
    prop::collection::btree_map(path, text, 0..6)
        .prop_map(|files| files.into_iter().map(|(path, text)| (path.to_owned(), text)).collect())
}

/// Carries a patch of a tree out on its files, insisting on every hunk's counts and lines.
fn carried_out(mut files: Files, patch: &str) -> Files {
    let rows: Vec<&str> = patch.split_inclusive('\n').collect();
    let mut at = 0;
    while at < rows.len() {
        let name = |row: &str, mark: &str, side: &str| {
            let name = row.strip_prefix(mark).expect("a header line").trim_end_matches('\n');
            // A tab ends a name with blanks in it.
            let name = name.strip_suffix('\t').unwrap_or(name);
            if name == "/dev/null" { None } else { Some(name.strip_prefix(side).unwrap().to_owned()) }
        };
        let (before, after) = (name(rows[at], "--- ", "old/"), name(rows[at + 1], "+++ ", "new/"));
        at += 2;
        let text = before.as_ref().map(|path| files.remove(path).expect("the file is there")).unwrap_or_default();
        let old: Vec<&str> = text.split_inclusive('\n').collect();
        let (mut result, mut taken) = (String::new(), 0);
        while at < rows.len() && rows[at].starts_with("@@ ") {
            let ranges: Vec<(usize, usize)> = rows[at].split(' ').skip(1).take(2).map(range).collect();
            at += 1;
            let first = if ranges[0].1 == 0 { ranges[0].0 } else { ranges[0].0 - 1 };
            result.extend(old[taken..first].iter().copied());
            taken = first;
            let (mut seen_old, mut seen_new) = (0, 0);
            while seen_old < ranges[0].1 || seen_new < ranges[1].1 {
                let unended = rows.get(at + 1).is_some_and(|row| row.starts_with("\\ "));
                let line = if unended { rows[at][1..].trim_end_matches('\n') } else { &rows[at][1..] };
                let mark = rows[at].as_bytes()[0];
                if mark != b'+' {
                    assert_eq!(old[taken], line);
                    (taken, seen_old) = (taken + 1, seen_old + 1);
                }
                if mark != b'-' {
                    result.push_str(line);
                    seen_new += 1;
                }
                at += if unended { 2 } else { 1 };
            }
        }
        result.extend(old[taken..].iter().copied());
        match after {
            Some(path) => drop(files.insert(path, result)),
            None => assert_eq!(result, "", "a deleted file is deleted whole"),
        }
    }
    files
}

fn range(text: &str) -> (usize, usize) {
    let (start, count) = text[1..].split_once(',').unwrap_or((&text[1..], "1"));
    (start.parse().unwrap(), count.parse().unwrap())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn the_patch_of_random_trees_makes_after_of_before(before in files(), after in files()) {
        let folder = Folder::new();
        for (root, files) in [("before", &before), ("after", &after)] {
            fs::create_dir(folder.path().join(root)).unwrap();
            for (path, text) in files {
                folder.write(&format!("{root}/{path}"), text.as_bytes());
            }
        }
        let ran = folder.run(&["patch", "--labels", "old,new", "before", "after"]);
        prop_assert_eq!(ran.err, "");
        prop_assert_eq!(ran.status, Some(i32::from(before != after)));
        prop_assert_eq!(carried_out(before, &ran.out), after);
    }
}

#[test]
fn what_the_format_cannot_carry_is_named_and_counted() {
    let folder = Folder::with(&[("a/x", "1\n"), ("b/x", "2\n"), ("b/empty", "")]);
    folder.write("a/chart", b"\0\x01");
    folder.write("b/chart", b"\0\x02");
    #[cfg(unix)]
    std::os::unix::fs::symlink("x", folder.path().join("b/link")).unwrap();
    let ran = folder.run(&["patch", "a", "b"]);
    assert_eq!(ran.status, Some(1));
    for line in [
        "chart: not text",
        "empty: an empty file",
        "link: link",
        "files in the patch: 1; differences it cannot carry: 3",
    ] {
        assert!(ran.err.contains(line), "{line}: {}", ran.err);
    }
    assert!(ran.out.starts_with("--- a/x\t") && ran.out.contains("\n+++ b/x\t"), "{}", ran.out);
    assert_eq!(ran.out.matches("@@").count(), 2);
}

#[test]
fn created_and_deleted_files_have_no_other_side() {
    let folder = Folder::with(&[("a/old", "1\n"), ("b/new", "1\n"), ("a/kept", "k\n"), ("b/kept", "k\n")]);
    let ran = folder.run(&["patch", "--labels", "a,b", "a", "b"]);
    let expected = "--- /dev/null\n+++ b/new\n@@ -0,0 +1 @@\n+1\n--- a/old\n+++ /dev/null\n@@ -1 +0,0 @@\n-1\n";
    assert_eq!(ran.out, expected);
    let stamped = folder.run(&["patch", "a", "b"]).out;
    assert!(stamped.contains("--- /dev/null\t1970-01-01 00:00:00.000000000 +0000\n"), "{stamped}");
}

#[test]
fn trees_given_by_absolute_paths_get_names_that_can_be_followed() {
    let folder = Folder::with(&[("w/old/x", "one\n"), ("w/new/x", "two\n"), ("w/new/d/y", "new\n")]);
    let at = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let made = folder.run(&["patch", &at("w/old"), &at("w/new")]);
    let names = |mark: &str| -> Vec<String> {
        let rows = made.out.lines().filter_map(|row| row.strip_prefix(mark));
        rows.map(|row| row.split('\t').next().unwrap().to_owned()).collect()
    };
    assert_eq!(names("--- "), ["/dev/null", "old/x"]);
    assert_eq!(names("+++ "), ["new/d/y", "new/x"]);
    folder.write("p.patch", made.out.as_bytes());
    let ran = folder.run(&["apply", "--into", "w/old", "p.patch"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    assert_eq!(folder.run(&["compare", "--quiet", "w/old", "w/new"]).status, Some(0));
}
