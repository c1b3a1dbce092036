//! `sync`: the plan, carrying it out, refusals, and putting it back.

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::{PermissionsExt, symlink};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use proptest::prelude::*;
use serde_json::Value;

use crate::support::Folder;

/// What a folder holds: nature, bytes, permissions and times.
fn held(root: &Path) -> BTreeMap<PathBuf, (char, Vec<u8>, u32, Option<SystemTime>)> {
    let mut found = BTreeMap::new();
    let mut folders = vec![root.to_path_buf()];
    while let Some(folder) = folders.pop() {
        for entry in fs::read_dir(folder).unwrap().map(Result::unwrap) {
            let path = entry.path();
            let metadata = path.symlink_metadata().unwrap();
            let (mode, time) = (metadata.permissions().mode() & 0o7777, metadata.modified().ok());
            let what = if metadata.is_symlink() {
                ('l', fs::read_link(&path).unwrap().into_os_string().into_encoded_bytes(), 0, None)
            } else if metadata.is_dir() {
                folders.push(path.clone());
                ('d', Vec::new(), mode, time)
            } else {
                ('f', fs::read(&path).unwrap(), mode, time)
            };
            found.insert(path.strip_prefix(root).unwrap().to_path_buf(), what);
        }
    }
    found
}

/// Two trees in which everything happens once.
fn case() -> Folder {
    let folder = Folder::with(&[
        ("from/same.txt", "same\n"),
        ("into/same.txt", "same\n"),
        ("from/changed.txt", "new\n"),
        ("into/changed.txt", "old\n"),
        ("from/deep/er/new.txt", "new\n"),
        ("into/extra/gone.txt", "gone\n"),
        ("from/there/moved.txt", "a file\nthat moves\nelsewhere\n"),
        ("into/here/moved.txt", "a file\nthat moves\nelsewhere\n"),
        ("from/retyped/inside", "inside\n"),
        ("into/retyped", "a file\n"),
        ("from/script.sh", "echo\n"),
    ]);
    fs::set_permissions(folder.path().join("from/script.sh"), fs::Permissions::from_mode(0o750)).unwrap();
    symlink("changed.txt", folder.path().join("from/link")).unwrap();
    folder
}

#[test]
fn the_plan_says_what_would_be_done_and_writes_nothing() {
    let folder = case();
    folder.set_time("from/changed.txt", 2000);
    folder.set_time("into/changed.txt", 1000);
    let before = held(folder.path());
    let ran = folder.run(&["sync", "from", "into"]);
    assert_eq!(held(folder.path()), before);
    let wanted = "from from into into: 10 steps

    ◐ replace      changed.txt    4 bytes, newer in from
    ● make folder  deep/
    ● copy         link           link to changed.txt
    ● make folder  retyped/       a folder in the place of a file
    ● copy         script.sh      5 bytes
    ● make folder  there/
  deep/
    ● make folder  er/
  deep/er/
    ● copy         new.txt        4 bytes
  retyped/
    ● copy         inside         7 bytes
  there/
    ● copy         moved.txt      28 bytes

  in all: copy 5 files (44 bytes), replace 1 file (4 bytes), make 4 folders
  left alone: 1 same, 2 only in into (would go with --mirror)

nothing was written. To carry it out, from from into into:
  tideline sync from into --go
";
    assert_eq!(ran.out, wanted);
    assert_eq!(ran.status, Some(1));
    assert_eq!(folder.run(&["sync", "from", "into", "--dry-run"]).out.lines().last(), wanted.lines().last());
}

#[test]
fn what_was_planned_is_done_and_can_be_undone() {
    let folder = case();
    let into = folder.path().join("into");
    let before = held(&into);
    let ran = folder.run(&["sync", "from", "into", "--mirror", "--go"]);
    assert_eq!((ran.status, ran.err.as_str()), (Some(0), ""));
    assert!(ran.out.ends_with("done, from from into into (run 1; `tideline undo` puts it back)\n"), "{}", ran.out);
    let (from, now) = (held(&folder.path().join("from")), held(&into));
    for (path, (nature, bytes, mode, time)) in &from {
        let found = &now[path];
        assert_eq!((nature, bytes, mode), (&found.0, &found.1, &found.2), "{}", path.display());
        // What is the same is not touched.
        assert!(*time == found.3 || path == Path::new("same.txt"), "{}", path.display());
    }
    assert_eq!(from.len(), now.len());
    let again = folder.run(&["sync", "from", "into", "--mirror", "--go"]);
    assert_eq!(
        (again.status, again.out.as_str()),
        (Some(0), "into has what from has: nothing to do\n  left alone: 7 same\n")
    );
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(held(&into), before, "bytes, permissions and times are back, removed folders too");
}

#[test]
fn a_missing_folder_is_made_whole() {
    let folder = case();
    assert_eq!(folder.run(&["sync", "from", "fresh", "--go"]).status, Some(0));
    assert_eq!(held(&folder.path().join("fresh")), held(&folder.path().join("from")));
    folder.run(&["undo"]);
    assert!(!folder.path().join("fresh").exists());
}

#[test]
fn newer_files_stay_where_that_is_wanted() {
    let folder = Folder::with(&[("from/a", "1"), ("into/a", "2"), ("from/b", "3"), ("into/b", "4")]);
    for (name, seconds) in [("from/a", 2000), ("into/a", 1000), ("from/b", 1000), ("into/b", 2000)] {
        folder.set_time(name, seconds);
    }
    let told = folder.run(&["sync", "from", "into"]).out;
    assert!(told.contains("◐ replace  b    1 byte, into has the newer one"), "{told}");
    let ran = folder.run(&["sync", "from", "into", "--newer", "--go"]);
    assert!(ran.out.contains("left alone: 1 not newer in from"), "{}", ran.out);
    assert_eq!((folder.read("into/a"), folder.read("into/b")), (b"1".to_vec(), b"4".to_vec()));
}

#[test]
fn both_ways_carries_from_the_newer_side_and_lists_what_it_cannot_decide() {
    let folder = Folder::with(&[
        ("from/a", "1"),
        ("into/a", "2"),
        ("from/b", "3"),
        ("into/b", "4"),
        ("from/c", "5"),
        ("into/c", "6"),
        ("from/only", "7"),
        ("into/lone", "8"),
        ("from/kind/x", "9"),
        ("into/kind", "10"),
    ]);
    for (name, seconds) in
        [("from/a", 2000), ("into/a", 1000), ("from/b", 1000), ("into/b", 2000), ("from/c", 3000), ("into/c", 3000)]
    {
        folder.set_time(name, seconds);
    }
    let told = folder.run(&["sync", "from", "into", "--both-ways", "--save-plan", "kept"]).out;
    let kept = folder.run(&["sync", "--plan", "kept"]).out;
    assert!(told.starts_with("each difference between from and into goes from its newer side to the older: 2 steps\n"));
    assert_eq!(kept, told.replace(", 1 same", ""), "a plan that was kept says its direction as it did");
    let ran = folder.run(&["sync", "from", "into", "--both-ways", "--go"]);
    assert_eq!(ran.status, Some(1), "what is undecided is left: {}", ran.err);
    for line in [
        "◐ replace in into  a       1 byte, newer in from",
        "◐ replace in from  b       1 byte, newer in into",
        "! conflict         c       both sides were changed in the same second",
        "! conflict         only    only from has it: it came there, or went from into",
        "! conflict         lone    only into has it: it came there, or went from from",
        "! conflict         kind    a folder in from, a file in into",
    ] {
        assert!(ran.out.contains(line), "{line} in\n{}", ran.out);
    }
    assert!(ran.out.contains("4 conflicts: left as they are"), "{}", ran.out);
    let read = |name: &str| String::from_utf8(folder.read(name)).unwrap();
    assert_eq!([read("into/a"), read("from/b"), read("from/c"), read("into/c")], ["1", "4", "5", "6"]);
    assert!(!folder.path().join("into/only").exists());
}

#[test]
fn what_the_rules_put_aside_is_left_alone_and_counted() {
    let folder = Folder::with(&[
        ("from/log", "12:01:00 high\n"),
        ("into/log", "12:02:00 high\n"),
        ("from/text", "a  b\n"),
        ("into/text", "a b\n"),
        ("from/real", "x\n"),
        ("into/real", "y\n"),
    ]);
    let ran = folder.run(&["sync", "from", "into", "--mute", "timestamps", "--ignore", "space-amount", "--go"]);
    assert!(
        ran.out.contains("1 step\n") && ran.out.contains("left alone: 1 same, 1 with muted changes only"),
        "{}",
        ran.out
    );
    assert!(ran.out.contains("muted 1 line: timestamps 1") && ran.out.contains("ignored 1 line: space-amount 1"));
    assert_eq!(folder.read("into/log"), b"12:02:00 high\n");
    assert_eq!((folder.read("into/text"), folder.read("into/real")), (b"a b\n".to_vec(), b"x\n".to_vec()));
}

#[test]
fn patterns_statuses_and_paths_narrow_it() {
    let steps = |arguments: &[&str]| {
        let folder = case();
        let ran = folder.run(&[&["sync", "from", "into", "--json"], arguments].concat());
        let records = ran.out.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
        let steps = records.filter(|record| record["record"] == "step");
        steps
            .map(|step| format!("{} {}", step["verb"].as_str().unwrap(), step["path"].as_str().unwrap()))
            .collect::<Vec<_>>()
    };
    assert_eq!(steps(&["--only", "changed"]), ["replace changed.txt"]);
    assert_eq!(steps(&["--include", "*.sh"]), ["copy script.sh"]);
    assert_eq!(steps(&["--include", "new.txt"]), ["make-folder deep", "make-folder deep/er", "copy deep/er/new.txt"]);
    assert_eq!(steps(&["deep/er"]), ["make-folder deep", "make-folder deep/er", "copy deep/er/new.txt"]);
    assert_eq!(
        steps(&["--mirror", "--remove-many", "extra"]),
        ["remove-folder extra", "remove extra/gone.txt"],
        "all of what is looked at is more than half of it"
    );
    assert_eq!(steps(&["--mirror", "extra"]), [""; 0]);
    assert_eq!(steps(&["--mirror", "--exclude", "gone.txt", "extra"]), [""; 0], "it holds what was not looked at");
}

#[test]
fn a_plan_is_kept_and_carried_out_as_it_is_or_not_at_all() {
    let folder = case();
    let into = folder.path().join("into");
    let ran = folder.run(&["sync", "from", "into", "--mirror", "--save-plan", "my plan"]);
    assert!(ran.out.ends_with("  tideline sync --plan 'my plan' --go\n"), "{}", ran.out);
    let before = held(&into);
    folder.write("from/late.txt", b"late\n");
    fs::write(into.join("changed.txt"), "mine\n").unwrap();
    let refused = folder.run(&["sync", "--plan", "my plan", "--go"]);
    assert_eq!(refused.status, Some(2));
    assert!(
        refused.err.contains("changed.txt was changed since the plan was made; nothing was written"),
        "{}",
        refused.err
    );
    let ran = folder.run(&["sync", "from", "into", "--mirror", "--save-plan", "my plan"]);
    assert_eq!(ran.status, Some(1));
    folder.write("from/later.txt", b"later\n");
    assert_eq!(folder.run(&["sync", "--plan", "my plan"]).status, Some(1), "only said");
    let done = folder.run(&["sync", "--plan", "my plan", "--go"]);
    assert_eq!(done.status, Some(0), "{}", done.err);
    assert!(into.join("late.txt").exists() && !into.join("later.txt").exists(), "just what was planned");
    folder.write("from/changed.txt", b"changed once more\n");
    folder.run(&["undo"]);
    let changed = folder.run(&["sync", "--plan", "my plan", "--go"]);
    assert!(changed.err.contains("was changed since the plan was made"), "the source too: {}", changed.err);
    assert_eq!(held(&into).keys().collect::<Vec<_>>(), before.keys().collect::<Vec<_>>());
    for (text, reason) in [
        ("{\"record\":\"run\",\"run\":1,\"written\":true}\n", "it is no part of a plan"),
        ("{\"record\":\"plan\"}\n", "line 1"),
        ("", "it does not begin as a plan does"),
    ] {
        folder.write("bad", text.as_bytes());
        let ran = folder.run(&["sync", "--plan", "bad", "--go"]);
        assert_eq!(ran.status, Some(2));
        assert!(ran.err.contains(reason), "{}", ran.err);
    }
    let evil = fs::read_to_string(folder.path().join("my plan")).unwrap().replace("changed.txt", "../changed.txt");
    folder.write("evil", evil.as_bytes());
    let ran = folder.run(&["sync", "--plan", "evil", "--go"]);
    assert!(ran.status == Some(2) && ran.err.contains("leads out of the folder"), "{}", ran.err);
}

#[test]
fn a_saved_plan_is_valid_again_when_all_is_as_it_was() {
    let folder = case();
    let planned = ["sync", "from", "into", "--mirror", "--remove-many", "--save-plan", "plan"];
    let said = folder.run(&planned);
    let into = folder.path().join("into").canonicalize().unwrap();
    let removes = format!(" from INTO, {}\n", into.display());
    assert!(said.out.contains(&removes), "{}", said.out);
    let carried_out = ["sync", "--plan", "plan", "--go"];
    let before = held(&into);
    let first = folder.run(&carried_out);
    assert_eq!(first.status, Some(0), "{}", first.err);
    let after = held(&into);
    folder.run(&["undo"]);
    assert_eq!(held(&into), before);
    let again = folder.run(&carried_out);
    assert_eq!(again.status, Some(0), "{}", again.err);
    assert_eq!(held(&into), after);
    folder.run(&["undo"]);
    // The same size and time, and other contents.
    let changed = into.join("changed.txt");
    let time = fs::metadata(&changed).unwrap().modified().unwrap();
    let mut bytes = fs::read(&changed).unwrap();
    bytes[0] ^= 1;
    fs::write(&changed, bytes).unwrap();
    fs::File::options().write(true).open(&changed).unwrap().set_modified(time).unwrap();
    let refused = folder.run(&carried_out);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("changed.txt was changed since the plan was made"), "{}", refused.err);
}

#[test]
fn what_could_never_be_meant_is_refused() {
    let folder = case();
    fs::create_dir(folder.path().join("empty")).unwrap();
    let before = held(folder.path());
    for (arguments, reason) in [
        (&["nowhere", "into"][..], "FROM, nowhere, is not there"),
        (&["from", "from/"], "FROM, from, and INTO, from/, are the same folder"),
        (&["from", "from/deep"], "INTO is inside FROM"),
        (&["from/deep", "from"], "FROM is inside INTO"),
        (&["from", "/"], "INTO, /, is the root of a file system"),
        (&["from/same.txt", "into"], "FROM, from/same.txt, is a file"),
        (&["from", "into/same.txt"], "INTO, into/same.txt, is a file"),
        (&["empty", "into"], "FROM, empty, is empty"),
        (&["empty", "into", "--mirror"], "--mirror --remove-many"),
        (&["from/deep", "into", "--mirror"], "refused to remove 5 of the 5 files in INTO, /"),
        (&["from", "missing/into"], "cannot write missing/into"),
    ] {
        let ran = folder.run(&[&["sync", "--go"], arguments].concat());
        assert_eq!((ran.status, ran.out.as_str()), (Some(2), ""), "{arguments:?}");
        assert!(ran.err.contains(reason), "{arguments:?}: {}", ran.err);
    }
    let mut after = held(folder.path());
    after.retain(|path, _| !path.starts_with(".state"));
    assert_eq!(after, before);
    let ran = folder.run(&["sync", "--go", "empty", "into", "--mirror", "--remove-many"]);
    assert_eq!(ran.status, Some(0), "{}", ran.err);
    assert!(held(&folder.path().join("into")).is_empty());
}

#[test]
fn nothing_is_written_through_links_and_what_cannot_be_done_is_named() {
    let folder =
        Folder::with(&[("from/sub/a", "a\n"), ("from/b", "b\n"), ("elsewhere/keep", "keep\n"), ("into/b", "old\n")]);
    symlink("../elsewhere", folder.path().join("into/sub")).unwrap();
    let ran = folder.run(&["sync", "from", "into", "--include", "a", "--go"]);
    assert!(ran.out.contains("sub is a link in INTO") || ran.out.contains("sub is a link in into"), "{}", ran.out);
    assert!(!folder.path().join("elsewhere/a").exists());
    // A link in the place of a folder is replaced as a link; what it points to stays.
    assert_eq!(folder.run(&["sync", "from", "into", "--go"]).status, Some(0));
    assert_eq!((folder.read("into/sub/a"), folder.read("elsewhere/keep")), (b"a\n".to_vec(), b"keep\n".to_vec()));
    folder.run(&["undo"]);
    assert!(folder.path().join("into/sub").is_symlink());
}

#[test]
fn what_the_system_refuses_is_named_and_the_rest_is_done() {
    let folder = Folder::with(&[("from/closed", "x\n"), ("from/open", "y\n"), ("into/z", "z\n")]);
    let closed = folder.path().join("from/closed");
    fs::set_permissions(&closed, fs::Permissions::from_mode(0o000)).unwrap();
    if fs::read(&closed).is_ok() {
        return eprintln!("nothing is closed to the system's keeper: skipped");
    }
    let ran = folder.run(&["sync", "from", "into", "--go"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.out.contains("! left out: ") && ran.out.contains("Permission denied"), "{}", ran.out);
    assert!(ran.out.contains("done, from from into into, but for 1 path (run 1"), "{}", ran.out);
    assert_eq!(folder.read("into/open"), b"y\n");
    folder.run(&["undo"]);
    assert!(!folder.path().join("into/open").exists());
}

/// What stands at a name of a random tree.
#[derive(Clone, Debug)]
enum Thing {
    File(u8, bool),
    Link(u8),
    Empty,
}

fn tree() -> impl Strategy<Value = BTreeMap<String, Thing>> {
    let name = prop::sample::select(vec!["a", "b", "c", "a/x", "a/y", "b/x", "b/x/z", "c/x", "d/e/f", "d/e", "d"]);
    let thing = prop_oneof![
        4 => (0..4_u8, any::<bool>()).prop_map(|(text, executable)| Thing::File(text, executable)),
        1 => (0..3_u8).prop_map(Thing::Link),
        1 => Just(Thing::Empty),
    ];
    prop::collection::btree_map(name.prop_map(str::to_owned), thing, 1..9)
}

fn build(root: &Path, tree: &BTreeMap<String, Thing>) {
    fs::create_dir(root).unwrap();
    for (name, thing) in tree {
        let path = root.join(name);
        // What an earlier name made a file or a link stays one.
        if fs::create_dir_all(path.parent().unwrap()).is_err() || path.symlink_metadata().is_ok() {
            continue;
        }
        match thing {
            Thing::File(text, executable) => {
                fs::write(&path, format!("line {text}\n").repeat(usize::from(*text) * 3)).unwrap();
                fs::set_permissions(&path, fs::Permissions::from_mode(if *executable { 0o755 } else { 0o644 }))
                    .unwrap();
            }
            Thing::Link(target) => symlink(format!("nowhere-{target}"), &path).unwrap(),
            Thing::Empty => fs::create_dir(&path).unwrap(),
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// After a sync that mirrors, a comparison finds no difference; undone, everything is back.
    #[test]
    fn a_mirror_is_the_same_and_undoing_it_brings_all_back(from in tree(), into in tree(), narrow in 0..4_usize) {
        let folder = Folder::new();
        build(&folder.path().join("from"), &from);
        build(&folder.path().join("into"), &into);
        let root = folder.path().join("into");
        let before = held(&root);
        let narrowing: &[&str] = [&[][..], &["--exclude", "x"], &["--no-moves"], &["--depth", "1"]][narrow];
        let ran = folder.run(&[&["sync", "from", "into", "--mirror", "--remove-many", "--go"], narrowing].concat());
        let undecided = ran.out.contains("undecided");
        prop_assert!(ran.status == Some(0) || undecided && ran.status == Some(1), "{}{}", ran.out, ran.err);
        let compared = folder.run(&[&["from", "into"], narrowing].concat());
        // A folder that holds what was not looked at stays, and so is not the same.
        let kept = undecided || ran.out.contains("folders that hold what was not looked at");
        prop_assert!(compared.status == Some(0) || kept, "{}\n{}", ran.out, compared.out);
        if ran.out.contains("(run ") {
            let undone = folder.run(&["undo"]);
            prop_assert_eq!(undone.status, Some(0), "{}", undone.err);
        }
        prop_assert_eq!(held(&root), before);
    }

    /// Without mirroring nothing is lost but what is replaced or moved, and what is left differs as it says.
    #[test]
    fn a_plain_sync_removes_nothing(from in tree(), into in tree()) {
        let folder = Folder::new();
        build(&folder.path().join("from"), &from);
        build(&folder.path().join("into"), &into);
        let root = folder.path().join("into");
        let before = held(&root);
        let ran = folder.run(&["sync", "from", "into", "--no-moves", "--remove-many", "--mirror", "--json"]);
        let planned = ran.out.lines().filter(|line| line.contains("\"verb\"")).count();
        prop_assert!(planned > 0 || ran.status == Some(0));
        let ran = folder.run(&["sync", "from", "into", "--no-moves", "--go"]);
        prop_assert!(matches!(ran.status, Some(0 | 1)), "{}{}", ran.out, ran.err);
        for path in before.keys() {
            prop_assert!(root.join(path).symlink_metadata().is_ok(), "{} is gone\n{}", path.display(), ran.out);
        }
        let again = folder.run(&["sync", "from", "into", "--no-moves", "--json"]);
        prop_assert!(!again.out.contains("\"record\":\"step\""), "{}", again.out);
    }
}
