//! An inventory as a tree: everything but the contents.

use std::collections::HashMap;

use tideline_core::internal::tree::{
    ContentId, EntryMetadata, EntryType, Listing, Opened, Remark, Tree, TreeError, TreeErrorKind, TreePath,
};

use super::known::{Hashes, InventoryHead};
use crate::hashing::Algorithm;
use crate::index::{Index, Node};

/// Entries that are tried to find out by which of two algorithms a list was made.
const TRIED: usize = 64;

/// An inventory, or a checksum list.
pub struct InventoryTree {
    index: Index<Hashes>,
    head: InventoryHead,
    damage: Option<TreeError>,
    /// Whether the hashes may be SHA-256 or BLAKE3: both have 64 digits.
    is_either: bool,
}

impl InventoryTree {
    pub(super) fn new(index: Index<Hashes>, head: InventoryHead, damage: Option<TreeError>, is_either: bool) -> Self {
        Self { index, head, damage, is_either }
    }

    /// What it is an inventory of.
    pub fn head(&self) -> &InventoryHead {
        &self.head
    }

    /// By which algorithms its files are known.
    pub(crate) fn algorithms(&self) -> Vec<Algorithm> {
        if self.is_either {
            return vec![Algorithm::Blake3, Algorithm::Sha256];
        }
        let mut all: Vec<Algorithm> =
            self.index.nodes().flat_map(|(_, node)| node.held.0.iter().map(|(algorithm, _)| *algorithm)).collect();
        all.sort_unstable();
        all.dedup();
        all
    }

    /// Finds out by which algorithm a list was made, where its hashes do not tell: the one by which a file of the other tree fits.
    pub(crate) fn settle(&mut self, other: &dyn Tree) {
        if !std::mem::take(&mut self.is_either) {
            return;
        }
        let mut tried: Vec<(TreePath, Vec<u8>)> = self
            .index
            .nodes()
            .filter_map(|(path, node)| Some((path, node.held.0.first()?.1.clone())))
            .filter(|(path, _)| other.metadata(path).is_ok())
            .collect();
        tried.sort_unstable();
        let fits = |(path, hash): &(TreePath, Vec<u8>), algorithm: Algorithm| {
            other.identify(path, algorithm.name()).is_some_and(|id| id.is_ok_and(|id| id.bytes == *hash))
        };
        let is_blake3 = tried
            .iter()
            .take(TRIED)
            .find_map(|entry| {
                let by = |algorithm| fits(entry, algorithm).then_some(algorithm);
                by(Algorithm::Sha256).or_else(|| by(Algorithm::Blake3))
            })
            .is_some_and(|algorithm| algorithm == Algorithm::Blake3);
        if is_blake3 {
            self.index
                .for_each_held(|held| held.0.iter_mut().for_each(|(algorithm, _)| *algorithm = Algorithm::Blake3));
        }
    }

    fn file(&self, path: &TreePath) -> Result<&Node<Hashes>, TreeError> {
        let node = self.index.node(path)?;
        match &node.held.1 {
            Some(reason) => Err(reason.clone()),
            None => Ok(node),
        }
    }
}

fn not_at_hand() -> TreeError {
    TreeError::new(TreeErrorKind::Offline, "contents not at hand: an inventory does not hold them")
}

impl Tree for InventoryTree {
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        let listing = self.index.list(folder)?;
        Ok(Listing { damage: self.damage.clone().filter(|_| folder.is_root()), ..listing })
    }

    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        if path.is_root() {
            return Ok(EntryMetadata::default());
        }
        let node = self.file(path)?;
        match node.metadata {
            Some(metadata) => Ok(metadata),
            None if node.entry_type == EntryType::Folder => Ok(EntryMetadata::default()),
            None => Err(not_at_hand()),
        }
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        Err(self.file(path).err().unwrap_or_else(not_at_hand))
    }

    fn identity(&self, path: &TreePath) -> Option<ContentId> {
        let (algorithm, hash) = self.index.node(path).ok()?.held.0.first()?;
        Some(algorithm.id(hash.clone()))
    }

    fn identify(&self, path: &TreePath, algorithm: &str) -> Option<Result<ContentId, TreeError>> {
        let known: HashMap<&str, &Vec<u8>> =
            self.index.node(path).ok()?.held.0.iter().map(|(algorithm, hash)| (algorithm.name(), hash)).collect();
        let hash = known.get(algorithm)?;
        Some(Ok(Algorithm::named(algorithm)?.id((*hash).clone())))
    }

    fn holds_empty_folders(&self) -> bool {
        // A list of checksums names files alone.
        self.head.root.is_some()
    }

    fn remarks(&self) -> Vec<Remark> {
        self.index.remarks()
    }

    fn link_target(&self, path: &TreePath) -> Result<Vec<u8>, TreeError> {
        self.file(path)?.target.clone().ok_or_else(|| TreeError::new(TreeErrorKind::Other, "it is no link"))
    }
}
