//! Three versions of something: a base, and what came of it on two sides.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result, bail};
use tideline_core::internal::merge::{MergedEntry, Three, TreeMerge, TreeMergeOptions, merge_trees};
use tideline_core::internal::tree::{self, Contents, Progress, Tree, TreeOptions, TreePath};
use tideline_sources::{Argument, Content, OpenedSide, Side, SideOptions, resolve, resolve_both};
use tideline_views::shown_text;

use super::progress::with_progress;
use super::tell::tell;
use crate::settings::{NamesOfThree, name_three};

/// Three versions that were opened.
pub(crate) enum OpenedVersions {
    /// Of a file.
    Files(Box<FileVersions>),
    /// Of a tree.
    Trees(Box<TreeVersions>),
}

/// Three versions of a file.
pub(crate) struct FileVersions {
    /// The contents.
    pub(crate) contents: Three<Content>,
    /// As they were named.
    pub(crate) paths: Three<PathBuf>,
    pub(crate) names: NamesOfThree,
}

/// Three versions of a tree.
pub(crate) struct TreeVersions {
    pub(crate) trees: Three<Box<dyn Tree>>,
    pub(crate) paths: Three<PathBuf>,
    pub(crate) labels: Three<String>,
    /// Which of them are folders on the disk.
    pub(crate) on_disk: Three<bool>,
}

impl FileVersions {
    /// Fails when a version was changed while it was read.
    ///
    /// # Errors
    /// When it was.
    pub(crate) fn check(&self) -> Result<()> {
        let each = [
            (&self.contents.base, &self.paths.base),
            (&self.contents.mine, &self.paths.mine),
            (&self.contents.theirs, &self.paths.theirs),
        ];
        for (content, path) in each {
            content.check().with_context(|| format!("cannot tell what is in {}", path.display()))?;
        }
        Ok(())
    }

    /// The bytes of each.
    pub(crate) fn bytes(&self) -> Three<&[u8]> {
        self.contents.as_ref().map(|content| &**content)
    }
}

impl TreeVersions {
    pub(crate) fn trees(&self) -> Three<&dyn Tree> {
        self.trees.as_ref().map(|tree| &**tree)
    }

    /// Compares both sides with the base, and merges them.
    pub(crate) fn merged(&self, comparing: &TreeOptions, merging: &TreeMergeOptions, progress: &Progress) -> TreeMerge {
        let trees = self.trees();
        let compare = |side: &dyn Tree| tree::compare(trees.base, side, comparing, progress);
        let (mine, theirs) = (compare(trees.mine), compare(trees.theirs));
        merge_trees(trees, (&mine, &theirs), merging, progress)
    }

    /// The versions of a file that both sides have; that of the base is empty where both sides added it.
    pub(crate) fn contents_of(&self, entry: &MergedEntry) -> Option<Three<Contents>> {
        let (mine, theirs) = (entry.mine.path.as_ref()?, entry.theirs.path.as_ref()?);
        let trees = self.trees();
        let read = |tree: &dyn Tree, path: &TreePath| tree.contents(path).ok();
        let base = match entry.base {
            Some(_) => read(trees.base, &entry.path)?,
            None => Box::new(Vec::new()),
        };
        Some(Three::new(base, read(trees.mine, mine)?, read(trees.theirs, theirs)?))
    }
}

/// Opens three versions, all of them files or all of them trees. `labels` are those that were given: three of them, or none.
pub(crate) fn open_versions(paths: Three<&Path>, options: &SideOptions, labels: &[String]) -> Result<OpenedVersions> {
    if paths.all().into_iter().filter(|path| path.as_os_str() == "-").count() > 1 {
        bail!("cannot read standard input twice: only one of the base and the sides can be `-`");
    }
    let opened = with_progress(|progress| {
        let options = options.clone().progress(Arc::clone(progress));
        // A working folder beside a revision is read as its repository sees it.
        let (base, mine) = resolve_both((paths.base, paths.mine), &options)?;
        let theirs = if Argument::is_revision(paths.base) && !Argument::is_revision(paths.theirs) {
            resolve_both((paths.base, paths.theirs), &options)?.1
        } else {
            resolve(paths.theirs, &options)?
        };
        Ok::<_, anyhow::Error>(Three::new(base, mine, theirs))
    })?;
    let mut names = name_three(paths);
    let own = opened.as_ref().map(|side| side.label.clone());
    for (label, own) in
        [(&mut names.labels.base, own.base), (&mut names.labels.mine, own.mine), (&mut names.labels.theirs, own.theirs)]
    {
        if let Some(own) = own {
            *label = own;
        }
    }
    if let [base, mine, theirs] = labels {
        names.labels = Three::new(base.clone(), mine.clone(), theirs.clone());
    }
    // They go into sentences and marks, each of them on one line.
    names.labels = names.labels.map(|label| shown_text(&label, false));
    let is_plain = |side: &OpenedSide, path: &Path| side.about.is_none() && path.is_dir();
    let on_disk = Three::new(
        is_plain(&opened.base, paths.base),
        is_plain(&opened.mine, paths.mine),
        is_plain(&opened.theirs, paths.theirs),
    );
    let owned = paths.map(Path::to_path_buf);
    match (opened.base.side, opened.mine.side, opened.theirs.side) {
        (Side::File(base), Side::File(mine), Side::File(theirs)) => Ok(OpenedVersions::Files(Box::new(FileVersions {
            contents: Three::new(base, mine, theirs),
            paths: owned,
            names,
        }))),
        (Side::Tree(base), Side::Tree(mine), Side::Tree(theirs)) => Ok(OpenedVersions::Trees(Box::new(TreeVersions {
            trees: Three::new(base, mine, theirs),
            paths: owned,
            labels: names.labels,
            on_disk,
        }))),
        _ => bail!(
            "cannot bring together {}, {} and {}: all three must be files, or all three folders",
            owned.base.display(),
            owned.mine.display(),
            owned.theirs.display()
        ),
    }
}

/// Says on standard error what could not be read; whether there was anything.
pub(crate) fn tell_unreadable(merge: &TreeMerge) -> bool {
    let mut is_troubled = false;
    for (path, reason) in merge.unreadable() {
        tell(&format!("cannot read {}: {reason}", path.to_text()));
        is_troubled = true;
    }
    is_troubled
}
