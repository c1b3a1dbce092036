//! The sections of a text, in one pass over its lines.

use std::ops::Range;

use super::languages::{Language, Shape, opens_block};
use crate::internal::text::bytes::{is_letter_or_digit, leading_space, line_end};

/// The rank of what is no heading but names what follows it: a label or a directive of a document.
const LOWEST: usize = usize::MAX - 1;

/// A section of a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Section {
    /// Its bytes, from its heading on.
    pub bytes: Range<usize>,
    /// Its lines, counted from 0.
    pub lines: Range<usize>,
    /// What a reader sees of its heading.
    pub title: Range<usize>,
    /// How deep its heading is indented, or its rank.
    pub(super) indent: usize,
    /// Whether it is a block inside a function, and not worth a name without it.
    pub is_block: bool,
    /// Whether it holds only what is indented: a directive of a document.
    is_indented_only: bool,
    /// The section that it is in.
    pub parent: Option<usize>,
}

/// The sections of a text, in the order of their headings.
pub(super) fn outline(text: &[u8], language: &Language) -> Vec<Section> {
    let mut pass = Pass { sections: Vec::new(), open: Vec::new() };
    let (mut start, mut number) = (0, 0);
    let mut above: Option<(usize, usize, usize)> = None;
    let mut embedded: Option<(&Language, &[u8])> = None;
    let mut fence = None;
    let mut has_body = false;
    let mut ranks = Vec::new();
    if let Shape::Ranked { known, .. } = language.shape {
        ranks.extend_from_slice(known.as_bytes());
    }
    while start < text.len() {
        let end = line_end(text, start);
        let line = text[start..end].trim_ascii_end();
        let at = Line { start, number, text: line };
        if line.is_empty() {
            above = None;
        } else if let Shape::Ranked { underlines, .. } = language.shape {
            // A row of `~` is a fence in one of these languages, and makes a heading in another.
            if language.types.contains(&"Markdown") {
                fence = fence_after(line, fence);
            }
            let is_fenced = fence.is_some();
            if leading_space(line) == 0 {
                pass.end_directive(&at);
            }
            match above.filter(|above| is_underline(line, &text[above.0..above.1], underlines)) {
                _ if is_fenced => {}
                Some((from, to, number)) => {
                    let heading = Line { start: from, number, text: &text[from..to] };
                    pass.ranked(&heading, rank_of(line[0], &mut ranks), 0..to - from);
                }
                None => {
                    if let Some(title) = language.title(line) {
                        let marks = line.iter().take_while(|byte| **byte == b'#').count();
                        pass.ranked(&at, if marks == 0 { LOWEST } else { marks }, title);
                    }
                }
            }
            above = Some((start, start + line.len(), number));
        } else if matches!(language.shape, Shape::Flat | Shape::Statements) {
            if let Some(title) = language.title(line) {
                pass.ranked(&at, 0, title);
                has_body = holds_statements(line);
            }
            if language.shape == Shape::Statements && line.ends_with(b";") && !has_body {
                pass.close_down_to(0, end, number + 1);
            }
        } else {
            let inner = embedded.map_or(language, |(inner, _)| inner);
            pass.nested(&at, inner);
            if language.shape == Shape::Page {
                embedded = embedded_after(line, embedded);
            }
        }
        (start, number) = (end, number + 1);
    }
    pass.close_down_to(0, text.len(), number);
    pass.sections
}

/// The fence of a block of code that is open behind a line: its character, and how often it is repeated.
fn fence_after(line: &[u8], open: Option<(u8, usize)>) -> Option<(u8, usize)> {
    let line = line.trim_ascii_start();
    let Some(&mark) = line.first().filter(|byte| matches!(byte, b'`' | b'~')) else { return open };
    let count = line.iter().take_while(|byte| **byte == mark).count();
    match open {
        None if count >= 3 => Some((mark, count)),
        Some((opened, least)) if mark == opened && count >= least && line[count..].trim_ascii().is_empty() => None,
        open => open,
    }
}

/// Whether a statement holds statements of its own, which end with semicolons too.
fn holds_statements(heading: &[u8]) -> bool {
    let lower = heading.to_ascii_lowercase();
    ["function", "procedure", "trigger", "package"]
        .iter()
        .any(|word| memchr::memmem::find(&lower, word.as_bytes()).is_some())
}

/// The language of what follows a line of a page.
fn embedded_after<'l>(line: &[u8], embedded: Option<(&'l Language, &'l [u8])>) -> Option<(&'l Language, &'l [u8])> {
    if let Some((_, close)) = embedded {
        return embedded.filter(|_| memchr::memmem::find(line, close).is_none());
    }
    let tags: [(&[u8], &[u8], &str); 2] = [(b"<script", b"</script", "JavaScript"), (b"<style", b"</style", "CSS")];
    let (_, close, name) = tags.into_iter().find(|(open, close, _)| {
        memchr::memmem::find(line, open).is_some() && memchr::memmem::find(line, close).is_none()
    })?;
    Some((Language::named(name)?, close))
}

/// The rank of headings with this character below them, from 1.
fn rank_of(underline: u8, ranks: &mut Vec<u8>) -> usize {
    let at = ranks.iter().position(|known| *known == underline).unwrap_or_else(|| {
        ranks.push(underline);
        ranks.len() - 1
    });
    at + 1
}

/// Whether a line makes a heading of the one above it.
fn is_underline(line: &[u8], above: &[u8], marks: &str) -> bool {
    let first = line[0];
    line.len() >= 3.max(above.len() / 2)
        && marks.as_bytes().contains(&first)
        && line.iter().all(|byte| *byte == first)
        && above.iter().any(|byte| is_letter_or_digit(*byte))
}

struct Line<'t> {
    start: usize,
    number: usize,
    text: &'t [u8],
}

struct Pass {
    sections: Vec<Section>,
    /// The sections that the line is in, the outermost first.
    open: Vec<usize>,
}

impl Pass {
    /// A heading that ends the sections of its rank and of lower ones, whose numbers are higher.
    fn ranked(&mut self, line: &Line<'_>, rank: usize, title: Range<usize>) {
        let depth = self.open.iter().position(|&open| self.sections[open].indent >= rank);
        self.close_down_to(depth.unwrap_or(self.open.len()), line.start, line.number);
        self.begin(line, rank, title, false);
    }

    /// A line that ends the sections whose headings are indented as deep, and may begin one.
    fn nested(&mut self, line: &Line<'_>, language: &Language) {
        let indent = leading_space(line.text);
        let first = line.text.trim_ascii_start().first();
        // A brace or bracket goes on with the heading above it, as an item of a list of data does, and a remark or a label at the margin
        // encloses nothing.
        let is_item = language.shape == Shape::Data && line.text[indent..].starts_with(b"- ");
        let ends_from = match (first, indent) {
            (Some(b'{' | b')'), _) => indent + 1,
            (Some(b'#' | b'/'), 0) => usize::MAX,
            (_, 0) if language.shape == Shape::Code && is_label(line.text) => usize::MAX,
            _ if is_item => indent + 1,
            _ => indent,
        };
        let depth = self.open.iter().position(|&open| self.sections[open].indent >= ends_from);
        self.close_down_to(depth.unwrap_or(self.open.len()), line.start, line.number);
        let is_block = language.shape == Shape::Code && opens_block(line.text);
        // What follows a dash is indented by as much more.
        let indent = if is_item { indent + 2 } else { indent };
        if is_block {
            self.begin(line, indent, 0..line.text.len(), true);
        } else if let Some(title) = language.title(line.text) {
            self.begin(line, indent, title, false);
        }
    }

    /// A line at the margin, which ends a directive.
    fn end_directive(&mut self, line: &Line<'_>) {
        let is_directive = |section: &Section| section.is_indented_only;
        let depth = self.open.iter().position(|&open| is_directive(&self.sections[open]));
        self.close_down_to(depth.unwrap_or(self.open.len()), line.start, line.number);
    }

    fn begin(&mut self, line: &Line<'_>, indent: usize, title: Range<usize>, is_block: bool) {
        self.sections.push(Section {
            bytes: line.start..line.start,
            lines: line.number..line.number,
            title: line.start + title.start..line.start + title.end,
            indent,
            is_block,
            is_indented_only: line.text.starts_with(b".. ") && line.text.windows(2).any(|two| two == b"::"),
            parent: self.open.last().copied(),
        });
        self.open.push(self.sections.len() - 1);
    }

    /// Ends the sections from a depth on.
    fn close_down_to(&mut self, depth: usize, byte: usize, line: usize) {
        for open in self.open.drain(depth..) {
            self.sections[open].bytes.end = byte;
            self.sections[open].lines.end = line;
        }
    }
}

/// Whether a line at the margin is a label that is jumped to.
fn is_label(line: &[u8]) -> bool {
    let name = line.iter().take_while(|byte| is_letter_or_digit(**byte) || **byte == b'_').count();
    name > 0 && line.len() == name + 1 && line[name] == b':'
}
