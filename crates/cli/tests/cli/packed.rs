//! Archives and compressed files as sides of every command that reads.

use std::fs;
use std::io::{Cursor, Write};

use crate::support::Folder;

/// Two editions of a kit, and a tar archive of each, made by the system's own program.
fn kits() -> Folder {
    let folder = Folder::with(&[
        ("one/kit/stations/mouth.toml", "[sensor]\ninterval_s = 60\n"),
        ("one/kit/notes.txt", "one\ntwo\n"),
        ("two/kit/stations/mouth.toml", "[sensor]\ninterval_s = 30\n"),
        ("two/kit/notes.txt", "one\ntwo\n"),
        ("two/kit/new.txt", "new\n"),
    ]);
    folder.system("tar", &["-czf", "one.tgz", "-C", "one", "kit"]);
    folder.system("tar", &["-cf", "two.tar", "-C", "two", "kit"]);
    folder
}

/// A zip archive of some files, each with its name as it is.
fn zip(files: &[(&str, &str)]) -> Vec<u8> {
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, text) in files {
        let options = zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
        writer.start_file(*name, options).unwrap();
        writer.write_all(text.as_bytes()).unwrap();
    }
    writer.finish().unwrap().into_inner()
}

#[test]
fn an_archive_stands_for_its_folder_and_the_heading_says_what_it_is() {
    let folder = kits();
    let ran = folder.run(&["one.tgz", "two/kit"]);
    assert_eq!(ran.status, Some(1), "{}", ran.err);
    assert!(ran.out.starts_with("one.tgz ○  kit ●    3 files: 1 same, 1 changed, 1 new\n"), "{}", ran.out);
    assert!(ran.out.contains("\n  one.tgz: tar archive, gzip, all in kit/\n"), "{}", ran.out);
    assert!(ran.out.contains("◐ mouth.toml    1 change, 1 ○ 1 ●"), "{}", ran.out);
    let named = folder.run(&["one.tgz", "two.tar", "stations/mouth.toml"]);
    assert!(named.out.contains("interval_s = 60") && named.out.contains("interval_s = 30"), "{}", named.out);
    let opening: serde_json::Value =
        serde_json::from_str(folder.run(&["one.tgz", "two.tar", "--json"]).out.lines().next().unwrap()).unwrap();
    assert_eq!(opening["after_is"], "two.tar: tar archive, all in kit/");
    let same = folder.run(&["one.tgz", "one/kit"]);
    assert_eq!(same.status, Some(0), "{}", same.out);
}

#[test]
fn standard_input_and_pipes_may_bring_an_archive() {
    let folder = kits();
    let bytes = folder.read("one.tgz");
    for sides in [["-", "two.tar"], ["-", "two/kit"]] {
        let ran = folder.run_with_input(&sides, &bytes);
        assert_eq!(ran.status, Some(1), "{}", ran.err);
        assert!(ran.out.contains("1 same, 1 changed, 1 new"), "{}", ran.out);
    }
    let ran = folder.run_with_input(&["two.tar", "-"], &bytes);
    assert!(ran.out.contains("1 same, 1 changed, 1 gone"), "{}", ran.out);
}

#[test]
fn every_reading_command_takes_archives() {
    let folder = kits();
    let patch = folder.run(&["patch", "one.tgz", "two.tar"]);
    assert!(patch.out.contains("--- one.tgz/stations/mouth.toml\t"), "{}", patch.out);
    assert!(patch.out.contains("-interval_s = 60\n+interval_s = 30\n"), "{}", patch.out);
    folder.write("fix.patch", patch.out.as_bytes());
    let applied = folder.run(&["apply", "fix.patch", "--into", "one/kit"]);
    assert_eq!(applied.status, Some(0), "{}{}", applied.out, applied.err);
    assert_eq!(folder.read("one/kit/stations/mouth.toml"), folder.read("two/kit/stations/mouth.toml"));
    let report = folder.run(&["report", "one.tgz", "two.tar", "-o", "-", "--format", "markdown"]);
    assert!(report.out.contains("one.tgz: tar archive, gzip, all in kit/"), "{}", report.out);
    let explained = folder.run(&["explain", "one.tgz", "two.tar", "stations/mouth.toml", "--change", "1"]);
    assert!(explained.out.contains("interval_s = 30"), "{}", explained.out);
    let refused =
        folder.run(&["take", "one.tgz", "two.tar", "stations/mouth.toml", "--changes", "1", "--into", "before"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("which is not a file on the disk: -o FILE says where"), "{}", refused.err);
    let taken = ["take", "one.tgz", "two.tar", "stations/mouth.toml", "--changes", "1", "--into", "before", "-o", "m"];
    assert_eq!(folder.run(&taken).status, Some(0));
    assert_eq!(folder.read("m"), folder.read("two/kit/stations/mouth.toml"));
    folder.write("tideline.toml", b"[saved.release]\nbefore = \"one.tgz\"\nafter = \"two.tar\"\n");
    assert!(folder.run(&["saved", "release"]).out.contains("1 changed"));
    let watched = folder.run(&["--watch", "one.tgz", "one/kit"]);
    assert_eq!(watched.status, Some(2));
    assert!(watched.err.contains("--watch is for files and folders on the disk"), "{}", watched.err);
}

#[test]
fn a_compressed_log_is_compared_as_its_text_and_never_written_to() {
    let folder = Folder::with(&[("old.log", "06:00 4.1\n06:10 4.2\n"), ("new.log", "06:00 4.1\n06:10 4.3\n")]);
    folder.system("gzip", &["-k", "old.log"]);
    let ran = folder.run(&["old.log.gz", "new.log"]);
    assert!(ran.out.contains("old.log.gz: gzip, unpacked"), "{}", ran.out);
    assert!(ran.out.contains("06:10 4.2") && ran.out.contains("1 change"), "{}", ran.out);
    assert_eq!(folder.run(&["old.log.gz", "old.log"]).status, Some(0));
    let before = folder.read("old.log.gz");
    let refused = folder.run(&["take", "old.log.gz", "new.log", "--changes", "1", "--into", "before"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.err.contains("not a file on the disk"), "{}", refused.err);
    assert_eq!(folder.read("old.log.gz"), before);
    let bytes = folder.run(&["old.log.gz", "new.log", "--kind", "bytes"]);
    assert!(bytes.out.contains("gzip (GZ)") && bytes.out.contains("offset 0x0"), "{}", bytes.out);
}

#[test]
fn archives_in_folders_are_opened_when_that_is_asked_for() {
    let folder = Folder::new();
    folder.write("one/kit.zip", &zip(&[("levels.csv", "4.1\n"), ("notes.txt", "one\n")]));
    folder.write("two/kit.zip", &zip(&[("levels.csv", "4.2\n"), ("notes.txt", "one\n")]));
    folder.write("one/packed.zip", &zip(&[("a", "1\n"), ("b", "2\n")]));
    folder.write("two/packed.zip", &zip(&[("b", "2\n"), ("a", "1\n")]));
    let closed = folder.run(&["one", "two"]);
    assert!(closed.out.contains("2 files: 0 same, 2 changed"), "{}", closed.out);
    let open = folder.run(&["one", "two", "--open-archives"]);
    assert!(open.out.contains("◐ levels.csv    1 change, 1 ○ 1 ●"), "{}", open.out);
    assert!(open.out.contains("◌ packed.zip    only its packing: order, times or compression"), "{}", open.out);
    let named = folder.run(&["one", "two", "--open-archives", "kit.zip/levels.csv"]);
    assert!(named.out.contains("4.2"), "{}", named.out);
}

#[test]
fn a_sync_from_an_archive_writes_what_is_in_it_and_nothing_outside() {
    let folder = kits();
    let ran = folder.run(&["sync", "one.tgz", "out", "--go"]);
    assert_eq!(ran.status, Some(0), "{}{}", ran.out, ran.err);
    assert_eq!(folder.run(&["one/kit", "out"]).status, Some(0));
    let time = |path: &str| fs::metadata(folder.path().join(path)).unwrap().modified().unwrap();
    let apart = time("out/notes.txt").max(time("one/kit/notes.txt"));
    let least = time("out/notes.txt").min(time("one/kit/notes.txt"));
    assert!(apart.duration_since(least).unwrap().as_secs() < 1, "times are kept as the archive holds them");
    let mirrored = folder.run(&["sync", "two.tar", "out", "--mirror", "--go"]);
    assert_eq!(mirrored.status, Some(0), "{}{}", mirrored.out, mirrored.err);
    assert_eq!(folder.run(&["two/kit", "out"]).status, Some(0));
    assert_eq!(folder.run(&["undo"]).status, Some(0));
    assert_eq!(folder.run(&["one/kit", "out"]).status, Some(0));

    folder.write("hostile.zip", &zip(&[("../escaped.txt", "out\n"), ("fine.txt", "in\n")]));
    let ran = folder.run(&["sync", "hostile.zip", "into", "--go"]);
    assert_eq!(ran.status, Some(2), "{}{}", ran.out, ran.err);
    assert!(!folder.path().join("escaped.txt").exists());
    assert_eq!(folder.read("into/fine.txt"), b"in\n");
    assert!(ran.out.contains("its name is not followed"), "{}", ran.out);
}

#[test]
fn nothing_is_synced_from_an_archive_that_is_cut_off() {
    let folder = Folder::with(&[("into/kept.txt", "kept\n")]);
    let text: String = (0..4000).map(|at| format!("{at} {}\n", at * at % 977)).collect();
    folder.write("kit.zip", &zip(&[("a.txt", &text), ("b.txt", &text), ("kept.txt", "kept\n")]));
    let whole = folder.read("kit.zip");
    folder.write("cut.zip", &whole[..whole.len() / 2 + 100]);
    let ran = folder.run(&["cut.zip", "into"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("cannot read all of the side before: its directory cannot be read"), "{}", ran.err);
    assert!(ran.out.contains("○ a.txt"), "{}", ran.out);
    let ran = folder.run(&["sync", "cut.zip", "into", "--mirror", "--remove-many", "--go"]);
    assert_eq!(ran.status, Some(2), "{}", ran.out);
    assert!(ran.err.contains("cannot sync from cut.zip"), "{}", ran.err);
    assert_eq!(folder.read("into/kept.txt"), b"kept\n");
    assert!(!folder.path().join("into/a.txt").exists());
}

#[test]
fn a_link_in_an_archive_is_no_way_out_of_the_folder() {
    let folder = Folder::with(&[("outside/kept.txt", "kept\n"), ("first/way/kept.txt", "overwritten\n")]);
    // A link, and then a file by way of it, as a hostile archive has them.
    std::fs::create_dir(folder.path().join("second")).unwrap();
    std::os::unix::fs::symlink("../outside", folder.path().join("second/way")).unwrap();
    folder.system("tar", &["-cf", "hostile.tar", "-C", "second", "way"]);
    folder.system("tar", &["-rf", "hostile.tar", "-C", "first", "way/kept.txt"]);
    let ran = folder.run(&["sync", "hostile.tar", "into", "--go"]);
    assert_eq!(folder.read("outside/kept.txt"), b"kept\n", "{}{}", ran.out, ran.err);
    // The other way round, the link is there already.
    fs::create_dir(folder.path().join("linked")).unwrap();
    std::os::unix::fs::symlink("../outside", folder.path().join("linked/way")).unwrap();
    let ran = folder.run(&["sync", "hostile.tar", "linked", "--go"]);
    assert_eq!(folder.read("outside/kept.txt"), b"kept\n", "{}{}", ran.out, ran.err);
}

#[test]
fn what_a_sync_cannot_do_with_an_archive_is_refused() {
    let folder = kits();
    let refused = |arguments: &[&str], reason: &str| {
        let ran = folder.run(arguments);
        assert_eq!(ran.status, Some(2), "{arguments:?}: {}", ran.out);
        assert!(ran.err.contains(reason), "{arguments:?}: {}", ran.err);
    };
    refused(&["sync", "one.tgz", "two/kit", "--both-ways"], "it is not a folder, and is never written to");
    refused(&["sync", "one.tgz", "two/kit", "--save-plan", "plan"], "only plans of two folders are kept");
    refused(&["sync", "one/kit", "two/kit", "--open-archives"], "an archive in a folder is carried as the file");
    fs::copy(folder.path().join("one.tgz"), folder.path().join("two/kit/one.tgz")).unwrap();
    refused(&["sync", "two/kit/one.tgz", "two/kit"], "FROM is inside INTO");
    refused(&["sync", "one/kit", "two.tar"], "INTO, two.tar, is a file");
    refused(&["sync", "one/kit", "git:HEAD"], "a revision is never written to");
    folder.run(&["inventory", "one/kit", "-o", "kit.jsonl"]);
    refused(&["sync", "kit.jsonl", "out"], "an inventory holds no contents");
}

#[test]
fn hostile_names_are_told_below_the_tree() {
    let folder = Folder::with(&[("kit/fine.txt", "in\n")]);
    folder.write("hostile.zip", &zip(&[("../escaped.txt", "out\n"), ("fine.txt", "in\n"), ("Fine.txt", "in\n")]));
    let ran = folder.run(&["kit", "hostile.zip"]);
    assert!(ran.out.contains("note: ../escaped.txt: its name leads out of the folder with `..`"), "{}", ran.out);
    assert!(ran.out.contains("note: fine.txt: its name differs from Fine.txt only in case"), "{}", ran.out);
}

#[test]
fn an_archive_and_a_file_cannot_be_compared_and_the_way_out_is_said() {
    let folder = kits();
    let ran = folder.run(&["one.tgz", "one/kit/notes.txt"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("one.tgz is an archive and the other is not; --kind bytes"), "{}", ran.err);
}

#[test]
fn the_heading_of_two_archives_with_long_names_fits_its_line() {
    let folder = Folder::new();
    let name = |version: &str| format!("gauge-readings-{version}-{}.zip", "with-a-long-tail-".repeat(6));
    folder.write(&name("1.2"), &zip(&[("levels.csv", "4.1\n"), ("notes.txt", "one\n")]));
    folder.write(&name("1.3"), &zip(&[("levels.csv", "4.2\n"), ("notes.txt", "one\n")]));
    let ran = folder.run(&["--width", "100", "--no-legend", &name("1.2"), &name("1.3")]);
    for line in ran.out.lines() {
        assert!(line.chars().count() <= 100, "{line}");
        assert_eq!(line.trim_end(), line, "no space at the end");
    }
    let heading = ran.out.lines().next().unwrap();
    assert!(heading.contains("gauge-readings-1.2") && heading.contains("gauge-readings-1.3"), "{heading}");
}

#[test]
fn of_many_permissions_that_a_patch_cannot_carry_the_first_are_named() {
    use std::os::unix::fs::PermissionsExt;
    let folder = Folder::new();
    for number in 10..40 {
        for (side, mode) in [("one", 0o644), ("two", 0o600)] {
            let path = folder.write(&format!("{side}/{number}.txt"), b"same\n");
            fs::set_permissions(path, fs::Permissions::from_mode(mode)).unwrap();
        }
    }
    let told = folder.run(&["patch", "one", "two"]).err;
    let lines: Vec<&str> = told.lines().collect();
    assert_eq!(lines[..3].iter().filter(|line| line.ends_with(".txt: mode 644, now 600")).count(), 3, "{told}");
    assert_eq!(lines[3], "tideline: not in the patch: 27 files more: mode 644, now 600");
    assert!(lines[4].ends_with("differences it cannot carry: 30") && lines.len() == 5, "{told}");
}
