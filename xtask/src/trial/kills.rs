//! Every writing command, killed at every call that changes files; then undone, finished, or both in either order.

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use anyhow::{Context, Result, ensure};

use crate::root;

/// The calls that change files. A file that was opened to be made is killed at its first write.
const CALLS: [&str; 12] = [
    "write",
    "mkdirat",
    "symlinkat",
    "linkat",
    "renameat",
    "renameat2",
    "unlinkat",
    "fchmod",
    "fchown",
    "utimensat",
    "fsync",
    "syncfs",
];

/// What is typed, and what stands in the folder before.
struct Case {
    name: &'static str,
    arguments: &'static [&'static str],
}

const CASES: [Case; 6] = [
    Case { name: "sync", arguments: &["sync", "--mirror", "--remove-many", "from", "into", "--go"] },
    Case { name: "merge", arguments: &["merge", "base", "into", "from", "-o", "into", "--go"] },
    Case { name: "apply", arguments: &["apply", "--into", "into", "fix.patch"] },
    Case { name: "take", arguments: &["take", "into/a", "from/a", "--changes", "1", "--into", "before"] },
    Case { name: "patch", arguments: &["patch", "from/a", "from/b", "-o", "into/a"] },
    Case { name: "undo", arguments: &["undo", "1"] },
];

/// What is done after a kill.
const RECOVERIES: [&[&str]; 4] = [&["undo"], &["finish"], &["undo", "finish"], &["finish", "undo"]];

type Held = BTreeMap<PathBuf, (u32, Vec<u8>)>;

/// Runs all cases on every place that can be had: a folder, and a file system in memory. `TIDELINE` names another program.
pub(crate) fn run() -> Result<()> {
    let program = match std::env::var_os("TIDELINE") {
        Some(program) => PathBuf::from(program),
        None => {
            let built =
                Command::new(env!("CARGO")).args(["build", "--quiet", "--release"]).current_dir(root()).status()?;
            ensure!(built.success(), "the program does not build");
            root().join("target/release/tideline")
        }
    };
    for place in [std::env::temp_dir(), PathBuf::from("/dev/shm")].iter().filter(|place| place.is_dir()) {
        for case in &CASES {
            let kills = Trial { program: &program, place, case }.run()?;
            println!(
                "{:<8} in {}: {kills} kills, each recovered in {} ways",
                case.name,
                place.display(),
                RECOVERIES.len()
            );
        }
    }
    Ok(())
}

struct Trial<'t> {
    program: &'t Path,
    place: &'t Path,
    case: &'t Case,
}

impl Trial<'_> {
    fn run(&self) -> Result<usize> {
        let mut kills = 0;
        for call in CALLS {
            for number in 1.. {
                let mut was_killed = false;
                for recovery in RECOVERIES {
                    let folder = tempfile::tempdir_in(self.place)?;
                    was_killed |= self.one(folder.path(), call, number, recovery)?;
                    if !was_killed {
                        break;
                    }
                }
                if !was_killed {
                    break;
                }
                kills += 1;
            }
        }
        Ok(kills)
    }

    /// Kills at one call and recovers; whether the program came that far.
    fn one(&self, folder: &Path, call: &str, number: usize, recovery: &[&str]) -> Result<bool> {
        prepare(folder)?;
        let first = held(folder)?;
        if self.case.name == "undo" {
            self.tideline(folder, &["sync", "--mirror", "--remove-many", "from", "into", "--go"])?;
        }
        let before = held(folder)?;
        let trace = folder.join("trace");
        let inject = format!("inject={call}:signal=KILL:when={number}");
        let killed = Command::new("strace")
            .args(["-f", "-qq", "-o"])
            .arg(&trace)
            .args(["-e", &format!("trace={call}"), "-e", &inject])
            .arg(self.program)
            .args(self.case.arguments)
            .current_dir(folder)
            .env("XDG_STATE_HOME", folder.join("state"))
            .env("RAYON_NUM_THREADS", "1")
            .output()
            .context("cannot run strace; install it first")?;
        if killed.status.success() || killed.status.code() == Some(1) {
            return Ok(false);
        }
        let doing = || format!("{} killed at {call} {number}, then {recovery:?}", self.case.name);
        for step in recovery {
            let Some(run) = open_run(folder)? else { break };
            let run = run.to_string();
            let words: &[&str] = if *step == "undo" { &["undo", &run] } else { &["runs", "finish", &run] };
            let output = self.tideline(folder, words)?;
            let refused = String::from_utf8_lossy(&output.stderr).contains("clears it away");
            ensure!(output.status.success() || refused, "{}: {}", doing(), String::from_utf8_lossy(&output.stderr));
        }
        // Whatever is open or done is undone; then everything is as it was. An undoing that was done before the kill is one too.
        let is_back = || -> Result<bool> {
            let now = held(folder)?;
            Ok((now == before || now == first) && open_run(folder)?.is_none())
        };
        for _ in 0..6 {
            if is_back()? {
                return Ok(true);
            }
            let output = self.tideline(folder, &["undo"])?;
            ensure!(output.status.success(), "{}: {}", doing(), String::from_utf8_lossy(&output.stderr));
        }
        ensure!(is_back()?, "{}: not as before", doing());
        Ok(true)
    }

    fn tideline(&self, folder: &Path, words: &[&str]) -> Result<Output> {
        let state = folder.join("state");
        Ok(Command::new(self.program).args(words).current_dir(folder).env("XDG_STATE_HOME", state).output()?)
    }
}

/// Two trees in which everything happens once, and a patch.
fn prepare(folder: &Path) -> Result<()> {
    let write = |name: &str, text: &str| -> Result<()> {
        let path = folder.join(name);
        fs::create_dir_all(path.parent().context("a file is in a folder")?)?;
        Ok(fs::write(path, text)?)
    };
    let lines = "one\ntwo\nthree\nfour\nfive\n";
    write("from/a", &lines.replace("two", "2"))?;
    write("into/a", lines)?;
    write("from/b", "new\n")?;
    write("from/new/deep/c", "c\n")?;
    write("from/there/moved", "a file\nthat moves\nelsewhere\n")?;
    write("into/here/moved", "a file\nthat moves\nelsewhere\n")?;
    write("from/retyped/inside", "inside\n")?;
    write("into/retyped", "a file\n")?;
    write("into/gone/deep/d", "d\n")?;
    write("into/becomes/inside", "inside\n")?;
    write("from/becomes", "a file now\n")?;
    std::os::unix::fs::symlink("a", folder.join("from/link"))?;
    let patch = "--- a/a\n+++ b/a\n@@ -1,3 +1,3 @@\n one\n-two\n+II\n three\n\
        --- /dev/null\n+++ b/made/e\n@@ -0,0 +1 @@\n+e\n--- a/gone/deep/d\n+++ /dev/null\n@@ -1 +0,0 @@\n-d\n";
    write("fix.patch", patch)?;
    // What a merge comes from: all of INTO but for its own edit of one file.
    let copied = Command::new("cp").args(["-a", "into", "base"]).current_dir(folder).status()?;
    ensure!(copied.success(), "cannot copy the base of the merge");
    write("into/a", &lines.replace("five", "V"))
}

/// What the target holds: permissions and bytes, or where a link points.
fn held(folder: &Path) -> Result<Held> {
    let root = folder.join("into");
    let mut found = Held::new();
    let mut folders = vec![root.clone()];
    while let Some(folder) = folders.pop() {
        for entry in fs::read_dir(folder)? {
            let path = entry?.path();
            let facts = path.symlink_metadata()?;
            let bytes = if facts.is_dir() {
                folders.push(path.clone());
                Vec::new()
            } else if facts.is_symlink() {
                fs::read_link(&path)?.into_os_string().into_encoded_bytes()
            } else {
                fs::read(&path)?
            };
            found.insert(path.strip_prefix(&root)?.to_path_buf(), (facts.mode(), bytes));
        }
    }
    Ok(found)
}

/// The run that did not end, if there is one.
fn open_run(folder: &Path) -> Result<Option<u64>> {
    let Ok(entries) = fs::read_dir(folder.join("state/tideline/open")) else { return Ok(None) };
    let mut runs: Vec<u64> = Vec::new();
    for entry in entries {
        let entry = entry?;
        if entry.path().join("record").exists() {
            runs.extend(entry.file_name().to_str().and_then(|name| name.parse::<u64>().ok()));
        }
    }
    Ok(runs.into_iter().max())
}
