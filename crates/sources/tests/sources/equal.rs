//! A random tree is the same as a folder, as an archive of any kind, as a revision and as an inventory: in every pairing, in what both
//! hold.

use std::fs::File;
use std::path::{Path, PathBuf};

use proptest::collection::{btree_map, vec};
use proptest::prelude::*;
use tideline_core::internal::tree::{Attributes, EntryType, Progress, TreeOptions};
use tideline_sources::inventory::{Head, InventoryWriter, Listed, Text, VERSION};
use tideline_sources::{Algorithm, SideOptions};

use crate::making::{Entries, Made, compared, compressed, folder, tar, tree, zip};
use crate::revisions::Repository;

fn name() -> impl Strategy<Value = String> {
    prop::sample::select(vec!["levels", "höhe", "with space", "a.txt", "潮位", "-n", "x"]).prop_map(str::to_owned)
}

fn made() -> impl Strategy<Value = Made> {
    prop_oneof![
        6 => (vec(any::<u8>(), 0..300), any::<bool>()).prop_map(|(bytes, runs)| Made::File { bytes, runs }),
        1 => Just(Made::File { bytes: vec![b'7'; 70_000], runs: false }),
        1 => name().prop_map(Made::Link),
    ]
}

/// Files and links in folders; a path that goes through a file or a link is left out.
fn entries() -> impl Strategy<Value = Entries> {
    btree_map(vec(name(), 1..4).prop_map(|names| names.join("/")), made(), 1..8).prop_map(|all| {
        let is_below = |path: &str, other: &str| path.strip_prefix(other).is_some_and(|rest| rest.starts_with('/'));
        let paths: Vec<String> = all.keys().cloned().collect();
        all.into_iter().filter(|(path, _)| !paths.iter().any(|other| is_below(path, other))).collect()
    })
}

/// Every form of a tree in a folder, by its path or its revision.
fn forms(place: &Path, repository: &Repository, entries: &Entries) -> Vec<PathBuf> {
    let kit = place.join("kit");
    folder(&kit, entries);
    folder(&repository.root(), entries);
    repository.commit("The kit");
    // Two entries in the root, so that no folder is looked through.
    let written = |name: &str, bytes: Vec<u8>| {
        let path = place.join(name);
        std::fs::write(&path, bytes).unwrap();
        path
    };
    let packed = tar(entries);
    vec![
        kit.clone(),
        written("kit.zip", zip(entries, true)),
        written("kit.tar.gz", compressed(&packed, "gz")),
        written("kit.tar", packed),
        PathBuf::from("git:HEAD"),
        inventory(&kit, &place.join("kit.jsonl"), entries),
    ]
}

fn inventory(kit: &Path, path: &Path, entries: &Entries) -> PathBuf {
    let tree = tree(kit, &SideOptions::default());
    let mut out = File::create(path).unwrap();
    let head = Head { version: VERSION, root: Text::of(b"kit"), hashes: vec!["blake3".to_owned()], ..Head::default() };
    let progress = Progress::default();
    let mut writer = InventoryWriter::new(&*tree, head, vec![Algorithm::Blake3], &progress, &mut out).unwrap();
    for (path, made) in entries {
        let entry_type = match made {
            Made::File { .. } => EntryType::File,
            Made::Folder => EntryType::Folder,
            Made::Link(_) => EntryType::Link,
        };
        let (path, metadata, unreadable) = (path.as_str().into(), None, None);
        writer.add(Listed { path, entry_type, metadata, unreadable }).unwrap();
    }
    let total = writer.end().unwrap();
    assert_eq!(total.files + total.links + total.folders, entries.len() as u64);
    path.to_path_buf()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

    #[test]
    fn every_form_of_a_tree_is_the_same_as_every_other(mut entries in entries()) {
        entries.push(("zz-empty/inner".to_owned(), Made::Folder));
        entries.push(("zz-last".to_owned(), Made::File { bytes: b"last\n".to_vec(), runs: true }));
        let place = tempfile::tempdir().unwrap();
        let repository = Repository::new();
        let all = forms(place.path(), &repository, &entries);
        let options = TreeOptions::default().attributes(Attributes { mode: true, time: true });
        for (at, one) in all.iter().enumerate() {
            for other in &all[at..] {
                let found = compared(one, other, &repository.options(), &options);
                prop_assert_eq!(&found.pairs, &[], "{} and {}", one.display(), other.display());
                prop_assert!(!found.differs());
            }
        }
    }
}
