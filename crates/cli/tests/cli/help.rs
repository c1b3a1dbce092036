//! Help, and what is said of words that the program does not know.

use crate::support::Folder;

#[test]
fn short_help_is_short_and_long_help_tells_exit_statuses() {
    let folder = Folder::new();
    for command in
        ["compare", "explain", "patch", "report", "show", "apply", "take", "sync", "merge", "undo", "runs", "rules"]
    {
        let (short, long) = (folder.run(&[command, "-h"]).out, folder.run(&[command, "--help"]).out);
        assert!(short.lines().count() <= 60, "{command} -h has {} lines", short.lines().count());
        assert!(long.contains("Exit status: 0 "), "{command}: {long}");
        assert!(short.contains(&format!("`tideline {command} --help`")), "{short}");
    }
    assert!(folder.run(&["compare", "--help"]).out.contains("--use-ignore-files"));
    assert!(folder.run(&["report", "--help"]).out.contains("1 something differs"));
}

#[test]
fn an_unknown_option_gets_the_nearest_by_spelling_or_meaning() {
    let folder = Folder::with(&[("a", "1\n"), ("b", "2\n")]);
    let said = |option: &str| folder.run(&[option, "a", "b"]).err;
    for (option, meant) in [
        ("--contxt", "--context"),
        ("--case-insensitive", "--ignore case"),
        ("--no-whitespace", "--ignore space"),
        ("--in-two-columns", "--layout beside"),
        ("--recursive", "--each-file"),
    ] {
        let said = said(option);
        assert!(said.contains(&format!("a similar argument exists: '{meant}'")), "{said}");
        assert!(!said.contains("-- --"), "{said}");
    }
    for option in ["-z", "--foo"] {
        let said = said(option);
        assert!(!said.contains("tip:") && said.contains("try '--help'"), "{said}");
    }
}

#[test]
fn misspelt_commands_and_statuses_get_the_nearest() {
    let folder = Folder::with(&[("a", "1\n"), ("b", "2\n")]);
    let ran = folder.run(&["comparre", "a", "b"]);
    assert_eq!(ran.status, Some(2));
    assert_eq!(ran.err, "tideline: there is no command and no path `comparre`; did you mean `compare`?\n");
    assert!(folder.run(&["manual", "repport"]).err.contains("did you mean `report`?"));
    assert!(folder.run(&["--only", "chnged", "a", "b"]).err.contains("did you mean `changed`?"));
    // What is there is a path, whatever it is called.
    folder.write("comparre", b"1\n");
    assert_eq!(folder.run(&["comparre", "a"]).status, Some(0));
}
