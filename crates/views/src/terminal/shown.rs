//! Making the text of a file fit to be shown: control characters become visible, columns are counted.
//!
//! Nothing that a terminal could take for a command leaves here: control characters, escape sequences, direction marks
//! and invisible characters are replaced by visible signs.

use std::ops::Range;

use tideline_core::model::Part;
use tideline_core::text::words::line_end_len;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// Columns between tab stops.
const TAB: usize = 4;

/// A piece of a line that is shown in one way.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Piece {
    pub(super) text: String,
    /// Whether it differs from the other side.
    pub(super) changed: bool,
    /// Whether it stands for something that cannot be shown as it is.
    pub(super) sign: bool,
}

/// A line as it is shown.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Shown {
    pub(super) pieces: Vec<Piece>,
    /// Columns it takes.
    pub(super) width: usize,
    /// The columns that changed.
    pub(super) changed: Vec<Range<usize>>,
    /// Whether the line has no line end.
    pub(super) unended: bool,
}

impl Shown {
    /// A whole line without changed parts.
    pub(super) fn whole(line: &[u8], plain: bool) -> Self {
        Self::new(line, &[Part { bytes: 0..line.len(), changed: false }], plain)
    }

    /// A line of which some parts changed.
    pub(super) fn new(line: &[u8], parts: &[Part], plain: bool) -> Self {
        let mut shown = Self { unended: !line.ends_with(b"\n"), ..Self::default() };
        let content = line.len() - line_end_len(line);
        for part in parts {
            let start = shown.width;
            // A line end is only worth showing where it differs.
            let end = if part.changed { part.bytes.end } else { part.bytes.end.min(content) };
            let from = part.bytes.start.min(end);
            shown.add(&line[from..end], part.changed, plain);
            if part.changed && shown.width > start {
                shown.changed.push(start..shown.width);
            }
        }
        shown
    }

    fn add(&mut self, text: &[u8], changed: bool, plain: bool) {
        if text.iter().all(|byte| (b' '..=b'~').contains(byte)) {
            // The usual case, and the only one where columns are bytes.
            let text = String::from_utf8_lossy(text);
            return self.push(&text, text.len(), changed, false);
        }
        for chunk in text.utf8_chunks() {
            for cluster in chunk.valid().graphemes(true) {
                self.add_cluster(cluster, changed, plain);
            }
            for byte in chunk.invalid() {
                let sign = format!("<{byte:02X}>");
                self.push(&sign, sign.len(), changed, true);
            }
        }
    }

    fn add_cluster(&mut self, cluster: &str, changed: bool, plain: bool) {
        if cluster == "\t" {
            let width = TAB - self.width % TAB;
            let head = match (changed, plain) {
                (false, _) => " ",
                (true, false) => "→",
                (true, true) => ">",
            };
            let text = format!("{head}{}", " ".repeat(width - 1));
            return self.push(&text, width, changed, changed);
        }
        let hidden = |c: char| c.is_control() || is_invisible(c);
        let first = cluster.chars().next().unwrap_or_default();
        // Joiners inside a letter or a picture belong to it, unless they are what changed.
        let joiners_only = !changed && !hidden(first) && !cluster.chars().any(char::is_control);
        let as_it_is = joiners_only || !cluster.chars().any(hidden);
        if as_it_is && (cluster.is_ascii() || !plain) {
            let width = cluster.width();
            // A mark without a letter to stand on gets one to stand on.
            let lone = width == 0 || first.width() == Some(0);
            let (text, width) = if lone { (format!("◌{cluster}"), 1) } else { (cluster.to_owned(), width) };
            return self.push(&text, width, changed, lone);
        }
        for c in cluster.chars() {
            if hidden(c) || plain && !c.is_ascii() {
                let sign = sign_for(c, plain);
                let width = sign.width();
                self.push(&sign, width, changed, true);
            } else {
                let text = if c.width() == Some(0) { format!("◌{c}") } else { c.to_string() };
                self.push(&text, c.width().unwrap_or(1).max(1), changed, false);
            }
        }
    }

    fn push(&mut self, text: &str, width: usize, changed: bool, sign: bool) {
        if text.is_empty() {
            return;
        }
        self.width += width;
        match self.pieces.last_mut() {
            Some(last) if last.changed == changed && last.sign == sign => last.text.push_str(text),
            _ => self.pieces.push(Piece { text: text.to_owned(), changed, sign }),
        }
    }
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
pub(super) fn shown_name(name: &str, plain: bool) -> String {
    let shown = Shown::new(name.as_bytes(), &[Part { bytes: 0..name.len(), changed: false }], plain);
    shown.pieces.into_iter().map(|piece| piece.text).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn text(line: &[u8], plain: bool) -> String {
        Shown::whole(line, plain).pieces.into_iter().map(|piece| piece.text).collect()
    }

    #[test]
    fn nothing_a_terminal_obeys_is_left() {
        let hostile = "\x1b[31mred\x07\u{9b}2J\u{202e}evil\u{200b}\0\r\x7f";
        for plain in [false, true] {
            let shown = text(hostile.as_bytes(), plain);
            assert!(!shown.chars().any(|c| c.is_control() || is_invisible(c)), "{shown:?}");
        }
        assert_eq!(text(b"a\x1b[0m\n", false), "a␛[0m");
        assert_eq!(text(b"a\x1b[0m\n", true), "a\\x1b[0m");
        assert_eq!(text(b"\xffx\n", false), "<FF>x");
    }

    #[test]
    fn columns_are_those_of_the_terminal() {
        let width = |line: &str| Shown::whole(line.as_bytes(), false).width;
        assert_eq!(width("潮位\n"), 4);
        assert_eq!(width("e\u{301}tale"), 5);
        assert_eq!(width("a\tb"), 5);
        assert_eq!(width("👩‍🔬"), 2);
    }

    #[test]
    fn line_ends_are_shown_only_where_they_differ() {
        let part = |bytes: Range<usize>, changed| Part { bytes, changed };
        let shown = Shown::new(b"a\r\n", &[part(0..1, false), part(1..2, true), part(2..3, false)], false);
        assert_eq!(shown.pieces[1], Piece { text: "␍".into(), changed: true, sign: true });
        assert_eq!(text(b"a\r\n", false), "a");
    }
}
