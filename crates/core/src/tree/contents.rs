//! The contents of a pair: whether they are the same, and what differs in them.

use std::cell::RefCell;
use std::io::{self, Read};

use crate::kinds::text::{TextOptions, compare};
use crate::model::Kind;
use crate::text::encoding::{DecodedPair, WantedEncodings, decode_pair};

use super::{Contents, Opened, Problem, Tree};

/// Bytes read at a time of either file.
const BLOCK: usize = 64 * 1024;

thread_local! {
    static BUFFERS: RefCell<(Vec<u8>, Vec<u8>)> = RefCell::new((vec![0; BLOCK], vec![0; BLOCK]));
}

/// Whether two open files of one size hold the same bytes.
pub(super) fn same_contents(before: &mut Opened, after: &mut Opened) -> io::Result<bool> {
    BUFFERS.with_borrow_mut(|(one, other)| {
        // Files that the system makes up as they are read have no size; they are read to their ends.
        let unsized_files = before.facts.size == 0;
        let mut left = if unsized_files { u64::MAX } else { before.facts.size };
        while left > 0 {
            let wanted = usize::try_from(left).unwrap_or(BLOCK).min(BLOCK);
            let (a, b) =
                (fill(&mut *before.reader, &mut one[..wanted])?, fill(&mut *after.reader, &mut other[..wanted])?);
            if one[..a] != other[..b] {
                return Ok(false);
            }
            if a < wanted {
                // Both ended here; files with a size became shorter while they were read.
                return Ok(true);
            }
            left -= wanted as u64;
        }
        Ok(true)
    })
}

/// Reads until the buffer is full or the file ends.
fn fill(reader: &mut dyn Read, buffer: &mut [u8]) -> io::Result<usize> {
    let mut filled = 0;
    while filled < buffer.len() {
        match reader.read(&mut buffer[filled..]) {
            Ok(0) => break,
            Ok(count) => filled += count,
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
    }
    Ok(filled)
}

/// The contents of both sides of a pair, an absent side being empty.
pub struct PairTexts {
    before: Contents,
    after: Contents,
}

/// Reads both sides of a pair.
///
/// # Errors
/// When one of them cannot be read.
pub fn pair_texts(before: Option<(&dyn Tree, &[u8])>, after: Option<(&dyn Tree, &[u8])>) -> Result<PairTexts, Problem> {
    let read = |side: Option<(&dyn Tree, &[u8])>| match side {
        Some((tree, path)) => tree.contents(path),
        None => Ok(Box::new(Vec::new()) as Contents),
    };
    Ok(PairTexts { before: read(before)?, after: read(after)? })
}

impl PairTexts {
    /// The raw bytes of both sides.
    pub fn bytes(&self) -> (&[u8], &[u8]) {
        ((*self.before).as_ref(), (*self.after).as_ref())
    }

    /// Both sides decoded, in the encodings that are wanted or found; `None` when one of them is not text.
    pub fn decoded(&self, wanted: WantedEncodings) -> Option<DecodedPair<'_>> {
        decode_pair(self.bytes(), wanted)
    }
}

/// How much differs in a pair.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Extent {
    pub(super) kind: Option<Kind>,
    pub(super) changes: usize,
    pub(super) lines: usize,
}

/// Counts what differs.
pub(super) fn extent(texts: &PairTexts, wanted: WantedEncodings, options: &TextOptions) -> Extent {
    match texts.decoded(wanted) {
        None => Extent { kind: Some(Kind::Bytes), ..Extent::default() },
        Some((before, after, _)) => {
            let comparison = compare(&before, &after, options);
            Extent { kind: Some(Kind::Text), changes: comparison.changes.len(), lines: comparison.differing_lines() }
        }
    }
}
