//! From what a sync would do to the steps that a journal carries out.

use std::path::{Path, PathBuf};

use super::{Item, Side, SyncPlan, SyncStep};
use crate::internal::plan::{Contents, ExpectedState, FileAttributes, Plan, Source, Step, path_of};

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
