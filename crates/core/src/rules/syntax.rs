//! What a language knows of comments and quoted text.

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
    pub(super) fn has(&self, feature: LanguageFeature) -> bool {
        self.features.contains(&feature)
    }
}
