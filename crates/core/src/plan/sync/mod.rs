//! Plans that make one tree like another.

mod lower;
mod planner;
mod steps;

pub use planner::plan_sync;
pub use steps::{Item, LeftAlone, Side, SyncMode, SyncOptions, SyncPlan, SyncStep, Undecided, Verb};
