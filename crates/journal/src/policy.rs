//! How a plan is carried out: when it stops, what becomes of steps that fail, and what came of it.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use tideline_core::internal::tree::Progress as Watched;

use crate::error::{LeftOut, Note};

/// A wish to stop, from a signal or another thread. The first ends a run and puts everything back; a second ends that too.
#[derive(Clone, Debug, Default)]
pub struct Stop(Arc<AtomicUsize>);

impl Stop {
    /// Asks to stop.
    pub fn ask(&self) {
        self.0.fetch_add(1, Ordering::SeqCst);
    }

    /// How often that was asked.
    pub fn count(&self) -> usize {
        self.0.load(Ordering::SeqCst)
    }
}

/// What is done when a step is not as it was planned, or fails.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Policy {
    /// Nothing is done at all.
    AllOrNothing,
    /// That step is left out, and the rest is done.
    WhatCanBe,
}

/// How a plan is carried out.
#[derive(Clone, Copy, Debug)]
pub struct Request<'r> {
    /// What was typed, for the record.
    pub command: &'r str,
    /// What is done when a step fails.
    pub policy: Policy,
    /// Told of what is done.
    pub watched: &'r Watched,
}

/// What came of a plan.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Outcome {
    /// The number of the run, if there was anything to do.
    pub run: Option<u64>,
    /// What was left out.
    pub left_out: Vec<LeftOut>,
    /// What the person should know of what was done.
    pub notes: Vec<Note>,
}
