//! A second reading of comments, of ten languages: slow, and written from their grammars apart from the first, to hold the first against.
//!
//! Where it cannot tell, it says so: such places are not compared.

use std::ops::Range;
use std::sync::LazyLock;

use regex::bytes::Regex;

/// The languages that are read, by a name of a file in them.
pub(crate) const NAMES: [&str; 10] =
    ["a.js", "a.ts", "a.py", "A.java", "a.cs", "a.cpp", "a.c", "a.go", "a.rs", "a.sql"];

/// What a reading says of each byte.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Read {
    Text,
    Comment,
    /// It cannot be told.
    Unknown,
}

/// What a token of a grammar is.
#[derive(Clone, Copy)]
enum Token {
    Is(Read),
    /// The same where only white space stands before it on its line.
    AtLineStart(Read),
    /// From here on nothing can be told.
    Lost,
    /// Text up to `)`, what the first group holds, and `"`.
    Bracketed,
    /// Text up to the same that the first group holds.
    Delimited,
    /// A block comment in which others may stand.
    Nested,
}

/// A reader of one language.
pub(crate) struct SlowReader {
    tokens: Vec<(Token, Regex)>,
    is_script: bool,
}

const SLASHES: &str = r"//[^\n]*";
const STARS: &str = r"/\*.*?(?:\*/|\z)";
const DOUBLE: &str = r#""(?:[^"\\\n]|\\\r\n|\\.)*(?:"|\n|\z)"#;
const SINGLE: &str = r"'(?:[^'\\\n]|\\\r\n|\\.)*(?:'|\n|\z)";
const WORD: &str = r"[\w$\x80-\xff]+";
const NUMBER: &str = r"\.?[0-9](?:'\w|[\w.$])*";
const DIRECTIVES: &str = r"#[ \t]*(?:error|warning|pragma|region|endregion|line|nullable)\b[^\n]*";
const PATTERN: &str = r"/(?:[^/\\\[\n]|\\[^\n]|\[(?:[^\]\\\n]|\\[^\n])*\])+/[a-z]*";

impl SlowReader {
    /// The reader for a file; `None` where the language is not one of the ten.
    pub(crate) fn of(name: &str) -> Option<Self> {
        use Read::{Comment, Text, Unknown};
        use Token::{AtLineStart, Bracketed, Delimited, Is, Lost, Nested};
        let continued = r"//(?:[^\n\\]|\\\r?\n|\\)*";
        let triple = r#""""(?:[^\\]|\\.)*?(?:"""|\z)"#;
        let rust_raw: Vec<String> =
            (0..6).map(|n| format!(r##"(?:b|c)?r{0}".*?(?:"{0}|\z)"##, "#".repeat(n))).collect();
        let python =
            |prefix: &str, quote: &str, inside: &str| format!("(?i:{prefix}){quote}(?:{inside})*?(?:{quote}|\\z)");
        let python_strings: Vec<(Token, String)> =
            [("\"\"\"", r"[^\\{]"), ("'''", r"[^\\{]"), ("\"", r#"[^"\\\n{]"#), ("'", r"[^'\\\n{]")]
                .into_iter()
                .flat_map(|(quote, plain)| {
                    let end =
                        if quote.len() == 1 { format!("(?:{quote}|\\n|\\z)") } else { format!("(?:{quote}|\\z)") };
                    let string = |prefix: &str, inside: &str| {
                        python(prefix, quote, inside).replace(&format!("(?:{quote}|\\z)"), &end)
                    };
                    [
                        (Is(Text), string("rb?|br?|u|", &format!(r"{plain}|\{{|\\\r\n|\\."))),
                        (Is(Text), string("f|rf|fr", &format!(r"{plain}|\\\r\n|\\.|\{{[\w. ]*\}}"))),
                        // What is not so simple is not told.
                        (Lost, format!("(?i:f|rf|fr|t|rt|tr){quote}")),
                    ]
                })
                .collect();
        let tokens: Vec<(Token, String)> = match name {
            "a.js" | "a.ts" => Vec::new(),
            "a.py" => [python_strings, vec![(Is(Comment), r"#[^\n]*".to_owned())]].concat(),
            "A.java" => listed(&[(Is(Comment), SLASHES), (Is(Comment), STARS), (Is(Text), triple)]),
            "a.cs" => listed(&[
                (AtLineStart(Unknown), DIRECTIVES),
                (Is(Comment), SLASHES),
                (Is(Comment), STARS),
                (Lost, r#"\$+""""#),
                (Delimited, r#"("{3,})"#),
                (Is(Text), r#"@"(?:[^"]|"")*(?:"|\z)"#),
                (Is(Text), r#"\$"(?:[^"\\\n{]|\\.|\{\{|\{[\w.]*\})*""#),
                (Lost, r#"(?:\$@|@\$|\$)""#),
            ]),
            "a.cpp" | "a.c" => listed(&[
                (AtLineStart(Text), r"#[ \t]*include[ \t]*<[^>\n]*>"),
                (AtLineStart(Unknown), DIRECTIVES),
                (Is(Comment), continued),
                (Is(Comment), STARS),
                (Bracketed, r#"(?:u8|[uUL])?R"([^ ()\\\t\n]{0,16})\("#),
                (Is(Text), NUMBER),
            ]),
            "a.go" => listed(&[(Is(Comment), SLASHES), (Is(Comment), STARS), (Is(Text), "`[^`]*(?:`|\\z)")]),
            "a.rs" => [
                listed(&[(Is(Comment), SLASHES), (Nested, r"/\*")]),
                rust_raw.into_iter().map(|pattern| (Is(Text), pattern)).collect(),
                listed(&[
                    (Is(Text), r#""(?:[^"\\]|\\.)*(?:"|\z)"#),
                    (
                        Is(Text),
                        r"'(?:\\(?:u\{[^}'\n]*\}|x..|.)[^'\n]{0,9}?|[^\\'\n\x80-\xff]|[\xc0-\xff][\x80-\xbf]*)'",
                    ),
                    (Is(Text), "'"),
                ]),
            ]
            .concat(),
            "a.sql" => listed(&[
                (Is(Comment), r"--[^\n]*"),
                (Is(Unknown), r"/\*[!+].*?(?:\*/|\z)"),
                (Is(Comment), r"/\*(?:[^/]|/+[^*/])*?/?\*/"),
                (Lost, r"/\*"),
                (Is(Text), r"'(?:[^'\\]|'')*'"),
                (Lost, "'"),
                (Is(Text), r#""[^"]*(?:"|\z)"#),
                (Is(Text), "`[^`]*(?:`|\\z)"),
                (Is(Unknown), r"\[[^\n\]]*(?:\]|\n|\z)"),
                (Delimited, r"(\$(?:[A-Za-z_]\w*)?\$)"),
            ]),
            _ => return None,
        };
        // The last quotes and words are those of most languages.
        let rest = listed(&[(Is(Text), DOUBLE), (Is(Text), SINGLE), (Is(Text), WORD)]);
        let compiled = tokens.into_iter().chain(rest).map(|(token, pattern)| {
            (token, Regex::new(&format!(r"\A(?s-u:{pattern})")).expect("the pattern is valid"))
        });
        Some(Self { tokens: compiled.collect(), is_script: matches!(name, "a.js" | "a.ts") })
    }

    /// What each byte of a text is.
    pub(crate) fn read(&self, text: &[u8]) -> Vec<Read> {
        let mut read = vec![Read::Text; text.len()];
        if self.is_script {
            let mut script = Script::new(text, &mut read);
            script.code(false, 0);
            return read;
        }
        let mut at = usize::from(text.starts_with(b"#!") && !text.starts_with(b"#![")) * line_end(text, 0);
        while at < text.len() {
            at = self.token(text, at, &mut read).max(at + 1);
        }
        read
    }

    /// Reads one token, and gives its end.
    fn token(&self, text: &[u8], at: usize, read: &mut [Read]) -> usize {
        let rest = &text[at..];
        let line = text[..at].rsplit(|byte| *byte == b'\n').next().unwrap_or_default();
        for (token, pattern) in &self.tokens {
            if matches!(token, Token::AtLineStart(_)) && !line.trim_ascii().is_empty() {
                continue;
            }
            let Some(found) = pattern.captures(rest) else { continue };
            let length = found[0].len();
            let end = match token {
                Token::Is(_) | Token::AtLineStart(_) => at + length,
                Token::Lost => text.len(),
                Token::Bracketed => past(text, at + length, &[b")", &found[1], b"\""].concat()),
                Token::Delimited => past(text, at + length, &found[1]),
                Token::Nested => nested_end(text, at),
            };
            let what = match token {
                Token::Is(what) | Token::AtLineStart(what) => *what,
                Token::Lost => Read::Unknown,
                Token::Bracketed | Token::Delimited => Read::Text,
                Token::Nested => Read::Comment,
            };
            read[at..end].fill(what);
            if matches!(token, Token::Delimited) && text.get(end) == Some(&b'"') {
                // More quotes at the end than at the start are wrong.
                read[end..].fill(Read::Unknown);
                return text.len();
            }
            return end;
        }
        at + 1
    }
}

fn listed(tokens: &[(Token, &str)]) -> Vec<(Token, String)> {
    tokens.iter().map(|(token, pattern)| (*token, (*pattern).to_owned())).collect()
}

fn line_end(text: &[u8], at: usize) -> usize {
    text[at..].iter().position(|byte| *byte == b'\n').map_or(text.len(), |length| at + length)
}

/// The end of the first mark from a place on.
fn past(text: &[u8], from: usize, mark: &[u8]) -> usize {
    text[from..].windows(mark.len()).position(|part| part == mark).map_or(text.len(), |at| from + at + mark.len())
}

fn nested_end(text: &[u8], from: usize) -> usize {
    let (mut depth, mut at) = (0, from);
    while at < text.len() {
        match text[at..].get(..2) {
            Some(b"/*") => (depth, at) = (depth + 1, at + 2),
            Some(b"*/") if depth == 1 => return at + 2,
            Some(b"*/") => (depth, at) = (depth - 1, at + 2),
            _ => at += 1,
        }
    }
    at
}

/// What stands before in a script, on which it depends whether a slash begins a pattern.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Before {
    /// An operator, a keyword or nothing: a value follows.
    Opening,
    Value,
    /// A bracket that may end either.
    Bracket,
}

/// JavaScript and TypeScript, up to where elements of markup begin.
struct Script<'t, 'r> {
    text: &'t [u8],
    read: &'r mut [Read],
    at: usize,
    tokens: &'static [Regex; 6],
}

/// Words behind which a value comes.
const OPENING: [&[u8]; 14] = [
    b"return",
    b"typeof",
    b"case",
    b"in",
    b"of",
    b"delete",
    b"void",
    b"throw",
    b"new",
    b"do",
    b"else",
    b"instanceof",
    b"await",
    b"yield",
];

impl<'t, 'r> Script<'t, 'r> {
    fn new(text: &'t [u8], read: &'r mut [Read]) -> Self {
        let at = usize::from(text.starts_with(b"#!") && !text.starts_with(b"#![")) * line_end(text, 0);
        static TOKENS: LazyLock<[Regex; 6]> = LazyLock::new(|| {
            [SLASHES, STARS, DOUBLE, SINGLE, WORD, PATTERN]
                .map(|pattern| Regex::new(&format!(r"\A(?s-u:{pattern})")).expect("the pattern is valid"))
        });
        Self { text, read, at, tokens: &TOKENS }
    }

    fn lost(&mut self) {
        self.read[self.at..].fill(Read::Unknown);
        self.at = self.text.len();
    }

    /// Reads code, up to the bracket that closes it where it stands in a template.
    fn code(&mut self, in_template: bool, depth: usize) {
        let (mut before, mut brackets) = (Before::Opening, 0);
        while self.at < self.text.len() {
            let rest = &self.text[self.at..];
            let [tokens @ .., _] = self.tokens;
            let matched = tokens.each_ref().map(|token| token.find(rest).map(|found| found.len()));
            let byte = rest[0];
            match matched {
                [Some(length), ..] | [None, Some(length), ..] => {
                    self.read[self.at..self.at + length].fill(Read::Comment);
                    self.at += length;
                }
                // Without its end a quoted text is wrong.
                [.., Some(length), None, None] | [.., Some(length), None] if rest[length - 1] != byte => self.lost(),
                [.., Some(length), None, None] | [.., Some(length), None] => {
                    (self.at, before) = (self.at + length, Before::Value);
                }
                [.., Some(length)] => {
                    let is_name = self.text[..self.at].trim_ascii_end().ends_with(b".");
                    before =
                        if !is_name && OPENING.contains(&&rest[..length]) { Before::Opening } else { Before::Value };
                    self.at += length;
                }
                _ if byte == b'`' => {
                    self.at += 1;
                    self.template(depth);
                    before = Before::Value;
                }
                _ if byte == b'/' => before = self.slash(before, in_template),
                _ if byte == b'<'
                    && before != Before::Value
                    && rest.get(1).is_some_and(|next| next.is_ascii_alphabetic() || *next == b'>') =>
                {
                    self.lost();
                }
                _ => {
                    match byte {
                        b'{' => brackets += 1,
                        b'}' if in_template && brackets == 0 => return,
                        b'}' => brackets -= 1,
                        _ => {}
                    }
                    before = match byte {
                        b')' | b'}' | b'\\' | b'#' | b'@' | b'.' => Before::Bracket,
                        b'!' if self.text[..self.at].last().is_some_and(|byte| byte.is_ascii_alphanumeric()) => {
                            Before::Bracket
                        }
                        b']' => Before::Value,
                        b'+' | b'-' if self.text[..self.at].last() == Some(&byte) => Before::Bracket,
                        byte if byte.is_ascii_whitespace() => before,
                        _ => Before::Opening,
                    };
                    self.at += 1;
                }
            }
        }
    }

    /// Reads a division or a pattern. Where it cannot be told which, the rest of the line is unknown.
    fn slash(&mut self, before: Before, in_template: bool) -> Before {
        let rest = &self.text[self.at..];
        match (before, self.tokens[5].find(rest)) {
            (Before::Value, _) => {
                self.at += 1;
                Before::Opening
            }
            (Before::Opening, Some(found)) => {
                self.at += found.len();
                Before::Value
            }
            _ => {
                let end = line_end(self.text, self.at);
                let line = &self.text[self.at..end];
                let goes_on =
                    line.contains(&b'`') || line.windows(2).any(|pair| pair == b"/*") || line.ends_with(b"\\");
                if in_template || goes_on {
                    self.lost();
                } else {
                    self.read[self.at..end].fill(Read::Unknown);
                    self.at = end;
                }
                Before::Bracket
            }
        }
    }

    /// Reads a template behind its first backtick.
    fn template(&mut self, depth: usize) {
        const DEEPEST: usize = 20;
        while self.at < self.text.len() {
            match self.text[self.at..] {
                [b'`', ..] => {
                    self.at += 1;
                    return;
                }
                [b'\\', ..] => self.at = self.text.len().min(self.at + 2),
                [b'$', b'{', ..] if depth == DEEPEST => self.lost(),
                [b'$', b'{', ..] => {
                    let start = self.at;
                    self.at += 2;
                    self.code(true, depth + 1);
                    // A comment inside a template is a part of its text here.
                    let end = self.at;
                    self.read[start..end]
                        .iter_mut()
                        .filter(|read| **read == Read::Comment)
                        .for_each(|read| *read = Read::Text);
                    self.at = self.text.len().min(end + 1);
                }
                _ => self.at += 1,
            }
        }
    }
}

/// Where two readings of a text say otherwise of a byte that prints; and where the first takes text for a comment, if that alone matters.
pub(crate) fn disagreement(text: &[u8], comments: &[Range<usize>], read: &[Read], only_worse: bool) -> Option<usize> {
    let mut fast = vec![Read::Text; text.len()];
    for range in comments {
        fast[range.clone()].fill(Read::Comment);
    }
    (0..text.len()).find(|&at| {
        let worse = fast[at] == Read::Comment && read[at] == Read::Text;
        let other = fast[at] == Read::Text && read[at] == Read::Comment;
        !text[at].is_ascii_whitespace() && (worse || !only_worse && other)
    })
}
