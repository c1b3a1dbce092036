//! Writing through the journal.

use std::env;
use std::ffi::OsStr;
use std::fs;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use tideline_core::plan::{Contents, Fingerprint, Plan, Standing, Step};
use tideline_core::tree;
use tideline_journal::{Carried, Journal, Progress, RealFiles};

/// The journal of this person, by the XDG base folders.
pub(super) fn journal() -> Result<Journal> {
    let named = env::var_os("XDG_STATE_HOME").map(PathBuf::from).filter(|path| path.is_absolute());
    let base = named.or_else(|| env::var_os("HOME").map(|home| PathBuf::from(home).join(".local/state")));
    let base = base.context("cannot find the journal: neither XDG_STATE_HOME nor HOME is set")?;
    Ok(Journal::new(base.join("tideline"), Box::new(RealFiles)))
}

/// Carries a plan out and says on standard error what earlier runs left open.
pub(super) fn carry_out(plan: &Plan) -> Result<Option<u64>> {
    let journal = journal()?;
    tell_open_runs(&journal);
    Ok(journal.carry_out(plan, &typed())?)
}

/// Says which runs were cut off.
pub(super) fn tell_open_runs(journal: &Journal) {
    for record in journal.open_runs().unwrap_or_default() {
        let advice = match record.progress {
            Progress::Placing => format!(
                "`tideline undo {0}` puts back what it changed, `tideline runs finish {0}` does the rest",
                record.run
            ),
            _ => format!("it changed nothing yet; `tideline undo {}` clears it away", record.run),
        };
        // With standard error gone there is nobody left to tell.
        let _ = writeln!(io::stderr(), "tideline: run {} ({}) was cut off: {advice}", record.run, record.command);
    }
}

/// Carries out what can be of a plan, and says what earlier runs left open.
pub(super) fn carry_out_what_can_be(plan: &Plan, progress: &tree::Progress) -> Result<Carried> {
    let journal = journal()?;
    tell_open_runs(&journal);
    Ok(journal.carry_out_what_can_be(plan, &typed(), progress)?)
}

/// What was typed, as a shell takes it.
pub(super) fn typed() -> String {
    let words: Vec<String> = env::args_os().skip(1).map(|word| quoted(&word)).collect();
    format!("tideline {}", words.join(" "))
}

/// A word as a shell takes it.
pub(super) fn quoted(word: &OsStr) -> String {
    let word = word.to_string_lossy();
    let is_plain = |letter: char| letter.is_alphanumeric() || "_-./:=,@%+".contains(letter);
    if !word.is_empty() && word.chars().all(is_plain) {
        word.into_owned()
    } else {
        format!("'{}'", word.replace('\'', "'\\''"))
    }
}

/// A path in full: its folder without links, so that a plan means the same wherever it is carried out.
pub(super) fn in_full(path: &Path) -> Result<PathBuf> {
    let doing = || format!("cannot write {}", path.display());
    let Some(name) = path.file_name() else { bail!("{}: it names no file", doing()) };
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    Ok(folder.canonicalize().with_context(doing)?.join(name))
}

/// What stands at a path now, as a plan expects it. Whatever is no file is left for the journal to refuse.
pub(super) fn standing(path: &Path) -> Result<Standing> {
    match fs::symlink_metadata(path) {
        Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(Standing::Nothing),
        Err(error) => Err(error).with_context(|| format!("cannot write {}", path.display())),
        Ok(facts) if facts.is_file() => {
            let bytes = fs::read(path).with_context(|| format!("cannot read {}", path.display()))?;
            Ok(Standing::File(Fingerprint::of(&bytes)))
        }
        Ok(_) => Ok(Standing::Anything),
    }
}

/// Writes a file that must not exist yet.
pub(super) fn write_new_file(path: &Path, bytes: Vec<u8>) -> Result<()> {
    if path.symlink_metadata().is_ok() {
        bail!("cannot write {}: it exists already; remove it first, or choose another name", path.display());
    }
    write_output(path, bytes)
}

/// Writes a file that an option names; one that is there already is kept in the journal.
pub(super) fn write_output(path: &Path, bytes: Vec<u8>) -> Result<()> {
    Destination::of(path)?.write(Contents::Bytes(bytes))
}

/// A file that an option names, as it was before work on its contents began.
pub(super) struct Destination {
    path: PathBuf,
    expected: Standing,
}

impl Destination {
    pub(super) fn of(path: &Path) -> Result<Self> {
        let path = in_full(path)?;
        Ok(Self { expected: standing(&path)?, path })
    }

    /// Writes it; what is there already is kept in the journal.
    pub(super) fn write(self, contents: Contents) -> Result<()> {
        let step = Step::Write { path: self.path, expected: self.expected, contents, mode: None, modified: None };
        carry_out(&Plan { steps: vec![step] }).map(|_| ())
    }
}
