//! The section that a line is in: the function, class, heading or table above it.
//!
//! What opens a section is told by [`LANGUAGES`], a table of patterns by file type; a new type is a new row. In languages that
//! indent, a section holds the lines that are indented deeper than its heading; in the others, all up to the next.

use std::sync::OnceLock;

use regex::bytes::Regex;

use crate::internal::text::bytes::{line_end, line_start};
use crate::internal::text::file_type::FileType;

/// How far above a line its section is looked for, in bytes.
const FARTHEST: usize = 256 * 1024;
/// Letters of a heading that are shown.
const LONGEST: usize = 72;

/// How the sections of one family of files look.
pub struct Language {
    /// The names of the types of its files.
    pub types: &'static [&'static str],
    /// What the heading of a section looks like.
    pattern: &'static str,
    /// Whether a section holds only what is indented deeper than its heading.
    nested: bool,
    compiled: OnceLock<Regex>,
}

const fn language(types: &'static [&'static str], nested: bool, pattern: &'static str) -> Language {
    Language { types, pattern, nested, compiled: OnceLock::new() }
}

/// The families of files whose sections are known.
pub static LANGUAGES: [Language; 31] = [
    language(
        &["Rust"],
        true,
        r"^\s*(pub(\([^)]*\))?\s+)?(default\s+)?(const\s+)?(async\s+)?(unsafe\s+)?(extern\s+\S+\s+)?(fn|impl|trait|struct|enum|union|mod|macro_rules!)\b",
    ),
    language(&["Python"], true, r"^\s*(async\s+def|def|class)\s"),
    language(&["C"], true, r"^[A-Za-z_][\w\s\*]*\([^;]*$|^(typedef\s+)?(struct|enum|union)\s+\w+"),
    language(
        &["C++"],
        true,
        r"^\s*(template\b.*|(class|struct|enum|union|namespace)\s+\w+[^;]*)$|^[A-Za-z_][\w\s\*&:<>,~]*\([^;]*$",
    ),
    language(
        &["C#"],
        true,
        r"^\s*((public|private|protected|internal|static|sealed|abstract|override|virtual|async|partial)\s+)+[\w<>\[\],\s]+(\(|\{|$)|^\s*(namespace|class|struct|interface|enum|record)\s+\w+",
    ),
    language(
        &["Java"],
        true,
        r"^\s*((public|private|protected|static|final|abstract|synchronized|default)\s+)+[\w<>\[\],\s]+(\(|\{|$)|^\s*(class|interface|enum|record)\s+\w+",
    ),
    language(
        &["Kotlin"],
        true,
        r"^\s*((public|private|protected|internal|open|abstract|override|suspend|inline|data|sealed)\s+)*(fun|class|object|interface)\b",
    ),
    language(
        &["JavaScript"],
        true,
        r"^\s*(export\s+)?(default\s+)?(async\s+)?(function\b|class\s+\w+)|^\s*(export\s+)?(const|let|var)\s+\w+\s*=\s*(async\s*)?(\([^)]*\)|\w+)\s*=>|^\s+(async\s+|static\s+|get\s+|set\s+)*\w+\s*\([^)]*\)\s*\{$",
    ),
    language(
        &["TypeScript"],
        true,
        r"^\s*(export\s+)?(default\s+)?(declare\s+)?(abstract\s+)?(async\s+)?(function\b|class\s+\w+|interface\s+\w+|enum\s+\w+|namespace\s+\w+|type\s+\w+)|^\s*(export\s+)?(const|let|var)\s+\w+.*=>|^\s+(public\s+|private\s+|protected\s+|async\s+|static\s+|readonly\s+)*\w+\s*\([^)]*\)[^;]*\{$",
    ),
    language(&["Go"], true, r"^(func|type)\s"),
    language(
        &["Swift"],
        true,
        r"^\s*((public|private|internal|open|fileprivate|static|final|override|mutating)\s+)*(func|class|struct|enum|protocol|extension|init)\b",
    ),
    language(
        &["Scala"],
        true,
        r"^\s*((private|protected|final|sealed|abstract|implicit|override|case|lazy)\s+)*(def|class|object|trait)\s",
    ),
    language(&["Ruby"], true, r"^\s*(def|class|module)\s"),
    language(
        &["PHP"],
        true,
        r"^\s*((public|private|protected|static|final|abstract)\s+)*(function|class|interface|trait)\s",
    ),
    language(&["Perl"], true, r"^\s*(sub|package)\s"),
    language(&["Lua"], true, r"^\s*(local\s+)?function\b|^\s*[\w.]+\s*=\s*function\b"),
    language(&["Shell"], true, r"^\s*(function\s+[\w:-]+|[\w:-]+\s*\(\s*\))"),
    language(&["Haskell"], true, r"^(data|newtype|class|instance|type|module)\s|^[a-z]\w*(\s+[^\s=|:]+)*\s+(::|=|\|)"),
    language(&["Elixir"], true, r"^\s*(defmodule|defp?|defmacro|defimpl)\s"),
    language(&["R"], true, r"^\s*[\w.]+\s*(<-|=)\s*function\b"),
    language(&["Julia"], true, r"^\s*(function|macro|module|(mutable\s+)?struct)\s"),
    language(
        &["SQL"],
        false,
        r"(?i)^\s*(create|alter|drop)\s+(or\s+replace\s+)?(table|view|index|function|procedure|trigger|schema|type|materialized)\b",
    ),
    language(&["CSS", "SCSS"], true, r"^\s*[^\s@/][^{};]*\{\s*$|^\s*@[\w-]+[^;]*\{\s*$"),
    language(&["HTML"], true, r"(?i)^\s*<(h[1-6]|section|article|nav|header|footer|main|form|table|head|body)\b"),
    language(&["XML"], true, r"^\s*<[A-Za-z][^/!?>]*>\s*$"),
    language(&["TOML"], false, r"^\s*\[\[?[^\]]+\]\]?"),
    language(&["INI", "Properties"], false, r"^\s*\[[^\]]+\]"),
    language(&["YAML"], true, r#"^\s*(-\s+)?[\w."'/-]+:\s*([|>][+-]?)?\s*(#.*)?$"#),
    language(&["JSON", "JSON with comments"], true, r#"^\s*"[^"]+"\s*:\s*[\[{]\s*$"#),
    language(&["Markdown"], false, r"^#{1,6}\s+\S"),
    language(&["Makefile"], true, r"^[\w./%$(){}-]+(\s+[\w./%$(){}-]+)*\s*::?([^=]|$)"),
];

impl Language {
    /// The family of a file, by its name.
    pub fn of(name: &str) -> Option<&'static Self> {
        let file_type = FileType::of(name)?;
        LANGUAGES.iter().find(|language| language.types.contains(&file_type.name))
    }

    /// The heading of the section that the line starting at `at` is in, cut to what a heading has room for.
    pub fn section(&self, text: &[u8], at: usize) -> Option<String> {
        let at = at.min(text.len());
        let mut depth = if self.nested { indentation(text, at) } else { usize::MAX };
        let lowest = at.saturating_sub(FARTHEST);
        let mut end = at;
        while end > lowest && depth > 0 {
            let start = line_start(text, end - 1);
            let line = text[start..end].trim_ascii_end();
            end = start;
            let here = leading_space(line);
            if line.is_empty() || here >= depth {
                continue;
            }
            if self.compiled().is_match(line) {
                return Some(shortened(line));
            }
            if self.nested {
                // A line that is less deep encloses this one. At the margin it ends the search, unless it goes on with
                // a heading above it or is a remark.
                match (line.trim_ascii_start().first(), here) {
                    (Some(b'{' | b')'), _) => depth = here + 1,
                    (Some(b'#' | b'/'), 0) => depth = 1,
                    (_, 0) => return None,
                    _ => depth = here,
                }
            }
        }
        None
    }

    fn compiled(&self) -> &Regex {
        self.compiled.get_or_init(|| Regex::new(self.pattern).unwrap_or_else(|_| never()))
    }
}

/// A pattern that matches nothing.
fn never() -> Regex {
    Regex::new(r"[^\s\S]").unwrap_or_else(|error| unreachable!("a fixed pattern: {error}"))
}

/// How deep the line at `at` is indented; a blank one is as deep as the next that is not.
fn indentation(text: &[u8], mut at: usize) -> usize {
    const MOST_BLANK: usize = 20;
    for _ in 0..MOST_BLANK {
        let line = &text[at..line_end(text, at)];
        if !line.trim_ascii().is_empty() || line.is_empty() {
            return leading_space(line);
        }
        at += line.len();
    }
    0
}

fn leading_space(line: &[u8]) -> usize {
    line.iter().take_while(|byte| matches!(byte, b' ' | b'\t')).count()
}

fn shortened(line: &[u8]) -> String {
    let text = String::from_utf8_lossy(line);
    let text = text.trim().trim_end_matches(['{', ':', ' ']).trim_start_matches(['#', ' ']);
    match text.char_indices().nth(LONGEST) {
        Some((end, _)) => format!("{}…", text[..end].trim_end()),
        None => text.to_owned(),
    }
}
