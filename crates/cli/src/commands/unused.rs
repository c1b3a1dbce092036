//! The note about rules that made no difference.

use crate::commands::tell;
use tideline_core::internal::rules::{Account, Effect, Rules};
use tideline_core::internal::tree::TreeOptions;
use tideline_views::plural;

use crate::settings::ON_THE_COMMAND_LINE;

/// Says on standard error which rules of the command line put nothing aside: perhaps they are misspelt, or too narrow.
pub(super) fn tell_unused(rules: &Rules, account: &Account) {
    let stated = rules.iter().filter(|rule| rule.declared().starts_with(ON_THE_COMMAND_LINE));
    for rule in stated.filter(|rule| !account.names(rule.name())) {
        let option = if rule.effect() == Effect::Ignore { "--ignore" } else { "--mute" };
        let rule_named = format!("note: {option} {}", rule.name());
        tell(&match account.lines_matched(rule.name()) {
            0 => format!("{rule_named} put nothing aside: it matches in no line that differs"),
            1 => format!("{rule_named} put no line aside by itself; it matches in 1 line that differs"),
            lines => {
                format!("{rule_named} put no line aside by itself; it matches in {} that differ", plural(lines, "line"))
            }
        });
    }
}

/// Says on standard error which patterns fitted nothing in two trees.
pub(super) fn tell_unfitted(options: &TreeOptions) {
    let (include, exclude) = options.unfitted_patterns();
    for (option, patterns) in [("--include", include), ("--exclude", exclude)] {
        for pattern in patterns {
            tell(&format!("note: {option} {pattern} fits nothing in either tree"));
        }
    }
}
