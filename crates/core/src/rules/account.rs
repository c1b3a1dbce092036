//! The account of what rules masked.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::Effect;

/// What one rule masked.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct PutAside {
    /// The rule.
    pub rule: String,
    /// What became of it.
    pub effect: Effect,
    /// Lines that differ and would count without the rule; two that belong together are one.
    pub lines: usize,
}

/// What an account counts.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Counted {
    /// Lines of text.
    #[default]
    Lines,
    /// Rows of tables.
    Rows,
    /// Values of documents.
    Values,
    /// Pixels of images.
    Pixels,
    /// Several of these, or what has no unit.
    Places,
}

impl Counted {
    /// What one is called.
    pub fn name(self) -> &'static str {
        match self {
            Self::Lines => "line",
            Self::Rows => "row",
            Self::Values => "value",
            Self::Pixels => "pixel",
            Self::Places => "place",
        }
    }
}

/// How many lines that differ were masked, and by which rules. Each is put down to one rule, so that the parts add up.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Account {
    lines: BTreeMap<(Effect, String), usize>,
    /// Of rules that no line of a file was put down to, the lines that differ in which they match.
    matched: BTreeMap<String, usize>,
    counted: Counted,
}

impl Account {
    /// An account of nothing.
    pub const NONE: Self = Self { lines: BTreeMap::new(), matched: BTreeMap::new(), counted: Counted::Lines };

    /// An account of something else than lines.
    pub fn counting(counted: Counted) -> Self {
        Self { counted, ..Self::default() }
    }

    /// What it counts.
    pub fn counted(&self) -> Counted {
        self.counted
    }

    /// Adds lines that a rule masked.
    pub fn put(&mut self, rule: &str, effect: Effect, lines: usize) {
        if lines > 0 {
            *self.lines.entry((effect, rule.to_owned())).or_default() += lines;
        }
    }

    /// Adds lines that differ in which a rule matches, though none of them was put down to it.
    pub fn matched(&mut self, rule: &str, lines: usize) {
        if lines > 0 {
            *self.matched.entry(rule.to_owned()).or_default() += lines;
        }
    }

    /// In how many lines that differ a rule matches, if no line was put down to it.
    pub fn lines_matched(&self, rule: &str) -> usize {
        if self.names(rule) { 0 } else { self.matched.get(rule).copied().unwrap_or(0) }
    }

    /// Adds another account.
    pub fn add(&mut self, other: &Self) {
        if self.is_empty() && self.matched.is_empty() {
            self.counted = other.counted;
        } else if self.counted != other.counted && !other.is_empty() {
            self.counted = Counted::Places;
        }
        for (rule, lines) in &other.matched {
            self.matched(rule, *lines);
        }
        for ((effect, rule), lines) in &other.lines {
            self.put(rule, *effect, *lines);
        }
    }

    /// Whether nothing was masked.
    pub fn is_empty(&self) -> bool {
        self.lines.is_empty()
    }

    /// The lines that were masked with an effect.
    pub fn total(&self, effect: Effect) -> usize {
        self.of(effect).map(|(_, lines)| lines).sum()
    }

    /// The lines that each rule of an effect excluded, most first.
    pub fn by_rule(&self, effect: Effect) -> Vec<(&str, usize)> {
        let mut parts: Vec<_> = self.of(effect).collect();
        parts.sort_by_key(|(_, lines)| std::cmp::Reverse(*lines));
        parts
    }

    /// Every part of it.
    pub fn parts(&self) -> Vec<PutAside> {
        let part = |((effect, rule), lines): (&(Effect, String), &usize)| PutAside {
            rule: rule.clone(),
            effect: *effect,
            lines: *lines,
        };
        self.lines.iter().map(part).collect()
    }

    /// Whether a rule masked anything.
    pub fn names(&self, rule: &str) -> bool {
        self.lines.keys().any(|(_, name)| name == rule)
    }

    fn of(&self, effect: Effect) -> impl Iterator<Item = (&str, usize)> {
        self.lines
            .iter()
            .filter(move |((found, _), _)| *found == effect)
            .map(|((_, rule), lines)| (rule.as_str(), *lines))
    }
}
