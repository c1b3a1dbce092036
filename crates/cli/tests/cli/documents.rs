//! `tideline --help`, `completions`, `manual`

use crate::support::Folder;

#[test]
fn the_help_has_the_commands_and_three_examples() {
    let ran = Folder::new().run(&["--help"]);
    assert_eq!(ran.status, Some(0));
    for words in ["compare", "patch", "demo", "Examples:", "tideline patch a.txt b.txt -o fix.patch", "Exit status"] {
        assert!(ran.out.contains(words), "{words}: {}", ran.out);
    }
}

#[test]
fn completions_and_manual_know_the_commands() {
    let folder = Folder::new();
    for shell in ["bash", "zsh", "fish"] {
        let ran = folder.run(&["completions", shell]);
        assert_eq!(ran.status, Some(0));
        assert!(ran.out.contains("patch") && ran.out.contains("context"), "{shell}");
    }
    let ran = folder.run(&["manual"]);
    assert!(ran.out.contains(".TH tideline") && ran.out.contains("patch"), "{}", ran.out);
    let ran = folder.run(&["manual", "patch"]);
    assert!(ran.out.contains("POSIX unified"), "{}", ran.out);
    let ran = folder.run(&["manual", "nothing"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("no command `nothing`"), "{}", ran.err);
}
