//! The working folder of a repository, as it is compared with a revision: without what the repository ignores, and with files known
//! by what they would be stored as.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

use tideline_core::internal::tree::{
    ContentId, Contents, EntryMetadata, EntryType, Listing, Opened, Remark, Tree, TreeError, TreePath,
};

use super::error::RevisionError;
use super::program::Services;
use super::repository::Repository;
use super::tree::RevisionTree;
use crate::folder::FolderTree;
use crate::hashing::{Algorithm, from_hex};

/// Files that are named when there is something to know of many.
const NAMED: usize = 3;

/// The working folder of a repository.
pub(crate) struct WorkingTree {
    folder: FolderTree,
    repository: Arc<Repository>,
    revision: RevisionTree,
    /// What the repository ignores.
    ignored: HashSet<TreePath>,
    /// The submodules, and the commits that are checked out in them.
    submodules: HashMap<TreePath, String>,
    /// Says what a file would be stored as.
    stored_as: Services,
    /// Says which filter a file goes through.
    filter_of: Services,
    /// Files that are stored in another form than they have on the disk.
    converted: Mutex<Vec<TreePath>>,
    /// Files that would go through a filter that was not run, by its name.
    unfiltered: Mutex<BTreeMap<String, Vec<TreePath>>>,
}

impl WorkingTree {
    /// A folder in the working folder, to be compared with a revision.
    pub(crate) fn new(
        folder: FolderTree,
        root: &Path,
        repository: Arc<Repository>,
        revision: RevisionTree,
        with_ignored: bool,
    ) -> Result<Self, RevisionError> {
        let ignored = if with_ignored { HashSet::new() } else { ignored(&repository, root)? };
        let submodules = submodules(&repository, root, &revision);
        Ok(Self {
            stored_as: repository.services(root, &["hash-object", "--stdin-paths"])?,
            filter_of: repository.services(root, &["check-attr", "-z", "--stdin", "filter"])?,
            folder,
            repository,
            revision,
            ignored,
            submodules,
            converted: Mutex::default(),
            unfiltered: Mutex::default(),
        })
    }

    /// By what a file would be known in the repository.
    fn stored(&self, path: &TreePath) -> Result<ContentId, TreeError> {
        let algorithm = self.repository.algorithm;
        let raw = match self.folder.identify(path, algorithm.name()) {
            Some(raw) => raw?,
            None => return Err(TreeError::new(tideline_core::internal::tree::TreeErrorKind::Other, "it has no hash")),
        };
        let expected = self.revision.object(path);
        if expected == Some(&raw.bytes[..]) {
            return Ok(raw);
        }
        let stored = self.asked_stored(path).unwrap_or_else(|| raw.clone());
        if stored != raw && expected == Some(&stored.bytes[..]) {
            self.converted.lock().unwrap_or_else(PoisonError::into_inner).push(path.clone());
        }
        if !self.repository.allowed.filters
            && expected.is_some_and(|expected| *expected != *stored.bytes)
            && let Some(filter) = self.asked_filter(path)
        {
            let mut unfiltered = self.unfiltered.lock().unwrap_or_else(PoisonError::into_inner);
            unfiltered.entry(filter).or_default().push(path.clone());
        }
        Ok(stored)
    }

    /// What the repository says a file would be stored as.
    fn asked_stored(&self, path: &TreePath) -> Option<ContentId> {
        let answer = self.stored_as.ask(|service| {
            service.ask(&quoted(path))?;
            service.answer(b'\n')
        });
        Some(self.repository.algorithm.id(from_hex(&answer.ok()?)?))
    }

    /// The filter that a file goes through.
    fn asked_filter(&self, path: &TreePath) -> Option<String> {
        let answer = self.filter_of.ask(|service| {
            service.ask_raw(&[&path[..], b"\0"].concat())?;
            // The path, the attribute, and its value.
            (0..3).map(|_| service.answer(b'\0')).last().unwrap_or_else(|| Ok(Vec::new()))
        });
        let name = String::from_utf8(answer.ok()?).ok()?;
        (!matches!(&*name, "unspecified" | "unset" | "set" | "")).then_some(name)
    }
}

/// A path as the program reads it from a line: in quotes where it holds a quote, a line break or the like.
fn quoted(path: &[u8]) -> Vec<u8> {
    if !path.iter().any(|byte| byte.is_ascii_control() || matches!(byte, b'"' | b'\\')) {
        return path.to_vec();
    }
    let mut line = vec![b'"'];
    for &byte in path {
        match byte {
            b'"' | b'\\' => line.extend([b'\\', byte]),
            _ if byte.is_ascii_control() => line.extend(format!("\\{byte:03o}").bytes()),
            _ => line.push(byte),
        }
    }
    line.push(b'"');
    line
}

/// What the repository ignores below a folder; of an ignored folder, the folder alone.
fn ignored(repository: &Repository, root: &Path) -> Result<HashSet<TreePath>, RevisionError> {
    let asked = ["ls-files", "-z", "--others", "--ignored", "--exclude-standard", "--directory"];
    let listed = repository.program_in(root).run(asked)?;
    let names = listed.split(|&byte| byte == 0).filter(|name| !name.is_empty());
    Ok(names.map(|name| TreePath::from(name.strip_suffix(b"/").unwrap_or(name))).collect())
}

/// Files of a revision that are not in the working folder because it is sparse.
pub(crate) fn not_checked_out(repository: &Repository, root: &Path) -> HashSet<TreePath> {
    let program = repository.program_in(root);
    let sparse = program.run(["config", "--type=bool", "--get", "core.sparseCheckout"]).unwrap_or_default();
    if !sparse.starts_with(b"true") {
        return HashSet::new();
    }
    let listed = program.run(["ls-files", "-t", "-z"]).unwrap_or_default();
    let skipped = listed.split(|&byte| byte == 0).filter_map(|line| line.strip_prefix(b"S "));
    let is_missing = |path: &TreePath| root.join(path_of(path)).symlink_metadata().is_err();
    skipped.map(TreePath::from).filter(is_missing).collect()
}

fn path_of(path: &TreePath) -> PathBuf {
    use std::os::unix::ffi::OsStrExt;
    PathBuf::from(std::ffi::OsStr::from_bytes(path))
}

/// The commits that are checked out in the submodules. In one that is not there, nothing differs.
fn submodules(repository: &Repository, root: &Path, revision: &RevisionTree) -> HashMap<TreePath, String> {
    let commit = |(path, recorded): (TreePath, String)| {
        let folder = root.join(path_of(&path));
        if !folder.is_dir() {
            return None;
        }
        let is_there = folder.join(".git").symlink_metadata().is_ok();
        let head = is_there.then(|| repository.program_in(&folder).run(["rev-parse", "--verify", "--quiet", "HEAD"]));
        let head = head.and_then(Result::ok).map(|head| String::from_utf8_lossy(&head).trim().to_owned());
        Some((path, head.unwrap_or(recorded)))
    };
    revision.submodules().into_iter().filter_map(commit).collect()
}

impl Tree for WorkingTree {
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        let mut listing = self.folder.list(folder)?;
        if folder.is_root() {
            // No revision can hold the repository itself.
            listing.repositories.retain(|name| name != b".git");
        }
        let mut left = 0;
        listing.entries.retain_mut(|entry| {
            let path = folder.join(&entry.name);
            if self.submodules.contains_key(&path) {
                entry.entry_type = EntryType::Special("submodule");
                return true;
            }
            // In a working folder beside the first, the place of the repository is told in a file.
            if entry.name == b".git" {
                return false;
            }
            let is_ignored = self.ignored.contains(&path);
            left += usize::from(is_ignored);
            !is_ignored
        });
        listing.ignored += left;
        Ok(listing)
    }

    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        self.folder.metadata(path)
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        self.folder.open(path)
    }

    fn identity(&self, path: &TreePath) -> Option<ContentId> {
        let commit = self.submodules.get(path)?;
        Some(ContentId { algorithm: "commit", bytes: commit.as_bytes().to_vec() })
    }

    fn identify(&self, path: &TreePath, algorithm: &str) -> Option<Result<ContentId, TreeError>> {
        let algorithm = Algorithm::named(algorithm)?;
        if algorithm == self.repository.algorithm {
            return Some(self.stored(path));
        }
        self.folder.identify(path, algorithm.name())
    }

    fn remarks(&self) -> Vec<Remark> {
        let mut remarks = Vec::new();
        let mut converted = self.converted.lock().unwrap_or_else(PoisonError::into_inner).clone();
        converted.sort_unstable();
        converted.dedup();
        if !converted.is_empty() {
            let text = format!("the same as stored, though in another form on the disk: {}", named(&converted));
            remarks.push(Remark { path: None, text });
        }
        for (filter, paths) in &*self.unfiltered.lock().unwrap_or_else(PoisonError::into_inner) {
            let mut paths = paths.clone();
            paths.sort_unstable();
            paths.dedup();
            let text = format!(
                "the filter `{filter}` of the repository was not run, --run-filters runs it: {}",
                named(&paths)
            );
            remarks.push(Remark { path: None, text });
        }
        remarks
    }

    fn contents(&self, path: &TreePath) -> Result<Contents, TreeError> {
        self.folder.contents(path)
    }

    fn link_target(&self, path: &TreePath) -> Result<Vec<u8>, TreeError> {
        self.folder.link_target(path)
    }

    fn leaves_out(&self, path: &TreePath, entry_type: EntryType) -> bool {
        let mut above = path.folders_above();
        self.ignored.contains(path)
            || above.any(|folder| self.ignored.contains(folder))
            || self.folder.leaves_out(path, entry_type)
    }
}

/// Some paths, the first of them by name.
fn named(paths: &[TreePath]) -> String {
    let first: Vec<String> = paths.iter().take(NAMED).map(TreePath::to_text).collect();
    match paths.len().saturating_sub(NAMED) {
        0 => first.join(", "),
        more => format!("{} and {more} more", first.join(", ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_are_quoted_where_a_line_could_not_hold_them() {
        assert_eq!(quoted("höhe am kai.toml".as_bytes()), "höhe am kai.toml".as_bytes());
        assert_eq!(quoted(b"two\nlines"), br#""two\012lines""#);
        assert_eq!(quoted(br#"a "word" and \"#), br#""a \"word\" and \\""#);
    }

    #[test]
    fn of_many_paths_the_first_are_named() {
        let paths: Vec<TreePath> = ["a", "b", "c", "d", "e"].into_iter().map(TreePath::from).collect();
        assert_eq!(named(&paths[..2]), "a, b");
        assert_eq!(named(&paths), "a, b, c and 2 more");
    }
}
