//! `tideline merge` and `compare --base`: files and folders, as people and as a repository's program call them.

use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::Path;

use crate::support::terminal::Terminal;
use crate::support::{Folder, Ran};

const BASE: &str = "[sensor]\noffset_mm = 140\ninterval_s = 60\ndatum = \"chart\"\n\n[uplink]\nchannel = 12\n";

/// A base and what came of it on two sides: a clean edit each, and one line that both changed.
fn three_files() -> Folder {
    let mine = BASE.replace("140", "138").replace("s = 60", "s = 30");
    let theirs = BASE.replace("channel = 12", "channel = 16").replace("s = 60", "s = 90");
    Folder::with(&[("base/gauge.toml", BASE), ("mine/gauge.toml", &mine), ("theirs/gauge.toml", &theirs)])
}

const FILES: [&str; 3] = ["base/gauge.toml", "mine/gauge.toml", "theirs/gauge.toml"];

fn merge(folder: &Folder, more: &[&str]) -> Ran {
    folder.run(&[&["merge"], more, &FILES].concat())
}

const MARKED: &str = "[sensor]\n<<<<<<< mine\noffset_mm = 138\ninterval_s = 30\n||||||| base\noffset_mm = 140\ninterval_s = 60\n\
                      =======\noffset_mm = 140\ninterval_s = 90\n>>>>>>> theirs\ndatum = \"chart\"\n\n[uplink]\nchannel = 16\n";

#[test]
fn a_result_goes_to_standard_output_with_its_conflicts_marked() {
    let folder = three_files();
    let ran = merge(&folder, &[]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(1), MARKED));
    assert_eq!(ran.err, "tideline: 1 conflict left, marked at line 2\n");
    let ran = merge(&folder, &["--base-text", "off", "--labels", "spring", "the keeper", "office"]);
    assert!(ran.out.contains("<<<<<<< the keeper\noffset_mm = 138\ninterval_s = 30\n=======\n"), "{}", ran.out);
    let ran = merge(&folder, &["--base-text", "off", "--labels", "spring", "the\nkeeper", "\u{1b}[31moffice"]);
    assert!(ran.out.contains("<<<<<<< the␊keeper\noffset_mm"), "a label stays in its line: {}", ran.out);
    assert!(ran.out.contains(">>>>>>> ␛[31moffice\n"), "{}", ran.out);
    let ran = folder.run(&["merge", FILES[0], FILES[0], FILES[2], "--labels", "old", "new", "\u{1b}[31m", "-o", "out"]);
    assert_eq!(ran.out, "merged into out: 2 changes by ␛[31m (run 1; `tideline undo` puts it back)\n");
    for (side, line) in [("mine", "interval_s = 30\n"), ("theirs", "interval_s = 90\n")] {
        let ran = merge(&folder, &["--prefer", side]);
        assert_eq!(ran.status, Some(0));
        assert_eq!(ran.err, format!("tideline: note: 1 conflict decided for {side}\n"));
        assert!(ran.out.contains(line) && ran.out.contains("channel = 16"), "what did not clash is in: {}", ran.out);
    }
    assert_eq!(folder.run(&["merge", FILES[0], FILES[0], FILES[2]]).out.as_bytes(), folder.read(FILES[2]));
}

#[test]
fn a_result_is_written_through_the_journal_and_put_back() {
    let folder = three_files();
    let before = folder.read(FILES[1]);
    let ran = merge(&folder, &["-o", "mine/gauge.toml", "--dry-run"]);
    assert!(
        ran.out.starts_with("would merge into mine/gauge.toml: 1 change by theirs, 1 conflict; nothing was"),
        "{}",
        ran.out
    );
    assert_eq!(folder.read(FILES[1]), before);
    let ran = merge(&folder, &["-o", "mine/gauge.toml"]);
    assert_eq!(ran.status, Some(1));
    assert_eq!(
        ran.out,
        "merged into mine/gauge.toml: 1 change by theirs, 1 conflict (run 1; `tideline undo` puts it back)\n"
    );
    assert_eq!(folder.read(FILES[1]), MARKED.as_bytes());
    let found = folder.run(&["merge", "--unresolved", "."]);
    assert_eq!(found.status, Some(1));
    assert_eq!(found.out, "mine/gauge.toml:2  mine and theirs\n1 conflict left in 1 file\n");
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(folder.read(FILES[1]), before);
    let found = folder.run(&["merge", "--unresolved", "mine", "base/gauge.toml"]);
    assert_eq!((found.status, found.out.as_str()), (Some(0), "no conflict marks, and no versions to choose from\n"));
}

#[test]
fn conflicts_are_listed_and_recorded_without_writing() {
    let folder = three_files();
    let ran = merge(&folder, &["--list"]);
    assert_eq!(ran.status, Some(1));
    assert!(
        ran.out.starts_with("gauge.toml    base base ○  mine ●  theirs ●    1 change by theirs, 1 conflict"),
        "{}",
        ran.out
    );
    assert!(
        ran.out
            .contains("◑ conflict, change 1 of 2 · lines 2–3 · in [sensor] · mine and theirs changed the same lines"),
        "{}",
        ran.out
    );
    assert!(!ran.out.contains("channel = 16"), "what merges is not listed: {}", ran.out);
    let records = merge(&folder, &["--json"]);
    let records: Vec<serde_json::Value> = records.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let kinds: Vec<&str> = records.iter().map(|record| record["record"].as_str().unwrap()).collect();
    assert_eq!(kinds, ["versions", "region", "region", "merged"]);
    assert_eq!((&records[1]["together"], &records[1]["result"]), (&"conflict".into(), &serde_json::Value::Null));
    assert_eq!(records[2]["result"][0], "channel = 16\n");
    assert_eq!(records[3]["conflicts"], 1);
}

#[test]
fn words_and_insertions_go_together_when_told_and_that_is_said() {
    let folder = Folder::with(&[
        ("base.txt", "every 60 s in mm\n\nend\n"),
        ("mine.txt", "every 30 s in mm\nlamp\n\nend\n"),
        ("theirs.txt", "every 60 s in cm\n\nend\n"),
    ]);
    let files = ["base.txt", "mine.txt", "theirs.txt"];
    assert_eq!(folder.run(&[&["merge"], &files[..]].concat()).status, Some(1));
    folder.write("mine.txt", b"every 30 s in mm\n\nend\n");
    let ran = folder.run(&[&["merge", "--grain", "word"], &files[..]].concat());
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), "every 30 s in cm\n\nend\n"));
    assert_eq!(ran.err, "tideline: note: line 1 of base.txt: merged word by word\n");
    folder.write("mine.txt", b"every 60 s in mm\nuse a;\n\nend\n");
    folder.write("theirs.txt", b"every 60 s in mm\nuse b;\n\nend\n");
    let ran = folder.run(&[&["merge", "--both-insertions", "theirs-first"], &files[..]].concat());
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), "every 60 s in mm\nuse b;\nuse a;\n\nend\n"));
    assert!(
        ran.err.contains("after line 1 of base.txt: lines that both sides put in follow each other"),
        "{}",
        ran.err
    );
}

#[test]
fn what_rules_ignore_is_dropped_and_counted() {
    let folder = Folder::with(&[("base.c", "a = 1;\nb\n"), ("mine.c", "a = 2;\nb\n"), ("theirs.c", "\ta = 1;\nb\n")]);
    let files = ["base.c", "mine.c", "theirs.c"];
    assert_eq!(folder.run(&[&["merge"], &files[..]].concat()).status, Some(1));
    let ran = folder.run(&[&["merge", "--ignore", "space"], &files[..]].concat());
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), "a = 2;\nb\n"));
    assert_eq!(ran.err, "tideline: note: 1 line of theirs.c dropped: they differ only in text that does not count\n");
}

#[test]
fn encoding_line_ends_and_mode_are_merged_as_values() {
    let folder = Folder::with(&[("base.sh", "one\ntwo\nthree\n"), ("theirs.sh", "one\n2\nthree\n")]);
    // Mine became UTF-16 with CR LF; theirs edits a line and can be run.
    let wide: Vec<u8> = "\u{feff}one\r\ntwo\r\nthree\r\n".encode_utf16().flat_map(u16::to_le_bytes).collect();
    folder.write("mine.sh", &wide);
    let path = folder.path().join("theirs.sh");
    fs::set_permissions(&path, fs::Permissions::from_mode(0o755)).unwrap();
    let ran = folder.run(&["merge", "base.sh", "mine.sh", "theirs.sh", "-o", "mine.sh"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    let expected: Vec<u8> = "\u{feff}one\r\n2\r\nthree\r\n".encode_utf16().flat_map(u16::to_le_bytes).collect();
    assert_eq!(folder.read("mine.sh"), expected);
    let mode = |name: &str| fs::metadata(folder.path().join(name)).unwrap().permissions().mode() & 0o777;
    assert_eq!(mode("mine.sh"), 0o755);
    // Both changed the line ends: a conflict, and said.
    folder.write("a", b"x\ny");
    folder.write("b", b"x\r\ny\r\n");
    let ran = folder.run(&["merge", "/dev/null", "a", "b"]);
    assert_eq!(ran.status, Some(1));
    assert!(ran.err.contains("lines end with LF in a, and with CR LF in b: that of a is kept"), "{}", ran.err);
}

#[test]
fn what_is_not_text_is_taken_whole_or_kept_twice() {
    let folder = Folder::new();
    for (name, bytes) in [("base", b"\0a"), ("mine", b"\0b"), ("theirs", b"\0c")] {
        folder.write(&format!("{name}/chart.bin"), bytes);
    }
    let files = ["base/chart.bin", "mine/chart.bin", "theirs/chart.bin"];
    let one_sided = folder.run(&["merge", files[0], files[0], files[2], "-o", "out.bin"]);
    assert_eq!((one_sided.status, folder.read("out.bin")), (Some(0), b"\0c".to_vec()));
    let both = folder.run(&[&["merge"], &files[..], &["-o", "mine/chart.bin"]].concat());
    assert_eq!(both.status, Some(1));
    assert!(both.err.contains("not text, and both mine and theirs changed it"), "{}", both.err);
    assert_eq!(folder.read("mine/chart.bin"), b"\0b");
    assert_eq!(folder.read("mine/chart.bin.mine.conflict"), b"\0b");
    assert_eq!(folder.read("mine/chart.bin.theirs.conflict"), b"\0c");
    let left = folder.run(&["merge", "--unresolved", "mine"]);
    let told = "mine/chart.bin.mine.conflict  a version to choose from\n\
                mine/chart.bin.theirs.conflict  a version to choose from\n\
                2 versions left beside files\n";
    assert_eq!((left.status, left.out.as_str()), (Some(1), told));
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert!(!folder.path().join("mine/chart.bin.theirs.conflict").exists());
    let one_label = [&["merge", "--labels", "old", "new", "new"], &files[..], &["-o", "mine/chart.bin"]].concat();
    assert_eq!(folder.run(&one_label).status, Some(1));
    assert_eq!(folder.read("mine/chart.bin.new.conflict"), b"\0b");
    assert_eq!(folder.read("mine/chart.bin.new.conflict.2"), b"\0c");
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    let decided = folder.run(&[&["merge", "--prefer", "theirs"], &files[..], &["-o", "mine/chart.bin"]].concat());
    assert_eq!((decided.status, folder.read("mine/chart.bin")), (Some(0), b"\0c".to_vec()));
}

#[test]
fn a_target_that_was_changed_meanwhile_is_not_touched() {
    let folder = three_files();
    // The result goes to a link: what it points to is not written through.
    std::os::unix::fs::symlink("gauge.toml", folder.path().join("mine/link.toml")).unwrap();
    let before = folder.read(FILES[1]);
    let ran = merge(&folder, &["-o", "mine/link.toml"]);
    assert_eq!(ran.status, Some(2), "{}", ran.err);
    assert_eq!(folder.read(FILES[1]), before);
    assert!(fs::symlink_metadata(folder.path().join("mine/link.toml")).unwrap().is_symlink());
}

#[test]
fn misuse_is_refused_with_what_to_do() {
    let folder = three_files();
    folder.write("folder/x", b"");
    for (arguments, told) in [
        (
            &["merge", "base/gauge.toml", "mine", "theirs/gauge.toml"][..],
            "all three must be files, or all three folders",
        ),
        (&["merge", "base/gauge.toml", "mine/gauge.toml", "nowhere"], "nowhere"),
        (&["merge", "base/gauge.toml", "mine/gauge.toml", "theirs/gauge.toml", "-o", "folder"], "it is a folder"),
        (
            &["merge", "base/gauge.toml", "mine/gauge.toml", "theirs/gauge.toml", "-o", "none/gauge.toml"],
            "there is no folder none; make it first",
        ),
        (&["merge", "base", "mine", "theirs", "-o", "folder", "--go"], "OUT is MINE, mine, or a new folder"),
        (&["merge", "base", "mine", "theirs", "--open-archives"], "merged as the file that it is"),
        (&["merge", "-", "-", "theirs/gauge.toml"], "cannot read standard input twice"),
        (&["--base", "base", "mine"], "the side after is missing"),
        (&["--base", "base", "mine", "theirs", "nope.txt"], "cannot find nope.txt"),
        (&["--only", "apart", "base", "mine"], "--only apart is for three versions"),
        (&["--base", "base", "--only", "gone", "mine", "theirs"], "--only gone is for two sides"),
        (&["report", "--base", "base", "mine", "theirs", "-o", "pages/"], "three versions make one page"),
    ] {
        let ran = folder.run(arguments);
        assert_eq!(ran.status, Some(2), "{arguments:?}: {}{}", ran.out, ran.err);
        assert!(ran.err.contains(told), "{arguments:?}: {}", ran.err);
    }
}

/// Trees with every way in which two sides can meet.
fn three_trees() -> Folder {
    let folder = Folder::with(&[
        ("base/same.txt", "same\n"),
        ("base/both.txt", "one\ntwo\nthree\nfour\nfive\n"),
        ("base/clash.txt", "one\n"),
        ("base/drafts/moved.txt", "a line of some length\nanother one\nand a third one here\n"),
        ("base/removed.txt", "what one side removed\n"),
        ("base/gone.txt", "what both removed\n"),
        ("base/old/only.txt", "theirs removes the folder\n"),
        ("base/thing", "a file\n"),
    ]);
    for side in ["mine", "theirs"] {
        folder.system("cp", &["-a", "base", side]);
    }
    folder.write("mine/both.txt", b"ONE\ntwo\nthree\nfour\nfive\n");
    folder.write("theirs/both.txt", b"one\ntwo\nthree\nfour\nFIVE\n");
    folder.write("mine/clash.txt", b"mine\n");
    folder.write("theirs/clash.txt", b"theirs\n");
    fs::rename(folder.path().join("mine/drafts/moved.txt"), folder.path().join("mine/moved.txt")).unwrap();
    fs::remove_dir(folder.path().join("mine/drafts")).unwrap();
    folder.write("theirs/drafts/moved.txt", b"a line of some length\nanother one\nand a third one, edited\n");
    fs::remove_file(folder.path().join("mine/removed.txt")).unwrap();
    folder.write("theirs/removed.txt", b"what one side changed\n");
    for side in ["mine", "theirs"] {
        fs::remove_file(folder.path().join(side).join("gone.txt")).unwrap();
        folder.write(&format!("{side}/added.txt"), format!("added by {side}\n").as_bytes());
        folder.write(&format!("{side}/alike.txt"), b"added alike\n");
    }
    fs::remove_dir_all(folder.path().join("theirs/old")).unwrap();
    folder.write("theirs/fresh/deep/new.txt", b"new\n");
    fs::remove_file(folder.path().join("theirs/thing")).unwrap();
    folder.write("theirs/thing/inside.txt", b"a folder now\n");
    folder
}

const TREES: [&str; 3] = ["base", "mine", "theirs"];

#[test]
fn trees_tell_what_each_side_did_since_the_base() {
    let folder = three_trees();
    let ran = folder.run(&[&["--base"], &TREES[..]].concat());
    assert_eq!(ran.status, Some(1));
    assert_eq!(
        ran.out,
        "base base ○    11 paths changed: 4 one-sided, 2 alike, 2 apart, 3 conflicts\n\n  \
         mine  theirs\n  \
         ●     ●       ◑ conflict   added.txt\n                             mine and theirs both added it, with different contents\n  \
         ●     ●         alike      alike.txt\n  \
         ◐     ◐         apart      both.txt\n  \
         ◐     ◐       ◑ conflict   clash.txt\n                             mine and theirs changed the same lines in one place\n  \
         ↷     ◐         apart      drafts/moved.txt → moved.txt\n        \
         ●         one-sided  fresh/deep/new.txt\n  \
         ○     ○         alike      gone.txt\n        \
         ○         one-sided  old/only.txt\n  \
         ○     ◐       ◑ conflict   removed.txt\n                             theirs changed it, and mine removed it\n        \
         ◇         one-sided  thing\n        \
         ●         one-sided  thing/inside.txt\n\n  \
         ◐ changed   ● new   ○ gone   ↷ moved   ◇ retyped   since base\n"
    );
    let only = folder.run(&[&["--base"], &TREES[..], &["--only", "apart", "--no-legend"]].concat());
    assert!(only.out.contains("both.txt") && !only.out.contains("clash.txt"), "{}", only.out);
    let one = folder.run(&[&["--base"], &TREES[..], &["both.txt", "--layout", "beside", "--width", "90"]].concat());
    assert!(
        one.out.contains(" ●  1  ONE                   │ ○  1  one                   │    1  one\n"),
        "{}",
        one.out
    );
    assert!(
        one.out.contains("    5  five                  │ ○  5  five                  │ ●  5  FIVE\n"),
        "{}",
        one.out
    );
    assert_eq!(folder.run(&["--base", "base", "base", "base"]).status, Some(0));
}

#[test]
fn trees_are_merged_into_mine_with_a_plan_first_and_undone_whole() {
    let folder = three_trees();
    folder.system("cp", &["-a", "mine", "kept"]);
    let plan = folder.run(&[&["merge"], &TREES[..], &["-o", "mine"]].concat());
    assert_eq!(plan.status, Some(1));
    assert!(plan.out.contains("nothing was written. To merge into mine ("), "{}", plan.out);
    assert!(plan.out.ends_with("\n  tideline merge base mine theirs -o mine --go\n"), "{}", plan.out);
    assert_eq!(folder.run(&["--quiet", "kept", "mine"]).status, Some(0));
    let only = folder.run(&[&["merge"], &TREES[..], &["--only", "apart"]].concat());
    assert!(only.out.contains("both.txt") && !only.out.contains("clash.txt"), "{}", only.out);
    assert!(only.out.contains("not shown: 4 one-sided, 2 alike, 3 conflict"), "{}", only.out);
    let list = folder.run(&[&["merge", "--list"], &TREES[..]].concat());
    assert!(list.out.contains("clash.txt") && !list.out.contains("both.txt"), "{}", list.out);
    std::os::unix::fs::symlink("mine", folder.path().join("link")).unwrap();
    let done = folder.run(&[&["merge"], &TREES[..], &["-o", "link", "--go"]].concat());
    assert_eq!(done.status, Some(1), "{}{}", done.out, done.err);
    assert!(done.out.contains("3 conflicts left, named above"), "{}", done.out);
    let text = |name: &str| String::from_utf8(folder.read(name)).unwrap();
    assert_eq!(text("mine/both.txt"), "ONE\ntwo\nthree\nfour\nFIVE\n");
    assert_eq!(text("mine/moved.txt"), "a line of some length\nanother one\nand a third one, edited\n");
    assert_eq!(text("mine/clash.txt"), "<<<<<<< mine\nmine\n||||||| base\none\n=======\ntheirs\n>>>>>>> theirs\n");
    assert_eq!(
        text("mine/added.txt"),
        "<<<<<<< mine\nadded by mine\n||||||| base\n=======\nadded by theirs\n>>>>>>> theirs\n"
    );
    assert_eq!(text("mine/removed.txt.theirs.conflict"), "what one side changed\n");
    let left = folder.run(&["merge", "--unresolved", "mine", "--json"]);
    let left: Vec<serde_json::Value> = left.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(left[2]["path"], "mine/removed.txt.theirs.conflict");
    assert_eq!((left.len(), &left[2]["lines"], left[1]["lines"].is_array()), (3, &serde_json::Value::Null, true));
    assert_eq!(text("mine/fresh/deep/new.txt"), "new\n");
    assert_eq!(text("mine/thing/inside.txt"), "a folder now\n");
    for gone in ["mine/old", "mine/removed.txt", "mine/gone.txt", "mine/drafts"] {
        assert!(!folder.path().join(gone).exists(), "{gone}");
    }
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    let same = folder.run(&["kept", "mine", "--also-compare", "mode,time"]);
    assert_eq!(same.status, Some(0), "{}", same.out);
}

#[test]
fn trees_are_merged_into_a_new_folder_and_a_side_may_decide() {
    let folder = three_trees();
    let done = folder.run(&[&["merge"], &TREES[..], &["-o", "new", "--go", "--prefer", "theirs"]].concat());
    assert_eq!(done.status, Some(0), "{}{}", done.out, done.err);
    let text = |name: &str| String::from_utf8(folder.read(name)).unwrap();
    for (name, expected) in [
        ("same.txt", "same\n"),
        ("clash.txt", "theirs\n"),
        ("added.txt", "added by theirs\n"),
        ("removed.txt", "what one side changed\n"),
        ("both.txt", "ONE\ntwo\nthree\nfour\nFIVE\n"),
        ("moved.txt", "a line of some length\nanother one\nand a third one, edited\n"),
        ("thing/inside.txt", "a folder now\n"),
    ] {
        assert_eq!(text(&format!("new/{name}")), expected, "{name}");
    }
    assert!(!folder.path().join("new/old").exists() && !folder.path().join("new/gone.txt").exists());
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert!(!folder.path().join("new").exists());
    let mine = folder.run(&[&["merge"], &TREES[..], &["-o", "new", "--go", "--prefer", "mine"]].concat());
    assert_eq!((mine.status, text("new/clash.txt")), (Some(0), "mine\n".to_owned()));
    assert!(!folder.path().join("new/removed.txt").exists());
}

#[test]
fn names_that_both_sides_want_and_files_against_folders_are_conflicts() {
    let long = |name: &str| format!("{name}: a file that is long enough\nto be known again\nwhen it moves\n");
    let folder = Folder::with(&[("base/a.txt", &long("a")), ("base/b.txt", &long("b")), ("base/keep.txt", "kept\n")]);
    for side in ["mine", "theirs"] {
        folder.system("cp", &["-a", "base", side]);
    }
    let renamed = |side: &str, from: &str, to: &str| {
        let path = |name: &str| folder.path().join(side).join(name);
        fs::rename(path(from), path(to)).unwrap();
    };
    renamed("mine", "a.txt", "c.txt");
    renamed("theirs", "b.txt", "c.txt");
    folder.write("mine/place", b"a file\n");
    folder.write("theirs/place/inside.txt", b"in a folder\n");
    let ran = folder.run(&["merge", "base", "mine", "theirs", "-o", "mine", "--go"]);
    assert_eq!(ran.status, Some(1), "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("c.txt is wanted for") && ran.out.contains("place is a file on one side"), "{}", ran.out);
    assert_eq!(folder.read("mine/c.txt"), long("a").as_bytes(), "what mine has stays");
    let found = folder.system("find", &["mine", "-name", "*.conflict*"]);
    let mut beside: Vec<&str> = found.lines().collect();
    beside.sort_unstable();
    assert_eq!(beside, ["mine/c.txt.theirs.conflict", "mine/place.theirs.conflict"]);
    assert_eq!(folder.read("mine/place.theirs.conflict/inside.txt"), b"in a folder\n");
    assert_eq!(folder.read("mine/place"), b"a file\n");
}

#[test]
fn archives_and_revisions_are_merged_too() {
    let folder = Folder::with(&[("kit/a.txt", "one\ntwo\nthree\n")]);
    folder.system("git", &["init", "--quiet", "--initial-branch=main", "kit"]);
    folder.system("git", &["-C", "kit", "add", "--all"]);
    folder.system("git", &["-C", "kit", "commit", "--quiet", "-m", "one"]);
    folder.write("theirs/a.txt", b"one\ntwo\n3\n");
    folder.write("theirs/b.txt", b"new\n");
    folder.system("tar", &["-C", "theirs", "-czf", "theirs.tgz", "."]);
    folder.write("kit/a.txt", b"1\ntwo\nthree\n");
    let mut command = folder.command(&["merge", "git:HEAD", ".", "../theirs.tgz", "-o", ".", "--go"]);
    let ran = Ran::of(&command.current_dir(folder.path().join("kit")).output().unwrap());
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    assert_eq!((folder.read("kit/a.txt"), folder.read("kit/b.txt")), (b"1\ntwo\n3\n".to_vec(), b"new\n".to_vec()));
}

/// A repository that calls the program to merge, with two branches.
fn repository(mine: &str, theirs: &str) -> Folder {
    let folder = Folder::with(&[("kit/gauge.toml", BASE), ("kit/.gitattributes", "*.toml merge=tideline\n")]);
    let git = |arguments: &[&str]| folder.system("git", &[&["-C", "kit"], arguments].concat());
    folder.system("git", &["init", "--quiet", "--initial-branch=main", "kit"]);
    let driver = format!("'{}' merge %O %A %B -o %A --name %P --labels %S %X %Y", env!("CARGO_BIN_EXE_tideline"));
    git(&["config", "merge.tideline.driver", &driver]);
    git(&["add", "--all"]);
    git(&["commit", "--quiet", "-m", "base"]);
    git(&["checkout", "--quiet", "-b", "office"]);
    folder.write("kit/gauge.toml", theirs.as_bytes());
    git(&["commit", "--quiet", "-am", "office"]);
    git(&["checkout", "--quiet", "main"]);
    folder.write("kit/gauge.toml", mine.as_bytes());
    git(&["commit", "--quiet", "-am", "keeper"]);
    folder
}

/// Lets the repository merge, with this journal.
fn merged_by_the_repository(folder: &Folder) -> Ran {
    let mut command = std::process::Command::new("git");
    command.args(["-C", "kit", "merge", "--no-edit", "office"]).current_dir(folder.path());
    command.env("GIT_CONFIG_GLOBAL", "/dev/null").env("GIT_CONFIG_NOSYSTEM", "1");
    command.env("XDG_STATE_HOME", folder.path().join(".state")).env("XDG_CONFIG_HOME", folder.path().join(".config"));
    for who in ["AUTHOR", "COMMITTER"] {
        command.env(format!("GIT_{who}_NAME"), "Ada Gauge").env(format!("GIT_{who}_EMAIL"), "ada@merrow.example");
    }
    Ran::of(&command.output().unwrap())
}

#[test]
fn a_repository_calls_it_as_its_merge_program() {
    let mine = BASE.replace("140", "138");
    // A neighbouring line: what the repository would do by itself is no measure.
    let theirs = BASE.replace("channel = 12", "channel = 16");
    let folder = repository(&mine, &theirs);
    let ran = merged_by_the_repository(&folder);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    let merged = mine.replace("channel = 12", "channel = 16");
    assert_eq!(String::from_utf8(folder.read("kit/gauge.toml")).unwrap(), merged);
    assert_eq!(folder.system("git", &["-C", "kit", "status", "--porcelain"]), "");

    let folder = repository(&BASE.replace("s = 60", "s = 30"), &BASE.replace("s = 60", "s = 90"));
    let ran = merged_by_the_repository(&folder);
    assert_eq!(ran.status, Some(1), "{}{}", ran.out, ran.err);
    let text = String::from_utf8(folder.read("kit/gauge.toml")).unwrap();
    assert!(text.contains("<<<<<<< HEAD\ninterval_s = 30\n|||||||"), "{text}");
    assert!(text.contains("=======\ninterval_s = 90\n>>>>>>> office\n"), "{text}");
    assert_eq!(folder.system("git", &["-C", "kit", "status", "--porcelain"]), "UU gauge.toml\n");
    let left = folder.run(&["merge", "--unresolved", "kit"]);
    assert_eq!(
        (left.status, left.out.starts_with("kit/gauge.toml:3  HEAD and office\n")),
        (Some(1), true),
        "{}",
        left.out
    );
}

#[test]
fn a_report_shows_three_columns() {
    let folder = three_trees();
    let ran = folder.run(&[&["report", "--base"], &TREES[..], &["-o", "both.html"]].concat());
    assert_eq!(ran.status, Some(1), "{}", ran.err);
    let page = String::from_utf8(folder.read("both.html")).unwrap();
    assert!(page.contains("11 paths changed: 4 one-sided, 2 alike, 2 apart, 3 conflicts"));
    assert!(page.contains("<b>mine</b><b>base base</b><b>theirs</b>"));
    assert!(page.contains("<section class=\"change conflict\" id=\"f"));
    assert!(!page.contains("https:") && !page.contains("src="), "a page loads nothing from elsewhere");
    folder.run(&[&["report", "--base"], &TREES[..], &["-o", "both.md"]].concat());
    let text = String::from_utf8(folder.read("both.md")).unwrap();
    assert!(text.contains("| ◐ changed | ◐ changed | apart | `both.txt` |  |"), "{text}");
    assert!(text.contains("  ◑ conflict, change 1 of 1 · line 1 · mine and theirs changed the same lines"), "{text}");
    folder.run(&[&["report", "--base"], &TREES[..], &["-o", "both.json"]].concat());
    let document: serde_json::Value = serde_json::from_slice(&folder.read("both.json")).unwrap();
    assert_eq!(document["records"].as_array().unwrap().len(), 13);
}

fn screen(folder: &Folder, arguments: &[&str]) -> Terminal {
    Terminal::start(folder, env!("CARGO_BIN_EXE_tideline"), &[&["review"], arguments].concat(), (100, 30))
}

#[test]
fn conflicts_are_decided_on_the_screen_and_saved() {
    let folder = three_files();
    let mut shown = screen(&folder, &["--base", FILES[0], FILES[1], FILES[2]]);
    let text = shown.shows("1 conflict left");
    assert!(text.contains("◑ mine and theirs changed the same lines: not decided"), "{text}");
    shown.keys("<");
    shown.shows("all decided, not saved");
    shown.keys("q");
    shown.shows("not saved: s saves, the same key once more leaves without saving");
    shown.keys("u");
    shown.shows("1 conflict left");
    shown.keys("r>");
    shown.shows("interval_s = 90");
    shown.keys("+");
    shown.shows("all decided, not saved");
    shown.keys(">s");
    shown.shows("saved ");
    shown.keys("q");
    assert_eq!(shown.end().code(), Some(0));
    let saved = String::from_utf8(folder.read(FILES[1])).unwrap();
    assert_eq!(saved, BASE.replace("s = 60", "s = 90").replace("channel = 12", "channel = 16"));
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert!(folder.read(FILES[1]).starts_with(b"[sensor]\noffset_mm = 138\n"));
}

#[test]
fn a_tree_of_conflicts_is_walked_and_decided() {
    let folder = three_trees();
    let mut shown = screen(&folder, &["--base", "base", "mine", "theirs"]);
    shown.shows("3 conflicts");
    shown.keys("\u{1b}[Hn\r");
    shown.shows("1 conflict left");
    shown.keys(">s");
    shown.shows("puts it back)");
    shown.keys("q");
    shown.shows("saved      clash.txt");
    assert_eq!(folder.read("mine/clash.txt"), b"theirs\n");
    shown.keys("\u{1b}[F\u{1b}[A\u{1b}[A>");
    shown.shows("removed.txt: new: 1 file");
    assert_eq!(folder.read("mine/removed.txt"), b"what one side changed\n");
    shown.keys("q");
    assert_eq!(shown.end().code(), Some(1));
    assert!(Path::new(&folder.path().join("mine/added.txt")).exists());
}

#[test]
fn names_that_one_side_exchanged_are_exchanged_and_put_back() {
    let long = |name: &str| format!("{name}: a file that is long enough\nto be known again\nwhen it moves\n");
    let folder = Folder::with(&[
        ("base/a.txt", &long("a")),
        ("base/b.txt", &long("b")),
        ("theirs/a.txt", &long("b")),
        ("theirs/b.txt", &long("a")),
        ("theirs/deep/c.txt", "new\n"),
    ]);
    folder.system("cp", &["-a", "base", "mine"]);
    folder.write("mine/b.txt", long("b").replace("known", "found").as_bytes());
    let ran = folder.run(&["merge", "base", "mine", "theirs", "-o", "mine", "--go"]);
    assert!(ran.status.is_some_and(|status| status < 2), "{}{}", ran.out, ran.err);
    let both: Vec<String> =
        ["a.txt", "b.txt"].map(|name| String::from_utf8(folder.read(&format!("mine/{name}"))).unwrap()).into();
    assert!(both.concat().contains("found again"), "the edit of mine is there: {both:?}");
    assert_eq!(folder.read("mine/deep/c.txt"), b"new\n");
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(folder.read("mine/a.txt"), long("a").as_bytes());
    assert_eq!(folder.read("mine/b.txt"), long("b").replace("known", "found").as_bytes());
}

#[test]
fn what_was_not_looked_at_or_does_not_count_is_told() {
    let folder = three_trees();
    let ran = folder.run(&[&["--base"], &TREES[..], &["--exclude", "*.txt", "--only", "conflict"]].concat());
    assert!(ran.out.contains("not shown: 1 one-sided"), "{}", ran.out);
    assert!(ran.out.contains("by --include or --exclude"), "{}", ran.out);
    let spaced = Folder::with(&[("base.c", "a = 1;\n\nb\n"), ("mine.c", "a=1;\n\nb\n"), ("theirs.c", "a = 1;\n\nB\n")]);
    let ran = spaced.run(&["--base", "base.c", "--mute", "space", "mine.c", "theirs.c"]);
    assert!(ran.out.contains("◌ change 1 of 2, which does not count · line 1 · by mine.c"), "{}", ran.out);
    assert!(ran.out.contains("  muted 1 line: space 1\n"), "{}", ran.out);
    let counted = spaced.run(&["--base", "base.c", "--mute", "space", "--counted-only", "mine.c", "theirs.c"]);
    assert!(!counted.out.contains("change 1 of 2"), "{}", counted.out);
    let unused = spaced.run(&["--base", "base.c", "--ignore", "uuids", "mine.c", "theirs.c"]);
    assert!(unused.err.contains("--ignore uuids put nothing aside"), "{}", unused.err);
}

#[test]
fn a_name_that_leads_out_of_the_folder_is_not_followed() {
    let folder = Folder::with(&[("base/a", "a\n"), ("theirs/a", "A\n"), ("outside", "kept\n")]);
    folder.system("cp", &["-a", "base", "mine"]);
    folder.system(
        "sh",
        &["-c", "echo evil > theirs/x && tar -C theirs --transform 's,^x$,../outside,' -cf theirs.tar a x"],
    );
    let ran = folder.run(&["merge", "base", "mine", "theirs.tar", "-o", "mine", "--go"]);
    assert_eq!(ran.status, Some(2), "{}{}", ran.out, ran.err);
    assert!(ran.err.contains("../outside: the name is not followed"), "{}", ran.err);
    assert_eq!((folder.read("outside"), folder.read("mine/a")), (b"kept\n".to_vec(), b"A\n".to_vec()));
}

#[test]
fn permissions_of_trees_are_merged_and_told() {
    let folder = Folder::with(&[("base/run.sh", "one\n"), ("base/b.sh", "two\n")]);
    for side in ["mine", "theirs"] {
        folder.system("cp", &["-a", "base", side]);
    }
    let mode = |path: &str| fs::metadata(folder.path().join(path)).unwrap().permissions().mode() & 0o777;
    let set = |path: &str, mode: u32| {
        fs::set_permissions(folder.path().join(path), fs::Permissions::from_mode(mode)).unwrap();
    };
    for path in ["base/run.sh", "mine/run.sh", "base/b.sh"] {
        set(path, 0o644);
    }
    set("theirs/run.sh", 0o755);
    set("mine/b.sh", 0o600);
    set("theirs/b.sh", 0o755);
    folder.write("mine/run.sh", b"ONE\n");
    let ran = folder.run(&["merge", "base", "mine", "theirs", "-o", "mine", "--go", "--no-config"]);
    assert_eq!(ran.status, Some(1), "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("◑ conflict   b.sh   permissions\n"), "{}", ran.out);
    assert!(ran.out.contains("the permissions are 600 in mine, and 755 in theirs"), "{}", ran.out);
    assert_eq!((mode("mine/run.sh"), mode("mine/b.sh")), (0o755, 0o600));
    assert_eq!(folder.read("mine/run.sh"), b"ONE\n");
    let decided = folder.run(&["merge", "base", "mine", "theirs", "-o", "mine", "--go", "--prefer", "theirs"]);
    assert_eq!((decided.status, mode("mine/b.sh")), (Some(0), 0o755), "{}{}", decided.out, decided.err);
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(mode("mine/b.sh"), 0o600);
}

#[test]
fn a_merge_does_not_go_into_a_side() {
    let folder = three_trees();
    let ran = folder.run(&[&["merge"], &TREES[..], &["-o", "theirs/new", "--go"]].concat());
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("it would be inside theirs; name a folder elsewhere"), "{}", ran.err);
}

#[test]
fn what_others_change_meanwhile_is_left_out() {
    let folder = three_trees();
    // A link has come where a folder was: nothing is written through it.
    fs::create_dir(folder.path().join("elsewhere")).unwrap();
    std::os::unix::fs::symlink("../elsewhere", folder.path().join("mine/fresh")).unwrap();
    let ran = folder.run(&[&["merge"], &TREES[..], &["-o", "mine", "--go"]].concat());
    assert!(ran.status.is_some_and(|status| status > 0), "{}{}", ran.out, ran.err);
    assert_eq!(fs::read_dir(folder.path().join("elsewhere")).unwrap().count(), 0, "{}{}", ran.out, ran.err);
}

#[test]
fn a_conflict_that_was_decided_by_hand_stays_decided_on_the_screen() {
    let folder = three_trees();
    folder.write("editor", b"#!/bin/sh\nprintf 'by hand' > \"$1\"\n");
    fs::set_permissions(folder.path().join("editor"), fs::Permissions::from_mode(0o755)).unwrap();
    let editor = folder.path().join("editor");
    let visual = format!("VISUAL={}", editor.display());
    let words = [&visual, env!("CARGO_BIN_EXE_tideline"), "review", "--base", "base", "mine", "theirs"];
    let mut shown = Terminal::start(&folder, "env", &words, (100, 30));
    shown.shows("3 conflicts");
    shown.keys("\u{1b}[Hn\r");
    shown.shows("1 conflict left");
    shown.keys("e");
    shown.shows("by hand");
    shown.keys("s");
    shown.shows("puts it back)");
    shown.keys("q");
    shown.shows("saved      clash.txt");
    assert_eq!(folder.read("mine/clash.txt"), b"by hand\n");
    shown.keys("q");
    assert_eq!(shown.end().code(), Some(1));
}

#[test]
fn standard_input_and_links_are_sides_like_any() {
    let folder = three_files();
    let theirs = folder.read(FILES[2]);
    let ran = folder.run_with_input(&["merge", FILES[0], FILES[0], "-"], &theirs);
    assert_eq!((ran.status, ran.out.as_bytes()), (Some(0), &theirs[..]));
    let trees = Folder::with(&[
        ("base/a", "a\n"),
        ("base/b", "b\n"),
        ("mine/a", "a\n"),
        ("mine/b", "b\n"),
        ("theirs/b", "b\n"),
    ]);
    std::os::unix::fs::symlink("b", trees.path().join("theirs/a")).unwrap();
    let ran = trees.run(&["merge", "base", "mine", "theirs", "-o", "mine", "--go"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    assert_eq!(fs::read_link(trees.path().join("mine/a")).unwrap(), Path::new("b"));
    assert_eq!(trees.run(&["undo"]).status, Some(0));
    assert_eq!(trees.read("mine/a"), b"a\n");
    assert!(!fs::symlink_metadata(trees.path().join("mine/a")).unwrap().is_symlink());
}
