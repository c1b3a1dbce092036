//! The program of the version-control system, run so that it only tells: it writes nothing, fetches nothing, and starts no other program.

use std::ffi::{OsStr, OsString};
use std::io::{self, BufRead, BufReader, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::sync::{Mutex, PoisonError};

use super::error::RevisionError;

/// The program.
const PROGRAM: &str = "git";
/// Settings that would let a repository start a program, or reach for what is elsewhere, each switched off.
const SETTINGS: [&str; 9] = [
    "core.fsmonitor=false",
    "core.hooksPath=/dev/null",
    "core.pager=cat",
    "core.sshCommand=false",
    "core.askPass=",
    "core.alternateRefsCommand=",
    "credential.helper=",
    "gc.auto=0",
    "maintenance.auto=false",
];
/// Without these, a repository that is named is the one that is used.
const OF_ANOTHER_REPOSITORY: [&str; 5] =
    ["GIT_DIR", "GIT_WORK_TREE", "GIT_INDEX_FILE", "GIT_COMMON_DIR", "GIT_OBJECT_DIRECTORY"];

/// What the program may do beside telling what is there.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Allowed {
    /// Filters of the repository may be run.
    pub filters: bool,
    /// What is missing may be fetched.
    pub fetching: bool,
}

/// How the program is run for one repository.
#[derive(Clone, Debug)]
pub(crate) struct Program {
    folder: PathBuf,
    is_named: bool,
    allowed: Allowed,
    /// Filters that are switched off, by name.
    filters: Vec<OsString>,
}

impl Program {
    /// For the repository around a folder; `is_named` when it was named, whatever the environment says.
    pub(crate) fn new(folder: &Path, is_named: bool, allowed: Allowed) -> Self {
        Self { folder: folder.to_path_buf(), is_named, allowed, filters: Vec::new() }
    }

    /// The same in another folder.
    pub(crate) fn within(&self, folder: &Path) -> Self {
        Self { folder: folder.to_path_buf(), ..self.clone() }
    }

    /// Switches the filters of the repository off, unless they are allowed. Must come before any file is converted.
    pub(crate) fn without_filters(&mut self) -> Result<(), RevisionError> {
        if self.allowed.filters {
            return Ok(());
        }
        let names = self.run(["config", "-z", "--name-only", "--get-regexp", r"^filter\..*\.(clean|smudge|process)$"]);
        // No setting at all is told as a failure.
        for name in names.unwrap_or_default().split(|&byte| byte == 0).filter(|name| !name.is_empty()) {
            let name = String::from_utf8_lossy(name);
            if let Some((filter, _)) = name.rsplit_once('.') {
                self.filters.push(filter.into());
            }
        }
        self.filters.sort_unstable();
        self.filters.dedup();
        Ok(())
    }

    fn command(&self) -> Command {
        let mut command = Command::new(PROGRAM);
        command.arg("--no-optional-locks").arg("-C").arg(&self.folder);
        for setting in SETTINGS {
            command.args(["-c", setting]);
        }
        if !self.allowed.fetching {
            command
                .args(["-c", "protocol.allow=never"])
                .env("GIT_NO_LAZY_FETCH", "1")
                .env("GIT_ALLOW_PROTOCOL", "none");
        }
        for filter in &self.filters {
            for (key, value) in [("clean", ""), ("smudge", ""), ("process", ""), ("required", "false")] {
                let mut setting = filter.clone();
                setting.push(format!(".{key}={value}"));
                command.arg("-c").arg(setting);
            }
        }
        command.env("GIT_TERMINAL_PROMPT", "0").env("GIT_OPTIONAL_LOCKS", "0").env("LC_ALL", "C");
        if self.is_named {
            OF_ANOTHER_REPOSITORY.iter().for_each(|name| {
                command.env_remove(name);
            });
        }
        command.stdin(Stdio::null()).stderr(Stdio::null());
        command
    }

    /// What the program prints, where it succeeds; else what it says of the reason.
    pub(crate) fn run<S: AsRef<OsStr>>(
        &self,
        arguments: impl IntoIterator<Item = S>,
    ) -> Result<Vec<u8>, RevisionError> {
        let output =
            self.command().args(arguments).stderr(Stdio::piped()).output().map_err(|error| not_started(&error))?;
        if output.status.success() {
            return Ok(output.stdout);
        }
        let said = String::from_utf8_lossy(&output.stderr).trim().to_owned();
        let reason =
            said.lines().next().unwrap_or("it failed without a reason").trim_start_matches("fatal: ").to_owned();
        Err(RevisionError::Failed { reason })
    }

    /// Starts the program so that it answers one question after the other.
    pub(crate) fn serve(&self, arguments: &[&str]) -> io::Result<Service> {
        let mut child = self.command().args(arguments).stdin(Stdio::piped()).stdout(Stdio::piped()).spawn()?;
        let (stdin, stdout) = (child.stdin.take(), child.stdout.take());
        let (Some(questions), Some(answers)) = (stdin, stdout) else { return Err(io::ErrorKind::BrokenPipe.into()) };
        Ok(Service { child, questions: Some(questions), answers: BufReader::with_capacity(64 << 10, answers) })
    }
}

fn not_started(error: &io::Error) -> RevisionError {
    if error.kind() == io::ErrorKind::NotFound {
        RevisionError::NoProgram
    } else {
        RevisionError::Failed { reason: format!("the program `{PROGRAM}` could not be started: {error}") }
    }
}

/// The program, waiting for questions.
pub(crate) struct Service {
    child: Child,
    questions: Option<ChildStdin>,
    answers: BufReader<ChildStdout>,
}

impl Service {
    /// Asks a question of one line.
    pub(crate) fn ask(&mut self, question: &[u8]) -> io::Result<()> {
        self.ask_raw(&[question, b"\n"].concat())
    }

    /// Asks a question that has its own end.
    pub(crate) fn ask_raw(&mut self, question: &[u8]) -> io::Result<()> {
        let Some(questions) = &mut self.questions else { return Err(io::ErrorKind::BrokenPipe.into()) };
        questions.write_all(question)?;
        questions.flush()
    }

    /// An answer up to a byte, without it.
    pub(crate) fn answer(&mut self, end: u8) -> io::Result<Vec<u8>> {
        let mut line = Vec::new();
        self.answers.read_until(end, &mut line)?;
        if line.pop() == Some(end) { Ok(line) } else { Err(io::ErrorKind::UnexpectedEof.into()) }
    }

    /// All bytes of an answer up to an end of some lines, without it.
    pub(crate) fn until(&mut self, end: &[u8]) -> io::Result<Vec<u8>> {
        let mut bytes = Vec::new();
        while !bytes.ends_with(end) {
            if self.answers.read_until(b'\n', &mut bytes)? == 0 {
                return Err(io::ErrorKind::UnexpectedEof.into());
            }
        }
        bytes.truncate(bytes.len() - end.len());
        Ok(bytes)
    }

    /// So many bytes of an answer, and the byte behind them.
    pub(crate) fn bytes(&mut self, count: u64) -> io::Result<Vec<u8>> {
        let mut bytes = Vec::new();
        let count = usize::try_from(count).map_err(|_| io::ErrorKind::OutOfMemory)?;
        bytes.try_reserve_exact(count + 1)?;
        (&mut self.answers).take(count as u64 + 1).read_to_end(&mut bytes)?;
        if bytes.len() != count + 1 {
            return Err(io::ErrorKind::UnexpectedEof.into());
        }
        bytes.pop();
        Ok(bytes)
    }
}

impl Drop for Service {
    fn drop(&mut self) {
        // Without further questions it ends by itself.
        self.questions = None;
        if self.child.try_wait().is_ok_and(|status| status.is_none()) {
            // What it still says is read by nobody.
            let _ = self.child.kill();
        }
        let _ = self.child.wait();
    }
}

/// Services that wait for their next question. Each thread that asks takes one, and starts one where none is free.
pub(crate) struct Services {
    program: Program,
    arguments: &'static [&'static str],
    free: Mutex<Vec<Service>>,
}

impl Services {
    pub(crate) fn new(program: Program, arguments: &'static [&'static str]) -> Self {
        Self { program, arguments, free: Mutex::default() }
    }

    /// Asks a service. One that failed is not asked again.
    pub(crate) fn ask<T>(&self, ask: impl FnOnce(&mut Service) -> io::Result<T>) -> io::Result<T> {
        let free = self.free.lock().unwrap_or_else(PoisonError::into_inner).pop();
        let mut service = match free {
            Some(service) => service,
            None => self.program.serve(self.arguments)?,
        };
        let answer = ask(&mut service)?;
        self.free.lock().unwrap_or_else(PoisonError::into_inner).push(service);
        Ok(answer)
    }
}
