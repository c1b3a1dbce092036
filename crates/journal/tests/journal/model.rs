//! A file system in memory. Other programs act between any two calls; any call can fail, end the program, or lose the power.
//!
//! Names change in the order of the calls, as on a file system with a journal of its own: when the power goes, what was not flushed is lost
//! from some point on. What was written to a file and not flushed is lost, or half of it is there.

use std::collections::{BTreeMap, BTreeSet};
use std::ffi::{OsStr, OsString};
use std::io::{self, ErrorKind};
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use tideline_core::internal::plan::{Extended, Fingerprint, Moment, Stamp};
use tideline_journal::{
    At, Bytes, Created, Dropped, FileMetadata, FileSystem, Found, Identity, Lock, NewAttributes, ReadFile,
};

/// What stands under a number.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Thing {
    File(Vec<u8>),
    Folder(BTreeMap<OsString, u64>),
    Link(PathBuf),
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Node {
    pub(crate) thing: Thing,
    pub(crate) mode: u32,
    modified: i64,
    changed: i64,
}

type Nodes = BTreeMap<u64, Arc<Node>>;

/// Something that happens at a call.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Fault {
    /// The call fails.
    Error,
    /// It and all that follow fail.
    ErrorsFromThen,
    /// The program ends.
    End,
    /// The power goes.
    PowerLoss(u8),
}

/// What another program does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Act {
    /// Replaces a file by a new one.
    Replace,
    /// Writes into a file where it stands.
    Append,
    /// Writes into a file that it opened long ago, wherever that is now.
    AppendToOpened,
    Remove,
    Rename,
    Create,
    MakeFolder,
    /// Renames a folder, and puts a link to a place outside under its name.
    SwapForLink,
    ChangeMode,
}

pub(crate) const ACTS: [Act; 9] = [
    Act::Replace,
    Act::Append,
    Act::AppendToOpened,
    Act::Remove,
    Act::Rename,
    Act::Create,
    Act::MakeFolder,
    Act::SwapForLink,
    Act::ChangeMode,
];

/// Bytes that stood in the target, and since when.
#[derive(Clone, Debug)]
struct Stood {
    bytes: Vec<u8>,
    since: usize,
}

#[derive(Debug, Default)]
pub(crate) struct World {
    nodes: Nodes,
    next: u64,
    clock: i64,
    /// States of names and attributes since the last flush, the flushed one first.
    history: Vec<Nodes>,
    /// How many states there were before those.
    before: usize,
    /// What of each file is on the disk for sure.
    durable: BTreeMap<u64, Vec<u8>>,
    stood: Vec<Stood>,
    opened: BTreeSet<u64>,
    calls: usize,
    dead: bool,
    fault: Option<(usize, Fault)>,
    acts: Vec<(usize, Act, u8)>,
    made: usize,
}

pub(crate) const ROOT: u64 = 1;

/// The file system; clones are the same.
#[derive(Clone, Debug, Default)]
pub(crate) struct Memory(Arc<Mutex<World>>);

impl World {
    fn tick(&mut self) -> i64 {
        self.clock += 1;
        self.clock
    }

    fn add(&mut self, thing: Thing, mode: u32) -> u64 {
        self.next += 1;
        let (number, now) = (self.next, self.tick());
        self.nodes.insert(number, Arc::new(Node { thing, mode, modified: now, changed: now }));
        number
    }

    fn folder(&self, number: u64) -> io::Result<&BTreeMap<OsString, u64>> {
        match self.nodes.get(&number).map(|node| &node.thing) {
            Some(Thing::Folder(names)) => Ok(names),
            _ => Err(ErrorKind::NotADirectory.into()),
        }
    }

    fn names(&mut self, number: u64) -> io::Result<&mut BTreeMap<OsString, u64>> {
        let now = self.tick();
        match self.nodes.get_mut(&number).map(Arc::make_mut) {
            Some(Node { thing: Thing::Folder(names), modified, changed, .. }) => {
                (*modified, *changed) = (now, now);
                Ok(names)
            }
            _ => Err(ErrorKind::NotADirectory.into()),
        }
    }

    fn get(&self, folder: u64, name: &OsStr) -> io::Result<Option<u64>> {
        Ok(self.folder(folder)?.get(name).copied())
    }

    fn must(&self, folder: u64, name: &OsStr) -> io::Result<u64> {
        self.get(folder, name)?.ok_or_else(|| ErrorKind::NotFound.into())
    }

    fn put(&mut self, folder: u64, name: &OsStr, number: u64) -> io::Result<()> {
        if self.get(folder, name)?.is_some() {
            return Err(ErrorKind::AlreadyExists.into());
        }
        self.names(folder)?.insert(name.to_owned(), number);
        self.touch(number);
        self.changed();
        Ok(())
    }

    fn touch(&mut self, number: u64) {
        let now = self.tick();
        if let Some(node) = self.nodes.get_mut(&number).map(Arc::make_mut) {
            node.changed = now;
        }
    }

    /// A state of names is remembered, so that a loss of power can go back to it.
    fn changed(&mut self) {
        self.history.push(self.nodes.clone());
        self.note_stood();
    }

    fn flushed(&mut self) {
        self.before += self.history.len().saturating_sub(1);
        self.history = vec![self.nodes.clone()];
    }

    fn walk(&self, path: &Path) -> io::Result<u64> {
        let mut at = ROOT;
        for part in path.components() {
            match part {
                Component::RootDir => at = ROOT,
                Component::Normal(name) => at = self.must(at, name)?,
                _ => return Err(ErrorKind::InvalidInput.into()),
            }
        }
        Ok(at)
    }

    /// All paths below a folder, with what stands there.
    fn below(&self, path: &Path) -> Vec<(PathBuf, u64)> {
        let mut found = Vec::new();
        let mut open = vec![path.to_path_buf()];
        while let Some(folder) = open.pop() {
            let Ok(number) = self.walk(&folder) else { continue };
            for (name, inside) in self.folder(number).into_iter().flatten() {
                let path = folder.join(name);
                if matches!(self.nodes[inside].thing, Thing::Folder(_)) {
                    open.push(path.clone());
                }
                found.push((path, *inside));
            }
        }
        found.sort();
        found
    }

    fn target(&self) -> Vec<(PathBuf, u64)> {
        self.below(Path::new("/target"))
    }

    fn is_temporary(path: &Path) -> bool {
        path.components().any(|part| part.as_os_str().to_string_lossy().starts_with(".tideline-"))
    }

    /// Notes what stands in the target now.
    fn note_stood(&mut self) {
        let since = self.before + self.history.len() - 1;
        for (path, number) in self.target() {
            if Self::is_temporary(&path) {
                continue;
            }
            if let Thing::File(bytes) = &self.nodes[&number].thing {
                self.opened.insert(number);
                if !self.stood.iter().any(|stood| stood.bytes == *bytes) {
                    self.stood.push(Stood { bytes: bytes.clone(), since });
                }
            }
        }
    }

    /// Another program gives these bytes up itself.
    fn given_up(&mut self, number: u64) {
        if let Some(Node { thing: Thing::File(bytes), .. }) = self.nodes.get(&number).map(|node| &**node) {
            let bytes = bytes.clone();
            self.stood.retain(|stood| stood.bytes != bytes);
        }
    }

    fn links_of(&self, number: u64) -> u64 {
        let folders = self.nodes.values().filter_map(|node| match &node.thing {
            Thing::Folder(names) => Some(names.values().filter(|other| **other == number).count() as u64),
            _ => None,
        });
        folders.sum()
    }

    fn new_bytes(&mut self) -> Vec<u8> {
        self.made += 1;
        format!("<somebody else's {}>", self.made).into_bytes()
    }

    fn write(&mut self, number: u64, bytes: Vec<u8>) {
        let now = self.tick();
        if let Some(node) = self.nodes.get_mut(&number).map(Arc::make_mut) {
            node.thing = Thing::File(bytes.clone());
            (node.modified, node.changed) = (now, now);
        }
        // What others write is on the disk at once, as if they had flushed it.
        self.durable.insert(number, bytes);
        self.changed();
    }

    /// Lets another program act.
    fn act(&mut self, act: Act, choice: u8) {
        let all: Vec<(PathBuf, u64)> =
            self.target().into_iter().filter(|(path, _)| !Self::is_temporary(path)).collect();
        let is_file = |number: &u64| matches!(self.nodes[number].thing, Thing::File(_));
        let files: Vec<(PathBuf, u64)> = all.iter().filter(|(_, number)| is_file(number)).cloned().collect();
        let mut folders: Vec<PathBuf> = all
            .iter()
            .filter(|(_, number)| matches!(self.nodes[number].thing, Thing::Folder(_)))
            .map(|(path, _)| path.clone())
            .collect();
        let chosen = |count: usize| usize::from(choice) % count.max(1);
        let file = files.get(chosen(files.len())).cloned();
        match act {
            Act::Replace => {
                let Some((path, number)) = file else { return };
                self.given_up(number);
                let bytes = self.new_bytes();
                let new = self.add(Thing::File(bytes.clone()), 0o644);
                self.durable.insert(new, bytes);
                let folder = self.walk(path.parent().unwrap()).unwrap();
                self.names(folder).unwrap().insert(path.file_name().unwrap().to_owned(), new);
                self.changed();
            }
            Act::Append | Act::AppendToOpened => {
                let opened: Vec<u64> =
                    self.opened.iter().copied().filter(|&number| self.links_of(number) > 0).collect();
                let number = match act {
                    Act::Append => file.map(|(_, number)| number),
                    _ => opened.get(chosen(opened.len())).copied(),
                };
                let Some(number) = number else { return };
                let Thing::File(mut bytes) = self.nodes[&number].thing.clone() else { return };
                self.given_up(number);
                bytes.extend(self.new_bytes());
                // It stands in the target even while the file waits under a temporary name.
                let since = self.before + self.history.len();
                self.stood.push(Stood { bytes: bytes.clone(), since });
                self.write(number, bytes);
            }
            Act::Remove => {
                let Some((path, number)) = file else { return };
                self.given_up(number);
                let folder = self.walk(path.parent().unwrap()).unwrap();
                self.names(folder).unwrap().remove(path.file_name().unwrap());
                self.changed();
            }
            Act::Rename => {
                let Some((path, number)) = file else { return };
                self.made += 1;
                let folder = self.walk(path.parent().unwrap()).unwrap();
                let name = OsString::from(format!("renamed-{}", self.made));
                self.names(folder).unwrap().remove(path.file_name().unwrap());
                self.names(folder).unwrap().insert(name, number);
                self.changed();
            }
            Act::Create | Act::MakeFolder => {
                folders.push("/target".into());
                let folder = self.walk(&folders[chosen(folders.len())]).unwrap();
                let name = OsString::from(["a", "b", "c", "new", "in", "x"][usize::from(choice) % 6]);
                if self.get(folder, &name).unwrap().is_some() {
                    return;
                }
                let bytes = self.new_bytes();
                let thing =
                    if act == Act::Create { Thing::File(bytes.clone()) } else { Thing::Folder(BTreeMap::new()) };
                let new = self.add(thing, 0o755);
                self.durable.insert(new, bytes);
                self.names(folder).unwrap().insert(name, new);
                self.changed();
            }
            Act::SwapForLink => {
                let Some(path) = folders.get(chosen(folders.len())).cloned() else { return };
                self.made += 1;
                let folder = self.walk(path.parent().unwrap()).unwrap();
                let moved = self.names(folder).unwrap().remove(path.file_name().unwrap()).unwrap();
                let name = OsString::from(format!("swapped-{}", self.made));
                self.names(folder).unwrap().insert(name, moved);
                let link = self.add(Thing::Link("/outside".into()), 0o777);
                self.names(folder).unwrap().insert(path.file_name().unwrap().to_owned(), link);
                self.changed();
            }
            Act::ChangeMode => {
                let Some((_, number)) = file else { return };
                self.touch(number);
                if let Some(node) = self.nodes.get_mut(&number).map(Arc::make_mut) {
                    node.mode ^= 0o044;
                }
                self.changed();
            }
        }
    }

    /// Everything that was not flushed is lost from some point on.
    fn lose_power(&mut self, choice: u8) {
        let kept = usize::from(choice) % self.history.len().max(1);
        let Some(mut nodes) = self.history.get(kept).cloned() else { return };
        for (number, node) in &mut nodes {
            let now = self.nodes.get(number).map(|node| node.thing.clone());
            let node = Arc::make_mut(node);
            if let (Thing::File(bytes), Some(Thing::File(now))) = (&mut node.thing, now) {
                let durable = self.durable.get(number).cloned();
                *bytes = match (durable, choice % 3) {
                    (Some(durable), _) if durable == now => durable,
                    (_, 0) => now,
                    (Some(durable), _) => durable,
                    (None, 1) => now[..now.len() / 2].to_vec(),
                    (None, _) => Vec::new(),
                };
            }
        }
        let last = self.before + kept;
        self.stood.retain(|stood| stood.since <= last);
        self.nodes = nodes;
        self.history.truncate(kept + 1);
        self.flushed();
    }

    fn metadata(&self, number: u64) -> FileMetadata {
        let node = &self.nodes[&number];
        let size = if let Thing::File(bytes) = &node.thing { bytes.len() as u64 } else { 0 };
        FileMetadata {
            identity: Identity(1, number),
            stamp: Stamp { size, modified: Some(Moment(node.modified, 0)), changed: Some(Moment(node.changed, 0)) },
            mode: node.mode,
            owner: (0, 0),
            names: self.links_of(number),
        }
    }

    fn found(&self, number: u64) -> Found {
        match &self.nodes[&number].thing {
            Thing::File(_) => Found::File(self.metadata(number)),
            Thing::Folder(_) => Found::Folder(self.metadata(number)),
            Thing::Link(to) => Found::Link(self.metadata(number), to.clone()),
        }
    }

    fn set(&mut self, number: u64, wanted: &NewAttributes<'_>) {
        let now = self.tick();
        if let Some(node) = self.nodes.get_mut(&number).map(Arc::make_mut) {
            node.mode = wanted.mode.unwrap_or(node.mode);
            node.modified = wanted.modified.map_or(node.modified, |time| time.0);
            node.changed = now;
        }
        self.changed();
    }

    fn file(&self, number: u64) -> io::Result<&Vec<u8>> {
        match &self.nodes[&number].thing {
            Thing::File(bytes) => Ok(bytes),
            Thing::Folder(_) => Err(ErrorKind::IsADirectory.into()),
            Thing::Link(_) => Err(io::Error::other("it is a link")),
        }
    }
}

impl Memory {
    /// An empty target, a place for a journal, and a place outside.
    pub(crate) fn new() -> Self {
        let memory = Self::default();
        {
            let mut world = memory.world();
            let root = world.add(Thing::Folder(BTreeMap::new()), 0o755);
            assert_eq!(root, ROOT);
            for name in ["target", "journal", "outside"] {
                let number = world.add(Thing::Folder(BTreeMap::new()), 0o700);
                world.history.push(Nodes::new());
                world.put(ROOT, name.as_ref(), number).unwrap();
            }
        }
        memory.make("/outside/precious", "<precious>");
        memory
    }

    pub(crate) fn world(&self) -> MutexGuard<'_, World> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Makes a file before anything begins.
    pub(crate) fn make(&self, path: &str, text: &str) {
        let mut world = self.world();
        let number = world.add(Thing::File(text.as_bytes().to_vec()), 0o644);
        world.durable.insert(number, text.as_bytes().to_vec());
        let path = Path::new(path);
        let folder = world.walk(path.parent().unwrap()).unwrap();
        world.put(folder, path.file_name().unwrap(), number).unwrap();
        world.flushed();
    }

    pub(crate) fn make_folder_at(&self, path: &str) {
        let mut world = self.world();
        let number = world.add(Thing::Folder(BTreeMap::new()), 0o755);
        let path = Path::new(path);
        let folder = world.walk(path.parent().unwrap()).unwrap();
        world.put(folder, path.file_name().unwrap(), number).unwrap();
        world.flushed();
    }

    pub(crate) fn make_link_at(&self, path: &str, to: &str) {
        let mut world = self.world();
        let number = world.add(Thing::Link(to.into()), 0o777);
        let path = Path::new(path);
        let folder = world.walk(path.parent().unwrap()).unwrap();
        world.put(folder, path.file_name().unwrap(), number).unwrap();
        world.flushed();
    }

    /// What will happen from now on, by the number of the call.
    pub(crate) fn expect(&self, fault: Option<(usize, Fault)>, acts: &[(usize, Act, u8)]) {
        let mut world = self.world();
        (world.calls, world.dead, world.fault, world.acts) = (0, false, fault, acts.to_vec());
    }

    /// Calls since something was expected.
    pub(crate) fn calls(&self) -> usize {
        self.world().calls
    }

    /// What the target holds, by path: kind, bytes, permissions, and times but for links.
    pub(crate) fn held(&self) -> BTreeMap<PathBuf, (Thing, u32, i64)> {
        let world = self.world();
        let bare = |number: u64| {
            let node = &world.nodes[&number];
            let is_link = matches!(node.thing, Thing::Link(_));
            let thing = match &node.thing {
                Thing::Folder(_) => Thing::Folder(BTreeMap::new()),
                thing => thing.clone(),
            };
            (thing, node.mode, if is_link { 0 } else { node.modified })
        };
        let root = world.walk(Path::new("/target")).unwrap();
        let all = world.target().into_iter().chain([("/target".into(), root)]);
        all.map(|(path, number)| (path, bare(number))).collect()
    }

    /// The same without times.
    pub(crate) fn contents(&self) -> BTreeMap<PathBuf, (Thing, u32)> {
        let mut held = self.held();
        held.remove(Path::new("/target"));
        held.into_iter().map(|(path, (thing, mode, _))| (path, (thing, mode))).collect()
    }

    /// The law: every byte that ever stood in the target is there or in the journal, and nothing outside changed. What a run itself
    /// wrote and took back again is excepted, since it still is where it came from.
    pub(crate) fn broken_law(&self) -> Option<String> {
        let world = self.world();
        let outside = world.below(Path::new("/outside"));
        let [(path, number)] = &outside[..] else { return Some(format!("outside holds {outside:?}")) };
        if path != Path::new("/outside/precious") || world.file(*number).ok()? != b"<precious>" {
            return Some("what is outside was changed".to_owned());
        }
        let there: Vec<&Vec<u8>> = ["/target", "/journal"]
            .iter()
            .flat_map(|root| world.below(Path::new(root)))
            .filter_map(|(_, number)| world.file(number).ok())
            .collect();
        let is_there = |bytes: &Vec<u8>| {
            there.iter().any(|held| held.windows(bytes.len().max(1)).any(|part| part == &bytes[..]) || *held == bytes)
        };
        let ours = |bytes: &[u8]| bytes.starts_with(b"<planned") && !bytes.windows(8).any(|part| part == b"somebody");
        let lost = world.stood.iter().find(|stood| !ours(&stood.bytes) && !is_there(&stood.bytes))?;
        Some(format!("lost: {}", String::from_utf8_lossy(&lost.bytes)))
    }

    /// Whether a temporary file stands in the target.
    pub(crate) fn has_temporary(&self) -> bool {
        self.world().target().iter().any(|(path, _)| World::is_temporary(path))
    }

    /// One call: others act before it, and it may fail, or be the last.
    fn call(&self) -> io::Result<MutexGuard<'_, World>> {
        let mut world = self.world();
        let call = world.calls;
        world.calls += 1;
        let acts: Vec<(usize, Act, u8)> = world.acts.iter().copied().filter(|(at, ..)| *at == call).collect();
        if !world.dead {
            for (_, act, choice) in acts {
                world.act(act, choice);
            }
        }
        let (at, fault) = world.fault.unwrap_or((usize::MAX, Fault::Error));
        match fault {
            _ if world.dead => {}
            Fault::Error if call == at => return Err(ErrorKind::StorageFull.into()),
            Fault::ErrorsFromThen if call >= at => return Err(ErrorKind::PermissionDenied.into()),
            Fault::End if call == at => world.dead = true,
            Fault::PowerLoss(choice) if call == at => {
                world.lose_power(choice);
                world.dead = true;
            }
            _ => {}
        }
        if world.dead {
            drop(world);
            std::panic::panic_any("the program ends here");
        }
        Ok(world)
    }
}

struct Held;

impl Lock for Held {
    fn sign(&mut self, _: &str) {}
}

type Here<'a> = At<'a, u64>;

impl FileSystem for Memory {
    type Folder = u64;

    fn open_root(&self, path: &Path) -> io::Result<u64> {
        let world = self.call()?;
        let number = world.walk(path)?;
        world.folder(number).map(|_| number)
    }

    fn open_private(&self, path: &Path) -> io::Result<u64> {
        self.open_root(path)
    }

    fn open_beneath(&self, folder: &u64, path: &Path) -> io::Result<u64> {
        let world = self.call()?;
        let mut at = *folder;
        for name in path {
            at = world.must(at, name)?;
            world.folder(at)?;
        }
        Ok(at)
    }

    fn metadata(&self, folder: &u64) -> io::Result<FileMetadata> {
        Ok(self.call()?.metadata(*folder))
    }

    fn find(&self, at: Here<'_>) -> io::Result<Found> {
        let world = self.call()?;
        Ok(world.get(*at.folder, at.name)?.map_or(Found::Nothing, |number| world.found(number)))
    }

    fn list(&self, folder: &u64) -> io::Result<Vec<OsString>> {
        Ok(self.call()?.folder(*folder)?.keys().cloned().collect())
    }

    fn extended(&self, _: Here<'_>) -> io::Result<Vec<Extended>> {
        self.call().map(|_| Vec::new())
    }

    fn folder_extended(&self, _: &u64) -> io::Result<Vec<Extended>> {
        self.call().map(|_| Vec::new())
    }

    fn read(&self, at: Here<'_>, most: u64) -> io::Result<ReadFile> {
        let world = self.call()?;
        let number = world.must(*at.folder, at.name)?;
        let bytes = world.file(number)?.clone();
        let (print, metadata) = (Fingerprint::of(&bytes), world.metadata(number));
        let bytes = (bytes.len() as u64 <= most).then_some(bytes);
        Ok(ReadFile { print, metadata, bytes, extended: Vec::new() })
    }

    fn read_range(&self, at: Here<'_>, (start, length): (u64, u64)) -> io::Result<Vec<u8>> {
        let world = self.call()?;
        let bytes = world.file(world.must(*at.folder, at.name)?)?;
        let range = usize::try_from(start).unwrap()..usize::try_from(start + length).unwrap();
        bytes.get(range).map(<[u8]>::to_vec).ok_or_else(|| ErrorKind::UnexpectedEof.into())
    }

    fn create(&self, at: Here<'_>, bytes: Bytes<'_, u64>, wanted: &NewAttributes<'_>) -> io::Result<Created> {
        {
            // The file is there before its bytes are.
            let mut world = self.call()?;
            let number = world.add(Thing::File(Vec::new()), 0o600);
            world.put(*at.folder, at.name, number)?;
        }
        let mut world = self.call()?;
        let number = world.must(*at.folder, at.name)?;
        let bytes = match bytes {
            Bytes::These(bytes) => bytes.to_vec(),
            Bytes::File(from, seen) => {
                let source = world.must(*from.folder, from.name)?;
                if seen.is_some_and(|seen| seen != world.metadata(source).stamp) {
                    return Err(io::Error::other("what is copied was changed since the plan was made"));
                }
                world.file(source)?.clone()
            }
            Bytes::Path(..) => return Err(ErrorKind::Unsupported.into()),
        };
        let print = Fingerprint::of(&bytes);
        let now = world.tick();
        if let Some(node) = world.nodes.get_mut(&number).map(Arc::make_mut) {
            (node.thing, node.modified) = (Thing::File(bytes), now);
        }
        world.set(number, wanted);
        Ok(Created { print, metadata: world.metadata(number), dropped: Vec::new() })
    }

    fn append(&self, at: Here<'_>, bytes: &[u8]) -> io::Result<u64> {
        let mut world = self.call()?;
        let number = match world.get(*at.folder, at.name)? {
            Some(number) => number,
            None => {
                let number = world.add(Thing::File(Vec::new()), 0o600);
                world.put(*at.folder, at.name, number)?;
                number
            }
        };
        let start = world.file(number)?.len() as u64;
        if let Some(Node { thing: Thing::File(held), .. }) = world.nodes.get_mut(&number).map(Arc::make_mut) {
            held.extend(bytes);
        }
        world.changed();
        Ok(start)
    }

    fn make_link(&self, at: Here<'_>, target: &Path, wanted: &NewAttributes<'_>) -> io::Result<FileMetadata> {
        let mut world = self.call()?;
        let number = world.add(Thing::Link(target.to_path_buf()), 0o777);
        world.put(*at.folder, at.name, number)?;
        world.set(number, &NewAttributes { mode: None, ..*wanted });
        Ok(world.metadata(number))
    }

    fn make_folder(&self, at: Here<'_>, private: bool) -> io::Result<()> {
        let mut world = self.call()?;
        let number = world.add(Thing::Folder(BTreeMap::new()), if private { 0o700 } else { 0o755 });
        world.put(*at.folder, at.name, number)
    }

    fn add_name(&self, from: Here<'_>, to: Here<'_>) -> io::Result<()> {
        let mut world = self.call()?;
        let number = world.must(*from.folder, from.name)?;
        world.put(*to.folder, to.name, number)
    }

    fn set_folder(&self, folder: &u64, wanted: &NewAttributes<'_>) -> io::Result<Vec<Dropped>> {
        self.call()?.set(*folder, wanted);
        Ok(Vec::new())
    }

    fn set_file(&self, at: Here<'_>, wanted: &NewAttributes<'_>) -> io::Result<Vec<Dropped>> {
        let mut world = self.call()?;
        let number = world.must(*at.folder, at.name)?;
        world.set(number, wanted);
        Ok(Vec::new())
    }

    fn rename(&self, from: Here<'_>, to: Here<'_>) -> io::Result<()> {
        let mut world = self.call()?;
        let number = world.must(*from.folder, from.name)?;
        world.names(*from.folder)?.remove(from.name);
        world.names(*to.folder)?.insert(to.name.to_owned(), number);
        world.touch(number);
        world.changed();
        Ok(())
    }

    fn rename_new(&self, from: Here<'_>, to: Here<'_>) -> io::Result<()> {
        let mut world = self.call()?;
        let number = world.must(*from.folder, from.name)?;
        if world.get(*to.folder, to.name)?.is_some() {
            return Err(ErrorKind::AlreadyExists.into());
        }
        world.names(*from.folder)?.remove(from.name);
        world.names(*to.folder)?.insert(to.name.to_owned(), number);
        world.touch(number);
        world.changed();
        Ok(())
    }

    fn exchange(&self, one: Here<'_>, other: Here<'_>) -> io::Result<()> {
        let mut world = self.call()?;
        let numbers = (world.must(*one.folder, one.name)?, world.must(*other.folder, other.name)?);
        world.names(*one.folder)?.insert(one.name.to_owned(), numbers.1);
        world.names(*other.folder)?.insert(other.name.to_owned(), numbers.0);
        world.touch(numbers.0);
        world.touch(numbers.1);
        world.changed();
        Ok(())
    }

    fn remove(&self, at: Here<'_>) -> io::Result<()> {
        let mut world = self.call()?;
        let number = world.must(*at.folder, at.name)?;
        if matches!(world.nodes[&number].thing, Thing::Folder(_)) {
            return Err(ErrorKind::IsADirectory.into());
        }
        world.names(*at.folder)?.remove(at.name);
        world.changed();
        Ok(())
    }

    fn remove_unchanged(&self, at: Here<'_>, found: &Found) -> io::Result<bool> {
        let mut world = self.call()?;
        let number = world.must(*at.folder, at.name)?;
        if !world.found(number).is_unchanged(found) {
            return Ok(false);
        }
        world.names(*at.folder)?.remove(at.name);
        world.changed();
        Ok(true)
    }

    fn remove_folder(&self, at: Here<'_>) -> io::Result<()> {
        let mut world = self.call()?;
        let number = world.must(*at.folder, at.name)?;
        if !world.folder(number)?.is_empty() {
            return Err(ErrorKind::DirectoryNotEmpty.into());
        }
        world.names(*at.folder)?.remove(at.name);
        world.changed();
        Ok(())
    }

    fn flush_files(&self, files: &[Here<'_>]) -> io::Result<()> {
        let mut world = self.call()?;
        for at in files {
            let number = world.must(*at.folder, at.name)?;
            if let Thing::File(bytes) = world.nodes[&number].thing.clone() {
                world.durable.insert(number, bytes);
            }
        }
        Ok(())
    }

    fn flush_folders(&self, _: &[&u64]) -> io::Result<()> {
        self.call()?.flushed();
        Ok(())
    }

    fn flush_whole(&self, _: &u64) -> io::Result<bool> {
        let mut world = self.call()?;
        let all: Vec<(u64, Vec<u8>)> = world
            .nodes
            .iter()
            .filter_map(|(number, node)| match &node.thing {
                Thing::File(bytes) => Some((*number, bytes.clone())),
                _ => None,
            })
            .collect();
        world.durable.extend(all);
        world.flushed();
        Ok(true)
    }

    fn lock(&self, _: Here<'_>) -> io::Result<Option<Box<dyn Lock>>> {
        self.call().map(|_| Some(Box::new(Held) as Box<dyn Lock>))
    }
}
