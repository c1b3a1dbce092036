//! How often a stream is read.

use std::path::Path;

use tideline_core::internal::tree::{Tree, TreeOptions, compare};

use super::{ArchiveOptions, ArchiveTree};
use crate::blob::Blob;
use crate::compression::Compression;
use crate::detect::Packed;
use crate::folder::FolderTree;
use crate::limits::Limits;

fn archive(files: &[(&str, String)]) -> ArchiveTree {
    archive_beside(files, None)
}

/// An archive that is compared with a folder, which is known when it is opened.
fn archive_beside(files: &[(&str, String)], beside: Option<&Path>) -> ArchiveTree {
    let mut builder = tar::Builder::new(Vec::new());
    for (path, text) in files {
        let mut header = tar::Header::new_gnu();
        header.set_mode(0o644);
        header.set_size(text.len() as u64);
        builder.append_data(&mut header, path, text.as_bytes()).unwrap();
    }
    let bytes = zstd::encode_all(&builder.into_inner().unwrap()[..], 1).unwrap();
    let blob = Blob::of_contents(Box::new(bytes));
    let plain = ArchiveOptions::new(Limits::default(), Vec::new(), false);
    let options = ArchiveOptions { kept_at_once: 3 << 20, beside: beside.map(Path::to_path_buf), ..plain };
    ArchiveTree::open(blob, Packed::Tar(Some(Compression::Zstd)), &options).unwrap()
}

fn folder(root: &Path, files: &[(&str, String)]) -> FolderTree {
    for (path, text) in files {
        std::fs::write(root.join(path), text).unwrap();
    }
    FolderTree::new(root)
}

fn log(word: &str, mebibytes: usize) -> String {
    let lines = (0_u32..).map(|at| format!("{word} {:010} {:010}\n", at, at.wrapping_mul(2_654_435_761)));
    let mut text = String::new();
    for line in lines {
        text.push_str(&line);
        if text.len() > mebibytes << 20 {
            break;
        }
    }
    text
}

#[test]
fn a_small_stream_is_read_once_and_a_large_one_twice() {
    let place = tempfile::tempdir().unwrap();
    let small = [("a.log", log("low", 1)), ("b.log", log("high", 1))];
    let (before, after) = (archive(&small), folder(place.path(), &[("a.log", log("ebb", 1)), small[1].clone()]));
    assert_eq!(compare(&before, &after, &TreeOptions::default(), &Default::default()).pairs.len(), 1);
    assert_eq!(before.passes(), 1);

    // What is beyond the first part of it must be read again, but all that is needed at once.
    let large =
        [("0.log", log("mean", 2)), ("a.log", log("low", 2)), ("b.log", log("high", 2)), ("c.log", log("x", 1))];
    let others = [large[0].clone(), ("a.log", log("ebb", 2)), ("b.log", log("flow", 2)), large[3].clone()];
    for moves in [true, false] {
        let (before, after) = (archive(&large), folder(place.path(), &others));
        let found = compare(&before, &after, &TreeOptions::default().moves(moves), &Default::default());
        assert_eq!(found.pairs.iter().map(|pair| pair.path.to_text()).collect::<Vec<_>>(), ["a.log", "b.log"]);
        for path in ["a.log", "b.log"] {
            assert!(before.contents(&path.into()).is_ok());
        }
        assert_eq!(before.passes(), 2, "with moves: {moves}");
    }
    // What differs in size from the folder beside it is kept at once.
    let longer = |text: &str| format!("{text}more\n");
    let others = [large[0].clone(), ("a.log", longer(&large[1].1)), ("b.log", longer(&large[2].1)), large[3].clone()];
    let after = folder(place.path(), &others);
    let before = archive_beside(&large, Some(place.path()));
    assert_eq!(compare(&before, &after, &TreeOptions::default(), &Default::default()).pairs.len(), 2);
    assert_eq!(before.passes(), 1);
}
