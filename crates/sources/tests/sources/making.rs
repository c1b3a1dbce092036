//! Archives of every kind, made by the packages that write them.

use std::io::{Cursor, Write};
use std::time::{Duration, SystemTime};

use tideline_core::internal::tree::{Tree, TreeComparison, TreeOptions, compare};
use tideline_sources::{OpenedSide, Side, SideOptions, resolve, resolve_both};
use zip::write::SimpleFileOptions;

/// An entry of an archive.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Made {
    File { bytes: Vec<u8>, runs: bool },
    Folder,
    Link(String),
}

/// What goes into an archive, by path.
pub(crate) type Entries = Vec<(String, Made)>;

pub(crate) fn file(path: &str, text: &str) -> (String, Made) {
    (path.to_owned(), Made::File { bytes: text.as_bytes().to_vec(), runs: false })
}

/// When everything was changed, in seconds since 1970.
pub(crate) const TIME: u64 = 1_700_000_000;

fn mode(made: &Made) -> u32 {
    match made {
        Made::File { runs: false, .. } => 0o644,
        Made::File { runs: true, .. } | Made::Folder => 0o755,
        Made::Link(_) => 0o777,
    }
}

/// A tar archive.
pub(crate) fn tar(entries: &Entries) -> Vec<u8> {
    let mut builder = tar::Builder::new(Vec::new());
    for (path, made) in entries {
        let mut header = tar::Header::new_gnu();
        header.set_mode(mode(made));
        header.set_mtime(TIME);
        header.set_size(0);
        match made {
            Made::File { bytes, .. } => {
                header.set_size(bytes.len() as u64);
                builder.append_data(&mut header, path, &bytes[..]).unwrap();
            }
            Made::Folder => {
                header.set_entry_type(tar::EntryType::Directory);
                builder.append_data(&mut header, format!("{path}/"), &b""[..]).unwrap();
            }
            Made::Link(target) => {
                header.set_entry_type(tar::EntryType::Symlink);
                builder.append_link(&mut header, path, target).unwrap();
            }
        }
    }
    builder.into_inner().unwrap()
}

/// A tar archive with names as they are, whatever they are.
pub(crate) fn tar_of_names(entries: &[(&str, &str)]) -> Vec<u8> {
    let mut archive = Vec::new();
    for (name, text) in entries {
        let mut header = tar::Header::new_gnu();
        header.as_mut_bytes()[..name.len()].copy_from_slice(name.as_bytes());
        header.set_mode(0o644);
        header.set_size(text.len() as u64);
        header.set_cksum();
        archive.extend_from_slice(header.as_bytes());
        archive.extend_from_slice(text.as_bytes());
        archive.resize(archive.len().next_multiple_of(512), 0);
    }
    archive.resize(archive.len() + 1024, 0);
    archive
}

/// A zip archive, packed or as it is.
pub(crate) fn zip(entries: &Entries, is_packed: bool) -> Vec<u8> {
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let method = if is_packed { zip::CompressionMethod::Deflated } else { zip::CompressionMethod::Stored };
    let local = jiff::Timestamp::from_second(TIME as i64).unwrap().to_zoned(jiff::tz::TimeZone::system());
    let part = |number: i8| u8::try_from(number).unwrap();
    let (day, time) = (local.date(), local.time());
    let changed = zip::DateTime::from_date_and_time(
        u16::try_from(day.year()).unwrap(),
        part(day.month()),
        part(day.day()),
        part(time.hour()),
        part(time.minute()),
        part(time.second()),
    );
    let plain = SimpleFileOptions::default().compression_method(method).last_modified_time(changed.unwrap());
    for (path, made) in entries {
        let options = plain.unix_permissions(mode(made));
        match made {
            Made::File { bytes, .. } => {
                writer.start_file(path.as_str(), options).unwrap();
                writer.write_all(bytes).unwrap();
            }
            Made::Folder => writer.add_directory(path.as_str(), options).unwrap(),
            Made::Link(target) => writer.add_symlink(path.as_str(), target.as_str(), options).unwrap(),
        }
    }
    writer.finish().unwrap().into_inner()
}

/// How a stream can be compressed.
pub(crate) const COMPRESSIONS: [&str; 4] = ["gz", "xz", "zst", "bz2"];

/// Bytes, compressed.
pub(crate) fn compressed(bytes: &[u8], how: &str) -> Vec<u8> {
    match how {
        "gz" => {
            let mut encoder = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
            encoder.write_all(bytes).unwrap();
            encoder.finish().unwrap()
        }
        "xz" => {
            let mut encoder = liblzma::write::XzEncoder::new(Vec::new(), 1);
            encoder.write_all(bytes).unwrap();
            encoder.finish().unwrap()
        }
        "zst" => zstd::encode_all(bytes, 1).unwrap(),
        _ => {
            let mut encoder = bzip2::write::BzEncoder::new(Vec::new(), bzip2::Compression::fast());
            encoder.write_all(bytes).unwrap();
            encoder.finish().unwrap()
        }
    }
}

/// Writes what goes into archives into a folder.
pub(crate) fn folder(root: &std::path::Path, entries: &Entries) {
    std::fs::create_dir_all(root).unwrap();
    for (path, made) in entries {
        let full = root.join(path);
        std::fs::create_dir_all(full.parent().unwrap()).unwrap();
        match made {
            Made::File { bytes, .. } => {
                std::fs::write(&full, bytes).unwrap();
                let file = std::fs::File::options().append(true).open(&full).unwrap();
                file.set_modified(SystemTime::UNIX_EPOCH + Duration::from_secs(TIME)).unwrap();
                std::fs::set_permissions(&full, std::os::unix::fs::PermissionsExt::from_mode(mode(made))).unwrap();
            }
            Made::Folder => std::fs::create_dir_all(&full).unwrap(),
            Made::Link(target) => std::os::unix::fs::symlink(target, &full).unwrap(),
        }
    }
}

/// What a side is opened as.
pub(crate) fn tree(path: &std::path::Path, options: &SideOptions) -> Box<dyn Tree> {
    let OpenedSide { side, .. } = resolve(path, options).unwrap();
    match side {
        Side::Tree(tree) => tree,
        Side::File(_) => panic!("{} is a file", path.display()),
    }
}

/// Two sides, compared.
pub(crate) fn compared(
    before: &std::path::Path,
    after: &std::path::Path,
    sides: &SideOptions,
    options: &TreeOptions,
) -> TreeComparison {
    let (before, after) = resolve_both((before, after), sides).unwrap();
    match (before.side, after.side) {
        (Side::Tree(before), Side::Tree(after)) => compare(&*before, &*after, options, &Default::default()),
        _ => panic!("both are trees"),
    }
}
