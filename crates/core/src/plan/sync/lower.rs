//! From what a sync would do to the steps that a journal carries out.

use std::collections::HashMap;
use std::path::{Path, PathBuf};

use super::{Item, Side, SyncPlan, SyncStep};
use crate::internal::plan::{Contents, ExpectedState, FileAttributes, Plan, Source, Step, path_of};
use crate::internal::tree::TreePath;

impl SyncPlan {
    /// The steps for trees with these roots; a path that cannot be one on this system is left out.
    pub fn steps_below(&self, into: &Path, from: &Path) -> Plan {
        // A root that is to be made is itself a step beneath the folder it is in.
        let makes_into = self.steps.iter().any(|step| step.path.is_empty() && step.side == Side::Into);
        let into_root = if makes_into { into.parent().unwrap_or(into) } else { into };
        let mut plan = Plan { roots: vec![into_root.to_path_buf(), from.to_path_buf()], ..Plan::default() };
        for step in &self.steps {
            let (root, other) = if step.side == Side::Into { (into, from) } else { (from, into) };
            let Some((lowered, expected)) = lowered(step, root, other) else { continue };
            if let (Some(expected), Some(path)) = (expected, below(other, &step.path)) {
                plan.sources.push(Source { step: plan.steps.len(), path, expected });
            }
            plan.steps.push(lowered);
        }
        plan
    }

    /// The steps for a tree with this root, where the tree that is carried from is not on the disk: what files will hold was made ready
    /// for each path. A file of which nothing was made ready is left out.
    pub fn steps_with(&self, into: &Path, mut ready: HashMap<TreePath, Contents>) -> Plan {
        // Nothing is looked up below the other root.
        let mut plan = self.steps_below(into, into);
        plan.roots.truncate(1);
        plan.sources.clear();
        let paths = self.steps.iter().map(|step| below(into, &step.path));
        let by_path: HashMap<PathBuf, &TreePath> =
            paths.zip(&self.steps).filter_map(|(path, step)| Some((path?, &step.path))).collect();
        plan.steps.retain_mut(|step| match step {
            Step::MakeFolder { like, .. } => {
                *like = None;
                true
            }
            Step::Write { path, contents, .. } if matches!(contents, Contents::CopyOf(..)) => {
                let made = by_path.get(path).and_then(|path| ready.remove(*path));
                made.map(|made| *contents = made).is_some()
            }
            _ => true,
        });
        plan
    }
}

fn below(root: &Path, path: &[u8]) -> Option<PathBuf> {
    if path.is_empty() { Some(root.to_path_buf()) } else { Some(root.join(path_of(path)?)) }
}

/// A step, and what must stand at its path in the other tree. What is copied is checked when it is read.
fn lowered(step: &SyncStep, root: &Path, other: &Path) -> Option<(Step, Option<ExpectedState>)> {
    let (path, source) = (below(root, &step.path)?, below(other, &step.path)?);
    let expected = standing(&step.was)?;
    let attributes = match &step.will {
        Item::File { stamp, mode, .. } => FileAttributes::of(*mode, stamp.modified),
        Item::Folder { mode, modified } => FileAttributes::of(*mode, *modified),
        Item::Nothing | Item::Link { .. } => FileAttributes::default(),
    };
    let wanted = standing(&step.will)?;
    Some(match (&step.moved_from, &step.was, &step.will) {
        (Some(old), ..) => {
            let from = below(root, old)?;
            (Step::Move { from, path, expected, contents: None, attributes }, Some(wanted))
        }
        (None, _, Item::Folder { .. }) => {
            (Step::MakeFolder { path, expected, like: Some(source), attributes }, Some(wanted))
        }
        (None, Item::Folder { .. }, Item::Nothing) => (Step::RemoveFolder { path }, Some(wanted)),
        (None, _, Item::Nothing) => (Step::Remove { path, expected }, Some(wanted)),
        (None, _, Item::Link { target }) => {
            (Step::Write { path, expected, contents: Contents::Link(path_of(target)?), attributes }, Some(wanted))
        }
        (None, _, Item::File { stamp, .. }) => match &step.same_as {
            Some(first) => {
                let contents = Contents::SameAs(below(root, first)?);
                (Step::Write { path, expected, contents, attributes }, Some(wanted))
            }
            None => {
                let contents = Contents::CopyOf(source, Some(*stamp));
                (Step::Write { path, expected, contents, attributes }, None)
            }
        },
    })
}

fn standing(item: &Item) -> Option<ExpectedState> {
    Some(match item {
        Item::Nothing => ExpectedState::Nothing,
        Item::File { stamp, .. } => ExpectedState::Stamped(*stamp, None),
        Item::Link { target } => ExpectedState::Link(path_of(target)?),
        Item::Folder { .. } => ExpectedState::Folder,
    })
}
