//! `tideline patch`

use crate::support::Folder;

fn gauge() -> Folder {
    Folder::with(&[("old.toml", "interval = 60\nretry = 5\n"), ("new.toml", "interval = 30\nretry = 5\n")])
}

const HUNK: &str = "@@ -1,2 +1,2 @@\n-interval = 60\n+interval = 30\n retry = 5\n";

#[test]
fn headers_carry_names_and_times() {
    let folder = gauge();
    let mut command = folder.command(&["patch", "old.toml", "new.toml"]);
    let output = command.env("TZ", "UTC").output().unwrap();
    let text = String::from_utf8(output.stdout).unwrap();
    assert_eq!(output.status.code(), Some(1));
    let rows: Vec<_> = text.lines().collect();
    let (name, stamp) = rows[0].strip_prefix("--- ").unwrap().split_once('\t').unwrap();
    assert_eq!(name, "old.toml");
    let shape: String = stamp.chars().map(|c| if c.is_ascii_digit() { '0' } else { c }).collect();
    assert_eq!(shape, "0000-00-00 00:00:00.000000000 +0000");
    assert!(rows[1].starts_with("+++ new.toml\t"), "{text}");
    assert!(text.ends_with(HUNK), "{text}");
}

#[test]
fn labels_replace_names_and_times() {
    let ran = gauge().run(&["patch", "--labels", "a/gauge.toml,b/gauge.toml", "old.toml", "new.toml"]);
    assert_eq!(ran.out, format!("--- a/gauge.toml\n+++ b/gauge.toml\n{HUNK}"));
}

#[test]
fn a_patch_goes_to_a_file_and_what_it_replaces_can_be_put_back() {
    let folder = gauge();
    let arguments = ["patch", "--labels", "a,b", "-o", "fix.patch", "old.toml", "new.toml"];
    let ran = folder.run(&arguments);
    assert_eq!((ran.status, ran.out.as_str(), ran.err.as_str()), (Some(1), "", ""));
    let written = folder.read("fix.patch");
    assert_eq!(written, format!("--- a\n+++ b\n{HUNK}").into_bytes());
    folder.write("fix.patch", b"mine\n");
    assert_eq!(folder.run(&arguments).status, Some(1));
    assert_eq!(folder.read("fix.patch"), written);
    let names = std::fs::read_dir(folder.path()).unwrap().count();
    assert_eq!(names, 4, "no temporary file is left, only the journal of this test");
    folder.run(&["undo"]);
    assert_eq!(folder.read("fix.patch"), b"mine\n");
    let nowhere = folder.run(&["patch", "-o", "none/fix.patch", "old.toml", "new.toml"]);
    assert!(nowhere.err.contains("cannot write none/fix.patch"), "{}", nowhere.err);
}

#[test]
fn equal_files_make_an_empty_patch() {
    let ran = gauge().run(&["patch", "old.toml", "old.toml"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), ""));
}

#[test]
fn the_bytes_of_any_encoding_are_kept() {
    let folder = Folder::new();
    folder.write("old", b"h\xf6he\nlow\r\n");
    folder.write("new", b"h\xf6he\nhigh\r\n\xff");
    let output = folder.command(&["patch", "--labels", "a,b", "old", "new"]).output().unwrap();
    let expected = b"--- a\n+++ b\n@@ -1,2 +1,3 @@\n h\xf6he\n-low\r\n+high\r\n+\xff\n\\ No newline at end of file\n";
    assert_eq!(output.stdout, expected);
}

#[test]
fn context_is_as_wide_as_asked() {
    let ran = gauge().run(&["patch", "--context", "0", "--labels", "a,b", "old.toml", "new.toml"]);
    assert_eq!(ran.out, "--- a\n+++ b\n@@ -1 +1 @@\n-interval = 60\n+interval = 30\n");
}
