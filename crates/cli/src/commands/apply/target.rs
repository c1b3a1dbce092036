//! The folder that patches go into, and the steps that change it.

use std::collections::{HashMap, HashSet};
use std::ffi::OsString;
use std::fs::{self, File};
use std::io::{self, Read};
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::SystemTime;

use anyhow::{Context, Result, bail};
use tideline_core::internal::patch::Names;
use tideline_core::internal::patch::apply::{FileChange, Found, Now, TargetError, TargetFiles};
use tideline_core::internal::plan::{Contents, ExpectedState, FileAttributes, Fingerprint, Plan, Stamp, Step, path_of};
use tideline_journal::{mode, stamp};

/// A folder of the file system.
pub(super) struct Target {
    root: PathBuf,
    /// Folders that were looked at and are folders.
    folders: Mutex<HashSet<PathBuf>>,
}

impl Names for Target {
    fn has_file(&self, name: &[u8]) -> bool {
        path_of(name)
            .is_some_and(|path| self.root.join(path).symlink_metadata().is_ok_and(|metadata| !metadata.is_dir()))
    }

    fn has_folder(&self, name: &[u8]) -> bool {
        path_of(name).is_some_and(|path| self.root.join(path).is_dir())
    }

    fn own_name(&self) -> Vec<u8> {
        self.root.file_name().map(|name| name.as_bytes().to_vec()).unwrap_or_default()
    }
}

impl TargetFiles for Target {
    fn look(&self, path: &Path) -> Result<Found, TargetError> {
        self.read(path).map_err(|error| TargetError(format!("{error:#}")))
    }
}

impl Target {
    pub(super) fn new(root: &Path) -> Result<Self> {
        let doing = || format!("cannot apply a patch below {}", root.display());
        let root = root.canonicalize().with_context(doing)?;
        if !root.is_dir() {
            bail!("{}: it is not a folder", doing());
        }
        Ok(Self { root, folders: Mutex::default() })
    }

    fn known_folders(&self) -> MutexGuard<'_, HashSet<PathBuf>> {
        self.folders.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Reads what stands at a path.
    fn read(&self, path: &Path) -> Result<Found> {
        let mut whole = self.root.clone();
        let parts: Vec<_> = path.components().collect();
        for (index, part) in parts.iter().enumerate() {
            whole.push(part);
            let last = index + 1 == parts.len();
            if !last && self.known_folders().contains(&whole) {
                continue;
            }
            let metadata = match whole.symlink_metadata() {
                Ok(metadata) => metadata,
                Err(error) if matches!(error.kind(), io::ErrorKind::NotFound) => return Ok(Found::Nothing),
                Err(error) => return Err(error).with_context(|| format!("cannot look at {}", whole.display())),
            };
            let kind = metadata.file_type();
            if kind.is_symlink() && last {
                let to = fs::read_link(&whole).with_context(|| format!("cannot read the link {}", whole.display()))?;
                return Ok(Found::Link(to));
            }
            if kind.is_symlink() {
                bail!("cannot write {}: a link stands in the middle of the path", self.root.join(path).display());
            }
            if last && kind.is_dir() {
                return Ok(Found::Folder);
            }
            if last && !kind.is_file() {
                bail!("cannot write {}: it is a device or a pipe, and not a file", whole.display());
            }
            if !last && !kind.is_dir() {
                bail!("cannot write {}: {} is not a folder", path.display(), whole.display());
            }
            if !last {
                self.known_folders().insert(whole.clone());
            }
        }
        let began = SystemTime::now();
        let read = || -> io::Result<(Vec<u8>, Stamp, Option<u32>)> {
            let mut file = File::open(&whole)?;
            let metadata = file.metadata()?;
            let stamp = stamp(&metadata);
            let mut bytes = Vec::with_capacity(usize::try_from(stamp.size).unwrap_or(0) + 1);
            file.read_to_end(&mut bytes)?;
            Ok((bytes, stamp, mode(&metadata)))
        };
        let (bytes, stamp, mode) = read().with_context(|| format!("cannot read {}", whole.display()))?;
        let print = Fingerprint::of(&bytes);
        let expected = if stamp.is_conclusive(began) {
            ExpectedState::Stamped(stamp, Some(print))
        } else {
            ExpectedState::File(print)
        };
        Ok(Found::File { bytes, mode, expected, print })
    }

    /// The steps that make every file what it will be; with a suffix, a copy of each is kept beside it.
    pub(super) fn plan(&self, changes: Vec<FileChange>, backup: Option<&str>) -> Result<Plan> {
        let mut steps = Vec::new();
        let mut made = HashSet::new();
        let emptied = self.emptied_folders(&changes);
        let taken: HashSet<PathBuf> = changes.iter().map(|change| self.root.join(&change.path)).collect();
        // A file in whose place a folder comes.
        let mut replaced: HashSet<PathBuf> = HashSet::new();
        let gone = changes.iter().filter(|change| change.now == Now::Nothing);
        let gone: HashMap<PathBuf, ExpectedState> =
            gone.map(|change| (self.root.join(&change.path), change.was.clone())).collect();
        for change in changes.iter().filter(|change| change.now != Now::Nothing) {
            replaced.extend(
                change.path.ancestors().skip(1).filter(|above| self.root.join(above).is_file()).map(Path::to_path_buf),
            );
        }
        // What a folder holds goes before a file comes in its place.
        let becomes_file: Vec<PathBuf> = changes
            .iter()
            .filter(|change| change.was == ExpectedState::Folder)
            .map(|change| change.path.clone())
            .collect();
        let (inside, others): (Vec<FileChange>, Vec<FileChange>) = changes.into_iter().partition(|change| {
            change.now == Now::Nothing && becomes_file.iter().any(|folder| change.path.starts_with(folder))
        });
        for change in inside.into_iter().chain(others) {
            let whole = self.root.join(&change.path);
            let has_been = !matches!(change.was, ExpectedState::Nothing | ExpectedState::Folder);
            if let (Some(suffix), true) = (backup, has_been) {
                let original = change.moved_from.as_ref().map_or_else(|| whole.clone(), |from| self.root.join(from));
                steps.push(backup_of(&original, suffix, &taken)?);
            }
            if replaced.contains(&change.path) {
                continue;
            }
            if change.now != Now::Nothing && (!has_been || change.moved_from.is_some()) {
                self.make_folders(&whole, &gone, &mut made, &mut steps);
            }
            steps.push(self.step(change, whole));
        }
        steps.extend(emptied);
        Ok(Plan { roots: vec![self.root.clone()], ..Plan::of(steps) })
    }

    fn step(&self, change: FileChange, path: PathBuf) -> Step {
        let (expected, attributes) = (change.was, FileAttributes::of(change.mode, None));
        let contents = match change.now {
            Now::Nothing => return Step::Remove { path, expected },
            Now::Link(to) => Contents::Link(path_of(&to).unwrap_or_default()),
            Now::File(bytes) => Contents::Bytes(bytes.into()),
        };
        let Some(from) = change.moved_from else { return Step::Write { path, expected, contents, attributes } };
        let same = match (&expected, &contents) {
            (ExpectedState::Stamped(_, Some(was)) | ExpectedState::File(was), Contents::Bytes(bytes)) => {
                *was == Fingerprint::of(bytes)
            }
            _ => false,
        };
        Step::Move { from: self.root.join(from), path, expected, contents: (!same).then_some(contents), attributes }
    }

    /// The folders that hold nothing any more once files are removed, the deepest first. Each folder is looked into once.
    fn emptied_folders(&self, changes: &[FileChange]) -> Vec<Step> {
        let above = |path: &Path| path.ancestors().skip(1).map(|folder| self.root.join(folder)).collect::<Vec<_>>();
        let stays = changes.iter().filter(|change| change.now != Now::Nothing);
        let kept: HashSet<PathBuf> = stays.flat_map(|change| above(&change.path)).collect();
        let removed: Vec<&PathBuf> = changes
            .iter()
            .filter_map(
                |change| if change.now == Now::Nothing { Some(&change.path) } else { change.moved_from.as_ref() },
            )
            .collect();
        let mut gone: HashSet<PathBuf> = removed.iter().map(|path| self.root.join(path)).collect();
        let mut folders: Vec<PathBuf> =
            removed.iter().flat_map(|path| above(path)).collect::<HashSet<_>>().into_iter().collect();
        let becomes_file = |folder: &Path| {
            changes.iter().any(|change| change.was == ExpectedState::Folder && self.root.join(&change.path) == folder)
        };
        folders.retain(|folder| *folder != self.root && !kept.contains(folder) && !becomes_file(folder));
        folders.sort_by_key(|folder| std::cmp::Reverse(folder.components().count()));
        let mut steps = Vec::new();
        for folder in folders {
            let Ok(entries) = fs::read_dir(&folder) else { continue };
            if entries.flatten().all(|entry| gone.contains(&entry.path())) {
                gone.insert(folder.clone());
                steps.push(Step::RemoveFolder { path: folder });
            }
        }
        steps
    }

    /// Makes the folders above a file that are missing, each once; also where a file that goes makes room for one.
    fn make_folders(
        &self,
        file: &Path,
        gone: &HashMap<PathBuf, ExpectedState>,
        made: &mut HashSet<PathBuf>,
        steps: &mut Vec<Step>,
    ) {
        let above = file.ancestors().skip(1).take_while(|folder| *folder != self.root);
        let missing: Vec<_> = above.filter(|folder| !folder.is_dir()).map(Path::to_path_buf).collect();
        for folder in missing.into_iter().rev() {
            if !made.insert(folder.clone()) {
                continue;
            }
            let file = gone.get(&folder);
            let mut step = Step::new_folder(folder);
            if let (Step::MakeFolder { expected, .. }, Some(file)) = (&mut step, file) {
                expected.clone_from(file);
            }
            steps.push(step);
        }
    }
}

/// Keeps a copy of a file beside it, with all that belongs to the file.
fn backup_of(whole: &Path, suffix: &str, taken: &HashSet<PathBuf>) -> Result<Step> {
    let mut copy = OsString::from(whole.as_os_str());
    copy.push(suffix);
    let copy = PathBuf::from(copy);
    if copy.parent() != whole.parent() || copy == whole {
        bail!("cannot keep a copy of {} with the suffix {suffix}: it names no other file beside it", whole.display());
    }
    if taken.contains(&copy) || copy.symlink_metadata().is_ok() {
        bail!(
            "cannot keep a copy of {} as {}: such a file is there already, or comes there; give another suffix",
            whole.display(),
            copy.display()
        );
    }
    let metadata = whole.symlink_metadata().with_context(|| format!("cannot look at {}", whole.display()))?;
    let attributes = FileAttributes {
        mode: mode(&metadata),
        modified: metadata.modified().ok().map(Into::into),
        owner: Some((metadata.uid(), metadata.gid())),
        extended: None,
    };
    let contents = Contents::CopyOf(whole.to_path_buf(), None);
    Ok(Step::Write { path: copy, expected: ExpectedState::Nothing, contents, attributes })
}
