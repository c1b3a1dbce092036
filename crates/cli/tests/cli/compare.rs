//! `tideline BEFORE AFTER` on two files.

use std::io::Read;
use std::process::Stdio;

use crate::support::Folder;

const BEFORE: &str = "[sensor]\noffset = 140\ninterval = 60\ndatum = \"chart\"\n";
const AFTER: &str = "[sensor]\noffset = 140\ninterval = 30\ndatum = \"chart\"\nfilter = \"mean\"\n";

fn gauge() -> Folder {
    Folder::with(&[("spring/gauge.toml", BEFORE), ("autumn/gauge.toml", AFTER)])
}

#[test]
fn changes_are_drawn_with_numbers_marks_and_markers() {
    let ran = gauge().run(&["spring/gauge.toml", "autumn/gauge.toml"]);
    let expected = "\
gauge.toml    spring ○  autumn ●    2 changes    ──────────◐◐◐◐◐◐◐───────●●●●●●●●

  changes 1–2 of 2 · lines 3–4, now lines 3–5 · in [sensor]
      1   1    [sensor]
      2   2    offset = 140
 1 ○  3        interval = 60
                          ^^
   ●      3    interval = 30
                          ^^
      4   4    datum = \"chart\"
 2 ●      5    filter = \"mean\"

  ○ gone: spring alone has it   ● new: autumn alone has it   ^ what changed in the line above
";
    assert_eq!((ran.status, ran.out.as_str(), ran.err.as_str()), (Some(1), expected, ""));
}

#[test]
fn the_direction_is_that_of_the_arguments() {
    let ran = gauge().run(&["autumn/gauge.toml", "spring/gauge.toml"]);
    assert!(ran.out.starts_with("gauge.toml    autumn ○  spring ●    2 changes "), "{}", ran.out);
    assert!(ran.out.contains("\n 2 ○  5        filter = \"mean\"\n"), "{}", ran.out);
}

#[test]
fn plain_output_is_ascii() {
    let folder = Folder::with(&[("a", "tide\nhöhe\n\u{1b}[31mred\n"), ("b", "tide\nflut\n")]);
    let ran = folder.run(&["--plain", "a", "b"]);
    assert!(ran.out.is_ascii(), "{}", ran.out);
    assert!(ran.out.contains(" o  2        h<U+00F6>he\n"), "{}", ran.out);
    assert!(ran.out.contains("\\x1b[31mred"), "{}", ran.out);
}

#[test]
fn colour_marks_words_and_needs_no_marker_line() {
    let folder = gauge();
    let ran = folder.run(&["--color", "always", "spring/gauge.toml", "autumn/gauge.toml"]);
    let word = "\u{1b}[38;2;218;255;247m\u{1b}[48;2;11;98;87m30\u{1b}[0m";
    assert!(ran.out.contains(word), "{:?}", ran.out);
    assert!(!ran.out.contains('^'), "{:?}", ran.out);
    let bare: String =
        ran.out.split('\u{1b}').map(|part| part.split_once('m').map_or(part, |(_, rest)| rest)).collect();
    let drawn = folder.run(&["spring/gauge.toml", "autumn/gauge.toml"]);
    let rows = |text: &str| text.lines().filter(|row| row.contains('○') || row.contains('●')).count();
    assert_eq!(rows(&bare), rows(&drawn.out));
}

#[test]
fn the_environment_decides_about_colour() {
    let folder = gauge();
    let coloured = |variables: &[(&str, &str)], arguments: &[&str]| {
        let mut all = vec!["spring/gauge.toml", "autumn/gauge.toml"];
        all.extend(arguments);
        let output = folder.command(&all).envs(variables.iter().copied()).output().unwrap();
        output.stdout.contains(&0x1b)
    };
    assert!(!coloured(&[], &[]), "a pipe gets no colour");
    assert!(coloured(&[("CLICOLOR_FORCE", "1")], &[]));
    assert!(!coloured(&[("CLICOLOR_FORCE", "0")], &[]));
    assert!(!coloured(&[("CLICOLOR_FORCE", "1"), ("NO_COLOR", "1")], &[]));
    assert!(coloured(&[("NO_COLOR", "1")], &["--color", "always"]), "the option is the last word");
    assert!(!coloured(&[("CLICOLOR_FORCE", "1")], &["--color", "never"]));
}

#[test]
fn fewer_colours_are_used_where_the_terminal_has_fewer() {
    let folder = gauge();
    let with = |term: &str| {
        let mut command = folder.command(&["--color", "always", "spring/gauge.toml", "autumn/gauge.toml"]);
        String::from_utf8(command.env_remove("COLORTERM").env("TERM", term).output().unwrap().stdout).unwrap()
    };
    assert!(with("xterm-256color").contains("\u{1b}[38;5;"));
    assert!(!with("xterm-256color").contains("38;2;"));
    assert!(with("xterm").contains("\u{1b}[7m"), "in 16 colours a changed word is reversed");
    assert!(!with("xterm").contains("38;"));
    assert!(with("dumb").contains("\u{1b}[7m"), "what is asked of a terminal that says nothing stays simple");
}

#[test]
fn context_is_as_wide_as_asked() {
    let before: String = (1..=40).map(|n| format!("reading {n}\n")).collect();
    let after = before.replace("reading 20\n", "reading twenty\n");
    let folder = Folder::with(&[("a", &before), ("b", &after)]);
    let equal = |context: &str| {
        let ran = folder.run(&["--context", context, "a", "b"]);
        ran.out.lines().filter(|row| row.starts_with("   ") && row.contains("reading")).count()
    };
    assert_eq!(["0", "1", "5", "all"].map(equal), [0, 2, 10, 39]);
}

#[test]
fn no_line_between_two_changes_is_shown_twice() {
    for gap in 1..9 {
        let middle: String = (0..gap).map(|n| format!("middle {n}\n")).collect();
        let folder = Folder::with(&[("a", &format!("one\n{middle}two\n")), ("b", &format!("1\n{middle}2\n"))]);
        let ran = folder.run(&["a", "b"]);
        for n in 0..gap {
            let times = ran.out.matches(&format!("middle {n}\n")).count();
            assert_eq!(times, usize::from(gap <= 6 || !(3..gap - 3).contains(&n)), "gap {gap}, line {n}:\n{}", ran.out);
        }
    }
}

#[test]
fn a_missing_final_line_end_is_said() {
    let ran = Folder::with(&[("a", "one\ntwo"), ("b", "one\ntwo\n")]).run(&["a", "b"]);
    assert!(ran.out.contains(" ○  2        two ‹no line end›\n"), "{}", ran.out);
    assert!(ran.out.contains(" ●      2    two␊\n                ^\n"), "{}", ran.out);
}

#[test]
fn markers_stand_under_wide_letters_and_tabs() {
    let ran = Folder::with(&[("a", "潮位\tlow tide\n"), ("b", "潮位\tlow water\n")]).run(&["a", "b"]);
    let rows: Vec<_> = ran.out.lines().collect();
    let gone = rows.iter().position(|row| row.contains("low tide")).unwrap();
    // Two wide letters take four columns, so the tab goes to the eighth.
    assert_eq!(rows[gone], " ○  1        潮位    low tide");
    assert_eq!(rows[gone + 1].find('^'), Some(13 + "        low ".len()), "{}", ran.out);
}

#[test]
fn letters_or_a_pattern_can_be_the_grain() {
    let folder = Folder::with(&[("a", "code MER-HM;x\n"), ("b", "code MER-HN;x\n")]);
    let markers = |grain: &str| {
        let ran = folder.run(&["--grain", grain, "a", "b"]);
        ran.out.lines().find(|row| row.contains('^') && !row.contains('g')).map(|row| row.matches('^').count())
    };
    assert_eq!(markers("letter"), Some(1));
    assert_eq!(markers("word"), Some(2));
    assert_eq!(markers("/[^;]+/"), Some(11));
    assert_eq!(markers("line"), None);
}

#[test]
fn equal_files_say_so_in_one_line() {
    let ran = Folder::with(&[("spring/x", "same\n"), ("autumn/x", "same\n")]).run(&["spring/x", "autumn/x"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), "x is the same in spring and autumn (5 bytes)\n"));
}

#[test]
fn quiet_prints_nothing() {
    let folder = gauge();
    let ran = folder.run(&["--quiet", "spring/gauge.toml", "autumn/gauge.toml"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(1), ""));
    let ran = folder.run(&["-q", "spring/gauge.toml", "spring/gauge.toml"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), ""));
}

#[test]
fn standard_input_and_pipes_are_sides() {
    let folder = gauge();
    let ran = folder.run_with_input(&["-", "autumn/gauge.toml"], BEFORE.as_bytes());
    assert_eq!(ran.status, Some(1));
    assert!(ran.out.starts_with("standard input ○  autumn/gauge.toml ●    2 changes "), "{}", ran.out);
    let script = "\"$0\" <(cat spring/gauge.toml) <(cat autumn/gauge.toml)";
    let output = std::process::Command::new("bash")
        .args(["-c", script, env!("CARGO_BIN_EXE_tideline")])
        .current_dir(folder.path())
        .output()
        .unwrap();
    assert!(String::from_utf8_lossy(&output.stdout).contains("2 changes"), "{output:?}");
}

#[test]
fn a_closed_pipe_ends_quietly() {
    let before: String = (0..200_000).map(|n| format!("{n}\n")).collect();
    let folder = Folder::with(&[("a", &before), ("b", "nothing\n")]);
    let mut command = folder.command(&["a", "b"]);
    let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    let mut first = [0; 10];
    child.stdout.take().unwrap().read_exact(&mut first).unwrap();
    let output = child.wait_with_output().unwrap();
    assert_eq!((output.status.code(), output.stderr.as_slice()), (Some(1), &b""[..]));
}

#[test]
fn chosen_changes_are_printed_alone_and_the_others_counted() {
    let lines = |changed: &str| -> String {
        (0..40).map(|at| format!("{at}{}\n", if at % 10 == 5 { changed } else { "" })).collect()
    };
    let folder = Folder::with(&[("b/x", &lines("")), ("a/x", &lines("!")), ("b/y", "1\n"), ("a/y", "1\n2\n")]);
    let ran = folder.run(&["--changes", "2,4", "b/x", "a/x"]);
    let headings: Vec<&str> = ran.out.lines().filter(|row| row.starts_with("  change")).collect();
    assert_eq!(headings, ["  change 2 of 4 · line 16", "  change 4 of 4 · line 36"], "{}", ran.out);
    assert!(ran.out.contains("\n  not shown: 2 other changes (--changes)\n"), "{}", ran.out);
    assert_eq!(folder.run(&["--changes", "2,4", "b", "a", "x"]).out, ran.out);
    let missing = folder.run(&["--changes", "3-9", "b/x", "a/x"]);
    assert_eq!((missing.status, missing.out.as_str()), (Some(2), ""));
    assert_eq!(missing.err, "tideline: cannot show change 9 of x: it has 4 changes\n");
    let trees = folder.run(&["--changes", "1", "b", "a"]);
    assert_eq!(trees.err, "tideline: cannot show some changes of two folders: name one file after them\n");
}

#[test]
fn what_is_also_compared_makes_two_files_different() {
    let folder = Folder::with(&[("b", "low\n"), ("a", "low\n"), ("c", "high\n")]);
    [("b", 1_000_000_000), ("a", 1_000_000_060), ("c", 1_000_000_060)]
        .into_iter()
        .for_each(|(name, time)| folder.set_time(name, time));
    let times = "changed 2001-09-09 01:46:40, now 2001-09-09 01:47:40 (UTC)";
    let ran = folder.run(&["--also-compare", "time", "b", "a"]);
    assert_eq!((ran.status, ran.out), (Some(1), format!("b and a are the same (4 bytes) but for:\n  {times}\n")));
    assert_eq!(folder.run(&["--also-compare", "time", "--quiet", "b", "a"]).status, Some(1));
    assert_eq!(folder.run(&["--also-compare", "time", "a", "a"]).status, Some(0));
    let ran = folder.run(&["--also-compare", "time", "b", "c"]);
    assert!(ran.out.starts_with(&format!("b ○  c ●    1 change, {times} ")), "{}", ran.out);
    let json = folder.run(&["--also-compare", "time", "--json", "b", "a"]).out;
    assert!(json.contains("\"status\":\"changed\"") && json.contains("\"attributes\":[\"time\"]"), "{json}");
    folder.run(&["report", "--also-compare", "time", "b", "a", "-o", "r.md"]);
    assert!(String::from_utf8(folder.read("r.md")).unwrap().contains(times));
}
