//! What version-control systems say of a file in front of its hunks: its names, modes, moves and copies.

use super::model::{FilePatch, Operation};
use super::names::{same_tail, unquoted};
use super::reader::PatchError;

/// What the further headers of version-control systems said of a file so far.
pub(super) struct Pending<'p> {
    pub(super) file: FilePatch,
    /// The two names as they stand in its first line.
    names: &'p [u8],
    /// What identifies its contents before and after.
    index: Option<(&'p [u8], &'p [u8])>,
    /// Whether both names of a move or a copy were given.
    moves: (bool, bool),
}

const EXTENDED: [&[u8]; 11] = [
    b"old mode ",
    b"new mode ",
    b"deleted file mode ",
    b"new file mode ",
    b"rename from ",
    b"rename to ",
    b"copy from ",
    b"copy to ",
    b"similarity index ",
    b"dissimilarity index ",
    b"index ",
];

pub(super) fn is_extended(line: &[u8]) -> bool {
    EXTENDED.iter().any(|prefix| line.starts_with(prefix))
}

impl<'p> Pending<'p> {
    pub(super) fn new(names: &'p [u8], line: usize) -> Self {
        Self { file: FilePatch { line, ..two_names(names) }, names, index: None, moves: (false, false) }
    }

    /// Whether it is about files of these names.
    pub(super) fn is_about(&self, (before, after): &(Option<Vec<u8>>, Option<Vec<u8>>)) -> bool {
        let same = |name: &Option<Vec<u8>>, own: &Option<Vec<u8>>| match (name, own) {
            (Some(name), Some(own)) => same_tail(name, own),
            _ => true,
        };
        self.file.before.is_none() && self.file.after.is_none()
            || same(before, &self.file.before) && same(after, &self.file.after)
    }

    /// Takes a further header.
    pub(super) fn extended(&mut self, line: &'p [u8], number: usize) -> Result<(), PatchError> {
        let rest = |prefix: &str| line.strip_prefix(prefix.as_bytes());
        let mode = |text: &[u8]| {
            let text = String::from_utf8_lossy(text).into_owned();
            let mode = u32::from_str_radix(text.trim(), 8);
            mode.map_err(|_| PatchError {
                line: number,
                reason: format!("`{text}` is no file mode: six octal digits were expected"),
            })
        };
        let name = |text: &[u8]| unquoted(text).map_or_else(|| text.to_vec(), |(name, _)| name);
        let file = &mut self.file;
        if let Some(text) = rest("old mode ") {
            file.modes.0 = Some(mode(text)?);
        } else if let Some(text) = rest("new mode ") {
            file.modes.1 = Some(mode(text)?);
        } else if let Some(text) = rest("deleted file mode ") {
            (file.modes.0, file.absent.1) = (Some(mode(text)?), true);
        } else if let Some(text) = rest("new file mode ") {
            (file.modes.1, file.absent.0) = (Some(mode(text)?), true);
        } else if let Some(text) = rest("rename from ").or_else(|| rest("copy from ")) {
            (file.before, self.moves.0) = (Some(name(text)), true);
        } else if let Some(text) = rest("rename to ").or_else(|| rest("copy to ")) {
            (file.before, file.after) = renamed(file.before.take(), name(text), self.names);
            self.moves.1 = true;
        } else if let Some(text) = rest("index ") {
            let mut words = text.split(|byte| *byte == b' ');
            let both = words.next().unwrap_or_default();
            self.index = both.windows(2).position(|pair| pair == b"..").map(|at| (&both[..at], &both[at + 2..]));
            let unchanged = words.next().filter(|_| file.modes == (None, None));
            if let Some(text) = unchanged {
                let mode = mode(text)?;
                file.modes = (Some(mode), Some(mode));
            }
        }
        if self.moves != (false, false) {
            file.operation = if line.starts_with(b"copy ") {
                Operation::Copy
            } else if line.starts_with(b"rename ") {
                Operation::Move
            } else {
                file.operation
            };
        }
        Ok(())
    }

    /// The file, when all that is said of it is said; none if nothing is, because its hunks were taken out of the patch.
    pub(super) fn finished(self) -> Option<FilePatch> {
        let file = self.file;
        let says = file.operation != Operation::Change || file.binary.is_some() || file.absent != (false, false);
        (says || file.modes.0 != file.modes.1).then_some(file)
    }

    /// Makes sure that the patch is not cut off where it ends.
    pub(super) fn check_end(&self) -> Result<(), PatchError> {
        let cut_off = |reason: &str| {
            let reason = format!("the patch is cut off in the part about a file that begins here: {reason}");
            Err(PatchError { line: self.file.line, reason })
        };
        if self.moves.0 != self.moves.1 {
            return cut_off("only one of the two names of a move was found");
        }
        // The names of the empty contents, as SHA-1 and as SHA-256.
        let is_empty = |name: &[u8]| {
            let starts = |of: &[u8]| name.len() >= 7 && (of.starts_with(name) || name.starts_with(of));
            starts(b"e69de29bb2d1d6434b8b29ae775ad8c2e48c5391")
                || starts(b"473a0f4c3be8a93681a267e3b1e9a7dcda1185436fe141f7749120a303721813")
        };
        let is_nothing = |name: &[u8]| is_empty(name) || name.iter().all(|byte| *byte == b'0');
        let differs = |(before, after): (&[u8], &[u8])| before != after && !(is_nothing(before) && is_nothing(after));
        if self.index.is_some_and(differs) && self.file.binary.is_none() {
            return cut_off("its contents change, and no hunk follows");
        }
        Ok(())
    }
}

/// Both names of a line in which they stand with `between` them: those that are the same but for their first folder, if any are.
pub(super) fn split_names<'t>(text: &'t [u8], between: &[u8]) -> Option<(&'t [u8], &'t [u8])> {
    let starts = (0..text.len()).filter(|at| text[*at..].starts_with(between));
    let candidates: Vec<_> = starts.map(|at| (&text[..at], &text[at + between.len()..])).collect();
    candidates.iter().find(|(before, after)| same_tail(before, after)).or_else(|| candidates.first()).copied()
}

/// The two names of a line `diff --git BEFORE AFTER`: they are of equal length unless the file moves, and then other headers say it.
fn two_names(text: &[u8]) -> FilePatch {
    let both = |before: Vec<u8>, after: Vec<u8>| FilePatch {
        before: Some(before),
        after: Some(after),
        ..FilePatch::default()
    };
    if let Some((before, rest)) = unquoted(text) {
        let rest = rest.trim_ascii_start();
        let after = unquoted(rest).map_or_else(|| rest.to_vec(), |(name, _)| name);
        return both(before, after);
    }
    match split_names(text, b" ") {
        Some((before, after)) => {
            let after = unquoted(after).map_or_else(|| after.to_vec(), |(name, _)| name);
            both(before.to_vec(), after)
        }
        None => FilePatch::default(),
    }
}

/// The names of a move stand without the prefix that the names of all files have; they get it back from the line above.
fn renamed(before: Option<Vec<u8>>, after: Vec<u8>, names: &[u8]) -> (Option<Vec<u8>>, Option<Vec<u8>>) {
    let ends = |whole: &[u8], name: &[u8]| {
        whole.strip_suffix(name).is_some_and(|prefix| prefix.is_empty() || prefix.ends_with(b"/"))
    };
    let whole = two_names(names);
    let (one, other) = (whole.before.unwrap_or_default(), whole.after.unwrap_or_default());
    if before.as_ref().is_some_and(|before| ends(&one, before)) && ends(&other, &after) {
        return (Some(one), Some(other));
    }
    let spaces = names.iter().enumerate().filter(|(_, byte)| **byte == b' ');
    let mut halves = spaces.map(|(at, _)| (&names[..at], &names[at + 1..]));
    match halves.find(|(one, other)| before.as_ref().is_some_and(|before| ends(one, before)) && ends(other, &after)) {
        Some((one, other)) => (Some(one.to_vec()), Some(other.to_vec())),
        None => (before, Some(after)),
    }
}
