//! Every command that README.md shows with its output prints just that on the demo data.

use std::fs;
use std::process::Command;

use crate::support::Folder;

/// The shown commands, each with what it is said to print.
fn shown(readme: &str) -> Vec<(String, String)> {
    let blocks = readme.split("```console\n$ ").skip(1).filter_map(|rest| rest.split_once("```"));
    blocks.filter_map(|(block, _)| block.split_once('\n')).map(|(typed, out)| (typed.into(), out.into())).collect()
}

#[test]
fn the_readme_tells_the_truth() {
    let readme = fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md")).unwrap();
    let folder = Folder::new();
    assert_eq!(folder.run(&["demo"]).status, Some(0));
    let program = std::path::Path::new(env!("CARGO_BIN_EXE_tideline")).parent().unwrap();
    let path = format!("{}:{}", program.display(), std::env::var("PATH").unwrap());
    let commands = shown(&readme);
    assert!(commands.len() >= 4);
    for (typed, expected) in commands {
        let mut command = Command::new("bash");
        command.args(["-c", &typed]).current_dir(folder.path().join("tideline-demo")).env("PATH", &path);
        command
            .env("XDG_STATE_HOME", folder.path().join(".state"))
            .env("XDG_CONFIG_HOME", folder.path().join(".config"));
        let output = command.env_remove("CLICOLOR_FORCE").output().unwrap();
        let printed = String::from_utf8(output.stdout).unwrap();
        assert_eq!(printed, expected, "$ {typed}\n{}", String::from_utf8_lossy(&output.stderr));
    }
}
