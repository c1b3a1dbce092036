//! Rules: named statements of text that does not count.
//!
//! A [`Rule`] says [`What`] text it puts aside, in which files, and with which [`Effect`]. The rules that hold for one file
//! make a [`Lens`]; a text [`Seen`] through it has lines of which some text is put aside, and lines that are gone as a whole.
//!
//! **What the alignment does with it.** Lines match when they are equal but for what is put aside, so that a muted or
//! ignored difference never breaks an alignment. A line of which only white space is left (because of a rule that is not
//! about white space itself) is as if it were not there. Where only ignored text differs, lines are equal; where muted text
//! differs too, they are muted; where anything else differs, they count, and their muted parts are still told apart.
//!
//! **Which rule.** Text that several rules match belongs to the first that ignores it, else to the first that mutes it. A line
//! that differs is put down to the first of the rules that explain it, so that the account of a comparison adds up.
//!
//! White space, by example (`·` is a blank, and what is put aside is white space only):
//!
//! | rule | equal | different |
//! |---|---|---|
//! | `leading-space` | `··a` and `a` | `a·` and `a`; `a·b` and `ab` |
//! | `trailing-space` | `a·` and `a` | `·a` and `a`; `a··b` and `a·b` |
//! | `edge-space` | `·a·` and `a` | `a··b` and `a·b` |
//! | `space-amount` | `a··b` and `a·b`; `··a` and `·a` | `a·b` and `ab`; `·a` and `a` |
//! | `space` | `a·b` and `ab`; `·a` and `a` | `ab` and `a` |
//! | `blank-lines` | `a`, ``, `b` and `a`, `b` | `a·` and `a` |
//! | `line-ends` | `a` CR LF and `a` LF | `a·` and `a` |
//! | `final-newline` | `a` LF and `a` at the end of a file | `a`, `` and `a` |
//!
//! A blank line stays a line under all of these but `blank-lines`.

mod account;
mod comments;
mod files;
pub mod languages;
mod lens;
mod seen;
mod values;
mod what;

use std::sync::Arc;

use serde::{Deserialize, Serialize};

pub use account::{Account, PutAside};
pub use comments::comments;
pub use files::{FilePatternError, FilePatterns};
pub use lens::Lens;
pub(crate) use seen::folded;
pub use seen::{Aside, Reading, Seen};
pub use values::Value;
pub use what::{What, WhatError, built_in, split_list};

/// What becomes of text that a rule matches.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Effect {
    /// As if it were not there.
    Ignore,
    /// Shown faintly and counted apart.
    Mute,
}

/// Whether a difference counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Standing {
    /// It does.
    Counted,
    /// Only muted text differs.
    Muted,
    /// Only ignored text differs.
    Ignored,
}

/// A named statement of text that does not count. Unchanging once built.
#[derive(Clone, Debug)]
pub struct Rule {
    name: String,
    effect: Effect,
    what: Vec<(String, What)>,
    files: Option<FilePatterns>,
    origin: String,
}

impl Rule {
    /// A rule for all files. Each part of what it puts aside comes with the way it was written.
    pub fn new(name: impl Into<String>, effect: Effect, what: Vec<(String, What)>) -> Self {
        Self { name: name.into(), effect, what, files: None, origin: String::new() }
    }

    /// The rule holds for some files only.
    pub fn files(mut self, files: Option<FilePatterns>) -> Self {
        self.files = files;
        self
    }

    /// Where the rule was declared.
    pub fn origin(mut self, origin: impl Into<String>) -> Self {
        self.origin = origin.into();
        self
    }

    /// The same rule with another effect.
    pub fn with_effect(mut self, effect: Effect) -> Self {
        self.effect = effect;
        self
    }

    /// Its name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What becomes of the text it matches.
    pub fn effect(&self) -> Effect {
        self.effect
    }

    /// Where it was declared.
    pub fn declared(&self) -> &str {
        &self.origin
    }

    /// What it puts aside, as it was written.
    pub fn written(&self) -> impl Iterator<Item = &str> {
        self.what.iter().map(|(written, _)| written.as_str())
    }

    /// The files it holds for; all, when it names none.
    pub fn file_patterns(&self) -> Option<&[String]> {
        self.files.as_ref().map(FilePatterns::patterns)
    }

    /// Whether it holds for a file.
    pub fn holds_for(&self, path: &[u8]) -> bool {
        self.files.as_ref().is_none_or(|files| files.fit(path))
    }

    pub(super) fn parts(&self) -> impl Iterator<Item = &What> {
        self.what.iter().map(|(_, what)| what)
    }
}

/// All rules of a comparison.
#[derive(Clone, Debug, Default)]
pub struct Rules {
    rules: Vec<Arc<Rule>>,
    /// Files for which only some of the rules hold that were declared for files in general.
    choices: Vec<(FilePatterns, Vec<String>)>,
}

impl Rules {
    /// Rules in the order in which they were declared.
    pub fn new(rules: Vec<Rule>) -> Self {
        Self { rules: rules.into_iter().map(Arc::new).collect(), choices: Vec::new() }
    }

    /// For files that fit, of the rules named in `among` only those named in `chosen` hold.
    pub fn choose(mut self, files: FilePatterns, among: &[String], chosen: &[String]) -> Self {
        let out = among.iter().filter(|name| !chosen.contains(name)).cloned().collect();
        self.choices.push((files, out));
        self
    }

    /// Whether there is no rule.
    pub fn is_empty(&self) -> bool {
        self.rules.is_empty()
    }

    /// The rules in order.
    pub fn iter(&self) -> impl Iterator<Item = &Rule> {
        self.rules.iter().map(Arc::as_ref)
    }

    /// The rules that hold for a file, ready to be looked through.
    pub fn lens(&self, path: &[u8]) -> Lens {
        if self.rules.is_empty() {
            return Lens::default();
        }
        let left_out = |rule: &Rule| {
            let choice = self.choices.iter().find(|(files, _)| files.fit(path));
            choice.is_some_and(|(_, out)| out.iter().any(|name| name == rule.name()))
        };
        let holding = self.rules.iter().filter(|rule| rule.holds_for(path) && !left_out(rule));
        Lens::new(holding.cloned().collect(), &String::from_utf8_lossy(path))
    }
}
