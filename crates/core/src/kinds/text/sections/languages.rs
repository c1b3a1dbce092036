//! What opens a section, by type of files: a table. A new type is a new row.

use std::ops::Range;
use std::sync::OnceLock;

use regex::bytes::Regex;

use crate::internal::rules::never;
use crate::internal::text::file_type::FileType;

/// How sections follow from headings.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Shape {
    /// A section holds what is indented deeper than its heading; inside it, blocks such as `if` are told too.
    Code,
    /// A section holds what is indented deeper than its heading.
    Nested,
    /// A section holds all up to the next heading.
    Flat,
    /// A section holds all up to the next heading of its rank or a higher one. A line of one of these characters makes a heading of the
    /// line above it. Such headings rank as their characters come first in the text, but for characters that always rank the same.
    Ranked { underlines: &'static str, known: &'static str },
    /// Nested, and named by all the keys around it.
    Data,
    /// Nested; scripts and style sheets have sections of their own languages.
    Page,
    /// Statements: a section holds all up to its semicolon, or to the next heading where its body has statements of its own.
    Statements,
}

/// How the sections of one family of files look.
pub struct Language {
    /// The names of the types of its files.
    pub types: &'static [&'static str],
    pub(super) shape: Shape,
    /// What the heading of a section looks like. What is named `title` in it, `title2` or `title3`, is what a reader sees of the heading.
    pattern: &'static str,
    compiled: OnceLock<Regex>,
}

const fn language(types: &'static [&'static str], shape: Shape, pattern: &'static str) -> Language {
    Language { types, shape, pattern, compiled: OnceLock::new() }
}

/// The families of files whose sections are known.
pub static LANGUAGES: [Language; 34] = [
    language(
        &["Rust"],
        Shape::Code,
        r"^\s*(pub(\([^)]*\))?\s+)?(default\s+)?(const\s+)?(async\s+)?(unsafe\s+)?(extern\s+\S+\s+)?(fn|impl|trait|struct|enum|union|mod|macro_rules!)\b",
    ),
    language(&["Python"], Shape::Code, r"^\s*(async\s+def|def|class)\s"),
    language(&["C"], Shape::Code, r"^[A-Za-z_][\w\s\*]*\([^;]*$|^(typedef\s+)?(struct|enum|union)\b[^;]*$"),
    language(
        &["C++"],
        Shape::Code,
        r"^\s*(template\b.*|(class|struct|enum|union|namespace)\s+\w+[^;]*)$|^[A-Za-z_][\w\s\*&:<>,~]*\([^;]*$",
    ),
    language(
        &["C#"],
        Shape::Code,
        r"^\s*((public|private|protected|internal|static|sealed|abstract|override|virtual|async|partial)\s+)+[\w<>\[\],\s]+(\(|\{|$)|^\s*(namespace|class|struct|interface|enum|record)\s+\w+",
    ),
    language(
        &["Java"],
        Shape::Code,
        r"^\s*((public|private|protected|static|final|abstract|synchronized|default)\s+)+[\w<>\[\],\s]+(\(|\{|$)|^\s*(class|interface|enum|record)\s+\w+",
    ),
    language(
        &["Kotlin"],
        Shape::Code,
        r"^\s*((public|private|protected|internal|open|abstract|override|suspend|inline|data|sealed)\s+)*(fun|class|object|interface)\b",
    ),
    language(&["Go"], Shape::Code, r"^(func|type)\s"),
    language(
        &["Swift"],
        Shape::Code,
        r"^\s*((public|private|internal|open|fileprivate|static|final|override|mutating)\s+)*(func|class|struct|enum|protocol|extension|init)\b",
    ),
    language(
        &["Scala"],
        Shape::Code,
        r"^\s*((private|protected|final|sealed|abstract|implicit|override|case|lazy)\s+)*(def|class|object|trait)\s",
    ),
    language(&["Ruby"], Shape::Code, r"^\s*(def|class|module)\s"),
    language(
        &["PHP"],
        Shape::Code,
        r"^\s*((public|private|protected|static|final|abstract)\s+)*(function|class|interface|trait)\s",
    ),
    language(&["Perl"], Shape::Code, r"^\s*(sub|package)\s"),
    language(&["Lua"], Shape::Code, r"^\s*(local\s+)?function\b|^\s*[\w.]+\s*=\s*function\b"),
    language(&["Shell"], Shape::Code, r"^\s*(function\s+[\w:-]+|[\w:-]+\s*\(\s*\))"),
    language(
        &["Haskell"],
        Shape::Nested,
        r"^(data|newtype|class|instance|type|module)\s|^[a-z]\w*(\s+[^\s=|:]+)*\s+(::|=|\|)",
    ),
    language(&["Elixir"], Shape::Code, r"^\s*(defmodule|defp?|defmacro|defimpl)\s"),
    language(&["R"], Shape::Code, r"^\s*[\w.]+\s*(<-|=)\s*function\b"),
    language(&["Julia"], Shape::Code, r"^\s*(function|macro|module|(mutable\s+)?struct)\s"),
    language(&["CSS", "SCSS"], Shape::Nested, r"^\s*[^\s@/][^{};]*\{\s*$|^\s*@[\w-]+[^;]*\{\s*$"),
    language(&["XML"], Shape::Nested, r"^\s*<[A-Za-z][^/!?>]*>\s*$"),
    language(&["TOML"], Shape::Flat, r"^\s*\[\[?[^\]]+\]\]?"),
    language(&["INI", "Properties"], Shape::Flat, r"^\s*\[[^\]]+\]"),
    language(&["YAML"], Shape::Data, r#"^\s*(-\s+)?(?P<title>[\w."'/-]+):\s*([|>][+-]?)?\s*(#.*)?$"#),
    language(&["JSON", "JSON with comments"], Shape::Data, r#"^\s*"(?P<title>[^"]+)"\s*:\s*[\[{]\s*$"#),
    language(&["Makefile"], Shape::Nested, r"^[\w./%$(){}-]+(\s+[\w./%$(){}-]+)*\s*::?([^=]|$)"),
    language(
        &["JavaScript"],
        Shape::Code,
        concat!(
            r"^\s*(export\s+)?(default\s+)?(async\s+)?(function\b|class\b)",
            r"|^\s*(export\s+)?((const|let|var)\s+)?(?P<title>[\w$.]+)\s*=\s*(async\s+)?(function\b|\([^)]*\)\s*=>|\w+\s*=>)",
            r#"|^\s*(?P<title2>[\w$]+|"[^"]*"|'[^']*')\s*:\s*(async\s+)?(function\b|\([^)]*\)\s*=>|\w+\s*=>)"#,
            r"|^(export\s+)?((const|let|var)\s+)?(?P<title3>[\w$.]+)\s*=\s*[\[{]$",
            r#"|^\s*(describe|context|suite|it|test|specify)(\.\w+)*\(\s*["'`]"#,
            r"|^\s+((async|static|get|set)\s+|\*\s*)*[\w$#]+\s*\([^;]*\)\s*\{$",
        ),
    ),
    language(
        &["TypeScript"],
        Shape::Code,
        concat!(
            r"^\s*(export\s+)?(default\s+)?(declare\s+)?(abstract\s+)?(async\s+)?(function|class|interface|enum|namespace)\b",
            r"|^\s*(export\s+)?type\s+\w+",
            r"|^\s*(export\s+)?((const|let|var)\s+)?(?P<title>[\w$.]+)(\s*:[^=]+)?\s*=\s*(async\s+)?(<[^>]*>\s*)?(function\b|\([^)]*\)\s*(:\s*[^=]+)?=>|\w+\s*=>)",
            r#"|^\s*(?P<title2>[\w$]+|"[^"]*"|'[^']*')\s*:\s*(async\s+)?(function\b|\([^)]*\)\s*(:\s*[^=]+)?=>|\w+\s*=>)"#,
            r"|^(export\s+)?((const|let|var)\s+)?(?P<title3>[\w$.]+)(\s*:[^=]+)?\s*=\s*[\[{]$",
            r#"|^\s*(describe|context|suite|it|test|specify)(\.\w+)*\(\s*["'`]"#,
            r"|^\s+((public|private|protected|async|static|readonly|override|abstract|get|set)\s+|\*\s*)*[\w$#]+\s*(<[^(]*>)?\s*\([^;]*\)[^;]*\{$",
        ),
    ),
    language(
        &["SQL"],
        Shape::Statements,
        r"(?i)^\s*(create|alter|drop)\s+(or\s+(replace|alter)\s+)?((temp|temporary|unique|global|local|unlogged)\s+)*(table|view|index|function|procedure|trigger|package|schema|type|materialized|sequence|domain|policy|database|role)\b",
    ),
    language(
        &["HTML"],
        Shape::Page,
        concat!(
            r"(?i)^\s*<(h[1-6]|section|article|nav|header|footer|main|form|table|head|body|template|dt)\b",
            r#"|^\s*<[a-z][^>]*\sid=["']"#,
            r"|^\s*\{%-?\s*(?P<title>(block|macro)\s+\w+)",
        ),
    ),
    language(&["Message catalogue"], Shape::Flat, r#"^msgid\s+(?P<title>".*")"#),
    language(&["Markdown"], Shape::Ranked { underlines: "=-", known: "=-" }, r"^#{1,6}\s+\S"),
    language(
        &["reStructuredText"],
        Shape::Ranked { underlines: "=-~^\"'`#*+.:_", known: "" },
        r"^\.\. (_[^:]+:\s*$|[\w:-]+::)",
    ),
    language(
        &["TeX"],
        Shape::Flat,
        r"^\s*\\(part|chapter|(sub){0,2}section|(sub)?paragraph)\*?(\[[^\]]*\])?\{(?P<title>[^}]*)",
    ),
];

impl Language {
    /// The family of a file, by its name.
    pub fn of(name: &str) -> Option<&'static Self> {
        Self::named(FileType::of(name)?.name)
    }

    /// The family of a type of files.
    pub(super) fn named(type_name: &str) -> Option<&'static Self> {
        LANGUAGES.iter().find(|language| language.types.contains(&type_name))
    }

    /// Whether a section holds what is indented deeper than its heading.
    pub(super) fn is_indented(&self) -> bool {
        match self.shape {
            Shape::Code | Shape::Nested | Shape::Data | Shape::Page => true,
            Shape::Flat | Shape::Statements | Shape::Ranked { .. } => false,
        }
    }

    /// What a reader sees of a line that is a heading, as bytes of the line; nothing of one that is not.
    pub(super) fn title(&self, line: &[u8]) -> Option<Range<usize>> {
        let regex = self.compiled.get_or_init(|| Regex::new(self.pattern).unwrap_or_else(|_| never()));
        // Most lines are no headings, which is told faster than where their parts are.
        if !regex.is_match(line) {
            return None;
        }
        let found = regex.captures(line)?;
        let title = ["title", "title2", "title3"].into_iter().find_map(|name| found.name(name));
        Some(title.map_or(0..line.len(), |title| title.range()))
    }
}

/// What the lines begin with that stand above a thing and belong to it: remarks, attributes, decorators.
pub(super) fn marks_above(language: &Language) -> &'static [&'static str] {
    match language.types[0] {
        "Rust" => &["//", "/*", "*", "#["],
        "C" | "C++" | "Go" | "CSS" => &["//", "/*", "*"],
        "C#" | "PHP" => &["//", "/*", "*", "[", "#["],
        "Java" | "Kotlin" | "Swift" | "Scala" | "JavaScript" | "TypeScript" => &["//", "/*", "*", "@"],
        "Python" | "Elixir" => &["#", "@"],
        "Ruby" | "Perl" | "Shell" | "R" | "Julia" | "Message catalogue" => &["#"],
        "Lua" | "SQL" | "Haskell" => &["--"],
        _ => &[],
    }
}

/// What a reader sees of a line that declares something and is no heading: a constant, a type, a function that stands elsewhere.
pub(super) fn declared(line: &[u8], language: &Language) -> Option<Range<usize>> {
    static DECLARATION: OnceLock<Regex> = OnceLock::new();
    const PATTERN: &str = concat!(
        r"^\s*(export\s+)?(default\s+)?(pub(\([^)]*\))?\s+)?(const|let|var|static|type|extern)\s+[\w$]+",
        r"|^(module\.)?exports\.\w+",
        r"|^#\s*define\s+\w+",
        r"|^[A-Za-z_][\w\s\*]*\([^;]*\)[\w\s()]*;",
    );
    if language.shape != Shape::Code {
        return None;
    }
    let found = DECLARATION.get_or_init(|| Regex::new(PATTERN).unwrap_or_else(|_| never())).find(line)?;
    Some(found.range())
}

/// Whether a line of code opens a block that is no function: `if`, `for`, …
pub(super) fn opens_block(line: &[u8]) -> bool {
    const WORDS: [&[u8]; 22] = [
        b"if", b"for", b"while", b"switch", b"try", b"else", b"catch", b"do", b"match", b"loop", b"with", b"elif",
        b"except", b"finally", b"case", b"unless", b"until", b"elsif", b"foreach", b"rescue", b"when", b"begin",
    ];
    let line = line.trim_ascii_start();
    let line = line.strip_prefix(b"}").unwrap_or(line).trim_ascii_start();
    let word = line.iter().take_while(|byte| byte.is_ascii_alphanumeric() || **byte == b'_').count();
    WORDS.contains(&&line[..word]) && line.get(word) != Some(&b'=')
}
