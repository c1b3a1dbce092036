//! How comments and quoted text look, by language: a table. A new language is a new row.

use super::syntax::{
    Block, DocumentStyle, Escape, Indentation, LanguageFeature, Line, MarkPosition, Quote, QuoteExtent, Reader,
};
use crate::internal::text::file_type::FileType;

pub use super::syntax::Syntax;

impl Syntax {
    /// The syntax of a file, by its name.
    pub fn of(name: &str) -> Option<&'static Self> {
        let file_type = FileType::of(name)?;
        // Only files of this ending may hold elements of markup.
        let ending = FileType::name_and_ending(name).1;
        if file_type.name == "TypeScript" && !ending.eq_ignore_ascii_case("tsx") {
            return Some(&PLAIN_TYPESCRIPT);
        }
        SYNTAXES.iter().find(|syntax| syntax.name == file_type.name)
    }
}

const fn line(mark: &'static str) -> Line {
    Line { mark, stands: MarkPosition::Anywhere }
}

const fn apart(mark: &'static str) -> Line {
    Line { mark, stands: MarkPosition::Apart }
}

const fn at_start(mark: &'static str) -> Line {
    Line { mark, stands: MarkPosition::NewLine }
}

const fn block(open: &'static str, close: &'static str) -> Block {
    Block { open, close, nested: false, may_nest: false, stands: MarkPosition::Anywhere, orders: &[] }
}

const fn nested(open: &'static str, close: &'static str) -> Block {
    Block { nested: true, ..block(open, close) }
}

const fn quote(mark: &'static str, escape: Escape, holds: QuoteExtent) -> Quote {
    Quote { open: mark, close: mark, escape, holds, stands: MarkPosition::Anywhere, code: None }
}

/// The same quotes with code in them.
const fn holding(quote: Quote, open: &'static str, brackets: (u8, u8)) -> Quote {
    Quote { code: Some((open, brackets.0, brackets.1)), ..quote }
}

const BRACES: (u8, u8) = (b'{', b'}');
const PARENTHESES: (u8, u8) = (b'(', b')');
const DOUBLE: Quote = quote("\"", Escape::Backslash, QuoteExtent::OneLine);
const SINGLE: Quote = quote("'", Escape::Backslash, QuoteExtent::OneLine);
const DOUBLE_LINES: Quote = quote("\"", Escape::Backslash, QuoteExtent::Lines);
const SINGLE_LINES: Quote = quote("'", Escape::Backslash, QuoteExtent::Lines);
const DOUBLE_BARE: Quote = quote("\"", Escape::Doubled, QuoteExtent::Lines);
const SINGLE_BARE: Quote = quote("'", Escape::Doubled, QuoteExtent::Lines);
const CHARACTER: Quote = quote("'", Escape::Backslash, QuoteExtent::OneCharacter);
const TRIPLE_DOUBLE: Quote = quote("\"\"\"", Escape::Backslash, QuoteExtent::Lines);
const TRIPLE_SINGLE: Quote = quote("'''", Escape::Backslash, QuoteExtent::Lines);
/// The same in which a backslash is a letter like any other.
const TRIPLE_RAW: Quote = quote("\"\"\"", Escape::Nothing, QuoteExtent::Lines);
const BACKTICK: Quote = quote("`", Escape::Backslash, QuoteExtent::Lines);
const BACKTICK_RAW: Quote = quote("`", Escape::Nothing, QuoteExtent::Lines);
const ADDRESS: Quote = Quote { open: "url(", close: ")", ..quote("(", Escape::Nothing, QuoteExtent::OneLine) };
const SLASHES: &[Line] = &[line("//")];
const HASH: &[Line] = &[line("#")];
const STARS: &[Block] = &[block("/*", "*/")];
const NESTED_STARS: &[Block] = &[nested("/*", "*/")];

const fn syntax(
    name: &'static str,
    line: &'static [Line],
    block: &'static [Block],
    quotes: &'static [Quote],
    features: &'static [LanguageFeature],
) -> Syntax {
    Syntax { name, line, block, quotes, features, documents: None, reader: Reader::Code }
}

/// A language with a reader of its own. Its comment signs are told for those who read lines by themselves.
const fn own(name: &'static str, line: &'static [Line], reader: Reader) -> Syntax {
    Syntax { reader, ..syntax(name, line, &[], &[], &[]) }
}

/// The same with documents.
const fn with_documents(syntax: Syntax, documents: DocumentStyle) -> Syntax {
    Syntax { documents: Some(documents), ..syntax }
}

/// The script inside a page.
pub(super) static SCRIPT: Syntax =
    syntax("script", SLASHES, STARS, &[DOUBLE, SINGLE, holding(BACKTICK, "${", BRACES)], &[LanguageFeature::Patterns]);
/// The style sheet inside a page.
pub(super) static STYLE: Syntax = syntax("style sheet", &[], STARS, &[ADDRESS, DOUBLE, SINGLE], &[]);

/// Scripts with types and without elements of markup.
static PLAIN_TYPESCRIPT: Syntax = syntax(
    "TypeScript",
    SLASHES,
    STARS,
    &[DOUBLE, SINGLE, holding(BACKTICK, "${", BRACES)],
    &[LanguageFeature::Patterns],
);

/// The languages whose comments are known.
pub static SYNTAXES: [Syntax; 46] = [
    syntax(
        "C",
        SLASHES,
        STARS,
        &[DOUBLE, SINGLE],
        // Headers of C++ have the same ending.
        &[
            LanguageFeature::Continues,
            LanguageFeature::Directives,
            LanguageFeature::Digits,
            LanguageFeature::NamedQuotes,
        ],
    ),
    syntax(
        "C++",
        SLASHES,
        STARS,
        &[DOUBLE, SINGLE],
        &[
            LanguageFeature::Continues,
            LanguageFeature::Directives,
            LanguageFeature::Digits,
            LanguageFeature::NamedQuotes,
        ],
    ),
    syntax("C#", SLASHES, STARS, &[DOUBLE, SINGLE], &[LanguageFeature::Directives, LanguageFeature::ManyQuotes]),
    syntax("Java", SLASHES, STARS, &[TRIPLE_DOUBLE, DOUBLE, SINGLE], &[]),
    syntax(
        "Kotlin",
        SLASHES,
        NESTED_STARS,
        &[holding(TRIPLE_RAW, "${", BRACES), holding(DOUBLE, "${", BRACES), SINGLE, BACKTICK_RAW],
        &[],
    ),
    syntax(
        "Scala",
        SLASHES,
        NESTED_STARS,
        &[holding(TRIPLE_RAW, "${", BRACES), holding(DOUBLE, "${", BRACES), CHARACTER, BACKTICK_RAW],
        &[],
    ),
    syntax(
        "Swift",
        SLASHES,
        NESTED_STARS,
        &[holding(TRIPLE_DOUBLE, "\\(", PARENTHESES), holding(DOUBLE, "\\(", PARENTHESES), BACKTICK_RAW],
        &[LanguageFeature::HashedBefore, LanguageFeature::Patterns],
    ),
    syntax(
        "Dart",
        SLASHES,
        NESTED_STARS,
        &[
            Quote { open: "r\"\"\"", ..TRIPLE_RAW },
            Quote { open: "r'''", close: "'''", ..TRIPLE_RAW },
            Quote { open: "r\"", escape: Escape::Nothing, ..DOUBLE },
            Quote { open: "r'", escape: Escape::Nothing, ..SINGLE },
            holding(TRIPLE_DOUBLE, "${", BRACES),
            holding(TRIPLE_SINGLE, "${", BRACES),
            holding(DOUBLE, "${", BRACES),
            holding(SINGLE, "${", BRACES),
        ],
        &[],
    ),
    syntax(
        "Groovy",
        SLASHES,
        STARS,
        &[holding(TRIPLE_DOUBLE, "${", BRACES), TRIPLE_SINGLE, holding(DOUBLE, "${", BRACES), SINGLE],
        &[LanguageFeature::Slashy],
    ),
    syntax(
        "JavaScript",
        SLASHES,
        STARS,
        &[DOUBLE, SINGLE, holding(BACKTICK, "${", BRACES)],
        &[LanguageFeature::Patterns, LanguageFeature::Elements],
    ),
    syntax(
        "TypeScript",
        SLASHES,
        STARS,
        &[DOUBLE, SINGLE, holding(BACKTICK, "${", BRACES)],
        &[LanguageFeature::Patterns, LanguageFeature::Elements],
    ),
    syntax("JSON with comments", SLASHES, STARS, &[DOUBLE, SINGLE], &[]),
    syntax("Rust", SLASHES, NESTED_STARS, &[DOUBLE_LINES, CHARACTER], &[LanguageFeature::HashedQuotes]),
    syntax("Go", SLASHES, STARS, &[DOUBLE, SINGLE, BACKTICK_RAW], &[]),
    syntax(
        "Zig",
        SLASHES,
        &[],
        &[DOUBLE, CHARACTER, Quote { open: "\\\\", close: "\n", ..quote("", Escape::Nothing, QuoteExtent::Lines) }],
        &[],
    ),
    syntax("Protocol buffers", SLASHES, STARS, &[DOUBLE, SINGLE], &[]),
    syntax("Python", HASH, &[], &[TRIPLE_DOUBLE, TRIPLE_SINGLE, DOUBLE, SINGLE], &[LanguageFeature::FormattedQuotes]),
    own("Shell", HASH, Reader::Shell),
    syntax(
        "SQL",
        &[line("--")],
        &[Block { may_nest: true, orders: &["!", "+"], ..nested("/*", "*/") }],
        &[
            SINGLE_BARE,
            DOUBLE_BARE,
            Quote { open: "`", close: "`", ..SINGLE_BARE },
            Quote { open: "[", close: "]", ..quote("", Escape::Doubled, QuoteExtent::OneLine) },
        ],
        &[LanguageFeature::DollarQuotes, LanguageFeature::BackslashInQuotes],
    ),
    own("HTML", &[], Reader::Html),
    own("XML", &[], Reader::Xml),
    syntax("CSS", &[], STARS, &[ADDRESS, DOUBLE, SINGLE], &[]),
    syntax("SCSS", SLASHES, STARS, &[ADDRESS, DOUBLE, SINGLE], &[]),
    Syntax {
        reader: Reader::Islands,
        ..with_documents(
            syntax("PHP", &[line("//"), line("#")], STARS, &[DOUBLE_LINES, SINGLE_LINES, BACKTICK], &[]),
            DocumentStyle { open: "<<<", apart: true, small: true, minus: Indentation::Nothing, loose: true },
        )
    },
    own("Ruby", HASH, Reader::Ruby),
    own("Perl", HASH, Reader::Perl),
    own("YAML", HASH, Reader::Yaml),
    syntax(
        "TOML",
        HASH,
        &[],
        &[
            TRIPLE_DOUBLE,
            Quote { escape: Escape::Nothing, ..TRIPLE_SINGLE },
            DOUBLE,
            Quote { escape: Escape::Nothing, ..SINGLE },
        ],
        &[],
    ),
    syntax("INI", &[at_start(";"), at_start("#")], &[], &[], &[]),
    syntax("Properties", &[at_start("#"), at_start("!")], &[], &[], &[]),
    syntax("Lua", &[line("--")], &[], &[DOUBLE, SINGLE], &[LanguageFeature::LongBrackets]),
    syntax(
        "Haskell",
        &[Line { mark: "--", stands: MarkPosition::NoOperator }],
        &[Block { orders: &["#"], ..nested("{-", "-}") }],
        &[DOUBLE_LINES, CHARACTER],
        &[LanguageFeature::Quasiquotes],
    ),
    syntax("Elm", &[line("--")], &[nested("{-", "-}")], &[TRIPLE_DOUBLE, DOUBLE, CHARACTER], &[]),
    syntax(
        "OCaml",
        &[],
        &[],
        &[DOUBLE_LINES, CHARACTER],
        &[LanguageFeature::QuotesInComments, LanguageFeature::BracedQuotes],
    ),
    syntax(
        "Elixir",
        HASH,
        &[],
        &[
            holding(TRIPLE_DOUBLE, "#{", BRACES),
            holding(TRIPLE_SINGLE, "#{", BRACES),
            holding(DOUBLE_LINES, "#{", BRACES),
            holding(SINGLE_LINES, "#{", BRACES),
        ],
        &[LanguageFeature::Sigils, LanguageFeature::CharacterSign],
    ),
    syntax("Erlang", &[line("%")], &[], &[TRIPLE_RAW, DOUBLE_LINES, SINGLE_LINES], &[LanguageFeature::DollarCharacter]),
    syntax(
        "R",
        HASH,
        &[],
        &[DOUBLE_LINES, SINGLE_LINES, BACKTICK],
        &[LanguageFeature::RawBrackets, LanguageFeature::PercentOperators],
    ),
    syntax(
        "Julia",
        HASH,
        &[nested("#=", "=#")],
        &[
            holding(TRIPLE_DOUBLE, "$(", PARENTHESES),
            holding(DOUBLE_LINES, "$(", PARENTHESES),
            CHARACTER,
            holding(BACKTICK, "$(", PARENTHESES),
        ],
        &[],
    ),
    syntax(
        "Lisp",
        &[line(";")],
        &[nested("#|", "|#")],
        &[DOUBLE_LINES, Quote { open: "|", close: "|", ..DOUBLE }],
        &[LanguageFeature::Escapes],
    ),
    own("TeX", &[line("%")], Reader::Tex),
    syntax(
        "PowerShell",
        &[apart("#")],
        &[block("<#", "#>")],
        &[holding(Quote { escape: Escape::Backtick, ..DOUBLE_LINES }, "$(", PARENTHESES), SINGLE_BARE],
        &[LanguageFeature::HereStrings],
    ),
    with_documents(
        syntax(
            "Terraform",
            &[line("#"), line("//")],
            STARS,
            &[holding(DOUBLE, "${", BRACES)],
            &[LanguageFeature::DoubledOpening],
        ),
        DocumentStyle { open: "<<", apart: false, small: true, minus: Indentation::Blanks, loose: false },
    ),
    own("Makefile", HASH, Reader::Make),
    with_documents(
        syntax(
            "Dockerfile",
            &[Line { mark: "#", stands: MarkPosition::LineStart }],
            &[],
            &[],
            &[LanguageFeature::LeadingSettings],
        ),
        DocumentStyle { open: "<<", apart: false, small: true, minus: Indentation::Tabs, loose: false },
    ),
    syntax("CMake", HASH, &[], &[DOUBLE_LINES], &[LanguageFeature::BracketArguments, LanguageFeature::Escapes]),
    syntax("Ada", &[line("--")], &[], &[quote("\"", Escape::Doubled, QuoteExtent::OneLine), CHARACTER], &[]),
];
