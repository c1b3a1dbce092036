//! Reading patches as they are found in the wild: the unified and the context format of POSIX.1-2017, with whatever stands
//! around them in a mail, and with the further headers that version-control systems write.

use bytes::Bytes;

use super::context;
use super::model::{FilePatch, Hunk, HunkLine, LineRole, Patch};
use crate::text::bytes::line_end;

/// Why a patch cannot be read.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {reason}")]
pub struct PatchError {
    /// The line of the patch, from 1.
    pub line: usize,
    /// What was expected there.
    pub reason: String,
}

/// Reads a patch. Text without any hunk or header is no patch.
///
/// # Errors
/// When a header or a hunk is damaged, with the line and what was expected there.
///
/// ```
/// use tideline_core::patch::read_patch;
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
    let files = match split(whole) {
        Some(at) => read_halves(whole, at)?,
        None => read_upto(&mut Reader::new(whole, 0), whole.len())?,
    };
    if files.is_empty() {
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
    let mut pending: Option<FilePatch> = None;
    let mut names: &[u8] = b"";
    while let Some(line) = reader.peek() {
        let bare = without_end(line);
        // Headers that say more of a file belong to the hunks that follow.
        if reader.at() >= end && (pending.is_none() || bare.starts_with(b"diff --git ")) {
            break;
        }
        if let Some(rest) = bare.strip_prefix(b"diff --git ") {
            files.extend(pending.take());
            pending = Some(FilePatch { line: reader.number(), ..two_names(rest) });
            names = rest;
            reader.next();
        } else if let Some(file) = pending.as_mut().filter(|_| is_extended(bare)) {
            extended(bare, names, file, reader.number())?;
            reader.next();
        } else if bare.starts_with(b"--- ") && reader.line(1).is_some_and(|next| next.starts_with(b"+++ ")) {
            files.extend(pending.take_if(|file| file.unfit.is_some()));
            let file = file_of_headers(reader, pending.take());
            files.push(unified(reader, file)?);
        } else if bare.starts_with(b"*** ")
            && reader.line(1).is_some_and(|next| next.starts_with(b"--- "))
            && reader.line(2).is_some_and(|next| next.starts_with(b"***************"))
        {
            let file = file_of_headers(reader, pending.take());
            files.push(context::read(reader, file)?);
        } else if bare.starts_with(b"@@ -") {
            return Err(reader.error("a hunk without the two lines `--- NAME` and `+++ NAME` above it"));
        } else {
            reader.next();
        }
    }
    files.extend(pending);
    Ok(files)
}

/// A patch, and where in it the reading stands.
pub(super) struct Reader<'p> {
    whole: &'p Bytes,
    /// The line that comes next.
    next: &'p [u8],
    /// Where it ends.
    end: usize,
    /// Its number, from 0.
    number: usize,
}

impl<'p> Reader<'p> {
    fn new(whole: &'p Bytes, at: usize) -> Self {
        let end = line_end(whole, at);
        Self { whole, next: &whole[at..end], end, number: 0 }
    }

    /// Where the line that comes next begins.
    fn at(&self) -> usize {
        self.end - self.next.len()
    }

    pub(super) fn peek(&self) -> Option<&'p [u8]> {
        (!self.next.is_empty()).then_some(self.next)
    }

    /// The line so many ahead.
    fn line(&self, ahead: usize) -> Option<&'p [u8]> {
        let mut at = self.at();
        for _ in 0..ahead {
            at = line_end(self.whole, at);
        }
        (at < self.whole.len()).then(|| &self.whole[at..line_end(self.whole, at)])
    }

    pub(super) fn next(&mut self) -> Option<&'p [u8]> {
        let line = self.peek();
        let start = self.end;
        self.end = line_end(self.whole, start);
        self.next = &self.whole[start..self.end];
        self.number += 1;
        line
    }

    /// Bytes that are not read yet.
    fn left(&self) -> usize {
        self.whole.len() - self.at()
    }

    /// A part of the patch as the text of a hunk's line. It is a whole line, also where the patch lacks its own last line end.
    pub(super) fn text(&self, part: &[u8]) -> Bytes {
        if part.ends_with(b"\n") { self.whole.slice_ref(part) } else { Bytes::from([part, b"\n"].concat()) }
    }

    /// The number of the line that comes next, from 1.
    pub(super) fn number(&self) -> usize {
        self.number + 1
    }

    pub(super) fn error(&self, reason: impl Into<String>) -> PatchError {
        PatchError { line: self.number(), reason: reason.into() }
    }
}

/// A line without its line end.
pub(super) fn without_end(line: &[u8]) -> &[u8] {
    let line = line.strip_suffix(b"\n").unwrap_or(line);
    line.strip_suffix(b"\r").unwrap_or(line)
}

/// Takes the two header lines, into what further headers said already.
fn file_of_headers(reader: &mut Reader<'_>, pending: Option<FilePatch>) -> FilePatch {
    let line = reader.number();
    let name = |header: Option<&[u8]>| header.and_then(|header| header_name(&without_end(header)[4..]));
    let (before, after) = (name(reader.next()), name(reader.next()));
    match pending {
        Some(file) if file.renames => file,
        Some(file) => FilePatch { before, after, ..file },
        None => FilePatch { before, after, line, ..FilePatch::default() },
    }
}

/// The name in a header: up to a tab, which a time stamp follows; none of a file that is not there.
fn header_name(text: &[u8]) -> Option<Vec<u8>> {
    let name = match text.first() {
        Some(b'"') => unquoted(text).map(|(name, _)| name),
        _ => None,
    };
    let name =
        name.unwrap_or_else(|| text.split(|&byte| byte == b'\t').next().unwrap_or_default().trim_ascii_end().to_vec());
    (name != b"/dev/null").then_some(name)
}

/// A name quoted as in C, and what follows it.
fn unquoted(text: &[u8]) -> Option<(Vec<u8>, &[u8])> {
    let mut rest = text.strip_prefix(b"\"")?;
    let mut name = Vec::new();
    loop {
        let (&byte, tail) = rest.split_first()?;
        rest = tail;
        match byte {
            b'"' => return Some((name, rest)),
            b'\\' => {
                let (&escaped, tail) = rest.split_first()?;
                rest = tail;
                name.push(match escaped {
                    b'n' => b'\n',
                    b't' => b'\t',
                    b'r' => b'\r',
                    b'a' => 7,
                    b'b' => 8,
                    b'v' => 11,
                    b'f' => 12,
                    b'0'..=b'7' => {
                        let digits: Vec<u8> = [escaped]
                            .into_iter()
                            .chain(rest.iter().copied().take(2).take_while(|byte| (b'0'..=b'7').contains(byte)))
                            .collect();
                        rest = &rest[digits.len() - 1..];
                        digits.iter().fold(0_u8, |value, digit| value.wrapping_mul(8).wrapping_add(digit - b'0'))
                    }
                    other => other,
                });
            }
            _ => name.push(byte),
        }
    }
}

/// The two names of a line `diff --git BEFORE AFTER`: they are of equal length unless the file moves, and then other headers say it.
fn two_names(text: &[u8]) -> FilePatch {
    let both = |before: Vec<u8>, after: Vec<u8>| FilePatch {
        before: Some(before),
        after: Some(after),
        ..FilePatch::default()
    };
    if let Some((before, rest)) = unquoted(text) {
        let rest = rest.trim_ascii_start();
        let after = unquoted(rest).map_or_else(|| rest.to_vec(), |(name, _)| name);
        return both(before, after);
    }
    let tail =
        |name: &[u8]| name.iter().position(|&byte| byte == b'/').map_or(name.to_vec(), |at| name[at + 1..].to_vec());
    let halves =
        text.iter().enumerate().filter(|(_, byte)| **byte == b' ').map(|(at, _)| (&text[..at], &text[at + 1..]));
    let mut candidates = halves.collect::<Vec<_>>();
    let same = candidates.iter().position(|(before, after)| tail(before) == tail(after));
    match same.map(|at| candidates.swap_remove(at)).or_else(|| candidates.into_iter().next()) {
        Some((before, after)) => both(before.to_vec(), after.to_vec()),
        None => FilePatch::default(),
    }
}

const EXTENDED: [&[u8]; 14] = [
    b"old mode ",
    b"new mode ",
    b"deleted file mode ",
    b"new file mode ",
    b"rename from ",
    b"rename to ",
    b"copy from ",
    b"copy to ",
    b"similarity index ",
    b"dissimilarity index ",
    b"index ",
    b"Binary files ",
    b"GIT binary patch",
    b"Binary file ",
];

fn is_extended(line: &[u8]) -> bool {
    EXTENDED.iter().any(|prefix| line.starts_with(prefix))
}

/// Takes a further header of a version-control system.
fn extended(line: &[u8], names: &[u8], file: &mut FilePatch, number: usize) -> Result<(), PatchError> {
    let rest = |prefix: &str| line.strip_prefix(prefix.as_bytes());
    let mode = |text: &[u8]| {
        let text = String::from_utf8_lossy(text).into_owned();
        let mode = u32::from_str_radix(text.trim(), 8);
        mode.map_err(|_| PatchError {
            line: number,
            reason: format!("`{text}` is no file mode: six octal digits were expected"),
        })
    };
    let name = |text: &[u8]| unquoted(text).map_or_else(|| text.to_vec(), |(name, _)| name);
    if let Some(text) = rest("old mode ") {
        file.modes.0 = Some(mode(text)?);
    } else if let Some(text) = rest("new mode ") {
        file.modes.1 = Some(mode(text)?);
    } else if let Some(text) = rest("deleted file mode ") {
        (file.modes.0, file.after) = (Some(mode(text)?), None);
    } else if let Some(text) = rest("new file mode ") {
        (file.modes.1, file.before) = (Some(mode(text)?), None);
    } else if let Some(text) = rest("rename from ") {
        (file.before, file.renames) = (Some(name(text)), true);
    } else if let Some(text) = rest("rename to ") {
        (file.before, file.after) = renamed(file.before.take(), name(text), names);
        file.renames = true;
    } else if rest("copy from ").is_some() || rest("copy to ").is_some() {
        file.unfit = Some("it copies a file, which is not carried out".to_owned());
    } else if line.starts_with(b"Binary file") || line.starts_with(b"GIT binary patch") {
        file.unfit = Some("it changes bytes that are not text".to_owned());
    }
    let link = |mode: Option<u32>| mode.is_some_and(|mode| mode & 0o170_000 == 0o120_000);
    if link(file.modes.0) || link(file.modes.1) {
        file.unfit = Some("it is about a link".to_owned());
    }
    Ok(())
}

/// The names of a move stand without the prefix that the names of all files have; they get it back from the line above.
fn renamed(before: Option<Vec<u8>>, after: Vec<u8>, names: &[u8]) -> (Option<Vec<u8>>, Option<Vec<u8>>) {
    let spaces = names.iter().enumerate().filter(|(_, byte)| **byte == b' ');
    let mut halves = spaces.map(|(at, _)| (&names[..at], &names[at + 1..]));
    let ends = |whole: &[u8], name: &[u8]| {
        whole.strip_suffix(name).is_some_and(|prefix| prefix.is_empty() || prefix.ends_with(b"/"))
    };
    match halves.find(|(one, other)| before.as_ref().is_some_and(|before| ends(one, before)) && ends(other, &after)) {
        Some((one, other)) => (Some(one.to_vec()), Some(other.to_vec())),
        None => (before, Some(after)),
    }
}

/// Reads the hunks of the unified format.
fn unified(reader: &mut Reader<'_>, mut file: FilePatch) -> Result<FilePatch, PatchError> {
    while reader.peek().is_some_and(|line| line.starts_with(b"@@ ")) {
        file.hunks.push(unified_hunk(reader)?);
    }
    if file.hunks.is_empty() && !file.renames && file.modes == (None, None) {
        return Err(reader.error("a hunk was expected, which begins with `@@ -LINE,COUNT +LINE,COUNT @@`"));
    }
    Ok(file)
}

fn unified_hunk(reader: &mut Reader<'_>) -> Result<Hunk, PatchError> {
    let number = reader.number();
    let head = reader.next().map(without_end).unwrap_or_default();
    let damaged =
        || PatchError { line: number, reason: "the head of a hunk was expected, as in `@@ -12,3 +12,4 @@`".to_owned() };
    let ((before, mut gone), (after, mut new)) = ranges(head).ok_or_else(damaged)?;
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
    while gone > 0 || new > 0 {
        let expected = || {
            format!(
                "{gone} more lines of the side before and {new} of the side after were expected in the hunk of line {number}"
            )
        };
        let Some(line) = reader.peek() else {
            return Err(reader.error(format!("the patch ends here; {}", expected())));
        };
        let role = match line[0] {
            b' ' | b'\n' | b'\r' | b'\t' if gone > 0 && new > 0 => LineRole::Context,
            b'-' if gone > 0 => LineRole::Gone,
            b'+' if new > 0 => LineRole::New,
            _ => return Err(reader.error(expected())),
        };
        // Mail programs take the blank of an empty line away.
        let text = if matches!(line[0], b'\n' | b'\r' | b'\t') { line } else { &line[1..] };
        hunk.lines.push(HunkLine { role, text: reader.text(text) });
        gone -= usize::from(role != LineRole::New);
        new -= usize::from(role != LineRole::Gone);
        reader.next();
        take_no_line_end(reader, &mut hunk.lines);
    }
    Ok(hunk)
}

/// Takes the remark that the line above has no line end.
pub(super) fn take_no_line_end(reader: &mut Reader<'_>, lines: &mut [HunkLine]) {
    let Some(remark) = reader.peek().filter(|line| line.starts_with(b"\\")) else { return };
    reader.next();
    if let Some(last) = lines.last_mut() {
        // Where the remark ends with CR LF, the patch as a whole was turned to such line ends.
        let converted = remark.ends_with(b"\r\n") && last.text.ends_with(b"\r\n");
        last.text.truncate(last.text.len().saturating_sub(if converted { 2 } else { 1 }));
    }
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
