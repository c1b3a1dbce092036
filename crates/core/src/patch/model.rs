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
    /// What becomes of the file besides its contents.
    pub operation: Operation,
    /// The mode before and after, with the type of the file, where the patch names them.
    pub modes: (Option<u32>, Option<u32>),
    /// Whether the patch says that the file is not there before, or not after: by the name, the mode or the time in its headers.
    pub absent: (bool, bool),
    /// The contents of a file that is not text.
    pub binary: Option<Binary>,
    /// The hunks in order.
    pub hunks: Vec<Hunk>,
    /// The line of the patch where the file begins, from 1.
    pub line: usize,
}

/// What becomes of a file besides its contents.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Operation {
    /// It stays where it is, comes or goes.
    #[default]
    Change,
    /// It moves from the name before to the name after.
    Move,
    /// The file with the name after is a copy of the one with the name before.
    Copy,
    /// The file with the name before, a copy of the one with the name after, goes: a copy in reverse.
    Uncopy,
}

/// What a patch says of contents that are not text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Binary {
    /// That they differ, and no more.
    Differs,
    /// How to get from one side to the other, and back if the patch says that too.
    Carried(BinaryContents, Option<BinaryContents>),
}

/// The contents of one side.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum BinaryContents {
    /// All of them.
    Whole(Vec<u8>),
    /// Instructions that make them out of those of the other side.
    Delta(Vec<u8>),
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
    /// The patch that takes this one out again: what went in last comes out first.
    pub fn reversed(self) -> Self {
        Self { files: self.files.into_iter().rev().map(FilePatch::reversed).collect() }
    }
}

impl Binary {
    /// The same with the sides exchanged; where the patch does not say how to get back, only that they differ.
    fn reversed(self) -> Self {
        match self {
            Self::Carried(there, Some(back)) => Self::Carried(back, Some(there)),
            Self::Carried(_, None) | Self::Differs => Self::Differs,
        }
    }
}

impl FilePatch {
    /// Whether the file is made by the patch.
    pub fn is_new(&self) -> bool {
        self.absent.0 || self.before.is_none()
    }

    /// Whether the file is removed by the patch.
    pub fn is_gone(&self) -> bool {
        self.absent.1 || self.after.is_none()
    }

    /// Whether its only hunk expects a file without contents, or none.
    pub fn expects_nothing(&self) -> bool {
        matches!(&self.hunks[..], [hunk] if hunk.before == 0 && hunk.old_lines().next().is_none())
    }

    /// Whether a mode says that it is a link.
    pub fn is_link(&self) -> bool {
        [self.modes.0, self.modes.1].into_iter().flatten().any(|mode| mode & 0o170_000 == 0o120_000)
    }

    /// The same with the sides exchanged.
    pub fn reversed(self) -> Self {
        Self {
            before: self.after,
            after: self.before,
            modes: (self.modes.1, self.modes.0),
            absent: (self.absent.1, self.absent.0),
            binary: self.binary.map(Binary::reversed),
            operation: match self.operation {
                Operation::Copy => Operation::Uncopy,
                Operation::Uncopy => Operation::Copy,
                other => other,
            },
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
