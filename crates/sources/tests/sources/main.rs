//! What a side may be: a folder on the disk, an archive, a revision, an inventory.

#![expect(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

mod archives;
mod converters;
mod documents;
mod equal;
mod making;
mod revisions;

use std::fs;
use std::io::Read;
use std::path::Path;

use tideline_core::internal::tree::{EntryType, Tree};
use tideline_sources::FolderTree;

fn write(root: &Path, path: &str, text: &str) {
    let path = root.join(path);
    fs::create_dir_all(path.parent().unwrap()).unwrap();
    fs::write(path, text).unwrap();
}

fn names(tree: &FolderTree, folder: &str) -> Vec<String> {
    let listing = tree.list(&folder.into()).unwrap();
    let mut names: Vec<_> =
        listing.entries.iter().map(|entry| String::from_utf8_lossy(&entry.name).into_owned()).collect();
    names.sort();
    names
}

#[test]
fn entries_facts_and_contents_are_those_of_the_folder() {
    let folder = tempfile::tempdir().unwrap();
    write(folder.path(), "stations/mouth.toml", "interval = 60\n");
    write(folder.path(), ".hidden", "");
    let tree = FolderTree::new(folder.path());
    assert_eq!(names(&tree, ""), [".hidden", "stations"]);
    assert_eq!(
        tree.list(&"".into()).unwrap().entries.iter().filter(|entry| entry.entry_type == EntryType::Folder).count(),
        1
    );
    assert_eq!(tree.metadata(&"stations/mouth.toml".into()).unwrap().size, 14);
    let mut text = String::new();
    let mut opened = tree.open(&"stations/mouth.toml".into()).unwrap();
    opened.reader.read_to_string(&mut text).unwrap();
    assert_eq!((opened.metadata.size, text.as_str()), (14, "interval = 60\n"));
    assert_eq!((*tree.contents(&"stations/mouth.toml".into()).unwrap()).as_ref(), b"interval = 60\n");
}

#[test]
fn what_is_not_there_is_a_problem_in_words() {
    let folder = tempfile::tempdir().unwrap();
    let tree = FolderTree::new(folder.path());
    assert_eq!(tree.list(&"none".into()).unwrap_err().to_string(), "no such file or directory");
    assert_eq!(tree.metadata(&"none".into()).unwrap_err().to_string(), "no such file or directory");
    assert!(tree.open(&"none".into()).is_err());
}

#[test]
fn repositories_are_passed_over_but_named() {
    let folder = tempfile::tempdir().unwrap();
    write(folder.path(), ".git/config", "");
    write(folder.path(), "inner/.hg/store", "");
    let tree = FolderTree::new(folder.path());
    assert_eq!(tree.list(&"".into()).unwrap().repositories, [b".git".to_vec()]);
    assert_eq!(names(&tree, "inner"), Vec::<String>::new());
    let whole = FolderTree::new(folder.path()).with_repositories(true);
    assert_eq!(names(&whole, ""), [".git", "inner"]);
}

#[test]
fn the_nearest_ignore_file_decides() {
    let folder = tempfile::tempdir().unwrap();
    for path in ["a.log", "keep/a.log", "keep/b.tmp", "build/x", "src/build/y"] {
        write(folder.path(), path, "");
    }
    write(folder.path(), ".gitignore", "*.log\n/build/\n");
    write(folder.path(), "keep/.ignore", "!*.log\n*.tmp\n");
    let tree = FolderTree::new(folder.path()).use_ignore_files(true);
    assert_eq!(names(&tree, ""), [".gitignore", "keep", "src"]);
    assert_eq!(tree.list(&"".into()).unwrap().ignored, 2);
    assert_eq!(names(&tree, "keep"), [".ignore", "a.log"]);
    assert_eq!(names(&tree, "src"), ["build"], "a pattern that begins with / holds for its own folder only");
}

#[cfg(unix)]
#[test]
fn links_are_what_they_are_or_what_they_point_to() {
    use std::os::unix::fs::symlink;
    let folder = tempfile::tempdir().unwrap();
    write(folder.path(), "file", "text");
    symlink("file", folder.path().join("to-file")).unwrap();
    symlink(".", folder.path().join("to-itself")).unwrap();
    symlink("none", folder.path().join("to-nowhere")).unwrap();
    let types = |tree: &FolderTree| {
        let mut entries = tree.list(&"".into()).unwrap().entries;
        entries.sort_by(|one, other| one.name.cmp(&other.name));
        entries.into_iter().map(|entry| entry.entry_type).collect::<Vec<_>>()
    };
    let as_is = FolderTree::new(folder.path());
    assert_eq!(types(&as_is), [EntryType::File, EntryType::Link, EntryType::Link, EntryType::Link]);
    assert_eq!(as_is.link_target(&"to-file".into()).unwrap(), b"file");
    let followed = FolderTree::new(folder.path()).follow_links(true);
    assert_eq!(types(&followed), [EntryType::File, EntryType::File, EntryType::Special("link loop"), EntryType::Link]);
}
