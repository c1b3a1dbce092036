//! Long runs of rows that do not count inside a change: what is shown of them, and how many are folded.

use std::collections::VecDeque;

use crate::rows::{FileRow, LineChange};

/// Fewer rows than this more than what is kept are not worth a fold.
const WORTH_IT: usize = 3;

/// What becomes of a row.
pub(crate) enum Step<'a> {
    /// It is shown.
    Show(FileRow<'a>),
    /// It is in a fold.
    Fold(FileRow<'a>),
    /// So many rows were in the fold that ends here.
    Folded(usize, Aside),
}

/// How rows do not count.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Aside {
    /// They are muted.
    Muted,
    /// They are ignored, and each side has its own.
    Ignored,
}

impl Aside {
    /// The word for it.
    pub(crate) fn word(self) -> &'static str {
        match self {
            Self::Muted => "muted",
            Self::Ignored => "ignored",
        }
    }
}

/// Passes rows on, and keeps of each run of those that do not count only so many at either end.
pub(crate) struct MutedRuns<'a> {
    keep: usize,
    /// Rows of the run that were shown at its head.
    head: usize,
    waiting: VecDeque<FileRow<'a>>,
    folded: usize,
    /// What the rows of the run are.
    aside: Option<Aside>,
}

impl<'a> MutedRuns<'a> {
    /// Keeps so many rows at either end of each run.
    pub(crate) fn new(keep: usize) -> Self {
        Self { keep: keep.max(1), head: 0, waiting: VecDeque::new(), folded: 0, aside: None }
    }

    /// Takes a row; what can be told of it and of those before it is passed on.
    pub(crate) fn add<E>(
        &mut self,
        row: FileRow<'a>,
        pass_on: &mut dyn FnMut(Step<'a>) -> Result<(), E>,
    ) -> Result<(), E> {
        let aside = aside_of(&row);
        if aside != self.aside {
            self.end(pass_on)?;
            self.aside = aside;
        }
        if aside.is_none() {
            return pass_on(Step::Show(row));
        }
        if self.head < self.keep {
            self.head += 1;
            return pass_on(Step::Show(row));
        }
        self.waiting.push_back(row);
        if self.waiting.len() > self.keep + WORTH_IT {
            self.fold_first(pass_on)?;
        }
        Ok(())
    }

    /// Ends a run.
    pub(crate) fn end<E>(&mut self, pass_on: &mut dyn FnMut(Step<'a>) -> Result<(), E>) -> Result<(), E> {
        while self.folded > 0 && self.waiting.len() > self.keep {
            self.fold_first(pass_on)?;
        }
        if let Some(aside) = self.aside.filter(|_| self.folded > 0) {
            pass_on(Step::Folded(self.folded, aside))?;
        }
        (self.head, self.folded) = (0, 0);
        self.waiting.drain(..).try_for_each(|row| pass_on(Step::Show(row)))
    }

    fn fold_first<E>(&mut self, pass_on: &mut dyn FnMut(Step<'a>) -> Result<(), E>) -> Result<(), E> {
        self.folded += 1;
        self.waiting.pop_front().map_or(Ok(()), |row| pass_on(Step::Fold(row)))
    }
}

fn aside_of(row: &FileRow<'_>) -> Option<Aside> {
    match row {
        FileRow::Equal(before, after) => (before.is_none() || after.is_none()).then_some(Aside::Ignored),
        FileRow::Gone(_, change) | FileRow::New(_, change) | FileRow::Edited(_, _, change) => {
            (*change == LineChange::Muted).then_some(Aside::Muted)
        }
    }
}
