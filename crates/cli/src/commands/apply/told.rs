//! What is said of patches that were applied.

use std::collections::BTreeSet;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use tideline_core::internal::patch::apply::{AppliedPart, Outcome};
use tideline_views::json::{self, records::Record};
use tideline_views::terminal::{Look, draw_applied};
use tideline_views::{plural, shown_message, shown_path};

use crate::args::ApplyArgs;
use crate::commands::run_and_undo;

/// A patch, and what became of its parts.
pub(super) struct ToldPatch {
    pub(super) name: String,
    pub(super) dropped: usize,
    pub(super) parts: Vec<AppliedPart>,
}

/// What became of all patches.
#[derive(Default)]
pub(super) struct Told {
    pub(super) patches: Vec<ToldPatch>,
    /// Where what has no place goes.
    pub(super) leftovers: Vec<PathBuf>,
    /// Whether such a file was there already.
    pub(super) replaced: bool,
    /// Whether something is to be written, unless this is a trial.
    pub(super) writes: bool,
    pub(super) nothing_to_do: bool,
    pub(super) run: Option<u64>,
}

impl Told {
    fn parts(&self) -> impl Iterator<Item = &AppliedPart> {
        self.patches.iter().flat_map(|patch| &patch.parts)
    }

    /// How many files became what is asked for.
    fn count(&self, is: impl Fn(&AppliedPart) -> bool) -> usize {
        self.parts().filter(|part| is(part)).map(|part| part.path.as_path()).collect::<BTreeSet<&Path>>().len()
    }

    pub(super) fn draw(&self, args: &ApplyArgs, look: &Look, out: &mut dyn Write) -> io::Result<()> {
        for patch in &self.patches {
            let folders = match (patch.dropped, args.drop_folders) {
                (0, _) | (_, Some(_)) => String::new(),
                (count, None) => format!(", {} dropped from its names", plural(count, "leading folder")),
            };
            let verb = if args.reverse { "taking out" } else { "applying" };
            writeln!(out, "{verb} {}{folders}", shown_message(&patch.name))?;
            draw_applied(&patch.parts, args.reverse, look, out)?;
        }
        writeln!(out, "{}", self.verdict(args))
    }

    /// The last line: what was written, and how to take it back.
    fn verdict(&self, args: &ApplyArgs) -> String {
        if self.parts().next().is_none() {
            return "the patch is empty: nothing to do".to_owned();
        }
        if !self.writes {
            return self.why_nothing();
        }
        if self.nothing_to_do {
            return match args.reverse {
                _ if !self.leftovers.is_empty() => "nothing was written: no part of it fits".to_owned(),
                true => "already taken out: nothing to do".to_owned(),
                false => "already applied: nothing to do".to_owned(),
            };
        }
        let outcomes: [(usize, &str); 6] = [
            (self.count(|part| part.changes && matches!(part.outcome, Outcome::Changed | Outcome::Emptied)), "changed"),
            (self.count(|part| part.outcome == Outcome::Created), "new"),
            (self.count(|part| matches!(part.outcome, Outcome::Copied(_))), "copied"),
            (self.count(|part| part.outcome == Outcome::Deleted), "removed"),
            (self.count(|part| matches!(part.outcome, Outcome::Moved(_))), "moved"),
            (self.count(|part| part.outcome == Outcome::AlreadyIn), "as wanted already"),
        ];
        let counts: Vec<String> = outcomes
            .into_iter()
            .filter(|(count, _)| *count > 0)
            .map(|(count, word)| format!("{count} {word}"))
            .collect();
        let mut said = Vec::new();
        if !counts.is_empty() {
            said.push(format!("files: {}", counts.join(", ")));
        }
        said.extend(args.output.as_ref().map(|output| format!("the result is in {}", shown_path(output))));
        said.extend(self.left(args));
        let said = said.join("; ");
        match self.run {
            Some(run) => format!("{said} {}", run_and_undo(run)),
            None => format!("{said}; nothing was written, this was a trial"),
        }
    }

    /// What became of what has no place.
    fn left(&self, args: &ApplyArgs) -> Option<String> {
        if self.leftovers.is_empty() {
            return None;
        }
        let misfits: usize = self.parts().map(AppliedPart::misfits).sum();
        let whole = self.count(|part| !part.is_whole() && part.misfits() == 0);
        if args.mark {
            let mut left = Vec::new();
            if misfits > 0 {
                let verb = if misfits == 1 { "is" } else { "are" };
                left.push(format!(
                    "{} {verb} marked as {}",
                    plural(misfits, "hunk"),
                    if misfits == 1 { "a conflict" } else { "conflicts" }
                ));
            }
            if whole > 0 {
                left.push(format!("{} could not be applied", plural(whole, "part")));
            }
            return Some(left.join("; "));
        }
        let names: Vec<_> = self.leftovers.iter().map(|path| shown_path(path)).collect();
        let replaced = if self.replaced { ", in the place of what was there" } else { "" };
        Some(format!("what does not fit is in {}{replaced}", names.join(", ")))
    }

    /// Why nothing is written, and what to do about it.
    fn why_nothing(&self) -> String {
        let misfits: usize = self.parts().map(AppliedPart::misfits).sum();
        let missing = self.count(|part| part.outcome == Outcome::Missing);
        let refused = self.count(|part| matches!(part.outcome, Outcome::Refused(_)));
        let mut why = Vec::new();
        if misfits > 0 {
            why.push(format!("{} {} not fit", plural(misfits, "hunk"), if misfits == 1 { "does" } else { "do" }));
        }
        if missing > 0 {
            why.push(format!("{} {} missing", plural(missing, "file"), if missing == 1 { "is" } else { "are" }));
        }
        if refused > 0 {
            why.push(format!("{} cannot be applied", plural(refused, "part")));
        }
        let advice = if self.parts().any(|part| part.changes) {
            "; --keep-going applies the rest, --mark puts conflicts into the files"
        } else if missing > 0 && misfits + refused == 0 {
            "; --into names another folder or the file, --drop-folders how many leading folders of the names to drop"
        } else {
            ""
        };
        format!("nothing was written: {}{advice}", why.join(", "))
    }

    pub(super) fn write_json(&self, args: &ApplyArgs, out: &mut dyn Write) -> io::Result<()> {
        for patch in &self.patches {
            for part in &patch.parts {
                let record = json::applied_part(&patch.name, patch.dropped, part);
                json::write_record(&Record::Applied(Box::new(record)), out)?;
            }
        }
        json::write_record(&json::run_record(self.run, self.writes && !args.dry_run), out)
    }
}
