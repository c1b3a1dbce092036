//! Finding the comments of a text: a scanner that a row of [`super::languages`] steers.
//!
//! It knows line, block and nested comments, and steps over all that only looks like one: quoted text of every shape,
//! regular expressions, here-documents, tags and attributes. It never looks back further than a line, and every byte is passed once.

use std::ops::Range;

use super::languages::{Block, LanguageFeature, Line, MarkPosition, Quote, QuoteExtent, SCRIPT, STYLE, Syntax};
use crate::internal::text::bytes::{line_end, line_start};

/// The comments of a text, in order, without the line end of the last line of each.
///
/// ```
/// use tideline_core::internal::rules::{comments, languages::Syntax};
///
/// let found = comments(b"a(); // \"one\"\nb(\"// none\");\n", Syntax::of("x.c").unwrap());
/// assert_eq!(found, [5..13]);
/// ```
pub fn comments(text: &[u8], syntax: &Syntax) -> Vec<Range<usize>> {
    let mut scanner = Scanner { text, at: 0, found: Vec::new() };
    if syntax.has(LanguageFeature::Islands) {
        scanner.islands(syntax);
    } else if syntax.has(LanguageFeature::Tags) {
        scanner.page(syntax.name == "HTML", None);
    } else {
        scanner.code(syntax, None);
    }
    scanner.found
}

struct Scanner<'t> {
    text: &'t [u8],
    at: usize,
    found: Vec<Range<usize>>,
}

impl Scanner<'_> {
    fn rest(&self) -> &[u8] {
        &self.text[self.at.min(self.text.len())..]
    }

    fn ahead(&self, mark: &str) -> bool {
        self.rest().starts_with(mark.as_bytes())
    }

    /// Where a mark stands from some place on; the end of the text when it does not.
    fn find(&self, mark: &str, from: usize) -> Option<usize> {
        let from = from.min(self.text.len());
        memchr::memmem::find(&self.text[from..], mark.as_bytes()).map(|at| from + at)
    }

    fn comment(&mut self, end: usize) {
        self.found.push(self.at..end);
        self.at = end;
    }

    /// Reads code up to `until` (in any case of its letters), or to the end.
    fn code(&mut self, syntax: &Syntax, until: Option<&str>) {
        let interesting = interesting(syntax, until);
        let mut documents: Vec<Vec<u8>> = Vec::new();
        while self.at < self.text.len() {
            if !interesting[usize::from(self.text[self.at])] {
                self.at += 1;
                continue;
            }
            if until.is_some_and(|mark| starts_with_any_case(self.rest(), mark)) {
                return;
            }
            if self.text[self.at] == b'\n' && !documents.is_empty() {
                self.at += 1;
                self.step_over_documents(&mut documents);
                continue;
            }
            let stepped = self.habit(syntax, &mut documents)
                || self.block(syntax.block)
                || self.line(syntax, until)
                || self.quote(syntax.quotes);
            if !stepped {
                self.at += 1;
            }
        }
    }

    /// A page: comments stand between tags, quotes count inside them.
    fn page(&mut self, scripts: bool, until: Option<&str>) {
        while let Some(found) = memchr::memchr(b'<', self.rest()) {
            self.at += found;
            if until.is_some_and(|mark| self.ahead(mark)) {
                return;
            }
            if self.ahead("<!--") {
                self.block(&[Block { open: "<!--", close: "-->", nested: false, stands: MarkPosition::Anywhere }]);
            } else if self.ahead("<![CDATA[") {
                self.at = self.find("]]>", self.at).map_or(self.text.len(), |end| end + 3);
            } else if self.rest().get(1).is_some_and(|byte| byte.is_ascii_alphabetic() || *byte == b'/') {
                self.tag(scripts);
            } else {
                self.at += 1;
            }
        }
        self.at = self.text.len();
    }

    /// A tag with its attributes; of a script or a style sheet, what it holds too.
    fn tag(&mut self, scripts: bool) {
        let start = self.at;
        let mut at = start + 1;
        while at < self.text.len() && self.text[at] != b'>' {
            let quoted = matches!(self.text[at], b'"' | b'\'');
            let end = quoted.then(|| memchr::memchr(self.text[at], &self.text[at + 1..])).flatten();
            at += end.map_or(1, |end| end + 2);
        }
        self.at = (at + 1).min(self.text.len());
        let holds = |name: &str| scripts && starts_with_any_case(&self.text[start..], name);
        if holds("<script") {
            self.code(&SCRIPT, Some("</script"));
        } else if holds("<style") {
            self.code(&STYLE, Some("</style"));
        }
    }

    /// Code between `<?` and `?>`, in a page.
    fn islands(&mut self, syntax: &Syntax) {
        while self.at < self.text.len() {
            self.page(true, Some("<?"));
            self.at = (self.at + 2).min(self.text.len());
            self.code(syntax, Some("?>"));
        }
    }

    fn stands(&self, stands: MarkPosition, length: usize) -> bool {
        let before = self.at.checked_sub(1).map(|at| self.text[at]);
        match stands {
            MarkPosition::Anywhere => true,
            MarkPosition::FirstColumn => before.is_none_or(|byte| byte == b'\n'),
            MarkPosition::LineStart => {
                self.text[line_start(self.text, self.at)..self.at].iter().all(u8::is_ascii_whitespace)
            }
            MarkPosition::Apart => before.is_none_or(|byte| byte.is_ascii_whitespace() || b";&|([{,:=".contains(&byte)),
            MarkPosition::NoOperator => {
                let symbol = |byte: &u8| b"!#$%&*+./<=>?@\\^|~:".contains(byte);
                let end = self.text[self.at..].iter().take_while(|&&byte| byte == b'-').count();
                !before.as_ref().is_some_and(symbol) && !self.text.get(self.at + end.max(length)).is_some_and(symbol)
            }
        }
    }

    fn block(&mut self, blocks: &[Block]) -> bool {
        let Some(block) = blocks.iter().find(|block| self.ahead(block.open) && self.stands(block.stands, 0)) else {
            return false;
        };
        if block.stands == MarkPosition::FirstColumn && !self.rest()[1..].first().is_some_and(u8::is_ascii_alphabetic) {
            return false;
        }
        let mut depth = 1;
        let mut at = self.at + block.open.len();
        while depth > 0 {
            let Some(close) = self.find(block.close, at) else {
                at = self.text.len();
                break;
            };
            let inner = memchr::memmem::find(&self.text[at..close], block.open.as_bytes()).filter(|_| block.nested);
            match inner {
                Some(open) => (depth, at) = (depth + 1, at + open + block.open.len()),
                None => (depth, at) = (depth - 1, close + block.close.len()),
            }
        }
        if block.stands == MarkPosition::FirstColumn {
            at = content_end(self.text, at);
        }
        self.comment(at);
        true
    }

    fn line(&mut self, syntax: &Syntax, until: Option<&str>) -> bool {
        let fits = |line: &&Line| self.ahead(line.mark) && self.stands(line.stands, line.mark.len());
        let Some(line) = syntax.line.iter().find(fits) else {
            return false;
        };
        if line.mark == "#" && syntax.name == "PHP" && self.ahead("#[") {
            // An attribute.
            return false;
        }
        let mut end = content_end(self.text, self.at);
        while syntax.has(LanguageFeature::Continues) && end < self.text.len() && self.text[..end].ends_with(b"\\") {
            end = content_end(self.text, line_end(self.text, end));
        }
        if let Some(mark) = until
            && let Some(inner) = memchr::memmem::find(&self.text[self.at..end], mark.as_bytes())
        {
            end = self.at + inner;
        }
        self.comment(end);
        true
    }

    fn quote(&mut self, quotes: &[Quote]) -> bool {
        let fits = |quote: &&Quote| self.ahead(quote.open) && self.stands(quote.stands, 0);
        let end = quotes.iter().filter(fits).find_map(|quote| self.end_of(quote));
        match end {
            Some(end) => self.at = end,
            None => return false,
        }
        true
    }

    /// Where quoted text that begins here ends; `None` when it does not as its kind must.
    fn end_of(&self, quote: &Quote) -> Option<usize> {
        let start = self.at + quote.open.len();
        let mut at = start;
        while at < self.text.len() {
            if quote.escapes && self.text[at] == b'\\' {
                at += 2;
                continue;
            }
            let closes = |at: usize| self.text[at..].starts_with(quote.close.as_bytes());
            if closes(at) {
                // Where nothing escapes, a doubled quote stands for one.
                if !quote.escapes && quote.open == quote.close && quote.close.len() == 1 && closes(at + 1) {
                    at += 2;
                    continue;
                }
                let one = || std::str::from_utf8(&self.text[start..at]).is_ok_and(is_one_character);
                return (quote.holds != QuoteExtent::OneCharacter || one()).then_some(at + quote.close.len());
            }
            if self.text[at] == b'\n' && quote.holds != QuoteExtent::Lines {
                return None;
            }
            at += 1;
            if quote.holds == QuoteExtent::OneCharacter && at > start + 12 {
                return None;
            }
        }
        (quote.holds == QuoteExtent::Lines).then_some(self.text.len())
    }

    fn habit(&mut self, syntax: &Syntax, documents: &mut Vec<Vec<u8>>) -> bool {
        let end = syntax.habits.iter().find_map(|habit| match (habit, self.text[self.at]) {
            (LanguageFeature::Escapes, b'\\') => Some(self.at + 2),
            (LanguageFeature::HashedQuotes, b'r') => self.hashed_quote(),
            (LanguageFeature::NamedQuotes, b'R') => self.named_quote(),
            (LanguageFeature::LongBrackets, b'[') => self.long_bracket(self.at),
            (LanguageFeature::Patterns, b'/') => self.pattern(),
            (LanguageFeature::BlockScalars, b'|' | b'>') => self.block_scalar(),
            _ => None,
        });
        if let Some(end) = end {
            self.at = end.min(self.text.len());
            return true;
        }
        if syntax.has(LanguageFeature::LongBrackets)
            && self.ahead("--[")
            && let Some(end) = self.long_bracket(self.at + 2)
        {
            self.comment(end);
            return true;
        }
        if syntax.has(LanguageFeature::HereDocuments)
            && let Some((word, end)) = self.here_document(syntax.name)
        {
            documents.push(word);
            self.at = end;
            return true;
        }
        false
    }

    fn hashed_quote(&self) -> Option<usize> {
        let hashes = self.text[self.at + 1..].iter().take_while(|&&byte| byte == b'#').count();
        let before = self.text[..self.at].iter().rev().take_while(|byte| is_word(**byte)).count();
        // A prefix of one letter (`br`) is part of it; a longer word that ends in `r` is not.
        if before > 1 || self.text.get(self.at + 1 + hashes) != Some(&b'"') {
            return None;
        }
        let close = format!("\"{}", "#".repeat(hashes));
        Some(self.find(&close, self.at + 2 + hashes).map_or(self.text.len(), |end| end + close.len()))
    }

    fn named_quote(&self) -> Option<usize> {
        let name = self.rest().strip_prefix(b"R\"")?;
        let length = name.iter().take(17).position(|&byte| byte == b'(')?;
        let close = format!("){}\"", String::from_utf8_lossy(&name[..length]));
        Some(self.find(&close, self.at).map_or(self.text.len(), |end| end + close.len()))
    }

    fn long_bracket(&self, at: usize) -> Option<usize> {
        let level = self.text[at..].strip_prefix(b"[")?.iter().take_while(|&&byte| byte == b'=').count();
        if self.text.get(at + 1 + level) != Some(&b'[') {
            return None;
        }
        let close = format!("]{}]", "=".repeat(level));
        Some(self.find(&close, at + 2 + level).map_or(self.text.len(), |end| end + close.len()))
    }

    /// A regular expression between slashes, where a value may stand: behind an operator, a bracket or certain words.
    fn pattern(&self) -> Option<usize> {
        const WORDS: [&[u8]; 9] = [b"return", b"typeof", b"case", b"in", b"of", b"if", b"when", b"and", b"or"];
        if matches!(self.text.get(self.at + 1), None | Some(b'/' | b'*')) {
            return None;
        }
        let above = self.text[..self.at].trim_ascii_end();
        let word = above.len() - above.iter().rev().take_while(|byte| is_word(**byte)).count();
        let value_may_stand = match above.last() {
            None => true,
            Some(byte) => b"(,=:[!&|?{};+-*%<>~^".contains(byte) || WORDS.contains(&&above[word..]),
        };
        if !value_may_stand {
            return None;
        }
        let mut in_class = false;
        let mut at = self.at + 1;
        while at < self.text.len() {
            match self.text[at] {
                b'\\' => at += 1,
                b'[' => in_class = true,
                b']' => in_class = false,
                b'/' if !in_class => return Some(at + 1),
                b'\n' => return None,
                _ => {}
            }
            at += 1;
        }
        None
    }

    /// A `|` or `>` that ends its line, with the deeper lines below it.
    fn block_scalar(&mut self) -> Option<usize> {
        if !self.stands(MarkPosition::Apart, 1) {
            return None;
        }
        let end = content_end(self.text, self.at);
        let rest = &self.text[self.at + 1..end];
        let signs = rest.iter().take_while(|byte| matches!(byte, b'+' | b'-' | b'0'..=b'9')).count();
        let remark = rest[signs..].trim_ascii_start();
        if !remark.is_empty() && remark[0] != b'#' {
            return None;
        }
        if !remark.is_empty() {
            self.found.push(end - remark.len()..end);
        }
        let start = line_start(self.text, self.at);
        let line = &self.text[start..self.at];
        let leading = line.iter().take_while(|byte| matches!(byte, b' ' | b'-')).count();
        let depth =
            if leading == line.len() { line.iter().rposition(|&byte| byte == b'-').unwrap_or(0) } else { leading };
        let mut at = line_end(self.text, self.at);
        while at < self.text.len() {
            let next = line_end(self.text, at);
            let line = &self.text[at..next];
            let indented = line.iter().take_while(|&&byte| byte == b' ').count();
            if !line.trim_ascii().is_empty() && indented <= depth {
                break;
            }
            at = next;
        }
        Some(at)
    }

    /// The word that ends the document which `<<` begins here, and where the code goes on.
    fn here_document(&self, language: &str) -> Option<(Vec<u8>, usize)> {
        let php = language == "PHP";
        let rest = self.rest().strip_prefix(if php { &b"<<<"[..] } else { b"<<" })?;
        let offset = |rest: &[u8]| self.text.len() - rest.len();
        let flagged = rest.strip_prefix(b"-").or_else(|| rest.strip_prefix(b"~"));
        let rest = flagged.unwrap_or(rest);
        let rest = if php || language == "Shell" { rest.trim_ascii_start() } else { rest };
        let quote = rest.first().copied().filter(|byte| matches!(byte, b'"' | b'\''));
        let rest = if quote.is_some() { &rest[1..] } else { rest };
        let length = rest.iter().take_while(|byte| is_word(**byte)).count();
        let word = &rest[..length];
        let is_name =
            word.first().is_some_and(|byte| byte.is_ascii_uppercase() || !byte.is_ascii_digit() && flagged.is_some());
        let named =
            quote.is_some() || is_name || language == "Shell" && word.first().is_some_and(u8::is_ascii_alphabetic);
        // The text may end before the quote does.
        let end = (length + usize::from(quote.is_some())).min(rest.len());
        (length > 0 && named).then(|| (word.to_vec(), offset(&rest[end..])))
    }

    /// Steps over the documents that the line above began. One without an end is none.
    fn step_over_documents(&mut self, documents: &mut Vec<Vec<u8>>) {
        for word in documents.drain(..) {
            let mut at = self.at;
            while at < self.text.len() {
                let end = line_end(self.text, at);
                let line = self.text[at..end].trim_ascii();
                let rest = line.strip_prefix(&word[..]);
                at = end;
                if rest.is_some_and(|rest| rest.first().is_none_or(|byte| !is_word(*byte))) {
                    self.at = at;
                    break;
                }
            }
        }
    }
}

/// The bytes at which something may begin.
fn interesting(syntax: &Syntax, until: Option<&str>) -> [bool; 256] {
    let mut table = [false; 256];
    let marks = syntax.line.iter().map(|line| line.mark);
    let marks =
        marks.chain(syntax.block.iter().map(|block| block.open)).chain(syntax.quotes.iter().map(|quote| quote.open));
    for mark in marks.chain(until) {
        table[usize::from(mark.as_bytes()[0])] = true;
    }
    for habit in syntax.habits {
        let bytes: &[u8] = match habit {
            LanguageFeature::Escapes => b"\\",
            LanguageFeature::HashedQuotes => b"r",
            LanguageFeature::NamedQuotes => b"R",
            LanguageFeature::LongBrackets => b"[",
            LanguageFeature::Patterns => b"/",
            LanguageFeature::HereDocuments => b"<\n",
            LanguageFeature::BlockScalars => b"|>",
            LanguageFeature::Continues | LanguageFeature::Tags | LanguageFeature::Islands => b"",
        };
        for &byte in bytes {
            table[usize::from(byte)] = true;
        }
    }
    table
}

/// The end of a line without its line end.
fn content_end(text: &[u8], at: usize) -> usize {
    let end = line_end(text, at);
    let line = &text[at..end];
    end - crate::internal::text::words::line_end_len(line)
}

fn is_word(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || byte == b'_'
}

/// One character, or an escape that stands for one.
fn is_one_character(text: &str) -> bool {
    text.starts_with('\\') || text.chars().count() == 1
}

fn starts_with_any_case(text: &[u8], mark: &str) -> bool {
    text.get(..mark.len()).is_some_and(|head| head.eq_ignore_ascii_case(mark.as_bytes()))
}
