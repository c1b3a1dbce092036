//! `tideline review`, in a terminal: walked, carried, edited, saved, left.

use std::fs;

use crate::support::Folder;
use crate::support::terminal::{Terminal, signal};

const KIT: [(&str, &str); 8] = [
    ("spring/stations/mouth.toml", "name = \"mouth\"\n\n[sensor]\ninterval_s = 60\ndatum = \"chart\"\n"),
    ("autumn/stations/mouth.toml", "name = \"mouth\"\n\n[sensor]\ninterval_s = 30\ndatum = \"chart\"\n"),
    ("spring/levels.csv", "time,level\n1,2.60\n2,3.50\n3,4.15\n4,4.41\n5,4.19\n6,3.58\n7,2.74\n8,1.89\n9,1.26\n"),
    (
        "autumn/levels.csv",
        "time,level\n1,2.61\n2,3.50\n3,4.15\n4,4.41\n5,4.19\n6,3.58\n7,2.74\n8,1.89\n9,1.25\n10,0.99\n",
    ),
    ("spring/old.txt", "old\n"),
    ("autumn/new.txt", "new\n"),
    ("spring/same.txt", "same\n"),
    ("autumn/same.txt", "same\n"),
];

fn start(folder: &Folder, arguments: &[&str], size: (u16, u16)) -> Terminal {
    Terminal::start(folder, env!("CARGO_BIN_EXE_tideline"), &[&["review"], arguments].concat(), size)
}

#[test]
fn a_tree_is_walked_down_to_a_change_that_is_carried_across_and_saved() {
    let folder = Folder::with(&KIT);
    let mut screen = start(&folder, &["spring", "autumn"], (100, 24));
    let tree = screen.shows("1 file hidden: the same on both sides");
    assert!(tree.contains("spring ○  autumn ●    5 files: 1 same, 2 changed, 1 new, 1 gone"), "{tree}");
    assert!(tree.contains("▾ stations/   1 changed, 1 change") && tree.contains("◐ mouth.toml"), "{tree}");
    screen.keys("\u{1b}[F\r");
    let file = screen.shows("change 1 of 1 · line 4 · in [sensor]");
    assert!(
        file.contains("○  4        interval_s = 60") && file.contains("> change into autumn   < change into spring"),
        "{file}"
    );
    screen.keys(">");
    let edited = screen.shows("1 edit not saved");
    assert!(edited.contains("change 1 of spring carried into autumn; not saved yet"), "{edited}");
    assert!(edited.contains("nothing differs"), "{edited}");
    assert_eq!(folder.read("autumn/stations/mouth.toml"), KIT[1].1.as_bytes(), "nothing is written yet");
    screen.keys("u");
    screen.shows("taken back: change 1 of spring carried into autumn");
    screen.keys("r");
    screen.shows("done again: change 1 of spring carried into autumn");
    screen.keys("s");
    screen.shows("(run 1; `tideline undo` puts it back)");
    assert_eq!(folder.read("autumn/stations/mouth.toml"), KIT[0].1.as_bytes());
    screen.keys("\u{1b}");
    screen.shows("5 files: 2 same, 1 changed, 1 new, 1 gone");
    screen.keys("q");
    assert_eq!(screen.end().code(), Some(1), "other files differ");
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(folder.read("autumn/stations/mouth.toml"), KIT[1].1.as_bytes());
}

#[test]
fn lines_are_chosen_edited_and_found_and_nothing_is_lost_on_the_way_out() {
    let folder = Folder::with(&KIT);
    let mut screen = start(&folder, &["spring/levels.csv", "autumn/levels.csv"], (90, 20));
    screen.shows("change 1 of 2");
    screen.keys("n");
    screen.shows("change 2 of 2");
    // Of the second change only its last row goes: the line that is new.
    screen.keys("\u{1b}[Bv<");
    screen.shows("1 chosen row of autumn carried into spring");
    screen.keys("/^7,\r");
    screen.until(|text| text.lines().any(|line| line.starts_with('▌') && line.contains("7,2.74")));
    screen.keys("e0\r");
    screen.shows("line 8 of autumn edited; not saved yet");
    screen.shows("2 edits not saved");
    screen.keys("q");
    screen.shows("2 edits not saved. s saves, q leaves without, esc stays");
    screen.keys("s");
    assert_eq!(screen.end().code(), Some(1));
    let text = |name: &str| String::from_utf8(folder.read(name)).unwrap();
    assert_eq!(text("spring/levels.csv"), format!("{}10,0.99\n", KIT[2].1));
    assert_eq!(text("autumn/levels.csv"), KIT[3].1.replace("7,2.74", "7,2.740"));
}

#[test]
fn what_somebody_else_wrote_is_not_overwritten_and_the_edits_stay() {
    let folder = Folder::with(&KIT);
    let mut screen = start(&folder, &["spring/levels.csv", "autumn/levels.csv"], (110, 24));
    screen.shows("change 1 of 2");
    screen.keys(">");
    screen.shows("1 edit not saved");
    folder.write("autumn/levels.csv", KIT[3].1.replace("9,1.25", "9,1.20").as_bytes());
    screen.keys("s");
    screen.shows("is not as it was when it was read");
    // It is compared again by itself, or by a key.
    screen.keys("g");
    screen.shows("9,1.20");
    screen.shows("9,1.20");
    screen.keys("s");
    screen.shows("(run 1;");
    let wanted = KIT[3].1.replace("9,1.25", "9,1.20").replace("1,2.61", "1,2.60");
    assert_eq!(String::from_utf8(folder.read("autumn/levels.csv")).unwrap(), wanted);
    screen.keys("q");
    assert_eq!(screen.end().code(), Some(1));
}

#[test]
fn the_terminal_is_as_it_was_on_every_way_out() {
    let folder = Folder::with(&KIT);
    let shell =
        "stty -a > before; tideline review --width 81 spring autumn; echo ended $?; stty -a > after; echo 'all done'";
    for (leave, ended) in [("q", "ended 1"), ("\u{3}", "ended 1")] {
        let screen = Terminal::start(&folder, "bash", &["-c", &format!("{shell}; sleep 60")], (80, 24));
        screen.shows("5 files: 1 same");
        assert!(screen.is_alternate());
        screen.keys(leave);
        let text = screen.shows("all done");
        assert!(text.contains(ended) && !text.contains("spring ○") && !screen.is_alternate(), "{text}");
        assert_eq!(folder.read("before"), folder.read("after"));
    }
    // A signal.
    let screen = Terminal::start(&folder, "bash", &["-c", &format!("{shell}; sleep 60")], (80, 24));
    screen.shows("5 files: 1 same");
    signal("TERM", &["tideline", "review", "--width", "81", "spring", "autumn"]);
    let text = screen.shows("all done");
    assert!(text.contains("ended 143") && !screen.is_alternate(), "{text}");
    assert_eq!(folder.read("before"), folder.read("after"));
}

#[test]
fn it_follows_a_resize_and_says_when_it_is_too_small() {
    let folder = Folder::with(&KIT);
    let mut screen = start(&folder, &["spring", "autumn"], (80, 24));
    screen.shows("5 files: 1 same");
    screen.resize(20, 6);
    screen.shows("too small");
    screen.resize(60, 12);
    screen.shows("▾ stations/");
    screen.keys("q");
    screen.end();
}

#[test]
fn it_needs_a_terminal_and_two_of_a_kind() {
    let folder = Folder::with(&KIT);
    let ran = folder.run(&["review", "spring", "autumn"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("standard input and output must be a terminal"), "{}", ran.err);
    let mut screen = start(&folder, &["spring", "autumn/new.txt"], (80, 24));
    screen.shows("cannot compare spring with autumn/new.txt");
    assert_eq!(screen.end().code(), Some(2));
    assert!(!screen.is_alternate());
}

#[test]
fn what_files_hold_and_are_called_is_shown_and_never_obeyed() {
    let folder = Folder::new();
    let name = "evil\u{1b}[2J.txt";
    folder.write(&format!("a/{name}"), b"one\x1b]0;title\x07\x1b[2J\n");
    folder.write(&format!("b/{name}"), b"two\x1b]0;title\x07\x1b[2J\n");
    let mut screen = start(&folder, &["a", "b"], (80, 24));
    screen.shows("evil␛[2J.txt");
    screen.keys("\r");
    let text = screen.shows("two␛]0;title␇␛[2J");
    assert!(text.contains("evil␛[2J.txt"), "{text}");
    screen.keys("q");
    screen.end();
    fs::remove_dir_all(folder.path().join("a")).unwrap();
}

#[test]
fn a_file_that_is_saved_elsewhere_is_compared_again_and_what_came_is_pointed_out() {
    let folder = Folder::with(&KIT);
    let mut screen = start(&folder, &["spring/levels.csv", "autumn/levels.csv"], (100, 24));
    screen.shows("change 1 of 2");
    folder.write("autumn/levels.csv", KIT[3].1.replace("5,4.19", "5,4.20").as_bytes());
    screen.shows("autumn was changed on the disk; 1 change came");
    screen.keys("n");
    screen.shows("change 2 of 3 · line 6");
    screen.shows("(was not there before)");
    screen.keys("q");
    screen.end();
    // The tree too.
    let mut screen = start(&folder, &["spring", "autumn"], (100, 24));
    screen.shows("5 files: 1 same, 2 changed");
    std::thread::sleep(std::time::Duration::from_millis(300));
    folder.write("autumn/same.txt", b"not the same\n");
    screen.shows("5 files: 0 same, 3 changed");
    screen.keys("q");
    screen.end();
}

#[test]
fn what_is_chosen_is_handed_on_as_a_patch_or_a_report() {
    let folder = Folder::with(&KIT);
    let mut screen = start(&folder, &["spring", "autumn"], (100, 24));
    screen.shows("5 files: 1 same");
    screen.keys("/levels\r\u{1b}[Fxwhole.patch\r");
    screen.shows("wrote");
    screen.keys("\r");
    screen.shows("change 1 of 2");
    screen.keys("nxlast.patch\r");
    screen.shows("a patch of 1 change");
    screen.keys("Xreport.html\r");
    screen.shows("report.html");
    screen.keys("q");
    screen.end();
    let text = |name: &str| String::from_utf8(folder.read(name)).unwrap();
    assert!(text("last.patch").contains("+10,0.99") && !text("last.patch").contains("2.61"), "{}", text("last.patch"));
    assert!(text("whole.patch").contains("2.61") && !text("whole.patch").contains("mouth"), "{}", text("whole.patch"));
    assert!(text("report.html").contains("levels.csv"));
    assert_eq!(folder.run(&["apply", "last.patch", "--into", "spring"]).status, Some(0));
    assert!(text("spring/levels.csv").ends_with("10,0.99\n"));
}

#[test]
fn whole_files_and_folders_go_across_from_the_tree_once_they_are_saved() {
    let folder = Folder::with(&KIT);
    let mut screen = start(&folder, &["spring", "autumn"], (110, 24));
    screen.shows("5 files: 1 same");
    // The folder of stations, as spring has it; then what only spring has goes, and what only autumn has comes.
    screen.keys("/stations\r\u{1b}[H>");
    screen.shows("stations becomes in autumn what it is in spring; not saved yet");
    screen.keys("\u{1b}");
    screen.shows("1 choice not saved");
    screen.keys("/old\r<");
    screen.shows("old.txt becomes in spring what it is in autumn; not saved yet");
    screen.keys("/\u{15}new\r<");
    screen.shows("3 choices not saved");
    screen.keys("u");
    screen.shows("taken back: new.txt");
    screen.keys("r");
    screen.shows("chosen again: new.txt");
    assert_eq!(folder.read("spring/old.txt"), b"old\n", "nothing is written yet");
    screen.keys("q");
    screen.shows("3 choices not saved: s saves, u takes back; q again leaves without");
    screen.keys("s");
    screen.shows("saved: 2 steps in spring (run 1; `tideline undo` puts it back), 1 step in autumn (run 2;");
    screen.keys("q");
    assert_eq!(screen.end().code(), Some(1));
    assert_eq!(folder.read("autumn/stations/mouth.toml"), KIT[0].1.as_bytes());
    assert_eq!(folder.read("spring/new.txt"), b"new\n");
    assert!(!folder.path().join("spring/old.txt").exists());
    assert_eq!(folder.read("autumn/levels.csv"), KIT[3].1.as_bytes(), "what was not chosen is as it was");
    folder.run(&["undo"]);
    folder.run(&["undo", "1"]);
    assert_eq!(folder.read("spring/old.txt"), b"old\n");
    assert_eq!(folder.read("autumn/stations/mouth.toml"), KIT[1].1.as_bytes());
}

#[test]
fn rules_are_put_into_force_made_of_words_and_saved_beside_what_is_there() {
    let folder = Folder::with(&KIT);
    let own = "# our rules, with a remark\n[[rule]]\nname = \"old\"\nmatch = 'zzz'\neffect = \"ignore\"\n";
    folder.write("tideline.toml", own.as_bytes());
    let mut screen = start(&folder, &["spring/levels.csv", "autumn/levels.csv"], (110, 30));
    screen.shows("change 1 of 2");
    // The cursor is at 2.60, which became 2.61.
    screen.keys("i");
    let list = screen.shows("Rules: what does not count");
    assert!(list.contains("ignore  old") && list.contains("off     numbers"), "{list}");
    screen.keys("n");
    screen.shows("do not count what this regular expression matches: \\d+");
    screen.keys("\u{15}\\.\\d+$\r");
    screen.shows("it would mute");
    screen.shows("2 changes that count, now 1. enter takes it, esc does not");
    screen.keys("\r");
    screen.until(|text| {
        text.lines().any(|line| line.contains("mute") && line.contains("/\\.\\d+$/") && line.contains("made here"))
    });
    screen.keys("s");
    screen.shows("the name of the rule:");
    screen.keys("levels\r");
    screen.shows("add it to the configuration: tideline.toml");
    screen.keys("\r");
    screen.shows("the rule levels is in");
    assert_eq!(
        String::from_utf8(folder.read("tideline.toml")).unwrap(),
        format!("{own}\n[[rule]]\nname   = 'levels'\nmatch  = '\\.\\d+$'\neffect = \"mute\"\n")
    );
    screen.keys("\u{1b}");
    screen.shows("1 change + 2 muted");
    screen.keys("q");
    assert_eq!(screen.end().code(), Some(1));
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(folder.read("tideline.toml"), own.as_bytes());
    // In a tree, a rule that is built in.
    let mut screen = start(&folder, &["spring", "autumn"], (110, 34));
    screen.shows("5 files: 1 same, 2 changed");
    screen.keys("i");
    screen.shows("off     numbers");
    screen.keys("\u{1b}[F\u{1b}[A\u{1b}[A\r");
    screen.until(|text| text.lines().any(|line| line.starts_with('▌') && line.contains("mute    numbers")));
    screen.keys("\u{1b}");
    screen.shows("5 files: 1 same, 1 muted, 1 changed");
    screen.keys("q");
    screen.end();
}

#[test]
fn keys_are_chosen_in_the_users_own_configuration_and_nowhere_else() {
    let folder = Folder::with(&KIT);
    folder.write(".config/tideline/tideline.toml", b"[keys]\nnext-change = 'j'\nquit = ['Q', 'ctrl-c']\n");
    let mut screen = start(&folder, &["spring/levels.csv", "autumn/levels.csv"], (100, 24));
    let first = screen.shows("change 1 of 2");
    assert!(first.contains("j next") && first.contains("Q quit"), "{first}");
    screen.keys("n");
    screen.shows("this key does nothing here; ? lists the keys");
    screen.keys("j");
    screen.shows("change 2 of 2");
    screen.keys("?");
    screen.shows("Keys of this screen");
    screen.keys("?Q");
    assert_eq!(screen.end().code(), Some(1));
    folder.write("tideline.toml", b"[keys]\nnext-change = 'k'\n");
    let refused = folder.run(&["spring", "autumn"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("[keys] holds in your own configuration only"), "{}", refused.err);
}

#[test]
fn what_was_seen_and_noted_is_there_tomorrow_and_in_a_report() {
    let folder = Folder::with(&KIT);
    let mut screen = start(&folder, &["spring", "autumn"], (110, 24));
    screen.shows("5 files: 1 same");
    screen.keys("/levels\r\r");
    screen.shows("change 1 of 2");
    screen.keys("cask the office\r");
    screen.shows("noted; report --with-notes tells it");
    screen.shows("note: ask the office");
    screen.keys(" ");
    screen.shows("1 change left to see");
    screen.shows("change 2 of 2");
    screen.keys("q");
    screen.end();
    // The next day.
    let mut screen = start(&folder, &["spring", "autumn"], (110, 24));
    screen.shows("5 files: 1 same");
    screen.keys("/levels\r\r");
    let text = screen.shows("1 of 2 seen");
    assert!(text.contains("change 1 of 2 · line 2   seen   note: ask the office"), "{text}");
    screen.keys("n ");
    screen.shows("all changes of this file are seen");
    screen.keys("\u{1b}");
    screen.until(|text| {
        text.contains("1 of 4 seen") && text.lines().any(|line| line.contains("levels.csv") && line.contains("seen"))
    });
    screen.keys("q");
    screen.end();
    // What was seen is known by what it holds.
    folder.write("autumn/levels.csv", KIT[3].1.replace("5,4.19", "5,4.20").as_bytes());
    let mut screen = start(&folder, &["spring", "autumn"], (110, 24));
    screen.shows("5 files: 1 same");
    assert!(!screen.text().contains("seen"), "{}", screen.text());
    screen.keys("q");
    screen.end();
    for (name, told) in [("notes.html", "<p class=\"note\">ask the office</p>"), ("notes.md", "> seen: ask the office")]
    {
        assert_eq!(folder.run(&["report", "--with-notes", "spring", "autumn", "-o", name]).status, Some(1));
        let report = String::from_utf8(folder.read(name)).unwrap();
        assert!(report.contains(told), "{report}");
        folder.run(&["report", "spring", "autumn", "-o", name]);
        assert!(!String::from_utf8(folder.read(name)).unwrap().contains("ask the office"), "only when asked for");
    }
    let kept = fs::read_dir(folder.path().join(".state/tideline/reviews")).unwrap().next().unwrap().unwrap();
    let mode = std::os::unix::fs::PermissionsExt::mode(&kept.metadata().unwrap().permissions());
    assert_eq!(mode & 0o077, 0, "readable by its owner alone");
}

#[test]
fn it_goes_to_the_shell_and_comes_back() {
    let folder = Folder::with(&KIT);
    let mut shell = Terminal::start(&folder, "bash", &["--norc", "--noprofile", "-i"], (90, 24));
    shell.keys("PS1='> '; clear\n");
    shell.until(|text| text.trim() == ">");
    shell.keys("tideline review --width 82 spring autumn\n");
    shell.shows("5 files: 1 same");
    shell.keys("\u{1a}");
    shell.shows("Stopped");
    assert!(!shell.is_alternate());
    shell.keys("echo at the $((20 + 3))rd; fg\n");
    shell.shows("5 files: 1 same");
    assert!(shell.is_alternate());
    // Somebody else can stop it, too.
    signal("TSTP", &["tideline", "review", "--width", "82", "spring", "autumn"]);
    shell.until(|text| text.matches("Stopped").count() == 2);
    assert!(!shell.is_alternate());
    shell.keys("fg\n");
    shell.shows("5 files: 1 same");
    assert!(shell.is_alternate());
    shell.keys("q");
    shell.until(|text| text.contains("at the 23rd") && text.trim_end().ends_with('>'));
    shell.keys("exit\n");
    shell.end();
}

#[test]
fn what_is_not_text_is_told_and_files_that_vanish_are_said() {
    let folder = Folder::with(&KIT);
    folder.write("spring/chart.png", b"\x89PNG\x00\x01\x02");
    folder.write("autumn/chart.png", b"\x89PNG\x00\x01\x03\x04");
    let mut screen = start(&folder, &["spring", "autumn"], (100, 24));
    screen.shows("6 files: 1 same");
    screen.keys("/chart\r\r");
    let told = screen.shows("offset 0x6 (6)");
    assert!(told.contains("7 bytes, now 8") && told.contains("89 50 4e 47 00 01 03 04"), "{told}");
    screen.keys("\u{1b}");
    screen.shows("only paths with \"chart\"");
    fs::remove_file(folder.path().join("spring/chart.png")).unwrap();
    screen.shows("6 files: 1 same, 2 changed, 2 new, 1 gone");
    screen.keys("q");
    assert_eq!(screen.end().code(), Some(1));
}

#[test]
fn a_side_is_opened_in_the_editor_at_the_line_and_what_comes_back_is_a_pending_edit() {
    use std::os::unix::fs::PermissionsExt;
    let folder = Folder::with(&KIT);
    // It writes what it was given, then what it was asked to edit.
    let editor = folder.write("vi", b"#!/bin/sh\necho \"$1\" > asked\nsed -i 's/2.61/2.65/' \"$2\"\n");
    fs::set_permissions(&editor, fs::Permissions::from_mode(0o755)).unwrap();
    let run = format!(
        "VISUAL={} tideline review spring/levels.csv autumn/levels.csv; echo ended $?; sleep 60",
        editor.display()
    );
    let screen = Terminal::start(&folder, "bash", &["-c", &run], (100, 24));
    screen.shows("change 1 of 2");
    screen.keys("E");
    screen.shows("autumn edited in the editor; not saved yet");
    assert_eq!(folder.read("asked"), b"+2\n");
    assert_eq!(folder.read("autumn/levels.csv"), KIT[3].1.as_bytes(), "only a copy was edited");
    screen.keys("s");
    screen.shows("(run 1;");
    assert!(String::from_utf8(folder.read("autumn/levels.csv")).unwrap().contains("1,2.65"));
    screen.keys("S");
    screen.shows("save autumn as:");
    screen.keys("third.csv\r");
    screen.shows("third.csv (run 2;");
    assert_eq!(folder.read("third.csv"), folder.read("autumn/levels.csv"));
    screen.keys("q");
    screen.shows("ended 1");
}

#[test]
fn what_cannot_be_written_to_is_left_and_saved_under_another_name() {
    let folder = Folder::with(&KIT);
    let run = "tideline review <(cat spring/levels.csv) autumn/levels.csv; echo ended $?; sleep 60";
    let screen = Terminal::start(&folder, "bash", &["-c", run], (110, 24));
    screen.shows("change 1 of 2");
    screen.keys("<");
    screen.shows("cannot be written to, and stays as it is; S saves it under another name");
    screen.keys("\tS");
    screen.keys("copy.csv\r");
    screen.shows("saved");
    assert_eq!(folder.read("copy.csv"), KIT[2].1.as_bytes());
    screen.keys(">n>");
    screen.shows("2 edits not saved");
    screen.keys("s");
    screen.shows("(run 2;");
    screen.keys("q");
    screen.shows("ended 0");
    assert_eq!(folder.read("autumn/levels.csv"), KIT[2].1.as_bytes());
}

#[test]
fn what_a_revision_holds_is_carried_into_the_folder_and_never_the_other_way() {
    let folder = Folder::with(&KIT);
    folder.system("git", &["init", "--quiet", "--initial-branch=main", "spring"]);
    folder.system("git", &["-C", "spring", "add", "--all"]);
    folder.system("git", &["-C", "spring", "commit", "--quiet", "-m", "Spring edition"]);
    folder.write("spring/old.txt", b"edited\n");
    let mut screen = start(&folder, &["--repository", "spring", "git:HEAD", "spring"], (100, 24));
    let tree = screen.shows("1 changed");
    assert!(tree.contains("“Spring edition”"), "{tree}");
    screen.keys("\u{1b}[F<");
    screen.shows("HEAD is not a folder on the disk, and is never written to");
    screen.keys("\r");
    screen.shows("change 1 of 1");
    screen.keys("<");
    screen.shows("HEAD cannot be written to, and stays as it is");
    screen.keys("\u{1b}");
    screen.shows("1 changed");
    screen.keys("\u{1b}[F>");
    screen.shows("old.txt becomes in spring what it is in HEAD; not saved yet");
    screen.keys("s");
    screen.shows("saved: 1 step in spring (run 1; `tideline undo` puts it back)");
    assert_eq!(folder.read("spring/old.txt"), b"old\n");
    screen.shows("nothing differs");
    screen.keys("q");
    assert_eq!(screen.end().code(), Some(0));
}

#[test]
fn a_tree_is_folded_filtered_and_ordered() {
    let folder = Folder::with(&KIT);
    folder.write("autumn/long.txt", "line\n".repeat(400).as_bytes());
    let mut screen = start(&folder, &["spring", "autumn"], (110, 24));
    let rows = |text: &str| -> Vec<String> {
        let names = ["stations/", "mouth.toml", "levels.csv", "long.txt", "new.txt", "old.txt", "same.txt"];
        let name = |line: &str| names.iter().find(|name| line.contains(*name)).map(|name| (*name).to_owned());
        text.lines().skip(2).filter_map(name).collect()
    };
    let shows_rows = |screen: &Terminal, wanted: &[&str]| {
        screen.until(|text| rows(text) == wanted);
    };
    screen.shows("6 files: 1 same");
    shows_rows(&screen, &["levels.csv", "long.txt", "new.txt", "old.txt", "stations/", "mouth.toml"]);
    // Folds: all of them, and the one at the cursor from a file in it.
    screen.keys("f");
    shows_rows(&screen, &["levels.csv", "long.txt", "new.txt", "old.txt", "stations/"]);
    screen.keys("\u{1b}[F\u{1b}[C");
    shows_rows(&screen, &["levels.csv", "long.txt", "new.txt", "old.txt", "stations/", "mouth.toml"]);
    screen.keys("\u{1b}[B\u{1b}[D");
    screen.until(|text| {
        text.lines().any(|line| line.starts_with('▌') && line.contains("▸ stations/   1 changed, 1 change"))
    });
    screen.keys("\r");
    // One status after the other, and all again.
    for (told, wanted) in [
        ("only changed", &["levels.csv", "stations/", "mouth.toml"][..]),
        ("only new", &["long.txt", "new.txt"]),
        ("only gone", &["old.txt"]),
    ] {
        screen.keys("v");
        screen.shows(told);
        shows_rows(&screen, wanted);
    }
    screen.keys("\u{1b}");
    shows_rows(&screen, &["levels.csv", "long.txt", "new.txt", "old.txt", "stations/", "mouth.toml"]);
    // Orders.
    screen.keys("o");
    screen.shows("by changes");
    screen.until(|text| rows(text).first().is_some_and(|first| first == "levels.csv"));
    screen.keys("o");
    screen.shows("by lines");
    screen.until(|text| rows(text).first().is_some_and(|first| first == "long.txt"));
    screen.keys("oo");
    screen.shows("by time");
    screen.keys("o");
    shows_rows(&screen, &["levels.csv", "long.txt", "new.txt", "old.txt", "stations/", "mouth.toml"]);
    // What is the same, too.
    screen.keys("a");
    shows_rows(&screen, &["levels.csv", "long.txt", "new.txt", "old.txt", "same.txt", "stations/", "mouth.toml"]);
    screen.keys("a");
    screen.shows("1 file hidden: the same on both sides");
    // From file to file.
    screen.keys("\u{1b}[H..");
    screen.until(|text| text.lines().any(|line| line.starts_with('▌') && line.contains("new.txt")));
    screen.keys(",");
    screen.until(|text| text.lines().any(|line| line.starts_with('▌') && line.contains("long.txt")));
    screen.keys("\r");
    screen.shows("new file");
    screen.keys(".");
    screen.shows("file 3 of 5: new.txt");
    screen.keys("n");
    screen.shows("file 4 of 5: old.txt");
    screen.keys("q");
    assert_eq!(screen.end().code(), Some(1));
}
