//! A repository: where it is, and what a name in it stands for.

use std::ffi::OsStr;
use std::os::unix::ffi::OsStrExt;
use std::path::{Path, PathBuf};
use std::sync::OnceLock;

use jiff::Timestamp;
use jiff::tz::{Offset, TimeZone};
use tideline_core::internal::text::spelling::nearest;
use tideline_core::internal::tree::{TreeError, TreeErrorKind, TreePath};

use super::error::RevisionError;
use super::objects::{CheckedOut, Object, Objects};
use super::program::{Allowed, Program, Services};
use crate::hashing::Algorithm;

/// Digits of a hash that are shown.
const SHOWN: usize = 10;

/// A repository.
pub(crate) struct Repository {
    pub(super) program: Program,
    objects: Objects,
    /// What needs to know first which filters are set up.
    filtered: OnceLock<Result<Filtered, RevisionError>>,
    /// The folder that is checked out into, without links; none of a bare repository.
    work_tree: Option<PathBuf>,
    /// How files are known in it.
    pub(super) algorithm: Algorithm,
    pub(super) allowed: Allowed,
}

/// The program without the filters that it may not run.
struct Filtered {
    program: Program,
    checked_out: CheckedOut,
}

/// What a name in a repository stands for.
pub(crate) struct Found {
    pub(crate) object: Object,
    /// What it is called in headings.
    pub(crate) label: String,
    /// What the heading says of it.
    pub(crate) about: String,
}

impl Repository {
    /// The repository around a folder.
    ///
    /// # Errors
    /// When the program is not there, or there is no repository.
    pub(crate) fn around(folder: &Path, is_named: bool, allowed: Allowed) -> Result<Self, RevisionError> {
        let program = Program::new(folder, is_named, allowed);
        let asked = ["rev-parse", "--show-object-format", "--is-inside-work-tree"];
        // Where there is no working folder, its place is no answer but a failure.
        let told = match program.run(asked.into_iter().chain(["--show-toplevel"])) {
            Ok(told) => told,
            Err(RevisionError::Failed { reason }) if reason.contains("not a git repository") => {
                return Err(RevisionError::NoRepository(shown(folder)));
            }
            Err(RevisionError::Failed { .. }) => program.run(asked)?,
            Err(error) => return Err(error),
        };
        let mut lines = told.split(|&byte| byte == b'\n');
        let is_sha256 = lines.next() == Some(b"sha256");
        let algorithm = if is_sha256 { Algorithm::ObjectSha256 } else { Algorithm::ObjectSha1 };
        let is_inside = lines.next() == Some(b"true");
        let top = lines.next().filter(|top| is_inside && !top.is_empty());
        let work_tree = top.and_then(|top| Path::new(OsStr::from_bytes(top)).canonicalize().ok());
        let objects = Objects::new(&program);
        Ok(Self { program, objects, filtered: OnceLock::new(), work_tree, algorithm, allowed })
    }

    fn filtered(&self) -> Result<&Filtered, RevisionError> {
        let make = || {
            let mut program = self.program.clone();
            program.without_filters()?;
            Ok(Filtered { checked_out: CheckedOut::new(&program), program })
        };
        self.filtered.get_or_init(make).as_ref().map_err(Clone::clone)
    }

    /// The path of a folder in the working folder of the repository; nothing where it is not in it.
    pub(crate) fn prefix_of(&self, folder: &Path) -> Option<TreePath> {
        let inner = folder.canonicalize().ok()?;
        let inner = inner.strip_prefix(self.work_tree.as_ref()?).ok()?;
        Some(TreePath::from(inner.as_os_str().as_bytes()))
    }

    /// The program, run in the working folder.
    pub(super) fn program_in(&self, folder: &Path) -> Program {
        self.program.within(folder)
    }

    /// The program, waiting for questions in a folder.
    pub(super) fn services(
        &self,
        folder: &Path,
        arguments: &'static [&'static str],
    ) -> Result<Services, RevisionError> {
        Ok(Services::new(self.filtered()?.program.within(folder), arguments))
    }

    /// What a file holds; as it would be checked out where a path is given.
    pub(super) fn contents(&self, id: &str, checked_out_at: Option<&[u8]>) -> Result<Vec<u8>, TreeError> {
        // A path of two lines cannot be asked for.
        match checked_out_at.filter(|path| !path.contains(&b'\n')) {
            Some(path) => {
                let filtered = self.filtered();
                let filtered = filtered.map_err(|error| TreeError::new(TreeErrorKind::Other, error.to_string()))?;
                filtered.checked_out.file(id, path)
            }
            None => self.objects.file(id),
        }
    }

    /// The size of a file.
    pub(super) fn size(&self, id: &str) -> Result<u64, TreeError> {
        self.objects.size(id)
    }

    /// What a revision stands for; a path in it, and the folder whose counterpart is meant where no path was given.
    ///
    /// # Errors
    /// When there is no such revision, or no such path in it.
    pub(crate) fn find(
        &self,
        revision: &str,
        path: Option<&str>,
        prefix: Option<&TreePath>,
    ) -> Result<Found, RevisionError> {
        let failed = |error: std::io::Error| match error.kind() {
            std::io::ErrorKind::NotFound => RevisionError::NoProgram,
            // An older program does not know how it is asked, and ends.
            std::io::ErrorKind::UnexpectedEof | std::io::ErrorKind::BrokenPipe => RevisionError::Failed {
                reason: "the program `git` does not answer; version 2.36 or later is needed".to_owned(),
            },
            _ => RevisionError::Failed { reason: format!("the program `git` does not answer: {error}") },
        };
        if revision.contains(['\n', '\0']) {
            return Err(self.unknown(revision));
        }
        let commit = self.objects.read(&format!("{revision}^{{commit}}")).map_err(failed)?;
        let (root, about) = match &commit {
            Some((object, bytes)) => (object.id.clone(), about_commit(&object.id, bytes)),
            None => match self.objects.find(revision).map_err(failed)? {
                Some(object) => (object.id.clone(), short(&object.id)),
                None => return Err(self.unknown(revision)),
            },
        };
        let inner = path
            .map(ToOwned::to_owned)
            .or_else(|| prefix.filter(|prefix| !prefix.is_root()).map(|prefix| prefix.to_text()));
        let name = match &inner {
            Some(inner) => format!("{root}:{}", inner.trim_end_matches('/')),
            None => format!("{root}^{{}}"),
        };
        let label = match path {
            Some(path) if !path.is_empty() => format!("{revision}:{path}"),
            _ => revision.to_owned(),
        };
        let about = format!("git {revision}: {about}");
        let mut object = self.objects.find(&name).map_err(failed)?.ok_or_else(|| RevisionError::NoPath {
            revision: revision.to_owned(),
            path: inner.clone().unwrap_or_default(),
        })?;
        if object.kind == "commit" && inner.is_none() {
            let tree = self.objects.find(&format!("{root}^{{tree}}")).map_err(failed)?;
            object = tree.ok_or_else(|| self.unknown(revision))?;
        }
        Ok(Found { object, label, about })
    }

    /// What a file holds.
    pub(crate) fn file(&self, id: &str) -> Result<Vec<u8>, TreeError> {
        self.objects.file(id)
    }

    /// A file that is staged; nothing where none is at the path.
    pub(crate) fn staged_file(&self, path: &str) -> Result<Option<Vec<u8>>, RevisionError> {
        let read = self.objects.read(&format!(":0:{path}"));
        let read = read.map_err(|error| RevisionError::Failed { reason: error.to_string() })?;
        Ok(read.filter(|(object, _)| object.kind == "blob").map(|(_, bytes)| bytes))
    }

    /// Why a revision is not known, and what may have been meant.
    fn unknown(&self, revision: &str) -> RevisionError {
        let is_head = revision.starts_with("HEAD") || revision.starts_with('@');
        if is_head && matches!(self.objects.find("HEAD"), Ok(None)) {
            return RevisionError::Unborn;
        }
        let told = |arguments: &[&str]| {
            let told = self.program.run(arguments.iter().copied()).unwrap_or_default();
            String::from_utf8_lossy(&told).into_owned()
        };
        let is_shallow = told(&["rev-parse", "--is-shallow-repository"]).trim() == "true";
        let base = revision.split(['~', '^', '@']).next().unwrap_or_default();
        let base_is_known = !base.is_empty() && matches!(self.objects.find(base), Ok(Some(_)));
        let advice = if base_is_known && is_shallow {
            "; its history is shallow, and ends before that".to_owned()
        } else if base_is_known {
            "; its history does not go back so far".to_owned()
        } else {
            let names = told(&["for-each-ref", "--format=%(refname:short)"]);
            nearest(base, names.lines().chain(["HEAD", "staged"]))
                .map(|name| format!("; did you mean `{name}`?"))
                .unwrap_or_default()
        };
        RevisionError::Unknown { revision: revision.to_owned(), advice }
    }
}

/// The first digits of a hash.
fn short(id: &str) -> String {
    id[..id.len().min(SHOWN)].to_owned()
}

/// The short hash of a commit, its day and the first line of its message.
fn about_commit(id: &str, commit: &[u8]) -> String {
    let text = String::from_utf8_lossy(commit);
    let (head, message) = text.split_once("\n\n").unwrap_or((&text, ""));
    let committed = head.lines().find_map(|line| line.strip_prefix("committer "));
    let day = committed.and_then(|line| {
        let mut words = line.rsplit(' ');
        let (zone, seconds) = (words.next()?, words.next()?);
        let zone: i32 = zone.parse().ok()?;
        let offset = Offset::from_seconds((zone / 100 * 60 + zone % 100) * 60).ok()?;
        let time = Timestamp::from_second(seconds.parse().ok()?).ok()?;
        Some(time.to_zoned(TimeZone::fixed(offset)).strftime("%Y-%m-%d").to_string())
    });
    let subject = message.lines().next().unwrap_or_default().trim();
    let parts = [Some(short(id)), day, (!subject.is_empty()).then(|| format!("“{subject}”"))];
    parts.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

fn shown(path: &Path) -> String {
    if path.as_os_str().is_empty() || path == Path::new(".") {
        "the working folder".to_owned()
    } else {
        path.display().to_string()
    }
}
