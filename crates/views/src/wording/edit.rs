//! Edits that occur more than once.

use tideline_core::internal::kinds::text::CommonEdit;
use tideline_core::internal::rules::Rename;

use super::grouped;
use crate::marks::Marks;
use crate::shown::shown_bytes;

/// The rule that leaves an edit out, if both sides are names by themselves, and not parts of an expression.
pub(crate) fn rule_for(before: &[u8], after: &[u8]) -> Option<String> {
    Rename::written(before, after).filter(|_| Rename::is_name(before) && Rename::is_name(after))
}

/// The option that leaves an edit out.
pub(crate) fn option_for(before: &[u8], after: &[u8]) -> Option<String> {
    rule_for(before, after).map(|rule| format!("--ignore '{}'", rule.replace('\'', "'\\''")))
}

/// The edit that most of the lines that differ have in common.
pub(crate) fn common_edit(edit: &CommonEdit, plain: bool) -> String {
    let arrow = Marks::of(plain).becomes;
    let (before, after) = (shown_bytes(&edit.before, plain), shown_bytes(&edit.after, plain));
    let option = option_for(&edit.before, &edit.after).map(|option| format!("    {option}")).unwrap_or_default();
    let (lines, of) = (grouped(edit.lines), grouped(edit.of));
    format!("the only edit in {lines} of {of} changed lines: {before} {arrow} {after}{option}")
}
