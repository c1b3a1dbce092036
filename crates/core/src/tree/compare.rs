//! Comparing two trees: the walk, files that moved, and what differs inside, into a sink.

use std::ops::ControlFlow;

use rayon::prelude::*;

use super::both_trees::{BothTrees, Found, Measured, Unknown};
use super::inspect::Inspect;
use super::options::TreeOptions;
use super::progress::Progress;
use super::walk::Walk;
use super::{Pair, Tree, TreeComparison, moves};
use crate::internal::model::Status;

/// Pairs whose contents are looked into at a time, in parallel.
const AT_ONCE: usize = 256;
/// So many bytes of them at most; a larger one is looked into by itself.
const MOST_BYTES: u64 = 64 << 20;

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

/// Compares two trees and passes the pairs on as soon as they are known: once all files that moved are found, or at once where none
/// are looked for. What is returned holds everything but the pairs. Each pair of contents is compared once: what is to be made of the
/// comparison is made then.
pub fn compare_into(
    (before, after): (&dyn Tree, &dyn Tree),
    options: &TreeOptions,
    progress: &Progress,
    inspect: Option<&Inspect<'_>>,
    sink: &mut dyn PairSink,
) -> TreeComparison {
    let walk = Walk { trees: BothTrees { before, after, options, progress } };
    let mut comparison = TreeComparison::default();
    let mut all = Vec::new();
    let totals = walk.all(|known| {
        known.iter().for_each(|found| sink.provisional(&found.pair));
        if options.moves {
            all.extend(known);
            return ControlFlow::Continue(());
        }
        pass_on(known, (&walk, inspect), &mut comparison, sink)
    });
    if options.moves {
        let all = match_moves(all, &walk);
        // Where the sink has had enough, the rest is not looked into.
        let _ = pass_on(all, (&walk, inspect), &mut comparison, sink);
    }
    comparison.left_out = totals.left_out;
    comparison.left_out.repositories.sort_unstable();
    comparison.left_out.repositories.dedup();
    *comparison.counts.entry(Status::Same).or_default() += totals.same;
    comparison.account.add(&totals.account);
    comparison
}

/// Finds out what is not known of some pairs yet, counts them, and passes those on that were asked for.
fn pass_on(
    found: Vec<Found>,
    (walk, inspect): (&Walk<'_>, Option<&Inspect<'_>>),
    comparison: &mut TreeComparison,
    sink: &mut dyn PairSink,
) -> ControlFlow<()> {
    let mut found = found.into_iter().peekable();
    while found.peek().is_some() {
        // As many as keep the processors busy, and no more than fit into memory with what is made of them.
        let mut some: Vec<Found> = Vec::new();
        let mut bytes = 0;
        while some.len() < AT_ONCE
            && bytes < MOST_BYTES
            && let Some(next) = found.next()
        {
            bytes += next.pair.size();
            some.push(next);
        }
        let measured: Vec<Measured> = some.par_iter_mut().map(|found| walk.trees.complete(found, inspect)).collect();
        for (Found { pair, .. }, Measured { made, edits }) in some.into_iter().zip(measured) {
            comparison.edits.add(edits);
            comparison.tally(std::slice::from_ref(&pair));
            if walk.trees.options.keeps(&pair) {
                sink.pair(pair, made)?;
            }
        }
    }
    ControlFlow::Continue(())
}

/// Makes one pair of each gone and new file that belong together.
fn match_moves(found: Vec<Found>, walk: &Walk<'_>) -> Vec<Found> {
    let (mut pairs, mut unknown): (Vec<Pair>, Vec<Unknown>) =
        found.into_iter().map(|found| (found.pair, found.unknown)).unzip();
    let mut from = Vec::new();
    let mut is_dropped = vec![false; pairs.len()];
    for (gone, new) in moves::find(&pairs, walk.trees.before, walk.trees.after) {
        is_dropped[gone] = true;
        from.push((new, gone));
    }
    for (new, gone) in from {
        let (path, entry_type, before) = (pairs[gone].path.clone(), pairs[gone].types.0, pairs[gone].before);
        let pair = &mut pairs[new];
        (pair.status, pair.moved_from) = (Status::Moved, Some(path));
        (pair.types.0, pair.before) = (entry_type, before);
        unknown[new] = Unknown::Difference;
    }
    let all = pairs.into_iter().zip(unknown).zip(is_dropped);
    all.filter(|(_, is_dropped)| !is_dropped).map(|((pair, unknown), _)| Found { pair, unknown }).collect()
}
