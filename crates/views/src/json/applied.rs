//! What became of the files of a patch, as records.

use tideline_core::internal::patch::HunkPlacement;
use tideline_core::internal::patch::apply::{AppliedPart, Outcome};

use super::apply_records::{AppliedHunk, AppliedOutcome, AppliedPlace, AppliedRecord};
use super::value::text;
use crate::wording::misfit_words;

/// The record of a part about a file of a patch of this name, from whose names so many leading folders were dropped.
pub fn applied_part(patch: &str, dropped_folders: usize, part: &AppliedPart) -> AppliedRecord {
    let path = |path: &std::path::Path| text(path.as_os_str().as_encoded_bytes());
    AppliedRecord {
        patch: patch.to_owned(),
        dropped_folders,
        path: path(&part.path),
        outcome: match &part.outcome {
            _ if part.misfits() > 0 => AppliedOutcome::Misfit,
            Outcome::Changed => AppliedOutcome::Changed,
            Outcome::Emptied => AppliedOutcome::Emptied,
            Outcome::Created => AppliedOutcome::Created,
            Outcome::Deleted => AppliedOutcome::Deleted,
            Outcome::Moved(_) => AppliedOutcome::Moved,
            Outcome::Copied(_) => AppliedOutcome::Copied,
            Outcome::AlreadyIn => AppliedOutcome::Already,
            Outcome::Missing => AppliedOutcome::Missing,
            Outcome::Refused(_) => AppliedOutcome::Refused,
        },
        reason: match &part.outcome {
            Outcome::Refused(refusal) => Some(refusal.to_string()),
            _ => None,
        },
        moved_from: match &part.outcome {
            Outcome::Moved(from) | Outcome::Copied(from) => Some(path(from)),
            _ => None,
        },
        other: part.other.as_deref().map(path),
        hunks: part.hunks.iter().zip(&part.fits).map(|(hunk, fit)| applied_hunk(hunk.line, fit)).collect(),
    }
}

/// What became of a hunk that begins at a line of its patch.
fn applied_hunk(patch_line: usize, fit: &HunkPlacement) -> AppliedHunk {
    let places = match fit {
        HunkPlacement::Parts(parts) => parts.iter().filter_map(applied_place).collect(),
        fit => applied_place(fit).into_iter().collect(),
    };
    AppliedHunk {
        patch_line,
        fits: !matches!(fit, HunkPlacement::PlacementFailure(_)),
        already: fit.is_already_in(),
        places,
        reason: match fit {
            HunkPlacement::PlacementFailure(misfit) => Some(misfit_words(misfit).trim_end_matches(':').to_owned()),
            _ => None,
        },
    }
}

fn applied_place(fit: &HunkPlacement) -> Option<AppliedPlace> {
    match fit {
        HunkPlacement::Placed(placed) => Some(AppliedPlace {
            line: placed.line + 1,
            offset: Some(placed.offset),
            differing: placed.differing,
            already: false,
        }),
        HunkPlacement::AlreadyIn(line) => {
            Some(AppliedPlace { line: line + 1, offset: None, differing: 0, already: true })
        }
        HunkPlacement::Parts(_) | HunkPlacement::PlacementFailure(_) => None,
    }
}
