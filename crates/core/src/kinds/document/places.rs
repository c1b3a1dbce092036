//! Where lines of an extracted text are in the document: places that a reader of it knows.

/// Lines of a document that belong together: a page, a slide, a chapter.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PlaceGroup {
    /// Its first line in the text, from 0.
    pub first_line: usize,
    /// What a reader knows it by: `page 4`; empty where there is nothing to tell apart.
    pub name: String,
    /// What one of its lines is: a paragraph, a line.
    pub unit: &'static str,
}

/// Where the lines of a text are in its document.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Places {
    groups: Vec<PlaceGroup>,
}

impl Places {
    /// Places in groups, by their first lines.
    pub fn new(groups: Vec<PlaceGroup>) -> Self {
        Self { groups }
    }

    /// Whether nothing is known but lines.
    pub fn is_empty(&self) -> bool {
        self.groups.is_empty()
    }

    /// The group that a line is in, what one of its lines is, and which of them it is, from 1.
    pub fn of(&self, line: usize) -> Option<(&str, &'static str, usize)> {
        let upto = self.groups.partition_point(|group| group.first_line <= line);
        let group = self.groups[..upto].last()?;
        Some((&group.name, group.unit, line - group.first_line + 1))
    }
}
