//! Plans that make one tree like another.

mod kept;
mod lower;
mod planner;
mod reason;
mod side;
mod steps;

pub use planner::plan_sync;
pub use reason::Reason;
pub use side::Side;
pub use steps::{Item, LeftAlone, SyncMode, SyncOptions, SyncPlan, SyncStep, Undecided, Verb};
