//! Placing hunks: where in a file that moved on does each belong?
//!
//! A hunk is looked for as it was (its old lines: it goes in) and as it will be (its new lines: it is in already). All lines but
//! the outermost context have to stand where it goes. Where that is so is not enough: lines repeat in most files, and a hunk that
//! stands at a place by chance would go into the wrong one. So every place where much of the hunk stands, in either state, is
//! weighed, and a place is only taken when no other comes near it:
//!
//! 1. All hunks at their own lines, byte for byte ([`exact`]): what most patches find.
//! 2. All hunks at one common offset (`together` in [`choose`]).
//! 3. Each hunk for itself, between its neighbours that have a place ([`choose`]; what speaks for and against a place: [`question`]).
//! 4. A hunk inside which the file changed, change by change ([`parts`]).
//!
//! Line ends never matter for finding a place, and what rules exclude does not either.

mod choose;
mod decision;
mod exact;
mod failure;
mod line_index;
mod nearby;
mod parts;
mod pieces;
mod put;
mod question;
mod weigh;

use super::model::Hunk;
use super::placement::{HunkPlacement, PlaceOptions, Placement};
use choose::Chooser;
use exact::place_exactly;
use line_index::LineIndex;

/// Places the hunks of one file.
///
/// ```
/// use tideline_core::internal::patch::{HunkPlacement, PlaceOptions, place, read_patch};
///
/// let patch = read_patch(b"--- a\n+++ b\n@@ -1,3 +1,3 @@\n one\n-two\n+2\n three\n").unwrap();
/// let placement = place(b"zero\none\ntwo\nthree\n", &patch.files[0].hunks, &PlaceOptions::default());
/// assert!(matches!(placement.fits[0], HunkPlacement::Placed(placed) if placed.offset == 1));
/// assert_eq!(placement.text, b"zero\none\n2\nthree\n");
/// ```
pub fn place(target: &[u8], hunks: &[Hunk], options: &PlaceOptions<'_>) -> Placement {
    // Under rules, lines that are not there byte for byte may stand there all the same.
    if options.file_rules.is_none()
        && let Some(placement) = place_exactly(target, hunks)
    {
        return placement;
    }
    let line_index = LineIndex::new(target, hunks, options.file_rules);
    let decided = Chooser::new(&line_index, hunks, options.tolerance).decide();
    let fits: Vec<HunkPlacement> =
        decided.iter().zip(hunks.iter().enumerate()).map(|(decision, hunk)| line_index.fit(hunk, decision)).collect();
    let text = put::text(&line_index, hunks, &decided, &fits, options);
    Placement { fits, text }
}
