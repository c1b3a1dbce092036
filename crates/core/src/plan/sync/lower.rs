//! From what a sync would do to the steps that a journal carries out.

use std::path::{Path, PathBuf};
use std::time::SystemTime;

use super::{Item, Side, SyncPlan, SyncStep};
use crate::plan::{Contents, Plan, Standing, Step, path_of};

impl SyncPlan {
    /// The steps for trees with these roots; a path that cannot be one on this system is left out.
    pub fn steps_below(&self, into: &Path, from: &Path) -> Plan {
        let step = |step: &SyncStep| {
            let (root, other) = if step.side == Side::Into { (into, from) } else { (from, into) };
            lowered(step, &below(root, &step.path)?, &below(other, &step.path)?, root)
        };
        Plan { steps: self.steps.iter().filter_map(step).flatten().collect() }
    }
}

fn below(root: &Path, path: &[u8]) -> Option<PathBuf> {
    if path.is_empty() { Some(root.to_path_buf()) } else { Some(root.join(path_of(path)?)) }
}

fn lowered(step: &SyncStep, path: &Path, source: &Path, root: &Path) -> Option<Vec<Step>> {
    let path = path.to_path_buf();
    let expected = standing(&step.was)?;
    let (mode, modified) = match &step.will {
        Item::File { stamp, mode } => (*mode, stamp.modified.map(SystemTime::from)),
        Item::Folder { mode, modified } => (*mode, modified.map(SystemTime::from)),
        Item::Nothing | Item::Link { .. } => (None, None),
    };
    let write = |path: PathBuf, expected: Standing| {
        let contents = match &step.will {
            Item::File { stamp, .. } => Contents::CopyOf(source.to_path_buf(), Some(*stamp)),
            Item::Link { target } => Contents::Link(path_of(target)?),
            Item::Nothing | Item::Folder { .. } => return None,
        };
        Some(Step::Write { path, expected, contents, mode, modified })
    };
    Some(match (&step.moved_from, &step.was, &step.will) {
        (Some(old), ..) => {
            let from = below(root, old)?;
            if step.with_contents {
                vec![write(path, Standing::Nothing)?, Step::Remove { path: from, expected }]
            } else {
                vec![Step::Move { from, path, expected, mode, modified }]
            }
        }
        (None, _, Item::Folder { .. }) => {
            vec![Step::MakeFolder { path, expected, like: Some(source.to_path_buf()), mode, modified }]
        }
        (None, Item::Folder { .. }, Item::Nothing) => vec![Step::RemoveFolder { path }],
        (None, _, Item::Nothing) => vec![Step::Remove { path, expected }],
        (None, ..) => vec![write(path, expected)?],
    })
}

fn standing(item: &Item) -> Option<Standing> {
    Some(match item {
        Item::Nothing => Standing::Nothing,
        Item::File { stamp, .. } => Standing::Seen(*stamp, None),
        Item::Link { target } => Standing::Link(path_of(target)?),
        Item::Folder { .. } => Standing::Folder,
    })
}
