//! Lines of an extracted text, and where they are in the document.

use tideline_core::internal::kinds::document::{Extracted, ExtractedContents, LeftOutPart, PlaceGroup, Places};

/// Text that is taken out of one document.
const LARGEST: usize = 1 << 30;

/// A text in the making.
#[derive(Debug, Default)]
pub(super) struct Lines {
    text: Vec<u8>,
    count: usize,
    groups: Vec<PlaceGroup>,
}

impl Lines {
    /// Begins a page, a slide, a chapter.
    pub(super) fn group(&mut self, name: impl Into<String>, unit: &'static str) {
        self.groups.push(PlaceGroup { first_line: self.count, name: name.into(), unit });
    }

    /// Adds a paragraph; white space in it is one blank, and one without text is left out.
    pub(super) fn add(&mut self, prefix: &str, text: &str) {
        let mut words = text.split_whitespace().peekable();
        if words.peek().is_none() || self.text.len() > LARGEST {
            return;
        }
        self.text.extend_from_slice(prefix.as_bytes());
        for (at, word) in words.enumerate() {
            if at > 0 {
                self.text.push(b' ');
            }
            self.text.extend_from_slice(word.as_bytes());
        }
        self.text.push(b'\n');
        self.count += 1;
    }

    /// Adds a line as it is, but for white space at its end.
    pub(super) fn add_as_is(&mut self, line: &str) {
        self.text.extend_from_slice(line.trim_end().as_bytes());
        self.text.push(b'\n');
        self.count += 1;
    }

    /// Adds a heading of a level, from 1.
    pub(super) fn heading(&mut self, level: usize, text: &str) {
        self.add(&format!("{} ", "#".repeat(level.clamp(1, 6))), text);
    }

    /// How many lines there are.
    pub(super) fn len(&self) -> usize {
        self.count
    }

    /// The document that they were taken out of.
    pub(super) fn into_document(self, what: &str, left_out: Vec<LeftOutPart>) -> Extracted {
        let contents =
            ExtractedContents::Text { text: self.text, places: Places::new(self.groups), type_name: "document.md" };
        Extracted { what: what.to_owned(), contents, left_out }
    }
}

/// Something that is known again by its bytes.
pub(super) fn part(name: impl Into<String>, bytes: &[u8]) -> LeftOutPart {
    LeftOutPart { name: name.into(), hash: *blake3::hash(bytes).as_bytes() }
}
