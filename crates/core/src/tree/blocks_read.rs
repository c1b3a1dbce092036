//! The two ends of a block that may have moved to another file, read again: whether they are the same but for a few lines, and which
//! words of those differ.

use std::borrow::Cow;
use std::ops::Range;

use super::{Pair, Tree, TreePath};
use crate::internal::align::{Bounds, script::script, words::align_words};
use crate::internal::kinds::{self, ContentOptions, Read};
use crate::internal::model::Segment;
use crate::internal::rules::MaskedText;
use crate::internal::text::bytes::is_letter_or_digit;
use crate::internal::text::lines::{Lines, as_slices, intern};
use crate::internal::text::words::Grain;

/// A block has so many lines at least.
pub(super) const FEWEST_LINES: usize = 5;
/// Of ten lines of a block, so many are the same at both ends.
pub(super) const SAME_OF_TEN: usize = 9;
/// A block has so many letters and digits at least.
const FEWEST_LETTERS: usize = 60;

/// The files of one tree that blocks stand in, the last one kept.
pub(super) struct ReadSide<'a> {
    tree: &'a dyn Tree,
    contents: &'a ContentOptions,
    is_before: bool,
    last: Option<(TreePath, Option<File>)>,
}

/// A text, and where its lines start.
struct File {
    masked: MaskedText<'static>,
    starts: Vec<usize>,
}

impl<'a> ReadSide<'a> {
    pub(super) fn new(tree: &'a dyn Tree, contents: &'a ContentOptions, is_before: bool) -> Self {
        Self { tree, contents, is_before, last: None }
    }

    /// Some lines of a file; nothing where they cannot be read any more.
    pub(super) fn lines(&mut self, pair: &Pair, lines: &Range<usize>) -> Option<Block> {
        let path = if self.is_before { pair.path_before() } else { &pair.path };
        if self.last.as_ref().is_none_or(|(last, _)| last != path) {
            self.last = Some((path.clone(), self.file(path, &pair.path)));
        }
        let File { masked, starts } = self.last.as_ref()?.1.as_ref()?;
        let bounds = starts.get(lines.start..=lines.end)?;
        let bytes = bounds.windows(2).map(|line| line[0]..line[1]);
        let text = |line: &Range<usize>| masked.text()[line.clone()].to_vec();
        let key = |line: Range<usize>| masked.key(line.clone()).map_or_else(|| text(&line), Cow::into_owned);
        Some(Block {
            first: lines.start,
            lines: bytes.clone().map(|line| text(&line)).collect(),
            keys: bytes.map(key).collect(),
        })
    }

    fn file(&self, path: &TreePath, named: &TreePath) -> Option<File> {
        let contents = self.tree.contents(path).ok()?;
        let text = match kinds::read(named, (*contents).as_ref(), self.is_before, self.contents) {
            Read::Text(text) => text.into_owned(),
            Read::Bytes(_) => return None,
        };
        let lines = Lines::of(&text);
        let starts = (0..=lines.len()).map(|line| lines.start(line)).collect();
        Some(File { masked: MaskedText::new(text, &self.contents.file_rules(named)), starts })
    }
}

/// One end of a block: its lines, and what they are compared by.
pub(super) struct Block {
    first: usize,
    lines: Vec<Vec<u8>>,
    keys: Vec<Vec<u8>>,
}

/// Lines of a file that differ from those at the other end, and which parts of them.
type Differing = Vec<(usize, Vec<Segment>)>;

impl Block {
    /// How many lines at the head and at the tail are blank at both ends: they say nothing of what moved.
    pub(super) fn blank_ends(&self, other: &Self) -> (usize, usize) {
        let is_blank = |(one, two): &(&Vec<u8>, &Vec<u8>)| one.trim_ascii().is_empty() && two.trim_ascii().is_empty();
        let head = self.lines.iter().zip(&other.lines).take_while(is_blank).count();
        let room = self.lines.len().min(other.lines.len()) - head;
        let tail = self.lines.iter().rev().zip(other.lines.iter().rev()).take(room).take_while(is_blank).count();
        (head, tail)
    }

    /// Leaves out lines at the head and at the tail.
    pub(super) fn narrow(&mut self, head: usize, tail: usize) {
        for lines in [&mut self.lines, &mut self.keys] {
            lines.truncate(lines.len() - tail);
            lines.drain(..head);
        }
        self.first += head;
    }

    /// The lines of both ends that differ; nothing where the ends are not the same block.
    pub(super) fn differences(&self, other: &Self) -> Option<(Differing, Differing)> {
        let found = script(&intern(&as_slices(&self.keys), &as_slices(&other.keys)), &Bounds::default());
        let equal = found.gone.iter().filter(|gone| !**gone).count();
        let longer = self.keys.len().max(other.keys.len());
        let letters = self.keys.iter().flatten().filter(|byte| is_letter_or_digit(**byte)).count();
        let shorter = self.keys.len().min(other.keys.len());
        if shorter < FEWEST_LINES || 10 * equal < SAME_OF_TEN * longer || letters < FEWEST_LETTERS {
            return None;
        }
        let (mut one, mut two) = (Vec::new(), Vec::new());
        for (gone, new) in found.stretches() {
            let paired = gone.len().min(new.len());
            for at in 0..paired {
                let (b, a) = (gone.start + at, new.start + at);
                let words = align_words(&self.lines[b], &other.lines[a], &Grain::Word);
                one.push((self.first + b, words.before));
                two.push((other.first + a, words.after));
            }
            let alone = |block: &Self, at: usize| (block.first + at, vec![Segment::changed(0..block.lines[at].len())]);
            one.extend((gone.start + paired..gone.end).map(|at| alone(self, at)));
            two.extend((new.start + paired..new.end).map(|at| alone(other, at)));
        }
        Some((one, two))
    }
}
