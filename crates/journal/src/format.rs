//! A record on the disk: lines of JSON. First the head, then an entry a line, then a folder a line in which entries come or go,
//! and last a checksum of all before. Paths are written as what they do not share with the path of the line before.

use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use tideline_core::internal::plan::Moment;

use crate::files::Identity;
use crate::record::{Entry, NewState, OldState, PathText, Place, Run, RunRecord, Site, Touched, VERSION};

/// The longest a checksum line gets.
pub(crate) const CHECKSUM: u64 = 96;

#[derive(Serialize, Deserialize)]
struct Checksum {
    blake3: String,
}

/// A path as it is written: the number of its root, how many bytes it shares with the path of the line before, up to a `/`, and the rest.
#[derive(Serialize, Deserialize)]
struct PlaceText(usize, usize, PathText);

#[derive(Serialize)]
struct EntryLine<'e> {
    path: PlaceText,
    was: &'e OldState,
    will: &'e NewState,
    site: &'e Site,
    #[serde(skip_serializing_if = "Option::is_none")]
    with: Option<usize>,
    #[serde(skip_serializing_if = "Option::is_none")]
    prepared: &'e Option<NewState>,
}

#[derive(Deserialize)]
struct ReadEntry {
    path: PlaceText,
    was: OldState,
    will: NewState,
    site: Site,
    #[serde(default)]
    with: Option<usize>,
    #[serde(default)]
    prepared: Option<NewState>,
}

#[derive(Serialize, Deserialize)]
struct TouchedLine {
    path: PlaceText,
    identity: Identity,
    before: Option<Moment>,
    after: Option<Moment>,
    unlocked: Option<u32>,
}

/// The bytes of a record.
pub(crate) fn written(run: &Run) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(256 * (run.entries.len() + 2));
    let mut head = run.head.clone();
    (head.entries, head.touched) = (run.entries.len(), run.touched.len());
    line(&head, &mut bytes);
    let mut last = PathBuf::new();
    for entry in &run.entries {
        let path = place_text(&entry.place, &mut last);
        let Entry { was, will, site, with, prepared, .. } = entry;
        line(&EntryLine { path, was, will, site, with: *with, prepared }, &mut bytes);
    }
    for touched in &run.touched {
        let path = place_text(&touched.place, &mut last);
        let Touched { identity, before, after, unlocked, .. } = *touched;
        line(&TouchedLine { path, identity, before, after, unlocked }, &mut bytes);
    }
    let sum = Checksum { blake3: blake3::hash(&bytes).to_hex().to_string() };
    line(&sum, &mut bytes);
    bytes
}

fn line(value: &impl Serialize, bytes: &mut Vec<u8>) {
    // Values of these types are always written: they hold no maps, and a vector takes all bytes.
    if serde_json::to_writer(&mut *bytes, value).is_ok() {
        bytes.push(b'\n');
    }
}

fn place_text(place: &Place, last: &mut PathBuf) -> PlaceText {
    let (one, other) = (place.path.as_os_str().as_encoded_bytes(), last.as_os_str().as_encoded_bytes());
    let alike = one.iter().zip(other).take_while(|(one, other)| one == other).count();
    let shared = one[..alike].iter().rposition(|&byte| byte == b'/').map_or(0, |slash| slash + 1);
    let rest = PathText::of_bytes(&one[shared..]);
    last.clone_from(&place.path);
    PlaceText(place.root, shared, rest)
}

fn place_of(PlaceText(root, shared, rest): &PlaceText, last: &mut PathBuf, roots: usize) -> Result<Place, String> {
    let shared = last.as_os_str().as_encoded_bytes().get(..*shared).ok_or("a path that shares too much")?;
    let bytes = [shared, rest.path().as_os_str().as_encoded_bytes()].concat();
    let path = tideline_core::internal::plan::path_of(&bytes).ok_or("a path that cannot be one here")?;
    let stays_inside = path.components().all(|part| matches!(part, std::path::Component::Normal(_)));
    if *root >= roots || !stays_inside {
        return Err("a path that leads elsewhere".to_owned());
    }
    last.clone_from(&path);
    Ok(Place::new(*root, path))
}

/// The head of a record, of its first bytes; `None` when they do not hold all of it.
pub(crate) fn read_head(bytes: &[u8]) -> Option<Result<RunRecord, String>> {
    let end = bytes.iter().position(|&byte| byte == b'\n')?;
    Some(head_of(&bytes[..end]))
}

fn head_of(line: &[u8]) -> Result<RunRecord, String> {
    let head: RunRecord = serde_json::from_slice(line).map_err(|error| format!("its head is damaged: {error}"))?;
    if head.version == VERSION {
        Ok(head)
    } else {
        Err(format!("it has the version {}, and this program writes {VERSION}", head.version))
    }
}

/// Whether the last bytes of a record end with a checksum, so that it was not cut short.
pub(crate) fn ends_whole(bytes: &[u8]) -> bool {
    let Some(bytes) = bytes.strip_suffix(b"\n") else { return false };
    let start = bytes.iter().rposition(|&byte| byte == b'\n').map_or(0, |at| at + 1);
    serde_json::from_slice::<Checksum>(&bytes[start..]).is_ok()
}

/// A record from its bytes.
pub(crate) fn read(bytes: &[u8]) -> Result<Run, String> {
    let damaged = "it is damaged";
    let without_end = bytes.strip_suffix(b"\n").ok_or(damaged)?;
    let start = without_end.iter().rposition(|&byte| byte == b'\n').map_or(0, |at| at + 1);
    let sum: Checksum = serde_json::from_slice(&without_end[start..]).map_err(|_| damaged)?;
    if blake3::hash(&bytes[..start]).to_hex().as_str() != sum.blake3 {
        return Err("its checksum does not fit".to_owned());
    }
    let mut lines = bytes[..start].split(|&byte| byte == b'\n');
    let head = head_of(lines.next().unwrap_or_default())?;
    let mut run = Run { entries: Vec::with_capacity(head.entries.min(1 << 20)), touched: Vec::new(), head };
    let mut last = PathBuf::new();
    let roots = run.head.roots.len();
    for _ in 0..run.head.entries {
        let line: ReadEntry = parsed(lines.next())?;
        let place = place_of(&line.path, &mut last, roots)?;
        let ReadEntry { was, will, site, with, prepared, .. } = line;
        run.entries.push(Entry { place, was, will, site, with, prepared });
    }
    for _ in 0..run.head.touched {
        let line: TouchedLine = parsed(lines.next())?;
        let place = place_of(&line.path, &mut last, roots)?;
        let TouchedLine { identity, before, after, unlocked, .. } = line;
        run.touched.push(Touched { place, identity, before, after, unlocked });
    }
    check_links(&run)?;
    Ok(run)
}

fn parsed<'b, T: Deserialize<'b>>(line: Option<&'b [u8]>) -> Result<T, String> {
    serde_json::from_slice(line.unwrap_or_default()).map_err(|error| format!("a line of it is damaged: {error}"))
}

/// What entries say of other entries must be about entries.
fn check_links(run: &Run) -> Result<(), String> {
    let all = run.entries.len();
    let fits = run.entries.iter().all(|entry| {
        let same_as = if let OldState::File(file) = &entry.was { file.same_as } else { None };
        let top = if let Site::Within(top) = entry.site { Some(top) } else { None };
        let above_stays_inside = match &entry.site {
            Site::Above(folder) => is_inside(&folder.path()),
            _ => true,
        };
        above_stays_inside && [entry.with, same_as, top].into_iter().flatten().all(|other| other < all)
    });
    if fits { Ok(()) } else { Err("it speaks of entries that it does not have".to_owned()) }
}

fn is_inside(path: &Path) -> bool {
    path.components().all(|part| matches!(part, std::path::Component::Normal(_)))
}
