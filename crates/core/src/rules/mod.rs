//! Rules: named statements of text that does not count.
//!
//! A [`Rule`] says [`What`] text it masks, in which files, and with which [`Effect`]. The rules that hold for one file
//! make [`FileRules`]; under them a text is a [`MaskedText`], with lines of which some text is masked, and lines that are excluded as a whole.
//!
//! **What the alignment does with it.** Lines match when they are equal but for what is masked, so that a muted or
//! ignored difference never breaks an alignment. A line of which only white space is left (because of a rule that is not
//! about white space itself) is excluded. Where only ignored text differs, lines are equal; where muted text
//! differs too, they are muted; where anything else differs, they count, and their muted parts are still told apart.
//!
//! **Which rule.** Text that several rules match belongs to the first that ignores it, else to the first that mutes it. A line
//! that differs is put down to the first of the rules that explain it, so that the account of a comparison adds up.
//!
//! White space, by example (`·` is a blank, and what is masked is white space only):
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
mod file_rules;
mod files;
pub mod languages;
mod mask;
mod masked_text;
mod named;
pub(crate) mod passage;
mod pattern;
mod rename;
mod rule;
mod set;
mod syntax;
mod values;
mod what;

pub use account::{Account, Counted, PutAside};
pub use comments::comments;
pub use file_rules::FileRules;
pub use files::{FilePatternError, FilePatterns, split_patterns};
pub use mask::{LineMask, MaskedSpan, StandsFor};
pub use masked_text::MaskedText;
pub(crate) use masked_text::folded;
pub use named::NamePattern;
pub use pattern::Pattern;
pub(crate) use pattern::never;
pub use rename::Rename;
pub use rule::{Effect, Rule, Verdict};
pub use set::Rules;
pub use values::Value;
pub use what::{What, WhatError, built_in, split_list};
