//! Which lines of two files are compared, and which of them are kept together.

use std::ops::Range;

use anyhow::{Result, bail};
use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::rules::MaskedText;
use tideline_core::internal::text::bytes::count_lines;
use tideline_views::Labels;

use crate::args::{HoldArgs, PartArgs, Parts};

/// Which lines and paths are compared with which, as it was asked for.
#[derive(Clone, Copy, Default)]
pub(crate) struct AskedLines<'a> {
    pub(crate) holds: Option<&'a HoldArgs>,
    pub(crate) part: Option<&'a PartArgs>,
}

/// The lines that were asked for, counted from 0.
#[derive(Clone, Default)]
pub(crate) struct Lines {
    /// Lines before, in order, and with each the line after that it is kept together with.
    pub(crate) holds: Vec<(usize, usize)>,
    /// The only lines that are compared.
    pub(crate) parts: Parts,
}

impl Lines {
    pub(crate) fn new(asked: &AskedLines<'_>) -> Result<Self> {
        let holds = asked.holds.map_or(&[][..], |holds| &holds.hold);
        let mut holds: Vec<(usize, usize)> = holds.iter().map(|hold| (hold.before - 1, hold.after - 1)).collect();
        holds.sort_unstable();
        holds.dedup();
        if let Some(pair) = holds.windows(2).find(|pair| pair[0].0 == pair[1].0 || pair[0].1 >= pair[1].1) {
            let told = |(before, after): (usize, usize)| format!("before:{}=after:{}", before + 1, after + 1);
            bail!(
                "--hold {} and --hold {} cross: lines that are kept together must be in the same order on both sides",
                told(pair[0]),
                told(pair[1])
            );
        }
        Ok(Self { holds, parts: asked.part.and_then(|part| part.lines.clone()).unwrap_or_default() })
    }

    fn is_empty(&self) -> bool {
        self.holds.is_empty() && self.parts == Parts::default()
    }

    /// Whether only some lines are compared.
    pub(crate) fn is_part(&self) -> bool {
        self.parts != Parts::default()
    }

    /// What the heading says of lines that are left out.
    pub(crate) fn note(&self) -> Option<String> {
        let told = |side: &str, part: &Option<Range<usize>>| {
            part.as_ref().map(|part| format!("{side} lines {}–{}", part.start + 1, part.end))
        };
        let sides = [told("before", &self.parts.before), told("after", &self.parts.after)];
        let sides: Vec<String> = sides.into_iter().flatten().collect();
        (!sides.is_empty()).then(|| format!("only {}", sides.join(", ")))
    }

    /// Refuses two folders.
    pub(crate) fn refuse_for_trees(&self) -> Result<()> {
        if self.is_empty() {
            return Ok(());
        }
        bail!("--hold and --lines are for two files: name the two files themselves, not the folders they are in")
    }

    /// Refuses lines that are not there, and files that have none.
    pub(crate) fn check(&self, comparison: &Comparison<'_>, labels: &Labels) -> Result<()> {
        if self.is_empty() {
            return Ok(());
        }
        let Comparison::Text(texts) = comparison else {
            bail!("--hold and --lines are for text: what is compared has no lines")
        };
        let sides = [
            (&texts.before, &labels.before, &self.parts.before, self.holds.iter().map(|hold| hold.0).max()),
            (&texts.after, &labels.after, &self.parts.after, self.holds.iter().map(|hold| hold.1).max()),
        ];
        for (masked, label, part, last_held) in sides {
            let end = masked.first_line() + count_lines(masked.text());
            if let Some(part) = part.as_ref().filter(|part| part.end > end) {
                refuse(part.end, label, masked, part)?;
            }
            let compared = masked.first_line()..end;
            if let Some(line) = last_held.filter(|line| !compared.contains(line)) {
                bail!("there is no line {} in {label} to keep together with another: it has {end} lines", line + 1);
            }
        }
        Ok(())
    }
}

fn refuse(line: usize, label: &str, masked: &MaskedText<'_>, part: &Range<usize>) -> Result<()> {
    let there = count_lines(masked.text());
    if there == 0 {
        bail!("there is no line {} in {label}: it is shorter", part.start + 1);
    }
    bail!("there is no line {line} in {label}: it has {} lines", part.start + there)
}
