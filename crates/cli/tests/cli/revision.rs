//! Revisions of a repository as sides of the commands.

use crate::support::Folder;

/// A repository with two commits in a folder.
fn repository() -> Folder {
    let folder =
        Folder::with(&[("kit/stations/mouth.toml", "[sensor]\ninterval_s = 60\n"), ("kit/notes.txt", "one\n")]);
    folder.system("git", &["init", "--quiet", "--initial-branch=main", "kit"]);
    let commit = |subject: &str| {
        folder.system("git", &["-C", "kit", "add", "--all"]);
        folder.system("git", &["-C", "kit", "commit", "--quiet", "-m", subject]);
    };
    commit("Spring edition");
    folder.write("kit/stations/mouth.toml", b"[sensor]\ninterval_s = 30\n");
    commit("Autumn edition");
    folder.write("kit/notes.txt", b"two\n");
    folder
}

/// Runs the program in the repository.
fn run(folder: &Folder, arguments: &[&str]) -> crate::support::Ran {
    let mut command = folder.command(arguments);
    command.current_dir(folder.path().join("kit"));
    crate::support::Ran::of(&command.output().unwrap())
}

#[test]
fn one_revision_is_compared_with_the_working_folder() {
    let folder = repository();
    let ran = run(&folder, &["git:HEAD"]);
    assert_eq!(ran.status, Some(1), "{}", ran.err);
    assert!(ran.out.starts_with("HEAD ○  kit ●    2 files: 1 same, 1 changed\n  git HEAD: "), "{}", ran.out);
    assert!(ran.out.contains(", 2031-04-05, “Autumn edition”\n"), "{}", ran.out);
    assert_eq!(run(&folder, &["git:HEAD", "."]).out, ran.out);
    let quiet = run(&folder, &["--quiet", "git:HEAD~1"]);
    assert_eq!((quiet.status, &*quiet.out), (Some(1), ""));
    folder.write("kit/tideline.toml", b"[saved.begun]\nbefore = \"git:HEAD\"\nexclude = [\"tideline.toml\"]\n");
    let saved = run(&folder, &["saved", "begun"]);
    assert!(saved.out.contains("1 changed"), "{}{}", saved.out, saved.err);
    std::fs::remove_file(folder.path().join("kit/tideline.toml")).unwrap();
    let alone = run(&folder, &["notes.txt"]);
    assert_eq!(alone.status, Some(2));
    assert!(alone.err.contains("the side after is missing"), "{}", alone.err);
}

#[test]
fn files_of_revisions_are_told_apart_by_their_revisions() {
    let folder = repository();
    let ran = run(&folder, &["git:HEAD~1:stations/mouth.toml", "git:HEAD:stations/mouth.toml"]);
    assert!(ran.out.contains("stations/mouth.toml    HEAD~1 ○  HEAD ●    1 change"), "{}", ran.out);
    let disk = run(&folder, &["git:HEAD:notes.txt", "notes.txt"]);
    assert!(disk.out.contains("notes.txt    HEAD ○  on disk ●    1 change"), "{}", disk.out);
    assert_eq!(run(&folder, &["git:HEAD", "notes.txt"]).out, disk.out, "the same file is meant");
    let mut inside = folder.command(&["git:HEAD~1", "mouth.toml"]);
    let inside = crate::support::Ran::of(&inside.current_dir(folder.path().join("kit/stations")).output().unwrap());
    assert!(inside.out.contains("mouth.toml    HEAD~1 ○  on disk ●    1 change"), "{}{}", inside.out, inside.err);
    let missing = run(&folder, &["git:HEAD", "mouth.toml"]);
    assert!(missing.err.contains("as in `tideline git:HEAD . mouth.toml`"), "{}", missing.err);
    folder.write("kit/git:HEAD", b"a file of that name\n");
    let named = run(&folder, &["./git:HEAD", "notes.txt"]);
    assert!(named.out.contains("a file of that name"), "{}", named.out);
}

#[test]
fn a_patch_of_two_revisions_applies_to_the_first() {
    let folder = repository();
    folder.system("git", &["-C", "kit", "worktree", "add", "--quiet", "--detach", "../old", "HEAD~1"]);
    let patch = run(&folder, &["patch", "git:HEAD~1", "git:HEAD"]);
    assert!(patch.out.starts_with("--- HEAD~1/stations/mouth.toml\n+++ HEAD/stations/mouth.toml\n"), "{}", patch.out);
    folder.write("fix.patch", patch.out.as_bytes());
    let applied = folder.run(&["apply", "fix.patch", "--into", "old"]);
    assert_eq!(applied.status, Some(0), "{}{}", applied.out, applied.err);
    assert_eq!(folder.read("old/stations/mouth.toml"), folder.read("kit/stations/mouth.toml"));
    // A working folder beside the first has the place of its repository in a file, which is no part of it.
    let mut command = folder.command(&["git:HEAD"]);
    command.current_dir(folder.path().join("old"));
    let ran = crate::support::Ran::of(&command.output().unwrap());
    assert!(ran.out.contains("2 files: 1 same, 1 changed"), "{}", ran.out);
}

#[test]
fn a_sync_from_a_revision_leaves_permissions_that_it_does_not_hold() {
    use std::os::unix::fs::PermissionsExt;
    let folder = repository();
    folder.write("out/notes.txt", b"three\n");
    let private = std::fs::Permissions::from_mode(0o600);
    std::fs::set_permissions(folder.path().join("out/notes.txt"), private).unwrap();
    let ran = run(&folder, &["sync", "git:HEAD", "../out", "--go"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    assert_eq!(folder.read("out/notes.txt"), b"one\n");
    let mode = std::fs::metadata(folder.path().join("out/notes.txt")).unwrap().permissions().mode();
    assert_eq!(mode & 0o777, 0o600);
    let refused = run(&folder, &["sync", "git:HEAD", "../out", "--newer"]);
    assert!(refused.err.contains("a revision holds no times of its files"), "{}", refused.err);
}

#[test]
fn what_is_no_revision_ends_with_a_sentence() {
    let folder = repository();
    for (arguments, reason) in [
        (vec!["git:mian"], "the repository has no revision `mian`; did you mean `main`?"),
        (vec!["git:HEAD:nothing.txt", "notes.txt"], "there is no nothing.txt in the revision HEAD"),
        (vec!["git:HEAD~9"], "its history does not go back so far"),
    ] {
        let ran = run(&folder, &arguments);
        assert_eq!(ran.status, Some(2), "{arguments:?}");
        assert!(ran.err.contains(reason), "{}", ran.err);
    }
    let outside = folder.run(&["git:HEAD"]);
    assert_eq!(outside.status, Some(2));
    assert!(
        outside.err.contains("the working folder is in no repository; --repository PATH names one"),
        "{}",
        outside.err
    );
    let named = folder.run(&["--repository", "kit", "git:HEAD", "kit"]);
    assert_eq!(named.status, Some(1), "{}", named.err);
    let mut command = folder.command(&["--repository", "kit", "git:HEAD"]);
    let missing = crate::support::Ran::of(&command.env("PATH", "/nonexistent").output().unwrap());
    assert_eq!(missing.status, Some(2));
    assert!(missing.err.contains("the program `git` was not found"), "{}", missing.err);
}
