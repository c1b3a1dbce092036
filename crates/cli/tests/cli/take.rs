//! `take`: chosen changes, carried across.

use std::io::Write;
use std::process::{Command, Stdio};

use crate::support::Folder;

const BEFORE: &str = "name = quay\nlow = 1\nsame\nsame too\nhigh = 5\nsame again\nstill\nlast = 9\n";
const AFTER: &str = "name = pier\nlow = 1\nsame\nsame too\nhigh = 6\nsame again\nstill\nlast = 8\n";

fn case() -> Folder {
    Folder::with(&[("b", BEFORE), ("a", AFTER)])
}

fn text(folder: &Folder, name: &str) -> String {
    String::from_utf8(folder.read(name)).unwrap()
}

#[test]
fn chosen_changes_are_carried_and_shown() {
    let folder = case();
    let ran = folder.run(&["take", "b", "a", "--changes", "1,3", "--into", "before"]);
    let wanted = "b    as it was ○  as it is now ●    2 changes    ────◐◐─────────────────◐◐◐

  change 1 of 2 · line 1
 ○  1       name = quay
                   ^^^^
 ●      1   name = pier
                   ^^^^
    2   2   low = 1
    3   3   same
    4   4   same too

  change 2 of 2 · line 8
    5   5   high = 5
    6   6   same again
    7   7   still
 ○  8       last = 9
                   ^
 ●      8   last = 8
                   ^

took 2 of 3 changes into b (run 1; `tideline undo` puts it back)
";
    let plain = |text: &str| text.split_whitespace().filter(|word| !word.contains('─')).collect::<Vec<_>>().join(" ");
    assert_eq!(plain(&ran.out), plain(wanted), "{}", ran.out);
    assert_eq!(text(&folder, "b"), BEFORE.replace("quay", "pier").replace('9', "8"));
    assert_eq!(text(&folder, "a"), AFTER);
    folder.run(&["undo"]);
    assert_eq!(text(&folder, "b"), BEFORE);
}

#[test]
fn the_direction_is_the_one_that_is_meant() {
    let folder = case();
    assert_eq!(folder.run(&["take", "b", "a", "--changes", "2", "--into", "after"]).status, Some(0));
    assert_eq!((text(&folder, "b"), text(&folder, "a")), (BEFORE.to_owned(), AFTER.replace('6', "5")));
    let folder = case();
    folder.run(&["take", "b", "a", "--all-but", "2", "--into", "before"]);
    assert_eq!(text(&folder, "b"), AFTER.replace('6', "5"));
    let folder = case();
    folder.run(&["take", "b", "a", "--lines", "before:5", "--lines", "after:8", "--into", "before"]);
    assert_eq!(text(&folder, "b"), AFTER.replace("pier", "quay"));
}

#[test]
fn a_third_file_leaves_both_sides_alone() {
    let folder = case();
    let ran = folder.run(&["take", "b", "a", "--changes", "1", "--into", "before", "-o", "mix"]);
    assert!(ran.out.ends_with("took 1 of 3 changes into mix (run 1; `tideline undo` puts it back)\n"), "{}", ran.out);
    assert_eq!(text(&folder, "mix"), BEFORE.replace("quay", "pier"));
    assert_eq!((text(&folder, "b"), text(&folder, "a")), (BEFORE.to_owned(), AFTER.to_owned()));
    let tried = folder.run(&["take", "b", "a", "--changes", "1", "--into", "before", "--dry-run"]);
    assert!(tried.out.contains("would take 1 of 3 changes into b; nothing was written"), "{}", tried.out);
    assert_eq!(text(&folder, "b"), BEFORE);
}

#[test]
fn numbers_are_those_of_a_comparison_with_the_same_options() {
    let folder = Folder::with(&[("b", "12:01:00 x\nsame\nsame\nold\n"), ("a", "12:02:00 x\nsame\nsame\nnew\n")]);
    let rules = ["--mute", "timestamps"];
    folder.run(&[&["take", "b", "a", "--changes", "1", "--into", "before", "--counted-only"][..], &rules].concat());
    assert_eq!(
        text(&folder, "b"),
        "12:01:00 x\nsame\nsame\nnew\n",
        "the muted change has no number while it is hidden"
    );
    folder.run(&[&["take", "b", "a", "--changes", "1", "--into", "before"][..], &rules].concat());
    assert_eq!(text(&folder, "b"), "12:02:00 x\nsame\nsame\nnew\n");
}

#[test]
fn encodings_line_ends_and_the_end_of_the_file_are_kept() {
    let utf16 =
        |text: &str| [0xfeff].into_iter().chain(text.encode_utf16()).flat_map(u16::to_le_bytes).collect::<Vec<u8>>();
    let folder = Folder::new();
    folder.write("b", &utf16("höhe 1\r\nsame\r\nsame\r\nend 1"));
    folder.write("a", "höhe 2\nsame\nsame\nend 2".as_bytes());
    let ran = folder.run(&["take", "b", "a", "--changes", "1", "--into", "before", "--ignore", "line-ends"]);
    assert_eq!(ran.status, Some(0), "{}", ran.err);
    assert_eq!(folder.read("b"), utf16("höhe 2\r\nsame\r\nsame\r\nend 1"));
    // A letter that the encoding lacks is not lost.
    folder.write("l1", b"h\xf6he\nsame\nsame\n");
    folder.write("u", "tide ✓\nsame\nsame\n".as_bytes());
    let ran = folder.run(&["take", "l1", "u", "--encoding", "latin1,utf-8", "--changes", "1", "--into", "before"]);
    assert!(ran.status == Some(2) && ran.err.contains("lacks letters of what is taken"), "{}", ran.err);
    assert_eq!(folder.read("l1"), b"h\xf6he\nsame\nsame\n");
}

#[test]
fn what_cannot_be_taken_is_refused_and_nothing_is_written() {
    let folder = case();
    folder.write("bytes", b"\0\x01\x02");
    for (arguments, reason) in [
        (&["b", "a", "--changes", "4", "--into", "before"][..], "there is no change 4: they are numbered from 1 to 3"),
        (&["b", "a", "--lines", "before:3", "--into", "before"], "line 3 of the side before is in no change"),
        (&["b", "a", "--changes", "x", "--into", "before"], "numbers are written as in 2,5-7"),
        (&["b", "a", "--lines", "3", "--into", "before"], "lines are written as in before:13-14"),
        (&["b", "a", "--into", "before"], "required"),
        (&["b", "a", "--changes", "1"], "--into"),
        (&["b", "bytes", "--changes", "9", "--into", "before"], "there is no change 9"),
        (&["b", "nowhere", "--changes", "1", "--into", "before"], "there is no such file"),
        (&[".", ".", "--changes", "1", "--into", "before"], "sync"),
        (&["b", "a", "--ask", "--into", "before"], "needs a terminal"),
    ] {
        let ran = folder.run(&[&["take"], arguments].concat());
        assert_eq!((ran.status, ran.out.as_str()), (Some(2), ""), "{arguments:?}");
        assert!(ran.err.contains(reason), "{arguments:?}: {}", ran.err);
    }
    assert_eq!((text(&folder, "b"), text(&folder, "a")), (BEFORE.to_owned(), AFTER.to_owned()));
}

/// Runs `take --ask` in a terminal of its own, and types.
fn asked(folder: &Folder, keys: &str, editor: &str) -> Option<String> {
    if Command::new("script").arg("--version").output().is_err() {
        eprintln!("there is no `script` to make a terminal with: skipped");
        return None;
    }
    let line = format!("{} take --color never b a --ask --into before", env!("CARGO_BIN_EXE_tideline"));
    let mut command = Command::new("script");
    command.args(["-qec", &line, "/dev/null"]).current_dir(folder.path());
    command.env("EDITOR", editor).env_remove("VISUAL").env("TERM", "xterm").env("PAGER", "cat");
    command.env("XDG_STATE_HOME", folder.path().join(".state")).env("XDG_CONFIG_HOME", folder.path().join(".config"));
    let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
    child.stdin.take().unwrap().write_all(keys.as_bytes()).unwrap();
    let output = child.wait_with_output().unwrap();
    Some(String::from_utf8_lossy(&output.stdout).into_owned())
}

#[test]
fn asking_goes_through_the_changes() {
    let keys_and_results = [
        ("t\nl\nt\n", BEFORE.replace("quay", "pier").replace('9', "8")),
        ("leave\nrest\n", AFTER.replace("pier", "quay")),
        ("t\ns\n", BEFORE.replace("quay", "pier")),
        // Back to the first, which is left after all; what is no answer is asked again.
        ("t\nt\nb\nb\nwhat?\nl\nl\nt\n", BEFORE.replace('9', "8")),
        ("l\ne\nl\n", BEFORE.replace("high = 5", "high = 6 or so")),
    ];
    for (keys, wanted) in keys_and_results {
        let folder = case();
        let Some(out) = asked(&folder, keys, "sed -i 's/$/ or so/'") else { return };
        assert_eq!(text(&folder, "b"), wanted, "{keys:?}\n{out}");
        assert!(out.contains("b ○  a ●    3 changes"), "{out}");
        assert!(out.contains("change 1 of 3: take it from a into b?"), "{out}");
        assert!(out.contains("t take · l leave · e edit · b back · r take this and the rest · s stop here"), "{out}");
    }
    let folder = case();
    let Some(out) = asked(&folder, "e\nl\ns\n", "false") else { return };
    assert!(out.contains("the editor false ended with trouble"), "{out}");
    assert_eq!(text(&folder, "b"), BEFORE);
    // The terminal goes away: nothing is written.
    let folder = case();
    let Some(out) = asked(&folder, "t\n\u{4}", "true") else { return };
    assert!(out.contains("nothing was written"), "{out}");
    assert_eq!(text(&folder, "b"), BEFORE);
}

#[test]
fn lines_that_are_all_of_a_change_are_the_change() {
    let folder =
        Folder::with(&[("b", "1\nlow = 1\n2\n3\n4\nend\n"), ("a", "1\nlow = 2\n2\n3\n4\nmore\nand more\nend\n")]);
    let said = |lines: &str| folder.run(&["take", "--dry-run", "b", "a", "--lines", lines, "--into", "before"]).out;
    assert!(said("after:2").ends_with("would take 1 of 2 changes into b; nothing was written, this was a trial\n"));
    assert!(said("after:6-7").ends_with("would take 1 of 2 changes into b; nothing was written, this was a trial\n"));
    assert!(said("after:6").contains("into b, some only in part;"));
}

#[test]
fn a_file_of_two_folders_is_named_after_them() {
    let folder = Folder::with(&[("spring/deep/g.toml", BEFORE), ("autumn/deep/g.toml", AFTER)]);
    let ran = folder.run(&["take", "spring", "autumn", "g.toml", "--changes", "1", "--into", "before"]);
    assert!(ran.out.contains("took 1 of 3 changes into spring/deep/g.toml (run 1;"), "{}{}", ran.out, ran.err);
    assert!(text(&folder, "spring/deep/g.toml").starts_with("name = pier\n"));
    let unnamed = folder.run(&["take", "spring", "autumn", "--changes", "1", "--into", "before"]);
    assert_eq!(unnamed.status, Some(2));
    assert!(unnamed.err.contains("name the file in them too"), "{}", unnamed.err);
}
