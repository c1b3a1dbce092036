//! The account of what rules put aside, in words.

use std::io::{self, Write};

use tideline_core::rules::{Account, Effect};

use super::heading::grouped;
use super::look::Look;
use super::palette::Ink;
use super::shown::shown_name;

/// Writes a line for what was muted and one for what was ignored, if anything was.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_account(account: &Account, muted_is_hidden: bool, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    for (effect, word) in [(Effect::Mute, "muted"), (Effect::Ignore, "ignored")] {
        let total = account.total(effect);
        if total == 0 {
            continue;
        }
        let part = |(rule, lines): (&str, usize)| format!("{} {}", shown_name(rule, look.plain), grouped(lines));
        let parts: Vec<_> = account.by_rule(effect).into_iter().map(part).collect();
        let lines = if total == 1 { "line" } else { "lines" };
        let hidden = if effect == Effect::Mute && muted_is_hidden { " (not shown)" } else { "" };
        let text = format!("{word} {} {lines}: {}{hidden}", grouped(total), parts.join(", "));
        write!(out, "  ")?;
        look.palette().write(Ink::Faint, &text, out)?;
        writeln!(out)?;
    }
    Ok(())
}
