//! A plan that is kept for later: what its files hold, so that each is known again though it was put back meanwhile.

use std::io;

use rayon::prelude::*;

use super::{Item, Side, SyncPlan, SyncStep};
use crate::internal::plan::Stamp;
use crate::internal::tree::{Tree, TreePath};

impl SyncPlan {
    /// Adds hashes of the files that the steps are about. A file that is no longer as it was planned gets none.
    pub fn add_hashes(&mut self, trees: (&dyn Tree, &dyn Tree)) {
        self.each_file(trees, |tree, path, item| {
            if let Item::File { stamp, mode, hash } = item
                && let Some((found, holds)) = seen(tree, path)
                && found == (*stamp, *mode)
            {
                *hash = Some(holds);
            }
        });
    }

    /// Knows the files again that are as they were when hashes were added, in contents, permissions and time, though the system
    /// says that they were written since: each gets the stamp that it has now.
    pub fn recognize(&mut self, trees: (&dyn Tree, &dyn Tree)) {
        self.each_file(trees, |tree, path, item| {
            if let Item::File { stamp, mode, hash: Some(hash) } = item
                && let Ok(metadata) = tree.metadata(path)
                && (metadata.size, metadata.mode) == (stamp.size, *mode)
                && Stamp::from(&metadata) != *stamp
                && let Some(((now, _), holds)) = seen(tree, path)
                && (now.modified, holds) == (stamp.modified, *hash)
            {
                *stamp = now;
            }
        });
    }

    /// Does something with every file that a step reads, replaces or removes.
    fn each_file(
        &mut self,
        (into, from): (&dyn Tree, &dyn Tree),
        action: impl Fn(&dyn Tree, &TreePath, &mut Item) + Sync,
    ) {
        self.steps.par_iter_mut().for_each(|step| {
            let (target, source) = if step.side == Side::Into { (into, from) } else { (from, into) };
            let SyncStep { path, moved_from, was, will, .. } = step;
            action(target, moved_from.as_ref().unwrap_or(path), was);
            action(source, path, will);
        });
    }
}

/// What the system says of a file, and the hash of what it holds. Nothing where it is no file or was written to meanwhile.
fn seen(tree: &dyn Tree, path: &TreePath) -> Option<((Stamp, Option<u32>), blake3::Hash)> {
    let metadata = tree.metadata(path).ok()?;
    let stamp = Stamp::from(&metadata);
    let mut opened = tree.open(path).ok()?;
    let mut hasher = blake3::Hasher::new();
    io::copy(&mut opened.reader, &mut hasher).ok()?;
    let is_as_before = tree.metadata(path).is_ok_and(|after| Stamp::from(&after) == stamp);
    is_as_before.then(|| ((stamp, metadata.mode), hasher.finalize()))
}
