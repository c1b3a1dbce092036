//! A path that at least one side changed.

use super::super::three_way::Together;
use super::clash::TreeClash;
use crate::internal::model::Status;
use crate::internal::tree::{EntryMetadata, EntryType, TreePath};

/// A path that at least one side changed, and what comes of it.
#[derive(Clone, Debug)]
pub struct MergedEntry {
    /// Its path in the base; of what is new, where it is.
    pub path: TreePath,
    /// What it is in the base.
    pub base: Option<EntryType>,
    /// What mine did.
    pub mine: SideOfEntry,
    /// What theirs did.
    pub theirs: SideOfEntry,
    /// What both are to each other.
    pub together: Together,
    /// Why it is a conflict; empty where it is none.
    pub clashes: Vec<TreeClash>,
    /// Whether a side that was preferred decided the conflict.
    pub is_decided: bool,
    /// What is done with it.
    pub plan: EntryPlan,
}

/// What one side did to an entry since the base.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SideOfEntry {
    /// What became of it on the way from the base.
    pub status: Status,
    /// Where it is on this side, if it is there.
    pub path: Option<TreePath>,
    /// What it is on this side.
    pub entry_type: Option<EntryType>,
    /// What is known of it.
    pub metadata: Option<EntryMetadata>,
    /// Whether it changed in its permissions alone.
    pub only_mode: bool,
}

/// What is done with an entry.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct EntryPlan {
    /// Where it will be; nothing where it will not.
    pub to: Option<TreePath>,
    /// Whose version it will be.
    pub source: Source,
    /// Its permission bits, where they are not those of its source.
    pub mode: Option<u32>,
    /// Versions that are written beside it, for a person to choose from.
    pub beside: Beside,
}

/// Whose version of an entry is taken.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Source {
    /// That of mine.
    Mine,
    /// That of theirs.
    Theirs,
    /// These bytes, made of both; empty where results are not kept.
    Merged(Vec<u8>),
}

/// Which versions are written beside an entry.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Beside {
    /// None.
    Nothing,
    /// That of theirs.
    Theirs,
    /// Those of both.
    Both,
}

impl MergedEntry {
    /// Whether nothing changed on either side but permissions.
    pub fn is_only_mode(&self) -> bool {
        let is_quiet = |side: &SideOfEntry| side.only_mode || side.status == Status::Same;
        is_quiet(&self.mine) && is_quiet(&self.theirs)
    }

    /// Whether it is a conflict that nothing decided.
    pub fn is_open(&self) -> bool {
        !self.clashes.is_empty() && !self.is_decided
    }

    /// Whether anything is written for it into what is now mine.
    pub fn changes_mine(&self) -> bool {
        let plan = &self.plan;
        plan.to != self.mine.path
            || plan.source != Source::Mine
            || plan.mode.is_some()
            || plan.beside != Beside::Nothing
    }
}
