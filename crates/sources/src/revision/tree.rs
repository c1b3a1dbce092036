//! The files of a revision, or what is staged, as a tree.

use std::collections::HashSet;
use std::io::Cursor;
use std::sync::Arc;

use tideline_core::internal::tree::{
    ContentId, Contents, EntryMetadata, EntryType, Listing, Opened, Remark, Tree, TreeError, TreeErrorKind, TreePath,
};

use super::error::RevisionError;
use super::repository::Repository;
use crate::hashing::{Algorithm, from_hex, hashes};
use crate::index::{Index, Node};

/// The permissions that a revision tells of: whether the owner may run a file.
const KNOWN_MODE: u32 = 0o100;
/// Ends of the names of files that may be archives or compressed; contents are not read to find that out.
const PACKED_NAMES: [&str; 16] = [
    ".zip", ".jar", ".whl", ".apk", ".tar", ".tgz", ".txz", ".tbz", ".tbz2", ".tzst", ".gz", ".xz", ".zst", ".bz2",
    ".docx", ".odt",
];

/// Where the contents of an entry are.
#[derive(Clone, Debug, Default)]
pub(super) enum Held {
    #[default]
    Nothing,
    /// In an object, and with which mode.
    Object(String, u32),
    /// A submodule, at a commit.
    Commit(String),
    /// They have no one version.
    Unmerged,
}

/// The files of a revision. Copies share the list of them.
#[derive(Clone)]
pub(crate) struct RevisionTree {
    repository: Arc<Repository>,
    index: Arc<Index<Held>>,
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
            let head = String::from_utf8_lossy(&line[..tab]);
            let mut words = head.split(' ');
            if let (Some(mode), Some(_), Some(id)) = (words.next(), words.next(), words.next()) {
                index.add(&line[tab + 1..], node(mode, id));
            }
        }
        Ok(Self { repository, index: Arc::new(index), prefix, checked_out: false, hidden: Arc::default() })
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
            let head = String::from_utf8_lossy(&line[..tab]);
            let mut words = head.split(' ');
            let (Some(mode), Some(id), Some(stage)) = (words.next(), words.next(), words.next()) else { continue };
            let node = node(mode, id);
            index.add_once(inner, if stage == "0" { node } else { Node { held: Held::Unmerged, ..node } });
        }
        Ok(Self { repository, index: Arc::new(index), prefix, checked_out: false, hidden: Arc::default() })
    }

    /// Gives contents as they would be checked out, and leaves out what is not checked out: for a comparison with the working folder.
    pub(crate) fn checked_out_without(mut self, hidden: HashSet<TreePath>) -> Self {
        (self.checked_out, self.hidden) = (true, Arc::new(hidden));
        self
    }

    /// The object that a file is, in hexadecimal digits.
    pub(super) fn object(&self, path: &TreePath) -> Option<&str> {
        match &self.index.node(path).ok()?.held {
            Held::Object(id, _) => Some(id),
            _ => None,
        }
    }

    /// The submodules, with their commits.
    pub(super) fn submodules(&self) -> Vec<(TreePath, String)> {
        let commit = |(path, node): (TreePath, &Node<Held>)| match &node.held {
            Held::Commit(id) => Some((path, id.clone())),
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
                self.repository.objects.file(id, checked_out.then_some(&full[..]))
            }
            Held::Unmerged => Err(unmerged()),
            Held::Nothing | Held::Commit(_) => Err(TreeError::new(TreeErrorKind::Other, "it is not a file")),
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
fn node(mode: &str, id: &str) -> Node<Held> {
    let object = |permissions| Held::Object(id.to_owned(), permissions);
    let (entry_type, held) = match mode {
        "040000" => (EntryType::Folder, Held::Nothing),
        "120000" => (EntryType::Link, object(0o777)),
        "160000" => (EntryType::Special("submodule"), Held::Commit(id.to_owned())),
        "100755" => (EntryType::File, object(0o755)),
        _ => (EntryType::File, object(0o644)),
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
            Held::Object(id, _) => self.repository.objects.size(id)?,
            Held::Unmerged => return Err(unmerged()),
            Held::Nothing | Held::Commit(_) => 0,
        };
        Ok(self.metadata_with(path, size))
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        let bytes = self.bytes(path)?;
        Ok(Opened { metadata: self.metadata_with(path, bytes.len() as u64), reader: Box::new(Cursor::new(bytes)) })
    }

    fn identity(&self, path: &TreePath) -> Option<ContentId> {
        match &self.index.node(path).ok()?.held {
            Held::Object(id, _) => Some(self.repository.algorithm.id(from_hex(id.as_bytes())?)),
            Held::Commit(id) => Some(ContentId { algorithm: "commit", bytes: id.as_bytes().to_vec() }),
            Held::Nothing | Held::Unmerged => None,
        }
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
