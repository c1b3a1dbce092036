//! Hunks without a place, in words.

use tideline_core::internal::patch::{Doubt, PlacementFailure};

use super::numbers::plural;

/// Why a hunk has no place, in words.
pub(crate) fn misfit_words(misfit: &PlacementFailure) -> String {
    match misfit {
        PlacementFailure::NoMatch { line, tolerance: Some(tolerance), .. } => {
            format!("no match; closest is line {}, where it goes in with --slack {tolerance}:", line + 1)
        }
        PlacementFailure::NoMatch { line, .. } => format!("no match; closest is line {}:", line + 1),
        PlacementFailure::Ambiguous(one, other) if one == other => {
            format!("line {} matches what it was and what it will be about equally well", one + 1)
        }
        PlacementFailure::Ambiguous(one, other) => {
            format!("lines {} and {} match about equally well", one + 1, other + 1)
        }
        PlacementFailure::Doubtful { line, differing, context, against } => {
            let fits = match differing {
                0 => format!("it matches at line {}, but ", line + 1),
                _ => format!(
                    "it matches at line {} with {differing} of {} different, but ",
                    line + 1,
                    plural(*context, "context line")
                ),
            };
            let why = match against {
                Doubt::AddedNearby(there) => format!("lines that it adds are there already, at line {}", there + 1),
                Doubt::RemovedNearby(there) => format!("lines that it removes are still there, at line {}", there + 1),
                Doubt::OthersDiffer => "some hunks of this file are in already and others are not".to_owned(),
                Doubt::NotAtFileEnd => "it adds lines at an end of the file, and other lines are there".to_owned(),
                Doubt::TooFewLines => "too few of its lines match for a place so far from its own".to_owned(),
            };
            fits + &why
        }
    }
}
