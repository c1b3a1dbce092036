//! What a rule masks, and how that is written.
//!
//! | written | what it masks |
//! |---|---|
//! | `case` | the difference between capital and small letters, by Unicode |
//! | `space` | all white space, inside words too |
//! | `space-amount` | how much white space there is, but not whether there is any |
//! | `edge-space` | white space at the start and the end of a line |
//! | `leading-space` | white space at the start of a line |
//! | `trailing-space` | white space at the end of a line |
//! | `blank-lines` | lines of nothing but white space |
//! | `line-breaks` | where lines are broken: text wrapped anew |
//! | `line-ends` | the difference between CR LF and LF |
//! | `final-newline` | whether the last line ends with a line end |
//! | `comments` | comments, by the language of the file |
//! | `trailing-punctuation` | a `;` or `,` that ends a line or the file |
//! | `timestamps` | dates with times, and times of day with seconds |
//! | `numbers` | numbers |
//! | `uuids` | identifiers of RFC 9562 |
//! | `hex-addresses` | `0x…` and `@…` with hexadecimal digits |
//! | `/pattern/` | what a regular expression matches |
//! | `chars:1-24+30-40` | characters of each line, counted from 1; `chars:25-` to its end |
//! | `renamed:OLD=NEW` | whole words that are OLD before and NEW after |
//! | `column:NAME` | columns of tables, by name; `*` and `?` stand for any letters |
//! | `path:/a/b/*` | parts of data, by their path; `*` stands for one step, `**` for any |

use std::ops::Range;

use super::named::NamePattern;
use super::pattern::Pattern;
use super::rename::Rename;
use super::values::Value;
use crate::internal::text::spelling::nearest;

/// What a rule masks.
#[derive(Clone, Debug)]
pub enum What {
    /// Capital or small letters.
    Case,
    /// All white space.
    Space,
    /// How much white space there is.
    SpaceAmount,
    /// White space at both ends of a line.
    EdgeSpace,
    /// White space at the start of a line.
    LeadingSpace,
    /// White space at the end of a line.
    TrailingSpace,
    /// Lines of white space.
    BlankLines,
    /// Where lines are broken.
    LineBreaks,
    /// CR LF or LF.
    LineEnds,
    /// Whether the last line ends with a line end.
    FinalNewline,
    /// Comments.
    Comments,
    /// A `;` or `,` that ends a line or the file.
    TrailingPunctuation,
    /// Values that differ from run to run.
    Value(Value),
    /// What a regular expression matches, line by line.
    Pattern(Pattern),
    /// What a regular expression matches that may go over line ends.
    LongPattern(Pattern),
    /// Whole words that are called something else after.
    Renamed(Rename),
    /// Characters of each line, from 0.
    Characters(Vec<Range<usize>>),
    /// Columns of tables.
    Column(NamePattern),
    /// Parts of data.
    Path(NamePattern),
}

/// What cannot be masked as it was written.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum WhatError {
    /// A name that nothing has.
    #[error("`{name}` is neither built in nor the name of a rule{}", meant.as_ref().map_or_else(|| format!("; built in are {}", BUILT_IN.map(|(name, _)| name).join(", ")), |meant| format!("; did you mean `{meant}`?")))]
    Unknown {
        /// The name.
        name: String,
        /// What was probably meant.
        meant: Option<String>,
    },
    /// A regular expression that is malformed.
    #[error("the pattern /{pattern}/ is malformed: {reason}")]
    Malformed {
        /// The pattern.
        pattern: String,
        /// What is wrong with it.
        reason: String,
    },
    /// A pattern that would mask everything.
    #[error(
        "the pattern /{0}/ matches everything, so that no difference would be left; say more closely what does not count"
    )]
    Everything(String),
    /// A pattern that matches no text.
    #[error("the pattern /{0}/ matches no text, only places between characters; say which characters do not count")]
    Nothing(String),
    /// A pattern without its end.
    #[error("`{0}` is no pattern: it needs a `/` at its start and at its end; a `/` inside is written `\\/`")]
    Open(String),
    /// A rename that is none.
    #[error("`{0}` is no rename: write `renamed:OLD=NEW`; a `=` or `,` in a name is written `\\=`, `\\,`")]
    Rename(String),
    /// Characters that are no range.
    #[error("`{0}` is no range of characters: write `chars:1-24`, `chars:1-24+30-40`, or `chars:25-`")]
    Range(String),
    /// A name of columns, or a path, that is malformed.
    #[error("`{0}` is malformed: {1}")]
    Name(String, String),
    /// A range that runs backwards.
    #[error("`{0}` runs backwards: the first character comes first, as in `chars:{2}-{1}`")]
    Backwards(String, usize, usize),
}

/// What is built in, by name.
const BUILT_IN: [(&str, What); 16] = [
    ("case", What::Case),
    ("space", What::Space),
    ("space-amount", What::SpaceAmount),
    ("edge-space", What::EdgeSpace),
    ("leading-space", What::LeadingSpace),
    ("trailing-space", What::TrailingSpace),
    ("blank-lines", What::BlankLines),
    ("line-breaks", What::LineBreaks),
    ("line-ends", What::LineEnds),
    ("final-newline", What::FinalNewline),
    ("comments", What::Comments),
    ("trailing-punctuation", What::TrailingPunctuation),
    ("timestamps", What::Value(Value::Timestamp)),
    ("numbers", What::Value(Value::Number)),
    ("uuids", What::Value(Value::Uuid)),
    ("hex-addresses", What::Value(Value::HexAddress)),
];

/// The names of what is built in.
pub fn built_in() -> impl Iterator<Item = &'static str> {
    BUILT_IN.iter().map(|(name, _)| *name)
}

impl What {
    /// Reads what is written, names of rules excepted; `known` are further names, for the advice on a misspelt one.
    ///
    /// # Errors
    /// When it is nothing that is known, or malformed, or would mask everything.
    pub fn parse<'k>(text: &str, known: impl IntoIterator<Item = &'k str>) -> Result<Self, WhatError> {
        if let Some((_, what)) = BUILT_IN.iter().find(|(name, _)| *name == text) {
            return Ok(what.clone());
        }
        if let Some(rest) = text.strip_prefix('/') {
            let inner = rest.strip_suffix('/').filter(|inner| !inner.ends_with('\\') || inner.ends_with("\\\\"));
            return Self::pattern(&inner.ok_or_else(|| WhatError::Open(text.to_owned()))?.replace("\\/", "/"));
        }
        if let Some(names) = text.strip_prefix("renamed:") {
            return Rename::parse(names).map(Self::Renamed).ok_or_else(|| WhatError::Rename(text.to_owned()));
        }
        if let Some(name) = text.strip_prefix("column:") {
            return Ok(Self::Column(named(name, text, NamePattern::column)?));
        }
        if let Some(path) = text.strip_prefix("path:") {
            return Ok(Self::Path(named(path, text, NamePattern::path)?));
        }
        if let Some(ranges) = text.strip_prefix("chars:") {
            let ranges: Result<_, _> = ranges.split('+').map(|range| characters(range, text)).collect();
            return ranges.map(Self::Characters);
        }
        let names = built_in().map(|name| -> &'k str { name }).chain(known);
        let meant = nearest(text, names).map(str::to_owned);
        Err(WhatError::Unknown { name: text.to_owned(), meant })
    }

    /// Reads a regular expression. It is tried line by line, without line ends, unless it names the line end (`\n`) or lets
    /// its dots match them (`(?s)`).
    ///
    /// # Errors
    /// When it is malformed, matches everything, or nothing but places.
    pub fn pattern(pattern: &str) -> Result<Self, WhatError> {
        let malformed = |error: regex::Error| WhatError::Malformed {
            pattern: pattern.to_owned(),
            // The last line of the report says what is wrong; the lines above it repeat and mark the pattern.
            reason: error.to_string().lines().last().unwrap_or_default().trim_start_matches("error: ").to_owned(),
        };
        let long = goes_over_lines(pattern);
        let read = Pattern::new(pattern, long).map_err(malformed)?;
        const SAMPLES: [&str; 6] = ["a", "Level 4.20", "  ", "{};", "höhe 水", "~!@x_9\t-"];
        if read.matches_whole(&SAMPLES) {
            return Err(WhatError::Everything(pattern.to_owned()));
        }
        if pattern.chars().all(|c| "^$".contains(c)) || matches!(pattern, r"\b" | r"\B" | r"\A" | r"\z") {
            return Err(WhatError::Nothing(pattern.to_owned()));
        }
        Ok(if long { Self::LongPattern(read) } else { Self::Pattern(read) })
    }

    /// Whether a line that it leaves blank is excluded. White space and line ends alone take no lines.
    pub(super) fn takes_lines(&self) -> bool {
        matches!(
            self,
            Self::BlankLines
                | Self::Comments
                | Self::TrailingPunctuation
                | Self::Value(_)
                | Self::Pattern(_)
                | Self::LongPattern(_)
                | Self::Characters(_)
        )
    }
}

fn named(name: &str, written: &str, read: fn(&str) -> Result<NamePattern, String>) -> Result<NamePattern, WhatError> {
    read(name).map_err(|reason| WhatError::Name(written.to_owned(), reason))
}

/// Cuts a list at its commas, those inside patterns excepted.
pub fn split_list(text: &str) -> Vec<&str> {
    let mut parts = Vec::new();
    let mut start = 0;
    let mut in_pattern = false;
    let mut escaped = false;
    for (at, c) in text.char_indices() {
        match c {
            _ if escaped => escaped = false,
            '\\' if in_pattern || text[start..].trim_start().starts_with("renamed:") => escaped = true,
            '/' if at == start => in_pattern = true,
            '/' if in_pattern && matches!(text[at + 1..].chars().next(), None | Some(',')) => in_pattern = false,
            ',' if !in_pattern => {
                parts.push(text[start..at].trim());
                start = at + 1;
            }
            _ => {}
        }
    }
    parts.push(text[start..].trim());
    parts.retain(|part| !part.is_empty());
    parts
}

/// Whether a pattern names line ends, so that it must see more than one line.
fn goes_over_lines(pattern: &str) -> bool {
    let mut flags = false;
    let mut previous = ' ';
    let mut escaped = false;
    for (at, c) in pattern.char_indices() {
        if escaped {
            if c == 'n' {
                return true;
            }
            escaped = false;
        } else {
            match c {
                '\\' => escaped = true,
                '\n' => return true,
                '?' if previous == '(' && !pattern[at + 1..].starts_with('P') => flags = true,
                's' if flags => return true,
                '-' | ':' | ')' | '<' => flags = false,
                _ => {}
            }
        }
        previous = c;
    }
    false
}

fn characters(range: &str, whole: &str) -> Result<Range<usize>, WhatError> {
    let wrong = || WhatError::Range(whole.to_owned());
    let number = |text: &str| text.parse::<usize>().ok().filter(|number| *number > 0).ok_or_else(wrong);
    let (first, last) = range.split_once('-').unwrap_or((range, range));
    // Without an end, up to that of the line.
    let first = number(first)?;
    let last = if last.is_empty() { usize::MAX } else { number(last)? };
    if last < first {
        return Err(WhatError::Backwards(whole.to_owned(), first, last));
    }
    Ok(first - 1..last)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lists_are_cut_outside_patterns() {
        assert_eq!(split_list("case, space,/a,b\\/c/,chars:1-4"), ["case", "space", "/a,b\\/c/", "chars:1-4"]);
        assert_eq!(split_list("/a/,/b,c/"), ["/a/", "/b,c/"]);
    }

    #[test]
    fn what_cannot_be_meant_is_refused_with_advice() {
        let wrong = |text: &str| What::parse(text, ["log clock"]).unwrap_err().to_string();
        assert_eq!(wrong("comment"), "`comment` is neither built in nor the name of a rule; did you mean `comments`?");
        assert!(wrong("log clok").ends_with("did you mean `log clock`?"));
        assert!(wrong("zebra").contains("built in are case, space"));
        assert!(wrong("/a(b/").contains("/a(b/ is malformed: unclosed group"), "{}", wrong("/a(b/"));
        assert!(wrong("/.*/").contains("matches everything"));
        assert!(wrong(r"/(?s).+/").contains("matches everything"));
        assert!(wrong("/^/").contains("matches no text"));
        assert!(wrong("/abc").contains("needs a `/`"));
        assert_eq!(
            wrong("chars:24-1"),
            "`chars:24-1` runs backwards: the first character comes first, as in `chars:1-24`"
        );
        for text in ["chars:", "chars:0-4", "chars:a-b", "chars:1-4+"] {
            assert!(wrong(text).contains("no range of characters"), "{text}");
        }
    }

    #[test]
    fn only_a_pattern_that_names_line_ends_goes_over_them() {
        for pattern in [r"a\nb", "(?s)a.*b", "(?is)a.b", "(?s:a.b)"] {
            assert!(matches!(What::pattern(pattern), Ok(What::LongPattern(_))), "{pattern}");
        }
        for pattern in [r"a\\nb", "a.*b", "(?i)a.b", r"\s+x", "(?P<s>a)", "(?-s)a.b", "[^,]*,", "(?:sa)"] {
            assert!(matches!(What::pattern(pattern), Ok(What::Pattern(_))), "{pattern}");
        }
    }
}
