//! The rules that hold for one file, made ready to read its lines.

use std::ops::Range;
use std::sync::Arc;

use super::comments::comments;
use super::mask::{LineMask, MaskedSpan, StandsFor};
use super::named::NamePattern;
use super::pattern::Pattern;
use super::rename::Rename;
use super::syntax::Syntax;
use super::{Effect, Rule, Value, What};
use crate::internal::text::words::line_end_len;

/// The rules that hold for one file. Without rules it is clear: every line is read as it stands.
#[derive(Clone, Debug, Default)]
pub struct FileRules {
    /// Those that ignore stand first.
    rules: Vec<Arc<Rule>>,
    syntax: Option<&'static Syntax>,
    /// Whether the other file of the pair is of another language.
    differs_in_language: bool,
    pub(super) case: Option<usize>,
    comments: Option<usize>,
    blank_lines: Option<usize>,
    line_breaks: Option<usize>,
    line_ends: Option<usize>,
    final_newline: Option<usize>,
    punctuation: Option<usize>,
    space: Option<usize>,
    amount: Option<usize>,
    leading: Option<usize>,
    trailing: Option<usize>,
    matchers: Vec<(usize, Matcher)>,
    long: Vec<(usize, Pattern)>,
    columns: Vec<(usize, NamePattern)>,
    paths: Vec<(usize, NamePattern)>,
    /// How many rules are about text.
    about_text: usize,
}

/// What is looked for inside a line.
#[derive(Clone, Debug)]
enum Matcher {
    Value(Value),
    Pattern(Pattern),
    Rename(Rename),
    Characters(Vec<Range<usize>>),
}

impl FileRules {
    /// Whether line ends are masked.
    pub fn forgets_line_ends(&self) -> bool {
        self.line_ends.is_some()
    }

    /// Makes some rules ready for a file of this name.
    pub(super) fn new(mut rules: Vec<Arc<Rule>>, name: &str) -> Self {
        rules.sort_by_key(|rule| rule.effect());
        let mut file_rules = Self { syntax: Syntax::of(name), ..Self::default() };
        for (index, rule) in rules.iter().enumerate() {
            for what in rule.parts() {
                file_rules.take(index, what);
            }
        }
        file_rules.rules = rules;
        if file_rules.case.is_some() {
            for (_, matcher) in &mut file_rules.matchers {
                if let Matcher::Rename(rename) = matcher {
                    rename.forget_case();
                }
            }
        }
        file_rules
    }

    fn take(&mut self, index: usize, what: &What) {
        let first = |slot: &mut Option<usize>| *slot = slot.or(Some(index));
        match what {
            What::Case => first(&mut self.case),
            What::Space => first(&mut self.space),
            What::SpaceAmount => first(&mut self.amount),
            What::LeadingSpace => first(&mut self.leading),
            What::TrailingSpace => first(&mut self.trailing),
            What::EdgeSpace => {
                first(&mut self.leading);
                first(&mut self.trailing);
            }
            What::BlankLines => first(&mut self.blank_lines),
            What::LineBreaks => {
                // Where a line is broken elsewhere, its indentation and the number of its blanks go with the break.
                first(&mut self.line_breaks);
                first(&mut self.leading);
                first(&mut self.trailing);
                first(&mut self.amount);
            }
            What::LineEnds => first(&mut self.line_ends),
            What::FinalNewline => first(&mut self.final_newline),
            What::Comments => first(&mut self.comments),
            What::TrailingPunctuation => first(&mut self.punctuation),
            What::Value(value) => self.matchers.push((index, Matcher::Value(*value))),
            What::Pattern(pattern) => self.matchers.push((index, Matcher::Pattern(pattern.clone()))),
            What::Renamed(rename) => self.matchers.push((index, Matcher::Rename(rename.clone()))),
            What::LongPattern(pattern) => self.long.push((index, pattern.clone())),
            What::Characters(ranges) => self.matchers.push((index, Matcher::Characters(ranges.clone()))),
            What::Column(name) => self.columns.push((index, name.clone())),
            What::Path(path) => self.paths.push((index, path.clone())),
        }
        self.about_text += usize::from(!matches!(what, What::Column(_) | What::Path(_)));
    }

    /// Whether no rule holds.
    pub fn is_clear(&self) -> bool {
        self.rules.is_empty()
    }

    /// Whether no rule is about text: what there are is about columns, or paths.
    pub fn reads_no_text(&self) -> bool {
        self.about_text == 0
    }

    /// The first rule about a column of this name.
    pub fn of_column(&self, name: &str) -> Option<&Rule> {
        self.columns.iter().find(|(_, pattern)| pattern.fits(name)).map(|(rule, _)| &*self.rules[*rule])
    }

    /// The first rule about a path.
    pub fn of_path(&self, path: &str) -> Option<&Rule> {
        self.paths.iter().find(|(_, pattern)| pattern.fits(path)).map(|(rule, _)| &*self.rules[*rule])
    }

    /// Whether there are rules about paths.
    pub fn names_paths(&self) -> bool {
        !self.paths.is_empty()
    }

    /// The rule about comments, if there is one.
    pub fn of_comments(&self) -> Option<&Rule> {
        self.comments.map(|rule| &*self.rules[rule])
    }

    /// Whether a line is read alike wherever it stands, and in whichever of two files: no rule looks beyond a line.
    pub fn is_local(&self) -> bool {
        self.long.is_empty() && (self.comments.is_none() || self.syntax.is_none() && !self.differs_in_language)
    }

    /// The same for a file that is compared with one of another language.
    pub(super) fn beside_another_language(mut self) -> Self {
        self.differs_in_language = true;
        self
    }

    /// Whether files of two names have comments of the same language.
    pub(super) fn reads_alike(one: &[u8], other: &[u8]) -> bool {
        let language = |path: &[u8]| Syntax::of(&String::from_utf8_lossy(path)).map(|syntax| syntax as *const Syntax);
        one == other || language(one) == language(other)
    }

    /// The rules, those that ignore first.
    pub fn rules(&self) -> &[Arc<Rule>] {
        &self.rules
    }

    /// What becomes of the difference between capital and small letters; nothing when it counts.
    pub fn case_effect(&self) -> Option<Effect> {
        self.case.map(|rule| self.effect(rule))
    }

    /// The index of the rule about capital and small letters: what it matches cannot be pointed at.
    pub fn case_rule(&self) -> Option<usize> {
        self.case
    }

    /// The index of the rule about where lines are broken: what it matches lies between lines too.
    pub fn line_breaks(&self) -> Option<usize> {
        self.line_breaks
    }

    /// Whether a line may hold a comment that goes up to its end: whether its sign stands in it, which may be text too.
    pub(super) fn holds_line_comment(&self, content: &[u8]) -> bool {
        let mut marks = self.syntax.iter().flat_map(|syntax| syntax.line);
        marks.any(|line| memchr::memmem::find(content, line.mark.as_bytes()).is_some())
    }

    /// Whether no white space counts, inside words too.
    pub fn ignores_all_space(&self) -> bool {
        self.space.is_some()
    }

    /// Whether the file is of no language whose comments are known.
    pub(super) fn is_prose(&self) -> bool {
        self.syntax.is_none()
    }

    /// The signs that begin a line of a comment, and of text that somebody quotes.
    pub(super) fn line_signs(&self) -> impl Iterator<Item = &'static [u8]> {
        let quotes = self.is_prose().then_some(&b">"[..]);
        let stars = self.syntax.is_some_and(|syntax| syntax.block.iter().any(|block| block.open == "/*"));
        let marks = self.syntax.iter().flat_map(|syntax| syntax.line).map(|line| line.mark.as_bytes());
        marks.chain(stars.then_some(&b"*"[..])).chain(quotes)
    }

    /// The first rule that mutes some of a line.
    pub fn muting(&self, mask: &LineMask) -> Option<usize> {
        mask.spans.iter().map(|span| span.rule).find(|rule| self.effect(*rule) == Effect::Mute)
    }

    pub(super) fn effect(&self, rule: usize) -> Effect {
        self.rules[rule].effect()
    }

    /// Where the rules that look beyond a line match in a whole text: by rule, in order.
    pub(super) fn long_spans(&self, text: &[u8]) -> Vec<(usize, Vec<Range<usize>>)> {
        let mut spans = Vec::new();
        if let (Some(rule), Some(syntax)) = (self.comments, self.syntax) {
            let found = comments(text, syntax).into_iter().map(|range| with_blanks(text, range));
            spans.push((rule, found.collect()));
        }
        for (rule, pattern) in &self.long {
            let found = pattern.find(text, self.case.is_some()).filter(|range| !range.is_empty());
            spans.push((*rule, found.collect()));
        }
        spans
    }

    /// Reads a line: what of it is masked. `spans` are the parts of it that rules which look beyond a line match, and
    /// `line_end` is how lines end in its text.
    pub(super) fn mask_of(&self, line: &[u8], spans: Vec<(usize, Range<usize>)>, line_end: &'static [u8]) -> LineMask {
        let end = line_end_len(line);
        let content = &line[..line.len() - end];
        let mut spans = self.matches(content, spans);
        if let Some(rule) = self.punctuation
            && let Some(at) = last_counted(content, &spans).filter(|&at| matches!(content[at], b';' | b','))
        {
            insert(&mut spans, MaskedSpan { range: at..at + 1, rule, stands_for: StandsFor::NOTHING });
        }
        let taken = spans.iter().find(|span| self.takes_lines(span.rule)).map(|span| span.rule);
        let blank = last_counted(content, &spans).is_none();
        let mut mask = LineMask::default();
        if blank {
            let by_blank = self.blank_lines.filter(|_| is_blank(content));
            mask.gone = by_blank.or(taken);
            let ignored = |rule: &usize| self.effect(*rule) == Effect::Ignore;
            // Without what is muted, is it still excluded?
            mask.gone_ignored = by_blank.filter(ignored).or_else(|| {
                let kept: Vec<MaskedSpan> = spans.iter().filter(|span| ignored(&span.rule)).cloned().collect();
                let taken = kept.iter().find(|span| self.takes_lines(span.rule)).map(|span| span.rule);
                taken.filter(|_| last_counted(content, &kept).is_none())
            });
        }
        self.put_space_aside(content, &mut spans);
        if let (Some(rule), 2) = (self.line_ends, end) {
            spans.push(MaskedSpan { range: content.len()..content.len() + 1, rule, stands_for: StandsFor::NOTHING });
        }
        if let (Some(rule), 0) = (self.final_newline, end) {
            // A carriage return at the end is text, and no half of a line end.
            let is_return = content.ends_with(b"\r") && spans.last().is_none_or(|span| span.range.end < content.len());
            let stands_for: &[u8] = match self.line_ends {
                _ if is_return => b"\0\n",
                Some(_) => b"\n",
                None => line_end,
            };
            spans.push(MaskedSpan { range: line.len()..line.len(), rule, stands_for: StandsFor::Fixed(stands_for) });
        }
        mask.spans = spans;
        mask
    }

    fn takes_lines(&self, rule: usize) -> bool {
        self.rules[rule].parts().any(What::takes_lines)
    }

    /// What the rules that look for text match, each byte being given to the first rule that matches it.
    fn matches(&self, content: &[u8], spans: Vec<(usize, Range<usize>)>) -> Vec<MaskedSpan> {
        let mut claims = spans;
        let mut found = Vec::new();
        for (rule, matcher) in &self.matchers {
            match matcher {
                Matcher::Value(value) => value.find(content, &mut found),
                Matcher::Pattern(pattern) => found.extend(pattern.find(content, self.case.is_some())),
                Matcher::Rename(rename) => found.extend(rename.find(content)),
                Matcher::Characters(ranges) => found.extend(ranges.iter().map(|range| bytes_of(content, range))),
            }
            claims.extend(found.drain(..).filter(|range| !range.is_empty()).map(|range| (*rule, range)));
        }
        let mut spans = resolved(claims, content.len());
        self.put_names(content, &mut spans);
        spans
    }

    /// Puts the new name for what is renamed, where no other rule took a part of it.
    fn put_names(&self, content: &[u8], spans: &mut [MaskedSpan]) {
        for (rule, matcher) in &self.matchers {
            let Matcher::Rename(rename) = matcher else { continue };
            for range in rename.find(content) {
                let at = spans.partition_point(|span| span.range.start < range.start);
                if let Some(span) = spans.get_mut(at).filter(|span| span.range == range && span.rule == *rule) {
                    span.stands_for = StandsFor::Name(Arc::clone(rename.stands_for()));
                }
            }
        }
    }

    /// Whether something is renamed, so that lines which match may count all the same.
    pub fn renames(&self) -> bool {
        self.matchers.iter().any(|(_, matcher)| matches!(matcher, Matcher::Rename(_)))
    }

    /// A path with the new names of what is renamed in it, and the effect of the rule that did the most; nothing where nothing is.
    pub fn renamed_path(&self, path: &[u8]) -> Option<(Vec<u8>, Effect)> {
        let mut renamed = path.to_vec();
        let mut effect = Effect::Ignore;
        for (rule, matcher) in &self.matchers {
            if let Matcher::Rename(rename) = matcher
                && let Some(new) = rename.applied(&renamed)
            {
                renamed = new;
                effect = effect.max(self.effect(*rule));
            }
        }
        (renamed != path).then_some((renamed, effect))
    }

    /// Whether what is renamed in two lines that match, which are given with what is masked in them, goes the other way round.
    pub(super) fn is_renamed_back(&self, before: (&[u8], &LineMask), after: (&[u8], &LineMask)) -> bool {
        let names = |mask: &LineMask| {
            let spans = mask.spans.iter().filter(|span| matches!(span.stands_for, StandsFor::Name(_)));
            spans.map(|span| span.range.clone()).collect::<Vec<_>>()
        };
        let (one, other) = (names(before.1), names(after.1));
        let renames = || {
            self.matchers
                .iter()
                .filter_map(|(_, matcher)| if let Matcher::Rename(it) = matcher { Some(it) } else { None })
        };
        one.into_iter()
            .zip(other)
            .any(|(b, a)| renames().any(|rename| rename.is_reversed(&before.0[b.clone()], &after.0[a.clone()])))
    }

    /// Masks white space in what is left of a line.
    fn put_space_aside(&self, content: &[u8], spans: &mut Vec<MaskedSpan>) {
        if [self.space, self.amount, self.leading, self.trailing].iter().all(Option::is_none) {
            return;
        }
        let (mut runs, mut first, mut last) = (Vec::new(), content.len(), 0);
        for free in free_ranges(content.len(), spans) {
            let mut at = free.start;
            while at < free.end {
                let (is_space, length) = character(&content[at..free.end]);
                if !is_space {
                    (first, last) = (first.min(at), at + length);
                } else if let Some(run) = runs.last_mut().filter(|run: &&mut Range<usize>| run.end == at) {
                    run.end = at + length;
                } else {
                    runs.push(at..at + length);
                }
                at += length;
            }
        }
        let mut found = Vec::with_capacity(runs.len());
        let mut previous: Option<Range<usize>> = None;
        for run in runs {
            let erased =
                [self.space, self.leading.filter(|_| run.start < first), self.trailing.filter(|_| run.start >= last)];
            let joined = previous.as_ref().is_some_and(|other| counted_between(other.end..run.start, spans) == 0);
            if let Some(rule) = erased.into_iter().flatten().min() {
                found.push(MaskedSpan { range: run.clone(), rule, stands_for: StandsFor::NOTHING });
            } else if let Some(rule) = self.amount {
                // Runs with nothing but masked text between them are one run.
                found.push(MaskedSpan {
                    range: run.clone(),
                    rule,
                    stands_for: StandsFor::Fixed(if joined { b"" } else { b" " }),
                });
            }
            previous = Some(run);
        }
        spans.extend(found);
        spans.sort_by_key(|span| span.range.start);
    }
}

/// A comment with the blanks that belong to it: those before one that ends its line, and those behind one that a blank precedes.
fn with_blanks(text: &[u8], comment: Range<usize>) -> Range<usize> {
    let blank = |byte: &&u8| matches!(byte, b' ' | b'\t');
    let before = text[..comment.start].iter().rev().take_while(blank).count();
    let behind = text[comment.end..].iter().take_while(blank).count();
    let next = text.get(comment.end + behind);
    let ends_line = next.is_none_or(|byte| *byte == b'\n')
        || *next.unwrap_or(&0) == b'\r' && text.get(comment.end + behind + 1) == Some(&b'\n');
    let starts_line = text[..comment.start - before].last().is_none_or(|byte| *byte == b'\n');
    let spans_lines = memchr::memchr(b'\n', &text[comment.clone()]).is_some();
    if ends_line {
        comment.start - before..comment.end + behind
    } else if before > 0 || starts_line || spans_lines {
        comment.start..comment.end + behind
    } else {
        comment
    }
}

/// Gives each byte to the first rule that claims it.
fn resolved(mut claims: Vec<(usize, Range<usize>)>, length: usize) -> Vec<MaskedSpan> {
    let span = |(rule, range)| MaskedSpan { range, rule, stands_for: StandsFor::NOTHING };
    if claims.windows(2).all(|pair| pair[0].0 == pair[1].0 && pair[0].1.end <= pair[1].1.start) {
        return claims.into_iter().map(span).collect();
    }
    const NOBODY: usize = usize::MAX;
    let mut owner = vec![NOBODY; length];
    claims.sort_by_key(|(rule, _)| std::cmp::Reverse(*rule));
    for (rule, range) in claims {
        owner[range].fill(rule);
    }
    let mut spans = Vec::new();
    let mut at = 0;
    for run in owner.chunk_by(|one, other| one == other) {
        if run[0] != NOBODY {
            spans.push(span((run[0], at..at + run.len())));
        }
        at += run.len();
    }
    spans
}

fn insert(spans: &mut Vec<MaskedSpan>, span: MaskedSpan) {
    let at = spans.partition_point(|other| other.range.start < span.range.start);
    spans.insert(at, span);
}

/// What is not masked.
fn free_ranges(length: usize, spans: &[MaskedSpan]) -> Vec<Range<usize>> {
    let mut free = Vec::with_capacity(spans.len() + 1);
    let mut at = 0;
    for span in spans {
        if span.range.start > at {
            free.push(at..span.range.start);
        }
        at = span.range.end;
    }
    if at < length {
        free.push(at..length);
    }
    free
}

/// The start of the last character that is neither masked nor white space.
fn last_counted(content: &[u8], spans: &[MaskedSpan]) -> Option<usize> {
    // From the end backwards, over what is masked, to the first character that is no white space.
    let mut end = content.len();
    for span in spans.iter().rev().map(Some).chain([None]) {
        let start = span.map_or(0, |span| span.range.end);
        while end > start {
            let at = (start..end).rev().find(|&at| content[at] & 0b1100_0000 != 0b1000_0000).unwrap_or(start);
            if !character(&content[at..end]).0 {
                return Some(at);
            }
            end = at;
        }
        end = span.map_or(0, |span| span.range.start);
    }
    None
}

/// How many bytes of a range are not masked.
fn counted_between(range: Range<usize>, spans: &[MaskedSpan]) -> usize {
    let from = spans.partition_point(|span| span.range.start < range.start);
    let inside = spans[from..].iter().take_while(|span| span.range.end <= range.end);
    range.len() - inside.map(|span| span.range.len()).sum::<usize>()
}

/// Whether a text is white space, by Unicode, from end to end.
fn is_blank(content: &[u8]) -> bool {
    let mut at = 0;
    while at < content.len() {
        let (is_space, length) = character(&content[at..]);
        if !is_space {
            return false;
        }
        at += length;
    }
    true
}

/// Whether a byte is white space of ASCII.
pub(super) fn is_white_space(byte: u8) -> bool {
    byte.is_ascii_whitespace() || byte == 0x0b
}

/// Whether a text begins with white space, by Unicode, and how long its first character is.
fn character(text: &[u8]) -> (bool, usize) {
    let first = text[0];
    if first.is_ascii() {
        return (is_white_space(first), 1);
    }
    let head = &text[..text.len().min(4)];
    let valid = match std::str::from_utf8(head) {
        Ok(valid) => valid,
        Err(error) => std::str::from_utf8(&head[..error.valid_up_to()]).unwrap_or_default(),
    };
    valid.chars().next().map_or((false, 1), |c| (c.is_whitespace(), c.len_utf8()))
}

/// The bytes of some characters of a line.
fn bytes_of(content: &[u8], characters: &Range<usize>) -> Range<usize> {
    if content.is_ascii() {
        return characters.start.min(content.len())..characters.end.min(content.len());
    }
    let (mut at, mut seen, mut start) = (0, 0, content.len());
    while at < content.len() && seen < characters.end {
        if seen == characters.start {
            start = at;
        }
        at += character(&content[at..]).1;
        seen += 1;
    }
    start.min(at)..at
}
