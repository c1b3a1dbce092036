//! The note about rules that made no difference.

use crate::commands::tell;
use tideline_core::internal::rules::{Account, Effect, Rules};

use crate::settings::ON_THE_COMMAND_LINE;

/// Says on standard error which rules of the command line put nothing aside: perhaps they are misspelt.
pub(super) fn tell_unused(rules: &Rules, account: &Account) {
    let stated = rules.iter().filter(|rule| rule.declared().starts_with(ON_THE_COMMAND_LINE));
    for rule in stated.filter(|rule| !account.names(rule.name())) {
        let option = if rule.effect() == Effect::Ignore { "--ignore" } else { "--mute" };
        tell(&format!("note: {option} {} put nothing aside", rule.name()));
    }
}
