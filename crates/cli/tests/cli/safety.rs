//! Nothing is lost, and nothing unsaid: outputs, signals, names, deep trees, and what sync leaves alone.

use std::fs;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
use std::process::{Command, Stdio};
use std::thread;
use std::time::Duration;

use crate::support::{Folder, Ran};

#[test]
fn an_output_never_takes_the_place_of_what_is_read() {
    let folder = Folder::with(&[("a", "1\n"), ("b", "2\n"), ("d1/x", "1\n"), ("d2/x", "2\n"), ("notes", "mine\n")]);
    for (arguments, reason) in [
        (&["patch", "a", "b", "-o", "b"][..], "cannot write b: the command reads it"),
        (&["patch", "d1", "d2", "-o", "d2/x"], "cannot write d2/x: it is a file of d2"),
        (&["report", "d1", "d2", "-o", "d2/x", "--format", "md"], "cannot write d2/x: it is a file of d2"),
        (&["report", "d1", "d2", "-o", "d2/"], "cannot write d2/: the command reads it"),
        (&["take", "a", "b", "--changes", "1", "--into", "before", "-o", "b"], "cannot write b: the command reads it"),
        (&["sync", "d1", "d2", "--save-plan", "d2/x"], "cannot write d2/x: it is a file of d2"),
    ] {
        let arguments: Vec<&str> = arguments.iter().map(|word| if *word == "md" { "markdown" } else { word }).collect();
        let ran = folder.run(&arguments);
        assert_eq!(ran.status, Some(2), "{arguments:?}");
        assert!(ran.err.contains(reason), "{arguments:?}: {}", ran.err);
    }
    assert_eq!((folder.read("b"), folder.read("d2/x")), (b"2\n".to_vec(), b"2\n".to_vec()));
    let ran = folder.run(&["patch", "a", "b", "-o", "notes"]);
    assert_eq!(ran.status, Some(1));
    assert_eq!(ran.err, "tideline: replaced notes (run 1; `tideline undo 1` puts it back)\n");
    // An earlier output inside a side is replaced.
    assert_eq!(folder.run(&["patch", "d1", "d2", "-o", "d2/work.patch"]).status, Some(1));
    assert_eq!(folder.run(&["patch", "d1", "d2", "-o", "d2/work.patch"]).status, Some(1));
}

#[test]
fn a_leftover_never_takes_the_place_of_notes() {
    let patch = "--- a/x\n+++ b/x\n@@ -1,3 +1,3 @@\n one\n-zwei\n+2\n three\n";
    let folder =
        Folder::with(&[("x", "one\ntwo\nthree\n"), ("fix.patch", patch), ("fix.leftover.patch", "my notes\n")]);
    let ran = folder.run(&["apply", "--keep-going", "fix.patch"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("cannot write fix.leftover.patch"), "{}", ran.err);
    assert_eq!(folder.read("fix.leftover.patch"), b"my notes\n");
    fs::remove_file(folder.path().join("fix.leftover.patch")).unwrap();
    assert_eq!(folder.run(&["apply", "--keep-going", "fix.patch"]).status, Some(1));
    let again = folder.run(&["apply", "--keep-going", "fix.patch"]);
    assert!(
        again.out.contains("what does not fit is in fix.leftover.patch, in the place of what was there"),
        "{}",
        again.out
    );
}

/// Interrupts a sync of many files in its middle.
fn interrupted(files: usize, signal: &str) -> (Folder, Ran) {
    let folder = Folder::new();
    for number in 0..files {
        folder.write(&format!("from/{number}"), b"new\n");
        folder.write(&format!("into/{number}"), b"old!\n");
    }
    let mut command = folder.command(&["sync", "from", "into", "--go"]);
    let child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    let open = folder.path().join(".state/tideline/open/1/record");
    for _ in 0..2000 {
        if open.exists() {
            break;
        }
        thread::sleep(Duration::from_millis(1));
    }
    Command::new("kill").args([&format!("-{signal}"), &child.id().to_string()]).status().unwrap();
    let ran = Ran::of(&child.wait_with_output().unwrap());
    (folder, ran)
}

#[test]
fn a_signal_puts_everything_back() {
    for signal in ["INT", "TERM", "HUP"] {
        let ended = (1..5).map(|try_| interrupted(1500 * try_, signal)).find(|(_, ran)| ran.status != Some(0));
        let (folder, ran) = ended.expect("one of the tries is slow enough to be interrupted");
        assert_eq!(ran.status, Some(2), "{}", ran.err);
        assert!(ran.err.contains("interrupted; everything is as it was before"), "{}", ran.err);
        for entry in fs::read_dir(folder.path().join("into")).unwrap().map(Result::unwrap) {
            assert_eq!(fs::read(entry.path()).unwrap(), b"old!\n", "{}", entry.path().display());
        }
        assert_eq!(folder.run(&["runs"]).out, "nothing was written yet\n");
    }
}

#[test]
fn names_from_files_never_reach_the_terminal_as_they_are() {
    let name = "\u{1b}]0;owned\u{7}\u{1b}[31mred";
    let folder = Folder::new();
    folder.write(&format!("from/{name}"), b"new\n");
    folder.write(&format!("into/{name}/inside"), b"in the way\n");
    folder.write(&format!("{name}.patch"), b"--- a/x\n+++ b/x\n@@ -1 +1 @@\n-a\n+b\n");
    for arguments in [
        &["sync", "from", "into", "--go"][..],
        &["compare", "from", "into"],
        &["apply", &format!("{name}.patch")],
        &["compare", name, "from"],
        &["undo"],
    ] {
        let ran = folder.run(arguments);
        for (stream, text) in [("output", &ran.out), ("errors", &ran.err)] {
            assert!(!text.contains(['\u{1b}', '\u{7}']), "{arguments:?}, {stream}: {text:?}");
        }
    }
}

#[test]
fn a_tree_is_as_deep_as_the_disk_goes() {
    let folder = Folder::new();
    for name in ["from", "into"] {
        fs::create_dir(folder.path().join(name)).unwrap();
    }
    // No path reaches the bottom: it is longer than the system takes.
    let mut open = fs::File::open(folder.path().join("from")).unwrap();
    for _ in 0..2500 {
        rustix::fs::mkdirat(&open, "d", rustix::fs::Mode::RWXU).unwrap();
        let flags = rustix::fs::OFlags::RDONLY | rustix::fs::OFlags::DIRECTORY;
        open = rustix::fs::openat(&open, "d", flags, rustix::fs::Mode::empty()).unwrap().into();
    }
    let ran = folder.run(&["--quiet", "from", "into"]);
    assert_eq!((ran.status, ran.err.as_str()), (Some(1), ""));
    let synced = folder.run(&["sync", "from", "into", "--go"]);
    assert_eq!((synced.status, synced.err.as_str()), (Some(0), ""));
    assert_eq!(folder.run(&["--quiet", "from", "into"]).status, Some(0));
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(fs::read_dir(folder.path().join("into")).unwrap().count(), 0);
    Command::new("rm").args(["-rf", "from", "into"]).current_dir(folder.path()).status().unwrap();
}

#[test]
fn too_little_memory_is_an_error_and_no_crash() {
    let folder = Folder::new();
    for (name, byte) in [("a", b'a'), ("b", b'b')] {
        let line = [vec![byte; 9], vec![b'\n']].concat();
        folder.write(name, &line.repeat(3_000_000));
    }
    let program = env!("CARGO_BIN_EXE_tideline");
    let limited = |kilobytes: usize| {
        let script = format!("ulimit -v {kilobytes}; exec {program} --no-config --quiet --ignore space a b");
        let output = Command::new("sh").args(["-c", &script]).current_dir(folder.path()).output().unwrap();
        Ran::of(&output)
    };
    let tried: Vec<Ran> = [250_000, 400_000, 700_000].into_iter().map(limited).collect();
    for ran in &tried {
        assert!(matches!(ran.status, Some(1 | 2)), "{ran:?}");
        assert!(ran.status == Some(1) || ran.err.starts_with("tideline: "), "{ran:?}");
    }
}

#[test]
fn sync_without_mirror_removes_nothing_and_moves_nothing_away() {
    let text = "[server]\nhost = a\nport = b\nuser = c\n";
    let folder = Folder::with(&[
        ("from/alice.toml", &format!("{text}key = alice\n")),
        ("into/bob.toml", &format!("{text}key = bob\n")),
        ("from/new/moved", "a file\nthat moved\n"),
        ("into/old/moved", "a file\nthat moved\n"),
        ("from/Makefile", "all:\n"),
        ("into/makefile", "something else\n"),
        ("from/d", "a file\n"),
        ("into/d/kept", "kept\n"),
    ]);
    let ran = folder.run(&["sync", "from", "into", "--go"]);
    assert_eq!(ran.status, Some(1), "one path is undecided: {}", ran.err);
    assert!(ran.out.contains("only in into (would go with --mirror)"), "{}", ran.out);
    for name in ["bob.toml", "alice.toml", "old/moved", "new/moved", "makefile", "Makefile", "d/kept"] {
        assert!(folder.path().join("into").join(name).exists(), "{name}\n{}", ran.out);
    }
}

#[test]
fn what_either_side_leaves_out_is_never_removed() {
    let folder = Folder::with(&[
        ("from/.gitignore", ".env\nbuild/\n"),
        ("from/k", "k\n"),
        ("into/k", "k\n"),
        ("into/k2", "k\n"),
        ("from/k2", "k\n"),
        ("into/.env", "KEY=only here\n"),
        ("into/build/out", "out\n"),
        ("into/gone", "gone\n"),
    ]);
    let ran = folder.run(&["sync", "--mirror", "--use-ignore-files", "from", "into", "--go"]);
    assert_eq!(ran.status, Some(0), "{}", ran.err);
    assert!(ran.out.contains("2 named by ignore files of the other side"), "{}", ran.out);
    assert!(!folder.path().join("into/gone").exists());
    assert_eq!(
        (folder.read("into/.env"), folder.read("into/build/out")),
        (b"KEY=only here\n".to_vec(), b"out\n".to_vec())
    );
}

#[test]
fn what_is_newer_stays_in_every_way() {
    let folder = Folder::with(&[
        ("into/a", "work of today\n"),
        ("into/b", "work of today\n"),
        ("into/only", "work of today\n"),
        ("into/old", "long ago\n"),
        ("from/b/x", "old\n"),
        ("from/k1", "k\n"),
        ("into/k1", "k\n"),
        ("from/k2", "k\n"),
        ("into/k2", "k\n"),
    ]);
    symlink("nowhere", folder.path().join("from/a")).unwrap();
    let long_ago = ["-h", "-d", "2001-01-01"];
    for name in ["from/a", "from/b/x", "from/b"] {
        Command::new("touch").args(long_ago).arg(name).current_dir(folder.path()).status().unwrap();
    }
    folder.set_time("into/old", 1000);
    Command::new("touch").args(["-d", "2020-01-01", "from"]).current_dir(folder.path()).status().unwrap();
    let ran = folder.run(&["sync", "--newer", "--mirror", "from", "into", "--go"]);
    for name in ["into/a", "into/b", "into/only"] {
        assert_eq!(folder.read(name), b"work of today\n", "{name}\n{}", ran.out);
    }
    assert!(!folder.path().join("into/old").exists(), "{}", ran.out);
    assert!(ran.out.contains("3 not newer in from"), "{}", ran.out);
}

#[test]
fn a_saved_plan_takes_nothing_else_and_is_checked_as_a_whole() {
    let folder = Folder::with(&[
        ("from/x", "new\n"),
        ("into/x", "old\n"),
        ("into/gone/g", "g\n"),
        ("from/k", "k\n"),
        ("into/k", "k\n"),
    ]);
    symlink("a", folder.path().join("from/l")).unwrap();
    folder.run(&["sync", "--mirror", "from", "into", "--save-plan", "p.plan"]);
    let narrowed = folder.run(&["sync", "--plan", "p.plan", "--exclude", "x", "--go"]);
    assert_eq!(narrowed.status, Some(2));
    assert!(narrowed.err.contains("cannot narrow a saved plan"), "{}", narrowed.err);
    folder.write("into/gone/later", b"later\n");
    let refused = folder.run(&["sync", "--plan", "p.plan", "--go"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("gone holds something that the plan does not know"), "{}", refused.err);
    assert_eq!((folder.read("into/x"), folder.read("into/gone/g")), (b"old\n".to_vec(), b"g\n".to_vec()));
    fs::remove_file(folder.path().join("into/gone/later")).unwrap();
    folder.run(&["sync", "--mirror", "from", "into", "--save-plan", "p.plan"]);
    fs::remove_file(folder.path().join("from/l")).unwrap();
    symlink("b", folder.path().join("from/l")).unwrap();
    let refused = folder.run(&["sync", "--plan", "p.plan", "--go"]);
    assert!(refused.err.contains("from/l, which was changed since the plan was made"), "{}", refused.err);
    let old = fs::read_to_string(folder.path().join("p.plan")).unwrap().replace("\"version\":3", "\"version\":2");
    folder.write("old.plan", old.as_bytes());
    let refused = folder.run(&["sync", "--plan", "old.plan"]);
    assert!(refused.err.contains("another version of Tideline wrote it"), "{}", refused.err);
}

#[test]
fn files_that_from_links_are_linked_and_nobody_becomes_root_by_a_copy() {
    let folder = Folder::with(&[("from/a", "x\n"), ("from/tool", "tool\n")]);
    fs::hard_link(folder.path().join("from/a"), folder.path().join("from/b")).unwrap();
    fs::set_permissions(folder.path().join("from/tool"), fs::Permissions::from_mode(0o4755)).unwrap();
    let is_root = rustix::process::geteuid().is_root();
    if is_root {
        std::os::unix::fs::chown(folder.path().join("from/tool"), Some(1), Some(1)).unwrap();
        fs::set_permissions(folder.path().join("from/tool"), fs::Permissions::from_mode(0o4755)).unwrap();
    }
    let ran = folder.run(&["sync", "from", "into", "--go"]);
    assert_eq!(ran.status, Some(0), "{}", ran.err);
    let metadata = |name: &str| folder.path().join("into").join(name).metadata().unwrap();
    assert_eq!(metadata("a").ino(), metadata("b").ino());
    assert_eq!(metadata("tool").mode() & 0o7777, if is_root { 0o755 } else { 0o4755 });
    assert_eq!(ran.err.contains("set-user-id and set-group-id were dropped"), is_root, "{}", ran.err);
}

#[test]
fn what_cannot_be_read_is_told_on_standard_error() {
    let folder = Folder::with(&[("from/a", "x\n"), ("from/b", "y\n")]);
    fs::set_permissions(folder.path().join("from/a"), fs::Permissions::from_mode(0o000)).unwrap();
    if rustix::process::geteuid().is_root() {
        return;
    }
    let ran = folder.run(&["sync", "from", "into", "--go"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("left out: into/a"), "{}", ran.err);
}

#[test]
fn undoing_names_the_folder_and_asks_where_that_is_elsewhere() {
    let folder = Folder::with(&[("here/x", "1\n"), ("there/x", "1\n"), ("fix.patch", PATCH_OF_X)]);
    let run_in = |inner: &str, arguments: &[&str]| {
        let output = folder.command(arguments).current_dir(folder.path().join(inner)).output().unwrap();
        crate::support::Ran::of(&output)
    };
    assert_eq!(folder.run(&["apply", "fix.patch", "--into", "there"]).status, Some(0));
    let there = folder.path().join("there").canonicalize().unwrap();
    let elsewhere = run_in("here", &["undo"]);
    assert_eq!((elsewhere.status, elsewhere.out.as_str()), (Some(2), ""));
    assert!(
        elsewhere.err.contains(&format!("in {}: that is not below this folder", there.display())),
        "{}",
        elsewhere.err
    );
    assert!(elsewhere.err.ends_with("`tideline undo 1` undoes it\n"), "{}", elsewhere.err);
    assert_eq!(folder.read("there/x"), b"2\n");
    // Where its number is given, or it is here or below, nothing is asked.
    let named = run_in("here", &["undo", "1"]);
    assert_eq!((named.status, folder.read("there/x")), (Some(0), b"1\n".to_vec()), "{}", named.err);
    assert!(named.out.contains(&format!("in {}\n", there.display())), "{}", named.out);
    folder.run(&["apply", "fix.patch", "--into", "there"]);
    let above = run_in(".", &["undo"]);
    assert_eq!((above.status, folder.read("there/x")), (Some(0), b"1\n".to_vec()), "{}", above.err);
    assert!(above.out.contains(" in there\n"), "{}", above.out);
}

const PATCH_OF_X: &str = "--- a/x\n+++ b/x\n@@ -1 +1 @@\n-1\n+2\n";
