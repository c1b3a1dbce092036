//! An archive as a tree: zip, or tar, which may be compressed.

mod salvage;
mod stored;
mod stream;
mod tar;
#[cfg(test)]
mod tests;
mod zip;

use std::collections::HashSet;
use std::io::{self, Read};
use std::path::PathBuf;
use std::sync::Arc;

use tideline_core::internal::tree::{
    ContentId, Contents, EntryMetadata, EntryType, Listing, Opened, Progress, Remark, Tree, TreeError, TreeErrorKind,
    TreePath,
};

use crate::blob::Blob;
use crate::compressed::spooled;
use crate::detect::Packed;
use crate::hashing::{Algorithm, hashes};
use crate::index::{Index, Node, plain_path};
use crate::limits::Limits;
use stored::Stored;
use stream::{Keeping, Stream, changed};
use tar::{Head, Member};

/// How often a hard link may lead to another one.
const MOST_LINKS: usize = 16;

/// Bytes of contents that are kept while a stream is read for the first time. Of a small archive that is all.
const KEPT_AT_ONCE: u64 = 64 << 20;

/// How an archive is opened.
#[derive(Clone, Debug)]
pub(crate) struct ArchiveOptions {
    pub(crate) limits: Limits,
    /// By what contents will be known, besides BLAKE3.
    pub(crate) algorithms: Vec<Algorithm>,
    /// Whether archives in it will be opened too.
    pub(crate) opens_archives: bool,
    /// The folder that the archive is compared with.
    pub(crate) beside: Option<PathBuf>,
    /// Who watches how far the first reading of a stream has come.
    pub(crate) progress: Arc<Progress>,
    /// Bytes of contents that are kept while a stream is read for the first time.
    kept_at_once: u64,
}

impl ArchiveOptions {
    pub(crate) fn new(limits: Limits, algorithms: Vec<Algorithm>, opens_archives: bool) -> Self {
        Self { limits, algorithms, opens_archives, beside: None, progress: Arc::default(), kept_at_once: KEPT_AT_ONCE }
    }
}

/// What an archive holds.
pub(crate) struct ArchiveTree {
    blob: Blob,
    index: Index<Stored>,
    /// The folder that is looked through: everything is in it.
    top: Option<TreePath>,
    stream: Option<Stream>,
    /// Why there may be more in it.
    damage: Option<TreeError>,
    remarks: Vec<Remark>,
}

impl ArchiveTree {
    /// Opens an archive: reads what is in it, and of a compressed one all of it.
    ///
    /// # Errors
    /// When nothing of it can be read.
    pub(crate) fn open(blob: Blob, packed: Packed, options: &ArchiveOptions) -> Result<Self, TreeError> {
        let limits = &options.limits;
        let (index, stream, damage) = match packed {
            Packed::Tar(Some(compression)) => {
                let stream =
                    Stream::new(blob.clone(), compression, *limits).map_err(|error| TreeError::from(&error))?;
                let (index, damage) = read_stream(&stream, options);
                (index, Some(stream), damage)
            }
            Packed::Tar(None) => {
                let (index, damage) = read_plain(&blob, limits);
                (index, None, damage)
            }
            _ => {
                let read = zip::read(&blob, limits);
                let (index, damage) = read.or_else(|why| salvage::entries(&blob, limits, why))?;
                (index, None, damage)
            }
        };
        let mut tree = Self { blob, remarks: index.remarks(), index, top: None, stream, damage };
        tree.follow_hard_links();
        Ok(tree)
    }

    /// Looks through the one folder that everything is in, if there is one, and says which.
    pub(crate) fn look_through(&mut self) -> Option<TreePath> {
        self.top = self.index.top_folder();
        let top = self.top.clone()?;
        for remark in &mut self.remarks {
            let inner = remark.path.as_ref().and_then(|path| path.strip_prefix(&top[..])?.strip_prefix(b"/"));
            remark.path = inner.map(TreePath::from).or_else(|| remark.path.take());
        }
        self.top.clone()
    }

    /// How many times a stream was read; 0 of what can be read from any place.
    #[cfg(test)]
    pub(crate) fn passes(&self) -> usize {
        self.stream.as_ref().map_or(0, Stream::passes)
    }

    fn full(&self, path: &TreePath) -> TreePath {
        match &self.top {
            Some(top) if path.is_root() => top.clone(),
            Some(top) => top.join(path),
            None => path.clone(),
        }
    }

    fn node(&self, path: &TreePath) -> Result<&Node<Stored>, TreeError> {
        let mut node = self.index.node(&self.full(path))?;
        for _ in 0..MOST_LINKS {
            let Stored::SameAs(other) = &node.held else { return Ok(node) };
            node = self.index.node(other)?;
        }
        Err(TreeError::new(TreeErrorKind::Damaged, "its hard links lead in a circle"))
    }

    /// Gives other names of files what is known of those, and says which lead nowhere.
    fn follow_hard_links(&mut self) {
        let links: Vec<(TreePath, TreePath)> = self
            .index
            .nodes()
            .filter_map(|(path, node)| match &node.held {
                Stored::SameAs(other) => Some((path, other.clone())),
                _ => None,
            })
            .collect();
        for (path, first) in links {
            let mut found = Ok(first);
            for _ in 0..MOST_LINKS {
                let Ok(at) = &found else { break };
                match self.index.node(at).map(|node| &node.held) {
                    Ok(Stored::SameAs(next)) => found = Ok(next.clone()),
                    Ok(_) => break,
                    Err(_) => {
                        let reason = format!("it is another name of {}, which the archive does not hold", at.to_text());
                        found = Err(TreeError::new(TreeErrorKind::Missing, reason));
                    }
                }
            }
            let target = found.and_then(|at| {
                let node = self.index.node(&at)?;
                if matches!(node.held, Stored::SameAs(_)) || node.entry_type != EntryType::File {
                    return Err(TreeError::new(TreeErrorKind::Damaged, "it is another name of what is no file"));
                }
                Ok((node.metadata.map_or(0, |metadata| metadata.size), at))
            });
            let Some(node) = self.index.node_mut(&path) else { continue };
            match target {
                Ok((size, at)) => {
                    node.held = Stored::SameAs(at);
                    node.metadata = node.metadata.map(|metadata| EntryMetadata { size, ..metadata });
                }
                Err(reason) => node.held = Stored::Bad(reason),
            }
        }
    }

    /// The contents of a file, as they can be read from any place.
    fn blob(&self, path: &TreePath) -> Result<Blob, TreeError> {
        let node = self.node(path)?;
        let blob = match &node.held {
            Stored::Part { start, size } => {
                let part = self.blob.part(*start, *size);
                if part.len() < *size {
                    return Err(TreeError::new(TreeErrorKind::Damaged, "the archive is cut off within it"));
                }
                part
            }
            Stored::Zip(place) => {
                let read = place.open(&self.blob).and_then(|mut reader| spooled(&mut reader));
                Blob::of_contents(read.map_err(|error| self.failed(&error))?)
            }
            Stored::Stream { number, .. } => match &self.stream {
                Some(stream) => stream.contents(*number)?,
                None => return Err(TreeError::new(TreeErrorKind::Other, "it is not at hand")),
            },
            Stored::Whole(bytes) => Blob::of_contents(Box::new(bytes.to_vec())),
            Stored::Bad(reason) => return Err(reason.clone()),
            Stored::Nothing | Stored::SameAs(_) => {
                return Err(TreeError::new(TreeErrorKind::Other, "it is not a file"));
            }
        };
        if self.blob.was_changed() { Err(changed()) } else { Ok(blob) }
    }

    fn failed(&self, error: &io::Error) -> TreeError {
        if self.blob.was_changed() { changed() } else { TreeError::from(error) }
    }

    /// The hashes of a file: those that a stream told, or made now.
    fn hashed(&self, path: &TreePath, wanted: &[Algorithm]) -> Result<(EntryMetadata, Vec<ContentId>), TreeError> {
        let node = self.node(path)?;
        if let Stored::Stream { ids, .. } = &node.held {
            let known = |algorithm: &Algorithm| ids.iter().find(|id| id.algorithm == algorithm.name()).cloned();
            if let Some(known) = wanted.iter().map(known).collect() {
                return Ok((self.metadata_of(path)?, known));
            }
        }
        let size = node.metadata.map_or(0, |metadata| metadata.size);
        let mut opened = self.open(path)?;
        let ids = hashes(wanted, size, &mut opened.reader).map_err(|error| self.failed(&error))?;
        Ok((opened.metadata, ids))
    }

    fn metadata_of(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        Ok(self.index.node(&self.full(path))?.metadata.unwrap_or_default())
    }
}

impl Tree for ArchiveTree {
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        let listing = self.index.list(&self.full(folder))?;
        Ok(Listing { damage: self.damage.clone().filter(|_| folder.is_root()), ..listing })
    }

    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        if path.is_root() && self.top.is_none() { Ok(EntryMetadata::default()) } else { self.metadata_of(path) }
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        let node = self.node(path)?;
        let metadata = self.metadata_of(path)?;
        // Contents that are unpacked on their own need not be held as a whole.
        let reader: Box<dyn Read + Send> = match &node.held {
            Stored::Zip(place) => place.open(&self.blob).map_err(|error| self.failed(&error))?,
            _ => Box::new(self.blob(path)?.reader()),
        };
        Ok(Opened { metadata, reader })
    }

    fn identity(&self, path: &TreePath) -> Option<ContentId> {
        match &self.node(path).ok()?.held {
            Stored::Stream { ids, .. } => ids.first().cloned(),
            _ => None,
        }
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
        let wanted: Option<Vec<Algorithm>> = algorithms.iter().map(|name| Algorithm::named(name)).collect();
        Some(self.hashed(path, &wanted?))
    }

    fn reads_ahead(&self) -> bool {
        self.stream.is_some()
    }

    fn prepare(&self, paths: &[&TreePath]) {
        let Some(stream) = &self.stream else { return };
        let numbers = paths.iter().filter_map(|path| match self.node(path).ok()?.held {
            Stored::Stream { number, .. } => Some(number),
            _ => None,
        });
        stream.fetch(Some(&numbers.collect::<HashSet<_>>()));
    }

    fn remarks(&self) -> Vec<Remark> {
        self.remarks.clone()
    }

    fn contents(&self, path: &TreePath) -> Result<Contents, TreeError> {
        self.blob(path)?.contents().map_err(|error| self.failed(&error))
    }

    fn may_be_packed(&self, path: &TreePath) -> Option<bool> {
        match &self.node(path).ok()?.held {
            Stored::Stream { may_be_packed, .. } => Some(*may_be_packed),
            _ => None,
        }
    }

    fn link_target(&self, path: &TreePath) -> Result<Vec<u8>, TreeError> {
        let node = self.index.node(&self.full(path))?;
        match (&node.target, &node.held) {
            (Some(target), _) => Ok(target.clone()),
            (None, Stored::Bad(reason)) => Err(reason.clone()),
            (None, _) => Err(TreeError::new(TreeErrorKind::Other, "it is no link")),
        }
    }
}

/// The entry that a header of a tar archive stands for.
fn node_of(head: &Head, held: Stored) -> Node<Stored> {
    let (entry_type, target, held) = match &head.member {
        Member::File => (EntryType::File, None, held),
        Member::Folder => (EntryType::Folder, None, Stored::Nothing),
        Member::Link(target) => (EntryType::Link, Some(target.clone()), Stored::Nothing),
        Member::SameAs(other) => (EntryType::File, None, Stored::SameAs(plain_path(other))),
        Member::Special(name) => (EntryType::Special(name), None, Stored::Nothing),
        Member::Unknown(reason) => (EntryType::File, None, Stored::Bad(TreeError::new(TreeErrorKind::Other, *reason))),
    };
    Node { entry_type, metadata: Some(head.metadata), target, held, packed: false }
}

/// Reads the headers of a tar archive that is not compressed.
fn read_plain(blob: &Blob, limits: &Limits) -> (Index<Stored>, Option<TreeError>) {
    let mut index = Index::default();
    let read = tar::read_seekable(blob.reader(), &mut |head, contents| {
        room_for_one_more(&index, limits)?;
        let (start, size) = (head.start, head.metadata.size);
        let mut cut_off = false;
        let held = if head.is_plain || !matches!(head.member, Member::File) {
            cut_off = start.saturating_add(size) > blob.len();
            Stored::Part { start, size }
        } else if size > Limits::SMALL {
            Stored::Bad(TreeError::new(TreeErrorKind::Other, "it is a large sparse file, which is not read"))
        } else {
            let mut bytes = Vec::new();
            match contents.read_to_end(&mut bytes) {
                Ok(_) => Stored::Whole(Arc::new(bytes)),
                Err(error) => Stored::Bad(TreeError::from(&error)),
            }
        };
        index.add(&head.name, node_of(&head, held));
        if cut_off { Err(io::Error::new(io::ErrorKind::UnexpectedEof, "it is cut off")) } else { Ok(()) }
    });
    (index, read.err().map(|error| cut(&error)))
}

/// Reads a compressed tar archive for the first time.
fn read_stream(stream: &Stream, options: &ArchiveOptions) -> (Index<Stored>, Option<TreeError>) {
    let mut index = Index::default();
    let mut algorithms = vec![Algorithm::Blake3];
    algorithms.extend(options.algorithms.iter().filter(|&&algorithm| algorithm != Algorithm::Blake3));
    let keeping = Keeping::new(options.kept_at_once, options.opens_archives, options.beside.clone());
    let read = stream.first(&algorithms, keeping, &mut |head, told| {
        room_for_one_more(&index, &options.limits)?;
        options.progress.add(head.metadata.size);
        let held = match told {
            Ok(told) => Stored::Stream { number: told.number, ids: told.ids, may_be_packed: told.may_be_packed },
            Err(reason) => Stored::Bad(reason),
        };
        index.add(&head.name, node_of(&head, held));
        Ok(())
    });
    (index, read.err().map(|error| cut(&error)))
}

fn room_for_one_more(index: &Index<Stored>, limits: &Limits) -> io::Result<()> {
    if index.entries() < limits.entries {
        return Ok(());
    }
    Err(io::Error::new(io::ErrorKind::FileTooLarge, limits.too_many()))
}

/// Why the reading of an archive ended before its end.
fn cut(error: &io::Error) -> TreeError {
    let reason = TreeError::from(error);
    TreeError::new(reason.kind(), format!("not all of the archive could be read: {reason}"))
}
