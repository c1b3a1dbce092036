//! How comments and quoted text look, by language: a table. A new language is a new row.

use crate::internal::text::file_type::FileType;

/// Where a mark must stand to be one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum MarkPosition {
    /// Anywhere.
    Anywhere,
    /// At the start of a line, blanks aside.
    LineStart,
    /// The same, but not of one that goes on from the line above.
    NewLine,
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
    /// Whether it depends on the program that reads it whether they nest.
    pub(super) may_nest: bool,
    pub(super) stands: MarkPosition,
    /// What stands behind the opening mark of a comment that is an order to whoever reads the code.
    pub(super) orders: &'static [&'static str],
}

/// Text between quotes, in which nothing is a comment.
#[derive(Clone, Copy, Debug)]
pub(super) struct Quote {
    pub(super) open: &'static str,
    pub(super) close: &'static str,
    /// What takes a mark its meaning.
    pub(super) escape: Escape,
    /// How far it may reach.
    pub(super) holds: QuoteExtent,
    pub(super) stands: MarkPosition,
    /// What begins code inside it, and the brackets that are counted up to its end.
    pub(super) code: Option<(&'static str, u8, u8)>,
}

/// What takes a mark inside quoted text its meaning.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Escape {
    Nothing,
    /// A backslash.
    Backslash,
    /// A second one.
    Doubled,
    /// A backtick, or a second one.
    Backtick,
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

/// What may stand before the word that ends a document.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Indentation {
    Nothing,
    Tabs,
    Blanks,
}

/// How a language begins its documents.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct DocumentStyle {
    /// What opens one.
    pub(super) open: &'static str,
    /// Whether blanks may stand before the word.
    pub(super) apart: bool,
    /// Whether a word without quotes may begin with a small letter.
    pub(super) small: bool,
    /// What a `-` before the word allows.
    pub(super) minus: Indentation,
    /// Whether the last line may be indented, and code may follow in it.
    pub(super) loose: bool,
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
    /// `#"…"#` holds anything, and code behind `\#(`.
    HashedBefore,
    /// `R"name(…)name"` holds anything.
    NamedQuotes,
    /// `[[…]]`, `[=[…]=]` hold anything, and behind a line-comment mark they are a comment.
    LongBrackets,
    /// The same, where the comments begin with `#`.
    BracketArguments,
    /// `/…/` where a value may stand is a regular expression.
    Patterns,
    /// The same over lines, and `$/…/$`.
    Slashy,
    /// `$$…$$`, `$tag$…$tag$` hold anything.
    DollarQuotes,
    /// `~r/…/` and the like.
    Sigils,
    /// `?x` is a character.
    CharacterSign,
    /// `$x` is a character.
    DollarCharacter,
    /// `r"(…)"` holds anything.
    RawBrackets,
    /// `%…%` is an operator.
    PercentOperators,
    /// `"""…"""` with as many quotes as one likes, `@"…"`, `$"…{code}…"`.
    ManyQuotes,
    /// `@"` … `"@` over lines; a backtick escapes.
    HereStrings,
    /// Lines that begin with `#` are for the compiler.
    Directives,
    /// `[name|…|]` holds anything.
    Quasiquotes,
    /// `{name|…|name}` holds anything.
    BracedQuotes,
    /// A quote may stand inside a number.
    Digits,
    /// `f"…{code}…"`.
    FormattedQuotes,
    /// A backslash may escape a quote, or not.
    BackslashInQuotes,
    /// Quoted text in a comment hides its end.
    QuotesInComments,
    /// A doubled sign before code in quoted text stands for itself.
    DoubledOpening,
    /// Elements of markup where a value may stand.
    Elements,
    /// The first lines may be settings that look like comments.
    LeadingSettings,
}

/// Who reads a language.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Reader {
    /// The reader of code, which a row of the table steers.
    Code,
    Html,
    Xml,
    /// Code between `<?` and `?>`, in a page.
    Islands,
    Shell,
    Ruby,
    Perl,
    Yaml,
    Tex,
    Make,
}

/// The comments and quotes of one language.
#[derive(Clone, Copy, Debug)]
pub struct Syntax {
    /// What the type of its files is called in [`FILE_TYPES`](crate::internal::text::file_type::FILE_TYPES).
    pub name: &'static str,
    pub(super) line: &'static [Line],
    pub(super) block: &'static [Block],
    pub(super) quotes: &'static [Quote],
    pub(super) features: &'static [LanguageFeature],
    /// How it begins documents, if it has any.
    pub(super) documents: Option<DocumentStyle>,
    pub(super) reader: Reader,
}

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

    pub(super) fn has(&self, feature: LanguageFeature) -> bool {
        self.features.contains(&feature)
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
