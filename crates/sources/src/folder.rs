//! A folder on the disk as a tree.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ffi::OsStr;
use std::fmt;
use std::fs::{self, File, FileType, Metadata};
use std::io;
#[cfg(unix)]
use std::os::fd::OwnedFd;
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock, RwLock};
use std::time::{Duration, SystemTime};

use ignore::gitignore::{Gitignore, GitignoreBuilder};
use tideline_core::internal::tree::{
    ContentId, Contents, Entry, EntryMetadata, EntryType, FileContents, Listing, Opened, Tree, TreeError, TreePath,
};

#[cfg(unix)]
use crate::beneath::{OpenFolders, open_beneath, open_file, open_root};
use crate::file::{Content, read_open};
use crate::hashing::{Algorithm, hashes_of_file};
use crate::mode::mode_of;

/// Folders in which version-control systems keep what is theirs.
const REPOSITORIES: [&str; 3] = [".git", ".hg", ".svn"];
/// Files that name what is to be ignored.
const IGNORE_FILES: [&str; 2] = [".gitignore", ".ignore"];

/// What is Tideline's own in a tree, and no part of anybody's files.
pub trait Own: Send + Sync + fmt::Debug {
    /// Whether a name is that of a temporary file of a run that is known.
    fn is_temporary(&self, name: &[u8]) -> bool;

    /// The folder of the journal, in full and without links.
    fn journal(&self) -> Option<&Path>;
}

/// A folder and all that is in it. Hidden files are in it; folders of version control are not, unless asked for.
#[derive(Debug)]
pub struct FolderTree {
    root: PathBuf,
    follow: bool,
    repositories: bool,
    ignore_files: Option<IgnoreFiles>,
    own: Option<Arc<dyn Own>>,
    #[cfg(unix)]
    folders: OnceLock<Result<OpenFolders<OwnedFd>, TreeError>>,
}

impl FolderTree {
    /// The tree below a folder.
    pub fn new(root: impl Into<PathBuf>) -> Self {
        Self {
            root: root.into(),
            follow: false,
            repositories: false,
            ignore_files: None,
            own: None,
            #[cfg(unix)]
            folders: OnceLock::new(),
        }
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

    /// What is Tideline's own is left out, and counted. Default: nothing is known to be.
    pub fn without(mut self, own: Arc<dyn Own>) -> Self {
        self.own = Some(own);
        self
    }

    fn path(&self, path: &[u8]) -> PathBuf {
        if path.is_empty() { self.root.clone() } else { self.root.join(&*name_of(path)) }
    }

    fn entry_type(&self, kind: FileType, path: &Path) -> EntryType {
        if !kind.is_symlink() {
            return type_of(kind);
        }
        // A link that points nowhere is compared as the link it is.
        match fs::metadata(path) {
            Ok(metadata) if self.follow && metadata.is_dir() && self.encloses(path, &metadata) => {
                EntryType::Special("link loop")
            }
            Ok(metadata) if self.follow => type_of(metadata.file_type()),
            _ => EntryType::Link,
        }
    }

    /// Whether a folder that a link points to is one that the link itself is in.
    fn encloses(&self, link: &Path, target: &Metadata) -> bool {
        let above = link.ancestors().skip(1).take_while(|folder| folder.starts_with(&self.root));
        above.filter_map(|folder| fs::metadata(folder).ok()).any(|folder| same_file(&folder, target))
    }

    fn is_own(&self, folder: &[u8], name: &[u8], entry_type: EntryType) -> bool {
        let Some(own) = &self.own else { return false };
        if name.starts_with(b".tideline-") && own.is_temporary(name) {
            return true;
        }
        let named = |journal: &Path| journal.file_name().is_some_and(|last| *bytes_of(last) == *name);
        let Some(journal) = own.journal().filter(|journal| entry_type == EntryType::Folder && named(journal)) else {
            return false;
        };
        self.path(folder).canonicalize().is_ok_and(|folder| Some(folder.as_path()) == journal.parent())
    }

    /// The entries of a folder, by name, with what they are.
    fn entries(&self, folder: &[u8]) -> Result<Vec<Entry>, TreeError> {
        #[cfg(unix)]
        if !self.follow {
            return self.entries_beneath(folder);
        }
        let path = self.path(folder);
        let mut entries = Vec::new();
        for entry in fs::read_dir(&path).map_err(|error| TreeError::from(&error))? {
            let entry = entry.map_err(|error| TreeError::from(&error))?;
            let kind = entry.file_type().map_err(|error| TreeError::from(&error))?;
            let entry_type = self.entry_type(kind, &path.join(entry.file_name()));
            entries.push(Entry::new(bytes_of(&entry.file_name()), entry_type));
        }
        Ok(entries)
    }

    fn file(&self, path: &TreePath) -> Result<File, TreeError> {
        #[cfg(unix)]
        if !self.follow {
            let (folder, name) = path.split();
            let folder = self.folder(folder)?;
            return open_file(&*folder, &name_of(name)).map_err(|error| TreeError::from(&error));
        }
        File::open(self.path(path)).map_err(|error| TreeError::from(&error))
    }

    fn system_metadata(&self, path: &[u8]) -> io::Result<Metadata> {
        if self.follow { fs::metadata(self.path(path)) } else { fs::symlink_metadata(self.path(path)) }
    }
}

/// Trees that follow no links reach everything through open folders: as deep as the disk goes, and never past a link that takes
/// the place of a folder meanwhile.
#[cfg(unix)]
impl FolderTree {
    fn folder(&self, path: &[u8]) -> Result<Arc<OwnedFd>, TreeError> {
        let folders = self
            .folders
            .get_or_init(|| open_root(&self.root).map(OpenFolders::new).map_err(|error| TreeError::from(&error)));
        let folders = folders.as_ref().map_err(Clone::clone)?;
        let found = folders.folder(Path::new(&*name_of(path)), |above, rest| open_beneath(above, rest));
        found.map_err(|error| TreeError::from(&error))
    }

    fn entries_beneath(&self, path: &[u8]) -> Result<Vec<Entry>, TreeError> {
        use rustix::fs::{AtFlags, Dir, FileType, statat};
        let failed = |error: rustix::io::Errno| match error {
            // It could be opened as a place, but may not be read.
            rustix::io::Errno::BADF => TreeError::from(&io::Error::from(rustix::io::Errno::ACCESS)),
            error => TreeError::from(&io::Error::from(error)),
        };
        let folder = self.folder(path)?;
        let mut entries = Vec::new();
        for entry in Dir::read_from(&*folder).map_err(failed)? {
            let entry = entry.map_err(failed)?;
            let name = entry.file_name();
            if matches!(name.to_bytes(), b"." | b"..") {
                continue;
            }
            let kind = match entry.file_type() {
                FileType::Unknown => match statat(&*folder, name, AtFlags::SYMLINK_NOFOLLOW) {
                    Ok(found) => FileType::from_raw_mode(found.st_mode),
                    // It went while the folder was listed.
                    Err(rustix::io::Errno::NOENT) => continue,
                    Err(error) => return Err(failed(error)),
                },
                kind => kind,
            };
            let entry_type = match kind {
                FileType::RegularFile => EntryType::File,
                FileType::Directory => EntryType::Folder,
                FileType::Symlink => EntryType::Link,
                FileType::Socket => EntryType::Special("socket"),
                FileType::Fifo => EntryType::Special("named pipe"),
                FileType::CharacterDevice | FileType::BlockDevice => EntryType::Special("device"),
                FileType::Unknown => EntryType::Special("special file"),
            };
            entries.push(Entry::new(name.to_bytes(), entry_type));
        }
        Ok(entries)
    }

    fn metadata_beneath(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        use rustix::fs::{AtFlags, fstat, statat};
        let failed = |error: rustix::io::Errno| TreeError::from(&io::Error::from(error));
        let (folder, name) = path.split();
        let folder = self.folder(folder)?;
        let found = if path.is_empty() {
            fstat(&*folder).map_err(failed)?
        } else {
            statat(&*folder, &*name_of(name), AtFlags::SYMLINK_NOFOLLOW).map_err(failed)?
        };
        let time = |seconds: i64, nanos: u64| {
            SystemTime::from(tideline_core::internal::plan::Moment(seconds, u32::try_from(nanos).unwrap_or(0)))
        };
        Ok(EntryMetadata {
            size: found.st_size as u64,
            modified: Some(time(found.st_mtime, found.st_mtime_nsec as u64)),
            mode: Some(found.st_mode & 0o7777),
            changed: Some(time(found.st_ctime, found.st_ctime_nsec as u64)),
            identity: Some((found.st_dev, found.st_ino)),
            names: found.st_nlink,
            ..EntryMetadata::default()
        })
    }
}

impl Tree for FolderTree {
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        let rules = self.ignore_files.as_ref().map(|files| files.of(self, folder));
        let mut listing = Listing::default();
        for entry in self.entries(folder)? {
            let is_repository = || REPOSITORIES.iter().any(|repository| repository.as_bytes() == entry.name);
            if entry.entry_type == EntryType::Folder && !self.repositories && is_repository() {
                listing.repositories.push(entry.name);
            } else if self.is_own(folder, &entry.name, entry.entry_type) {
                listing.own += 1;
            } else if rules.as_ref().is_some_and(|rules| ignored(rules, &folder.join(&entry.name), entry.entry_type)) {
                listing.ignored += 1;
            } else {
                listing.entries.push(entry);
            }
        }
        Ok(listing)
    }

    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        #[cfg(unix)]
        if !self.follow {
            return self.metadata_beneath(path);
        }
        self.system_metadata(path).map(|found| metadata_of(&found)).map_err(|error| TreeError::from(&error))
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        let file = self.file(path)?;
        let metadata = file.metadata().map_err(|error| TreeError::from(&error))?;
        Ok(Opened { metadata: metadata_of(&metadata), reader: Box::new(file) })
    }

    fn identify(&self, path: &TreePath, algorithm: &str) -> Option<Result<ContentId, TreeError>> {
        let identified = self.identify_all(path, &[algorithm])?;
        identified.map(|(_, mut ids)| ids.pop()).transpose()
    }

    fn identify_all(
        &self,
        path: &TreePath,
        algorithms: &[&str],
    ) -> Option<Result<(EntryMetadata, Vec<ContentId>), TreeError>> {
        let algorithms: Option<Vec<Algorithm>> = algorithms.iter().map(|name| Algorithm::named(name)).collect();
        let algorithms = algorithms?;
        let hashed =
            self.file(path).and_then(|file| hashes_of_file(&algorithms, file).map_err(|error| TreeError::from(&error)));
        Some(hashed.map(|(metadata, ids)| (metadata_of(&metadata), ids)))
    }

    fn contents(&self, path: &TreePath) -> Result<Contents, TreeError> {
        let content = read_open(self.file(path)?).map_err(|error| TreeError::from(&error))?;
        Ok(Box::new(content))
    }

    fn link_target(&self, path: &TreePath) -> Result<Vec<u8>, TreeError> {
        #[cfg(unix)]
        if !self.follow {
            let (folder, name) = path.split();
            let folder = self.folder(folder)?;
            let target = rustix::fs::readlinkat(&*folder, &*name_of(name), Vec::new());
            return target.map(std::ffi::CString::into_bytes).map_err(|error| TreeError::from(&io::Error::from(error)));
        }
        let target = fs::read_link(self.path(path)).map_err(|error| TreeError::from(&error))?;
        Ok(bytes_of(target.as_os_str()).into_owned())
    }

    fn leaves_out(&self, path: &TreePath, entry_type: EntryType) -> bool {
        let Some(files) = &self.ignore_files else { return false };
        let above = path.folders_above().map(|folder| (TreePath::from(folder), EntryType::Folder));
        let mut all = above.chain([(path.clone(), entry_type)]);
        all.any(|(path, entry_type)| ignored(&files.of(self, path.split().0), &path, entry_type))
    }
}

impl FileContents for Content {
    fn check(&self) -> Result<(), TreeError> {
        Self::check(self).map_err(|error| TreeError::from(&error))
    }
}

fn type_of(kind: FileType) -> EntryType {
    if kind.is_file() {
        return EntryType::File;
    }
    if kind.is_dir() {
        return EntryType::Folder;
    }
    if kind.is_symlink() {
        return EntryType::Link;
    }
    special(kind)
}

#[cfg(unix)]
fn special(kind: FileType) -> EntryType {
    use std::os::unix::fs::FileTypeExt;
    EntryType::Special(if kind.is_socket() {
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
fn special(_: FileType) -> EntryType {
    EntryType::Special("special file")
}

fn metadata_of(found: &Metadata) -> EntryMetadata {
    let (identity, names) = identity(found);
    EntryMetadata {
        size: found.len(),
        modified: found.modified().ok(),
        mode: mode_of(found),
        changed: changed(found),
        identity,
        names,
        ..EntryMetadata::default()
    }
}

#[cfg(unix)]
fn identity(found: &Metadata) -> (Option<(u64, u64)>, u64) {
    use std::os::unix::fs::MetadataExt;
    (Some((found.dev(), found.ino())), found.nlink())
}

#[cfg(not(unix))]
fn identity(_: &Metadata) -> (Option<(u64, u64)>, u64) {
    (None, 0)
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
    /// The rules for what is in a folder. A folder below many others is reached step by step from the nearest that is known.
    fn of(&self, tree: &FolderTree, folder: &[u8]) -> Rules {
        let mut ends: Vec<usize> = memchr::memchr_iter(b'/', folder).collect();
        ends.push(folder.len());
        let known = |end: usize| self.known.read().ok().and_then(|known| known.get(&folder[..end]).cloned());
        let nearest = (0..ends.len()).rev().find_map(|at| Some((at + 1, known(ends[at])?)));
        let (first, mut rules) = match nearest {
            Some(found) => found,
            None if folder.is_empty() => (0, Rules::default()),
            None => (0, known(0).unwrap_or_else(|| self.add(tree, b"", &Rules::default()))),
        };
        for &end in &ends[first..] {
            rules = self.add(tree, &folder[..end], &rules);
        }
        rules
    }

    fn add(&self, tree: &FolderTree, folder: &[u8], above: &Rules) -> Rules {
        let mut builder = GitignoreBuilder::new(&*name_of(folder));
        let mut found = false;
        for name in IGNORE_FILES {
            let Ok(contents) = tree.contents(&TreePath::from(folder).join(name.as_bytes())) else { continue };
            found = true;
            for line in String::from_utf8_lossy((*contents).as_ref()).lines() {
                // A malformed line in an ignore file only loses that line.
                let _ = builder.add_line(None, line);
            }
        }
        let mut rules = Arc::clone(above);
        if found && let Ok(own) = builder.build() {
            Arc::make_mut(&mut rules).push(own);
        }
        if let Ok(mut known) = self.known.write() {
            known.insert(folder.to_vec(), Arc::clone(&rules));
        }
        rules
    }
}

/// Whether the nearest rule that fits says that an entry is ignored.
fn ignored(rules: &[Gitignore], path: &[u8], entry_type: EntryType) -> bool {
    let path = name_of(path);
    let verdicts = rules.iter().rev().map(|rules| rules.matched(Path::new(&*path), entry_type == EntryType::Folder));
    verdicts.into_iter().find(|verdict| !verdict.is_none()).is_some_and(|verdict| verdict.is_ignore())
}
