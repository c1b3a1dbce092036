//! Text of files in Markdown, in which nothing becomes markup.

use std::io::{self, Write};

use crate::shown::shown_name;
use crate::wording::grouped;

/// Lines shown of a change; of a longer one, the rest is only counted.
const MOST_LINES: usize = 80;

/// A code span that holds any text.
pub(super) fn code(text: &str) -> String {
    let text = shown_name(text, false);
    let fence = "`".repeat(longest_run(&text) + 1);
    let pad = if text.starts_with('`') || text.ends_with('`') || text.trim().is_empty() { " " } else { "" };
    format!("{fence}{pad}{text}{pad}{fence}")
}

/// Text in which nothing is markup.
pub(super) fn escaped(text: &str) -> String {
    let text = shown_name(text, false);
    let mut escaped = String::with_capacity(text.len());
    let mut letters = text.chars().peekable();
    let mut in_word = false;
    while let Some(letter) = letters.next() {
        let next_in_word = letters.peek().is_some_and(|next| next.is_alphanumeric());
        // Inside a word an underscore is a letter.
        if "\\`*[]<~&".contains(letter) || letter == '_' && !(in_word && next_in_word) {
            escaped.push('\\');
        }
        in_word = letter.is_alphanumeric();
        escaped.push(letter);
    }
    escaped
}

/// Text of one cell of a table, which a bar would end even in a code span.
pub(super) fn in_table(cell: &str) -> String {
    cell.replace('|', "\\|")
}

/// The longest run of backticks.
pub(super) fn longest_run(text: &str) -> usize {
    text.split(|letter| letter != '`').map(str::len).max().unwrap_or(0)
}

/// Writes what was drawn of a change as a block of code, at most so many lines of it.
pub(super) fn write_block(drawn: &[u8], out: &mut dyn Write) -> io::Result<()> {
    let drawn = String::from_utf8_lossy(drawn);
    let lines: Vec<&str> = drawn.lines().skip_while(|line| line.is_empty()).collect();
    let shown = &lines[..lines.len().min(MOST_LINES)];
    let fence = "`".repeat(longest_run(&drawn).max(2) + 1);
    writeln!(out, "\n{fence}text\n{}\n{fence}", shown.join("\n"))?;
    if shown.len() < lines.len() {
        let left = lines.len() - shown.len();
        let lines = if left == 1 { "line" } else { "lines" };
        writeln!(out, "\n*… {} more {lines} of this change left out*", grouped(left))?;
    }
    Ok(())
}

/// Says how many changes are left out, if any are.
pub(super) fn write_cut(cut: usize, out: &mut dyn Write) -> io::Result<()> {
    if cut > 0 {
        let changes = if cut == 1 { "change is" } else { "changes are" };
        writeln!(out, "\n*{} more {changes} left out (--each-limit)*", grouped(cut))?;
    }
    Ok(())
}
