//! Writing a patch.

use std::io::{self, Write};
use std::ops::Range;

use super::binary;
use super::model::{Binary, FilePatch, Hunk, LineRole, Operation};
use super::names::is_side;
use crate::internal::align::Edit;
use crate::internal::text::bytes::{line_end, lines_above, lines_below};

/// What a patch says about one side: a name and, if known, the time stamp that follows it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FileLabel {
    name: Vec<u8>,
    stamp: Option<String>,
}

impl FileLabel {
    /// A label with a name alone.
    pub fn new(name: impl Into<Vec<u8>>) -> Self {
        Self { name: name.into(), stamp: None }
    }

    /// Adds a time stamp, already in the format `2031-04-05 06:07:08.123456789 +0000`.
    pub fn stamp(mut self, stamp: Option<String>) -> Self {
        self.stamp = stamp;
        self
    }

    fn write(&self, mark: &str, out: &mut impl Write) -> io::Result<()> {
        out.write_all(mark.as_bytes())?;
        out.write_all(&quoted(&self.name))?;
        match &self.stamp {
            Some(stamp) => write!(out, "\t{stamp}")?,
            // A tab ends the name, so that blanks in it are not taken for what sets a time off.
            None if self.name.contains(&b' ') => out.write_all(b"\t")?,
            None => {}
        }
        out.write_all(b"\n")
    }
}

/// A name as a header can carry it: names with control characters, quotes or backslashes are quoted as in C.
fn quoted(name: &[u8]) -> Vec<u8> {
    let plain = |byte: &u8| !byte.is_ascii_control() && *byte != b'"' && *byte != b'\\';
    if name.iter().all(plain) {
        return name.to_vec();
    }
    let mut text = vec![b'"'];
    for &byte in name {
        match byte {
            b'\n' => text.extend(b"\\n"),
            b'\t' => text.extend(b"\\t"),
            b'\r' => text.extend(b"\\r"),
            b'"' => text.extend(b"\\\""),
            b'\\' => text.extend(b"\\\\"),
            _ if byte.is_ascii_control() => text.extend(format!("\\{byte:03o}").bytes()),
            _ => text.push(byte),
        }
    }
    text.push(b'"');
    text
}

/// How a patch is written.
#[derive(Clone, Debug)]
pub struct PatchOptions {
    context: usize,
}

impl Default for PatchOptions {
    fn default() -> Self {
        Self { context: 3 }
    }
}

impl PatchOptions {
    /// Equal lines around each change.
    pub fn context(mut self, lines: usize) -> Self {
        self.context = lines;
        self
    }
}

/// Writes the patch of one file: two header lines and the hunks. Nothing is written when there is no edit.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_file_patch(
    labels: (&FileLabel, &FileLabel),
    texts: (&[u8], &[u8]),
    edits: &[Edit],
    options: &PatchOptions,
    out: &mut impl Write,
) -> io::Result<()> {
    if edits.is_empty() {
        return Ok(());
    }
    labels.0.write("--- ", out)?;
    labels.1.write("+++ ", out)?;
    let mut rest = edits;
    while let Some(first) = rest.first() {
        let joined = |pair: &[Edit]| pair[1].before.lines.start - pair[0].before.lines.end <= 2 * options.context;
        let together = 1 + rest.windows(2).take_while(|pair| joined(pair)).count();
        let (hunk, later) = rest.split_at(together);
        write_hunk(first, hunk, texts, options.context, out)?;
        rest = later;
    }
    Ok(())
}

fn write_hunk(
    first: &Edit,
    edits: &[Edit],
    (before, after): (&[u8], &[u8]),
    context: usize,
    out: &mut impl Write,
) -> io::Result<()> {
    let last = edits.last().unwrap_or(first);
    let (head, head_lines) = lines_above(before, first.before.bytes.start, context);
    let (tail, tail_lines) = lines_below(before, last.before.bytes.end, context);
    let range = |lines: Range<usize>| lines.start - head_lines..lines.end + tail_lines;
    let before_range = range(first.before.lines.start..last.before.lines.end);
    let after_range = range(first.after.lines.start..last.after.lines.end);
    writeln!(out, "@@ -{} +{} @@", numbers(&before_range), numbers(&after_range))?;
    let mut at = head;
    for edit in edits {
        write_lines(b' ', &before[at..edit.before.bytes.start], out)?;
        write_lines(b'-', &before[edit.before.bytes.clone()], out)?;
        write_lines(b'+', &after[edit.after.bytes.clone()], out)?;
        at = edit.before.bytes.end;
    }
    write_lines(b' ', &before[at..tail], out)
}

/// Writes hunks as they were read, below their two header lines.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_hunks(labels: (&FileLabel, &FileLabel), hunks: &[Hunk], out: &mut impl Write) -> io::Result<()> {
    labels.0.write("--- ", out)?;
    labels.1.write("+++ ", out)?;
    for hunk in hunks {
        let range = |start: usize, lines: usize| start..start + lines;
        let before = range(hunk.before, hunk.old_lines().count());
        let after = range(hunk.after, hunk.new_lines().count());
        writeln!(out, "@@ -{} +{} @@", numbers(&before), numbers(&after))?;
        for line in &hunk.lines {
            let mark = match line.role {
                LineRole::Context => b' ',
                LineRole::Gone => b'-',
                LineRole::New => b'+',
            };
            write_lines(mark, &line.text, out)?;
        }
    }
    Ok(())
}

/// What the header of a file that is not there says of its time.
pub const NO_TIME: &str = "1970-01-01 00:00:00.000000000 +0000";

/// Writes a part about a file as it was read, with all its headers.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_part(file: &FilePatch, out: &mut impl Write) -> io::Result<()> {
    let is_plain = file.operation == Operation::Change && file.modes == (None, None);
    match &file.binary {
        Some(Binary::Differs) if is_plain => return write_differs(file, out),
        _ if is_plain && file.binary.is_none() && !file.hunks.is_empty() => {}
        _ => write_extended(file, out)?,
    }
    if file.hunks.is_empty() {
        return Ok(());
    }
    let label = |name: &Option<Vec<u8>>, absent: bool| match name {
        Some(name) => FileLabel::new(name.clone()).stamp((is_plain && absent).then(|| NO_TIME.to_owned())),
        None => FileLabel::new("/dev/null"),
    };
    let none = |label: FileLabel, absent: bool| if absent && !is_plain { FileLabel::new("/dev/null") } else { label };
    let before = none(label(&file.before, file.absent.0), file.absent.0);
    let after = none(label(&file.after, file.absent.1), file.absent.1);
    write_hunks((&before, &after), &file.hunks, out)
}

fn write_differs(file: &FilePatch, out: &mut impl Write) -> io::Result<()> {
    let name = |name: &Option<Vec<u8>>| name.clone().unwrap_or_else(|| b"/dev/null".to_vec());
    out.write_all(b"Binary files ")?;
    out.write_all(&quoted(&name(&file.before)))?;
    out.write_all(b" and ")?;
    out.write_all(&quoted(&name(&file.after)))?;
    out.write_all(b" differ\n")
}

/// Writes the headers that say what the plain format cannot, and contents that are not text. Names have a first folder for their side.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_extended(file: &FilePatch, out: &mut impl Write) -> io::Result<()> {
    let (before, after) = match (&file.before, &file.after) {
        (Some(before), Some(after)) => (before, after),
        (Some(name), None) | (None, Some(name)) => (name, name),
        (None, None) => return Ok(()),
    };
    let mut line = |parts: &[&[u8]]| out.write_all(&[&parts.concat()[..], b"\n"].concat());
    line(&[b"diff --git ", &quoted(before), b" ", &quoted(after)])?;
    let mode = |mode: u32| format!("{mode:06o}").into_bytes();
    match file.modes {
        (_, Some(new)) if file.is_new() && file.operation == Operation::Change => {
            line(&[b"new file mode ", &mode(new)])?;
        }
        (Some(old), _) if file.is_gone() => line(&[b"deleted file mode ", &mode(old)])?,
        // A link is told by its mode, also where that stays.
        (Some(old), Some(new)) if old != new || file.is_link() => {
            line(&[b"old mode ", &mode(old)])?;
            line(&[b"new mode ", &mode(new)])?;
        }
        _ => {}
    }
    let words: Option<[&[u8]; 2]> = match file.operation {
        Operation::Change => None,
        Operation::Move => Some([b"rename from ", b"rename to "]),
        Operation::Copy => Some([b"copy from ", b"copy to "]),
        Operation::Uncopy => Some([b"copy to ", b"copy from "]),
    };
    if let Some([from, to]) = words {
        let short = |name: &[u8]| quoted(if is_side(name) { &name[2..] } else { name });
        line(&[from, &short(before)])?;
        line(&[to, &short(after)])?;
    }
    match &file.binary {
        Some(Binary::Differs) => write_differs(file, out),
        Some(Binary::Carried(there, back)) => {
            out.write_all(b"GIT binary patch\n")?;
            binary::write(there, out)?;
            back.as_ref().map_or(Ok(()), |back| binary::write(back, out))
        }
        None => Ok(()),
    }
}

/// A range as a hunk heading gives it: a count of one is omitted, and an empty range names the line before it.
fn numbers(range: &Range<usize>) -> String {
    match range.len() {
        0 => format!("{},0", range.start),
        1 => format!("{}", range.start + 1),
        count => format!("{},{count}", range.start + 1),
    }
}

fn write_lines(mark: u8, text: &[u8], out: &mut impl Write) -> io::Result<()> {
    let mut at = 0;
    while at < text.len() {
        let end = line_end(text, at);
        out.write_all(&[mark])?;
        out.write_all(&text[at..end])?;
        at = end;
    }
    if text.last().is_some_and(|&byte| byte != b'\n') {
        out.write_all(b"\n\\ No newline at end of file\n")?;
    }
    Ok(())
}
