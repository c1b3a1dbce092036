//! What an argument stands for: a file, or a tree.

use std::fs;
use std::io::ErrorKind;
use std::path::Path;
use std::sync::Arc;

use tideline_core::internal::tree::Tree;

use crate::file::{Content, OpenError, Origin, open};
use crate::folder::{FolderTree, Own};

/// One side of a comparison.
pub enum Side {
    /// One file, standard input, or a pipe.
    File(Content),
    /// A folder.
    Tree(Box<dyn Tree>),
}

/// How a side is opened. Unchanging once built.
#[derive(Clone, Debug, Default)]
pub struct SideOptions {
    follow_links: bool,
    with_repositories: bool,
    use_ignore_files: bool,
    own: Option<Arc<dyn Own>>,
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

    /// What of a folder is the program's own, and left out.
    pub fn without(mut self, own: Arc<dyn Own>) -> Self {
        self.own = Some(own);
        self
    }
}

/// Opens what an argument stands for; `-` is standard input.
///
/// # Errors
/// When there is nothing there, or when the system refuses to let it be read.
pub fn resolve(argument: &Path, options: &SideOptions) -> Result<Side, OpenError> {
    let origin = Origin::of(argument);
    let Origin::Path(path) = &origin else { return open(&origin).map(Side::File) };
    match fs::metadata(path) {
        Ok(metadata) if metadata.is_dir() => Ok(Side::Tree(Box::new(folder(path, options)))),
        // A link to nothing is told apart from nothing at all.
        Err(error) if error.kind() == ErrorKind::NotFound && path.symlink_metadata().is_err() => {
            Err(OpenError::Missing { path: path.clone() })
        }
        _ => open(&origin).map(Side::File),
    }
}

fn folder(path: &Path, options: &SideOptions) -> FolderTree {
    let tree = FolderTree::new(path)
        .follow_links(options.follow_links)
        .with_repositories(options.with_repositories)
        .use_ignore_files(options.use_ignore_files);
    match &options.own {
        Some(own) => tree.without(Arc::clone(own)),
        None => tree,
    }
}
