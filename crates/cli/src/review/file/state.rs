//! Where a reader is in a file: what stays when the two sides are compared anew.

use std::collections::{BTreeSet, HashMap, HashSet};
use std::ops::Range;

use regex::Regex;
use tideline_views::Context;
use tideline_views::terminal::Layout;
use tideline_views::terminal::screen::{FileScreen, Frame, RowAt, ScreenLine};

use crate::review::bars::Help;
use crate::review::draft::Side;
use crate::review::prompt::Prompt;
use crate::review::rule_view::RuleView;

/// What is typed, and what for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Asked {
    /// What is searched for.
    Find,
    Edit {
        line: usize,
        side: Side,
    },
    SaveAs,
    /// Where a patch of chosen changes goes.
    HandOn,
    /// Where a patch or a report of the file goes.
    HandOnFile,
    /// A note on a change, by its index.
    Note {
        change: usize,
    },
    /// Whether to leave with edits that are not saved.
    Leave,
}

/// How a reader leaves a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::review) enum Leave {
    Quit,
    Back,
    Next,
    Previous,
}

/// Where a reader is in a file, and how it is shown.
pub(in crate::review) struct FileState {
    pub(super) layout: Layout,
    pub(super) wraps: bool,
    pub(super) pan: usize,
    pub(super) context: Context,
    /// The context of changes when the whole file is not shown.
    pub(super) usual_context: Context,
    /// Whether muted changes are hidden.
    pub(super) hides_muted: bool,
    /// The side that is edited.
    pub(super) side: Side,
    /// The row of the cursor.
    pub(super) cursor: RowAt,
    /// The row at the top of the screen, and how many of its lines are above it.
    pub(super) top: (RowAt, usize),
    /// The row where choosing lines began.
    pub(super) chosen_from: Option<RowAt>,
    pub(super) found: Option<Regex>,
    /// The side that is searched; both if none is named.
    pub(super) find_in: Option<Side>,
    pub(in crate::review) message: String,
    pub(super) prompt: Option<(Asked, Prompt)>,
    pub(super) help: Option<Help>,
    /// The list of rules, while it is shown.
    pub(super) rule_view: Option<RuleView>,
    /// Whether other rules came into force, so that what else was compared is to be compared anew.
    pub(in crate::review) has_other_rules: bool,
    /// The line, and its side, at which the cursor goes when the file is compared anew.
    pub(super) stays_at: Option<(usize, Side)>,
    /// The changes of the last comparison, by what they hold.
    pub(super) changes: Option<HashSet<u64>>,
    /// Those of them that were not there the time before.
    pub(super) came: HashSet<u64>,
    /// The changes that were seen, by index.
    pub(super) seen: HashSet<usize>,
    /// What was noted on changes, by index.
    pub(super) notes: HashMap<usize, String>,
    /// Lines of both sides that are not saved as they stand, by index.
    pub(super) edited: (BTreeSet<usize>, BTreeSet<usize>),
    /// Whether anything was saved.
    pub(in crate::review) has_saved: bool,
    /// How the file is left when the edits are saved or given up.
    pub(super) leaves: Leave,
    /// Rows and columns of the last screen, without what stands around the file.
    pub(super) size: (usize, usize),
}

impl FileState {
    pub(in crate::review) fn new(layout: Layout, context: Context, hides_muted: bool) -> Self {
        let usual_context = if context == Context::All { Context::default() } else { context };
        Self {
            layout,
            wraps: false,
            pan: 0,
            context,
            usual_context,
            hides_muted,
            side: Side::After,
            cursor: RowAt::default(),
            top: (RowAt::default(), 0),
            chosen_from: None,
            found: None,
            find_in: None,
            message: String::new(),
            prompt: None,
            help: None,
            rule_view: None,
            has_other_rules: false,
            stays_at: None,
            changes: None,
            came: HashSet::new(),
            seen: HashSet::new(),
            notes: HashMap::new(),
            edited: Default::default(),
            has_saved: false,
            leaves: Leave::Back,
            size: (20, 80),
        }
    }

    /// Begins with another file, shown as the one before.
    pub(in crate::review) fn enter_anew(&mut self) {
        (self.cursor, self.top) = Default::default();
        (self.chosen_from, self.stays_at, self.prompt, self.pan) = (None, None, None, 0);
        (self.changes, self.came) = Default::default();
    }

    /// Draws the rows of the file that are on the screen.
    pub(super) fn rows(
        &mut self,
        screen: &mut FileScreen<'_>,
        (height, width): (usize, usize),
    ) -> Vec<(RowAt, ScreenLine)> {
        self.size = (height, width);
        let find = self.found.clone();
        let hits = |text: &str| -> Vec<Range<usize>> {
            find.iter()
                .flat_map(|regex| regex.find_iter(text))
                .map(|hit| hit.range())
                .filter(|hit| !hit.is_empty())
                .collect()
        };
        let frame = Frame {
            layout: self.layout,
            width,
            wraps: self.wraps,
            pan: self.pan,
            hits: find.is_some().then_some(&hits),
        };
        screen.begin_screen();
        self.scroll_to_cursor(screen, &frame, height);
        let rows = self.rows_from_top(screen, &frame, height);
        if rows.len() == height || self.top.0 == RowAt::default() {
            return rows;
        }
        // No room is left empty below the end while there are rows above.
        self.move_top_up(screen, &frame, height - rows.len());
        self.rows_from_top(screen, &frame, height)
    }

    fn rows_from_top(&self, screen: &mut FileScreen<'_>, frame: &Frame<'_>, height: usize) -> Vec<(RowAt, ScreenLine)> {
        let mut rows = Vec::with_capacity(height);
        let (mut at, mut skipped) = (Some(self.top.0), self.top.1);
        while let Some(row) = at.filter(|_| rows.len() < height) {
            let lines = screen.draw_once(row, frame);
            let shown = lines.iter().skip(skipped).take(height - rows.len());
            rows.extend(shown.map(|line| (row, line.clone())));
            skipped = 0;
            at = screen.after(row);
        }
        rows
    }

    fn move_top_up(&mut self, screen: &mut FileScreen<'_>, frame: &Frame<'_>, lines: usize) {
        let mut missing = lines;
        if self.top.1 >= missing {
            self.top.1 -= missing;
            return;
        }
        missing -= self.top.1;
        self.top.1 = 0;
        while missing > 0 {
            let Some(before) = screen.before(self.top.0) else { return };
            let lines = screen.draw_once(before, frame).len();
            self.top = (before, lines.saturating_sub(missing));
            missing = missing.saturating_sub(lines);
        }
    }

    /// Moves what is shown so that the row of the cursor is on the screen.
    fn scroll_to_cursor(&mut self, screen: &mut FileScreen<'_>, frame: &Frame<'_>, height: usize) {
        if let Some(cursor) = screen.at_or_after(self.cursor).or_else(|| screen.last()) {
            self.cursor = cursor;
        }
        if let Some(top) = screen.at_or_after(self.top.0).or_else(|| screen.last()) {
            let skipped = if top == self.top.0 { self.top.1 } else { 0 };
            self.top = (top, skipped.min(screen.draw_once(top, frame).len().saturating_sub(1)));
        }
        if self.cursor < self.top.0 {
            self.top = (self.cursor, 0);
            return;
        }
        // From the top down to the cursor, as far as the screen reaches.
        let (mut at, mut used) = (self.top.0, 0);
        let skipped = self.top.1;
        loop {
            let lines = screen.draw_once(at, frame).len();
            let shown = lines.saturating_sub(if at == self.top.0 { skipped } else { 0 });
            used += shown;
            if at == self.cursor {
                if used <= height || shown == used {
                    return;
                }
                break;
            }
            match screen.after(at).filter(|_| used < height) {
                Some(next) => at = next,
                None => break,
            }
        }
        self.put_cursor_at(screen, frame, height.saturating_sub(1), height);
    }

    /// Makes the row of the cursor end at a line of the screen, if there is enough above it.
    fn put_cursor_at(&mut self, screen: &mut FileScreen<'_>, frame: &Frame<'_>, line: usize, height: usize) {
        let mut above = screen.draw_once(self.cursor, frame).len().min(height).saturating_sub(1);
        let mut top = (self.cursor, 0);
        while above < line {
            let Some(before) = screen.before(top.0) else { break };
            let lines = screen.draw_once(before, frame).len();
            above += lines;
            top = (before, 0);
            if above > line {
                top.1 = above - line;
            }
        }
        self.top = top;
    }

    /// Shows the row of the cursor with lines above it.
    pub(super) fn show_cursor_in_context(&mut self, screen: &mut FileScreen<'_>) {
        let (height, width) = self.size;
        let frame = Frame { layout: self.layout, width, wraps: self.wraps, pan: self.pan, hits: None };
        screen.begin_screen();
        self.put_cursor_at(screen, &frame, height / 4, height);
    }

    /// The rows that are chosen, from the first to the last.
    pub(super) fn chosen(&self) -> Option<(RowAt, RowAt)> {
        let from = self.chosen_from?;
        Some((from.min(self.cursor), from.max(self.cursor)))
    }
}
