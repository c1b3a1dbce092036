//! Making the text of a file fit to be shown: control characters become visible, columns are counted.
//!
//! Nothing that a terminal could take for a command leaves here: control characters, escape sequences, direction marks
//! and invisible characters are replaced by visible signs.

use std::ops::Range;

use tideline_core::internal::model::{Segment, Weight};
use tideline_core::internal::text::words::line_end_len;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

use crate::excerpt::{changes_in, columns_of, excerpt};
use crate::syntax::{Class, SyntaxSpan};
use crate::wording::plural;

/// Columns between tab stops.
const TAB: usize = 4;
/// Columns kept at the head of a line that is cut, and on either side of each change in it.
const KEPT: usize = 40;

/// The character that joins pictures to one.
const JOINER: char = '\u{200d}';

/// What a line is shown on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Medium {
    /// A screen of columns.
    Columns,
    /// A screen of columns that knows ASCII only.
    Ascii,
    /// A page, which sets tabs itself.
    Page,
}

impl Medium {
    /// A screen of columns, which may know ASCII only.
    pub(crate) fn of(plain: bool) -> Self {
        if plain { Self::Ascii } else { Self::Columns }
    }
}

/// What a piece of a line is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Role {
    #[default]
    Equal,
    Gone,
    New,
    Moved,
    Muted,
}

/// A piece of a line that is shown in one way.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Piece {
    pub(crate) text: String,
    /// What its line is; of a changed piece of an inline line, what it is itself.
    pub(crate) role: Role,
    /// Whether it differs from the other side, and with what weight.
    pub(crate) differs: Option<Weight>,
    /// Whether it stands for something that cannot be shown as it is.
    pub(crate) sign: bool,
    /// Its colour by syntax.
    pub(crate) tint: Option<Class>,
    /// Whether it was searched for.
    pub(crate) is_found: bool,
}

/// A line as it is shown.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct DisplayLine {
    pub(crate) pieces: Vec<Piece>,
    /// Columns it takes.
    pub(crate) width: usize,
    /// The columns that differ, in order.
    pub(crate) changed: Vec<(Range<usize>, Weight)>,
    /// Whether the line has no line end.
    pub(crate) unended: bool,
    /// Whether it holds only a part of its line already.
    pub(crate) is_excerpt: bool,
    /// Whether what differs is spelled out, letter by letter.
    pub(crate) spells_out: bool,
}

impl DisplayLine {
    /// A line of which some parts changed, with its colours by syntax.
    pub(crate) fn new(line: &[u8], parts: &[Segment], syntax: &[SyntaxSpan], medium: Medium) -> Self {
        Self::within(line, parts, syntax, medium, usize::MAX)
    }

    /// The same of a line that may take about so many columns: of one that is far too long, only the head and the surroundings of
    /// its changes, and what is left out is counted.
    pub(crate) fn within(
        line: &[u8],
        parts: &[Segment],
        syntax: &[SyntaxSpan],
        medium: Medium,
        columns: usize,
    ) -> Self {
        let content = line.len() - line_end_len(line);
        if let Some(kept) = excerpt(&line[..content], parts, columns) {
            return Self::excerpt(line, parts, &kept, medium);
        }
        if let ([Segment { differs: None, bytes }], [], Some(text)) = (parts, syntax, printable(line))
            && bytes.len() == line.len()
        {
            // The usual line: nothing in it to look at more closely.
            let piece = Piece { text: text.to_owned(), ..Piece::default() };
            let pieces = if text.is_empty() { Vec::new() } else { vec![piece] };
            return Self { width: text.len(), pieces, unended: !line.ends_with(b"\n"), ..Self::default() };
        }
        let whole = parts.iter().map(|part| part.bytes.len()).sum::<usize>() == line.len();
        let mut shown = Self { unended: whole && !line.ends_with(b"\n"), ..Self::default() };
        for part in parts {
            // A line end is only worth showing where it differs.
            let end = if part.differs.is_some() { part.bytes.end } else { part.bytes.end.min(content) };
            shown.add_part(line, part.bytes.start.min(end)..end, part.differs, syntax, medium);
        }
        shown
    }

    /// The same with what differs spelled out: blanks, and letters that could be written in another way.
    pub(crate) fn spelled_out(line: &[u8], parts: &[Segment], syntax: &[SyntaxSpan], medium: Medium) -> Self {
        let content = line.len() - line_end_len(line);
        let mut shown = Self { spells_out: true, unended: !line.ends_with(b"\n"), ..Self::default() };
        for part in parts {
            let end = if part.differs.is_some() { part.bytes.end } else { part.bytes.end.min(content) };
            shown.add_part(line, part.bytes.start.min(end)..end, part.differs, syntax, medium);
        }
        shown
    }

    /// Some stretches of a long line, and what is left out between them.
    fn excerpt(line: &[u8], parts: &[Segment], kept: &[Range<usize>], medium: Medium) -> Self {
        let mut shown = Self { is_excerpt: true, unended: !line.ends_with(b"\n"), ..Self::default() };
        let mut at = 0;
        for range in kept {
            shown.leave_out_bytes(line, parts, at..range.start);
            let first = parts.partition_point(|part| part.bytes.end <= range.start);
            for part in parts[first..].iter().take_while(|part| part.bytes.start < range.end) {
                let bytes = part.bytes.start.max(range.start)..part.bytes.end.min(range.end);
                shown.add_part(line, bytes, part.differs, &[], medium);
            }
            at = range.end;
        }
        shown.leave_out_bytes(line, parts, at..line.len() - line_end_len(line));
        shown
    }

    fn leave_out_bytes(&mut self, line: &[u8], parts: &[Segment], bytes: Range<usize>) {
        if !bytes.is_empty() {
            self.leave_out(columns_of(&line[bytes.clone()]), changes_in(parts, &bytes));
        }
    }

    /// Adds some bytes of a line that differ, or do not.
    fn add_part(
        &mut self,
        line: &[u8],
        bytes: Range<usize>,
        differs: Option<Weight>,
        syntax: &[SyntaxSpan],
        medium: Medium,
    ) {
        let start = self.width;
        let mut at = bytes.start;
        while at < bytes.end {
            let behind = syntax.partition_point(|tint| tint.bytes.end <= at);
            let tint = syntax.get(behind).filter(|tint| tint.bytes.start <= at);
            let next = syntax.get(behind).map(|tint| tint.bytes.start).filter(|&start| start > at);
            let upto = tint.map_or(next.unwrap_or(bytes.end), |tint| tint.bytes.end).clamp(at + 1, bytes.end);
            let upto = whole_letters(line, upto, bytes.end);
            let model = Piece { differs, tint: tint.map(|tint| tint.class), ..Piece::default() };
            self.add(&line[at..upto], &model, medium);
            at = upto;
        }
        // Of a place where only the other line has something, no column is marked, but its surroundings are kept.
        if let Some(weight) = differs.filter(|_| self.width > start || bytes.is_empty()) {
            self.changed.push((start..self.width, weight));
        }
    }

    /// Whether columns are marked.
    pub(crate) fn is_marked(&self) -> bool {
        self.changed.iter().any(|(columns, _)| !columns.is_empty())
    }

    /// A line of one piece.
    pub(crate) fn of_piece(piece: Piece) -> Self {
        Self { width: piece.text.width(), pieces: vec![piece], ..Self::default() }
    }

    /// Puts another line behind this one.
    pub(crate) fn append(&mut self, other: Self, change: impl Fn(Piece) -> Piece) {
        let moved = |range: &Range<usize>| range.start + self.width..range.end + self.width;
        self.changed.extend(other.changed.iter().map(|(range, weight)| (moved(range), *weight)));
        self.width += other.width;
        self.pieces.extend(other.pieces.into_iter().map(change));
    }

    /// The same line with every piece in a role.
    pub(crate) fn in_role(mut self, role: Role) -> Self {
        for piece in &mut self.pieces {
            piece.role = role;
        }
        self
    }

    /// Says at its end that the line has no line end.
    pub(crate) fn add_note(&mut self, plain: bool) {
        if self.unended {
            let note = if plain { " <no line end>" } else { " ‹no line end›" };
            self.push(note, note.width(), &Piece { sign: true, ..Piece::default() });
        }
    }

    /// The line of `^` under what changed, and of `.` under what is muted.
    pub(crate) fn markers(&self) -> String {
        let mut line = String::new();
        let mut column = 0;
        for (range, weight) in &self.changed {
            line.extend(std::iter::repeat_n(' ', range.start - column));
            line.extend(std::iter::repeat_n(if *weight == Weight::Muted { '.' } else { '^' }, range.len()));
            column = range.end;
        }
        line
    }

    /// At most about `limit` columns: the head of the line and the surroundings of its changes; what is left out is
    /// counted.
    pub(crate) fn condensed(self, limit: usize) -> Self {
        if self.width <= limit || self.is_excerpt {
            return self;
        }
        let head = if self.changed.is_empty() { limit } else { KEPT };
        let mut kept: Vec<Range<usize>> = std::iter::once(0..head).collect();
        for (change, _) in &self.changed {
            let around = change.start.saturating_sub(KEPT)..(change.end + KEPT).min(self.width);
            let around = around.start..around.end.min(around.start + limit);
            match kept.last_mut() {
                Some(last) if around.start <= last.end + KEPT => last.end = last.end.max(around.end),
                _ => kept.push(around),
            }
        }
        let mut room = limit.max(2 * KEPT);
        for range in &mut kept {
            range.end = range.end.min(range.start + room);
            room -= range.len();
        }
        kept.retain(|range| !range.is_empty());
        let mut result = Self::default();
        let mut column = 0;
        for range in &kept {
            result.leave_out(range.start - column, self.changes_in(column..range.start));
            result.append(self.columns(range.clone()), |piece| piece);
            column = range.end;
        }
        result.leave_out(self.width - column, self.changes_in(column..self.width));
        result
    }

    /// How many stretches differ that lie in these columns.
    fn changes_in(&self, columns: Range<usize>) -> usize {
        let inside = |(range, _): &&(Range<usize>, Weight)| range.start >= columns.start && range.end <= columns.end;
        self.changed.iter().filter(inside).count()
    }

    fn leave_out(&mut self, columns: usize, changes: usize) {
        if columns > 0 {
            let words = if changes > 0 { format!(", {} changed", plural(changes, "word")) } else { String::new() };
            let note = format!("[... {}{words} ...]", plural(columns, "column"));
            self.push(&note, note.len(), &Piece { sign: true, ..Piece::default() });
        }
    }

    /// Some of its columns.
    pub(crate) fn columns(&self, range: Range<usize>) -> Self {
        let mut result = Self::default();
        let mut column = 0;
        for piece in &self.pieces {
            if column >= range.end {
                break;
            }
            for cluster in piece.text.graphemes(true) {
                let width = cluster.width();
                if column >= range.start && column + width <= range.end {
                    result.push_changed(cluster, width, piece);
                }
                column += width;
            }
        }
        result
    }

    /// Adds a letter like those of `model`, and marks its columns if it changed.
    pub(crate) fn push_changed(&mut self, text: &str, width: usize, model: &Piece) {
        let start = self.width;
        self.push(text, width, model);
        if let Some(weight) = model.differs {
            match self.changed.last_mut() {
                Some((last, same)) if last.end == start && *same == weight => last.end += width,
                _ => self.changed.push((start..start + width, weight)),
            }
        }
    }

    fn add(&mut self, text: &[u8], model: &Piece, medium: Medium) {
        let spells_out = self.spells_out && model.differs.is_some();
        if !spells_out && text.iter().all(|byte| (b' '..=b'~').contains(byte)) {
            // The usual case, and the only one where columns are bytes.
            let text = String::from_utf8_lossy(text);
            return self.push(&text, text.len(), model);
        }
        for chunk in text.utf8_chunks() {
            for cluster in chunk.valid().graphemes(true) {
                self.add_cluster(cluster, model, medium);
            }
            for byte in chunk.invalid() {
                let sign = format!("<{byte:02X}>");
                self.push(&sign, sign.len(), &Piece { sign: true, ..model.clone() });
            }
        }
    }

    fn add_cluster(&mut self, cluster: &str, model: &Piece, medium: Medium) {
        let plain = medium == Medium::Ascii;
        let sign = Piece { sign: true, text: String::new(), ..model.clone() };
        if cluster == "\t" && medium == Medium::Page {
            return self.push(cluster, TAB, if model.differs.is_some() { &sign } else { model });
        }
        if cluster == "\t" {
            let width = TAB - self.width % TAB;
            let head = match (model.differs.is_some(), plain) {
                (false, _) => " ",
                (true, false) => "→",
                (true, true) => ">",
            };
            let text = format!("{head}{}", " ".repeat(width - 1));
            return self.push(&text, width, if model.differs.is_some() { &sign } else { model });
        }
        if self.spells_out && model.differs.is_some() {
            return cluster.chars().for_each(|c| {
                let (text, model) = match c {
                    ' ' if medium == Medium::Page => (c.to_string(), model),
                    ' ' => (if plain { "." } else { "·" }.to_owned(), &sign),
                    '!'..='~' => (c.to_string(), model),
                    _ => (sign_for(c, plain), &sign),
                };
                self.push(&text, text.width(), model);
            });
        }
        let hidden = |c: char| c.is_control() || is_invisible(c);
        let first = cluster.chars().next().unwrap_or_default();
        // Joiners inside a letter or a picture belong to it, unless they are what changed. Those of a picture always do.
        let is_picture = first.width() == Some(2) && cluster.chars().all(|c| !c.is_alphanumeric());
        let joiners_only = (model.differs.is_none() || is_picture)
            && !hidden(first)
            && !cluster.chars().any(|c| c.is_control() || is_picture && is_invisible(c) && c != JOINER);
        let as_it_is = joiners_only || !cluster.chars().any(hidden);
        if as_it_is && (cluster.is_ascii() || !plain) {
            let width = cluster.width();
            // A mark without a letter to stand on gets one to stand on.
            if width == 0 || first.width() == Some(0) {
                return self.push(&format!("◌{cluster}"), 1, &sign);
            }
            return self.push(cluster, width, model);
        }
        for c in cluster.chars() {
            if hidden(c) || plain && !c.is_ascii() {
                let text = sign_for(c, plain);
                self.push(&text, text.width(), &sign);
            } else {
                let text = if c.width() == Some(0) { format!("◌{c}") } else { c.to_string() };
                self.push(&text, c.width().unwrap_or(1).max(1), model);
            }
        }
    }

    fn push(&mut self, text: &str, width: usize, model: &Piece) {
        if text.is_empty() {
            return;
        }
        self.width += width;
        let alike = |last: &Piece| {
            last.is_found == model.is_found
                && (last.differs, last.sign, last.tint, last.role)
                    == (model.differs, model.sign, model.tint, model.role)
        };
        match self.pieces.last_mut() {
            Some(last) if alike(last) => last.text.push_str(text),
            _ => self.pieces.push(Piece { text: text.to_owned(), ..model.clone() }),
        }
    }
}

/// The text of a line that is printable ASCII from end to end, without its line end.
fn printable(line: &[u8]) -> Option<&str> {
    printable_bytes(line).and_then(|content| std::str::from_utf8(content).ok())
}

/// The same as bytes.
pub(crate) fn printable_bytes(line: &[u8]) -> Option<&[u8]> {
    let content = &line[..line.len() - line_end_len(line)];
    let all = content.iter().fold(true, |all, byte| all & (b' '..=b'~').contains(byte));
    all.then_some(content)
}

/// The first place from `at` on, but not beyond `end`, that does not fall inside a letter.
fn whole_letters(line: &[u8], at: usize, end: usize) -> usize {
    (at..end).find(|&at| line[at] & 0b1100_0000 != 0b1000_0000).unwrap_or(end)
}

/// Characters that leave no trace on a screen, or that change the order of what follows.
fn is_invisible(c: char) -> bool {
    matches!(c,
        '\u{ad}' | '\u{61c}' | '\u{180e}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}'
        | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{fff9}'..='\u{fffb}' | '\u{e0000}'..='\u{e007f}')
}

/// The visible sign for a character that cannot be shown as it is.
fn sign_for(c: char, plain: bool) -> String {
    match (c, plain) {
        ('\n', true) => "\\n".to_owned(),
        ('\r', true) => "\\r".to_owned(),
        ('\0'..='\x1f', true) | ('\x7f', true) => format!("\\x{:02x}", c as u32),
        ('\0'..='\x1f', false) => char::from_u32(0x2400 + c as u32).unwrap_or('?').to_string(),
        ('\x7f', false) => "\u{2421}".to_owned(),
        _ => format!("<U+{:04X}>", c as u32),
    }
}

/// A name or label fit to be shown in a heading.
pub(crate) fn shown_name(name: &str, plain: bool) -> String {
    shown_bytes(name.as_bytes(), plain)
}

/// Words of our own with names in them, fit to be shown: in plain text our signs are of ASCII too.
pub(crate) fn shown_words(words: &str, plain: bool) -> String {
    const SIGNS: [(char, &str); 5] = [('×', "x"), ('–', "-"), ('…', "..."), ('→', "->"), ('⏎', "/")];
    if !plain {
        return shown_name(words, plain);
    }
    let signs = words.chars().map(|letter| {
        SIGNS
            .iter()
            .find(|(sign, _)| *sign == letter)
            .map_or_else(|| letter.to_string(), |(_, plain)| (*plain).to_owned())
    });
    shown_name(&signs.collect::<String>(), plain)
}

/// Text fit to be shown on one line: what a terminal could take for a command is made visible.
pub fn shown_text(text: &str, plain: bool) -> String {
    shown_name(text, plain)
}

/// A path, fit to be shown in a message: what a terminal could take for a command is made visible.
pub fn shown_path(path: &std::path::Path) -> String {
    shown_bytes(path.as_os_str().as_encoded_bytes(), false)
}

/// A message that may hold names from files, fit to be shown; its lines stay lines.
pub fn shown_message(text: &str) -> String {
    text.split('\n').map(|line| shown_name(line, false)).collect::<Vec<_>>().join("\n")
}

/// A name that may not be UTF-8, fit to be shown.
pub(crate) fn shown_bytes(name: &[u8], plain: bool) -> String {
    // A line end in a name is a letter like any other.
    let parts = [Segment { bytes: 0..name.len(), differs: name.ends_with(b"\n").then_some(Weight::Counted) }];
    let shown = DisplayLine::new(name, &parts, &[], Medium::of(plain));
    shown.pieces.into_iter().map(|piece| piece.text).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn whole(line: &[u8], plain: bool) -> DisplayLine {
        DisplayLine::new(line, &[Segment::equal(0..line.len())], &[], Medium::of(plain))
    }

    fn text(shown: &DisplayLine) -> String {
        shown.pieces.iter().map(|piece| piece.text.as_str()).collect()
    }

    #[test]
    fn nothing_a_terminal_obeys_is_left() {
        let hostile = "\x1b[31mred\x07\u{9b}2J\u{202e}evil\u{200b}\0\r\x7f";
        for plain in [false, true] {
            let shown = text(&whole(hostile.as_bytes(), plain));
            assert!(!shown.chars().any(|c| c.is_control() || is_invisible(c)), "{shown:?}");
        }
        assert_eq!(text(&whole(b"a\x1b[0m\n", false)), "a␛[0m");
        assert_eq!(text(&whole(b"a\x1b[0m\n", true)), "a\\x1b[0m");
        assert_eq!(text(&whole(b"\xffx\n", false)), "<FF>x");
    }

    #[test]
    fn columns_are_those_of_the_terminal() {
        let width = |line: &str| whole(line.as_bytes(), false).width;
        assert_eq!(width("潮位\n"), 4);
        assert_eq!(width("e\u{301}tale"), 5);
        assert_eq!(width("a\tb"), 5);
        assert_eq!(width("👩‍🔬"), 2);
    }

    #[test]
    fn line_ends_are_shown_only_where_they_differ() {
        let part = |bytes: Range<usize>, changed: bool| Segment { bytes, differs: changed.then_some(Weight::Counted) };
        let shown =
            DisplayLine::new(b"a\r\n", &[part(0..1, false), part(1..2, true), part(2..3, false)], &[], Medium::Columns);
        assert_eq!(
            shown.pieces[1],
            Piece { text: "␍".into(), differs: Some(Weight::Counted), sign: true, ..Piece::default() }
        );
        assert_eq!(text(&whole(b"a\r\n", false)), "a");
    }

    #[test]
    fn a_very_long_line_keeps_its_changes_in_view_and_counts_what_is_left_out() {
        let line = format!("{}here{}", "x".repeat(5000), "y".repeat(5000));
        let part = |bytes: Range<usize>, changed: bool| Segment { bytes, differs: changed.then_some(Weight::Counted) };
        let parts = [part(0..5000, false), part(5000..5004, true), part(5004..10_004, false)];
        let cut = DisplayLine::new(line.as_bytes(), &parts, &[], Medium::Columns).condensed(200);
        assert!(cut.width <= 240, "{}", cut.width);
        assert!(text(&cut).contains("[... 4,920 columns ...]"), "{}", text(&cut));
        assert_eq!(cut.changed.len(), 1);
        let column = cut.changed[0].0.start;
        assert_eq!(&text(&cut)[column..column + 4], "here");
    }

    #[test]
    fn rows_hold_whole_letters_and_keep_the_marks() {
        let part = |bytes: Range<usize>, changed: bool| Segment { bytes, differs: changed.then_some(Weight::Counted) };
        let line = "潮位計潮位計".as_bytes();
        let rows = DisplayLine::new(line, &[part(0..9, false), part(9..18, true)], &[], Medium::Columns).wrapped(5);
        assert_eq!(rows.iter().map(|row| row.width).collect::<Vec<_>>(), [4, 4, 4]);
        assert_eq!(rows[1].changed, [(2..4, Weight::Counted)]);
        assert_eq!(rows[2].changed, [(0..4, Weight::Counted)]);
    }
}
