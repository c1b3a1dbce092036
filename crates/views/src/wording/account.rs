//! The account of what rules masked, in words.

use tideline_core::internal::rules::{Account, Effect};

use super::grouped;
use crate::shown::shown_name;

/// A line for what was muted and one for what was ignored, if anything was.
pub(crate) fn account_lines(account: &Account, muted_is_hidden: bool, plain: bool) -> Vec<String> {
    let effects = [(Effect::Mute, "muted"), (Effect::Ignore, "ignored")];
    let line = |(effect, word): (Effect, &str)| {
        let total = account.total(effect);
        let part = |(rule, lines): (&str, usize)| format!("{} {}", shown_name(rule, plain), grouped(lines));
        let parts: Vec<_> = account.by_rule(effect).into_iter().map(part).collect();
        let unit = account.counted().name();
        let units = if total == 1 { unit.to_owned() } else { format!("{unit}s") };
        let hidden = if effect == Effect::Mute && muted_is_hidden { " (not shown)" } else { "" };
        (total > 0).then(|| format!("{word} {} {units}: {}{hidden}", grouped(total), parts.join(", ")))
    };
    effects.into_iter().filter_map(line).collect()
}
