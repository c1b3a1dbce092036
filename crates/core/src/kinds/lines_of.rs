//! The lines that places of a text are in.

use std::sync::OnceLock;

/// How many lines begin before each block of a text; found when it is first asked for.
#[derive(Debug, Default)]
pub(super) struct LineIndex {
    blocks: OnceLock<Vec<u32>>,
}

/// Bytes in a block.
const BLOCK: usize = 2 << 10;

impl LineIndex {
    /// The line of a place, from 1. It must always be asked about the same text.
    pub(super) fn line_of(&self, text: &[u8], at: usize) -> usize {
        let at = at.min(text.len());
        let blocks = self.blocks.get_or_init(|| {
            let mut lines = 0;
            text.chunks(BLOCK)
                .map(|block| {
                    let before = lines;
                    lines += memchr::memchr_iter(b'\n', block).count() as u32;
                    before
                })
                .collect()
        });
        let block = at / BLOCK;
        let before = match blocks.get(block) {
            Some(lines) => *lines as usize,
            None => return 1 + memchr::memchr_iter(b'\n', &text[..at]).count(),
        };
        1 + before + memchr::memchr_iter(b'\n', &text[block * BLOCK..at]).count()
    }
}
