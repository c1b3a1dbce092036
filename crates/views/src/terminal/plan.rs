//! A plan that makes one tree like another: what is done to which path, in which direction, and what is left alone.

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::io::{self, Write};

use tideline_core::internal::plan::{Item, LeftAlone, Side, SyncPlan, SyncStep, Verb};
use unicode_width::UnicodeWidthStr;

use super::look::Look;
use super::palette::TextRole;
use crate::marks::Marks;
use crate::shown::{shown_bytes, shown_name};
use crate::wording::sync::reason_words;
use crate::wording::{bytes_in_words, grouped, plural};

/// A plan, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct PlanView<'a> {
    /// What the tree is called that is carried from.
    pub from: &'a str,
    /// What the tree is called that is carried into.
    pub into: &'a str,
    /// The whole path of the tree that is carried into, said where something is removed.
    pub into_in_full: &'a str,
    /// What is to be done.
    pub plan: &'a SyncPlan,
    /// Whether it is done already.
    pub is_done: bool,
}

/// The widest that a column is made.
const WIDEST: usize = 44;

/// Draws a plan.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_plan(view: &PlanView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_heading(view, look, out)?;
    let lines = lines_by_folder(view, look);
    if !lines.is_empty() {
        writeln!(out)?;
        write_lines(&lines, look, out)?;
        writeln!(out)?;
        for (index, (ink, total)) in totals(view).into_iter().enumerate() {
            write!(out, "  {} ", if index == 0 { "in all:" } else { "       " })?;
            look.palette().write(ink, &total, out)?;
            writeln!(out)?;
        }
    }
    if let Some(remark) = left_alone(view) {
        write!(out, "  ")?;
        look.palette().write(TextRole::Faint, &remark, out)?;
        writeln!(out)?;
    }
    Ok(())
}

/// A line for each step and for each path that is undecided, by folder and in the order of their names.
fn lines_by_folder<'v>(view: &PlanView<'v>, look: &Look) -> BTreeMap<&'v [u8], Vec<PlanLine>> {
    let mut lines: BTreeMap<&[u8], Vec<PlanLine>> = BTreeMap::new();
    for step in &view.plan.steps {
        let (folder, name) = step.path.split();
        lines.entry(folder).or_default().push(line(step, name, view, look));
    }
    for one in &view.plan.undecided {
        let (folder, name) = one.path.split();
        lines.entry(folder).or_default().push(PlanLine {
            mark: Marks::of(look.plain).trouble,
            ink: TextRole::Trouble,
            verb: match (one.is_trouble, view.plan.both_ways) {
                (true, _) => "unreadable",
                (false, true) => "conflict",
                (false, false) => "undecided",
            }
            .to_owned(),
            name: shown_bytes(name, look.plain),
            says: shown_name(&reason_words(&one.reason, view.from, view.into), look.plain),
        });
    }
    lines.values_mut().for_each(|lines| lines.sort_by(|one, other| one.name.cmp(&other.name)));
    lines
}

fn write_lines(lines: &BTreeMap<&[u8], Vec<PlanLine>>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let widest = |width: fn(&PlanLine) -> usize| lines.values().flatten().map(width).max().unwrap_or(0).min(WIDEST);
    let widths = (widest(|line| line.verb.width()), widest(|line| line.name.width()));
    for (folder, lines) in lines {
        if !folder.is_empty() {
            write!(out, "  ")?;
            look.palette().write(TextRole::Strong, &format!("{}/", shown_bytes(folder, look.plain)), out)?;
            writeln!(out)?;
        }
        for line in lines {
            line.write(widths, look, out)?;
        }
    }
    Ok(())
}

/// Which side becomes like which, in words.
fn write_heading(view: &PlanView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let (from, into) = (shown_name(view.from, look.plain), shown_name(view.into, look.plain));
    let says = match (view.plan.steps.len(), view.plan.undecided.len()) {
        (0, 0) if view.plan.both_ways => format!("{from} and {into} are alike: nothing to do"),
        (0, 0) => format!("{into} has what {from} has: nothing to do"),
        (0, conflicts) if view.plan.both_ways => format!("nothing can be carried; {}", plural(conflicts, "conflict")),
        (0, undecided) => format!("nothing can be carried; {undecided} undecided"),
        (steps, _) if view.plan.both_ways => {
            let steps = plural(steps, "step");
            format!("each difference between {from} and {into} goes from its newer side to the older: {steps}")
        }
        (steps, _) => format!("from {from} into {into}: {}", plural(steps, "step")),
    };
    look.palette().write(TextRole::Strong, &says, out)?;
    writeln!(out)
}

struct PlanLine {
    mark: &'static str,
    ink: TextRole,
    verb: String,
    name: String,
    says: String,
}

impl PlanLine {
    fn write(&self, widths: (usize, usize), look: &Look, out: &mut dyn Write) -> io::Result<()> {
        let gap = |width: usize, text: &str| " ".repeat(width.saturating_sub(text.width()));
        write!(out, "    ")?;
        look.palette().write(self.ink, &format!("{} {}", self.mark, self.verb), out)?;
        write!(out, "{}  {}", gap(widths.0, &self.verb), self.name)?;
        if !self.says.is_empty() {
            write!(out, "{}    ", gap(widths.1, &self.name))?;
            look.palette().write(TextRole::Faint, &self.says, out)?;
        }
        writeln!(out)
    }
}

fn verb_word(verb: Verb) -> &'static str {
    match verb {
        Verb::Copy => "copy",
        Verb::Replace => "replace",
        Verb::Move => "move",
        Verb::MakeFolder => "make folder",
        Verb::Remove => "remove",
        Verb::RemoveFolder => "remove folder",
    }
}

fn line(step: &SyncStep, name: &[u8], view: &PlanView<'_>, look: &Look) -> PlanLine {
    let marks = Marks::of(look.plain);
    let verb = step.verb();
    let (mark, ink) = match verb {
        Verb::Copy | Verb::MakeFolder => (marks.new, TextRole::New),
        Verb::Replace => (marks.edited, TextRole::Strong),
        Verb::Move => (marks.moved, TextRole::Moved),
        Verb::Remove | Verb::RemoveFolder => (marks.gone, TextRole::Gone),
    };
    let slash = if matches!(verb, Verb::MakeFolder | Verb::RemoveFolder) { "/" } else { "" };
    let name = if name.is_empty() { view.into.to_owned() } else { shown_bytes(name, look.plain) };
    let target = if step.side == Side::Into { view.into } else { view.from };
    PlanLine {
        mark,
        ink,
        verb: if view.plan.both_ways {
            format!("{} in {}", verb_word(verb), shown_name(target, look.plain))
        } else {
            verb_word(verb).to_owned()
        },
        name: format!("{name}{slash}"),
        says: shown_name(&says(step, view), look.plain),
    }
}

fn says(step: &SyncStep, view: &PlanView<'_>) -> String {
    let entry_type = |item: &Item| match item {
        Item::Nothing => "nothing",
        Item::File { .. } => "file",
        Item::Link { .. } => "link",
        Item::Folder { .. } => "folder",
    };
    let mut parts = Vec::new();
    if let Some(from) = &step.moved_from {
        parts.push(format!("from {}", String::from_utf8_lossy(from)));
    } else if step.was != Item::Nothing && step.will != Item::Nothing && entry_type(&step.was) != entry_type(&step.will)
    {
        parts.push(format!("a {} in the place of a {}", entry_type(&step.will), entry_type(&step.was)));
    }
    match &step.will {
        Item::Link { target } => parts.push(format!("link to {}", String::from_utf8_lossy(target))),
        Item::File { .. } if step.moved_from.is_none() => {
            parts.push(bytes_in_words(step.bytes()));
            if let Some(first) = &step.same_as {
                parts.push(format!("another name of {}", String::from_utf8_lossy(first)));
            }
        }
        Item::Nothing if matches!(step.was, Item::Link { .. }) => parts.push("a link".to_owned()),
        Item::Nothing if matches!(step.was, Item::File { .. }) => parts.push(bytes_in_words(step.bytes())),
        _ => {}
    }
    let modified = |item: &Item| if let Item::File { stamp, .. } = item { stamp.modified } else { None };
    if let (Verb::Replace, Some(old), Some(new)) = (step.verb(), modified(&step.was), modified(&step.will)) {
        let (target, source) = if step.side == Side::Into { (view.into, view.from) } else { (view.from, view.into) };
        // What is newer and is about to be overwritten must not go unnoticed.
        match old.cmp(&new) {
            Ordering::Greater => parts.push(format!("{target} has the newer one")),
            Ordering::Less => parts.push(format!("newer in {source}")),
            Ordering::Equal => {}
        }
    }
    parts.join(", ")
}

/// What all steps come to: what is written, what is removed, and what stays undecided, each on a line.
fn totals(view: &PlanView<'_>) -> Vec<(TextRole, String)> {
    let said = |verbs: &[(Verb, &str, &str)]| {
        let part = |(verb, word, thing): &(Verb, &str, &str)| {
            let (count, bytes) = view.plan.total(*verb);
            let bytes = if bytes > 0 { format!(" ({})", bytes_in_words(bytes)) } else { String::new() };
            (count > 0).then(|| format!("{word} {}{bytes}", plural(count, thing)))
        };
        let parts: Vec<String> = verbs.iter().filter_map(part).collect();
        (!parts.is_empty()).then(|| parts.join(", "))
    };
    let writes = said(&[
        (Verb::Copy, "copy", "file"),
        (Verb::Replace, "replace", "file"),
        (Verb::Move, "move", "file"),
        (Verb::MakeFolder, "make", "folder"),
    ]);
    let removals = said(&[(Verb::Remove, "remove", "file"), (Verb::RemoveFolder, "remove", "folder")])
        .map(|removals| format!("{removals} from INTO, {}", view.into_in_full));
    let undecided = (!view.plan.undecided.is_empty()).then(|| {
        let how = if view.is_done { "left as they are" } else { "will stay as they are" };
        match view.plan.undecided.len() {
            count if view.plan.both_ways => format!("{}: {how}", plural(count, "conflict")),
            count => format!("{} undecided: {how}", plural(count, "path")),
        }
    });
    let lines = [(TextRole::Text, writes), (TextRole::Gone, removals), (TextRole::Trouble, undecided)];
    lines.into_iter().filter_map(|(ink, line)| Some((ink, line?))).collect()
}

fn left_alone(view: &PlanView<'_>) -> Option<String> {
    let LeftAlone { same, muted, extra, not_newer, kept_folders, ignored } = view.plan.left;
    let parts = [
        (same, "same".to_owned()),
        (muted, "with muted changes only".to_owned()),
        (not_newer, format!("not newer in {}", view.from)),
        (extra, format!("only in {} (would go with --mirror)", view.into)),
        (ignored, "named by ignore files of the other side".to_owned()),
        (kept_folders, "folders that hold what was not looked at".to_owned()),
    ];
    let parts: Vec<String> = parts
        .into_iter()
        .filter(|(count, _)| *count > 0)
        .map(|(count, what)| format!("{} {what}", grouped(count)))
        .collect();
    (!parts.is_empty()).then(|| format!("left alone: {}", parts.join(", ")))
}
