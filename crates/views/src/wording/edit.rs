//! Edits that occur more than once.

use tideline_core::internal::kinds::text::CommonEdit;
use tideline_core::internal::rules::Rename;

use super::grouped;
use crate::shown::shown_bytes;

/// The rule that leaves an edit out, if both sides are names by themselves, and not parts of an expression.
pub(crate) fn rule_for(before: &[u8], after: &[u8]) -> Option<String> {
    let is_word =
        |byte: Option<&u8>| byte.is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_' || !byte.is_ascii());
    let is_name = |text: &[u8]| is_word(text.first()) && is_word(text.last());
    Rename::written(before, after).filter(|_| is_name(before) && is_name(after))
}

/// The option that leaves an edit out.
pub(crate) fn option_for(before: &[u8], after: &[u8]) -> Option<String> {
    rule_for(before, after).map(|rule| format!("--ignore '{}'", rule.replace('\'', "'\\''")))
}

/// The edit that most of the lines that differ have in common.
pub(crate) fn common_edit(edit: &CommonEdit, plain: bool) -> String {
    let arrow = if plain { "->" } else { "→" };
    let (before, after) = (shown_bytes(&edit.before, plain), shown_bytes(&edit.after, plain));
    let option = option_for(&edit.before, &edit.after).map(|option| format!("    {option}")).unwrap_or_default();
    let (lines, of) = (grouped(edit.lines), grouped(edit.of));
    format!("the only edit in {lines} of {of} changed lines: {before} {arrow} {after}{option}")
}
