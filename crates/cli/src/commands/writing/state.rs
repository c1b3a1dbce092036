//! Where the journal is, and what is its own in a tree.

use std::env;
use std::ffi::OsStr;
use std::fs;
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};

use anyhow::{Context, Result};
use tideline_journal::{Journal, RealFiles};
use tideline_sources::Own;
use tideline_views::shown_path;

use crate::commands::tell;

/// The folder of the journal, by the XDG base folders.
pub(in crate::commands) fn folder() -> Result<PathBuf> {
    let (folder, _) = chosen()?;
    static TOLD: OnceLock<()> = OnceLock::new();
    if let (folder, true) = chosen()?
        && TOLD.set(()).is_ok()
    {
        tell(&format!(
            "the state folder belongs to another user: the runs of root are kept in {}",
            shown_path(&folder)
        ));
    }
    Ok(folder)
}

/// The folder, and whether it is root's own in the place of another user's.
fn chosen() -> Result<(PathBuf, bool)> {
    let named = env::var_os("XDG_STATE_HOME").map(PathBuf::from).filter(|path| path.is_absolute());
    let base = named.or_else(|| env::var_os("HOME").map(|home| PathBuf::from(home).join(".local/state")));
    let base = base.context("cannot find the journal: neither XDG_STATE_HOME nor HOME is set")?;
    let folder = base.join("tideline");
    // A command that is run as root with another user's environment must not write into that user's journal.
    let nearest = folder.ancestors().find_map(|path| fs::metadata(path).ok());
    let is_anothers = rustix::process::geteuid().is_root() && nearest.is_some_and(|metadata| metadata.uid() != 0);
    if is_anothers { Ok((home_of_root().join(".local/state/tideline"), true)) } else { Ok((folder, false)) }
}

/// The home folder of root, by the list of users.
fn home_of_root() -> PathBuf {
    let users = fs::read("/etc/passwd").unwrap_or_default();
    let home = users.split(|&byte| byte == b'\n').find_map(|line| {
        let fields: Vec<&[u8]> = line.split(|&byte| byte == b':').collect();
        (fields.len() > 5 && fields[2] == b"0").then(|| PathBuf::from(OsStr::from_bytes(fields[5])))
    });
    home.unwrap_or_else(|| PathBuf::from("/root"))
}

/// What of a tree is Tideline's own: temporary files of its runs, and its journal.
pub(crate) fn own_entries() -> Arc<dyn Own> {
    let folder = chosen().ok().map(|(folder, _)| folder);
    Arc::new(OwnEntries { journal: folder.as_ref().and_then(|folder| folder.canonicalize().ok()), folder })
}

#[derive(Debug)]
struct OwnEntries {
    folder: Option<PathBuf>,
    journal: Option<PathBuf>,
}

impl Own for OwnEntries {
    fn is_temporary(&self, name: &[u8]) -> bool {
        let journal = self.folder.as_ref().map(|folder| Journal::new(folder.clone(), RealFiles));
        journal.is_some_and(|journal| journal.knows_temporary(OsStr::from_bytes(name)))
    }

    fn journal(&self) -> Option<&Path> {
        self.journal.as_deref()
    }
}
