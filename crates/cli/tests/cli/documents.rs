//! `tideline --help`, `completions`, `manual`

use std::process::Command;

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

#[test]
fn completion_knows_the_short_form_and_the_names_of_values() {
    let folder = Folder::new();
    folder.write("completions.bash", folder.run(&["completions", "bash"]).out.as_bytes());
    let script = r#"
        source completions.bash
        COMP_WORDS=("$@"); COMP_CWORD=$(( $# - 1 )); COMPREPLY=()
        _tideline tideline "${COMP_WORDS[COMP_CWORD]}" "${COMP_WORDS[COMP_CWORD-1]}"
        echo "${COMPREPLY[*]}"
    "#;
    let complete = |typed: &[&str]| -> Option<String> {
        let mut bash = Command::new("bash");
        bash.args(["-c", script, "bash", "tideline"]).args(typed).current_dir(folder.path());
        let output = bash.output().ok()?;
        Some(String::from_utf8(output.stdout).unwrap().trim_end().to_owned())
    };
    for (typed, found) in [
        (&["--ig"][..], "--ignore"),
        (&["compare", "--ig"], "--ignore"),
        (&["comp"], "compare completions"),
        (&["--ignore", "sp"], "space space-amount"),
        (&["--only", "ch"], "changed"),
        (&["--grain", "l"], "line letter"),
        (&["manual", "re"], "report"),
    ] {
        let Some(completed) = complete(typed) else {
            eprintln!("skipped: there is no bash");
            return;
        };
        assert_eq!(completed, found, "{typed:?}");
    }
}

#[test]
fn a_manual_page_has_every_option_with_its_argument_and_examples_as_they_are_typed() {
    let folder = Folder::new();
    for command in ["compare", "patch", "take", "sync", "undo", "report"] {
        let page = folder.run(&["manual", command]).out;
        for section in ["SYNOPSIS", "OPTIONS", "EXAMPLES", "EXIT STATUS", "FILES", "ENVIRONMENT"] {
            assert!(page.contains(&format!(".SH {section}\n")), "{command}: {section}");
        }
    }
    let page = folder.run(&["manual", "compare"]).out;
    assert!(
        page.contains("tideline \\-\\-sections release\\-1 release\\-2       which functions changed, file by file\n"),
        "{page}"
    );
    assert!(page.contains("Leave muted changes out of the view"), "what short help leaves out is told too");
    assert!(page.contains("\\fB\\-\\-sort\\fR \\fI<BY>\\fR"), "{page}");
}
