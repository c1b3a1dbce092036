//! The files of a revision, or what is staged, as a tree.

use std::collections::HashSet;
use std::io::Cursor;
use std::sync::Arc;

use tideline_core::internal::tree::{
    ContentId, Contents, EntryMetadata, EntryType, Listing, Opened, Remark, Tree, TreeError, TreeErrorKind, TreePath,
};

use super::error::RevisionError;
use super::repository::Repository;
use crate::hashing::{Algorithm, hashes, hex};
use crate::index::{Index, Node};

/// The permissions that a revision tells of: whether the owner may run a file.
const KNOWN_MODE: u32 = 0o100;
/// Ends of the names of files that may be archives or compressed; contents are not read to find that out.
const PACKED_NAMES: [&str; 16] = [
    ".zip", ".jar", ".whl", ".apk", ".tar", ".tgz", ".txz", ".tbz", ".tbz2", ".tzst", ".gz", ".xz", ".zst", ".bz2",
    ".docx", ".odt",
];

/// The hash of an object.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Id {
    bytes: [u8; 32],
    len: u8,
}

impl Id {
    fn of(digits: &[u8]) -> Option<Self> {
        let mut id = Self { bytes: [0; 32], len: 0 };
        for (byte, pair) in id.bytes.iter_mut().zip(digits.chunks_exact(2)) {
            let value = |digit: u8| char::from(digit).to_digit(16).and_then(|value| u8::try_from(value).ok());
            *byte = value(pair[0])? << 4 | value(pair[1])?;
        }
        id.len = u8::try_from(digits.len() / 2).ok().filter(|len| matches!(len, 20 | 32))?;
        Some(id)
    }

    fn bytes(&self) -> &[u8] {
        &self.bytes[..usize::from(self.len)]
    }

    fn digits(&self) -> String {
        hex(self.bytes())
    }
}

/// Where the contents of an entry are.
#[derive(Clone, Debug, Default)]
pub(super) enum Held {
    #[default]
    Nothing,
    /// In an object, and with which mode.
    Object(Id, u32),
    /// A folder, with all that is in it.
    Folder(Id),
    /// A submodule, at a commit.
    Commit(Id),
    /// They have no one version.
    Unmerged,
}

/// The files of a revision. Copies share the list of them.
#[derive(Clone)]
pub(crate) struct RevisionTree {
    repository: Arc<Repository>,
    index: Arc<Index<Held>>,
    /// The object that all of it is, if it is one.
    root: Option<Id>,
    /// The folder in the repository that is the root.
    prefix: TreePath,
    /// Whether contents are given as they would be checked out.
    checked_out: bool,
    /// Files that are not checked out, so that they are missing from the working folder for no other reason.
    hidden: Arc<HashSet<TreePath>>,
}

impl RevisionTree {
    /// The tree that an object is; `prefix` is the folder in the repository where it stands.
    pub(crate) fn of_tree(repository: Arc<Repository>, id: &str, prefix: TreePath) -> Result<Self, RevisionError> {
        let listed = repository.program.run(["ls-tree", "-r", "-t", "-z", "--full-tree", "--end-of-options", id])?;
        let mut index = Index::default();
        for line in listed.split(|&byte| byte == 0).filter(|line| !line.is_empty()) {
            // MODE TYPE HASH, a tab, and the path.
            let Some(tab) = memchr::memchr(b'\t', line) else { continue };
            let mut words = line[..tab].split(|&byte| byte == b' ');
            if let (Some(mode), Some(_), Some(id)) = (words.next(), words.next(), words.next().and_then(Id::of)) {
                index.add_listed(&line[tab + 1..], node(mode, id));
            }
        }
        let root = Id::of(id.as_bytes());
        Ok(Self { repository, index: Arc::new(index), root, prefix, checked_out: false, hidden: Arc::default() })
    }

    /// What is staged, in a folder of the repository.
    pub(crate) fn staged(repository: Arc<Repository>, prefix: TreePath) -> Result<Self, RevisionError> {
        let listed = repository.program.run(["ls-files", "--stage", "-z", "--full-name", "--", ":/"])?;
        let mut index = Index::default();
        for line in listed.split(|&byte| byte == 0).filter(|line| !line.is_empty()) {
            // MODE HASH STAGE, a tab, and the path.
            let Some(tab) = memchr::memchr(b'\t', line) else { continue };
            let path = TreePath::from(&line[tab + 1..]);
            let inner = if prefix.is_root() {
                &path[..]
            } else {
                match path.strip_prefix(&prefix[..]).and_then(|rest| rest.strip_prefix(b"/")) {
                    Some(inner) => inner,
                    None => continue,
                }
            };
            let mut words = line[..tab].split(|&byte| byte == b' ');
            let (Some(mode), Some(id), Some(stage)) = (words.next(), words.next().and_then(Id::of), words.next())
            else {
                continue;
            };
            let node = node(mode, id);
            index.add_once(inner, if stage == b"0" { node } else { Node { held: Held::Unmerged, ..node } });
        }
        let index = Arc::new(index);
        Ok(Self { repository, index, root: None, prefix, checked_out: false, hidden: Arc::default() })
    }

    /// Gives contents as they would be checked out, and leaves out what is not checked out: for a comparison with the working folder.
    pub(crate) fn checked_out_without(mut self, hidden: HashSet<TreePath>) -> Self {
        (self.checked_out, self.hidden) = (true, Arc::new(hidden));
        self
    }

    /// The hash of the object that a file is.
    pub(super) fn object(&self, path: &TreePath) -> Option<&[u8]> {
        match &self.index.node(path).ok()?.held {
            Held::Object(id, _) => Some(id.bytes()),
            _ => None,
        }
    }

    /// The submodules, with their commits.
    pub(super) fn submodules(&self) -> Vec<(TreePath, String)> {
        let commit = |(path, node): (TreePath, &Node<Held>)| match &node.held {
            Held::Commit(id) => Some((path, id.digits())),
            _ => None,
        };
        self.index.nodes().filter_map(commit).collect()
    }

    fn full(&self, path: &TreePath) -> TreePath {
        if self.prefix.is_root() { path.clone() } else { self.prefix.join(path) }
    }

    fn bytes(&self, path: &TreePath) -> Result<Vec<u8>, TreeError> {
        let node = self.index.node(path)?;
        match &node.held {
            Held::Object(id, _) => {
                let full = self.full(path);
                let checked_out = self.checked_out && node.entry_type == EntryType::File;
                self.repository.contents(&id.digits(), checked_out.then_some(&full[..]))
            }
            Held::Unmerged => Err(unmerged()),
            Held::Nothing | Held::Folder(_) | Held::Commit(_) => {
                Err(TreeError::new(TreeErrorKind::Other, "it is not a file"))
            }
        }
    }

    fn metadata_with(&self, path: &TreePath, size: u64) -> EntryMetadata {
        let mode = match self.index.node(path).map(|node| &node.held) {
            Ok(Held::Object(_, mode)) => Some(*mode),
            _ => None,
        };
        EntryMetadata { size, mode, mode_unknown: 0o7777 & !KNOWN_MODE, ..EntryMetadata::default() }
    }
}

/// The entry that a mode and a hash stand for.
fn node(mode: &[u8], id: Id) -> Node<Held> {
    let (entry_type, held) = match mode {
        b"040000" => (EntryType::Folder, Held::Folder(id)),
        b"120000" => (EntryType::Link, Held::Object(id, 0o777)),
        b"160000" => (EntryType::Special("submodule"), Held::Commit(id)),
        b"100755" => (EntryType::File, Held::Object(id, 0o755)),
        _ => (EntryType::File, Held::Object(id, 0o644)),
    };
    Node { entry_type, metadata: None, target: None, held, packed: false }
}

fn unmerged() -> TreeError {
    TreeError::new(TreeErrorKind::Other, "it is unmerged, and has no one version that is staged")
}

impl Tree for RevisionTree {
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        let mut listing = self.index.list(folder)?;
        if !self.hidden.is_empty() {
            listing.entries.retain(|entry| !self.hidden.contains(&folder.join(&entry.name)));
        }
        Ok(listing)
    }

    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        if path.is_root() {
            return Ok(EntryMetadata::default());
        }
        let node = self.index.node(path)?;
        let size = match &node.held {
            Held::Object(id, _) => self.repository.size(&id.digits())?,
            Held::Unmerged => return Err(unmerged()),
            Held::Nothing | Held::Folder(_) | Held::Commit(_) => 0,
        };
        Ok(self.metadata_with(path, size))
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        let bytes = self.bytes(path)?;
        Ok(Opened { metadata: self.metadata_with(path, bytes.len() as u64), reader: Box::new(Cursor::new(bytes)) })
    }

    fn identity(&self, path: &TreePath) -> Option<ContentId> {
        if path.is_root() {
            return Some(ContentId { algorithm: "tree", bytes: self.root?.bytes().to_vec() });
        }
        match &self.index.node(path).ok()?.held {
            Held::Object(id, _) => Some(self.repository.algorithm.id(id.bytes().to_vec())),
            Held::Folder(id) => Some(ContentId { algorithm: "tree", bytes: id.bytes().to_vec() }),
            Held::Commit(id) => Some(ContentId { algorithm: "commit", bytes: id.digits().into_bytes() }),
            Held::Nothing | Held::Unmerged => None,
        }
    }

    fn holds_empty_folders(&self) -> bool {
        false
    }

    fn entries_in(&self, folder: &TreePath) -> Option<usize> {
        self.hidden.is_empty().then(|| self.index.entries_in(folder))
    }

    fn identify(&self, path: &TreePath, algorithm: &str) -> Option<Result<ContentId, TreeError>> {
        let algorithm = Algorithm::named(algorithm)?;
        let hashed = self.bytes(path).and_then(|bytes| {
            let hashed = hashes(&[algorithm], bytes.len() as u64, &mut &bytes[..]);
            hashed.map_err(|error| TreeError::from(&error))
        });
        hashed.map(|mut ids| ids.pop()).transpose()
    }

    fn remarks(&self) -> Vec<Remark> {
        match self.hidden.len() {
            0 => Vec::new(),
            count => vec![Remark {
                path: None,
                text: format!("left out: {count} files that are not checked out, as the repository is sparse"),
            }],
        }
    }

    fn contents(&self, path: &TreePath) -> Result<Contents, TreeError> {
        Ok(Box::new(self.bytes(path)?))
    }

    fn may_be_packed(&self, path: &TreePath) -> Option<bool> {
        let name = path.to_text().to_lowercase();
        Some(PACKED_NAMES.iter().any(|end| name.ends_with(end)))
    }

    fn link_target(&self, path: &TreePath) -> Result<Vec<u8>, TreeError> {
        self.bytes(path)
    }
}
