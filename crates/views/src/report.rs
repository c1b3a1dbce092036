//! A report, whatever its format: what stands at its head, and what is told of a file.

use std::fmt;
use std::sync::Arc;

use tideline_core::internal::kinds::text::Grain;
use tideline_core::internal::merge::Three;
use tideline_core::internal::model::Extent;
use tideline_core::internal::rules::{Account, Effect, Rule, Rules};
use tideline_core::internal::tree::Pair;

use crate::pair_view::PairView;
use crate::shown::{shown_bytes, shown_name};
use crate::view::{Context, FileView, Labels, Syntax};
use crate::wording::account::account_lines;
use crate::wording::change::changes_in_words;
use crate::wording::tree::{Inside, newer, says};
use crate::wording::{plural, unit_in_words};

/// What stands at the head of a report.
#[derive(Clone, Debug)]
pub struct Head<'a> {
    /// Its title.
    pub title: &'a str,
    /// What the sides are called.
    pub labels: &'a Labels,
    /// The paths of both sides, as they were given.
    pub paths: (&'a str, &'a str),
    /// When it was made, for a reader.
    pub made: &'a str,
    /// The command line that makes it again.
    pub command: &'a str,
    /// The rules in force.
    pub rules: &'a Rules,
    /// What they masked.
    pub account: &'a Account,
    /// The path that rules know the file by, where it is about one file.
    pub about: Option<&'a [u8]>,
}

/// A rule in force, and what it did.
#[derive(Clone, Debug)]
pub(crate) struct RuleLine {
    pub(crate) name: String,
    pub(crate) effect: &'static str,
    pub(crate) matches: String,
    pub(crate) files: String,
    pub(crate) declared: String,
    pub(crate) lines: usize,
}

impl Head<'_> {
    /// What is said where no rule is in force: what tables and data mean may still mute something.
    pub(crate) fn without_rules(&self) -> &'static str {
        if self.account.is_empty() { "No rules in force: everything that differs counts" } else { "No rules in force" }
    }

    /// The rules in force, each with how many lines it masked.
    pub(crate) fn rule_lines(&self) -> Vec<RuleLine> {
        let parts = self.account.parts();
        let line = |rule: &Rule| RuleLine {
            name: shown_name(rule.name(), false),
            effect: if rule.effect() == Effect::Ignore { "ignore" } else { "mute" },
            matches: shown_name(&rule.written().collect::<Vec<_>>().join(", "), false),
            files: rule.file_patterns().map_or_else(|| "all".to_owned(), |files| shown_name(&files.join(", "), false)),
            declared: shown_name(rule.declared(), false),
            lines: parts
                .iter()
                .filter(|part| part.rule == rule.name() && part.effect == rule.effect())
                .map(|part| part.lines)
                .sum(),
        };
        let holds = |rule: &&Rule| self.about.is_none_or(|path| rule.holds_for(path));
        self.rules.iter().filter(holds).map(line).collect()
    }
}

/// What a reader said of a change.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Remark {
    /// Whether it was marked as seen.
    pub is_seen: bool,
    /// What was noted.
    pub note: Option<String>,
}

/// Finds what was said of a change, by the name of its file and what it holds before and after.
type FindRemark = dyn Fn(&str, &[u8], &[u8]) -> Option<Remark> + Send + Sync;

/// What a reader said of changes.
#[derive(Clone, Default)]
pub struct Remarks {
    find: Option<Arc<FindRemark>>,
}

impl Remarks {
    /// Remarks that are found by the name of a file and what a change holds before and after.
    pub fn new(find: Arc<FindRemark>) -> Self {
        Self { find: Some(find) }
    }

    /// What was said of a change, by its index.
    pub(crate) fn of(&self, view: &FileView<'_>, change: usize) -> Option<Remark> {
        let find = self.find.as_ref()?;
        let (before, after) = view.contents_of(&view.comparison.changes[change]);
        find(view.type_name, before, after)
    }
}

impl fmt::Debug for Remarks {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.debug_struct("Remarks").field("are_any", &self.find.is_some()).finish()
    }
}

/// What is shown of files. Unchanging once built.
#[derive(Clone, Debug)]
pub struct Shape {
    pub(crate) context: Context,
    pub(crate) grain: Grain,
    pub(crate) syntax: Syntax,
    pub(crate) most_changes: usize,
    pub(crate) most_folded: usize,
    pub(crate) sections: bool,
    pub(crate) remarks: Remarks,
}

impl Default for Shape {
    fn default() -> Self {
        Self {
            context: Context::default(),
            grain: Grain::default(),
            syntax: Syntax::Off,
            most_changes: usize::MAX,
            most_folded: 1 << 20,
            sections: false,
            remarks: Remarks::default(),
        }
    }
}

impl Shape {
    /// What was seen and noted of changes. Default: nothing.
    pub fn remarks(mut self, remarks: Remarks) -> Self {
        self.remarks = remarks;
        self
    }

    /// Equal lines around each change. Default: 3.
    pub fn context(mut self, context: Context) -> Self {
        self.context = context;
        self
    }

    /// What is marked inside a line. Default: words.
    pub fn grain(mut self, grain: Grain) -> Self {
        self.grain = grain;
        self
    }

    /// What is marked inside a line.
    pub fn marked(&self) -> &Grain {
        &self.grain
    }

    /// Whether code is coloured by its syntax. Default: not at all.
    pub fn syntax(mut self, syntax: Syntax) -> Self {
        self.syntax = syntax;
        self
    }

    /// Whether the sections that differ are told, instead of lines. Default: no.
    pub fn sections(mut self, sections: bool) -> Self {
        self.sections = sections;
        self
    }

    /// Whether sections are told.
    pub fn tells_sections(&self) -> bool {
        self.sections
    }

    /// How many changes are shown of each file. Default: all.
    pub fn most_changes(mut self, changes: usize) -> Self {
        self.most_changes = changes;
        self
    }

    /// How many bytes of equal text a file keeps in its folds; longer stretches are only counted. Default: 1 MiB.
    pub fn most_folded(mut self, bytes: usize) -> Self {
        self.most_folded = bytes;
        self
    }

    /// How many changes are shown of each file.
    pub fn changes_shown(&self) -> usize {
        self.most_changes
    }

    /// How many changes a file has that are not shown.
    pub(crate) fn cut(&self, changes: usize) -> usize {
        changes.saturating_sub(self.most_changes)
    }
}

/// What stands at the head of a report on three versions.
#[derive(Clone, Copy, Debug)]
pub struct MergedHead<'a> {
    /// The title.
    pub title: &'a str,
    /// What the base and both sides are called.
    pub labels: &'a Three<String>,
    /// As they were named.
    pub paths: &'a Three<String>,
    /// When it was made.
    pub made: &'a str,
    /// The command that made it.
    pub command: &'a str,
    /// How much each side changed, in words.
    pub summary: &'a str,
}

/// What is told of a file.
#[derive(Clone, Debug)]
pub struct FileReport<'a> {
    /// Its name.
    pub name: String,
    /// What happened to it, in words.
    pub facts: String,
    /// What is in it.
    pub body: Body<'a>,
}

/// What a file holds.
#[derive(Clone, Debug)]
pub enum Body<'a> {
    /// Two contents.
    Pair(PairView<'a>),
    /// Something that cannot be shown, and why.
    Nothing(String),
}

impl<'a> FileReport<'a> {
    /// A file of two trees; of its texts, the note is told with the rest.
    pub fn of_pair(pair: &Pair, body: Body<'a>) -> Self {
        let note = match &body {
            Body::Pair(PairView::Text(view)) => view.note,
            Body::Pair(view) => view.items().and_then(|view| view.title().note),
            Body::Nothing(_) => None,
        };
        let mut facts = says(pair, Inside::default());
        // That it is a file that came or went, or moved, is in what is said of it.
        if pair.moved_from.is_none() && pair.before.is_some() && pair.after.is_some() {
            facts.extend(note.map(|note| format!(", {note}")));
        }
        facts.extend(newer(pair).map(|newer| format!(" · {newer}")));
        Self { name: shown_bytes(&pair.path, false), facts: shown_name(&facts, false), body }
    }

    /// Whether lines are told of it.
    pub(crate) fn is_text(&self) -> bool {
        matches!(self.body, Body::Pair(PairView::Text(_)))
    }

    /// What the rules masked in it.
    pub(crate) fn account(&self) -> Vec<String> {
        match &self.body {
            Body::Pair(PairView::Text(view)) => {
                account_lines(&view.comparison.account, view.comparison.muted_is_hidden, false)
            }
            Body::Pair(view) => view.items().map_or_else(Vec::new, |view| {
                let (account, is_hidden) = view.account();
                account_lines(account, is_hidden, false)
            }),
            Body::Nothing(_) => Vec::new(),
        }
    }

    /// Two files of which nothing is known but what they hold.
    pub fn of_files(name: &str, same: bool, body: Body<'a>) -> Self {
        let facts = match &body {
            Body::Pair(_) if same => "the same on both sides".to_owned(),
            Body::Pair(PairView::Text(view)) => {
                let extent = view.comparison.extent();
                let (counts, lines) = (
                    changes_in_words(extent),
                    plural(extent.size, if view.extracted.is_some() { "paragraph" } else { "line" }),
                );
                let note = view.note.map(|note| format!(", {note}")).unwrap_or_default();
                format!("{counts}, {lines}{note}")
            }
            Body::Pair(view) => {
                view.items().map_or_else(String::new, |view| of_items(view.extent(), view.title().note))
            }
            Body::Nothing(why) => why.clone(),
        };
        Self { name: shown_name(name, false), facts: shown_name(&facts, false), body }
    }
}

/// How much differs in what is no text, in words.
fn of_items(extent: Extent, note: Option<&str>) -> String {
    let unit = unit_in_words(extent.unit);
    let note = note.map(|note| format!(", {note}")).unwrap_or_default();
    format!("{}, {}{note}", changes_in_words(extent), plural(extent.size, unit))
}
