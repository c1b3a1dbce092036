//! Where a report goes, and what is refused.

use std::fs;
use std::path::Path;

use super::trees;

fn names(folder: &Path) -> Vec<String> {
    let mut names: Vec<String> =
        fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
    names.sort();
    names
}

#[test]
fn the_name_tells_the_format_or_an_option_does() {
    let folder = trees();
    for (output, options, begins) in [
        ("r.html", &[][..], "<!doctype html>"),
        ("r.md", &[], "# b → a"),
        ("r.json", &[], "{\"title\":\"b → a\""),
        ("r.txt", &["--format", "markdown"], "# b → a"),
        ("-", &["--format", "json"], "{\"title\":\"b → a\""),
        ("-", &["--format", "html"], "<!doctype html>"),
    ] {
        let ran = folder.run(&[&["report", "b", "a", "-o", output], options].concat());
        assert_eq!(ran.status, Some(1), "something differs: {}", ran.err);
        let text = if output == "-" { ran.out } else { String::from_utf8(folder.read(output)).unwrap() };
        assert!(text.starts_with(begins), "{output} begins with {:?}", text.get(..60));
    }
    for (arguments, reason) in [
        (&["b", "a", "-o", "r.txt"][..], "end it with .html, .md or .json"),
        (&["b", "a", "-o", "-"], "add --format html, markdown, json or png"),
        (&["b", "a", "-o", "-", "--format", "html", "--open"], "name a file with -o"),
        (&["b", "a", "-o", "f/", "--format", "json"], "a folder of pages is HTML"),
        (&["b", "a", "-o", "missing/r.html"], "cannot write missing/r.html"),
        (&["b/gauge.py", "a/gauge.py", "-o", "f/"], "two files make one page"),
        (&["b/gauge.py", "a/gauge.py", "deep", "-o", "r.md"], "paths can follow two folders only"),
        (&["b", "nowhere", "-o", "r.md"], "nowhere"),
    ] {
        let ran = folder.run(&[&["report"], arguments].concat());
        assert_eq!((ran.status, ran.out.as_str()), (Some(2), ""), "{arguments:?}");
        assert!(ran.err.contains(reason), "{arguments:?}: {}", ran.err);
    }
    assert!(!folder.path().join("f").exists());
}

#[test]
fn nothing_that_differs_is_a_report_too() {
    let folder = trees();
    let ran = folder.run(&["report", "b/same.txt", "a/same.txt", "-o", "r.md"]);
    assert_eq!(ran.status, Some(0));
    assert!(String::from_utf8(folder.read("r.md")).unwrap().contains("the same on both sides"));
    let ran = folder.run(&["report", "b", "b", "-o", "site/"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), "wrote site/ (index.html and 0 pages)\n"));
}

#[test]
fn an_earlier_report_is_replaced_and_comes_back_with_undo() {
    let folder = trees();
    let site = folder.path().join("site");
    fs::create_dir(&site).unwrap();
    assert_eq!(folder.run(&["report", "b", "a", "-o", "site"]).status, Some(1), "an empty folder will do");
    let pages = names(&site.join("pages"));
    assert_eq!(pages.len(), 6, "{pages:?}");
    let index = folder.read("site/index.html");
    folder.write("site/pages/notes.html", b"not one of ours");

    let ran = folder.run(&["report", "b", "a", "gauge.py", "-o", "site/"]);
    assert_eq!(ran.status, Some(1), "{}", ran.err);
    assert_eq!(names(&site.join("pages")), ["gauge.py-a5d62c221466.html", "notes.html"]);
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(folder.read("site/index.html"), index);
    assert_eq!(names(&site.join("pages")).len(), 7);

    let ran = folder.run(&["report", "b", "a", "-o", "a/"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("cannot write a/: the command reads it"), "{}", ran.err);
    folder.write("other/file", b"not ours");
    let ran = folder.run(&["report", "b", "a", "-o", "other/"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("it holds other files and no earlier report"), "{}", ran.err);

    let fresh = folder.run(&["report", "b", "a", "-o", "fresh/"]);
    assert_eq!(fresh.out, "wrote fresh/ (index.html and 6 pages)\n");
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert!(!folder.path().join("fresh").exists(), "a new report goes as a whole");
    assert!(names(&folder.path().join(".state/tideline")).iter().all(|name| !name.starts_with("staged-")));
}

#[test]
fn a_report_can_be_opened() {
    let folder = trees();
    folder.write("bin/xdg-open", b"#!/bin/sh\necho \"$1\" > opened\n");
    let opener = folder.path().join("bin/xdg-open");
    fs::set_permissions(&opener, std::os::unix::fs::PermissionsExt::from_mode(0o755)).unwrap();
    let mut command = folder.command(&["report", "b", "a", "-o", "site/", "--open"]);
    let path = format!("{}:{}", folder.path().join("bin").display(), std::env::var("PATH").unwrap());
    command.env("PATH", path).output().unwrap();
    let opened = folder.path().join("opened");
    // The opener is on its own.
    for _ in 0..500 {
        if fs::read_to_string(&opened).is_ok_and(|text| text.ends_with('\n')) {
            break;
        }
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
    assert_eq!(fs::read_to_string(&opened).unwrap(), "site/index.html\n");
}

#[test]
fn a_report_that_is_made_again_is_the_same() {
    let folder = trees();
    let make = || {
        let mut command = folder.command(&["report", "b", "a", "-o", "-", "--format", "html"]);
        command.env("SOURCE_DATE_EPOCH", "1900000000").output().unwrap().stdout
    };
    let page = make();
    assert_eq!(page, make());
    assert!(String::from_utf8(page).unwrap().contains("<dd>2030-03-17 17:46 UTC</dd>"));
    let ran = folder.command(&["report", "b", "a", "-o", "r.md"]).env("SOURCE_DATE_EPOCH", "soon").output().unwrap();
    assert_eq!(ran.status.code(), Some(2));
}

#[test]
fn what_cannot_be_read_is_told_and_the_rest_is_there() {
    let folder = trees();
    for side in ["b", "a"] {
        std::os::unix::fs::symlink("/proc/self/mem", folder.path().join(side).join("locked")).unwrap();
    }
    let ran = folder.run(&["report", "--links", "follow", "b", "a", "-o", "r.md"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("cannot read locked"), "{}", ran.err);
    let text = String::from_utf8(folder.read("r.md")).unwrap();
    assert!(text.contains("| **unreadable** | `locked` |"), "{text}");
    assert!(text.contains("## `gauge.py`"));
}
