//! `apply`: what patches say beyond their hunks, what they come wrapped in, and the names in them.

use std::fs;
use std::io::Write;
use std::os::unix::fs::{PermissionsExt, symlink};

use flate2::Compression;
use flate2::write::GzEncoder;

use crate::support::Folder;

const ONE: &str = "--- a/x\n+++ b/x\n@@ -1,3 +1,3 @@\n one\n-two\n+2\n three\n";
const TEXT: &str = "one\ntwo\nthree\n";
const AFTER: &str = "one\n2\nthree\n";

fn text(folder: &Folder, name: &str) -> String {
    String::from_utf8(folder.read(name)).unwrap()
}

/// What a patch makes of some files: the exit status, and what a file holds then; nothing if it is not there.
fn made(files: &[(&str, &str)], patch: &str, name: &str) -> (Option<i32>, Option<String>) {
    let folder = Folder::with(&[&[("p.patch", patch)], files].concat());
    let ran = folder.run(&["apply", "p.patch"]);
    let path = folder.path().join(name);
    let there = fs::read_to_string(path).ok();
    (ran.status, there)
}

#[test]
fn a_patch_may_be_compressed_in_utf_16_or_in_a_mail() {
    let mut packed = GzEncoder::new(Vec::new(), Compression::default());
    packed.write_all(ONE.as_bytes()).unwrap();
    let packed = packed.finish().unwrap();
    let utf_16: Vec<u8> = [0xfeff].into_iter().chain(ONE.encode_utf16()).flat_map(u16::to_le_bytes).collect();
    let marked = [b"\xef\xbb\xbf", ONE.as_bytes()].concat();
    let mail = format!(
        "From: somebody\nContent-Transfer-Encoding: quoted-printable\n\nHere it is=2E\n\n{}",
        ONE.replace("+2", "+=32").replace(" three", " th=\nree")
    );
    let crlf = ONE.replace('\n', "\r\n");
    for wrapped in [&packed[..], &utf_16, &marked, mail.as_bytes(), crlf.as_bytes()] {
        let folder = Folder::with(&[("x", TEXT)]);
        folder.write("p.patch", wrapped);
        let ran = folder.run(&["apply", "p.patch"]);
        assert_eq!((ran.status, text(&folder, "x").as_str()), (Some(0), AFTER), "{}{}", ran.out, ran.err);
    }
    let cut = Folder::with(&[("x", TEXT)]);
    cut.write("p.patch", &packed[..packed.len() - 9]);
    let ran = cut.run(&["apply", "p.patch"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("it is compressed with gzip, and damaged or cut off"), "{}", ran.err);
    // Nothing at all is nothing to do.
    cut.write("p.patch", b"");
    let ran = cut.run(&["apply", "p.patch"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), "applying p.patch\nthe patch is empty: nothing to do\n"));
}

#[test]
fn a_patch_that_is_cut_off_is_refused_whole() {
    let two = format!("{ONE}--- a/y\n+++ b/y\n@@ -1,2 +1,3 @@ section\n a\n+new line\n b\n");
    let folder = Folder::with(&[("x", TEXT), ("y", "a\nb\n")]);
    // Wherever it is cut behind the head of its last hunk, nothing of it goes in.
    let head = two.find("section").unwrap();
    for length in head..two.len() - 3 {
        folder.write("p.patch", &two.as_bytes()[..length]);
        let ran = folder.run(&["apply", "--keep-going", "p.patch"]);
        assert_eq!(ran.status, Some(2), "{length}: {}{}", ran.out, ran.err);
        assert_eq!((text(&folder, "x").as_str(), text(&folder, "y").as_str()), (TEXT, "a\nb\n"));
    }
    folder.write("p.patch", two.as_bytes());
    assert_eq!(folder.run(&["apply", "p.patch"]).status, Some(0));
}

#[test]
fn names_are_found_as_they_come() {
    let hunk = "@@ -1,3 +1,3 @@\n one\n-two\n+2\n three\n";
    let with = |names: &str| format!("{names}\n{hunk}");
    for (names, file) in [
        ("--- old/x 2031-04-05 06:07:08\n+++ new/x 2031-04-06 06:07:08", "x"),
        ("--- old/x Sat Apr  5 06:07:08 2031\n+++ new/x Sun Apr  6 06:07:08 2031", "x"),
        ("--- /kits/somebody/deep/x\n+++ /kits/somebody/deep/x", "deep/x"),
        ("--- /elsewhere/../x\n+++ x", "x"),
        ("--- a/x \t\n+++ b/x \t", "x "),
        ("--- \"a/ta\\tb\\\"\\n\"\n+++ \"b/ta\\tb\\\"\\n\"", "ta\tb\"\n"),
    ] {
        let made = made(&[(file, TEXT)], &with(names), file);
        assert_eq!(made, (Some(0), Some(AFTER.to_owned())), "{names}");
    }
    // A patch of new files only goes where its folders are, not beside them.
    let new = "--- /dev/null\n+++ b/src/new\n@@ -0,0 +1 @@\n+hello\n";
    assert_eq!(made(&[("src/old", "")], new, "src/new"), (Some(0), Some("hello\n".to_owned())));
    // Of two names, the one that the hunks fit is taken, and the other one named.
    let folder = Folder::with(&[("x", TEXT), ("x.new", "other\n"), ("p.patch", &with("--- x\n+++ x.new"))]);
    let ran = folder.run(&["apply", "p.patch"]);
    assert!(ran.out.contains("  ◐ x    1 hunk, at its line (x.new was left alone)\n"), "{}", ran.out);
}

#[test]
fn what_is_not_there_yet_is_made_and_what_ends_empty_stays_unless_the_patch_says_otherwise() {
    let makes = "--- a/x\n+++ b/x\n@@ -0,0 +1,2 @@\n+one\n+two\n";
    assert_eq!(made(&[("y", "")], makes, "x"), (Some(0), Some("one\ntwo\n".to_owned())));
    let onto = |text: &str| made(&[("x", text)], makes, "x");
    assert_eq!(onto(""), (Some(0), Some("one\ntwo\n".to_owned())));
    assert_eq!(onto("one\ntwo\n"), (Some(0), Some("one\ntwo\n".to_owned())), "it is in already");
    assert_eq!(onto("one\ntwo\nmore\n"), (Some(0), Some("one\ntwo\nmore\n".to_owned())), "it is in already");
    assert_eq!(onto("other\n"), (Some(0), Some("one\ntwo\nother\n".to_owned())));
    let folder = Folder::with(&[("x", "other\n"), ("p.patch", makes)]);
    assert!(
        folder.run(&["apply", "p.patch"]).out.contains("it expects an empty file, and goes in front of what is there")
    );

    let empties =
        |stamp: &str| format!("--- a/x\t2031-04-05 06:07:08 +0000\n+++ b/x{stamp}\n@@ -1,2 +0,0 @@\n-one\n-two\n");
    let left = |stamp: &str| made(&[("x", "one\ntwo\n")], &empties(stamp), "x");
    assert_eq!(left("\t2031-04-05 06:07:08 +0000"), (Some(0), Some(String::new())));
    assert_eq!(left("\t1970-01-01 00:00:00.000000000 +0000"), (Some(0), None));
    assert_eq!(left("\t1970-01-01 02:00:00.000000000 +0200"), (Some(0), None));
    let folder = Folder::with(&[("x", "one\ntwo\n"), ("p.patch", &empties(""))]);
    assert!(folder.run(&["apply", "p.patch"]).out.contains("emptied; nothing in the patch says that the file goes"));
}

#[test]
fn parts_about_one_file_follow_each_other_and_files_change_places() {
    let again = format!("{ONE}--- a/x\n+++ b/x\n@@ -1,3 +1,3 @@\n one\n-2\n+II\n three\n");
    let folder = Folder::with(&[("x", TEXT), ("p.patch", &again)]);
    let ran = folder.run(&["apply", "p.patch"]);
    assert_eq!((ran.status, text(&folder, "x").as_str()), (Some(0), "one\nII\nthree\n"), "{}", ran.out);
    assert!(ran.out.ends_with("files: 1 changed (run 1; `tideline undo` puts it back)\n"), "{}", ran.out);
    assert_eq!(folder.run(&["apply", "--reverse", "p.patch"]).status, Some(0), "the last part comes out first");
    assert_eq!(text(&folder, "x"), TEXT);

    let moved = |from: &str, to: &str| {
        format!("diff --git a/{from} b/{to}\nsimilarity index 100%\nrename from {from}\nrename to {to}\n")
    };
    let swap = moved("x", "y") + &moved("y", "x");
    let folder = Folder::with(&[("x", "X\n"), ("y", "Y\n"), ("p.patch", &swap)]);
    assert_eq!(folder.run(&["apply", "p.patch"]).status, Some(0));
    assert_eq!((text(&folder, "x"), text(&folder, "y")), ("Y\n".to_owned(), "X\n".to_owned()));
    folder.run(&["undo"]);
    let chain = moved("x", "y") + &moved("y", "z");
    folder.write("p.patch", chain.as_bytes());
    assert_eq!(folder.run(&["apply", "p.patch"]).status, Some(0));
    assert_eq!((text(&folder, "y"), text(&folder, "z")), ("X\n".to_owned(), "Y\n".to_owned()));
    let copy =
        "diff --git a/y b/c\nsimilarity index 90%\ncopy from y\ncopy to c\n--- a/y\n+++ b/c\n@@ -1 +1 @@\n-X\n+C\n";
    folder.write("p.patch", copy.as_bytes());
    assert!(folder.run(&["apply", "p.patch"]).out.contains("  ● c    copied from y, 1 hunk\n"));
    assert_eq!((text(&folder, "y"), text(&folder, "c")), ("X\n".to_owned(), "C\n".to_owned()));
    assert_eq!(folder.run(&["apply", "--reverse", "p.patch"]).status, Some(0));
    assert!(!folder.path().join("c").exists());
}

#[test]
fn a_move_with_a_misfit_moves_and_leaves_only_the_misfit_over() {
    let lines: String = (1..41).map(|n| if n == 35 { "other\n".to_owned() } else { format!("{n}\n") }).collect();
    let patch = "diff --git a/old b/new\nsimilarity index 90%\nrename from old\nrename to new\n--- a/old\n+++ b/new\n\
        @@ -2,5 +2,5 @@\n 2\n 3\n-4\n+FOUR\n 5\n 6\n@@ -33,5 +33,5 @@\n 33\n 34\n-35\n+THIRTYFIVE\n 36\n 37\n";
    let folder = Folder::with(&[("old", &lines), ("p.patch", patch)]);
    let ran = folder.run(&["apply", "--keep-going", "p.patch"]);
    assert_eq!(ran.status, Some(1));
    assert!(ran.out.contains("  ! new    moved from old, 1 of 2 hunks does not fit\n"), "{}", ran.out);
    assert!(!folder.path().join("old").exists());
    assert_eq!(text(&folder, "new"), lines.replace("\n4\n", "\nFOUR\n"));
    let leftover = text(&folder, "p.leftover.patch");
    assert_eq!(leftover, "--- b/new\n+++ b/new\n@@ -33,5 +33,5 @@\n 33\n 34\n-35\n+THIRTYFIVE\n 36\n 37\n");
    folder.write("new", text(&folder, "new").replace("other", "35").as_bytes());
    assert_eq!(folder.run(&["apply", "p.leftover.patch"]).status, Some(0));
}

#[test]
fn modes_are_changed_and_what_is_private_stays_private() {
    let patch = "diff --git a/x b/x\nold mode 100644\nnew mode 100755\n--- a/x\n+++ b/x\n@@ -1,3 +1,3 @@\n one\n-two\n+2\n three\n";
    let folder = Folder::with(&[("x", TEXT), ("p.patch", patch)]);
    let mode = || fs::metadata(folder.path().join("x")).unwrap().permissions().mode() & 0o777;
    fs::set_permissions(folder.path().join("x"), fs::Permissions::from_mode(0o600)).unwrap();
    assert_eq!(folder.run(&["apply", "--backup", ".was", "p.patch"]).status, Some(0));
    assert_eq!((text(&folder, "x").as_str(), mode()), (AFTER, 0o700));
    assert_eq!(fs::metadata(folder.path().join("x.was")).unwrap().permissions().mode() & 0o777, 0o600);
    let again = folder.run(&["apply", "p.patch"]);
    assert!(again.out.ends_with("already applied: nothing to do\n"), "{}", again.out);
    let refused = folder.run(&["apply", "--reverse", "--backup", ".was", "p.patch"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("such a file is there already"), "{}", refused.err);
    assert_eq!(folder.run(&["apply", "--reverse", "p.patch"]).status, Some(0));
    assert_eq!((text(&folder, "x").as_str(), mode()), (TEXT, 0o600));
}

#[test]
fn the_extended_format_carries_everything_there_and_back() {
    let folder = Folder::with(&[
        ("a/text", TEXT),
        ("a/bytes", "a\0b"),
        ("a/kind", "a file\n"),
        ("a/moves", "some lines\nthat move\n"),
        ("b/text", AFTER),
        ("b/bytes", "a\0c"),
        ("b/kind/in", "a folder\n"),
        ("b/gone to", "some lines\nthat move\n"),
        ("b/empty", ""),
        ("b/odd\t\"name\n ", "x\n"),
    ]);
    let at = |name: &str| folder.path().join(name);
    symlink("text", at("a/link")).unwrap();
    symlink("bytes", at("b/link")).unwrap();
    fs::set_permissions(at("b/text"), fs::Permissions::from_mode(0o755)).unwrap();
    let made = folder.run(&["patch", "--format", "extended", "a", "b", "-o", "p.patch"]);
    assert_eq!((made.status, made.err.as_str()), (Some(1), ""));
    let patch = text(&folder, "p.patch");
    for header in [
        "old mode 100644\nnew mode 100755",
        "rename from moves\nrename to gone to",
        "old mode 120000\nnew mode 120000",
        "GIT binary patch\nliteral 3\n",
    ] {
        assert!(patch.contains(header), "{patch}");
    }
    let same = |side: &str| {
        let compared = folder.run(&["compare", side, "a", "--also-compare", "mode", "--quiet"]);
        assert_eq!(compared.status, Some(0), "{}", folder.run(&["compare", side, "a", "--also-compare", "mode"]).out);
    };
    folder.run(&["sync", "a", "was", "--go"]);
    for (options, side) in [
        (&["apply", "--into", "a", "p.patch"][..], "b"),
        (&["apply", "--reverse", "--into", "a", "p.patch"], "was"),
        (&["undo"], "b"),
    ] {
        let ran = folder.run(options);
        assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
        same(side);
    }
    let again = folder.run(&["apply", "--into", "a", "p.patch"]);
    assert!(again.out.ends_with("already applied: nothing to do\n"), "{}{}", again.out, again.err);
}

#[test]
fn the_extended_format_carries_one_file_too() {
    let folder = Folder::with(&[
        ("old/x", TEXT),
        ("new/x", AFTER),
        ("old/picture", "a\0b"),
        ("new/picture", "a\0c"),
        ("x", TEXT),
    ]);
    let at = |name: &str| folder.path().join(name);
    fs::set_permissions(at("new/x"), fs::Permissions::from_mode(0o755)).unwrap();
    folder.write("picture", b"a\0b");
    for name in ["x", "picture"] {
        let patch = format!("{name}.patch");
        let (old, new) = (format!("old/{name}"), format!("new/{name}"));
        let made = folder.run(&["patch", "--format", "extended", &old, &new, "-o", &patch]);
        assert_eq!((made.status, made.err.as_str()), (Some(1), ""));
        let applied = folder.run(&["apply", &patch]);
        assert_eq!(applied.status, Some(0), "{}{}", applied.out, applied.err);
        assert_eq!(folder.read(name), folder.read(&new));
    }
    assert!(text(&folder, "x.patch").contains("old mode 100644\nnew mode 100755\n--- a/x\n+++ b/x\n"));
    assert_eq!(fs::metadata(at("x")).unwrap().permissions().mode() & 0o777, 0o755);
    // The same file is nothing to carry; no file at all is one that comes or goes.
    let same = folder.run(&["patch", "--format", "extended", "new/x", "x"]);
    assert_eq!((same.status, same.out.as_str()), (Some(0), ""));
    let made = folder.run(&["patch", "--format", "extended", "/dev/null", "old/x"]);
    assert!(made.out.contains("new file mode 100644\n--- /dev/null\n+++ b/x\n"), "{}", made.out);
    let made = folder.run(&["patch", "--format", "extended", "--labels", "p/q,r/s", "old/x", "/dev/null"]);
    assert!(made.out.contains("deleted file mode 100644\n--- p/q\n+++ /dev/null\n"), "{}", made.out);
}

#[test]
fn owner_permissions_and_lists_of_a_file_stay_with_it() {
    use rustix::fs::{XattrFlags, lgetxattr, lsetxattr};
    let folder = Folder::with(&[("x", TEXT), ("m", "some lines\nthat move\n")]);
    let at = |name: &str| folder.path().join(name);
    let is_noted = lsetxattr(at("x"), "user.note", b"kept", XattrFlags::empty()).is_ok();
    // Version 2; then owner, user 65534, group, mask, others: tag, permissions, number.
    let mut list = vec![2, 0, 0, 0];
    for (tag, permissions, number) in
        [(1_u16, 6_u16, u32::MAX), (2, 4, 65534), (4, 0, u32::MAX), (16, 4, u32::MAX), (32, 0, u32::MAX)]
    {
        list.extend(tag.to_le_bytes());
        list.extend(permissions.to_le_bytes());
        list.extend(number.to_le_bytes());
    }
    let is_listed = lsetxattr(at("m"), "system.posix_acl_access", &list, XattrFlags::empty()).is_ok();
    fs::set_permissions(at("x"), fs::Permissions::from_mode(0o600)).unwrap();
    let is_root = rustix::process::geteuid().is_root();
    if is_root {
        for name in ["x", "m"] {
            std::os::unix::fs::chown(at(name), Some(7), Some(8)).unwrap();
        }
    }
    let rename = "diff --git a/m b/to/m\nsimilarity index 60%\nrename from m\nrename to to/m\n--- a/m\n+++ b/to/m\n\
                  @@ -1,2 +1,2 @@\n some lines\n-that move\n+that moved\n";
    folder.write("p.patch", format!("{ONE}{rename}").as_bytes());
    let ran = folder.run(&["apply", "--backup", ".was", "p.patch"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    let metadata = |name: &str| fs::metadata(at(name)).unwrap();
    assert_eq!((text(&folder, "x").as_str(), metadata("x").permissions().mode() & 0o777), (AFTER, 0o600));
    assert_eq!(text(&folder, "to/m"), "some lines\nthat moved\n");
    assert_eq!((text(&folder, "x.was").as_str(), metadata("x.was").permissions().mode() & 0o777), (TEXT, 0o600));
    if is_root {
        use std::os::unix::fs::MetadataExt;
        for name in ["x", "to/m"] {
            assert_eq!((metadata(name).uid(), metadata(name).gid()), (7, 8), "{name}");
        }
    }
    let mut value = vec![0; 256];
    if is_noted {
        let length = lgetxattr(at("x"), "user.note", &mut value).unwrap();
        assert_eq!(&value[..length], b"kept");
    }
    if is_listed {
        let length = lgetxattr(at("to/m"), "system.posix_acl_access", &mut value).unwrap();
        assert_eq!(value[..length], list);
    }
}

#[test]
fn patches_of_one_name_leave_two_leftovers() {
    let other = ONE.replace("-two", "-zwei");
    let folder = Folder::with(&[("x", "one\ntwelve\nthree\n"), ("p/x.patch", ONE), ("q/x.patch", &other)]);
    let ran = folder.run(&["apply", "--keep-going", "p/x.patch", "q/x.patch"]);
    assert_eq!(ran.status, Some(1), "{}{}", ran.out, ran.err);
    assert!(text(&folder, "x.leftover.patch").contains("-two\n"));
    assert!(text(&folder, "x.leftover-2.patch").contains("-zwei\n"));
    for name in ["x.leftover.patch", "x.leftover-2.patch"] {
        assert!(ran.out.contains(name), "{}", ran.out);
    }
}

#[test]
fn a_file_named_before_its_patch_gets_a_hint() {
    let folder = Folder::with(&[("x", TEXT), ("p.patch", ONE)]);
    let ran = folder.run(&["apply", "x", "p.patch"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("if x is the file that the patch is for, name it with --into"), "{}", ran.err);
    assert_eq!(text(&folder, "x"), TEXT);
    assert_eq!(folder.run(&["apply", "--into", "x", "p.patch"]).status, Some(0));
}

#[test]
fn json_names_the_patch_the_folders_dropped_and_each_place() {
    let text = "1\n2\n3\nfour\n5\nsix\n7\n8\n9\n";
    let patch = "--- a/b/x\n+++ a/b/x\n@@ -2,7 +2,7 @@\n 2\n 3\n-four\n+FOUR\n 5\n-six\n+SIX\n 7\n 8\n";
    let folder = Folder::with(&[("x", &text.replace("5\n", "5\nnew\n")), ("p.patch", patch)]);
    let ran = folder.run(&["apply", "--json", "p.patch"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    let records: Vec<serde_json::Value> = ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let part = records.iter().find(|record| record["path"] == "x").unwrap();
    assert_eq!((&part["patch"], &part["dropped_folders"]), (&"p.patch".into(), &2.into()));
    let places = part["hunks"][0]["places"].as_array().unwrap();
    let lines: Vec<_> = places.iter().map(|place| (place["line"].clone(), place["offset"].clone())).collect();
    assert_eq!(lines, [(2.into(), 0.into()), (7.into(), 1.into())], "{}", ran.out);
}
