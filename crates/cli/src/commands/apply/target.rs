//! The files that patches are put into: read once, changed in memory, and turned into a plan at the end.

use std::collections::{HashMap, HashSet};
use std::ffi::OsString;
use std::fs::{self, File};
use std::io::{self, Read};
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::SystemTime;

use anyhow::{Context, Result, bail};
use rayon::prelude::*;
use tideline_core::plan::{Contents, FileAttributes, Fingerprint, Plan, Stamp, Standing, Step};
use tideline_journal::{mode, stamp};

/// The files below a folder, as they are and as they will be.
pub(super) struct Target {
    root: PathBuf,
    files: HashMap<PathBuf, TargetFile>,
    /// Names in small letters, to find two that differ only in that.
    lowercase: HashMap<String, PathBuf>,
    /// Folders that were looked at and are folders.
    folders: Mutex<HashSet<PathBuf>>,
}

/// A file as it was and as it will be; without contents, it is not there.
#[derive(Clone, Debug, Default)]
pub(super) struct TargetFile {
    was: Option<WasThere>,
    pub(super) will: Option<Vec<u8>>,
    /// Permission bits that it is to have.
    pub(super) mode: Option<u32>,
    /// Where it was, of a file that moves.
    pub(super) moved_from: Option<PathBuf>,
}

/// What a file was when it was read.
#[derive(Clone, Copy, Debug)]
struct WasThere {
    /// What the system said of it, if that tells it apart from all that is written later.
    stamp: Option<Stamp>,
    print: Fingerprint,
}

impl WasThere {
    fn standing(self) -> Standing {
        match self.stamp {
            Some(stamp) => Standing::Seen(stamp, Some(self.print)),
            None => Standing::File(self.print),
        }
    }
}

impl Target {
    pub(super) fn new(root: &Path) -> Result<Self> {
        let doing = || format!("cannot apply a patch below {}", root.display());
        let root = root.canonicalize().with_context(doing)?;
        if !root.is_dir() {
            bail!("{}: it is not a folder", doing());
        }
        Ok(Self { root, files: HashMap::new(), lowercase: HashMap::new(), folders: Mutex::default() })
    }

    fn known_folders(&self) -> MutexGuard<'_, HashSet<PathBuf>> {
        self.folders.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Whether a file has been read.
    pub(super) fn knows(&self, path: &Path) -> bool {
        self.files.contains_key(path)
    }

    /// Whether a file is there, before anything was done.
    pub(super) fn exists(&self, path: &Path) -> bool {
        self.files.get(path).map_or_else(|| self.root.join(path).is_file(), |file| file.will.is_some())
    }

    /// A file by its path below the root, which has been checked not to lead out of it.
    ///
    /// # Errors
    /// When a link stands in its way, when it is no file, or when it cannot be read.
    pub(super) fn file(&mut self, path: &Path) -> Result<&mut TargetFile> {
        if !self.files.contains_key(path) {
            let file = self.read(path)?;
            self.adopt(path, file)?;
        }
        Ok(self.files.entry(path.to_path_buf()).or_default())
    }

    /// Takes a file in that has been read; one that is known already stays as it is.
    pub(super) fn adopt(&mut self, path: &Path, file: TargetFile) -> Result<&mut TargetFile> {
        if !self.files.contains_key(path) {
            let small = path.to_string_lossy().to_lowercase();
            if let Some(other) = self.lowercase.get(&small) {
                bail!(
                    "{} and {} differ only in the case of their letters; apply them one after the other",
                    other.display(),
                    path.display()
                );
            }
            self.lowercase.insert(small, path.to_path_buf());
            self.files.insert(path.to_path_buf(), file);
        }
        Ok(self.files.entry(path.to_path_buf()).or_default())
    }

    /// Reads a file as it is.
    ///
    /// # Errors
    /// When a link stands in its way, when it is no file, or when it cannot be read.
    pub(super) fn read(&self, path: &Path) -> Result<TargetFile> {
        let mut whole = self.root.clone();
        let parts: Vec<_> = path.components().collect();
        for (index, part) in parts.iter().enumerate() {
            whole.push(part);
            let last = index + 1 == parts.len();
            if !last && self.known_folders().contains(&whole) {
                continue;
            }
            let facts = match whole.symlink_metadata() {
                Ok(facts) => facts,
                Err(error) if matches!(error.kind(), io::ErrorKind::NotFound) => return Ok(TargetFile::default()),
                Err(error) => return Err(error).with_context(|| format!("cannot look at {}", whole.display())),
            };
            let kind = facts.file_type();
            if kind.is_symlink() {
                let what = if last {
                    "it is a link, and links are not written through"
                } else {
                    "a link stands in the middle of the path"
                };
                bail!("cannot write {}: {what}", whole.display());
            }
            if last && kind.is_dir() {
                bail!("cannot write {}: it is a folder", whole.display());
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
        let read = || -> io::Result<(Vec<u8>, Stamp)> {
            let mut file = File::open(&whole)?;
            let stamp = stamp(&file.metadata()?);
            let mut bytes = Vec::with_capacity(usize::try_from(stamp.size).unwrap_or(0) + 1);
            file.read_to_end(&mut bytes)?;
            Ok((bytes, stamp))
        };
        let (bytes, stamp) = read().with_context(|| format!("cannot read {}", whole.display()))?;
        let was = WasThere { stamp: stamp.is_settled(began).then_some(stamp), print: Fingerprint::of(&bytes) };
        Ok(TargetFile { was: Some(was), will: Some(bytes), ..TargetFile::default() })
    }

    /// The steps that make every file what it will be; with a suffix, a copy of each is kept beside it.
    pub(super) fn plan(mut self, backup: Option<&str>) -> Result<Plan> {
        let mut steps = Vec::new();
        let mut folders = HashSet::new();
        let emptied = self.emptied_folders();
        let mut changed: Vec<(PathBuf, TargetFile)> =
            std::mem::take(&mut self.files).into_par_iter().filter(|(_, file)| file.changes()).collect();
        changed.par_sort_by(|(path, _), (other, _)| path.as_os_str().cmp(other.as_os_str()));
        let mut origins = self.origins(&mut changed);
        for (path, file) in changed {
            let whole = self.root.join(&path);
            let expected = file.was.map_or(Standing::Nothing, WasThere::standing);
            if let (Some(suffix), Some(_)) = (backup, &file.was) {
                steps.push(self.backup(&whole, suffix)?);
            }
            let attributes = FileAttributes::of(file.mode, None);
            match file.will {
                Some(bytes) => {
                    if file.was.is_none() {
                        self.make_folders(&whole, &mut folders, &mut steps);
                    }
                    match origins.remove(&path) {
                        Some((from, was)) => {
                            let same = was.print == Fingerprint::of(&bytes);
                            let contents = (!same).then_some(Contents::Bytes(bytes));
                            let (from, expected) = (self.root.join(from), was.standing());
                            steps.push(Step::Move { from, path: whole, expected, contents, attributes });
                        }
                        None => {
                            let contents = Contents::Bytes(bytes);
                            steps.push(Step::Write { path: whole, expected, contents, attributes });
                        }
                    }
                }
                None => steps.push(Step::Remove { path: whole, expected }),
            }
        }
        steps.extend(emptied);
        Ok(Plan { roots: vec![self.root], ..Plan::of(steps) })
    }

    /// Where files that move were, and what they were, by where they will be. Those that leave their places so are taken out of what is
    /// changed: a move is one step.
    fn origins(&self, changed: &mut Vec<(PathBuf, TargetFile)>) -> HashMap<PathBuf, (PathBuf, WasThere)> {
        let leaving: HashMap<&Path, WasThere> = changed
            .iter()
            .filter(|(_, file)| file.will.is_none())
            .filter_map(|(path, file)| Some((path.as_path(), file.was?)))
            .collect();
        let mut taken = HashSet::new();
        let mut origins = HashMap::new();
        for (path, file) in changed.iter().filter(|(_, file)| file.was.is_none() && file.will.is_some()) {
            let Some(from) = &file.moved_from else { continue };
            if let Some(was) = leaving.get(from.as_path())
                && taken.insert(from.clone())
            {
                origins.insert(path.clone(), (from.clone(), *was));
            }
        }
        changed.retain(|(path, _)| !taken.contains(path));
        origins
    }

    /// Keeps a copy of a file beside it, with all that belongs to the file.
    fn backup(&self, whole: &Path, suffix: &str) -> Result<Step> {
        let mut copy = OsString::from(whole.as_os_str());
        copy.push(suffix);
        let copy = PathBuf::from(copy);
        if copy.parent() != whole.parent() || copy == whole {
            bail!(
                "cannot keep a copy of {} with the suffix {suffix}: it names no other file beside it",
                whole.display()
            );
        }
        let expected = super::super::writing::standing(&copy)?;
        let facts = whole.symlink_metadata().with_context(|| format!("cannot look at {}", whole.display()))?;
        let attributes = FileAttributes {
            mode: mode(&facts),
            modified: facts.modified().ok().map(Into::into),
            owner: Some((facts.uid(), facts.gid())),
            extended: None,
        };
        let contents = Contents::CopyOf(whole.to_path_buf(), None);
        Ok(Step::Write { path: copy, expected, contents, attributes })
    }

    /// The folders that hold nothing any more once files are removed, the deepest first. Each folder is looked into once.
    fn emptied_folders(&self) -> Vec<Step> {
        let above = |path: &PathBuf| path.ancestors().skip(1).map(|folder| self.root.join(folder)).collect::<Vec<_>>();
        let stays = self.files.iter().filter(|(_, file)| file.will.is_some());
        let kept: HashSet<PathBuf> = stays.flat_map(|(path, _)| above(path)).collect();
        let removed = || self.files.iter().filter(|(_, file)| file.was.is_some() && file.will.is_none());
        let mut gone: HashSet<PathBuf> = removed().map(|(path, _)| self.root.join(path)).collect();
        let mut folders: Vec<PathBuf> =
            removed().flat_map(|(path, _)| above(path)).collect::<HashSet<_>>().into_iter().collect();
        folders.retain(|folder| *folder != self.root && !kept.contains(folder));
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

    /// Makes the folders above a file that are missing, each once.
    fn make_folders(&self, file: &Path, made: &mut HashSet<PathBuf>, steps: &mut Vec<Step>) {
        let above = file.ancestors().skip(1).take_while(|folder| *folder != self.root);
        let missing: Vec<_> = above.filter(|folder| !folder.is_dir()).map(Path::to_path_buf).collect();
        for folder in missing.into_iter().rev() {
            if made.insert(folder.clone()) {
                steps.push(Step::new_folder(folder));
            }
        }
    }

    /// The only file that was looked at.
    pub(super) fn only(&self) -> Option<&TargetFile> {
        match self.files.values().collect::<Vec<_>>()[..] {
            [file] => Some(file),
            _ => None,
        }
    }
}

impl TargetFile {
    fn changes(&self) -> bool {
        let same = match (&self.was, &self.will) {
            (Some(was), Some(will)) => was.print.size == will.len() as u64 && was.print == Fingerprint::of(will),
            (None, None) => true,
            _ => false,
        };
        !same || self.mode.is_some() && self.will.is_some()
    }
}
