//! Which sections of a text are gone, new, edited or moved.

use std::collections::{HashMap, HashSet};
use std::ops::Range;

use super::find::{Sections, bare};
use super::outline::Section;
use crate::internal::model::{Form, Place, TextComparison, Weight};

/// What became of a section.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SectionChange {
    /// The headings that it is in, the outermost first, and its own.
    pub path: Vec<String>,
    /// What happened to it.
    pub form: Form,
    /// Its lines before, counted from 0, if it is there.
    pub before: Option<Range<usize>>,
    /// Its lines after.
    pub after: Option<Range<usize>>,
    /// The changes in it that count, those in the sections inside it left out.
    pub changes: usize,
}

/// What differs, section by section.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SectionChanges {
    /// The sections that differ, in the order of the text after; those that are gone stand where they were.
    pub sections: Vec<SectionChange>,
    /// Changes that count and are in no section.
    pub outside: usize,
}

/// Tells what became of the sections of two texts, of a file of this name. Sections are the same when their names are, and the
/// sections around them; of several with one name, those whose headings are paired lines, and then in order. A section that is gone or new
/// with the one around it is told by that.
pub fn section_changes(name: &str, (before, after): (&[u8], &[u8]), comparison: &TextComparison) -> SectionChanges {
    let before = Sections::new(name, before, usize::MAX);
    let after = Sections::new(name, after, usize::MAX);
    let (b, a) = (Side::of(&before), Side::of(&after));
    let partner = partners(&b, &a, &EqualLines::of(comparison));
    let mut before_of = vec![None; a.sections.len()];
    for (before, after) in partner.iter().enumerate() {
        if let Some(after) = *after {
            before_of[after] = Some(before);
        }
    }
    let mut found =
        Found { b: &b, a: &a, partner: &partner, before_of, counts: HashMap::new(), moved: HashMap::new(), outside: 0 };
    for place in &comparison.places {
        let change = &comparison.changes[place.change];
        if change.weight == Weight::Counted {
            found.add(place, change.form);
        }
    }
    found.changes()
}

/// What a section is called: its heading up to the list of parameters, which may change, and in code up to what it is derived from. What is
/// titled by a text, as a test is, has all of its heading for a name.
fn name(title: &str, is_code: bool) -> &str {
    const DERIVED: [&str; 6] = [": ", " : ", " extends ", " implements ", " where ", " < "];
    let name = match title.split_once('(') {
        Some((name, rest)) if !name.trim().is_empty() => {
            if rest.starts_with(['"', '\'', '`']) {
                return title;
            }
            name
        }
        _ => title,
    };
    let end = DERIVED.iter().filter(|_| is_code).filter_map(|words| name.find(words)).min();
    name[..end.unwrap_or(name.len())].trim_end()
}

/// For each section before, the same one after.
fn partners(before: &Side<'_>, after: &Side<'_>, equal_lines: &EqualLines) -> Vec<Option<usize>> {
    // The sections of one name within one other, in order.
    fn groups<'s>(side: &'s Side<'_>) -> HashMap<(Option<usize>, &'s str), Vec<usize>> {
        let mut groups: HashMap<_, Vec<usize>> = HashMap::new();
        for (index, name) in side.names.iter().enumerate() {
            groups.entry((side.parents[index], name.as_str())).or_default().push(index);
        }
        groups
    }
    let (of_before, of_after) = (groups(before), groups(after));
    let mut partner = vec![None; before.sections.len()];
    for (index, name) in before.names.iter().enumerate() {
        let group = &of_before[&(before.parents[index], name.as_str())];
        // Each group is paired once, when its first member comes. The section around it has been paired by then.
        if group[0] != index {
            continue;
        }
        let parent = match before.parents[index] {
            None => None,
            Some(parent) => match partner[parent] {
                Some(parent) => Some(parent),
                None => continue,
            },
        };
        let Some(others) = of_after.get(&(parent, name.as_str())) else { continue };
        let by_line: HashMap<usize, usize> =
            others.iter().map(|&other| (after.sections[other].lines.start, other)).collect();
        let mut is_left: HashSet<usize> = others.iter().copied().collect();
        for &section in group {
            let line = equal_lines.after(before.sections[section].lines.start);
            partner[section] = line.and_then(|line| by_line.get(&line).copied()).filter(|other| is_left.remove(other));
        }
        let mut left = others.iter().filter(|other| is_left.contains(other));
        for &section in group {
            if partner[section].is_none() {
                partner[section] = left.next().copied();
            }
        }
    }
    partner
}

/// Which lines are equal: those between the stretches that differ.
struct EqualLines {
    /// Where each stretch that differs begins and ends, before and after.
    differing: Vec<(Range<usize>, Range<usize>)>,
}

impl EqualLines {
    fn of(comparison: &TextComparison) -> Self {
        let places = comparison.places.iter().map(|place| (&place.before, &place.after));
        let hidden = comparison.hidden.iter().map(|stretch| (&stretch.before, &stretch.after));
        let mut differing: Vec<_> =
            places.chain(hidden).map(|(before, after)| (before.lines.clone(), after.lines.clone())).collect();
        differing.sort_by_key(|(before, after)| (before.start, after.start, before.end));
        Self { differing }
    }

    /// The line after that a line before is equal to.
    fn after(&self, line: usize) -> Option<usize> {
        let next = self.differing.partition_point(|(before, _)| before.end <= line);
        if self.differing.get(next).is_some_and(|(before, _)| before.start <= line) {
            return None;
        }
        let (before, after) = next.checked_sub(1).map_or((0, 0), |last| {
            let (before, after) = &self.differing[last];
            (before.end, after.end)
        });
        Some(line - before + after)
    }
}

/// The sections of one side, without blocks.
struct Side<'s> {
    sections: Vec<&'s Section>,
    /// The headings that each is in, and its own.
    paths: Vec<Vec<String>>,
    /// What each is called.
    names: Vec<String>,
    /// The section around each.
    parents: Vec<Option<usize>>,
}

impl<'s> Side<'s> {
    fn of(all: &'s Sections<'_>) -> Self {
        let mut side = Self { sections: Vec::new(), paths: Vec::new(), names: Vec::new(), parents: Vec::new() };
        let mut place = vec![None; all.all().len()];
        for (index, section) in all.all().iter().enumerate() {
            // Of a block, the function that it is in stands for it.
            let parent = section.parent.and_then(|parent| place[parent]);
            if section.is_block {
                place[index] = parent;
                continue;
            }
            let title = bare(&all.text[section.title.clone()]);
            let mut path = parent.map_or_else(Vec::new, |parent: usize| side.paths[parent].clone());
            side.names.push(name(&title, all.is_code()).to_owned());
            path.push(title);
            side.paths.push(path);
            place[index] = Some(side.sections.len());
            side.parents.push(parent);
            side.sections.push(section);
        }
        side
    }

    /// The sections whose headings are among some lines.
    fn headings_in(&self, lines: &Range<usize>) -> Range<usize> {
        let first = |line: usize| self.sections.partition_point(|section| section.lines.start < line);
        first(lines.start)..first(lines.end)
    }

    /// The innermost section that a line is in.
    fn at(&self, line: usize) -> Option<usize> {
        let mut next = self.sections.partition_point(|section| section.lines.start <= line).checked_sub(1);
        while let Some(index) = next {
            if self.sections[index].lines.contains(&line) {
                return Some(index);
            }
            next = self.parents[index];
        }
        None
    }

    /// The innermost sections of some lines, each once.
    fn touched(&self, lines: &Range<usize>) -> Vec<Option<usize>> {
        let mut touched: Vec<Option<usize>> = Vec::new();
        let mut line = lines.start;
        while line < lines.end {
            let section = self.at(line);
            if !touched.contains(&section) {
                touched.push(section);
            }
            // On to the next place where another section may begin or end.
            let next_start = self.sections.partition_point(|section| section.lines.start <= line);
            let start = self.sections.get(next_start).map_or(usize::MAX, |section| section.lines.start);
            let end = section.map_or(usize::MAX, |section| self.sections[section].lines.end);
            line = start.min(end).max(line + 1);
        }
        touched
    }
}

struct Found<'s> {
    b: &'s Side<'s>,
    a: &'s Side<'s>,
    /// For each section before, the same one after.
    partner: &'s [Option<usize>],
    /// For each section after, the same one before.
    before_of: Vec<Option<usize>>,
    /// Changes in sections that both sides have, by their index after.
    counts: HashMap<usize, usize>,
    /// Where the heading of a section moved: from before, to after.
    moved: HashMap<usize, (bool, bool)>,
    outside: usize,
}

impl Found<'_> {
    fn add(&mut self, place: &Place, form: Form) {
        let mut touched: Vec<Option<usize>> = Vec::new();
        let of_before = self.b.touched(&place.before.lines);
        // A section that is gone as a whole is told as that.
        touched.extend(of_before.into_iter().filter_map(|section| match section {
            None => Some(None),
            Some(index) => self.partner[index].map(Some),
        }));
        for section in self.a.touched(&place.after.lines) {
            if section.is_none_or(|index| self.before_of[index].is_some()) && !touched.contains(&section) {
                touched.push(section);
            }
        }
        if form == Form::Moved {
            for index in self.a.headings_in(&place.after.lines) {
                self.moved.entry(index).or_default().1 = true;
            }
            for after in self.b.headings_in(&place.before.lines).filter_map(|index| self.partner[index]) {
                self.moved.entry(after).or_default().0 = true;
            }
            return;
        }
        for section in touched {
            match section {
                Some(index) => *self.counts.entry(index).or_default() += 1,
                None => self.outside += 1,
            }
        }
    }

    fn changes(self) -> SectionChanges {
        let mut sections = Vec::new();
        let mut gone = self.partner.iter().enumerate().filter(|(_, partner)| partner.is_none()).peekable();
        // The sections that are gone come before the first that stood behind them.
        for (index, section) in self.a.sections.iter().enumerate() {
            let was = self.before_of[index];
            if let Some(was) = was {
                while let Some((before, _)) = gone.next_if(|(before, _)| *before < was) {
                    sections.extend(self.gone(before));
                }
            }
            let changes = self.counts.get(&index).copied().unwrap_or(0);
            let form = match was {
                None => Form::New,
                Some(_) if self.moved.get(&index) == Some(&(true, true)) => Form::Moved,
                Some(_) if changes > 0 => Form::Edited,
                Some(_) => continue,
            };
            let has_new_parent = self.a.parents[index].is_some_and(|parent| self.before_of[parent].is_none());
            if form == Form::New && has_new_parent {
                continue;
            }
            sections.push(SectionChange {
                path: self.a.paths[index].clone(),
                form,
                before: was.map(|was| self.b.sections[was].lines.clone()),
                after: Some(section.lines.clone()),
                changes,
            });
        }
        for (before, _) in gone {
            sections.extend(self.gone(before));
        }
        SectionChanges { sections, outside: self.outside }
    }

    fn gone(&self, index: usize) -> Option<SectionChange> {
        let has_gone_parent = self.b.parents[index].is_some_and(|parent| self.partner[parent].is_none());
        (!has_gone_parent).then(|| SectionChange {
            path: self.b.paths[index].clone(),
            form: Form::Gone,
            before: Some(self.b.sections[index].lines.clone()),
            after: None,
            changes: 0,
        })
    }
}
