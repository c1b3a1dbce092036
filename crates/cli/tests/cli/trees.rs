//! `tideline BEFORE AFTER` on two folders.

use std::fs;

use serde_json::Value;

use crate::support::Folder;

fn prose(seed: usize) -> String {
    (0..30).map(|n| format!("line {n} of the text on {}\n", n * seed)).collect()
}

/// Two trees in which each status occurs.
fn kit() -> Folder {
    let folder = Folder::with(&[
        ("spring/same.txt", "same\n"),
        ("autumn/same.txt", "same\n"),
        ("spring/stations/mouth.toml", "[sensor]\ninterval = 60\noffset = 1\n"),
        ("autumn/stations/mouth.toml", "[sensor]\ninterval = 30\noffset = 1\n"),
        ("spring/stations/pool.toml", "gone\n"),
        ("autumn/stations/point.toml", "new\nnew\n"),
        ("spring/scripts/check.py", &prose(7)),
        ("autumn/tools/check.py", &prose(7).replace("line 5 of", "line V of")),
        ("spring/contacts", "file\n"),
        ("autumn/contacts/office", "12\n"),
        ("spring/archive/a", "1\n"),
        ("spring/archive/deep/b", "2\n"),
    ]);
    folder.write("spring/chart.png", b"\0\x01");
    folder.write("autumn/chart.png", b"\0\x02\x03");
    fs::create_dir(folder.path().join("autumn/outbox")).unwrap();
    for (season, days) in [("spring", 1), ("autumn", 2)] {
        let mut folders = vec![folder.path().join(season)];
        while let Some(inner) = folders.pop() {
            for path in fs::read_dir(inner).unwrap().map(|entry| entry.unwrap().path()) {
                if path.is_dir() {
                    folders.push(path);
                } else {
                    let time = std::time::SystemTime::UNIX_EPOCH + std::time::Duration::from_secs(days * 86_400);
                    fs::File::options().append(true).open(path).unwrap().set_modified(time).unwrap();
                }
            }
        }
    }
    folder
}

#[test]
fn the_tree_shows_what_differs_folder_by_folder() {
    let ran = kit().run(&["spring", "autumn"]);
    let expected = "\
spring ○  autumn ●    10 files: 1 same, 2 changed, 2 new, 3 gone, 1 moved, 1 retyped, 2 folders new,
    3 folders gone
  all that differs is newer in autumn

    ○ archive/      gone, folder with 2 files
    ◐ chart.png     1 change, 1 ○ 2 ● bytes
    ◇ contacts      was a file, now a folder
    ● outbox/       new, empty folder
    ○ scripts/      gone, folder, 1 file moved
    ● tools/        new, folder, 1 file moved
  contacts/
    ● office        new, 1 line
  stations/
    ◐ mouth.toml    1 change, 1 ○ 1 ●
    ● point.toml    new, 2 lines
    ○ pool.toml     gone, 1 line
  tools/
    ↷ check.py      from scripts/check.py, 1 change, 1 ○ 1 ●

  ○ gone: spring alone has it   ● new: autumn alone has it   ◐ changed   ↷ moved   ◇ of another type
";
    assert_eq!((ran.status, ran.out.as_str(), ran.err.as_str()), (Some(1), expected, ""));
    let plain = kit().run(&["--plain", "spring", "autumn"]).out;
    assert!(plain.is_ascii() && plain.contains("    # contacts ") && plain.contains("    & check.py"), "{plain}");
}

#[test]
fn equal_trees_are_the_same() {
    let folder = kit();
    let ran = folder.run(&["spring", "spring"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(0), "spring ○  spring ●    8 files: 8 same\n"));
    assert_eq!(folder.run(&["--quiet", "spring", "spring"]).status, Some(0));
    let ran = folder.run(&["--quiet", "spring", "autumn"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(1), ""));
}

#[test]
fn only_shows_some_and_says_what_it_hides() {
    let folder = kit();
    let ran = folder.run(&["--only", "new,gone", "spring", "autumn"]);
    assert!(ran.out.contains("not shown: 2 changed, 1 moved, 1 retyped (--only new,gone)"), "{}", ran.out);
    assert!(!ran.out.contains("mouth.toml"), "{}", ran.out);
    let ran = folder.run(&["--only", "changed", "spring", "autumn"]);
    assert!(ran.out.contains("check.py"), "what moved and changed is changed too: {}", ran.out);
    let ran = folder.run(&["--only", "same", "spring", "autumn"]);
    assert!(ran.out.contains("      same.txt    same\n"), "{}", ran.out);
    let ran = folder.run(&["--only", "lost", "spring", "autumn"]);
    assert!(ran.status == Some(2) && ran.err.contains("a status is one of same, muted, changed"), "{}", ran.err);
}

#[test]
fn flat_prints_paths_alone() {
    let folder = kit();
    let ran = folder.run(&["--flat", "--only", "changed,new", "spring", "autumn"]);
    let expected = "chart.png\ncontacts/office\noutbox\nstations/mouth.toml\nstations/point.toml\ntools\n";
    assert_eq!(ran.out, expected);
    let ran = folder.run(&["-0", "--only", "changed,new", "spring", "autumn"]);
    assert_eq!(ran.out, expected.replace('\n', "\0"));
}

#[test]
fn sections_stand_in_place_of_lines() {
    let folder = Folder::with(&[
        ("one/gauge.py", "def read(gauge):\n    return 1\n\ndef old():\n    return 0\n"),
        (
            "two/gauge.py",
            "def read(gauge, datum):\n    return datum\n\ndef new():\n    return 2\n\ndef more():\n    return 3\n",
        ),
        ("one/notes.txt", "no sections\n"),
        ("two/notes.txt", "none at all\n"),
    ]);
    let ran = folder.run(&["--sections", "one", "two"]);
    let lines: Vec<&str> = ran.out.lines().map(str::trim_end).collect();
    assert_eq!(ran.status, Some(1));
    assert!(lines[0].starts_with("gauge.py    one ○  two ●"), "{}", ran.out);
    assert_eq!(
        lines[1..],
        [
            "  ◐ def read(gauge, datum)    1 change    lines 1–3",
            "  ● def new()                 new         lines 4–6",
            "  ● def more()                new         lines 7–8",
            "  ○ def old()                 gone        lines 4–5",
            "",
            "sections: 1 edited, 2 new, 1 gone (in 1 file)",
            "1 more file differs, in no section"
        ]
    );
    let ran = folder.run(&["--sections", "--json", "one/gauge.py", "two/gauge.py"]);
    let records: Vec<Value> = ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let sections: Vec<&Value> = records.iter().filter(|record| record["record"] == "section").collect();
    assert_eq!(sections.len(), 4);
    assert_eq!(sections[0]["section"], serde_json::json!(["def read(gauge, datum)"]));
    assert_eq!((&sections[0]["form"], &sections[0]["changes"]), (&"edited".into(), &1.into()));
    assert_eq!(sections[3]["before"], serde_json::json!([4, 5]));
    assert!(records.iter().all(|record| record["record"] != "change"));
}

#[test]
fn edits_that_repeat_are_listed_with_the_option_that_leaves_them_out() {
    let folder = Folder::new();
    for at in 0..3 {
        folder.write(
            &format!("one/{at}"),
            format!("kit edition 7\nread the gauge\nby the quay, the gauge of {at}\n(beside; the locks)\n").as_bytes(),
        );
        folder.write(
            &format!("two/{at}"),
            format!("kit edition 8\nread the sensor\nby the quay, the sensor of 1{at}\n(beside, the  locks)\n")
                .as_bytes(),
        );
    }
    let ran = folder.run(&["--repeats", "one", "two"]);
    let lines: Vec<&str> = ran.out.lines().collect();
    assert_eq!(ran.status, Some(1));
    assert!(lines[0].starts_with("  6 times in 3 files    gauge → sensor "), "{}", ran.out);
    assert!(lines[0].ends_with("    --ignore 'renamed:gauge=sensor'"), "{}", ran.out);
    assert!(lines[2].contains("3 times in 3 files    edition 7 → edition 8 "), "{}", ran.out);
    assert_eq!(lines.len(), 4, "an edit of punctuation or blanks is no rename: {}", ran.out);
    let rules = ["--ignore", "renamed:gauge=sensor", "--mute", "renamed:edition 7=edition 8"];
    let left = folder.run(&[&rules[..], &["--json", "one", "two"]].concat());
    assert!(left.out.contains(r#""changes":3,"muted_changes":3"#), "{}", left.out);
    let json = folder.run(&["--repeats", "--json", "one/0", "two/0"]);
    let repeats: Vec<Value> = json.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let repeats: Vec<&Value> = repeats.iter().filter(|record| record["record"] == "repeat").collect();
    assert_eq!(repeats.len(), 1);
    assert_eq!((&repeats[0]["before"], &repeats[0]["times"]), (&"gauge".into(), &2.into()));
    let nothing = folder.run(&["--repeats", "--no-legend", "one/0", "one/1"]);
    assert_eq!(nothing.out, "no edit occurs more than once\n");
}

#[test]
fn an_edit_that_half_of_all_changed_lines_have_in_common_is_told_once() {
    let folder = Folder::new();
    for at in 0..3 {
        folder.write(&format!("one/{at}"), b"the gauge of the gauge\nwind 1\nread gauge\n");
        folder.write(&format!("two/{at}"), b"the sensor of the sensor\nwind 10\nread sensor\n");
    }
    let says = "the only edit in 6 of 9 changed lines: gauge → sensor    --ignore 'renamed:gauge=sensor'";
    let ran = folder.run(&["one", "two"]);
    assert!(ran.out.lines().any(|line| line.trim() == says), "{}", ran.out);
    assert!(folder.run(&["report", "one", "two", "-o", "-", "--format", "markdown"]).out.contains("gauge → sensor"));
    let json = folder.run(&["--json", "one", "two"]);
    let summary: Value = serde_json::from_str(json.out.lines().last().unwrap()).unwrap();
    assert_eq!((&summary["common_edit"]["lines"], &summary["common_edit"]["of"]), (&6.into(), &9.into()));
    folder.write("two/2", b"another\nwind 4\nstory\nin\nmore\nlines\n");
    assert!(!folder.run(&["one", "two"]).out.contains("the only edit"), "it is in 4 of 12 lines");
}

#[test]
fn a_patch_under_a_rename_keeps_the_old_name() {
    let folder =
        Folder::with(&[("one", "the gauge reads 1\nthe gauge\n"), ("two", "the sensor reads 2\nthe sensor\n")]);
    let ran = folder.run(&["patch", "--ignore", "renamed:gauge=sensor", "one", "two"]);
    assert!(ran.out.ends_with("-the gauge reads 1\n+the gauge reads 2\n the gauge\n"), "{}", ran.out);
}

#[test]
fn however_many_files_are_worked_on_at_once_the_result_is_the_same() {
    let folder = kit();
    let ran = folder.run(&["--json", "spring", "autumn"]);
    for jobs in ["1", "2", "7"] {
        assert_eq!(folder.run(&["--json", "--jobs", jobs, "spring", "autumn"]).out, ran.out, "{jobs}");
    }
    assert_eq!(folder.run(&["--jobs", "0", "spring", "autumn"]).status, Some(2));
}

#[test]
fn flat_of_two_files_is_the_name_of_one_that_differs() {
    let folder = Folder::with(&[("one", "1\n"), ("two", "2\n")]);
    let ran = folder.run(&["--flat", "one", "two"]);
    assert_eq!((ran.status, ran.out.as_str()), (Some(1), "two\n"));
}

#[test]
fn going_down_into_files() {
    let folder = kit();
    let ran = folder.run(&["spring", "autumn", "stations/mouth.toml"]);
    assert!(ran.out.starts_with("stations/mouth.toml    spring ○  autumn ●    1 change "), "{}", ran.out);
    let short = folder.run(&["spring", "autumn", "mouth.toml"]);
    assert_eq!(short.out, ran.out, "a name of the tree is enough");
    let moved = folder.run(&["spring", "autumn", "tools/check.py"]);
    assert!(moved.out.contains("1 change, moved from scripts/check.py"), "{}", moved.out);
    assert_eq!(folder.run(&["spring", "autumn", "scripts/check.py"]).out, moved.out);
    let new = folder.run(&["spring", "autumn", "point.toml"]);
    assert!(new.out.contains("1 change, new file") && new.out.contains(" ●      2    new\n"), "{}", new.out);
    let same = folder.run(&["spring", "autumn", "same.txt"]);
    assert_eq!((same.status, same.out.as_str()), (Some(0), "same.txt is the same in spring and autumn\n"));
    let inner = folder.run(&["spring", "autumn", "stations"]);
    assert!(inner.out.contains("3 files: 0 same, 1 changed, 1 new, 1 gone\n"), "{}", inner.out);
    let none = folder.run(&["spring", "autumn", "nothing"]);
    assert!(none.status == Some(2) && none.err.contains("there is no nothing in either tree"), "{}", none.err);
    let file = folder.run(&["spring/same.txt", "autumn/same.txt", "x"]);
    assert!(file.status == Some(2) && file.err.contains("paths can follow two folders only"), "{}", file.err);
}

#[test]
fn each_file_prints_all_changes_below_the_tree() {
    let ran = kit().run(&["--each-file", "--layout", "inline", "--context", "0", "spring", "autumn"]);
    assert!(ran.out.contains("interval = ○‹60›●‹30›\n"), "{}", ran.out);
    assert!(ran.out.contains("\nchart.png    spring ○  autumn ●    1 change"), "{}", ran.out);
    assert!(ran.out.contains("\ntools/check.py    spring ○  autumn ●    1 change, moved from"), "{}", ran.out);
}

#[test]
fn moves_can_be_left_out() {
    let ran = kit().run(&["--no-moves", "spring", "autumn"]);
    assert!(ran.out.contains("3 new, 4 gone, 1 retyped"), "{}", ran.out);
}

#[test]
fn patterns_depth_and_trust_are_said() {
    let folder = kit();
    let ran = folder.run(&["--include", "*.toml", "spring", "autumn"]);
    assert!(ran.out.contains("3 files: 0 same, 1 changed, 1 new, 1 gone\n"), "{}", ran.out);
    assert!(ran.out.contains("  left out: 8 entries by --include or --exclude\n"), "{}", ran.out);
    let ran = folder.run(&["--depth", "1", "spring", "autumn"]);
    assert!(ran.out.contains("not entered: 6 folders by --depth"), "{}", ran.out);
    let ran = folder.run(&["--trust", "size", "spring", "autumn"]);
    assert!(ran.out.contains("; contents were not read, size was believed\n"), "{}", ran.out);
    assert!(!ran.out.contains("mouth.toml"), "60 became 30: the size is the same: {}", ran.out);
    assert!(folder.run(&["--trust", "time", "spring", "autumn"]).out.contains("mouth.toml"));
    let ran = folder.run(&["--exclude", "[x", "spring", "autumn"]);
    assert!(ran.status == Some(2) && ran.err.contains("cannot use the pattern [x"), "{}", ran.err);
}

#[test]
fn repositories_are_skipped_and_ignore_files_honoured_when_asked() {
    let folder = Folder::with(&[
        ("a/.git/config", "1\n"),
        ("b/.git/config", "2\n"),
        ("b/.hidden", "new\n"),
        ("b/.gitignore", "*.tmp\n/out/\n!keep.tmp\n"),
        ("b/x.tmp", "1\n"),
        ("b/keep.tmp", "1\n"),
        ("b/out/y", "1\n"),
        ("b/s/out/y", "1\n"),
    ]);
    let ran = folder.run(&["a", "b"]);
    assert!(ran.out.contains("skipped: .git (--with-repositories compares it too)"), "{}", ran.out);
    assert!(ran.out.contains(".hidden") && ran.out.contains("x.tmp"), "{}", ran.out);
    let ran = folder.run(&["--with-repositories", "--flat", "a", "b"]);
    assert!(ran.out.contains(".git/config\n"), "{}", ran.out);
    let ran = folder.run(&["--use-ignore-files", "a", "b"]);
    assert!(ran.out.contains("left out: 2 entries by ignore files"), "{}", ran.out);
    assert!(!ran.out.contains("x.tmp") && ran.out.contains("keep.tmp") && ran.out.contains("s/"), "{}", ran.out);
}

#[cfg(unix)]
#[test]
fn links_are_compared_as_they_are_or_followed() {
    use std::os::unix::fs::symlink;
    let folder = Folder::with(&[("a/one", "1\n"), ("a/two", "2\n"), ("b/one", "1\n"), ("b/two", "2\n")]);
    for (side, target) in [("a", "one"), ("b", "two")] {
        symlink(target, folder.path().join(side).join("link")).unwrap();
        symlink(".", folder.path().join(side).join("loop")).unwrap();
    }
    symlink("nowhere", folder.path().join("b/broken")).unwrap();
    let ran = folder.run(&["a", "b"]);
    assert!(ran.out.contains("◐ link      link to one, now to two\n"), "{}", ran.out);
    assert!(ran.out.contains("● broken    new, link\n"), "{}", ran.out);
    let ran = folder.run(&["--links", "follow", "a", "b"]);
    assert!(ran.out.contains("◐ link      1 change, 1 ○ 1 ●"), "{}", ran.out);
    assert!(ran.out.contains("5 files: 3 same, 1 changed, 1 new\n"), "the loop is not walked: {}", ran.out);
}

#[cfg(unix)]
#[test]
fn permissions_and_times_are_compared_when_asked() {
    use std::os::unix::fs::PermissionsExt;
    let folder = Folder::with(&[("a/run", "1\n"), ("b/run", "1\n")]);
    for (side, mode, seconds) in [("a", 0o644, 1000), ("b", 0o755, 2000)] {
        let path = folder.path().join(side).join("run");
        let time = std::time::SystemTime::UNIX_EPOCH + std::time::Duration::from_secs(seconds);
        fs::File::options().append(true).open(&path).unwrap().set_modified(time).unwrap();
        fs::set_permissions(&path, fs::Permissions::from_mode(mode)).unwrap();
    }
    assert_eq!(folder.run(&["a", "b"]).status, Some(0));
    let ran = folder.run(&["--also-compare", "mode,time", "a", "b"]);
    assert!(ran.out.contains("◐ run    mode 644, now 755, time of change\n"), "{}", ran.out);
}

#[cfg(unix)]
#[test]
fn special_files_and_odd_names_have_a_defined_line() {
    use std::ffi::OsStr;
    use std::os::unix::ffi::OsStrExt;
    let folder = Folder::with(&[("a/x", "1\n"), ("b/x", "1\n"), ("b/two\nlines\u{1b}[31m", "1\n")]);
    fs::write(folder.path().join("b").join(OsStr::from_bytes(b"l\xe4nge")), "1\n").unwrap();
    let made = std::process::Command::new("mkfifo").arg(folder.path().join("b/pipe")).status().unwrap();
    assert!(made.success());
    let _socket = std::os::unix::net::UnixListener::bind(folder.path().join("b/socket")).unwrap();
    let ran = folder.run(&["a", "b"]);
    for line in ["● l<E4>nge", "● pipe", "new, named pipe", "new, socket", "two␊lines␛[31m"] {
        assert!(ran.out.contains(line), "{line}: {}", ran.out);
    }
    let output = folder.command(&["-0", "a", "b"]).output().unwrap();
    let mut names: Vec<_> = output.stdout.split(|&byte| byte == 0).collect();
    names.sort_unstable();
    assert!(names.contains(&&b"l\xe4nge"[..]) && names.contains(&&b"two\nlines\x1b[31m"[..]));
    let ran = folder.run(&["--json", "a", "b"]);
    assert!(ran.out.contains("{\"base64\":\"bORuZ2U=\"}"), "{}", ran.out);
}

#[cfg(target_os = "linux")]
#[test]
fn an_unreadable_file_is_counted_and_the_rest_goes_on() {
    let folder = Folder::with(&[("a/x", "1\n"), ("b/x", "2\n")]);
    for side in ["a", "b"] {
        // The first page of memory cannot be read by anybody, whatever their permissions.
        std::os::unix::fs::symlink("/proc/self/mem", folder.path().join(side).join("locked")).unwrap();
    }
    let ran = folder.run(&["--links", "follow", "a", "b"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.out.contains("2 files: 0 same, 1 changed, 1 unreadable"), "{}", ran.out);
    assert!(ran.out.contains("! locked    "), "{}", ran.out);
    assert!(ran.err.contains("cannot read locked: "), "{}", ran.err);
    let records = folder.run(&["--json", "--links", "follow", "a", "b"]);
    assert!(records.out.contains("\"status\":\"unreadable\"") && records.out.contains("\"note\":"), "{}", records.out);
}

#[test]
fn records_agree_with_what_people_are_shown() {
    let folder = kit();
    let schema = fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/records.schema.json")).unwrap();
    let validator = jsonschema::validator_for(&serde_json::from_str(&schema).unwrap()).unwrap();
    let ran = folder.run(&["--json", "--each-file", "spring", "autumn"]);
    let records: Vec<Value> = ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    for record in &records {
        assert!(validator.is_valid(record), "{record:#}");
    }
    let summary = records.last().unwrap();
    let count = |status: &str| {
        let of = |record: &&Value| {
            record["record"] == "pair"
                && record["status"] == status
                && (record["entry"] != "folder" || status == "retyped")
        };
        records.iter().filter(of).count()
    };
    let shown = folder.run(&["spring", "autumn"]).out;
    for status in ["changed", "new", "gone", "moved", "retyped"] {
        assert_eq!(summary[status], count(status), "{status}");
        assert!(shown.contains(&format!(" {} {status}", count(status))), "{status}: {shown}");
    }
    assert_eq!((&summary["files"], &summary["same"]), (&10.into(), &1.into()));
    assert_eq!((&summary["folders_gone"], &summary["folders_new"]), (&3.into(), &2.into()));
    let is_change = |record: &&Value| matches!(record["record"].as_str(), Some("change" | "range"));
    assert_eq!(summary["changes"], records.iter().filter(is_change).count());
    let moved = records.iter().find(|record| record["status"] == "moved").unwrap();
    assert_eq!((moved["moved_from"].as_str(), moved["newer"].as_str()), (Some("scripts/check.py"), Some("after")));
}

#[test]
fn a_name_that_several_files_have_must_be_told_apart() {
    let folder = Folder::with(&[
        ("a/one/gauge.toml", "1\n"),
        ("b/one/gauge.toml", "2\n"),
        ("a/two/gauge.toml", "1\n"),
        ("b/two/gauge.toml", "2\n"),
        ("a/one/light.toml", "same\n"),
        ("b/one/light.toml", "same\n"),
        ("a/two/light.toml", "1\n"),
        ("b/two/light.toml", "2\n"),
    ]);
    let ran = folder.run(&["a", "b", "light.toml"]);
    assert!(ran.out.starts_with("two/light.toml "), "a line of the tree can be pasted back: {} {}", ran.out, ran.err);
    let ran = folder.run(&["a", "b", "gauge.toml"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("gauge.toml could be any of one/gauge.toml, two/gauge.toml: give more"), "{}", ran.err);
    let ran = folder.run(&["a", "b", "two/gauge.toml", "one/gauge.toml", "--context", "0", "--no-legend"]);
    let headings: Vec<_> = ran.out.lines().filter(|line| line.contains("a ○  b ●")).collect();
    assert_eq!(headings.len(), 2);
    assert!(headings[0].starts_with("two/gauge.toml "), "in the order they were named: {}", ran.out);
}

#[test]
fn encodings_hold_for_the_files_of_trees_too() {
    let folder = Folder::new();
    folder.write("a/t.txt", b"\xd0\xd2\xc9\xcc\xc9\xd7\n");
    folder.write("b/t.txt", "прилив\n".as_bytes());
    let ran = folder.run(&["--encoding", "koi8-r,utf-8", "a", "b"]);
    assert!(ran.out.contains("t.txt    only its encoding"), "{}", ran.out);
    let ran = folder.run(&["--encoding", "koi8-r,utf-8", "a", "b", "t.txt"]);
    assert!(ran.out.contains("0 changes, KOI8-R, now UTF-8"), "{}", ran.out);
}

#[test]
fn a_closed_pipe_ends_quietly() {
    use std::io::Read;
    use std::process::Stdio;
    let folder = Folder::new();
    for n in 0..3000 {
        folder.write(&format!("b/a-rather-long-name-for-a-file-of-no-importance-{n}"), b"1\n");
    }
    fs::create_dir(folder.path().join("a")).unwrap();
    let mut command = folder.command(&["a", "b"]);
    let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    let mut first = [0; 10];
    child.stdout.take().unwrap().read_exact(&mut first).unwrap();
    let output = child.wait_with_output().unwrap();
    assert_eq!((output.status.code(), output.stderr.as_slice()), (Some(1), &b""[..]));
}

#[test]
fn thousands_of_gone_and_new_files_find_their_partners() {
    let folder = Folder::new();
    for n in 0..1500 {
        let text: String = (0..12).map(|line| format!("station {n} line {line} level {}\n", n * line)).collect();
        folder.write(&format!("a/old/{n}.txt"), text.as_bytes());
        let text = if n % 3 == 0 { text.replace("line 4", "line four") } else { text };
        folder.write(&format!("b/new/{n}.txt"), text.as_bytes());
    }
    let ran = folder.run(&["--json", "a", "b"]);
    let moved = ran.out.lines().filter(|line| line.contains("\"status\":\"moved\""));
    let right = moved.filter(|line| {
        let record: Value = serde_json::from_str(line).unwrap();
        record["path"].as_str().unwrap().strip_prefix("new/")
            == record["moved_from"].as_str().unwrap().strip_prefix("old/")
    });
    assert_eq!(right.count(), 1500);
}

/// The rows of a view that are longer than its width.
fn too_long(out: &str, width: usize) -> Vec<&str> {
    out.lines().filter(|row| row.chars().count() > width).collect()
}

#[test]
fn no_row_of_a_tree_is_wider_than_the_view() {
    let folder = kit();
    let long = "of/the/old/station/kit/that/nobody/reads/any/more/a_file_with_a_rather_long_name_of_its_own.txt";
    folder.write(&format!("spring/{long}"), b"low = 1\n");
    folder.write(&format!("autumn/{long}"), b"low = 2\n");
    for width in [60, 80, 200] {
        let width_text = width.to_string();
        for form in [&["--sort", "changes"][..], &["--folders"], &[]] {
            let out = folder.run(&[form, &["--width", &width_text, "spring", "autumn"]].concat()).out;
            assert_eq!(too_long(&out, width), Vec::<&str>::new(), "{form:?}");
        }
    }
    let out = folder.run(&["--width", "80", "spring", "autumn"]).out;
    let moved = out.lines().find(|row| row.contains("check.py")).unwrap();
    assert!(moved.contains("from scripts/check.py, 1 change, 1 ○ 1 ●"), "{out}");
    // Which side is newer is said once where all agree, and in each row where they do not.
    assert!(out.contains("\n  all that differs is newer in autumn\n") && !out.contains("● newer"), "{out}");
    let path = folder.path().join("spring/stations/mouth.toml");
    fs::File::options().append(true).open(path).unwrap().set_modified(std::time::SystemTime::now()).unwrap();
    let out = folder.run(&["--width", "80", "spring", "autumn"]).out;
    assert!(!out.contains("newer in") && out.contains("○ newer") && out.contains("● newer"), "{out}");
}

#[test]
fn pairs_are_sorted_by_what_is_asked_for() {
    let folder = Folder::with(&[
        ("spring/a", "1\n2\n3\n"),
        ("autumn/a", "1\n2\n4\n"),
        ("spring/b", &prose(3)),
        ("autumn/b", &prose(4)),
        ("spring/c/d", &format!("1\n{}2\n", prose(3))),
        ("autumn/c/d", &format!("3\n{}4\n", prose(3))),
    ]);
    let order = |by: &str| folder.run(&["--sort", by, "--flat", "spring", "autumn"]).out.replace('\n', " ");
    assert_eq!(order("path"), "a b c/d ");
    assert_eq!(order("changes"), "c/d a b ");
    assert_eq!(order("lines"), "b c/d a ");
    assert_eq!(order("size"), "b c/d a ");
    let out = folder.run(&["--sort", "lines", "spring", "autumn"]).out;
    let rows: Vec<&str> = out.lines().filter(|row| row.contains('◐') && row.contains("change,")).collect();
    assert!(rows[0].contains("◐ b ") && out.contains("◐ c/d "), "{out}");
}

#[test]
fn a_line_for_each_folder_has_its_totals() {
    let folder = kit();
    let row = |out: &str, name: &str| {
        let found = out.lines().find(|row| row.trim_start().starts_with(name));
        found.map(|row| row.split("    ").last().unwrap().trim().to_owned())
    };
    let out = folder.run(&["--folders", "spring", "autumn"]).out;
    assert_eq!(row(&out, "stations/").unwrap(), "1 changed, 1 new, 1 gone, 1 change, 1 ○ 1 ●", "{out}");
    assert_eq!(row(&out, "archive/deep/").unwrap(), "1 gone");
    assert_eq!(row(&out, "./").unwrap(), "1 changed, 1 retyped, 1 change", "{out}");
    let rolled_up = folder.run(&["--folders", "--depth", "1", "spring", "autumn"]).out;
    assert_eq!(row(&rolled_up, "archive/").unwrap(), "2 gone");
    assert_eq!(row(&rolled_up, "archive/deep/"), None);
}

#[test]
fn folders_stand_in_path_order() {
    let files = ["x", "a-b/x", "a/c/x", "a/x", "b/x"];
    let folder = Folder::new();
    for file in files {
        folder.write(&format!("spring/{file}"), b"1\n");
        folder.write(&format!("autumn/{file}"), b"2\n");
    }
    let out = folder.run(&["spring", "autumn"]).out;
    let headings: Vec<&str> =
        out.lines().filter(|row| row.ends_with('/') && row.starts_with("  ")).map(str::trim).collect();
    assert_eq!(headings, ["a/", "a/c/", "a-b/", "b/"]);
    let flat = folder.run(&["--flat", "spring", "autumn"]).out;
    assert_eq!(flat.lines().collect::<Vec<_>>(), ["a/c/x", "a/x", "a-b/x", "b/x", "x"]);
}

#[test]
fn what_each_file_does_not_print_is_said() {
    let folder = kit();
    let out = folder.run(&["--each-file", "spring", "autumn"]).out;
    let last = out.lines().last().unwrap();
    assert_eq!(
        last,
        "not printed: the contents of 2 new files and 3 gone files; name a file after the two folders to see it"
    );
    let named = folder.run(&["spring", "autumn", "stations/point.toml"]).out;
    assert!(named.contains("●      1    new\n"), "{named}");
}

#[test]
fn patterns_are_lists_and_one_that_fits_nothing_is_said() {
    let folder = Folder::with(&[("b/x.toml", "1\n"), ("a/x.toml", "2\n"), ("b/y,z.txt", "1\n"), ("a/y,z.txt", "2\n")]);
    let flat = |options: &[&str]| {
        let ran = folder.run(&[options, &["--flat", "b", "a"]].concat());
        (ran.out.replace('\n', " "), ran.err)
    };
    assert_eq!(flat(&["--include", "*.toml,*.txt"]), ("x.toml y,z.txt ".to_owned(), String::new()));
    assert_eq!(flat(&["--include", "*.{toml,md}"]), ("x.toml ".to_owned(), String::new()));
    assert_eq!(flat(&["--exclude", "y\\,z.txt"]), ("x.toml ".to_owned(), String::new()));
    let unfitted = "tideline: note: --include *.md fits nothing in either tree\n";
    assert_eq!(flat(&["--include", "*.toml,*.md"]), ("x.toml ".to_owned(), unfitted.to_owned()));
    let malformed = folder.run(&["--include", "[a-", "b", "a"]);
    assert_eq!(malformed.status, Some(2), "{}", malformed.err);
}
