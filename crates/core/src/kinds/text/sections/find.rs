//! The section that a line is in.

use std::cell::OnceCell;
use std::ops::Range;

use super::languages::{Language, Shape, declared, marks_above, opens_block};
use super::outline::{Section, outline};
use crate::internal::text::bytes::{leading_space, line_end, line_start};

/// How far above a line its section is looked for, in bytes: first near it, then farther up. Sections of a text that is not much larger
/// than what would be looked through are found once for all.
const FARTHEST: [usize; 3] = [8 << 10, 64 << 10, 256 << 10];

/// The name of the section that a line is in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SectionName {
    /// The heading of the function, class, table or chapter.
    pub title: String,
    /// The line that opens the block inside it, if there is one.
    pub block: Option<String>,
    /// Of data, the keys around it, the outermost first.
    pub outer: Vec<String>,
    /// Whether the lines stand above it and belong to it: a remark, an attribute, a decorator.
    pub is_above: bool,
}

/// The sections of a text, found when they are asked for.
pub struct Sections<'t> {
    pub(super) text: &'t [u8],
    language: Option<&'static Language>,
    /// About how often they are asked for.
    questions: usize,
    all: OnceCell<Vec<Section>>,
}

impl<'t> Sections<'t> {
    /// The sections of a text, of a file of this name, which will be asked for about so often.
    pub fn new(name: &str, text: &'t [u8], questions: usize) -> Self {
        Self { text, language: Language::of(name), questions, all: OnceCell::new() }
    }

    /// Whether the text is code, whose sections are functions and classes.
    pub(super) fn is_code(&self) -> bool {
        self.language.is_some_and(|language| language.shape == Shape::Code)
    }

    /// All of them, in the order of their headings.
    pub fn all(&self) -> &[Section] {
        self.all.get_or_init(|| self.language.map_or_else(Vec::new, |language| outline(self.text, language)))
    }

    /// The name of the section that a change begins in, whose bytes these are. A remark or an attribute is named by what it stands above.
    pub fn of(&self, change: &Range<usize>) -> Option<SectionName> {
        let language = self.language?;
        let end = change.end.min(self.text.len());
        // Blank lines at the start of a change say nothing.
        let mut at = change.start.min(end);
        while at < end && self.line(at).trim_ascii().is_empty() {
            at += self.line(at).len();
        }
        let at = if at < end { at } else { change.start };
        let inside = self.at(at);
        self.above(at, end, language, inside.as_ref()).or(inside)
    }

    /// What a remark or an attribute stands above, if a line is one.
    fn above(
        &self,
        mut at: usize,
        end: usize,
        language: &Language,
        inside: Option<&SectionName>,
    ) -> Option<SectionName> {
        const MOST_LINES: usize = 400;
        let marks = marks_above(language);
        let is_mark = |line: &[u8]| marks.iter().any(|mark| line.trim_ascii_start().starts_with(mark.as_bytes()));
        let at_first = at;
        let mut lines = 0;
        while at < self.text.len() && is_mark(self.line(at)) && lines < MOST_LINES {
            (at, lines) = (at + self.line(at).len(), lines + 1);
        }
        if at == at_first || at >= self.text.len() {
            return None;
        }
        let line = self.line(at).trim_ascii_end();
        let is_in_container = inside.is_none_or(|inside| inside.block.is_none() && is_container(&inside.title));
        let title = language
            .title(line)
            .filter(|_| !opens_block(line))
            .or_else(|| declared(line, language).filter(|_| is_in_container))?;
        let title = bare(&line[title]);
        Some(SectionName { title, block: None, outer: Vec::new(), is_above: at >= end })
    }

    fn line(&self, at: usize) -> &'t [u8] {
        &self.text[at..line_end(self.text, at)]
    }

    /// The name of the section that the line starting at `at` is in.
    pub fn at(&self, at: usize) -> Option<SectionName> {
        let language = self.language?;
        let at = at.min(self.text.len());
        if self.questions.max(1).saturating_mul(FARTHEST[1]) >= self.text.len() {
            return named(self.text, self.all(), language, at);
        }
        let mut found = None;
        for reach in FARTHEST {
            let start = line_start(self.text, at.saturating_sub(reach));
            let near = &self.text[start..line_end(self.text, at)];
            found = named(near, &outline(near, language), language, at - start);
            if start == 0 || found.is_some() {
                break;
            }
        }
        found
    }

    /// What a reader sees of the heading of a section.
    pub fn title(&self, section: &Section) -> String {
        bare(&self.text[section.title.clone()])
    }
}

/// The name of the innermost section that the line at `at` is in, with the block in it that the line is in.
fn named(text: &[u8], sections: &[Section], language: &Language, at: usize) -> Option<SectionName> {
    // An item of a list of data stands below its key, however little it is indented.
    let is_item = language.shape == Shape::Data && text[at..].trim_ascii_start().starts_with(b"- ");
    let depth = if language.is_indented() { indentation(text, at) + usize::from(is_item) } else { usize::MAX };
    let mut next = sections.partition_point(|section| section.bytes.start < at).checked_sub(1);
    let mut block = None;
    while let Some(index) = next {
        let section = &sections[index];
        next = section.parent;
        if section.indent >= depth || section.bytes.end <= at && section.bytes.end < text.len() {
            continue;
        }
        if section.is_block {
            block = block.or(Some(section));
            continue;
        }
        let block = block.map(|block: &Section| bare(&text[block.title.clone()]));
        let title = |section: &Section| bare(&text[section.title.clone()]);
        let around = std::iter::successors(section.parent, |parent| sections[*parent].parent);
        let mut outer: Vec<String> = match language.shape {
            Shape::Data => around.map(|parent| title(&sections[parent])).collect(),
            _ => Vec::new(),
        };
        outer.reverse();
        return Some(SectionName { title: title(section), block, outer, is_above: false });
    }
    None
}

/// Whether what a heading opens holds declarations rather than statements.
fn is_container(title: &str) -> bool {
    const WORDS: [&str; 12] = [
        "class",
        "impl",
        "trait",
        "struct",
        "enum",
        "union",
        "interface",
        "module",
        "mod",
        "namespace",
        "extern",
        "object",
    ];
    title.split(|letter: char| !letter.is_alphanumeric()).any(|word| WORDS.contains(&word))
}

/// How deep the line at `at` is indented; a blank one is as deep as the next that is not.
fn indentation(text: &[u8], mut at: usize) -> usize {
    const MOST_BLANK: usize = 20;
    for _ in 0..MOST_BLANK {
        let line = &text[at..line_end(text, at)];
        if !line.trim_ascii().is_empty() || line.is_empty() {
            return leading_space(line);
        }
        at += line.len();
    }
    0
}

/// What a reader sees of a heading, without what opens its section.
pub(super) fn bare(line: &[u8]) -> String {
    let text = String::from_utf8_lossy(line);
    let text =
        text.trim().trim_start_matches("} ").trim_end_matches(['{', ':', ';', ' ']).trim_start_matches(['#', ' ']);
    text.to_owned()
}
