//! Reading patches as they are found in the wild: the unified and the context format of POSIX.1-2017, with whatever stands
//! around them in a mail, and with the further headers that version-control systems write.

use bytes::Bytes;

use super::headers::{Pending, is_extended, split_names};
use super::model::{Binary, FilePatch, Hunk, HunkLine, LineRole, Operation, Patch};
use super::names::{header_name, is_epoch};
use super::reader::{PatchError, Reader, take_no_line_end, without_end};
use super::{binary, context, wrapping};
use crate::internal::text::bytes::line_end;

/// Reads a patch, also one that is compressed with gzip, in UTF-16 or in a mail. Text without any hunk or header is no patch; nothing at
/// all is a patch of no files.
///
/// # Errors
/// When a header or a hunk is damaged, with the line and what was expected there.
///
/// ```
/// use tideline_core::internal::patch::read_patch;
///
/// let patch = read_patch(b"Hello,\n\n--- a/x\n+++ b/x\n@@ -1 +1 @@\n-low\n+high\n").unwrap();
/// assert_eq!(patch.files[0].before.as_deref(), Some(&b"a/x"[..]));
/// ```
pub fn read_patch(bytes: &[u8]) -> Result<Patch, PatchError> {
    read_shared_patch(&Bytes::copy_from_slice(bytes))
}

/// Reads a patch as [`read_patch`] does; what it says shares the memory of `whole`.
///
/// # Errors
/// As [`read_patch`].
pub fn read_shared_patch(whole: &Bytes) -> Result<Patch, PatchError> {
    let whole = &wrapping::unwrapped(whole)?;
    let files = match split(whole) {
        Some(at) => read_halves(whole, at)?,
        None => read_upto(&mut Reader::new(whole, 0), whole.len())?,
    };
    if files.is_empty() && !whole.trim_ascii().is_empty() {
        return Err(PatchError {
            line: 1,
            reason: "there is no patch in it: no line begins with `--- ` before one with `+++ `".to_owned(),
        });
    }
    Ok(Patch { files })
}

/// Patches from this size on are read by two threads.
const LARGE: usize = 1 << 20;

/// Where a part about a file seems to begin, past the middle of a large patch.
fn split(whole: &Bytes) -> Option<usize> {
    let mut at = line_end(whole, whole.len() / 2);
    let end = (at + LARGE).min(whole.len());
    while whole.len() >= LARGE && at < end {
        let reader = Reader::new(whole, at);
        let starts = |ahead: usize, with: &[u8]| reader.line(ahead).is_some_and(|line| line.starts_with(with));
        let line = reader.peek()?;
        if line.starts_with(b"diff --git ") || line.starts_with(b"--- ") && starts(1, b"+++ ") && starts(2, b"@@ -") {
            return Some(at);
        }
        at += line.len();
    }
    None
}

/// Reads both halves side by side. Where the first does not end in front of a part about a file, what looked like one stands inside
/// a hunk, and the first goes on to the end.
fn read_halves(whole: &Bytes, at: usize) -> Result<Vec<FilePatch>, PatchError> {
    let mut reader = Reader::new(whole, 0);
    let (first, second) =
        rayon::join(|| read_upto(&mut reader, at), || read_upto(&mut Reader::new(whole, at), whole.len()));
    let mut files = first?;
    if reader.at() != at {
        files.extend(read_upto(&mut reader, whole.len())?);
        return Ok(files);
    }
    let above = reader.number;
    let second = second.map_err(|error| PatchError { line: error.line + above, ..error })?;
    files.extend(second.into_iter().map(|mut file| {
        file.line += above;
        file.hunks.iter_mut().for_each(|hunk| hunk.line += above);
        file
    }));
    Ok(files)
}

/// Reads the parts about files that begin in front of `end`.
fn read_upto(reader: &mut Reader<'_>, end: usize) -> Result<Vec<FilePatch>, PatchError> {
    let mut files = Vec::new();
    // What headers said of a file whose hunks have not come yet.
    let mut pending: Option<Pending<'_>> = None;
    // Whether something follows the last header.
    let mut is_followed = false;
    while let Some(line) = reader.peek() {
        let bare = without_end(line);
        // Headers that say more of a file belong to the hunks that follow.
        if reader.at() >= end && (pending.is_none() || bare.starts_with(b"diff --git ")) {
            break;
        }
        if let Some(names) = bare.strip_prefix(b"diff --git ") {
            files.extend(pending.take().and_then(Pending::finished));
            pending = Some(Pending::new(names, reader.number()));
            is_followed = false;
            reader.next();
        } else if let Some(pending) = pending.as_mut().filter(|_| bare == b"GIT binary patch") {
            reader.next();
            let there =
                binary::read(reader)?.ok_or_else(|| reader.error("`literal SIZE` or `delta SIZE` was expected"))?;
            let back = binary::read(reader)?;
            pending.file.binary = Some(Binary::Carried(there, back));
        } else if let Some(names) = differing(bare) {
            match pending.as_mut() {
                Some(pending) => pending.file.binary = Some(Binary::Differs),
                None => files.push(two_files(names, reader.number())),
            }
            reader.next();
        } else if let Some(pending) = pending.as_mut().filter(|_| is_extended(bare)) {
            pending.extended(bare, reader.number())?;
            reader.next();
        } else if bare.starts_with(b"--- ") && reader.line(1).is_some_and(|next| next.starts_with(b"+++ ")) {
            let names = (header_name(&bare[4..]), reader.line(1).and_then(|next| header_name(&without_end(next)[4..])));
            let others = pending.take_if(|pending| pending.file.binary.is_some() || !pending.is_about(&names));
            files.extend(others.and_then(Pending::finished));
            let (file, says_all) = file_of_headers(reader, pending.take());
            files.push(unified(reader, file, says_all)?);
        } else if bare.starts_with(b"*** ")
            && reader.line(1).is_some_and(|next| next.starts_with(b"--- "))
            && reader.line(2).is_some_and(|next| next.starts_with(b"***************"))
        {
            let (file, _) = file_of_headers(reader, pending.take());
            files.push(context::read(reader, file)?);
        } else if bare.starts_with(b"@@ -") {
            return Err(reader.error("a hunk without the two lines `--- NAME` and `+++ NAME` above it"));
        } else {
            is_followed |= !bare.trim_ascii().is_empty();
            reader.next();
        }
    }
    if let Some(pending) = pending {
        if reader.peek().is_none() && !is_followed {
            pending.check_end()?;
        }
        files.extend(pending.finished());
    }
    Ok(files)
}

/// The two names in a line that says that files which are not text differ.
fn differing(line: &[u8]) -> Option<&[u8]> {
    let rest = line.strip_prefix(b"Binary files ").or_else(|| line.strip_prefix(b"Files "))?;
    let names = rest.strip_suffix(b" differ")?;
    names.windows(5).any(|part| part == b" and ").then_some(names)
}

/// A part that says of two files only that they differ.
fn two_files(names: &[u8], line: usize) -> FilePatch {
    let (before, after) = split_names(names, b" and ").unwrap_or((names, names));
    let name = |name: &[u8]| (name != b"/dev/null").then(|| name.to_vec());
    FilePatch { before: name(before), after: name(after), binary: Some(Binary::Differs), line, ..FilePatch::default() }
}

/// Takes the two header lines, into what further headers said already; and whether there were such.
fn file_of_headers(reader: &mut Reader<'_>, pending: Option<Pending<'_>>) -> (FilePatch, bool) {
    let line = reader.number();
    let mut header = || {
        let text = reader.next().map(|line| &without_end(line)[4..]).unwrap_or_default();
        (header_name(text), is_epoch(text))
    };
    let ((before, none_before), (after, none_after)) = (header(), header());
    let says_all = pending.is_some();
    let mut file = match pending {
        Some(Pending { file, .. }) if file.operation != Operation::Change => return (file, true),
        Some(Pending { file, .. }) => FilePatch { before, after, ..file },
        None => FilePatch { before, after, line, ..FilePatch::default() },
    };
    file.absent.0 |= none_before || file.before.is_none();
    file.absent.1 |= none_after || file.after.is_none();
    (file, says_all)
}

/// Reads the hunks of the unified format; there may be none where further headers say all.
fn unified(reader: &mut Reader<'_>, mut file: FilePatch, says_all: bool) -> Result<FilePatch, PatchError> {
    while reader.peek().is_some_and(|line| line.starts_with(b"@@ ")) {
        file.hunks.push(unified_hunk(reader)?);
    }
    if file.hunks.is_empty() && !(says_all && (file.operation != Operation::Change || file.modes != (None, None))) {
        return Err(reader.error("a hunk was expected, which begins with `@@ -LINE,COUNT +LINE,COUNT @@`"));
    }
    Ok(file)
}

fn unified_hunk(reader: &mut Reader<'_>) -> Result<Hunk, PatchError> {
    let number = reader.number();
    let head = reader.next().map(without_end).unwrap_or_default();
    let damaged =
        || PatchError { line: number, reason: "the head of a hunk was expected, as in `@@ -12,3 +12,4 @@`".to_owned() };
    let ((before, gone), (after, new)) = ranges(head).ok_or_else(damaged)?;
    // An empty range names the line before it.
    let start = |line: usize, count: usize| if count == 0 { line } else { line.saturating_sub(1) };
    // Every line takes a byte at least, so that no count that is written can ask for more room than the patch has itself.
    let most = gone.max(new).saturating_add(gone.min(new) / 4);
    let mut hunk = Hunk {
        before: start(before, gone),
        after: start(after, new),
        lines: Vec::with_capacity(most.min(reader.left())),
        line: number,
    };
    let mut found = (0, 0);
    while found.0 < gone || found.1 < new {
        let role = reader.peek().and_then(|line| match line[0] {
            b' ' | b'\n' | b'\r' | b'\t' if found.0 < gone && found.1 < new => Some(LineRole::Context),
            b'-' if found.0 < gone => Some(LineRole::Gone),
            b'+' if found.1 < new => Some(LineRole::New),
            _ => None,
        });
        let (Some(role), Some(line)) = (role, reader.peek()) else {
            return Err(miscounted(number, (gone, new), all_lines(reader, found)));
        };
        if !line.ends_with(b"\n") && role != LineRole::Context {
            return Err(
                reader.error("the patch ends within this line; if the line is whole, add the line end that it lacks")
            );
        }
        // Mail programs take the blank of an empty line away.
        let text = if matches!(line[0], b'\n' | b'\r' | b'\t') { line } else { &line[1..] };
        hunk.lines.push(HunkLine { role, text: reader.text(text) });
        found.0 += usize::from(role != LineRole::New);
        found.1 += usize::from(role != LineRole::Gone);
        reader.next();
        take_no_line_end(reader, &mut hunk.lines);
    }
    match all_lines(reader, found) {
        all if all == found => Ok(hunk),
        all => Err(miscounted(number, (gone, new), all)),
    }
}

fn miscounted(line: usize, says: (usize, usize), stand: (usize, usize)) -> PatchError {
    let lines = |count: usize| if count == 1 { "line" } else { "lines" };
    let (before, after) = (lines(says.0), lines(says.1));
    let reason = format!(
        "the patch is cut off or damaged: the head of this hunk says {} {before} before and {} {after} after; {} and {} stand there",
        says.0, says.1, stand.0, stand.1
    );
    PatchError { line, reason }
}

/// How many lines of either side a hunk has with those that follow here, without reading them.
fn all_lines(reader: &Reader<'_>, (mut before, mut after): (usize, usize)) -> (usize, usize) {
    let mut ahead = 0;
    while let Some(line) = reader.line(ahead) {
        let next = |with: &[u8]| reader.line(ahead + 1).is_some_and(|next| next.starts_with(with));
        match line[0] {
            // The next file, or the signature of a mail.
            b'-' if line.starts_with(b"--- ") && next(b"+++ ") || matches!(without_end(line), b"-- " | b"--") => break,
            b'-' => before += 1,
            b'+' => after += 1,
            b' ' if !without_end(line).trim_ascii().is_empty() => (before, after) = (before + 1, after + 1),
            _ => break,
        }
        ahead += 1;
    }
    (before, after)
}

type Range = (usize, usize);

/// The two ranges of a hunk's head; a count that is left out is 1.
fn ranges(head: &[u8]) -> Option<(Range, Range)> {
    let text = std::str::from_utf8(head.get(..head.len().min(120))?).ok().or_else(|| {
        let end = head.windows(3).skip(3).position(|part| part == b" @@")? + 6;
        std::str::from_utf8(&head[..end]).ok()
    })?;
    let text = text.strip_prefix("@@ -")?;
    let (before, rest) = text.split_once(" +")?;
    let after = rest.split_once(" @@").map(|(after, _)| after)?;
    let range = |text: &str| -> Option<Range> {
        match text.split_once(',') {
            Some((start, count)) => Some((start.parse().ok()?, count.parse().ok()?)),
            None => Some((text.parse().ok()?, 1)),
        }
    };
    Some((range(before)?, range(after)?))
}
