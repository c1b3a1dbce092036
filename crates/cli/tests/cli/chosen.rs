//! What a reader chooses where they know better: lines kept together, lines left out, files paired by hand or by a rename.

use crate::support::Folder;

const BEFORE: &str = "one\ntwo\nthree\nfour\nfive\nsix\n";
const AFTER: &str = "zero\none\n2\nIII\nfour\nfive\nsix\nseven\n";

fn two_files() -> Folder {
    Folder::with(&[("a.txt", BEFORE), ("b.txt", AFTER)])
}

#[test]
fn lines_that_are_kept_together_stand_in_one_row() {
    let folder = two_files();
    let held = folder.run(&["a.txt", "b.txt", "--hold", "before:3=after:4", "--context", "0"]);
    assert_eq!(held.status, Some(1));
    assert!(
        held.out.contains(" ○  3        three\n             ^^^^^\n ●      4    III\n             ^^^\n"),
        "{}",
        held.out
    );
    let equal = folder.run(&["a.txt", "b.txt", "--hold", "before:1=after:6", "--context", "0"]);
    assert!(equal.out.contains(" ○  1        one\n"), "equal lines part where others are held: {}", equal.out);
    let explained = folder.run(&["explain", "a.txt", "b.txt", "--hold", "before:3=after:4", "--line", "before:3"]);
    assert!(explained.out.contains("line 3 in a.txt, line 4 in b.txt: counts"), "{}", explained.out);
    let taken = folder.run(&[
        "take",
        "a.txt",
        "b.txt",
        "--hold",
        "before:3=after:4",
        "--lines",
        "before:3",
        "--into",
        "before",
    ]);
    assert_eq!((taken.status, folder.read("a.txt").as_slice()), (Some(0), &b"one\ntwo\nIII\nfour\nfive\nsix\n"[..]));
}

#[test]
fn only_some_lines_can_be_compared_and_keep_their_numbers() {
    let folder = two_files();
    let part = folder.run(&["a.txt", "b.txt", "--lines", "before:1-3,after:2-4"]);
    assert!(part.out.contains("1 change, only before lines 1–3, after lines 2–4"), "{}", part.out);
    assert!(part.out.contains("change 1 of 1 · lines 2–3, now lines 3–4\n    1   2    one\n"), "{}", part.out);
    let same = folder.run(&["a.txt", "b.txt", "--lines", "before:4-6,after:5-7"]);
    assert_eq!(same.status, Some(0));
    assert_eq!(same.out, "the lines of a.txt and b.txt that are compared are the same\n");
    assert_eq!(folder.run(&["a.txt", "b.txt", "--quiet", "--lines", "before:4-6,after:5-7"]).status, Some(0));
    let json = folder.run(&["a.txt", "b.txt", "--lines", "before:6,after:7-8", "--json"]);
    assert!(
        json.out.contains(r#""before":{"line":7,"lines":[]},"after":{"line":8,"lines":["seven\n"]}"#),
        "{}",
        json.out
    );
}

#[test]
fn what_cannot_be_meant_is_refused() {
    let folder = two_files();
    folder.write("one/x", b"1\n");
    folder.write("two/x", b"2\n");
    for (arguments, reason) in [
        (&["a.txt", "b.txt", "--hold", "before:3=after:7", "--hold", "before:5=after:2"][..], "cross"),
        (&["a.txt", "b.txt", "--hold", "before:99=after:3"], "there is no line 99 in a.txt"),
        (&["a.txt", "b.txt", "--hold", "3=4"], "before:12=after:40"),
        (&["a.txt", "b.txt", "--lines", "before:4-60"], "there is no line 60 in a.txt: it has 6 lines"),
        (&["a.txt", "b.txt", "--lines", "10-20"], "before:10-80,after:12-90"),
        (&["one", "two", "--hold", "before:1=after:1"], "are for two files"),
        (&["one", "two", "x", "--lines", "before:1-2"], "are for two files"),
        (&["one", "two", "--pair", "y=x"], "cannot pair y: it cannot be found in one"),
        (&["one", "two", "--pair", "x"], "OLD=NEW"),
        (&["a.txt", "b.txt", "--pair", "x=y"], "--pair is for two folders"),
    ] {
        let ran = folder.run(arguments);
        assert_eq!(ran.status, Some(2), "{arguments:?}");
        assert!(ran.err.contains(reason), "{arguments:?}: {}", ran.err);
    }
}

fn two_kits() -> Folder {
    let folder = Folder::new();
    for (kit, more) in [("one/kit-7", ""), ("two/kit-8", "more\n")] {
        let name = kit.rsplit('/').next().unwrap();
        folder.write(&format!("{kit}/name.toml"), format!("name = {name}\n").as_bytes());
        folder.write(&format!("{kit}/parts/list"), format!("a\nb\n{name}\n{more}").as_bytes());
    }
    folder
}

#[test]
fn a_rename_that_is_put_aside_holds_for_paths_too() {
    let folder = two_kits();
    let ran = folder.run(&["one", "two", "--ignore", "renamed:kit-7=kit-8", "--no-legend"]);
    assert_eq!(ran.status, Some(1));
    assert!(ran.out.starts_with("one ○  two ●    2 files: 1 same, 1 changed\n"), "{}", ran.out);
    assert!(ran.out.contains("  kit-8/parts/\n    ◐ list    1 change, 1 ●"), "{}", ran.out);
    let muted = folder.run(&["one", "two", "--mute", "renamed:kit-7=kit-8", "--exclude", "list"]);
    assert_eq!(muted.status, Some(0));
    assert!(muted.out.contains("1 muted"), "{}", muted.out);
    let back = folder.run(&["two", "one", "--ignore", "renamed:kit-7=kit-8", "--no-moves"]);
    assert!(back.out.contains("2 folders new"), "a rename has one direction: {}", back.out);
    let plan = folder.run(&["sync", "one", "two", "--ignore", "renamed:kit-7=kit-8"]);
    assert!(plan.out.contains("copy 2 files"), "a copy goes by names and bytes: {}", plan.out);
}

#[test]
fn files_and_folders_can_be_paired_by_hand() {
    let folder = two_kits();
    let folders = folder.run(&["one", "two", "--pair", "kit-7=kit-8", "--no-moves", "--no-legend"]);
    assert!(folders.out.starts_with("one ○  two ●    2 files: 0 same, 2 moved\n"), "{}", folders.out);
    assert!(folders.out.contains("↷ name.toml    from kit-7/name.toml, 1 change, 1 ○ 1 ●"), "{}", folders.out);
    let crossed = Folder::with(&[("one/a", "1\n"), ("one/b", "2\n"), ("two/a", "2\n"), ("two/b", "3\n")]);
    let ran = crossed.run(&["one", "two", "--pair", "b=a", "--no-moves"]);
    assert!(ran.out.contains("↷ a    from b") && ran.out.contains("○ a") && ran.out.contains("● b"), "{}", ran.out);
}
