//! The figures of a trial.

use std::collections::BTreeMap;
use std::fmt;

/// What was counted.
#[derive(Debug, Default)]
pub(super) struct Figures {
    pub(super) changes: usize,
    /// Neighbours with at most two equal lines between them, and those that hold a pair that was missed.
    pub(super) neighbours: usize,
    pub(super) parted: usize,
    /// Those of them between which only blank lines and brackets stand.
    pub(super) parted_by_nothing: usize,
    /// Gone lines inside edited changes that are like a new line, and not paired.
    pub(super) unpaired: usize,
    /// Those of them that no pair parts from it.
    pub(super) pairable: usize,
    /// Pairs of lines.
    pub(super) pairs: usize,
    pub(super) many_marks: usize,
    /// The sum of what is marked, as shares of the pairs.
    pub(super) marked: f64,
    pub(super) unrelated: usize,
    pub(super) indented: usize,
    /// Identifiers that took the place of ones with half of the same segments, and those that are marked as a whole.
    pub(super) replaced_words: usize,
    pub(super) wide_words: usize,
    pub(super) one_line_apart: usize,
    pub(super) moved: usize,
    pub(super) crumbs: usize,
    pub(super) short_moves: usize,
    /// For each language: changes, those with a name, and those named by control flow.
    pub(super) sections: BTreeMap<&'static str, (usize, usize, usize)>,
}

impl Figures {
    /// Adds those of another pair of trees.
    pub(super) fn add(&mut self, other: Self) {
        self.changes += other.changes;
        self.neighbours += other.neighbours;
        self.parted += other.parted;
        self.parted_by_nothing += other.parted_by_nothing;
        self.unpaired += other.unpaired;
        self.pairable += other.pairable;
        self.pairs += other.pairs;
        self.many_marks += other.many_marks;
        self.marked += other.marked;
        self.unrelated += other.unrelated;
        self.indented += other.indented;
        self.replaced_words += other.replaced_words;
        self.wide_words += other.wide_words;
        self.one_line_apart += other.one_line_apart;
        self.moved += other.moved;
        self.crumbs += other.crumbs;
        self.short_moves += other.short_moves;
        for (language, counts) in other.sections {
            let sum = self.sections.entry(language).or_default();
            *sum = (sum.0 + counts.0, sum.1 + counts.1, sum.2 + counts.2);
        }
    }
}

impl fmt::Display for Figures {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        let share = |part: f64, all: usize| 100.0 * part / all.max(1) as f64;
        let mut row = |what: &str, count: usize, all: usize| {
            writeln!(out, "{what:<58} {count:>7} of {all:>7}  {:>5.1} %", share(count as f64, all))
        };
        row("close neighbours that hold a missed pair over 0.7", self.parted, self.neighbours)?;
        row("  with only blank lines or brackets between them", self.parted_by_nothing, self.neighbours)?;
        row("gone lines with an unpaired twin over 0.75 in the change", self.unpaired, self.changes)?;
        row("  with no pair between them", self.pairable, self.changes)?;
        row("pairs with five marks and more", self.many_marks, self.pairs)?;
        row("pairs less alike than 0.35 that begin differently", self.unrelated, self.pairs)?;
        row("pairs that differ in white space at their ends alone", self.indented, self.pairs)?;
        row("replaced identifiers that share segments, marked whole", self.wide_words, self.replaced_words)?;
        row("changes one equal line behind another", self.one_line_apart, self.changes)?;
        row("moved blocks that are crumbs of one", self.crumbs, self.moved)?;
        row("moved blocks of up to three lines", self.short_moves, self.moved)?;
        writeln!(out, "{:<58} {:>26.1} %", "average share that is marked", share(self.marked, self.pairs))?;
        for (language, (changes, named, flow)) in &self.sections {
            let unnamed = changes - named;
            writeln!(
                out,
                "  {language:<20} {changes:>7} changes  {:>5.1} % without a name  {:>5.1} % of names are control flow",
                share(unnamed as f64, *changes),
                share(*flow as f64, *named)
            )?;
        }
        Ok(())
    }
}
