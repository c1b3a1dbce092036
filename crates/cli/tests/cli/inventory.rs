//! Inventories: written, compared, checked, and told when they are damaged.

use std::fs;

use serde_json::Value;

use crate::support::{Folder, Ran};

fn kit() -> Folder {
    Folder::with(&[
        ("kit/stations/mouth.toml", "interval_s = 60\n"),
        ("kit/stations/light.toml", "interval_s = 30\n"),
        ("kit/notes.txt", "one\ntwo\nthree\nfour\nfive\n"),
    ])
}

fn written(folder: &Folder) -> Ran {
    let ran = folder.run(&["inventory", "kit", "-o", "kit.jsonl", "--hash", "sha256"]);
    assert_eq!(ran.status, Some(0), "{}", ran.err);
    ran
}

#[test]
fn an_inventory_holds_every_entry_and_fits_its_schema() {
    let folder = kit();
    std::os::unix::fs::symlink("notes.txt", folder.path().join("kit/latest")).unwrap();
    assert_eq!(written(&folder).out, "wrote kit.jsonl (3 files, 56 bytes, 1 folder, 1 link)\n");
    let text = String::from_utf8(folder.read("kit.jsonl")).unwrap();
    let current = tideline_sources::inventory::schema();
    if std::env::var_os("TIDELINE_WRITE_SCHEMA").is_some() {
        fs::write(SCHEMA, &current).unwrap();
    }
    let published = fs::read_to_string(SCHEMA).unwrap_or_default();
    assert_eq!(published, current, "set TIDELINE_WRITE_SCHEMA=1 and run this test to publish it anew");
    let validator = jsonschema::validator_for(&serde_json::from_str(&published).unwrap()).unwrap();
    let records: Vec<Value> = text.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    for record in &records {
        assert!(validator.is_valid(record), "{record}");
    }
    assert!(!validator.is_valid(&serde_json::json!({ "record": "entry" })));
    let paths: Vec<&str> = records.iter().filter_map(|record| record["path"].as_str()).collect();
    assert_eq!(paths, ["latest", "notes.txt", "stations", "stations/light.toml", "stations/mouth.toml"]);
    assert_eq!(records[1]["target"], "notes.txt");
    assert_eq!(records[2]["blake3"], blake3::hash(&folder.read("kit/notes.txt")).to_hex().as_str());
    assert_eq!(records[2]["sha256"].as_str().map(str::len), Some(64));
    let above: String = text.lines().take(records.len() - 1).map(|line| format!("{line}\n")).collect();
    assert_eq!(records.last().unwrap()["blake3"], blake3::hash(above.as_bytes()).to_hex().as_str());
    let out = folder.run(&["inventory", "kit", "-o", "-", "--hash", "sha256"]).out;
    assert_eq!(out, text, "the same tree has the same inventory");
}

const SCHEMA: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/inventory.schema.json");

#[test]
fn an_inventory_is_a_side_that_knows_what_moved_but_no_lines() {
    let folder = kit();
    written(&folder);
    assert_eq!(folder.run(&["kit.jsonl", "kit"]).status, Some(0));
    folder.write("kit/stations/mouth.toml", b"interval_s = 20\n");
    fs::rename(folder.path().join("kit/notes.txt"), folder.path().join("kit/handbook.txt")).unwrap();
    folder.write("kit/new.txt", b"new\n");
    let ran = folder.run(&["kit.jsonl", "kit"]);
    assert_eq!(ran.status, Some(1), "{}", ran.err);
    assert!(ran.out.contains("4 files: 1 same, 1 changed, 1 new, 1 moved"), "{}", ran.out);
    assert!(ran.out.contains("kit.jsonl: inventory of kit, contents not at hand"), "{}", ran.out);
    assert!(ran.out.contains("↷ handbook.txt    from notes.txt"), "{}", ran.out);
    folder.run(&["inventory", "kit", "-o", "later.jsonl"]);
    let both = folder.run(&["kit.jsonl", "later.jsonl", "--only", "moved,changed"]);
    assert!(both.out.contains("from notes.txt") && both.out.contains("mouth.toml"), "{}", both.out);
    let report = folder.run(&["report", "kit.jsonl", "kit", "-o", "-", "--format", "markdown"]);
    assert!(report.out.contains("handbook.txt"), "{}{}", report.out, report.err);
    let json = folder.run(&["kit.jsonl", "kit", "--json"]);
    assert!(json.out.contains("\"status\":\"moved\""), "{}", json.out);
    // As a text it is a file like any other.
    let text = folder.run(&["kit.jsonl", "later.jsonl", "--kind", "text"]);
    assert!(text.out.contains("\"record\":\"inventory\""), "{}", text.out);
}

#[test]
fn a_check_says_what_is_missing_extra_and_altered() {
    let folder = kit();
    let exclude = ["inventory", "kit", "-o", "kit.jsonl", "--exclude", "*.log"];
    assert_eq!(folder.run(&exclude).status, Some(0));
    folder.write("kit/run.log", b"left out by the rules of the inventory\n");
    let fine = folder.run(&["inventory", "--check", "kit.jsonl"]);
    assert_eq!((fine.status, &*fine.err), (Some(0), ""), "{}", fine.out);
    assert!(fine.out.ends_with("kit: 3 entries as kit.jsonl says\n"), "{}", fine.out);
    folder.write("kit/stations/mouth.toml", b"interval_s = 20\n");
    fs::remove_file(folder.path().join("kit/notes.txt")).unwrap();
    folder.write("kit/new.txt", b"new\n");
    let ran = folder.run(&["inventory", "--check", "kit.jsonl"]);
    assert_eq!(ran.status, Some(1), "{}", ran.err);
    for line in [
        "  ● extra       new.txt\n",
        "  ○ missing     notes.txt\n",
        "  ◐ altered     stations/mouth.toml\n",
        "kit: 1 missing, 1 extra, 1 altered; 1 entry as kit.jsonl says\n",
    ] {
        assert!(ran.out.contains(line), "{line}: {}", ran.out);
    }
    let elsewhere = folder.run(&["inventory", "--check", "kit.jsonl", "nowhere"]);
    assert_eq!(elsewhere.status, Some(2));
}

#[test]
fn checksum_lists_are_read_by_the_length_of_their_hashes() {
    let folder = kit();
    let paths = ["notes.txt", "stations/light.toml", "stations/mouth.toml"];
    for (name, program) in [("MD5", "md5sum"), ("SHA1", "sha1sum"), ("SHA256", "sha256sum"), ("SHA512", "sha512sum")] {
        let list: String = paths
            .iter()
            .map(|path| folder.system(program, &[&format!("kit/{path}")]).replace("  kit/", "  ./"))
            .collect();
        folder.write(name, list.as_bytes());
        let ran = folder.run(&["inventory", "--check", name, "kit"]);
        assert_eq!(ran.status, Some(0), "{name}: {}{}", ran.out, ran.err);
        assert!(folder.run(&[name, "kit"]).out.contains("3 files: 3 same"), "{name}");
    }
    // 64 digits may be of either algorithm.
    let list: String = paths
        .iter()
        .map(|path| format!("{} *{path}\n", blake3::hash(&folder.read(&format!("kit/{path}"))).to_hex()))
        .collect();
    folder.write("B3", list.as_bytes());
    assert_eq!(folder.run(&["inventory", "--check", "B3", "kit"]).status, Some(0));
    // A list that stands in the folder is no part of it.
    folder.write("kit/SHA256SUMS", &folder.read("SHA256"));
    let mut inside = folder.command(&["inventory", "--check", "SHA256SUMS"]);
    let inside = Ran::of(&inside.current_dir(folder.path().join("kit")).output().unwrap());
    assert_eq!(inside.status, Some(0), "{}{}", inside.out, inside.err);
    fs::remove_file(folder.path().join("kit/SHA256SUMS")).unwrap();
    folder.write("kit/notes.txt", b"altered\n");
    for name in ["MD5", "SHA256", "B3"] {
        let ran = folder.run(&["inventory", "--check", name, "kit"]);
        assert_eq!(ran.status, Some(1), "{name}");
        assert!(ran.out.contains("altered     notes.txt"), "{name}: {}", ran.out);
    }
    // Two lists are two texts.
    assert!(folder.run(&["MD5", "SHA1"]).out.contains("1 change"));
}

#[test]
fn damage_is_told_with_its_line() {
    let folder = kit();
    written(&folder);
    let text = String::from_utf8(folder.read("kit.jsonl")).unwrap();
    let lines: Vec<&str> = text.lines().collect();
    let cases = [
        (lines[..4].join("\n") + "\n", "the inventory ends after line 4 without its totals: it is cut off"),
        (text[..text.len() / 2].to_owned(), "is cut off, and nothing follows"),
        (text.replacen("\"size\":", "\"size\":9", 1), "does not fit the lines above it"),
        (text.replacen(lines[2], "{oops", 1), "line 3 of the inventory is damaged"),
    ];
    for (damaged, reason) in cases {
        folder.write("damaged.jsonl", damaged.as_bytes());
        for arguments in [vec!["damaged.jsonl", "kit"], vec!["inventory", "--check", "damaged.jsonl", "kit"]] {
            let ran = folder.run(&arguments);
            assert_eq!(ran.status, Some(2), "{reason}: {}", ran.out);
            assert!(ran.err.contains(reason), "{reason}: {}", ran.err);
        }
    }
    let newer = text.replacen("\"version\":1", "\"version\":9", 1);
    folder.write("newer.jsonl", newer.as_bytes());
    let ran = folder.run(&["newer.jsonl", "kit"]);
    assert!(ran.err.contains("is of version 9, and only version 1 is known"), "{}", ran.err);
}
