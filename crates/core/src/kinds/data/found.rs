//! Two documents compared: changes in their order, nodes that moved, comments.

use std::collections::HashMap;

use super::causes::{COMMENTS, LAYOUT};
use super::compare::Comparing;
use super::document::{DataFormat, Document};
use super::path::path_of;
use crate::internal::align::{Bounds, align_items};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::kinds::values::BothRules;
use crate::internal::model::data::{DataComparison, NodeChange, NodePlace};
use crate::internal::model::{Form, Weight};
use crate::internal::rules::{Account, Counted, Effect};
use crate::internal::text::lines::hash_line;

/// A text of so many bytes is known again where it stands elsewhere under another name.
const KNOWN_TEXT: usize = 16;

/// Compares two documents that were read with one hasher. The sides exchanged give the mirrored result.
pub(super) fn compare_documents(
    before: &Document<'_>,
    after: &Document<'_>,
    (options, rules, counted_only): (&KindOptions, BothRules<'_>, bool),
) -> DataComparison {
    let is_mirrored = before.text() > after.text();
    let (one, other) = if is_mirrored { (after, before) } else { (before, after) };
    let mut comparing = Comparing {
        before: one,
        after: other,
        options,
        rules,
        is_mirrored,
        changes: Vec::new(),
        account: Account::counting(Counted::Values),
        paths: Default::default(),
        muted: None,
    };
    comparing.documents();
    let Comparing { changes, mut account, .. } = comparing;
    let mut changes = with_moves(changes, (one, other));
    changes.extend(comments((one, other), options, rules, &mut account));
    if changes.is_empty() && account.is_empty() && one.text() != other.text() {
        account.put(LAYOUT, Effect::Mute, 1);
    }
    let mut hidden = 0;
    if counted_only {
        let all = changes.len();
        changes.retain(|change| change.weight == Weight::Counted);
        hidden = all - changes.len();
    }
    let mirrored = |change: NodeChange| if is_mirrored { change.mirrored() } else { change };
    let mut changes: Vec<NodeChange> = changes.into_iter().map(mirrored).collect();
    if is_mirrored {
        gone_first(&mut changes);
    }
    (1..).zip(&mut changes).for_each(|(number, change)| change.number = number);
    DataComparison { changes, account, hidden }
}

/// Puts what is gone from a branch before what is new in it, as far as nothing else is told between them.
fn gone_first(changes: &mut [NodeChange]) {
    let branch = |change: &NodeChange| -> Option<String> {
        let path = &change.place()?.path;
        let is_alone = matches!(change.form, Form::Gone | Form::New);
        is_alone.then(|| path.rfind('/').map_or(String::new(), |at| path[..at].to_owned()))
    };
    for run in changes.chunk_by_mut(|one, other| branch(one).is_some() && branch(one) == branch(other)) {
        run.sort_by_key(|change| change.form == Form::New);
    }
}

/// Joins a node that is gone with the one that is new and means the same, where there is one of each in the documents.
fn with_moves(mut changes: Vec<NodeChange>, (before, after): (&Document<'_>, &Document<'_>)) -> Vec<NodeChange> {
    let mut places: HashMap<u64, (Vec<usize>, Vec<usize>)> = HashMap::new();
    for (at, change) in changes.iter().enumerate().filter(|(_, change)| change.weight == Weight::Counted) {
        let node = |place: &Option<NodePlace>| place.as_ref().and_then(|place| place.node);
        match change.form {
            Form::Gone => {
                if let Some(node) = node(&change.before).filter(|node| is_known_again(before, *node)) {
                    places.entry(before.nodes[node].meaning).or_default().0.push(at);
                }
            }
            Form::New => {
                if let Some(node) = node(&change.after).filter(|node| is_known_again(after, *node)) {
                    places.entry(after.nodes[node].meaning).or_default().1.push(at);
                }
            }
            Form::Edited | Form::Moved => {}
        }
    }
    let mut is_joined = vec![false; changes.len()];
    for (gone, new) in places.into_values() {
        if let ([gone], [new]) = (gone.as_slice(), new.as_slice()) {
            is_joined[*gone] = true;
            let before = changes[*gone].before.take();
            changes[*new].before = before;
            changes[*new].form = Form::Moved;
        }
    }
    let mut joined = is_joined.into_iter();
    changes.retain(|_| !joined.next().unwrap_or_default());
    changes
}

/// Whether a node says enough to be known again elsewhere.
fn is_known_again(document: &Document<'_>, node: usize) -> bool {
    document.size(node) > 2 || document.value(node).len() >= KNOWN_TEXT
}

/// What differs in comments that are no nodes.
fn comments(
    (before, after): (&Document<'_>, &Document<'_>),
    options: &KindOptions,
    rules: BothRules<'_>,
    account: &mut Account,
) -> Vec<NodeChange> {
    let has_comments = |document: &Document<'_>| matches!(document.format(), DataFormat::Yaml | DataFormat::Toml);
    if !has_comments(before) && !has_comments(after) {
        return Vec::new();
    }
    let text = |document: &Document<'_>, at: usize| -> Vec<u8> {
        let text = &document.text()[document.comments[at].clone()];
        text.trim_ascii_start().trim_ascii().strip_prefix(b"#").unwrap_or(text).trim_ascii().to_vec()
    };
    let hashes = |document: &Document<'_>| -> Vec<u64> {
        (0..document.comments.len()).map(|at| hash_line(&text(document, at))).collect()
    };
    let mut found = Vec::new();
    for (b, a) in align_items(&hashes(before), &hashes(after), &Bounds::default()) {
        for at in 0..b.len().max(a.len()) {
            let place = |document: &Document<'_>, range: &std::ops::Range<usize>| {
                (at < range.len()).then(|| comment_place(document, range.start + at))
            };
            let (before, after) = (place(before, &b), place(after, &a));
            let form = match (&before, &after) {
                (Some(_), Some(_)) => Form::Edited,
                (Some(_), None) => Form::Gone,
                _ => Form::New,
            };
            found.push(NodeChange { number: 0, form, weight: Weight::Counted, cause: None, before, after });
        }
    }
    let rule = rules.0.of_comments().map(|rule| (rule.name().to_owned(), rule.effect()));
    match rule {
        Some((rule, effect)) => account.put(&rule, effect, found.len()),
        None if options.comments_count == Some(true) => return found,
        None => account.put(COMMENTS, Effect::Mute, found.len()),
    }
    Vec::new()
}

/// Where a comment is: above a node, or at its end.
fn comment_place(document: &Document<'_>, comment: usize) -> NodePlace {
    let span = document.comments[comment].clone();
    let line = document.line_at(span.start);
    let starts_on = |node: usize| document.line_at(document.span_with_key(node).start);
    let on_line = (1..document.len()).filter(|node| document.span_with_key(*node).start < span.start);
    let beside = on_line.rev().find(|node| starts_on(*node) == line);
    let below = || (1..document.len()).find(|node| document.span_with_key(*node).start >= span.end);
    let path = beside.or_else(below).map_or_else(String::new, |node| path_of(document, node));
    NodePlace { node: None, path, lines: (line, line), span, leaves: 1 }
}
