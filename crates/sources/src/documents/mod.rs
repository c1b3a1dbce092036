//! Documents: text and tables taken out of office documents, e-books, PDF, notebooks and pages.

mod book;
mod failure;
mod lines;
mod markup;
mod notebook;
mod open_text;
mod package;
mod page;
mod pdf;
mod sheets;
mod slides;
mod word;

use tideline_core::internal::kinds::caught;
use tideline_core::internal::kinds::document::{Extracted, ReadAs, ReadDocuments};

use failure::{DAMAGED, PASSWORD};
use package::Package;

/// Reads the documents that are known by their contents.
#[derive(Clone, Copy, Debug, Default)]
pub struct Documents;

impl ReadDocuments for Documents {
    fn read(&self, path: &[u8], bytes: &[u8], asked: Option<ReadAs>) -> Option<Result<Extracted, String>> {
        let read = reader_of(path, bytes, asked)?;
        Some(caught(|| read(bytes)).unwrap_or_else(|| Err(DAMAGED.to_owned())))
    }

    fn may_read(&self, path: &[u8], bytes: &[u8], asked: Option<ReadAs>) -> bool {
        reader_of(path, bytes, asked).is_some()
    }
}

/// Reads one kind of document.
type Reader = fn(&[u8]) -> Result<Extracted, String>;

/// Who reads contents; nobody where they are no document.
fn reader_of(path: &[u8], bytes: &[u8], asked: Option<ReadAs>) -> Option<Reader> {
    if asked == Some(ReadAs::VisibleText) {
        return Some(page::read);
    }
    if bytes.starts_with(b"PK\x03\x04") {
        return package_reader(bytes);
    }
    if bytes.starts_with(b"%PDF-") {
        return Some(pdf::read);
    }
    if bytes.starts_with(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1") {
        return compound_reader(bytes);
    }
    (path.ends_with(b".ipynb") && notebook::is_notebook(bytes)).then_some(notebook::read as Reader)
}

/// Who reads a zip archive that is a document: ISO/IEC 26300-3 (3.3) and EPUB 3.3 (4.2) put its media type first, ECMA-376-2 names its
/// main part.
fn package_reader(bytes: &[u8]) -> Option<Reader> {
    let first = bytes.get(30..)?;
    if let Some(rest) = first.strip_prefix(b"mimetype") {
        let extra = usize::from(u16::from_le_bytes([bytes[28], bytes[29]]));
        let media = rest.get(extra..)?;
        let is = |name: &[u8]| media.starts_with(name);
        return if is(b"application/epub+zip") {
            Some(book::read)
        } else if is(b"application/vnd.oasis.opendocument.spreadsheet") {
            Some(sheets::read_open)
        } else if is(b"application/vnd.oasis.opendocument.text") {
            Some(open_text::read_text)
        } else if is(b"application/vnd.oasis.opendocument.presentation") {
            Some(open_text::read_slides)
        } else {
            None
        };
    }
    let mut package = Package::open(bytes).ok()?;
    if !package.has("[Content_Types].xml") {
        return None;
    }
    if package.has("word/document.xml") {
        return Some(word::read);
    }
    if package.has("ppt/presentation.xml") {
        return Some(slides::read);
    }
    let is_workbook = package.has("xl/workbook.xml") || package.has("xl/workbook.bin");
    is_workbook.then_some(sheets::read_office as Reader)
}

/// Who reads a compound file: an older workbook, or one that a password protects. Its streams have names in UTF-16.
fn compound_reader(bytes: &[u8]) -> Option<Reader> {
    let has = |name: &str| {
        let name: Vec<u8> = name.encode_utf16().flat_map(u16::to_le_bytes).collect();
        memchr::memmem::find(bytes, &name).is_some()
    };
    if has("EncryptedPackage") {
        return Some(|_| Err(PASSWORD.to_owned()));
    }
    (has("Workbook") || has("Book")).then_some(sheets::read_old as Reader)
}
