//! Programs of the user's own that read documents: what they make of them, and what becomes of those that fail, flood or hang.

#![cfg(unix)]

use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use tideline_core::internal::kinds::document::{Extracted, ExtractedContents, ReadDocuments};
use tideline_core::internal::kinds::{Comparison, ContentOptions, compare};
use tideline_core::internal::model::Kind;
use tideline_core::internal::rules::FilePatterns;
use tideline_sources::{Converter, ConverterLimits, Converters};

/// A program in a folder.
fn program(folder: &Path, script: &str) -> PathBuf {
    let path = folder.join("convert");
    fs::write(&path, format!("#!/bin/sh\n{script}\n")).unwrap();
    fs::set_permissions(&path, fs::Permissions::from_mode(0o755)).unwrap();
    path
}

fn files() -> FilePatterns {
    FilePatterns::new(&["*.chart".to_owned()]).unwrap()
}

fn converter(program: &Path, arguments: &[&str], kind: Kind) -> Converter {
    let command = [program.to_str().unwrap()].iter().chain(arguments).map(|part| (*part).to_owned()).collect();
    let limits = ConverterLimits { time: Duration::from_secs(2), output: 1 << 16 };
    Converter::new(files(), command, kind).unwrap().limits(limits)
}

fn read(converter: &Converter, bytes: &[u8]) -> Result<Extracted, String> {
    Converters::new(vec![converter.clone()]).read(b"maps/a.chart", bytes, None).unwrap()
}

fn text(read: Result<Extracted, String>) -> String {
    match read.unwrap().contents {
        ExtractedContents::Text { text, .. } | ExtractedContents::Converted { text, .. } => {
            String::from_utf8(text).unwrap()
        }
        other @ ExtractedContents::Sheets(_) => panic!("this is text, not {other:?}"),
    }
}

#[test]
fn a_program_gets_the_file_by_its_path_or_through_its_input() {
    let folder = tempfile::tempdir().unwrap();
    let by_path = program(folder.path(), "basename \"$1\"; cat \"$1\"");
    assert_eq!(text(read(&converter(&by_path, &["{file}"], Kind::Text), b"\x01 chart")), "a.chart\n\x01 chart");
    let by_input = program(folder.path(), "echo \"$@\"; cat");
    assert_eq!(text(read(&converter(&by_input, &["-x", "{stdin}"], Kind::Text), b"\x01 chart")), "-x\n\x01 chart");
    // No shell reads the command: what looks like one stays a word.
    assert_eq!(text(read(&converter(&by_input, &["; echo no", "{stdin}"], Kind::Text), b"")), "; echo no\n");
}

#[test]
fn what_a_program_writes_is_compared_as_what_it_is_said_to_be() {
    let folder = tempfile::tempdir().unwrap();
    let copy = program(folder.path(), "tail -c +2 \"$1\"");
    let compared = |kind: Kind, before: &[u8], after: &[u8]| {
        let options =
            ContentOptions::default().read_documents(Converters::new(vec![converter(&copy, &["{file}"], kind)]));
        match compare(b"a.chart", (before, after), &options) {
            Comparison::Table(tables) => (Kind::Table, tables.found.extent().counted),
            Comparison::Data(documents) => (Kind::Data, documents.found.extent().counted),
            Comparison::Text(texts) => (Kind::Text, texts.found.extent().counted),
            other => panic!("this was not expected: {:?}", other.kind()),
        }
    };
    assert_eq!(compared(Kind::Text, b"\0a\nb\n", b"\0a\nc\n"), (Kind::Text, 1));
    assert_eq!(compared(Kind::Table, b"\0id,v\n1,2\n3,4\n", b"\0id,v\n3,4\n1,5\n"), (Kind::Table, 1));
    assert_eq!(compared(Kind::Data, b"\0{\"a\":1,\"b\":2}", b"\0{\"b\":3,\"a\":1}"), (Kind::Data, 1));
}

#[test]
fn a_program_that_fails_is_told_with_what_it_said() {
    let folder = tempfile::tempdir().unwrap();
    let failing = program(folder.path(), "echo 'no such sea' >&2; echo half; exit 3");
    let why = read(&converter(&failing, &["{file}"], Kind::Text), b"x").unwrap_err();
    assert!(why.contains("failed") && why.contains('3') && why.contains("no such sea"), "{why}");
    let missing = Converter::new(files(), vec!["no-such-program-here".into(), "{file}".into()], Kind::Text).unwrap();
    assert!(read(&missing, b"x").unwrap_err().contains("was not found"));
}

#[test]
fn a_program_that_floods_is_stopped() {
    let folder = tempfile::tempdir().unwrap();
    let flooding = program(folder.path(), "yes the sea");
    let started = Instant::now();
    let why = read(&converter(&flooding, &["{file}"], Kind::Text), b"x").unwrap_err();
    assert!(why.contains("wrote more than 65536 bytes"), "{why}");
    assert!(started.elapsed() < Duration::from_secs(20));
}

#[test]
fn a_program_that_hangs_is_stopped_with_all_that_it_started() {
    let folder = tempfile::tempdir().unwrap();
    let mark = folder.path().join("still-there");
    let hanging = program(folder.path(), &format!("(sleep 6; touch '{}') &\nsleep 600", mark.display()));
    let started = Instant::now();
    let why = read(&converter(&hanging, &["{file}"], Kind::Text), b"x").unwrap_err();
    assert!(why.contains("took longer than 2 s"), "{why}");
    assert!(started.elapsed() < Duration::from_secs(20));
    // One that ends and leaves a child behind, which keeps its output open, is waited for no longer.
    let leaving = program(folder.path(), "sleep 600 &\necho done");
    assert_eq!(text(read(&converter(&leaving, &["{file}"], Kind::Text), b"y")), "done\n");
    assert!(started.elapsed() < Duration::from_secs(20));
    std::thread::sleep(Duration::from_secs(5).saturating_sub(started.elapsed().saturating_sub(Duration::from_secs(2))));
    assert!(!mark.exists(), "what it started was stopped too");
}

#[test]
fn the_same_contents_are_converted_once() {
    let folder = tempfile::tempdir().unwrap();
    let counting =
        program(folder.path(), &format!("echo x >> '{}'; cat \"$1\"", folder.path().join("count").display()));
    let converters = Converters::new(vec![converter(&counting, &["{file}"], Kind::Text)]);
    for _ in 0..3 {
        assert!(converters.read(b"a.chart", b"one", None).unwrap().is_ok());
    }
    assert!(converters.read(b"b.chart", b"two", None).unwrap().is_ok());
    assert_eq!(fs::read_to_string(folder.path().join("count")).unwrap(), "x\nx\n");
    assert!(converters.read(b"a.txt", b"one", None).is_none(), "other files are not read by it");
}

#[test]
fn a_command_must_say_how_it_gets_the_file() {
    let new =
        |command: &[&str]| Converter::new(files(), command.iter().map(|part| (*part).to_owned()).collect(), Kind::Text);
    assert!(new(&[]).is_err() && new(&[""]).is_err());
    assert!(new(&["cat"]).unwrap_err().contains("{file}"));
    assert!(new(&["cat", "{file}", "{stdin}"]).is_err());
    assert!(new(&["cat", "--from={file}"]).is_ok());
}
