//! All rules of a comparison, and those of them that hold for one file.

use std::sync::Arc;

use super::{FilePatterns, FileRules, Rule};

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

    /// Other rules, of which some are chosen for the same files.
    pub fn replaced(&self, rules: Vec<Rule>) -> Self {
        Self { rules: rules.into_iter().map(Arc::new).collect(), choices: self.choices.clone() }
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
    pub fn file_rules(&self, path: &[u8]) -> Arc<FileRules> {
        self.file_rules_of_both(path, path).1
    }

    /// The rules that hold for two files: those that hold for either. Each is read by its own name.
    pub fn file_rules_of_both(&self, before: &[u8], after: &[u8]) -> (Arc<FileRules>, Arc<FileRules>) {
        if self.rules.is_empty() {
            return (Arc::default(), Arc::default());
        }
        let left_out = |rule: &Rule, path: &[u8]| {
            let choice = self.choices.iter().find(|(files, _)| files.fit(path));
            choice.is_some_and(|(_, out)| out.iter().any(|name| name == rule.name()))
        };
        let holds = |rule: &Rule, path: &[u8]| rule.holds_for(path) && !left_out(rule, path);
        let holding = self.rules.iter().filter(|rule| holds(rule, before) || before != after && holds(rule, after));
        let holding: Vec<Arc<Rule>> = holding.cloned().collect();
        let of = |path: &[u8]| FileRules::new(holding.clone(), &String::from_utf8_lossy(path));
        if FileRules::reads_alike(before, after) {
            let both = Arc::new(of(after));
            return (Arc::clone(&both), both);
        }
        (Arc::new(of(before).beside_another_language()), Arc::new(of(after).beside_another_language()))
    }
}
