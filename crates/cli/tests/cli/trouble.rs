//! What cannot be done is said clearly, with exit status 2 and nothing on standard output.

use crate::support::Folder;

fn refused(folder: &Folder, arguments: &[&str], says: &[&str]) {
    let ran = folder.run(arguments);
    assert_eq!((ran.status, ran.out.as_str()), (Some(2), ""), "{arguments:?}: {}", ran.err);
    for words in says {
        assert!(ran.err.contains(words), "{arguments:?} should say {words:?}:\n{}", ran.err);
    }
}

#[test]
fn sides_that_cannot_be_compared() {
    let folder = Folder::with(&[("a", "1\n"), ("tree/a", "2\n")]);
    refused(&folder, &["-", "-"], &["standard input with itself"]);
    refused(&folder, &["tree", "missing"], &["missing", "there is no such file or folder"]);
    refused(&folder, &["a", "missing"], &["missing", "there is no such file", "check the spelling"]);
    refused(&folder, &["a", "tree"], &["tree is a folder", "did you mean tree/a?"]);
    refused(&folder, &["tree", "-"], &["tree is a folder", "standard input"]);
    refused(&folder, &["patch", "a", "missing"], &["there is no such file"]);
}

#[cfg(unix)]
#[test]
fn an_unreadable_file() {
    use std::os::unix::fs::PermissionsExt;
    let folder = Folder::with(&[("a", "1\n"), ("b", "2\n")]);
    let path = folder.path().join("b");
    std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o000)).unwrap();
    if std::fs::read(&path).is_ok() {
        eprintln!("skipped: this user may read everything");
        return;
    }
    refused(&folder, &["a", "b"], &["cannot read b", "permission"]);
}

#[test]
fn options_that_make_no_sense() {
    let folder = Folder::with(&[("a", "1\n"), ("b", "2\n")]);
    refused(&folder, &["--context", "some", "a", "b"], &["--context", "a number of lines, or `all`"]);
    refused(&folder, &["--grain", "syllable", "a", "b"], &["--grain syllable", "`letter`"]);
    refused(&folder, &["--grain", "/[/", "a", "b"], &["--grain /[/", "unclosed"]);
    refused(&folder, &["patch", "--labels", "one", "a", "b"], &["one comma"]);
    refused(&folder, &["a"], &["AFTER"]);
    refused(&folder, &["--contxt", "1", "a", "b"], &["--context"]);
}

#[test]
fn without_arguments_the_help_is_shown() {
    refused(&Folder::new(), &[], &["Usage: tideline", "compare", "patch", "demo"]);
}
