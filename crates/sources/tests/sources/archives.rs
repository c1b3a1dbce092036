//! Archives as trees: known by what they hold, read as they are, and never more than they may be.

use std::fs;
use std::path::{Path, PathBuf};

use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{EntryType, Note, TreeOptions};
use tideline_sources::{LookInto, OpenError, Side, SideOptions, resolve};

use crate::making::{COMPRESSIONS, Entries, Made, compared, compressed, file, folder, tar, tar_of_names, tree, zip};

fn kit() -> Entries {
    vec![
        ("stations".to_owned(), Made::Folder),
        file("stations/mouth.toml", "interval_s = 60\n"),
        file("stations/light.toml", "interval_s = 30\n"),
        ("run.sh".to_owned(), Made::File { bytes: b"#!/bin/sh\n".to_vec(), runs: true }),
        ("latest".to_owned(), Made::Link("stations/light.toml".to_owned())),
        ("empty".to_owned(), Made::Folder),
    ]
}

/// A folder with an archive of some bytes in it.
fn written(name: &str, bytes: &[u8]) -> (tempfile::TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join(name);
    fs::write(&path, bytes).unwrap();
    (folder, path)
}

fn statuses(before: &Path, after: &Path, sides: &SideOptions) -> Vec<(String, Status)> {
    let found = compared(before, after, sides, &TreeOptions::default());
    found.pairs.iter().map(|pair| (pair.path.to_text(), pair.status)).collect()
}

/// Every kind of archive, under a name that says nothing.
fn all_kinds(entries: &Entries) -> Vec<(String, Vec<u8>)> {
    let plain = tar(entries);
    let mut all = vec![
        ("zip".to_owned(), zip(entries, true)),
        ("stored zip".to_owned(), zip(entries, false)),
        ("tar".to_owned(), plain.clone()),
    ];
    all.extend(COMPRESSIONS.iter().map(|how| (format!("tar.{how}"), compressed(&plain, how))));
    all
}

#[test]
fn every_kind_is_known_by_its_contents_and_is_the_folder_it_was_made_of() {
    let place = tempfile::tempdir().unwrap();
    folder(&place.path().join("kit"), &kit());
    for (kind, bytes) in all_kinds(&kit()) {
        let path = place.path().join("download");
        fs::write(&path, bytes).unwrap();
        let found = statuses(&path, &place.path().join("kit"), &SideOptions::default());
        assert_eq!(found, [], "{kind}");
        let opened = tree(&path, &SideOptions::default());
        let metadata = opened.metadata(&"run.sh".into()).unwrap();
        assert_eq!((metadata.size, metadata.mode), (10, Some(0o755)), "{kind}");
        assert_eq!(opened.link_target(&"latest".into()).unwrap(), b"stations/light.toml", "{kind}");
        assert_eq!((*opened.contents(&"run.sh".into()).unwrap()).as_ref(), b"#!/bin/sh\n", "{kind}");
    }
}

#[test]
fn what_differs_is_told_line_by_line_between_any_two_kinds() {
    let place = tempfile::tempdir().unwrap();
    let mut other = kit();
    other[1] = file("stations/mouth.toml", "interval_s = 20\n");
    for ((kind, before), (_, after)) in all_kinds(&kit()).into_iter().zip(all_kinds(&other).into_iter().rev()) {
        let (one, two) = (place.path().join("one"), place.path().join("two"));
        fs::write(&one, before).unwrap();
        fs::write(&two, after).unwrap();
        let found = compared(&one, &two, &SideOptions::default(), &TreeOptions::default());
        let told: Vec<_> =
            found.pairs.iter().map(|pair| (pair.path.to_text(), pair.status, pair.extent.counted)).collect();
        assert_eq!(told, [("stations/mouth.toml".to_owned(), Status::Changed, 1)], "{kind}");
    }
}

#[test]
fn one_top_folder_is_looked_through_and_said() {
    let entries: Entries = kit().into_iter().map(|(path, made)| (format!("kit-1.2/{path}"), made)).collect();
    let (_place, path) = written("kit.zip", &zip(&entries, true));
    let opened = resolve(&path, &SideOptions::default()).unwrap();
    assert_eq!(opened.about.as_deref(), Some("kit.zip: zip archive, all in kit-1.2/"));
    let Side::Tree(tree) = opened.side else { panic!("it is a tree") };
    assert!(tree.metadata(&"run.sh".into()).is_ok());
}

#[test]
fn documents_are_files_unless_that_is_asked_for() {
    let entries = vec![file("[Content_Types].xml", "<Types/>"), file("word/document.xml", "<w/>")];
    let (_place, path) = written("minutes.docx", &zip(&entries, true));
    assert!(matches!(resolve(&path, &SideOptions::default()).unwrap().side, Side::File(_)));
    let asked = SideOptions::default().look_into(LookInto::Documents);
    assert!(matches!(resolve(&path, &asked).unwrap().side, Side::Tree(_)));
    let (_place, plain) = written("kit.zip", &zip(&kit(), true));
    let as_bytes = SideOptions::default().look_into(LookInto::Nothing);
    assert!(matches!(resolve(&plain, &as_bytes).unwrap().side, Side::File(_)));
}

#[test]
fn a_compressed_file_is_the_text_in_it() {
    for how in COMPRESSIONS {
        let (_place, path) = written("old.log.gz", &compressed(b"06:00 4.1\n", how));
        let opened = resolve(&path, &SideOptions::default()).unwrap();
        assert_eq!(opened.name.as_deref(), Some("old.log"), "{how}");
        let Side::File(content) = opened.side else { panic!("it is a file") };
        assert_eq!(&*content, b"06:00 4.1\n", "{how}");
    }
}

#[test]
fn archives_in_trees_are_folders_at_any_depth_and_packing_alone_is_muted() {
    let place = tempfile::tempdir().unwrap();
    let inner = |text: &str| zip(&vec![file("levels.csv", text)], true);
    let outer = |text: &str| {
        compressed(&tar(&vec![("inner.zip".to_owned(), Made::File { bytes: inner(text), runs: false })]), "gz")
    };
    let (one, two) = (place.path().join("one"), place.path().join("two"));
    fs::create_dir_all(&one).unwrap();
    fs::create_dir_all(&two).unwrap();
    fs::write(one.join("deep.tgz"), outer("4.1\n")).unwrap();
    fs::write(two.join("deep.tgz"), outer("4.2\n")).unwrap();
    fs::write(one.join("packed.zip"), zip(&kit(), true)).unwrap();
    fs::write(two.join("packed.zip"), zip(&kit(), false)).unwrap();
    fs::write(one.join("same.zip"), zip(&kit(), true)).unwrap();
    fs::write(two.join("same.zip"), zip(&kit(), true)).unwrap();
    fs::write(one.join("old.log.xz"), compressed(b"06:00\n", "xz")).unwrap();
    fs::write(two.join("old.log.xz"), compressed(b"06:00\n", "gz")).unwrap();
    let open = SideOptions::default().open_archives(true);
    for moves in [true, false] {
        let found = compared(&one, &two, &open, &TreeOptions::default().moves(moves));
        let told: Vec<_> = found.pairs.iter().map(|pair| (pair.path.to_text(), pair.status)).collect();
        let wanted = [
            ("deep.tgz/inner.zip/levels.csv".to_owned(), Status::Changed),
            ("old.log.xz".to_owned(), Status::Muted),
            ("packed.zip".to_owned(), Status::Muted),
        ];
        assert_eq!(told, wanted);
        let packing = found.pairs.iter().filter(|pair| pair.note == Some(Note::Packing)).count();
        assert_eq!(packing, 2, "the cause is told");
        assert!(found.differs());
    }
    // What is deeper than was allowed is a file, and that is said.
    let limits = tideline_sources::Limits { depth: 1, ..tideline_sources::Limits::default() };
    let found = compared(&one, &two, &open.clone().limits(limits), &TreeOptions::default());
    assert_eq!(found.pairs[0].path.to_text(), "deep.tgz/inner.zip");
    let remark = &found.remarks[0];
    assert_eq!(remark.path.as_ref().unwrap().to_text(), "deep.tgz/inner.zip");
    assert!(remark.text.contains("--archive-depth allows more"), "{}", remark.text);
    // Nothing is opened unless that was asked for.
    let plain = statuses(&one, &two, &SideOptions::default());
    assert_eq!(plain.len(), 3);
    assert!(plain.iter().all(|(_, status)| *status == Status::Changed));
}

#[test]
fn names_that_lead_out_or_stand_twice_are_entries_with_a_note() {
    let names = [
        ("../outside.txt", "1"),
        ("/etc/passwd", "2"),
        ("twice.txt", "old"),
        ("twice.txt", "new"),
        ("Case.txt", "3"),
        ("case.txt", "4"),
        ("h\u{f6}he.txt", "5"),
        ("ho\u{308}he.txt", "6"),
        ("both", "7"),
        ("both/inner.txt", "8"),
    ];
    for bytes in [tar_of_names(&names), compressed(&tar_of_names(&names), "gz")] {
        let (_place, path) = written("odd.tar", &bytes);
        let opened = tree(&path, &SideOptions::default());
        let remarks: Vec<String> = opened
            .remarks()
            .iter()
            .map(|remark| format!("{}: {}", remark.path.as_ref().unwrap().to_text(), remark.text))
            .collect();
        let has = |part: &str| assert!(remarks.iter().any(|line| line.contains(part)), "{part}: {remarks:#?}");
        has("../outside.txt: its name leads out of the folder");
        has("etc/passwd: its name is absolute");
        has("twice.txt: its name occurs 2 times");
        has("case.txt: its name differs from Case.txt only in case");
        has("h\u{f6}he.txt: its name differs");
        has("both: the archive has it as a file and as a folder");
        assert_eq!((*opened.contents(&"twice.txt".into()).unwrap()).as_ref(), b"new");
        assert_eq!((*opened.contents(&"../outside.txt".into()).unwrap()).as_ref(), b"1");
        let root = opened.list(&"".into()).unwrap();
        assert!(root.entries.iter().any(|entry| entry.name == b"both" && entry.entry_type == EntryType::Folder));
    }
}

/// A zip archive in which bytes of each header were replaced: of those before contents, and of those in the directory.
fn altered(entries: &Entries, local: usize, central: usize, with: &[u8]) -> Vec<u8> {
    let mut bytes = zip(entries, true);
    for (signature, at) in [(b"PK\x03\x04", local), (b"PK\x01\x02", central)] {
        let headers: Vec<usize> = memchr::memmem::find_iter(&bytes, signature).collect();
        for header in headers {
            bytes[header + at..header + at + with.len()].copy_from_slice(with);
        }
    }
    bytes
}

#[test]
fn encrypted_unknown_and_damaged_entries_are_unreadable_and_the_rest_goes_on() {
    let entries = vec![file("levels.csv", &"4.1\n".repeat(100))];
    let place = tempfile::tempdir().unwrap();
    folder(&place.path().join("kit"), &vec![file("levels.csv", &"4.2\n".repeat(100)), file("new.csv", "")]);
    let mut wrong_checksum = zip(&entries, false);
    let at = memchr::memmem::find(&wrong_checksum, b"4.1").unwrap();
    wrong_checksum[at] = b'9';
    let cases = [
        (altered(&entries, 6, 8, &[1, 0]), "it is encrypted"),
        (altered(&entries, 8, 10, &[98, 0]), "it is packed with method 98, which is not known"),
        (wrong_checksum, "its checksum is wrong"),
    ];
    for (bytes, reason) in cases {
        let path = place.path().join("kit.zip");
        fs::write(&path, bytes).unwrap();
        let found = compared(&path, &place.path().join("kit"), &SideOptions::default(), &TreeOptions::default());
        let told: Vec<_> = found.pairs.iter().map(|pair| (pair.path.to_text(), pair.status)).collect();
        let wanted = [("levels.csv".to_owned(), Status::Unreadable), ("new.csv".to_owned(), Status::New)];
        assert_eq!(told, wanted, "{reason}");
        let (Some(Note::Unreadable(why)) | Some(Note::UnreadableBefore(why))) = &found.pairs[0].note else {
            panic!("{reason}: {:?}", found.pairs[0].note);
        };
        assert!(why.to_string().contains(reason), "{why}");
    }
}

#[test]
fn a_cut_off_archive_tells_what_is_there_and_that_there_may_be_more() {
    let text = |seed: u32| {
        let numbers = (0..40_000_u32).map(|at| at.wrapping_mul(2_654_435_761).rotate_left(seed) % 9973);
        numbers.map(|number| format!("{number}\n")).collect::<String>()
    };
    let entries = vec![file("a.txt", &text(1)), file("b.txt", &text(2)), file("c.txt", &text(3))];
    let place = tempfile::tempdir().unwrap();
    folder(&place.path().join("kit"), &entries);
    for (kind, mut bytes) in all_kinds(&entries) {
        if kind.contains("zip") {
            continue;
        }
        bytes.truncate(bytes.len() / 2);
        let path = place.path().join("kit.tar");
        fs::write(&path, bytes).unwrap();
        let found = compared(&path, &place.path().join("kit"), &SideOptions::default(), &TreeOptions::default());
        let root = &found.pairs[0];
        assert!(root.path.is_root() && root.status == Status::Unreadable, "{kind}: {:?}", found.pairs);
        let Some(Note::UnreadableBefore(why)) = &root.note else { panic!("{kind}: {:?}", root.note) };
        assert!(why.to_string().contains("cut off"), "{kind}: {why}");
        assert!(found.pairs.iter().any(|pair| pair.path.to_text() == "c.txt" && pair.status == Status::New));
        // One that is whole is compared.
        assert!(found.count(Status::Same) + found.count(Status::Unreadable) >= 2, "{kind}: {found:?}");
    }
    // A zip archive has its directory at the end; without it, what stands before the cut is found by itself.
    let path = place.path().join("kit.zip");
    for is_packed in [true, false] {
        let bytes = zip(&entries, is_packed);
        fs::write(&path, &bytes[..bytes.len() / 2]).unwrap();
        let found = compared(&path, &place.path().join("kit"), &SideOptions::default(), &TreeOptions::default());
        let told: Vec<_> = found.pairs.iter().map(|pair| (pair.path.to_text(), pair.status)).collect();
        let wanted = [
            (String::new(), Status::Unreadable),
            ("b.txt".to_owned(), Status::Unreadable),
            ("c.txt".to_owned(), Status::New),
        ];
        assert_eq!(told, wanted, "packed: {is_packed}");
        assert_eq!(found.count(Status::Same), 1);
        let Some(Note::UnreadableBefore(why)) = &found.pairs[0].note else { panic!("{:?}", found.pairs[0].note) };
        assert!(why.to_string().contains("its directory cannot be read"), "{why}");
    }
    fs::write(&path, &zip(&entries, true)[..20]).unwrap();
    let Err(OpenError::Damaged { error, .. }) = resolve(&path, &SideOptions::default()) else {
        panic!("it is damaged")
    };
    assert!(error.to_string().contains("its directory cannot be read"), "{error}");
}

#[test]
fn a_zip_archive_whose_sizes_follow_is_read_with_its_directory_and_without() {
    let mut stream = zip::ZipWriter::new_stream(Vec::new());
    let options = zip::write::SimpleFileOptions::default();
    let lines: String = (0..9000).map(|at| format!("{at} {}\n", at * at % 977)).collect();
    for name in ["a.txt", "b.txt", "c.txt"] {
        stream.start_file(name, options).unwrap();
        std::io::Write::write_all(&mut stream, lines.as_bytes()).unwrap();
    }
    let bytes = stream.finish().unwrap().into_inner();
    let place = tempfile::tempdir().unwrap();
    folder(&place.path().join("kit"), &["a.txt", "b.txt", "c.txt"].map(|name| file(name, &lines)).to_vec());
    let path = place.path().join("kit.zip");
    fs::write(&path, &bytes).unwrap();
    assert_eq!(statuses(&path, &place.path().join("kit"), &SideOptions::default()), []);
    let directory = memchr::memmem::find(&bytes, b"PK\x01\x02").unwrap();
    fs::write(&path, &bytes[..directory]).unwrap();
    let found = statuses(&path, &place.path().join("kit"), &SideOptions::default());
    assert_eq!(found, [(String::new(), Status::Unreadable)], "only that there may be more");
}

#[test]
fn bounds_cut_and_say_so() {
    let bomb = vec![file("zeros.bin", &"\0".repeat(40 << 20)), file("note.txt", "here\n")];
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("bomb");
    let steep = |mut limits: tideline_sources::Limits| {
        limits.expansion_ratio = 100;
        limits
    };
    let small = |mut limits: tideline_sources::Limits| {
        limits.expanded_size = 1 << 20;
        limits
    };
    let few = |mut limits: tideline_sources::Limits| {
        limits.entries = 1;
        limits.expansion_ratio = u64::MAX;
        limits
    };
    type Change<'c> = &'c dyn Fn(tideline_sources::Limits) -> tideline_sources::Limits;
    let cases: [(Change<'_>, &str); 3] =
        [(&steep, "--expansion-ratio"), (&small, "--expanded-size"), (&few, "--archive-entries")];
    for (kind, bytes) in [("zip", zip(&bomb, true)), ("tar.zst", compressed(&tar(&bomb), "zst"))] {
        fs::write(&path, &bytes).unwrap();
        for (change, option) in cases {
            let sides = SideOptions::default().limits(change(tideline_sources::Limits::default()));
            let opened = tree(&path, &sides);
            let damage = opened.list(&"".into()).unwrap().damage.map(|reason| reason.to_string());
            let failed = opened.contents(&"zeros.bin".into()).err().map(|reason| reason.to_string());
            let told = format!("{} {}", damage.unwrap_or_default(), failed.unwrap_or_default());
            assert!(told.contains(option), "{kind} under {option}: {told}");
        }
    }
    let (_place, log) = written("zeros.gz", &compressed(&vec![0; 40 << 20], "gz"));
    let sides = SideOptions::default().limits(steep(tideline_sources::Limits::default()));
    let Err(error) = resolve(&log, &sides) else { panic!("it unpacks to too much") };
    assert!(error.to_string().contains("--expansion-ratio allows more"), "{error}");
}

#[test]
fn hard_links_are_the_file_they_name() {
    let mut builder = tar::Builder::new(Vec::new());
    let mut header = tar::Header::new_gnu();
    header.set_mode(0o644);
    header.set_size(4);
    builder.append_data(&mut header, "first.txt", &b"4.1\n"[..]).unwrap();
    let mut link = tar::Header::new_gnu();
    link.set_entry_type(tar::EntryType::Link);
    link.set_size(0);
    builder.append_link(&mut link.clone(), "second.txt", "first.txt").unwrap();
    builder.append_link(&mut link, "lost.txt", "nowhere.txt").unwrap();
    let plain = builder.into_inner().unwrap();
    for bytes in [plain.clone(), compressed(&plain, "gz")] {
        let (_place, path) = written("links.tar", &bytes);
        let opened = tree(&path, &SideOptions::default());
        assert_eq!((*opened.contents(&"second.txt".into()).unwrap()).as_ref(), b"4.1\n");
        assert_eq!(opened.metadata(&"second.txt".into()).unwrap().size, 4);
        let lost = opened.contents(&"lost.txt".into()).err().unwrap().to_string();
        assert!(lost.contains("another name of nowhere.txt"), "{lost}");
    }
}
