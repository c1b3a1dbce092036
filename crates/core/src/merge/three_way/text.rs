//! Three texts merged.

use std::borrow::Cow;
use std::sync::Arc;

use super::line_ends::Endings;
use super::moved::{Carried, MovedEdit, Moves, carried, mark_moved_apart, tell_carried};
use super::options::{MergeOptions, Prefer, Resolution};
use super::region::{Region, RegionOutcome, Three};
use super::regions::regions;
use super::scripts::Scripts;
use crate::internal::align::{Bounds, align_masked};
use crate::internal::rules::{Account, FileRules, MaskedText};

/// Three texts, and what comes of them.
#[derive(Clone, Debug)]
pub struct TextMerge<'t> {
    /// The texts as they were merged: their lines end with a line feed where the line ends of each are all alike, and the last line ends. What one
    /// side edited in a block that the other moved stands where the block is now.
    pub texts: Three<MaskedText<'t>>,
    /// Where at least one side differs from the base, in order.
    pub regions: Vec<Region>,
    /// Line ends, and the final one.
    pub endings: Endings,
    /// Blocks that one side moved and the other edited.
    pub moved: Vec<MovedEdit>,
    /// Which side decides what has one value only.
    pub prefer: Option<Prefer>,
    /// What the rules masked, on both sides.
    pub account: Account,
}

/// Merges three texts. What either side changed since the base is found by aligning each with it, under the rules.
///
/// ```
/// use tideline_core::internal::merge::{MergeOptions, Three, merge_texts};
///
/// let base = "quay\nmouth 60\nbar\nreed\n";
/// let mine = base.replace("60", "30");
/// let theirs = format!("{base}lock\n");
/// let texts = Three::new(base, &mine[..], &theirs[..]).map(|text| text.as_bytes().into());
/// let merge = merge_texts(texts, &Default::default(), &MergeOptions::default());
/// assert_eq!(merge.merged().as_deref(), Some(&b"quay\nmouth 30\nbar\nreed\nlock\n"[..]));
/// ```
pub fn merge_texts<'t>(
    texts: Three<Cow<'t, [u8]>>,
    file_rules: &Arc<FileRules>,
    options: &MergeOptions,
) -> TextMerge<'t> {
    let Three { mut base, mut mine, mut theirs } = texts;
    let endings = Endings::taken_off(Three::new(&mut base, &mut mine, &mut theirs));
    let masked = |text: Cow<'t, [u8]>| MaskedText::new(text, file_rules);
    let texts = Three::new(masked(base).before(), masked(mine), masked(theirs));
    let mut merge = TextMerge {
        texts,
        regions: Vec::new(),
        endings,
        moved: Vec::new(),
        prefer: options.prefer,
        account: Account::default(),
    };
    let scripts = merge.scripts(options.bounds());
    let moves = Moves::of(&scripts, merge.texts.as_ref(), options.bounds());
    if let Some(Carried { mine, theirs, moved }) = carried(&moves, &scripts, merge.texts.as_ref(), options.bounds()) {
        merge.texts.mine = masked(mine.into());
        merge.texts.theirs = masked(theirs.into());
        merge.moved = moved;
        let scripts = merge.scripts(options.bounds());
        let moves = Moves::of(&scripts, merge.texts.as_ref(), options.bounds());
        merge.find_regions(&scripts, &moves, options);
        let (mine, theirs) = (&merge.texts.mine, &merge.texts.theirs);
        tell_carried(&merge.moved, &mut merge.regions, |region, by_mine| {
            let (masked, span) = if by_mine { (mine, &region.mine) } else { (theirs, &region.theirs) };
            masked.text()[span.bytes.clone()].to_vec()
        });
    } else {
        merge.find_regions(&scripts, &moves, options);
    }
    merge
}

impl TextMerge<'_> {
    fn scripts(&mut self, bounds: &Bounds) -> Scripts {
        let texts = self.texts.as_ref();
        let (mine, theirs) = rayon::join(
            || align_masked(texts.base, texts.mine, bounds),
            || align_masked(texts.base, texts.theirs, bounds),
        );
        let scripts = Scripts { mine: mine.edits, theirs: theirs.edits }.in_step(texts, bounds);
        self.account = mine.account;
        self.account.add(&theirs.account);
        scripts
    }

    fn find_regions(&mut self, scripts: &Scripts, moves: &Moves, options: &MergeOptions) {
        self.regions = regions(scripts, self.texts.as_ref(), options);
        if !moves.is_empty() {
            mark_moved_apart(moves, scripts, &mut self.regions);
        }
    }

    /// The regions that are conflicts, in order.
    pub fn conflicts(&self) -> impl Iterator<Item = &Region> {
        self.regions.iter().filter(|region| region.is_conflict())
    }

    /// How many lines of theirs were dropped because they differ only in text that does not count.
    pub fn dropped(&self) -> usize {
        self.regions.iter().map(|region| region.dropped).sum()
    }

    /// The result, if there is no conflict.
    pub fn merged(&self) -> Option<Vec<u8>> {
        self.conflicts().next().is_none().then(|| self.written(|_, _, _| false))
    }

    /// The result with each conflict resolved as one says, by its number from 0.
    pub fn resolved(&self, resolution: impl Fn(usize) -> Resolution) -> Vec<u8> {
        self.written(|number, region, text| {
            text.extend(self.resolved_lines(region, &resolution(number)));
            false
        })
    }

    /// The lines that a conflict has when it is resolved so.
    pub fn resolved_lines(&self, region: &Region, resolution: &Resolution) -> Vec<u8> {
        let lines = self.lines_of(region);
        match resolution {
            Resolution::Mine => lines.mine.to_vec(),
            Resolution::Theirs => lines.theirs.to_vec(),
            Resolution::Base => lines.base.to_vec(),
            Resolution::MineThenTheirs => [lines.mine, lines.theirs].concat(),
            Resolution::TheirsThenMine => [lines.theirs, lines.mine].concat(),
            Resolution::Lines(lines) => lines.clone(),
        }
    }

    /// The lines of a region in each text.
    pub fn lines_of(&self, region: &Region) -> Three<&[u8]> {
        Three::new(
            &self.texts.base.text()[region.base.bytes.clone()],
            &self.texts.mine.text()[region.mine.bytes.clone()],
            &self.texts.theirs.text()[region.theirs.bytes.clone()],
        )
    }

    /// The lines that a region has in the result, unless it is a conflict.
    pub fn result_of<'r>(&'r self, region: &'r Region) -> Option<&'r [u8]> {
        let lines = self.lines_of(region);
        match &region.outcome {
            RegionOutcome::Mine | RegionOutcome::Alike => Some(lines.mine),
            RegionOutcome::Theirs => Some(lines.theirs),
            RegionOutcome::Joined(lines, _) => Some(lines),
            RegionOutcome::Conflict(_) => None,
        }
    }

    /// The result as it is written, with its line ends. `conflict` adds what stands for a conflict, by its number from 0, and
    /// tells whether that ends in a line of its own, which keeps its line end.
    pub(super) fn written(&self, mut conflict: impl FnMut(usize, &Region, &mut Vec<u8>) -> bool) -> Vec<u8> {
        let base = self.texts.base.text();
        let mut text = Vec::with_capacity(self.texts.mine.text().len().max(self.texts.theirs.text().len()));
        let (mut at, mut number) = (0, 0);
        let mut ends_in_mark = false;
        for region in &self.regions {
            text.extend_from_slice(&base[at..region.base.bytes.start]);
            at = region.base.bytes.end;
            ends_in_mark = false;
            match self.result_of(region) {
                Some(lines) => text.extend_from_slice(lines),
                None => {
                    ends_in_mark = conflict(number, region, &mut text) && at == base.len();
                    number += 1;
                }
            }
        }
        text.extend_from_slice(&base[at..]);
        self.endings.put_on(text, ends_in_mark, self.prefer)
    }
}
