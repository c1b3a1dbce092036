//! The line that says that another kind would show less.

use std::io::{self, Write};

use tideline_core::internal::kinds::KindHint;
use tideline_core::internal::model::Kind;

use super::super::look::Look;
use super::super::palette::TextRole;
use crate::wording::plural;

/// Says that another kind would show much less.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_kind_hint(hint: KindHint, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let unit = if hint.kind == Kind::Table { "row" } else { "value" };
    let counted = match hint.counted {
        0 => format!("no {unit} differs"),
        1 => format!("1 {unit} differs"),
        many => format!("{} differ", plural(many, unit)),
    };
    let name = hint.kind.name();
    let lines = plural(hint.lines, "line");
    write!(out, "\n  ")?;
    look.palette().write(
        TextRole::Faint,
        &format!("compared as {name}, {counted} instead of {lines}: --kind {name}"),
        out,
    )?;
    writeln!(out)
}
