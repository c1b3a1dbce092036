//! Pairs and trees, in words.

use tideline_core::internal::model::{Form, Kind, MovedBlock, Status, Unit};
use tideline_core::internal::rules::Effect;
use tideline_core::internal::tree::{Attribute, EntryMetadata, EntryType, LeftOut, Note, Pair, Remark, TreeComparison};

use super::encodings::unparsed_in_words;
use super::{grouped, plural, unit_in_words};
use crate::marks::Marks;
use crate::shown::shown_bytes;
use crate::view::TreeView;

/// What became of all pairs, in parts.
pub(crate) fn summary(view: &TreeView<'_>) -> Vec<String> {
    let comparison = view.comparison;
    let mut parts: Vec<String> = Status::ALL
        .iter()
        .filter(|&&status| status == Status::Same || comparison.count(status) > 0)
        .map(|&status| format!("{} {}", grouped(comparison.count(status)), status.name()))
        .collect();
    let (gone, new) = comparison.folders;
    for (count, word) in [(new, "new"), (gone, "gone")] {
        if count > 0 {
            parts.push(format!("{} {word}", plural(count, "folder")));
        }
    }
    if let (Some(trusted), Some(last)) = (view.trusted, parts.last_mut()) {
        last.push_str(&format!("; contents were not read, {trusted} was believed"));
    }
    if let Some(first) = parts.first_mut() {
        *first = format!("{}: {first}", plural(comparison.files(), "file"));
    }
    parts
}

/// What became of all pairs, in a line.
pub fn tree_in_words(view: &TreeView<'_>) -> String {
    summary(view).join(", ")
}

/// What is not shown, and why, in a line each.
pub fn notes_on_what_is_hidden(view: &TreeView<'_>, plain: bool) -> Vec<String> {
    left_out(view, plain)
}

/// What is not shown, and why.
pub(crate) fn left_out(view: &TreeView<'_>, plain: bool) -> Vec<String> {
    let comparison = view.comparison;
    let mut notes = Vec::new();
    if let Some(only) = view.only {
        let shown = |status| comparison.pairs.iter().filter(|pair| pair.status == status && !pair.is_folder()).count();
        let hidden = Status::ALL.iter().filter(|status| **status != Status::Same && !only.contains(status));
        let hidden: Vec<String> = hidden
            .map(|&status| (status, comparison.count(status).saturating_sub(shown(status))))
            .filter(|(_, count)| *count > 0)
            .map(|(status, count)| format!("{} {}", grouped(count), status.name()))
            .collect();
        if !hidden.is_empty() {
            let words: Vec<_> = only.iter().map(|&status| status.name()).collect();
            notes.push(format!("not shown: {} (--only {})", hidden.join(", "), words.join(",")));
        }
    }
    notes.extend(not_looked_at(&comparison.left_out, plain));
    notes.extend(remarks(&comparison.remarks, plain));
    notes
}

/// What was not looked at in two trees, and why.
pub(crate) fn not_looked_at(left: &LeftOut, plain: bool) -> Vec<String> {
    let mut notes = Vec::new();
    if left.by_pattern > 0 {
        notes.push(format!("left out: {} by --include or --exclude", counted_entries(left.by_pattern)));
    }
    if left.by_ignore_files > 0 {
        notes.push(format!("left out: {} by ignore files", counted_entries(left.by_ignore_files)));
    }
    if left.own > 0 {
        notes.push(format!(
            "left out: {} of Tideline itself (temporary files of runs, or its journal)",
            counted_entries(left.own)
        ));
    }
    if left.too_deep > 0 {
        notes.push(format!("not entered: {} by --depth", plural(left.too_deep, "folder")));
    }
    if !left.repositories.is_empty() {
        let names: Vec<_> = left.repositories.iter().take(3).map(|path| shown_bytes(path, plain)).collect();
        let more = left.repositories.len() - names.len();
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        notes.push(format!("skipped: {}{more} (--with-repositories compares it too)", names.join(", ")));
    }
    if left.empty_folders > 0 {
        notes.push(format!("left out: {}, which one side cannot hold", plural(left.empty_folders, "empty folder")));
    }
    for (count, what) in [(left.modes, "permissions"), (left.times, "times")] {
        if count > 0 {
            let (pairs, part) =
                (plural(count, "pair"), if what == "times" { "not compared" } else { "not compared, or only in part" });
            notes.push(format!("{what} {part}: in {pairs}, as one side does not hold them"));
        }
    }
    notes
}

/// What the trees have to say of themselves and of some entries; of many, the first.
pub(crate) fn remarks(all: &[Remark], plain: bool) -> Vec<String> {
    const MOST: usize = 10;
    let told = |remark: &Remark| match &remark.path {
        Some(path) => format!("note: {}: {}", shown_bytes(path, plain), remark.text),
        None => remark.text.clone(),
    };
    let mut lines: Vec<String> = all.iter().take(MOST).map(told).collect();
    if all.len() > MOST {
        lines.push(format!("and {} more like these (--json tells them all)", grouped(all.len() - MOST)));
    }
    lines
}

/// What a folder that only one side has holds.
#[derive(Clone, Copy, Default)]
pub(crate) struct Inside {
    /// Files that have the status of the folder.
    pub(crate) alike: usize,
    /// Files that moved into it or out of it.
    pub(crate) moved: usize,
}

/// Whether a path lies in a folder.
pub(crate) fn is_within(path: &[u8], folder: &[u8]) -> bool {
    path.strip_prefix(folder).is_some_and(|rest| rest.first() == Some(&b'/'))
}

/// Whether a pair is a folder that came or went, and what is in it tells so.
pub(crate) fn is_told_by_contents(pairs: &[Pair], index: usize) -> bool {
    let pair = &pairs[index];
    pair.is_folder()
        && pair.status != Status::Unreadable
        && pairs.get(index + 1).is_some_and(|next| is_within(&next.path, &pair.path))
}

/// What a line says of its pair, where there is room for it.
pub(crate) fn says(pair: &Pair, inside: Inside) -> String {
    facts(pair, inside, &Marks::of(false)).join(", ")
}

/// What there is to say of a pair, one after the other.
pub(crate) fn facts(pair: &Pair, inside: Inside, marks: &Marks) -> Vec<String> {
    match pair.status {
        Status::Same => vec!["same".to_owned()],
        Status::Unreadable | Status::Retyped => note(pair).into_iter().collect(),
        Status::Gone | Status::New => {
            let mut parts = vec![pair.status.name().to_owned(), what_is_there(pair, inside)];
            parts.extend(moved_blocks(pair));
            parts
        }
        Status::Moved => {
            let from = pair.path_before();
            let path = String::from_utf8_lossy(from);
            let case_only = path.to_lowercase() == String::from_utf8_lossy(&pair.path).to_lowercase();
            let mut parts = vec![format!("from {path}")];
            if case_only {
                parts.push("only the case of its name".to_owned());
            }
            parts.extend(what_differs(pair, marks));
            parts.extend(moved_blocks(pair));
            parts
        }
        Status::Changed | Status::Muted => {
            let mut parts = what_differs(pair, marks);
            parts.extend(moved_blocks(pair));
            parts.extend(note(pair));
            if parts.is_empty() {
                parts.push(sizes(pair));
            }
            parts
        }
    }
}

/// How many lines of a file moved to other files, and how many came from there.
fn moved_blocks(pair: &Pair) -> Vec<String> {
    let told = |form: Form, words: &str| {
        let blocks: Vec<&MovedBlock> = pair.moved_blocks.iter().filter(|block| block.form == form).collect();
        let first = blocks.first()?;
        let lines: usize = blocks.iter().map(|block| block.lines.len()).sum();
        let is_one = blocks.iter().all(|block| block.path == first.path);
        let place = if is_one { String::from_utf8_lossy(&first.path).into_owned() } else { "other files".to_owned() };
        Some(format!("{} moved {words} {place}", plural(lines, "line")))
    };
    told(Form::Gone, "to").into_iter().chain(told(Form::New, "here from")).collect()
}

/// How many blocks moved from file to file.
pub(crate) fn moved_blocks_in_all(comparison: &TreeComparison) -> Option<String> {
    (comparison.moved_blocks > 0)
        .then(|| format!("{} moved from one file to another", plural(comparison.moved_blocks, "block")))
}

fn what_is_there(pair: &Pair, inside: Inside) -> String {
    let entry_type = pair.types.0.or(pair.types.1);
    match (entry_type, pair.kind) {
        (Some(EntryType::Folder), _) => match (inside.alike, inside.moved) {
            (0, 0) => note(pair).unwrap_or_else(|| "empty folder".to_owned()),
            (files, 0) => format!("folder with {}", plural(files, "file")),
            (0, moved) => format!("folder, {} moved", plural(moved, "file")),
            (files, moved) => format!("folder with {}, {moved} more moved", plural(files, "file")),
        },
        (Some(EntryType::File), Some(Kind::Text | Kind::Table | Kind::Data)) => {
            plural(pair.extent.size, unit_in_words(pair.extent.unit))
        }
        (Some(EntryType::File), _) => plural(usize::try_from(pair.size()).unwrap_or(usize::MAX), "byte"),
        (Some(other), _) => other.to_string(),
        (None, _) => String::new(),
    }
}

/// What mutes something in a pair, most first.
fn causes(pair: &Pair) -> Vec<String> {
    pair.account.by_rule(Effect::Mute).into_iter().map(|(rule, _)| rule.to_owned()).collect()
}

fn what_differs(pair: &Pair, marks: &Marks) -> Vec<String> {
    let mut parts = Vec::new();
    let muted = || {
        let lines = plural(pair.account.total(Effect::Mute), pair.account.counted().name());
        match pair.extent.muted {
            // What only meaning makes equal is told by how much of it there is.
            0 => format!("{lines} muted: {}", causes(pair).join(", ")),
            changes => format!("{} muted, {lines}", grouped(changes)),
        }
    };
    match pair.kind {
        Some(Kind::Table | Kind::Data | Kind::Image)
            if pair.extent.counted == 0 && pair.account.total(Effect::Mute) > 0 =>
        {
            parts.push(muted());
        }
        Some(Kind::Table) if pair.extent.counted == 0 && pair.account.is_empty() && pair.extent.unit == Unit::Rows => {
            parts.push("only its columns".to_owned());
        }
        Some(Kind::Table | Kind::Data | Kind::Image | Kind::Bytes) if pair.extent.counted == 0 => {}
        Some(Kind::Image) => {
            parts.push(plural(pair.extent.counted, "change"));
            parts.push(plural(pair.extent.size, unit_in_words(pair.extent.unit)));
        }
        Some(Kind::Table | Kind::Data | Kind::Bytes) => {
            parts.push(plural(pair.extent.counted, "change"));
            let unit = unit_in_words(pair.extent.unit);
            let counts = lines_gone_and_new((pair.extent.gone, pair.extent.new), marks);
            let counts = if counts.is_empty() { "moved".to_owned() } else { format!("{counts} {unit}s") };
            let has_muted = pair.account.total(Effect::Mute) > 0;
            parts.push(if has_muted { format!("{counts} + {}", muted()) } else { counts });
        }
        Some(Kind::Text) if pair.extent.counted == 0 && pair.extent.muted > 0 => parts.push(muted()),
        Some(Kind::Text) if pair.extent.counted == 0 && pair.extent.unit == Unit::Paragraphs => {
            parts.extend((pair.account.total(Effect::Mute) > 0).then(muted));
        }
        // Where only ignored text differs in a file that moved, the account says so.
        Some(Kind::Text) if pair.extent.counted == 0 && !pair.account.is_empty() => {}
        Some(Kind::Text) if pair.extent.counted == 0 => parts.push("only its encoding".to_owned()),
        Some(Kind::Text) => {
            parts.push(plural(pair.extent.counted, "change"));
            let mut lines = lines_gone_and_new((pair.extent.gone, pair.extent.new), marks);
            if pair.extent.unit == Unit::Paragraphs {
                lines.push_str(" paragraphs");
            }
            parts.push(if pair.extent.muted > 0 { format!("{lines} + {}", muted()) } else { lines });
        }
        None => {}
    }
    if let (Some(before), Some(after)) = (pair.before, pair.after) {
        if pair.attributes.contains(&Attribute::Mode) {
            parts.push(format!("mode {:o}, now {:o}", before.mode.unwrap_or(0), after.mode.unwrap_or(0)));
        }
        if pair.attributes.contains(&Attribute::Time) {
            parts.push("time of change".to_owned());
        }
    }
    parts
}

/// How many lines are gone and how many are new, with the marks for that.
pub(crate) fn lines_gone_and_new((gone, new): (usize, usize), marks: &Marks) -> String {
    let part = |count: usize, mark: &str| (count > 0).then(|| format!("{} {mark}", grouped(count)));
    let parts: Vec<String> = part(gone, marks.gone).into_iter().chain(part(new, marks.new)).collect();
    parts.join(" ")
}

/// What there is to say of a pair beside its status, in words.
pub fn note(pair: &Pair) -> Option<String> {
    let text = |target: &[u8]| String::from_utf8_lossy(target).into_owned();
    Some(match pair.note.as_ref()? {
        Note::Unreadable(error) => error.to_string(),
        Note::UnreadableBefore(error) => format!("before: {error}"),
        Note::UnreadableAfter(error) => format!("after: {error}"),
        Note::LinkTargets(before, after) => format!("link to {}, now to {}", text(before), text(after)),
        Note::Commits(before, after) => {
            let short = |commit: &[u8]| text(&commit[..commit.len().min(10)]);
            format!("commit {}, now {}", short(before), short(after))
        }
        Note::Unparsed(unparsed) => unparsed_in_words(unparsed),
        Note::NotCompared(parts) => format!("only what is not compared differs: {}", parts.join(", ")),
        Note::Packing => "only its packing: order, times or compression".to_owned(),
        Note::Became(before, after) => format!("was a {before}, now a {after}"),
        Note::NotEntered => "folder, not entered".to_owned(),
        Note::NothingLookedAt => "folder without files that were looked at".to_owned(),
    })
}

/// The sizes of both sides.
fn sizes(pair: &Pair) -> String {
    let size = |metadata: Option<EntryMetadata>| metadata.map_or(0, |metadata| metadata.size);
    let (before, after) = (size(pair.before), size(pair.after));
    let number = |size: u64| usize::try_from(size).unwrap_or(usize::MAX);
    if before == after {
        plural(number(before), "byte")
    } else {
        format!("{}, now {}", plural(number(before), "byte"), grouped(number(after)))
    }
}

/// Which side was changed later, where both are there and that matters.
pub(crate) fn newer(pair: &Pair) -> Option<&'static str> {
    newer_side(pair).map(|side| match side {
        NewerSide::Before => "before is newer",
        NewerSide::After => "after is newer",
    })
}

/// The side that was changed later.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum NewerSide {
    Before,
    After,
}

/// Which side was changed later, where both are there and that matters.
pub(crate) fn newer_side(pair: &Pair) -> Option<NewerSide> {
    if !matches!(pair.status, Status::Changed | Status::Moved | Status::Muted) {
        return None;
    }
    match pair.before?.modified?.cmp(&pair.after?.modified?) {
        std::cmp::Ordering::Less => Some(NewerSide::After),
        std::cmp::Ordering::Greater => Some(NewerSide::Before),
        std::cmp::Ordering::Equal => None,
    }
}

/// The side that was changed later in every file that differs; none where they do not agree.
pub(crate) fn newer_in_all(pairs: &[Pair]) -> Option<NewerSide> {
    let mut sides = pairs.iter().filter_map(newer_side);
    let first = sides.next()?;
    sides.all(|side| side == first).then_some(first)
}

fn counted_entries(count: usize) -> String {
    if count == 1 { "1 entry".to_owned() } else { format!("{} entries", grouped(count)) }
}
