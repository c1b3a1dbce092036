//! Revisions of a repository as trees, made with the system's own program.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{
    Attribute, Attributes, EntryType, Note, TreeComparison, TreeErrorKind, TreeOptions,
};
use tideline_sources::{Allowed, OpenError, RevisionError, Side, SideOptions, resolve};

use crate::making::compared;

/// A repository of its own.
pub(crate) struct Repository {
    place: tempfile::TempDir,
}

impl Repository {
    pub(crate) fn new() -> Self {
        let repository = Self { place: tempfile::tempdir().unwrap() };
        fs::create_dir(repository.root()).unwrap();
        repository.git(&["init", "--quiet", "--initial-branch=main"]);
        repository
    }

    pub(crate) fn root(&self) -> PathBuf {
        self.place.path().join("kit")
    }

    fn place(&self) -> &Path {
        self.place.path()
    }

    /// Runs the program in the repository, whatever the settings of this machine are.
    pub(crate) fn git(&self, arguments: &[&str]) -> String {
        run(&self.root(), arguments)
    }

    fn write(&self, path: &str, bytes: impl AsRef<[u8]>) {
        let path = self.root().join(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, bytes).unwrap();
    }

    pub(crate) fn commit(&self, subject: &str) {
        self.git(&["add", "--all"]);
        self.git(&["commit", "--quiet", "--allow-empty", "--message", subject]);
    }

    pub(crate) fn options(&self) -> SideOptions {
        SideOptions::default().repository(Some(self.root()))
    }

    /// A revision against the working folder.
    fn against_folder(&self, revision: &str, options: &SideOptions) -> TreeComparison {
        compared(Path::new(revision), &self.root(), options, &TreeOptions::default())
    }

    fn told(&self, revision: &str) -> Vec<(String, Status)> {
        told(&self.against_folder(revision, &self.options()))
    }
}

fn run(folder: &Path, arguments: &[&str]) -> String {
    let mut command = Command::new("git");
    command.current_dir(folder).args(["-c", "protocol.file.allow=always"]).args(arguments);
    command.env("GIT_CONFIG_GLOBAL", "/dev/null").env("GIT_CONFIG_NOSYSTEM", "1");
    for (who, name) in [("AUTHOR", "Ada Gauge"), ("COMMITTER", "Ada Gauge")] {
        command.env(format!("GIT_{who}_NAME"), name).env(format!("GIT_{who}_EMAIL"), "ada@merrow.example");
        command.env(format!("GIT_{who}_DATE"), "2031-04-05T06:07:08+0200");
    }
    let output = command.output().unwrap();
    assert!(output.status.success(), "{arguments:?}: {}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8_lossy(&output.stdout).trim().to_owned()
}

fn told(found: &TreeComparison) -> Vec<(String, Status)> {
    found.pairs.iter().map(|pair| (pair.path.to_text(), pair.status)).collect()
}

fn pair(path: &str, status: Status) -> (String, Status) {
    (path.to_owned(), status)
}

/// A repository with two commits.
fn kit() -> Repository {
    let repository = Repository::new();
    repository.write("stations/mouth.toml", "interval_s = 60\n");
    repository.write("stations/light.toml", "interval_s = 30\n");
    repository.write("notes.txt", "one\ntwo\nthree\nfour\nfive\nsix\n");
    repository.commit("Spring edition");
    repository.write("stations/mouth.toml", "interval_s = 20\n");
    fs::rename(repository.root().join("notes.txt"), repository.root().join("handbook.txt")).unwrap();
    repository.commit("Autumn edition");
    repository
}

#[test]
fn a_revision_is_compared_with_another_and_with_the_working_folder() {
    let repository = kit();
    let options = repository.options();
    let found = compared(Path::new("git:HEAD~1"), Path::new("git:main"), &options, &TreeOptions::default());
    let wanted = [pair("handbook.txt", Status::Moved), pair("stations/mouth.toml", Status::Changed)];
    assert_eq!(told(&found), wanted);
    assert_eq!(repository.told("git:HEAD"), []);
    repository.write("stations/light.toml", "interval_s = 10\n");
    repository.write("new.txt", "untracked\n");
    repository.write(".gitignore", "*.log\nbuild/\n");
    repository.write("old.log", "ignored\n");
    repository.write("build/deep/out", "ignored\n");
    let wanted =
        [pair(".gitignore", Status::New), pair("new.txt", Status::New), pair("stations/light.toml", Status::Changed)];
    assert_eq!(repository.told("git:HEAD"), wanted);
    assert_eq!(repository.against_folder("git:HEAD", &options).left_out.by_ignore_files, 2);
    let all = repository.against_folder("git:HEAD", &repository.options().no_ignore_files(true));
    assert!(told(&all).contains(&pair("old.log", Status::New)));
    // In a subfolder, the same folder of the revision is meant.
    let stations = repository.root().join("stations");
    let found = compared(Path::new("git:HEAD"), &stations, &options, &TreeOptions::default());
    assert_eq!(told(&found), [pair("light.toml", Status::Changed)]);
    let found = compared(Path::new("git:HEAD:stations"), &stations, &options, &TreeOptions::default());
    assert_eq!(told(&found), [pair("light.toml", Status::Changed)]);
}

#[test]
fn the_heading_names_the_commit_and_a_path_is_a_file() {
    let repository = kit();
    let opened = resolve(Path::new("git:HEAD~1"), &repository.options()).unwrap();
    let id = repository.git(&["rev-parse", "HEAD~1"]);
    assert_eq!(opened.about, Some(format!("git HEAD~1: {}, 2031-04-05, “Spring edition”", &id[..10])));
    assert_eq!(opened.label.as_deref(), Some("HEAD~1"));
    let Side::File(content) = resolve(Path::new("git:HEAD:stations/mouth.toml"), &repository.options()).unwrap().side
    else {
        panic!("it is a file")
    };
    assert_eq!(&*content, b"interval_s = 20\n");
    let staged = resolve(Path::new("git:staged:handbook.txt"), &repository.options()).unwrap();
    assert!(matches!(staged.side, Side::File(_)));
}

#[test]
fn what_is_staged_is_a_tree_and_unmerged_files_are_unreadable() {
    let repository = kit();
    repository.write("stations/light.toml", "interval_s = 5\n");
    repository.git(&["add", "stations/light.toml"]);
    repository.write("stations/light.toml", "interval_s = 4\n");
    assert_eq!(repository.told("git:staged"), [pair("stations/light.toml", Status::Changed)]);
    let options = repository.options();
    let found = compared(Path::new("git:HEAD"), Path::new("git:staged"), &options, &TreeOptions::default());
    assert_eq!(told(&found), [pair("stations/light.toml", Status::Changed)]);
    repository.git(&["checkout", "--quiet", "--force", "-b", "side", "HEAD~1"]);
    repository.write("stations/mouth.toml", "interval_s = 99\n");
    repository.commit("Another way");
    let merged =
        Command::new("git").current_dir(repository.root()).args(["merge", "--quiet", "main"]).output().unwrap();
    assert!(!merged.status.success(), "both changed one line");
    let found = compared(Path::new("git:HEAD"), Path::new("git:staged"), &options, &TreeOptions::default());
    let unmerged = found.pairs.iter().find(|pair| pair.path.to_text() == "stations/mouth.toml").unwrap();
    assert_eq!(unmerged.status, Status::Unreadable);
    let Some(Note::UnreadableAfter(why) | Note::Unreadable(why)) = &unmerged.note else { panic!("{unmerged:?}") };
    assert!(why.to_string().contains("it is unmerged"), "{why}");
}

#[test]
fn odd_names_links_and_modes_are_entries_like_others() {
    let repository = Repository::new();
    for name in ["with space", "tab\there", "line\nbreak", "quote\"s", "höhe", "-dash", "git:x"] {
        repository.write(name, name);
    }
    std::os::unix::fs::symlink("with space", repository.root().join("link")).unwrap();
    repository.write("run.sh", "#!/bin/sh\n");
    repository.commit("Odd names");
    assert_eq!(repository.told("git:HEAD"), []);
    fs::set_permissions(repository.root().join("run.sh"), std::os::unix::fs::PermissionsExt::from_mode(0o755)).unwrap();
    fs::remove_file(repository.root().join("link")).unwrap();
    std::os::unix::fs::symlink("elsewhere", repository.root().join("link")).unwrap();
    repository.write("line\nbreak", "other\n");
    let options = TreeOptions::default().attributes(Attributes { mode: true, time: true });
    let found = compared(Path::new("git:HEAD"), &repository.root(), &repository.options(), &options);
    let wanted = [pair("line\nbreak", Status::Changed), pair("link", Status::Changed), pair("run.sh", Status::Changed)];
    assert_eq!(told(&found), wanted);
    assert_eq!(found.pairs[2].attributes, [Attribute::Mode]);
    assert!(found.left_out.times > 0 && found.left_out.modes > 0, "what a revision does not hold is counted");
}

#[test]
fn a_working_file_is_compared_as_it_would_be_stored() {
    let repository = Repository::new();
    repository.write(".gitattributes", "*.txt text\n");
    repository.write("notes.txt", "one\r\ntwo\r\nthree\r\n");
    repository.write("raw.bin", "one\r\n");
    repository.commit("Line ends");
    let stored = repository.git(&["cat-file", "-s", "HEAD:notes.txt"]);
    assert_eq!(stored, "14", "it is stored without its CR");
    let found = repository.against_folder("git:HEAD", &repository.options());
    assert_eq!(told(&found), []);
    let remarks: Vec<&str> = found.remarks.iter().map(|remark| remark.text.as_str()).collect();
    assert_eq!(remarks, ["the same as stored, though in another form on the disk: notes.txt"]);
    // One line differs, and not every line by its end.
    repository.git(&["config", "core.eol", "crlf"]);
    repository.write("notes.txt", "one\r\nTWO\r\nthree\r\n");
    let found = repository.against_folder("git:HEAD", &repository.options());
    assert_eq!((found.pairs[0].extent.gone, found.pairs[0].extent.new), (1, 1));
}

#[test]
fn nothing_is_written_and_no_program_of_the_repository_is_started() {
    let repository = Repository::new();
    repository.write(".gitattributes", "*.txt filter=loud\n");
    repository.write("notes.txt", "one\n");
    repository.commit("Filtered");
    let witness = repository.place().join("witness");
    let touch = format!("touch {}; cat", witness.display());
    for setting in ["filter.loud.clean", "filter.loud.smudge", "core.fsmonitor", "core.sshCommand", "core.pager"] {
        repository.git(&["config", setting, &touch]);
    }
    let hooks = repository.place().join("hooks");
    fs::create_dir(&hooks).unwrap();
    for hook in ["post-index-change", "post-checkout", "pre-auto-gc", "fsmonitor-watchman"] {
        let path = hooks.join(hook);
        fs::write(&path, format!("#!/bin/sh\n{touch}\n")).unwrap();
        fs::set_permissions(&path, std::os::unix::fs::PermissionsExt::from_mode(0o755)).unwrap();
    }
    repository.git(&["config", "core.hooksPath", hooks.to_str().unwrap()]);
    let _ = fs::remove_file(&witness);
    // The index is out of date, so that a careless look would write it anew.
    repository.write("notes.txt", "two\n");
    let index = repository.root().join(".git/index");
    let before = (fs::read(&index).unwrap(), fs::metadata(&index).unwrap().modified().unwrap());
    for revision in ["git:HEAD", "git:staged"] {
        let found = repository.against_folder(revision, &repository.options());
        assert_eq!(told(&found), [pair("notes.txt", Status::Changed)]);
        let remark = &found.remarks[0].text;
        assert!(remark.starts_with("the filter `loud` of the repository was not run"), "{remark}");
    }
    assert!(!witness.exists(), "a program was started");
    let after = (fs::read(&index).unwrap(), fs::metadata(&index).unwrap().modified().unwrap());
    assert!(before == after, "the index was written");
    assert!(
        fs::read_dir(repository.root().join(".git"))
            .unwrap()
            .flatten()
            .all(|entry| { !entry.file_name().to_string_lossy().ends_with(".lock") })
    );
    let allowed = repository.options().allowed(Allowed { filters: true, fetching: false });
    repository.against_folder("git:HEAD", &allowed);
    assert!(witness.exists(), "it is run when it may be");
}

#[test]
fn submodules_are_entries_with_their_commit() {
    let inner = kit();
    let repository = Repository::new();
    repository.write("notes.txt", "one\n");
    repository.git(&["submodule", "--quiet", "add", inner.root().to_str().unwrap(), "inner"]);
    repository.commit("With a submodule");
    assert_eq!(repository.told("git:HEAD"), []);
    run(&repository.root().join("inner"), &["checkout", "--quiet", "HEAD~1"]);
    let found = repository.against_folder("git:HEAD", &repository.options());
    assert_eq!(told(&found), [pair("inner", Status::Changed)]);
    assert_eq!(found.pairs[0].types.1, Some(EntryType::Special("submodule")));
    assert!(matches!(&found.pairs[0].note, Some(Note::Commits(one, other)) if one.len() == 40 && one != other));
}

#[test]
fn what_a_sparse_working_folder_lacks_is_left_out_and_said() {
    let repository = kit();
    repository.git(&["sparse-checkout", "set", "--no-cone", "/handbook.txt"]);
    assert!(!repository.root().join("stations").exists());
    let found = repository.against_folder("git:HEAD", &repository.options());
    assert!(found.pairs.iter().all(|pair| pair.is_folder()), "{:?}", told(&found));
    assert!(found.remarks[0].text.contains("2 files that are not checked out"), "{:?}", found.remarks);
}

#[test]
fn what_a_partial_clone_lacks_is_unreadable_and_not_fetched() {
    let origin = kit();
    origin.git(&["config", "uploadpack.allowFilter", "true"]);
    let place = tempfile::tempdir().unwrap();
    let clone = place.path().join("clone");
    let url = format!("file://{}", origin.root().display());
    run(place.path(), &["clone", "--quiet", "--filter=blob:none", "--no-checkout", &url, clone.to_str().unwrap()]);
    let options = SideOptions::default().repository(Some(clone.clone()));
    let found = compared(Path::new("git:HEAD~1"), Path::new("git:HEAD"), &options, &TreeOptions::default());
    let mouth = found.pairs.iter().find(|pair| pair.path.to_text() == "stations/mouth.toml").unwrap();
    assert_eq!(mouth.status, Status::Unreadable, "{mouth:?}");
    let Some(Note::Unreadable(why)) = &mouth.note else { panic!("{mouth:?}") };
    assert_eq!(why.kind(), TreeErrorKind::Missing);
    assert!(why.to_string().contains("--fetch-missing"), "{why}");
    assert_eq!(run(&clone, &["rev-list", "--objects", "--all", "--missing=print"]).matches('?').count(), 4);
}

#[test]
fn what_is_no_revision_is_said_with_what_may_be_meant() {
    let repository = kit();
    let why = |argument: &str| match resolve(Path::new(argument), &repository.options()) {
        Err(OpenError::Revision { error, .. }) => error,
        Err(other) => panic!("{argument}: {other}"),
        Ok(_) => panic!("{argument} is none"),
    };
    assert_eq!(why("git:mian").to_string(), "the repository has no revision `mian`; did you mean `main`?");
    assert_eq!(
        why("git:HEAD~7").to_string(),
        "the repository has no revision `HEAD~7`; its history does not go back so far"
    );
    assert_eq!(why("git:HEAD:none.txt").to_string(), "there is no none.txt in the revision HEAD");
    assert!(matches!(why("git:--upload-pack=touch x"), RevisionError::Unknown { .. }));
    assert!(matches!(why("git:HEAD\ncontents HEAD"), RevisionError::Unknown { .. }));
    let empty = Repository::new();
    let Err(OpenError::Revision { error, .. }) = resolve(Path::new("git:HEAD"), &empty.options()) else {
        panic!("there is no commit")
    };
    assert_eq!(error, RevisionError::Unborn);
    let nowhere = tempfile::tempdir().unwrap();
    let options = SideOptions::default().repository(Some(nowhere.path().to_path_buf()));
    let Err(OpenError::Revision { error, .. }) = resolve(Path::new("git:HEAD"), &options) else {
        panic!("there is no repository")
    };
    assert!(matches!(error, RevisionError::NoRepository(_)), "{error}");
}

#[test]
fn a_shallow_history_says_that_it_ends() {
    let origin = kit();
    let place = tempfile::tempdir().unwrap();
    let clone = place.path().join("clone");
    let url = format!("file://{}", origin.root().display());
    run(place.path(), &["clone", "--quiet", "--depth=1", &url, clone.to_str().unwrap()]);
    let options = SideOptions::default().repository(Some(clone));
    let Err(OpenError::Revision { error, .. }) = resolve(Path::new("git:HEAD~1"), &options) else {
        panic!("it is not there")
    };
    assert!(error.to_string().ends_with("its history is shallow, and ends before that"), "{error}");
}

#[test]
fn renames_and_merges_are_told_by_what_they_left() {
    let repository = kit();
    repository.git(&["checkout", "--quiet", "-b", "side", "HEAD~1"]);
    repository.write("side.txt", "side\n");
    repository.commit("Side");
    repository.git(&["checkout", "--quiet", "main"]);
    repository.git(&["merge", "--quiet", "--no-edit", "side"]);
    let options = repository.options();
    let found = compared(Path::new("git:main^1"), Path::new("git:main"), &options, &TreeOptions::default());
    assert_eq!(told(&found), [pair("side.txt", Status::New)]);
    let found = compared(Path::new("git:main^2"), Path::new("git:main"), &options, &TreeOptions::default());
    let wanted = [pair("handbook.txt", Status::Moved), pair("stations/mouth.toml", Status::Changed)];
    assert_eq!(told(&found), wanted);
}
