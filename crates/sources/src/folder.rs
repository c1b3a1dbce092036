//! A folder on the disk as a tree.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ffi::OsStr;
use std::fs::{self, File, FileType, Metadata};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Arc, RwLock};
use std::time::{Duration, SystemTime};

use ignore::gitignore::{Gitignore, GitignoreBuilder};
use tideline_core::tree::{Contents, Entry, Facts, Listing, Nature, Opened, Problem, Tree, join, split};

use crate::file::{Origin, open};

/// Folders in which version-control systems keep what is theirs.
const REPOSITORIES: [&str; 3] = [".git", ".hg", ".svn"];
/// Files that name what is to be ignored.
const IGNORE_FILES: [&str; 2] = [".gitignore", ".ignore"];

/// A folder and all that is in it. Hidden files are in it; folders of version control are not, unless asked for.
#[derive(Debug)]
pub struct FolderTree {
    root: PathBuf,
    follow: bool,
    repositories: bool,
    ignore_files: Option<IgnoreFiles>,
}

impl FolderTree {
    /// The tree below a folder.
    pub fn new(root: impl Into<PathBuf>) -> Self {
        Self { root: root.into(), follow: false, repositories: false, ignore_files: None }
    }

    /// Whether links are followed, or taken as they are. Default: as they are.
    pub fn follow_links(mut self, follow: bool) -> Self {
        self.follow = follow;
        self
    }

    /// Whether folders of version control are entered. Default: no.
    pub fn with_repositories(mut self, with: bool) -> Self {
        self.repositories = with;
        self
    }

    /// Whether entries that ignore files name are left out. Default: no.
    pub fn use_ignore_files(mut self, with: bool) -> Self {
        self.ignore_files = with.then(IgnoreFiles::default);
        self
    }

    fn path(&self, path: &[u8]) -> PathBuf {
        if path.is_empty() { self.root.clone() } else { self.root.join(&*name_of(path)) }
    }

    fn nature(&self, kind: FileType, path: &Path) -> Nature {
        if !kind.is_symlink() {
            return nature_of(kind);
        }
        // A link that points nowhere is compared as the link it is.
        match fs::metadata(path) {
            Ok(facts) if self.follow && facts.is_dir() && self.encloses(path, &facts) => Nature::Special("link loop"),
            Ok(facts) if self.follow => nature_of(facts.file_type()),
            _ => Nature::Link,
        }
    }

    /// Whether a folder that a link points to is one that the link itself is in.
    fn encloses(&self, link: &Path, target: &Metadata) -> bool {
        let above = link.ancestors().skip(1).take_while(|folder| folder.starts_with(&self.root));
        above.filter_map(|folder| fs::metadata(folder).ok()).any(|folder| same_file(&folder, target))
    }
}

impl Tree for FolderTree {
    fn list(&self, folder: &[u8]) -> Result<Listing, Problem> {
        let path = self.path(folder);
        let rules = self.ignore_files.as_ref().map(|files| files.of(&self.root, folder));
        let mut listing = Listing::default();
        for entry in fs::read_dir(&path).map_err(|error| problem(&error))? {
            let entry = entry.map_err(|error| problem(&error))?;
            let kind = entry.file_type().map_err(|error| problem(&error))?;
            let nature =
                if kind.is_symlink() { self.nature(kind, &path.join(entry.file_name())) } else { nature_of(kind) };
            let name = bytes_of(&entry.file_name()).into_owned();
            let is_repository = || REPOSITORIES.iter().any(|repository| repository.as_bytes() == name);
            if nature == Nature::Folder && !self.repositories && is_repository() {
                listing.repositories.push(name);
            } else if rules.as_ref().is_some_and(|rules| ignored(rules, &join(folder, &name), nature)) {
                listing.ignored += 1;
            } else {
                listing.entries.push(Entry { name, nature });
            }
        }
        Ok(listing)
    }

    fn facts(&self, path: &[u8]) -> Result<Facts, Problem> {
        fs::metadata(self.path(path)).map(|found| facts_of(&found)).map_err(|error| problem(&error))
    }

    fn open(&self, path: &[u8]) -> Result<Opened, Problem> {
        let file = File::open(self.path(path)).map_err(|error| problem(&error))?;
        let facts = file.metadata().map_err(|error| problem(&error))?;
        Ok(Opened { facts: facts_of(&facts), reader: Box::new(file) })
    }

    fn contents(&self, path: &[u8]) -> Result<Contents, Problem> {
        let content = open(&Origin::Path(self.path(path))).map_err(|error| Problem::new(error.to_string()))?;
        Ok(Box::new(content))
    }

    fn link_target(&self, path: &[u8]) -> Result<Vec<u8>, Problem> {
        let target = fs::read_link(self.path(path)).map_err(|error| problem(&error))?;
        Ok(bytes_of(target.as_os_str()).into_owned())
    }
}

/// The system's reason without the number it has for it.
fn problem(error: &io::Error) -> Problem {
    let text = error.to_string();
    let reason = text.split(" (os error").next().unwrap_or(&text);
    let mut letters = reason.chars();
    let reason: String = letters.next().into_iter().flat_map(char::to_lowercase).chain(letters).collect();
    Problem::new(reason)
}

fn nature_of(kind: FileType) -> Nature {
    if kind.is_file() {
        return Nature::File;
    }
    if kind.is_dir() {
        return Nature::Folder;
    }
    if kind.is_symlink() {
        return Nature::Link;
    }
    special(kind)
}

#[cfg(unix)]
fn special(kind: FileType) -> Nature {
    use std::os::unix::fs::FileTypeExt;
    Nature::Special(if kind.is_socket() {
        "socket"
    } else if kind.is_fifo() {
        "named pipe"
    } else if kind.is_block_device() || kind.is_char_device() {
        "device"
    } else {
        "special file"
    })
}

#[cfg(not(unix))]
fn special(_: FileType) -> Nature {
    Nature::Special("special file")
}

fn facts_of(found: &Metadata) -> Facts {
    Facts { size: found.len(), modified: found.modified().ok(), mode: mode_of(found), changed: changed(found) }
}

#[cfg(unix)]
fn changed(found: &Metadata) -> Option<SystemTime> {
    use std::os::unix::fs::MetadataExt;
    let since = Duration::new(u64::try_from(found.ctime()).ok()?, u32::try_from(found.ctime_nsec()).ok()?);
    Some(SystemTime::UNIX_EPOCH + since)
}

#[cfg(not(unix))]
fn changed(_: &Metadata) -> Option<SystemTime> {
    None
}

#[cfg(unix)]
fn mode_of(found: &Metadata) -> Option<u32> {
    use std::os::unix::fs::PermissionsExt;
    Some(found.permissions().mode() & 0o7777)
}

#[cfg(not(unix))]
fn mode_of(_: &Metadata) -> Option<u32> {
    None
}

#[cfg(unix)]
fn same_file(one: &Metadata, other: &Metadata) -> bool {
    use std::os::unix::fs::MetadataExt;
    (one.dev(), one.ino()) == (other.dev(), other.ino())
}

#[cfg(not(unix))]
fn same_file(_: &Metadata, _: &Metadata) -> bool {
    false
}

#[cfg(unix)]
fn name_of(path: &[u8]) -> Cow<'_, OsStr> {
    use std::os::unix::ffi::OsStrExt;
    Cow::Borrowed(OsStr::from_bytes(path))
}

#[cfg(not(unix))]
fn name_of(path: &[u8]) -> Cow<'_, OsStr> {
    Cow::Owned(String::from_utf8_lossy(path).into_owned().into())
}

#[cfg(unix)]
fn bytes_of(name: &OsStr) -> Cow<'_, [u8]> {
    use std::os::unix::ffi::OsStrExt;
    Cow::Borrowed(name.as_bytes())
}

#[cfg(not(unix))]
fn bytes_of(name: &OsStr) -> Cow<'_, [u8]> {
    Cow::Owned(name.to_string_lossy().into_owned().into_bytes())
}

/// The rules of the ignore files on the way to a folder, from the root down.
type Rules = Arc<Vec<Gitignore>>;

#[derive(Debug, Default)]
struct IgnoreFiles {
    known: RwLock<HashMap<Vec<u8>, Rules>>,
}

impl IgnoreFiles {
    fn of(&self, root: &Path, folder: &[u8]) -> Rules {
        if let Some(rules) = self.known.read().ok().and_then(|known| known.get(folder).cloned()) {
            return rules;
        }
        let mut rules = if folder.is_empty() { Vec::new() } else { self.of(root, split(folder).0).to_vec() };
        let path = if folder.is_empty() { root.to_path_buf() } else { root.join(&*name_of(folder)) };
        let mut builder = GitignoreBuilder::new(&*name_of(folder));
        let found = IGNORE_FILES.map(|name| path.join(name)).into_iter().filter(|file| file.is_file()).map(|file| {
            // A malformed line in an ignore file only loses that line.
            builder.add(file)
        });
        if found.count() > 0 {
            rules.extend(builder.build());
        }
        let rules = Arc::new(rules);
        if let Ok(mut known) = self.known.write() {
            known.insert(folder.to_vec(), Arc::clone(&rules));
        }
        rules
    }
}

/// Whether the nearest rule that fits says that an entry is ignored.
fn ignored(rules: &[Gitignore], path: &[u8], nature: Nature) -> bool {
    let path = name_of(path);
    let verdicts = rules.iter().rev().map(|rules| rules.matched(Path::new(&*path), nature == Nature::Folder));
    verdicts.into_iter().find(|verdict| !verdict.is_none()).is_some_and(|verdict| verdict.is_ignore())
}
