//! The context format of POSIX: both sides of a hunk one after the other.

use bytes::Bytes;

use super::model::{FilePatch, Hunk, HunkLine, LineRole};
use super::reader::{PatchError, Reader, take_no_line_end, without_end};

/// A line of one half, with its sign.
type Signed = (u8, Bytes);

/// Reads the hunks of a file.
pub(super) fn read(reader: &mut Reader<'_>, mut file: FilePatch) -> Result<FilePatch, PatchError> {
    while reader.peek().is_some_and(|line| line.starts_with(b"***************")) {
        let line = reader.number();
        reader.next();
        let (before, gone) = half(reader, "*** ", " ****", b"-!")?;
        let (after, new) = half(reader, "--- ", " ----", b"+!")?;
        let lines = merged(gone, new).ok_or_else(|| PatchError {
            line,
            reason: "the two halves of the hunk were expected to have the same lines where neither is marked"
                .to_owned(),
        })?;
        file.hunks.push(Hunk { before, after, lines, line });
    }
    Ok(file)
}

/// Reads one half: where it begins, from 0, and its lines.
fn half(reader: &mut Reader<'_>, open: &str, close: &str, signs: &[u8]) -> Result<(usize, Vec<Signed>), PatchError> {
    let head = reader.peek().map(without_end).unwrap_or_default();
    let text = std::str::from_utf8(head).ok();
    let range = text.and_then(|text| text.strip_prefix(open)?.strip_suffix(close));
    let numbers = range.and_then(|range| {
        let (first, last) = range.split_once(',').unwrap_or((range, range));
        Some((first.parse::<usize>().ok()?, last.parse::<usize>().ok()?))
    });
    let Some((first, last)) = numbers else {
        return Err(reader.error(format!("the head of half a hunk was expected, as in `{open}12,14{close}`")));
    };
    reader.next();
    let count = if first == 0 || last < first { 0 } else { last - first + 1 };
    let mut lines: Vec<HunkLine> = Vec::new();
    let mut marks = Vec::new();
    while lines.len() < count {
        let Some(line) = reader.peek() else { break };
        let sign = line[0];
        if !(sign == b' ' || signs.contains(&sign)) || line.get(1) != Some(&b' ') {
            break;
        }
        let text = reader.text(&line[2..]);
        lines.push(HunkLine { role: LineRole::Context, text });
        marks.push(sign);
        reader.next();
        take_no_line_end(reader, &mut lines);
    }
    // A half in which nothing is marked may be left out.
    if !lines.is_empty() && lines.len() < count {
        return Err(reader.error(format!("{} more lines were expected in this half of the hunk", count - lines.len())));
    }
    let start = if count == 0 { first } else { first - 1 };
    Ok((start, marks.into_iter().zip(lines).map(|(mark, line)| (mark, line.text)).collect()))
}

/// Both halves as one; `None` when their unmarked lines are not the same.
fn merged(gone: Vec<Signed>, new: Vec<Signed>) -> Option<Vec<HunkLine>> {
    let context = |lines: &[Signed]| lines.iter().filter(|(sign, _)| *sign == b' ').cloned().collect::<Vec<_>>();
    let (gone, new) = match (gone.is_empty(), new.is_empty()) {
        (true, false) => (context(&new), new),
        (false, true) => (gone.clone(), context(&gone)),
        _ => (gone, new),
    };
    let (mut gone, mut new) = (gone.into_iter().peekable(), new.into_iter().peekable());
    let mut lines = Vec::new();
    loop {
        while let Some((_, text)) = gone.next_if(|(sign, _)| *sign != b' ') {
            lines.push(HunkLine { role: LineRole::Gone, text });
        }
        while let Some((_, text)) = new.next_if(|(sign, _)| *sign != b' ') {
            lines.push(HunkLine { role: LineRole::New, text });
        }
        match (gone.next(), new.next()) {
            (None, None) => return Some(lines),
            (Some((_, text)), Some((_, other))) if text == other => {
                lines.push(HunkLine { role: LineRole::Context, text });
            }
            _ => return None,
        }
    }
}
