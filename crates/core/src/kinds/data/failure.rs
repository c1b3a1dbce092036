//! Why a document cannot be read.

/// Why a document cannot be read, and where.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Failure {
    /// The place in the text, in bytes.
    pub at: usize,
    /// What is wrong there, in words.
    pub reason: String,
}

impl Failure {
    pub(super) fn new(at: usize, reason: impl Into<String>) -> Self {
        Self { at, reason: reason.into() }
    }

    /// The line and the column of the place, from 1; the column counts letters.
    pub fn line_and_column(&self, text: &[u8]) -> (usize, usize) {
        let at = self.at.min(text.len());
        let start = memchr::memrchr(b'\n', &text[..at]).map_or(0, |end| end + 1);
        let line = 1 + memchr::memchr_iter(b'\n', &text[..start]).count();
        (line, 1 + String::from_utf8_lossy(&text[start..at]).chars().count())
    }
}
