//! A part of a page that is written while the page is, and never held as a whole.

use std::cell::RefCell;
use std::fmt;
use std::io::{self, Write};

/// What writes a part of a page.
pub type PageSection<'a> = &'a mut dyn FnMut(&mut dyn Write) -> io::Result<()>;

/// A part of a page, for a template to place. It can be placed once.
pub(super) struct Streamed<'a>(RefCell<Option<PageSection<'a>>>);

impl<'a> Streamed<'a> {
    pub(super) fn new(part: PageSection<'a>) -> Self {
        Self(RefCell::new(Some(part)))
    }
}

impl fmt::Display for Streamed<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.0.take() {
            // The error of the writer below is kept where the page is written; only that there was one has to pass here.
            Some(part) => part(&mut Through(f)).map_err(|_| fmt::Error),
            None => Ok(()),
        }
    }
}

/// Writes into a template.
struct Through<'f, 'b>(&'f mut fmt::Formatter<'b>);

impl Write for Through<'_, '_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let text = std::str::from_utf8(bytes).map_err(io::Error::other)?;
        self.0.write_str(text).map_err(io::Error::other)?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}
