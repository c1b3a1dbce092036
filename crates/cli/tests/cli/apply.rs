//! `apply`, `show`, `runs`, `undo`

use std::fs;
use std::os::unix::fs::{PermissionsExt, symlink};
use std::time::{Duration, SystemTime};

use proptest::prelude::*;
use serde_json::Value;

use crate::support::Folder;

const TEN: &str = "one\ntwo\nthree\nfour\nfive\nsix\nseven\neight\nnine\nten\n";
const FIVE: &str = "--- a/x\n+++ b/x\n@@ -2,7 +2,7 @@\n two\n three\n four\n-five\n+5\n six\n seven\n eight\n";

fn text(folder: &Folder, name: &str) -> String {
    String::from_utf8(folder.read(name)).unwrap()
}

/// Everything below the folder but the state and the configuration, with permissions.
fn contents(folder: &Folder) -> Vec<(String, Vec<u8>, u32)> {
    let mut found = Vec::new();
    let mut folders = vec![folder.path().to_path_buf()];
    while let Some(inner) = folders.pop() {
        for entry in fs::read_dir(inner).unwrap().map(Result::unwrap) {
            let path = entry.path();
            let name = path.strip_prefix(folder.path()).unwrap().to_string_lossy().into_owned();
            if name.starts_with(".state") {
                continue;
            }
            let metadata = path.symlink_metadata().unwrap();
            if metadata.is_dir() {
                folders.push(path);
            } else if metadata.is_file() {
                found.push((name, fs::read(&path).unwrap(), metadata.permissions().mode() & 0o777));
            }
        }
    }
    found.sort();
    found
}

#[test]
fn a_patch_goes_in_where_it_belongs_and_comes_out_again() {
    let folder = Folder::with(&[("x", &format!("zero\n{TEN}")), ("fix.patch", FIVE)]);
    fs::set_permissions(folder.path().join("x"), fs::Permissions::from_mode(0o640)).unwrap();
    let ran = folder.run(&["apply", "fix.patch"]);
    let wanted = "applying fix.patch, 1 leading folder dropped from its names\n  ◐ x    1 hunk\n      hunk 1, line 3 of the patch · at line 3: 1 line lower than written\nfiles: 1 changed (run 1; `tideline undo` puts it back)\n";
    assert_eq!((ran.status, ran.out.as_str(), ran.err.as_str()), (Some(0), wanted, ""));
    assert_eq!(text(&folder, "x"), format!("zero\n{}", TEN.replace("five", "5")));
    assert_eq!(fs::metadata(folder.path().join("x")).unwrap().permissions().mode() & 0o777, 0o640);
    let again = folder.run(&["apply", "fix.patch"]);
    assert_eq!(again.status, Some(0));
    assert!(again.out.ends_with("  ◌ x    already applied: nothing to do\n      hunk 1, line 3 of the patch · at line 3: already applied\nalready applied: nothing to do\n"), "{}", again.out);
    let back = folder.run(&["apply", "--reverse", "fix.patch"]);
    assert_eq!(back.status, Some(0), "{}", back.out);
    assert_eq!(text(&folder, "x"), format!("zero\n{TEN}"));
}

#[test]
fn undo_puts_back_bytes_permissions_and_times_and_can_be_undone() {
    let folder = Folder::with(&[("x", TEN), ("fix.patch", FIVE)]);
    let time = SystemTime::UNIX_EPOCH + Duration::new(1_900_000_000, 123_000_000);
    fs::File::options().append(true).open(folder.path().join("x")).unwrap().set_modified(time).unwrap();
    folder.run(&["apply", "fix.patch"]);
    let undone = folder.run(&["undo"]);
    assert_eq!(
        undone.out,
        "undone: run 1 (tideline apply fix.patch) in this folder\n1 path is as before (run 2; `tideline undo 2` takes this back)\n"
    );
    assert_eq!(text(&folder, "x"), TEN);
    assert_eq!(fs::metadata(folder.path().join("x")).unwrap().modified().unwrap(), time);
    folder.run(&["undo", "2"]);
    assert!(text(&folder, "x").contains("\n5\n"));
    let runs = folder.run(&["runs"]);
    let lines: Vec<&str> = runs.out.lines().collect();
    assert_eq!(lines.len(), 3);
    assert!(
        lines[0].contains("tideline undo 2    undoes run 2") && lines[1].ends_with("undone by run 3"),
        "{}",
        runs.out
    );
    folder.write("x", b"something else\n");
    let refused = folder.run(&["undo"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("/x was changed since\n"), "{}", refused.err);
    assert!(refused.err.contains("--force overwrites it, and backs it up first"), "{}", refused.err);
    assert_eq!(text(&folder, "x"), "something else\n");
    assert_eq!(folder.run(&["undo", "--force"]).status, Some(0));
    assert_eq!(text(&folder, "x"), TEN);
    assert!(folder.run(&["undo", "77"]).err.contains("there is no run 77"));
    assert_eq!(folder.run(&["runs", "prune", "--keep", "1"]).out.lines().count(), 1);
    assert_eq!(folder.run(&["runs"]).out.lines().count(), 1);
}

#[test]
fn all_or_nothing_unless_told_otherwise() {
    let two = format!("{FIVE}--- a/y\n+++ b/y\n@@ -1,3 +1,3 @@\n a\n-b\n+B\n c\n");
    let make = || Folder::with(&[("x", TEN), ("y", "a\nbeta\nc\n"), ("two.patch", &two)]);
    let folder = make();
    let before = contents(&folder);
    let ran = folder.run(&["apply", "two.patch"]);
    assert_eq!(ran.status, Some(1));
    assert!(ran.out.contains("  ! y    1 of 1 hunk does not fit\n"), "{}", ran.out);
    assert!(ran.out.contains("        expected  b\n                  ^\n        found     beta\n"), "{}", ran.out);
    assert!(
        ran.out.ends_with(
            "nothing was written: 1 hunk does not fit; --keep-going applies the rest, --mark puts conflicts into the files\n"
        ),
        "{}",
        ran.out
    );
    assert_eq!(contents(&folder), before);

    let kept = folder.run(&["apply", "--keep-going", "two.patch"]);
    assert_eq!(kept.status, Some(1));
    assert!(text(&folder, "x").contains("\n5\n"));
    let leftover = text(&folder, "two.leftover.patch");
    assert_eq!(leftover, "--- a/y\n+++ b/y\n@@ -1,3 +1,3 @@\n a\n-b\n+B\n c\n");
    folder.write("y", b"a\nb\nc\n");
    assert_eq!(folder.run(&["apply", "two.leftover.patch"]).status, Some(0), "it applies once the obstacle is mended");
    assert_eq!(text(&folder, "y"), "a\nB\nc\n");

    let marked = make();
    let ran = marked.run(&["apply", "--mark", "two.patch"]);
    assert_eq!(ran.status, Some(1));
    assert!(
        text(&marked, "y")
            .contains("a\n<<<<<<< this file\nbeta\n||||||| before the hunk of line 14 of two.patch\nb\n=======\nB\n>>>>>>> after the hunk of line 14 of two.patch\nc\n"),
        "{}",
        text(&marked, "y")
    );
    marked.run(&["undo"]);
    assert_eq!(contents(&marked), before);
}

#[test]
fn trials_copies_and_outputs() {
    let folder = Folder::with(&[("x", TEN), ("fix.patch", FIVE), ("there", "old\n")]);
    let before = contents(&folder);
    let trial = folder.run(&["apply", "--dry-run", "fix.patch"]);
    assert!(trial.out.ends_with("files: 1 changed; nothing was written, this was a trial\n"), "{}", trial.out);
    assert_eq!(contents(&folder), before);
    let refused = folder.run(&["apply", "-o", "there", "fix.patch"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("it is a file of ., and no earlier output of this command"), "{}", refused.err);
    let refused = folder.run(&["apply", "-o", "fix.patch", "fix.patch"]);
    assert!(refused.err.contains("cannot write fix.patch: the command reads it"), "{}", refused.err);
    folder.run(&["apply", "-o", "made", "fix.patch"]);
    assert_eq!((text(&folder, "x"), text(&folder, "made")), (TEN.to_owned(), TEN.replace("five", "5")));
    assert_eq!(folder.run(&["apply", "--reverse", "-o", "made", "fix.patch"]).status, Some(0), "an earlier output");
    folder.run(&["undo"]);
    assert_eq!(text(&folder, "made"), TEN.replace("five", "5"), "what an output replaced is in the journal");
    folder.run(&["apply", "--backup", ".before", "fix.patch"]);
    assert_eq!(text(&folder, "x.before"), TEN);
    let other = Folder::with(&[("levels.txt", TEN), ("fix.patch", FIVE), ("deep/x", TEN)]);
    assert_eq!(other.run(&["apply", "--into", "levels.txt", "fix.patch"]).status, Some(0));
    assert!(text(&other, "levels.txt").contains("\n5\n"));
    assert_eq!(other.run(&["apply", "--into", "deep", "fix.patch"]).status, Some(0));
    let input = other.run_with_input(&["apply", "--reverse", "--into", "deep", "-"], FIVE.as_bytes());
    assert_eq!((input.status, text(&other, "deep/x")), (Some(0), TEN.to_owned()));
    let json = other.run(&["apply", "--json", "--into", "deep", "fix.patch"]);
    let records: Vec<Value> = json.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!((&records[0]["outcome"], &records[0]["hunks"][0]["places"][0]["line"]), (&"changed".into(), &2.into()));
    assert_eq!((&records[1]["record"], &records[1]["written"]), (&"run".into(), &true.into()));
}

#[test]
fn files_are_made_removed_moved_and_given_permissions() {
    let patch = "diff --git a/run.sh b/run.sh\nold mode 100644\nnew mode 100755\n\
        diff --git a/old.txt b/new/name.txt\nsimilarity index 90%\nrename from old.txt\nrename to new/name.txt\n--- a/old.txt\n+++ b/new/name.txt\n@@ -1,2 +1,2 @@\n-low\n+high\n tide\n\
        --- a/gone\n+++ /dev/null\n@@ -1 +0,0 @@\n-bye\n\
        --- /dev/null\n+++ b/fresh/deep/file\n@@ -0,0 +1 @@\n+hello\n";
    let folder =
        Folder::with(&[("run.sh", "true\n"), ("old.txt", "low\ntide\n"), ("gone", "bye\n"), ("all.patch", patch)]);
    let before = contents(&folder);
    let ran = folder.run(&["apply", "all.patch"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("  ◐ run.sh    permissions\n  ↷ new/name.txt    moved from old.txt, 1 hunk\n  ○ gone    removed\n  ● fresh/deep/file    new file\n"), "{}", ran.out);
    let after = contents(&folder);
    let told: Vec<_> = after
        .iter()
        .map(|(name, bytes, mode)| (name.as_str(), String::from_utf8_lossy(bytes).into_owned(), *mode))
        .collect();
    assert_eq!(told[1].0, "fresh/deep/file");
    assert!(told.iter().any(|(name, text, _)| *name == "new/name.txt" && text == "high\ntide\n"), "{told:?}");
    assert!(told.iter().any(|(name, _, mode)| *name == "run.sh" && *mode == 0o755), "{told:?}");
    let back = folder.run(&["apply", "--reverse", "all.patch"]);
    assert_eq!(back.status, Some(0), "{}{}", back.out, back.err);
    let names = |list: &[(String, Vec<u8>, u32)]| list.to_vec();
    assert_eq!(names(&contents(&folder)), names(&before));
    folder.run(&["undo"]);
    assert_eq!(contents(&folder), after);
}

#[test]
fn whatever_is_unsafe_is_refused_and_nothing_is_written() {
    let folder =
        Folder::with(&[("x", TEN), ("sub/x", TEN), ("exists", "mine\n"), ("gone", "not the same\n"), ("Case", "a\n")]);
    symlink("x", folder.path().join("link")).unwrap();
    symlink("sub", folder.path().join("linked")).unwrap();
    let path = folder.path().join("pipe");
    let made = std::process::Command::new("mkfifo").arg(&path).status().is_ok_and(|status| status.success());
    let hunk = "@@ -1 +1 @@\n-a\n+b\n";
    let named = |name: &str| format!("--- {name}\n+++ {name}\n{hunk}");
    let mut cases = vec![
        (named("../x"), "it leads out of the folder with `..`"),
        (named("sub/../../x"), "it leads out of the folder with `..`"),
        (named("/etc/passwd"), "it is absolute"),
        (named("linked/x"), "a link stands in the middle of the path"),
        (named("sub"), "it is a folder"),
        (named("x/y"), "is not a folder"),
        ("--- a\n+++ b\n@@ -1,2 +1,2 @@\n a\n".to_owned(), "line 3: the patch is cut off or damaged"),
        ("no patch\n".to_owned(), "there is no patch in it"),
    ];
    if made {
        cases.push((named("pipe"), "it is a device or a pipe"));
    }
    for (patch, reason) in cases {
        folder.write("p.patch", patch.as_bytes());
        let before = contents(&folder);
        let ran = folder.run(&["apply", "--drop-folders", "0", "--keep-going", "p.patch"]);
        assert_eq!(ran.status, Some(2), "{patch}: {}{}", ran.out, ran.err);
        assert!(ran.err.contains(reason), "{patch}: {}", ran.err);
        assert_eq!(contents(&folder), before, "{patch}");
    }
    // What is safe, and cannot be done, is left over, and the rest goes on.
    let elsewhere = [
        ("--- /dev/null\n+++ exists\n@@ -0,0 +1 @@\n+other\n", "it exists already, and holds something else"),
        ("--- gone\n+++ /dev/null\n@@ -1 +0,0 @@\n-x\n", "it does not hold what it did when the patch was made"),
        ("Binary files p and p differ\n", "it is not text, and the patch says only that it differs"),
        ("--- link\n+++ link\n@@ -1 +1 @@\n-a\n+b\n", "it is a link where the patch has a file"),
        ("diff --git none new\nrename from none\nrename to new\n", "there is no such file"),
    ];
    for (patch, reason) in elsewhere {
        let before = contents(&folder);
        folder.write("p.patch", format!("{patch}{}", named("Case")).as_bytes());
        let whole = folder.run(&["apply", "--drop-folders", "0", "p.patch"]);
        assert_eq!((whole.status, whole.out.contains(reason)), (Some(1), true), "{patch}: {}{}", whole.out, whole.err);
        let ran = folder.run(&["apply", "--drop-folders", "0", "--keep-going", "p.patch"]);
        assert_eq!((ran.status, text(&folder, "Case").as_str()), (Some(1), "b\n"), "{}{}", ran.out, ran.err);
        assert_eq!(text(&folder, "p.leftover.patch"), patch);
        folder.run(&["undo"]);
        folder.write("p.patch", &before.iter().find(|file| file.0 == "p.patch").unwrap().1);
        assert_eq!(contents(&folder), before);
    }
    let missing = Folder::with(&[("p.patch", FIVE)]).run(&["apply", "p.patch"]);
    assert_eq!(missing.status, Some(1));
    assert!(missing.out.contains("  ! x    there is no such file\n"), "{}", missing.out);
}

#[test]
fn a_folder_that_cannot_be_written_leaves_every_file_whole() {
    let folder = Folder::with(&[
        ("x", TEN),
        ("locked/y", "a\n"),
        ("two.patch", &format!("{FIVE}--- a/locked/y\n+++ b/locked/y\n@@ -1 +1 @@\n-a\n+b\n")),
    ]);
    let locked = folder.path().join("locked");
    fs::set_permissions(&locked, fs::Permissions::from_mode(0o555)).unwrap();
    if fs::write(locked.join("probe"), "").is_ok() {
        // Nothing is closed to this user.
        fs::remove_file(locked.join("probe")).unwrap();
        return;
    }
    let before = contents(&folder);
    let ran = folder.run(&["apply", "two.patch"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("everything is as it was before"), "{}", ran.err);
    assert_eq!(contents(&folder), before);
    fs::set_permissions(&locked, fs::Permissions::from_mode(0o755)).unwrap();
}

#[test]
fn several_patches_go_in_one_after_the_other() {
    let second = FIVE.replace("-five\n+5", "-5\n+V");
    let folder = Folder::with(&[("x", TEN), ("1.patch", FIVE), ("2.patch", &second)]);
    assert_eq!(folder.run(&["apply", "1.patch", "2.patch"]).status, Some(0));
    assert_eq!(text(&folder, "x"), TEN.replace("five", "V"));
    assert_eq!(folder.run(&["runs"]).out.lines().count(), 1, "they are one run");
}

#[test]
fn a_run_that_was_cut_off_is_told_finished_and_undone() {
    let folder = Folder::with(&[("x", TEN), ("y", TEN), ("x.patch", FIVE)]);
    folder.run(&["apply", "x.patch"]);
    // As if the program had ended before the file was put in place.
    let after = folder.read("x");
    folder.cut_off(1);
    let record = fs::read_to_string(folder.path().join(".state/tideline/open/1/record")).unwrap();
    let head: Value = serde_json::from_str(record.lines().next().unwrap()).unwrap();
    let beside = format!(".tideline-{}-0.tmp", head["token"].as_str().unwrap());
    folder.write(&beside, &after);
    folder.write("x", TEN.as_bytes());
    let compared = folder.run(&["compare", "--only", "gone", ".", "."]);
    assert!(compared.out.contains("left out: 4 entries of Tideline itself"), "{}", compared.out);
    let told = folder.run(&["apply", "--into", "y", "x.patch"]);
    assert!(told.err.contains("run 1 (tideline apply x.patch) was cut off: `tideline undo 1` puts back what it changed, `tideline runs finish 1` does the rest"), "{}", told.err);
    assert!(folder.run(&["runs"]).out.contains("cut off half-way"));
    let finished = folder.run(&["runs", "finish", "1"]);
    assert_eq!((finished.status, folder.read("x")), (Some(0), after));
    assert_eq!(folder.run(&["undo", "1"]).status, Some(0));
    assert_eq!(text(&folder, "x"), TEN);
}

#[test]
fn a_patch_is_shown_like_a_comparison() {
    let folder =
        Folder::with(&[("fix.patch", &format!("Dear all,\n\n{FIVE}--- /dev/null\n+++ b/n\n@@ -0,0 +1 @@\n+new\n"))]);
    let ran = folder.run(&["show", "--no-legend", "fix.patch"]);
    let wanted = "fix.patch    2 files, 2 hunks, 1 line gone, 2 new\n
x    a ○  b ●    1 change in 1 hunk

  change 1 of 1 · line 5
    2   2    two
    3   3    three
    4   4    four
 ○  5        five
 ●      5    5
    6   6    six
    7   7    seven
    8   8    eight

b/n    before ○  after ●    1 change in 1 hunk, new file

  change 1 of 1 · line 1 new
 ●      1    new
";
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), wanted));
    for layout in ["beside", "inline"] {
        let ran = folder.run(&["show", "--layout", layout, "fix.patch"]);
        assert!(
            ran.out.contains("change 1 of 1 · line 5") && ran.out.contains("gone: before alone has it"),
            "{}",
            ran.out
        );
    }
    folder.write("fix.patch", b"nothing\n");
    assert!(folder.run(&["show", "fix.patch"]).err.contains("cannot read the patch fix.patch, line 1"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// The patch of two random trees, put into the one, makes the other; taken out, it makes the one again.
    #[test]
    fn the_patch_of_random_trees_goes_in_and_comes_out(
        before in prop::collection::btree_map("[a-c]{1,2}(/[a-c])?", "([xyz]\n){1,6}", 1..5),
        after in prop::collection::btree_map("[a-c]{1,2}(/[a-c])?", "([xyz]\n){1,6}", 1..5),
    ) {
        let clash = |files: &std::collections::BTreeMap<String, String>| {
            let folders: Vec<_> = before.keys().chain(after.keys()).filter_map(|name| name.split_once('/').map(|(folder, _)| folder.to_owned())).collect();
            files.keys().any(|name| folders.contains(name))
        };
        prop_assume!(!clash(&before) && !clash(&after));
        let folder = Folder::new();
        for (side, files) in [("one", &before), ("two", &after), ("work", &before)] {
            fs::create_dir(folder.path().join(side)).unwrap();
            for (name, text) in files {
                folder.write(&format!("{side}/{name}"), text.as_bytes());
            }
        }
        let made = folder.run(&["patch", "--labels", "a,b", "one", "two", "-o", "p.patch"]);
        prop_assume!(made.status == Some(1) && made.err.is_empty());
        let ran = folder.run(&["apply", "--into", "work", "--drop-folders", "1", "p.patch"]);
        prop_assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
        prop_assert_eq!(folder.run(&["--quiet", "two", "work"]).status, Some(0));
        let back = folder.run(&["apply", "--into", "work", "--drop-folders", "1", "--reverse", "p.patch"]);
        prop_assert_eq!(back.status, Some(0), "{}{}", back.out, back.err);
        prop_assert_eq!(folder.run(&["--quiet", "one", "work"]).status, Some(0));
        prop_assert_eq!(folder.run(&["undo"]).status, Some(0));
        prop_assert_eq!(folder.run(&["--quiet", "two", "work"]).status, Some(0), "emptied and new folders follow");
    }
}
