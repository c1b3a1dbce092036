//! How comments and quoted text look, by language: a table. A new language is a new row.

use crate::internal::text::file_type::FileType;

/// Where a mark must stand to be one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum MarkPosition {
    /// Anywhere.
    Anywhere,
    /// At the start of a line, blanks aside.
    LineStart,
    /// At the very first column of a line.
    FirstColumn,
    /// At the start of a line, after white space, or after one of `;&|([{,:=`.
    Apart,
    /// Not as part of a longer operator.
    NoOperator,
}

/// A comment that ends with its line.
#[derive(Clone, Copy, Debug)]
pub(super) struct Line {
    pub(super) mark: &'static str,
    pub(super) stands: MarkPosition,
}

/// A comment between two marks.
#[derive(Clone, Copy, Debug)]
pub(super) struct Block {
    pub(super) open: &'static str,
    pub(super) close: &'static str,
    pub(super) nested: bool,
    pub(super) stands: MarkPosition,
}

/// Text between quotes, in which nothing is a comment.
#[derive(Clone, Copy, Debug)]
pub(super) struct Quote {
    pub(super) open: &'static str,
    pub(super) close: &'static str,
    /// Whether a backslash takes its meaning from the next character.
    pub(super) escapes: bool,
    /// How far it may reach.
    pub(super) holds: QuoteExtent,
    pub(super) stands: MarkPosition,
}

/// How far quoted text may reach.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum QuoteExtent {
    /// One character; without its end right behind it, a quote is no quote.
    OneCharacter,
    /// What is left of the line; without its end there, a quote is no quote.
    OneLine,
    /// Any number of lines.
    Lines,
}

/// What a language does beyond comments and quotes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum LanguageFeature {
    /// A backslash outside quotes takes its meaning from the next character.
    Escapes,
    /// A line comment that ends with a backslash goes on in the next line.
    Continues,
    /// `r"…"`, `r#"…"#` hold anything.
    HashedQuotes,
    /// `R"name(…)name"` holds anything.
    NamedQuotes,
    /// `[[…]]`, `[=[…]=]` hold anything, and behind a line-comment mark they are a comment.
    LongBrackets,
    /// `/…/` where a value may stand is a regular expression.
    Patterns,
    /// `<<WORD` begins text that goes on to a line with that word.
    HereDocuments,
    /// `|` or `>` at the end of a line begins text that is indented deeper.
    BlockScalars,
    /// Quotes count inside tags only; scripts and style sheets have their own comments.
    Tags,
    /// Code stands between `<?` and `?>`, in a page.
    Islands,
}

/// The comments and quotes of one language.
#[derive(Debug)]
pub struct Syntax {
    /// What the type of its files is called in [`FILE_TYPES`](crate::internal::text::file_type::FILE_TYPES).
    pub name: &'static str,
    pub(super) line: &'static [Line],
    pub(super) block: &'static [Block],
    pub(super) quotes: &'static [Quote],
    pub(super) habits: &'static [LanguageFeature],
}

impl Syntax {
    /// The syntax of a file, by its name.
    pub fn of(name: &str) -> Option<&'static Self> {
        let file_type = FileType::of(name)?;
        SYNTAXES.iter().find(|syntax| syntax.name == file_type.name)
    }

    pub(super) fn has(&self, habit: LanguageFeature) -> bool {
        self.habits.contains(&habit)
    }
}

const fn line(mark: &'static str) -> Line {
    Line { mark, stands: MarkPosition::Anywhere }
}

const fn apart(mark: &'static str) -> Line {
    Line { mark, stands: MarkPosition::Apart }
}

const fn at_start(mark: &'static str) -> Line {
    Line { mark, stands: MarkPosition::LineStart }
}

const fn block(open: &'static str, close: &'static str) -> Block {
    Block { open, close, nested: false, stands: MarkPosition::Anywhere }
}

const fn nested(open: &'static str, close: &'static str) -> Block {
    Block { open, close, nested: true, stands: MarkPosition::Anywhere }
}

const fn first_column(open: &'static str, close: &'static str) -> Block {
    Block { open, close, nested: false, stands: MarkPosition::FirstColumn }
}

const fn quote(open: &'static str, close: &'static str, escapes: bool, holds: QuoteExtent) -> Quote {
    Quote { open, close, escapes, holds, stands: MarkPosition::Anywhere }
}

const DOUBLE: Quote = quote("\"", "\"", true, QuoteExtent::OneLine);
const SINGLE: Quote = quote("'", "'", true, QuoteExtent::OneLine);
const DOUBLE_LINES: Quote = quote("\"", "\"", true, QuoteExtent::Lines);
const SINGLE_LINES: Quote = quote("'", "'", true, QuoteExtent::Lines);
const DOUBLE_BARE: Quote = quote("\"", "\"", false, QuoteExtent::Lines);
const SINGLE_BARE: Quote = quote("'", "'", false, QuoteExtent::Lines);
const CHARACTER: Quote = quote("'", "'", true, QuoteExtent::OneCharacter);
const TRIPLE_DOUBLE: Quote = quote("\"\"\"", "\"\"\"", true, QuoteExtent::Lines);
const TRIPLE_SINGLE: Quote = quote("'''", "'''", true, QuoteExtent::Lines);
const BACKTICK: Quote = quote("`", "`", true, QuoteExtent::Lines);
const SLASHES: &[Line] = &[line("//")];
const HASH: &[Line] = &[line("#")];
const STARS: &[Block] = &[block("/*", "*/")];
const NESTED_STARS: &[Block] = &[nested("/*", "*/")];

const fn syntax(
    name: &'static str,
    line: &'static [Line],
    block: &'static [Block],
    quotes: &'static [Quote],
    habits: &'static [LanguageFeature],
) -> Syntax {
    Syntax { name, line, block, quotes, habits }
}

/// The script inside a page.
pub(super) static SCRIPT: Syntax =
    syntax("script", SLASHES, STARS, &[DOUBLE, SINGLE, BACKTICK], &[LanguageFeature::Patterns]);
/// The style sheet inside a page.
pub(super) static STYLE: Syntax = syntax("style sheet", &[], STARS, &[DOUBLE, SINGLE], &[]);

/// The languages whose comments are known.
pub static SYNTAXES: [Syntax; 46] = [
    syntax("C", SLASHES, STARS, &[DOUBLE, SINGLE], &[LanguageFeature::Continues]),
    syntax(
        "C++",
        SLASHES,
        STARS,
        &[DOUBLE, CHARACTER, SINGLE],
        &[LanguageFeature::Continues, LanguageFeature::NamedQuotes],
    ),
    syntax("C#", SLASHES, STARS, &[TRIPLE_DOUBLE, quote("@\"", "\"", false, QuoteExtent::Lines), DOUBLE, SINGLE], &[]),
    syntax("Java", SLASHES, STARS, &[TRIPLE_DOUBLE, DOUBLE, SINGLE], &[]),
    syntax("Kotlin", SLASHES, NESTED_STARS, &[TRIPLE_DOUBLE, DOUBLE, SINGLE], &[]),
    syntax("Scala", SLASHES, NESTED_STARS, &[TRIPLE_DOUBLE, DOUBLE, CHARACTER], &[]),
    syntax("Swift", SLASHES, NESTED_STARS, &[TRIPLE_DOUBLE, DOUBLE], &[]),
    syntax("Dart", SLASHES, NESTED_STARS, &[TRIPLE_DOUBLE, TRIPLE_SINGLE, DOUBLE, SINGLE], &[]),
    syntax("Groovy", SLASHES, STARS, &[TRIPLE_DOUBLE, TRIPLE_SINGLE, DOUBLE, SINGLE], &[]),
    syntax("JavaScript", SLASHES, STARS, &[DOUBLE, SINGLE, BACKTICK], &[LanguageFeature::Patterns]),
    syntax("TypeScript", SLASHES, STARS, &[DOUBLE, SINGLE, BACKTICK], &[LanguageFeature::Patterns]),
    syntax("JSON with comments", SLASHES, STARS, &[DOUBLE, SINGLE], &[]),
    syntax("Rust", SLASHES, NESTED_STARS, &[DOUBLE_LINES, CHARACTER], &[LanguageFeature::HashedQuotes]),
    syntax("Go", SLASHES, STARS, &[DOUBLE, SINGLE, quote("`", "`", false, QuoteExtent::Lines)], &[]),
    syntax("Zig", SLASHES, &[], &[DOUBLE, CHARACTER, quote("\\\\", "\n", false, QuoteExtent::Lines)], &[]),
    syntax("Protocol buffers", SLASHES, STARS, &[DOUBLE, SINGLE], &[]),
    syntax("Python", HASH, &[], &[TRIPLE_DOUBLE, TRIPLE_SINGLE, DOUBLE, SINGLE], &[]),
    syntax(
        "Shell",
        &[apart("#")],
        &[],
        &[DOUBLE_LINES, quote("$'", "'", true, QuoteExtent::Lines), SINGLE_BARE],
        &[LanguageFeature::Escapes, LanguageFeature::HereDocuments],
    ),
    syntax("SQL", &[line("--")], NESTED_STARS, &[SINGLE_BARE, DOUBLE_BARE], &[]),
    syntax("HTML", &[], &[block("<!--", "-->")], &[], &[LanguageFeature::Tags]),
    syntax("XML", &[], &[block("<!--", "-->")], &[], &[LanguageFeature::Tags]),
    syntax("CSS", &[], STARS, &[DOUBLE, SINGLE], &[]),
    syntax("SCSS", SLASHES, STARS, &[quote("url(", ")", false, QuoteExtent::OneLine), DOUBLE, SINGLE], &[]),
    syntax(
        "PHP",
        &[line("//"), line("#")],
        STARS,
        &[DOUBLE_LINES, SINGLE_LINES],
        &[LanguageFeature::Islands, LanguageFeature::HereDocuments],
    ),
    syntax(
        "Ruby",
        HASH,
        &[first_column("=begin", "\n=end")],
        &[DOUBLE_LINES, SINGLE_LINES, BACKTICK],
        &[LanguageFeature::Patterns, LanguageFeature::HereDocuments],
    ),
    syntax(
        "Perl",
        &[apart("#")],
        &[first_column("=", "\n=cut")],
        &[DOUBLE_LINES, SINGLE_LINES],
        &[LanguageFeature::HereDocuments],
    ),
    syntax(
        "YAML",
        &[apart("#")],
        &[],
        &[Quote { stands: MarkPosition::Apart, ..DOUBLE_LINES }, Quote { stands: MarkPosition::Apart, ..SINGLE_BARE }],
        &[LanguageFeature::BlockScalars],
    ),
    syntax(
        "TOML",
        HASH,
        &[],
        &[
            TRIPLE_DOUBLE,
            quote("'''", "'''", false, QuoteExtent::Lines),
            DOUBLE,
            quote("'", "'", false, QuoteExtent::OneLine),
        ],
        &[],
    ),
    syntax("INI", &[at_start(";"), at_start("#")], &[], &[], &[]),
    syntax("Properties", &[at_start("#"), at_start("!")], &[], &[], &[]),
    syntax("Lua", &[line("--")], &[], &[DOUBLE, SINGLE], &[LanguageFeature::LongBrackets]),
    syntax(
        "Haskell",
        &[Line { mark: "--", stands: MarkPosition::NoOperator }],
        &[nested("{-", "-}")],
        &[DOUBLE_LINES, CHARACTER],
        &[],
    ),
    syntax("Elm", &[line("--")], &[nested("{-", "-}")], &[TRIPLE_DOUBLE, DOUBLE, CHARACTER], &[]),
    syntax("OCaml", &[], &[nested("(*", "*)")], &[DOUBLE_LINES, CHARACTER], &[]),
    syntax("Elixir", HASH, &[], &[TRIPLE_DOUBLE, DOUBLE_LINES, SINGLE], &[]),
    syntax("Erlang", &[line("%")], &[], &[DOUBLE_LINES, SINGLE], &[]),
    syntax("R", HASH, &[], &[DOUBLE_LINES, SINGLE_LINES], &[]),
    syntax("Julia", HASH, &[nested("#=", "=#")], &[TRIPLE_DOUBLE, DOUBLE_LINES, CHARACTER], &[]),
    syntax("Lisp", &[line(";")], &[nested("#|", "|#")], &[DOUBLE_LINES], &[LanguageFeature::Escapes]),
    syntax("TeX", &[line("%")], &[], &[], &[LanguageFeature::Escapes]),
    syntax("PowerShell", &[apart("#")], &[block("<#", "#>")], &[DOUBLE_BARE, SINGLE_BARE], &[]),
    syntax("Terraform", &[line("#"), line("//")], STARS, &[DOUBLE], &[]),
    syntax("Makefile", HASH, &[], &[], &[LanguageFeature::Escapes, LanguageFeature::Continues]),
    syntax("Dockerfile", &[at_start("#")], &[], &[], &[]),
    syntax("CMake", HASH, &[block("#[[", "]]")], &[DOUBLE_LINES], &[]),
    syntax("Ada", &[line("--")], &[], &[quote("\"", "\"", false, QuoteExtent::OneLine), CHARACTER], &[]),
];
