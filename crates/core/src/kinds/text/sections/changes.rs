//! Which sections of a text are gone, new, edited or moved.

use std::collections::HashMap;
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

/// Tells what became of the sections of two texts, of a file of this name. Sections are the same when their names are, and those of the
/// sections around them; a section that is gone or new with the one around it is told by that.
pub fn section_changes(name: &str, (before, after): (&[u8], &[u8]), comparison: &TextComparison) -> SectionChanges {
    let before = Sections::new(name, before, usize::MAX);
    let after = Sections::new(name, after, usize::MAX);
    let (b, a) = (Side::of(&before), Side::of(&after));
    let partner: Vec<Option<usize>> = b.keys.iter().map(|key| a.by_key.get(key).copied()).collect();
    let mut found =
        Found { b: &b, a: &a, partner: &partner, counts: HashMap::new(), moved: HashMap::new(), outside: 0 };
    for place in &comparison.places {
        let change = &comparison.changes[place.change];
        if change.weight == Weight::Counted {
            found.add(place, change.form);
        }
    }
    found.changes()
}

/// What a section is called: its heading up to the list of parameters, which may change. What is titled by a text, as a test is, has
/// all of its heading for a name.
fn name(title: &str) -> &str {
    match title.split_once('(') {
        Some((name, rest)) if !name.trim().is_empty() && !rest.starts_with(['"', '\'', '`']) => name.trim_end(),
        _ => title,
    }
}

/// A key by which a section is the same on both sides: what it is called and what it is in are, and which of several such it is.
type Key = (Vec<String>, usize);

/// The sections of one side, without blocks.
struct Side<'s> {
    sections: Vec<&'s Section>,
    /// The headings that each is in, and its own.
    paths: Vec<Vec<String>>,
    keys: Vec<Key>,
    by_key: HashMap<Key, usize>,
    /// The section around each.
    parents: Vec<Option<usize>>,
}

impl<'s> Side<'s> {
    fn of(all: &'s Sections<'_>) -> Self {
        let mut side = Self {
            sections: Vec::new(),
            paths: Vec::new(),
            keys: Vec::new(),
            by_key: HashMap::new(),
            parents: Vec::new(),
        };
        let mut place = vec![None; all.all().len()];
        let mut seen: HashMap<Vec<String>, usize> = HashMap::new();
        for (index, section) in all.all().iter().enumerate() {
            // Of a block, the function that it is in stands for it.
            let parent = section.parent.and_then(|parent| place[parent]);
            if section.is_block {
                place[index] = parent;
                continue;
            }
            let title = bare(&all.text[section.title.clone()]);
            let inside = |mut path: Vec<String>, name: &str| {
                path.push(name.to_owned());
                path
            };
            let key = inside(parent.map_or_else(Vec::new, |parent: usize| side.keys[parent].0.clone()), name(&title));
            side.paths.push(inside(parent.map_or_else(Vec::new, |parent: usize| side.paths[parent].clone()), &title));
            let count = seen.entry(key.clone()).or_default();
            let key = (key, *count);
            *count += 1;
            place[index] = Some(side.sections.len());
            side.by_key.insert(key.clone(), side.sections.len());
            side.keys.push(key);
            side.parents.push(parent);
            side.sections.push(section);
        }
        side
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
        let has_partner = |index: &usize| self.partner.contains(&Some(*index));
        for section in self.a.touched(&place.after.lines) {
            if section.is_none_or(|index| has_partner(&index)) && !touched.contains(&section) {
                touched.push(section);
            }
        }
        if form == Form::Moved {
            for (index, section) in self.a.sections.iter().enumerate() {
                if place.after.lines.contains(&section.lines.start) {
                    self.moved.entry(index).or_default().1 = true;
                }
            }
            for (section, after) in self.b.sections.iter().zip(self.partner) {
                if let Some(after) = after.filter(|_| place.before.lines.contains(&section.lines.start)) {
                    self.moved.entry(after).or_default().0 = true;
                }
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
        let mut before_of: HashMap<usize, usize> = HashMap::new();
        for (before, after) in self.partner.iter().enumerate().filter_map(|(before, after)| Some((before, (*after)?))) {
            before_of.insert(after, before);
        }
        for (index, section) in self.a.sections.iter().enumerate() {
            let was = before_of.get(&index).copied();
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
            let has_new_parent = self.a.parents[index].is_some_and(|parent| !before_of.contains_key(&parent));
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
