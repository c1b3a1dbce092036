//! A tree whose archives are folders, and whose compressed files are what is in them.

use std::collections::{BTreeSet, HashMap};
use std::io::Read;
use std::sync::{Arc, Mutex, OnceLock, PoisonError, RwLock};

use rayon::prelude::*;
use tideline_core::internal::tree::{
    ContentId, Contents, Entry, EntryMetadata, EntryType, Listing, Opened, Remark, Tree, TreeError, TreePath,
};

use crate::archive::{ArchiveOptions, ArchiveTree};
use crate::blob::Blob;
use crate::compressed::unpacked;
use crate::detect::{HEAD, Packed};

/// A tree whose archives are opened when they are looked into.
pub(crate) struct OpenedArchives {
    tree: Box<dyn Tree>,
    options: ArchiveOptions,
    /// Whether documents that are archives inside are opened too.
    documents: bool,
    /// The archives, by path. Each is opened once, when it is needed.
    archives: RwLock<HashMap<TreePath, Arc<Archive>>>,
    compressed: RwLock<HashMap<TreePath, Packed>>,
    /// Archives that stand in more archives than are opened.
    too_deep: Mutex<BTreeSet<TreePath>>,
    /// One at a time is opened: each may take much memory.
    opening: Mutex<()>,
}

struct Archive {
    packed: Packed,
    opened: OnceLock<Result<Box<dyn Tree>, TreeError>>,
}

/// Where a path is.
enum At {
    /// In the tree itself.
    Here,
    /// In an archive, at a path of its own; the root of it is the archive.
    In(Arc<Archive>, TreePath),
}

impl OpenedArchives {
    /// A tree whose archives are folders; those in them too, so many deep as the limits allow.
    pub(crate) fn new(tree: Box<dyn Tree>, options: ArchiveOptions, documents: bool) -> Self {
        Self {
            tree,
            options,
            documents,
            archives: RwLock::default(),
            compressed: RwLock::default(),
            too_deep: Mutex::default(),
            opening: Mutex::new(()),
        }
    }

    /// What a file is by its contents, if it is one that is looked into.
    fn packed(&self, path: &TreePath) -> Option<Packed> {
        match self.tree.may_be_packed(path) {
            Some(false) => return None,
            Some(true) => {}
            None => {
                let mut head = Vec::new();
                self.tree.open(path).ok()?.reader.take(HEAD as u64).read_to_end(&mut head).ok()?;
                if !Packed::may_be(&head) {
                    return None;
                }
            }
        }
        let packed = Packed::of(&Blob::of_contents(self.tree.contents(path).ok()?)).ok()??;
        let is_wanted = match packed {
            Packed::Document => self.documents,
            Packed::Inventory => false,
            Packed::Zip | Packed::Tar(_) | Packed::Compressed(_) => true,
        };
        is_wanted.then_some(packed)
    }

    /// The archive that a path is in, if it is in one: the outermost.
    fn at(&self, path: &[u8]) -> At {
        let archives = self.archives.read().unwrap_or_else(PoisonError::into_inner);
        if archives.is_empty() {
            return At::Here;
        }
        let mut ends = memchr::memchr_iter(b'/', path).chain([path.len()]);
        let found = ends.find_map(|end| Some((archives.get(&path[..end])?, end)));
        match found {
            Some((archive, end)) => {
                let inner = TreePath::from(path[end..].strip_prefix(b"/").unwrap_or_default());
                At::In(Arc::clone(archive), inner)
            }
            None => At::Here,
        }
    }

    fn in_archive<T>(
        &self,
        path: &TreePath,
        inside: impl FnOnce(&dyn Tree, &TreePath) -> T,
        here: impl FnOnce(&dyn Tree) -> T,
        failed: impl FnOnce(TreeError) -> T,
    ) -> T {
        match self.at(path) {
            At::Here => here(&*self.tree),
            // The archive itself, as the file that it is.
            At::In(_, inner) if inner.is_root() => here(&*self.tree),
            At::In(archive, inner) => match self.opened(path, &archive, &inner) {
                Ok(tree) => inside(tree, &inner),
                Err(reason) => failed(reason),
            },
        }
    }

    /// Opens an archive, once.
    fn opened<'a>(&self, path: &TreePath, archive: &'a Archive, inner: &TreePath) -> Result<&'a dyn Tree, TreeError> {
        let open = || {
            let _opening = self.opening.lock().unwrap_or_else(PoisonError::into_inner);
            let end = if inner.is_root() { path.len() } else { path.len() - inner.len() - 1 };
            let blob = Blob::of_contents(self.tree.contents(&TreePath::from(&path[..end]))?);
            let mut options = self.options.clone();
            options.limits.depth -= 1;
            let tree = Box::new(ArchiveTree::open(blob, archive.packed, &options)?);
            Ok(Box::new(Self::new(tree, options, self.documents)) as Box<dyn Tree>)
        };
        match archive.opened.get_or_init(open) {
            Ok(tree) => Ok(&**tree),
            Err(reason) => Err(reason.clone()),
        }
    }

    fn packed_here(&self, path: &TreePath) -> Option<Packed> {
        self.compressed.read().unwrap_or_else(PoisonError::into_inner).get(path).copied()
    }

    /// The contents of a file of the tree itself, unpacked where they are compressed.
    fn contents_here(&self, tree: &dyn Tree, path: &TreePath) -> Result<Contents, TreeError> {
        let contents = tree.contents(path)?;
        match self.packed_here(path) {
            Some(Packed::Compressed(compression)) => {
                let unpacked = unpacked(&Blob::of_contents(contents), compression, &self.options.limits);
                unpacked.map_err(|error| TreeError::from(&error))
            }
            _ => Ok(contents),
        }
    }
}

impl Tree for OpenedArchives {
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        if let At::In(archive, inner) = self.at(folder) {
            return self.opened(folder, &archive, &inner)?.list(&inner);
        }
        let mut listing = self.tree.list(folder)?;
        let packed = |entry: &Entry| {
            let is_file = entry.entry_type == EntryType::File;
            is_file.then(|| self.packed(&folder.join(&entry.name))).flatten()
        };
        let found: Vec<Option<Packed>> = listing.entries.par_iter().map(packed).collect();
        for (entry, packed) in listing.entries.iter_mut().zip(found) {
            let path = folder.join(&entry.name);
            if packed.is_some() && self.options.limits.depth == 0 {
                self.too_deep.lock().unwrap_or_else(PoisonError::into_inner).insert(path);
                continue;
            }
            entry.packed = packed.is_some();
            match packed {
                Some(packed) if packed.is_archive() => {
                    entry.entry_type = EntryType::Folder;
                    let archive = Archive { packed, opened: OnceLock::new() };
                    let mut archives = self.archives.write().unwrap_or_else(PoisonError::into_inner);
                    archives.entry(path).or_insert_with(|| Arc::new(archive));
                }
                Some(packed) => {
                    // Its size is known once it is unpacked.
                    entry.metadata = None;
                    self.compressed.write().unwrap_or_else(PoisonError::into_inner).insert(path, packed);
                }
                None => {}
            }
        }
        Ok(listing)
    }

    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        let here = |tree: &dyn Tree| {
            let metadata = tree.metadata(path)?;
            if self.packed_here(path).is_none() {
                return Ok(metadata);
            }
            let size = (*self.contents_here(tree, path)?).as_ref().len() as u64;
            Ok(EntryMetadata { size, ..metadata })
        };
        self.in_archive(path, |tree, inner| tree.metadata(inner), here, Err)
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        let here = |tree: &dyn Tree| {
            if self.packed_here(path).is_none() {
                return tree.open(path);
            }
            let blob = Blob::of_contents(self.contents_here(tree, path)?);
            let metadata = EntryMetadata { size: blob.len(), ..tree.metadata(path)? };
            Ok(Opened { metadata, reader: Box::new(blob.reader()) })
        };
        self.in_archive(path, |tree, inner| tree.open(inner), here, Err)
    }

    fn open_packed(&self, path: &TreePath) -> Result<Opened, TreeError> {
        self.in_archive(path, |tree, inner| tree.open_packed(inner), |tree| tree.open(path), Err)
    }

    fn identity(&self, path: &TreePath) -> Option<ContentId> {
        if self.packed_here(path).is_some() {
            return None;
        }
        self.in_archive(path, |tree, inner| tree.identity(inner), |tree| tree.identity(path), |_| None)
    }

    fn identify(&self, path: &TreePath, algorithm: &str) -> Option<Result<ContentId, TreeError>> {
        if self.packed_here(path).is_some() {
            return None;
        }
        let here = |tree: &dyn Tree| tree.identify(path, algorithm);
        self.in_archive(path, |tree, inner| tree.identify(inner, algorithm), here, |reason| Some(Err(reason)))
    }

    fn identify_all(
        &self,
        path: &TreePath,
        algorithms: &[&str],
    ) -> Option<Result<(EntryMetadata, Vec<ContentId>), TreeError>> {
        if self.packed_here(path).is_some() {
            return None;
        }
        let here = |tree: &dyn Tree| tree.identify_all(path, algorithms);
        self.in_archive(path, |tree, inner| tree.identify_all(inner, algorithms), here, |reason| Some(Err(reason)))
    }

    fn holds_empty_folders(&self) -> bool {
        self.tree.holds_empty_folders()
    }

    fn reads_ahead(&self) -> bool {
        true
    }

    fn prepare(&self, paths: &[&TreePath]) {
        let mut here = Vec::new();
        let mut inside: HashMap<TreePath, (Arc<Archive>, Vec<TreePath>)> = HashMap::new();
        for &path in paths {
            match self.at(path) {
                At::In(archive, inner) if !inner.is_root() => {
                    let of = TreePath::from(&path[..path.len() - inner.len() - 1]);
                    inside.entry(of).or_insert_with(|| (archive, Vec::new())).1.push(inner);
                }
                _ => here.push(path),
            }
        }
        self.tree.prepare(&here);
        for (path, (archive, inner)) in inside {
            if let Ok(tree) = self.opened(&path, &archive, &TreePath::ROOT) {
                tree.prepare(&inner.iter().collect::<Vec<_>>());
            }
        }
    }

    fn remarks(&self) -> Vec<Remark> {
        let mut remarks = self.tree.remarks();
        let too_deep = self.too_deep.lock().unwrap_or_else(PoisonError::into_inner).clone();
        remarks.extend(too_deep.into_iter().map(|path| {
            Remark {
                path: Some(path),
                text:
                    "it is nested in more archives than are opened, and is compared as a file; --archive-depth allows more"
                        .to_owned(),
            }
        }));
        for (path, archive) in &*self.archives.read().unwrap_or_else(PoisonError::into_inner) {
            let Some(Ok(tree)) = archive.opened.get() else { continue };
            remarks.extend(tree.remarks().into_iter().map(|remark| Remark {
                path: Some(remark.path.map_or_else(|| path.clone(), |inner| path.join(&inner))),
                text: remark.text,
            }));
        }
        remarks
    }

    fn contents(&self, path: &TreePath) -> Result<Contents, TreeError> {
        self.in_archive(path, |tree, inner| tree.contents(inner), |tree| self.contents_here(tree, path), Err)
    }

    fn link_target(&self, path: &TreePath) -> Result<Vec<u8>, TreeError> {
        self.in_archive(path, |tree, inner| tree.link_target(inner), |tree| tree.link_target(path), Err)
    }

    fn leaves_out(&self, path: &TreePath, entry_type: EntryType) -> bool {
        self.tree.leaves_out(path, entry_type)
    }
}
