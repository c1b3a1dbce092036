//! Carrying out a sync from what is no folder on the disk: what is written is unpacked into the journal's own folder first, so that all of it
//! is known to be readable before the first file is replaced.

use std::collections::HashMap;
use std::io;
use std::path::Path;

use anyhow::Result;
use tideline_core::internal::plan::{Contents, Item, Side, SyncPlan, path_of};
use tideline_core::internal::tree::{Tree, TreePath};
use tideline_journal::{LeftOut, Outcome, Staging};

use crate::commands::progress::with_progress;
use crate::commands::writing::{carry_out_what_can_be, journal};

/// Carries a plan out whose files come from a tree that is not on the disk.
pub(super) fn carry(plan: &SyncPlan, tree: &dyn Tree, into: &Path) -> Result<Outcome> {
    let staging = journal()?.staging()?;
    let written = plan.steps.iter().filter(|step| {
        let is_copied = step.moved_from.is_none() && step.same_as.is_none();
        step.side == Side::Into && is_copied && matches!(step.will, Item::File { .. })
    });
    let paths: Vec<&TreePath> = written.map(|step| &step.path).collect();
    let (mut ready, mut left_out) = (HashMap::new(), Vec::new());
    with_progress(|progress| {
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
    });
    let steps = plan.steps_with(into, ready);
    let mut outcome = with_progress(|progress| carry_out_what_can_be(&steps, progress))?;
    outcome.left_out.extend(left_out);
    Ok(outcome)
}

/// Unpacks a file, and says how large it is.
fn unpack(tree: &dyn Tree, path: &TreePath, (staging, number): (&Staging, usize)) -> io::Result<(Contents, u64)> {
    let mut opened = tree.open(path).map_err(io::Error::other)?;
    let mut staged = staging.begin(&number.to_string())?;
    let size = io::copy(&mut opened.reader, &mut staged)?;
    Ok((staged.finish()?, size))
}
