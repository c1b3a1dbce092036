//! Colours by syntax, under the colours of changes.
//!
//! The grammar of a file is told by its name. A grammar must read from somewhere above a line to know what it is inside of:
//! small files are read from their start, in large ones reading begins some lines above each stretch that is shown.
//! Grammars can be slow, and how slow is not known before: reading is bounded by the time it takes, over all files of a run.
//! Beyond the bound, lines have no span.

use std::ops::Range;
use std::sync::atomic::{AtomicU64, Ordering::Relaxed};
use std::sync::{Arc, OnceLock};
use std::time::{Duration, Instant};

use syntect::parsing::{ParseState, Scope, ScopeStack, SyntaxReference, SyntaxSet};
use tideline_core::internal::text::bytes::{line_end, lines_above};
use tideline_core::internal::text::file_type::FileType;

use crate::view::Syntax;

/// How far above a shown stretch reading begins, in lines.
const RUN_UP: usize = 100;
/// Lines longer than this have no span.
const LONGEST: usize = 2000;

/// What a piece of code is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Class {
    Comment,
    Text,
    Constant,
    Keyword,
    Name,
}

/// A piece of a line, and what it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct SyntaxSpan {
    pub(crate) bytes: Range<usize>,
    pub(crate) class: Class,
}

/// Reads one side of a comparison.
pub(crate) struct Highlighter<'a> {
    grammar: Option<&'a SyntaxReference>,
    reading: Option<HighlightState>,
    budget: Budget,
}

/// The time that is left for reading, shared by all painters of a run.
#[derive(Clone, Debug, Default)]
pub(crate) struct Budget {
    nanoseconds: Arc<AtomicU64>,
}

impl Budget {
    pub(crate) fn of(syntax: Syntax) -> Self {
        let milliseconds = match syntax {
            Syntax::Off => 0,
            Syntax::Auto => 300,
            Syntax::On => 60_000,
        };
        Self { nanoseconds: Arc::new(AtomicU64::new(milliseconds * 1_000_000)) }
    }

    fn is_spent(&self) -> bool {
        self.nanoseconds.load(Relaxed) == 0
    }

    fn spend(&self, time: Duration) {
        let spent = u64::try_from(time.as_nanos()).unwrap_or(u64::MAX);
        let left = self.nanoseconds.load(Relaxed).saturating_sub(spent);
        self.nanoseconds.store(left, Relaxed);
    }
}

struct HighlightState {
    state: ParseState,
    stack: ScopeStack,
    /// The line and the byte that come next.
    line: usize,
    byte: usize,
}

impl<'a> Highlighter<'a> {
    /// A painter for a file of this name; one that paints nothing where syntax colours are off or the type is unknown.
    pub(crate) fn new(name: &str, budget: Budget) -> Self {
        Self { grammar: if budget.is_spent() { None } else { grammar(name) }, reading: None, budget }
    }

    /// The spans of the line that starts at a byte of a text.
    pub(crate) fn syntax(&mut self, text: &[u8], line: usize, byte: usize) -> Vec<SyntaxSpan> {
        let Some(grammar) = self.grammar else { return Vec::new() };
        if self.reading.as_ref().is_none_or(|reading| reading.line > line || reading.line + RUN_UP < line) {
            let above = if line <= 2 * RUN_UP { line } else { RUN_UP };
            let (start, lines) = lines_above(text, byte, above);
            let state = ParseState::new(grammar);
            self.reading = Some(HighlightState { state, stack: ScopeStack::new(), line: line - lines, byte: start });
        }
        let Some(reading) = &mut self.reading else { return Vec::new() };
        loop {
            if self.budget.is_spent() {
                self.grammar = None;
                return Vec::new();
            }
            let (here, started) = (reading.line, Instant::now());
            let spans = reading.read(text);
            self.budget.spend(started.elapsed());
            if here >= line {
                return spans;
            }
        }
    }
}

impl HighlightState {
    /// Reads one line and goes on to the next.
    fn read(&mut self, text: &[u8]) -> Vec<SyntaxSpan> {
        let end = line_end(text, self.byte);
        let bytes = &text[self.byte..end];
        (self.line, self.byte) = (self.line + 1, end);
        let Ok(line) = std::str::from_utf8(bytes) else { return Vec::new() };
        if line.len() > LONGEST {
            return Vec::new();
        }
        let Ok(steps) = self.state.parse_line(line, grammars()) else { return Vec::new() };
        let mut spans = Vec::new();
        let mut start = 0;
        for (at, step) in steps {
            self.span(start..at, &mut spans);
            start = at;
            // A grammar that contradicts itself only costs its colours.
            if self.stack.apply(&step).is_err() {
                return spans;
            }
        }
        self.span(start..line.len(), &mut spans);
        spans
    }

    fn span(&self, bytes: Range<usize>, spans: &mut Vec<SyntaxSpan>) {
        if bytes.is_empty() {
            return;
        }
        if let Some(class) = self.stack.as_slice().iter().rev().find_map(|scope| class_of(*scope)) {
            spans.push(SyntaxSpan { bytes, class });
        }
    }
}

fn class_of(scope: Scope) -> Option<Class> {
    static CLASSES: OnceLock<Vec<(Scope, Class)>> = OnceLock::new();
    let classes = CLASSES.get_or_init(|| {
        const TABLE: [(&str, Class); 13] = [
            ("comment", Class::Comment),
            ("string", Class::Text),
            ("constant", Class::Constant),
            ("keyword.operator", Class::Name),
            ("keyword", Class::Keyword),
            ("storage", Class::Keyword),
            ("entity.name", Class::Name),
            ("entity.other", Class::Name),
            ("support", Class::Name),
            ("variable.language", Class::Constant),
            ("markup.heading", Class::Keyword),
            ("markup.raw", Class::Text),
            ("punctuation.definition.comment", Class::Comment),
        ];
        TABLE.iter().filter_map(|(name, class)| Some((Scope::new(name).ok()?, *class))).collect()
    });
    classes.iter().find(|(prefix, _)| prefix.is_prefix_of(scope)).map(|(_, class)| *class)
}

fn grammars() -> &'static SyntaxSet {
    static GRAMMARS: OnceLock<SyntaxSet> = OnceLock::new();
    GRAMMARS.get_or_init(two_face::syntax::extra_newlines)
}

/// Whether the type of a file of this name is known, so that it can be coloured by its syntax.
pub fn knows_syntax(name: &str) -> bool {
    grammar(name).is_some()
}

fn grammar(name: &str) -> Option<&'static SyntaxReference> {
    let (file, ending) = FileType::name_and_ending(name);
    let others = FileType::of(name).map_or(&[][..], |file_type| file_type.endings);
    let found = [file, ending].iter().chain(others).find_map(|ending| grammars().find_syntax_by_extension(ending));
    found.filter(|grammar| grammar.name != "Plain Text")
}
