//! A fresh folder for each test, and the program run in it; and a browser and a terminal for what it draws.

pub(crate) mod browser;
pub(crate) mod terminal;

use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};
use std::time::{Duration, SystemTime};

/// A folder of its own for one test.
pub(crate) struct Folder {
    folder: tempfile::TempDir,
}

/// What the program left behind.
#[derive(Debug)]
pub(crate) struct Ran {
    pub(crate) status: Option<i32>,
    pub(crate) out: String,
    pub(crate) err: String,
}

impl Folder {
    pub(crate) fn new() -> Self {
        Self { folder: tempfile::tempdir().unwrap() }
    }

    /// A folder that already holds these files.
    pub(crate) fn with(files: &[(&str, &str)]) -> Self {
        let folder = Self::new();
        for (name, text) in files {
            folder.write(name, text.as_bytes());
        }
        folder
    }

    pub(crate) fn write(&self, name: &str, bytes: &[u8]) -> PathBuf {
        let path = self.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(&path, bytes).unwrap();
        path
    }

    /// Gives a file a time of its last change, in seconds since 1970.
    pub(crate) fn set_time(&self, name: &str, seconds: u64) {
        let time = SystemTime::UNIX_EPOCH + Duration::new(seconds, 250);
        fs::File::options().append(true).open(self.path().join(name)).unwrap().set_modified(time).unwrap();
    }

    /// Makes a run that is done one that was cut off while its files were being put in place.
    pub(crate) fn cut_off(&self, run: u64) {
        let state = self.path().join(".state/tideline");
        let open = state.join("open").join(run.to_string());
        fs::rename(state.join("runs").join(run.to_string()), &open).unwrap();
        let record = fs::read_to_string(open.join("record")).unwrap();
        let body = record.trim_end().rsplit_once('\n').unwrap().0;
        let body = format!("{}\n", body.replacen("\"progress\":\"done\"", "\"progress\":\"placing\"", 1));
        let sum = blake3::hash(body.as_bytes()).to_hex();
        fs::write(open.join("record"), format!("{body}{{\"blake3\":\"{sum}\"}}\n")).unwrap();
    }

    pub(crate) fn path(&self) -> &Path {
        self.folder.path()
    }

    pub(crate) fn read(&self, name: &str) -> Vec<u8> {
        fs::read(self.path().join(name)).unwrap()
    }

    /// The program with arguments, in this folder, in an environment that says nothing of colours.
    pub(crate) fn command(&self, arguments: &[&str]) -> Command {
        let mut command = Command::new(env!("CARGO_BIN_EXE_tideline"));
        command.args(arguments).current_dir(self.path()).stdin(Stdio::null());
        for name in ["NO_COLOR", "CLICOLOR_FORCE", "TERM", "COLUMNS", "PAGER"] {
            command.env_remove(name);
        }
        // Where colours are asked for, there are all of them.
        command.env("COLORTERM", "truecolor");
        command.env("XDG_CONFIG_HOME", self.path().join(".config"));
        command.env("XDG_STATE_HOME", self.path().join(".state"));
        // What this machine sets up for repositories says nothing of ours.
        command.env("GIT_CONFIG_GLOBAL", "/dev/null").env("GIT_CONFIG_NOSYSTEM", "1");
        command
    }

    /// Runs another program in this folder, which must succeed.
    pub(crate) fn system(&self, program: &str, arguments: &[&str]) -> String {
        let mut command = Command::new(program);
        command.args(arguments).current_dir(self.path()).stdin(Stdio::null());
        command.env("GIT_CONFIG_GLOBAL", "/dev/null").env("GIT_CONFIG_NOSYSTEM", "1");
        for who in ["AUTHOR", "COMMITTER"] {
            command.env(format!("GIT_{who}_NAME"), "Ada Gauge");
            command.env(format!("GIT_{who}_EMAIL"), "ada@merrow.example");
            command.env(format!("GIT_{who}_DATE"), "2031-04-05T06:07:08+0000");
        }
        let ran = Ran::of(&command.output().unwrap());
        assert_eq!(ran.status, Some(0), "{program} {arguments:?}: {}", ran.err);
        ran.out
    }

    pub(crate) fn run(&self, arguments: &[&str]) -> Ran {
        Ran::of(&self.command(arguments).output().unwrap())
    }

    pub(crate) fn run_with_input(&self, arguments: &[&str], input: &[u8]) -> Ran {
        let mut command = self.command(arguments);
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
        let mut child = command.spawn().unwrap();
        child.stdin.take().unwrap().write_all(input).unwrap();
        Ran::of(&child.wait_with_output().unwrap())
    }
}

impl Ran {
    pub(crate) fn of(output: &Output) -> Self {
        let text = |bytes: &[u8]| String::from_utf8(bytes.to_vec()).expect("what is printed is UTF-8");
        Self { status: output.status.code(), out: text(&output.stdout), err: text(&output.stderr) }
    }
}
