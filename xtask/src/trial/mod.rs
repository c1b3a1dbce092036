//! `cargo xtask trial`: long trials that the test suite runs only a sample of.

mod kills;
mod merging;
mod reading;

use std::path::Path;
use std::process::Command;

use anyhow::{Result, ensure};

use crate::root;

/// A trial.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub(crate) enum Trial {
    /// Random plans while other programs act, in memory: nothing is ever lost
    Journal,
    /// Patches onto files that were altered: never in a wrong place, never twice, never called in when they are not
    Apply,
    /// Every writing command killed at every call that changes files, then undone, finished, or both (needs strace)
    Kills,
    /// Random triples against every merge that two shortest scripts allow; with --pairs, real ones: folders with `base`, `mine`, `theirs`
    Merge,
    /// How well the changes of twelve packages read, measured in two versions of each (run it with --release)
    Reading,
}

/// Runs a trial, of about so many calls, or on these pairs of trees.
pub(crate) fn run(trial: Trial, calls: usize, pairs: Option<&Path>) -> Result<()> {
    match trial {
        Trial::Journal => journal(calls),
        Trial::Apply => apply(calls / 10),
        Trial::Kills => kills::run(),
        Trial::Merge => merging::run(calls, pairs),
        Trial::Reading => reading::run(pairs),
    }
}

/// Calls that one case of the law takes, on the average.
const CALLS_A_CASE: usize = 150;

fn apply(cases: usize) -> Result<()> {
    let tested = Command::new(env!("CARGO"))
        .args(["test", "--release", "--package", "tideline-core", "--test", "core", "--", "--nocapture", "altered"])
        .env("TIDELINE_TRIAL_CASES", cases.to_string())
        .current_dir(root())
        .status()?;
    ensure!(tested.success(), "a hunk went wrong; the case is written above");
    Ok(())
}

fn journal(calls: usize) -> Result<()> {
    let cases = (calls / CALLS_A_CASE).max(1).to_string();
    let tested = Command::new(env!("CARGO"))
        .args(["test", "--release", "--package", "tideline-journal", "--test", "journal", "--", "--nocapture", "law"])
        .env("TIDELINE_TRIAL_CASES", cases)
        .current_dir(root())
        .status()?;
    ensure!(tested.success(), "the law was broken; the case is written above");
    Ok(())
}
