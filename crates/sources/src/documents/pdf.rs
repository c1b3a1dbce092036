//! PDF (ISO 32000): text by page.

use std::sync::mpsc::channel;
use std::thread;
use std::time::Duration;

use pdf_extract::{Document, Object, extract_text_from_mem_by_pages};
use tideline_core::internal::kinds::caught;
use tideline_core::internal::kinds::document::{Extracted, LeftOutPart};

use super::failure::{DAMAGED, PASSWORD};
use super::lines::{Lines, part};

/// How long a document may take to be read.
const PATIENCE: Duration = Duration::from_secs(60);
/// Its objects may refer to each other as deep as they like.
const STACK: usize = 256 << 20;

/// Reads a document on a thread of its own, which is left alone where it takes too long.
pub(super) fn read(bytes: &[u8]) -> Result<Extracted, String> {
    let (sender, receiver) = channel();
    let bytes = bytes.to_vec();
    let work = move || {
        let read = caught(|| read_here(&bytes)).unwrap_or_else(|| Err(DAMAGED.to_owned()));
        // Nobody may wait any more.
        let _ = sender.send(read);
    };
    thread::Builder::new().stack_size(STACK).spawn(work).map_err(|error| format!("it cannot be read ({error})"))?;
    receiver
        .recv_timeout(PATIENCE)
        .unwrap_or_else(|_| Err(format!("it takes longer than {} s to be read", PATIENCE.as_secs())))
}

fn read_here(bytes: &[u8]) -> Result<Extracted, String> {
    let document = Document::load_mem(bytes).map_err(|error| format!("it is damaged ({error})"))?;
    let pages = match extract_text_from_mem_by_pages(bytes) {
        Ok(pages) => pages,
        Err(_) if document.is_encrypted() => return Err(PASSWORD.to_owned()),
        Err(error) => return Err(format!("its text cannot be read ({error})")),
    };
    let mut lines = Lines::default();
    let mut empty = Vec::new();
    for (at, page) in pages.iter().enumerate() {
        lines.group(format!("page {}", at + 1), "line");
        let before = lines.len();
        page.lines().for_each(|line| lines.add("", line));
        if lines.len() == before {
            empty.push((at + 1).to_string());
        }
    }
    let mut left_out = drawn(&document);
    if !empty.is_empty() {
        let pages = empty.join(", ");
        let word = if empty.len() == 1 { "page" } else { "pages" };
        left_out.push(part(format!("{word} {pages}, without text that can be extracted"), b""));
    }
    Ok(lines.into_document("PDF", left_out))
}

/// What is drawn besides text.
fn drawn(document: &Document) -> Vec<LeftOutPart> {
    let (mut pictures, mut drawings) = (Vec::new(), Vec::new());
    for object in document.objects.values() {
        if let Object::Stream(stream) = object
            && stream.dict.get(b"Subtype").and_then(Object::as_name).is_ok_and(|name| name == b"Image")
        {
            pictures.push(*blake3::hash(&stream.content).as_bytes());
        }
    }
    for page in document.get_pages().into_values() {
        let contents = document.get_page_content(page).unwrap_or_default();
        drawings.extend_from_slice(blake3::hash(&contents).as_bytes());
    }
    pictures.sort_unstable();
    let mut left_out = vec![part("layout and drawings", &drawings)];
    if !pictures.is_empty() {
        left_out.push(part("pictures", &pictures.concat()));
    }
    left_out
}
