//! The entries of something that tells them all at once, by folder.

use std::collections::{BTreeMap, HashMap};

use tideline_core::internal::tree::{
    Entry, EntryMetadata, EntryType, Listing, Remark, TreeError, TreeErrorKind, TreePath,
};
use unicode_normalization::UnicodeNormalization;

/// An entry, and where its contents are.
#[derive(Clone, Debug)]
pub(crate) struct Node<T> {
    pub(crate) entry_type: EntryType,
    pub(crate) metadata: Option<EntryMetadata>,
    /// Where a link points.
    pub(crate) target: Option<Vec<u8>>,
    /// Where its contents are.
    pub(crate) held: T,
    /// Whether it is looked into as a folder, and can be read as the file that it is.
    pub(crate) packed: bool,
}

/// The entries of something, by folder and name.
#[derive(Debug)]
pub(crate) struct Index<T> {
    folders: HashMap<TreePath, BTreeMap<Vec<u8>, Node<T>>>,
    remarks: Vec<Remark>,
    /// Names that stand there more than once, and how often.
    repeated: BTreeMap<TreePath, usize>,
    entries: usize,
}

impl<T> Default for Index<T> {
    fn default() -> Self {
        let folders = HashMap::from([(TreePath::ROOT, BTreeMap::new())]);
        Self { folders, remarks: Vec::new(), repeated: BTreeMap::new(), entries: 0 }
    }
}

/// The path that a name stands for: its parts, without those that lead nowhere.
pub(crate) fn plain_path(name: &[u8]) -> TreePath {
    let parts: Vec<&[u8]> = name.split(|&byte| byte == b'/').filter(|part| !part.is_empty() && *part != b".").collect();
    TreePath::from(parts.join(&b'/'))
}

impl<T: Default> Index<T> {
    /// Adds an entry by its name. One that is there already is replaced, as unpacking would do. Names that lead out of the folder are
    /// kept as they are, and told.
    pub(crate) fn add(&mut self, name: &[u8], node: Node<T>) {
        self.entries += 1;
        let path = self.path_of(name);
        if path.is_root() {
            return;
        }
        self.add_folder(&path.parent());
        let (folder, name) = path.split();
        let Some(names) = self.folders.get_mut(folder) else { return };
        let is_folder = |node: &Node<T>| node.entry_type == EntryType::Folder;
        match names.get_mut(name) {
            // A folder may be told before or after what is in it, and more than once.
            Some(known) if is_folder(known) && is_folder(&node) => *known = node,
            Some(known) if is_folder(known) => {
                self.remark(&path, "the archive has it as a file and as a folder; the folder is used");
            }
            Some(known) => {
                *self.repeated.entry(path.clone()).or_insert(1) += 1;
                let became_folder = is_folder(&node);
                *known = node;
                if became_folder {
                    self.folders.entry(path).or_default();
                }
            }
            None => {
                let became_folder = is_folder(&node);
                names.insert(name.to_vec(), node);
                if became_folder {
                    self.folders.entry(path).or_default();
                }
            }
        }
    }

    /// Adds an entry of a listing that is known to be sound: folders come before what is in them, and no name stands there twice.
    pub(crate) fn add_listed(&mut self, path: &[u8], node: Node<T>) {
        let at = memchr::memrchr(b'/', path);
        let (folder, name) = at.map_or((&b""[..], path), |at| (&path[..at], &path[at + 1..]));
        let is_folder = node.entry_type == EntryType::Folder;
        match self.folders.get_mut(folder) {
            Some(names) => {
                names.insert(name.to_vec(), node);
                if is_folder {
                    self.folders.insert(TreePath::from(path), BTreeMap::new());
                }
                self.entries += 1;
            }
            None => self.add(path, node),
        }
    }

    /// Adds an entry unless one of its name is there.
    pub(crate) fn add_once(&mut self, name: &[u8], node: Node<T>) {
        if self.node(&TreePath::from(name)).is_err() {
            self.add(name, node);
        }
    }

    /// The path that a name stands for.
    fn path_of(&mut self, name: &[u8]) -> TreePath {
        let path = plain_path(name);
        let is_drive = matches!(name, [letter, b':', b'\\' | b'/', ..] if letter.is_ascii_alphabetic());
        if name.starts_with(b"/") || is_drive {
            self.remark(&path, "its name is absolute; it is never a path on the disk");
        } else if path.as_bytes().split(|&byte| byte == b'/').any(|part| part == b"..") {
            self.remark(&path, "its name leads out of the folder with `..`; it is never a path on the disk");
        }
        path
    }

    fn remark(&mut self, path: &TreePath, text: &str) {
        self.remarks.push(Remark { path: Some(path.clone()), text: text.to_owned() });
    }

    /// Adds a folder, and those above it, where they are not there yet.
    fn add_folder(&mut self, path: &TreePath) {
        if self.folders.contains_key(path) {
            return;
        }
        let mut missing = vec![path.clone()];
        while let Some(last) = missing.last()
            && let above = last.parent()
            && !self.folders.contains_key(&above)
        {
            missing.push(above);
        }
        for path in missing.into_iter().rev() {
            let (folder, name) = path.split();
            let node =
                Node { entry_type: EntryType::Folder, metadata: None, target: None, held: T::default(), packed: false };
            if let Some(names) = self.folders.get_mut(folder)
                && let Some(file) = names.insert(name.to_vec(), node)
                && file.entry_type != EntryType::Folder
            {
                self.remark(&path, "the archive has it as a file and as a folder; the folder is used");
            }
            self.folders.insert(path, BTreeMap::new());
        }
    }
}

impl<T> Index<T> {
    /// How many entries were added.
    pub(crate) fn entries(&self) -> usize {
        self.entries
    }

    pub(crate) fn node(&self, path: &TreePath) -> Result<&Node<T>, TreeError> {
        let (folder, name) = path.split();
        let found = self.folders.get(folder).and_then(|names| names.get(name));
        found.ok_or_else(|| TreeError::new(TreeErrorKind::Missing, "there is no such entry"))
    }

    /// The same, to be changed.
    pub(crate) fn node_mut(&mut self, path: &TreePath) -> Option<&mut Node<T>> {
        let (folder, name) = path.split();
        self.folders.get_mut(folder)?.get_mut(name)
    }

    /// How many entries that are no folders are in a folder, at any depth.
    pub(crate) fn entries_in(&self, folder: &TreePath) -> usize {
        let (mut count, mut folders) = (0, vec![folder.clone()]);
        while let Some(folder) = folders.pop() {
            for (name, node) in self.folders.get(&folder).into_iter().flatten() {
                if node.entry_type == EntryType::Folder {
                    folders.push(folder.join(name));
                } else {
                    count += 1;
                }
            }
        }
        count
    }

    /// All entries with their paths, in no order.
    pub(crate) fn nodes(&self) -> impl Iterator<Item = (TreePath, &Node<T>)> {
        self.folders.iter().flat_map(|(folder, names)| names.iter().map(move |(name, node)| (folder.join(name), node)))
    }

    /// Changes where contents are.
    pub(crate) fn for_each_held(&mut self, change: impl Fn(&mut T)) {
        self.folders.values_mut().flat_map(BTreeMap::values_mut).for_each(|node| change(&mut node.held));
    }

    pub(crate) fn list(&self, folder: &TreePath) -> Result<Listing, TreeError> {
        let names = self.folders.get(folder);
        let names = names.ok_or_else(|| TreeError::new(TreeErrorKind::Missing, "there is no such folder"))?;
        let entry = |(name, node): (&Vec<u8>, &Node<T>)| Entry {
            name: name.clone(),
            entry_type: node.entry_type,
            metadata: node.metadata,
            packed: node.packed,
        };
        Ok(Listing { entries: names.iter().map(entry).collect(), ..Listing::default() })
    }

    /// The one folder that everything is in, if there is one.
    pub(crate) fn top_folder(&self) -> Option<TreePath> {
        let mut names = self.folders.get(&TreePath::ROOT)?.iter();
        let (name, node) = names.next()?;
        let is_only = names.next().is_none() && node.entry_type == EntryType::Folder && name != b"..";
        is_only.then(|| TreePath::from(&name[..]))
    }

    /// What there is to know of the names: those that lead out, stand there twice, or differ in a way that not every disk tells apart.
    pub(crate) fn remarks(&self) -> Vec<Remark> {
        let mut remarks = self.remarks.clone();
        remarks.extend(self.repeated.iter().map(|(path, times)| Remark {
            path: Some(path.clone()),
            text: format!("its name occurs {times} times in the archive; the last entry is used"),
        }));
        for (folder, names) in &self.folders {
            let mut folded: HashMap<String, &[u8]> = HashMap::new();
            for name in names.keys() {
                let Ok(text) = std::str::from_utf8(name) else { continue };
                let key: String = text.nfc().flat_map(char::to_lowercase).collect();
                if let Some(other) = folded.insert(key, name) {
                    let text = format!(
                        "its name differs from {} only in case or in how letters are composed",
                        String::from_utf8_lossy(other)
                    );
                    remarks.push(Remark { path: Some(folder.join(name)), text });
                }
            }
        }
        remarks
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn file(number: u32) -> Node<u32> {
        Node { entry_type: EntryType::File, metadata: None, target: None, held: number, packed: false }
    }

    fn names(index: &Index<u32>, folder: &str) -> Vec<String> {
        let entries = index.list(&folder.into()).unwrap().entries.into_iter();
        entries.map(|entry| String::from_utf8(entry.name).unwrap()).collect()
    }

    #[test]
    fn names_are_put_into_their_folders_however_they_are_written() {
        let mut index = Index::default();
        for (number, name) in (1..).zip(["./a/b//c", "a/d/", "e", "", ".", "./"]) {
            index.add(name.as_bytes(), file(number));
        }
        assert_eq!(names(&index, ""), ["a", "e"]);
        assert_eq!(names(&index, "a"), ["b", "d"]);
        assert_eq!(index.node(&"a/b/c".into()).unwrap().held, 1);
        assert_eq!(index.entries_in(&TreePath::ROOT), 3);
        assert!(index.remarks().is_empty(), "{:?}", index.remarks());
    }

    #[test]
    fn the_one_folder_that_all_is_in_is_known_and_no_other_is() {
        let top = |names: &[&str]| {
            let mut index = Index::default();
            names.iter().for_each(|name| index.add(name.as_bytes(), file(0)));
            index.top_folder().map(|path| path.to_text())
        };
        assert_eq!(top(&["kit/a", "kit/b/c"]).as_deref(), Some("kit"));
        assert_eq!(top(&["kit/a", "other/b"]), None);
        assert_eq!(top(&["kit"]), None, "a file is no folder");
        assert_eq!(top(&["../a", "../b"]), None, "nothing outside is looked into");
        assert_eq!(top(&[]), None);
    }

    #[test]
    fn a_listing_that_is_sound_and_one_that_is_not_come_to_the_same() {
        let (mut quick, mut slow) = (Index::default(), Index::default());
        let folder = || Node { entry_type: EntryType::Folder, ..file(0) };
        for (name, node) in [("a", folder()), ("a/b", folder()), ("a/b/c", file(1)), ("d", file(2))] {
            quick.add_listed(name.as_bytes(), node.clone());
            slow.add(name.as_bytes(), node);
        }
        for path in ["", "a", "a/b"] {
            assert_eq!(names(&quick, path), names(&slow, path));
        }
        // What is in a folder that was not told is put there all the same.
        quick.add_listed(b"x/y", file(3));
        assert_eq!(names(&quick, "x"), ["y"]);
    }
}
