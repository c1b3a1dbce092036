//! Trees that tell more than a folder does, or less: identities, contents that are read in one go, permissions and times that are known in
//! part, archives that are looked into.

use std::collections::{BTreeMap, BTreeSet};
use std::io::Cursor;
use std::sync::Mutex;
use std::time::{Duration, SystemTime};

use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{
    Attribute, Attributes, ContentId, Entry, EntryMetadata, EntryType, Listing, MemoryTree, Note, Opened, Pair, Remark,
    Tree, TreeComparison, TreeError, TreeErrorKind, TreeOptions, TreePath, compare,
};

/// A tree in memory that counts what is read of it, and keeps what is put on top of the memory.
#[derive(Default)]
struct Odd {
    files: BTreeMap<String, (Vec<u8>, EntryMetadata)>,
    folders: BTreeSet<String>,
    /// Folders that are archives, as the files that they are.
    packed: BTreeMap<String, Vec<u8>>,
    keeps_identities: bool,
    makes_identities: bool,
    reads_ahead: bool,
    without_empty_folders: bool,
    damage: Option<TreeError>,
    /// The paths that were opened or read as a whole, and those that were named before.
    read: Mutex<Vec<String>>,
    prepared: Mutex<Vec<Vec<String>>>,
}

impl Odd {
    fn file(self, path: &str, text: &str) -> Self {
        self.file_with(path, text, EntryMetadata::default())
    }

    fn file_with(mut self, path: &str, text: &str, metadata: EntryMetadata) -> Self {
        let mut above = path;
        while let Some((folder, _)) = above.rsplit_once('/') {
            self.folders.insert(folder.to_owned());
            above = folder;
        }
        let metadata = EntryMetadata { size: text.len() as u64, ..metadata };
        self.files.insert(path.to_owned(), (text.as_bytes().to_vec(), metadata));
        self
    }

    fn packed(mut self, path: &str, bytes: &str) -> Self {
        self.folders.insert(path.to_owned());
        self.packed.insert(path.to_owned(), bytes.as_bytes().to_vec());
        self
    }

    fn was_read(&self) -> Vec<String> {
        let mut read = self.read.lock().unwrap().clone();
        read.sort();
        read.dedup();
        read
    }

    fn id(&self, path: &TreePath) -> Option<ContentId> {
        let (bytes, _) = self.files.get(&path.to_text())?;
        // Contents short enough to be their own identity.
        Some(ContentId { algorithm: "itself", bytes: bytes.clone() })
    }
}

impl Tree for Odd {
    fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        let folder = folder.to_text();
        let name = |path: &String| {
            let (above, name) = path.rsplit_once('/').unwrap_or(("", path));
            (above == folder).then(|| name.to_owned())
        };
        let files = self.files.keys().filter_map(name).map(|name| Entry::new(name, EntryType::File));
        let folders = self.folders.iter().filter_map(|path| {
            let mut entry = Entry::new(name(path)?, EntryType::Folder);
            entry.packed = self.packed.contains_key(path);
            Some(entry)
        });
        let damage = self.damage.clone().filter(|_| folder.is_empty());
        Ok(Listing { entries: files.chain(folders).collect(), damage, ..Listing::default() })
    }

    fn metadata(&self, path: &TreePath) -> Result<EntryMetadata, TreeError> {
        let found = self.files.get(&path.to_text()).map(|(_, metadata)| *metadata);
        found.ok_or_else(|| TreeError::new(TreeErrorKind::Missing, "there is no such entry"))
    }

    fn open(&self, path: &TreePath) -> Result<Opened, TreeError> {
        if let Some(bytes) = self.packed.get(&path.to_text()) {
            let metadata = EntryMetadata { size: bytes.len() as u64, ..EntryMetadata::default() };
            return Ok(Opened { metadata, reader: Box::new(Cursor::new(bytes.clone())) });
        }
        let metadata = self.metadata(path)?;
        self.read.lock().unwrap().push(path.to_text());
        Ok(Opened { metadata, reader: Box::new(Cursor::new(self.files[&path.to_text()].0.clone())) })
    }

    fn identity(&self, path: &TreePath) -> Option<ContentId> {
        if self.keeps_identities { self.id(path) } else { None }
    }

    fn identify(&self, path: &TreePath, algorithm: &str) -> Option<Result<ContentId, TreeError>> {
        (self.makes_identities && algorithm == "itself").then(|| Ok(self.id(path).unwrap()))
    }

    fn reads_ahead(&self) -> bool {
        self.reads_ahead
    }

    fn prepare(&self, paths: &[&TreePath]) {
        self.prepared.lock().unwrap().push(paths.iter().map(|path| path.to_text()).collect());
    }

    fn holds_empty_folders(&self) -> bool {
        !self.without_empty_folders
    }

    fn remarks(&self) -> Vec<Remark> {
        vec![Remark { path: None, text: "this tree is odd".to_owned() }]
    }

    fn link_target(&self, _: &TreePath) -> Result<Vec<u8>, TreeError> {
        Err(TreeError::new(TreeErrorKind::Other, "it is no link"))
    }
}

fn compared(before: &dyn Tree, after: &dyn Tree, options: &TreeOptions) -> TreeComparison {
    compare(before, after, options, &Default::default())
}

fn told(found: &TreeComparison) -> Vec<(String, Status)> {
    found.pairs.iter().map(|pair: &Pair| (pair.path.to_text(), pair.status)).collect()
}

fn pair(path: &str, status: Status) -> (String, Status) {
    (path.to_owned(), status)
}

#[test]
fn what_one_tree_knows_by_identity_the_other_makes_and_only_what_differs_is_read() {
    let before = Odd { keeps_identities: true, ..Odd::default() }.file("same", "low\n").file("other", "low\n");
    let after = Odd { makes_identities: true, ..Odd::default() }.file("same", "low\n").file("other", "ebb\n");
    for (one, two) in [(&before, &after), (&after, &before)] {
        one.read.lock().unwrap().clear();
        two.read.lock().unwrap().clear();
        let found = compared(one, two, &TreeOptions::default());
        assert_eq!(told(&found), [pair("other", Status::Changed)]);
        assert_eq!(found.pairs[0].extent.counted, 1);
        assert_eq!((one.was_read(), two.was_read()), (vec!["other".to_owned()], vec!["other".to_owned()]));
    }
}

#[test]
fn what_a_tree_reads_in_one_go_is_named_once_with_moves_and_without() {
    for moves in [true, false] {
        let before = Odd { reads_ahead: true, ..Odd::default() }
            .file("same", "low\n")
            .file("a", "one\n")
            .file("b/c", "two\n")
            .file("gone", "going\n");
        let after = MemoryTree::new().file("same", "low\n").file("a", "1\n").file("b/c", "2\n").file("new", "coming\n");
        let found = compared(&before, &after, &TreeOptions::default().moves(moves));
        assert_eq!(found.pairs.len(), 4);
        let prepared = before.prepared.lock().unwrap().clone();
        assert_eq!(prepared, [["a", "b/c", "gone"]], "with moves: {moves}");
    }
}

#[test]
fn nothing_is_named_where_nothing_will_be_read() {
    let before = Odd { reads_ahead: true, keeps_identities: true, ..Odd::default() }.file("a", "one\n");
    let after = Odd { keeps_identities: true, ..Odd::default() }.file("a", "1\n");
    let found = compared(&before, &after, &TreeOptions::default().moves(false).counts(false));
    assert_eq!(told(&found), [pair("a", Status::Changed)]);
    assert!(before.prepared.lock().unwrap().is_empty());
    assert!(before.was_read().is_empty() && after.was_read().is_empty());
}

#[test]
fn moves_are_found_by_identity_where_contents_are_elsewhere() {
    let id = |name: &str| ContentId { algorithm: "itself", bytes: name.as_bytes().to_vec() };
    let before = MemoryTree::new().known("old/name", 6, id("levels")).known("stays", 6, id("marks!"));
    let after = Odd { makes_identities: true, ..Odd::default() }.file("new/name", "levels").file("stays", "marks!");
    let found = compared(&before, &after, &TreeOptions::default());
    let moved: Vec<_> = found.pairs.iter().filter(|pair| pair.status == Status::Moved).collect();
    assert_eq!(moved.len(), 1, "{:?}", told(&found));
    assert_eq!((moved[0].path.to_text(), moved[0].path_before().to_text()), ("new/name".into(), "old/name".into()));
    assert_eq!(found.count(Status::Unreadable), 0);
}

#[test]
fn permissions_and_times_are_compared_as_far_as_both_hold_them() {
    let at = |seconds: f64| Some(SystemTime::UNIX_EPOCH + Duration::from_secs_f64(seconds));
    let exact = |mode, seconds| EntryMetadata { mode: Some(mode), modified: at(seconds), ..EntryMetadata::default() };
    let whole = |mode, seconds| EntryMetadata { time_step: Duration::from_secs(1), ..exact(mode, seconds) };
    let runs_only = |mode| EntryMetadata { mode: Some(mode), mode_unknown: 0o7677, ..EntryMetadata::default() };
    let before = Odd::default()
        .file_with("within a second", "x", exact(0o644, 100.7))
        .file_with("a second later", "x", exact(0o644, 100.0))
        .file_with("runs in both", "x", exact(0o750, 100.0))
        .file_with("runs in one", "x", exact(0o640, 100.0))
        .file_with("nothing known", "x", exact(0o640, 100.0));
    let after = Odd::default()
        .file_with("within a second", "x", whole(0o644, 100.0))
        .file_with("a second later", "x", whole(0o644, 101.0))
        .file_with("runs in both", "x", runs_only(0o755))
        .file_with("runs in one", "x", runs_only(0o755))
        .file_with("nothing known", "x", EntryMetadata::default());
    let options = TreeOptions::default().attributes(Attributes { mode: true, time: true });
    let found = compared(&before, &after, &options);
    let differing: Vec<_> =
        found.pairs.iter().map(|pair| (pair.path.to_text(), pair.attributes.as_slice().to_vec())).collect();
    assert_eq!(
        differing,
        [("a second later".to_owned(), vec![Attribute::Time]), ("runs in one".to_owned(), vec![Attribute::Mode])]
    );
    // Of two pairs a part of the permissions is unknown, of one all; three have no time on one side.
    assert_eq!((found.left_out.modes, found.left_out.times), (2, 3));
}

#[test]
fn empty_folders_are_left_out_and_counted_where_one_tree_cannot_hold_them() {
    let before = Odd { without_empty_folders: true, ..Odd::default() }.file("kept/a", "x");
    let mut after = Odd::default().file("kept/a", "x").file("new/deep/b", "y");
    after.folders.insert("empty".to_owned());
    after.folders.insert("empty/inner".to_owned());
    let found = compared(&before, &after, &TreeOptions::default());
    let wanted = [pair("new", Status::New), pair("new/deep", Status::New), pair("new/deep/b", Status::New)];
    assert_eq!(told(&found), wanted);
    assert_eq!(found.left_out.empty_folders, 1);
}

#[test]
fn what_there_may_be_more_of_is_unreadable_beside_what_is_listed() {
    let damage = Some(TreeError::new(TreeErrorKind::Damaged, "it is cut off"));
    let before = Odd { damage, ..Odd::default() }.file("a", "x");
    let found = compared(&before, &Odd::default().file("a", "x").file("b", "y"), &TreeOptions::default());
    assert_eq!(told(&found), [pair("", Status::Unreadable), pair("b", Status::New)]);
    assert!(matches!(&found.pairs[0].note, Some(Note::UnreadableBefore(why)) if why.to_string() == "it is cut off"));
    assert_eq!(found.count(Status::Same), 1);
    assert_eq!(found.remarks.len(), 1, "what both trees say is said once");
}

#[test]
fn an_archive_in_which_nothing_differs_is_muted_for_its_packing_whatever_is_asked_for() {
    let kit = |packing: &str, level: &str| {
        Odd::default()
            .packed("a.zip", packing)
            .packed("a.zip/inner.zip", packing)
            .file("a.zip/inner.zip/levels", level)
            .file("a.zip/notes", "one\n")
            .file("b", "last\n")
    };
    let statuses = |options: &TreeOptions, before: &Odd, after: &Odd| told(&compared(before, after, options));
    let all = TreeOptions::default().only(Some(Status::ALL.to_vec()));
    for moves in [true, false] {
        let plain = TreeOptions::default().moves(moves);
        let (one, same) = (kit("packed", "4.1\n"), kit("packed", "4.1\n"));
        assert_eq!(statuses(&plain, &one, &same), []);
        let (anew, differs) = (kit("packed anew", "4.1\n"), kit("packed anew", "4.2\n"));
        assert_eq!(statuses(&plain, &one, &anew), [pair("a.zip", Status::Muted)]);
        assert_eq!(statuses(&plain, &one, &differs), [pair("a.zip/inner.zip/levels", Status::Changed)]);
        let with_same = statuses(&all.clone().moves(moves), &one, &anew);
        let wanted = [
            pair("a.zip", Status::Muted),
            pair("a.zip/inner.zip/levels", Status::Same),
            pair("a.zip/notes", Status::Same),
            pair("b", Status::Same),
        ];
        assert_eq!(with_same, wanted);
        assert!(!compared(&one, &anew, &plain).differs());
    }
}
