//! Carrying from what is no folder on the disk: what is written is unpacked into the journal's own folder first, so that all of it is
//! known to be readable before the first file is replaced.

use std::collections::HashMap;
use std::io;
use std::path::Path;

use anyhow::Result;
use tideline_core::internal::plan::{Contents, Item, Plan, Side, SyncPlan, path_of};
use tideline_core::internal::tree::{Progress, Tree, TreePath};
use tideline_journal::{LeftOut, Staging};

use super::writing::journal;

/// The steps of a plan, with what they write.
pub(crate) struct Unpacked {
    pub(crate) plan: Plan,
    /// What could not be unpacked.
    pub(crate) left_out: Vec<LeftOut>,
    /// Holds what was unpacked until it is written.
    _staging: Staging,
}

/// Unpacks what a plan writes into a folder from a tree that is not on the disk.
pub(crate) fn unpacked(plan: &SyncPlan, tree: &dyn Tree, into: &Path, progress: &Progress) -> Result<Unpacked> {
    let staging = journal()?.staging()?;
    let written = plan.steps.iter().filter(|step| {
        let is_copied = step.moved_from.is_none() && step.same_as.is_none();
        step.side == Side::Into && is_copied && matches!(step.will, Item::File { .. })
    });
    let paths: Vec<&TreePath> = written.map(|step| &step.path).collect();
    let (mut ready, mut left_out) = (HashMap::new(), Vec::new());
    tree.prepare(&paths);
    for (number, path) in paths.into_iter().enumerate() {
        match unpack(tree, path, (&staging, number)) {
            Ok((contents, size)) => {
                progress.add(size);
                ready.insert(path.clone(), contents);
            }
            Err(error) => {
                let path = path_of(path).map_or_else(|| into.to_path_buf(), |path| into.join(path));
                left_out.push(LeftOut { path, reason: format!("cannot be unpacked: {error}") });
            }
        }
    }
    Ok(Unpacked { plan: plan.steps_with(into, ready), left_out, _staging: staging })
}

/// Unpacks a file, and says how large it is.
fn unpack(tree: &dyn Tree, path: &TreePath, (staging, number): (&Staging, usize)) -> io::Result<(Contents, u64)> {
    let mut opened = tree.open(path).map_err(io::Error::other)?;
    let mut staged = staging.begin(&number.to_string())?;
    let size = io::copy(&mut opened.reader, &mut staged)?;
    Ok((staged.finish()?, size))
}
