//! Comments of real sources with signs of comments and quotes put into random places: no text is taken for a comment by the first reading that
//! the second, slow one knows for text.
//!
//! The sources are the files below the folder that `TIDELINE_SOURCES` names, or else the demo data.

#![no_main]

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::LazyLock;

use libfuzzer_sys::fuzz_target;
use tideline_core::internal::rules::comments;
use tideline_core::internal::rules::languages::Syntax;

#[path = "../../crates/core/tests/core/slow_reading.rs"]
mod slow_reading;

use slow_reading::{NAMES, SlowReader, disagreement};

/// A source of a language, up to so many bytes: the slow reading is slow.
const LONGEST: usize = 16 << 10;

static READERS: LazyLock<Vec<(&str, SlowReader)>> =
    LazyLock::new(|| NAMES.iter().filter_map(|name| Some((*name, SlowReader::of(name)?))).collect());

/// The sources, each with the number of its reader.
static SOURCES: LazyLock<Vec<(usize, Vec<u8>)>> = LazyLock::new(|| {
    let folder = std::env::var_os("TIDELINE_SOURCES").map_or_else(|| PathBuf::from("../demo"), PathBuf::from);
    let mut found = Vec::new();
    collect(&folder, &mut found);
    assert!(!found.is_empty(), "{} holds a source in one of the ten languages", folder.display());
    found
});

fn collect(folder: &Path, found: &mut Vec<(usize, Vec<u8>)>) {
    let Ok(entries) = fs::read_dir(folder) else { return };
    for path in entries.flatten().map(|entry| entry.path()) {
        if path.is_dir() {
            collect(&path, found);
            continue;
        }
        let ending = path.extension().and_then(|ending| ending.to_str()).unwrap_or_default();
        let reader = READERS.iter().position(|(name, _)| name.rsplit_once('.').is_some_and(|(_, known)| known == ending));
        let text = reader.and_then(|_| fs::read(&path).ok()).filter(|text| (1..=LONGEST).contains(&text.len()));
        if let (Some(reader), Some(text)) = (reader, text) {
            found.push((reader, text));
        }
    }
}

const MARKERS: [&str; 24] = [
    "//", "/*", "*/", "#", "--", "\"", "'", "`", "\"\"\"", "'''", "\\", "\n", "\r\n", "$", "{", "}", "/", "(", ")", "r#\"",
    "\"#", "R\"(", "@\"", "<!--",
];

fuzz_target!(|input: (u32, [(u16, u8); 3])| {
    let (source, places) = input;
    let (reader, text) = &SOURCES[source as usize % SOURCES.len()];
    let (name, slow) = &READERS[*reader];
    let mut text = text.clone();
    for (place, marker) in places {
        let place = usize::from(place) % (text.len() + 1);
        // Every tenth marker or so is left out.
        let marker = MARKERS.get(usize::from(marker) % 27).copied().unwrap_or_default();
        text.splice(place..place, marker.bytes());
    }
    let found = comments(&text, Syntax::of(name).expect("the name has a syntax"));
    let wrong = disagreement(&text, &found, &slow.read(&text), true);
    if let Some(at) = wrong {
        let around = &text[at.saturating_sub(300)..text.len().min(at + 100)];
        panic!("{name}, byte {at}: {}", String::from_utf8_lossy(around));
    }
});
