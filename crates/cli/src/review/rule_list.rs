//! The rules that can be in force: those that are, and what else is built in.

use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::rules::{Effect, Rule, Rules, What, built_in};

/// A rule, and whether it is in force.
#[derive(Clone, Debug)]
pub(super) struct Item {
    pub(super) rule: Rule,
    pub(super) effect: Option<Effect>,
}

/// All rules that can be in force.
#[derive(Clone, Debug)]
pub(super) struct RuleList {
    /// The rules that were asked for.
    first: Rules,
    pub(super) items: Vec<Item>,
}

/// Where a rule was made on the screen.
const MADE_HERE: &str = "made here";

impl RuleList {
    pub(super) fn new(rules: &Rules) -> Self {
        let mut items: Vec<Item> =
            rules.iter().map(|rule| Item { rule: rule.clone(), effect: Some(rule.effect()) }).collect();
        for name in built_in() {
            if items.iter().any(|item| item.rule.name() == name) {
                continue;
            }
            if let Ok(what) = What::parse(name, []) {
                let rule = Rule::new(name, Effect::Mute, vec![(name.to_owned(), what)]).origin("built in");
                items.push(Item { rule, effect: None });
            }
        }
        Self { first: rules.clone(), items }
    }

    /// Options with the rules that are in force.
    pub(super) fn applied(&self, options: &ContentOptions) -> ContentOptions {
        let in_force = self.items.iter().filter_map(|item| Some(item.rule.clone().with_effect(item.effect?)));
        options.clone().rules(self.first.replaced(in_force.collect()))
    }

    /// Puts a rule into force with the next effect: muted, ignored, not at all.
    pub(super) fn turn(&mut self, at: usize) {
        if let Some(item) = self.items.get_mut(at) {
            item.effect = match item.effect {
                None => Some(Effect::Mute),
                Some(Effect::Mute) => Some(Effect::Ignore),
                Some(Effect::Ignore) => None,
            };
        }
    }

    /// Adds a rule that mutes what a pattern matches, in front of all others.
    ///
    /// # Errors
    /// When the pattern cannot be one.
    pub(super) fn add_pattern(&mut self, pattern: &str) -> Result<(), String> {
        let what = What::pattern(pattern).map_err(|error| error.to_string())?;
        let written = format!("/{}/", pattern.replace('/', "\\/"));
        let rule = Rule::new(written.clone(), Effect::Mute, vec![(written, what)]).origin(MADE_HERE);
        self.items.insert(0, Item { rule, effect: Some(Effect::Mute) });
        Ok(())
    }
}

/// A pattern that matches words like these: digits stand for any number.
pub(super) fn pattern_like(words: &[String]) -> String {
    let mut patterns: Vec<String> = Vec::new();
    for word in words {
        let mut pattern = String::new();
        let mut in_number = false;
        for letter in word.trim().chars() {
            if letter.is_ascii_digit() {
                if !in_number {
                    pattern.push_str("\\d+");
                }
            } else {
                pattern.push_str(&regex::escape(&letter.to_string()));
            }
            in_number = letter.is_ascii_digit();
        }
        if !pattern.is_empty() && !patterns.contains(&pattern) {
            patterns.push(pattern);
        }
    }
    patterns.join("|")
}

/// A rule as a configuration has it.
pub(super) fn as_toml(rule: &Rule, effect: Effect, name: &str) -> String {
    let mut lines = vec!["[[rule]]".to_owned(), format!("name   = {}", toml_text(name))];
    if let Some(files) = rule.file_patterns() {
        let files: Vec<String> = files.iter().map(|pattern| toml_text(pattern)).collect();
        lines.push(format!("files  = [{}]", files.join(", ")));
    }
    let parts: Vec<&str> = rule.written().collect();
    match parts.as_slice() {
        [part] if part.starts_with('/') && part.ends_with('/') && part.len() > 1 => {
            lines.push(format!("match  = {}", toml_text(&part[1..part.len() - 1].replace("\\/", "/"))));
        }
        parts => {
            let parts: Vec<String> = parts.iter().map(|part| toml_text(part)).collect();
            lines.push(format!("what   = [{}]", parts.join(", ")));
        }
    }
    lines.push(format!("effect = \"{}\"\n", effect_word(Some(effect))));
    lines.join("\n")
}

/// The word for what a rule does.
pub(super) fn effect_word(effect: Option<Effect>) -> &'static str {
    match effect {
        None => "off",
        Some(Effect::Mute) => "mute",
        Some(Effect::Ignore) => "ignore",
    }
}

/// A string of TOML 1.0: as it stands where it can be.
fn toml_text(text: &str) -> String {
    if !text.contains('\'') && !text.chars().any(char::is_control) {
        return format!("'{text}'");
    }
    let mut quoted = String::from("\"");
    for letter in text.chars() {
        match letter {
            '"' | '\\' => quoted.extend(['\\', letter]),
            letter if letter.is_control() => quoted.push_str(&format!("\\u{:04X}", u32::from(letter))),
            letter => quoted.push(letter),
        }
    }
    quoted + "\""
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_pattern_is_made_of_words_with_any_number_for_digits() {
        let words = |words: &[&str]| words.iter().map(|word| (*word).to_owned()).collect::<Vec<_>>();
        assert_eq!(pattern_like(&words(&["60", "30"])), "\\d+");
        assert_eq!(pattern_like(&words(&["v1.2 (a)", "v3.14 (a)"])), "v\\d+\\.\\d+ \\(a\\)");
        assert_eq!(pattern_like(&words(&["low", "high"])), "low|high");
        assert_eq!(pattern_like(&words(&[" "])), "");
    }

    #[test]
    fn a_rule_is_written_as_it_is_read() {
        let what = What::pattern("it's \\d+/s").unwrap();
        let rule = Rule::new("x", Effect::Mute, vec![("/it's \\d+\\/s/".to_owned(), what)]);
        assert_eq!(
            as_toml(&rule, Effect::Ignore, "rate"),
            "[[rule]]\nname   = 'rate'\nmatch  = \"it's \\\\d+/s\"\neffect = \"ignore\"\n"
        );
        let built = Rule::new("case", Effect::Mute, vec![("case".to_owned(), What::parse("case", []).unwrap())]);
        assert!(as_toml(&built, Effect::Mute, "letters").contains("what   = ['case']\neffect = \"mute\""));
    }
}
