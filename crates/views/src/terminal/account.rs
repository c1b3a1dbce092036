//! The account of what rules masked.

use std::io::{self, Write};

use tideline_core::internal::rules::Account;

use super::look::Look;
use super::palette::TextRole;
use crate::wording::account::account_lines;

/// Writes a line for what was muted and one for what was ignored, if anything was.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_account(account: &Account, muted_is_hidden: bool, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    for line in account_lines(account, muted_is_hidden, look.plain) {
        write!(out, "  ")?;
        look.palette().write(TextRole::Faint, &line, out)?;
        writeln!(out)?;
    }
    Ok(())
}
