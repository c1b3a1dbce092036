//! Whole files and folders that go to the other side: chosen first, carried out when they are saved.

use anyhow::{Result, bail};
use tideline_core::internal::plan::{Side as PlanSide, SyncOptions, SyncPlan, plan_sync};
use tideline_core::internal::tree::{self, Progress, Tree, TreeOptions, TreePath};
use tideline_views::{plain_reason, plural};

use crate::commands::pairs::Trees;
use crate::commands::unpacked::unpacked;
use crate::commands::{carry_out_silently, in_full, run_and_undo};
use crate::review::draft::Side;

/// A path that is to be on one side as it is on the other, with all that is below it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Carry {
    pub(super) path: TreePath,
    pub(super) into: Side,
}

/// What is to be carried, in the order in which it was chosen.
#[derive(Clone, Debug, Default)]
pub(super) struct Carries {
    all: Vec<Carry>,
    /// How many of them count; the rest was taken back.
    done: usize,
}

impl Carries {
    pub(super) fn add(&mut self, path: TreePath, into: Side) {
        self.all.truncate(self.done);
        self.all.push(Carry { path, into });
        self.done += 1;
    }

    /// Takes the last one back.
    pub(super) fn undo(&mut self) -> Option<&Carry> {
        self.done = self.done.checked_sub(1)?;
        self.all.get(self.done)
    }

    /// Chooses again what was taken back.
    pub(super) fn redo(&mut self) -> Option<&Carry> {
        let again = self.all.get(self.done)?;
        self.done += 1;
        Some(again)
    }

    pub(super) fn clear(&mut self) {
        *self = Self::default();
    }

    /// Where a path is to go: by the last choice that is about it or about a folder above it.
    pub(super) fn of(&self, path: &TreePath) -> Option<Side> {
        self.all[..self.done].iter().rev().find(|carry| path.is_within(&carry.path)).map(|carry| carry.into)
    }

    pub(super) fn pending(&self) -> usize {
        self.done
    }

    /// What is carried into a side.
    fn plan(&self, into: Side, trees: &Trees, options: &TreeOptions) -> Result<SyncPlan> {
        let (before, after) = trees.both();
        let (target, source): (&dyn Tree, &dyn Tree) = if into.is_after() { (after, before) } else { (before, after) };
        let options = options.clone().moves(false).renames(false).counts(false);
        let mut comparison = tree::compare(target, source, &options, &Progress::default());
        comparison.pairs.retain(|pair| self.of(&pair.path) == Some(into));
        let plan = plan_sync(&comparison, (target, source), &SyncOptions::default().mirror(true));
        if let Some(undecided) = plan.undecided.first() {
            let path = String::from_utf8_lossy(&undecided.path).into_owned();
            bail!("{path} cannot be carried: {}; nothing was written", plain_reason(&undecided.reason));
        }
        Ok(plan)
    }

    /// Carries out what was chosen, the one direction after the other; says what came of it.
    pub(super) fn save(
        &self,
        trees: &Trees,
        roots: (&std::path::Path, &std::path::Path),
        options: &TreeOptions,
    ) -> Result<String> {
        let mut told = Vec::new();
        let (before, after) = (in_full(roots.0)?, in_full(roots.1)?);
        // Both are planned before anything is written.
        let plans = [Side::Before, Side::After].map(|into| (into, self.plan(into, trees, options)));
        for (into, plan) in plans {
            let plan = plan?;
            debug_assert!(plan.steps.iter().all(|step| step.side == PlanSide::Into));
            if plan.steps.is_empty() {
                continue;
            }
            let (target, source, label) = if into.is_after() {
                (&after, &before, &trees.labels.after)
            } else {
                (&before, &after, &trees.labels.before)
            };
            let (tree, on_disk) =
                if into.is_after() { (trees.both().0, trees.on_disk.0) } else { (trees.both().1, trees.on_disk.1) };
            let done = if on_disk {
                carry_out_silently(&plan.steps_below(target, source))?
            } else {
                let ready = unpacked(&plan, tree, target, &Progress::default())?;
                if let Some(left_out) = ready.left_out.first() {
                    bail!("{} {}; nothing was written", left_out.path.display(), left_out.reason);
                }
                carry_out_silently(&ready.plan)?
            };
            let run = done.run.map_or_else(String::new, |run| format!(" {}", run_and_undo(run)));
            told.push(format!("{} in {label}{run}", plural(plan.steps.len(), "step")));
        }
        Ok(if told.is_empty() {
            "there was nothing to carry".to_owned()
        } else {
            format!("saved: {}", told.join(", "))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_choice_about_a_path_or_a_folder_above_it_holds() {
        let mut carries = Carries::default();
        carries.add("stations".into(), Side::After);
        carries.add("stations/mouth.toml".into(), Side::Before);
        assert_eq!(carries.of(&"stations/mouth.toml".into()), Some(Side::Before));
        assert_eq!((carries.of(&"stations/new".into()), carries.of(&"stations-2".into())), (Some(Side::After), None));
        carries.undo();
        assert_eq!(carries.of(&"stations/mouth.toml".into()), Some(Side::After));
        carries.redo();
        assert_eq!((carries.of(&"stations/mouth.toml".into()), carries.pending()), (Some(Side::Before), 2));
        carries.add("x".into(), Side::After);
        assert!(carries.redo().is_none());
    }
}
