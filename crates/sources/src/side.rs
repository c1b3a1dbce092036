//! What an argument stands for: a file, or a tree.

use std::fs::{self, File};
use std::io::{self, IsTerminal};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use tideline_core::internal::tree::{Progress, Tree, TreePath};

use crate::archive::{ArchiveOptions, ArchiveTree};
use crate::blob::Blob;
use crate::compressed::unpacked;
use crate::compression::Compression;
use crate::detect::Packed;
use crate::file::{Content, OpenError, Origin, open};
use crate::folder::{FolderTree, Own};
use crate::hashing::Algorithm;
use crate::inventory::{self, InventoryHead, InventoryTree};
use crate::limits::Limits;
use crate::nested::OpenedArchives;
use crate::probe::{LookInto, Probed, is_tree, probe};
use crate::revision::{Allowed, Repository, RevisionTree, WorkingTree, not_checked_out};

/// One side of a comparison.
pub enum Side {
    /// One file, standard input, or a pipe.
    File(Content),
    /// A folder, or what else holds entries.
    Tree(Box<dyn Tree>),
}

/// One side of a comparison, and what there is to say of it.
pub struct OpenedSide {
    /// The side.
    pub side: Side,
    /// What it is called, where its path does not say that.
    pub label: Option<String>,
    /// What it is, where its path does not say that.
    pub about: Option<String>,
    /// What was compressed, by the name of the file inside.
    pub name: Option<String>,
    /// Of an inventory, what it was made of.
    pub inventory: Option<InventoryHead>,
}

/// How a side is opened. Unchanging once built.
#[derive(Clone, Debug, Default)]
pub struct SideOptions {
    follow_links: bool,
    with_repositories: bool,
    use_ignore_files: bool,
    no_ignore_files: bool,
    own: Option<Arc<dyn Own>>,
    look_into: LookInto,
    open_archives: bool,
    limits: Limits,
    repository: Option<PathBuf>,
    allowed: Allowed,
    progress: Arc<Progress>,
}

impl SideOptions {
    /// Whether links in a folder are followed. Default: no.
    pub fn follow_links(mut self, follow: bool) -> Self {
        self.follow_links = follow;
        self
    }

    /// Whether folders of version control are looked into. Default: no.
    pub fn with_repositories(mut self, with: bool) -> Self {
        self.with_repositories = with;
        self
    }

    /// Whether ignore files in a folder hold. Default: no.
    pub fn use_ignore_files(mut self, hold: bool) -> Self {
        self.use_ignore_files = hold;
        self
    }

    /// Whether what a repository ignores is taken in where its working folder is compared with a revision. Default: no.
    pub fn no_ignore_files(mut self, all: bool) -> Self {
        self.no_ignore_files = all;
        self
    }

    /// What of a folder is the program's own, and left out.
    pub fn without(mut self, own: Arc<dyn Own>) -> Self {
        self.own = Some(own);
        self
    }

    /// Which files are looked into. Default: archives, compressed files and inventories.
    pub fn look_into(mut self, look_into: LookInto) -> Self {
        self.look_into = look_into;
        self
    }

    /// Whether archives in trees are folders too. Default: no.
    pub fn open_archives(mut self, open: bool) -> Self {
        self.open_archives = open;
        self
    }

    /// Whether archives in trees are folders too.
    pub fn opens_archives(&self) -> bool {
        self.open_archives
    }

    /// How much of what is packed is unpacked.
    pub fn limits(mut self, limits: Limits) -> Self {
        self.limits = limits;
        self
    }

    /// The repository that revisions are of. Default: the one around the working folder.
    pub fn repository(mut self, repository: Option<PathBuf>) -> Self {
        self.repository = repository;
        self
    }

    /// Who watches how far the opening of an archive has come. Default: nobody.
    pub fn progress(mut self, progress: Arc<Progress>) -> Self {
        self.progress = progress;
        self
    }

    /// What the version-control system may do beside telling what is there. Default: nothing.
    pub fn allowed(mut self, allowed: Allowed) -> Self {
        self.allowed = allowed;
        self
    }
}

/// Opens what an argument stands for; `-` is standard input.
///
/// # Errors
/// When there is nothing there, or when the system refuses to let it be read.
pub fn resolve(argument: &Path, options: &SideOptions) -> Result<OpenedSide, OpenError> {
    let probed = probe(argument, options.look_into)?;
    Opening { options, repository: None, beside: None }.one(argument, probed, None, &[])
}

/// Opens both sides of a comparison: what one of them is can tell how the other is opened.
///
/// # Errors
/// When one of them cannot be opened.
pub fn resolve_both(
    (before, after): (&Path, &Path),
    options: &SideOptions,
) -> Result<(OpenedSide, OpenedSide), OpenError> {
    // Standard input is read last.
    let is_input = before.as_os_str() == "-";
    let (first, last) = if is_input { (after, before) } else { (before, after) };
    let first_probed = probe(first, options.look_into)?;
    if last.as_os_str() == "-" && matches!(first_probed, Probed::Folder(_)) && io::stdin().is_terminal() {
        return Err(OpenError::InputForFolder { folder: first.to_path_buf() });
    }
    let last_probed = probe(last, options.look_into)?;
    let mut opening = Opening { options, repository: None, beside: None };
    let opened = opening.both((first, first_probed), (last, last_probed))?;
    Ok(if is_input { (opened.1, opened.0) } else { opened })
}

/// What is opened for a comparison.
#[derive(Clone)]
struct Opening<'o> {
    options: &'o SideOptions,
    /// The repository, once it was asked for.
    repository: Option<Arc<Repository>>,
    /// The folder that the other side is, if it is one.
    beside: Option<PathBuf>,
}

impl Opening<'_> {
    fn both(
        &mut self,
        (first, first_probed): (&Path, Probed),
        (last, last_probed): (&Path, Probed),
    ) -> Result<(OpenedSide, OpenedSide), OpenError> {
        if let (Some(one), Some(other)) = (is_tree(&first_probed), is_tree(&last_probed))
            && one != other
        {
            // A list of checksums is a tree where the other side is one, and a text where it is not.
            let (path, list, tree) = if one { (last, &last_probed, first) } else { (first, &first_probed, last) };
            let list = match list {
                Probed::File(file) => File::open(file).ok().and_then(|file| Blob::of_file(file).ok()),
                _ => None,
            };
            if let Some(mut list) = list.as_ref().and_then(inventory::read_checksums) {
                let probed = if one { first_probed } else { last_probed };
                let tree = self.one(tree, probed, None, &list.algorithms())?;
                if let Side::Tree(tree) = &tree.side {
                    list.settle(&**tree);
                }
                let list = self.inventory(path, list);
                return Ok(if one { (tree, list) } else { (list, tree) });
            }
        }
        let is_inventory = |probed: &Probed| matches!(probed, Probed::Packed(_, Packed::Inventory));
        let is_folder = |probed: &Probed| match probed {
            Probed::Folder(path) => Some(path.clone()),
            _ => None,
        };
        match (&first_probed, &last_probed) {
            (Probed::Packed(blob, Packed::Inventory), _) if is_tree(&last_probed) == Some(true) => {
                let read = inventory::read(blob).map_err(|error| OpenError::tree(first, error))?;
                let other = match &last_probed {
                    Probed::Packed(blob, Packed::Inventory) => {
                        let other = inventory::read(blob).map_err(|error| OpenError::tree(last, error))?;
                        self.inventory(last, other)
                    }
                    _ => self.one(last, last_probed, None, &read.algorithms())?,
                };
                Ok((self.inventory(first, read), other))
            }
            (_, Probed::Packed(blob, Packed::Inventory)) if is_tree(&first_probed) == Some(true) => {
                let read = inventory::read(blob).map_err(|error| OpenError::tree(last, error))?;
                let other = self.one(first, first_probed, None, &read.algorithms())?;
                Ok((other, self.inventory(last, read)))
            }
            // Against a file, it is the text that it is.
            _ if is_inventory(&first_probed) || is_inventory(&last_probed) => {
                let as_text = |path: &Path, probed: Probed| match probed {
                    Probed::Packed(blob, Packed::Inventory) => blob
                        .contents()
                        .map(|contents| plain(Side::File(Content::of(contents, None))))
                        .map_err(|error| OpenError::of(path, error)),
                    other => {
                        Opening { options: self.options, repository: None, beside: None }.one(path, other, None, &[])
                    }
                };
                Ok((as_text(first, first_probed)?, as_text(last, last_probed)?))
            }
            (Probed::Revision { path: None, revision }, Probed::File(file)) => {
                let path = self.path_of(first, file)?;
                let revision = Probed::Revision { revision: revision.clone(), path };
                Ok((self.one(first, revision, None, &[])?, self.one(last, last_probed, None, &[])?))
            }
            (Probed::File(file), Probed::Revision { path: None, revision }) => {
                let path = self.path_of(last, file)?;
                let revision = Probed::Revision { revision: revision.clone(), path };
                Ok((self.one(first, first_probed, None, &[])?, self.one(last, revision, None, &[])?))
            }
            (Probed::Revision { .. }, _) if let Some(folder) = is_folder(&last_probed) => {
                self.with_working_folder(first, first_probed, &folder)
            }
            (_, Probed::Revision { .. }) if let Some(folder) = is_folder(&first_probed) => {
                let (revision, working) = self.with_working_folder(last, last_probed, &folder)?;
                Ok((working, revision))
            }
            (Probed::Revision { .. }, Probed::Revision { .. }) => {
                // Both lists are made at the same time.
                self.repository(first)?;
                let (mut one, mut other) = (self.clone(), self.clone());
                let (first, last) =
                    rayon::join(|| one.one(first, first_probed, None, &[]), || other.one(last, last_probed, None, &[]));
                Ok((first?, last?))
            }
            _ => {
                self.beside = is_folder(&first_probed).or_else(|| is_folder(&last_probed));
                Ok((self.one(first, first_probed, None, &[])?, self.one(last, last_probed, None, &[])?))
            }
        }
    }

    /// Opens one side. `algorithms` are those by which the other side knows its files.
    fn one(
        &mut self,
        argument: &Path,
        probed: Probed,
        prefix: Option<&TreePath>,
        algorithms: &[Algorithm],
    ) -> Result<OpenedSide, OpenError> {
        match probed {
            Probed::Folder(path) => Ok(plain(Side::Tree(self.wrapped(Box::new(self.folder(&path)))))),
            Probed::File(path) => Ok(plain(Side::File(open(&Origin::Path(path))?))),
            Probed::Piped(content) => Ok(plain(Side::File(content))),
            Probed::Packed(blob, packed) => self.packed(argument, &blob, packed, algorithms),
            Probed::Revision { revision, path } => {
                let (side, label, about) = self.revision(argument, revision.as_deref(), path.as_deref(), prefix)?;
                let side = match side {
                    Revised::Tree(tree) => Side::Tree(self.wrapped(Box::new(tree))),
                    Revised::File(content) => Side::File(content),
                };
                Ok(OpenedSide { label: Some(label), about: Some(about), ..plain(side) })
            }
        }
    }

    fn packed(
        &self,
        argument: &Path,
        blob: &Blob,
        packed: Packed,
        algorithms: &[Algorithm],
    ) -> Result<OpenedSide, OpenError> {
        let name = argument.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        match packed {
            Packed::Inventory => {
                let read = inventory::read(blob).map_err(|error| OpenError::tree(argument, error))?;
                Ok(self.inventory(argument, read))
            }
            Packed::Compressed(compression) => {
                let contents = unpacked(blob, compression, &self.options.limits);
                let contents = contents.map_err(|error| OpenError::of(argument, error))?;
                let modified = fs::metadata(argument).ok().and_then(|metadata| metadata.modified().ok());
                Ok(OpenedSide {
                    about: Some(format!("{name}: {}, unpacked", compression.name())),
                    name: Some(Compression::name_without(&name).to_owned()),
                    ..plain(Side::File(Content::of(contents, modified)))
                })
            }
            Packed::Zip | Packed::Document | Packed::Tar(_) => {
                let mut options =
                    ArchiveOptions::new(self.options.limits, algorithms.to_vec(), self.options.open_archives);
                options.beside.clone_from(&self.beside);
                options.progress = Arc::clone(&self.options.progress);
                let mut tree = ArchiveTree::open(blob.clone(), packed, &options)
                    .map_err(|error| OpenError::tree(argument, error))?;
                let kind = match packed {
                    Packed::Tar(None) => "tar archive".to_owned(),
                    Packed::Tar(Some(compression)) => format!("tar archive, {}", compression.name()),
                    _ => "zip archive".to_owned(),
                };
                let top = tree.look_through().map(|top| format!(", all in {}/", top.to_text())).unwrap_or_default();
                Ok(OpenedSide {
                    about: Some(format!("{name}: {kind}{top}")),
                    ..plain(Side::Tree(self.wrapped(Box::new(tree))))
                })
            }
        }
    }

    fn inventory(&self, argument: &Path, tree: InventoryTree) -> OpenedSide {
        let name = argument.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        let head = tree.head().clone();
        let about = match &head.root {
            Some(root) => format!("{name}: inventory of {}, contents not at hand", String::from_utf8_lossy(root)),
            None => format!("{name}: list of checksums, contents not at hand"),
        };
        OpenedSide { about: Some(about), inventory: Some(head), ..plain(Side::Tree(Box::new(tree))) }
    }

    fn folder(&self, path: &Path) -> FolderTree {
        let options = self.options;
        let tree = FolderTree::new(path)
            .follow_links(options.follow_links)
            .with_repositories(options.with_repositories)
            .use_ignore_files(options.use_ignore_files);
        match &options.own {
            Some(own) => tree.without(Arc::clone(own)),
            None => tree,
        }
    }

    /// The same tree, with the archives in it as folders if that was asked for.
    fn wrapped(&self, tree: Box<dyn Tree>) -> Box<dyn Tree> {
        if !self.options.open_archives {
            return tree;
        }
        let options = ArchiveOptions::new(self.options.limits, Vec::new(), true);
        Box::new(OpenedArchives::new(tree, options, self.options.look_into == LookInto::Documents))
    }

    fn repository(&mut self, argument: &Path) -> Result<Arc<Repository>, OpenError> {
        if let Some(repository) = &self.repository {
            return Ok(Arc::clone(repository));
        }
        let named = self.options.repository.as_deref();
        let repository = Repository::around(named.unwrap_or(Path::new(".")), named.is_some(), self.options.allowed);
        let repository = Arc::new(repository.map_err(|error| OpenError::revision(argument, error))?);
        self.repository = Some(Arc::clone(&repository));
        Ok(repository)
    }

    /// The path in the repository of a file of its working folder; nothing where it is not in it.
    fn path_of(&mut self, argument: &Path, file: &Path) -> Result<Option<String>, OpenError> {
        let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let (Some(prefix), Some(name)) = (self.repository(argument)?.prefix_of(folder), file.file_name()) else {
            return Ok(None);
        };
        Ok(Some(prefix.join(name.as_encoded_bytes()).to_text()))
    }

    /// A revision against a folder. In the working folder of the repository, that is the same folder of the revision, and what the
    /// repository ignores is left out.
    fn with_working_folder(
        &mut self,
        argument: &Path,
        probed: Probed,
        folder: &Path,
    ) -> Result<(OpenedSide, OpenedSide), OpenError> {
        let Probed::Revision { revision, path } = probed else {
            return Err(OpenError::Missing { path: argument.into() });
        };
        let repository = self.repository(argument)?;
        let Some(prefix) = repository.prefix_of(folder) else {
            let revision = self.one(argument, Probed::Revision { revision, path }, None, &[])?;
            return Ok((revision, plain(Side::Tree(self.wrapped(Box::new(self.folder(folder)))))));
        };
        let (side, label, about) = self.revision(argument, revision.as_deref(), path.as_deref(), Some(&prefix))?;
        let tree = match side {
            Revised::Tree(tree) => tree,
            Revised::File(content) => {
                let revision = OpenedSide { label: Some(label), about: Some(about), ..plain(Side::File(content)) };
                return Ok((revision, plain(Side::Tree(self.wrapped(Box::new(self.folder(folder)))))));
            }
        };
        let tree = tree.checked_out_without(not_checked_out(&repository, folder));
        let working =
            WorkingTree::new(self.folder(folder), folder, repository, tree.clone(), self.options.no_ignore_files);
        let working = working.map_err(|error| OpenError::revision(argument, error))?;
        let revision = Side::Tree(self.wrapped(Box::new(tree)));
        let revision = OpenedSide { label: Some(label), about: Some(about), ..plain(revision) };
        Ok((revision, plain(Side::Tree(self.wrapped(Box::new(working))))))
    }

    /// What a revision, or what is staged, stands for; what it is called, and what the heading says of it.
    fn revision(
        &mut self,
        argument: &Path,
        revision: Option<&str>,
        path: Option<&str>,
        prefix: Option<&TreePath>,
    ) -> Result<(Revised, String, String), OpenError> {
        let failed = |error| OpenError::revision(argument, error);
        let repository = self.repository(argument)?;
        let prefix = match path {
            Some(path) => TreePath::from(path.trim_end_matches('/')),
            None => prefix.cloned().unwrap_or_default(),
        };
        let Some(revision) = revision else {
            let label = path.map_or_else(|| "staged".to_owned(), |path| format!("staged:{path}"));
            let about = "git staged: what the next commit would hold".to_owned();
            if let Some(path) = path.filter(|path| !path.is_empty())
                && let Some(bytes) = repository.staged_file(path).map_err(failed)?
            {
                return Ok((Revised::File(Content::of(Box::new(bytes), None)), label, about));
            }
            let tree = RevisionTree::staged(repository, prefix).map_err(failed)?;
            return Ok((Revised::Tree(tree), label, about));
        };
        let found = repository.find(revision, path, Some(&prefix)).map_err(failed)?;
        if found.object.kind == "blob" {
            let bytes = repository.file(&found.object.id).map_err(|error| OpenError::tree(argument, error))?;
            return Ok((Revised::File(Content::of(Box::new(bytes), None)), found.label, found.about));
        }
        if found.object.kind != "tree" {
            let error = crate::revision::RevisionError::Failed {
                reason: format!("it is a {} there, and no file or folder", found.object.kind),
            };
            return Err(failed(error));
        }
        let tree = RevisionTree::of_tree(repository, &found.object.id, prefix).map_err(failed)?;
        Ok((Revised::Tree(tree), found.label, found.about))
    }
}

/// What a revision turned out to be.
enum Revised {
    Tree(RevisionTree),
    File(Content),
}

fn plain(side: Side) -> OpenedSide {
    OpenedSide { side, label: None, about: None, name: None, inventory: None }
}
