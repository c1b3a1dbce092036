//! The section that a line is in.

use std::cell::OnceCell;

use super::languages::{Language, Shape};
use super::outline::{Section, leading_space, outline};
use crate::internal::text::bytes::{line_end, line_start};

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
    let depth = if language.is_indented() { indentation(text, at) } else { usize::MAX };
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
        return Some(SectionName { title: bare(&text[section.title.clone()]), block });
    }
    None
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
