//! Comparing two trees: the walk, files that moved, and what differs inside, into a sink.

use std::ops::ControlFlow;

use rayon::prelude::*;

use super::blocks::BlockSearch;
use super::both_trees::{BothTrees, Found, Measured, Unknown};
use super::by_name::pair_by_name;
use super::inspect::Inspect;
use super::options::TreeOptions;
use super::progress::Progress;
use super::walk::Walk;
use super::{EntryType, Note, Pair, Tree, TreeComparison, TreePath, moves};
use crate::internal::model::Status;

/// Pairs whose contents are looked into at a time, in parallel.
const AT_ONCE: usize = 256;
/// So many bytes of them at most; a larger one is looked into by itself.
const MOST_BYTES: u64 = 64 << 20;
/// So many bytes of what was made of pairs wait in memory until it is known which blocks moved; the rest is made again.
const MOST_HELD: usize = 64 << 20;

/// Where the pairs of two trees go.
pub trait PairSink {
    /// A pair as the walk met it. What is known of it is provisional: a gone and a new file may turn out to be one that moved, and what
    /// differs in a file is not counted yet.
    fn provisional(&mut self, _pair: &Pair) {}

    /// A pair of which all is known, with what was made of its comparison. Pairs come in path order; those that were not asked for do
    /// not come. A sink that has seen enough ends the comparison.
    fn pair(&mut self, pair: Pair, made: Vec<u8>) -> ControlFlow<()>;
}

impl PairSink for Vec<Pair> {
    fn pair(&mut self, pair: Pair, _: Vec<u8>) -> ControlFlow<()> {
        self.push(pair);
        ControlFlow::Continue(())
    }
}

/// Compares two trees. What cannot be read is a pair of its own; the rest goes on.
pub fn compare(before: &dyn Tree, after: &dyn Tree, options: &TreeOptions, progress: &Progress) -> TreeComparison {
    let mut pairs = Vec::new();
    let totals = compare_into((before, after), options, progress, None, &mut pairs);
    TreeComparison { pairs, ..totals }
}

/// Compares two trees and passes the pairs on as soon as they are known: once all files and blocks that moved are found, or at once where
/// none are looked for. What is returned holds everything but the pairs. Each pair of contents is compared once: what is to be made of the
/// comparison is made then.
pub fn compare_into(
    (before, after): (&dyn Tree, &dyn Tree),
    options: &TreeOptions,
    progress: &Progress,
    inspect: Option<&Inspect<'_>>,
    sink: &mut dyn PairSink,
) -> TreeComparison {
    let walk = Walk { trees: BothTrees { before, after, options, progress } };
    let mut passing = Passing {
        walk: &walk,
        inspect,
        comparison: TreeComparison::default(),
        sink,
        packed: Vec::new(),
        same: Vec::new(),
    };
    let mut all = Vec::new();
    let reads_ahead = before.reads_ahead() || after.reads_ahead();
    let waits = options.moves || options.renames || !options.pairs.is_empty() || reads_ahead;
    let totals = walk.all(|known| {
        known.iter().for_each(|found| passing.sink.provisional(&found.pair));
        if waits {
            all.extend(known);
            return ControlFlow::Continue(());
        }
        passing.at_once(known)
    });
    if waits {
        let (mut all, same) = pair_by_name(all, &walk);
        *passing.comparison.counts.entry(Status::Same).or_default() += same;
        if reads_ahead && (options.moves || options.counts || !options.contents.all_rules().is_empty()) {
            let has = |status| all.iter().any(|found| found.pair.status == status && found.pair.is_file());
            // Which lines are usual is asked only where a file may have moved.
            let may_have_moved = options.moves && has(Status::Gone) && has(Status::New);
            let usual: Vec<&TreePath> = if may_have_moved { totals.usual.iter().collect() } else { Vec::new() };
            prepare((before, after), all.iter().map(|found| &found.pair), &usual);
        }
        if options.moves {
            all = match_moves(all, &walk, &totals.usual);
        }
        // Where the sink has had enough, the rest is not looked into.
        let _ = if options.counts && options.moves { passing.after_blocks(all) } else { passing.at_once(all) };
    }
    // Where the sink has had enough, nobody waits for the rest.
    let _ = passing.end();
    let mut comparison = passing.comparison;
    comparison.remarks = before.remarks();
    comparison.remarks.extend(after.remarks());
    comparison.remarks.sort_unstable();
    comparison.remarks.dedup();
    comparison.left_out = totals.left_out;
    comparison.left_out.repositories.sort_unstable();
    comparison.left_out.repositories.dedup();
    *comparison.counts.entry(Status::Same).or_default() += totals.same;
    comparison.account.add(&totals.account);
    comparison
}

/// Tells trees that read in one go which contents of some pairs will be asked for, and which others of the tree after.
pub fn prepare<'p>(
    (before, after): (&dyn Tree, &dyn Tree),
    pairs: impl Iterator<Item = &'p Pair>,
    others: &[&'p TreePath],
) {
    let (mut of_before, mut of_after) = (Vec::new(), others.to_vec());
    let differs =
        |pair: &&Pair| !matches!(pair.status, Status::Same | Status::Unreadable) && pair.note != Some(Note::Packing);
    for pair in pairs.filter(differs) {
        if pair.types.0 == Some(EntryType::File) {
            of_before.push(pair.path_before());
        }
        if pair.types.1 == Some(EntryType::File) {
            of_after.push(&pair.path);
        }
    }
    before.prepare(&of_before);
    after.prepare(&of_after);
}

/// Pairs on their way to the sink.
struct Passing<'p, 'a> {
    walk: &'p Walk<'a>,
    inspect: Option<&'p Inspect<'p>>,
    comparison: TreeComparison,
    sink: &'p mut dyn PairSink,
    /// Archives, one in the other, in which nothing was found to differ so far.
    packed: Vec<Pair>,
    /// What is the same in them and was asked for.
    same: Vec<(Pair, Vec<u8>)>,
}

/// A pair of which all is known but the blocks that moved to other files.
struct Held {
    pair: Pair,
    /// What was made of it; nothing where it would fill the memory.
    made: Option<Vec<u8>>,
}

impl Passing<'_, '_> {
    /// Finds out what is not known of some pairs yet, counts them, and passes those on that were asked for.
    fn at_once(&mut self, found: Vec<Found>) -> ControlFlow<()> {
        let mut found = found.into_iter().peekable();
        while found.peek().is_some() {
            for (pair, Measured { made, edits, .. }) in self.measured(&mut found) {
                self.comparison.edits.add(edits);
                self.pass_on(pair, made)?;
            }
        }
        ControlFlow::Continue(())
    }

    /// The same of all pairs, once it is known which blocks moved from one to another.
    fn after_blocks(&mut self, found: Vec<Found>) -> ControlFlow<()> {
        let mut found = found.into_iter().peekable();
        let mut held: Vec<Held> = Vec::new();
        let (mut search, mut room) = (BlockSearch::default(), MOST_HELD);
        while found.peek().is_some() {
            for (pair, Measured { made, edits, lines }) in self.measured(&mut found) {
                self.comparison.edits.add(edits);
                search.add(held.len(), lines);
                let is_kept = made.len() <= room;
                room -= if is_kept { made.len() } else { 0 };
                held.push(Held { pair, made: is_kept.then_some(made) });
            }
        }
        let trees = &self.walk.trees;
        let pairs: Vec<&Pair> = held.iter().map(|held| &held.pair).collect();
        for (pair, block) in search.find(&pairs, (trees.before, trees.after), &trees.options.contents) {
            let blocks = &mut held[pair].pair.moved_blocks;
            blocks.insert(blocks.partition_point(|other| other.lines.start < block.lines.start), block);
        }
        let mut held = held.into_iter().peekable();
        while held.peek().is_some() {
            let mut some: Vec<Held> = held.by_ref().take(AT_ONCE).collect();
            let trees = &self.walk.trees;
            if let Some(inspect) = self.inspect {
                // What was made before blocks were known does not tell of them.
                some.par_iter_mut()
                    .filter(|held| {
                        held.made.as_ref().is_none_or(|made| !made.is_empty() && !held.pair.moved_blocks.is_empty())
                    })
                    .for_each(|held| held.made = Some(trees.make_again(&held.pair, inspect)));
            }
            some.into_iter().try_for_each(|Held { pair, made }| self.pass_on(pair, made.unwrap_or_default()))?;
        }
        ControlFlow::Continue(())
    }

    /// Takes some pairs, and finds out what is not known of them: as many as keep the processors busy, and no more than fit into memory with what
    /// is made of them.
    fn measured(&self, found: &mut impl Iterator<Item = Found>) -> Vec<(Pair, Measured)> {
        let mut some: Vec<Found> = Vec::new();
        let mut bytes = 0;
        while some.len() < AT_ONCE
            && bytes < MOST_BYTES
            && let Some(next) = found.next()
        {
            bytes += next.pair.size();
            some.push(next);
        }
        let (trees, inspect) = (&self.walk.trees, self.inspect);
        let measured: Vec<Measured> = some.par_iter_mut().map(|found| trees.complete(found, inspect)).collect();
        some.into_iter().map(|found| found.pair).zip(measured).collect()
    }

    /// Passes a pair on. Archives wait until it is known whether only their packing differs.
    fn pass_on(&mut self, pair: Pair, made: Vec<u8>) -> ControlFlow<()> {
        let is_in = |archive: &Pair| pair.path.is_within(&archive.path) || pair.path_before().is_within(&archive.path);
        while self.packed.last().is_some_and(|archive| !is_in(archive)) {
            self.end_of_archive()?;
        }
        if pair.note == Some(Note::Packing) {
            self.packed.push(pair);
            return ControlFlow::Continue(());
        }
        if self.packed.is_empty() {
            return self.give(pair, made);
        }
        if pair.status == Status::Same {
            self.same.push((pair, made));
            return ControlFlow::Continue(());
        }
        self.packed.clear();
        self.give_same()?;
        self.give(pair, made)
    }

    /// Passes on all archives that still wait.
    fn end(&mut self) -> ControlFlow<()> {
        while !self.packed.is_empty() {
            self.end_of_archive()?;
        }
        ControlFlow::Continue(())
    }

    /// Nothing differs in the innermost archive. The one that it is in has only that to tell.
    fn end_of_archive(&mut self) -> ControlFlow<()> {
        let Some(archive) = self.packed.pop() else { return ControlFlow::Continue(()) };
        if self.packed.is_empty() {
            self.give(archive, Vec::new())?;
            return self.give_same();
        }
        ControlFlow::Continue(())
    }

    fn give_same(&mut self) -> ControlFlow<()> {
        std::mem::take(&mut self.same).into_iter().try_for_each(|(pair, made)| self.give(pair, made))
    }

    fn give(&mut self, pair: Pair, made: Vec<u8>) -> ControlFlow<()> {
        self.comparison.tally(std::slice::from_ref(&pair));
        if self.walk.trees.options.keeps(&pair) { self.sink.pair(pair, made) } else { ControlFlow::Continue(()) }
    }
}

/// Makes one pair of each gone and new file that belong together.
fn match_moves(found: Vec<Found>, walk: &Walk<'_>, usual: &[TreePath]) -> Vec<Found> {
    let (mut pairs, mut unknown): (Vec<Pair>, Vec<Unknown>) =
        found.into_iter().map(|found| (found.pair, found.unknown)).unzip();
    let mut from = Vec::new();
    let mut is_dropped = vec![false; pairs.len()];
    for (gone, new) in moves::find(&pairs, walk.trees.before, walk.trees.after, usual) {
        is_dropped[gone] = true;
        from.push((new, gone));
    }
    for (new, gone) in from {
        let (path, entry_type, before) = (pairs[gone].path.clone(), pairs[gone].types.0, pairs[gone].before);
        let known = (walk.trees.before.identity(&path), walk.trees.after.identity(&pairs[new].path));
        let pair = &mut pairs[new];
        (pair.status, pair.moved_from) = (Status::Moved, Some(path));
        (pair.types.0, pair.before) = (entry_type, before);
        unknown[new] = match known {
            (Some(one), Some(other)) if one == other => Unknown::Nothing,
            (None, None) => Unknown::Difference,
            _ => Unknown::DifferenceIfReadable,
        };
    }
    let all = pairs.into_iter().zip(unknown).zip(is_dropped);
    all.filter(|(_, is_dropped)| !is_dropped).map(|((pair, unknown), _)| Found { pair, unknown }).collect()
}
