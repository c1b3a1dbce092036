//! Standard output: buffered, through a pager where it is long and on a terminal, and quiet when its reader leaves.

use std::env;
use std::io::{self, BufWriter, IsTerminal, StdoutLock, Write};
use std::process::{Child, ChildStdin, Command, Stdio};

use anyhow::Result;

/// What begins the heading of a change, for the search of a pager.
const HEADING: &str = "^  changes? [0-9]";
/// What a pager that can search for them says of its keys.
const HINT: &str = "n, N\\: next, previous change   q\\: quit";

/// Lets `print` write to standard output. A reader that closed the pipe has seen enough: that is no error.
pub(super) fn printing(paged: bool, print: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> Result<()> {
    printing_through(pager_command().filter(|_| paged), print)
}

/// The same for changes, each with its heading: a pager steps from one to the next.
pub(super) fn printing_changes(paged: bool, print: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> Result<()> {
    printing_through(pager_command().filter(|_| paged).map(|pager| stepping(&pager)), print)
}

/// The command of a pager that looks for the headings of changes, if it is one that can.
fn stepping(pager: &str) -> String {
    let program = pager.split_whitespace().next().and_then(|program| program.rsplit('/').next());
    // The search is typed for the reader, who then stands at the first line again.
    if program == Some("less") { format!("{pager} -R -g -Ps'{HINT}' '+/{HEADING}\ng'") } else { pager.to_owned() }
}

fn printing_through(pager: Option<String>, print: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> Result<()> {
    let pager = pager.filter(|_| io::stdout().is_terminal());
    let mut out = BufWriter::with_capacity(64 * 1024, Output::new(pager));
    let result = print(&mut out).and_then(|()| out.flush());
    // What is left in the buffer after an error has no reader; dropping it must not try again.
    let (output, _) = out.into_parts();
    let result = result.and_then(|()| output.finish());
    match result {
        Err(error) if error.kind() != io::ErrorKind::BrokenPipe => {
            Err(anyhow::Error::new(error).context("cannot write to standard output"))
        }
        _ => Ok(()),
    }
}

/// The pager that the environment names, else `less`; none when it names none.
fn pager_command() -> Option<String> {
    match env::var("PAGER") {
        Ok(pager) if pager.trim().is_empty() || pager.trim() == "cat" => None,
        Ok(pager) => Some(pager),
        Err(_) => Some("less".to_owned()),
    }
}

/// Where the output goes.
enum Output {
    /// Kept until it is known whether it fits on the screen.
    Waiting {
        pager: String,
        kept: Vec<u8>,
        rows: usize,
    },
    Paged(Pager),
    Plain(StdoutLock<'static>),
}

struct Pager {
    child: Child,
    input: ChildStdin,
}

impl Output {
    fn new(pager: Option<String>) -> Self {
        let rows = terminal_size::terminal_size().map_or(24, |(_, height)| usize::from(height.0));
        match pager {
            Some(pager) => Self::Waiting { pager, kept: Vec::new(), rows: rows.saturating_sub(1) },
            None => Self::Plain(io::stdout().lock()),
        }
    }

    /// Writes what was kept, and waits for the person to leave the pager.
    fn finish(self) -> io::Result<()> {
        match self {
            Self::Waiting { kept, .. } => io::stdout().write_all(&kept),
            Self::Paged(Pager { mut child, input }) => {
                drop(input);
                child.wait().map(|_| ())
            }
            Self::Plain(mut out) => out.flush(),
        }
    }
}

impl Write for Output {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match self {
            Self::Plain(out) => out.write(bytes),
            Self::Paged(pager) => pager.input.write(bytes),
            Self::Waiting { pager, kept, rows } => {
                kept.extend_from_slice(bytes);
                if kept.iter().filter(|&&byte| byte == b'\n').count() > *rows {
                    let kept = std::mem::take(kept);
                    *self = start(pager).map_or_else(|_| Self::Plain(io::stdout().lock()), Self::Paged);
                    self.write_all(&kept)?;
                }
                Ok(bytes.len())
            }
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match self {
            Self::Plain(out) => out.flush(),
            Self::Paged(pager) => pager.input.flush(),
            Self::Waiting { .. } => Ok(()),
        }
    }
}

/// Starts the pager. A machine without it gets its output unpaged.
fn start(pager: &str) -> io::Result<Pager> {
    let program = pager.split_whitespace().next().unwrap_or(pager);
    let known = env::var_os("PATH").is_some_and(|path| env::split_paths(&path).any(|dir| dir.join(program).exists()));
    if !known && !program.contains('/') {
        return Err(io::ErrorKind::NotFound.into());
    }
    let mut command = Command::new("sh");
    command.args(["-c", pager]).stdin(Stdio::piped());
    if env::var_os("LESS").is_none() {
        // Colours as they are, and the screen left as it was.
        command.env("LESS", "R");
    }
    let mut child = command.spawn()?;
    match child.stdin.take() {
        Some(input) => Ok(Pager { child, input }),
        None => Err(io::ErrorKind::BrokenPipe.into()),
    }
}
