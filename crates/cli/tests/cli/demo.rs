//! `tideline demo`

use std::fs;

use crate::support::Folder;

#[test]
fn the_tour_shows_every_command_with_its_output() {
    let folder = Folder::new();
    let ran = folder.run(&["demo"]);
    assert_eq!((ran.status, ran.err.as_str()), (Some(0), ""));
    for shown in [
        "$ tideline spring/scripts/plot_levels.py autumn/scripts/plot_levels.py\n",
        "scripts/plot_levels.py    spring ○  autumn ●    1 change ",
        "$ tideline patch spring/stations/harbour-mouth.toml autumn/stations/harbour-mouth.toml\n",
        "(exit status 0)",
        "(exit status 1)",
    ] {
        assert!(ran.out.contains(shown), "{shown:?} in:\n{}", ran.out);
    }
    assert!(!ran.out.contains("(exit status 2)"), "{}", ran.out);
    let data = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/spring/notes/handbook.txt");
    assert_eq!(folder.read("tideline-demo/spring/notes/handbook.txt"), fs::read(data).unwrap());
}

#[test]
fn nothing_is_written_over_an_existing_folder() {
    let folder = Folder::with(&[("estuary/mine.txt", "mine\n")]);
    let ran = folder.run(&["demo", "estuary"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("estuary: it exists already; name a new folder"), "{}", ran.err);
    assert_eq!(fs::read_dir(folder.path().join("estuary")).unwrap().count(), 1);
}

#[test]
fn the_planted_comma_is_the_only_difference_of_the_script() {
    let folder = Folder::new();
    folder.run(&["demo", "d"]);
    let script = |season: &str| format!("d/{season}/scripts/plot_levels.py");
    let ran = folder.run(&["--context", "0", &script("spring"), &script("autumn")]);
    let markers: Vec<_> = ran.out.lines().filter(|row| row.trim() == "^").collect();
    assert_eq!(markers.len(), 1, "{}", ran.out);
}

#[test]
fn the_archive_is_the_spring_edition_and_the_repository_holds_both() {
    let folder = Folder::new();
    folder.run(&["demo", "d"]);
    let archive = folder.run(&["--also-compare", "mode", "d/spring.zip", "d/spring"]);
    assert_eq!(archive.status, Some(0), "{}", archive.out);
    assert!(archive.out.contains("spring.zip: zip archive, all in kit-2031-04/"), "{}", archive.out);
    for (revision, edition) in [("git:HEAD~1", "d/spring"), ("git:HEAD", "d/autumn")] {
        let ran = folder.run(&["--repository", "d/kit", revision, edition]);
        assert_eq!(ran.status, Some(0), "{}", ran.out);
    }
    let working = folder.run(&["--repository", "d/kit", "git:HEAD", "d/kit"]);
    assert!(working.out.contains("1 changed, 2 new"), "{}", working.out);
    assert!(working.out.contains("left out: 1 entry by ignore files"), "{}", working.out);
}

#[test]
fn without_the_program_for_repositories_the_tour_does_without_them() {
    let folder = Folder::new();
    let mut command = folder.command(&["demo", "d"]);
    let ran = crate::support::Ran::of(&command.env("PATH", "/nonexistent").output().unwrap());
    assert_eq!((ran.status, ran.err.as_str()), (Some(0), ""));
    assert!(ran.out.contains("`git` was not found: the stops about a repository are left out"), "{}", ran.out);
    assert!(!ran.out.contains("--repository") && !ran.out.contains("(exit status 2)"), "{}", ran.out);
    assert!(!folder.path().join("d/kit").exists());
}

/// The record of a path in the demo's trees, with `--also-compare mode`.
fn record(records: &[serde_json::Value], path: &str) -> serde_json::Value {
    records.iter().find(|record| record["path"] == path).unwrap_or_else(|| panic!("{path} differs")).clone()
}

#[test]
fn every_planted_difference_is_found_for_what_it_is() {
    let folder = Folder::new();
    folder.run(&["demo", "d"]);
    let ran = folder.run(&["--json", "--also-compare", "mode", "d/spring", "d/autumn"]);
    let records: Vec<serde_json::Value> = ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let expected = [
        ("stations/skerry-light.toml", "changed", "text", 1, 1),
        ("stations/höhe-am-kai.toml", "changed", "text", 1, 1),
        ("tools/check_levels.py", "moved", "text", 2, 2),
        ("levels/office.csv", "changed", "text", 1, 25),
        ("logs/harbour-mouth.log", "changed", "text", 1, 60),
        ("chart/estuary.png", "changed", "image", 1, 9),
        ("contacts", "retyped", "folder", 0, 0),
        ("contacts/office.txt", "new", "text", 0, 1),
        ("outbox", "new", "folder", 0, 0),
        ("archive", "gone", "folder", 0, 0),
        ("stations/willow-pool.toml", "gone", "text", 0, 13),
        ("training/quiz.md", "new", "text", 0, 3),
    ];
    for (path, status, kind, changes, lines) in expected {
        let record = record(&records, path);
        // A file by how it was compared, all else by what it is.
        let what = if record["entry"] == "file" { &record["kind"] } else { &record["entry"] };
        let told = (record["status"].as_str(), what.as_str(), record["changes"].as_u64(), record["lines"].as_u64());
        assert_eq!(told, (Some(status), Some(kind), Some(changes), Some(lines)), "{path}");
    }
    let renamed = record(&records, "tools/clock/set_station_clock.sh");
    assert_eq!((renamed["moved_from"].as_str(), renamed["changes"].as_u64()), (Some("scripts/set_clock.sh"), Some(0)));
    assert_eq!(record(&records, "stations/harbour-mouth.toml")["newer"], "after");
    if cfg!(unix) {
        let script = record(&records, "scripts/fetch_logs.sh");
        assert_eq!(script["attributes"][0], "mode");
        assert_eq!((script["before"]["mode"].as_str(), script["after"]["mode"].as_str()), (Some("644"), Some("755")));
    }
    assert!(records.iter().all(|record| record["path"] != "stations/水位/潮位計.toml"), "what is the same is not told");
}

#[test]
fn the_patch_of_the_kit_carries_what_a_patch_can() {
    let folder = Folder::new();
    folder.run(&["demo", "d"]);
    let ran = folder.run(&["patch", "--labels", "a,b", "d/spring", "d/autumn"]);
    assert_eq!(ran.status, Some(1));
    let headers = |mark: &str| ran.out.lines().filter(|line| line.starts_with(mark)).count();
    let created = headers("--- /dev/null");
    let deleted = headers("+++ /dev/null");
    assert_eq!((created, deleted), (7, 7), "moved files are deleted and created");
    assert!(ran.err.contains("chart/estuary.png: not text"), "{}", ran.err);
    assert!(ran.out.contains("+++ b/stations/höhe-am-kai.toml\n"), "{}", ran.out);
}
