//! A patch as plain values.

use bytes::Bytes;

/// What a patch says, file by file.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Patch {
    /// The files in the order of the patch.
    pub files: Vec<FilePatch>,
}

/// What a patch says about one file.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct FilePatch {
    /// The name before; none of a file that is created.
    pub before: Option<Vec<u8>>,
    /// The name after; none of a file that is deleted.
    pub after: Option<Vec<u8>>,
    /// Whether the names are those of a file that moves.
    pub renames: bool,
    /// Permission bits before and after, where the patch names them.
    pub modes: (Option<u32>, Option<u32>),
    /// Why its contents cannot be carried, if they cannot: a change of bytes that are no text, a copy, a link.
    pub unfit: Option<String>,
    /// The hunks in order.
    pub hunks: Vec<Hunk>,
    /// The line of the patch where the file begins, from 1.
    pub line: usize,
}

/// A stretch of lines that change, with its context.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Hunk {
    /// Where its lines begin before, from 0.
    pub before: usize,
    /// Where its lines begin after, from 0.
    pub after: usize,
    /// Its lines in order.
    pub lines: Vec<HunkLine>,
    /// The line of the patch where the hunk begins, from 1.
    pub line: usize,
}

/// A line of a hunk.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HunkLine {
    /// What becomes of it.
    pub role: LineRole,
    /// Its bytes, with the line end that it has; they share the memory of the patch.
    pub text: Bytes,
}

/// What becomes of a line of a hunk.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LineRole {
    /// It stays.
    Context,
    /// It goes.
    Gone,
    /// It comes.
    New,
}

impl Patch {
    /// The patch that takes this one out again.
    pub fn reversed(self) -> Self {
        Self { files: self.files.into_iter().map(FilePatch::reversed).collect() }
    }
}

impl FilePatch {
    /// The same with the sides exchanged.
    pub fn reversed(self) -> Self {
        Self {
            before: self.after,
            after: self.before,
            modes: (self.modes.1, self.modes.0),
            hunks: self.hunks.into_iter().map(Hunk::reversed).collect(),
            ..self
        }
    }
}

impl Hunk {
    /// The same with the sides exchanged; what goes still stands before what comes.
    pub fn reversed(self) -> Self {
        let mut lines: Vec<HunkLine> = Vec::with_capacity(self.lines.len());
        let mut coming: Vec<HunkLine> = Vec::new();
        for line in self.lines {
            match line.role {
                LineRole::Context => {
                    lines.append(&mut coming);
                    lines.push(line);
                }
                LineRole::Gone => coming.push(HunkLine { role: LineRole::New, ..line }),
                LineRole::New => lines.push(HunkLine { role: LineRole::Gone, ..line }),
            }
        }
        lines.append(&mut coming);
        Self { before: self.after, after: self.before, lines, line: self.line }
    }

    /// The lines that it expects to find.
    pub fn old_lines(&self) -> impl Iterator<Item = &HunkLine> {
        self.lines.iter().filter(|line| line.role != LineRole::New)
    }

    /// The lines that it leaves behind.
    pub fn new_lines(&self) -> impl Iterator<Item = &HunkLine> {
        self.lines.iter().filter(|line| line.role != LineRole::Gone)
    }
}
