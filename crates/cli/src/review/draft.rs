//! Edits that are not saved yet: of both sides, done and undone step by step.

use std::collections::BTreeSet;
use std::ops::Range;
use std::sync::Arc;

use tideline_core::internal::kinds::text::{TextOptions, compare};
use tideline_core::internal::model::Place;
use tideline_core::patch;

use super::compared::Origin;

/// One of the two sides.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Side {
    Before,
    After,
}

impl Side {
    pub(super) fn other(self) -> Self {
        match self {
            Self::Before => Self::After,
            Self::After => Self::Before,
        }
    }

    pub(super) fn is_after(self) -> bool {
        self == Self::After
    }
}

/// Bytes of a side that became others.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Edit {
    side: Side,
    at: usize,
    was: Vec<u8>,
    is: Vec<u8>,
    /// What it did, in words.
    told: String,
}

/// Both sides with their edits.
#[derive(Clone, Debug)]
pub(super) struct Draft {
    texts: [Arc<Vec<u8>>; 2],
    /// What is on the disk.
    saved: [Arc<Vec<u8>>; 2],
    /// Whether they differ; known here, as it is asked for with every screen.
    edited: [bool; 2],
    /// How many edits of each side are in what is on the disk.
    saved_edits: [usize; 2],
    edits: Vec<Edit>,
    /// How many of the edits are done; the rest was undone.
    done: usize,
}

impl Draft {
    pub(super) fn new(before: &Origin, after: &Origin) -> Self {
        let texts = [Arc::clone(&before.bytes), Arc::clone(&after.bytes)];
        Self { saved: texts.clone(), texts, edited: [false; 2], saved_edits: [0; 2], edits: Vec::new(), done: 0 }
    }

    pub(super) fn text(&self, side: Side) -> &Arc<Vec<u8>> {
        &self.texts[side as usize]
    }

    pub(super) fn saved(&self, side: Side) -> &Arc<Vec<u8>> {
        &self.saved[side as usize]
    }

    /// Whether a side is not as it is on the disk.
    pub(super) fn is_edited(&self, side: Side) -> bool {
        self.edited[side as usize]
    }

    /// Gives a side a text, and what is on the disk.
    fn set(&mut self, side: Side, text: Arc<Vec<u8>>, saved: Arc<Vec<u8>>) {
        self.edited[side as usize] = !Arc::ptr_eq(&text, &saved) && text != saved;
        self.texts[side as usize] = text;
        self.saved[side as usize] = saved;
    }

    /// How many edits are pending, on either side.
    pub(super) fn pending(&self) -> usize {
        let sides = [Side::Before, Side::After].into_iter().filter(|side| self.is_edited(*side));
        // Where what was saved is taken back, that is a change too.
        sides.map(|side| self.edits_of(side).abs_diff(self.saved_edits[side as usize]).max(1)).sum()
    }

    /// How many edits of a side are done.
    fn edits_of(&self, side: Side) -> usize {
        self.edits[..self.done].iter().filter(|edit| edit.side == side).count()
    }

    /// Gives a side another text. Says whether anything differs.
    pub(super) fn edit(&mut self, side: Side, text: Vec<u8>, told: impl Into<String>) -> bool {
        let old = Arc::clone(self.text(side));
        if *old == text {
            return false;
        }
        let head = old.iter().zip(&text).take_while(|(one, other)| one == other).count();
        let most = old.len().min(text.len()) - head;
        let tail = old.iter().rev().zip(text.iter().rev()).take(most).take_while(|(one, other)| one == other).count();
        let (was, is) = (old[head..old.len() - tail].to_vec(), text[head..text.len() - tail].to_vec());
        self.edits.truncate(self.done);
        self.edits.push(Edit { side, at: head, was, is, told: told.into() });
        self.done += 1;
        self.set(side, Arc::new(text), Arc::clone(self.saved(side)));
        true
    }

    /// Takes the last edit back; says what it was.
    pub(super) fn undo(&mut self) -> Option<String> {
        let edit = self.edits.get(self.done.checked_sub(1)?)?.clone();
        self.replace(edit.side, edit.at..edit.at + edit.is.len(), &edit.was);
        self.done -= 1;
        Some(edit.told)
    }

    /// Does again what was taken back; says what it was.
    pub(super) fn redo(&mut self) -> Option<String> {
        let edit = self.edits.get(self.done)?.clone();
        self.replace(edit.side, edit.at..edit.at + edit.was.len(), &edit.is);
        self.done += 1;
        Some(edit.told)
    }

    fn replace(&mut self, side: Side, range: Range<usize>, with: &[u8]) {
        let mut text = Vec::clone(self.text(side));
        text.splice(range, with.iter().copied());
        self.set(side, Arc::new(text), Arc::clone(self.saved(side)));
    }

    /// Takes the last steps back, or does them again, until both sides are as they were once; says whether they are.
    pub(super) fn go_back_to(&mut self, before: &Arc<Vec<u8>>, after: &Arc<Vec<u8>>) -> bool {
        let is_there = |draft: &Self| draft.text(Side::Before) == before && draft.text(Side::After) == after;
        let mut again = self.clone();
        if again.redo().is_some() && is_there(&again) {
            *self = again;
        }
        while !is_there(self) {
            if self.undo().is_none() {
                return false;
            }
        }
        true
    }

    /// Puts the edits of a side onto what is on the disk now: each where its lines stand, which must be there once and as they were.
    /// Says whether there are any; fails, and changes nothing, where one does not fit.
    pub(super) fn rebase(&mut self, side: Side, now: Arc<Vec<u8>>) -> Result<bool, ()> {
        let (saved, text) = (Arc::clone(self.saved(side)), Arc::clone(self.text(side)));
        if !self.is_edited(side) {
            self.set(side, Arc::clone(&now), now);
            self.forget_edits(side);
            return Ok(false);
        }
        let merged = placed(&saved, &text, &now).ok_or(())?;
        self.forget_edits(side);
        self.set(side, Arc::clone(&now), now);
        self.edit(side, merged, "the edits, on what is on the disk now");
        Ok(true)
    }

    /// Steps that were made on another text cannot be taken back one by one.
    fn forget_edits(&mut self, side: Side) {
        self.done -= self.edits_of(side);
        self.edits.retain(|edit| edit.side != side);
        self.saved_edits[side as usize] = 0;
    }

    /// The lines of a side that are not on the disk as they stand here, by index; where lines were removed, the line behind them.
    pub(super) fn edited_lines(&self, side: Side) -> BTreeSet<usize> {
        if !self.is_edited(side) {
            return BTreeSet::new();
        }
        let comparison = compare(self.saved(side), self.text(side), &TextOptions::default());
        let lines = |place: &Place| place.after.lines.start..place.after.lines.end.max(place.after.lines.start + 1);
        comparison.places.iter().flat_map(lines).collect()
    }

    /// Notes that a side is on the disk as it stands here.
    pub(super) fn note_saved(&mut self, side: Side) {
        self.set(side, Arc::clone(self.text(side)), Arc::clone(self.text(side)));
        self.saved_edits[side as usize] = self.edits_of(side);
    }
}

/// The changes between two texts made to a third one, if each fits exactly.
fn placed(old: &[u8], new: &[u8], now: &[u8]) -> Option<Vec<u8>> {
    let written = patch::write(("text", old), ("text", new), 3);
    let read = patch::read(&written).ok()?;
    let file = read.files().next()?;
    patch::apply(&file, now).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn origin(text: &str) -> Origin {
        Origin { path: None, exists: true, bytes: Arc::new(text.as_bytes().to_vec()) }
    }

    #[test]
    fn edits_are_undone_and_redone_in_order_and_counted_until_they_are_saved() {
        let mut draft = Draft::new(&origin("a\nb\n"), &origin("a\nc\n"));
        assert!(draft.edit(Side::Before, b"a\nc\n".to_vec(), "one"));
        assert!(draft.edit(Side::After, b"a\nc\nd\n".to_vec(), "two"));
        assert!(!draft.edit(Side::After, b"a\nc\nd\n".to_vec(), "nothing"));
        assert_eq!((draft.pending(), draft.is_edited(Side::Before)), (2, true));
        assert_eq!(draft.edited_lines(Side::Before).into_iter().collect::<Vec<_>>(), [1]);
        assert_eq!(draft.edited_lines(Side::After).into_iter().collect::<Vec<_>>(), [2]);
        assert_eq!(draft.undo().as_deref(), Some("two"));
        assert_eq!((draft.pending(), draft.text(Side::After).as_slice()), (1, &b"a\nc\n"[..]));
        assert_eq!(draft.undo().as_deref(), Some("one"));
        assert_eq!((draft.undo(), draft.text(Side::Before).as_slice()), (None, &b"a\nb\n"[..]));
        assert_eq!((draft.redo().as_deref(), draft.redo().as_deref(), draft.redo()), (Some("one"), Some("two"), None));
        let (before, after) = (Arc::clone(draft.text(Side::Before)), Arc::clone(draft.text(Side::After)));
        draft.undo();
        assert!(draft.go_back_to(&before, &after), "what was undone is done again");
        draft.edit(Side::After, b"x\n".to_vec(), "three");
        assert!(draft.go_back_to(&before, &after), "what was done is undone");
        assert!(!draft.clone().go_back_to(&before, &Arc::new(b"never\n".to_vec())));
        draft.note_saved(Side::After);
        assert_eq!((draft.pending(), draft.is_edited(Side::After)), (1, false));
        // What was saved can still be undone, and then differs from the disk again.
        draft.undo();
        assert!(draft.is_edited(Side::After));
        assert_eq!(draft.pending(), 2, "and is not saved");
    }

    #[test]
    fn what_was_saved_is_not_counted_and_edits_of_the_other_side_outlast_a_change_on_the_disk() {
        let mut draft = Draft::new(&origin("a\nb\n"), &origin("a\nc\n"));
        draft.edit(Side::After, b"a\nd\n".to_vec(), "one");
        draft.note_saved(Side::After);
        draft.edit(Side::After, b"a\ne\n".to_vec(), "two");
        assert_eq!(draft.pending(), 1);
        assert_eq!(draft.rebase(Side::Before, Arc::new(b"x\nb\n".to_vec())), Ok(false));
        assert_eq!((draft.pending(), draft.is_edited(Side::After)), (1, true));
        assert_eq!(draft.undo().as_deref(), Some("two"));
        assert_eq!((draft.pending(), draft.text(Side::After).as_slice()), (0, &b"a\nd\n"[..]));
    }
}
