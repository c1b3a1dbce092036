//! A line as it is shown, cut into rows.

use std::ops::Range;

use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

use crate::shown::{DisplayLine, Piece};

impl DisplayLine {
    /// Marks what was searched for, as bytes of the text that is shown.
    pub(crate) fn mark_found(&mut self, find: &dyn Fn(&str) -> Vec<Range<usize>>) {
        let text: String = self.pieces.iter().map(|piece| piece.text.as_str()).collect();
        let found = find(&text);
        if found.is_empty() {
            return;
        }
        let mut start = 0;
        let mut pieces = Vec::with_capacity(self.pieces.len() + 2 * found.len());
        for piece in std::mem::take(&mut self.pieces) {
            let end = start + piece.text.len();
            let edges =
                found.iter().flat_map(|hit| [hit.start, hit.end]).filter(|edge| (start + 1..end).contains(edge));
            let mut edges: Vec<usize> = std::iter::once(start).chain(edges).chain([end]).collect();
            edges.dedup();
            for pair in edges.windows(2) {
                let is_found = found.iter().any(|hit| hit.start <= pair[0] && pair[1] <= hit.end);
                pieces.push(Piece { text: text[pair[0]..pair[1]].to_owned(), is_found, ..piece.clone() });
            }
            start = end;
        }
        self.pieces = pieces;
    }

    /// Adds words that are no part of the line.
    pub(crate) fn add_sign(&mut self, text: &str) {
        self.width += text.width();
        self.pieces.push(Piece { text: text.to_owned(), sign: true, ..Piece::default() });
    }

    /// Says in the last of so many columns that the line goes on.
    pub(crate) fn add_more(&mut self, room: usize, plain: bool) {
        let gap = " ".repeat(room.saturating_sub(self.width + 1));
        let text = format!("{gap}{}", if plain { ">" } else { "›" });
        self.width = room;
        self.pieces.push(Piece { text, sign: true, ..Piece::default() });
    }

    /// Cut into rows of at most `room` columns: behind blanks where there are any in the last part of a row. Letters stay whole.
    pub(crate) fn wrapped(self, room: usize) -> Vec<Self> {
        if self.width <= room {
            return vec![self];
        }
        let letters: Vec<(&str, &Piece)> = self
            .pieces
            .iter()
            .flat_map(|piece| piece.text.graphemes(true).map(move |letter| (letter, piece)))
            .collect();
        let mut ends = row_ends(letters.iter().map(|(letter, _)| (*letter == " ", letter.width())), room).into_iter();
        let mut end = ends.next();
        let mut rows = vec![Self::default()];
        for (at, &(cluster, piece)) in letters.iter().enumerate() {
            if end == Some(at) {
                rows.push(Self::default());
                end = ends.next();
            }
            if let Some(row) = rows.last_mut() {
                row.push_changed(cluster, cluster.width(), piece);
            }
        }
        rows
    }
}

/// Where letters, of which it is known whether they are blank and how many columns they take, are cut into rows of so many columns.
fn row_ends(letters: impl Iterator<Item = (bool, usize)>, room: usize) -> Vec<usize> {
    let mut ends = Vec::new();
    // The columns of the row so far, and behind the last blank in it: where that is, and how many columns come after it.
    let (mut width, mut blank): (usize, Option<(usize, usize)>) = (0, None);
    for (at, (is_blank, columns)) in letters.enumerate() {
        if width > 0 && width + columns > room {
            // A blank far to the left would leave the row mostly empty.
            let behind = blank.filter(|(_, after)| *after <= room / 3);
            let (end, rest) = behind.unwrap_or((at, 0));
            ends.push(end);
            (width, blank) = (rest, None);
        }
        width += columns;
        blank = if is_blank { Some((at + 1, 0)) } else { blank.map(|(end, after)| (end, after + columns)) };
    }
    ends
}
