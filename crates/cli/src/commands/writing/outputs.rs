//! Files that an option names, and what they must not overwrite.

use std::fs;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};

use anyhow::{Result, bail};
use tideline_core::internal::plan::{Contents, ExpectedState, Fingerprint, Plan, Step};
use tideline_views::shown_path;

use super::run::{carry_out, expected_state, in_full};
use crate::commands::tell;

/// What a command reads, which its output must not overwrite.
pub(in crate::commands) struct Inputs<'i> {
    /// The sides, patches and plans that were named.
    pub(in crate::commands) paths: Vec<&'i Path>,
    /// Whether contents look like an earlier output of this command; what a run of it wrote is one in any case.
    pub(in crate::commands) is_earlier: fn(&[u8]) -> bool,
    /// The name of the command.
    pub(in crate::commands) command: &'static str,
}

impl Inputs<'_> {
    /// Refuses an output that would overwrite something that is read, or a file that stands inside a side.
    ///
    /// # Errors
    /// When it would.
    pub(in crate::commands) fn refuse(&self, output: &Path) -> Result<()> {
        let full = in_full(output)?;
        let there = fs::metadata(&full).ok();
        let same = |one: &fs::Metadata, other: &fs::Metadata| (one.dev(), one.ino()) == (other.dev(), other.ino());
        for path in self.paths.iter().filter(|path| path.as_os_str() != "-") {
            let Ok(metadata) = fs::metadata(path) else { continue };
            let shown = (shown_path(output), shown_path(path));
            if there.as_ref().is_some_and(|there| same(there, &metadata)) {
                bail!("cannot write {}: the command reads it; name another file", shown.0);
            }
            let inside = metadata.is_dir() && path.canonicalize().is_ok_and(|folder| full.starts_with(folder));
            if inside && there.as_ref().is_some_and(fs::Metadata::is_file) {
                let bytes = fs::read(&full).unwrap_or_default();
                if !(self.is_earlier)(&bytes) && !self.wrote(&full, &bytes) {
                    bail!(
                        "cannot write {}: it is a file of {}, and no earlier output of this command; name another file",
                        shown.0,
                        shown.1
                    );
                }
            }
        }
        Ok(())
    }
}

impl Inputs<'_> {
    fn wrote(&self, path: &Path, bytes: &[u8]) -> bool {
        let writer = super::journal().ok().and_then(|journal| journal.writer_of(path, &Fingerprint::of(bytes)));
        writer.is_some_and(|typed| typed.starts_with(&format!("tideline {} ", self.command)))
    }
}

/// Writes a file that must not exist yet.
pub(in crate::commands) fn write_new_file(path: &Path, bytes: Vec<u8>) -> Result<()> {
    if path.symlink_metadata().is_ok() {
        bail!("cannot write {}: it exists already; remove it first, or choose another name", shown_path(path));
    }
    write_output(path, bytes)
}

/// Writes a file that an option names; one that is there already goes to the journal.
pub(in crate::commands) fn write_output(path: &Path, bytes: Vec<u8>) -> Result<()> {
    let destination = Destination::of(path)?;
    let replaced = destination.replaces();
    if let Some(run) = destination.write(Contents::Bytes(bytes))?
        && replaced
    {
        tell(&format!("replaced {} (run {run}; `tideline undo {run}` puts it back)", shown_path(path)));
    }
    Ok(())
}

/// A file that an option names, as it was before work on its contents began.
pub(in crate::commands) struct Destination {
    path: PathBuf,
    expected: ExpectedState,
}

impl Destination {
    pub(in crate::commands) fn of(path: &Path) -> Result<Self> {
        let path = in_full(path)?;
        Ok(Self { expected: expected_state(&path)?, path })
    }

    /// Whether something is there already.
    pub(in crate::commands) fn replaces(&self) -> bool {
        self.expected != ExpectedState::Nothing
    }

    /// Writes it; what is there already goes to the journal.
    pub(in crate::commands) fn write(self, contents: Contents) -> Result<Option<u64>> {
        carry_out(&Plan::of(vec![Step::write(self.path, self.expected, contents)]))
    }
}
