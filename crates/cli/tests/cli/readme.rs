//! Every command that README.md shows with its output prints just that on the demo data.
//!
//! `TIDELINE_WRITE_README=1 cargo test -p tideline --test cli readme` writes the outputs anew; `git diff` then shows what changed.

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
    let path_of_readme = concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md");
    let mut readme = fs::read_to_string(path_of_readme).unwrap();
    let is_writing = std::env::var_os("TIDELINE_WRITE_README").is_some();
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
            .env("XDG_CONFIG_HOME", folder.path().join(".config"))
            .env("GIT_CONFIG_GLOBAL", "/dev/null")
            .env("GIT_CONFIG_NOSYSTEM", "1");
        let output = command.env_remove("CLICOLOR_FORCE").output().unwrap();
        let printed = String::from_utf8(output.stdout).unwrap();
        let printed = printed.replace(&*folder.path().canonicalize().unwrap().to_string_lossy(), "/merrow");
        if is_writing {
            let block = |out: &str| format!("```console\n$ {typed}\n{out}```");
            readme = readme.replacen(&block(&expected), &block(&printed), 1);
            continue;
        }
        assert_eq!(printed, expected, "$ {typed}\n{}", String::from_utf8_lossy(&output.stderr));
    }
    if is_writing {
        fs::write(path_of_readme, readme).unwrap();
    }
}
