//! `tideline --help`, `completions`, `manual`

use std::process::Command;

use crate::support::Folder;
use crate::support::terminal::Terminal;

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
        assert!(ran.out.contains("TIDELINE_COMPLETE"), "{shell}");
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
fn completion_knows_names_of_values_rules_runs_and_paths_in_the_trees() {
    let folder = Folder::with(&[
        ("spring/stations/mouth.toml", "a\n"),
        ("autumn/stations/mouth.toml", "b\n"),
        ("autumn/tools/clock.sh", "c\n"),
        (
            "tideline.toml",
            "[[rule]]\nname = 'log clock'\nmatch = 'x'\neffect = 'mute'\n\n[saved.release]\nbefore = 'spring'\nafter = 'autumn'\n",
        ),
    ]);
    assert_eq!(
        folder.run(&["take", "spring", "autumn", "stations/mouth.toml", "--into", "before", "--changes", "1"]).status,
        Some(0)
    );
    let mut shell = Terminal::start(&folder, "bash", &["--norc", "--noprofile"], (80, 24));
    shell.keys("PS1='> '; bind 'set bell-style none'; bind 'set show-all-if-ambiguous on'; source <(tideline completions bash); clear\n");
    shell.until(|text| text.trim() == ">");
    for (typed, found) in [
        ("--igno", "tideline --ignore "),
        ("compare --igno", "tideline compare --ignore "),
        ("complet", "tideline completions "),
        ("--ignore edge", "tideline --ignore edge-space "),
        ("--ignore case,log", "tideline --ignore case,log\\ clock"),
        ("--only ch", "tideline --only changed "),
        ("--only=ch", "tideline --only=changed "),
        ("--grain=word spring autumn sta", "tideline --grain=word spring autumn stations/"),
        ("--grain le", "tideline --grain letter "),
        ("--sort li", "tideline --sort lines "),
        ("manual rep", "tideline manual report "),
        ("saved rel", "tideline saved release "),
        ("spring autumn sta", "tideline spring autumn stations/"),
        ("spring autumn stations/", "tideline spring autumn stations/mouth.toml "),
        ("take spring autumn too", "tideline take spring autumn tools/"),
    ] {
        shell.keys(&format!("tideline {typed}\t"));
        shell.until(|text| text.trim_start_matches("> ").trim_end() == found.trim_end());
        shell.keys("\u{15}");
        shell.until(|text| text.trim() == ">");
    }
    shell.keys("tideline undo \t");
    shell.until(|text| text.lines().any(|line| line.starts_with("1 ") && line.contains("--help")));
    shell.keys("\u{15}clear; echo bye; exit\n");
    shell.shows("bye");
    assert!(shell.end().success());
}

#[test]
fn the_scripts_load_in_the_shells_that_are_here() {
    let folder = Folder::new();
    for (shell, script) in [
        ("bash", "set -e; source <(tideline completions bash); complete -p tideline"),
        ("zsh", "autoload -U compinit && compinit -u; source <(tideline completions zsh); echo ${_comps[tideline]}"),
        ("fish", "tideline completions fish | source; complete -c tideline"),
    ] {
        let path = std::path::Path::new(env!("CARGO_BIN_EXE_tideline")).parent().unwrap();
        let path = format!("{}:{}", path.display(), std::env::var("PATH").unwrap());
        let ran = Command::new(shell).args(["-c", script]).env("PATH", path).env("HOME", folder.path()).output();
        let Ok(ran) = ran else {
            eprintln!("skipped: there is no {shell}");
            continue;
        };
        let out = String::from_utf8_lossy(&ran.stdout);
        assert!(
            ran.status.success() && out.contains("tideline"),
            "{shell}: {out}{}",
            String::from_utf8_lossy(&ran.stderr)
        );
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
