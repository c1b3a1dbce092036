//! Regular expressions of rules. Most runs need few of those that a configuration holds, so that one is compiled when a text
//! is first met in which it might match.

use std::ops::Range;
use std::sync::{Arc, OnceLock};

use memchr::memmem;
use regex::bytes::{Regex, RegexBuilder};
use regex_syntax::ParserBuilder;
use regex_syntax::hir::Hir;
use regex_syntax::hir::literal::Extractor;

/// A regular expression that is known to be well formed. Clones share what is compiled.
#[derive(Clone, Debug)]
pub struct Pattern(Arc<Source>);

#[derive(Debug)]
struct Source {
    text: String,
    over_lines: bool,
    /// What each match has, where the pattern is compiled later.
    needs: Option<Needs>,
    as_written: OnceLock<Regex>,
    in_any_case: OnceLock<Regex>,
}

/// What a text must have for a match.
#[derive(Debug)]
struct Needs {
    /// In bytes.
    length: usize,
    start: Vec<u8>,
}

impl Pattern {
    /// Reads a pattern; one that goes over lines has its `^` and `$` match at each of them.
    ///
    /// # Errors
    /// When it is malformed, or too large once compiled.
    pub(super) fn new(text: &str, over_lines: bool) -> Result<Self, regex::Error> {
        let source = Source {
            text: text.to_owned(),
            over_lines,
            needs: Needs::of(text, over_lines),
            as_written: OnceLock::new(),
            in_any_case: OnceLock::new(),
        };
        if source.needs.is_none() {
            let compiled = source.compile(false)?;
            source.as_written.get_or_init(|| compiled);
        }
        Ok(Self(Arc::new(source)))
    }

    /// Where it matches in a text, in order.
    pub(super) fn find<'t>(&'t self, text: &'t [u8], in_any_case: bool) -> impl Iterator<Item = Range<usize>> + 't {
        let found = self.might_match(text, in_any_case).then(|| self.regex(in_any_case).find_iter(text));
        found.into_iter().flatten().map(|hit| hit.range())
    }

    /// Whether it matches each of some texts from its start to its end; one of them has a single byte.
    pub(super) fn matches_whole(&self, samples: &[&str]) -> bool {
        let whole = |sample: &&str| self.find(sample.as_bytes(), false).next() == Some(0..sample.len());
        self.0.needs.is_none() && samples.iter().all(whole)
    }

    fn might_match(&self, text: &[u8], in_any_case: bool) -> bool {
        let source = &self.0;
        in_any_case
            || source.as_written.get().is_some()
            || source.needs.as_ref().is_none_or(|needs| needs.are_met_by(text))
    }

    fn regex(&self, in_any_case: bool) -> &Regex {
        let source = &self.0;
        let as_written = || source.as_written.get_or_init(|| source.compile(false).unwrap_or_else(|_| never()));
        if !in_any_case {
            return as_written();
        }
        source.in_any_case.get_or_init(|| source.compile(true).unwrap_or_else(|_| as_written().clone()))
    }
}

impl Source {
    fn compile(&self, in_any_case: bool) -> Result<Regex, regex::Error> {
        RegexBuilder::new(&self.text).case_insensitive(in_any_case).multi_line(self.over_lines).build()
    }
}

impl Needs {
    /// Of a pattern that can be compiled later: it is well formed, so short that without counted repetitions it stays far
    /// below the compiler's limit, and matches more than a byte each time, so that it cannot match everything.
    fn of(pattern: &str, over_lines: bool) -> Option<Self> {
        const SHORT: usize = 100;
        if pattern.len() > SHORT || pattern.contains('{') {
            return None;
        }
        let parsed: Hir = ParserBuilder::new().utf8(false).multi_line(over_lines).build().parse(pattern).ok()?;
        let length = parsed.properties().minimum_len().filter(|length| *length > 1)?;
        let starts = Extractor::new().extract(&parsed);
        Some(Self { length, start: starts.longest_common_prefix().unwrap_or_default().to_vec() })
    }

    fn are_met_by(&self, text: &[u8]) -> bool {
        text.len() >= self.length && memmem::find(text, &self.start).is_some()
    }
}

/// A pattern that matches nothing: of a rule, every difference counts.
pub(crate) fn never() -> Regex {
    Regex::new(r"[^\s\S]").unwrap_or_else(|error| unreachable!("a fixed pattern: {error}"))
}
