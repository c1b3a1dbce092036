//! The contents of a pair: whether they are the same, and what differs in them.

use std::cell::RefCell;
use std::io::{self, Read};

use super::{Contents, Opened, Tree, TreeError, TreePath};

/// Bytes read at a time of either file.
const BLOCK: usize = 64 * 1024;

thread_local! {
    static BUFFERS: RefCell<(Vec<u8>, Vec<u8>)> = RefCell::new((vec![0; BLOCK], vec![0; BLOCK]));
}

/// Whether two open files of one size hold the same bytes.
pub(super) fn same_contents(before: &mut Opened, after: &mut Opened) -> io::Result<bool> {
    BUFFERS.with_borrow_mut(|(one, other)| {
        // Files that the system makes up as they are read have no size; they are read to their ends.
        let unsized_files = before.metadata.size == 0;
        let mut left = if unsized_files { u64::MAX } else { before.metadata.size };
        loop {
            // One byte more than is left tells a file that grew.
            let wanted = usize::try_from(left).unwrap_or(BLOCK).saturating_add(1).min(BLOCK);
            let (a, b) =
                (fill(&mut *before.reader, &mut one[..wanted])?, fill(&mut *after.reader, &mut other[..wanted])?);
            if one[..a] != other[..b] {
                return if unsized_files || a == b { Ok(false) } else { Err(changed_meanwhile()) };
            }
            left = match left.checked_sub(a as u64) {
                Some(left) => left,
                None => return Err(changed_meanwhile()),
            };
            if a < wanted {
                return if left == 0 || unsized_files { Ok(true) } else { Err(changed_meanwhile()) };
            }
        }
    })
}

fn changed_meanwhile() -> io::Error {
    io::Error::other("it was changed while it was read")
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
pub fn pair_texts(
    before: Option<(&dyn Tree, &TreePath)>,
    after: Option<(&dyn Tree, &TreePath)>,
) -> Result<PairTexts, TreeError> {
    let read = |side: Option<(&dyn Tree, &TreePath)>| match side {
        Some((tree, path)) => tree.contents(path),
        None => Ok(Box::new(Vec::new()) as Contents),
    };
    Ok(PairTexts { before: read(before)?, after: read(after)? })
}

impl PairTexts {
    /// Fails when a file was changed while its bytes were used.
    ///
    /// # Errors
    /// When one of them was.
    pub fn check(&self) -> Result<(), TreeError> {
        self.before.check().and_then(|()| self.after.check())
    }

    /// The raw bytes of both sides.
    pub fn bytes(&self) -> (&[u8], &[u8]) {
        ((*self.before).as_ref(), (*self.after).as_ref())
    }
}
